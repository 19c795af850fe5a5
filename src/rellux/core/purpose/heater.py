"""What a rig drives, on its supply: the power and the current of its heater, or of its compressor."""

from ..explain import Figure, Input
from ..heating import loads
from ..units import Kind
from .purpose import Purpose, Supply

POWER_FACTOR = 0.6
"""Of a small compressor's motor on mains (typical, from memory): it draws so much more current than its watts say."""


def heater_power(purpose: Purpose) -> Figure:
    """Power in W at the supply's voltage; a compressor takes what its nameplate says."""
    if purpose.cools:
        return Figure(
            "compressor power",
            purpose.heater_power_w,
            Kind.POWER,
            reason="What its nameplate says.",
            source="nameplate",
        )
    return loads.power_at(purpose.heater_power_w, purpose.heater_voltage_v, purpose.supply_voltage_v)


def heater_current(purpose: Purpose) -> Figure:
    """Current in A in each live conductor."""
    if purpose.cools:
        return _compressor_current(purpose)
    three = purpose.supply is Supply.THREE_PHASE
    return loads.heater_current(
        purpose.heater_power_w, purpose.heater_voltage_v, purpose.supply_voltage_v, three_phase=three
    )


def _compressor_current(purpose: Purpose) -> Figure:
    factor = 1.0 if purpose.supply is Supply.DC else POWER_FACTOR
    return Figure(
        "compressor current",
        purpose.heater_power_w / (purpose.heater_voltage_v * factor),
        Kind.CURRENT,
        formula="I = P / (V cos φ)",
        inputs=(
            Input("rated power", purpose.heater_power_w, Kind.POWER, "P", "nameplate"),
            Input("rated voltage", purpose.heater_voltage_v, Kind.VOLTAGE, "V", "nameplate"),
            Input("power factor", factor, Kind.RATIO, "cos φ", "typical of small motors, from memory"),
        ),
        reason="Running; at every start it draws several times as much for half a second.",
        source="P = V I cos φ",
        symbol="I",
    )
