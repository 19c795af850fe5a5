"""Drying and burnout: slow through what gives off gas or changes its size, held until it is through.

Water leaves at 100 °C, binders and wax over the range of their sheet, quartz changes its size at 573 °C (common practice and from memory).
"""

from dataclasses import dataclass
from math import inf

from ...explain import Figure, Input
from ...form import flag, number
from ...units import Kind
from ..profile import Profile, Segment
from ..scoring import Score, score, span_above, steepest
from .kind import OFF, PRACTICE, Places, ProfileKind, per_minute, ramp, soak

WATER_C = (85.0, 120.0)
QUARTZ_C, ROUND_C = 573.0, 25.0
WINDOW_S = 120.0


@dataclass(frozen=True)
class Drying:
    """What must leave, and how thick it is."""

    thick_mm: float = number("Thickest wall", Kind.MILLIMETRES, 1, 300, 10.0)
    water: bool = flag("It is damp", True)
    per_mm_s: float = number("Held for each mm of it", Kind.TIME, 10, 3600, 360.0, hint="at each hold")
    slow_c_per_min: float = number("Through them at", Kind.RATE, 0.05, 10, 1.0)
    binder: bool = flag("Binder or wax burns out", True)
    binder_from_c: float = number("from", Kind.TEMPERATURE, 100, 700, 200.0, when=("binder", (True,)))
    binder_to_c: float = number("to", Kind.TEMPERATURE, 150, 900, 450.0, when=("binder", (True,)))
    quartz: bool = flag("Quartz is in it", True)
    top_c: float = number("At last", Kind.TEMPERATURE, 60, 1300, 700.0)
    quick_c_per_min: float = number("Elsewhere at", Kind.RATE, 0.1, 60, 4.0)
    soak_s: float = number("held there for", Kind.TIME, 60, 48 * 3600, 3600.0)


def slow_ranges(g: Drying) -> list[tuple[float, float, str, float]]:
    """What is gone through slowly, from below: from, to, why, and how long it is held at its upper end, s."""
    hold = g.per_mm_s * g.thick_mm
    found = []
    if g.water and g.top_c > WATER_C[1]:
        found.append((*WATER_C, "water leaves", hold))
    if g.binder and g.top_c > g.binder_to_c > g.binder_from_c:
        found.append((g.binder_from_c, g.binder_to_c, "binder burns out: air in, fumes out", hold))
    if g.quartz and g.top_c > QUARTZ_C + ROUND_C:
        found.append((QUARTZ_C - ROUND_C, QUARTZ_C + ROUND_C, "quartz changes its size", 0.0))
    return found


def _build(g: Drying) -> Profile:
    segments: list[Segment] = []
    at = -inf
    for low, high, why, hold in slow_ranges(g):
        if low > at:
            segments.append(ramp(low, g.quick_c_per_min))
        segments.append(ramp(high, g.slow_c_per_min, why))
        if hold:
            segments.append(soak(hold, says=why))
        at = high
    segments += [ramp(g.top_c, g.quick_c_per_min), soak(g.soak_s)]
    if g.quartz and g.top_c > QUARTZ_C + ROUND_C:
        segments += [
            ramp(QUARTZ_C + ROUND_C, g.quick_c_per_min),
            ramp(QUARTZ_C - ROUND_C, g.slow_c_per_min, "quartz again"),
        ]
    return Profile((*segments, OFF))


def _judge(g: Drying, places: Places) -> tuple[Score, ...]:
    found = []
    for i, (low, high, why, hold) in enumerate(slow_ranges(g)):
        slope = steepest(places.hottest, low, high, False, WINDOW_S)
        per_min = per_minute(slope)
        found.append(
            score(
                f"rate{i}",
                f"steepest: {why.partition(':')[0]}",
                PRACTICE,
                Kind.RATE,
                per_min,
                most=g.slow_c_per_min * TOLERATED,
            )
        )
        if hold:
            above = span_above(places.coldest, high - HELD_C)
            found.append(
                score(
                    f"held{i}", f"at its upper end or hotter: {why.partition(':')[0]}", PRACTICE, Kind.TIME, above, hold
                )
            )
    found.append(
        score("top", "at the top", PRACTICE, Kind.TIME, span_above(places.coldest, g.top_c - HELD_C), g.soak_s)
    )
    return tuple(found)


TOLERATED = 1.2
"""A rate may be so much quicker for a while (our choice)."""
HELD_C = 5.0
"""A hold counts from so much below it (our choice)."""


def _figures(g: Drying) -> tuple[Figure, ...]:
    return (
        Figure(
            "held at each",
            g.per_mm_s * g.thick_mm,
            Kind.TIME,
            formula="t · d",
            inputs=(
                Input("for each mm", g.per_mm_s, Kind.TIME, "t", "entered"),
                Input("thickest wall", g.thick_mm, Kind.MILLIMETRES, "d", "entered"),
            ),
            reason="What is inside has to come out through the wall; twice as thick takes rather four times as long where it is thick.",
            source=PRACTICE,
        ),
    )


KIND = ProfileKind(
    "drying",
    "Drying and burnout",
    Drying,
    _build,
    _judge,
    source=PRACTICE,
    figures=_figures,
    caution="What burns out smokes, stinks and can catch fire: extract it, keep the door shut while it does, ventilate the room.",
)
