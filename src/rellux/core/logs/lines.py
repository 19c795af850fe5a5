"""Lines that a board prints over its serial port: how they seem to be written, and what stands in one.

Three ways are known: named (``T=63.2 SP=65``), by position (``63.2, 65, 12``) and JSON (``{"t": 63.2}``). A line that does not hold
all that was learnt is no line: half a line must never be read as a smaller number.
"""

import json
import re
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np

from ..errors import Problem, refuse, refuse_all
from ..runs.channels import ROLES as CHANNELS
from .columns import cells, roles, scale_of
from .mapping import READINGS_C, ROLES, SCALES, STATES, TEMPERATURES, THERMAL, celsius, full_on
from .values import is_number, number, on_off
from .words import Heading, heading

LEAST_LINES = 3
"""Whole lines of one kind from which they are learnt (our choice)."""
MOST_FIELDS = 40
MOST_NESTED = 64
"""Brackets in a line of JSON: a reading is flat, or nearly so."""
MOSTLY = 0.6
"""Share of the lines that must be of the kind learnt: boards print remarks between them (our choice)."""
DIVIDERS = (";", "\t", "|", ",", " ")
LIVE_ROLES = {role: words for role, words in ROLES.items() if role not in ("time", "date")}
"""What a field of a line can be; when it came is when it was heard."""
VALUES = {
    "reading": "reading_c",
    "setpoint": "setpoint_c",
    "output": "output",
    "switch": "switch",
    **{key: role.source for key, role in CHANNELS.items()},
}
"""The live value of each."""
_NAMED = re.compile(r"([^\W\d_][\w.%°()/-]*)\s*[:=]\s*([^\s,;|]+)")


class LineKind(StrEnum):
    """How its fields are told apart."""

    NAMED = "named"
    POSITION = "position"
    JSON = "json"


@dataclass(frozen=True)
class LineFormat:
    """How to read a line. ``keys``: all fields a whole line has; ``roles``: which of them is what (keys of ``LIVE_ROLES``); ``unit`` of
    the temperatures, a key of ``TEMPERATURES``; ``output_scale`` a key of ``SCALES``. ``divider`` and ``decimal`` by position only.
    """

    kind: LineKind
    keys: tuple[str, ...]
    roles: dict[str, str]
    unit: str = "C"
    output_scale: str = "percent"
    divider: str = ","
    decimal: str = "."


@dataclass(frozen=True)
class LineField:
    """A field as it was heard: its key, the last things that stood in it, and what it seems to be, "" for nothing known."""

    key: str
    shown: tuple[str, ...]
    role: str


@dataclass(frozen=True)
class Learnt:
    """How lines seem to be written; ``whole`` of ``heard`` lines are so. ``doubts``: what should be looked at."""

    format: LineFormat
    fields: tuple[LineField, ...]
    whole: int
    heard: int
    doubts: tuple[str, ...] = field(default_factory=tuple)


def learn(lines: Sequence[str]) -> Learnt:
    """How most of these lines are written, a heading among them used for its names. Raises ``Refused`` where they are no readings."""
    heard = [line for line in lines if line.strip()]
    for kind, divider, names in _ways(heard):
        found = [(f, line) for line in heard if (f := _fields(line, kind, divider)) and _measured(f)]
        usual = _usual([tuple(f) for f, _ in found])
        whole = [f for f, _ in found if tuple(f) == usual]
        if len(whole) >= max(LEAST_LINES, MOSTLY * len(found)) and len(found) >= MOSTLY * (len(heard) - bool(names)):
            return _learnt(kind, divider, usual, names, whole, len(heard))
    raise refuse("lines", "they hold no readings in one form", "such as T=63.2 SP=65, or 63.2,65, or JSON, one a line")


