"""Drift beside a line: a sensor that wanders, one that jumped, one that ages with the hours it is hot, and what others like it did. The
judges are simulated truths, NumPy and SciPy."""

from datetime import date
from itertools import pairwise

import numpy as np
import pytest
import scipy.stats

from rellux.core.calibration.alike import alike, are_alike
from rellux.core.calibration.by_use import HotUse, by_use, check_hot, hot_above
from rellux.core.calibration.drift import Aged, arrays, drift, said_of_jump
from rellux.core.calibration.due import Interval, due_again
from rellux.core.calibration.trend import jump, trend
from rellux.core.errors import Refused
from rellux.core.runs.series import Series
from rellux.core.runs.wear import hours_above

ALLOWED, U, EVERY = 2.0, 0.5, 90.0


def truth(random, kind, n):
    """A sensor's error every day, compared n times about a quarter apart, and the day of each comparison."""
    days = np.cumsum(random.uniform(0.5, 1.5, n) * EVERY).astype(int)
    every_day = np.arange(days[-1] + 731.0)
    error = np.full(len(every_day), random.normal(0, 0.5))
    if "line" in kind:
        error += random.normal(0, ALLOWED / 300) * every_day
    if "wander" in kind:
        error += np.cumsum(random.normal(0, 1, len(error))) * ALLOWED / 2 / np.sqrt(180)
    if "jump" in kind:
        error += np.where(every_day > random.uniform(days[0], days[-1]), ALLOWED * random.choice([-1, 1]), 0.0)
    record = tuple(Aged(float(d), float(error[d] + random.normal(0, U / 2)), U) for d in days)
    return record, error


@pytest.mark.slow
@pytest.mark.parametrize("kind", ["", "line", "wander", "line and wander", "jump"])
def test_before_the_date_it_is_still_within_whatever_it_does(kind):
    """Corrected at the newest comparison by what that showed: on the date hardly one has moved by more than is allowed since. A straight
    line alone lets up to a quarter of the wandering ones out."""
    random, out, dated = np.random.default_rng(31), 0, 0
    for _ in range(500):
        record, error = truth(random, kind, int(random.integers(3, 11)))
        found = drift(record, ALLOWED, -record[-1].error_c)
        after = due_again(Interval.RECORD, None, len(record), "Pt100", 60.0, found)
        if after.school is Interval.RECORD:
            newest = int(record[-1].day)
            dated += 1
            out += abs(error[newest + after.days] - record[-1].error_c) > ALLOWED
    assert dated > 150 and out / dated < 0.045


def test_the_trend_is_weighted_least_squares_and_the_walk_is_found():
    """The line by NumPy's; the variance of a walk from 2,000 steps of one."""
    random = np.random.default_rng(32)
    at, u = np.sort(random.uniform(0, 900, 9)), random.uniform(0.1, 0.4, 9)
    error = 0.002 * at + random.normal(0, u)
    slope, level = np.polyfit(at, error, 1, w=1 / u)
    found = trend(at, error, u)
    assert found.slope == pytest.approx(slope) and found.level_c - found.slope * found.mid == pytest.approx(level)
    walk = trend(np.arange(2000.0), np.cumsum(random.normal(0, 0.3, 2000)), np.full(2000, 0.01))
    assert walk.wander == pytest.approx(0.09, rel=0.1)
    assert not walk.seen, "what a walk did by chance is no drift"
    assert trend(np.zeros(3), np.arange(3.0), np.ones(3)) is None


def test_a_jump_is_seen_and_nothing_else_is_called_one():
    random = np.random.default_rng(33)
    called = {
        kind: np.mean([jump(*arrays(truth(random, kind, 8)[0])) is not None for _ in range(300)])
        for kind in ("", "line", "wander", "jump")
    }
    assert called["jump"] > 0.6 and called[""] < 0.01 and called["line"] < 0.01 and called["wander"] < 0.06
    days = np.arange(6) * 60.0
    record = tuple(
        Aged(d, 0.2 + 1.5 * (d > 130) + s, 0.2) for d, s in zip(days, (0.02, -0.03, 0, 0.03, 0, -0.02), strict=True)
    )
    found = drift(record, 1.0, -1.7)
    assert found.jumped.before == 2 and abs(found.jumped.by_c - 1.5) < found.jumped.expanded_c < 0.4
    assert found.counted == 3 and "since it jumped" in found.says and found.band[0].day == days[3]
    says = said_of_jump(found.jumped, found.counted, date(2026, 3, 1), date(2026, 5, 1))
    assert "Between 1 March 2026 and 1 May 2026 it jumped by {+1.5 Δ°C}" in says
    late = drift((*record[:3], Aged(180.0, 1.7, 0.2)), 1.0, -1.7)
    assert late.counted == 1 and late.per_year is None and "2 more comparisons" in late.says
    assert "compare once more" in said_of_jump(late.jumped, 1, date(2026, 3, 1), date(2026, 5, 1))
    usual = due_again(Interval.RECORD, None, late.counted, "Pt100", 60.0, late)
    assert usual.days == 30 and "too short" in usual.why, "after a jump it is young again"
    small = tuple(Aged(d, 0.2 + 0.3 * (d > 130), 0.2) for d in days)
    assert drift(small, 1.0, 0.0).jumped is None, "three standard deviations are not enough"


