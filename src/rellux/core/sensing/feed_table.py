"""What to feed an input so that it shows a temperature: millivolts or ohms in place of the sensor, for proving alarms."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from ..errors import refuse
from ..messages import span, temperature
from . import resistance
from .sensors import NOMINAL_OHM, describe, is_thermocouple, standard_range
from .thermocouples import emf

COLDEST_C, HOTTEST_C = -40.0, 100.0
"""Where an instrument's terminals can be, °C (our choice)."""


class Lead(StrEnum):
    """What feeds the input and joins it: a millivolt source by copper, one by the type's own extension wire (a junction stands at
    its terminals then), or a source by extension wire that knows its own terminals and is set in °C."""

    COPPER = "copper"
    EXTENSION = "extension"
    SIMULATOR = "simulator"


LEADS = {
    Lead.COPPER: "Millivolts by copper leads",
    Lead.EXTENSION: "Millivolts by extension wire",
    Lead.SIMULATOR: "Simulator by extension wire",
}
READABLE_B_C = 43.0
"""A type B gives less at 42 °C than at 0: below this its voltage tells no temperature (NIST Monograph 175), °C."""


@dataclass(frozen=True)
class Row:
    """A temperature in °C and what to feed for it: mV for thermocouples (°C into a simulator), Ω for platinum sensors."""

    celsius: float
    feed: float


@dataclass(frozen=True)
class FeedTable:
    """The rows, their unit, and how to use them in a sentence."""

    unit: str
    rows: tuple[Row, ...]
    how: str


MOST_ROWS = 500


def table(
    sensor: str,
    low_c: float,
    high_c: float,
    step_c: float,
    terminals_c: float,
    lead: Lead = Lead.COPPER,
    source_c: float = 25.0,
) -> FeedTable:
    """Rows from ``low_c`` to ``high_c`` every ``step_c``. For a thermocouple through copper the feed is ``E(T) − E(T_terminals)``;
    through extension wire the junction is at the source, ``E(T) − E(T_source)``; a simulator is set to T itself. Rows that no
    voltage tells apart (type B below 43 °C) are left out. Raises ``Refused`` outside the sensor's range or for more than 500 rows.
    """
    lowest, highest = standard_range(sensor)
    if not lowest <= low_c <= high_c <= highest:
        raise refuse(
            "low_c", f"not all of that is inside a {describe(sensor)}", f"{span(lowest, highest, '°C')}, rising"
        )
    if not step_c > 0 or (high_c - low_c) / step_c > MOST_ROWS:
        raise refuse("step_c", "gives no rows or too many", f"steps that give 1…{MOST_ROWS} rows")
    for name, value in (("terminals_c", terminals_c), ("source_c", source_c)):
        if not COLDEST_C <= value <= HOTTEST_C:
            raise refuse(name, f"{temperature(value)} is not a place for terminals", "{-40…100 °C}")
    celsius = np.arange(low_c, high_c + step_c * 1e-6, step_c)
    if not is_thermocouple(sensor):
        feed = resistance.resistance(celsius, NOMINAL_OHM[sensor])
        how = "Put a decade box in place of the sensor, its leads like the sensor's own."
        return FeedTable("Ω", _rows(celsius, feed), how)
    left_out = ""
    if sensor == "B" and low_c < READABLE_B_C:
        celsius = celsius[celsius >= READABLE_B_C]
        left_out = f" Below {temperature(READABLE_B_C)} a type B says nothing: those rows are left out."
        if not len(celsius):
            raise refuse("high_c", "a type B tells no temperatures apart there", f"above {temperature(READABLE_B_C)}")
    if lead is Lead.SIMULATOR:
        how = (
            f"Join it with type {sensor} extension wire and dial the temperature; it knows its own terminals.{left_out}"
        )
        return FeedTable("°C", _rows(celsius, celsius), how)
    if lead is Lead.EXTENSION:
        how = (
            f"Join the source with type {sensor} extension wire; the junction is at its terminals, at {temperature(source_c)}, "
            f"and the table is wrong when they warm up.{left_out}"
        )
        return FeedTable("mV", _rows(celsius, emf(sensor, celsius) - emf(sensor, source_c)), how)
    how = f"Join the source with copper; measured with the terminals at {temperature(terminals_c)}, and wrong when they warm up.{left_out}"
    return FeedTable("mV", _rows(celsius, emf(sensor, celsius) - emf(sensor, terminals_c)), how)


def _rows(celsius: np.ndarray, feed: np.ndarray) -> tuple[Row, ...]:
    return tuple(Row(round(float(c), 6), float(f)) for c, f in zip(celsius, feed, strict=True))
