"""Drift, charts and dates against SciPy, a printed chart and simulated sensors; settling and exchanged places against simulated truths."""

from datetime import date

import numpy as np
import pytest
import scipy.stats
from hypothesis import given
from hypothesis import strategies as st

from rellux.core.calibration.conformity import Conforms, conformity
from rellux.core.calibration.drift import Aged, control_limits, drift
from rellux.core.calibration.due import (
    GROWN_DAYS,
    OLD_DAYS,
    YOUNG_DAYS,
    Interval,
    Since,
    calibration_findings,
    check_plan,
    due_again,
)
from rellux.core.calibration.exchange import exchanged
from rellux.core.calibration.settling import Settling, moments, settled
from rellux.core.calibration.trend import lines
from rellux.core.errors import Refused


def test_lines_are_those_of_weighted_least_squares():
    """Against NumPy, for many sensors at once, some with fewer comparisons."""
    random = np.random.default_rng(3)
    day, error = np.sort(random.uniform(0, 900, (40, 8)), axis=1), random.normal(0, 0.3, (40, 8))
    u = random.uniform(0.05, 0.4, (40, 8))
    error[::3, 5:] = np.nan
    found = lines(day, error, u)
    for i in range(40):
        there = np.isfinite(error[i])
        (slope, _), covariance = np.polyfit(day[i, there], error[i, there], 1, w=1 / u[i, there], cov="unscaled")
        left = (
            error[i, there]
            - np.polyval(np.polyfit(day[i, there], error[i, there], 1, w=1 / u[i, there]), day[i, there])
        ) / u[i, there]
        birge = max(np.sqrt(left @ left / (there.sum() - 2)), 1.0)
        assert found.slope[i] == pytest.approx(slope) and found.u_slope[i] == pytest.approx(
            birge * covariance[0, 0] ** 0.5
        )
        assert found.freedom[i] == there.sum() - 2


def test_the_chart_of_single_values_is_the_handbooks():
    """NIST/SEMATECH e-Handbook of Statistical Methods, 6.3.2.2, flow rate: 50.81, limits 45.8159 and 55.8041."""
    rates = (49.6, 47.6, 49.9, 51.3, 47.8, 51.2, 52.6, 52.4, 53.6, 52.1)
    found = control_limits(tuple(Aged(float(i), r, 1.0) for i, r in enumerate(rates)))
    assert (found.centre_c, found.low_c, found.high_c) == (
        pytest.approx(50.81),
        pytest.approx(45.8159, abs=2e-3),
        pytest.approx(55.8041, abs=2e-3),
    )
    assert found.outside == () and control_limits(()) is None
    jumped = control_limits(tuple(Aged(float(i), r, 1.0) for i, r in enumerate((*rates, *rates, 70.0))))
    assert jumped.outside == (20,)


def corrected(record, allowed):
    """Its drift, with the offset that the newest comparison asks for."""
    return drift(record, allowed, -record[-1].error_c if record else 0.0)


def history(random, slope, n=6, every=60.0, u=0.1):
    return tuple(Aged(every * i, slope * every * i + random.normal(0, u), 2 * u) for i in range(n))


def test_a_drift_is_seen_when_there_is_one():
    """Simulated: seen in none of 20 sensors that stand still more than chance allows, and in most that drift a lot."""
    random = np.random.default_rng(11)
    false = sum(corrected(history(random, 0.0), 1.0).seen for _ in range(400))
    right = sum(corrected(history(random, 0.003), 1.0).seen for _ in range(400))
    assert false / 400 < 0.07 and right / 400 > 0.85
    held = 0
    for _ in range(400):
        per_year = corrected(history(random, 0.001), 1.0).per_year
        held += per_year.low <= 0.001 * 365.25 <= per_year.high
    assert held / 400 > 0.93


def test_before_the_date_the_sensor_is_still_within_what_is_allowed():
    """Simulated linear drifts, corrected at the newest comparison: at the date hardly one is out by more than is allowed."""
    random, out, dated = np.random.default_rng(12), 0, 0
    for _ in range(600):
        slope = random.normal(0, 0.004)
        record = history(random, slope, n=int(random.integers(3, 8)))
        found = corrected(record, 1.0)
        after = due_again(Interval.RECORD, None, len(record), "Pt100", 60.0, found)
        if found.crosses_days is not None and found.crosses_days < 8:
            continue
        dated += 1
        wrongly_corrected = record[-1].error_c - slope * record[-1].day
        out += abs(slope * after.days - wrongly_corrected) > 1.0
    assert dated > 100 and out / dated < 0.05