def used(record, hours, a_day=4.0, since_h=0.0, since_days=0.0):
    found = drift(record, ALLOWED, -record[-1].error_c)
    return found, by_use(record, HotUse(800.0, np.array(hours), since_h, since_days, a_day), found)


def test_hours_tell_what_the_calendar_does_not():
    """Simulated: two idle half years and hot weeks between; every 100 h cost 0.4 °C. The date comes of the hours it will be hot."""
    hours = (0.0, 300.0, 305.0, 620.0, 622.0)
    record = tuple(Aged(d, -0.004 * h, 0.1) for d, h in zip((0.0, 40.0, 220.0, 260.0, 440.0), hours, strict=True))
    found, hot = used(record, hours)
    assert hot.per_hours.value == pytest.approx(-0.4) and hot.seen and hot.better
    assert "better than the calendar" in hot.says and "{4 h} a day" in hot.says
    # allowed 2 − U 0.1 over 0.004 a hour, widened by the band, at 4 h a day
    assert 90 < hot.crosses_days <= (ALLOWED - 0.1) / 0.004 / 4.0
    busy = used(record, hours, a_day=24.0)[1]
    assert busy.crosses_days == pytest.approx(hot.crosses_days / 6, abs=0.01)
    after = due_again(Interval.RECORD, None, 5, "K", 900.0, found, used=busy)
    assert after.days == int(busy.crosses_days) and "used as lately" in after.why
    gone = used(record, hours, since_h=500.0, since_days=20.0)[1]
    assert due_again(Interval.RECORD, None, 5, "K", 900.0, found, used=gone).days == 0
    idle = used(record, hours, a_day=0.0)[1]
    assert idle.crosses_days is None
    assert due_again(Interval.RECORD, None, 5, "K", 900.0, found, used=idle).days > 0
    even = used(tuple(Aged(60.0 * i, -0.3 * i, 0.1) for i in range(5)), [75.0 * i for i in range(5)])[1]
    assert even.seen and not even.better, "used evenly, nobody can tell one from the other"
    assert used(record, [0.0] * 5)[1] is None and used(record[:2], hours[:2])[1] is None


@pytest.mark.slow
def test_before_the_date_by_hours_it_is_still_within():
    """Simulated sensors that age with uneven use, and wander with it: on that date, used as lately, hardly one moved by more."""
    random, out, dated = np.random.default_rng(37), 0, 0
    for _ in range(1500):
        n, rate = int(random.integers(4, 9)), random.uniform(2.0, 8.0)
        days = np.cumsum(random.uniform(20, 120, n))
        hot = np.diff(days, prepend=0.0) * rate * random.uniform(0.2, 1.8, n)
        slope, wander, hours = random.normal(0, ALLOWED / 200), random.choice([0.0, 0.02]), np.cumsum(hot)
        error = slope * hours + np.cumsum(random.normal(0, 1, n) * wander * np.sqrt(hot))
        seen = error + random.normal(0, 0.1, n)
        found, aged = used(tuple(Aged(d, e, 0.2) for d, e in zip(days, seen, strict=True)), hours, rate)
        after = due_again(Interval.RECORD, None, n, "K", 900.0, found, used=aged)
        if "used as lately" in after.why and after.days:
            dated += 1
            ahead = after.days * rate
            out += abs(error[-1] + slope * ahead + random.normal() * wander * np.sqrt(ahead) - seen[-1]) > ALLOWED
    assert dated > 80 and out / dated < 0.06


