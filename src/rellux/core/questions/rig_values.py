"""What questions take from a rig."""

from ..purpose.heater import heat_w, heater_current
from .answer import Known


def amps(known: Known) -> float:
    """The heater's current on the rig's supply, A."""
    return heater_current(known.purpose).value


def watts(known: Known) -> float:
    """The heat it makes on the rig's supply, W."""
    return heat_w(known.purpose)
