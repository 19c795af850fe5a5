"""Comparisons at two or more temperatures: the gain and offset, or the points, that correct them all, and what is left at each.

A line through what has to be added, weighted by how well each is known; or straight pieces between the comparisons that serve best. What it
comes to elsewhere is known less: the scatter of each comparison counts by its weight, and what they have in common (one reference) is
taken as common or as independent, whichever is worse there (JCGM 100:2008, 5.1.2 and 5.2.2, note 1).
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from ..control.steps import held
from ..errors import Problem, refuse, refuse_all
from ..explain import Figure, Input
from ..messages import difference, span, temperature
from ..sensing.suspects import own_error
from ..units import Kind, from_unit, in_unit
from .causes import Causes
from .certificates import NEARBY_C
from .corrections import (
    MOST_POINTS,
    NOTHING,
    Correcting,
    Correction,
    CorrectionPoint,
    check_correction,
    offset_from_unit,
    offset_in_unit,
)
from .coverage import LEVEL
from .fitting import Fitted, line, table, uncertain
from .levels import Level
from .verdicts import NEEDS_REASON, Advice, causes_of

MOST_LEVELS = 12
"""Comparisons at once (our choice: more than anybody heats up for)."""
SURE_C = 0.01
"""Nothing here is known better, °C (our choice: the weight of a comparison whose doubts nobody said)."""
LONG_DAYS = 30.0
"""Comparisons further apart in time may differ by drift (our choice: the first interval of a new sensor)."""
DRAWN = 40
"""Points of the drawn correction (our choice)."""

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Takes:
    """What the controller takes: ``points`` of a table, the smallest steps of its offset (°C) and its gain, the largest offset, and the
    unit (C, F, K) its numbers are in; what is in it now; the working temperature, the room and the hottest it may be."""

    correcting: Correcting
    points: int = 2
    step_c: float = 0.1
    gain_step: float = 0.001
    limit_c: float = 20.0
    unit: str = "C"
    now: Correction = NOTHING
    working_c: float = 0.0
    room_c: float = 20.0
    highest_c: float | None = None


@dataclass(frozen=True)
class LevelLeft:
    """What is left of the display's error at one comparison; ``within`` its uncertainty."""

    named: str
    reference_c: float
    add_c: float
    expanded_c: float
    left: Figure
    within: bool


@dataclass(frozen=True)
class Drawn:
    """What is added at one temperature, °C."""

    at_c: float
    add_c: float


@dataclass(frozen=True)
class Several:
    """``typed``: the numbers as they are entered in the controller's unit. ``at_working``: what the display is off by then at the working
    temperature, with its interval; ``one_offset``: the worst that one offset found there would leave. ``beyond_c``: how far the working
    temperature lies outside what was compared."""

    correcting: Correcting
    correction: Correction
    typed: tuple[Figure, ...]
    levels: tuple[LevelLeft, ...]
    worst: Figure
    at_working: Figure
    one_offset: Figure
    beyond_c: float
    drawn: tuple[Drawn, ...]
    verdict: Advice
    advice: str
    touch: bool
    needs_reason: bool
    causes: Causes | None


def several(levels: tuple[Level, ...], takes: Takes, sensor: str) -> Several:
    """The correction for these comparisons of one sensor, at two or more temperatures more than 40 °C apart. Raises ``Refused`` for fewer,
    and for steps, limits and numbers of points that cannot be."""
    _check(levels, takes)
    levels = tuple(sorted(levels, key=lambda level: level.raw_mean_c))
    raw = np.array([level.raw_mean_c for level in levels])
    add = np.array([level.add_c for level in levels])
    weight = np.array([1.0 / max(level.u_c, SURE_C) for level in levels])
    fitted = line(raw, add, weight) if takes.correcting is Correcting.GAIN else table(raw, add, weight, takes.points)
    rounded = _rounded_line if takes.correcting is Correcting.GAIN else _rounded_points
    entered, clipped = rounded(fitted, takes)
    check_correction(entered)
    left = tuple(_left(level, entered) for level in levels)
    worst = max(left, key=lambda at: abs(at.left.value)).left
    low, high = (f([level.reference_mean_c for level in levels]) for f in (min, max))
    beyond = max(low - takes.working_c, takes.working_c - high, 0.0)
    verdict, why, causes = _verdict(levels, takes, entered, left, beyond, clipped, sensor)
    return Several(
        takes.correcting,
        entered,
        tuple(_typed(entered, takes, clipped)),
        left,
        worst,
        _at_working(levels, takes, fitted, entered, beyond),
        _one_offset(levels, raw, add, takes),
        beyond,
        _drawn(entered, min(low, takes.working_c), max(high, takes.working_c)),
        verdict,
        why,
        verdict is Advice.CORRECT,
        verdict in NEEDS_REASON,
        causes,
    )


