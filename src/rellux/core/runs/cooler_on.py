"""When the cooler beside a heater was on in a run: as was recorded beside it, else as its own thresholds say."""

import numpy as np
from numpy.typing import NDArray

from ..control.settings import CoolingBand
from ..errors import refuse
from .series import Series

Array = NDArray[np.float64]

FAR = 3.0
"""A moment farther from every look than so many of their usual distances was not looked at (our choice)."""
DIGIT_C = 0.1
"""A reading is taken to have been so much higher than it shows: what may have cooled counts as cooled."""


def cooler_on(series: Series, band: CoolingBand) -> NDArray[np.bool_]:
    """(rows,) whether it may have been on: from where the reading may have been ``above_c`` above the set-point until it is surely back; at
    first already wherever it is not surely off. What must run on does so long after it may last have come on. Between rows a reading is
    taken to have gone as far beyond as it moves from one to the next. Rows without a reading or set-point are as the row before.

    Raises ``Refused`` where no row has a set-point: then nobody knows.
    """
    if not np.isfinite(series.setpoint_c).any():
        raise refuse("run", "it has no set-point, so nothing tells when its cooler was on", "a run with its set-point")
    moves = np.nan_to_num(np.abs(np.diff(series.reading_c)))
    beyond = np.maximum(np.append(moves, 0.0), np.append(0.0, moves))
    over = series.reading_c + DIGIT_C + beyond - series.setpoint_c
    told = np.where(over >= band.above_c, 1, np.where(over <= band.off_above_c, 0, -1))
    told[np.isnan(over)] = -1
    told[0] = told[0] if told[0] >= 0 else 1
    known = np.maximum.accumulate(np.where(told >= 0, np.arange(len(told)), 0))
    on = told[known] == 1
    if band.run_s:
        until = np.append(series.time_s[1:], series.time_s[-1])  # it may have come on as late as the next row
        last = np.maximum.accumulate(np.where(told == 1, until, -np.inf))
        on |= series.time_s - last <= band.run_s
    return np.asarray(on)


def recorded_on(series: Series, time_s: Array, state: Array) -> NDArray[np.bool_]:
    """(rows,) whether it may have been on by what was recorded at times (n) of its own: it was at the look before a row, or at the one
    after. Farther from a look than they usually are apart nobody knows, and it may have been on."""
    seen = np.isfinite(state)
    time_s, on = time_s[seen], state[seen] > 0
    if not len(time_s):
        return np.ones(len(series.time_s), dtype=bool)
    apart = FAR * float(np.median(np.diff(time_s))) if len(time_s) > 1 else 0.0
    last, rows = len(time_s) - 1, series.time_s
    before = np.clip(np.searchsorted(time_s, rows, "right") - 1, 0, last)
    after = np.clip(np.searchsorted(time_s, rows, "left"), 0, last)
    unseen = np.minimum(np.abs(rows - time_s[before]), np.abs(rows - time_s[after])) > apart
    return np.asarray(on[before] | on[after] | unseen)


def may_have_cooled(series: Series, band: CoolingBand, looks: tuple[Array, Array] | None) -> NDArray[np.bool_]:
    """(rows,) whether its cooler may have been on: by ``looks``, the times (n) and states (n) that were recorded beside it, where there are
    any, else by its thresholds."""
    return cooler_on(series, band) if looks is None else recorded_on(series, *looks)


def uncooled_until_s(series: Series, on: NDArray[np.bool_], start_s: float) -> float | None:
    """The last moment from ``start_s`` on, s, up to which only heat moved it; ``on`` (rows): whether its cooler may have been. ``None``
    where that never came on. Raises ``Refused`` where it may have been on from the first."""
    begun = int(np.searchsorted(series.time_s, start_s))
    found = np.flatnonzero(on[begun:])
    if not len(found):
        return None
    if found[0] == 0:
        raise refuse(
            "start_s", "its cooler may have been on here, and no log shows what that takes", "where only heat moves it"
        )
    return float(series.time_s[begun + found[0] - 1])
