"""The alarm machine against tables made by hand from the definitions, a second machine written the plain way, and every kind's own rule.

Definitions: ISA-18.2 / IEC 62682 (states, from memory); hysteresis on the side of the normal, delays and latches are common practice.
"""

from dataclasses import replace
from itertools import product
from math import isnan, nan

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.control.alarms.alarm import ACTING, Alarm, AlarmState, Seen
from rellux.core.control.alarms.replay import Recorded, replay
from rellux.core.control.alarms.settings import KINDS, Action, AlarmKind, AlarmSettings, Standby, check_alarm
from rellux.core.control.alarms.table import truth_table
from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.errors import Refused
from rellux.core.plant.simulation import Simulation
from rellux.core.process.models import FOPDT
from rellux.core.process.networks import from_fopdt

S = AlarmState
NOTHING = np.zeros(0)
HIGH = AlarmSettings(AlarmKind.HIGH, 100.0, 5.0)

# state, condition, what a person does -> (delay still running, delay over); from the definitions, by hand
LATCHING = {
    (S.NORMAL, False, ""): (S.NORMAL, S.NORMAL),
    (S.NORMAL, True, ""): (S.DELAYING, S.ACTIVE),
    (S.DELAYING, False, ""): (S.NORMAL, S.NORMAL),
    (S.DELAYING, True, ""): (S.DELAYING, S.ACTIVE),
    (S.ACTIVE, True, ""): (S.ACTIVE, S.ACTIVE),
    (S.ACTIVE, True, "acknowledges"): (S.ACKNOWLEDGED, S.ACKNOWLEDGED),
    (S.ACTIVE, True, "resets"): (S.ACTIVE, S.ACTIVE),
    (S.ACTIVE, False, ""): (S.ACTIVE, S.LATCHED),
    (S.ACKNOWLEDGED, True, "resets"): (S.ACKNOWLEDGED, S.ACKNOWLEDGED),
    (S.ACKNOWLEDGED, False, ""): (S.ACKNOWLEDGED, S.LATCHED_ACKNOWLEDGED),
    (S.LATCHED, False, ""): (S.LATCHED, S.LATCHED),
    (S.LATCHED, False, "acknowledges"): (S.LATCHED_ACKNOWLEDGED, S.LATCHED_ACKNOWLEDGED),
    (S.LATCHED, False, "resets"): (S.NORMAL, S.NORMAL),
    (S.LATCHED, True, "resets"): (S.ACTIVE, S.ACTIVE),
    (S.LATCHED_ACKNOWLEDGED, False, ""): (S.LATCHED_ACKNOWLEDGED, S.LATCHED_ACKNOWLEDGED),
    (S.LATCHED_ACKNOWLEDGED, False, "resets"): (S.NORMAL, S.NORMAL),
    (S.LATCHED_ACKNOWLEDGED, True, ""): (S.ACTIVE, S.ACTIVE),
}
CLEARING = {
    (S.HELD, True, ""): (S.HELD, S.HELD),
    (S.HELD, False, ""): (S.NORMAL, S.NORMAL),
    (S.NORMAL, True, ""): (S.ACTIVE, S.ACTIVE),
    (S.ACTIVE, False, ""): (S.RETURNED, S.RETURNED),
    (S.ACTIVE, False, "acknowledges"): (S.NORMAL, S.NORMAL),
    (S.ACKNOWLEDGED, False, ""): (S.NORMAL, S.NORMAL),
    (S.RETURNED, False, ""): (S.RETURNED, S.RETURNED),
    (S.RETURNED, False, "acknowledges"): (S.NORMAL, S.NORMAL),
    (S.RETURNED, True, ""): (S.ACTIVE, S.ACTIVE),
}


@pytest.mark.parametrize(
    ("alarm", "table"),
    [
        (replace(HIGH, latching=True, on_delay_s=3.0, off_delay_s=2.0), LATCHING),
        (replace(HIGH, standby=Standby.FIRST), CLEARING),
    ],
)
def test_the_table_made_from_the_code_is_the_one_made_by_hand(alarm, table):
    rows = truth_table(alarm)
    for (state, condition, person), (young, old) in table.items():
        found = {
            row.delay_over: row.becomes
            for row in rows
            if (row.state, row.condition, row.person) == (state, condition, person)
        }
        assert found in ({None: young}, {False: young, True: old}), (state, condition, person)
    assert all(row.acts == (row.becomes in ACTING) and row.energised != row.acts for row in rows)  # drops out to alarm
    covered = {(row.state, row.condition, row.person) for row in rows}
    states = {row.state for row in rows}
    assert covered == set(product(states, (False, True), ("", "acknowledges", "resets")))
    assert {row.becomes for row in rows} <= states


