"""Permitted errors of new sensors by the classes of both standards, and of extension cable.

Used sensors drift beyond them. Sources: IEC 60584-1:2013 and IEC 60751 for the IEC classes; ASTM E230 (its values below
0 °C and for type B from memory); extension cable IEC 60584-3, from memory.
"""

from dataclasses import dataclass

from ..errors import refuse
from .thermocouples import TYPES

COMPENSATING_C, EXTENSION_C = 100.0, 200.0
"""Hottest joint of compensating and of extension cable, °C (IEC 60584-3, from memory)."""
COLD_JUNCTION_C = 1.0
"""A thermocouple's input adds about so much by its cold junction, °C (typical of data sheets)."""


@dataclass(frozen=True)
class Limit:
    """The larger of ``fixed`` °C and ``fraction`` of |t|, from ``low`` to ``high`` °C. ``above``: from this temperature
    on, ``fixed + slope × (t − above)`` instead."""

    fixed: float
    fraction: float
    low: float
    high: float
    above: float | None = None
    slope: float = 0.0

    def at(self, celsius: float) -> float | None:
        if not self.low <= celsius <= self.high:
            return None
        if self.above is not None:
            return self.fixed + self.slope * max(celsius - self.above, 0.0)
        return max(self.fixed, self.fraction * abs(celsius))


IEC_CLASS_1 = {
    "T": Limit(0.5, 0.004, -40, 350),
    "E": Limit(1.5, 0.004, -40, 800),
    "J": Limit(1.5, 0.004, -40, 750),
    "K": Limit(1.5, 0.004, -40, 1000),
    "N": Limit(1.5, 0.004, -40, 1000),
    "R": Limit(1.0, 0.0, 0, 1600, above=1100, slope=0.003),
    "S": Limit(1.0, 0.0, 0, 1600, above=1100, slope=0.003),
}
IEC_CLASS_2 = {
    "T": Limit(1.0, 0.0075, -40, 350),
    "E": Limit(2.5, 0.0075, -40, 900),
    "J": Limit(2.5, 0.0075, -40, 750),
    "K": Limit(2.5, 0.0075, -40, 1200),
    "N": Limit(2.5, 0.0075, -40, 1200),
    "R": Limit(1.5, 0.0025, 0, 1600),
    "S": Limit(1.5, 0.0025, 0, 1600),
    "B": Limit(0.0, 0.0025, 600, 1700),
}
IEC_CLASS_3 = {
    "T": Limit(1.0, 0.015, -200, 40),
    "E": Limit(2.5, 0.015, -200, 40),
    "K": Limit(2.5, 0.015, -200, 40),
    "N": Limit(2.5, 0.015, -200, 40),
    "B": Limit(4.0, 0.005, 600, 1700),
}
ASTM_STANDARD = {
    "T": Limit(1.0, 0.0075, 0, 370),
    "J": Limit(2.2, 0.0075, 0, 760),
    "E": Limit(1.7, 0.005, 0, 870),
    "K": Limit(2.2, 0.0075, 0, 1260),
    "N": Limit(2.2, 0.0075, 0, 1260),
    "R": Limit(1.5, 0.0025, 0, 1480),
    "S": Limit(1.5, 0.0025, 0, 1480),
    "B": Limit(0.0, 0.005, 870, 1700),
}
ASTM_SPECIAL = {
    "T": Limit(0.5, 0.004, 0, 370),
    "J": Limit(1.1, 0.004, 0, 760),
    "E": Limit(1.0, 0.004, 0, 870),
    "K": Limit(1.1, 0.004, 0, 1260),
    "N": Limit(1.1, 0.004, 0, 1260),
    "R": Limit(0.6, 0.001, 0, 1480),
    "S": Limit(0.6, 0.001, 0, 1480),
    "B": Limit(0.0, 0.0025, 870, 1700),
}
ASTM_BELOW_ZERO = {
    "T": Limit(1.0, 0.015, -200, 0),
    "E": Limit(1.7, 0.01, -200, 0),
    "K": Limit(2.2, 0.02, -200, 0),
}

THERMOCOUPLE_CLASSES = {
    "IEC class 1": IEC_CLASS_1,
    "IEC class 2": IEC_CLASS_2,
    "IEC class 3": IEC_CLASS_3,
    "ASTM standard": ASTM_STANDARD,
    "ASTM special": ASTM_SPECIAL,
}


@dataclass(frozen=True)
class PlatinumClass:
    """``fixed + per_degree |t|`` °C, with the ranges of wire-wound and of film elements."""

    fixed: float
    per_degree: float
    wire: tuple[float, float]
    film: tuple[float, float]


PLATINUM_CLASSES = {
    "class AA": PlatinumClass(0.1, 0.0017, (-50, 250), (0, 150)),
    "class A": PlatinumClass(0.15, 0.002, (-100, 450), (-30, 300)),
    "class B": PlatinumClass(0.3, 0.005, (-196, 600), (-50, 500)),
    "class C": PlatinumClass(0.6, 0.01, (-196, 600), (-50, 600)),
}

USUAL_THERMOCOUPLE, USUAL_PLATINUM = "IEC class 2", "class B"


def classes_of(sensor: str) -> tuple[str, ...]:
    """Names of the classes that exist for this sensor."""
    if sensor not in TYPES:
        return tuple(PLATINUM_CLASSES)
    return tuple(name for name, table in THERMOCOUPLE_CLASSES.items() if sensor in table)


def permitted(sensor: str, tolerance_class: str, celsius: float, film: bool = False) -> float | None:
    """Permitted error in ± °C of a new sensor, or None where its class does not cover that temperature.

    Raises ``Refused`` for a class the sensor does not have.
    """
    if tolerance_class not in classes_of(sensor):
        raise refuse("tolerance_class", f"{sensor} has no {tolerance_class}", ", ".join(classes_of(sensor)))
    if sensor not in TYPES:
        row = PLATINUM_CLASSES[tolerance_class]
        low, high = row.film if film else row.wire
        return row.fixed + row.per_degree * abs(celsius) if low <= celsius <= high else None
    limit = THERMOCOUPLE_CLASSES[tolerance_class][sensor]
    if tolerance_class == "ASTM standard" and celsius < 0 and sensor in ASTM_BELOW_ZERO:
        limit = ASTM_BELOW_ZERO[sensor]
    return limit.at(celsius)


def cable_permitted(letter: str, joint_c: float) -> float | None:
    """Permitted error in ± °C of class 2 extension or compensating cable with its joint at ``joint_c``; None for type B
    (none is defined) and beyond the cable's own range."""
    if letter in ("R", "S"):
        return 2.5 if joint_c <= COMPENSATING_C else 5.0 if joint_c <= EXTENSION_C else None
    limits = {"T": (1.0, 100.0), "K": (2.5, 200.0), "J": (2.5, 200.0), "N": (2.5, 200.0), "E": (2.5, 200.0)}
    if letter not in limits:
        return None
    error, highest = limits[letter]
    return error if joint_c <= highest else None
