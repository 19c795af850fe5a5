"""FOPDT identification from a stretch of any run: least squares on the true time stamps and the true outputs.

Model: ``y(t) = T_a + (y₀ − T_a) e^(−(t−t₀)/τ) + K f(t; τ, L) + K u₋ g(t; τ, L)``: f is the exact response to the recorded output, g
that to an output u₋ held before the record began, where nobody knows it. For given L and τ all else is linear: K, y₀, the ambient
T_a (near what was told; y₀ itself where the run starts cold) and K u₋ (0…100 %). Dead time makes the cost non-smooth, so L is searched
on a grid and its interval comes from the profile of the cost, not from a Hessian. Residuals of real logs are correlated; the
interval uses the effective number of independent points n (1 − ρ)/(1 + ρ), ρ the lag-one correlation, and is widened by the on-time
that late rows leave unknown. Source: Ljung, System Identification, 2nd ed., ch. 7 and 9; profile likelihood as in Bates & Watts,
Nonlinear Regression, ch. 6.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
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
"""Rows a cycle of the switch that tell its duty (common practice, no source)."""
HALF_ON = 0.5
LEAST_CYCLES, MANY, LONGEST_DEAD = 3, 0.05, 0.4
CYCLES_AWAY = 6
"""Cycles that are a rhythm; the share of the stretch below which one is short; the longest dead time looked for, as a share of it;
and by how many cycles a dead time may be taken wrongly before it is looked for again."""
LEAST_POINTS, MOST_POINTS = 20, 6000
"""Points a fit needs, and takes (our choice)."""
LEAST_CHANGE, SATURATED, MANY_LEVELS = 5.0, 0.5, 10
"""Change of the output that can teach something, %; an output at its end, %; levels beyond which a controller moved it (our
choice)."""
MISSES, SHORT, MOVED_C = 0.05, 0.4, 0.5
"""Residual as a share of the travel that is poor; span against the lag at which only the slope is known; a set-point that moved, °C
(our choice)."""
WELL_KNOWN = 0.2
"""Relative half-width of an interval, or a row's distance over the dead time, up to which a figure is known (our choice)."""
COLOURED, FINE = 3.0, 0.015
"""Residual over noise from which it is no noise, where it is also more than this share of the travel (our choice)."""
COLD_C = 3.0
"""A start this near the ambient is one from rest with the output off, °C (our choice)."""
AMBIENT_SURE_C, AMBIENT_SHARE, START_SURE_C, LEAST_NOISE_C = 2.0, 0.25, 5.0, 0.05
"""How sure the told ambient is, °C, or as a share of the way up (a gain that changes with temperature moves where the straight line
ends); the first reading; and the least noise of one."""

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
    """Equal-length columns of one stretch of a run: s, °C, %; ``earlier_s`` and ``earlier_output`` are the rows before it, if the
    run has any; ``output_before`` is the output before all of them, ``None`` where nobody knows it.

    ``ambient_c`` is where the reading goes with no heat; a stretch that starts cold is taken to start near it.
    """

    time_s: Array
    reading_c: Array
    output: Array
    ambient_c: float
    output_before: float | None = None
    setpoint_c: Array | None = None
    earlier_s: Array = field(default_factory=lambda: np.empty(0))
    earlier_output: Array = field(default_factory=lambda: np.empty(0))


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
    columns: Array


def drive_of(series: Series) -> Array:
    """What the heater got, in %, row by row: the commanded output, or the switch state where only that was logged.

    A state sampled in step with the control period misjudges the duty, so the commanded output is preferred.
    Raises ``Refused`` when only the state is known and it was sampled too slowly to tell the duty.
    """
    has_output, has_switch = bool(np.isfinite(series.output).any()), bool(np.isfinite(series.switch).any())
    interval = timing(series.time_s).interval_s
    if has_output:
        return series.output
    if has_switch and _tells_duty(series, interval):
        return 100.0 * series.switch
    if has_switch:
        raise refuse(
            "run",
            f"it has only the switch state, every {quantity(interval, 's', '.3g')}, and that changes as fast: its duty cannot be told",
            "rows at least five times as often as it switches, or the commanded output",
        )
    raise refuse("run", "nothing in it shows what the heater did", "a run with output or switch state")


def _tells_duty(series: Series, interval_s: float) -> bool:
    """Whether a state was logged often enough: its own cycles say so, no control period is needed."""
    state = series.switch[np.isfinite(series.switch)] > HALF_ON
    edges = int(np.count_nonzero(np.diff(state)))
    if edges < 2:
        return True  # one heat-up or one cool-down
    return 2.0 * len(state) / edges >= SAMPLES_A_PERIOD and interval_s > 0