@pytest.mark.parametrize(("kind", "most"), [("line", 0.05), ("still", 0.07)])
def test_hours_are_believed_only_where_they_explain_more(kind, most):
    """Simulated sensors that know nothing of hours: neither better than the calendar, nor seen where nothing moves."""
    random, wrong = np.random.default_rng(34), 0
    for _ in range(300):
        days, hours = np.cumsum(random.uniform(30, 150, 6)), np.cumsum(random.uniform(0, 300, 6))
        error = (0.006 * days if kind == "line" else 0.0) + random.normal(0, 0.1, 6)
        found = used(tuple(Aged(d, e, 0.2) for d, e in zip(days, error, strict=True)), hours)[1]
        wrong += found.better if kind == "line" else found.seen
    assert wrong / 300 < most


def test_hours_above_a_temperature():
    t = np.arange(0.0, 7201.0, 60.0)
    up = Series(t, t * 0, t / 36.0, t * np.nan, t * np.nan)  # 200 °C after two hours
    assert hours_above(up, 50.0) == pytest.approx(1.5) and hours_above(up, 201.0) == 0.0
    assert hours_above(up, -5.0) == pytest.approx(2.0)
    broken = np.concatenate((t, t + 36_000.0))
    gap = Series(broken, broken * 0, np.full(len(broken), 90.0), broken * np.nan, broken * np.nan)
    assert hours_above(gap, 50.0) == pytest.approx(4.0), "what was not recorded is not counted"
    assert hours_above(Series(*(np.empty(0),) * 5), 50.0) == 0.0
    assert hot_above(20.0, 1020.0) == 820.0
    check_hot(800.0, 20.0, 1050.0)
    for impossible in (20.0, 1051.0):
        with pytest.raises(Refused, match="hot_c"):
            check_hot(impossible, 20.0, 1050.0)


def fleet(random, sensors, spread, mean=0.0):
    """Like sensors, each with a drift of its own, compared four times."""
    made = []
    for slope in random.normal(mean, spread, sensors):
        days = np.cumsum(random.uniform(40, 120, 4))
        made.append(tuple(Aged(d, slope * d + random.normal(0, 0.1), 0.2) for d in days))
    return made


def test_the_next_sensor_drifts_as_its_like_let_expect():
    """Simulated workshops: the drift of one more sensor of the same population lies in what its like let expect, also where they all drift
    alike; and the spread is not merely wide."""
    random, inside, wide = np.random.default_rng(35), 0, []
    for _ in range(500):
        spread = random.choice([0.0, 0.002, 0.006])
        found = alike(fleet(random, int(random.integers(4, 12)), spread, -0.003), 1.0)
        inside += found.per_year.low <= random.normal(-0.003, spread) * 365.25 <= found.per_year.high
        if spread == 0.006:
            wide.append((found.per_year.high - found.per_year.low) / (4 * 0.006 * 365.25))
    assert inside / 500 > 0.93 and np.median(wide) < 1.8


def test_what_is_said_of_sensors_alike():
    random = np.random.default_rng(36)
    records = fleet(random, 6, 0.001, 0.004)
    found = alike(records, 0.5)
    moved = [abs(b.error_c - a.error_c) for r in records for a, b in pairwise(r)]
    assert (found.within, found.looked) == (sum(m <= 0.5 for m in moved), 18)
    lower = scipy.stats.binomtest(found.within, 18, alternative="greater").proportion_ci(0.95, "exact").low
    assert found.at_least.value == pytest.approx(100 * lower)
    assert "6 sensors like it" in found.says and f"{found.within} of 18" in found.says
    assert alike(records[:2], 0.5) is None and alike([*records[:2], records[2][:1]], 0.5) is None
    assert alike(records, None).crosses_days is None and alike(records, None).at_least is None
    assert not are_alike("K", 900.0, "K", 1000.0) and are_alike("K", 900.0, "K", 999.0)
    young = drift((Aged(0.0, 0.1, 0.2),), 0.5, -0.1)
    soon = alike(fleet(random, 6, 0.003, 0.02), 0.5, 0.0, 0.2)
    after = due_again(Interval.RECORD, None, 1, "K", 900.0, young, like=soon)
    assert after.days == max(int(soon.crosses_days), 7) < 30 and "6 sensors like it" in after.why
    slow = alike(fleet(random, 6, 0.0001), 0.5, 0.0, 0.2)
    assert due_again(Interval.RECORD, None, 1, "N", 500.0, young, like=slow).days == 30, "the sooner of both"
