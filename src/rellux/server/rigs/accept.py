"""Accepting a proposal: one action, one line in the book. The targets are those the core's findings name."""

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from rellux.core.calibration.schools import OffsetSchool
from rellux.core.errors import refuse
from rellux.core.guarding.accept import with_value
from rellux.core.setup.dictionary import BY_NAME
from rellux.core.setup.parameters import check_period, check_values
from rellux.core.setup.schools import with_school
from rellux.core.spine import Station
from rellux.core.wiring.choice import check_choice
from rellux.core.wiring.wishes import WireWish
from rellux.server.accounts.models import User
from rellux.server.guarding.domain import proposed, told
from rellux.server.guarding.stored import plan_of, save_plan
from rellux.server.setup.domain import save_sheet, working_values
from rellux.server.setup.models import Sheet
from rellux.server.wiring.edit import add_wire, lay_out, swap_ends

from .change import difference, note
from .domain import choice_of, purpose_of
from .models import Rig


def accept(rig: Rig, by: User, target: str, value: Any) -> None:
    """Do what the proposal says. Raises ``Refused`` for an unknown target or a value that does not fit."""
    station, _, name = target.partition(".")
    if station == "setup" and name in BY_NAME:
        _set_parameter(rig, by, name, value)
    elif station == "guarding":
        _guard(rig, by, name, value)
    elif target in _ACTIONS:
        _ACTIONS[target](rig, by, value)
    else:
        raise refuse("target", f"{target!r} is not something that can be accepted", "a proposal of a finding")


def _set_parameter(rig: Rig, by: User, name: str, value: Any) -> None:
    before = working_values(rig)
    check_values({name: value})
    check_period({name: value}, rig.actuator)
    values = with_school(before, OffsetSchool(value)) if name == "offset_school" else {**before, name: value}
    save_sheet(rig, values, Sheet.Kind.AS_LEFT, "proposal accepted", by)
    was, now = difference(before, values)
    note(rig, by, Station.SETUP, f"{BY_NAME[name].title} set", before=was, after=now, why="proposal accepted")


def _guard(rig: Rig, by: User, name: str, value: Any) -> None:
    """One value of the plan in force. Raises ``Refused`` where there is no plan, or no such part of it."""
    before, offered = plan_of(rig), proposed(rig).plan
    if before is None:
        raise refuse("plan", "there is no plan yet", "save one under Guarding")
    after = with_value(before, offered, name, value)
    save_plan(rig, after, "proposal accepted")
    was, now = difference(told(before), told(after))
    note(rig, by, Station.GUARDING, "Plan changed", before=was, after=now, why="proposal accepted")


def _two_terminals(value: Any) -> tuple[str, str]:
    first, _, second = str(value).partition(">")
    return first, second


def _swap(rig: Rig, by: User, value: Any) -> None:
    swap_ends(rig, by, *_two_terminals(value))


def _connect(rig: Rig, by: User, value: Any) -> None:
    add_wire(rig, by, WireWish(*_two_terminals(value)))


def _generate(rig: Rig, by: User, value: Any) -> None:
    lay_out(rig, by)


def _add_limiter(rig: Rig, by: User, value: Any) -> None:
    rig.limiter = True
    rig.save()
    note(rig, by, Station.PARTS, "Independent limiter added", before={"limiter": False}, after={"limiter": True})
    lay_out(rig, by)


def _other_sensor(rig: Rig, by: User, value: Any) -> None:
    choice = choice_of(rig)
    if choice is None:
        raise refuse("parts", "choose the parts first", "a sensor")
    check_choice(purpose_of(rig), replace(choice, sensor=str(value)))
    before, rig.sensor = rig.sensor, str(value)
    rig.save()
    note(rig, by, Station.PARTS, "Sensor chosen as fitted", before={"sensor": before}, after={"sensor": rig.sensor})


_ACTIONS: dict[str, Callable[[Rig, User, Any], None]] = {
    "wiring.swap": _swap,
    "wiring.connect": _connect,
    "wiring.generate": _generate,
    "parts.limiter": _add_limiter,
    "parts.sensor": _other_sensor,
}