class Plain:
    """The same rules written the plain way, for a high alarm: what a person would do with a watch and a sheet of paper."""

    def __init__(self, a):
        self.a, self.missing, self.since = a, 0.0, None
        self.state, self.true = (S.HELD, True) if a.standby is not Standby.NONE else (S.NORMAL, False)

    def look(self, step, y, moved, person):
        a, broken = self.a, False
        if moved and a.standby is Standby.EVERY and self.state in (S.NORMAL, S.DELAYING):
            self.state, self.true = S.HELD, True
        if isnan(y):
            self.missing += step
            broken, valid = self.missing > a.gap_s, 0.0
            self.true = self.true or broken
        else:
            self.missing, valid = 0.0, step
            self.true = y >= a.value or (self.true and y >= a.value - a.hysteresis)
        acting = self.state in (S.ACTIVE, S.ACKNOWLEDGED)
        if self.true == acting:
            self.since = None
        else:
            self.since = 0.0 if self.since is None else self.since + valid
        before, self.state = self.state, self.after(broken, person)
        if (self.state in (S.ACTIVE, S.ACKNOWLEDGED)) != (before in (S.ACTIVE, S.ACKNOWLEDGED)) or self.state is S.HELD:
            self.since = None
        return self.state

    def after(self, broken, person):
        a, on = self.a, self.since is not None and self.since >= self.a.on_delay_s
        match self.state:
            case S.ACTIVE | S.ACKNOWLEDGED if self.true or self.since < a.off_delay_s:
                return S.ACKNOWLEDGED if person == "acknowledges" else self.state
            case S.ACTIVE if person != "acknowledges":
                return S.LATCHED if a.latching else S.RETURNED
            case S.ACTIVE | S.ACKNOWLEDGED:
                return S.LATCHED_ACKNOWLEDGED if a.latching else S.NORMAL
            case S.LATCHED | S.LATCHED_ACKNOWLEDGED if self.true:
                return S.ACTIVE
            case S.LATCHED | S.LATCHED_ACKNOWLEDGED if person == "resets":
                return S.NORMAL
            case S.LATCHED if person == "acknowledges":
                return S.LATCHED_ACKNOWLEDGED
            case S.LATCHED | S.LATCHED_ACKNOWLEDGED:
                return self.state
            case _ if broken:
                return S.ACTIVE
            case S.HELD:
                return S.HELD if self.true else S.NORMAL
            case _ if self.true and on:
                return S.ACTIVE
            case S.RETURNED if person != "acknowledges":
                return S.RETURNED
            case _:
                return S.DELAYING if self.true else S.NORMAL


alarms = st.builds(
    AlarmSettings,
    st.just(AlarmKind.HIGH),
    st.just(100.0),
    st.sampled_from([0.0, 2.0, 5.0]),
    on_delay_s=st.sampled_from([0.0, 2.0, 5.0]),
    off_delay_s=st.sampled_from([0.0, 1.0, 4.0]),
    latching=st.booleans(),
    standby=st.sampled_from(Standby),
    gap_s=st.sampled_from([0.0, 3.0]),
)
looks = st.lists(
    st.tuples(
        st.sampled_from([0.5, 1.0, 2.0]),
        st.sampled_from([90.0, 95.0, 97.0, 98.0, 99.9, 100.0, 103.0, nan]),
        st.sampled_from([False] * 5 + [True]),
        st.sampled_from(["", "", "", "acknowledges", "resets"]),
    ),
    max_size=40,
)


