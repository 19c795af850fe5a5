"""A step's number out of a stretch of a run: how long until it showed, until it got there, how hot it became."""

import numpy as np

from ..errors import refuse
from ..guarding.runaway import crossing
from ..messages import difference, temperature
from ..runs.series import Series
from .step import Measure, Take


def taken(measure: Measure, stretch: Series) -> float:
    """In the core's unit of the measure. Times are counted from when the output first came on and nothing held it
    back, or else from the first row.

    Raises ``Refused`` for a stretch without readings, and one in which it never came to that.
    """
    read = np.isfinite(stretch.reading_c)
    if not read.any():
        raise refuse("run", "there is no reading in this stretch", "a stretch with readings")
    time, reading = stretch.time_s[read], stretch.reading_c[read]
    sign = -1.0 if measure.falls else 1.0
    if measure.take is Take.READING:
        return float(reading[-1])
    if measure.take is Take.PEAK:
        return float(sign * (sign * reading).max())
    held_back = stretch.switch == 0
    on = stretch.time_s[(np.nan_to_num(stretch.output) > 0) & ~held_back]
    began = float(on[0]) if len(on) else float(time[0])
    before = reading[time <= began]
    start = float(before[-1]) if len(before) else float(reading[0])
    level = start + sign * measure.by if measure.take is Take.RISEN else measure.by
    later = time >= began
    when = crossing(time[later], sign * reading[later], sign * level) if later.any() else None
    if when is None:
        words = (
            f"{'fell' if measure.falls else 'rose'} by {difference(measure.by)}"
            if measure.take is Take.RISEN
            else f"reached {temperature(measure.by, '.0f')}"
        )
        raise refuse("run", f"the reading never {words} in this stretch", "a stretch in which it did")
    return when - began
