"""How a log is to be read, as guessed and as corrected by hand."""

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..errors import Problem, refuse, refuse_all
from ..messages import span
from ..runs.channels import ROLES as CHANNELS
from ..units import ABSOLUTE_ZERO_C, Kind, from_unit
from .columns import BYTE, PERCENT, scale_of
from .times import FORMATS
from .words import Heading

Array = NDArray[np.float64]
Delimiter = Literal[",", ";", "\t", "|", " "]

DELIMITERS = {"\t": "tab", ";": "semicolon", ",": "comma", "|": "bar", " ": "space"}
DECIMALS = {".": "point", ",": "comma"}
ROLES = {
    "time": "time",
    "date": "date",
    "reading": "reading",
    "setpoint": "set-point",
    "output": "output",
    "switch": "switch on or off",
    **{key: role.words for key, role in CHANNELS.items()},
}
"""What a column can be: what a run is made of, and the channels beside it."""
THERMAL = ("reading", "setpoint", *(key for key, role in CHANNELS.items() if role.kind is Kind.TEMPERATURE))
STATES = ("switch", *(key for key, role in CHANNELS.items() if role.kind is None))
TEMPERATURES = {"C": "°C", "F": "°F", "K": "K"}
SCALES = {"percent": "100 (percent)", "fraction": "1 (a share)", "byte": "255 (a byte)"}
_FULL = {"percent": 1.0, "fraction": 100.0, "byte": 100.0 / BYTE}
READINGS_C = (ABSOLUTE_ZERO_C, 2500.0)
"""What a temperature can be, °C: from absolute zero to beyond every thermocouple."""
TOLERATED = 0.02
"""Share of rows with an unreadable cell that is left out and listed, not refused (our choice: more is a wrong column)."""
FEW = 3
"""As many are left out of a short log too, if they are no more than one row in ten."""


@dataclass(frozen=True)
class Mapping:
    """How to read a log.

    ``skip`` lines stand before the heading (or before the first row, without one); ``units_row`` is a row of units below it.
    ``columns`` maps roles (keys of ``ROLES``) to columns from 0. ``time_format`` is a key of ``FORMATS``, ``unit`` of
    ``TEMPERATURES``, ``output_scale`` of ``SCALES``; an empty one is not known: the time format is then asked for, the scale read
    from the values.
    """

    delimiter: Delimiter
    decimal: str
    header: bool
    time_format: str
    unit: str
    columns: dict[str, int]
    skip: int = 0
    units_row: bool = False
    output_scale: str = ""

    @property
    def before(self) -> int:
        """Lines before the first row."""
        return self.skip + self.header + self.units_row

    def placed_as(self, other: "Mapping") -> "Mapping":
        """The same columns and meanings for a file whose table begins where ``other``'s does."""
        return replace(self, skip=other.skip, header=other.header, units_row=other.units_row)


def check_writing(mapping: Mapping) -> None:
    """Raises ``Refused`` naming every part of how the file is written that cannot be."""
    problems = [
        Problem(field, f"{value!r} is unknown", ", ".join(choices))
        for field, value, choices in (
            ("delimiter", mapping.delimiter, DELIMITERS),
            ("decimal", mapping.decimal, DECIMALS),
            ("unit", mapping.unit, TEMPERATURES),
        )
        if value not in choices
    ]
    if mapping.time_format not in FORMATS:
        reason = f"{mapping.time_format!r} is unknown" if mapping.time_format else "say how the file writes its times"
        problems.append(Problem("time_format", reason, ", ".join(FORMATS)))
    if mapping.output_scale and mapping.output_scale not in SCALES:
        problems.append(Problem("output_scale", f"{mapping.output_scale!r} is unknown", ", ".join(SCALES)))
    if not 0 <= mapping.skip <= 1000:
        problems.append(Problem("skip", f"{mapping.skip} lines before the table", "0…1000"))
    refuse_all(problems)


def check_columns(mapping: Mapping, width: int) -> None:
    """Raises ``Refused`` naming every role without a column of its own, in a file of ``width`` columns."""
    problems = []
    for role in ("time", "reading"):
        if role not in mapping.columns:
            problems.append(Problem(f"columns.{role}", f"say which column is the {role}", "a column"))
    for role, i in mapping.columns.items():
        if role not in ROLES:
            problems.append(Problem(f"columns.{role}", "is not something a run has", ", ".join(ROLES)))
        elif not 0 <= i < width:
            problems.append(Problem(f"columns.{role}", f"there is no such column: the file has {width}", f"1…{width}"))
    if len(set(mapping.columns.values())) < len(mapping.columns):
        problems.append(Problem("columns", "one column is used twice", "a column of its own for each"))
    refuse_all(problems)


def celsius(values: Array, unit: str) -> Array:
    """Temperatures of a log in °C."""
    return from_unit(values, Kind.TEMPERATURE, unit)


def full_on(scale: str) -> float:
    """What a word for "on" stands for in an output of this scale."""
    return 100.0 / _FULL[scale or "percent"]


def percent(values: Array, mapping: Mapping, name: str) -> Array:
    """An output of a log in %. Raises ``Refused`` where it is no output at this scale, or the scale cannot be told."""
    scale = mapping.output_scale or scale_of(Heading(name), values[:: max(1, len(values) // 10_000)])
    low, high = (float(f.reduce(values)) for f in (np.fmin, np.fmax))
    if np.isnan(low):
        return values
    if not scale and high > PERCENT[1]:
        raise refuse("columns.output", f"it holds {span(low, high)}", "{0…100 %}")
    if not scale and high > 0:
        raise refuse("output_scale", f"it holds {span(low, high)}: say what full on is", ", ".join(SCALES.values()))
    full = _FULL[scale or "percent"]
    if low * full < PERCENT[0] or high * full > PERCENT[1]:
        raise refuse("columns.output", f"it holds {span(low, high)}", SCALES[scale or "percent"])
    return values if full == 1.0 else values * full


def tolerable(bad: int, rows: int) -> bool:
    """Few enough unreadable rows to be left out and listed; one is, from four rows on."""
    return bad <= TOLERATED * rows or (rows >= 4 and bad <= min(FEW, max(1, rows / 10)))
