"""A programme run over a link, under every fault that links have: the set-point written is never above the profile's, never above the
rig's, never repeated blindly; and after an absence it does what the profile says."""

from dataclasses import replace
from math import nan

import numpy as np
import pytest
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule

from rellux.core.control.programme.executor import (
    GOING,
    MOST_FAILURES,
    SETTLED_S,
    Executor,
    Limits,
    Standing,
    planned_writes,
)
from rellux.core.control.programme.marks import ENDED_S, MarkKind, flags
from rellux.core.profiles.profile import EndAction, Holdback, Profile, Segment, SegmentKind, WaitFor, rows_of

K = SegmentKind
LIMITS = Limits(1.0, 1.0, 600.0, 5.0, 50.0, 3600.0, beyond_aborts=True)
UP = Profile(
    (
        Segment(K.RAMP_RATE, 300.0, 6.0, holdback=Holdback(20.0)),
        Segment(K.WAIT, wait=WaitFor.PERSON),
        Segment(K.SOAK, time_s=600.0),
        Segment(K.RAMP_TIME, 100.0, time_s=900.0),
        Segment(K.END, end=EndAction.OFF),
    )
)


def executor(profile=UP, limits=LIMITS, start=20.0, **state):
    return Executor(rows_of(profile), limits, start, **state)


def drive(e, seconds, y=None, held=None, step=1.0, takes=True):
    """Look at it for so long; the controller takes what is written, or does not."""
    sent = []
    for _ in range(int(seconds / step)):
        holds = e.written_c if held is None else held
        value = e.look(step, e.programme.setpoint_c if y is None else y, holds)
        if value is not None:
            sent.append(value)
            e.sent(value, takes)
    return sent


class Faults(RuleBasedStateMachine):
    """A controller that loses writes, takes them and does not say so, is changed at its keys; a recorder that dies and comes back."""

    @initialize(step=st.sampled_from([0.1, 0.5, 1.0]), highest=st.sampled_from([250.0, 600.0]), aborts=st.booleans())
    def begin(self, step, highest, aborts):
        self.limits = replace(LIMITS, step_c=step, highest_c=highest, beyond_aborts=aborts)
        self.e, self.holds, self.y = executor(limits=self.limits), 20.0, 20.0
        self.sent, self.profile_c = [], 20.0

    def _look(self, seconds, fate):
        value = self.e.look(seconds, self.y, self.holds)
        now = self.e.programme.setpoint_c
        if value is None:
            return
        assert value <= now + 1e-9 and value <= self.limits.highest_c and value <= UP.highest_c
        assert abs(value / self.limits.step_c - round(value / self.limits.step_c)) < 1e-6
        assert self.e.standing not in (Standing.PAUSED, Standing.ABORTED)
        self.sent.append(value)
        if fate != "lost":
            self.holds = value
        self.e.sent(value, fate == "taken")

    @rule(seconds=st.floats(0.1, 600), fate=st.sampled_from(["taken", "lost", "taken but not said"]))
    def look(self, seconds, fate):
        self._look(seconds, fate)

    @rule(y=st.one_of(st.just(nan), st.floats(-20, 800)))
    def reads(self, y):
        self.y = y

    @rule(c=st.floats(0, 900))
    def keys(self, c):
        self.holds = c

    @rule(absent=st.floats(0, 9000))
    def dies(self, absent):
        self.e = executor(limits=self.limits, state=self.e.told)
        self.e.came_back(absent, self.y)

    @rule(what=st.sampled_from(["pause", "go_on", "skip", "abort"]))
    def person(self, what):
        getattr(self.e, what)(*(["somebody"] if what in ("pause", "abort") else []))

    @invariant()
    def over_is_over(self):
        if hasattr(self, "e") and self.e.standing not in GOING:
            before = self.e.standing
            self.e.go_on()
            self.e.came_back(1e6, 20.0)
            assert self.e.standing is before


TestFaults = Faults.TestCase
TestFaults.settings = settings(max_examples=80, stateful_step_count=40, deadline=None)


def test_it_writes_on_a_step_of_the_display_only_and_ends_with_the_heat_off():
    e = executor(Profile((Segment(K.RAMP_RATE, 30.0, 6.0), Segment(K.END, end=EndAction.OFF))))
    sent = drive(e, 130)
    assert sent == [21.0, 22.0, 23.0, 24.0, 25.0, 26.0, 27.0, 28.0, 29.0, 30.0]
    assert e.standing is Standing.ENDED and e.switches_off and e.writes == 10
    holds = executor(Profile((Segment(K.STEP, 30.0), Segment(K.END, end=EndAction.HOLD))))
    assert drive(holds, 5) == [30.0] and holds.standing is Standing.ENDED and not holds.switches_off


def test_a_register_that_wears_out_is_written_once_an_interval():
    slow = replace(LIMITS, least_s=60.0)
    e = executor(Profile((Segment(K.RAMP_RATE, 300.0, 6.0), Segment(K.END, end=EndAction.OFF))), slow)
    assert len(drive(e, 600)) <= 11
    assert planned_writes(rows_of(UP), 20.0, LIMITS) == 280 + 200
    assert planned_writes(rows_of(UP), 20.0, slow) == 47 + 16


