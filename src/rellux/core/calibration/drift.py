"""How a sensor's error moves with time: its drift with a band, when it leaves its tolerance, and when to look again.

One line by weighted least squares per sensor, all sensors of a workshop at once. The band of a prediction has the scatter round the line
and the uncertainty of the line in it; where comparisons scatter more than their uncertainty explains, it is widened by the root of
χ²/ν (the Birge ratio)."""

from dataclasses import dataclass
from math import inf, isfinite

import numpy as np
from numpy.typing import NDArray

from ..explain import Figure, Input
from ..messages import difference
from ..units import Kind
from .certified import YEAR_DAYS
from .coverage import coverage_factor

LEAST_COMPARED = 3
"""Comparisons a drift is told from: with two the line goes through both, whatever they are."""
AHEAD_DAYS = 730
"""How far a drift is drawn out, days (our choice)."""
SINGLE_RANGE = 2.66
"""Limits of a chart of single values, in mean moving ranges: 3 / 1.128 (NIST/SEMATECH e-Handbook, 6.3.2.2)."""
LEAST_CHARTED = 5
"""Comparisons a chart's limits are drawn from (our choice)."""

Array = NDArray[np.float64]


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
    now; ``is_out``: by more than is allowed; ``allowed_c``: what that is."""

    per_year: Figure | None
    seen: bool
    band: tuple[BandPoint, ...]
    crosses_days: float | None
    chart: ControlLimits | None
    says: str
    left_c: float
    is_out: bool
    allowed_c: float | None

    def moved_c(self, days: float) -> float | None:
        """The most it may move in so many days by its band, °C; ``None`` before three comparisons."""
        if self.per_year is None or self.per_year.low is None or self.per_year.high is None:
            return None
        return max(abs(self.per_year.low), abs(self.per_year.high)) / YEAR_DAYS * days


def drift(record: tuple[Aged, ...], allowed_c: float | None, added_c: float) -> Drift:
    """Of one sensor, days rising. ``allowed_c``: how far the display may be off, ``None`` where nothing says; ``added_c``: the offset
    in the controller now, as one that is added to the reading, °C."""
    chart = control_limits(record)
    left = record[-1].error_c + added_c if record else 0.0
    most = inf if allowed_c is None else allowed_c
    is_out = abs(left) > most
    if len(record) < LEAST_COMPARED:
        missing = LEAST_COMPARED - len(record)
        says = f"{missing} more comparison{'s' if missing > 1 else ''} of this sensor show whether it drifts."
        return Drift(None, False, (), None, chart, says, left, is_out, allowed_c)
    days = np.array([[a.day for a in record]])
    found = lines(days, np.array([[a.error_c for a in record]]), np.array([[a.expanded_c / 2.0 for a in record]]))
    slope, u = float(found.slope[0]), float(found.u_slope[0])
    if not isfinite(slope):
        says = "All its comparisons are of one day: they show no drift."
        return Drift(None, False, (), None, chart, says, left, is_out, allowed_c)
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
    ahead = np.arange(0.0, AHEAD_DAYS + 1.0)
    off = left + slope * ahead
    # from the newest comparison on: its own uncertainty and the slope's
    wide = np.sqrt((last.expanded_c) ** 2 + (factor * u * ahead) ** 2)
    crosses = _first(ahead, np.abs(off) + wide > most)
    seen = abs(slope) > factor * u
    return Drift(
        per_year,
        seen,
        _band(found, factor, record[0].day, start + AHEAD_DAYS / 2),
        crosses,
        chart,
        _says(per_year, seen),
        left,
        is_out,
        allowed_c,
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
