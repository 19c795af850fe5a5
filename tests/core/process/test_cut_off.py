"""Switching off early, against a process simulated step by step with its rule written out."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.process.cut_off import early_off, held_course, over_by_rule
from rellux.core.process.models import FOPDT, SOPDT


def stepped(process, rule):
    """The highest it comes to: Euler's steps of an element and a chamber behind a delay line, full on until ``rule(reading, rate)``."""
    second = process.second_lag_s if isinstance(process, SOPDT) else 0.0
    h = min(process.dead_time_s, second or process.lag_s, process.lag_s / 20) / 200
    late = [0.0] * max(round(process.dead_time_s / h), 1)
    element = reading = top = 0.0
    on, k = True, 0
    while on or reading > top - 1e-3 * process.gain or k % 2:
        heat, late[k % len(late)] = late[k % len(late)], 100.0 * process.gain if on else 0.0
        element = element + (heat - element) * h / second if second else heat
        rate = (element - reading) / process.lag_s
        reading += rate * h
        top, k = max(top, reading), k + 1
        on = on and not rule(reading, rate)
    return top


processes = st.builds(
    lambda gain, lag, dead, second: SOPDT(gain, lag, second * lag, dead * lag) if second > 0.01 else FOPDT(gain, lag, dead * lag),
    st.floats(0.3, 4.0), st.floats(60.0, 3000.0), st.floats(0.02, 0.2), st.floats(0.0, 0.2),
)  # fmt: skip


@settings(max_examples=25, deadline=None)
@given(processes, st.floats(0.4, 0.85))
def test_switched_off_so_early_it_comes_to_the_set_point_and_no_further(process, share):
    rise = share * 100.0 * process.gain
    found = early_off(process, rise)
    slack = 0.01 * rise
    assert stepped(process, lambda y, _: y >= rise - found.lead_c) == pytest.approx(rise, abs=slack)
    assert stepped(process, lambda y, rate: y + found.lead_s * rate >= rise) == pytest.approx(rise, abs=slack)
    assert stepped(process, lambda y, _: y >= rise) - rise == pytest.approx(found.over_c, abs=slack)
    other = 0.6 * rise
    left = stepped(process, lambda y, rate: y + found.lead_s * rate >= other) - other
    assert over_by_rule(process, other, found.lead_s) == pytest.approx(left, abs=slack)


@settings(max_examples=25, deadline=None)
@given(processes, st.floats(0.3, 0.8))
def test_its_pulses_hold_it_there(process, share):
    rise = share * 100.0 * process.gain
    found = early_off(process, rise)
    pulse, until = process.lag_s / 100, found.peak_s + 2 * process.lag_s
    t, y = held_course(process, rise, found, pulse, until)
    after = t > found.peak_s
    lag = process.lag_s
    ripple, dip = (
        100 * process.gain * pulse / lag,
        rise * (process.second_lag_s if isinstance(process, SOPDT) else 0.0) / lag,
    )
    assert y.max() <= rise + ripple + 0.02 * rise
    assert y[after].min() >= rise - ripple - dip - 0.02 * rise


def test_what_is_out_of_reach_is_refused_and_what_is_too_near_is_said():
    cabinet = SOPDT(0.94, 620.0, 30.0, 35.0)
    with pytest.raises(Refused):
        early_off(cabinet, 94.0)
    assert not early_off(cabinet, 1.0).moves and early_off(cabinet, 20.0).moves
    by_hand = FOPDT(
        1.0, 600.0, 60.0
    )  # y = 100 (1 − e^(−t/600)) after 60 s; off at 50 − 5.26: e^(−60/600) of the way to 100 is left
    found = early_off(by_hand, 50.0)
    assert found.lead_c == pytest.approx(50 - (100 - 50 * np.exp(0.1))) and found.over_c == pytest.approx(
        50 * (1 - np.exp(-0.1))
    )
