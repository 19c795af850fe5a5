"""Which heat sink for the SSR?"""

from dataclasses import dataclass
from typing import Any

from ...errors import refuse
from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import number
from ...heating.switches import (
    JUNCTION_AIM_C,
    SSR_DROP_V,
    heat_sink,
    most_current,
    mounted,
)
from ...messages import percent, quantity, temperature
from ...units import Kind
from ..answer import MEMORY, Answer, Axis, Curves, Known, Mark, Question, Topic, curve
from ..rig_values import amps

MOST_SHARE = 0.8
"""Of the rating printed on an SSR (common practice, no source: 60 to 80 %)."""


@dataclass(frozen=True)
class SinkInput:
    """An SSR on its sink."""

    current_a: float = number("Load current", Kind.CURRENT, 0.1, 1000, 13)
    rating_a: float = number("SSR rating", Kind.CURRENT, 1, 250, 25)
    drop_v: float = number("Drop when on", Kind.VOLTAGE, 0.5, 3, SSR_DROP_V, hint="{1.0…1.6 V} by type")
    sink_kw: float = number("Heat sink", Kind.THERMAL_RESISTANCE, 0.05, 30, 2.0, hint="bare in air about 8 K/W")
    ambient_c: float = number("Air round the sink", Kind.TEMPERATURE, -20, 90, 40)
    leakage_ma: float = number("Leakage when off", Kind.MILLIAMPERES, 0, 50, 5)
    supply_v: float = number("Supply", Kind.VOLTAGE, 12, 690, 230)
    melting: float = number("SSR's I²t", Kind.LET_THROUGH, 1, 100_000, 340)


def _sink(g: SinkInput) -> Answer:
    now = mounted(g.current_a, g.drop_v, g.sink_kw, g.ambient_c)
    if most_current(g.drop_v, 0.0, g.ambient_c) < g.current_a:
        raise refuse(
            "current_a",
            f"{quantity(now.heat_w, 'W', '.0f')} cannot leave one SSR at {temperature(g.ambient_c, '.0f')}",
            "a larger SSR, cooler air",
        )
    needed = heat_sink(now.heat_w, g.ambient_c)
    most = min(most_current(g.drop_v, g.sink_kw, g.ambient_c), 0.8 * g.rating_a)
    findings = []
    if now.junction_c > JUNCTION_AIM_C:
        findings.append(
            Finding(
                "sink.hot",
                Severity.DANGER,
                title=f"The SSR gets {temperature(now.junction_c, '.0f')} inside",
                reason=f"{{125 °C}} is the usual end of life; {temperature(JUNCTION_AIM_C, '.0f')} is the aim. "
                "A cooked SSR fails shorted: heater on for good.",
                fix=f"A sink of {quantity(needed.value, 'K/W', '.1f')} or less, or cooler air.",
            )
        )
    if g.current_a > MOST_SHARE * g.rating_a:
        findings.append(
            Finding(
                "sink.rating",
                Severity.FAULT,
                title=f"{percent(g.current_a / g.rating_a)} of the SSR's rating",
                reason="Use 60–80 % of it: the number on its face is for a large sink at {25 °C}.",
                fix="The next larger SSR.",
                source=MEMORY,
            )
        )
    if g.leakage_ma > 1:
        findings.append(
            Finding(
                "sink.leak",
                Severity.ADVICE,
                title=f"{quantity(g.leakage_ma, 'mA')} flows while it is off",
                reason="Neon lamps glow, a small contactor may not drop out, and a meter of 10 MΩ shows the whole mains.",
                fix="It is not an isolator: never work behind it.",
            )
        )
    ambient = [20 + i for i in range(66)]
    return Answer(
        f"{quantity(now.heat_w, 'W', '.1f')}; case {temperature(now.case_c, '.0f')}, "
        f"junction {temperature(now.junction_c, '.0f')}.",
        (
            needed,
            Figure(
                "most on this sink",
                most,
                Kind.CURRENT,
                formula="(T_j − T_a) / (V (R_sa + R_cs + R_jc))",
                inputs=(
                    Input("heat sink", g.sink_kw, Kind.THERMAL_RESISTANCE, "R_sa", "given"),
                    Input("air", g.ambient_c, Kind.TEMPERATURE, "T_a", "given"),
                ),
                reason="And never beyond 80 % of its rating.",
                source="steady thermal chain",
            ),
            Figure(
                "case",
                now.case_c,
                Kind.TEMPERATURE,
                formula="T_a + P (R_sa + R_cs)",
                reason="Measure it there: on the metal beside the screw.",
                source="steady thermal chain",
            ),
            Figure(
                "fuse, I²t below",
                g.melting / 1.5,
                Kind.LET_THROUGH,
                formula="I²t_fuse < I²t_SSR",
                inputs=(Input("SSR", g.melting, Kind.LET_THROUGH, "I²t", "data sheet"),),
                reason="Only a semiconductor fuse is fast enough to save it; a breaker saves the wire.",
                source=MEMORY,
            ),
            Figure(
                "off, into a 10 MΩ meter",
                min(g.supply_v, g.leakage_ma / 1000 * 1e7),
                Kind.VOLTAGE,
                formula="I × R, at most the supply",
                reason="A ghost: into a 3 kΩ tester it is "
                + f"{quantity(min(g.supply_v, g.leakage_ma * 3), 'V', '.0f')}.",
                source="Ohm's law",
            ),
        ),
        tuple(findings),
        Curves(
            Axis("air round the sink", Kind.TEMPERATURE),
            Axis("current", Kind.CURRENT),
            (
                curve(
                    "this sink", ambient, [min(most_current(g.drop_v, g.sink_kw, t), 0.8 * g.rating_a) for t in ambient]
                ),
                curve(
                    "bare, 8 K/W",
                    ambient,
                    [min(most_current(g.drop_v, 8.0, t), 0.8 * g.rating_a) for t in ambient],
                    "other",
                ),
            ),
            (Mark("load", g.ambient_c, g.current_a),),
        ),
    )


def _sink_of_rig(known: Known) -> dict[str, Any]:
    return {"current_a": amps(known), "supply_v": known.purpose.supply_voltage_v}


SINK = Question(
    "sink",
    "Which heat sink for the SSR?",
    Topic.SWITCH,
    SinkInput,
    _sink,
    _sink_of_rig,
    (
        "1.0 to {1.6 V} stay across it when on: about {1.2 W} for every amp.",
        "Paste, flat metal, fins upright, room above and below.",
    ),
    "SSRs fail shorted. Something independent must be able to cut the heat.",
    ("actuator",),
)
