"""What questions take from a rig."""

from ..purpose.heater import heater_current, heater_power
from .answer import Known


def amps(known: Known) -> float:
    """The heater's current on the rig's supply, A."""
    return heater_current(known.purpose).value


def watts(known: Known) -> float:
    """The heater's power on the rig's supply, W."""
    return heater_power(known.purpose).value
