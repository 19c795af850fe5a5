"""How a sensor's error moves with time: its drift with a band, when it leaves its tolerance, and when to look again.

One line by weighted least squares per sensor, all sensors of a workshop at once. The band of a prediction has the scatter round the line
and the uncertainty of the line in it; where comparisons scatter more than their uncertainty explains, it is widened by the root of
χ²/ν (the Birge ratio)."""

from dataclasses import dataclass
from datetime import date, timedelta
from enum import StrEnum
from math import ceil, isfinite

import numpy as np
from numpy.typing import NDArray

from ..errors import Problem, refuse_all
from ..explain import Figure, Input
from ..messages import difference
from ..units import Kind
from .certified import YEAR_DAYS
from .coverage import coverage_factor

LEAST_COMPARED = 3
"""Comparisons a drift is told from: with two the line goes through both, whatever they are."""
YOUNG_DAYS, GROWN_DAYS, OLD_DAYS = 30, 90, 180
"""When to look again by the number of comparisons: after the first, the second, and all later (common practice, no source: often while
joints and springs bed in)."""
HOT_C, HOT_SHARE = 800.0, 0.5
"""Base metal ages fast above so much: half the interval (common practice, no source)."""
SHORTEST_DAYS, LONGEST_DAYS = 7, 730
"""Interval that is proposed from a record (our choice), and that may be chosen."""
MOST_ALLOWED_C = 200.0
"""The largest error that may be allowed, °C (our choice: a slip of unit is asked back)."""
SINGLE_RANGE = 2.66
"""Limits of a chart of single values, in mean moving ranges: 3 / 1.128 (NIST/SEMATECH e-Handbook, 6.3.2.2)."""
LEAST_CHARTED = 5
"""Comparisons a chart's limits are drawn from (our choice)."""

Array = NDArray[np.float64]


class Interval(StrEnum):
    """By which school the next date is found."""

    FIXED = "fixed"
    PRACTICE = "practice"
    RECORD = "record"


SAYS = {
    Interval.RECORD: "From its record",
    Interval.PRACTICE: "By age and use",
    Interval.FIXED: "Every so many days",
}


@dataclass(frozen=True)
class Lines:
    """One line per sensor, arrays of shape (sensors,): ``mid_day`` the weighted middle, ``level_c`` there, ``slope`` in °C per day,
    ``u_level`` and ``u_slope`` widened by the Birge ratio, ``scatter`` of one comparison, ``freedom``."""

    mid_day: Array
    level_c: Array
    slope: Array
    u_level: Array
    u_slope: Array
    scatter: Array
    freedom: Array


def lines(day: Array, error_c: Array, u_c: Array) -> Lines:
    """Weighted straight lines, shapes (sensors, comparisons); NaN where a sensor has fewer. ``u_c``: standard uncertainty, °C."""
    there = np.isfinite(error_c)
    weight, error, n = 1.0 / np.square(u_c), error_c, there.sum(axis=1)
    if not there.all():
        weight, day, error = (np.where(there, values, 0.0) for values in (weight, day, error_c))
    weighted = weight * error
    total = weight.sum(axis=1)
    mid, level = np.einsum("sc,sc->s", weight, day) / total, weighted.sum(axis=1) / total
    x = day - mid[:, None]
    xx = np.einsum("sc,sc,sc->s", weight, x, x)
    with np.errstate(divide="ignore", invalid="ignore"):
        slope = np.einsum("sc,sc->s", weighted, x) / xx
        left = np.einsum("sc,sc->s", weighted, error) - level**2 * total - slope**2 * xx
        freedom = n - 2.0
        birge = np.sqrt(np.maximum(left / np.maximum(freedom, 1.0), 1.0))
        mean_u = np.sqrt(n / total)
    return Lines(mid, level, slope, birge / np.sqrt(total), birge / np.sqrt(xx), birge * mean_u, freedom.astype(float))


@dataclass(frozen=True)
class Aged:
    """One comparison of the record: the day (any origin), what the sensor without offset reads above the reference, and U, °C."""

    day: float
    error_c: float
    expanded_c: float


