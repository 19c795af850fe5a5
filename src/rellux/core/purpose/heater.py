"""What a rig drives, on its supply: the power and the current of its heater, or of the motor of its compressor or fan; and the heat it
makes."""

from ..explain import Figure, Input
from ..heating import loads
from ..units import Kind
from .purpose import Purpose, Supply

POWER_FACTOR = 0.6
"""Of a small motor on mains (typical, from memory): it draws so much more current than its watts say."""


def heater_power(purpose: Purpose) -> Figure:
    """Power in W at the supply's voltage; a motor takes what its nameplate says."""
    if purpose.drives_motor:
        return Figure(
            f"{purpose.load} power",
            purpose.heater_power_w,
            Kind.POWER,
            reason="What its nameplate says.",
            source="nameplate",
        )
    return loads.power_at(purpose.heater_power_w, purpose.heater_voltage_v, purpose.supply_voltage_v)


def heater_current(purpose: Purpose) -> Figure:
    """Current in A in each live conductor."""
    if purpose.drives_motor:
        return _motor_current(purpose)
    three = purpose.supply is Supply.THREE_PHASE
    return loads.heater_current(
        purpose.heater_power_w, purpose.heater_voltage_v, purpose.supply_voltage_v, three_phase=three
    )


def most_fault_a(purpose: Purpose) -> float | None:
    """What a short circuit of its supply brings at the most where a generator or inverter makes that, A; ``None`` of public mains."""
    own = purpose.own_mains
    return own.fault_a(purpose.supply_voltage_v, purpose.supply is Supply.THREE_PHASE) if own else None


def heat_w(purpose: Purpose) -> float:
    """Heat in W it makes at full: of its elements on this supply, or of its fire; of a module that turns, what it draws and what it pumps
    in besides, which with both its faces at one temperature is as much as it takes out turned round (first law)."""
    if purpose.fire:
        return purpose.fire.fire_w
    pumps_in = purpose.cooler.cooler_w if purpose.cooler and purpose.cooler.turns else 0.0
    return heater_power(purpose).value + pumps_in


def _motor_current(purpose: Purpose) -> Figure:
    factor = 1.0 if purpose.supply is Supply.DC else POWER_FACTOR
    return Figure(
        f"{purpose.load} current",
        purpose.heater_power_w / (purpose.heater_voltage_v * factor),
        Kind.CURRENT,
        formula="I = P / (V cos φ)",
        inputs=(
            Input("rated power", purpose.heater_power_w, Kind.POWER, "P", "nameplate"),
            Input("rated voltage", purpose.heater_voltage_v, Kind.VOLTAGE, "V", "nameplate"),
            Input("power factor", factor, Kind.RATIO, "cos φ", "typical of small motors, from memory"),
        ),
        reason="Running; at every start it draws several times as much for a moment.",
        source="P = V I cos φ",
        symbol="I",
    )
