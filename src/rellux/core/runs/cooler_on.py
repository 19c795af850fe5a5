"""When the cooler beside a heater was on in a run, as its own thresholds say: no log has a column for it."""

import numpy as np
from numpy.typing import NDArray

from ..control.settings import CoolingBand
from ..errors import refuse
from .series import Series

DIGIT_C = 0.1
"""A reading is taken to have been so much higher than it shows: what may have cooled counts as cooled."""


def cooler_on(series: Series, band: CoolingBand) -> NDArray[np.bool_]:
    """(rows,) whether it may have been on: from where the reading may have been ``above_c`` above the set-point until it is surely back; at
    first already wherever it is not surely off. Between rows a reading is taken to have gone as far beyond as it moves from one to the
    next. Rows without a reading or set-point are as the row before.

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
    return np.asarray(told[known] == 1)


def uncooled_until_s(series: Series, band: CoolingBand, start_s: float) -> float | None:
    """The last moment from ``start_s`` on, s, up to which only heat moved it; ``None`` where its cooler never came on. Raises ``Refused``
    where that may have been on from the first."""
    begun = int(np.searchsorted(series.time_s, start_s))
    on = np.flatnonzero(cooler_on(series, band)[begun:])
    if not len(on):
        return None
    if on[0] == 0:
        raise refuse(
            "start_s", "its cooler may have been on here, and no log shows what that takes", "where only heat moves it"
        )
    return float(series.time_s[begun + on[0] - 1])
