"""Sentences with typed quantities: a template whose quantities stand in braces, ``Lower it to {60 °C}``.

A *message* is a plain string. Each quantity in it is ``{number unit}`` or ``{low…high unit}``; ``Δ°C`` is a difference of
temperatures (factor 1.8, no 32), ``~`` before the number says that it is rounded to whole ones. Whoever shows a message
renders it for its reader: :func:`render` here (paper, exports, errors), ``said`` in the front end (°C or °F, decimal comma).
Text without braces is a message too. ``docs/messages.md`` describes the form for other programs.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass
from math import isfinite

from .units import FAHRENHEIT_PER_KELVIN, UNIT, Kind, fahrenheit_from_celsius

DIFFERENCE = "Δ°C"
SPOKEN_UNITS = frozenset(
    {
        "°C",
        DIFFERENCE,
        "°C/min",
        "°C/h",
        "°C/%",
        "°C/Ω",
        "%/°C",
        "µV/°C",
        "mV/°C",
        "Ω/°C",
        "W",
        "W/K",
        "µs",
        "kW",
        "W/m",
        "W/cm²",
        "W/m·K",
    }
    | {"W/m²K", "MJ/m³K", "K/W", "kWh", "A", "mA", "A²s", "V", "mV", "Ω", "kΩ", "Ω/m", "Hz", "%", "°"}
    | {"mm", "mm²", "mm/s", "cm²", "m", "m²", "kg", "l/min", "MB", "ms", "s", "min", "h", "turns", "years", "/h", ""}
)
"""Units a quantity of a message may have; "" is a bare number."""

_PLACE = re.compile(
    r"\{(?P<about>~?)(?P<sign>\+?)(?P<first>[-−]?\d+(?:\.\d+)?(?:e[+-]?\d+)?)(?:…(?P<last>[-−]?\d+(?:\.\d+)?(?:e[+-]?\d+)?))?"
    r"(?: ?(?P<unit>[^{}\d\s][^{}\s]*))?\}"
)


@dataclass(frozen=True)
class Spoken:
    """One quantity of a message: its numbers as written (one, or the two ends of a span) and its unit."""

    numbers: tuple[str, ...]
    unit: str
    about: bool = False
    sign: str = ""

    def text(self, unit: str) -> str:
        """For a reader in ``unit`` (``C`` or ``F``), with a true minus sign."""
        shown = self.unit.replace(DIFFERENCE, "°C")
        numbers = self.numbers
        if unit == "F" and "°C" in shown:
            shown = shown.replace("°C", "°F")
            numbers = tuple(_fahrenheit(n, self.unit, self.about) for n in numbers)
        said = self.sign + "…".join(numbers).replace("-", "−")
        return said + shown if shown in ("°", "%/h", "/h") else f"{said} {shown}".rstrip()


def quantity(value: float, unit: str = "", form: str = "g") -> str:
    """A quantity for a message: ``quantity(13.24, "A", ".1f")`` is ``{13.2 A}``. What is not finite is said as –.

    Raises ``ValueError`` for a unit no reader knows.

    >>> quantity(13.24, "A", ".1f")
    '{13.2 A}'
    """
    return _place((value,), unit, form)


def span(low: float, high: float, unit: str = "", form: str = "g") -> str:
    """From one quantity to another of its kind: ``{0.1…0.5 s}``."""
    return _place((low, high), unit, form)


def temperature(celsius: float, form: str = "g") -> str:
    """A temperature for a message: ``{60 °C}``."""
    return quantity(celsius, "°C", form)


def difference(celsius: float, form: str = "g") -> str:
    """A difference of temperatures for a message: ``{2.5 Δ°C}``."""
    return quantity(celsius, DIFFERENCE, form)


def percent(share: float, form: str = ".0f") -> str:
    """A share (1 is all of it) in percent: ``{12.5 %}``."""
    return quantity(share * 100, "%", form)


def of_kind(value: float, kind: Kind | None, form: str = "g") -> str:
    """A quantity in the core's unit of its kind; a bare number where there is none."""
    return quantity(value, _unit(kind), form)


def span_of(low: float, high: float, kind: Kind | None, form: str = "g") -> str:
    """From one value to another of a kind, in the core's unit."""
    return span(low, high, _unit(kind), form)


SECONDS_S, MINUTES_S = 120.0, 7200.0
"""Shorter is said in seconds, shorter than the other in minutes."""


def spoken_time(seconds: float, form: str = "") -> str:
    """A time as somebody at the bench would say it.

    >>> spoken_time(90.0), spoken_time(5400.0), spoken_time(57_600.0)
    ('{90 s}', '{90 min}', '{16.0 h}')
    """
    if seconds < SECONDS_S:
        return quantity(seconds, "s", form or ".0f")
    in_min = seconds < MINUTES_S
    return quantity(
        seconds / (60.0 if in_min else 3600.0), "min" if in_min else "h", form or (".0f" if in_min else ".1f")
    )


def shortened(message: str, most: int) -> str:
    """A message of at most so many letters; a quantity is kept whole or left out.

    >>> shortened("set-point {60 °C}", 15)
    'set-point '
    """
    cut = message[:most]
    return cut[: cut.rindex("{")] if cut != message and cut.rfind("{") > cut.rfind("}") else cut


def spoken(message: str) -> Iterator[Spoken]:
    """The quantities of a message, in its order."""
    return (_spoken(found) for found in _PLACE.finditer(message))


def render(message: str, unit: str = "C") -> str:
    """A message as text for a reader in °C (``C``) or °F (``F``).

    >>> render("Lower it by {5 Δ°C} to {60 °C}.", "F")
    'Lower it by 9 °F to 140 °F.'
    """
    return _PLACE.sub(lambda found: _spoken(found).text(unit), message)


def _unit(kind: Kind | None) -> str:
    if kind is None:
        return ""
    return DIFFERENCE if kind is Kind.DIFFERENCE else UNIT[kind]


def _spoken(found: re.Match[str]) -> Spoken:
    numbers = tuple(n for n in (found["first"], found["last"]) if n is not None)
    return Spoken(numbers, found["unit"] or "", bool(found["about"]), found["sign"])


def _place(values: tuple[float, ...], unit: str, form: str) -> str:
    if unit not in SPOKEN_UNITS:
        raise ValueError(f"no reader knows the unit {unit!r}")
    if not all(isfinite(v) for v in values):
        return "–"
    about = "~" if form.endswith(".0f") and "°C" in unit else ""
    return f"{{{about}{'…'.join(_number(v, form) for v in values)} {unit}".rstrip() + "}"


def _number(value: float, form: str) -> str:
    """As the form says, without the exponents that ``g`` gives to ordinary sizes."""
    text = f"{value:{form}}"
    return f"{value:.0f}" if "e" in text and 1 <= abs(value) < 1e9 else text


def _fahrenheit(number: str, unit: str, about: bool) -> str:
    """Converted with the 32 only for a temperature; rounded as finely as it was written, to tenths where it was whole."""
    value = float(number.replace("−", "-"))
    if unit == "°C":
        value = fahrenheit_from_celsius(value)
    else:
        value = value / FAHRENHEIT_PER_KELVIN if unit.endswith("/°C") else value * FAHRENHEIT_PER_KELVIN
    decimals = len(number.partition(".")[2])
    if about:
        return f"{value:.0f}" if abs(value) >= 10 or unit == "°C" else f"{value:.1f}"
    if decimals:
        return f"{value:.{decimals}f}"
    return f"{round(value, 1):g}" if abs(value) < 1e5 else f"{value:.0f}"
