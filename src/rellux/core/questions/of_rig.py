"""What questions take from a rig."""

from ..heating.loads import heater_current, power_at
from .answer import Known


def amps(known: Known) -> float:
    """The heater's current on the rig's supply, A."""
    p = known.purpose
    return heater_current(p.heater_power_w, p.heater_voltage_v, p.supply_voltage_v).value


def watts(known: Known) -> float:
    """The heater's power on the rig's supply, W."""
    p = known.purpose
    return power_at(p.heater_power_w, p.heater_voltage_v, p.supply_voltage_v).value
