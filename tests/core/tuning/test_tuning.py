"""Tuning rules against published worked examples, margins, identification and the comparison of candidates."""

from itertools import pairwise

import control
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq

from rellux.core.control.counted import between
from rellux.core.control.pid import PID, from_series, to_series
from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.errors import Refused
from rellux.core.plant.simulation import Simulation
from rellux.core.process.models import FOPDT, SOPDT
from rellux.core.process.networks import from_fopdt
from rellux.core.process.response import respond
from rellux.core.runs.series import Series
from rellux.core.tuning.choosing import Priority
from rellux.core.tuning.comparison import compare
from rellux.core.tuning.fit_verdict import FitVerdict
from rellux.core.tuning.identify import identify
from rellux.core.tuning.robustness import margins
from rellux.core.tuning.rules.capping import cap_gain
from rellux.core.tuning.rules.published import reaction_curve_pid, simc_pi, simc_pid
from rellux.core.tuning.situation import Situation, effective_dead_time
from rellux.core.tuning.stretch import Stretch, drive_of
from tests.examples import cases

CABINET = FOPDT(1.05, 620.0, 52.0)

# Skogestad, J. Process Control 13 (2003), example E1: e^(−s) / ((20 s + 1)(2 s + 1))
SKOGESTAD = SOPDT(1.0, 20.0, 2.0, 1.0)


def test_simc_pid_matches_skogestad_2003_in_both_forms():
    pid = simc_pid(SKOGESTAD, closed_loop_s=1.0)
    assert (pid.gain, pid.integral_time_s, pid.derivative_time_s) == pytest.approx((12.5, 10, 1.6))
    assert to_series(pid) == pytest.approx((10, 8, 2))


def test_ms_of_skogestads_pi_on_the_full_process():
    found = margins(PID(5.25, 16.0), SKOGESTAD, 21)
    assert found.ms == pytest.approx(1.72, abs=0.01)


def test_margins_match_python_control_without_dead_time():
    pid, process = PID(2.0, 100.0), FOPDT(1.05, 620.0, 0.0)
    loop = control.tf([2 * 100, 2], [100, 0]) * control.tf([1.05], [620, 1])
    _, phase, *_ = control.margin(loop)
    assert margins(pid, process, 620).phase_margin == pytest.approx(phase, abs=0.1)


def test_ziegler_nichols_matches_astrom_and_hagglund():
    """Åström & Hägglund, PID Controllers (2nd ed.), on 1/(s+1)³: a = 0.218, L = 0.806 give K = 5.50, T_i = 1.61, T_d = 0.403."""
    times = np.linspace(0, 10, 20_001)
    response = control.step_response(control.tf([1], [1, 3, 3, 1]), times).outputs
    slopes = np.gradient(response, times)
    steepest = int(np.argmax(slopes))
    dead = times[steepest] - response[steepest] / slopes[steepest]
    a = slopes[steepest] * dead
    assert (a, dead) == pytest.approx((0.218, 0.806), abs=0.001)
    pid = reaction_curve_pid(FOPDT(1.0, dead / a, dead))
    assert (pid.gain, pid.integral_time_s, pid.derivative_time_s) == pytest.approx((5.50, 1.61, 0.403), rel=0.005)


@given(st.floats(0.1, 50), st.floats(10, 5000), st.floats(0, 0.25))
def test_series_and_standard_form_are_inverse(gain, integral, ratio):
    pid = PID(gain, integral, integral * ratio)
    assert from_series(*to_series(pid)).derivative_time_s == pytest.approx(pid.derivative_time_s, rel=1e-6, abs=1e-6)


def test_no_series_form_beyond_a_quarter():
    with pytest.raises(Refused, match="no series form"):
        to_series(PID(1, 100, 26))


