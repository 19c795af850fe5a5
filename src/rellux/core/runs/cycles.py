"""Whether a reading cycles, and which cycles are whole: the ripple of a loop told from the noise of a display."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

LEAST_CYCLE_ROWS = 6
"""Rows that can hold a cycle (our choice)."""
ABOVE_NOISE = 6.0
"""Swing over the standard deviation of the noise from which it is one: noise alone fills about 3.3 between its 5th and 95th
percentile (normal distribution)."""
EVEN = 0.5
"""Relative spread of the cycles' lengths beyond which they are no cycle (our choice)."""
COVERS = 0.4
"""Share of the stretch that cycles must fill: a door opened once swings twice and is no cycle (our choice)."""
GUARD, GUARD_NOISE = 0.1, 2.5
"""Share of the swing, and standard deviations of the noise, a reading must pass the middle by to have crossed it."""
ENDS = (5.0, 95.0)
MEDIAN_OF_NORMAL = 0.6745
"""Median of the absolute value of a normal distribution, in its standard deviations."""

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Cycles:
    """Rows at which the reading crosses its middle upwards, and the usual swing from trough to peak, in the reading's unit."""

    at: NDArray[np.int64]
    swing: float

    def __len__(self) -> int:
        return max(len(self.at) - 1, 0)

    def period(self, t: Array) -> float:
        """The usual length of a whole cycle, in the unit of ``t``: the median, because one with rows missing may be several."""
        return float(np.median(np.diff(t[self.at])))


NO_CYCLES = Cycles(np.empty(0, dtype=np.int64), 0.0)


def noise_of(y: Array) -> float:
    """Standard deviation of white noise on a smooth reading: from its second differences, by their median (a jump does not count)."""
    if len(y) < LEAST_CYCLE_ROWS:
        return 0.0
    return float(np.median(np.abs(np.diff(y, 2))) / MEDIAN_OF_NORMAL / 6.0**0.5)


def cycles_of(t: Array, y: Array) -> Cycles:
    """The cycles of a steady stretch; none where what moves is noise, or comes at no even pace."""
    if len(y) < LEAST_CYCLE_ROWS:
        return NO_CYCLES
    low, high = np.percentile(y, ENDS)
    noise = noise_of(y)
    if high - low < ABOVE_NOISE * noise or high <= low:
        return NO_CYCLES
    middle, guard = (low + high) / 2.0, max(GUARD * (high - low), GUARD_NOISE * noise)
    state = np.where(y > middle + guard, 1, np.where(y < middle - guard, -1, 0))
    decided = np.flatnonzero(state)
    up = decided[np.flatnonzero(np.diff(state[decided]) == 2) + 1]
    if len(up) < 2:
        return NO_CYCLES
    lengths = np.diff(t[up])
    if t[up[-1]] - t[up[0]] < COVERS * (t[-1] - t[0]):
        return NO_CYCLES
    if len(lengths) > 1 and np.std(lengths) > EVEN * np.mean(lengths):
        return NO_CYCLES
    swings = [float(np.ptp(y[a : b + 1])) for a, b in pairwise(up)]
    return Cycles(np.asarray(up, dtype=np.int64), float(np.median(swings)))
