"""What is said before a programme runs over a link: never less hot than it can be, in any passage of any loop; and each reason not to."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.control.programme.programme import Programme
from rellux.core.errors import Refused
from rellux.core.profiles.before_start import (
    beyond_limits,
    hottest_in,
    hottest_skipped,
    if_stopped,
    timer_off,
    too_quick,
)
from rellux.core.profiles.profile import Loop, Profile, StartFrom, refuse_beyond, rows_of, segment_at
from rellux.core.setup.memory import Memory, run_says, wears_out, write_says

from .test_programme import END, K, Segment, WaitFor, profiles, temperatures


@settings(max_examples=80, deadline=None)
@given(profiles, temperatures, st.integers(1, 3), st.booleans())
def test_no_segment_gets_hotter_than_it_is_said_to(p, start_c, times, skips):
    """Judged by running the machine itself, every wait passed, with and without somebody who skips what holds."""
    looped = Profile(tuple(s for s in p.segments if s.kind is not K.WAIT))
    if times > 1:
        looped = Profile(looped.segments, (Loop(1, len(looped.segments) - 1, times),))
    machine = Programme(rows_of(looped), start_c)
    said = (hottest_skipped if skips else hottest_in)(looped, start_c)
    for _ in range(400):
        if machine.is_over:
            break
        before = machine.segment
        machine.move(600.0, machine.setpoint_c)
        passed = {segment_at(looped, row) for row in range(before, machine.segment + 1)}
        assert machine.setpoint_c <= max(said[i] for i in passed) + 1e-9
        if skips and machine.phase.value == "holding":
            machine.skip()


def test_a_loop_comes_back_hot_and_a_wait_is_no_set_point():
    again = Profile((Segment(K.RAMP_RATE, 50.0, 1.0), Segment(K.RAMP_RATE, 500.0, 1.0), END), (Loop(1, 2, 2),))
    assert hottest_in(again, 20.0)[0] == 500.0
    waits = Profile((Segment(K.STEP, 60.0), Segment(K.WAIT, 900.0, wait=WaitFor.RISEN), END))
    assert hottest_in(waits, 20.0) == {0: 60.0, 1: 60.0, 2: 60.0}
    assert len(if_stopped(waits, 20.0, "")) == 2 and "for ever" in if_stopped(waits, 20.0, "")[0]


def test_each_reason_and_its_near_miss():
    warm = Profile((Segment(K.STEP, 60.0), END))
    assert not beyond_limits(warm, 20.0, 20.0, 60.0) and beyond_limits(warm, 20.0, 20.1, 60.0)
    assert beyond_limits(warm, 20.0, 15.0, 59.9)
    assert not wears_out(Memory(False), 10**6) and wears_out(Memory(True), 1)
    assert not wears_out(Memory(True, 100_000), 1000) and wears_out(Memory(True, 100_000), 1001)
    assert not wears_out(Memory(True, 100_000, 99_500), 500) and wears_out(Memory(True, 100_000, 99_500), 501)
    assert "does not say" in run_says(Memory(False), 5) and "100000" in run_says(Memory(True, 100_000), 5)
    assert not write_says(Memory(False, 10, 99)) and "how many it stands its map does not say" in write_says(
        Memory(True)
    )
    told = [write_says(Memory(True, 1000, n)).split(" worn")[0] for n in (799, 800, 999, 1000)]
    assert told[0].startswith("kept in memory") and told[1:] == ["its memory is nearly"] * 2 + ["its memory is"]


def test_a_link_timer_is_told_for_what_it_is():
    warm = Profile((Segment(K.STEP, 60.0), END))
    said = {timer: if_stopped(warm, 20.0, "Heat off.", timer)[0] for timer in (None, 0.0, 60.0)}
    assert said[None].endswith("Heat off.") and "{60 s} without a question: Heat off." in said[60.0]
    assert "for ever" in said[0.0] and "Heat off" not in said[0.0]
    assert "does not say" in if_stopped(warm, 20.0, "", 60.0)[0]
    assert not timer_off(None) and not timer_off(1.0) and timer_off(0.0)
    assert not too_quick(None, 1.0) and not too_quick(0.0, 1.0) and not too_quick(5.0, 1.0) and too_quick(4.9, 1.0)


def test_a_start_of_its_own_beyond_the_rig_is_refused():

    hot = Profile((Segment(K.STEP, 60.0), END), start=StartFrom.VALUE, start_c=900.0)
    with pytest.raises(Refused) as refused:
        refuse_beyond(hot, 600.0, (-200.0, 1300.0), "it")
    assert refused.value.problems[0].field == "start_c"