def test_gain_is_capped_by_one_digit_of_the_reading():
    """One digit may move the output by 5 %. The slower loop keeps SIMC's integral time, 4 τ/(K K_c) up to τ (Skogestad 2003)."""
    slow = FOPDT(1.0, 1000.0, 1.0)
    tight = simc_pi(slow, 1.0)
    capped = cap_gain(tight, slow, 0.5)
    assert capped.gain == 10 and tight.integral_time_s == 8 and capped.integral_time_s == 400
    assert cap_gain(PID(40, 100), slow, 0.1) == PID(40, 100)
    wrong = PID(10, tight.integral_time_s)  # the integral time left as it was swings
    assert margins(capped, slow, 1000).ms < 1.2 < 2 < margins(wrong, slow, 1000).ms


@pytest.mark.parametrize("ratio", [1e1, 1e3, 1e5])
def test_margins_of_lags_far_longer_than_the_dead_time(ratio):
    """Against the closed form: with the integral off, ω L + arctan(ω τ) = π gives the gain at which it swings."""
    process = FOPDT(1.0, ratio, 1.0)
    w = brentq(lambda x: x + np.arctan(x * ratio) - np.pi, 1e-9, np.pi)
    ultimate = float(np.hypot(1.0, w * ratio))
    half, double = (margins(PID(k * ultimate, float("inf")), process, ratio + 1) for k in (0.5, 2.0))
    assert half.gain_margin == pytest.approx(2.0, rel=0.01) and np.isfinite(half.ms)
    assert double.gain_margin == pytest.approx(0.5, rel=0.01) and double.ms == float("inf")


@pytest.mark.slow
@settings(max_examples=cases(2))
@given(st.floats(0.3, 5), st.floats(50, 3000), st.floats(0.02, 0.6))
def test_nothing_with_ms_beyond_two_is_proposed_while_another_is_below(gain, lag, ratio):
    process = FOPDT(gain, lag, lag * ratio)
    if process.full_power_rise_c < 60:
        return
    found = compare(situation(process=process))
    ms = {c.key: c.loop.margins.ms if c.loop else 1.0 for c in found.candidates}
    if min(v for k, v in ms.items() if k != "on_off") < 2:
        assert all(ms[choice.key] < 2 for choice in found.preferred.values())


def recorded(process, loop, length, every=2.0, noise=0.05, seed=1):
    record = Simulation(from_fopdt(process), loop, 21.0).advance(length, every)
    reading = record.reading_c + np.random.default_rng(seed).normal(0, noise, len(record.time_s))
    drive = drive_of(Series(*record.columns))
    return record, Stretch(record.time_s, reading, drive, 21.0, 0.0, record.setpoint_c)


@pytest.mark.slow
@pytest.mark.parametrize(
    "loop",
    [
        ControllerSettings(60, Mode.MANUAL, manual_output=100),
        ControllerSettings(60, Mode.ON_OFF, 2.0),
        ControllerSettings(60, Mode.PID, pid=PID(5, 400)),
    ],
)
def test_identification_recovers_the_process(loop):
    _, stretch = recorded(CABINET, loop, 4000)
    found = identify(stretch)
    assert found.process.gain == pytest.approx(1.05, rel=0.03)
    assert found.process.lag_s == pytest.approx(620, rel=0.04)
    assert found.process.dead_time_s == pytest.approx(52, abs=4)
    assert found.verdict is FitVerdict.SUPPORTED


@pytest.mark.slow
@settings(max_examples=cases(3))
@given(st.floats(0.3, 5), st.floats(200, 3000), st.floats(0.02, 0.2))
def test_identification_recovers_any_process_from_its_heat_up(gain, lag, ratio):
    process = FOPDT(gain, lag, lag * ratio)
    _, stretch = recorded(process, ControllerSettings(60, Mode.MANUAL, manual_output=100), 4 * lag, lag / 200)
    found = identify(stretch)
    # a room nobody measured may have moved it: over long heat-ups of few degrees that is what limits the gain
    assert (
        found.process.gain == pytest.approx(gain, rel=0.06)
        and found.gain.low <= gain * 1.01
        and gain <= found.gain.high * 1.01
    )
    assert found.process.lag_s == pytest.approx(lag, rel=0.08)
    assert found.process.dead_time_s == pytest.approx(lag * ratio, abs=0.02 * lag)


