"""Metrics of a recorded run and the checks of its times."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

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


def held(minutes, setpoint, reading=None, noise=0.0, seed=1):
    """(set-points, readings) a second apart: the reading is at the set-point, or where it is told to be, with white noise."""
    n = int(minutes * 60)
    at = np.full(n, float(setpoint))
    return at, (at if reading is None else reading(np.arange(n))) + np.random.default_rng(seed).normal(0, noise, n)


def run_of(*parts):
    setpoints, readings = (np.concatenate(c) for c in zip(*parts, strict=True))
    n = np.full(len(setpoints), np.nan)
    return Series(np.arange(float(len(setpoints))), setpoints, readings, n, n)


def climb(start, end, tau=120.0):
    return lambda t: end + (start - end) * np.exp(-t / tau)


def test_a_hold_of_hours_is_judged_and_not_the_programmes_end():
    found = measure(run_of(held(20, 200, climb(20, 200.6)), held(180, 200), held(10, 20, climb(200, 150))))
    assert found.setpoint_c == 200 and "set-point changed 1 times" in found.judged_against.reason
    assert abs(found.mean_error.value) < 0.1 and found.overshoot.value == pytest.approx(0.5, abs=0.2)
    last = run_of(held(20, 200), held(60, 100, climb(200, 99.8)))
    assert measure(last).setpoint_c == 100 and measure(last, 200.0).setpoint_c == 200


def test_a_disturbance_after_settling_is_no_overshoot_and_no_late_settling():
    """Twenty minutes' climb, an hour's hold, then a door: down 15 °C, and 6 °C over on the way back."""
    door = lambda t: 100 - 15 * np.exp(-t / 60.0) * np.cos(t / 70.0)  # noqa: E731
    calm = run_of(held(20, 100, climb(20, 100.5)), held(60, 100))
    found = measure(run_of(held(20, 100, climb(20, 100.5)), held(60, 100), held(15, 100, door), held(20, 100)))
    alone = measure(calm)
    assert found.overshoot.value == pytest.approx(alone.overshoot.value) and found.overshoot.value < 1
    assert found.settling_time.value == alone.settling_time.value >= found.rise_time.value
    assert found.disturbance.value == pytest.approx(-15, abs=0.5) and alone.disturbance is None
    assert abs(found.mean_error.value) < 0.1


def test_a_cool_down_is_judged_as_a_heat_up_is():
    up, down = (measure(run_of(held(60, 100, climb(a, b)))) for a, b in ((20, 100.6), (180, 99.4)))
    assert down.overshoot.name == "undershoot" and down.rise_time.name == "fall time"
    for name in ("overshoot", "rise_time", "settling_time"):
        assert getattr(down, name).value == pytest.approx(getattr(up, name).value, rel=1e-6)
    assert down.mean_error.value == pytest.approx(-up.mean_error.value, rel=1e-6)


@pytest.mark.parametrize("seed", range(12))
def test_noise_has_no_ripple_period_and_a_small_cycle_has(seed):
    noise = measure(run_of(held(30, 100, noise=0.4, seed=seed)))
    assert noise.ripple_period is None and noise.ripple.value > 1
    wave = measure(run_of(held(30, 100, lambda t: 100 + 1.5 * np.sin(2 * np.pi * t / 200.0), noise=0.2, seed=seed)))
    assert wave.ripple_period.value == pytest.approx(200, rel=0.05)


@settings(max_examples=30)
@given(st.floats(5.2, 9.8), st.floats(0.1, 0.9), st.floats(0, 6.28))
def test_the_mean_of_a_cycling_loop_is_that_of_whole_cycles(cycles, rise, phase):
    """A lopsided cycle of ± 4 °C, whatever part of one is left at the end: its mean is known."""
    n = 3600
    turn = (np.arange(n) / n * cycles + phase / 6.28) % 1.0
    saw = np.where(turn < rise, turn / rise, (1 - turn) / (1 - rise)) * 8 - 4
    found = measure(run_of((np.full(n, 100.0), 100 + saw)))
    assert found.mean_error.value == pytest.approx(0.0, abs=0.15)
    assert found.ripple.value == pytest.approx(8, abs=0.3)


@settings(max_examples=60)
@given(st.integers(0, 10_000), st.floats(-150, 150), st.floats(10, 900), st.floats(0, 1.5), st.booleans())
def test_settling_is_never_shorter_than_rise(seed, step, tau, noise, cycling):
    t = np.arange(2400.0)
    rng = np.random.default_rng(seed)
    y = 300 - step * np.exp(-t / tau) * np.cos(t / rng.uniform(30, 900)) + rng.normal(0, noise, 2400)
    y += cycling * 3 * np.sin(t / 20)
    n = np.full(2400, np.nan)
    found = measure(Series(t, np.full(2400, 300.0), y, n, n))
    if found.settling_time and found.rise_time:
        assert found.settling_time.value >= found.rise_time.value
    assert found.overshoot is None or found.overshoot.value >= 0


def test_a_gap_does_not_count_for_the_mean():
    t = np.concatenate((np.arange(0, 100, 1.0), np.arange(10_000, 10_200, 1.0)))
    y = np.where(t < 5000, 59.5, 60.5)
    found = measure(Series(t, np.full(300, 60.0), y, np.full(300, 50.0), np.zeros(300)))
    assert found.mean_error.value == pytest.approx((200 - 100) / 300 * 0.5, abs=0.01)  # with the gap it would be near 0


@pytest.mark.parametrize("seed", range(60))
def test_what_rows_that_are_missing_may_have_hidden_is_within_what_is_told(seed):
    """A swinging approach with and without a piece of it, wherever that is: the whole is the judge."""
    rng, t = np.random.default_rng(seed), np.arange(0.0, 4000.0, 2.0)
    zeta, omega = rng.uniform(0.15, 0.9), rng.uniform(0.004, 0.03)
    damped = omega * np.sqrt(1.0 - zeta**2)
    swing = np.cos(damped * t) + zeta * omega / damped * np.sin(damped * t)
    y = 60.0 - 40.0 * np.exp(-zeta * omega * t) * swing + rng.normal(0.0, 0.02, len(t))
    switch = (np.sin(t * 2.0 * np.pi / 200.0) > 0.0).astype(float)
    whole = Series(t, np.full(len(t), 60.0), y, np.full(len(t), 50.0), switch)
    begins = rng.uniform(0.0, 3000.0)
    kept = (t < begins) | (t > begins + rng.uniform(20.0, 800.0))
    true, found = measure(whole), measure(Series(*(c[kept] for c in whole.columns)))
    assert "Rows are missing" in found.missing[0] and not true.missing[:1]
    for name, near in (("overshoot", 0.05), ("rise_time", 2.0), ("settling_time", 2.0), ("switchings", 0.0)):
        told, really = getattr(found, name), getattr(true, name).value
        low = told.value if told.low is None else told.low
        high = told.high if told.high is not None else told.value if told.low is None else np.inf
        assert low - near <= really <= high + near, (name, really, told)
    assert found.switch_rate.value == pytest.approx(true.switch_rate.value, abs=2.0)


def test_a_figure_that_nothing_was_hidden_from_is_told_as_it_is():
    """Rows missing on the way up, in which it cannot have been at the set-point, and long after it has settled."""
    step = second_order_step(length=3000.0)
    for a, b in ((5.0, 15.0), (2000.0, 2300.0)):
        kept = (step.time_s < a) | (step.time_s > b)
        found = measure(Series(*(c[kept] for c in step.columns)))
        assert found.overshoot.low is None and found.overshoot.value == pytest.approx(measure(step).overshoot.value)
        assert (found.settling_time.low is None) == (a < 1000.0)


def test_the_period_of_a_ripple_is_the_usual_one_though_rows_are_missing():
    whole = on_off()
    kept = (whole.time_s < 3000.0) | (whole.time_s > 3400.0)
    assert measure(Series(*(c[kept] for c in whole.columns))).ripple_period.value == pytest.approx(258, rel=0.03)


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
