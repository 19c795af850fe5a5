"""A connection list as plain data, for files and for undo, and back again."""

from collections.abc import Collection, Mapping
from dataclasses import asdict, fields, replace
from math import isfinite
from typing import Any

from ..conductor_colours import CONDUCTOR_COLOURS
from ..errors import Problem, Refused, refuse, refuse_all
from ..messages import quantity, span, span_of
from .insulation import INSULATIONS
from .library import PART_TYPES
from .model import Circuit, Connection, ConnectionList, Part
from .names import TerminalName, split, terminal_of
from .naming import check_name
from .own_parts import LONGEST_NUMBER, LONGEST_TITLE
from .pins import FORMERLY, PINS_OF

MOST_PARTS, MOST_WIRES = 200, 600
THINNEST_MM2, THICKEST_MM2 = 0.05, 400.0
SHORTEST_M, LONGEST_M = 0.01, 500.0
LARGEST_NUMBER, LONGEST_TEXT, LONGEST_ROUTE = 9999, 80, 40
LEAST_RATING, LARGEST_RATING = 1e-6, 1e7
"""What fields of a list may hold (our choice: beyond what any such rig has)."""
_WIRE_FIELDS = {f.name for f in fields(Connection)}


def to_plain(wiring: ConnectionList) -> dict[str, Any]:
    """Parts and wires with every value they have, in the order of the list."""
    return {
        "parts": [
            {"name": p.name, "kind": p.type.kind, "ratings": p.ratings, "title": p.title, "numbers": p.numbers}
            for p in wiring.parts
        ],
        "wires": [{**asdict(c), "circuit": c.circuit.value} for c in wiring.connections],
    }


def from_plain(data: Mapping[str, Any], kept: bool = False) -> ConnectionList:
    """The list again. Raises ``Refused`` with a problem for every row that cannot be, saying which. ``kept``: it was a rig's
    own before, so that its parts keep the names they had."""
    parts, wires = data.get("parts"), data.get("wires")
    if not isinstance(parts, list) or not isinstance(wires, list):
        raise refuse("file", "it holds no parts and wires", "a connection list as Rellux writes it")
    if len(parts) > MOST_PARTS or len(wires) > MOST_WIRES:
        most = f"up to {MOST_PARTS} parts and {MOST_WIRES} wires"
        raise refuse("file", f"{len(parts)} parts and {len(wires)} wires", most)
    problems: list[Problem] = []
    made: list[Part] = []
    for i, row in enumerate(parts):
        part = _part(f"parts[{i}]", row, None if kept else [p.name for p in made], problems)
        made += [part] if part else []
    boards = {p.name for p in made if p.type.kind == "microcontroller"}
    joined: list[Connection] = []
    for i, row in enumerate(wires):
        wire = _wire(f"wires[{i}]", row, boards, problems)
        if wire and any(w.number == wire.number for w in joined):
            problems.append(
                Problem(f"wires[{i}].number", f"there are two wires {wire.number}", "a number for each wire")
            )
        joined += [wire] if wire else []
    refuse_all(problems)
    return ConnectionList(tuple(made), tuple(joined))


def formerly(terminal: str, boards: Collection[str]) -> str:
    """A terminal by its name of today, where it is one of a board from a list of before."""
    part, name = split(terminal)
    return terminal_of(part, FORMERLY.get(name, name)) if part in boards else terminal


def _part(where: str, row: Any, taken: list[str] | None, problems: list[Problem]) -> Part | None:
    if not isinstance(row, Mapping) or not isinstance(row.get("kind"), str) or row["kind"] not in PART_TYPES:
        kind = row.get("kind") if isinstance(row, Mapping) else row
        problems.append(Problem(where, f"there is no kind of part {str(kind)[:40]!r}", ", ".join(PART_TYPES)))
        return None
    try:
        name = str(row.get("name")) if taken is None else check_name(row.get("name"), taken)
        ratings = check_ratings(row["kind"], row.get("ratings") or {})
        title, numbers = check_labels(row.get("title") or "", row.get("numbers") or {})
    except Refused as refused:
        problems += [Problem(f"{where}.{p.field}", p.reason, p.accepted) for p in refused.problems]
        return None
    return Part(name, PART_TYPES[row["kind"]], ratings, title, numbers)


def check_labels(title: Any, numbers: Any) -> tuple[str, dict[str, str]]:
    """The title and terminal numbers of a part of the user's own; raises ``Refused`` for what is no text."""
    if not isinstance(title, str) or len(title) > LONGEST_TITLE:
        raise refuse("title", "this is no title", f"up to {LONGEST_TITLE} characters")
    if not isinstance(numbers, Mapping) or not all(
        isinstance(k, str) and isinstance(v, str) and len(v) <= LONGEST_NUMBER for k, v in numbers.items()
    ):
        raise refuse("numbers", "these are no terminal numbers", f"text of up to {LONGEST_NUMBER} characters for each")
    return title, dict(numbers)


