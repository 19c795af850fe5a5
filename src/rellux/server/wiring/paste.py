"""Connections pasted as text: one wire a line, ``from, to`` and where given number, mm² and colour, in any order of lines."""

import csv
import io
import re

from rellux.core.errors import Problem, Refused, refuse_all
from rellux.core.heating.wire import awg_area_mm2
from rellux.core.wiring.insulation import INSULATIONS
from rellux.core.wiring.model import Circuit
from rellux.server.accounts.models import User
from rellux.server.rigs.models import Rig

from .edit import WireWish, add_wire
from .steps import step

MOST_LINES = 200
TERMINAL = re.compile(r"[A-Za-z][^\s.,;]{0,19}\.[^\s,;]{1,12}")


def paste(rig: Rig, by: User, text: str) -> int:
    """Add every wire of the text, or none: raises ``Refused`` with a problem for each line that cannot be. Returns how many.

    With a heading line, columns go by their names (those of the wire schedule); without one, by what they look like.
    """
    lines = [(n, cells) for n, cells in enumerate(_rows(text), 1) if any(cells)]
    problems = []
    if not 1 <= len(lines) <= MOST_LINES:
        problems.append(Problem("text", f"it holds {len(lines)} wires", f"1…{MOST_LINES} lines"))
    heading = [c.lower() for c in lines[0][1]] if lines else []
    named = {"from", "to"} <= set(heading)
    added = 0
    with step(rig, "Wires pasted"):
        for number, cells in lines[1:] if named else lines:
            try:
                wish = _by_name(dict(zip(heading, cells, strict=False))) if named else _by_looks(cells)
                add_wire(rig, by, wish)
                added += 1
            except Refused as refused:
                problems += [Problem(f"line {number}", p.reason, p.accepted) for p in refused.problems]
        refuse_all(problems)
    return added


def _rows(text: str) -> list[list[str]]:
    delimiter = next((d for d in ("\t", ";", ",") if d in text), ",")
    return [[c.strip() for c in row] for row in csv.reader(io.StringIO(text), delimiter=delimiter)]


def _by_name(row: dict[str, str]) -> WireWish:
    """A line of a file with headings, such as the wire schedule."""
    for end in ("from", "to"):
        if not TERMINAL.fullmatch(row.get(end, "")):
            raise Refused(Problem("", f"{row.get(end)!r} is no terminal", "part.terminal"))
    number = row.get("number", "")
    words = {title: key for key, (title, _) in INSULATIONS.items()}
    covering = row.get("insulation", "")
    return WireWish(
        row["from"],
        row["to"],
        int(number) if number.isdigit() else None,
        _number(row.get("mm2") or row.get("mm²") or ""),
        row.get("colour") or row.get("color") or "",
        _number(row.get("length_m", "")),
        covering if covering in INSULATIONS else words.get(covering),
        row.get("route") or None,
        Circuit(row["circuit"]) if row.get("circuit") in list(Circuit) else None,
    )


def _number(cell: str) -> float | None:
    """A size in mm², also where it is given in AWG; None for what is no number."""
    size = cell.lower().replace("mm²", "").replace("mm2", "").strip().replace(",", ".")
    gauge = re.fullmatch(r"(?:awg\s*)?(\d{1,2})\s*(?:awg)?", size)
    if gauge and "awg" in size:
        return round(awg_area_mm2(int(gauge.group(1))), 3)
    return float(size) if re.fullmatch(r"\d+(\.\d+)?", size) else None


def _by_looks(cells: list[str]) -> WireWish:
    """Cells by what they look like: two terminals, a whole number before them, a size, a colour."""
    ends = [i for i, c in enumerate(cells) if TERMINAL.fullmatch(c)]
    if len(ends) != 2:
        raise Refused(Problem("", f"{len(ends)} terminals in it instead of two", "part.terminal, part.terminal"))
    before, after = [c for c in cells[: ends[0]] if c], [c for c in cells[ends[1] + 1 :] if c]
    number = int(before[0]) if before and before[0].isdigit() else None
    area = next((found for c in after if (found := _number(c)) is not None), None)
    colour = next((c for c in after if _number(c) is None), "")
    return WireWish(cells[ends[0]], cells[ends[1]], number, area, colour)
