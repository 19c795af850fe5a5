"""How often a switch came on while a run was recorded, and how long a sensor was hot in it."""

from math import ceil

import numpy as np
from numpy.typing import NDArray

from .lost import is_gap
from .series import Series

Array = NDArray[np.float64]

HALF_ON = 0.5
"""A switch that was recorded as more than this was on."""


def times_on(series: Series, period_s: float | None, before: float = 0.0) -> tuple[float, float]:
    """Times it came on, and how it stood at the end (0 or 1), to go on from in the next piece of the same run.

    Counted where the switch was recorded. Where only the output was, a time-proportioned one (``period_s``) comes on once a period in
    which it is neither off nor full: the most it can have been.
    """
    seen = series.switch[np.isfinite(series.switch)]
    if len(seen):
        return _edges(seen > HALF_ON, before)
    told = np.isfinite(series.output)
    output, t = series.output[told], series.time_s[told]
    times, last = _edges(output > 0.0, before)
    if period_s and len(t) > 1:
        partly = (output[:-1] > 0.0) & (output[:-1] < 100.0)
        times = max(times, float(ceil(float(np.sum(np.diff(t)[partly])) / period_s)))
    return times, last


def _edges(on: NDArray[np.bool_], before: float) -> tuple[float, float]:
    if not len(on):
        return 0.0, before
    return float(np.sum(on[1:] & ~on[:-1]) + (on[0] and before < HALF_ON)), float(on[-1])


def hours_above(series: Series, hot_c: float) -> float:
    """How long it read at or above ``hot_c``, h: between two readings on a straight line; a gap in the record counts as nothing."""
    known = np.isfinite(series.reading_c)
    t, above = series.time_s[known], series.reading_c[known] - hot_c
    if len(t) < 2:
        return 0.0
    took, low, high = np.diff(t), np.minimum(above[:-1], above[1:]), np.maximum(above[:-1], above[1:])
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.where(low >= 0, 1.0, np.where(high <= 0, 0.0, high / (high - low)))
    return float(np.sum((took * share)[~is_gap(t)])) / 3600.0
