"""The process in stretches of any runs: one lag with dead time, and what it may have besides, by the likelihood of its exact response.

The true time stamps and outputs are used, whatever was recorded: a step, a bump at temperature, cycles, a set-point change; one stretch or
several of the same process. Level, ambient, the output before the record and how the surroundings wander are estimated with the gain
(:mod:`.record`); the noise, white and slow, is the likeliest (:mod:`.likelihood`). Dead time makes the cost jagged, so intervals are the
profile of the likelihood over a grid (:mod:`.region`), never a curvature; which form (:mod:`.forms`) by the information criterion of
Schwarz (1978). Source: Ljung, System Identification, 2nd ed., ch. 7 and 16; profile likelihood as in Bates & Watts, Nonlinear Regression,
ch. 6.
"""

from dataclasses import dataclass, replace

import numpy as np
import scipy
from numpy.typing import NDArray

from ..explain import Figure, Input
from ..messages import quantity
from ..process.models import FOPDT, SOPDT, Integrating
from ..units import Kind
from .begun import begun
from .cycles import likeliest
from .drift import ROOM_C
from .explained import FAMILY, Found, family, figures, process_of, walls_add
from .fit_verdict import WELL_KNOWN, Fitness, FitVerdict, half_width, judge
from .forms import COOLING, COSTS, ENDS, FIRST, MOSTLY, OFF, SECOND, SLOWER, WALLS, Place
from .noise import Noise
from .record import Records
from .region import coarse, cycles_away, longest, refined, region, with_best_extra, with_more
from .settling import settled
from .stretch import Stretch, checked

Array = NDArray[np.float64]

COARSE_ROWS, CLOSER_ROWS, ROUNDED_ROWS, TESTED_ROWS = 300, 1500, 600, 300
SURE, LEAST_FREE = 0.975, 4.0
WIDENED, WIDENED_ROUNDED = 1.2, 1.4
"""How much further in likelihood an interval reaches because the noise is only estimated, and where the display hides it (our choice, by
simulation: ``./rellux endure``)."""
NEARLY = 3.0
LEARNT, LEAST_LEARNT = 0.6, 40
"""The share of the last stretch from which the rest is predicted, to try the model; and the rows that takes (our choice)."""
SLIGHT = 0.005
"""What a prediction may miss by as a share of the travel, whatever the noise (our choice)."""
LEAST_MEAN = 5.0
"""Of the output, %, by which what moved slowly is divided at the least (our choice)."""
BOTH = 5
"""Rows that must heat, and that must not, before a lag of cooling is looked for (our choice)."""
DISAGREE, MATTERS = 0.01, 0.05
"""Chance below which several stretches are not of one gain, and the share of it by which they must differ, or more may come of what is
slow (our choice)."""


@dataclass(frozen=True)
class Fitted:
    """One stretch with the model over it; ``low_c``/``high_c``: where all within the interval lie; ``begun``: what it began from."""

    time_s: Array
    measured_c: Array
    modelled_c: Array
    low_c: Array
    high_c: Array
    begun: tuple[Figure, ...]


@dataclass(frozen=True)
class Ahead:
    """What the first part of a record foresees of the rest: the share of rows within the 95 % band, and what they are off by, °C rms."""

    share: float
    miss_c: float


@dataclass(frozen=True)
class Identified:
    """The model with 95 % intervals, what it leaves unexplained, and whether to trust it.

    ``process``: first order, a second lag shared out by the half rule, of walls that warm up what comes at once; ``model``: as it was
    found, integrating where it may rise for ever; ``extra``: figures of what it has besides. ``slow_gain``: the gain that may come more
    slowly than the record shows, as far as something slow moved it, or that walls add, °C/%; ``noise_c`` of one reading, without what
    stays; ``row_s``: how far apart its rows usually are; ``fitted``: stretch by stretch; ``ahead``: how well the first part of the last
    one foresees its rest."""

    process: FOPDT
    model: FOPDT | SOPDT | Integrating
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
    row_s: float
    verdict: FitVerdict
    verdict_reason: str
    fitted: tuple[Fitted, ...]
    ahead: Ahead | None