def identify(stretch: Stretch) -> Identified:
    """Fit a FOPDT. Raises ``Refused`` when the stretch holds nothing to learn from."""
    t, y, changes = _checked(stretch)
    span_s = float(t[-1] - t[0])
    lowest_lag, highest_lag = max(span_s / 500.0, float(np.median(np.diff(t))) / 2), span_s * 10.0

    start = float(np.median(y[:3]))
    cold = changes.before in (None, 0.0) and _is_cold(stretch, y)
    sure_c = max(AMBIENT_SURE_C, AMBIENT_SHARE * abs(start - stretch.ambient_c))
    noise = max(float(np.std(np.diff(y, 2))) / 6.0**0.5, LEAST_NOISE_C)
    since = t - t[0]
    # what is known beforehand, as rows of the same least squares: K nothing, y₀ a little, T_a what was told, K u₋ nothing
    known = np.diag([0.0, (noise / START_SURE_C) ** 2, 0.0 if cold else (noise / sure_c) ** 2, 0.0])
    expected = np.array([0.0, start, stretch.ambient_c, 0.0])

    def fit(dead: float, lag: float) -> _Fit:
        f = unit_response(t, changes.times_s, changes.values, changes.before or 0.0, 1.0 / lag, dead)
        if cold:  # at rest: start and ambient are one level, and the output was off
            columns = np.stack([f, np.ones(len(t))])
            free = 2
            solved = _solve(columns, y, known, expected, free)
        else:
            decay = np.exp(-since / lag)
            unknown = (1.0 - np.exp(-np.minimum(since, dead) / lag)) * np.exp(-np.maximum(since - dead, 0.0) / lag)
            columns = np.stack([f, decay, 1.0 - decay, unknown])
            free = 3 if changes.before is not None or dead <= 0 else 4
            solved = _solve(columns, y, known, expected, free)
            if free == 4 and not 0.0 <= solved[3] <= 100.0 * abs(solved[0]):
                held = min((0.0, 100.0), key=lambda e: abs(solved[3] - e * abs(solved[0])))
                columns[0] += held * unknown
                free = 3
                solved = _solve(columns, y, known, expected, free)
        modelled = solved @ columns
        off = solved[:free] - expected[:free]
        left = y - modelled
        cost = float(left @ left + off @ known[:free, :free] @ off)
        return _Fit(cost, float(solved[0]), modelled, float(solved[1 if cold else 2]), columns[:free])

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

    dead = _best_dead_time(lambda value: best_lag(value)[0], span_s, changes.cycle_s)
    cost, lag = best_lag(dead)
    best = fit(dead, lag)
    gain = best.gain
    residual = y - best.modelled
    effective = _effective_points(residual)
    threshold = cost * (1.0 + CHI2_95 / max(effective - 3.0, 1.0)) + 1e-9

    dead_low, dead_high = _interval(lambda d: best_lag(d)[0] - threshold, dead, 0.0, span_s * 0.6)
    lag_cost = _lag_profile(fit, dead, dead_low, dead_high)
    lag_low, lag_high = _interval(lambda v: lag_cost(v)[0] - threshold, lag, lowest_lag, highest_lag)
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
    halves = (
        (gain_high - gain_low) / 2.0 / abs(gain) if gain else np.inf,
        (lag_high - lag_low) / 2.0 / lag,
        (dead_high - dead_low) / 2.0 / max(dead, float(np.median(np.diff(t))) / WELL_KNOWN),
    )
    verdict, reason = _judge(stretch, y, rms, gain, max(halves), rms / noise, span_s / lag, span_s)
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


@dataclass(frozen=True)
class _Changes:
    """When the output changed and to what, %, ``before`` the first of them; and the share of the on-time that is unknown because
    rows came late: an edge between two rows may be anywhere between them."""

    times_s: Array
    values: Array
    before: float | None
    unknown_share: float

    @property
    def cycle_s(self) -> float:
        """The usual time from one rise of the output to the next, s; 0 where it hardly cycles."""
        up = self.times_s[1:][np.diff(self.values) > 0]
        return float(np.median(np.diff(up))) if len(up) > LEAST_CYCLES else 0.0


def _checked(stretch: Stretch) -> tuple[Array, Array, _Changes]:
    good = np.isfinite(stretch.reading_c) & np.isfinite(stretch.output) & np.isfinite(stretch.time_s)
    t, y, u = stretch.time_s[good], stretch.reading_c[good], stretch.output[good]
    if len(t) < LEAST_POINTS:
        raise refuse("stretch", f"only {len(t)} usable points in this stretch", "at least 20")
    if not bool(np.all(np.diff(t) > 0)):
        raise refuse("stretch", "time does not rise from row to row", "rising time stamps")
    changes = _changes(stretch, t, u)
    seen = np.append(u, [v for v in (changes.before, *stretch.earlier_output[-1:]) if v is not None])
    if float(np.ptp(seen)) < LEAST_CHANGE and not _starts_from_rest(stretch, y, u):
        raise refuse(
            "stretch", "the output hardly changed here, so nothing shows what it does", "a change of at least 5 %"
        )
    if float(np.ptp(y)) < 1.0:
        raise refuse("stretch", "the reading moved less than {1 Δ°C}, too little to learn from", "at least {1 Δ°C}")
    if len(t) > MOST_POINTS:
        stride = len(t) // MOST_POINTS + 1
        t, y = t[::stride], y[::stride]
    return t, y, changes