@settings(max_examples=300, deadline=None)
@given(alarms, looks)
def test_the_machine_does_what_a_person_with_a_watch_would(alarm, seen):
    machine, plain = Alarm(alarm), Plain(alarm)
    for step, y, moved, person in seen:
        was = machine.state
        found = machine._look(Seen(step, y, setpoint_moved=moved), person == "acknowledges", person == "resets")
        assert found == plain.look(step, y, moved, person)
        latched = {S.LATCHED, S.LATCHED_ACKNOWLEDGED}
        assert not (was in latched and found not in latched | {S.ACTIVE}) or person == "resets"  # never by itself
        if isnan(y) and plain.missing > alarm.gap_s:
            assert found not in (S.NORMAL, S.HELD, S.DELAYING, S.RETURNED)  # a gap is never normal


def test_a_reset_is_refused_above_limit_less_hysteresis_and_a_lost_supply_alarms():
    alarm = Alarm(replace(HIGH, latching=True))
    for y, state in ((99.9, S.NORMAL), (100.0, S.ACTIVE), (95.0, S.ACTIVE)):
        assert alarm.look(Seen(1.0, y)) == state
    with pytest.raises(Refused, match="its condition still holds"):
        alarm.reset()
    assert alarm.look(Seen(1.0, 94.9)) == S.LATCHED and alarm.acts
    assert alarm.acknowledge() == S.LATCHED_ACKNOWLEDGED and not alarm.energised
    alarm.lose_power()
    assert not alarm.energised and not Alarm(replace(HIGH, de_energise=False)).energised
    alarm.return_power()
    assert alarm.state == S.LATCHED and alarm.reset() == S.NORMAL and alarm.energised
    forgetful = Alarm(replace(HIGH, latching=True, keeps_latch=False))
    forgetful.look(Seen(1.0, 120.0))
    forgetful.lose_power()
    forgetful.return_power()
    assert forgetful.state == S.NORMAL
    forgetful.in_service = False
    assert forgetful.look(Seen(1.0, 200.0)) == S.OUT_OF_SERVICE and not forgetful.acts


def stepped(alarm, step_s, **columns):
    machine, rows = Alarm(alarm), [dict(zip(columns, row, strict=True)) for row in zip(*columns.values(), strict=True)]
    return [machine.look(Seen(step_s, **row)) in ACTING for row in rows]


def at(seconds, *pairs):
    """A column of 1 s rows from (until, value) pairs."""
    return np.array([next(v for until, v in pairs if s < until) for s in range(seconds)], dtype=float)


RAMP = np.arange(120) / 6.0  # 10 °C/min
FULL, OFF, FLAT = np.full(120, 100.0), np.zeros(120), np.full(120, 50.0)
CASES = [  # kind, settings, columns, when it first acts (None: never)
    (AlarmKind.LOW, {"value": 20.0}, {"reading_c": at(120, (60, 20.1), (120, 20.0))}, 60),
    (AlarmKind.ABOVE_SETPOINT, {"value": 3.0}, {"reading_c": at(120, (60, 52.9), (120, 53.0)), "setpoint_c": FLAT}, 60),
    (AlarmKind.BELOW_SETPOINT, {"value": 3.0}, {"reading_c": at(120, (60, 47.1), (120, 47.0)), "setpoint_c": FLAT}, 60),
    (AlarmKind.OUTSIDE_BAND, {"value": 3.0}, {"reading_c": at(120, (60, 53.0), (120, 53.1)), "setpoint_c": FLAT}, 60),
    (AlarmKind.INSIDE_BAND, {"value": 3.0}, {"reading_c": at(120, (60, 53.0), (120, 52.9)), "setpoint_c": FLAT}, 60),
    (AlarmKind.RISING, {"value": 9.9, "window_s": 30.0}, {"reading_c": RAMP}, 30),
    (AlarmKind.RISING, {"value": 10.1, "window_s": 30.0}, {"reading_c": RAMP}, None),
    (AlarmKind.FALLING, {"value": 9.9, "window_s": 30.0}, {"reading_c": -RAMP}, 30),
    (AlarmKind.LOOP_BREAK, {"value": 60.0, "move_c": 1.0}, {"reading_c": FLAT, "output": FULL}, 60),
    (AlarmKind.LOOP_BREAK, {"value": 60.0, "move_c": 1.0}, {"reading_c": FLAT + RAMP / 10, "output": FULL}, None),
    (AlarmKind.LOOP_BREAK, {"value": 60.0, "move_c": 1.0}, {"reading_c": FLAT, "output": FULL - 1}, None),
    (AlarmKind.MINIMUM_HEAT, {"value": 30.0, "move_c": 6.0}, {"reading_c": RAMP, "output": FULL}, 30),
    (AlarmKind.HEATER_BREAK, {"value": 9.0}, {"output": FULL, "current_a": at(120, (60, 9.0), (120, 8.9))}, 60),
    (AlarmKind.HEATER_BREAK, {"value": 9.0}, {"output": OFF, "current_a": OFF}, None),
    (AlarmKind.CURRENT_WHILE_OFF, {"value": 0.5, "window_s": 20.0}, {"output": OFF, "current_a": OFF + 10}, 20),
    (AlarmKind.CURRENT_WHILE_OFF, {"value": 0.5, "window_s": 20.0}, {"output": FULL, "current_a": OFF + 10}, None),
    (AlarmKind.RISING_WHILE_OFF, {"value": 4.95, "window_s": 20.0}, {"output": OFF, "reading_c": RAMP}, 49),
    (AlarmKind.RISING_WHILE_OFF, {"value": 5.0, "window_s": 20.0}, {"output": FULL, "reading_c": RAMP}, None),
    (AlarmKind.SENSOR_BREAK, {"gap_s": 5.0}, {"reading_c": at(120, (60, 50.0), (120, nan))}, 65),
    (AlarmKind.SENSOR_BREAK, {"gap_s": 5.0}, {"reading_c": at(120, (60, 50.0), (65, nan), (120, 50.0))}, None),
    (AlarmKind.DISAGREE, {"value": 4.0}, {"reading_c": FLAT, "second_c": at(120, (60, 46.1), (120, 46.0))}, 60),
    (AlarmKind.PROGRAMME_END, {}, {"reading_c": FLAT, "flag": at(120, (60, 0), (120, 1))}, 60),
    (AlarmKind.HOLDBACK, {}, {"reading_c": FLAT, "flag": OFF}, None),
]


