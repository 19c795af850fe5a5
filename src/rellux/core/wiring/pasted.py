"""Connections pasted as text: one wire a line, ``from, to`` and where given number, mm² and colour, in any order of lines."""

import csv
import re
from dataclasses import replace

from ..cells import plain
from ..errors import Problem, Refused, refuse, refuse_all
from ..heating.conductor_tables import Practice
from ..heating.wire import awg_area_mm2
from .insulation import INSULATIONS
from .listing import MOST_WIRES
from .model import Circuit, Connection, ConnectionList
from .wishes import WireWish, fulfil

TERMINAL = re.compile(r"[^\W\d_][^\s.,;]{0,19}\.[^\s,;]{1,12}")
LARGEST_PASTE = 200_000
"""Characters of a paste: far more than the largest list takes (our choice)."""
_NUMBER = re.compile(r"[0-9]{1,9}")
_SIZE = re.compile(r"[0-9]{1,6}(\.[0-9]{1,6})?")
_GAUGE = re.compile(r"(?:awg\s*)?([0-9]{1,2})\s*(?:awg)?")
SHOWN = 40
"""Characters of a cell that a refusal repeats."""


def pasted(wiring: ConnectionList, text: str, practice: Practice) -> tuple[ConnectionList, int]:
    """The list with every wire of the text added, and how many. Raises ``Refused`` with a problem for each line that cannot be.

    With a heading line, columns go by their names (those of the wire schedule); without one, by what they look like.
    """
    lines = [(n, cells) for n, cells in enumerate(_rows(text), 1) if any(cells)]
    heading = [c.lower() for c in lines[0][1]] if lines else []
    named = {"from", "to"} <= set(heading)
    given = lines[1:] if named else lines
    if not 1 <= len(given) <= MOST_WIRES:
        raise refuse("text", f"it holds {len(given)} wires", f"1…{MOST_WIRES} lines")
    problems: list[Problem] = []
    wires: list[Connection] = list(wiring.connections)
    for number, cells in given:
        try:
            wish = _by_name(dict(zip(heading, cells, strict=False))) if named else _by_looks(cells)
            wire = fulfil(wiring.parts, wires, wish, practice)
            problems += [replace(p, field=f"line {number}") for p in wiring.problems_of(wire, wires)]
            wires.append(wire)
        except Refused as refused:
            problems += [replace(p, field=f"line {number}") for p in refused.problems]
    refuse_all(problems)
    return ConnectionList(wiring.parts, tuple(wires)), len(given)


def _rows(text: str) -> list[list[str]]:
    if len(text) > LARGEST_PASTE:
        raise refuse("text", f"{len(text)} characters", f"up to {LARGEST_PASTE}")
    delimiter = next((d for d in ("\t", ";", ",") if d in text), ",")
    try:
        return [
            [plain(c.strip()) for c in row]
            for row in csv.reader(text.replace("\0", "").splitlines(), delimiter=delimiter)
        ]
    except csv.Error:
        raise refuse("text", "this is no table", "one wire a line: from, to, number, mm², colour") from None


def _by_name(row: dict[str, str]) -> WireWish:
    """A line of a file with headings, such as the wire schedule."""
    for end in ("from", "to"):
        if not TERMINAL.fullmatch(row.get(end, "")):
            raise refuse("", f"{row.get(end, '')[:SHOWN]!r} is no terminal", "part.terminal")
    words = {title: key for key, (title, _) in INSULATIONS.items()}
    covering = row.get("insulation", "")
    return WireWish(
        row["from"],
        row["to"],
        _whole(row.get("number", "")),
        _size(row.get("mm2") or row.get("mm²") or ""),
        row.get("colour") or row.get("color") or "",
        _size(row.get("length_m", "")),
        covering if covering in INSULATIONS else words.get(covering),
        row.get("route") or None,
        Circuit(row["circuit"]) if row.get("circuit") in list(Circuit) else None,
    )


def _whole(cell: str) -> int | None:
    return int(cell) if _NUMBER.fullmatch(cell) else None


def _size(cell: str) -> float | None:
    """A size in mm², also where it is given in AWG; None for what is no number."""
    size = cell.lower().replace("mm²", "").replace("mm2", "").strip().replace(",", ".")
    gauge = _GAUGE.fullmatch(size)
    if gauge and "awg" in size:
        return round(awg_area_mm2(int(gauge.group(1))), 3)
    return float(size) if _SIZE.fullmatch(size) else None


def _by_looks(cells: list[str]) -> WireWish:
    """Cells by what they look like: two terminals, a whole number before them, a size, a colour."""
    ends = [i for i, c in enumerate(cells) if TERMINAL.fullmatch(c)]
    if len(ends) != 2:
        raise refuse("", f"{len(ends)} terminals in it instead of two", "part.terminal, part.terminal")
    before, after = [c for c in cells[: ends[0]] if c], [c for c in cells[ends[1] + 1 :] if c]
    number = _whole(before[0]) if before else None
    area = next((found for c in after if (found := _size(c)) is not None), None)
    colour = next((c for c in after if _size(c) is None), "")
    return WireWish(cells[ends[0]], cells[ends[1]], number, area, colour)