def test_dates_by_each_school():
    few, none = corrected((Aged(0, 0.0, 0.2),), 1.0), corrected((), 1.0)
    assert few.per_year is None and "2 more comparisons" in few.says and "3 more" in none.says
    days = [due_again(Interval.PRACTICE, None, n, "Pt100", 60.0, few).days for n in (1, 2, 3, 9)]
    assert days == [YOUNG_DAYS, GROWN_DAYS, OLD_DAYS, OLD_DAYS]
    assert due_again(Interval.PRACTICE, None, 3, "K", 900.0, few).days == OLD_DAYS / 2
    assert due_again(Interval.PRACTICE, None, 3, "K", 800.0, few).days == OLD_DAYS  # near miss
    assert due_again(Interval.FIXED, 45, 3, "Pt100", 60.0, few).days == 45
    young = due_again(Interval.RECORD, None, 1, "Pt100", 60.0, few)
    assert young.days == YOUNG_DAYS and young.school is Interval.PRACTICE and "too short" in young.why
    still = corrected(tuple(Aged(300.0 * i, 0.0, 0.05) for i in range(8)), 5.0)
    assert still.crosses_days is None and due_again(Interval.RECORD, None, 8, "Pt100", 60.0, still).days == 365
    unbounded = drift(tuple(Aged(300.0 * i, 0.0, 0.05) for i in range(8)), None, 0.0)
    nothing_says = due_again(Interval.RECORD, None, 8, "Pt100", 60.0, unbounded)
    assert nothing_says.days == OLD_DAYS and "Nothing says" in nothing_says.why and not unbounded.is_out
    coarse = corrected(tuple(Aged(60.0 * i, 0.0, 2.0) for i in range(4)), 1.0)
    assert "less sure than what is allowed" in due_again(Interval.RECORD, None, 4, "Pt100", 60.0, coarse).why
    left_alone = drift(history(np.random.default_rng(1), 0.0), 0.5, 0.6)
    assert left_alone.is_out and left_alone.left_c == pytest.approx(0.6, abs=0.3)
    assert [due_again(s, 45, 6, "Pt100", 60.0, left_alone).days for s in Interval] == [0, 0, 0]
    half = drift(
        tuple(Aged(60.0 * i, 0.002 * 60 * i, 0.05) for i in range(6)), 1.0, -0.6
    )  # corrected at the newest comparison
    whole = corrected(tuple(Aged(60.0 * i, 0.002 * 60 * i, 0.05) for i in range(6)), 1.0)
    over = drift(tuple(Aged(60.0 * i, 0.002 * 60 * i, 0.05) for i in range(6)), 1.0, -0.2)
    assert half.crosses_days == whole.crosses_days > over.crosses_days  # left 0.4 too high it is out sooner
    assert "one day" in corrected((Aged(1, 0.1, 0.1),) * 4, 1.0).says


def test_what_happened_since_makes_it_due_at_once():
    still, day = corrected(tuple(Aged(300.0 * i, 0.0, 0.05) for i in range(8)), 5.0), date(2026, 3, 2)
    for since, says in (
        (Since(day, 91.0), "{~91 °C}"),
        (Since(controller_on=day), "controller is another one since 2 March 2026"),
        (Since(sensor_on=day), "came into this rig"),
    ):
        for school in Interval:
            again = due_again(school, 45, 8, "Pt100", 60.0, still, since)
            assert again.days == 0 and says in again.why
    assert due_again(Interval.FIXED, 45, 8, "Pt100", 60.0, still, Since()).days == 45


def test_what_is_said_when_it_is_due_and_when_the_newest_left_its_chart():
    calm = corrected(tuple(Aged(60.0 * i, 0.1 * (i % 2), 0.1) for i in range(6)), 1.0)
    due, today = date(2026, 6, 1), date(2026, 6, 1)
    assert [f.rule for f in calibration_findings(calm, 6, due, "", today)] == ["calibration.due"]
    assert not list(calibration_findings(calm, 6, date(2026, 6, 2), "", today))  # near miss
    entered = calibration_findings(calm, 6, date(2026, 6, 2), "", today, date(2026, 5, 30))
    assert [f.rule for f in entered] == ["calibration.verify"]
    jumped = corrected(tuple(Aged(60.0 * i, 0.1 * (i % 2) + 5.0 * (i == 9), 0.1) for i in range(10)), 9.0)
    assert [f.rule for f in calibration_findings(jumped, 10, date(2027, 1, 1), "", today)] == ["calibration.chart"]


