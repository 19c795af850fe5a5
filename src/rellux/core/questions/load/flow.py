"""How warm does a flow of water or air get, and what stops the heater when it stops?"""

from dataclasses import dataclass

from ...errors import Problem, refuse, refuse_all
from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import choice, flag, number
from ...heating.dips import BOILING_C, flow_power
from ...messages import quantity, temperature
from ...units import Kind
from ..answer import Answer, Axis, Curves, Question, Topic, curve

TOO_HOT_C = 800.0
"""Air hotter than this comes from no open element: it glows some hundred degrees above it (our choice)."""


@dataclass(frozen=True)
class FlowInput:
    """Water drawn or air blown through a heater."""

    medium: str = choice("Flow of", {"water": "Water", "air": "Air"}, "water")
    flow: float = number("Flow", Kind.FLOW, 0.01, 100_000, 2)
    in_c: float = number("comes in at", Kind.TEMPERATURE, -40, 200, 15)
    out_c: float = number("wanted at", Kind.TEMPERATURE, -20, 800, 40)
    power_w: float = number("Heater", Kind.POWER, 1, 200_000, 3500)
    interlocked: bool = flag("Fan or flow switch cuts the heater", False)


def _flow(g: FlowInput) -> Answer:
    if g.out_c <= g.in_c:
        raise refuse(
            "out_c", "a heater does not cool: it is wanted no warmer than it comes in", f"above {temperature(g.in_c)}"
        )
    water = g.medium == "water"
    if water:
        _liquid(g)
    needed = flow_power(g.flow, g.out_c - g.in_c, water)
    reached = g.in_c + g.power_w / flow_power(g.flow, 1.0, water)
    boils_below = g.power_w / flow_power(1.0, max(BOILING_C - g.in_c, 1e-3), water)
    most = g.power_w / flow_power(1.0, g.out_c - g.in_c, water)
    findings = []
    if needed > g.power_w:
        findings.append(
            Finding(
                "flow.power",
                Severity.FAULT,
                title=f"At full power the flow only gets {temperature(reached, '.0f')}",
                reason=f"This flow takes {quantity(needed, 'W', '.0f')} and the heater gives {quantity(g.power_w, 'W', '.0f')}.",
                fix=f"At most {quantity(most, 'l/min', '.2g')}, or more power.",
            )
        )
    if water and reached >= BOILING_C:
        findings.append(
            Finding(
                "flow.boils",
                Severity.DANGER,
                title="At full power this flow boils in the heater",
                reason=f"From {quantity(boils_below, 'l/min', '.2g')} downwards {quantity(g.power_w, 'W', '.0f')} bring it to {{100 °C}}: "
                "steam, scale, and a heater that runs dry.",
                fix="More flow, less power, or a cut-out at the outlet; open to the air, never in a closed vessel.",
            )
        )
    if not water and reached > TOO_HOT_C:
        findings.append(
            Finding(
                "flow.burns",
                Severity.DANGER,
                title=f"At full power the element burns before the air gets its heat: beyond {temperature(TOO_HOT_C)}",
                reason="An element stays hotter than the air it heats.",
                fix="More flow or less power, and an over-temperature cut-out at the element.",
            )
        )
    if not g.interlocked:
        what = (
            "A heater in still air burns its own wires"
            if not water
            else "A heater run dry or in still water boils and bursts"
        )
        findings.append(
            Finding(
                "flow.interlock",
                Severity.DANGER,
                title="Nothing stops the heater when the flow stops",
                reason=f"{what} within a minute.",
                fix="A flow or vane switch in the heater's safety chain, the fan on before the heater "
                "and on after it until it is cool (its thermostat set above the warmest room), and a thermal cut-out.",
            )
        )
    top = BOILING_C if water else TOO_HOT_C
    grid = [g.flow * (0.1 + i * 0.025) for i in range(117)]
    return Answer(
        f"It takes {quantity(needed, 'W', '.0f')}; " + _full_power(water, reached),
        (
            Figure(
                "heat the flow takes",
                needed,
                Kind.POWER,
                formula="ṁ c ΔT",
                inputs=(
                    Input("flow", g.flow, Kind.FLOW, "ṁ", "given"),
                    Input("rise", g.out_c - g.in_c, Kind.DIFFERENCE, "ΔT", "given"),
                ),
                reason="Only the flow; losses come on top.",
                source="calorimetry",
            ),
            Figure(
                "most flow at this rise",
                most,
                Kind.FLOW,
                formula="P / (c ΔT)",
                inputs=(Input("heater", g.power_w, Kind.POWER, "P", "given"),),
                reason="Beyond it the outlet falls.",
                source="calorimetry",
            ),
        ),
        tuple(findings),
        Curves(
            Axis("flow", Kind.FLOW),
            Axis("outlet at full power", Kind.TEMPERATURE),
            (
                curve(
                    "outlet",
                    grid,
                    [min(g.in_c + g.power_w / flow_power(f, 1.0, water), top) for f in grid],
                ),
                curve("wanted", (grid[0], grid[-1]), (g.out_c, g.out_c), "limit"),
            ),
        ),
    )


def _liquid(g: FlowInput) -> None:
    """Water that flows in and is wanted as water."""
    refuse_all(
        Problem(name, f"at {temperature(value)} it is no water", "{0…100 °C}, at the pressure of the air")
        for name, value in (("in_c", g.in_c), ("out_c", g.out_c))
        if not 0 <= value < BOILING_C
    )


def _full_power(water: bool, reached: float) -> str:
    if water and reached >= BOILING_C:
        return "at full power it boils."
    if not water and reached > TOO_HOT_C:
        return f"at full power it would pass {temperature(TOO_HOT_C)} and the element burn."
    return f"at full power it gets {temperature(reached, '.0f')}."


FLOW = Question(
    "flow",
    "How warm does the flow get?",
    Topic.LOAD,
    FlowInput,
    _flow,
    None,
    (
        "Too much air prevents reaching the target; too little burns the element.",
        "An element in a tank must be covered: dry running is a hazard of its own.",
    ),
    "Element and probe must both be covered, or both see the flow.",
    ("heater",),
)
