"""How a log seems to be written, what its columns seem to be, and what of that the user should look at."""

import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..messages import span
from .columns import Cells, cells, roles, scale_of
from .dialect import LogTable, table
from .mapping import TEMPERATURES, Mapping
from .stamps import taken_apart
from .text import decode, lines_of
from .times import CLOCK, DATE, date_orders
from .values import number
from .words import Heading, heading

SAMPLE_BYTES = 65_536
SHOWN = 5
"""Rows shown of each column."""
SAMPLE_ROWS = 400
UNIX_S = 1e8
UNIX_MS = 1e11
"""Larger counts began in 1970: 3 years of seconds, and of milliseconds, no log lasts."""
_COUNTED = {"ms": "milliseconds", "s": "seconds", "min": "minutes", "h": "hours"}
SLOW_S = 200.0
"""Seconds between rows above which a count without a unit is asked for: it may be milliseconds (our choice)."""
SPREADSHEET_DAYS = (20_000.0, 80_000.0)
"""Days since 1900 as spreadsheets count them, 1954…2119."""
SPREADSHEET_EPOCH = 25_569.0
"""1 January 1970 in such days."""
SPREADSHEET_STEP = 0.2
"""Days between rows below which such a count is one: a log has a row every few hours at least."""
LAST_HOUR = 23


FIRST = {"iso": "year", "dmy": "day", "mdy": "month"}


@dataclass(frozen=True)
class Column:
    """A column of the file: its heading and first values; ``role`` guessed, or empty."""

    name: str
    values: list[str]
    role: str


@dataclass(frozen=True)
class Doubt:
    """Something the file does not say: the part of the mapping it concerns, and how it was taken or what is asked."""

    field: str
    reason: str


@dataclass(frozen=True)
class Guess:
    """How a file seems to be written; fields as in :class:`Mapping`. ``preamble`` holds the lines before the table, ``first_line``
    is the number of the first row's line in the file."""

    delimiter: str
    decimal: str
    header: bool
    time_format: str
    unit: str
    columns: list[Column]
    skip: int
    units_row: bool
    output_scale: str
    preamble: list[str]
    first_line: int
    doubts: list[Doubt]

    @property
    def mapping(self) -> Mapping:
        at = {c.role: i for i, c in enumerate(self.columns) if c.role}
        return Mapping(
            self.delimiter,  # type: ignore[arg-type]
            self.decimal,
            self.header,
            self.time_format,
            self.unit,
            at,
            self.skip,
            self.units_row,
            self.output_scale,
        )


def guess(sample: bytes, delimiter: str = "", decimal: str = "", skip: int | None = None) -> Guess:
    """From the first bytes of a file, and from what was corrected by hand. Raises ``Refused`` for what is no text table."""
    text = decode(sample)
    lines = lines_of(text)
    if len(sample) >= SAMPLE_BYTES and len(lines) > 2:
        lines = lines[:-1]  # the last line of a cut sample may be half a line
    found = table(lines[: SAMPLE_ROWS * 2], delimiter, decimal, skip)
    names = found.heading or [f"column {i + 1}" for i in range(found.width)]
    units = (found.units or []) + [""] * found.width
    headings = [heading(n if found.heading else "", u) for n, u in zip(names, units, strict=False)]
    columns = [[r[i] for r in found.rows] for i in range(found.width)]
    judged = [cells(c, found.decimal) for c in columns]
    at, unsure = roles(headings, judged)
    doubts = [_either(role, names, at) for role in unsure]
    time_format, doubt = _time_format(found, at, headings, judged, columns)
    doubts += doubt
    unit, doubt = _unit(at, headings, columns, found.decimal)
    doubts += doubt
    scale = ""
    if "output" in at:
        scale = scale_of(headings[at["output"]], judged[at["output"]].values)
        doubts += _scale_doubt(headings[at["output"]], judged[at["output"]], scale)
    doubts += _decimal_doubt(found, columns, at)
    role_of = {i: role for role, i in at.items()}
    return Guess(
        delimiter=found.delimiter,
        decimal=found.decimal,
        header=found.heading is not None,
        time_format=time_format,
        unit=unit,
        columns=[
            Column(n or f"column {i + 1}", c[:SHOWN], role_of.get(i, ""))
            for i, (n, c) in enumerate(zip(names, columns, strict=True))
        ],
        skip=found.skip,
        units_row=found.units is not None,
        output_scale=scale,
        preamble=[line for line in lines[: found.skip] if line.strip()],
        first_line=found.lines[0],
        doubts=doubts,
    )


def _either(role: str, names: Sequence[str], at: dict[str, int]) -> Doubt:
    taken = names[at[role]]
    return Doubt(f"columns.{role}", f"more than one column could be the {role}; {taken!r} is taken")