def values_of(line: str, how: LineFormat) -> dict[str, float | None] | None:
    """Live values by name, °C and %, of a whole line; ``None`` for any other. A value that is none, or cannot be, is ``None``."""
    found = _fields(line, how.kind, how.divider)
    if (
        found is None
        or not set(how.keys) <= set(found)
        or (how.kind is LineKind.POSITION and len(found) != len(how.keys))
    ):
        return None
    try:
        return {
            VALUES[role]: value_in(found[key], role, how.decimal, how.unit, how.output_scale)
            for role, key in how.roles.items()
        }
    except GarbledError:
        return None


def check(how: LineFormat) -> None:
    """Raises ``Refused`` for a format by which nothing could be read."""
    problems = []
    if not 1 <= len(how.keys) <= MOST_FIELDS or len(set(how.keys)) != len(how.keys):
        problems.append(Problem("keys", f"{len(how.keys)} fields", f"1…{MOST_FIELDS}, each once"))
    if "reading" not in how.roles:
        problems.append(Problem("roles", "none of the fields is the reading", "the field with the temperature"))
    for role, key in how.roles.items():
        if role not in LIVE_ROLES:
            problems.append(Problem("roles", f"{role!r} is nothing known", ", ".join(LIVE_ROLES.values())))
        if key not in how.keys:
            problems.append(Problem("roles", f"{key!r} is no field of a line", ", ".join(how.keys)))
    if len(set(how.roles.values())) < len(how.roles):
        problems.append(Problem("roles", "one field is two things", "a field for each"))
    if how.unit not in TEMPERATURES:
        problems.append(Problem("unit", f"{how.unit!r} is unknown", ", ".join(TEMPERATURES.values())))
    if how.output_scale not in SCALES:
        problems.append(Problem("output_scale", f"{how.output_scale!r} is unknown", ", ".join(SCALES.values())))
    if how.kind is LineKind.POSITION and (how.divider not in DIVIDERS or how.decimal not in (".", ",")):
        problems.append(Problem("divider", "cannot divide a line", "comma, semicolon, tab, bar or space"))
    refuse_all(problems)


def _ways(heard: Sequence[str]) -> list[tuple[LineKind, str, tuple[str, ...]]]:
    """Kinds to try, the strictest first, with the names that a heading gives the positions."""
    ways: list[tuple[LineKind, str, tuple[str, ...]]] = [(LineKind.JSON, "", ()), (LineKind.NAMED, "", ())]
    for divider in DIVIDERS:
        heads = [f for line in heard if (f := _fields(line, LineKind.POSITION, divider)) and len(f) > 1]
        named = [tuple(f.values()) for f in heads if not any(map(_is_value, f.values()))]
        ways.append((LineKind.POSITION, divider, named[0] if named and len(set(named[0])) == len(named[0]) else ()))
    return ways


def _fields(line: str, kind: LineKind, divider: str) -> dict[str, str] | None:
    """What stands in a line by its key, a position from 1."""
    line = line.strip()
    if kind is LineKind.JSON:
        return _json(line)
    if kind is LineKind.NAMED:
        given = _NAMED.findall(line)
        return dict(given) if given and len(dict(given)) == len(given) else None
    parts = line.split() if divider == " " else line.split(divider)
    return {str(i): part.strip() for i, part in enumerate(parts, 1)}


def _json(line: str) -> dict[str, str] | None:
    if not (line.startswith("{") and line.endswith("}")) or line.count("{") + line.count("[") > MOST_NESTED:
        return None
    try:
        given = json.loads(line)
    except ValueError:
        return None
    if not isinstance(given, dict):
        return None
    inner = {f"{k}.{n}": v for k, value in given.items() if isinstance(value, dict) for n, v in value.items()}
    flat = {k: v for k, v in {**given, **inner}.items() if not isinstance(v, dict | list)}
    return {k: "" if v is None else str(v).lower() if isinstance(v, bool) else str(v) for k, v in flat.items()}


def _is_value(text: str) -> bool:
    return is_number(text, ".") or is_number(text, ",") or on_off(text) is not None


def _measured(found: Mapping[str, str]) -> bool:
    """Something in it is a number."""
    return any(is_number(v, ".") or is_number(v, ",") for v in found.values())


