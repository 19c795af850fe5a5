"""What has been wired against what is planned: wires still to do, wires done otherwise, wires that should come out."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from ..messages import quantity
from .model import Connection


class Done(StrEnum):
    """How far a planned wire is."""

    OPEN = "open"
    FITTED = "fitted"
    DIFFERS = "differs"


class Change(StrEnum):
    """What has to happen at the rig."""

    FIT = "fit"
    CHANGE = "change"
    REMOVE = "remove"


@dataclass(frozen=True)
class ToDo:
    """One thing to do at the rig before it is as planned."""

    number: int
    change: Change
    says: str


def done(planned: Connection, built: Connection | None) -> Done:
    """How a planned wire stands."""
    if built is None:
        return Done.OPEN
    return Done.FITTED if not _apart(planned, built) else Done.DIFFERS


def differences(planned: tuple[Connection, ...], built: Mapping[int, Connection]) -> tuple[ToDo, ...]:
    """Everything that sets the rig apart from its plan, in the order to do it: out first, then changed, then new."""
    numbers = {w.number for w in planned}
    out = [
        ToDo(n, Change.REMOVE, f"Take wire {n} out: {w.a} to {w.b} is no longer planned.")
        for n, w in sorted(built.items())
        if n not in numbers
    ]
    changed = [
        ToDo(w.number, Change.CHANGE, f"Change wire {w.number}: {'; '.join(_apart(w, built[w.number]))}.")
        for w in planned
        if w.number in built and _apart(w, built[w.number])
    ]
    new = [
        ToDo(w.number, Change.FIT, f"Fit wire {w.number}: {w.a} to {w.b}, {quantity(w.area_mm2, 'mm²')} {w.colour}.")
        for w in planned
        if w.number not in built
    ]
    return (*out, *changed, *new)


def _apart(planned: Connection, built: Connection) -> list[str]:
    found = []
    if {planned.a, planned.b} != {built.a, built.b}:
        found.append(f"it runs {built.a} to {built.b}, planned {planned.a} to {planned.b}")
    if planned.area_mm2 != built.area_mm2:
        found.append(f"it has {quantity(built.area_mm2, 'mm²')}, planned {quantity(planned.area_mm2, 'mm²')}")
    if planned.colour != built.colour:
        found.append(f"it is {built.colour}, planned {planned.colour}")
    return found
