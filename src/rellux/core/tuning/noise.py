"""What a reading does by itself, and how it is varied to find the likeliest."""

from dataclasses import dataclass
from math import exp, log

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

LEAST_NOISE_C, MOST_NOISE_C = 1e-3, 1e3
"""Noise that is looked for, °C (our choice)."""
CALM, WILD = 0.003, 8.0
"""How much of an ordinary room's wandering may be there, at least and at most (our choice)."""
MOST_CORRELATED, FAR = 0.998, 9.0
LEAST_ROUNDED = 0.02
"""The least noise that is looked for under a display that rounds, as a share of its step (our choice)."""


@dataclass(frozen=True)
class Noise:
    """What the reading does by itself: ``slow_c`` and ``white_c`` standard deviations, °C, the slow part correlated by ``correlation``
    from one row to the next; ``wander``: how much of an ordinary room's wandering the surroundings show. ``quantum``: the display rounds
    to so much, °C, and that matters (0: it does not)."""

    slow_c: float
    white_c: float
    correlation: float
    wander: float
    quantum: float = 0.0

    @property
    def for_kernel(self) -> tuple[float, float, float, float]:
        """Variance, correlation, the white part as a share of that variance, and the quantum."""
        variance = max(self.slow_c, LEAST_NOISE_C) ** 2
        return variance, self.correlation, self.white_c**2 / variance, self.quantum

    @property
    def total_c(self) -> float:
        """Standard deviation of one reading, °C."""
        return float(np.hypot(self.slow_c, self.white_c))

    @property
    def quick_c(self) -> float:
        """The same from one row to the next: without what stays."""
        return float(np.hypot(self.slow_c * np.sqrt(1.0 - self.correlation), self.white_c))

    @property
    def worth(self) -> float:
        """How many independent readings one row is worth, as far as slow changes go."""
        rho, slow, white = self.correlation, self.slow_c**2, self.white_c**2
        return (slow + white) / (slow * (1.0 + rho) / (1.0 - rho) + white)


def packed(noise: Noise) -> Array:
    """As free parameters: logarithms, and the correlation's logit; of noise that is rounded only its size and the wandering."""
    wander = np.log(np.clip(noise.wander, 1.01 * CALM, 0.99 * WILD))
    if noise.quantum:
        least, most = (1.01 * LEAST_ROUNDED * noise.quantum, 1.98 * noise.quantum)
        return np.array([np.log(np.clip(noise.slow_c, least, most)), wander])
    slow, white = np.log(np.clip((noise.slow_c, noise.white_c), 1.01 * LEAST_NOISE_C, 0.99 * MOST_NOISE_C))
    rho = np.clip(noise.correlation / MOST_CORRELATED, 1e-3, 1.0 - 1e-3)
    return np.array([slow, white, np.log(rho / (1.0 - rho)), wander])


def unpacked(p: Array, quantum: float) -> Noise | None:
    """The noise of free parameters; ``None`` for such as is not looked for.
    ``quantum``: one digit of the reading, °C.
    """
    ln_wander = float(p[-1])
    if not log(CALM) <= ln_wander <= log(WILD):
        return None
    wander = exp(ln_wander)
    if quantum:
        ln_size = float(p[0])
        rounds = log(LEAST_ROUNDED * quantum) <= ln_size <= log(2.0 * quantum)
        return Noise(exp(ln_size), 0.0, 0.0, wander, quantum) if rounds else None
    slow, white, logit = float(p[0]), float(p[1]), float(p[2])
    if min(slow, white) < log(LEAST_NOISE_C) or max(slow, white) > log(MOST_NOISE_C) or abs(logit) > FAR:
        return None
    return Noise(exp(slow), exp(white), MOST_CORRELATED / (1.0 + exp(-logit)), wander)