def _usual(shapes: Sequence[tuple[str, ...]]) -> tuple[str, ...]:
    return Counter(shapes).most_common(1)[0][0] if shapes else ()


def _learnt(
    kind: LineKind,
    divider: str,
    keys: tuple[str, ...],
    names: tuple[str, ...],
    whole: Sequence[Mapping[str, str]],
    heard: int,
) -> Learnt:
    columns = [[f[key] for f in whole] for key in keys]
    decimal = "." if kind is not LineKind.POSITION or divider == "," or _pointed(columns) else ","
    called = names if len(names) == len(keys) else ("",) * len(keys) if kind is LineKind.POSITION else keys
    headings = [heading(name) for name in called]
    # what only rises is a clock where it is called one; else it is an oven that warms up
    given, unsure = roles(
        headings,
        [
            cells(c if "time" in h.hints else _falling(c, decimal), decimal)
            for h, c in zip(headings, columns, strict=True)
        ],
    )
    taken = {role: keys[at] for role, at in given.items() if role in LIVE_ROLES}
    unit = next((headings[given[r]].unit for r in ("reading", "setpoint") if r in given), "")
    scale = _scale(headings, columns, given, decimal)
    doubts = [f"more than one field could be the {LIVE_ROLES[r]}" for r in unsure if r in LIVE_ROLES]
    if "reading" not in taken:
        doubts.append("which field is the reading cannot be told")
    if unit not in TEMPERATURES:
        doubts.append("°C is taken: the lines do not say")
    how = LineFormat(
        kind, keys, taken, unit if unit in TEMPERATURES else "C", scale or "percent", divider or ",", decimal
    )
    shown = tuple(
        LineField(
            f"{key} {name}".strip() if name != key else key,
            tuple(c[-3:]),
            next((r for r, k in taken.items() if k == key), ""),
        )
        for key, name, c in zip(keys, called, columns, strict=True)
    )
    return Learnt(how, shown, len(whole), heard, tuple(doubts))


def _falling(column: Sequence[str], decimal: str) -> list[str]:
    """The same cells, the largest first."""

    def size(cell: str) -> float:
        found = number(cell, decimal)
        return found.value if found is not None and np.isfinite(found.value) else -np.inf

    return sorted(column, key=size, reverse=True)


def _pointed(columns: Sequence[Sequence[str]]) -> bool:
    return any("." in v for column in columns for v in column) or not any(
        "," in v for column in columns for v in column
    )


def _scale(
    headings: Sequence[Heading], columns: Sequence[Sequence[str]], given: Mapping[str, int], decimal: str
) -> str:
    if "output" not in given:
        return ""
    at = given["output"]
    found = [number(v, decimal) for v in columns[at]]
    return scale_of(headings[at], [f.value for f in found if f is not None])


class GarbledError(Exception):
    """Neither a value nor a word for none: the line was damaged on its way."""


def value_in(text: str, role: str, decimal: str, unit: str, output_scale: str) -> float | None:
    """The value in a field of this role, in °C or %; ``None`` where it has none or one that cannot be. ``unit`` of temperatures, a key
    of ``TEMPERATURES``; ``output_scale`` a key of ``SCALES``. Raises :class:`GarbledError` for what is neither."""
    found = number(text, decimal)
    if found is None:
        state = on_off(text) if role in (*STATES, "output") else None
        if state is None:
            raise GarbledError
        return state * (100.0 if role == "output" else 1.0)
    value = found.value
    if role in THERMAL:
        value = float(celsius(np.array([value]), found.unit if found.unit in TEMPERATURES else unit)[0])
        return value if READINGS_C[0] <= value <= READINGS_C[1] else None
    if role == "output":
        value *= 100.0 / full_on(output_scale)
        return value if 0.0 <= value <= 100.0 else None
    if role in STATES:
        return float(value > 0) if np.isfinite(value) else None
    return value if np.isfinite(value) else None
