"""The process in a stretch of any run: a first or second order with dead time, by the likelihood of its exact response.

The true time stamps and outputs are used, whatever was recorded: a step, a bump at temperature, cycles, a set-point change. Level, ambient,
the output before the record and how the surroundings wander are estimated with the gain (:mod:`.record`); the noise, white and slow, is
the likeliest (:mod:`.likelihood`). Dead time makes the cost jagged, so intervals are the profile of the likelihood over a grid
(:mod:`.region`), never a curvature. Source: Ljung, System Identification, 2nd ed., ch. 7 and 16; profile likelihood as in Bates & Watts,
Nonlinear Regression, ch. 6; second lag by the information criterion of Schwarz (1978).
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from ..explain import Figure, Input
from ..process.models import FOPDT, SOPDT, half_rule
from ..units import Kind
from .drift import ROOM_C
from .fit_verdict import WELL_KNOWN, Fitness, FitVerdict, judge
from .record import Noise, Record
from .region import Place, Region, coarse, cycles_away, refined, region, with_best_share, with_second
from .settling import settled
from .stretch import Stretch, checked

Array = NDArray[np.float64]

COARSE_ROWS, CLOSER_ROWS, ROUNDED_ROWS, TESTED_ROWS = 300, 1500, 600, 300
SURE, LEAST_FREE = 0.975, 4.0
WIDENED, WIDENED_ROUNDED = 1.2, 1.4
"""How much further in likelihood an interval reaches because the noise is only estimated, and where the display hides it (our choice, by
simulation: ``./rellux endure``)."""
FAMILY, NEARLY = 24, 3.0
LEARNT, LEAST_LEARNT = 0.6, 40
"""The share of a stretch from which the rest is predicted, to try the model; and the rows that takes (our choice)."""
SLIGHT = 0.005
"""What a prediction may miss by as a share of the travel, whatever the noise (our choice)."""
LEAST_MEAN = 5.0
"""Of the output, %, by which what moved slowly is divided at the least (our choice)."""
STAYS = 0.1
"""Noise that stays for more than this share of the process's own time is something the model does not have (our choice)."""
SOURCE = "likelihood of the exact response; Ljung, System Identification, 2nd ed."


@dataclass(frozen=True)
class Identified:
    """The model with 95 % intervals, what it leaves unexplained, and whether to trust it.

    ``process``: first order, a second lag shared out by the half rule; ``model``: as it was found; ``extra``: figures of the second lag.
    ``low_c``/``high_c``: where the family within the interval lies over the record. ``slow_gain``: the gain that may come more slowly than
    the record shows, as far as something slow moved it, °C/%; ``noise_c`` of one reading, without what stays."""

    process: FOPDT
    model: FOPDT | SOPDT
    gain: Figure
    lag: Figure
    dead_time: Figure
    slope: Figure
    extra: tuple[Figure, ...]
    slow_gain: float
    noise: Noise
    noise_c: float
    residual_c: float
    points: int
    verdict: FitVerdict
    verdict_reason: str
    time_s: Array
    measured_c: Array
    modelled_c: Array
    low_c: Array
    high_c: Array


@dataclass(frozen=True)
class _Found:
    record: Record
    noise: Noise
    best: Place
    region: Region
    limit: float