@pytest.mark.parametrize(
    ("plan", "field"),
    [
        ((Interval.FIXED, None, None), "days"),
        ((Interval.FIXED, 6, None), "days"),
        ((Interval.RECORD, 731, None), "days"),
        ((Interval.RECORD, None, 0.0), "allowed_c"),
        ((Interval.RECORD, None, 201.0), "allowed_c"),
    ],
)
def test_plans_that_are_none(plan, field):
    check_plan(Interval.FIXED, 7, 200.0)
    with pytest.raises(Refused) as refused:
        check_plan(*plan)
    assert refused.value.problems[0].field == field


@pytest.mark.parametrize(
    ("error", "expanded", "conforms"),
    [(0.5, 0.5, Conforms.YES), (0.51, 0.5, Conforms.UNSURE), (-1.4, 0.5, Conforms.UNSURE), (-1.51, 0.5, Conforms.NO)],
)
def test_a_guard_band_as_wide_as_the_uncertainty(error, expanded, conforms):
    """JCGM 106:2012, 8.3.2; the probability against drawing the true error."""
    found = conformity(error, expanded / 2, expanded, 1.0)
    assert found.conforms is conforms and found.accept_to.value == pytest.approx(0.5)
    drawn = error + np.random.default_rng(1).standard_normal(400_000) * expanded / 2
    assert found.inside.value == pytest.approx(100 * np.mean(np.abs(drawn) <= 1.0), abs=0.3)
    with pytest.raises(Refused):
        conformity(0.0, 0.1, 0.2, 0.0)
    assert conformity(0.5, 0.0, 0.0, 1.0).inside.value == 100.0


def follows(random, seconds, slope_per_min, noise=0.05, hangs=0.9, step=2.0, swing=0.0, period=300.0):
    t = np.arange(0.0, seconds, step)
    wander = np.empty(len(t))
    wander[0] = random.normal(0, noise)
    for i in range(1, len(t)):
        wander[i] = hangs * wander[i - 1] + random.normal(0, noise * np.sqrt(1 - hangs**2))
    return t, 100.0 + slope_per_min * t / 60.0 + wander + swing / 2 * np.sin(2 * np.pi * t / period)


def test_a_narrower_guard_band_accepts_more_and_says_its_risk():
    """JCGM 106:2012, 8.3.2 and 9.3: with simple acceptance what is just accepted is outside every second time."""
    whole, half, none = (conformity(0.85, 0.1, 0.2, 1.0, guard) for guard in (1.0, 0.5, 0.0))
    assert (whole.conforms, half.conforms) == (Conforms.UNSURE, Conforms.YES) and "as chosen" in half.says
    assert conformity(0.95, 0.1, 0.2, 1.0, 0.5).conforms is Conforms.UNSURE
    assert conformity(1.01, 0.1, 0.2, 1.0, 0.0).conforms is Conforms.NO and "50 %" in none.accept_to.reason
    one_in = 1.0 - scipy.stats.norm.cdf(1.0)  # half of U is one standard uncertainty
    assert f"{100 * one_in:.2g} %" in half.accept_to.reason
    for guard in (-0.1, 2.1):
        with pytest.raises(Refused):
            conformity(0.0, 0.1, 0.2, 1.0, guard)


@pytest.mark.slow
def test_it_says_compare_now_only_when_it_has_settled():
    """Simulated rigs whose readings hang together: never *now* on one that drifts by twice what is settled, mostly on one that stands."""
    random = np.random.default_rng(21)
    states = {
        slope: [settled(*follows(random, 900, slope)).state for _ in range(200)] for slope in (0.0, 0.2, -0.2, 1.0)
    }
    assert sum(s is Settling.NOW for s in states[0.0]) > 180
    assert all(s is not Settling.NOW for slope in (0.2, -0.2, 1.0) for s in states[slope])
    assert all(s is Settling.WAIT for s in states[1.0])
    held = 0
    for _ in range(300):
        found = settled(*follows(random, 900, 0.05)).drift
        held += found.low <= 0.05 <= found.high
    assert held / 300 > 0.9


