"""Settings changed at a controller's keys: each told once, when it stands still; what was written from here never."""

from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from rellux.core.control.keys import SETTLED_S, Changed, Keys

STEPS = {"setpoint_c": 0.1, "mode": 1.0}


def looks(keys, *values, every_s=1.0, start_s=0.0, name="setpoint_c"):
    return [c for i, v in enumerate(values) for c in keys.look({name: v}, start_s + i * every_s)]


def test_a_change_is_told_once_when_it_stands_still():
    keys = Keys(STEPS)
    assert looks(keys, 60.0, 60.0) == []
    assert looks(keys, *[65.0] * 10, start_s=2.0) == []  # ten seconds are not over yet
    assert looks(keys, *[65.0] * 10, start_s=12.0) == [Changed("setpoint_c", 60.0, 65.0)]


def test_digit_by_digit_is_one_change_and_a_programme_is_told_at_its_rest():
    keys = Keys(STEPS)
    assert looks(keys, 60.0, 70.0, 70.0, 71.0, 71.0, 71.5) == []
    assert looks(keys, *[71.5] * 12, start_s=6.0) == [Changed("setpoint_c", 60.0, 71.5)]
    ramp = [71.5 + 0.5 * i for i in range(200)]
    assert looks(keys, *ramp, *[ramp[-1]] * 12, start_s=30.0) == [Changed("setpoint_c", 71.5, ramp[-1])]


def test_there_and_back_what_was_written_from_here_and_silence_are_no_changes():
    keys = Keys(STEPS)
    assert looks(keys, 60.0, 65.0, 65.0, 60.0, *[60.0] * 20) == []
    keys.written({"setpoint_c": 40.0, "other": 1.0})
    assert looks(keys, *[40.0] * 20, start_s=50.0) == []
    assert looks(keys, *[None] * 20, start_s=80.0) == [] and looks(keys, 40.04, start_s=200.0) == []
    assert looks(keys, "off", "off", name="mode") == []
    assert looks(keys, *["pid"] * 12, name="mode", start_s=5.0) == [Changed("mode", "off", "pid")]


def test_what_was_known_before_is_compared_with_what_is_there_now():
    keys = Keys(STEPS)
    keys.written({"setpoint_c": 60.0})
    assert looks(keys, *[62.0] * 12) == [Changed("setpoint_c", 60.0, 62.0)]


@given(st.lists(st.tuples(st.sampled_from([60.0, 61.0, 65.0]), st.integers(1, 30)), min_size=1, max_size=12))
def test_changes_told_one_after_another_lead_from_the_first_value_to_the_last_that_stood(stretches):
    """An independent judge: only stretches that stood long enough count, each that differs from the one that counted before."""
    keys, now, told = Keys(STEPS), 0.0, []
    for value, length in stretches:
        for _ in range(length):
            told += keys.look({"setpoint_c": value}, now)
            now += 1.0
    merged = []
    for value, length in stretches:
        if merged and merged[-1][0] == value:
            merged[-1][1] += length
        else:
            merged.append([value, length])
    stood = [merged[0][0]]
    stood += [v for v, n in merged[1:] if n > SETTLED_S]
    expected = [(a, b) for a, b in pairwise(stood) if a != b]
    assert [(c.before, c.after) for c in told] == expected
