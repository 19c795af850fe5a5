"""Units and kinds of quantity. The core computes in °C, kelvin differences, seconds, watts, volts, ohms and amperes.

A temperature and a temperature *difference* are different kinds: 10 °C is 50 °F, a difference of 10 °C is 18 °F.
"""

from enum import StrEnum
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

Number = TypeVar("Number", float, NDArray[np.float64])
"""One value, or an array of any shape."""
ABSOLUTE_ZERO_C = -273.15
FAHRENHEIT_PER_KELVIN = 1.8
J_PER_KWH = 3.6e6


class Kind(StrEnum):
    """What sort of quantity a figure is; decides its unit and how it converts."""

    TEMPERATURE = "temperature"
    DIFFERENCE = "temperature_difference"
    RATE = "temperature_rate"
    GAIN = "process_gain"
    PERCENT_PER_DEGREE = "percent_per_degree"
    TIME = "time"
    POWER = "power"
    CURRENT = "current"
    VOLTAGE = "voltage"
    RESISTANCE = "resistance"
    AREA = "area"
    THERMAL_RESISTANCE = "thermal_resistance"
    CONDUCTANCE = "thermal_conductance"
    PERCENT = "percent"
    RATIO = "ratio"
    COUNT = "count"
    PER_HOUR = "per_hour"
    MILLIMETRES = "millimetres"
    METRES = "metres"
    SURFACE = "surface"
    CONDUCTIVITY = "conductivity"
    HEAT_TRANSFER = "heat_transfer"
    ENERGY = "energy"
    MONEY = "money"
    MASS = "mass"
    FREQUENCY = "frequency"
    ANGLE = "angle"
    POWER_PER_METRE = "power_per_metre"
    SURFACE_LOAD = "surface_load"
    MILLIVOLTS = "millivolts"
    MILLIAMPERES = "milliamperes"
    LET_THROUGH = "let_through"
    FLOW = "flow"
    COEFFICIENT = "coefficient"
    DEGREE_TIME = "degree_time"


UNIT = {
    Kind.TEMPERATURE: "°C",
    Kind.DIFFERENCE: "°C",
    Kind.RATE: "°C/min",
    Kind.GAIN: "°C/%",
    Kind.PERCENT_PER_DEGREE: "%/°C",
    Kind.TIME: "s",
    Kind.POWER: "W",
    Kind.CURRENT: "A",
    Kind.VOLTAGE: "V",
    Kind.RESISTANCE: "Ω",
    Kind.AREA: "mm²",
    Kind.THERMAL_RESISTANCE: "K/W",
    Kind.CONDUCTANCE: "W/K",
    Kind.PERCENT: "%",
    Kind.RATIO: "",
    Kind.COUNT: "",
    Kind.PER_HOUR: "/h",
    Kind.MILLIMETRES: "mm",
    Kind.METRES: "m",
    Kind.SURFACE: "m²",
    Kind.CONDUCTIVITY: "W/m·K",
    Kind.HEAT_TRANSFER: "W/m²K",
    Kind.ENERGY: "kWh",
    Kind.MONEY: "",
    Kind.MASS: "kg",
    Kind.FREQUENCY: "Hz",
    Kind.ANGLE: "°",
    Kind.POWER_PER_METRE: "W/m",
    Kind.SURFACE_LOAD: "W/cm²",
    Kind.MILLIVOLTS: "mV",
    Kind.MILLIAMPERES: "mA",
    Kind.LET_THROUGH: "A²s",
    Kind.FLOW: "l/min",
    Kind.COEFFICIENT: "",
    Kind.DEGREE_TIME: "°C·s/%",
}


def celsius_from_fahrenheit(fahrenheit: Number) -> Number:
    """An absolute temperature in °C from °F.

    >>> celsius_from_fahrenheit(212.0)
    100.0
    """
    return (fahrenheit - 32.0) / FAHRENHEIT_PER_KELVIN


def fahrenheit_from_celsius(celsius: Number) -> Number:
    """An absolute temperature in °F from °C.

    >>> fahrenheit_from_celsius(100.0)
    212.0
    """
    return celsius * FAHRENHEIT_PER_KELVIN + 32.0


def in_unit(value: Number, kind: Kind | None, unit: str) -> Number:
    """What a controller whose temperatures are in ``unit`` (C, F or K) shows of a value in °C, K or °C/min; any other kind is the same.

    >>> in_unit(100.0, Kind.TEMPERATURE, "F"), in_unit(10.0, Kind.DIFFERENCE, "F"), in_unit(10.0, Kind.TIME, "F")
    (212.0, 18.0, 10.0)
    """
    if kind is Kind.TEMPERATURE:
        return fahrenheit_from_celsius(value) if unit == "F" else value - ABSOLUTE_ZERO_C if unit == "K" else value
    return value * FAHRENHEIT_PER_KELVIN if unit == "F" and kind in (Kind.DIFFERENCE, Kind.RATE) else value


def from_unit(shown: Number, kind: Kind | None, unit: str) -> Number:
    """The inverse of :func:`in_unit`: the value in °C, K or °C/min of what such a controller shows."""
    if kind is Kind.TEMPERATURE:
        return celsius_from_fahrenheit(shown) if unit == "F" else shown + ABSOLUTE_ZERO_C if unit == "K" else shown
    return shown / FAHRENHEIT_PER_KELVIN if unit == "F" and kind in (Kind.DIFFERENCE, Kind.RATE) else shown
