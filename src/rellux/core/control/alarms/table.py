"""The alarm machine as a truth table, made by asking the machine itself: what it becomes in every case."""

from dataclasses import dataclass, replace

import numpy as np

from . import kernel
from .alarm import ACTING, STATES, AlarmState, first_state
from .settings import AlarmKind, AlarmSettings, Standby

PERSONS = ("", "acknowledges", "resets")
_DELAY_S, _LIMIT = 10.0, 100.0


@dataclass(frozen=True)
class TableRow:
    """From ``state``, with the condition so and the delay that runs over or not (``None``: it does not matter), and what a person did:
    what it ``becomes``, whether it acts then, and whether its relay is pulled in."""

    state: AlarmState
    condition: bool
    delay_over: bool | None
    person: str
    becomes: AlarmState
    acts: bool
    energised: bool


def truth_table(alarm: AlarmSettings) -> tuple[TableRow, ...]:
    """Every state this alarm can be in, by condition, delay and person. Delays of 0 are over at once."""
    probe = replace(
        alarm,
        kind=AlarmKind.HIGH,
        value=_LIMIT,
        hysteresis=0.0,
        on_delay_s=_DELAY_S if alarm.on_delay_s else 0.0,
        off_delay_s=_DELAY_S if alarm.off_delay_s else 0.0,
    )
    rows = []
    for state in _states(alarm):
        for condition in (False, True):
            for person in PERSONS:
                young, old = (_becomes(probe, state, condition, over, person) for over in (False, True))
                if young == old:
                    rows.append(_row(alarm, state, condition, None, person, old))
                else:
                    rows.append(_row(alarm, state, condition, False, person, young))
                    rows.append(_row(alarm, state, condition, True, person, old))
    return tuple(rows)


def _states(alarm: AlarmSettings) -> list[AlarmState]:
    beyond = {AlarmState.LATCHED, AlarmState.LATCHED_ACKNOWLEDGED} if alarm.latching else {AlarmState.RETURNED}
    usual = {AlarmState.NORMAL, AlarmState.ACTIVE, AlarmState.ACKNOWLEDGED}
    held = {AlarmState.HELD} if alarm.standby is not Standby.NONE else set()
    delaying = {AlarmState.DELAYING} if alarm.on_delay_s else set()
    return [s for s in STATES if s in beyond | usual | held | delaying]


def _becomes(probe: AlarmSettings, state: AlarmState, condition: bool, over: bool, person: str) -> AlarmState:
    begun = first_state(probe)
    acting = state in (AlarmState.ACTIVE, AlarmState.ACKNOWLEDGED)
    begun[kernel.STATE] = STATES.index(state)
    if condition != acting and (over or state is AlarmState.DELAYING):
        begun[kernel.TIMER] = _DELAY_S if over else 0.0
    row, seen = np.array([begun]), np.zeros(kernel.SEEN_SIZE)
    seen[kernel.READING] = _LIMIT + (1.0 if condition else -1.0)
    seen[kernel.ACKNOWLEDGE], seen[kernel.RESET] = person == "acknowledges", person == "resets"
    kernel.look.plain(np.array([probe.row()]), row, seen)
    return STATES[int(row[0, kernel.STATE])]


def _row(
    alarm: AlarmSettings, state: AlarmState, condition: bool, over: bool | None, person: str, becomes: AlarmState
) -> TableRow:
    acts = becomes in ACTING
    return TableRow(state, condition, over, person, becomes, acts, acts != alarm.de_energise)
