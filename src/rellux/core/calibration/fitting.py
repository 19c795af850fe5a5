"""What has to be added to a reading, fitted over temperature: a line, or straight pieces between points; and how well it is known between
and beyond them (JCGM 100:2008, 5.1.2 and 5.2.2, note 1)."""

from dataclasses import dataclass
from itertools import combinations
from math import sqrt

import numpy as np
from numpy.typing import NDArray

from .corrections import Correction, CorrectionPoint
from .levels import Level

APART_C = 1.0
"""Points nearer to each other than this are one, °C (our choice: what a controller can tell apart)."""
APPROACHES = 20
"""Steps to the reading that belongs to a temperature: each is nearer by the slope of the correction."""

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Fitted:
    """A correction before rounding; ``weights(raw)``: how much each comparison counts in what it adds there, shape (n,)."""

    correction: Correction
    design: Array
    basis: tuple[float, ...]
    weight: Array

    def weights(self, raw_c: float) -> Array:
        """Shape (n,), as they are linear in what has to be added."""
        row = _row(raw_c, self.basis)
        solve = np.linalg.pinv(self.design * self.weight[:, None]) * self.weight[None, :]
        return np.asarray(row @ solve)

    def adds(self, raw_c: float) -> float:
        """What it adds, gone on along the last piece outside, °C."""
        c = self.correction
        parts = np.array([p.add_c for p in c.points]) if c.points else np.array([c.offset_c, c.gain - 1.0])
        return float(_row(raw_c, self.basis) @ parts)

    def raw_at(self, true_c: float) -> float:
        """The reading without any correction where it is so hot, °C."""
        raw = true_c
        for _ in range(APPROACHES):
            raw = true_c - self.adds(raw)
        return raw


def _row(raw_c: float, knots: tuple[float, ...]) -> Array:
    """Of a line (no knots), or of straight pieces between knots that go on outside along the last piece."""
    if not knots:
        return np.array([1.0, raw_c])
    row = np.zeros(len(knots))
    i = int(np.clip(np.searchsorted(knots, raw_c) - 1, 0, len(knots) - 2))
    share = (raw_c - knots[i]) / (knots[i + 1] - knots[i])
    row[i], row[i + 1] = 1.0 - share, share
    return row


def line(raw: Array, add: Array, weight: Array) -> Fitted:
    """Of what has to be added at each reading, by weighted least squares; shapes (n,)."""
    design = np.array([_row(r, ()) for r in raw])
    (at_zero, slope), *_ = np.linalg.lstsq(design * weight[:, None], add * weight, rcond=None)
    return Fitted(Correction(float(at_zero), 1.0 + float(slope)), design, (), weight)


def table(raw: Array, add: Array, weight: Array, points: int) -> Fitted:
    """Points at the coolest and the hottest comparison, and between them at those that leave the least squares of all;
    shapes (n,), readings rising."""
    best: tuple[float, Fitted] | None = None
    low, high = float(raw[0]), float(raw[-1])
    between: list[float] = []
    for at in raw.tolist():
        if at - (between[-1] if between else low) >= APART_C and high - at >= APART_C:
            between.append(at)
    for inside in combinations(between, min(points - 2, len(between))):
        knots = (low, *inside, high)
        design = np.array([_row(r, knots) for r in raw])
        at, *_ = np.linalg.lstsq(design * weight[:, None], add * weight, rcond=None)
        cost = float(np.sum(((design @ at - add) * weight) ** 2))
        if best is None or cost < best[0] - 1e-12:
            made = tuple(CorrectionPoint(k, float(a)) for k, a in zip(knots, at, strict=True))
            best = cost, Fitted(Correction(points=made), design, knots, weight)
    assert best is not None
    return best[1]


def uncertain(levels: tuple[Level, ...], fitted: Fitted, raw_c: float) -> tuple[float, float]:
    """Standard and expanded uncertainty of what is added there, °C: with the largest coverage factor of its comparisons."""
    w = fitted.weights(raw_c)
    r, c = (np.array([getattr(level, name) for level in levels]) for name in ("repeats_u_c", "common_u_c"))
    u = sqrt(float(np.sum((w * r) ** 2)) + max(float(np.sum((w * c) ** 2)), float(np.sum(w * c)) ** 2))
    widest = max((level.expanded_c / level.u_c for level in levels if level.u_c > 0), default=0.0)
    return u, widest * u
