"""Heat treatment and bake-out: held by the thickness of the section once all of it is there."""

from dataclasses import dataclass

from ...explain import Figure, Input
from ...form import number
from ...units import Kind
from ..profile import Profile
from ..scoring import Score, peak, score, span_between, steepest
from .kind import OFF, PRACTICE, Places, ProfileKind, per_minute, ramp, soak

WINDOW_S, TOLERATED = 120.0, 1.1


@dataclass(frozen=True)
class Sections:
    """The piece and what is done with it."""

    hold_c: float = number("Held at", Kind.TEMPERATURE, 40, 1300, 150.0)
    section_mm: float = number("Thickest section", Kind.MILLIMETRES, 0.5, 500, 25.0)
    base_s: float = number("Held for", Kind.TIME, 60, 14 * 86_400, 3600.0)
    per_mm_s: float = number("and for each mm of section", Kind.TIME, 0, 3600, 144.0, hint="an hour for 25 mm is usual")
    band_c: float = number("within", Kind.DIFFERENCE, 0.5, 50, 5.0)
    heat_c_per_min: float = number("Heated at", Kind.RATE, 0.02, 60, 2.0)
    cool_c_per_min: float = number("Cooled at", Kind.RATE, 0.02, 60, 2.0)
    out_c: float = number("down to", Kind.TEMPERATURE, 20, 600, 60.0)


def hold_time(g: Sections) -> float:
    """s."""
    return g.base_s + g.per_mm_s * g.section_mm


def _build(g: Sections) -> Profile:
    segments = (
        ramp(g.hold_c, g.heat_c_per_min),
        soak(hold_time(g), g.band_c, "time counts while all of it is there"),
        ramp(g.out_c, g.cool_c_per_min, "keep it shut"),
    )
    return Profile((*segments, OFF))


def _judge(g: Sections, places: Places) -> tuple[Score, ...]:
    low, high = g.hold_c - g.band_c, g.hold_c + g.band_c
    up, down = (steepest(places.hottest, -1e9, low, falling, WINDOW_S) for falling in (False, True))
    return (
        score(
            "held",
            "coldest place within the band",
            PRACTICE,
            Kind.TIME,
            span_between(places.coldest, low, high),
            hold_time(g),
        ),
        score("hot", "hottest", PRACTICE, Kind.TEMPERATURE, peak(places.hottest), most=high),
        score("up", "steepest up", PRACTICE, Kind.RATE, per_minute(up), most=g.heat_c_per_min * TOLERATED),
        score("down", "steepest down", PRACTICE, Kind.RATE, per_minute(down), most=g.cool_c_per_min * TOLERATED),
    )


def _figures(g: Sections) -> tuple[Figure, ...]:
    return (
        Figure(
            "held",
            hold_time(g),
            Kind.TIME,
            formula="t₀ + t · d",
            inputs=(
                Input("held for", g.base_s, Kind.TIME, "t₀", "entered"),
                Input("for each mm", g.per_mm_s, Kind.TIME, "t", "entered"),
                Input("section", g.section_mm, Kind.MILLIMETRES, "d", "entered"),
            ),
            reason="Time counts from when the middle of the piece is there, not the air.",
            source=PRACTICE,
        ),
    )


KIND = ProfileKind(
    "sections",
    "Heat treatment, bake-out",
    Sections,
    _build,
    _judge,
    source=PRACTICE,
    figures=_figures,
    caution="What is baked out may give off vapours; a vacuum vessel must not be opened hot.",
)
