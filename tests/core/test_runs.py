"""Metrics of a recorded run and the checks of its times."""

import numpy as np
import pytest

from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.errors import Refused
from rellux.core.plant.simulation import Simulation
from rellux.core.process.models import FOPDT
from rellux.core.process.networks import from_fopdt
from rellux.core.runs.metrics import measure
from rellux.core.runs.series import Series, check_times, timing


def second_order_step(zeta=0.5, omega=0.02, target=10.0, length=1500.0):
    """Underdamped step from 20 to 30: overshoot e^(−πζ/√(1−ζ²)) of the step (any control textbook)."""
    t = np.arange(0, length, 1.0)
    damped = omega * np.sqrt(1 - zeta**2)
    y = target * (
        1 - np.exp(-zeta * omega * t) * (np.cos(damped * t) + zeta / np.sqrt(1 - zeta**2) * np.sin(damped * t))
    )
    n = np.full(len(t), np.nan)
    return Series(t, np.full(len(t), 30.0), 20 + y, n, n)


def test_overshoot_of_a_second_order_step_is_the_textbook_value():
    found = measure(second_order_step())
    assert found.overshoot.value == pytest.approx(10 * np.exp(-np.pi * 0.5 / np.sqrt(0.75)), rel=0.001)


def test_settling_and_steady_error():
    found = measure(second_order_step(), band_c=0.5)
    series = second_order_step()
    outside = series.time_s[np.abs(series.reading_c - 30) > 0.5][-1]
    assert found.settling_time.value == pytest.approx(outside + 1)
    assert abs(found.mean_error.value) < 0.02


def on_off(hysteresis=2.0):
    loop = ControllerSettings(60, Mode.ON_OFF, hysteresis)
    return Series(*Simulation(from_fopdt(FOPDT(1.05, 620, 52)), loop, 21.0).advance(7200, 2).columns)


def test_ripple_period_duty_and_switchings_of_an_on_off_cycle():
    found = measure(on_off())
    assert found.ripple.value == pytest.approx(10.3, abs=0.2)  # closed form: 105(1−e)+2e
    assert found.ripple_period.value == pytest.approx(258, rel=0.03)
    assert found.duty.value == pytest.approx(37.5, abs=2)
    assert found.switchings.value == int(np.sum(np.diff(on_off().switch) > 0) + 1)


def test_a_run_that_never_arrives_says_so():
    series = second_order_step(target=5.0)
    found = measure(series)
    assert found.overshoot is None and "never reached" in found.missing[0]


def test_a_gap_does_not_count_for_the_mean():
    t = np.concatenate((np.arange(0, 100, 1.0), np.arange(10_000, 10_100, 1.0)))
    y = np.concatenate((np.full(100, 59.0), np.full(100, 61.0)))
    found = measure(Series(t, np.full(200, 60.0), y, np.full(200, 50.0), np.zeros(200)))
    assert found.mean_error.value == pytest.approx(1.0, abs=0.05)  # only the part after the gap is the last half


def test_too_little_is_refused():
    n = np.full(5, np.nan)
    with pytest.raises(Refused, match="only 5"):
        measure(Series(np.arange(5.0), n, np.arange(5.0), n, n))


def test_time_running_backwards_is_refused_with_its_row():
    with pytest.raises(Refused, match="row 4"):
        check_times(np.array([0.0, 1, 2, 1.5, 3]))


def test_a_repeated_time_keeps_its_first_row():
    assert check_times(np.array([0.0, 1, 1, 2])).tolist() == [True, True, False, True]


def test_gaps_and_interval_are_measured():
    found = timing(np.array([0.0, 2, 4, 6, 60, 62]), duplicates=3)
    assert (found.interval_s, found.gaps, found.duplicates) == (2, 1, 3)
