"""The sensors this application knows, by one name each, with range and usual tolerance."""

from ..errors import refuse
from .resistance import RANGE_C
from .thermocouples import TYPES, temperature_range
from .tolerances import USUAL_PLATINUM, USUAL_THERMOCOUPLE, permitted

PT100 = "Pt100"
NAMES = (*TYPES, PT100)


def is_thermocouple(name: str) -> bool:
    return name in TYPES


def describe(name: str) -> str:
    """Words for a screen: ``type N thermocouple`` or ``Pt100``."""
    return f"type {name} thermocouple" if is_thermocouple(name) else name


def sensor_range(name: str) -> tuple[float, float]:
    """Lowest and highest temperature in °C the sensor's reference function covers."""
    if name == PT100:
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
    return USUAL_PLATINUM if name == PT100 else USUAL_THERMOCOUPLE


def usual_span(name: str) -> tuple[float, float]:
    """The span in °C worth drawing when nothing else is said: from freezing to four fifths of the sensor's range."""
    low, high = sensor_range(name)
    return max(low, 0.0), round(0.8 * high / 50.0) * 50.0
