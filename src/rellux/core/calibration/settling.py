"""Whether a rig has settled enough to be compared now, from the last minutes of its run: drift with its uncertainty, cycles, and what a
mean over part of a cycle would be off by."""

from dataclasses import dataclass, field, replace
from enum import StrEnum
from itertools import count, pairwise
from math import ceil, gcd, sqrt

import numpy as np
from numpy.typing import NDArray

from ..errors import refuse
from ..explain import Figure, Input
from ..messages import difference, quantity, spoken_time
from ..runs.cycles import cycles_of
from ..units import Kind
from .belief import Circumstances, odd_moments_off
from .coverage import coverage_factor
from .repeats import MOST_CORRELATED

SETTLED_C_PER_MIN = 0.1
"""Drift below which a comparison is taken (our choice: with a lag of a minute between the two it is a tenth of a degree)."""
LEAST_S, LEAST_ROWS = 180.0, 12
"""Shortest stretch a drift is told from, and readings in it (our choice)."""
CYCLING_PAIRS, BETWEEN_S = 6, 30.0
"""Pairs in a rig that cycles (common practice), and the time it takes to read and write one, s (our choice)."""
LOOKS_S = 900.0
"""How far back it is looked (common practice: 10 to 15 minutes)."""

Array = NDArray[np.float64]


class Settling(StrEnum):
    """``now``: compare. ``wait``: it drifts. ``unsure``: the record is too short or too noisy to say."""

    NOW = "now"
    WAIT = "wait"
    UNSURE = "unsure"


@dataclass(frozen=True)
class Moments:
    """``pairs`` to take, one every ``every_s`` seconds: evenly over ``cycles`` whole ones, no two at the same place of a cycle."""

    pairs: int
    every_s: float
    cycles: int


def moments(period_s: float, pairs: int = CYCLING_PAIRS) -> Moments:
    """When to read in a rig that cycles, with time to read and write in between. Their mean has no bias from any part of the cycle that
    repeats less than ``pairs`` times in it; the end is not counted twice (sampling at equal steps over whole periods).

    >>> moments(60.0)
    Moments(pairs=6, every_s=50.0, cycles=5)

    Raises ``Refused`` for a period or a number of pairs that is none."""
    if not (period_s > 0 and pairs >= 2):
        raise refuse("period_s", "no cycle", "more than 0 s, and two pairs at least")
    cycles = next(m for m in count(1) if gcd(m, pairs) == 1 and m * period_s / pairs >= BETWEEN_S)
    return Moments(pairs, cycles * period_s / pairs, cycles)


@dataclass(frozen=True)
class Settled:
    """``drift`` in °C/min with 95.45 % either side; ``swing_c`` from trough to peak and ``period_s`` where it cycles; ``bias``: what a
    mean at any odd moment of a cycle may be off by; ``moments``: when to read instead. ``how``: what of it makes pairs taken now at odd
    moments less sure."""

    state: Settling
    says: str
    drift: Figure | None = None
    period_s: float | None = None
    swing_c: float = 0.0
    bias: Figure | None = None
    moments: Moments | None = None
    how: Circumstances = field(default_factory=Circumstances)


def settled(time_s: Array, reading_c: Array) -> Settled:
    """From the newest readings of a run, times rising, shapes (n,). Only the last quarter of an hour is looked at."""
    found = _settled(time_s, reading_c)
    drift = found.drift
    most = max(abs(drift.low), abs(drift.high)) if drift and drift.low is not None and drift.high is not None else 0.0
    how = Circumstances(drift_c_per_min=_up(most, 1000.0), swing_c=_up(found.swing_c, 100.0))
    return replace(found, how=how)


def _up(value: float, steps: float) -> float:
    """The next higher number that can be read: never smaller than it is."""
    return ceil(value * steps) / steps


