"""FOPDT identification from a stretch of any run: least squares on the true time stamps and the true outputs.

Model: ``y(t) = T_a + (y₀ − T_a) e^(−(t−t₀)/τ) + K f(t; τ, L)``, f the exact response to the recorded output, y₀ the
measured start and T_a the ambient (both fixed: left free they trade against L and K on a single step). For given L and
τ, K is linear; dead time makes the cost non-smooth, so L is searched on a grid and its interval comes from the profile
of the cost, not from a Hessian. Residuals of real logs are correlated; the interval uses the effective number of
independent points n (1 − ρ)/(1 + ρ), ρ the lag-one correlation. Source: Ljung, System Identification, 2nd ed., ch. 7
and 9; profile likelihood as in Bates & Watts, Nonlinear Regression, ch. 6.
"""

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
import scipy
from numpy.typing import NDArray

from ..errors import refuse
from ..explain import Figure, Input
from ..messages import difference, quantity
from ..process.models import FOPDT
from ..process.response import unit_response
from ..runs.series import Series, timing
from ..units import Kind

SAMPLES_A_PERIOD = 5.0
"""Rows a control period that tell its duty from the switch state (common practice, no source)."""
LEAST_POINTS, MOST_POINTS = 20, 6000
"""Points a fit needs, and takes (our choice)."""
LEAST_CHANGE, SATURATED, MANY_LEVELS = 5.0, 0.5, 10
"""Change of the output that can teach something, %; an output at its end, %; levels beyond which a controller moved it (our
choice)."""
MISSES, WIDE, SHORT, MOVED_C = 0.05, 0.3, 0.4, 0.5
"""Residual as a share of the travel that is poor; width of the gain's interval, and span against the lag, at which only the slope
is known; a set-point that moved, °C (our choice)."""

Array = NDArray[np.float64]

CHI2_95 = 3.84
SOURCE = "least squares on the exact first-order response; Ljung, System Identification, 2nd ed."


class FitVerdict(StrEnum):
    """``supported``: use it. ``slope_only``: K/τ is known, K and τ apart are not. ``poor``: the model does not fit.
    ``biased``: closed loop without excitation."""

    @property
    def usable(self) -> bool:
        """Whether settings may be taken from it."""
        return self in (FitVerdict.SUPPORTED, FitVerdict.SLOPE_ONLY)

    SUPPORTED = "supported"
    SLOPE_ONLY = "slope_only"
    POOR = "poor"
    BIASED = "biased"


@dataclass(frozen=True)
class Stretch:
    """Equal-length columns of one stretch of a run: s, °C, %; ``output_before`` is the output before its first row.

    ``ambient_c`` is where the reading goes with no heat; a stretch that starts cold is taken to start at ambient.
    """

    time_s: Array
    reading_c: Array
    output: Array
    ambient_c: float
    output_before: float = 0.0
    setpoint_c: Array | None = None


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
    gain_error: float
    modelled: Array


def drive_of(series: Series, period_s: float) -> Array:
    """What the heater got, in %, row by row: the commanded output, or the switch state where only that was logged.

    A state sampled in step with the control period misjudges the duty, so the commanded output is preferred.
    Raises ``Refused`` when only the state is known and it was sampled too slowly to tell the duty.
    """
    has_output, has_switch = bool(np.isfinite(series.output).any()), bool(np.isfinite(series.switch).any())
    interval = timing(series.time_s).interval_s
    if has_output:
        return series.output
    if has_switch and interval <= period_s / SAMPLES_A_PERIOD:
        return 100.0 * series.switch
    if has_switch:
        raise refuse(
            "run",
            f"it has only the switch state, every {quantity(interval, 's', '.3g')}: "
            f"too slow for a control period of {quantity(period_s, 's')}",
            f"a row at least every {quantity(period_s / 5.0, 's', '.2g')}, or the commanded output",
        )
    raise refuse("run", "nothing in it shows what the heater did", "a run with output or switch state")


