"""The programme machine against one written the plain way, segment by segment in exact fractions; and what must hold of it whatever
happens: it never asks for more than the profile, never loses time, never goes on while the load is out of its band."""

from dataclasses import replace
from fractions import Fraction
from math import isnan, nan

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, rule

from rellux.core.control.programme import kernel
from rellux.core.control.programme.programme import Phase, Programme, first_state
from rellux.core.errors import Refused
from rellux.core.profiles.profile import (
    EndAction,
    Holdback,
    Loop,
    Profile,
    Segment,
    SegmentKind,
    Side,
    StartFrom,
    WaitFor,
    check_profile,
    commanded,
    rest_of,
    rows_of,
    segment_at,
)

K = SegmentKind
END = Segment(K.END, end=EndAction.OFF)


def profile(*segments, loops=(), end=END, **more):
    made = Profile((*segments, end), tuple(loops), **more)
    check_profile(made)
    return made


temperatures = st.integers(-50, 1200).map(float)
bands = st.one_of(st.none(), st.builds(Holdback, st.sampled_from([1.0, 5.0, 20.0]), st.sampled_from(Side)))
moving = st.one_of(
    st.builds(
        lambda c, r, h: Segment(K.RAMP_RATE, c, r, holdback=h), temperatures, st.sampled_from([0.5, 2.0, 60.0]), bands
    ),
    st.builds(
        lambda c, t, h: Segment(K.RAMP_TIME, c, time_s=t, holdback=h),
        temperatures,
        st.sampled_from([30.0, 777.0]),
        bands,
    ),
    st.builds(lambda c: Segment(K.STEP, c), temperatures),
    st.builds(lambda t, h: Segment(K.SOAK, time_s=t, holdback=h), st.sampled_from([1.0, 600.0]), bands),
    st.builds(lambda c, w: Segment(K.WAIT, c, wait=w), temperatures, st.sampled_from([WaitFor.RISEN, WaitFor.FALLEN])),
    st.just(Segment(K.WAIT, wait=WaitFor.PERSON)),
)
profiles = st.lists(moving, min_size=1, max_size=6).map(lambda s: Profile((Segment(K.STEP, 20.0), *s, END)))


class Plain:
    """The same by the definitions, in fractions: a second opinion that shares nothing with the machine."""

    def __init__(self, p, start_c):
        self.segments = [p.segments[i] for i in p.order()]
        self.at, self.elapsed, self.sp, self.begun = 0, Fraction(0), Fraction(start_c), Fraction(start_c)
        self.waited, self.released = Fraction(0), False

    def next(self):
        self.at, self.elapsed, self.begun = self.at + 1, Fraction(0), self.sp

    def move(self, seconds, y):
        left = Fraction(seconds)
        while True:
            s = self.segments[self.at]
            if s.kind is K.END:
                return
            if s.kind is K.STEP:
                self.sp = Fraction(s.target_c)
                self.next()
            elif s.kind is K.WAIT:
                risen, fallen = (
                    s.wait is WaitFor.RISEN and y >= (s.target_c or 0),
                    s.wait is WaitFor.FALLEN and y <= (s.target_c or 0),
                )
                if not (risen or fallen or (s.wait is WaitFor.PERSON and self.released)):
                    self.waited += left
                    return
                self.released = False
                self.next()
            else:
                if s.holdback:
                    low, high = s.holdback.side is not Side.ABOVE, s.holdback.side is not Side.BELOW
                    behind = nan if isnan(y) else float(self.sp) - y
                    if isnan(behind) or (low and behind > s.holdback.band_c) or (high and -behind > s.holdback.band_c):
                        self.waited += left
                        return
                if s.kind is K.RAMP_RATE:
                    whole = abs(Fraction(s.target_c) - self.begun) / Fraction(s.rate_c_per_min) * 60
                else:
                    whole = Fraction(s.time_s)
                part = min(left, whole - self.elapsed)
                self.elapsed, left = self.elapsed + part, left - part
                if s.kind is not K.SOAK and whole:
                    self.sp = self.begun + (Fraction(s.target_c) - self.begun) * self.elapsed / whole
                if self.elapsed < whole:
                    return
                self.next()
                if not left and self.segments[self.at].kind not in (K.STEP, K.END, K.WAIT):
                    continue


looks = st.lists(
    st.tuples(st.sampled_from([0.0, 0.25, 1.0, 59.0, 600.0]), st.one_of(st.just(nan), temperatures), st.booleans()),
    min_size=1,
    max_size=40,
)


