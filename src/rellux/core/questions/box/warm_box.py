"""How warm does the box get?"""

from dataclasses import dataclass

from ...errors import refuse
from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import choice, flag, number
from ...messages import difference, quantity, temperature
from ...panel.enclosure import HIGHEST_INSIDE_C, Box, plate_resistance, rise
from ...units import Kind
from ..answer import Answer, Axis, Curves, Mark, Question, Topic, curve

MATERIAL = {"steel": "Painted steel", "stainless": "Stainless steel", "plastic": "Plastic"}


@dataclass(frozen=True)
class WarmInput:
    """A closed box with heat in it."""

    width_mm: float = number("Box width", Kind.MILLIMETRES, 40, 2000, 300)
    height_mm: float = number("height", Kind.MILLIMETRES, 40, 2000, 220)
    depth_mm: float = number("depth", Kind.MILLIMETRES, 20, 2000, 150)
    material: str = choice("Made of", MATERIAL, "steel")
    covered_percent: float = number("Against wall or floor", Kind.PERCENT, 0, 90, 25)
    heat_w: float = number("Heat inside", Kind.POWER, 0.1, 5000, 32)
    ambient_c: float = number("Room, hottest", Kind.TEMPERATURE, -20, 60, 30)
    fan_l_min: float = number("Fan moves", Kind.FLOW, 0, 20_000, 0)
    panel: bool = flag("SSR bolted to a metal side", False)


OVEN_C = 150.0
"""Hotter than this no box of controls is: solder and plastics are gone (our choice)."""


def _warm(g: WarmInput) -> Answer:
    box = Box(g.width_mm / 1000, g.height_mm / 1000, g.depth_mm / 1000, g.material)
    box = Box(box.width_m, box.height_m, box.depth_m, box.material, box.surface_m2 * g.covered_percent / 100)
    air = g.fan_l_min / 60_000
    inside = g.ambient_c + rise(box, g.heat_w, air)
    if g.ambient_c >= HIGHEST_INSIDE_C:
        raise refuse(
            "ambient_c",
            "the room itself is as hot as a controller may have it",
            f"below {temperature(HIGHEST_INSIDE_C)}, or a cooled box",
        )
    if inside > OVEN_C:
        raise refuse(
            "heat_w",
            f"with {quantity(g.heat_w, 'W', '.3g')} this box is an oven: beyond {temperature(OVEN_C)}",
            "the heat of the parts in the box, not the heater's; a larger box, or a fan",
        )
    most = (HIGHEST_INSIDE_C - g.ambient_c) / rise(box, 1.0, air)
    findings = []
    if inside > HIGHEST_INSIDE_C:
        findings.append(
            Finding(
                "box.hot",
                Severity.FAULT,
                title=f"The box gets {temperature(inside, '.0f')} inside",
                reason=f"Most controllers stand {temperature(HIGHEST_INSIDE_C, '.0f')} "
                "around them; the cold junction errs and capacitors age.",
                fix="The SSR's sink outside, a larger box, or vents below and above.",
            )
        )
    figures = [
        Figure(
            "air inside",
            inside,
            Kind.TEMPERATURE,
            formula="T_a + P / (U A + ρ c V̇)",
            inputs=(
                Input("heat", g.heat_w, Kind.POWER, "P", "given"),
                Input("surface that counts", box.surface_m2, Kind.SURFACE, "A", "computed"),
                Input("room", g.ambient_c, Kind.TEMPERATURE, "T_a", "given"),
            ),
            reason="At rest, after an hour or two.",
            source="IEC 60890 idea; U from memory",
        ),
        Figure(
            "most heat for this box",
            most,
            Kind.POWER,
            reason=f"So that it stays below {temperature(HIGHEST_INSIDE_C, '.0f')}.",
            source="the same",
        ),
        Figure(
            "the reading may err by",
            0.05 * (inside - g.ambient_c),
            Kind.DIFFERENCE,
            formula="≈ 0.05 × rise",
            reason="Cold-junction compensation follows a warming box imperfectly; more while it warms.",
            source="common practice, no source",
        ),
    ]
    if g.panel:
        side = max(g.width_mm, g.depth_mm) / 1000 * g.height_mm / 1000
        plate = plate_resistance(side, g.ambient_c + 30, g.ambient_c, both_sides=False)
        figures.append(
            Figure(
                "metal side as a heat sink",
                plate,
                Kind.THERMAL_RESISTANCE,
                formula="1 / (h A)",
                inputs=(Input("side", side, Kind.SURFACE, "A", "largest side"),),
                reason="Outside face only, {30 Δ°C} above the room, 3 mm aluminium or thicker so that the heat spreads.",
                source="Churchill & Chu; grey radiation",
            )
        )
    grid = [g.heat_w * i / 30 for i in range(1, 61)]
    return Answer(
        f"{temperature(inside, '.0f')} inside, {difference(inside - g.ambient_c, '.0f')} above the room.",
        tuple(figures),
        tuple(findings),
        Curves(
            Axis("heat inside", Kind.POWER),
            Axis("air inside", Kind.TEMPERATURE),
            (
                curve("this box", grid, [g.ambient_c + rise(box, p, air) for p in grid]),
                curve("controllers stand", (grid[0], grid[-1]), (HIGHEST_INSIDE_C, HIGHEST_INSIDE_C), "limit"),
            ),
            (Mark("now", g.heat_w, inside),),
        ),
    )


WARM = Question(
    "warm",
    "How warm does the box get?",
    Topic.BOX,
    WarmInput,
    _warm,
    None,
    (
        "Vents below and above halve the rise in a plastic box.",
        "The controller's own terminals are the cold junction: a warm box is a wrong reading.",
    ),
    "A sealed box with an SSR inside cooks the SSR, and it fails shorted.",
    ("actuator",),
)
