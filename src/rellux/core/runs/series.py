"""A recorded series, as every run source delivers it, and what must hold before it is stored."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..errors import refuse
from ..messages import quantity

Array = NDArray[np.float64]

GAP = 3.5
"""A gap: longer than three usual intervals, and half of one for a late row (our choice; a link is judged by the same three)."""


@dataclass(frozen=True)
class Series:
    """Equal-length columns: seconds from the run's start; °C; °C; %; switch 0/1. NaN where a column has no value."""

    time_s: Array
    setpoint_c: Array
    reading_c: Array
    output: Array
    switch: Array

    def __len__(self) -> int:
        return len(self.time_s)

    def between(self, start_s: float, end_s: float) -> "Series":
        """The rows with ``start_s ≤ time ≤ end_s``."""
        i, j = np.searchsorted(self.time_s, (start_s, np.nextafter(end_s, np.inf)))
        return Series(*(column[i:j] for column in self.columns))

    @property
    def columns(self) -> tuple[Array, Array, Array, Array, Array]:
        return self.time_s, self.setpoint_c, self.reading_c, self.output, self.switch


@dataclass(frozen=True)
class Points:
    """What one device showed at times of its own: seconds from the run's start, and for every channel as many values in the unit of
    its quantity. NaN where it has none."""

    time_s: Array
    values: tuple[Array, ...]

    def __len__(self) -> int:
        return len(self.time_s)

    def between(self, start_s: float, end_s: float) -> "Points":
        """The rows with ``start_s ≤ time ≤ end_s``."""
        i, j = np.searchsorted(self.time_s, (start_s, np.nextafter(end_s, np.inf)))
        return Points(self.time_s[i:j], tuple(column[i:j] for column in self.values))

    @property
    def columns(self) -> tuple[Array, ...]:
        return self.time_s, *self.values


@dataclass(frozen=True)
class Timing:
    """How a series was really sampled: median interval in s, duplicates dropped, gaps longer than three and a half."""

    interval_s: float
    duplicates: int
    gaps: int


def check_times(time_s: Array, line: Callable[[int], int] = lambda i: i + 1) -> Array:
    """True for the rows to keep: the first row of every time stamp. Raises ``Refused`` naming the row where time runs
    backwards or is missing; ``line`` says what a row counted from 0 is called."""
    if not len(time_s):
        raise refuse("time", "there are no rows", "at least one")
    missing = ~np.isfinite(time_s)
    if missing.any():
        raise refuse("time", f"row {line(int(np.argmax(missing)))} has no time", "a time in every row")
    step = np.diff(time_s)
    backwards = step < 0
    if backwards.any():
        row = int(np.argmax(backwards)) + 1
        raise refuse(
            "time",
            f"time runs backwards at row {line(row)}: {quantity(-step[row - 1], 's', '.3g')} before the row above it "
            f"({int(backwards.sum())} such rows in all)",
            "rows in order of time; check the time column, or sort the file",
        )
    return np.concatenate(([True], step > 0))


def timing(time_s: Array, duplicates: int = 0) -> Timing:
    """The real sampling of a rising time column."""
    step = np.diff(time_s)
    if not len(step):
        return Timing(0.0, duplicates, 0)
    least, most = float(step.min()), float(step.max())
    interval = least if least == most else float(np.median(step))  # a clock without faults needs no sorting
    return Timing(interval, duplicates, int(np.sum(step > GAP * interval)))
