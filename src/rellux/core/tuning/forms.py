"""The forms a process is looked for in: one lag with dead time, and what it may have besides, as a multiple of its lag."""

from dataclasses import dataclass, replace

import numpy as np

FIRST, SECOND, COOLING, WALLS = range(4)
"""One lag; a second one behind it; another lag while nothing heats; walls that warm up beside it, and add to the gain in time."""
OFF = 0.5
"""An output up to which nothing heats, %."""

SHARES = (0.02, 0.05, 0.1, 0.2, 0.35, 0.55, 0.8, 1.0)
"""Second lags that are tried, as a share of the first."""
COOLS = (0.15, 0.25, 0.4, 0.6, 0.8, 1.25, 1.6, 2.5, 4.0, 6.0)
"""Lags of cooling that are tried, as multiples of that of heating (our choice)."""
WARM = (15.0, 40.0, 100.0, 300.0)
"""Lags of walls that are tried, as multiples of the chamber's (our choice)."""
ENDS = {SECOND: (0.0, 1.0), COOLING: (0.08, 12.0), WALLS: (10.0, 1000.0)}
"""What is looked for of each."""
TRIED = {SECOND: SHARES, COOLING: COOLS, WALLS: WARM}
SLOWER, MOSTLY = 1.2, 5.0
"""Walls are told from a second lag where their lag is so many times the least that is looked for, and where they add no more than so many
times what comes at once (our choice, by simulated rigs: tests/core/tuning/test_predicted)."""
COSTS = {FIRST: 0, SECOND: 1, COOLING: 1, WALLS: 2}
"""Parameters more than one lag has (Schwarz 1978)."""
GIVES_BACK = 0.6
"""What a second lag takes of the dead time (between half and all of it)."""


@dataclass(frozen=True)
class Place:
    """A model without its gain: its form, ln τ, what it has besides as a multiple of τ, L in s."""

    ln_lag: float
    dead_s: float
    form: int = FIRST
    extra: float = 0.0

    @property
    def lag_s(self) -> float:
        return float(np.exp(self.ln_lag))

    @property
    def extra_s(self) -> float:
        """The second lag, that of cooling or that of the walls, s."""
        return self.extra * self.lag_s

    @property
    def model(self) -> tuple[int, float, float, float]:
        """Form, τ in s, what it has besides as a multiple of it, L in s."""
        return self.form, self.lag_s, self.extra, self.dead_s

    @property
    def lasts_s(self) -> float:
        """Its own time: lag, second lag and dead time."""
        return self.lag_s + self.dead_s + (self.extra_s if self.form == SECOND else 0.0)

    @property
    def free(self) -> float:
        """What it has besides as it is varied: a share, or the logarithm of a multiple."""
        return self.extra if self.form == SECOND else float(np.log(self.extra))

    @property
    def free_ends(self) -> tuple[float, float]:
        low, high = ENDS[self.form]
        return (low, high) if self.form == SECOND else (float(np.log(low)), float(np.log(high)))

    @property
    def is_looked_for(self) -> bool:
        """What it has besides is within its ends."""
        return self.form == FIRST or ENDS[self.form][0] <= self.extra <= ENDS[self.form][1]

    def freed(self, free: float) -> "Place":
        """With another of it, held within its ends; what a second lag takes it takes from the dead time."""
        low, high = self.free_ends
        free = min(max(free, low), high)
        if self.form != SECOND:
            return replace(self, extra=float(np.exp(free)))
        back = GIVES_BACK * (self.extra - free) * self.lag_s
        return replace(self, extra=free, dead_s=max(self.dead_s + back, 0.0))
