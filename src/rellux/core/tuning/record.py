"""A stretch made ready to be explained: what is known of every linear part beforehand, and the noise it has."""

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import scipy
from numpy.typing import NDArray

from .drift import Drift
from .likelihood import columns_into, fit_at, fits_at
from .stretch import Changes, Stretch, is_cold

Array = NDArray[np.float64]

AMBIENT_SURE_C, AMBIENT_SHARE, START_SURE_C = 2.0, 0.25, 5.0
"""How sure the told ambient is, °C, or as a share of the way up (a gain that changes with temperature moves where the straight line
ends); and the first reading."""
LEAST_NOISE_C, MOST_NOISE_C, USUAL_NOISE_C = 1e-3, 1e3, 0.05
"""Noise that is looked for, and what is begun with, °C (our choice)."""
CALM, WILD = 0.003, 8.0
"""How much of an ordinary room's wandering may be there, at least and at most (our choice)."""
MOST_CORRELATED = 0.998
STARTS = ((0.1, 0.01), (0.8, 0.02), (0.1, 1.0), (0.95, 0.3))
"""(correlation from row to row, how much the surroundings wander) from which the noise is sought."""
LOOKS, NEAR, FAR = 120, 0.05, 9.0
IMPOSSIBLE = 1e12
WHOLE = 1e-3
ROUNDS, COARSE, LEAST_ROUNDED = 1.0, 0.004, 0.02
"""Where the display rounds to more than the noise as it seems, and to more than that share of the travel, that matters; the least noise
that is looked for under it, as a share of its step (our choice)."""


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


@dataclass(frozen=True)
class Fit:
    """One (τ, τ₂, L): its deviance, the same with all that is linear integrated out, the gain with its variance, all coefficients."""

    deviance: float
    marginal: float
    gain: float
    variance: float
    theta: Array