def _starts_from_rest(stretch: Stretch, y: Array, u: Array) -> bool:
    """A heat-up from cold whose first row already has the output on: off before, as its temperature says."""
    unknown = stretch.output_before is None and not len(stretch.earlier_s)
    return unknown and _is_cold(stretch, y) and float(u[0]) >= LEAST_CHANGE


def _is_cold(stretch: Stretch, y: Array) -> bool:
    """Rows may be far apart: the first alone may still be cold."""
    return (
        not len(stretch.earlier_s) and min(abs(float(v) - stretch.ambient_c) for v in (y[0], np.median(y[:3]))) < COLD_C
    )


def _changes(stretch: Stretch, t: Array, u: Array) -> _Changes:
    """From every row there is, also before the stretch: edges on their way through the dead time count too."""
    told = np.isfinite(stretch.earlier_output)
    times = np.concatenate((stretch.earlier_s[told], t))
    values = np.concatenate((stretch.earlier_output[told], u))
    changed = np.flatnonzero(
        np.diff(values, prepend=np.nan if stretch.output_before is None else stretch.output_before) != 0.0
    )
    step = np.diff(times)
    given = float(np.sum(np.abs(values[:-1]) * step))
    share = 0.0
    if given > 0 and len(changed):
        edges = changed[changed > 0]
        late = step[edges - 1]
        jumps = np.abs(np.diff(values))[edges - 1]
        lost = float(np.sum(jumps * np.maximum(late - np.median(step), 0.0)))
        spread = float(np.sqrt(np.sum((jumps * late) ** 2) / 12.0))
        share = (lost + 2.0 * spread) / given
    return _Changes(times[changed], values[changed], stretch.output_before, share)


def _solve(columns: Array, y: Array, known: Array, expected: Array, free: int) -> Array:
    """The linear parameters that fit best, the first ``free`` of them; the others are zero."""
    x, n = columns[:free], free
    normal = x @ x.T + known[:n, :n]
    normal.flat[:: n + 1] += 1e-12 * np.trace(
        normal
    )  # a column may be nothing at all, as f is before the delay has passed
    solved = np.zeros(len(columns))
    solved[:n] = np.linalg.solve(normal, x @ y + known[:n, :n] @ expected[:n])
    return solved


def _best_dead_time(cost: Callable[[float], float], span_s: float, cycle_s: float) -> float:
    """Grid, then finer grids round the best. Dense at short delays; a log of pulses repeats its minimum every cycle, so the delays
    some cycles away from the best are tried too."""
    grid = LONGEST_DEAD * span_s * np.linspace(0.0, 1.0, 41) ** 2
    _, best = _refined(cost, grid, int(np.argmin([cost(float(d)) for d in grid])), span_s)
    if 0.0 < cycle_s < MANY * span_s:
        others = best + cycle_s * np.arange(-CYCLES_AWAY, CYCLES_AWAY + 1)
        others = others[(others >= 0.0) & (others < LONGEST_DEAD * span_s)]
        costs = [cost(float(d)) for d in others]
        i = int(np.argmin(costs))
        near = np.linspace(max(others[i] - 0.4 * cycle_s, 0.0), others[i] + 0.4 * cycle_s, 9)
        best = min(_refined(cost, near, int(np.argmin([cost(float(d)) for d in near])), span_s), (cost(best), best))[1]
    return best


def _refined(cost: Callable[[float], float], grid: Array, i: int, span_s: float) -> tuple[float, float]:
    """(cost, dead time) at the bottom of the valley round ``grid[i]``."""
    while True:
        low, high = float(grid[max(i - 1, 0)]), float(grid[min(i + 1, len(grid) - 1)])
        if high - low < 2e-4 * span_s:
            return cost(float(grid[i])), float(grid[i])
        grid = np.linspace(low, high, 9)
        i = int(np.argmin([cost(float(d)) for d in grid]))


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
    stretch: Stretch, y: Array, rms: float, gain: float, half_width: float, colour: float, lags: float, span_s: float
) -> tuple[FitVerdict, str]:
    """``half_width``: the largest relative one of gain, lag and dead time; ``colour``: residual over the reading's own noise;
    ``lags``: how many of them the stretch lasts."""
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
    if lags < SHORT:
        return FitVerdict.SLOPE_ONLY, (
            "The stretch ends long before the reading would level off: the rate at full power is known, "
            "gain and lag apart are not. The controller gain rests on their ratio; the simulated heat-up is less certain."
        )
    if colour > COLOURED and rms > FINE * float(np.ptp(y)):
        return FitVerdict.SLOPE_ONLY, (
            f"What is left ({difference(rms, '.2g')} rms) is no noise but a slow swing: something this model does not have moves the "
            "reading too, so its intervals are too narrow."
        )
    if half_width > WELL_KNOWN:
        return FitVerdict.SLOPE_ONLY, (
            f"One of gain, lag and dead time is known to {quantity(min(half_width, 9.99) * 100, '%', '.0f')} only: the rate at full power "
            "is better known than they are apart. A longer stretch, or one more step of the output, tells them apart."
        )
    return (
        FitVerdict.SUPPORTED,
        f"The model follows the reading within {difference(rms, '.2g')} rms over {quantity(span_s / 60, 'min', '.0f')}.",
    )
