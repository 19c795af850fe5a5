"""Where a piece of equipment was, and when: in one rig at a time, in a place of its role, which holds one."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from ..errors import refuse
from .equipment import FITTED, ROLES, Equipment, EquipmentRole


@dataclass(frozen=True)
class Stay:
    """One stay: from when, until when (None: it is there). ``rig`` names the rig."""

    equipment: str
    role: EquipmentRole
    rig: str
    since: datetime
    until: datetime | None = None

    def covers(self, at: datetime) -> bool:
        return self.since <= at and (self.until is None or at < self.until)


def places(acts: bool, limiter: bool) -> tuple[EquipmentRole, ...]:
    """What a rig has a place for: a switch where it acts, a limiter where one was chosen."""
    none = {EquipmentRole.SWITCH: not acts, EquipmentRole.LIMITER: not limiter}
    return tuple(role for role in FITTED if not none.get(role))


def check_fitting(
    it: Equipment, has: Iterable[EquipmentRole], at: datetime, now: datetime, stays: Iterable[Stay]
) -> None:
    """Raise ``Refused`` where it cannot be fitted at that moment. ``has``: what the rig has a place for; ``stays``: those of it and of
    the place, past ones too."""
    if it.role not in FITTED:
        raise refuse(
            "role",
            f"a {ROLES[it.role].lower()} is compared with, not fitted",
            "a sensor, controller, switch or limiter",
        )
    if it.role not in has:
        reason = f"this rig has no place for a {ROLES[it.role].lower()}"
        raise refuse("role", reason, "a limiter chosen under Parts first, or another rig")
    check_moment(at, now, stays)


def check_moment(at: datetime, now: datetime, stays: Iterable[Stay]) -> None:
    """Raise ``Refused`` for a change of place that has not been, or comes before what is known already."""
    if at > now:
        raise refuse("at", "that moment has not come yet", "up to now")
    for stay in stays:
        known = stay.until or stay.since
        if at < known:
            when = f"{known:%-d %B %Y, %H:%M}"
            what = "taken out of" if stay.until else "fitted to"
            raise refuse("at", f"{stay.equipment} was {what} {stay.rig} on {when}", f"from {when} on")


def inherited(since: datetime | None, *found: datetime | None) -> bool:
    """Whether an offset is from before the sensor that is there ``since``. ``found``: when it was entered, and when last compared; nothing
    is said where neither is known."""
    known = [at for at in found if at is not None]
    return since is not None and bool(known) and max(known) < since


def compared_in_place(sensor: str, compared: str | None, at: datetime | None, since: datetime | None) -> bool:
    """Whether a comparison, of a sensor of the type ``compared`` made ``at``, is of the sensor that is there now: of the same type, and not
    from before the piece that is fitted ``since`` (None: none is known)."""
    return at is not None and compared == sensor and (since is None or at >= since)
