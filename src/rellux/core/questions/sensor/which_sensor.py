"""Which sensor belongs at this place?"""

from dataclasses import dataclass
from typing import Any

from ...errors import refuse
from ...explain import Figure, Input
from ...findings import Finding, Severity, worst_first
from ...form import choice, flag, number
from ...messages import difference, quantity, temperature
from ...sensing.choosing import (
    SENSORS,
    Atmosphere,
    Build,
    Junction,
    Medium,
    Sensor,
    class_for,
    faults,
    response_s,
    sheath_for,
    sheath_of,
)
from ...sensing.thermocouples import TYPES
from ...sensing.tolerances import COLD_JUNCTION_C
from ...units import Kind
from ..answer import Alternative, Answer, Known, Question, Topic

TENS_S = 10.0
"""Shorter times are shown to two digits (our choice)."""
USUAL_CLASSES = ("IEC class 2", "IEC class 3", "class B", "1 % bead")
"""A finer class counts as one step of price (our choice)."""
COARSE_BELOW_C, STEADY_ABOVE_C = 600.0, 500.0
"""Type B and its kind are coarse below; type N's steadiness over type K counts above, °C (common practice, no source)."""

PRICE = {1: "cheap", 2: "affordable", 3: "dear", 4: "very dear"}

MEDIA = {
    Medium.STILL_AIR: "Still air",
    Medium.MOVED_AIR: "Moving air",
    Medium.WATER: "Stirred water or oil",
    Medium.CLAMPED: "Clamped to a plate or in a well",
}

ATMOSPHERES = {
    Atmosphere.AIR: "Air",
    Atmosphere.WET: "Wet",
    Atmosphere.REDUCING: "Reducing gas, hydrogen, smoke",
    Atmosphere.SULPHUR: "Sulphur",
    Atmosphere.VACUUM: "Vacuum",
}


@dataclass(frozen=True)
class SensorInput:
    """The place of a sensor and what is wanted of it."""

    working_c: float = number("Works at", Kind.TEMPERATURE, -150, 1700, 560)
    highest_c: float = number("may get as hot as", Kind.TEMPERATURE, -150, 1750, 620)
    atmosphere: Atmosphere = choice("Around it", ATMOSPHERES, Atmosphere.AIR)
    medium: Medium = choice("Heat comes by", MEDIA, Medium.STILL_AIR)
    build: Build = choice(
        "Thermocouple made as",
        {Build.PROBE: "Mineral-insulated probe", Build.WIRES: "Wires in beads or braid, in a tube"},
        Build.PROBE,
    )
    diameter_mm: float = number("Sheath diameter", Kind.MILLIMETRES, 0.25, 30, 3)
    wire_mm: float = number("Thickness of each wire", Kind.MILLIMETRES, 0.1, 5, 0.8, when=("build", (Build.WIRES,)))
    junction: Junction = choice(
        "Junction",
        {
            Junction.UNGROUNDED: "Ungrounded: isolated",
            Junction.GROUNDED: "Grounded: faster, on the sheath",
            Junction.EXPOSED: "Exposed: fastest, unprotected",
        },
        Junction.UNGROUNDED,
    )
    response_s: float = number("Should follow within", Kind.TIME, 0.05, 3600, 240)
    error_c: float = number("May be off by", Kind.DIFFERENCE, 0.05, 100, 5)
    moneyed: bool = flag("Price hardly matters", False)


def _sensor(g: SensorInput) -> Answer:
    if g.highest_c < g.working_c:
        raise refuse("highest_c", "it may get no hotter than it works at?", f"{temperature(g.working_c)} or more")
    judged = sorted((_judge(s, g) for s in SENSORS), key=lambda row: row[0])
    best = judged[0] if judged[0][0][0] == 0 else None
    tau = response_s(g.diameter_mm, g.medium, g.junction)
    sheath = sheath_for(g.highest_c)
    findings = _junction(g)
    if tau > g.response_s:
        findings.append(
            Finding(
                "sensor.slow",
                Severity.FAULT,
                title=f"A {quantity(g.diameter_mm, 'mm')} sheath takes {quantity(tau, 's', '.2g' if tau < TENS_S else '.0f')}",
                reason=(
                    f"You want {quantity(g.response_s, 's')}. In air the response "
                    "goes with the diameter, in water with its square."
                ),
                fix="A thinner sheath, a grounded or exposed junction, or moving air.",
            )
        )
    if sheath is None:
        findings.append(
            Finding(
                "sensor.sheath",
                Severity.FAULT,
                title="No usual sheath stands that",
                reason="Above {1600 °C} only special ceramics.",
                fix="Ask a maker.",
            )
        )
    shown = tuple(
        Alternative(a.key, a.title, a.verdict, says=a.says, reasons=a.reasons, chosen=best is not None and a is best[1])
        for _, a in judged
    )
    return Answer(
        _headline(g, best[1]) if best else "No usual sensor does all of this.",
        (
            Figure(
                "follows within",
                tau,
                Kind.TIME,
                formula="ρ c d / 4h" if g.medium in (Medium.STILL_AIR, Medium.MOVED_AIR) else "typical, by diameter",
                inputs=(Input("sheath", g.diameter_mm, Kind.MILLIMETRES, "d", "given"),),
                reason=f"63 % of a step, {g.junction.value} junction.",
                source="common practice; lumped rod",
            ),
            Figure(
                "immersed at least",
                10 * g.diameter_mm,
                Kind.MILLIMETRES,
                formula="10 d",
                inputs=(Input("sheath", g.diameter_mm, Kind.MILLIMETRES, "d", "given"),),
                reason="In the uniform zone, or the sheath leads heat away and it reads low.",
                source="common practice, no source",
            ),
        ),
        tuple(worst_first(findings)),
        alternatives=shown,
    )


