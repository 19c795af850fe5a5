"""The rig's heater on the rig's supply."""

from ..explain import Figure
from ..heating import loads
from .purpose import Purpose, Supply


def heater_power(purpose: Purpose) -> Figure:
    """Power in W at the supply's voltage."""
    return loads.power_at(purpose.heater_power_w, purpose.heater_voltage_v, purpose.supply_voltage_v)


def heater_current(purpose: Purpose) -> Figure:
    """Current in A in each live conductor."""
    three = purpose.supply is Supply.THREE_PHASE
    return loads.heater_current(
        purpose.heater_power_w, purpose.heater_voltage_v, purpose.supply_voltage_v, three_phase=three
    )
