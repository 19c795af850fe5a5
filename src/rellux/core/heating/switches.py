"""What switching costs: contact life of relays, heat in solid state relays and the sink that takes it away."""

from dataclasses import dataclass

from ..errors import refuse
from ..explain import Figure, Input
from ..messages import quantity, temperature
from ..units import Kind

RELAY_OPERATIONS = 1e5
"""Electrical life of a relay at its rated resistive load, operations (common practice; typical of data sheets)."""

JUNCTION_AIM_C = 110.0
"""Junction temperature to design for: 15 °C below the usual limit of 125 °C."""

JUNCTION_TO_CASE = 0.5
"""K/W of an SSR, typical (data sheets, from memory)."""
CASE_TO_SINK = 0.1
"""K/W from case to sink with paste, typical."""

SSR_DROP_V = 1.2
"""Voltage across a conducting SSR, V; 1.0…1.6 by type."""


def relay_life(cycle_s: float, operations: float = RELAY_OPERATIONS) -> Figure:
    """Seconds of cycling until the contacts are used up: ``N × cycle``. One operation is one on-off cycle.
    Raises ``Refused`` for a cycle that takes no time.

    >>> round(relay_life(20.0).value / 3600)
    556
    """
    if not cycle_s > 0:
        raise refuse("cycle_s", "must be more than zero", "> 0 s")
    return Figure(
        "relay life",
        operations * cycle_s,
        Kind.TIME,
        formula="life = N × cycle",
        inputs=(
            Input("operations at rated load", operations, Kind.COUNT, "N", "typical data sheet"),
            Input("cycle", cycle_s, Kind.TIME, "cycle", "control period or predicted swing period"),
        ),
        reason="One operation is spent each cycle: at 20 s a relay lasts about 556 h of cycling, at 2 s about 56 h.",
        source="common practice, no source",
        symbol="life",
    )


def ssr_dissipation(current_a: float, drop_v: float = SSR_DROP_V) -> Figure:
    """Heat in W an SSR gives off while on: ``P = V_drop × I``.

    >>> ssr_dissipation(13.0).value
    15.6
    """
    return Figure(
        "heat in the SSR",
        current_a * drop_v,
        Kind.POWER,
        formula="P = V_drop × I",
        inputs=(
            Input("drop", drop_v, Kind.VOLTAGE, "V_drop", "typical"),
            Input("load current", current_a, Kind.CURRENT, "I", "computed"),
        ),
        reason="It must leave through the heat sink; without one about 5 A is the most.",
        source="typical drop {1.0…1.6 V}, common practice, no source",
        symbol="P",
    )


def heat_sink(
    dissipation_w: float,
    ambient_c: float,
    junction_max_c: float = JUNCTION_AIM_C,
    junction_to_case: float = JUNCTION_TO_CASE,
    case_to_sink: float = CASE_TO_SINK,
) -> Figure:
    """Largest thermal resistance in K/W the sink may have: ``(T_j − T_a) / P − R_jc − R_cs``.

    ``junction_max_c`` 110 °C keeps 15 °C from the usual 125 °C limit. Raises ``Refused`` when no sink suffices.
    """
    resistance = (junction_max_c - ambient_c) / dissipation_w - junction_to_case - case_to_sink
    if resistance <= 0:
        raise refuse(
            "dissipation_w",
            f"{quantity(dissipation_w, 'W', '.1f')} cannot leave this SSR at {temperature(ambient_c, '.0f')}",
            "a larger SSR",
        )
    return Figure(
        "heat sink, at most",
        resistance,
        Kind.THERMAL_RESISTANCE,
        formula="R_sa = (T_j − T_a) / P − R_jc − R_cs",
        inputs=(
            Input("junction, aimed for", junction_max_c, Kind.TEMPERATURE, "T_j", "{125 °C} limit less a margin"),
            Input("air round the sink", ambient_c, Kind.TEMPERATURE, "T_a", "assumed inside a box"),
            Input("heat", dissipation_w, Kind.POWER, "P", "computed"),
            Input("junction to case", junction_to_case, Kind.THERMAL_RESISTANCE, "R_jc", "typical"),
            Input("case to sink", case_to_sink, Kind.THERMAL_RESISTANCE, "R_cs", "typical, with paste"),
        ),
        reason="A smaller number is a larger sink.",
        source="steady thermal chain; typical SSR values, from memory",
        symbol="R_sa",
    )


@dataclass(frozen=True)
class Mounted:
    """An SSR on a sink of ``sink_kw`` K/W in air at ``ambient_c``: heat in W, case and junction in °C."""

    heat_w: float
    case_c: float
    junction_c: float


def warmest_metal(dissipation: Figure) -> Figure:
    """Warmest that the metal under an SSR may be, °C, for its junction to stay where it is aimed: ``T_j − P (R_jc + R_cs)``.

    >>> round(warmest_metal(ssr_dissipation(20.0)).value, 1)
    95.6
    """
    return Figure(
        "metal under it, at most",
        JUNCTION_AIM_C - dissipation.value * (JUNCTION_TO_CASE + CASE_TO_SINK),
        Kind.TEMPERATURE,
        formula="T_j − P (R_jc + R_cs)",
        symbol="T",
        inputs=(
            Input("junction, aimed for", JUNCTION_AIM_C, Kind.TEMPERATURE, "T_j", "{125 °C} limit less a margin"),
            dissipation.as_input("P"),
            Input("junction to case", JUNCTION_TO_CASE, Kind.THERMAL_RESISTANCE, "R_jc", "typical"),
            Input("case to sink", CASE_TO_SINK, Kind.THERMAL_RESISTANCE, "R_cs", "typical, with paste"),
        ),
        reason="Hotter metal means a junction beyond its aim: more metal, more air, or paste that is missing.",
        source="steady thermal chain; typical SSR values, from memory",
    )


def mounted(
    current_a: float, drop_v: float, sink_kw: float, ambient_c: float, junction_to_case: float = JUNCTION_TO_CASE
) -> Mounted:
    """Temperatures in °C of the chain junction, case, sink, air at full power;
    ``sink_kw`` and ``junction_to_case`` in K/W.
    """
    heat = current_a * drop_v
    case = ambient_c + heat * (sink_kw + CASE_TO_SINK)
    return Mounted(heat, case, case + heat * junction_to_case)


def most_current(drop_v: float, sink_kw: float, ambient_c: float, junction_to_case: float = JUNCTION_TO_CASE) -> float:
    """Current in A that brings the junction to :data:`JUNCTION_AIM_C`."""
    return max(JUNCTION_AIM_C - ambient_c, 0.0) / (drop_v * (sink_kw + CASE_TO_SINK + junction_to_case))
