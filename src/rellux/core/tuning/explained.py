"""What is said of a process that was found: its figures with their intervals, and all that fit as well over the record."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..explain import Figure, Input
from ..process.models import FOPDT, SOPDT, Integrating, half_rule
from ..units import Kind
from .forms import COOLING, FIRST, SECOND, WALLS, Place
from .noise import Noise
from .record import Fit, Records
from .region import Region, longest, refined

Array = NDArray[np.float64]
Of = Callable[[Array, Array, Array, Array], Array]

FAMILY = 24
STAYS = 0.1
"""Noise that stays for more than this share of the process's own time is something the model does not have (our choice)."""
FORMULAS = {
    FIRST: "y(t) = T_a + (y₀ − T_a) e^(−t/τ) + K f(t; τ, L)",
    SECOND: "y(t) = T_a + (y₀ − T_a) e^(−t/τ) + K f(t; τ, τ₂, L)",
    COOLING: "y(t) = T_a + (y₀ − T_a) φ(t; τ, τ_c) + K f(t; τ, τ_c, L)",
    WALLS: "y(t) = T_a + (y₀ − T_a) e^(−t/τ) + K f(t; τ, L) + K_w f(t; τ_w, L)",
}
SOURCE = "likelihood of the exact response; Ljung, System Identification, 2nd ed."


@dataclass(frozen=True)
class Found:
    """The likeliest place with its noise, everything nearly as good, and how much worse that may be; ``alike_s``: a dead time some cycles
    away that explains it nearly as well."""

    record: Records
    noise: Noise
    best: Place
    region: Region
    limit: float
    alike_s: float | None

    @cached_property
    def fit(self) -> Fit:
        return self.record.at(self.noise, *self.best.model)

    @property
    def lasts(self) -> bool:
        """Whether the slow noise stays for a good part of the process's time: then it is something that the model does not have."""
        stays = self.record.usual_s / -np.log(max(self.noise.correlation, 1e-6))
        return bool(stays > STAYS * self.best.lasts_s)

    @cached_property
    def levels_off(self) -> bool:
        """Whether the record bends enough to exclude that it goes on rising for ever."""
        end = Place(longest(self.record), self.best.dead_s, self.best.form, self.best.extra)
        fixed = (0.0, 0.1 * self.best.dead_s + self.record.usual_s)
        straight = refined(self.record, self.noise, end, fixed, 6)[0]
        return straight - self.fit.deviance > self.limit


@dataclass(frozen=True)
class Figures:
    """Gain K, lag τ, dead time L and rate at full power of what heats at once; ``extra``: of what it has besides. The ends of gain and
    lag are ``None`` where it may go on rising for ever."""

    gain: Figure
    lag: Figure
    dead_time: Figure
    slope: Figure
    extra: tuple[Figure, ...]


def process_of(found: Found) -> tuple[FOPDT, FOPDT | SOPDT | Integrating]:
    """As a first order for what works with one, and as it was found; where it may rise for ever, the first order of the least gain there
    may be."""
    gain = found.fit.gain
    best = found.best
    if best.form == SECOND and best.extra > 0.0:
        two = SOPDT(gain, best.lag_s, best.extra_s, best.dead_s)
        return half_rule(two), two
    one = FOPDT(gain, best.lag_s, best.dead_s)
    if found.levels_off:
        return one, one
    share = found.region.interval(found.limit, lambda k, a, x, d: k)[0] / gain
    least = share if 0.0 < share < 1.0 else 1.0  # where its sign is not even known, as it was found
    return FOPDT(least * gain, least * one.lag_s, one.dead_time_s), one.integrating