def _rounded_line(fitted: Fitted, takes: Takes) -> tuple[Correction, bool]:
    """The gain in its step, and the offset anew with it so that the working temperature is right, in the steps of the controller's unit;
    whether its limit cut it off."""
    gain = round(held(fitted.correction.gain, takes.gain_step), 9)
    exact = takes.working_c - gain * fitted.raw_at(takes.working_c)
    step, most = (in_unit(v, Kind.DIFFERENCE, takes.unit) for v in (takes.step_c, takes.limit_c))
    typed = held(offset_in_unit(exact, gain, takes.unit), step)
    cut = min(max(typed, -most), most)
    return Correction(round(offset_from_unit(cut, gain, takes.unit), 9), gain), cut != typed


def _rounded_points(fitted: Fitted, takes: Takes) -> tuple[Correction, bool]:
    """Temperatures in whole degrees of the controller's unit, what is added there in its step; whether its limit cut one off."""
    made, clipped = [], False
    for p in fitted.correction.points:
        at = from_unit(float(round(in_unit(p.at_c, Kind.TEMPERATURE, takes.unit))), Kind.TEMPERATURE, takes.unit)
        add = held(fitted.adds(at), takes.step_c)
        cut = min(max(add, -takes.limit_c), takes.limit_c)
        clipped |= cut != add
        made.append(CorrectionPoint(round(at, 6), round(cut, 6)))
    return Correction(points=tuple(made)), clipped


def _left(level: Level, entered: Correction) -> LevelLeft:
    off = entered.shown(level.raw_mean_c) - level.reference_mean_c
    return LevelLeft(
        level.named,
        level.reference_mean_c,
        level.add_c,
        level.expanded_c,
        Figure(
            f"display error left at {temperature(level.reference_mean_c, '.0f')}",
            off,
            Kind.DIFFERENCE,
            formula="shown with the new numbers − reference",
            inputs=(
                Input("reading without any correction", level.raw_mean_c, Kind.TEMPERATURE, "raw", "compared"),
                Input("reference", level.reference_mean_c, Kind.TEMPERATURE, "ref", "compared"),
            ),
            reason="What rounding, limits, and a shape of another kind leave.",
        ),
        abs(off) <= level.expanded_c,
    )


def _typed(entered: Correction, takes: Takes, clipped: bool) -> Iterator[Figure]:
    """The numbers as they are entered. A gain has no unit; the offset beside it depends on the unit."""
    reason = "Cut off at its limit: it cannot take more." if clipped else "The nearest value the controller takes."
    step = Input("step", takes.step_c, Kind.DIFFERENCE, "step", "controller")
    if takes.correcting is Correcting.GAIN:
        yield Figure(
            "gain",
            entered.gain,
            Kind.RATIO,
            formula="least squares, in its step",
            inputs=(Input("step", takes.gain_step, Kind.RATIO, "step", "controller"),),
            reason="The reading is multiplied by it before the offset.",
        )
        inputs: tuple[Input, ...] = (step, Input("gain", entered.gain, Kind.RATIO, "g", "computed"))
        value = from_unit(offset_in_unit(entered.offset_c, entered.gain, takes.unit), Kind.DIFFERENCE, takes.unit)
        if takes.unit != "C":
            reason = "In the controller’s unit, whose zero lies elsewhere: with a gain beside it the number is not the one in °C."
        name = f"offset beside it{_keyed(value, Kind.DIFFERENCE, takes)}"
        yield Figure(name, value, Kind.DIFFERENCE, formula="o = T − g raw", inputs=inputs, reason=reason)
        return
    for n, p in enumerate(entered.points, 1):
        yield Figure(
            f"point {n} at{_keyed(p.at_c, Kind.TEMPERATURE, takes)}",
            p.at_c,
            Kind.TEMPERATURE,
            formula="the reading there without any correction",
            inputs=(step,),
            reason="Whole degrees.",
        )
        name = f"point {n} adds{_keyed(p.add_c, Kind.DIFFERENCE, takes)}"
        yield Figure(name, p.add_c, Kind.DIFFERENCE, formula="reference − reading", inputs=(step,), reason=reason)