def identify(stretch: Stretch) -> Identified:
    """Fit a FOPDT. Raises ``Refused`` when the stretch holds nothing to learn from."""
    t, y, u = _checked(stretch)
    change_times, values = _changes(t, u, stretch.output_before)
    span_s = float(t[-1] - t[0])
    lowest_lag, highest_lag = max(span_s / 500.0, float(np.median(np.diff(t))) / 2), span_s * 10.0

    start = float(np.median(y[:3]))
    cold = stretch.output_before == 0.0 and abs(start - stretch.ambient_c) < 3.0
    ambient = start if cold else stretch.ambient_c

    def fit(dead: float, lag: float) -> _Fit:
        f = unit_response(t, change_times, values, stretch.output_before, 1.0 / lag, dead)
        free = ambient + (start - ambient) * np.exp(-(t - t[0]) / lag)
        energy = float(f @ f) or 1.0
        gain = float(f @ (y - free)) / energy
        modelled = free + gain * f
        cost = float(np.sum((y - modelled) ** 2))
        return _Fit(cost, gain, (cost / max(len(t) - 3, 1) / energy) ** 0.5, modelled)

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

    dead = _best_dead_time(lambda value: best_lag(value)[0], span_s)
    cost, lag = best_lag(dead)
    best = fit(dead, lag)
    gain = best.gain
    residual = y - best.modelled
    effective = _effective_points(residual)
    threshold = cost * (1.0 + CHI2_95 / max(effective - 3.0, 1.0)) + 1e-9

    dead_low, dead_high = _interval(lambda d: best_lag(d)[0] - threshold, dead, 0.0, span_s * 0.6)
    lag_cost = _lag_profile(fit, dead, dead_low, dead_high)
    lag_low, lag_high = _interval(lambda v: lag_cost(v)[0] - threshold, lag, lowest_lag, highest_lag)
    widen = 1.96 * best.gain_error * float(np.sqrt(len(t) / effective))
    corners = [best] + [lag_cost(v)[1] for v in (lag_low, lag_high)]
    gains = [f.gain for f in corners]
    slopes = [g / v for g, v in zip(gains, (lag, lag_low, lag_high), strict=True)]
    gain_low, gain_high = min(gains) - widen, max(gains) + widen

    rms = float(np.sqrt(np.mean(residual**2)))
    verdict, reason = _judge(stretch, y, rms, gain, gain_low, gain_high, lag, span_s)
    inputs = (
        Input("points", len(t), Kind.COUNT, "n", "run"),
        Input("stretch", span_s, Kind.TIME, "T", "run"),
        Input("ambient", ambient, Kind.TEMPERATURE, "T_a", "first reading: it starts cold" if cold else "purpose"),
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


def _checked(stretch: Stretch) -> tuple[Array, Array, Array]:
    good = np.isfinite(stretch.reading_c) & np.isfinite(stretch.output) & np.isfinite(stretch.time_s)
    t, y, u = stretch.time_s[good], stretch.reading_c[good], stretch.output[good]
    if len(t) < LEAST_POINTS:
        raise refuse("stretch", f"only {len(t)} usable points in this stretch", "at least 20")
    if not bool(np.all(np.diff(t) > 0)):
        raise refuse("stretch", "time does not rise from row to row", "rising time stamps")
    if float(np.ptp(np.append(u, stretch.output_before))) < LEAST_CHANGE:
        raise refuse(
            "stretch", "the output hardly changed here, so nothing shows what it does", "a change of at least 5 %"
        )
    if float(np.ptp(y)) < 1.0:
        raise refuse("stretch", "the reading moved less than {1 Δ°C}, too little to learn from", "at least {1 Δ°C}")
    if len(t) > MOST_POINTS:
        stride = len(t) // 6000 + 1
        t, y = t[::stride], y[::stride]
        u = u[::stride]
    return t, y, u


def _changes(t: Array, u: Array, before: float) -> tuple[Array, Array]:
    changed = np.flatnonzero(np.diff(np.concatenate(([before], u))) != 0.0)
    return t[changed], u[changed]


def _best_dead_time(cost: Callable[[float], float], span_s: float) -> float:
    """Grid, then finer grids round the best. Dense at short delays: a cycling log repeats its minimum every period."""
    grid = 0.4 * span_s * np.linspace(0.0, 1.0, 41) ** 2
    while True:
        i = int(np.argmin([cost(float(d)) for d in grid]))
        low, high = float(grid[max(i - 1, 0)]), float(grid[min(i + 1, len(grid) - 1)])
        if high - low < 2e-4 * span_s:
            return float(grid[i])
        grid = np.linspace(low, high, 9)


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


def _interval(excess: Callable[[float], float], best: float, lowest: float, highest: float) -> tuple[float, float]:
    """Where ``excess`` (negative inside) changes sign on either side of ``best``."""

    def side(end: float) -> float:
        step, inside = (end - best) / 256.0, best
        for _ in range(9):
            outside = best + step
            if excess(outside) > 0:
                break
            inside, step = outside, step * 2.0
        else:
            return end
        for _ in range(14):
            middle = 0.5 * (inside + outside)
            if excess(middle) > 0:
                outside = middle
            else:
                inside = middle
        return 0.5 * (inside + outside)

    return side(lowest), side(highest)


def _effective_points(residual: Array) -> float:
    n = len(residual)
    power = float(residual @ residual)
    if power < 1e-12:
        return float(n)
    rho = float(residual[:-1] @ residual[1:]) / power
    rho = min(max(rho, 0.0), 0.99)
    return max(n * (1.0 - rho) / (1.0 + rho), 8.0)


def _judge(
    stretch: Stretch, y: Array, rms: float, gain: float, low: float, high: float, lag: float, span_s: float
) -> tuple[FitVerdict, str]:
    if gain <= 0:
        return FitVerdict.POOR, (
            "The reading falls when the output rises. Look for reversed sensor leads, a wrong action or swapped columns."
        )
    if rms > MISSES * float(np.ptp(y)):
        return FitVerdict.POOR, (
            f"The model misses the reading by {difference(rms, '.2g')} rms, more than a twentieth of its travel. "
            "Something else moved it: a door, another heater, a second lag. Choose a calmer stretch."
        )
    levels = len(np.unique(np.round(stretch.output, 1)))
    saturated = bool(np.any(stretch.output <= SATURATED) or np.any(stretch.output >= 100.0 - SATURATED))
    moved = stretch.setpoint_c is not None and float(np.ptp(stretch.setpoint_c)) > MOVED_C
    if levels > MANY_LEVELS and not saturated and not moved:
        return FitVerdict.BIASED, (
            "The loop was closed and nobody changed the set-point, so output and disturbances are entangled. "
            "Use a heat-up or a set-point change."
        )
    if (high - low) > WIDE * gain or span_s < SHORT * lag:
        return FitVerdict.SLOPE_ONLY, (
            "The stretch ends long before the reading would level off: the rate at full power is known, "
            "gain and lag apart are not. The controller gain rests on their ratio; the simulated heat-up is less certain."
        )
    return (
        FitVerdict.SUPPORTED,
        f"The model follows the reading within {difference(rms, '.2g')} rms over {quantity(span_s / 60, 'min', '.0f')}.",
    )
