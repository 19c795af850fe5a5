"""Changing a rig: one at a time, never over somebody else's change, and always with a line in the book."""

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from typing import Any

from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone

from rellux.core.errors import refuse
from rellux.core.messages import shortened
from rellux.core.spine import Station
from rellux.server.accounts.models import User
from rellux.server.api.errors import Conflict

from .models import Entry, Rig


def revision_in(query: Mapping[str, str]) -> int:
    """The revision a removal was asked for. Raises ``Refused`` where none was."""
    text = query.get("revision", "")
    return stated(int(text) if text.isdecimal() and len(text) < 10 else None)


@contextmanager
def changing(slug: str, revision: int) -> Iterator[Rig]:
    """The rig, locked for one change made against ``revision``. Raises ``Conflict`` when it has moved on since."""
    with transaction.atomic():
        rig = get_object_or_404(Rig.objects.select_for_update(), slug=slug)
        if rig.revision != revision:
            newest = rig.entries.first()
            what = f"{newest.station}: {newest.title}" if newest else "something"
            raise Conflict(
                f"another window changed it after this one was loaded ({what})", "look at the new state, then repeat"
            )
        yield rig
        rig.revision += 1
        rig.save()


def stated(revision: int | None) -> int:
    """The revision a change was made on. Raises ``Refused`` where it was left out."""
    if revision is None:
        raise refuse("revision", "say which state of the rig this change was made on", "the rig's revision")
    return revision


def note(
    rig: Rig,
    by: User | None,
    station: Station,
    title: str,
    *,
    before: dict[str, Any] | None = None,
    after: dict[str, Any] | None = None,
    why: str = "",
    who: str = "somebody no longer here",
) -> Entry:
    """A line in the rig's book; ``who`` where it was no user."""
    return Entry.objects.create(
        rig=rig,
        at=timezone.now(),
        who=by.title if by else who,
        by=by,
        station=station.value,
        title=shortened(title, 200),
        why=shortened(why, 400),
        before=before or {},
        after=after or {},
    )


def difference(before: dict[str, Any], after: dict[str, Any]) -> tuple[dict[str, Any], dict[str, Any]]:
    """Only the keys that differ, as (before, after)."""
    keys = [k for k in {**before, **after} if before.get(k) != after.get(k)]
    return {k: before.get(k) for k in keys}, {k: after.get(k) for k in keys}