def _headline(g: SensorInput, best: Alternative) -> str:
    """What to order, in one line: sensor, class, sheath, junction."""
    if best.key not in TYPES:
        return f"{best.title}: {best.says}."
    grade = best.says.split(",")[0]
    sheath = sheath_of(best.key, g.highest_c) or "special ceramic"
    return f"{best.title}, {grade}, {g.junction.value}, {quantity(g.diameter_mm, 'mm')} of {sheath}."


def _junction(g: SensorInput) -> list[Finding]:
    """What a junction on its sheath, or outside of it, asks for."""
    if g.junction is Junction.GROUNDED:
        return [
            Finding(
                "sensor.grounded",
                Severity.ADVICE,
                title="A grounded junction puts the case on the input",
                reason="On an earthed case an input that is not isolated reads nothing or follows the heater's noise.",
                fix="An isolated input, or an ungrounded junction.",
            )
        ]
    if g.junction is Junction.EXPOSED and g.atmosphere is not Atmosphere.AIR:
        return [
            Finding(
                "sensor.exposed",
                Severity.FAULT,
                title=f"An exposed junction does not last in {ATMOSPHERES[g.atmosphere].lower()}",
                reason="Bare wires corrode, and moisture creeps into the insulation behind them.",
                fix="A grounded junction is the next fastest.",
            )
        ]
    return []


def _judge(sensor: Sensor, g: SensorInput) -> tuple[tuple[int, float], Alternative]:
    """Rank (unfit last, then by price and by error) and what to say of one sensor."""
    thickness = g.wire_mm if g.build is Build.WIRES else g.diameter_mm
    wrong = faults(sensor, min(g.working_c, 20.0), g.highest_c, g.atmosphere, g.build, thickness)
    if sensor.key == "B" and g.working_c < COARSE_BELOW_C:
        wrong.append("blind near room temperature, coarse below {600 °C}")
    graded = class_for(sensor.key, g.working_c, g.error_c)
    off = graded[1] if graded else None
    if off is not None and off > g.error_c:
        wrong.append(f"new it may be off by {difference(off, '.2g')}")
    if off is None and not wrong:
        wrong.append("no class covers this temperature")
    says = (
        f"{graded[0]}, ±{difference(graded[1], '.2g')} when new, {PRICE[sensor.price]}, {sensor.good}"
        if graded
        else sensor.good
    )
    serious = any("off by" not in w for w in wrong)
    verdict = None if not wrong else (Severity.FAULT if serious else Severity.ADVICE)
    # a sensor as steady as N above 300 °C is worth one step of price
    price = (
        0.0 if g.moneyed else float(sensor.price) - (1.0 if sensor.key == "N" and g.working_c > STEADY_ABOVE_C else 0.0)
    )
    if graded and graded[0] not in USUAL_CLASSES and not g.moneyed:
        price += 1.0
    junction = COLD_JUNCTION_C if sensor.key in TYPES else 0.0
    rank = (len(wrong) and (2 if serious else 1), 10 * price + (off or 50.0) + junction)
    return rank, Alternative(
        sensor.key, sensor.name, verdict, says="; ".join(wrong) if wrong else says, reasons=tuple(wrong)
    )


def _of_rig(known: Known) -> dict[str, Any]:
    return {"working_c": known.purpose.working_c, "highest_c": known.purpose.highest_c}


CHOICE = Question(
    "sensor",
    "Which sensor belongs here?",
    Topic.SENSOR,
    SensorInput,
    _sensor,
    _of_rig,
    (
        "Where the load is, past the inner wall by 25–40 mm, out of the flame and off the element.",
        "One spot is not the whole chamber. Two elements in one sheath fail together when it is knocked out of place.",
        "In a dry well any probe can be changed without draining.",
    ),
    "A sensor that slips out of the hot zone reads cool: the heater goes to full power. Fix it so that it cannot.",
    ("sensor",),
)