@pytest.mark.slow
@settings(max_examples=300, deadline=None)
@given(profiles, temperatures, looks)
def test_the_machine_is_the_definition_worked_in_fractions(p, start_c, seen):
    machine, plain = Programme(rows_of(p), start_c), Plain(p, start_c)
    for seconds, y, release in seen:
        if release and machine.phase is Phase.WAITING:
            machine.release()
            plain.released = True
        machine.move(seconds, y)
        plain.move(seconds, y)
        if (
            seconds
            and plain.segments[plain.at].kind in (K.RAMP_RATE, K.RAMP_TIME, K.SOAK)
            and machine.segment != plain.at
        ):
            assert abs(float(plain.elapsed)) < 1e-6  # one of the two rounded the last nothing of a segment away
        else:
            assert machine.segment == plain.at
        assert machine.setpoint_c == pytest.approx(float(plain.sp), abs=1e-6)
        assert machine.held_s == pytest.approx(float(plain.waited), abs=1e-6)


@settings(max_examples=60, deadline=None)
@given(profiles, temperatures, looks)
def test_compiled_and_as_written_it_does_the_same(p, start_c, seen):
    rows = rows_of(p)
    quick, written = first_state(start_c), first_state(start_c)
    for seconds, y, _ in seen:
        kernel.move(rows, quick, seconds, y)
        kernel.move.plain(rows, written, seconds, y)
        assert np.array_equal(quick, written)


@settings(max_examples=100, deadline=None)
@given(profiles, temperatures, st.integers(300, 9000))
def test_without_waiting_it_ends_when_its_corners_say_in_whatever_steps(p, start_c, tick):
    free = Profile(tuple(replace(s, holdback=None) for s in p.segments if s.kind is not K.WAIT), p.loops)
    machine, corners = Programme(rows_of(free), start_c), commanded(free, start_c)
    at = 0.0
    while not machine.is_over:
        machine.move(tick, nan)
        at += tick
        here = [c.time_s for c in corners]
        if at < here[-1] - 1e-6:
            expected = np.interp(at, [0.0, *here], [start_c, *(c.celsius for c in corners)])
            if min(abs(at - t) for t in here) > 1e-6:
                assert machine.setpoint_c == pytest.approx(expected, abs=1e-6)
        assert at < here[-1] + 2 * tick
    assert at >= corners[-1].time_s - 1e-6


class Anything(RuleBasedStateMachine):
    """Readings, silences, jumps of time, skips and releases in any order."""

    def __init__(self):
        super().__init__()
        self.profile = Profile(
            (
                Segment(K.RAMP_RATE, 300.0, 5.0, holdback=Holdback(5.0)),
                Segment(K.SOAK, time_s=600.0, holdback=Holdback(3.0, Side.EITHER)),
                Segment(K.WAIT, wait=WaitFor.PERSON),
                Segment(K.RAMP_TIME, 500.0, time_s=1800.0),
                Segment(K.STEP, 420.0),
                Segment(K.SOAK, time_s=60.0),
                END,
            ),
            (Loop(1, 2, 3),),
        )
        self.machine = Programme(rows_of(self.profile), 20.0)
        self.last = (0, 0.0)

    @rule(seconds=st.floats(0, 1e5), y=st.one_of(st.just(nan), st.floats(-300, 2000)))
    def look(self, seconds, y):
        self.machine.move(seconds, y)

    @rule()
    def on(self):
        self.machine.release()

    @rule()
    def skip(self):
        self.machine.skip()

    @invariant()
    def never_beyond_the_profile(self):
        assert 20.0 <= self.machine.setpoint_c <= self.profile.highest_c

    @invariant()
    def never_backwards(self):
        now = (self.machine.segment, self.machine.held_s)
        assert now >= (self.last[0], 0.0) and now[1] >= self.last[1]
        self.last = now

    @invariant()
    def knows_where_it_is(self):
        assert 0 <= segment_at(self.profile, self.machine.segment) < len(self.profile.segments)


TestAnything = Anything.TestCase
TestAnything.settings = settings(max_examples=60, stateful_step_count=30, deadline=None)


