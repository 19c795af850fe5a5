"""Units and kinds of quantity. The core computes in °C, kelvin differences, seconds, watts, volts, ohms and amperes.

A temperature and a temperature *difference* are different kinds: 10 °C is 50 °F, a difference of 10 °C is 18 °F.
"""

from enum import StrEnum

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
}


def celsius_from_fahrenheit(fahrenheit: float) -> float:
    """An absolute temperature in °C from °F.

    >>> celsius_from_fahrenheit(212.0)
    100.0
    """
    return (fahrenheit - 32.0) / FAHRENHEIT_PER_KELVIN


def fahrenheit_from_celsius(celsius: float) -> float:
    """An absolute temperature in °F from °C.

    >>> fahrenheit_from_celsius(100.0)
    212.0
    """
    return celsius * FAHRENHEIT_PER_KELVIN + 32.0
