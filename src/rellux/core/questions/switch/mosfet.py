"""How warm does the transistor of a DC heater get?"""

from dataclasses import dataclass
from typing import Any

from ...errors import refuse
from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import choice, number
from ...heating.mosfet import UNHEARD_HZ, Transistor, edge_s, loss
from ...messages import difference, quantity, temperature
from ...process.cycles import swing_c
from ...purpose.purpose import Supply
from ...units import Kind
from ..answer import Answer, Axis, Curves, Known, Mark, Question, Topic, curve
from ..rig_values import amps

JUNCTION_C = 125.0
"""Aim below it, °C: the usual 150 °C less a margin (data sheets, from memory)."""
HEARD_HZ = (30.0, 18_000.0)
"""What people hear, Hz."""


DEAD_C = 300.0
"""Beyond this silicon is no semiconductor any more: nothing is worked out there (physics of silicon, from memory)."""


@dataclass(frozen=True)
class TransistorInput:
    """A transistor, its load and its drive."""

    current_a: float = number("Load current", Kind.CURRENT, 0.05, 100, 6)
    voltage_v: float = number("Supply", Kind.VOLTAGE, 3, 100, 24)
    on_mohm: float = number("On-resistance, mΩ at the gate voltage you have", Kind.COUNT, 0.3, 5000, 10)
    frequency_hz: float = number("PWM", Kind.FREQUENCY, 0.1, 200_000, 20)
    rise_per_min: float = number("Load rises at full power, a minute", Kind.DIFFERENCE, 0.01, 5000, 30)
    gate_nc: float = number("Gate charge, nC", Kind.COUNT, 1, 1000, 40)
    gate_ma: float = number("Gate current, mA", Kind.COUNT, 0.5, 10_000, 20, hint="a bare pin gives about 20")
    to_air: float = number(
        "Junction to air", Kind.THERMAL_RESISTANCE, 0.5, 150, 60, hint="bare TO-220 about 60, on a board 40"
    )
    ambient_c: float = number("Air round it", Kind.TEMPERATURE, -20, 90, 40)
    gate: str = choice("Gate driven with", {"3.3": "{3.3 V}", "5": "5 V", "10": "10 V or more"}, "3.3")
    rated_gate: str = choice("On-resistance stated at", {"2.5": "{2.5 V}", "4.5": "{4.5 V}", "10": "10 V"}, "4.5")


def _mosfet(g: TransistorInput) -> Answer:
    t = Transistor(g.on_mohm / 1000, g.gate_nc * 1e-9, g.gate_ma / 1000, g.to_air)
    now = loss(t, g.current_a, g.voltage_v, 0.95, g.frequency_hz, g.ambient_c)
    if now.junction_c > DEAD_C:
        raise refuse(
            "current_a",
            f"with {quantity(g.current_a, 'A', '.3g')} the transistor is dead long before it reaches {temperature(DEAD_C)} inside",
            "less current, on-resistance, frequency or thermal resistance; is one of them a slip of unit?",
        )
    grid = [10 ** (i / 12) for i in range(61)]
    losses = [loss(t, g.current_a, g.voltage_v, 0.95, f, g.ambient_c) for f in grid]
    findings = []
    if float(g.gate) < float(g.rated_gate):
        findings.append(
            Finding(
                "mosfet.gate",
                Severity.DANGER,
                title=f"{g.gate} V may not turn the transistor on",
                reason=f"Its on-resistance is stated at {g.rated_gate} V: below that it may conduct only halfway and burn.",
                fix="A logic-level type stated at {2.5 V}, or a gate driver.",
            )
        )
    if now.junction_c > JUNCTION_C:
        findings.append(
            Finding(
                "mosfet.hot",
                Severity.DANGER,
                title=f"The transistor gets {temperature(now.junction_c, '.0f')} inside",
                reason=f"{quantity(now.conduction_w, 'W', '.1f')} while on, {quantity(now.switching_w, 'W', '.1f')} "
                "in the edges. It fails shorted: heater on for good.",
                fix="A heat sink, a lower on-resistance, or a lower frequency.",
            )
        )
    if HEARD_HZ[0] < g.frequency_hz < HEARD_HZ[1]:
        findings.append(
            Finding(
                "mosfet.audible",
                Severity.ADVICE,
                title=f"{quantity(g.frequency_hz, 'Hz', '.0f')} can be heard",
                reason="Coils and plates sing in the audio range.",
                fix=f"At {quantity(UNHEARD_HZ, 'Hz')} nothing sings and your load swings by "
                f"{difference(swing_c(g.rise_per_min / 60, 1 / UNHEARD_HZ), '.2g')}.",
            )
        )
    return Answer(
        f"{quantity(now.total_w, 'W', '.2g')}; the junction gets {temperature(now.junction_c, '.0f')}.",
        (
            Figure(
                "while on",
                now.conduction_w,
                Kind.POWER,
                formula="I² R_on × 1.7 × D",
                inputs=(
                    Input("current", g.current_a, Kind.CURRENT, "I", "given"),
                    Input("on-resistance", g.on_mohm / 1000, Kind.RESISTANCE, "R_on", "data sheet"),
                ),
                reason="Hot silicon has 1.7 times the resistance; at 95 % duty.",
                source="textbook",
            ),
            Figure(
                "swing of the load",
                swing_c(g.rise_per_min / 60, 1 / g.frequency_hz),
                Kind.DIFFERENCE,
                formula="rate / 4 f",
                inputs=(
                    Input("rise at full power", g.rise_per_min, Kind.RATE, "rate", "given"),
                    Input("PWM", g.frequency_hz, Kind.FREQUENCY, "f", "given"),
                ),
                reason="At half power, without the load's own lag, which makes it less.",
                source="geometry of a sawtooth",
            ),
            Figure(
                "in the edges",
                now.switching_w,
                Kind.POWER,
                formula="V I t f",
                inputs=(
                    Input("edge", edge_s(t), Kind.TIME, "t", "Q_g / I_g"),
                    Input("PWM", g.frequency_hz, Kind.FREQUENCY, "f", "given"),
                ),
                reason="Grows with frequency; a bare pin makes slow edges.",
                source="textbook, hard switching",
            ),
            Figure(
                "junction",
                now.junction_c,
                Kind.TEMPERATURE,
                formula="T_a + P R_ja",
                reason="Aim below {125 °C}.",
                source="steady thermal chain",
            ),
        ),
        tuple(findings),
        Curves(
            Axis("PWM", Kind.FREQUENCY, log=True),
            Axis("loss", Kind.POWER),
            (
                curve("all", grid, [x.total_w for x in losses]),
                curve("while on", grid, [x.conduction_w for x in losses], "other"),
            ),
            (Mark("here", g.frequency_hz, now.total_w),),
        ),
    )


def _mosfet_of_rig(known: Known) -> dict[str, Any]:
    dc = known.purpose.supply is Supply.DC
    return {"current_a": min(amps(known), 100.0), "voltage_v": known.purpose.supply_voltage_v} if dc else {}


MOSFET = Question(
    "mosfet",
    "How warm does the transistor get?",
    Topic.SWITCH,
    TransistorInput,
    _mosfet,
    _mosfet_of_rig,
    (
        "Full conduction needs the gate voltage its on-resistance is stated at.",
        "Pull the gate down with a resistor: at reset a pin floats, and the heater must be off.",
    ),
    "A shorted transistor heats for good: fuse the supply, and let a thermal cut-out break it.",
    ("actuator",),
)
