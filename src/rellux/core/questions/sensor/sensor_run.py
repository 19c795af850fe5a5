"""Does everything along the run stand the heat at its place?"""

from dataclasses import dataclass
from typing import Any

from ...explain import Figure, Input
from ...findings import Finding, Severity, worst_first
from ...form import choice, number, rows, text
from ...messages import quantity, temperature
from ...sensing.choosing import (
    ALONG,
    IMMERSED_DIAMETERS,
)
from ...units import Kind
from ..answer import Answer, Bar, Known, Question, Topic

LEAST_IMMERSED_MM = 25.0
"""How deep a sensor must be past the inner face besides: an inch (common practice, no source)."""


@dataclass(frozen=True)
class PlaceInput:
    """One thing along the run and the hottest it gets there."""

    item: str = choice("What", {k: name for k, (name, _) in ALONG.items()}, "pvc")
    celsius: float = number("Hottest there", Kind.TEMPERATURE, -50, 1850, 40)
    where: str = text("Where", "", most=40)


@dataclass(frozen=True)
class AlongInput:
    """Everything along a sensor's or heater's run."""

    places: tuple[PlaceInput, ...] = rows(
        "From the tip to the terminals",
        PlaceInput,
        (
            PlaceInput("wool", 620, "in the chamber"),
            PlaceInput("plug", 90, "head, above the door"),
            PlaceInput("pvc", 55, "past the wall"),
            PlaceInput("terminal", 45, "in the box"),
        ),
        1,
        20,
    )
    immersed_mm: float = number("Reaches past the inner wall", Kind.MILLIMETRES, 0, 2000, 40)
    diameter_mm: float = number("Sheath diameter", Kind.MILLIMETRES, 0.25, 30, 3)
    near: str = choice(
        "Nearest to it",
        {
            "free": "Free in the chamber",
            "element": "An element or flame",
            "wall": "The wall",
            "load": "Clamped to the load",
        },
        "free",
    )


def _along(g: AlongInput) -> Answer:
    findings, bars = [], []
    for i, place in enumerate(g.places):
        name, limit = ALONG[place.item]
        over = place.celsius > limit
        at = f" ({place.where})" if place.where else ""
        if over:
            findings.append(
                Finding(
                    "along.hot",
                    Severity.DANGER,
                    title=f"{name}{at} is at {temperature(place.celsius, '.0f')}",
                    reason=(
                        f"It stands {temperature(limit, '.0f')} for long; then it "
                        "softens, cracks or lets go, and wires touch."
                    ),
                    fix="Another material there, or more distance.",
                    subjects=(f"place {i + 1}",),
                )
            )
        figure = Figure(
            f"{name}{at}",
            place.celsius,
            Kind.TEMPERATURE,
            inputs=(Input("stands", limit, Kind.TEMPERATURE, "", "common practice, no source"),),
            reason="The hottest it gets against what it stands for long.",
            source="common practice, no source",
        )
        bars.append(
            Bar(
                f"{name}{at}",
                figure,
                max(limit, place.celsius),
                limit,
                f"stands {temperature(limit, '.0f')}",
                Severity.DANGER if over else None,
            )
        )
    if g.near == "element":
        findings.append(
            Finding(
                "along.element",
                Severity.FAULT,
                title="The sensor sees the element or flame",
                reason="It reads the element, not the load: hotter while heating, and it tunes wrongly.",
                fix="Out of sight of it, where the load is.",
            )
        )
    if g.near == "wall" or (g.near != "load" and g.immersed_mm < LEAST_IMMERSED_MM):
        findings.append(
            Finding(
                "along.wall",
                Severity.FAULT,
                title="The sensor reads the wall",
                reason=f"It reaches {quantity(g.immersed_mm, 'mm', '.0f')} past the inner face; the wall lags and is cooler.",
                fix="25–40 mm past the inner face, touching nothing.",
            )
        )
    if g.near == "free" and g.immersed_mm < IMMERSED_DIAMETERS * g.diameter_mm:
        findings.append(
            Finding(
                "along.short",
                Severity.ADVICE,
                title="The sensor is too short in the uniform zone",
                reason=f"{quantity(g.immersed_mm, 'mm', '.0f')} is less than ten "
                f"diameters ({quantity(IMMERSED_DIAMETERS * g.diameter_mm, 'mm', '.0f')}): "
                "its stem leads heat out and it reads low.",
                fix="Deeper, or thinner.",
                source="common practice, no source",
            )
        )
    hot = sum(f.severity is Severity.DANGER for f in findings)
    words = (
        "Everything along the run stands its place."
        if not hot
        else f"{hot} of {len(g.places)} things are too hot where they are."
    )
    return Answer(words, (), tuple(worst_first(findings)), bars=tuple(bars))


def _along_of_rig(known: Known) -> dict[str, Any]:
    first = PlaceInput("wool", known.purpose.highest_c, "in the chamber")
    return {"places": (first, *AlongInput().places[1:])}


RUN = Question(
    "along",
    "Does everything along the run stand its place?",
    Topic.SENSOR,
    AlongInput,
    _along,
    _along_of_rig,
    (
        "A lead too short means a joint in the hot zone: plan it.",
        "Joints in the hot zone: nickel or stainless, crimped, with mica or glass. No solder, no tinned copper.",
    ),
    "Melted insulation puts mains on metal. Earth the case, and route heater wires away from heat.",
    ("sensor", "conductor"),
)
