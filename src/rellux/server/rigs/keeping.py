"""Removing, bringing back and doubling rigs. Nothing is removed without a copy: a rig file in the data folder's ``removed``."""

import io
import re
from collections.abc import Iterable
from pathlib import Path

from django.conf import settings
from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone

from rellux.core.errors import refuse
from rellux.core.spine import Station
from rellux.server.accounts.models import User
from rellux.server.api.errors import Conflict
from rellux.server.links.live import live_of
from rellux.server.links.models import Command, Link
from rellux.server.runs.models import Run
from rellux.server.zones.places import check_in_none, part_rest

from . import archive, unpack
from .change import changing, note
from .models import Rig

COPY = re.compile(r"[\w-]{1,60}\.\d{8}T\d{12}\.rellux\.zip")


def removed_folder() -> Path:
    return Path(settings.DATA) / "removed"


def remove(slug: str, revision: int) -> str:
    """Take the rig out of the workshop; the name of the copy kept.

    Raises ``Refused`` while its controller is known to be on, and while it is recorded or written to.
    """
    with transaction.atomic():
        with changing(slug, revision) as rig:
            check_left_alone(rig)
            check_in_none(rig)
            name = keep_copy(slug, archive.write(rig))
            part_rest(rig)
        Rig.objects.filter(slug=slug).delete()
    return name


def check_left_alone(rig: Rig) -> None:
    """Raise ``Refused`` while the rig's controller is known to be on, and while it is recorded or written to."""
    if rig.runs.filter(status=Run.Status.RECORDING, removed_at__isnull=True).exists():
        raise refuse("rig", "it is being recorded", "stop the recording first")
    now = live_of(rig)
    if now.status == "online" and now.mode not in (None, "off"):
        raise refuse("rig", "its controller is on", "switched off first")
    if Command.objects.filter(link__rig=rig, state__in=(Command.State.QUEUED, Command.State.SENDING)).exists():
        raise refuse("rig", "something is being written to its controller", "a rig that is left alone")


def keep_copy(slug: str, pieces: Iterable[bytes]) -> str:
    """Keep a rig file in the folder of the removed; its name there."""
    folder = removed_folder()
    folder.mkdir(exist_ok=True)
    name = f"{slug}.{timezone.now():%Y%m%dT%H%M%S%f}.rellux.zip"
    partly = folder / f"{name}.part"
    with partly.open("wb") as file:
        file.writelines(pieces)
    partly.rename(folder / name)
    return name


def put_aside(slug: str, revision: int, by: User, *, aside: bool) -> Rig:
    """Archive a rig, or take it out of the archive. An archived one is not polled, and nothing of it can be changed."""
    with transaction.atomic():
        rig = get_object_or_404(Rig.objects.select_for_update(), slug=slug)
        if rig.revision != revision:
            raise Conflict("another window changed it after this one was loaded", "look at the new state, then repeat")
        check_left_alone(rig)
        if aside:
            check_in_none(rig)
        rig.archived_at = timezone.now() if aside else None
        rig.revision += 1
        rig.save()
        Link.objects.filter(rig=rig).update(armed_until=None, armed_window="")
        note(rig, by, Station.BOOK, "Archived" if aside else "Taken out of the archive")
    return rig


def bring_back(name: str, slug_for: object, by: User) -> Rig:
    """The rig of a kept copy, in the workshop again. Raises ``Refused`` for a name that is no kept copy."""
    path = removed_folder() / name
    if not COPY.fullmatch(name) or not path.is_file():
        raise refuse("copy", "there is no such copy", "the name that was told on removing")
    with path.open("rb") as file, transaction.atomic():
        rig = unpack.read(file, slug_for)
        note(rig, by, Station.BOOK, "Brought back after it was removed")
    return rig


def double(rig: Rig, name: str, slug_for: object, by: User) -> Rig:
    """A second rig like this one, under another name, with its runs and its book."""
    copy = io.BytesIO(b"".join(archive.write(rig)))
    with transaction.atomic():
        twin = unpack.read(copy, slug_for, name=name)
        note(twin, by, Station.BOOK, f"Made as a copy of {rig.name}"[:200])
    return twin
