"""Undo and redo: every edit of a list keeps the list before and after it."""

from collections.abc import Iterator
from contextlib import contextmanager

from django.utils import timezone

from rellux.core.errors import refuse
from rellux.core.messages import shortened
from rellux.core.spine import Station
from rellux.core.wiring.listing import from_plain, to_plain
from rellux.core.wiring.model import ConnectionList
from rellux.core.wiring.staleness import same_joints
from rellux.server.accounts.models import User
from rellux.server.rigs.change import note
from rellux.server.rigs.models import Rig

from .domain import connection_list, store
from .models import Step

KEPT = 60


@contextmanager
def step(rig: Rig, title: str) -> Iterator[None]:
    """Everything changed inside is one step back. Steps undone before are forgotten, as is usual."""
    if getattr(rig, "_in_step", False):  # an edit made of edits is one step
        yield
        return
    rig._in_step = True  # type: ignore[attr-defined]
    old_list = connection_list(rig)
    try:
        yield
    finally:
        rig._in_step = False  # type: ignore[attr-defined]
    before, after = to_plain(old_list), to_plain(_changed(rig, old_list))
    if after == before:
        return
    rig.steps.filter(undone=True).delete()
    Step.objects.create(rig=rig, title=shortened(title, 200), before=before, after=after)
    old = rig.steps.order_by("-pk").values_list("pk", flat=True)[KEPT:]
    rig.steps.filter(pk__in=list(old)).delete()


def _changed(rig: Rig, before: ConnectionList) -> ConnectionList:
    """The list as it is now; where other terminals are joined than before, the rig keeps when."""
    after = connection_list(rig)
    if not same_joints(before, after):
        rig.rewired_at = timezone.now()
    return after


def last_done(rig: Rig) -> Step | None:
    return rig.steps.filter(undone=False).order_by("-pk").first()


def first_undone(rig: Rig) -> Step | None:
    return rig.steps.filter(undone=True).order_by("pk").first()


def undo(rig: Rig, by: User) -> None:
    """Take the last edit back. Raises ``Refused`` where there is none."""
    found = last_done(rig)
    if found is None:
        raise refuse("undo", "there is nothing to take back", "an edit made before")
    before = connection_list(rig)
    store(rig, from_plain(found.before, kept=True))
    _changed(rig, before)
    found.undone = True
    found.save()
    note(rig, by, Station.WIRING, f"Taken back: {found.title}")


def redo(rig: Rig, by: User) -> None:
    """Do again what was taken back. Raises ``Refused`` where there is none."""
    found = first_undone(rig)
    if found is None:
        raise refuse("redo", "there is nothing to do again", "an edit taken back")
    before = connection_list(rig)
    store(rig, from_plain(found.after, kept=True))
    _changed(rig, before)
    found.undone = False
    found.save()
    note(rig, by, Station.WIRING, f"Done again: {found.title}")
