"""What is this lining made of, judged by a log of a heat-up and a cool-down?"""

from dataclasses import dataclass
from math import log
from typing import Any

import numpy as np

from ...errors import Problem, Refused
from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import number, rows
from ...heating.lining import Lining, Log, estimate
from ...heating.materials import MATERIALS, Material
from ...heating.transient import Contents
from ...heating.walls import Chamber, Layer
from ...messages import quantity, temperature
from ...units import J_PER_KWH, Kind
from ..answer import Alternative, Answer, Axis, Curves, Known, Mark, Question, Topic, curve
from ..rig_values import watts
from .chamber import usual_chamber

ALIKE = 0.7
"""Distance in logarithms at which a known material is alike (our choice)."""

SOURCE = "least squares on the log; one layer, constant properties"
WELL_KNOWN = 0.3
"""Relative standard error below which a property counts as found."""


@dataclass(frozen=True)
class LogRow:
    """A reading of the log."""

    minutes: float = number("Minutes from the start", Kind.COUNT, 0, 10_000, 0)
    inside_c: float = number("inside", Kind.TEMPERATURE, -20, 1800, 21)


EXAMPLE = tuple(
    LogRow(m, t)
    for m, t in (
        (0, 21),
        (15, 352),
        (30, 526),
        (60, 739),
        (90, 893),
        (120, 1003),
        (150, 665),
        (200, 494),
        (300, 341),
        (480, 193),
    )
)
"""A small brick chamber: two hours at full power, then left to itself."""


@dataclass(frozen=True)
class LiningInput:
    """A chamber whose lining is unknown, and its log at full power and without."""

    width_mm: float = number("Width inside", Kind.MILLIMETRES, 20, 5000, 300)
    height_mm: float = number("Height inside", Kind.MILLIMETRES, 20, 5000, 300)
    depth_mm: float = number("Depth inside", Kind.MILLIMETRES, 20, 5000, 300)
    thickness_mm: float = number("Lining, thickness", Kind.MILLIMETRES, 2, 500, 114)
    mass_kg: float = number("Shelves and load", Kind.MASS, 0, 5000, 2)
    power_w: float = number("Heater, while on", Kind.POWER, 1, 200_000, 2000)
    off_minutes: float = number("Switched off after, minutes", Kind.COUNT, 0.1, 10_000, 120)
    ambient_c: float = number("Room", Kind.TEMPERATURE, -40, 60, 21)
    log: tuple[LogRow, ...] = rows("Log: full power, then off", LogRow, EXAMPLE, 4, 60)


def _lining(g: LiningInput) -> Answer:
    chamber = Chamber(
        g.width_mm / 1000,
        g.height_mm / 1000,
        g.depth_mm / 1000,
        (Layer("brick_23", g.thickness_mm / 1000),),  # only its thickness counts here
    )
    told = Log(
        np.array([r.minutes * 60.0 for r in g.log]),
        np.array([r.inside_c for r in g.log]),
        g.power_w,
        g.off_minutes * 60.0,
        g.ambient_c,
    )
    contents = Contents(g.mass_kg)
    found = _estimated(chamber, contents, told)
    hottest = float(told.inside_c.max())
    area = float(chamber.area(g.thickness_mm / 2000))
    loss = found.conductivity * area / (g.thickness_mm / 1000)
    stored = found.heat_capacity * area * g.thickness_mm / 1000 / J_PER_KWH
    minutes = told.time_s / 60.0
    return Answer(
        f"It conducts about {quantity(found.conductivity, 'W/m·K', '.2g')} and "
        f"stores {quantity(found.heat_capacity / 1e6, 'MJ/m³K', '.2g')}.",
        (
            Figure(
                "conductivity",
                found.conductivity,
                Kind.CONDUCTIVITY,
                formula="k from the log",
                inputs=(Input("standard error", found.conductivity_error * 100, Kind.PERCENT, "", "fit"),),
                reason=f"At the temperatures of the log, up to {temperature(hottest, '.0f')}; it rises with temperature.",
                source=SOURCE,
                low=found.conductivity / (1 + 2 * found.conductivity_error),
                high=found.conductivity * (1 + 2 * found.conductivity_error),
            ),
            Figure(
                "it loses, for each degree",
                loss,
                Kind.POWER,
                formula="k A / d",
                inputs=(Input("conductivity", found.conductivity, Kind.CONDUCTIVITY, "k", "above"),),
                reason="Watts through the lining at rest for each degree between its faces.",
                source=SOURCE,
            ),
            Figure(
                "it stores, for {100 Δ°C}",
                stored * 100,
                Kind.ENERGY,
                formula="ρc A d × 100",
                inputs=(
                    Input("heat capacity, MJ/m³K", found.heat_capacity / 1e6, Kind.RATIO, "ρc", "fit"),
                    Input("standard error", found.heat_capacity_error * 100, Kind.PERCENT, "", "fit"),
                ),
                reason="When it is warm right through.",
                source=SOURCE,
            ),
            Figure(
                "follows the log within",
                found.rms_c,
                Kind.DIFFERENCE,
                formula="√(Σ(T_fit − T)²/n)",
                reason="Rms of what is left.",
                source=SOURCE,
            ),
        ),
        _findings(found, hottest - g.ambient_c),
        Curves(
            Axis("minutes", Kind.COUNT),
            Axis("inside", Kind.TEMPERATURE),
            (curve("this lining", minutes, found.fitted_c),),
            tuple(Mark("", float(m), float(t)) for m, t in zip(minutes, told.inside_c, strict=True)),
        ),
        alternatives=_like(found, (hottest + g.ambient_c) / 2, hottest),
    )


