"""Removing, bringing back and doubling rigs. Nothing is removed without a copy: a rig file in the data folder's ``removed``."""

import io
import re
from pathlib import Path

from django.conf import settings
from django.db import transaction
from django.utils import timezone

from rellux.core.errors import refuse
from rellux.core.spine import Station
from rellux.server.accounts.models import User
from rellux.server.links.live import live_of
from rellux.server.links.models import Command
from rellux.server.runs.models import Run

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
            if rig.runs.filter(status=Run.Status.RECORDING, removed_at__isnull=True).exists():
                raise refuse("rig", "it is being recorded", "stop the recording first")
            now = live_of(rig)
            if now.status == "online" and now.mode not in (None, "off"):
                raise refuse("rig", "its controller is on and may heat", "the heat switched off first")
            if Command.objects.filter(link__rig=rig, state__in=(Command.State.QUEUED, Command.State.SENDING)).exists():
                raise refuse("rig", "something is being written to its controller", "a rig that is left alone")
            folder = removed_folder()
            folder.mkdir(exist_ok=True)
            name = f"{slug}.{timezone.now():%Y%m%dT%H%M%S%f}.rellux.zip"
            partly = folder / f"{name}.part"
            with partly.open("wb") as file:
                file.writelines(archive.write(rig))
            partly.rename(folder / name)
        Rig.objects.filter(slug=slug).delete()
    return name


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
