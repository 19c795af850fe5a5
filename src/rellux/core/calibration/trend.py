"""A straight line through what a sensor was off by, with what it wanders beside it; and one jump, where that explains it better.

A line by weighted least squares, all sensors of a workshop at once. Where comparisons scatter more than their uncertainty explains, its
uncertainties are widened by the root of χ²/ν (the Birge ratio). What a sensor does between two comparisons beyond line and uncertainty is
taken for a random walk, whose variance rises with the time: without it a sensor that wanders is trusted for far too long."""

from dataclasses import dataclass
from math import sqrt

import numpy as np
import scipy
from numpy.typing import NDArray

from .coverage import coverage_factor

LEAST_COMPARED = 3
"""Comparisons a drift is told from: with two the line goes through both, whatever they are."""
LEAST_JUMPED = 4
"""Comparisons a jump is told from (our choice)."""
JUMP_EXPLAINS, JUMP_BEATS = 25.0, 12.0
"""By so much χ² must fall against standing still, and against a line, before it is called a jump (our choice: five and about three and a
half standard deviations, since the place of the jump is chosen too)."""
STANDS_STILL = 0.95
"""Otherwise it must stand still: χ² of what is left within this quantile (our choice). What wanders jumps everywhere."""

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
class Trend:
    """Of one sensor, against days or any other clock: ``slope`` and its standard uncertainty, per unit of it; ``wander``, the variance it
    gains per unit, °C²; ``factor`` for 95.45 %; ``chi2`` of the line; ``mid``, ``level_c``, ``u_level`` and ``scatter`` as of
    :class:`Lines`."""

    slope: float
    u_slope: float
    wander: float
    factor: float
    chi2: float
    mid: float
    level_c: float
    u_level: float
    scatter: float

    @property
    def seen(self) -> bool:
        """It is more than its uncertainty."""
        return abs(self.slope) > self.factor * self.u_slope

    def ahead(self, left_c: float, expanded_c: float, ahead: Array) -> tuple[Array, Array]:
        """What the display will be off by ``ahead`` of the newest comparison, which left ``left_c`` and is known to ``expanded_c``; and
        its half-width."""
        wide = np.sqrt(expanded_c**2 + self.factor**2 * ((self.u_slope * ahead) ** 2 + self.wander * ahead))
        return left_c + self.slope * ahead, wide

    def band(self, at: Array, newest: float) -> tuple[Array, Array]:
        """Line and half-width at ``at``: beyond the newest comparison it wanders."""
        x = at - self.mid
        beyond = self.wander * np.maximum(at - newest, 0.0)
        wide = self.factor * np.sqrt(self.scatter**2 + self.u_level**2 + (self.u_slope * x) ** 2 + beyond)
        return self.level_c + self.slope * x, wide


def trend(at: Array, error_c: Array, u_c: Array) -> Trend | None:
    """Of at least three comparisons, ``at`` rising, shapes (n,); ``None`` where all are at one moment."""
    if at[-1] - at[0] <= 0:
        return None
    found = lines(at[None], error_c[None], u_c[None])
    freedom = float(found.freedom[0])
    slope, u_slope, level, mid = (float(v[0]) for v in (found.slope, found.u_slope, found.level_c, found.mid_day))
    between = np.diff(at)
    strange = (np.diff(error_c) - slope * between) ** 2 - u_c[1:] ** 2 - u_c[:-1] ** 2
    # the line took one degree of freedom of the differences
    wander = max(float(strange.sum()) * (freedom + 1.0) / freedom / float(between.sum()), 0.0)
    left = (error_c - level - slope * (at - mid)) / u_c
    return Trend(
        slope,
        max(u_slope, sqrt(wander / float(between.sum()))),
        wander,
        coverage_factor(freedom),
        float(left @ left),
        mid,
        level,
        float(found.u_level[0]),
        float(found.scatter[0]),
    )


@dataclass(frozen=True)
class Jump:
    """Between comparisons ``before`` and ``before + 1`` (by their place, from 0) it moved by ``by_c`` ± ``expanded_c``, and stood still
    otherwise."""

    before: int
    by_c: float
    expanded_c: float


def jump(at: Array, error_c: Array, u_c: Array) -> Jump | None:
    """The one jump that explains a record far better than standing still, and better than a line; ``None`` where none does. Shapes
    (n,)."""
    n = len(at)
    if n < LEAST_JUMPED:
        return None
    w = 1.0 / u_c**2
    total, first, second = (np.cumsum(v) for v in (w, w * error_c, w * error_c**2))
    still = float(second[-1] - first[-1] ** 2 / total[-1])
    sides = first[:-1] ** 2 / total[:-1] + (first[-1] - first[:-1]) ** 2 / (total[-1] - total[:-1])
    chi2 = second[-1] - sides
    k = int(np.argmin(chi2))
    line = trend(at, error_c, u_c)
    if still - chi2[k] < JUMP_EXPLAINS or line is None or line.chi2 - chi2[k] < JUMP_BEATS:
        return None
    if chi2[k] > scipy.special.chdtri(n - 2.0, 1.0 - STANDS_STILL):
        return None
    left = sqrt(max(float(chi2[k]) / (n - 2.0), 1.0))
    by = (first[-1] - first[k]) / (total[-1] - total[k]) - first[k] / total[k]
    u = left * sqrt(1.0 / total[k] + 1.0 / (total[-1] - total[k]))
    return Jump(k, float(by), coverage_factor(n - 2.0) * u)