class Record:
    """Rows ``t`` (n) s, ``y`` (n) °C, and the output by its changes."""

    def __init__(self, t: Array, y: Array, changes: Changes, stretch: Stretch) -> None:
        self.t, self.y, self.changes, self.stretch = t, y, changes, stretch
        self.cold = changes.before in (None, 0.0) and is_cold(stretch, y)
        self.unknown = changes.before is None and not self.cold
        self.drift = Drift(t - t[0])
        start = float(np.median(y[:3]))
        sure = max(AMBIENT_SURE_C, AMBIENT_SHARE * abs(start - stretch.ambient_c))
        levels = [(start, START_SURE_C)] if self.cold else [(start, START_SURE_C), (stretch.ambient_c, sure)]
        ways, before = self.drift.sure_c, [(0.0, np.inf)] if self.unknown else []
        linear = [(0.0, np.inf), *levels, *((0.0, sd) for sd in ways), *before]
        self.expected, self.sure = (np.array(column) for column in zip(*linear, strict=True))
        self.ways = slice(1 + len(levels), 1 + len(levels) + len(ways))
        self._x = np.empty((len(linear) + 1, len(t)))

    @property
    def span_s(self) -> float:
        return float(self.t[-1] - self.t[0])

    @cached_property
    def usual_s(self) -> float:
        """From one row to the next, as a rule."""
        return float(np.median(np.diff(self.t)))

    @cached_property
    def _output(self) -> tuple[Array, Array, float, bool, bool, Array, Array, Array]:
        c = self.changes
        return (c.times_s, c.values, c.before or 0.0, self.cold, self.unknown, *self.drift.waves, self.drift.speeds)

    @cached_property
    def _rows(self) -> tuple[object, ...]:
        return (self.t, self.y, np.append(1.0, np.diff(self.t) / self.usual_s), *self._output)

    def _known(self, wander: float) -> tuple[Array, Array]:
        sure = self.sure.copy()
        sure[self.ways] *= wander
        return self.expected, sure**-2.0

    @cached_property
    def quantum_c(self) -> float:
        """The step of the display: the smallest difference of two readings, where all of them are whole steps of it apart; else 0."""
        apart = np.unique(np.round(np.abs(np.diff(np.unique(self.y))), 6))
        apart = apart[apart > 0]
        if not len(apart):
            return 0.0
        whole = apart / apart[0]
        return float(apart[0]) if np.abs(whole - np.round(whole)).max() < WHOLE else 0.0

    @property
    def is_coarse(self) -> bool:
        """The display's step is no small part of the travel."""
        return self.quantum_c >= COARSE * float(np.ptp(self.y))

    def thinned(self, most: int) -> "Record":
        """The same with fewer readings; what the output did stays whole."""
        every = len(self.t) // most + 1
        return self if every == 1 else Record(self.t[::every], self.y[::every], self.changes, self.stretch)

    def until(self, end_s: float) -> "Record":
        """Its rows up to a time."""
        kept = self.t <= end_s
        return Record(self.t[kept], self.y[kept], self.changes, self.stretch)

    def at(self, noise: Noise, lag: float, second: float, dead: float) -> Fit:
        """How one (τ, τ₂, L) explains the record."""
        known = self._known(noise.wander)
        deviance, logdet, variance, theta = fit_at(self._rows, known, noise.for_kernel, lag, second, dead, self._x)
        marginal = deviance + logdet - float(np.log(known[1][self.ways]).sum())
        return Fit(deviance, marginal, float(theta[0]), variance, theta)

    def over(self, noise: Noise, lags: Array, seconds: Array, deads: Array) -> Array:
        """(n, 4): deviance, ln |A|, gain and its variance at every (τ, τ₂, L)."""
        return np.asarray(
            fits_at(self._rows, self._known(noise.wander), noise.for_kernel, lags, seconds, deads, self._x)
        )

    def modelled(self, theta: Array, lag: float, second: float, dead: float) -> Array:
        """What a model with these coefficients says the reading was, (n)."""
        x = np.empty_like(self._x)
        times, values, before, cold, unknown, sine, cosine, speeds = self._output
        rows = columns_into(
            x, self.t, times, values, before, cold, unknown and dead > 0, sine, cosine, speeds, lag, second, dead
        )
        return np.asarray(theta[:rows] @ x[:rows])

    def first_noise(self) -> Noise:
        """White, as large as the reading moves from row to row: to begin with."""
        return Noise(max(float(np.std(np.diff(self.y, 2))) / 6.0**0.5, USUAL_NOISE_C), 0.0, 0.0, 1.0)

    def noise_at(self, lag: float, second: float, dead: float, first: Noise) -> Noise:
        """The noise under which the record is likeliest at this model, all that is linear integrated out. Where the display rounds to more
        than the reading moves by itself, that is taken for what it is."""
        if first.quantum:
            start = replace(first, slow_c=min(first.slow_c, first.quantum), wander=2.0 * CALM)
            return self._likeliest((lag, second, dead), [start], LOOKS // 2)
        size = max(first.total_c, USUAL_NOISE_C / 2.0)
        ways = STARTS if not first.correlation else ((first.correlation, first.wander),)
        noise = self._likeliest(
            (lag, second, dead), [Noise(size, size / 2.0, rho, wander) for rho, wander in ways], LOOKS
        )
        quantum = self.quantum_c
        if quantum > ROUNDS * noise.total_c and not self.is_coarse:
            return replace(noise, white_c=max(noise.white_c, quantum / 12.0**0.5))  # fine steps are as good as noise
        if quantum > ROUNDS * noise.total_c:
            rounded = Noise(min(noise.total_c, quantum), 0.0, 0.0, 2.0 * CALM, quantum)
            return self._likeliest((lag, second, dead), [rounded], LOOKS // 2)
        return noise

    def _likeliest(self, model: tuple[float, float, float], starts: list[Noise], looks: int) -> Noise:
        def unlikely(p: Array) -> float:
            noise = unpacked(p, starts[0].quantum)
            return IMPOSSIBLE if noise is None else self.at(noise, *model).marginal

        options = {"maxiter": looks, "xatol": NEAR, "fatol": NEAR}
        found = [scipy.optimize.minimize(unlikely, packed(s), method="Nelder-Mead", options=options) for s in starts]
        best = unpacked(min(found, key=lambda f: float(f.fun)).x, starts[0].quantum)
        assert best is not None
        return best


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
    """The noise of free parameters; ``None`` for such as is not looked for."""
    if not np.log(CALM) <= p[-1] <= np.log(WILD):
        return None
    wander = float(np.exp(p[-1]))
    if quantum:
        size = float(np.exp(p[0]))
        return Noise(size, 0.0, 0.0, wander, quantum) if LEAST_ROUNDED * quantum <= size <= 2.0 * quantum else None
    if min(p[:2]) < np.log(LEAST_NOISE_C) or max(p[:2]) > np.log(MOST_NOISE_C) or abs(p[2]) > FAR:
        return None
    return Noise(float(np.exp(p[0])), float(np.exp(p[1])), float(MOST_CORRELATED / (1.0 + np.exp(-p[2]))), wander)
