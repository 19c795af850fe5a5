"""A stretch made ready to be explained: what is known of every linear part beforehand, and the noise it has."""

from dataclasses import dataclass, replace
from functools import cached_property
from math import log
from typing import cast

import numpy as np
import scipy
from numpy.typing import NDArray

from .drift import Drift
from .forms import WALLS
from .likelihood import columns_into, fit_at, fits_at
from .noise import CALM, Noise, packed, unpacked
from .stretch import Changes, Stretch, is_cold

Array = NDArray[np.float64]

AMBIENT_SURE_C, AMBIENT_SHARE, START_SURE_C = 2.0, 0.25, 5.0
"""How sure the told ambient is, °C, or as a share of the way up (a gain that changes with temperature moves where the straight line
ends); and the first reading."""
USUAL_NOISE_C = 0.05
"""Noise that is begun with, °C (our choice)."""
STARTS = ((0.1, 0.01), (0.8, 0.02), (0.1, 1.0), (0.95, 0.3))
"""(correlation from row to row, how much the surroundings wander) from which the noise is sought."""
LOOKS, NEAR = 120, 0.05
IMPOSSIBLE = 1e12
WALLS_ADD = 3.0
"""How much walls may add to the gain beforehand, as a multiple of the travel for each percent that the output moved (our choice)."""
WHOLE = 1e-3
ROUNDS, COARSE = 1.0, 0.004
"""Where the display rounds to more than the noise as it seems, and to more than that share of the travel, that matters (our choice)."""


@dataclass(frozen=True)
class Fit:
    """One model: its deviance, the gain with its variance, and of every stretch all coefficients, with their covariance while the gain is
    free."""

    deviance: float
    gain: float
    variance: float
    thetas: tuple[Array, ...]
    covariances: tuple[Array, ...]


class Record:
    """Rows ``t`` (n) s, ``y`` (n) °C of one stretch, and the output by its changes; ``usual_s``: of the rows of all."""

    def __init__(self, t: Array, y: Array, changes: Changes, stretch: Stretch, usual_s: float) -> None:
        self.t, self.y, self.changes, self.stretch, self.usual_s = t, y, changes, stretch, usual_s
        self.cold = changes.before in (None, 0.0) and is_cold(stretch, y)
        self.unknown = changes.before is None and not self.cold
        self.drift = Drift(t - t[0])
        start = float(np.median(y[:3]))
        far = abs(start - stretch.ambient_c)
        sure = max(AMBIENT_SURE_C, AMBIENT_SHARE * far)
        levels = [(start, START_SURE_C)] if self.cold else [(start, START_SURE_C), (stretch.ambient_c, sure)]
        ways, before = self.drift.sure_c, [(0.0, np.inf)] if self.unknown else []
        moved = max(float(np.ptp(np.append(changes.values, changes.before or 0.0))), 1.0)
        walls = [(0.0, WALLS_ADD * float(np.ptp(y)) / moved)]
        walls += [] if self.cold else [(0.0, START_SURE_C + AMBIENT_SHARE * far)]
        self.ways = slice(1 + len(levels), 1 + len(levels) + len(ways))
        self.warms = self.ways.stop
        """Where what the walls add stands among the coefficients, in a form that has them."""
        linear = [(0.0, np.inf), *levels, *((0.0, sd) for sd in ways)]
        self._plain = _beforehand([*linear, *before])
        self._walled = _beforehand([*linear, *walls, *before])
        self._x = np.empty((len(self._walled[0]) + 1, len(t)))

    @property
    def span_s(self) -> float:
        return float(self.t[-1] - self.t[0])

    @cached_property
    def _output(self) -> tuple[Array, Array, float, bool, bool, Array, Array, Array]:
        c = self.changes
        return (c.times_s, c.values, c.before or 0.0, self.cold, self.unknown, *self.drift.waves, self.drift.speeds)

    @cached_property
    def _rows(self) -> tuple[object, ...]:
        return (self.t, self.y, np.append(1.0, np.diff(self.t) / self.usual_s), *self._output)

    def known(self, form: int, wander: float) -> tuple[Array, Array]:
        """(expected, precision) of every coefficient beforehand."""
        expected, precision = self._walled if form == WALLS else self._plain
        precision = precision.copy()
        precision[self.ways] /= wander * wander
        return expected, precision

    @cached_property
    def _proper(self) -> tuple[float, float]:
        """ln of the precision of what is known beforehand in a way that goes with the noise or the form: it counts in what is integrated
        out. Without walls and with them, of a room that wanders as usual."""
        walls = len(self._walled[0]) - len(self._plain[0])
        of = (self._plain[1][self.ways], self._walled[1][self.ways.start : self.ways.stop + walls])
        plain, walled = (float(np.log(precision).sum()) for precision in of)
        return plain, walled

    def known_beforehand(self, form: int, wander: float) -> float:
        """ln of the precision that counts in what is integrated out."""
        return self._proper[form == WALLS] - 2.0 * (self.ways.stop - self.ways.start) * log(wander)

    def fit(self, noise: Noise, form: int, lag: float, extra: float, dead: float) -> tuple[float, float, Array, Array]:
        """(deviance, ln |A|, A⁻¹, coefficients)."""
        known = self.known(form, noise.wander)
        found = fit_at(self._rows, known, noise.for_kernel, form, lag, extra, dead, self._x)
        return cast(tuple[float, float, Array, Array], found)

    def over(self, noise: Noise, form: int, lags: Array, extras: Array, deads: Array) -> Array:
        """(n, 4): deviance, ln |A|, gain and its variance."""
        known = self.known(form, noise.wander)
        return np.asarray(fits_at(self._rows, known, noise.for_kernel, form, lags, extras, deads, self._x))

    def modelled(self, theta: Array, form: int, lag: float, extra: float, dead: float) -> Array:
        """What a model with these coefficients says the reading was, (n)."""
        x = np.empty_like(self._x)
        times, values, before, cold, unknown, *ways = self._output
        rows = columns_into(x, self.t, times, values, before, cold, unknown and dead > 0, *ways, form, lag, extra, dead)
        return np.asarray(theta[:rows] @ x[:rows])

    def until(self, end_s: float) -> "Record":
        """Its rows up to a time."""
        kept = self.t <= end_s
        return Record(self.t[kept], self.y[kept], self.changes, self.stretch, self.usual_s)