@pytest.mark.parametrize(("kind", "values", "columns", "first"), CASES)
def test_every_kind_acts_where_it_must_and_not_a_step_earlier(kind, values, columns, first):
    acts = stepped(AlarmSettings(kind, **{"hysteresis": 0.0, **values}), 1.0, **columns)
    assert (acts.index(True) if True in acts else None) == first


def test_every_kind_has_words_and_a_case():
    assert set(KINDS) == set(AlarmKind) and {kind for kind, *_ in CASES} | {AlarmKind.HIGH} == set(AlarmKind)


def test_current_that_is_not_told_now_changes_nothing():
    """Between pulses nothing is known of a broken element: what was found stands, and its delay stands still."""
    output = np.tile(np.repeat([100.0, 0.0], 10), 6)
    current = np.where(output > 0, 5.0, 0.0)
    alarm = AlarmSettings(AlarmKind.HEATER_BREAK, 9.0, 0.0, on_delay_s=15.0, window_s=1.0)
    assert (
        stepped(alarm, 1.0, output=output, current_a=current).index(True) == 27
    )  # 8 s of the first pulse, 7 s of the next


@pytest.mark.slow
@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10**6), st.sampled_from(list(AlarmKind)), alarms)
def test_over_a_record_it_is_the_same_machine(seed, kind, shape):
    """Judge: the machine stepped row by row by hand, a person acknowledging and resetting at once. Rows are left out and missing."""
    rng = np.random.default_rng(seed)
    n = 3000
    keep = np.sort(rng.choice(n, n - 60, replace=False))
    time = np.delete(np.arange(n, dtype=float), slice(1500, 1500 + rng.integers(0, 40)))
    time = time[np.isin(time, keep)]
    y = 50 + np.cumsum(rng.normal(0, 0.3, len(time)))
    y[rng.integers(0, len(y), 30)] = nan
    y[700 : 700 + rng.integers(0, 12)] = nan
    setpoint = np.where(time > 2000, 52.0, 50.0)
    output = np.repeat(rng.choice([0.0, 40.0, 100.0], 60), 50)[: len(time)]
    alarm = replace(
        shape, kind=kind, value={AlarmKind.RISING: 4.0, AlarmKind.FALLING: 4.0, AlarmKind.LOW: 48.0}.get(kind, 3.0),
        hysteresis=min(shape.hysteresis, 2.0), window_s=40.0, move_c=2.0,
    )  # fmt: skip
    flag = np.repeat(rng.choice([0.0, 1.0], 60), 50)[: len(time)]
    flags = {"programme_end": flag, "holdback": 1.0 - flag}
    (found,) = replay([alarm], Recorded(time, y, setpoint, output, y + 2.5 * np.sin(time / 50), output / 10, **flags))
    flag = flag if kind is AlarmKind.PROGRAMME_END else 1.0 - flag
    assert replay([replace(alarm, kind=AlarmKind.HOLDBACK)], Recorded(time, y, *[NOTHING] * 4)) == (None,)
    machine, begins, was = Alarm(alarm), [], None
    for i, t in enumerate(time):
        step = t - time[i - 1] if i else 0.0
        if step > 3.5:
            state = machine._look(Seen(step - 1.0, flag=bool(flag[i - 1])), False, False)
            if state is S.ACTIVE and was is not S.ACTIVE:
                begins.append(time[i - 1] + alarm.gap_s)
                was = S.ACTIVE
            step = 1.0
        moved = bool(i and setpoint[i] != setpoint[i - 1])
        seen = Seen(
            step, y[i], setpoint[i], output[i], y[i] + 2.5 * np.sin(t / 50), output[i] / 10, bool(flag[i]), moved
        )
        state = machine._look(seen, was is S.RETURNED, was is S.LATCHED)
        if state is S.ACTIVE and was is not S.ACTIVE:
            begins.append(t)
        was = state
    assert [o.begin_s for o in found.occurrences] == pytest.approx(begins) and found.count == len(begins)