def figures(found: Found, inputs: tuple[Input, ...], late: float) -> Figures:
    """``late``: the share of the on-time that nobody knows because rows came late."""
    best, fit = found.best, found.fit
    second = 0.5 if best.form == SECOND else 0.0
    ends = found.levels_off

    def figure(
        name: str,
        kind: Kind,
        symbol: str,
        of: Of,
        why: str,
        wider: float = 0.0,
        open_end: bool = False,
        more: float = 0.0,
    ) -> Figure:
        value = float(of(*(np.array([v]) for v in (fit.gain, best.lag_s, best.extra, best.dead_s)))[0])
        low, high = found.region.interval(found.limit, of)
        low, high = min(low, value) - wider * abs(value), max(high, value) + wider * abs(value)
        value, low, high = low if open_end else value + more, low + more, high + more
        return Figure(
            name,
            value,
            kind,
            formula=FORMULAS[best.form],
            inputs=inputs,
            reason=why,
            source=SOURCE,
            symbol=symbol,
            low=low,
            high=None if open_end else high,
        )

    level = " It went on rising as if for ever: this is the least that it may be." if not ends else ""
    how_far = f"How far one percent of output moves it.{level}"
    gain = figure("process gain", Kind.GAIN, "K", lambda k, a, x, d: k, how_far, late, not ends)
    to_63 = f"The time to go 63 % of the way.{level}"
    lag = figure("lag", Kind.TIME, "τ", lambda k, a, x, d: a + second * x * a, to_63, 0.0, not ends)
    begins = "The reading begins to follow this long after it."
    dead = figure("dead time", Kind.TIME, "L", lambda k, a, x, d: d + second * x * a, begins)
    coarser = found.record.rows_apart_s
    dead = replace(dead, low=max((dead.low or 0.0) - coarser, 0.0), high=(dead.high or 0.0) + coarser)
    why = "Better known than gain and lag apart when the record is short."
    walls = 6000.0 * fit.thetas[0][found.record.parts[0].warms] / best.extra_s if best.form == WALLS else 0.0
    slope = figure(
        "rate at full power",
        Kind.RATE,
        "100 K/τ",
        lambda k, a, x, d: 6000.0 * k / (a + second * x * a),
        why,
        late,
        more=float(walls),
    )
    extra: tuple[Figure, ...] = ()
    if best.form == SECOND and best.extra > 0.0:
        half = "Of the element or the sensor. Half counts as lag, half as dead time."
        apart = "Better known together than apart."
        extra = (
            figure("second lag", Kind.TIME, "τ₂", lambda k, a, x, d: x * a, half),
            figure("dead time and second lag", Kind.TIME, "L + τ₂", lambda k, a, x, d: d + x * a, apart),
        )
    if best.form == COOLING:
        own = "It cools with a time of its own: a fan that runs with the heat, air let in, or losses that change with what heats."
        extra = (figure("lag of cooling", Kind.TIME, "τ_c", lambda k, a, x, d: x * a, own),)
    if best.form == WALLS:
        warm = "Walls, lining or load warm up beside it and hold the heat that was lost before."
        extra = (
            figure("lag of the walls", Kind.TIME, "τ_w", lambda k, a, x, d: x * a, warm),
            _once_warm(found, inputs),
        )
    return Figures(gain, lag, dead, slope, extra)


def _once_warm(found: Found, inputs: tuple[Input, ...]) -> Figure:
    """Gain with what the walls add to it, over everything that fits."""
    at = found.record.parts[0].warms
    each = []
    for place in (found.best, *found.region.some(found.limit, FAMILY)):
        fit = found.record.at(found.noise, *place.model)
        c, worse = fit.covariances[0], fit.deviance - found.fit.deviance
        reach = np.sqrt(max(found.limit - worse, 0.0) * (c[0, 0] + 2.0 * c[0, at] + c[at, at]))
        each.append(fit.thetas[0][0] + fit.thetas[0][at] + np.array([0.0, -reach, reach]))
    best, low, high = each[0][0], min(e[1] for e in each), max(e[2] for e in each)
    return Figure(
        "gain once the walls are warm",
        float(best),
        Kind.GAIN,
        formula="K + K_w",
        inputs=inputs,
        reason="Where the reading would settle in the end, for every percent of output.",
        source=SOURCE,
        symbol="K + K_w",
        low=float(low),
        high=float(high),
    )


def walls_add(found: Found) -> float:
    """What the walls add to the gain, °C/%, at most; 0 without them."""
    if found.best.form != WALLS:
        return 0.0
    at, fit = found.record.parts[0].warms, found.fit
    return float(fit.thetas[0][at] + 2.0 * np.sqrt(fit.covariances[0][at, at]))


def family(found: Found) -> tuple[list[Array], list[Array]]:
    """The lowest and the highest that the models within the interval are over every stretch."""
    parts = found.record.parts
    low, high = ([np.full(len(p.t), end) for p in parts] for end in (np.inf, -np.inf))
    for place in found.region.some(found.limit, FAMILY):
        fit = found.record.at(found.noise, *place.model)
        for i, (part, theta) in enumerate(zip(parts, fit.thetas, strict=True)):
            modelled = part.modelled(theta, *place.model)
            low[i], high[i] = np.minimum(low[i], modelled), np.maximum(high[i], modelled)
    return low, high