def _keyed(value_c: float, kind: Kind, takes: Takes) -> str:
    """How it is keyed in where the controller counts in another unit than °C, whatever unit the reader has chosen."""
    return "" if takes.unit == "C" else f", keyed in as {in_unit(value_c, kind, takes.unit):.6g}"


def _at_working(levels: tuple[Level, ...], takes: Takes, fitted: Fitted, entered: Correction, beyond: float) -> Figure:
    raw = fitted.raw_at(takes.working_c)
    exact = float(fitted.weights(raw) @ np.array([level.add_c for level in levels]))
    left = entered.shown(raw) - (raw + exact)
    u, expanded = uncertain(levels, fitted, raw)
    outside = f" It lies {difference(beyond, '.0f')} outside what was compared." if beyond else ""
    return Figure(
        "display off by, at the working temperature",
        left,
        Kind.DIFFERENCE,
        formula="u² = Σ wᵢ² rᵢ² + max(Σ wᵢ² cᵢ², (Σ wᵢ cᵢ)²)",
        inputs=(
            Input("working temperature", takes.working_c, Kind.TEMPERATURE, "T", "purpose"),
            Input("standard uncertainty there", u, Kind.DIFFERENCE, "u", "computed"),
        ),
        reason=f"How each comparison counts there, with its scatter and what all have in common.{outside}",
        source="JCGM 100:2008, 5.1.2 and 5.2.2",
        low=left - expanded,
        high=left + expanded,
    )


def _one_offset(levels: tuple[Level, ...], raw: Array, add: Array, takes: Takes) -> Figure:
    nearest = min(levels, key=lambda level: abs(level.reference_mean_c - takes.working_c))
    apart = np.abs(add - nearest.add_c)
    at = int(np.argmax(apart))
    return Figure(
        "one offset would leave up to",
        float(apart[at]),
        Kind.DIFFERENCE,
        formula="max |addedᵢ − added near the work|",
        inputs=(Input("added near the work", nearest.add_c, Kind.DIFFERENCE, "a", "compared"),),
        reason=f"At {temperature(float(raw[at]), '.0f')}, with the offset found at {temperature(nearest.reference_mean_c, '.0f')}.",
    )


def _drawn(entered: Correction, low: float, high: float) -> tuple[Drawn, ...]:
    corners = [p.at_c for p in entered.points if low < p.at_c < high]
    return tuple(
        Drawn(float(at), entered.shown(float(at)) - float(at))
        for at in sorted({*np.linspace(low, high, DRAWN).tolist(), *corners})
    )


def _verdict(
    levels: tuple[Level, ...],
    takes: Takes,
    entered: Correction,
    left: tuple[LevelLeft, ...],
    beyond: float,
    clipped: bool,
    sensor: str,
) -> tuple[Advice, str, Causes | None]:
    """Errors too large first, then what is not known well enough, then whether more than one number is needed at all."""
    for level in levels:
        explained = own_error(sensor, level.reference_mean_c)
        if abs(level.add_c) > explained + level.expanded_c:
            why = (
                f"{difference(level.add_c, '+.2g')} at {temperature(level.reference_mean_c, '.0f')} is more than a new sensor of its class "
                f"and an ordinary input explain ({difference(explained, '.2g')}): numbers would hide what is wrong."
            )
            return Advice.FIND_CAUSE, why, _causes(levels, takes, sensor)
    low, high = levels[0], levels[-1]
    if beyond > NEARBY_C:
        return (
            Advice.COMPARE_NEARER,
            f"The working temperature lies {difference(beyond, '.0f')} outside "
            f"{span(low.reference_mean_c, high.reference_mean_c, '°C', '.0f')}, where nothing was compared: compare there too.",
            None,
        )
    if not all(level.reference_u_c > 0 for level in levels):
        return Advice.NAME_REFERENCE, "No reference is exact: say of each comparison what its reference is worth.", None
    if any(len(level.raw_c) < 2 for level in levels):
        return Advice.MORE_PAIRS, "One pair says nothing about how well it repeats: take two more at each.", None
    changes = [abs(entered.shown(v.raw_mean_c) - takes.now.shown(v.raw_mean_c)) for v in levels]
    if all(change < level.expanded_c for change, level in zip(changes, levels, strict=True)):
        return Advice.LEAVE, "Do not touch it: at each of them the change is smaller than its uncertainty.", None
    if _alike(levels):
        apart = max(level.add_c for level in levels) - min(level.add_c for level in levels)
        return (
            Advice.ONE_OFFSET,
            f"They differ by {difference(apart, '.2g')}, which may be chance by what is known of each: one offset, found at the working "
            "temperature, is all that can be said.",
            None,
        )
    return Advice.CORRECT, (_cut(left) if clipped else _left_said(takes, left)) + _long(levels), None


