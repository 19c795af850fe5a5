"""A furnace learnt from a record: the likeliest of its numbers, and others that would have given the same record.

One reading does not tell all of them; those it says nothing of keep what is known of the kind. So that what is predicted holds it all, each
other furnace is the likeliest of the record with other noise on it and with other numbers expected (randomised maximum likelihood: Oliver,
He & Reynolds 1996; exact where a model is linear).
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import scipy
from numpy.typing import NDArray

from ..likelihood import whiten
from ..noise import LEAST_NOISE_C, Noise, packed, unpacked
from ..record import IMPOSSIBLE
from .record import ITS_OWN, FurnaceRecord
from .shape import Shape

Array = NDArray[np.float64]

OTHERS = 18
WIDENED = 24.0
"""No network is the furnace: what the others may miss the record by, in times of its noise (our choice, by simulated kilns of another
build: tests/core/tuning/test_furnace)."""
ROUNDS = 3
"""Times that noise and furnace are found in turns."""
MOST_LOOKS, FEWER_LOOKS, SMALL, NEAR = 60, 3, 1e-3, 1e-4
REACH = 5.0
"""What is varied is held within so many of the widths it has beforehand."""
BEGINS_C = 10.0
"""Noise that is begun with, °C: so much is missed at first (our choice)."""
LASTING, LOOKS = (0.3, 0.9), {"maxiter": 200, "xatol": 0.02, "fatol": 0.02}
"""Correlations from row to row from which the noise is sought."""


@dataclass(frozen=True)
class Furnace:
    """One furnace by its numbers (k), and what is a stretch's own (stretches, 3)."""

    numbers: Array
    own: Array


@dataclass(frozen=True)
class Learnt:
    """The likeliest, others that it may be, the noise, and what it misses the record by, °C rms."""

    likeliest: Furnace
    others: tuple[Furnace, ...]
    noise: Noise
    residual_c: float


class Posterior:
    """What is least where a furnace is likeliest: its whitened residuals, and how far its numbers are from what is known."""

    def __init__(self, shape: Shape, records: Sequence[FurnaceRecord]) -> None:
        self.shape, self.records = shape, records
        self.expected = np.concatenate([shape.expected, np.zeros(ITS_OWN * len(records))])
        self.sure = np.concatenate([shape.sure, *(r.sure for r in records)])

    def furnace(self, z: Array) -> Furnace:
        p = self.expected + z * self.sure
        k = len(self.shape.expected)
        return Furnace(p[:k], p[k:].reshape(-1, ITS_OWN))

    def misses(self, z: Array) -> list[Array]:
        """Reading less what is shown over the rows that are learnt from, stretch by stretch, °C."""
        f = self.furnace(z)
        shown = (r.shown(self.shape, f.numbers, own) for r, own in zip(self.records, f.own, strict=True))
        return [(r.y - s)[: r.rows] for r, s in zip(self.records, shown, strict=True)]

    def far(self, z: Array, noise: Noise) -> Array:
        """What is squared and summed, of readings and numbers."""
        misses = zip(self.misses(z), self.records, strict=True)
        return np.concatenate([*(_whitened(m, r, noise) for m, r in misses), z])

    def slopes(self, z: Array, noise: Noise) -> Array:
        """How :meth:`far` changes with each number."""
        here = self.far(z, noise)
        return np.column_stack([(self.far(z + SMALL * one, noise) - here) / SMALL for one in np.eye(len(z))])

    def solved(self, start: Array, noise: Noise, off: Array | float = 0.0, looks: int = MOST_LOOKS) -> Array:
        """Where it is likeliest; ``off`` is taken from what is squared."""
        found = scipy.optimize.least_squares(
            lambda z: self.far(z, noise) - off,
            np.clip(start, -REACH, REACH),
            lambda z: self.slopes(z, noise),
            bounds=(-REACH - 1.0, REACH + 1.0),
            max_nfev=looks,
            ftol=NEAR,
            xtol=NEAR,
        )
        return np.asarray(found.x)


def _whitened(misses: Array, record: FurnaceRecord, noise: Noise) -> Array:
    variance, rho, white, _ = noise.for_kernel
    x = misses[None, :].copy()
    whiten(x, record.steps[: record.rows], rho, white)
    return np.asarray(x[0] / np.sqrt(variance))


def noise_of(misses: Sequence[Array], records: Sequence[FurnaceRecord]) -> Noise:
    """The likeliest noise of what is missed: white, and some that stays. ``misses`` in °C."""

    def unlikely(p: Array) -> float:
        noise = unpacked(np.append(p, 0.0), 0.0)
        if noise is None:
            return IMPOSSIBLE
        variance, rho, white, _ = noise.for_kernel
        total = 0.0
        for m, r in zip(misses, records, strict=True):
            x = m[None, :].copy()
            total += whiten(x, r.steps[: r.rows], rho, white)
            total += float(np.sum(x * x)) / variance + len(m) * float(np.log(variance))
        return total

    size = max(_rms(misses), 2.0 * LEAST_NOISE_C)
    starts = [packed(Noise(size, size / 3.0, rho, 1.0))[:-1] for rho in LASTING]
    found = [scipy.optimize.minimize(unlikely, s, method="Nelder-Mead", options=LOOKS) for s in starts]
    noise = unpacked(np.append(min(found, key=lambda f: float(f.fun)).x, 0.0), 0.0)
    assert noise is not None
    return noise


def _rms(misses: Sequence[Array]) -> float:
    return float(np.sqrt(np.mean(np.concatenate(misses) ** 2)))


def learnt(shape: Shape, records: Sequence[FurnaceRecord], others: int = OTHERS) -> Learnt:
    """The likeliest furnace of one record or several, and ``others`` that it may be."""
    posterior = Posterior(shape, records)
    z = posterior.solved(np.zeros(len(posterior.sure)), Noise(BEGINS_C, BEGINS_C, 0.0, 1.0))
    for _ in range(ROUNDS):
        noise = noise_of(posterior.misses(z), records)
        z = posterior.solved(z, noise)
    wide = replace(noise, slow_c=WIDENED * noise.slow_c, white_c=WIDENED * noise.white_c)
    rng, n = np.random.default_rng(OTHERS), len(posterior.far(z, noise))
    drawn = [posterior.solved(z, wide, rng.normal(size=n), FEWER_LOOKS) for _ in range(others)]
    return Learnt(posterior.furnace(z), tuple(map(posterior.furnace, drawn)), noise, _rms(posterior.misses(z)))
