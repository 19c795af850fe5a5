"""The sensors this application knows, by one name each, with range and usual tolerance."""

from ..errors import refuse
from .resistance import RANGE_C
from .thermocouples import TYPES, temperature_range
from .tolerances import USUAL_PLATINUM, USUAL_THERMOCOUPLE, permitted

PT100, PT1000 = "Pt100", "Pt1000"
NOMINAL_OHM = {PT100: 100.0, PT1000: 1000.0}
"""Resistance of the platinum sensors at 0 °C."""
NTC = "NTC"
NTC_RANGE_C = (-40.0, 150.0)
"""Of a 10 kΩ bead (typical of data sheets)."""
NAMES = (*TYPES, *NOMINAL_OHM, NTC)


NTC_TOLERANCE_C = 0.5
"""Of a usual 1 % bead around room temperature; grows by about 1 % of the distance from it (typical of data sheets)."""


def is_thermocouple(name: str) -> bool:
    return name in TYPES


def describe(name: str) -> str:
    """Words for a screen: ``type N thermocouple``, ``Pt100`` or ``10 kΩ thermistor``."""
    if name == NTC:
        return "10 kΩ thermistor"
    return f"type {name} thermocouple" if is_thermocouple(name) else name


def offered_as(name: str) -> str:
    """Words for a choice of sensors, with what decides how it is wired."""
    wires = {PT100: "Pt100, three wires", PT1000: "Pt1000, two wires", NTC: "Thermistor, 10 kΩ"}
    return wires.get(name, f"Type {name} thermocouple")


def sensor_range(name: str) -> tuple[float, float]:
    """Lowest and highest temperature in °C the sensor's reference function covers.
    Raises ``Refused`` for one that is not known.
    """
    if name in NOMINAL_OHM:
        return RANGE_C
    if is_thermocouple(name):
        return temperature_range(name)
    if name == NTC:
        return NTC_RANGE_C
    raise refuse("sensor", f"{name!r} is not a sensor this version knows", ", ".join(NAMES))


def standard_range(name: str) -> tuple[float, float]:
    """Range of a sensor that has a standard reference table. Raises ``Refused`` for thermistors, which have none."""
    if name == NTC:
        raise refuse(
            "sensor",
            "a thermistor has no standard table: fit it from pairs of your own",
            ", ".join(n for n in NAMES if n != NTC),
        )
    return sensor_range(name)


def tolerance(name: str, temperature_c: float) -> float | None:
    """Permitted error of a *new* sensor of the usual class (IEC class 2, class B) in ± °C, or None where not covered."""
    sensor_range(name)
    if name == NTC:
        return NTC_TOLERANCE_C + 0.01 * abs(temperature_c - 25.0)
    return permitted(name, usual_class(name), temperature_c)


def usual_class(name: str) -> str:
    """The class a sensor has when nothing else is said."""
    return USUAL_PLATINUM if name in NOMINAL_OHM else USUAL_THERMOCOUPLE


def usual_span(name: str) -> tuple[float, float]:
    """The span in °C worth drawing when nothing else is said: from freezing to four fifths of the sensor's range."""
    low, high = sensor_range(name)
    return max(low, 0.0), round(0.8 * high / 50.0) * 50.0