def _alike(levels: tuple[Level, ...]) -> bool:
    """Whether what has to be added may be the same at all of them: χ² about their weighted mean, each with half its expanded uncertainty
    (as it is known by its few pairs), at 95.45 %."""
    add = np.array([level.add_c for level in levels])
    weight = np.array([1.0 / max(level.expanded_c / 2.0, SURE_C) ** 2 for level in levels])
    mean = float(add @ weight / weight.sum())
    return float(((add - mean) ** 2) @ weight) <= float(scipy.special.chdtri(len(levels) - 1, 1.0 - LEVEL))


def _cut(left: tuple[LevelLeft, ...]) -> str:
    worst = max(left, key=lambda at: abs(at.left.value))
    stays = f"{difference(worst.left.value, '+.2g')} stays at {temperature(worst.reference_c, '.0f')}"
    return f"Its limit cuts it off: {stays}. So large an error has a cause: look for it."


def _left_said(takes: Takes, left: tuple[LevelLeft, ...]) -> str:
    worst = max(left, key=lambda at: abs(at.left.value) - at.expanded_c)
    if worst.within:
        return "The error changes with temperature by more than is known, and this takes it away at each of them."
    more = "more points" if takes.correcting is Correcting.POINTS else "points between them"
    return (
        f"With it {difference(worst.left.value, '+.2g')} stays at {temperature(worst.reference_c, '.0f')}, which is "
        f"more than its uncertainty: {more} would follow it better, where the controller has them."
    )


def _long(levels: tuple[Level, ...]) -> str:
    days = max(level.day for level in levels) - min(level.day for level in levels)
    return (
        f" They were taken over {days:.0f} days: what a sensor drifted meanwhile looks the same."
        if days > LONG_DAYS
        else ""
    )


def _causes(levels: tuple[Level, ...], takes: Takes, sensor: str) -> Causes | None:
    raw = [r for level in levels for r in level.raw_c]
    true = [r for level in levels for r in level.reference_c]
    hottest = takes.highest_c if takes.highest_c is not None else max(*true, takes.room_c)
    u = max(max(level.u_c for level in levels), SURE_C)
    return causes_of(sensor, raw, true, u, takes.now.offset_c, takes.room_c, hottest)


def _check(levels: tuple[Level, ...], takes: Takes) -> None:
    problems = []
    if not 2 <= len(levels) <= MOST_LEVELS:
        problems.append(Problem("comparisons", f"{len(levels)} of them", f"2…{MOST_LEVELS} comparisons"))
    if not 2 <= takes.points <= MOST_POINTS:
        problems.append(Problem("points", f"{takes.points} points", f"2…{MOST_POINTS} points"))
    for name in ("step_c", "limit_c", "gain_step"):
        if not 0.0 < getattr(takes, name) < 1e3:
            problems.append(Problem(name, "must be more than zero", "more than 0"))
    refuse_all(problems)
    at = [level.reference_mean_c for level in levels]
    if max(at) - min(at) <= NEARBY_C:
        raise refuse(
            "comparisons",
            f"they are all {span(min(at), max(at), '°C', '.0f')}, which is one temperature",
            f"two that are more than {difference(NEARBY_C, 'g')} apart",
        )