def test_a_cycling_rig_is_judged_by_whole_cycles():
    random = np.random.default_rng(22)
    standing = [settled(*follows(random, 1800, 0.0, noise=0.02, swing=4.0, period=200.0)) for _ in range(20)]
    assert all(s.state is Settling.NOW for s in standing)
    assert all(
        s.period_s == pytest.approx(200.0, rel=0.03) and s.bias.value == pytest.approx(2.0, rel=0.1) for s in standing
    )
    assert "whole cycles" in standing[0].says
    drifting = [settled(*follows(random, 1800, 0.4, noise=0.02, swing=8.0, period=200.0)) for _ in range(20)]
    assert all(s.state is Settling.WAIT for s in drifting)
    few = settled(*follows(random, 500, 0.0, noise=0.02, swing=4.0, period=200.0))
    assert few.state is Settling.UNSURE


def test_too_little_is_no_answer():
    assert settled(np.empty(0), np.empty(0)).state is Settling.UNSURE
    t, y = follows(np.random.default_rng(1), 170, 0.0)
    assert settled(t, y).state is Settling.UNSURE and "{3 min}" in settled(t, y).says
    y[:] = np.nan
    assert settled(t, y).state is Settling.UNSURE


@pytest.mark.slow
@pytest.mark.parametrize("pairs", [2, 3, 5])
@pytest.mark.parametrize("digit", [0.1, 1.0])
def test_places_exchanged_tell_instruments_from_the_gradient(pairs, digit):
    """Simulated displays of that digit: intervals of both hold the truth, and neither is said where there is none."""
    random, held, false = np.random.default_rng(31), 0, 0

    def shown(first_c):
        at = 60.0 + random.uniform(0, 1) + random.normal(0, 0.05, pairs)
        both = at + first_c + random.normal(0, 0.1, pairs), at + random.normal(0, 0.1, pairs)
        return np.round(both[0] / digit) * digit - np.round(both[1] / digit) * digit

    for _ in range(400):
        instruments, gradient = random.normal(0, 1), random.normal(0, 1)
        found = exchanged(shown(instruments + gradient), shown(instruments - gradient), digit)
        held += found.instruments.low <= instruments <= found.instruments.high
        held += found.gradient.low <= gradient <= found.gradient.high
        alike = exchanged(shown(0.0), shown(0.0), digit)
        false += "of instruments" in alike.says or "of places" in alike.says
    assert held / 800 > 0.93 and false / 400 < 0.1, (held / 800, false / 400)


def test_an_exchange_by_hand_and_what_is_too_little():
    worked = exchanged(np.array([1.0, 1.0]), np.array([0.4, 0.4]), 0.1)
    assert (worked.instruments.value, worked.gradient.value) == (pytest.approx(0.7), pytest.approx(0.3))
    assert worked.instruments.high > 0.7  # pairs that all agree are as sure as their digit
    with pytest.raises(Refused) as refused:
        exchanged(np.array([1.0]), np.empty(0), 11.0)
    assert [p.field for p in refused.value.problems] == ["before", "after", "digit_c"]


def test_scatter_beyond_the_uncertainty_widens_the_band():
    """Birge ratio: comparisons that scatter three times as far as their U says make the slope three times as unsure."""
    day = np.arange(8.0)[None, :] * 30
    error = np.random.default_rng(4).normal(0, 0.3, (1, 8))
    wide, narrow = lines(day, error, np.full((1, 8), 0.3)), lines(day, error, np.full((1, 8), 0.03))
    fitted = scipy.stats.linregress(day[0], error[0])
    assert narrow.u_slope[0] == pytest.approx(fitted.stderr, rel=1e-6) and wide.u_slope[0] >= 0.8 * fitted.stderr


@given(st.floats(5.0, 3000.0), st.lists(st.floats(-2.0, 2.0), min_size=5, max_size=5), st.floats(0.0, 1.0))
def test_the_mean_at_the_moments_said_is_the_mean_of_the_cycle(period, parts, begun):
    """Any shape of cycle made of its first five harmonics, begun anywhere in it, read six times."""
    when = moments(period)
    assert when.every_s >= 30.0 and when.every_s * when.pairs == pytest.approx(when.cycles * period)
    at = begun * period + np.arange(when.pairs) * when.every_s
    wave = sum(a * np.cos(2 * np.pi * (k + 1) * at / period + k) for k, a in enumerate(parts))
    assert np.mean(wave) == pytest.approx(0.0, abs=1e-6)