def test_irregular_time_stamps_do_not_matter():
    _, stretch = recorded(CABINET, ControllerSettings(60, Mode.MANUAL, manual_output=100), 3000, 1.0)
    keep = np.sort(np.random.default_rng(3).choice(len(stretch.time_s), 400, replace=False))
    thinned = Stretch(stretch.time_s[keep], stretch.reading_c[keep], stretch.output[keep], 21.0, 0.0)
    assert identify(thinned).process.lag_s == pytest.approx(620, rel=0.04)


@pytest.mark.slow
def test_intervals_hold_the_truth_and_shrink_with_less_noise():
    _, calm = recorded(CABINET, ControllerSettings(60, Mode.MANUAL, manual_output=100), 2400, noise=0.02)
    _, noisy = recorded(CABINET, ControllerSettings(60, Mode.MANUAL, manual_output=100), 2400, noise=0.5)
    small, large = identify(calm).lag, identify(noisy).lag
    assert large.low <= 620 <= large.high
    assert small.high - small.low < large.high - large.low


@pytest.mark.long
@pytest.mark.parametrize(
    "course", [lambda s: s, lambda s: np.sin(np.pi * s), lambda s: np.sin(2 * np.pi * s)], ids=["away", "bump", "wave"]
)
def test_surroundings_that_drift_are_told_or_allowed_for(course):
    """A room that goes 2 or 4 °C away while nobody measures it (before, all of these were supported, with gains up to a quarter off
    and intervals of a hundredth): what is called supported holds the gain, or nearly."""
    rng, missed = np.random.default_rng(8), []
    for amount in (2.0, -4.0) * cases(1):
        gain, lag = rng.uniform(0.3, 1.5), rng.uniform(200, 900)
        dead = rng.uniform(10, 80)
        t = np.arange(0.0, lag * rng.uniform(2.5, 5), 4.0)
        output = np.where(t < t[-1] / 2, 1.0, rng.choice([0.4, 1.0])) * rng.uniform(40, 100)
        room, share = np.zeros(len(t)), 1.0 - np.exp(-4.0 / lag)
        for k in range(1, len(t)):
            room[k] = room[k - 1] + share * (amount * course(t[k] / t[-1]) - room[k - 1])
        y = 20 + room + respond(FOPDT(gain, lag, dead), t, t, output) + rng.normal(0, 0.05, len(t))
        found = identify(Stretch(t, y, output, 20.0))
        if found.verdict is FitVerdict.SUPPORTED:
            slack = (found.gain.high - found.gain.low) / 2 + 0.02 * gain
            missed += [] if found.gain.low - slack <= gain <= found.gain.high + slack else [gain]
            assert found.gain.value == pytest.approx(gain, rel=0.2)
    assert not missed


@pytest.mark.slow
def test_a_second_lag_is_found_where_it_shows_and_only_there():
    """Two lags of 600 and 200 s and 20 s of dead time: named apart with their intervals, shared out by the half rule; without it none."""
    t = np.linspace(0, 2500, 400)
    output = np.where(t < 100, 0.0, 60.0)
    rise = respond(SOPDT(2.0, 600.0, 200.0, 20.0), t, t, output)
    found = identify(Stretch(t, 20 + rise + np.random.default_rng(2).normal(0, 0.1, 400), output, 20.0))
    assert found.verdict is FitVerdict.SUPPORTED
    second, delay = found.extra
    assert second.low <= 200 <= second.high and delay.low <= 220 <= delay.high
    assert delay.high - delay.low < second.high - second.low
    assert found.lag.low <= 700 <= found.lag.high and found.dead_time.low <= 120 <= found.dead_time.high
    alone = respond(FOPDT(2.0, 600.0, 20.0), t, t, output) + np.random.default_rng(2).normal(0, 0.1, 400)
    assert not identify(Stretch(t, 20 + alone, output, 20.0)).extra


