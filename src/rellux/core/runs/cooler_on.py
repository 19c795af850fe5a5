"""When the cooler beside a heater was on in a run, as its own thresholds say: no log has a column for it."""

import numpy as np
from numpy.typing import NDArray

from ..control.settings import CoolingBand
from ..errors import refuse
from .series import Series

DIGIT_C = 0.1
"""A reading is taken to have been so much higher than it shows: what may have cooled counts as cooled."""


def cooler_on(series: Series, band: CoolingBand) -> NDArray[np.bool_]:
    """(rows,) whether it may have been on: from where the reading is ``above_c`` above the set-point until it is back; at first already
    wherever it is not surely off. Rows without a reading or set-point are as the row before.

    Raises ``Refused`` where no row has a set-point: then nobody knows.
    """
    if not np.isfinite(series.setpoint_c).any():
        raise refuse("run", "it has no set-point, so nothing tells when its cooler was on", "a run with its set-point")
    over = series.reading_c + DIGIT_C - series.setpoint_c
    told = np.where(over >= band.above_c, 1, np.where(over <= band.off_above_c, 0, -1))
    told[np.isnan(over)] = -1
    told[0] = told[0] if told[0] >= 0 else 1
    known = np.maximum.accumulate(np.where(told >= 0, np.arange(len(told)), 0))
    return np.asarray(told[known] == 1)