def _settled(time_s: Array, reading_c: Array) -> Settled:
    recent = time_s >= (time_s[-1] - LOOKS_S if len(time_s) else 0.0)
    t, y = time_s[recent], reading_c[recent]
    good = np.isfinite(y)
    t, y = t[good], y[good]
    if len(t) < LEAST_ROWS or t[-1] - t[0] < LEAST_S:
        return Settled(
            Settling.UNSURE, f"Wait: it needs {spoken_time(LEAST_S)} of record to see whether it still drifts."
        )
    cycles = cycles_of(t, y)
    if len(cycles):
        return _cycling(t, y, cycles.at, cycles.swing, cycles.period(t))
    slope, u, freedom = _slope(t, y)
    return _told(slope, coverage_factor(freedom) * u, t[-1] - t[0])


def _cycling(t: Array, y: Array, at: NDArray[np.int64], swing: float, period: float) -> Settled:
    """Over whole cycles: the mean of each cycle is one value, and their trend is the drift."""
    means = np.array([np.mean(y[a:b]) for a, b in pairwise(at)])
    middles = (t[at[:-1]] + t[at[1:]]) / 2.0
    bias = Figure(
        "a mean of a few odd moments may be off by",
        odd_moments_off(swing),
        Kind.DIFFERENCE,
        formula="swing / 2",
        inputs=(Input("from trough to peak", swing, Kind.DIFFERENCE, "swing", "the run"),),
        reason="Moments taken at hand fall anywhere in the cycle; spread evenly over whole ones their mean has no bias.",
    )
    if len(means) < 3:
        says = f"It cycles every {spoken_time(period)}: wait for three whole cycles to see whether it drifts."
        return Settled(Settling.UNSURE, says, None, period, swing, bias)
    slope, u, freedom = _slope(middles, means)
    told = _told(slope, coverage_factor(freedom) * u, t[-1] - t[0])
    when = moments(period)
    says = (
        f"{told.says} It cycles by {difference(swing, '.2g')} every {spoken_time(period)}: take {when.pairs} pairs, one every "
        f"{spoken_time(when.every_s)}, over whole cycles."
    )
    return Settled(told.state, says, told.drift, period, swing, bias, when)


def _slope(t: Array, y: Array) -> tuple[float, float, float]:
    """Slope, its standard uncertainty and degrees of freedom by least squares; readings that hang together count as fewer (the lag-one
    correlation of what is left, first-order process)."""
    x = t - t.mean()
    slope = float(x @ (y - y.mean()) / (x @ x))
    left = y - y.mean() - slope * x
    n = len(y)
    follows = float(left[:-1] @ left[1:] / max(left @ left, 1e-300))
    follows = min(max(follows, 0.0), MOST_CORRELATED)
    worth = max(n * (1.0 - follows) / (1.0 + follows), 3.0)
    scatter = sqrt(float(left @ left) / n * worth / (worth - 2.0))
    spread = sqrt(float(x @ x) / n)
    return slope, scatter / (spread * sqrt(worth)), worth - 2.0


def _told(slope: float, expanded: float, seen_s: float) -> Settled:
    per_minute, unsure = slope * 60.0, expanded * 60.0
    drift = Figure(
        "drift",
        per_minute,
        Kind.RATE,
        formula="least squares",
        inputs=(Input("looked at", seen_s, Kind.TIME, "", "the run"),),
        reason="Settled is what moves less than so much a minute, its uncertainty included.",
        low=per_minute - unsure,
        high=per_minute + unsure,
    )
    most = quantity(SETTLED_C_PER_MIN, "°C/min")
    found = f"{quantity(abs(per_minute), '°C/min', '.2g')} ± {quantity(unsure, '°C/min', '.1g')}"
    if abs(per_minute) + unsure <= SETTLED_C_PER_MIN:
        return Settled(Settling.NOW, f"Compare now: it drifts {found}.", drift)
    if abs(per_minute) > SETTLED_C_PER_MIN:
        return Settled(Settling.WAIT, f"Wait: it drifts {found}; settled is below {most}.", drift)
    return Settled(Settling.UNSURE, f"Wait a little: it drifts {found}, which is not surely below {most}.", drift)