@pytest.mark.slow
def test_pulses_between_thinned_rows_are_counted():
    """12,000 rows of one-second pulses every ten: every edge drives the model though only every third row is fitted."""
    t = np.arange(12_000.0)
    output = 100.0 * (t % 10 < 3)
    rise = respond(FOPDT(1.5, 900.0, 30.0), t, t, output)
    found = identify(Stretch(t, 20 + rise + np.random.default_rng(1).normal(0, 0.1, len(t)), output, 20.0))
    assert found.process.gain == pytest.approx(1.5, rel=0.01) and found.points < 1201


@pytest.mark.slow
def test_late_rows_widen_what_is_known():
    """The same pulses, and with rows that came late round every edge: the on-time between them is nobody's knowledge."""
    t = np.arange(0.0, 3000.0, 2.0)
    output = 100.0 * (t % 60 < 24)
    y = 20 + respond(FOPDT(1.5, 600.0, 30.0), t, t, output) + np.random.default_rng(1).normal(0, 0.1, len(t))
    late = (t % 60 > 10) & (t % 60 < 18) | (t % 60 > 34) & (t % 60 < 54)
    whole, thin = (identify(Stretch(t[k], y[k], output[k], 20.0)).gain for k in (t >= 0, late))
    assert thin.high - thin.low > 2 * (whole.high - whole.low) and thin.low <= 1.5 <= thin.high


@pytest.mark.slow
def test_what_was_counted_between_late_rows_is_known():
    """The same late rows with the on-time the controller counted between them: the gain is as well known as from all rows, nearly;
    without it the on-time between them is nobody's knowledge."""
    t = np.arange(0.0, 3000.0, 2.0)
    output = 100.0 * (t % 60 < 24)
    y = 20 + respond(FOPDT(1.5, 600.0, 30.0), t, t, output) + np.random.default_rng(1).normal(0, 0.1, len(t))
    kept = np.flatnonzero((t == 0) | (t % 60 > 10) & (t % 60 < 18) | (t % 60 > 34) & (t % 60 < 54))
    rows = [(t[i], y[i], output[i]) for i in kept]
    for i, j in pairwise(kept):
        if j > i + 1:
            looks = ((t[i], 0.0, output[i]), (t[j], 0.02 * float(output[i:j].sum()), output[j]))
            moment, then = between(*looks)
            rows.append((moment, np.nan, then))
    counted = np.array(sorted(rows)).T
    alone, known = (identify(Stretch(*columns, 20.0)).gain for columns in ((t[kept], y[kept], output[kept]), counted))
    assert known.value == pytest.approx(1.5, rel=0.05) and known.low <= 1.5 <= known.high
    assert known.high - known.low < 0.1 * (alone.high - alone.low)


def test_a_short_record_knows_the_rate_better_than_gain_and_lag():
    _, stretch = recorded(CABINET, ControllerSettings(60, Mode.MANUAL, manual_output=100), 240, noise=0.3)
    found = identify(stretch)
    assert found.verdict is FitVerdict.SLOPE_ONLY
    width = (found.gain.high - found.gain.low) / found.gain.value
    assert (found.slope.high - found.slope.low) / found.slope.value < width
    assert found.slope.value == pytest.approx(6000 * 1.05 / 620, rel=0.25)


@pytest.mark.slow
def test_a_reversed_sensor_is_told():
    record, _ = recorded(CABINET, ControllerSettings(60, Mode.MANUAL, manual_output=100), 2400)
    falling = Stretch(record.time_s, 42 - record.reading_c, record.output, 21.0)
    found = identify(falling)
    assert found.verdict is FitVerdict.POOR and "reversed" in found.verdict_reason