@pytest.mark.slow
def test_the_simulation_runs_the_same_machine_and_is_stopped_by_it():
    sheet = ControllerSettings(60.0, Mode.ON_OFF, sample_s=0.5)
    high = AlarmSettings(AlarmKind.HIGH, 70.0, 1.0, latching=True, on_delay_s=2.0)
    warning = AlarmSettings(AlarmKind.ABOVE_SETPOINT, 2.0, 1.0)
    does = ((Action.CONTACTOR,), (Action.BEACON,))
    runaway = Simulation(from_fopdt(FOPDT(2.0, 300.0, 5.0)), sheet, 20.0, 0.5, alarms=(high, warning), does=does)
    first = runaway.advance(400.0)
    runaway.stick(True)
    second = runaway.advance(600.0)
    columns = [np.concatenate(pair) for pair in zip(first.columns, second.columns, strict=True)]
    time, setpoint, reading, output, _ = columns
    recorded = Recorded(time, reading, setpoint, output, NOTHING, NOTHING)
    tripped, warned = replay((high, warning), recorded)
    assert tripped.count == 1 and warned.count > 1
    trip = np.searchsorted(time, tripped.occurrences[0].begin_s)
    assert (
        reading[trip] >= 70.0 and reading[trip:].max() < 75.0 and reading[-1] < 65.0
    )  # and falls, though its switch is stuck
    assert runaway.alarm_states[0] in (S.LATCHED, S.ACTIVE)
    unguarded = Simulation(from_fopdt(FOPDT(2.0, 300.0, 5.0)), sheet, 20.0, 0.5)
    unguarded.stick(True)
    assert unguarded.advance(2000.0).reading_c.max() > 200.0


@pytest.mark.parametrize(
    ("field", "changed"),
    [
        ("value", {"value": 3000.0}),
        ("hysteresis", {"kind": AlarmKind.ABOVE_SETPOINT, "value": 2.0, "hysteresis": 2.0}),
        ("on_delay_s", {"on_delay_s": -1.0}),
        ("off_delay_s", {"off_delay_s": 4000.0}),
        ("gap_s", {"gap_s": 601.0}),
        ("window_s", {"kind": AlarmKind.RISING, "value": 5.0}),
        ("move_c", {"kind": AlarmKind.LOOP_BREAK, "value": 60.0}),
    ],
)
def test_what_cannot_be_is_refused_by_its_field(field, changed):
    with pytest.raises(Refused) as refused:
        check_alarm(replace(HIGH, **changed))
    assert [p.field for p in refused.value.problems] == [field]
    check_alarm(HIGH)
