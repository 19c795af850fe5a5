"""Resistive loads: resistance, and power and current at the actual supply. P = V²/R (constant resistance only)."""

from math import sqrt

from ..errors import refuse
from ..explain import Figure, Input
from ..messages import quantity
from ..units import Kind

SOURCE = "Ohm's law; constant-resistance element (not lamps, PTC or disilicide elements)"


def element_resistance(rated_power_w: float, rated_voltage_v: float) -> Figure:
    """Hot resistance in Ω of an element from its nameplate: ``R = V² / P``.

    >>> round(element_resistance(3200.0, 230.0).value, 2)
    16.53
    """
    _positive("rated_power_w", rated_power_w)
    _positive("rated_voltage_v", rated_voltage_v)
    return Figure(
        "element resistance",
        rated_voltage_v**2 / rated_power_w,
        Kind.RESISTANCE,
        formula="R = V² / P",
        inputs=(
            Input("rated voltage", rated_voltage_v, Kind.VOLTAGE, "V", "nameplate"),
            Input("rated power", rated_power_w, Kind.POWER, "P", "nameplate"),
        ),
        reason="What the element must measure when hot; a cold wire element is a few percent lower.",
        source=SOURCE,
        symbol="R",
    )


def power_at(rated_power_w: float, rated_voltage_v: float, supply_voltage_v: float) -> Figure:
    """Power in W of the element on another voltage: ``P₂ = P₁ (V₂ / V₁)²``."""
    _positive("supply_voltage_v", supply_voltage_v)
    resistance = element_resistance(rated_power_w, rated_voltage_v).value
    return Figure(
        "heater power at this supply",
        supply_voltage_v**2 / resistance,
        Kind.POWER,
        formula="P₂ = P₁ (V₂ / V₁)²",
        inputs=(
            Input("rated power", rated_power_w, Kind.POWER, "P₁", "nameplate"),
            Input("rated voltage", rated_voltage_v, Kind.VOLTAGE, "V₁", "nameplate"),
            Input("supply voltage", supply_voltage_v, Kind.VOLTAGE, "V₂", "purpose"),
        ),
        reason=f"Power goes with the square of the voltage: here {quantity((supply_voltage_v / rated_voltage_v) ** 2, '', '.3g')} times "
        "the nameplate.",
        source=SOURCE,
        symbol="P",
    )


def heater_current(
    rated_power_w: float, rated_voltage_v: float, supply_voltage_v: float, *, three_phase: bool = False
) -> Figure:
    """Current in A in each live conductor: ``I = V_supply / R``; of a balanced three-phase bank ``I = P / (√3 V)``, with
    nameplate and supply as voltages between lives."""
    resistance = element_resistance(rated_power_w, rated_voltage_v)
    _positive("supply_voltage_v", supply_voltage_v)
    supply = Input("supply voltage", supply_voltage_v, Kind.VOLTAGE, "V_supply", "purpose")
    reason = "Everything in the heater's path must carry this current for hours: heating is a continuous load."
    if three_phase:
        power = power_at(rated_power_w, rated_voltage_v, supply_voltage_v)
        return Figure(
            "heater current",
            power.value / (sqrt(3.0) * supply_voltage_v),
            Kind.CURRENT,
            formula="I = P / (√3 V_supply)",
            inputs=(supply, power.as_input("P")),
            reason=reason,
            source="balanced three-phase load",
            symbol="I",
        )
    return Figure(
        "heater current",
        supply_voltage_v / resistance.value,
        Kind.CURRENT,
        formula="I = V_supply / R",
        inputs=(supply, resistance.as_input("R")),
        reason=reason,
        source=SOURCE,
        symbol="I",
    )


def _positive(field: str, value: float) -> None:
    if not value > 0:
        raise refuse(field, f"must be more than zero, not {quantity(value)}", "> 0")