def identify(stretch: Stretch, *more: Stretch) -> Identified:
    """Find the process that one stretch shows, or several. Raises ``Refused`` when one holds nothing to learn from."""
    stretches = (stretch, *more)
    record = Records.of([(*checked(s), s) for s in stretches])
    found = _found(record)
    best, fit = found.best, record.at(found.noise, *found.best.model)
    modelled = [p.modelled(theta, *best.model) for p, theta in zip(record.parts, fit.thetas, strict=True)]
    residuals = [p.y - m for p, m in zip(record.parts, modelled, strict=True)]
    rms = float(np.sqrt(np.mean(np.concatenate(residuals) ** 2)))
    process, model = process_of(found)
    drifts = [p.drift.furthest(theta[p.ways]) for p, theta in zip(record.parts, fit.thetas, strict=True)]
    drift_c = max(drifts, key=abs)
    noise_c = found.noise.quick_c if found.lasts else found.noise.total_c
    inputs = (
        Input("points", record.rows, Kind.COUNT, "n", "run"),
        Input("stretch", record.span_s, Kind.TIME, "T", "run"),
        Input("noise of a reading", noise_c, Kind.DIFFERENCE, "σ", "fit"),
        Input("surroundings wander by, at most", drift_c, Kind.DIFFERENCE, "ΔT_a", "fit"),
        Input("residual, rms", rms, Kind.DIFFERENCE, "r", "fit"),
    )
    told = figures(found, inputs, max(p.changes.unknown_share for p in record.parts))
    ahead = _held_out(found)
    worst = max(range(len(residuals)), key=lambda i: float(np.abs(residuals[i]).max()))
    fitness = Fitness(
        rms,
        told.gain.low if told.gain.low is not None else told.gain.value,
        told.gain.value,
        max(half_width(told.gain), half_width(told.lag), half_width(told.dead_time, record.usual_s / WELL_KNOWN)),
        float(np.sqrt(max(rms**2 - found.noise.white_c**2, 0.0))) if found.lasts else 0.0,
        sum(p.span_s for p in record.parts) / process.lag_s,
        record.span_s,
        drift_c,
        _when(record.parts[worst].t, residuals[worst]),
        ahead.share if ahead else None,
        not isinstance(model, Integrating),
        _apart(found),
        found.best.dead_s,
        found.alike_s,
    )
    verdict, reason = judge(stretches, fitness)
    last = record.parts[-1]
    mean = max(last.changes.mean_over(last.t[0], last.t[-1]), LEAST_MEAN)
    unseen = 0.0 if verdict is FitVerdict.SUPPORTED else abs(drift_c) / mean
    low, high = family(found)
    curves = zip(record.parts, modelled, low, high, strict=True)
    fitted = (Fitted(p.t, p.y, m, lo, hi, begun(found, i)) for i, (p, m, lo, hi) in enumerate(curves))
    return Identified(
        process,
        model,
        _with_slow(told.gain, unseen),
        told.lag,
        told.dead_time,
        told.slope,
        told.extra,
        unseen + walls_add(found),
        found.noise,
        noise_c,
        rms,
        record.rows,
        record.usual_s,
        verdict,
        reason,
        tuple(fitted),
        ahead,
    )


def _found(record: Records) -> Found:
    """The best model of the likeliest form, the noise, and everything nearly as good."""
    if record.is_coarse:
        record = record.thinned(ROUNDED_ROWS)  # ten times the work a row
    thin = record.thinned(COARSE_ROWS)
    noise, span = thin.first_noise(), record.span_s
    first = min((refined(thin, noise, p, (0.3, 0.03 * span), 8) for p in coarse(thin, noise)), key=lambda f: f[0])[1]
    if others := cycles_away(thin, first):
        closer = record.thinned(CLOSER_ROWS)
        first = min((refined(closer, noise, p, (0.05, 0.2 * record.cycle_s), 5) for p in others), key=lambda f: f[0])[1]
    (best_noise, best), _ = likeliest(record, noise, settled(record, noise, first))
    first, least = best, record.marginal(best_noise, *best.model)
    free = float(np.log(record.rows))
    plain = thin.at(noise, *first.model).deviance
    for form in _forms(record):
        place = with_more(thin, noise, first, form)
        if form != SECOND and plain - thin.at(noise, *place.model).deviance < COSTS[form] * free:
            continue
        tried = settled(record, noise, place)
        costs = record.marginal(tried[0], *tried[1].model) + COSTS[form] * free
        if costs < least + NEARLY:
            tried = settled(record, tried[0], with_best_extra(record, *tried))
            costs = record.marginal(tried[0], *tried[1].model) + COSTS[form] * free
        if costs < least and _stands(record, *tried):
            least, (best_noise, best) = costs, tried
    (best_noise, best), alike_s = likeliest(record, best_noise, (best_noise, best))
    limit = float(scipy.special.stdtrit(max(record.rows * best_noise.worth - LEAST_FREE, LEAST_FREE), SURE)) ** 2
    limit *= WIDENED_ROUNDED if best_noise.quantum else WIDENED
    return Found(record, best_noise, best, region(record, best_noise, best), limit, alike_s)


def _forms(record: Records) -> tuple[int, ...]:
    """What is looked for besides one lag: cooling where it heats and does not, walls where one stretch shows them."""
    outputs = np.concatenate([p.stretch.output[np.isfinite(p.stretch.output)] for p in record.parts])
    heats = int(np.sum(outputs > OFF))
    cooling = (COOLING,) if BOTH <= heats <= len(outputs) - BOTH else ()
    return (SECOND, *cooling, *((WALLS,) if len(record.parts) == 1 else ()))


