"""A connection list as plain data, for files and for undo, and back again."""

from collections.abc import Mapping
from dataclasses import asdict, fields
from typing import Any

from ..conductor_colours import CONDUCTOR_COLOURS
from ..errors import Problem, Refused, refuse, refuse_all
from .insulation import INSULATIONS
from .library import PART_TYPES
from .model import Circuit, Connection, ConnectionList, Part

MOST_PARTS, MOST_WIRES = 200, 600
THINNEST_MM2, THICKEST_MM2 = 0.05, 50.0
LONGEST_M = 500.0
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


def from_plain(data: Mapping[str, Any]) -> ConnectionList:
    """The list again. Raises ``Refused`` with a problem for every row that cannot be, saying which."""
    parts, wires = data.get("parts"), data.get("wires")
    if not isinstance(parts, list) or not isinstance(wires, list):
        raise refuse("file", "it holds no parts and wires", "a connection list as Rellux writes it")
    if len(parts) > MOST_PARTS or len(wires) > MOST_WIRES:
        most = f"up to {MOST_PARTS} parts and {MOST_WIRES} wires"
        raise refuse("file", f"{len(parts)} parts and {len(wires)} wires", most)
    problems: list[Problem] = []
    made = [_part(f"parts[{i}]", row, problems) for i, row in enumerate(parts)]
    joined = [_wire(f"wires[{i}]", row, problems) for i, row in enumerate(wires)]
    refuse_all(problems)
    return ConnectionList(tuple(p for p in made if p), tuple(w for w in joined if w))


def _part(where: str, row: Any, problems: list[Problem]) -> Part | None:
    if not isinstance(row, Mapping) or row.get("kind") not in PART_TYPES:
        kind = row.get("kind") if isinstance(row, Mapping) else row
        problems.append(Problem(where, f"there is no kind of part {kind!r}", ", ".join(PART_TYPES)))
        return None
    try:
        name = check_name(row.get("name"))
        ratings = check_ratings(PART_TYPES[row["kind"]].kind, row.get("ratings") or {})
    except Refused as refused:
        problems += [Problem(f"{where}.{p.field}", p.reason, p.accepted) for p in refused.problems]
        return None
    return Part(name, PART_TYPES[row["kind"]], ratings, str(row.get("title") or ""), dict(row.get("numbers") or {}))


def _wire(where: str, row: Any, problems: list[Problem]) -> Connection | None:
    if not isinstance(row, Mapping) or not {"number", "a", "b"} <= row.keys():
        problems.append(Problem(where, "a wire needs a number and two ends", "number, a, b"))
        return None
    try:
        values = {k: v for k, v in row.items() if k in _WIRE_FIELDS}
        wire = Connection(**{**values, "circuit": Circuit(values.get("circuit", Circuit.POWER))})
        check_wire(wire)
    except Refused as refused:
        problems += [Problem(f"{where}.{p.field}", p.reason, p.accepted) for p in refused.problems]
        return None
    except (TypeError, ValueError):
        problems.append(Problem(where, "this wire cannot be read", "number, a, b, circuit, area_mm2, colour"))
        return None
    return wire


def check_name(name: Any) -> str:
    """A part's name; raises ``Refused`` for what cannot stand before a dot in ``part.terminal``."""
    text = str(name or "").strip()
    if not 1 <= len(text) <= 20 or not text[0].isalpha() or any(c in text for c in ".,;\t\n >"):
        raise refuse("name", f"{text!r} is no name for a part", "a letter, then up to 19 letters and figures")
    return text


def check_ratings(kind: str, given: Mapping[str, Any]) -> dict[str, float | str]:
    """Ratings of a kind; raises ``Refused`` for names it does not have and for values of the wrong sort."""
    known = {r.name: r for r in PART_TYPES[kind].ratings}
    found: dict[str, float | str] = {}
    problems = []
    for name, value in given.items():
        rating = known.get(name)
        if rating is None:
            found[name] = value if isinstance(value, str) else float(value)  # older lists carry a few of their own
        elif rating.kind is None:
            if value not in rating.options:
                problems.append(Problem(f"ratings.{name}", f"{rating.label}: {value!r}", ", ".join(rating.options)))
            found[name] = str(value)
        elif isinstance(value, bool) or not isinstance(value, int | float) or not 0 < value < 1e7:
            problems.append(Problem(f"ratings.{name}", f"{rating.label}: {value!r} is no rating", "a number above 0"))
        else:
            found[name] = float(value)
    refuse_all(problems)
    return found


def check_wire(wire: Connection) -> None:
    """Raise ``Refused`` for a size, length or covering no wire has."""
    problems = []
    if not THINNEST_MM2 <= wire.area_mm2 <= THICKEST_MM2:
        accepted = f"{THINNEST_MM2:g}…{THICKEST_MM2:g} mm²"
        problems.append(Problem("area_mm2", f"{wire.area_mm2:g} mm² is not a wire for this", accepted))
    if not 0.01 <= wire.length_m <= LONGEST_M:
        problems.append(Problem("length_m", f"{wire.length_m:g} m", f"0.01…{LONGEST_M:g} m"))
    if wire.insulation and wire.insulation not in INSULATIONS:
        problems.append(Problem("insulation", f"{wire.insulation!r} is no covering here", ", ".join(INSULATIONS)))
    if wire.colour not in CONDUCTOR_COLOURS:
        problems.append(
            Problem("colour", f"{wire.colour!r} is no conductor's colour here", ", ".join(CONDUCTOR_COLOURS))
        )
    if len(wire.route) > 40:
        problems.append(Problem("route", "too long a name for a duct", "up to 40 characters"))
    refuse_all(problems)
