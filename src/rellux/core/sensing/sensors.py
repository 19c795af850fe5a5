"""The sensors this application knows, by one name each, with range and as-delivered tolerance.

Tolerances: IEC 60584-1:2013 class 2 for thermocouples (type B: 0.25 %), IEC 60751 class B for platinum sensors.
Used sensors drift beyond them.
"""

from dataclasses import dataclass

from ..errors import refuse
from .resistance import RANGE_C
from .thermocouples import TYPES, temperature_range

PT100 = "Pt100"
NAMES = (*TYPES, PT100)


@dataclass(frozen=True)
class Tolerance:
    """The larger of ``fixed`` °C and ``fraction`` of |t|, valid from ``low`` to ``high`` °C."""

    fixed: float
    fraction: float
    low: float
    high: float


CLASS_2 = {
    "T": Tolerance(1.0, 0.0075, -40, 350),
    "E": Tolerance(2.5, 0.0075, -40, 900),
    "J": Tolerance(2.5, 0.0075, -40, 750),
    "K": Tolerance(2.5, 0.0075, -40, 1200),
    "N": Tolerance(2.5, 0.0075, -40, 1200),
    "R": Tolerance(1.5, 0.0025, 0, 1600),
    "S": Tolerance(1.5, 0.0025, 0, 1600),
    "B": Tolerance(0.0, 0.0025, 600, 1700),
}


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
    """Permitted error of a *new* sensor in ± °C, or None where its class does not cover that temperature."""
    if name == PT100:
        return 0.3 + 0.005 * abs(temperature_c) if -196 <= temperature_c <= 600 else None
    sensor_range(name)
    row = CLASS_2[name]
    if not row.low <= temperature_c <= row.high:
        return None
    return max(row.fixed, row.fraction * abs(temperature_c))
