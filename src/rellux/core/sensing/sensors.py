"""The sensors this application knows, by one name each, with range and usual tolerance."""

from ..errors import refuse
from .resistance import RANGE_C
from .thermocouples import TYPES, temperature_range
from .tolerances import USUAL_PLATINUM, USUAL_THERMOCOUPLE, permitted

PT100, PT1000 = "Pt100", "Pt1000"
NOMINAL_OHM = {PT100: 100.0, PT1000: 1000.0}
"""Resistance of the platinum sensors at 0 °C."""
NAMES = (*TYPES, *NOMINAL_OHM)


def is_thermocouple(name: str) -> bool:
    return name in TYPES


def describe(name: str) -> str:
    """Words for a screen: ``type N thermocouple`` or ``Pt100``."""
    return f"type {name} thermocouple" if is_thermocouple(name) else name


def sensor_range(name: str) -> tuple[float, float]:
    """Lowest and highest temperature in °C the sensor's reference function covers."""
    if name in NOMINAL_OHM:
        return RANGE_C
    if is_thermocouple(name):
        return temperature_range(name)
    raise refuse("sensor", f"{name!r} is not a sensor this version knows", ", ".join(NAMES))


def tolerance(name: str, temperature_c: float) -> float | None:
    """Permitted error of a *new* sensor of the usual class (IEC class 2, class B) in ± °C, or None where not covered."""
    sensor_range(name)
    return permitted(name, usual_class(name), temperature_c)


def usual_class(name: str) -> str:
    """The class a sensor has when nothing else is said."""
    return USUAL_PLATINUM if name in NOMINAL_OHM else USUAL_THERMOCOUPLE


def usual_span(name: str) -> tuple[float, float]:
    """The span in °C worth drawing when nothing else is said: from freezing to four fifths of the sensor's range."""
    low, high = sensor_range(name)
    return max(low, 0.0), round(0.8 * high / 50.0) * 50.0