def identify(stretch: Stretch) -> Identified:
    """Find the process. Raises ``Refused`` when the stretch holds nothing to learn from."""
    t, y, changes = checked(stretch)
    record = Record(t, y, changes, stretch)
    found = _found(record)
    best, fit = found.best, found.record.at(found.noise, *found.best.model)
    modelled = record.modelled(fit.theta, *best.model)
    residual = y - modelled
    rms = float(np.sqrt(np.mean(residual**2)))
    model = SOPDT(fit.gain, *best.model) if best.share else FOPDT(fit.gain, best.lag_s, best.dead_s)
    process = half_rule(model) if isinstance(model, SOPDT) else model
    drift_c, lasts = record.drift.furthest(fit.theta[record.ways]), _lasts(found)
    noise_c = found.noise.quick_c if lasts else found.noise.total_c
    inputs = (
        Input("points", len(t), Kind.COUNT, "n", "run"),
        Input("stretch", record.span_s, Kind.TIME, "T", "run"),
        Input("noise of a reading", noise_c, Kind.DIFFERENCE, "σ", "fit"),
        Input("surroundings wander by, at most", drift_c, Kind.DIFFERENCE, "ΔT_a", "fit"),
        Input("residual, rms", rms, Kind.DIFFERENCE, "r", "fit"),
    )

    def figure(name: str, kind: Kind, symbol: str, of: Of, why: str, wider: float = 0.0) -> Figure:
        value = float(of(*(np.array([v]) for v in (fit.gain, *best.model)))[0])
        low, high = found.region.interval(found.limit, of)
        low, high = min(low, value) - wider * abs(value), max(high, value) + wider * abs(value)
        return Figure(
            name,
            value,
            kind,
            formula=FORMULA,
            inputs=inputs,
            reason=why,
            source=SOURCE,
            symbol=symbol,
            low=low,
            high=high,
        )

    late = changes.unknown_share
    gain = figure("process gain", Kind.GAIN, "K", lambda k, a, b, d: k, "How far one percent of output moves it.", late)
    lag = figure("lag", Kind.TIME, "τ", lambda k, a, b, d: a + b / 2.0, "The time to go 63 % of the way.")
    dead = figure(
        "dead time", Kind.TIME, "L", lambda k, a, b, d: d + b / 2.0, "The reading begins to follow this long after it."
    )
    why = "Better known than gain and lag apart when the record is short."
    slope = figure("rate at full power", Kind.RATE, "100 K/τ", lambda k, a, b, d: 6000.0 * k / (a + b / 2.0), why, late)
    extra: tuple[Figure, ...] = ()
    if best.share:
        extra = (
            figure(
                "second lag",
                Kind.TIME,
                "τ₂",
                lambda k, a, b, d: b,
                "Of the element or the sensor. Half counts as lag, half as dead time.",
            ),
            figure(
                "dead time and second lag",
                Kind.TIME,
                "L + τ₂",
                lambda k, a, b, d: d + b,
                "Better known together than apart.",
            ),
        )
    floor = record.usual_s / WELL_KNOWN
    fitness = Fitness(
        rms,
        gain.low if gain.low is not None else gain.value,
        gain.value,
        max(_half(gain), _half(lag), _half(dead, floor)),
        float(np.sqrt(max(rms**2 - found.noise.white_c**2, 0.0))) if lasts else 0.0,
        record.span_s / process.lag_s,
        record.span_s,
        drift_c,
        _when(t, residual),
        _held_out(found),
    )
    verdict, reason = judge(stretch, y, fitness)
    low, high = _family(found, record)
    return Identified(
        process,
        model,
        gain,
        lag,
        dead,
        slope,
        extra,
        0.0 if verdict is FitVerdict.SUPPORTED else abs(drift_c) / max(changes.mean_over(t[0], t[-1]), LEAST_MEAN),
        found.noise,
        noise_c,
        rms,
        len(t),
        verdict,
        reason,
        t,
        y,
        modelled,
        low,
        high,
    )


Of = Callable[[Array, Array, Array, Array], Array]
FORMULA = "y(t) = T_a + (y₀ − T_a) e^(−t/τ) + K f(t; τ, L)"


def _half(figure: Figure, least: float = 1e-12) -> float:
    """Half the width of its interval as a share of it."""
    assert figure.low is not None and figure.high is not None
    return (figure.high - figure.low) / 2.0 / max(abs(figure.value), least)


