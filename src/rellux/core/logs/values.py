"""What stands in one cell: a number with its unit, nothing, or a word for on and off."""

import math
import re
from dataclasses import dataclass


def _words(text: str) -> frozenset[str]:
    return frozenset(text.split())


MISSING = _words(
    """
    nan n/a na null none nil - -- --- ---- ----- . ? ol open over under ovr udr err error fault fail failed burnout break overrange
    underrange overflow #n/a #value! #wert! inf -inf +inf +ovl -ovl ovl x
    """
)
"""Words that loggers write where they have no value (common practice, no source)."""

ON = _words(
    """
    on true yes active closed heating ein an ja wahr aktiv zu heizt marche vrai oui actif si sí encendido encendida activo acceso
    accesa vero attivo ligado sim verdadeiro aan waar wl wlaczony włączony tak zal zał zapnuto zap ano päällä paalla kyllä til på pa
    sand tændt be igen
    """
)
OFF = _words(
    """
    off false no inactive idle aus nein falsch inaktiv arret arrêt faux non inactif apagado apagada inactivo spento spenta falso
    inattivo desligado nao não uit onwaar nee wyl wył wylaczony wyłączony nie vypnuto vyp ne pois ei fra av nej slukket ki nem
    """
)
"""On and off in the common languages of Europe."""

UNITS = {
    "C": ("°c", "degc", "deg c", "c", "celsius", "grad", "ºc", "℃"),
    "F": ("°f", "degf", "deg f", "f", "fahrenheit", "ºf", "℉"),
    "K": ("k", "kelvin"),
    "%": ("%", "pct", "percent", "prozent"),
    "A": ("a", "ma", "amp", "amps", "ampere"),
    "V": ("v", "mv", "volt", "volts"),
    "W": ("w", "kw", "watt", "watts", "kwh", "wh"),
    "ms": ("ms", "msec", "msecs", "millis", "millisecond", "milliseconds", "millisekunden"),
    "s": ("s", "sec", "secs", "second", "seconds", "sek", "sekunden", "secondes", "segundos", "secondi", "seconden"),
    "min": ("min", "mins", "minute", "minutes", "minuten", "minuti", "minutos"),
    "h": ("h", "hr", "hrs", "hour", "hours", "std", "stunden", "heures", "horas", "ore", "uur"),
}
"""How units are written in headings, in rows of units and behind numbers."""
_UNIT_OF = {word: unit for unit, words in UNITS.items() for word in words}

_CELL = re.compile(r"([-+]?)(\d[\d.,'\s]*|[.,]\d+)(e[-+]?\d+)?\s*(\D{0,8})", re.IGNORECASE)
_SPACES = re.compile(r"[\s\u00a0\u202f]+")


@dataclass(frozen=True)
class Number:
    """A value and the unit written behind it, "" where there is none."""

    value: float
    unit: str = ""


def unit_of(text: str) -> str:
    """The unit a text names, as a key of ``UNITS``; "" where it names none."""
    return _UNIT_OF.get(_SPACES.sub(" ", text).strip(" .:()[]").lower(), "")


def is_missing(cell: str) -> bool:
    return not cell or cell.lower() in MISSING


def number(cell: str, decimal: str) -> Number | None:
    """The number in a cell; NaN where it says that there is none, ``None`` where it holds something else.

    Thousands may be parted by spaces, apostrophes or the mark that is not ``decimal``, in threes only.
    """
    cell = cell.strip().replace("\u2212", "-").replace("\u00a0", " ").replace("\u202f", " ")
    if is_missing(cell):
        return Number(math.nan)
    found = _CELL.fullmatch(cell)
    if not found:
        return None
    sign, digits, exponent, tail = found.groups()
    unit = unit_of(tail) if tail.strip() else ""
    if tail.strip() and not unit:
        return None
    whole, mark, fraction = digits.strip().partition(decimal)
    parts = re.split(r"[ '.,]", whole)
    if len(parts) > 1 and not (0 < len(parts[0]) <= 3 and all(len(p) == 3 for p in parts[1:])):
        return None
    plain = "".join(parts)
    if not (plain + fraction).isdigit() or (mark and fraction and not fraction.isdigit()):
        return None
    return Number(float(f"{sign}{plain or 0}.{fraction or 0}{exponent or ''}"), unit)


def is_number(cell: str, decimal: str) -> bool:
    """Something is measured in it: a number, not a word for a missing one."""
    found = number(cell, decimal)
    return found is not None and math.isfinite(found.value)


def on_off(cell: str) -> float | None:
    """Words for on and off as a share of full, 1 or 0; ``None`` for anything else."""
    word = cell.strip().lower()
    return 1.0 if word in ON else 0.0 if word in OFF else None