def _wire(where: str, row: Any, boards: set[str], problems: list[Problem]) -> Connection | None:
    if not isinstance(row, Mapping) or not {"number", "a", "b"} <= row.keys():
        problems.append(Problem(where, "a wire needs a number and two ends", "number, a, b"))
        return None
    try:
        wire = check_wire_row({k: v for k, v in row.items() if k in _WIRE_FIELDS})
    except Refused as refused:
        problems += [Problem(f"{where}.{p.field}", p.reason, p.accepted) for p in refused.problems]
        return None
    return replace(wire, a=TerminalName(formerly(wire.a, boards)), b=TerminalName(formerly(wire.b, boards)))


def check_wire_row(values: Mapping[str, Any]) -> Connection:
    """A wire from plain values. Raises ``Refused`` for values of the wrong sort and for what no wire has."""
    problems = []
    for field in ("a", "b", "colour", "insulation", "route"):
        if field in values and (not isinstance(values[field], str) or len(values[field]) > LONGEST_TEXT):
            problems.append(Problem(field, "this is no text", f"up to {LONGEST_TEXT} characters"))
    for field in ("area_mm2", "length_m"):
        if field in values and not is_number(values[field]):
            problems.append(Problem(field, f"{str(values[field])[:40]!r} is no number", "a number above 0"))
    if values.get("circuit", Circuit.POWER) not in list(Circuit):
        problems.append(Problem("circuit", f"there is no circuit {str(values['circuit'])[:40]!r}", ", ".join(Circuit)))
    refuse_all([*problems, *_number_problems(values["number"])])
    wire = Connection(**{**values, "circuit": Circuit(values.get("circuit", Circuit.POWER))})
    check_wire(wire)
    return wire


def check_number(number: Any) -> int:
    """A wire's number; raises ``Refused`` for what cannot stand on a label."""
    refuse_all(_number_problems(number))
    return int(number)


def _number_problems(number: Any) -> list[Problem]:
    if isinstance(number, bool) or not isinstance(number, int) or not 1 <= number <= LARGEST_NUMBER:
        return [Problem("number", f"{str(number)[:40]!r} is no wire number", f"a whole number, 1…{LARGEST_NUMBER}")]
    return []


def is_number(value: Any) -> bool:
    """Whether a plain value is a finite number, and no text, no truth value."""
    return isinstance(value, int | float) and not isinstance(value, bool) and isfinite(value)


_NUMBERS = {r.name for t in PART_TYPES.values() for r in t.ratings if r.kind is not None}
"""Ratings that are numbers on some kind of part: on the others they are numbers too, or nothing could be worked out with them."""


def check_ratings(kind: str, given: Any) -> dict[str, float | str]:
    """Ratings of a kind; raises ``Refused`` for values of the wrong sort."""
    if not isinstance(given, Mapping):
        raise refuse("ratings", "these are no ratings", "names and values")
    known = {r.name: r for r in PART_TYPES[kind].ratings}
    found: dict[str, float | str] = {}
    problems = []
    for name, value in given.items():
        rating = known.get(name)
        where = f"ratings.{str(name)[:40]}"
        if rating is None:
            word = isinstance(value, str) and len(value) <= LONGEST_TEXT and name not in _NUMBERS
            if not isinstance(name, str) or not (is_number(value) or word):
                problems.append(Problem(where, f"{str(value)[:40]!r} is no rating", "a number or a word"))
            found[name] = value  # lists of before carry a few of their own
        elif rating.kind is None:
            if name in PINS_OF and isinstance(value, str):
                value = FORMERLY.get(value, value)
            if value not in rating.options:
                said = f"{rating.label}: {str(value)[:40]!r}"
                problems.append(Problem(where, said, ", ".join(rating.options)))
            found[name] = str(value)
        elif not is_number(value) or not LEAST_RATING <= value < LARGEST_RATING:
            accepted = span_of(LEAST_RATING, LARGEST_RATING, rating.kind)
            problems.append(Problem(where, f"{rating.label}: {str(value)[:40]!r} is no rating", accepted))
        else:
            found[name] = float(value)
    refuse_all(problems)
    return found


def check_wire(wire: Connection) -> None:
    """Raise ``Refused`` for a size, length or covering no wire has."""
    problems = []
    if not THINNEST_MM2 <= wire.area_mm2 <= THICKEST_MM2:
        accepted = span(THINNEST_MM2, THICKEST_MM2, "mm²")
        problems.append(Problem("area_mm2", f"{quantity(wire.area_mm2, 'mm²')} is not a wire for this", accepted))
    if not SHORTEST_M <= wire.length_m <= LONGEST_M:
        problems.append(Problem("length_m", quantity(wire.length_m, "m"), span(SHORTEST_M, LONGEST_M, "m")))
    if wire.insulation and wire.insulation not in INSULATIONS:
        problems.append(Problem("insulation", f"{wire.insulation!r} is no covering here", ", ".join(INSULATIONS)))
    if wire.colour not in CONDUCTOR_COLOURS:
        problems.append(
            Problem("colour", f"{wire.colour!r} is no conductor's colour here", ", ".join(CONDUCTOR_COLOURS))
        )
    if len(wire.route) > LONGEST_ROUTE:
        problems.append(Problem("route", "too long a name for a duct", f"up to {LONGEST_ROUTE} characters"))
    refuse_all(problems)
