"""Where a fit is best, and everything nearly as good. The dead time makes the cost jagged, so it is looked at, not differentiated."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from .forms import COOLING, FIRST, GIVES_BACK, SECOND, TRIED, Place
from .noise import Noise
from .record import Records

Array = NDArray[np.float64]

LONGEST_DEAD = 0.9
"""The longest dead time looked for, as a share of the stretch."""
LAGS, DEADS, BEST = 34, 46, 3
"""Places of a coarse look, and how many of them are looked at more closely."""
MANY, CYCLES_AWAY = 0.05, 6
"""The share of a stretch below which a cycle of the output is short, and by how many a dead time may be taken wrongly before it is looked
for again."""
QUICKEST, SLOWEST = 2000.0, 500.0
"""The shortest lag that is looked for as a part of the stretch, and the longest as its multiple."""
ACROSS, FINE, FINE_OF_SHARE, ROUNDS = 13, 41, 23, 5
ENDS = (0, 6)
BOX, EDGE, BLUR = 3.4, 0.05, 0.1
"""Half the side of the box that is looked at, in standard deviations; the weight at its edge that is too much."""
AROUND = (0.2, 0.4, 0.6, 0.8, 1.0)
"""Shares looked at on either side of the best, as parts of the way to one that is clearly worse."""
CLEARLY = (5.0, 14.0)
"""By how much in likelihood that is worse."""


def longest(record: Records) -> float:
    """ln of the longest lag that is looked for; a reading that bends no more than that goes on rising for ever."""
    return float(np.log(SLOWEST * record.span_s)) + 1e-9


def looked_at(record: Records, noise: Noise, ln_lags: Array, like: Place, deads: Array) -> Array:
    """(n, 4) as :meth:`Records.over`, of the form that ``like`` has; the deviance is infinite where there is no such model.
    ``ln_lags`` of lags, and ``deads``, in s, shapes (n,).
    """
    found = record.over(noise, like.form, np.exp(ln_lags), np.full(len(ln_lags), like.extra), np.maximum(deads, 0.0))
    found[(deads < 0.0) | (ln_lags > longest(record)), 0] = np.inf
    return found


def coarse(record: Records, noise: Noise) -> list[Place]:
    """The best first-order places of a coarse look over all there can be."""
    span = record.span_s
    ln_lags = np.linspace(np.log(max(span / QUICKEST, record.usual_s / 4.0)), np.log(span * SLOWEST), LAGS)
    deads = LONGEST_DEAD * span * np.linspace(0.0, 1.0, DEADS) ** 2
    u, d = (v.ravel() for v in np.meshgrid(ln_lags, deads))
    costs = looked_at(record, noise, u, Place(0.0, 0.0), d)[:, 0].reshape(DEADS, LAGS)
    rows = np.argsort(costs.min(axis=1))[:BEST]
    return [Place(float(ln_lags[int(np.argmin(costs[i]))]), float(deads[i])) for i in rows]


def cycles_away(record: Records, best: Place) -> list[Place]:
    """A log of pulses repeats its minimum every cycle: places with a dead time some cycles away; none where there are no such cycles."""
    span, cycle = record.span_s, record.cycle_s
    if not 0.0 < cycle < MANY * span:
        return []
    away = best.dead_s + cycle * np.arange(-CYCLES_AWAY, CYCLES_AWAY + 1)
    return [replace(best, dead_s=float(d)) for d in away if 0.0 <= d < LONGEST_DEAD * span]


def refined(record: Records, noise: Noise, start: Place, wide: tuple[float, float], rounds: int) -> tuple[float, Place]:
    """(deviance, place) at the bottom of the valley round ``start``: seven by seven places that close in, or follow it. ``wide``: how far
    off ln τ and L (s) may be at first."""
    at, reach = np.array([start.ln_lag, start.dead_s]), np.array(wide)
    step, best = np.linspace(-1.0, 1.0, 7), np.inf
    for _ in range(rounds):
        ln_lags, deads = at[0] + reach[0] * step, np.maximum(at[1] + reach[1] * step, 0.0)
        u, d = (v.ravel() for v in np.meshgrid(ln_lags, deads, indexing="ij"))
        costs = looked_at(record, noise, u, start, d)[:, 0]
        k = int(np.argmin(costs))
        best, at = float(costs[k]), np.array([u[k], d[k]])
        for axis, i in enumerate(divmod(k, 7)):
            at_edge = i in ENDS and not (axis == 1 and at[1] == 0.0)
            reach[axis] *= 1.3 if at_edge else 0.45
    return best, replace(start, ln_lag=float(at[0]), dead_s=float(at[1]))


def with_more(record: Records, noise: Noise, first: Place, form: int) -> Place:
    """The best place of a form with one time more, from the best without."""
    span, found, tried = record.span_s, [], TRIED[form]
    for extra in tried:
        dead_s = first.dead_s - (GIVES_BACK * extra * first.lag_s if form == SECOND else 0.0)
        start = Place(first.ln_lag, max(dead_s, 0.0), form, extra)
        # one lag may have been taken from the cooling
        others = (replace(start, ln_lag=first.ln_lag - float(np.log(extra))),) if form == COOLING else ()
        at_each = (refined(record, noise, s, (0.3, 0.05 * span), 6) for s in (start, *others))
        found.append(min(at_each, key=lambda f: f[0]))
    at = min(range(len(tried)), key=lambda i: found[i][0])
    best = found[at][1]
    low, high = (replace(best, extra=tried[i]).free for i in (max(at - 1, 0), min(at + 1, len(tried) - 1)))
    for free in np.linspace(low, high, 7)[1:-1]:
        found.append(refined(record, noise, replace(best, extra=best.freed(float(free)).extra), (0.1, 0.02 * span), 6))
    return min(found, key=lambda f: f[0])[1]


@dataclass(frozen=True)
class Region:
    """Places round the best, (n) each, with how much worse they are (twice the log likelihood), the gain there and its variance."""

    form: int
    ln_lag: Array
    extra: Array
    dead_s: Array
    worse: Array
    gain: Array
    variance: Array

    def interval(self, limit: float, value: Callable[[Array, Array, Array, Array], Array]) -> tuple[float, float]:
        """The profile interval of anything that follows from (K, τ, what the form has besides as its multiple, L): its extremes
        where nothing is worse by more than ``limit``."""
        k = self.worse < limit
        reach = np.sqrt(self.variance[k] * (limit - self.worse[k]))
        ends = [
            value(self.gain[k] + sign * reach, np.exp(self.ln_lag[k]), self.extra[k], self.dead_s[k])
            for sign in (-1.0, 1.0)
        ]
        return float(np.min(ends)), float(np.max(ends))

    def some(self, limit: float, count: int) -> list[Place]:
        """Places spread over the region within ``limit``."""
        k = np.flatnonzero(self.worse < limit)
        k = k[np.linspace(0, len(k) - 1, min(count, len(k))).astype(int)]
        return [Place(float(self.ln_lag[i]), float(self.dead_s[i]), self.form, float(self.extra[i])) for i in k]


def region(record: Records, noise: Noise, best: Place) -> Region:
    """The places nearly as good as the best, in axes along and across the valley."""
    centre, spread = _axes(record, noise, best)
    if best.form == FIRST:
        return _joined(FIRST, [_box(record, noise, best, centre, spread, FINE)])
    lowest = float(looked_at(record, noise, np.array([best.ln_lag]), best, np.array([best.dead_s]))[0, 0])
    places = [best]
    for sign in (-1.0, 1.0):
        far = _clearly_worse(record, noise, best, lowest, sign)
        places += [_freed(record, noise, best, best.free + part * far)[1] for part in AROUND]
    boxes = [_box(record, noise, p, np.array([p.ln_lag, p.dead_s]), spread, FINE_OF_SHARE) for p in places]
    return _joined(best.form, boxes)


def with_best_extra(record: Records, noise: Noise, best: Place) -> Place:
    """The same with the second lag, or whatever else it has besides, that is likeliest under this noise."""
    step = _step(best)
    lowest = float(looked_at(record, noise, np.array([best.ln_lag]), best, np.array([best.dead_s]))[0, 0])
    for _ in range(7):
        tried = [_freed(record, noise, best, best.free + way) for way in (-step, step)]
        cost, place = min(tried, key=lambda f: f[0])
        if cost < lowest:
            lowest, best = cost, place
        else:
            step *= 0.4
    return best


def _step(best: Place) -> float:
    """How far what it has besides is moved at first."""
    return 0.1 * (best.extra if best.form == SECOND else 1.0)


def _freed(record: Records, noise: Noise, best: Place, free: float) -> tuple[float, Place]:
    """(deviance, place) with another second lag, or whatever it has besides."""
    moved = best.freed(free)
    away = abs(moved.free - best.free)
    late = 0.5 * away * best.lag_s if best.form == SECOND else 0.0
    return refined(record, noise, moved, (0.01 + away, 0.002 * record.span_s + late), 7)


def _clearly_worse(record: Records, noise: Noise, best: Place, lowest: float, sign: float) -> float:
    """How far what it has besides is from one that is clearly worse, signed; or to the end of what there is."""
    low, high = best.free_ends
    end = best.free - low if sign < 0 else high - best.free
    far = min(_step(best), end)
    for _ in range(9):
        worse = _freed(record, noise, best, best.free + sign * far)[0] - lowest
        if CLEARLY[0] <= worse <= CLEARLY[1] or (worse < CLEARLY[0] and far >= end):
            break
        far = min(far * (1.8 if worse < CLEARLY[0] else 0.55), end)
    return sign * far


def _axes(record: Records, noise: Noise, best: Place) -> tuple[Array, Array]:
    """Centre of the region and its axes: mean and covariance of the likelihood, looked at closer and closer."""
    centre = np.array([best.ln_lag, best.dead_s])
    spread = np.diag([0.02, 0.2 * record.usual_s + 0.002 * best.dead_s])
    a, b = (v.ravel() for v in np.meshgrid(*(np.linspace(-BOX, BOX, ACROSS),) * 2))
    at_edge = np.maximum(np.abs(a), np.abs(b)) > BOX - 1e-9
    for _ in range(ROUNDS):
        where = centre[:, None] + spread @ np.array([a, b])
        cost = looked_at(record, noise, where[0], best, where[1])[:, 0]
        weight = np.exp(-0.5 * (cost - cost.min()))
        weight /= weight.sum()
        centre = where @ weight
        off = where - centre[:, None]
        step = spread * (2.0 * BOX / (ACROSS - 1))
        covariance = (off * weight) @ off.T + BLUR * step @ step.T  # it may be narrower than this look can tell
        spread = np.linalg.cholesky(covariance) * (1.5 if weight[at_edge].sum() > EDGE else 1.0)
    return centre, spread


def _box(
    record: Records, noise: Noise, best: Place, centre: Array, spread: Array, across: int
) -> tuple[Array, Array, Array, Array]:
    a, b = (v.ravel() for v in np.meshgrid(*(np.linspace(-BOX, BOX, across),) * 2))
    where = centre[:, None] + spread @ np.array([a, b])
    where = np.column_stack((where, [best.ln_lag, best.dead_s]))
    found = looked_at(record, noise, where[0], best, where[1])
    return where[0], np.full(len(where[0]), best.extra), where[1], found


def _joined(form: int, boxes: list[tuple[Array, Array, Array, Array]]) -> Region:
    ln_lag, extra, dead = (np.concatenate([b[i] for b in boxes]) for i in range(3))
    found = np.concatenate([b[3] for b in boxes])
    known = np.isfinite(found[:, 0])
    worse = found[known, 0] - found[known, 0].min()
    return Region(form, ln_lag[known], extra[known], dead[known], worse, found[known, 2], found[known, 3])
