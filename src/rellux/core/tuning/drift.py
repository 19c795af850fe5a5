"""How the surroundings wander during a record, where nobody measured them: a few slow ways, each known beforehand to be small.

The ambient is taken as a random walk from where it was at the beginning, R = ``ROOM_C √hours`` at the end (one standard
deviation). Its first Karhunen-Loève modes are ``√2 sin((k − ½) π s)``, s the share of the record, of standard deviation
``R/((k − ½) π)`` (Loève, Probability Theory II, 4th ed., § 37). A first-order process answers ``sin ω t`` from rest with
``(sin ω t − ω τ cos ω t + ω τ e^(−t/τ))/(1 + ω² τ²)``.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

ROOM_C = 2.0
"""How far a room ordinarily wanders in an hour, and more with the root of time, °C (our choice)."""
WAYS = 4
"""Modes."""

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Drift:
    """The ways the surroundings can wander over a record; ``since_s`` its times from its first row, s."""

    since_s: Array

    @cached_property
    def _halves(self) -> Array:
        """(k − ½) π of every way."""
        return np.asarray((np.arange(WAYS) + 0.5) * np.pi)

    @property
    def sure_c(self) -> tuple[float, ...]:
        """How large each way is beforehand, one standard deviation, °C."""
        hours = float(self.since_s[-1]) / 3600.0
        return tuple(float(v) for v in ROOM_C * np.sqrt(hours) / self._halves)

    @property
    def speeds(self) -> Array:
        """How fast each way goes, rad/s."""
        return np.asarray(self._halves / max(float(self.since_s[-1]), 1e-9))

    @cached_property
    def waves(self) -> tuple[Array, Array]:
        angle = np.outer(self._halves, self.since_s / max(float(self.since_s[-1]), 1e-9))
        return np.sqrt(2.0) * np.sin(angle), np.sqrt(2.0) * np.cos(angle)

    def furthest(self, sizes: Array) -> float:
        """The furthest the surroundings went from where they were at the beginning, °C with its sign."""
        course = sizes @ self.waves[0]
        return float(course[np.argmax(np.abs(course))])
