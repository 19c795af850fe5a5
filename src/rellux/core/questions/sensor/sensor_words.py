"""What every question about a sensor asks alike."""

from ...errors import refuse
from ...messages import span, temperature
from ...sensing.sensors import NOMINAL_OHM, describe, standard_range
from ...sensing.thermocouples import TYPES
from ..answer import Known

STANDARD = {**{t: f"Type {t} thermocouple" for t in TYPES}, **{name: name for name in NOMINAL_OHM}}
"""Sensors with a standard table, as a choice."""


def within(field: str, sensor: str, celsius: float) -> None:
    """Raise ``Refused`` in ``field`` for a temperature the sensor's table does not cover."""
    low, high = standard_range(sensor)
    if not low <= celsius <= high:
        raise refuse(field, f"{temperature(celsius)} is outside a {describe(sensor)}", span(low, high, "°C"))


def sensor_of(known: Known) -> dict[str, str]:
    """The rig's sensor where it has a standard table."""
    return {"sensor": known.choice.sensor} if known.choice.sensor in STANDARD else {}
