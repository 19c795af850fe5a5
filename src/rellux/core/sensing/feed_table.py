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
    """What joins a millivolt source to the input: copper, or the type's own extension wire (the source then has a cold
    junction of its own and is simply set to the temperature)."""

    COPPER = "copper"
    EXTENSION = "extension"


@dataclass(frozen=True)
class Row:
    """A temperature in °C and what to feed for it: mV for thermocouples, Ω for platinum sensors."""

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
    sensor: str, low_c: float, high_c: float, step_c: float, terminals_c: float, lead: Lead = Lead.COPPER
) -> FeedTable:
    """Rows from ``low_c`` to ``high_c`` every ``step_c``. For a thermocouple through copper the feed is
    ``E(T) − E(T_terminals)``; through extension wire it is E(T) and the source compensates. Raises ``Refused`` outside the
    sensor's range or for more than 500 rows."""
    lowest, highest = standard_range(sensor)
    if not lowest <= low_c <= high_c <= highest:
        raise refuse(
            "low_c", f"not all of that is inside a {describe(sensor)}", f"{span(lowest, highest, '°C')}, rising"
        )
    if not step_c > 0 or (high_c - low_c) / step_c > MOST_ROWS:
        raise refuse("step_c", "gives no rows or too many", f"steps that give 1…{MOST_ROWS} rows")
    if not COLDEST_C <= terminals_c <= HOTTEST_C:
        raise refuse("terminals_c", f"{temperature(terminals_c)} is not a place for terminals", "{-40…100 °C}")
    celsius = np.arange(low_c, high_c + step_c * 1e-6, step_c)
    if not is_thermocouple(sensor):
        feed = resistance.resistance(celsius, NOMINAL_OHM[sensor])
        how = "Put a decade box in place of the sensor, its leads like the sensor's own."
        return FeedTable("Ω", _rows(celsius, feed), how)
    feed = emf(sensor, celsius)
    if lead is Lead.EXTENSION:
        how = f"Join the source with type {sensor} extension wire; it compensates its own terminals."
        return FeedTable("mV", _rows(celsius, feed), how)
    feed = feed - emf(sensor, terminals_c)
    how = f"Join the source with copper; measured with the terminals at {temperature(terminals_c)}, and wrong when they warm up."
    return FeedTable("mV", _rows(celsius, feed), how)


def _rows(celsius: np.ndarray, feed: np.ndarray) -> tuple[Row, ...]:
    return tuple(Row(round(float(c), 6), float(f)) for c, f in zip(celsius, feed, strict=True))