@pytest.mark.slow
def test_closed_loop_without_excitation_is_told():
    rng = np.random.default_rng(2)
    t = np.arange(0, 3000, 5.0)
    reading = 60 + np.cumsum(rng.normal(0, 0.15, len(t)))
    output = np.clip(38 - 5 * (reading - 60) + rng.normal(0, 1, len(t)), 2, 98)
    found = identify(Stretch(t, reading, output, 21.0, float(output[0]), np.full(len(t), 60.0)))
    assert found.verdict in (FitVerdict.BIASED, FitVerdict.POOR)


def test_the_switch_is_believed_only_when_sampled_fast_enough():
    """Its own cycles tell: eight rows a cycle give the duty, four do not; no control period is asked for."""
    t = np.arange(0, 600, 5.0)
    nothing = np.full(len(t), np.nan)
    slow, fast = ((t % period < period / 2).astype(float) for period in (40, 20))
    assert np.array_equal(drive_of(Series(t, nothing, t, nothing, slow)), 100 * slow)
    with pytest.raises(Refused, match="duty cannot be told"):
        drive_of(Series(t, nothing, t, nothing, fast))
    assert np.all(drive_of(Series(t, nothing, t, nothing, (t > 100).astype(float)))[t > 100] == 100)  # one heat-up
    commanded = Series(t, nothing, t, np.full(len(t), 50.0), fast)
    assert np.all(drive_of(commanded) == 50)
    with pytest.raises(Refused, match="nothing in it"):
        drive_of(Series(t, nothing, t, nothing, nothing))


def test_nothing_to_learn_is_refused_with_the_reason():
    t = np.arange(0, 600, 2.0)
    with pytest.raises(Refused, match="hardly changed"):
        identify(Stretch(t, 21 + t / 100, np.zeros(len(t)), 21.0))
    with pytest.raises(Refused, match="usable points"):
        identify(Stretch(t[:5], t[:5], t[:5], 21.0))


def situation(**changed):
    loop = ControllerSettings(60, Mode.ON_OFF, 2.0, period_s=20)
    return Situation(
        **{"process": CABINET, "settings": loop, "ambient_c": 21, "window_low_c": 57.5, "window_high_c": 68, **changed}
    )


@pytest.mark.slow
def test_candidates_are_preferred_by_what_matters():
    found = compare(situation())
    by_key = {c.key: c for c in found.candidates}
    calm, tight, old = by_key["simc"], by_key["simc_tight"], by_key["reaction_curve"]
    assert found.preferred[Priority.NO_OVERSHOOT].key == "simc"
    assert calm.heat_up.worst.away_c < 1.2 < old.heat_up.worst.away_c
    assert calm.loop.margins.ms < tight.loop.margins.ms < old.loop.margins.ms
    fast = by_key[found.preferred[Priority.FAST].key]
    assert fast.heat_up.worst.back_s <= calm.heat_up.worst.back_s and fast.loop.worst_ms < 2
    assert all(not by_key[c.key].proposal.settings.pid.derivative_time_s for c in found.preferred.values())  # one lag
    assert by_key["on_off"].window == "leaves"
    assert "leave the window" in found.preferred[Priority.NO_OVERSHOOT].reason


def test_on_off_is_called_good_enough_when_its_swing_fits():
    found = compare(situation(window_low_c=50, window_high_c=75))
    assert "good enough" in found.preferred[Priority.NO_OVERSHOOT].reason
    assert found.preferred[Priority.GENTLE].key == "on_off"


def test_dead_time_for_tuning_includes_sampling_and_the_latched_cycle():
    s = situation()
    duty = 39 / 105
    assert effective_dead_time(s) == pytest.approx(52 + 0.125 + duty * 20)


def test_a_setpoint_beyond_full_power_is_refused():
    with pytest.raises(Refused, match=r"full power only reaches 126 °C"):  # 21 °C and 105 °C of rise
        compare(situation(settings=ControllerSettings(130, Mode.ON_OFF)))