def _stands(record: Records, noise: Noise, place: Place) -> bool:
    """Walls add to the gain, slowly; whatever takes from it, or does it nearly as quickly as the chamber, is something else."""
    if place.form != WALLS:
        return True
    theta = record.at(noise, *place.model).thetas[0]
    adds = theta[record.parts[0].warms] / max(theta[0], 1e-12)
    return bool(0.0 < adds < MOSTLY and place.extra > SLOWER * ENDS[WALLS][0])


def _with_slow(gain: Figure, unseen: float) -> Figure:
    """The gain, said to be more in the end where something slow moved the reading meanwhile."""
    if unseen <= MATTERS * abs(gain.value):
        return gain
    more = quantity(unseen, "°C/%", ".2g")
    return replace(
        gain,
        reason=f"{gain.reason} Something slow moved the reading meanwhile: up to {more} more may come of it in the end, and what is "
        "foretold counts with that.",
    )


def _when(t: Array, residual: Array) -> float:
    """Where in the stretch, s from its beginning, it is furthest from the model."""
    wide = max(len(t) // 50, 1)
    smooth = np.convolve(residual, np.ones(wide) / wide, mode="same")
    return float(t[int(np.argmax(np.abs(smooth)))] - t[0])


def _apart(found: Found) -> tuple[float, float] | None:
    """The least and the most gain of several stretches, each by itself and with its own noise (under that of all together a difference
    would pass for a room that wanders), where they differ by more than chance and by what matters; else ``None``. What speaks against one
    process is that each wants another gain with the lag of all, or another lag: a rig that loses more when hot has both, at one rate."""
    if len(found.record.parts) < 2:
        return None
    each, own_gains, against = [], [], 0.0
    for part in found.record.parts:
        alone = Records((part,))
        noise, own = settled(alone, found.noise, found.best)
        of_all = alone.at(
            noise, *replace(found.best, dead_s=own.dead_s).model
        )  # rows further apart shift the dead time
        by_itself = alone.at(noise, *own.model)
        against += max(of_all.deviance - by_itself.deviance, 0.0)
        each.append(of_all)
        own_gains.append(by_itself.gain)
    gains, weights = np.array([f.gain for f in each]), np.array([1.0 / f.variance for f in each])
    mean = float(np.sum(weights * gains) / np.sum(weights))
    against += float(np.sum(weights * (gains - mean) ** 2))
    free = 2 + (found.best.form != FIRST)  # gain, lag, and what it has besides
    chance = float(scipy.special.chdtrc(free * (len(each) - 1), against))
    matters = max(np.ptp(gains), np.ptp(own_gains)) > MATTERS * abs(mean)
    return (float(min(own_gains)), float(max(own_gains))) if matters and chance < DISAGREE else None


def _held_out(found: Found) -> Ahead | None:
    """The last part of the record as what is before it predicts it; ``None`` where that holds too little to learn from."""
    thin = found.record.thinned(TESTED_ROWS)
    learnt = thin.until(LEARNT)
    whole, last = thin.parts[-1], learnt.parts[-1]
    if len(last.t) < LEAST_LEARNT or not np.any(last.changes.times_s < last.t[-1] - 2.0 * found.best.dead_s):
        return None
    shorter = replace(found.best, ln_lag=min(found.best.ln_lag, longest(learnt)))
    noise, best = settled(learnt, found.noise, shorter)
    near = region(learnt, noise, best)
    low, high = np.full(len(whole.t), np.inf), np.full(len(whole.t), -np.inf)
    for place in near.some(found.limit, FAMILY):
        fit = learnt.at(noise, *place.model)
        for gain in fit.gain + np.sqrt(fit.variance) * np.array([-2.0, 0.0, 2.0]):
            theta = fit.thetas[-1].copy()
            theta[0], theta[last.ways] = gain, 0.0
            modelled = whole.modelled(theta, *place.model)
            low, high = np.minimum(low, modelled), np.maximum(high, modelled)
    after = whole.t > last.t[-1]
    wandered = noise.wander * ROOM_C * float(np.sqrt(whole.span_s / 3600.0))
    room = 2.0 * float(np.hypot(noise.total_c, wandered)) + noise.quantum / 2.0
    room = max(room, SLIGHT * float(np.ptp(whole.y)))
    inside = (whole.y >= low - room) & (whole.y <= high + room)
    theta = learnt.at(noise, *best.model).thetas[-1]
    calm = theta.copy()
    calm[last.ways] = 0.0
    ends = slice(len(last.t) - 1, len(last.t))
    stays = (
        last.modelled(theta, *best.model)[ends] - last.modelled(calm, *best.model)[ends]
    )  # the room, as it was at the end
    misses = whole.y - whole.modelled(calm, *best.model) - stays
    return Ahead(float(np.mean(inside[after])), float(np.sqrt(np.mean(misses[after] ** 2))))