@settings(max_examples=60, deadline=None)
@given(profiles, temperatures, st.floats(1.0, 20_000.0))
def test_what_is_left_ends_when_the_whole_would(p, start_c, at):
    free = Profile(tuple(replace(s, holdback=None) for s in p.segments if s.kind is not K.WAIT), (Loop(1, 1, 2),))
    machine = Programme(rows_of(free), start_c)
    machine.move(at, nan)
    left = rest_of(free, machine.segment, machine.elapsed_s, machine.setpoint_c)
    whole, rest = commanded(free, start_c)[-1].time_s, commanded(left, machine.setpoint_c)[-1].time_s
    assert rest == pytest.approx(max(whole - at, 0.0), abs=0.02)


def test_a_guaranteed_soak_counts_only_what_is_inside_its_band():
    p = profile(Segment(K.STEP, 100.0), Segment(K.SOAK, time_s=60.0, holdback=Holdback(2.0, Side.EITHER)))
    machine = Programme(rows_of(p), 20.0)
    for y in (90.0, 97.9, 102.1, nan):
        machine.move(1000.0, y)
        assert machine.phase is Phase.HOLDING and machine.elapsed_s == 0.0
    machine.move(59.0, 98.0)
    assert machine.phase is Phase.RUNNING and not machine.is_over
    machine.move(1.0, 102.0)
    assert machine.phase is Phase.OFF and machine.held_s == 4000.0


def test_what_is_left_of_a_step_belongs_to_the_next_segment():
    p = profile(
        Segment(K.RAMP_TIME, 100.0, time_s=7.0), Segment(K.SOAK, time_s=7.0), Segment(K.RAMP_TIME, 0.0, time_s=7.0)
    )
    machine = Programme(rows_of(p), 20.0)
    machine.move(17.5, 20.0)
    assert machine.segment == 2 and machine.setpoint_c == 50.0


@pytest.mark.parametrize(
    ("made", "field"),
    [
        (lambda: profile(Segment(K.RAMP_RATE, 100.0, 0.0)), "segments[0].rate_c_per_min"),
        (lambda: profile(Segment(K.RAMP_RATE, 100.0, -2.0)), "segments[0].rate_c_per_min"),
        (lambda: profile(Segment(K.RAMP_RATE, 100.0, 5e4)), "segments[0].rate_c_per_min"),
        (lambda: profile(Segment(K.RAMP_RATE, None, 5.0)), "segments[0].target_c"),
        (lambda: profile(Segment(K.RAMP_RATE, 3000.0, 5.0)), "segments[0].target_c"),
        (lambda: profile(Segment(K.RAMP_TIME, 100.0, time_s=0.0)), "segments[0].time_s"),
        (lambda: profile(Segment(K.SOAK, time_s=nan)), "segments[0].time_s"),
        (lambda: profile(Segment(K.STEP, 50.0), Segment(K.RAMP_RATE, 50.0, 1.0)), "segments[1].target_c"),
        (lambda: profile(Segment(K.STEP, 50.0), end=Segment(K.SOAK, time_s=5.0)), "segments[1].kind"),
        (lambda: profile(END, Segment(K.STEP, 50.0)), "segments[0].kind"),
        (lambda: profile(Segment(K.STEP, 50.0, holdback=Holdback(3.0))), "segments[0].holdback"),
        (lambda: profile(Segment(K.SOAK, time_s=5.0, holdback=Holdback(0.0))), "segments[0].holdback.band_c"),
        (lambda: profile(Segment(K.WAIT)), "segments[0].wait"),
        (lambda: profile(Segment(K.STEP, 50.0), loops=[Loop(1, 1, 1)]), "loops[0].times"),
        (lambda: profile(Segment(K.STEP, 50.0), loops=[Loop(1, 2, 5)]), "loops[0].last"),
        (lambda: profile(*[Segment(K.STEP, 50.0)] * 9, loops=[Loop(1, 5, 2), Loop(4, 8, 2)]), "loops[1].first"),
        (lambda: profile(*[Segment(K.STEP, 50.0)] * 50, loops=[Loop(1, 50, 100)]), "loops"),
        (lambda: profile(Segment(K.STEP, 50.0), start=StartFrom.VALUE), "start_c"),
        (lambda: profile(Segment(K.SOAK, time_s=5.0)), "segments"),
        (
            lambda: profile(Segment(K.STEP, 5.0), *[Segment(K.SOAK, time_s=86_400.0)] * 2, loops=[Loop(2, 3, 40)]),
            "segments",
        ),
    ],
)
def test_what_cannot_be_is_named_at_its_field(made, field):
    with pytest.raises(Refused) as refused:
        made()
    assert field in [p.field for p in refused.value.problems], refused.value.problems