def _estimated(chamber: Chamber, contents: Contents, told: Log) -> Lining:
    try:
        return estimate(chamber, contents, told)
    except Refused as refused:
        own = {f: "log" for f in ("layers", "thickness_m")}
        raise Refused(*(Problem(own.get(p.field, p.field), p.reason, p.accepted) for p in refused.problems)) from None


def _findings(found: Lining, rise: float) -> tuple[Finding, ...]:
    told = []
    if max(found.conductivity_error, found.heat_capacity_error) > WELL_KNOWN:
        told.append(
            Finding(
                "lining.open",
                Severity.ADVICE,
                title="The log does not tell conductivity and stored heat apart",
                reason="Early on a thick lining of one kind heats like a heavier one that insulates better.",
                fix="Log until it hardly rises any more, and the cool-down to a third of the rise.",
            )
        )
    return tuple(told)


def _like(found: Lining, at_c: float, hottest_c: float) -> tuple[Alternative, ...]:
    """Known materials that stand it, nearest first, by the ratios of conductivity and of stored heat."""

    def far(key: str) -> float:
        m = MATERIALS[key]
        conducts, stores = float(m.k(at_c)) / found.conductivity, m.density * m.specific_heat / found.heat_capacity
        return abs(log(conducts)) + abs(log(stores))

    near = sorted((key for key, m in MATERIALS.items() if m.limit_c >= hottest_c), key=far)[:4]
    return tuple(
        Alternative(key, m.name, None if far(key) < ALIKE else Severity.ADVICE, says=_says(m, at_c), chosen=i == 0)
        for i, (key, m) in enumerate((key, MATERIALS[key]) for key in near)
    )


def _says(m: Material, at_c: float) -> str:
    stores = m.density * m.specific_heat / 1e6
    return (
        f"{quantity(float(m.k(at_c)), 'W/m·K', '.2g')}, {quantity(stores, 'MJ/m³K', '.2g')}, "
        f"stands {temperature(m.limit_c, '.0f')}"
    )


def _of_rig(known: Known) -> dict[str, Any]:
    size = {n: usual_chamber(known.kind)[n] for n in ("width_mm", "height_mm", "depth_mm")}
    return {**size, "ambient_c": known.purpose.ambient_c, "power_w": watts(known)}


LINING = Question(
    "lining",
    "What is this lining made of?",
    Topic.WALL,
    LiningInput,
    _lining,
    _of_rig,
    (
        "Log one heat-up at full power and the cool-down after it, closed, with the sensor where it normally is.",
        "A wall of several layers is seen as one of their total thickness: good for planning, not for naming bricks.",
    ),
    "Old linings can be fibre or asbestos: do not drill or brush what you cannot name; have it sampled by a licensed lab.",
    ("heater",),
)
