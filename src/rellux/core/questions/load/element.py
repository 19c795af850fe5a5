"""What does this element measure cold, and what does it draw?"""

from dataclasses import dataclass
from typing import Any

from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...heating.elements import (
    ELEMENT_KINDS,
    power_on,
)
from ...units import Kind
from ..answer import MEMORY, Answer, Axis, Curves, Known, Mark, Question, Topic, curve
from ..form import choice, number


@dataclass(frozen=True)
class ElementInput:
    """An element by its nameplate, on a supply."""

    kind: str = choice("Kind", {k: e.name for k, e in ELEMENT_KINDS.items()}, "wire")
    power_w: float = number("Nameplate power", Kind.POWER, 1, 100_000, 1000)
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
            f"P₂ = P₁ (V₂/V₁)^{kind.exponent:g}",
            (
                nameplate,
                Input("made for", g.rated_v, Kind.VOLTAGE, "V₁", "given"),
                Input("supply", g.supply_v, Kind.VOLTAGE, "V₂", "given"),
            ),
            kind.says,
            MEMORY if kind.exponent != 2 else "Ohm's law",
        ),
        Figure(
            "current when hot",
            current,
            Kind.CURRENT,
            "I = P₂ / V₂",
            (Input("power here", power, Kind.POWER, "P₂", "computed"),),
            "What everything in its path carries.",
            "P = V I",
        ),
        Figure(
            "inrush, up to",
            current * kind.inrush[1],
            Kind.CURRENT,
            "I × factor",
            (Input("factor", kind.inrush[1], Kind.RATIO, "", MEMORY),),
            f"Over within about {kind.settles_s:g} s." if kind.settles_s else "Hardly more than when hot.",
            MEMORY,
        ),
    ]
    words = "its cold ohms say nothing beyond 'not open, not shorted'"
    if kind.cold:
        low, high = hot * kind.cold[0], hot * kind.cold[1] * 1.05
        middle = (low + high) / 2
        figures.append(
            Figure(
                "cold, it should measure",
                middle,
                Kind.RESISTANCE,
                "V²/P × cold factor",
                (Input("hot", hot, Kind.RESISTANCE, "V²/P", "computed"),),
                f"Between {low:.3g} and {high:.3g} Ω, with the maker's +10/−5 % of power.",
                MEMORY,
                low=low,
                high=high,
            )
        )
        words = f"cold it measures {low:.3g} to {high:.3g} Ω"
    findings = []
    share = power / g.power_w
    if share > 1.21:
        findings.append(
            Finding(
                "element.over",
                Severity.DANGER,
                f"The element gives {share:.2f} times its nameplate",
                f"It is made for {g.rated_v:g} V and gets {g.supply_v:g} V: it burns out early.",
                "Two in series, a lower supply, or power limited in the controller *and* a fault that cannot undo it.",
            )
        )
    elif share < 0.81:
        findings.append(
            Finding(
                "element.under",
                Severity.ADVICE,
                f"The element gives only {share:.2f} of its nameplate",
                f"It is made for {g.rated_v:g} V.",
                "Fine where it is enough; heat-up takes longer.",
            )
        )
    if kind.inrush[1] >= 1.5:
        findings.append(
            Finding(
                "element.inrush",
                Severity.FAULT,
                f"The element draws up to {current * kind.inrush[1]:.0f} A at switch-on",
                f"{kind.inrush[1]:g} times the {current:.1f} A it draws when hot: contacts weld and breakers trip.",
                "Size switch and fuse for it; a zero-cross SSR, soft start or a C-curve breaker.",
            )
        )
    return Answer(f"{power:.0f} W, {current:.1f} A; {words}.", tuple(figures), tuple(findings), _power_curve(g))


def _power_curve(g: ElementInput) -> Curves:
    volts = [g.rated_v * (0.3 + 0.01 * i) for i in range(121)]
    kind = ELEMENT_KINDS[g.kind]
    lines = [curve(kind.name.split(",")[0].lower(), volts, [power_on(g.power_w, g.rated_v, v, g.kind) for v in volts])]
    if kind.exponent != 2:
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
        "A 24 V supply on an 18 V element is 1.78 times its power; 208 V on 240 V is 0.75.",
    ),
    "Isolate and prove dead before measuring ohms.",
    ("heater",),
)