def _found(record: Record) -> _Found:
    """The best model, with a second lag where it is worth its parameter, the noise, and everything nearly as good."""
    if record.is_coarse:
        record = record.thinned(ROUNDED_ROWS)  # ten times the work a row
    thin = record.thinned(COARSE_ROWS)
    noise, span = thin.first_noise(), record.span_s
    first = min((refined(thin, noise, p, (0.3, 0.03 * span), 8) for p in coarse(thin, noise)), key=lambda f: f[0])[1]
    if others := cycles_away(thin, first):
        closer = record.thinned(CLOSER_ROWS)
        first = min(
            (refined(closer, noise, p, (0.05, 0.2 * record.changes.cycle_s), 5) for p in others), key=lambda f: f[0]
        )[1]
    second = with_second(thin, noise, first)
    one, two = (settled(record, noise, place) for place in (first, second))
    simple = _marginal(record, *one) - float(np.log(len(record.t)))
    gained = simple - _marginal(record, *two)
    if gained > -NEARLY:
        two = settled(record, two[0], with_best_share(record, *two))
        gained = simple - _marginal(record, *two)
    noise, best = two if gained > 0.0 else one
    limit = float(scipy.stats.t.ppf(SURE, max(len(record.t) * noise.worth - LEAST_FREE, LEAST_FREE))) ** 2
    return _Found(
        record, noise, best, region(record, noise, best), limit * (WIDENED_ROUNDED if noise.quantum else WIDENED)
    )


def _marginal(record: Record, noise: Noise, place: Place) -> float:
    return record.at(noise, *place.model).marginal


def _lasts(found: _Found) -> bool:
    """Whether the slow noise stays for a good part of the process's time: then it is something that the model does not have."""
    stays = found.record.usual_s / -np.log(max(found.noise.correlation, 1e-6))
    return bool(stays > STAYS * sum(found.best.model))


def _when(t: Array, residual: Array) -> float:
    """Where in the record, s from its beginning, it is furthest from the model."""
    wide = max(len(t) // 50, 1)
    smooth = np.convolve(residual, np.ones(wide) / wide, mode="same")
    return float(t[int(np.argmax(np.abs(smooth)))] - t[0])


def _family(found: _Found, record: Record) -> tuple[Array, Array]:
    """The lowest and the highest that the models within the interval are over the record."""
    low, high = np.full(len(record.t), np.inf), np.full(len(record.t), -np.inf)
    for ln_lag, second, dead in found.region.some(found.limit, FAMILY):
        fit = record.at(found.noise, float(np.exp(ln_lag)), float(second), float(dead))
        modelled = record.modelled(fit.theta, float(np.exp(ln_lag)), float(second), float(dead))
        low, high = np.minimum(low, modelled), np.maximum(high, modelled)
    return low, high


def _held_out(found: _Found) -> float | None:
    """The share of the last part of the record that lies within the 95 % band predicted from the first; ``None`` where the first part
    holds too little to learn from."""
    thin = found.record.thinned(TESTED_ROWS)
    learnt = thin.until(float(thin.t[0]) + LEARNT * thin.span_s)
    if len(learnt.t) < LEAST_LEARNT or not np.any(learnt.changes.times_s < learnt.t[-1] - 2.0 * found.best.dead_s):
        return None
    noise, best = settled(learnt, found.noise, found.best)
    near = region(learnt, noise, best)
    low, high = np.full(len(thin.t), np.inf), np.full(len(thin.t), -np.inf)
    for ln_lag, second, dead in near.some(found.limit, FAMILY):
        lag = float(np.exp(ln_lag))
        fit = learnt.at(noise, lag, float(second), float(dead))
        for gain in fit.gain + np.sqrt(fit.variance) * np.array([-2.0, 0.0, 2.0]):
            theta = fit.theta.copy()
            theta[0], theta[learnt.ways] = gain, 0.0
            modelled = thin.modelled(theta, lag, float(second), float(dead))
            low, high = np.minimum(low, modelled), np.maximum(high, modelled)
    after = thin.t > learnt.t[-1]
    wandered = noise.wander * ROOM_C * float(np.sqrt(thin.span_s / 3600.0))
    room = 2.0 * float(np.hypot(noise.total_c, wandered)) + noise.quantum / 2.0
    room = max(room, SLIGHT * float(np.ptp(thin.y)))
    inside = (thin.y >= low - room) & (thin.y <= high + room)
    return float(np.mean(inside[after]))