@dataclass(frozen=True)
class BandPoint:
    """The line and its band of 95.45 % on a day."""

    day: float
    low_c: float
    mid_c: float
    high_c: float


@dataclass(frozen=True)
class ControlLimits:
    """Of a chart of single values; ``outside``: the comparisons beyond them, by their place in the record."""

    centre_c: float
    low_c: float
    high_c: float
    outside: tuple[int, ...]


@dataclass(frozen=True)
class Drift:
    """``per_year`` with 95.45 % either side, ``None`` before three comparisons; ``seen``: it is more than its uncertainty.
    ``crosses_days``: after so many days from the newest comparison the band leaves what is allowed, ``None`` where it does not within
    two years. ``left_c``: what the display is off by since the newest comparison, with the offset in it
    now; ``is_out``: by more than is allowed."""

    per_year: Figure | None
    seen: bool
    band: tuple[BandPoint, ...]
    crosses_days: float | None
    chart: ControlLimits | None
    says: str
    left_c: float
    is_out: bool


def drift(record: tuple[Aged, ...], allowed_c: float, added_c: float) -> Drift:
    """Of one sensor, days rising. ``allowed_c``: how far the display may be off; ``added_c``: the offset in the controller now, as one that
    is added to the reading, °C."""
    chart = control_limits(record)
    left = record[-1].error_c + added_c if record else 0.0
    is_out = abs(left) > allowed_c
    if len(record) < LEAST_COMPARED:
        missing = LEAST_COMPARED - len(record)
        says = f"{missing} more comparison{'s' if missing > 1 else ''} of this sensor show whether it drifts."
        return Drift(None, False, (), None, chart, says, left, is_out)
    days = np.array([[a.day for a in record]])
    found = lines(days, np.array([[a.error_c for a in record]]), np.array([[a.expanded_c / 2.0 for a in record]]))
    slope, u = float(found.slope[0]), float(found.u_slope[0])
    if not isfinite(slope):
        says = "All its comparisons are of one day: they show no drift."
        return Drift(None, False, (), None, chart, says, left, is_out)
    factor = coverage_factor(float(found.freedom[0]))
    per_year = Figure(
        "drift of the sensor in a year",
        slope * YEAR_DAYS,
        Kind.DIFFERENCE,
        formula="weighted least squares",
        inputs=(
            Input("comparisons", len(record), Kind.COUNT, "n", "its record"),
            Input("coverage factor", factor, Kind.RATIO, "t", f"{found.freedom[0]:.0f} degrees of freedom"),
        ),
        reason="Its error without any offset, against time.",
        low=(slope - factor * u) * YEAR_DAYS,
        high=(slope + factor * u) * YEAR_DAYS,
    )
    last = record[-1]
    start = last.day
    ahead = np.arange(0.0, LONGEST_DAYS + 1.0)
    off = left + slope * ahead
    # from the newest comparison on: its own uncertainty and the slope's
    wide = np.sqrt((last.expanded_c) ** 2 + (factor * u * ahead) ** 2)
    crosses = _first(ahead, np.abs(off) + wide > allowed_c)
    seen = abs(slope) > factor * u
    return Drift(
        per_year,
        seen,
        _band(found, factor, record[0].day, start + LONGEST_DAYS / 2),
        crosses,
        chart,
        _says(per_year, seen),
        left,
        is_out,
    )


def _first(days: Array, beyond: NDArray[np.bool_]) -> float | None:
    return float(days[int(np.argmax(beyond))]) if bool(beyond.any()) else None


def _band(found: Lines, factor: float, first: float, last: float) -> tuple[BandPoint, ...]:
    days = np.linspace(first, last, 25)
    mid = found.level_c[0] + found.slope[0] * (days - found.mid_day[0])
    wide = factor * np.sqrt(
        found.scatter[0] ** 2 + found.u_level[0] ** 2 + (found.u_slope[0] * (days - found.mid_day[0])) ** 2
    )
    return tuple(
        BandPoint(float(d), float(m - w), float(m), float(m + w)) for d, m, w in zip(days, mid, wide, strict=True)
    )


