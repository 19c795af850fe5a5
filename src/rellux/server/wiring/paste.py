"""Connections pasted as text: one wire a line, ``from, to`` and where given number, mm² and colour, in any order of lines."""

import csv
import io
import re

from rellux.core.errors import Problem, Refused, refuse_all
from rellux.server.accounts.models import User
from rellux.server.rigs.models import Rig

from .edit import add_wire

MOST_LINES = 200
TERMINAL = re.compile(r"[A-Za-z][^\s.,;]{0,19}\.[^\s,;]{1,12}")
HEADING = ("from", "to", "number", "mm2", "mm²", "colour", "color")


def paste(rig: Rig, by: User, text: str) -> int:
    """Add every wire of the text, or none: raises ``Refused`` with a problem for each line that cannot be. Returns how many."""
    lines = [(n, cells) for n, cells in enumerate(_rows(text), 1) if any(cells)]
    problems = []
    if not 1 <= len(lines) <= MOST_LINES:
        problems.append(Problem("text", f"it holds {len(lines)} wires", f"1…{MOST_LINES} lines"))
    added = 0
    for number, cells in lines:
        if number == 1 and all(c.lower() in HEADING for c in cells if c):
            continue
        try:
            _add(rig, by, cells)
            added += 1
        except Refused as refused:
            problems += [Problem(f"line {number}", p.reason, p.accepted) for p in refused.problems]
    refuse_all(problems)
    return added


def _rows(text: str) -> list[list[str]]:
    delimiter = next((d for d in ("\t", ";", ",") if d in text), ",")
    return [[c.strip() for c in row] for row in csv.reader(io.StringIO(text), delimiter=delimiter)]


def _add(rig: Rig, by: User, cells: list[str]) -> None:
    """Cells by what they look like: two terminals, a whole number before them, a size, a colour."""
    ends = [i for i, c in enumerate(cells) if TERMINAL.fullmatch(c)]
    if len(ends) != 2:
        raise Refused(Problem("", f"{len(ends)} terminals in it instead of two", "part.terminal, part.terminal"))
    before, after = [c for c in cells[: ends[0]] if c], [c for c in cells[ends[1] + 1 :] if c]
    number = int(before[0]) if before and before[0].isdigit() else None
    area, colour = None, ""
    for cell in after:
        size = cell.lower().replace("mm²", "").replace("mm2", "").strip()
        if re.fullmatch(r"\d+([.,]\d+)?", size):
            area = float(size.replace(",", "."))
        else:
            colour = cell
    add_wire(rig, by, cells[ends[0]], cells[ends[1]], number, area, colour)
