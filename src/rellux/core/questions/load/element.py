"""What does this element measure cold, and what does it draw?"""

from dataclasses import dataclass
from typing import Any

from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import choice, number
from ...heating.elements import (
    ELEMENT_KINDS,
    power_on,
)
from ...messages import percent, quantity, span
from ...units import Kind
from ..answer import MEMORY, Answer, Axis, Curves, Known, Mark, Question, Topic, curve

TOO_MUCH, TOO_LITTLE = 1.21, 0.81
"""Power beyond which an element is on the wrong supply: mains a tenth above and below nominal, squared (IEC 60038)."""
OHMIC = 2.0
"""Exponent of a plain resistance."""
NOTICED_INRUSH = 1.5
"""Times its hot current at which inrush matters to contacts and breakers (common practice, no source)."""


@dataclass(frozen=True)
class ElementInput:
    """An element by its nameplate, on a supply."""

    kind: str = choice("Kind", {k: e.name for k, e in ELEMENT_KINDS.items()}, "wire")
    power_w: float = number("Nameplate power", Kind.POWER, 1, 200_000, 1000)
    rated_v: float = number("made for", Kind.VOLTAGE, 1, 1000, 230)
    supply_v: float = number("Supply", Kind.VOLTAGE, 1, 1000, 230)


def _element(g: ElementInput) -> Answer:
    kind = ELEMENT_KINDS[g.kind]
    power = power_on(g.power_w, g.rated_v, g.supply_v, g.kind)
    current, hot = power / g.supply_v, g.supply_v**2 / power
    nameplate = Input("nameplate", g.power_w, Kind.POWER, "P₁", "given")
    figures = [
        Figure(
            "power here",
            power,
            Kind.POWER,
            formula=f"P₂ = P₁ (V₂/V₁)^{kind.exponent:g}",
            inputs=(
                nameplate,
                Input("made for", g.rated_v, Kind.VOLTAGE, "V₁", "given"),
                Input("supply", g.supply_v, Kind.VOLTAGE, "V₂", "given"),
            ),
            reason=kind.says,
            source=MEMORY if kind.exponent != OHMIC else "Ohm's law",
        ),
        Figure(
            "current when hot",
            current,
            Kind.CURRENT,
            formula="I = P₂ / V₂",
            inputs=(Input("power here", power, Kind.POWER, "P₂", "computed"),),
            reason="What everything in its path carries.",
            source="P = V I",
        ),
        Figure(
            "inrush, up to",
            current * kind.inrush[1],
            Kind.CURRENT,
            formula="I × factor",
            inputs=(Input("factor", kind.inrush[1], Kind.RATIO, "", MEMORY),),
            reason=f"Over within about {quantity(kind.settles_s, 's')}."
            if kind.settles_s
            else "Hardly more than when hot.",
            source=MEMORY,
        ),
    ]
    words = "its cold ohms say nothing beyond 'not open, not shorted'"
    if kind.cold and kind.told_by_ohms:
        low, high = hot * kind.cold[0], hot * kind.cold[1] * 1.05
        middle = (low + high) / 2
        figures.append(
            Figure(
                "cold, it should measure",
                middle,
                Kind.RESISTANCE,
                formula="V²/P × cold factor",
                inputs=(Input("hot", hot, Kind.RESISTANCE, "V²/P", "computed"),),
                reason=f"It may be {span(low, high, 'Ω', '.3g')}, with the maker's +10/−5 % of resistance.",
                source=MEMORY,
                low=low,
                high=high,
            )
        )
        words = f"cold it measures {span(low, high, 'Ω', '.3g')}"
    findings = []
    share = power / g.power_w
    if share > TOO_MUCH:
        findings.append(
            Finding(
                "element.over",
                Severity.DANGER,
                title=f"The element gives {quantity(share, '', '.2f')} times its nameplate",
                reason=f"It is made for {quantity(g.rated_v, 'V')} and gets {quantity(g.supply_v, 'V')}: it burns out early.",
                fix=_instead(g),
            )
        )
    elif share < TOO_LITTLE:
        findings.append(
            Finding(
                "element.under",
                Severity.ADVICE,
                title=f"The element gives only {percent(share)} of its nameplate",
                reason=f"It is made for {quantity(g.rated_v, 'V')} and gets {quantity(g.supply_v, 'V')}.",
                fix=f"Fine where {quantity(power, 'W', '.0f')} is enough: heating up then takes at least "
                f"{quantity(1 / share, '', '.2g')} times as long.",
            )
        )
    if kind.inrush[1] >= NOTICED_INRUSH:
        findings.append(
            Finding(
                "element.inrush",
                Severity.FAULT,
                title=f"The element draws up to {quantity(current * kind.inrush[1], 'A', '.0f')} at switch-on",
                reason=f"{kind.inrush[1]:g} times the {quantity(current, 'A', '.1f')} "
                "it draws when hot: contacts weld and breakers trip.",
                fix="Size switch and fuse for it; a zero-cross SSR, soft start or a C-curve breaker.",
            )
        )
    return Answer(
        f"{quantity(power, 'W', '.0f')}, {quantity(current, 'A', '.1f')}; {words}.",
        tuple(figures),
        tuple(findings),
        _power_curve(g),
    )


def _instead(g: ElementInput) -> str:
    """What this supply needs: so many of these elements in series, or elements made for it."""
    count = round(g.supply_v / g.rated_v)
    even = count > 1 and TOO_LITTLE <= (g.supply_v / count / g.rated_v) ** 2 <= TOO_MUCH
    series = f"{count} of them in series, or " if even and ELEMENT_KINDS[g.kind].exponent == OHMIC else ""
    return f"{series}elements made for {quantity(g.supply_v, 'V')}. A power limit in the controller is undone by one stuck switch."


def _power_curve(g: ElementInput) -> Curves:
    volts = [g.rated_v * (0.3 + 0.01 * i) for i in range(121)]
    kind = ELEMENT_KINDS[g.kind]
    lines = [curve(kind.name.split(",")[0].lower(), volts, [power_on(g.power_w, g.rated_v, v, g.kind) for v in volts])]
    if kind.exponent != OHMIC:
        lines.append(
            curve("a plain resistor", volts, [power_on(g.power_w, g.rated_v, v, "wire") for v in volts], "other")
        )
    return Curves(
        Axis("supply", Kind.VOLTAGE),
        Axis("power", Kind.POWER),
        tuple(lines),
        (Mark("here", g.supply_v, power_on(g.power_w, g.rated_v, g.supply_v, g.kind)),),
    )


def _of_rig(known: Known) -> dict[str, Any]:
    p = known.purpose
    return {"power_w": p.heater_power_w, "rated_v": p.heater_voltage_v, "supply_v": p.supply_voltage_v}


ELEMENT = Question(
    "element",
    "What does this element measure and draw?",
    Topic.LOAD,
    ElementInput,
    _element,
    _of_rig,
    (
        "P = V²/R holds for wire elements only: tungsten goes about with V^1.55, a PTC hardly follows the voltage at all.",
    ),
    "Isolate and prove dead before measuring ohms.",
    ("heater",),
)