def _says(per_year: Figure, seen: bool) -> str:
    assert per_year.low is not None and per_year.high is not None
    half = (per_year.high - per_year.low) / 2.0
    if seen:
        way = "upwards" if per_year.value > 0 else "downwards"
        return (
            f"Its reading drifts {way} by {difference(abs(per_year.value), '.2g')} ± {difference(half, '.2g')} a year."
        )
    return f"No drift is seen: {difference(per_year.value, '+.2g')} ± {difference(half, '.2g')} a year."


def control_limits(record: tuple[Aged, ...]) -> ControlLimits | None:
    """Of a chart of single values (NIST/SEMATECH e-Handbook, 6.3.2.2); ``None`` before five comparisons."""
    if len(record) < LEAST_CHARTED:
        return None
    errors = np.array([a.error_c for a in record])
    centre, half = float(errors.mean()), SINGLE_RANGE * float(np.abs(np.diff(errors)).mean())
    outside = tuple(int(i) for i in np.flatnonzero(np.abs(errors - centre) > half))
    return ControlLimits(centre, centre - half, centre + half, outside)


@dataclass(frozen=True)
class DueAgain:
    """``days`` after the newest comparison, and why."""

    days: int
    school: Interval
    why: str


def due_again(
    school: Interval, fixed_days: int | None, compared: int, base_metal: bool, working_c: float, found: Drift
) -> DueAgain:
    """When to look again. At once where the display is off by more than is allowed. From its record: before the band of its drift
    leaves what is allowed, and not later than by age and use where the record is too short. Raises ``Refused`` for a fixed interval
    that is none."""
    if found.is_out:
        off = difference(found.left_c, "+.2g")
        return DueAgain(
            0,
            school,
            f"With the offset in it now the display is off by {off}, more than is allowed: correct it, or find the cause.",
        )
    if school is Interval.FIXED:
        check_plan(school, fixed_days, None)
        assert fixed_days is not None
        return DueAgain(fixed_days, school, f"Every {fixed_days} days, as chosen.")
    usual = (YOUNG_DAYS, GROWN_DAYS)[compared - 1] if compared <= 2 else OLD_DAYS
    hot = base_metal and working_c > HOT_C
    usual = ceil(usual * HOT_SHARE) if hot else usual
    habit = f"{usual} days, by age and use" + (": base metal at this heat ages fast." if hot else ".")
    if school is Interval.PRACTICE:
        return DueAgain(usual, school, habit.capitalize())
    if found.per_year is None:
        return DueAgain(usual, Interval.PRACTICE, f"Its record is too short as yet: {habit}")
    if found.crosses_days == 0:
        return DueAgain(
            usual,
            Interval.PRACTICE,
            f"One comparison is less sure than what is allowed; a better reference helps, not a sooner date: {habit}",
        )
    if found.crosses_days is None:
        days = max(usual, LONGEST_DAYS // 2)
        return DueAgain(
            days,
            school,
            "Its band stays within what is allowed for two years; once a year it is looked at all the same.",
        )
    days = min(int(found.crosses_days), LONGEST_DAYS // 2)
    return DueAgain(
        days,
        school,
        "Before the band of its drift leaves what is allowed: a risk of one in forty, if it goes on as it did.",
    )


def due_date(last: date, after: DueAgain) -> date:
    return last + timedelta(days=after.days)


def check_plan(school: Interval, days: int | None, allowed_c: float | None) -> None:
    """Raise ``Refused`` for an interval that is none, and for an allowed error nobody can mean."""
    problems = []
    if days is None and school is Interval.FIXED:
        problems.append(Problem("days", "an interval is needed", f"{SHORTEST_DAYS}…{LONGEST_DAYS} days"))
    if days is not None and not SHORTEST_DAYS <= days <= LONGEST_DAYS:
        problems.append(Problem("days", f"{days} days is no interval", f"{SHORTEST_DAYS}…{LONGEST_DAYS} days"))
    if allowed_c is not None and not 0.0 < allowed_c <= MOST_ALLOWED_C:
        problems.append(
            Problem("allowed_c", "is no error one allows", f"more than {{0 Δ°C}}, up to {difference(MOST_ALLOWED_C)}")
        )
    refuse_all(problems)
