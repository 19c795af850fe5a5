"""FOPDT identification from a stretch of any run: least squares on the true time stamps and the true outputs.

Model: ``y(t) = T_a + (y₀ − T_a) e^(−(t−t₀)/τ) + K f(t; τ, L) + K u₋ g(t; τ, L)``: f is the exact response to the recorded output, g
that to an output u₋ held before the record began, where nobody knows it. For given L and τ all else is linear: K, y₀, the ambient
T_a (near what was told; y₀ itself where the run starts cold), K u₋ (0…100 %), and how the surroundings wander meanwhile
(:mod:`.drift`). Dead time makes the cost non-smooth, so L is searched
on a grid and its interval comes from the profile of the cost, not from a Hessian. Residuals of real logs are correlated; the
interval uses the effective number of independent points n (1 − ρ)/(1 + ρ), ρ the lag-one correlation, and is widened by the on-time
that late rows leave unknown. Source: Ljung, System Identification, 2nd ed., ch. 7 and 9; profile likelihood as in Bates & Watts,
Nonlinear Regression, ch. 6.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from ..explain import Figure, Input
from ..process.models import FOPDT
from ..process.response import unit_response
from ..units import Kind
from .drift import Drift
from .fit_verdict import WELL_KNOWN, Fitness, FitVerdict, judge
from .search import best_dead_time, effective_points, interval_of, solve
from .stretch import Stretch, checked, is_cold

AMBIENT_SURE_C, AMBIENT_SHARE, START_SURE_C, LEAST_NOISE_C = 2.0, 0.25, 5.0, 0.05
"""How sure the told ambient is, °C, or as a share of the way up (a gain that changes with temperature moves where the straight line
ends); the first reading; and the least noise of one."""

Array = NDArray[np.float64]


CHI2_95 = 3.84
WEIGHINGS, SETTLED = 4, 3.0
"""How often what is known beforehand is weighed anew at most, and by how much its weight may still be off."""
SOURCE = "least squares on the exact first-order response; Ljung, System Identification, 2nd ed."


@dataclass(frozen=True)
class Identified:
    """The model with 95 % intervals, what it leaves unexplained, and whether to trust it."""

    process: FOPDT
    gain: Figure
    lag: Figure
    dead_time: Figure
    slope: Figure
    residual_c: float
    points: int
    verdict: FitVerdict
    verdict_reason: str
    time_s: Array
    measured_c: Array
    modelled_c: Array


@dataclass(frozen=True)
class _Fit:
    cost: float
    gain: float
    modelled: Array
    ambient: float
    ways: Array
    columns: Array


def identify(stretch: Stretch) -> Identified:
    """Fit a FOPDT. Raises ``Refused`` when the stretch holds nothing to learn from."""
    t, y, changes = checked(stretch)
    span_s = float(t[-1] - t[0])
    lowest_lag, highest_lag = max(span_s / 500.0, float(np.median(np.diff(t))) / 2), span_s * 10.0

    start = float(np.median(y[:3]))
    cold = changes.before in (None, 0.0) and is_cold(stretch, y)
    sure_c = max(AMBIENT_SURE_C, AMBIENT_SHARE * abs(start - stretch.ambient_c))
    noise = max(float(np.std(np.diff(y, 2))) / 6.0**0.5, LEAST_NOISE_C)
    since = t - t[0]
    # what is known beforehand, as rows of the same least squares: K nothing, y₀ a little, T_a what was told, each way to wander that
    # it is small, K u₋ nothing
    wander = Drift(since)
    levels = [(start, START_SURE_C)] if cold else [(start, START_SURE_C), (stretch.ambient_c, sure_c)]
    before = [(0.0, np.inf), *levels, *((0.0, sd) for sd in wander.sure_c), (0.0, np.inf)]
    sure = np.diag([sd**-2.0 for _, sd in before])
    known = noise**2 * sure
    expected = np.array([value for value, _ in before])
    level = len(levels)
    fixed = 1 + level + len(wander.sure_c)

    def fit(dead: float, lag: float) -> _Fit:
        f = unit_response(t, changes.times_s, changes.values, changes.before or 0.0, 1.0 / lag, dead)
        ways = wander.responses(lag)
        free = fixed
        if cold:  # at rest: start and ambient are one level, and the output was off
            columns = np.vstack([f, np.ones(len(t)), ways])
            solved = solve(columns, y, known, expected, free)
        else:
            decay = np.exp(-since / lag)
            unknown = (1.0 - np.exp(-np.minimum(since, dead) / lag)) * np.exp(-np.maximum(since - dead, 0.0) / lag)
            columns = np.vstack([f, decay, 1.0 - decay, ways, unknown])
            free += 0 if changes.before is not None or dead <= 0 else 1
            solved = solve(columns, y, known, expected, free)
            if free > fixed and not 0.0 <= solved[fixed] <= 100.0 * abs(solved[0]):
                held = min((0.0, 100.0), key=lambda e: abs(solved[fixed] - e * abs(solved[0])))
                columns[0] += held * unknown
                free = fixed
                solved = solve(columns, y, known, expected, free)
        modelled = solved @ columns
        off = solved[:free] - expected[:free]
        left = y - modelled
        cost = float(left @ left + off @ known[:free, :free] @ off)
        return _Fit(cost, float(solved[0]), modelled, float(solved[level]), solved[1 + level : fixed], columns[:free])

    def best_lag(dead: float) -> tuple[float, float]:
        """(cost, lag) minimising the cost at this dead time; the lag is searched by its logarithm."""
        grid = np.geomspace(lowest_lag, highest_lag, 14)
        costs = [fit(dead, lag).cost for lag in grid]
        i = int(np.argmin(costs))
        found = scipy.optimize.minimize_scalar(
            lambda x: fit(dead, float(np.exp(x))).cost,
            bounds=(np.log(grid[max(i - 1, 0)]), np.log(grid[min(i + 1, len(grid) - 1)])),
            method="bounded",
            options={"xatol": 1e-5},
        )
        return float(found.fun), float(np.exp(found.x))

    for _ in range(WEIGHINGS):
        dead = best_dead_time(lambda value: best_lag(value)[0], span_s, changes.cycle_s)
        cost, lag = best_lag(dead)
        best = fit(dead, lag)
        residual = y - best.modelled
        effective = effective_points(residual)
        # a residual that swings slowly is worth few points: what is known beforehand weighs against it, not against the noise
        worth = max(float(residual @ residual) / effective, noise**2)
        if worth < SETTLED * known[1, 1] / sure[1, 1]:
            break
        known = worth * sure
    gain = best.gain
    threshold = cost * (1.0 + CHI2_95 / max(effective - 3.0, 1.0)) + 1e-9

    dead_low, dead_high = interval_of(lambda d: best_lag(d)[0] - threshold, dead, 0.0, span_s * 0.6)
    lag_cost = _lag_profile(fit, dead, dead_low, dead_high)
    lag_low, lag_high = interval_of(lambda v: lag_cost(v)[0] - threshold, lag, lowest_lag, highest_lag)
    normal = best.columns @ best.columns.T
    normal += known[: len(normal), : len(normal)]
    variance = cost / max(len(t) - len(normal), 1) * float(np.linalg.pinv(normal)[0, 0])
    widen = 1.96 * float(np.sqrt(variance * len(t) / effective))
    corners = [best] + [lag_cost(v)[1] for v in (lag_low, lag_high)]
    gains = [f.gain for f in corners]
    slopes = [g / v for g, v in zip(gains, (lag, lag_low, lag_high), strict=True)]
    widen += changes.unknown_share * abs(gain)
    gain_low, gain_high = min(gains) - widen, max(gains) + widen

    rms = float(np.sqrt(np.mean(residual**2)))
    drift_c = wander.furthest(best.ways)
    halves = (
        (gain_high - gain_low) / 2.0 / abs(gain) if gain else np.inf,
        (lag_high - lag_low) / 2.0 / lag,
        (dead_high - dead_low) / 2.0 / max(dead, float(np.median(np.diff(t))) / WELL_KNOWN),
    )
    verdict, reason = judge(stretch, y, Fitness(rms, gain, max(halves), rms / noise, span_s / lag, span_s, drift_c))
    inputs = (
        Input("points", len(t), Kind.COUNT, "n", "run"),
        Input("stretch", span_s, Kind.TIME, "T", "run"),
        Input(
            "ambient",
            best.ambient,
            Kind.TEMPERATURE,
            "T_a",
            "fit, near the first reading: it starts cold" if cold else "fit",
        ),
        Input("surroundings wander by, at most", drift_c, Kind.DIFFERENCE, "ΔT_a", "fit"),
        Input("residual, rms", rms, Kind.DIFFERENCE, "r", "fit"),
    )
    formula = "y(t) = T_a + (y₀ − T_a) e^(−t/τ) + K f(t; τ, L)"

    def figure(name: str, value: float, kind: Kind, symbol: str, low: float, high: float, why: str) -> Figure:
        return Figure(
            name,
            value,
            kind,
            formula=formula,
            inputs=inputs,
            reason=why,
            source=SOURCE,
            symbol=symbol,
            low=low,
            high=high,
        )

    return Identified(
        FOPDT(gain, lag, dead),
        figure("process gain", gain, Kind.GAIN, "K", gain_low, gain_high, "How far one percent of output moves it."),
        figure("lag", lag, Kind.TIME, "τ", lag_low, lag_high, "The time to go 63 % of the way."),
        figure(
            "dead time", dead, Kind.TIME, "L", dead_low, dead_high, "The reading begins to follow this long after it."
        ),
        figure(
            "rate at full power",
            6000.0 * gain / lag,
            Kind.RATE,
            "100 K/τ",
            6000.0 * (min(slopes) - widen / lag),
            6000.0 * (max(slopes) + widen / lag),
            "Better known than gain and lag apart when the record is short.",
        ),
        rms,
        len(t),
        verdict,
        reason,
        t,
        y,
        best.modelled,
    )


def _lag_profile(
    fit: Callable[[float, float], _Fit], dead: float, low: float, high: float
) -> Callable[[float], tuple[float, _Fit]]:
    """Cost and fit at a given lag, with the dead time re-optimised within a wide bracket of its own interval."""
    reach = max(high - low, 0.05 * dead, 1e-3) * 3.0

    def at(lag: float) -> tuple[float, _Fit]:
        found = scipy.optimize.minimize_scalar(
            lambda d: fit(d, lag).cost, bounds=(max(0.0, dead - reach), dead + reach), method="bounded"
        )
        best = fit(float(found.x), lag)
        return best.cost, best

    return at
