"""Rows that are missing from a run, and what may have happened meanwhile: no more than twice the quickest change seen
allows."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..messages import spoken_time
from .series import GAP

Array = NDArray[np.float64]

OVER_ROWS = 10
"""The quickest change is looked for over so many rows, so that it is none of the noise (our choice)."""
QUICKER = 2.0
"""So many times as quick as what was seen it may have been where nobody saw it (our choice)."""
SAID = " Rows are missing meanwhile: it may be {}."


def is_gap(t: Array) -> NDArray[np.bool_]:
    """Of the steps between rows at times ``t`` s (n), which are longer than rows are apart (n − 1).

    >>> is_gap(np.array([0.0, 1.0, 2.0, 3.0, 60.0, 61.0])).tolist()
    [False, False, False, True, False]
    """
    step = np.diff(t)
    return np.asarray(step > GAP * np.median(step)) if len(step) else np.zeros(0, dtype=bool)


@dataclass(frozen=True)
class Lost:
    """Readings ``y`` °C at times ``t`` s (n), and the rows ``after`` which rows are missing."""

    t: Array
    y: Array
    after: NDArray[np.intp]

    @classmethod
    def of(cls, t: Array, y: Array) -> "Lost":
        """Of readings ``y`` °C at times ``t`` s, shapes (n,)."""
        return cls(t, y, np.flatnonzero(is_gap(t)))

    def __bool__(self) -> bool:
        return len(self.after) > 0

    def within(self, first: int, last: int) -> bool:
        """Whether rows are missing between two rows."""
        return bool(np.any((self.after >= first) & (self.after < last)))

    def may_have_passed(self, level_c: float, sign: int, until: int) -> int | None:
        """The row after which, with rows missing before row ``until``, it may first have passed a level, from below (``sign`` +1) or from
        above, and have come back to where it is seen next; ``None`` where it cannot have been so quick."""
        short = sign * (level_c - self.y)
        for i in self.after[self.after < until]:
            way = max(short[i], 0.0) + max(short[i + 1], 0.0)
            if way <= self._quickest * (self.t[i + 1] - self.t[i]):
                return int(i)
        return None

    @cached_property
    def _quickest(self) -> float:
        """What it may have been at the most, °C/s: also across what is missing it moved at least from one end to the other."""
        rows = min(OVER_ROWS, len(self.t) - 1)
        slopes = np.abs(self.y[rows:] - self.y[:-rows]) / (self.t[rows:] - self.t[:-rows])
        across = np.abs(np.diff(self.y) / np.diff(self.t))[self.after]
        return QUICKER * float(max(slopes.max(initial=0.0), across.max(initial=0.0)))

    @property
    def says(self) -> str:
        """How long in all, in a sentence; empty where nothing is missing."""
        if not self:
            return ""
        long, times = float(np.sum(np.diff(self.t)[self.after])), len(self.after)
        often = f"{times} times, for {spoken_time(long)} in all" if times > 1 else f"for {spoken_time(long)}"
        return f"Rows are missing {often}: what happened then is in none of these figures."