def test_a_write_that_was_not_confirmed_is_looked_at_before_it_is_repeated():
    e = executor()
    first = e.look(20.0, 22.0, 20.0)
    assert first == 22.0
    e.sent(first, confirmed=False)
    assert e.look(1.0, 22.0, 20.0) is None  # not at once
    assert e.look(1.0, 22.0, 22.0) is None or e.written_c == 22.0  # it had arrived: nothing is repeated
    lost = executor()
    assert len(drive(lost, 200, takes=False)) == MOST_FAILURES and lost.standing is Standing.PAUSED


def test_somebody_at_the_keys_stops_it_and_a_passing_value_does_not():
    e = executor()
    drive(e, 30)
    e.look(2.0, 23.0, 90.0)
    e.look(1.0, 23.0, e.written_c)
    drive(e, 2)
    assert e.standing is Standing.RUNNING
    drive(e, 7, held=90.0)
    assert e.standing is Standing.PAUSED and "somebody" in e.said
    assert drive(e, 100, held=90.0) == []
    e.go_on()
    sent = drive(e, 2, held=90.0)
    assert sent == [e.wanted_c] and e.standing is Standing.RUNNING
    drive(e, 30)
    assert e.standing is Standing.RUNNING


@pytest.mark.parametrize(
    ("absent", "fallen", "beyond_aborts", "standing"),
    [
        (4.0, 200.0, True, Standing.RUNNING),
        (100.0, 4.9, True, Standing.RUNNING),
        (100.0, 5.1, True, Standing.BACK),
        (100.0, 49.9, True, Standing.BACK),
        (100.0, 50.1, True, Standing.ABORTED),
        (100.0, 50.1, False, Standing.PAUSED),
        (3599.0, 4.0, True, Standing.RUNNING),
        (3601.0, 4.0, True, Standing.ABORTED),
        (100.0, nan, True, Standing.ABORTED),
        (100.0, -80.0, True, Standing.RUNNING),
    ],
)
def test_after_an_absence_by_the_profiles_rule(absent, fallen, beyond_aborts, standing):
    e = executor(limits=replace(LIMITS, beyond_aborts=beyond_aborts))
    drive(e, 1000)
    e.came_back(absent, e.programme.setpoint_c - fallen)
    assert e.standing is standing


def test_it_comes_back_at_the_segments_rate_and_then_goes_on():
    e = executor()
    drive(e, 1000)
    stood = e.programme.setpoint_c
    e.came_back(600.0, stood - 30.0)
    sent = drive(e, 290, y=stood - 10.0)
    assert sent[0] <= stood - 29.0 and sent == sorted(sent) and max(sent) < stood
    assert e.programme.setpoint_c == stood and e.standing is Standing.BACK
    drive(e, 20)
    assert e.standing is Standing.RUNNING


def test_without_a_reading_its_clock_stands():
    e = executor()
    drive(e, 100)
    before = e.programme.setpoint_c
    drive(e, 500, y=nan)
    assert e.programme.setpoint_c == before


def test_it_waits_for_somebody_and_goes_on_when_told():
    e = executor()
    drive(e, 3600)
    assert e.programme.segment == 1 and e.standing is Standing.RUNNING
    e.go_on()
    drive(e, 5)
    assert e.programme.segment == 2
    e.skip()
    drive(e, 5)
    assert e.programme.segment == 3


def test_a_load_that_cannot_follow_is_waited_for_and_said_to_keep_up_only_once_it_does():
    e = executor()
    drive(e, 600)
    assert not e.held_back
    far = e.programme.setpoint_c - 21.0
    drive(e, 1, y=far)
    assert e.held_back and executor(state=e.told).held_back
    for _ in range(30):  # at the edge of the band it waits and goes on with every look
        drive(e, 1, y=far)
        drive(e, 1)
        assert e.held_back
    drive(e, SETTLED_S - 2)
    assert e.held_back
    drive(e, 2)
    assert not e.held_back
    drive(e, 1, y=far)
    e.pause("somebody paused it")
    assert not e.held_back


def test_at_every_moment_of_a_run_its_marks_say_what_an_alarm_sees():
    """The judge goes through the marks for each moment by itself."""
    rng = np.random.default_rng(3)
    time = np.arange(0.0, 4000.0, 2.0)
    kinds = ["note", "gap", *MarkKind]
    for count in range(1, 20):
        marks = sorted((float(t), str(rng.choice(kinds))) for t in rng.uniform(0, 4000, count))
        ended, held = flags(time, marks)
        if not {k for _, k in marks} & set(MarkKind):
            assert len(ended) == len(held) == 0
            continue
        for i in range(0, len(time), 7):
            before = [(t, k) for t, k in marks if t < time[i]]
            just = [t for t, k in before if k == MarkKind.ENDED and time[i] <= t + ENDED_S]
            last = [k for _, k in before if k in ("held_back", "went_on", "programme_end")][-1:]
            assert (ended[i], held[i]) == (bool(just), last == ["held_back"])