class Records:
    """One stretch or several of one process: gain, times and noise are the same in all, where each began and its surroundings are its own.
    Of each the deviance is a parabola in the gain, so that all together are one too."""

    def __init__(self, parts: tuple[Record, ...]) -> None:
        self.parts = parts

    @classmethod
    def of(cls, parts: "list[tuple[Array, Array, Changes, Stretch]]") -> "Records":
        """(times, readings, changes, stretch) of every stretch."""
        usual_s = float(np.median(np.concatenate([np.diff(t) for t, *_ in parts])))
        return cls(tuple(Record(*part, usual_s) for part in parts))

    @property
    def span_s(self) -> float:
        """Of the longest stretch."""
        return max(p.span_s for p in self.parts)

    @property
    def usual_s(self) -> float:
        """From one row to the next, as a rule."""
        return self.parts[0].usual_s

    @property
    def rows_apart_s(self) -> float:
        """How much further apart the rows of one stretch are than those of another: so much an output may have changed before its row, in
        one and not in the other."""
        usual = [float(np.median(np.diff(p.t))) for p in self.parts]
        return max(usual) - min(usual)

    @property
    def rows(self) -> int:
        return sum(len(p.t) for p in self.parts)

    @property
    def cycle_s(self) -> float:
        """The usual time from one rise of the output to the next, s; 0 where it hardly cycles."""
        return max(p.changes.cycle_s for p in self.parts)

    @property
    def travel_c(self) -> float:
        return max(float(np.ptp(p.y)) for p in self.parts)

    @cached_property
    def quantum_c(self) -> float:
        """The step of the display: the smallest difference of two readings, where all of them are whole steps of it apart; else 0."""
        apart = np.unique(np.round(np.concatenate([np.diff(np.unique(p.y)) for p in self.parts]), 6))
        apart = apart[apart > 0]
        if not len(apart):
            return 0.0
        whole = apart / apart[0]
        return float(apart[0]) if np.abs(whole - np.round(whole)).max() < WHOLE else 0.0

    @property
    def is_coarse(self) -> bool:
        """The display's step is no small part of the travel."""
        return self.quantum_c >= COARSE * self.travel_c

    def thinned(self, most: int) -> "Records":
        """The same with fewer readings; what the output did stays whole."""
        every = self.rows // most + 1
        if every == 1:
            return self
        return Records.of([(p.t[::every], p.y[::every], p.changes, p.stretch) for p in self.parts])

    def until(self, share: float) -> "Records":
        """The same with the first share of the last stretch only."""
        last = self.parts[-1]
        return Records((*self.parts[:-1], last.until(float(last.t[0]) + share * last.span_s)))

    def at(self, noise: Noise, form: int, lag: float, extra: float, dead: float) -> Fit:
        """How one model explains all of it."""
        found = [p.fit(noise, form, lag, extra, dead) for p in self.parts]
        deviance, _, gain, variance = _as_one(found)
        thetas = tuple(theta + _pulled(inverse, gain - theta[0], len(theta)) for _, _, inverse, theta in found)
        return Fit(deviance, gain, variance, thetas, tuple(f[2] for f in found))

    def marginal(self, noise: Noise, form: int, lag: float, extra: float, dead: float) -> float:
        """The deviance of one model with all that is linear integrated out."""
        deviance, logdet, *_ = _as_one([p.fit(noise, form, lag, extra, dead) for p in self.parts])
        return deviance + logdet - sum(p.known_beforehand(form, noise.wander) for p in self.parts)

    def over(self, noise: Noise, form: int, lags: Array, extras: Array, deads: Array) -> Array:
        """(n, 4): deviance, ln |A|, gain and its variance at every model."""
        return _together(np.array([p.over(noise, form, lags, extras, deads) for p in self.parts]))

    def first_noise(self) -> Noise:
        """White, as large as the reading moves from row to row: to begin with."""
        moves = np.concatenate([np.diff(p.y, 2) for p in self.parts])
        return Noise(max(float(np.std(moves)) / 6.0**0.5, USUAL_NOISE_C), 0.0, 0.0, 1.0)

    def noise_at(self, model: tuple[int, float, float, float], first: Noise) -> Noise:
        """The noise under which the record is likeliest at this model, all that is linear integrated out. Where the display rounds to more
        than the reading moves by itself, that is taken for what it is."""
        if first.quantum:
            start = replace(first, slow_c=min(first.slow_c, first.quantum), wander=2.0 * CALM)
            return self._likeliest(model, [start], LOOKS // 2)
        size = max(first.total_c, USUAL_NOISE_C / 2.0)
        ways = STARTS if not first.correlation else ((first.correlation, first.wander),)
        noise = self._likeliest(model, [Noise(size, size / 2.0, rho, wander) for rho, wander in ways], LOOKS)
        quantum = self.quantum_c
        if quantum > ROUNDS * noise.total_c and not self.is_coarse:
            return replace(noise, white_c=max(noise.white_c, quantum / 12.0**0.5))  # fine steps are as good as noise
        if quantum > ROUNDS * noise.total_c:
            rounded = Noise(min(noise.total_c, quantum), 0.0, 0.0, 2.0 * CALM, quantum)
            return self._likeliest(model, [rounded], LOOKS // 2)
        return noise

    def _likeliest(self, model: tuple[int, float, float, float], starts: list[Noise], looks: int) -> Noise:
        def unlikely(p: Array) -> float:
            noise = unpacked(p, starts[0].quantum)
            return IMPOSSIBLE if noise is None else self.marginal(noise, *model)

        options = {"maxiter": looks, "xatol": NEAR, "fatol": NEAR}
        found = [scipy.optimize.minimize(unlikely, packed(s), method="Nelder-Mead", options=options) for s in starts]
        best = unpacked(min(found, key=lambda f: float(f.fun)).x, starts[0].quantum)
        assert best is not None
        return best


def _beforehand(levels: list[tuple[float, float]]) -> tuple[Array, Array]:
    """(expected, precision) of coefficients of which the expected value and its standard deviation are given."""
    expected, sure = (np.array(column) for column in zip(*levels, strict=True))
    return expected, sure**-2.0


def _as_one(found: list[tuple[float, float, Array, Array]]) -> tuple[float, float, float, float]:
    """(deviance, ln |A|, gain, its variance) of all stretches under one gain."""
    if len(found) == 1:
        deviance, logdet, inverse, theta = found[0]
        return deviance, logdet, float(theta[0]), float(inverse[0, 0])
    each = np.array([[deviance, logdet, theta[0], inverse[0, 0]] for deviance, logdet, inverse, theta in found])
    deviance, logdet, gain, variance = (float(v) for v in _together(each[:, None, :])[0])
    return deviance, logdet, gain, variance


def _together(each: Array) -> Array:
    """(n, 4) of (stretches, n, 4): deviance, ln |A|, gain and its variance of all under one gain."""
    if len(each) == 1:
        return np.asarray(each[0])
    deviance, logdet, gain, variance = (each[..., i] for i in range(4))
    weight = 1.0 / variance
    total = weight.sum(axis=0)
    one = (weight * gain).sum(axis=0) / total
    apart = deviance.sum(axis=0) + (weight * (gain - one) ** 2).sum(axis=0)
    return np.stack((apart, (logdet + np.log(variance)).sum(axis=0) + np.log(total), one, 1.0 / total), axis=-1)


def _pulled(inverse: Array, by: float, size: int) -> Array:
    """What the other coefficients do when the gain is held so far from where it was best."""
    moved = np.zeros(size)
    moved[: len(inverse)] = inverse[:, 0] * (by / inverse[0, 0])
    return moved