def _time_format(
    found: LogTable, at: dict[str, int], headings: list[Heading], judged: list[Cells], columns: list[list[str]]
) -> tuple[str, list[Doubt]]:
    if "time" not in at:
        return "", [Doubt("columns.time", "no column shows a time: say which one does")]
    i = at["time"]
    kind = judged[i].kind
    if kind == "number":
        return _counted(headings[i], judged[i])
    if kind == "clock" and "date" not in at:
        return _clock(headings[i], columns[i])
    dates = columns[at["date"]] if "date" in at else columns[i]
    stamps = taken_apart(dates)
    orders = date_orders(stamps)
    if len(orders) == 1:
        return orders[0], []
    if not orders:
        return "", [Doubt("time_format", f"{dates[0]!r} is no date Rellux knows: say how the file writes its times")]
    if "." in (DATE.match(dates[0]) or [""])[0] and "dmy" in orders:
        taken = Doubt("time_format", f"{dates[0]!r} is taken as day.month.year, as points are used for")
        return "dmy", [taken] if "iso" in orders else []
    choices = " or ".join(f"{FIRST[o]} first" for o in orders)
    return "", [Doubt("time_format", f"{dates[0]!r} can be read in several ways: say whether it is {choices}")]


def _counted(head: Heading, found: Cells) -> tuple[str, list[Doubt]]:
    values = np.array(found.values)
    if values[0] > UNIX_S:
        return ("unix_ms" if values[0] > UNIX_MS else "unix"), []
    if head.unit in _COUNTED:
        return _COUNTED[head.unit], []
    step = float(np.median(np.diff(values))) if len(values) > 1 else 0.0
    if SPREADSHEET_DAYS[0] < values[0] < SPREADSHEET_DAYS[1] and 0 < step < SPREADSHEET_STEP:
        return "days", []
    length = span(float(values[0]), float(values[-1]))
    if step >= SLOW_S:
        return "", [
            Doubt(
                "time_format",
                f"the file does not say what it counts ({length} in the part looked at): seconds, milliseconds?",
            )
        ]
    return "seconds", [
        Doubt(
            "time_format", f"the file does not say what it counts ({length} in the part looked at); seconds are taken"
        )
    ]


def _clock(head: Heading, cells_: list[str]) -> tuple[str, list[Doubt]]:
    parts = [m for c in cells_ if (m := CLOCK.fullmatch(c))]
    if any(m["s"] for m in parts) or any(m["half"] for m in parts):
        return "clock", []
    name = head.name.lower()
    if "mm:ss" in name or "min:s" in name or any(int(m["h"]) > LAST_HOUR for m in parts):
        return "minsec", []
    if "hh" in name or "h:m" in name:
        return "clock", []
    return "", [Doubt("time_format", f"{cells_[0]!r} can be hours:minutes or minutes:seconds: say which")]


def _unit(
    at: dict[str, int], headings: list[Heading], columns: list[list[str]], decimal: str
) -> tuple[str, list[Doubt]]:
    said = {}
    for role in ("reading", "setpoint"):
        if role in at:
            inside = {n.unit for c in columns[at[role]] if (n := number(c, decimal)) and n.unit in TEMPERATURES}
            said[role] = headings[at[role]].unit if headings[at[role]].unit in TEMPERATURES else min(inside, default="")
    named = {u for u in said.values() if u}
    if len(named) > 1:
        return said["reading"], [Doubt("unit", "reading and set-point are in different units: leave the set-point out")]
    if named:
        return named.pop(), []
    elsewhere = {h.unit for h in headings if h.unit in TEMPERATURES}
    if len(elsewhere) == 1:
        return elsewhere.pop(), []
    return "C", [Doubt("unit", "the file does not say °C or °F; °C is taken")] if "reading" in at else []


def _scale_doubt(head: Heading, found: Cells, scale: str) -> list[Doubt]:
    highest = max(found.values, default=0.0)
    if scale == "fraction":
        return [Doubt("output_scale", f"the output holds {span(min(found.values), highest)}; full on is taken to be 1")]
    if scale == "byte" and "255" not in head.name:
        return [
            Doubt("output_scale", f"the output holds {span(min(found.values), highest)}; full on is taken to be 255")
        ]
    if not scale and highest > 0:
        return [Doubt("output_scale", f"the output holds {span(min(found.values), highest)}: say what full on is")]
    return []


def _decimal_doubt(found: LogTable, columns: list[list[str]], at: dict[str, int]) -> list[Doubt]:
    """Numbers with one mark and three digits behind it, nowhere anything else: a fraction or thousands."""
    for role in ("reading", "setpoint", "output"):
        marked = [c for c in columns[at[role]] if "," in c or "." in c] if role in at else []
        if marked and all(re.fullmatch(r"[-+]?\d{1,3}[.,]\d{3}", c) for c in marked) and "," in marked[0]:
            mark = "a decimal comma" if found.decimal == "," else "thousands"
            return [Doubt("decimal", f"{marked[0]!r} is read with {mark}: look at the numbers below")]
    return []
