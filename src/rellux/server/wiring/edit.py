"""Changing the connection list; every change is checked against the whole list before it is stored."""

from dataclasses import asdict, replace

from rellux.core.errors import refuse
from rellux.core.spine import Station
from rellux.core.wiring.generate import COLOURS, generate
from rellux.core.wiring.library import PART_TYPES
from rellux.core.wiring.model import Circuit, Connection, ConnectionList, Part, circuit_of, split
from rellux.core.wiring.own_parts import OwnPart, resolve
from rellux.server.accounts.models import User
from rellux.server.rigs.change import note
from rellux.server.rigs.domain import choice_of, purpose_of
from rellux.server.rigs.models import Entry, Rig

from .domain import connection_list, store
from .models import Wire


def lay_out(rig: Rig, by: User) -> None:
    """Replace the list by the usual circuit for the chosen parts. The old list stays in the book and can be put back."""
    choice = choice_of(rig)
    if choice is None:
        raise refuse("parts", "choose the parts first", "sensor, output and switch")
    wiring = generate(purpose_of(rig), choice)
    own = {(p.name, p.kind): p for p in rig.parts.exclude(title="")}
    parts = tuple(
        replace(p, title=mine.title, numbers=mine.numbers) if (mine := own.get((p.name, p.type.kind))) else p
        for p in wiring.parts
    )
    _replace(rig, by, ConnectionList(parts, wiring.connections), "Wiring laid out")


def put_back(rig: Rig, by: User) -> None:
    """Bring back the list that was replaced last; what is there now can be brought back in turn."""
    entry = replaced(rig)
    if entry is None:
        raise refuse("wiring", "no earlier wiring is kept", "a rig whose wiring was laid out again")
    old = entry.before["list"]
    parts = tuple(
        Part(p["name"], PART_TYPES[p["kind"]], p["ratings"], p.get("title", ""), p.get("numbers", {}))
        for p in old["parts"]
    )
    wires = tuple(Connection(**{**w, "circuit": Circuit(w["circuit"])}) for w in old["wires"])
    _replace(rig, by, ConnectionList(parts, wires), "Earlier wiring put back")


def replaced(rig: Rig) -> Entry | None:
    """The book's newest line that keeps a whole list."""
    return rig.entries.filter(station=Station.WIRING.value, before__has_key="list").first()


def _replace(rig: Rig, by: User, wiring: ConnectionList, title: str) -> None:
    before: dict[str, object] = {"wires": rig.wires.count()}
    if before["wires"]:
        old = connection_list(rig)
        before["list"] = {
            "parts": [_kept(p) for p in old.parts],
            "wires": [{**asdict(c), "circuit": c.circuit.value} for c in old.connections],
        }
    store(rig, wiring)
    after = {"wires": len(wiring.connections), "parts": len(wiring.parts)}
    note(rig, by, Station.WIRING, title, before=before, after=after)


def _kept(part: Part) -> dict[str, object]:
    return {
        "name": part.name,
        "kind": part.type.kind,
        "ratings": part.ratings,
        "title": part.title,
        "numbers": part.numbers,
    }


def fit_own(rig: Rig, by: User, name: str, own: OwnPart | None) -> None:
    """Say which of the workshop's own parts this is: its ratings and numbers; None makes it generic again."""
    part = rig.parts.filter(name=name).first()
    if part is None:
        raise refuse("name", f"there is no part {name!r}", ", ".join(p.name for p in rig.parts.all()))
    if own is not None and own.kind != part.kind:
        title = PART_TYPES[part.kind].title.lower()
        raise refuse("own", f"{own.title} is another kind of part than a {title}", f"an own {title}")
    before = {"part": part.title or PART_TYPES[part.kind].title}
    part.title, part.numbers = (own.title, own.numbers) if own else ("", {})
    part.ratings = {**part.ratings, **(own.ratings if own else {})}
    part.save()
    after = {"part": part.title or PART_TYPES[part.kind].title}
    note(rig, by, Station.WIRING, f"{name} is {after['part']}", before=before, after=after)


def _resolved(rig: Rig, a: str, b: str) -> tuple[str, str]:
    """Both ends by the generic names of their terminals, whatever stands on the real parts."""
    parts = connection_list(rig).parts
    return resolve(parts, a), resolve(parts, b)


def add_wire(
    rig: Rig, by: User, a: str, b: str, number: int | None = None, area_mm2: float | None = None, colour: str = ""
) -> Wire:
    """A new wire between two terminals. Circuit, size and colour default to those of its neighbours."""
    a, b = _resolved(rig, a, b)
    wires = list(rig.wires.all())
    taken = {w.number for w in wires}
    if number is None:
        number = max(taken, default=0) + 1
    elif number in taken:
        raise refuse("number", f"there is a wire {number} already", "a free number")
    circuit = _circuit(rig, a, b)
    alike = next((w for w in wires if w.circuit == circuit.value and w.a == a), None) or next(
        (w for w in wires if w.circuit == circuit.value), None
    )
    if area_mm2 is None:
        area_mm2 = alike.area_mm2 if alike else 1.5
    if not 0.05 <= area_mm2 <= 50:
        raise refuse("area_mm2", f"{area_mm2:g} mm² is not a wire for this", "0.05…50 mm²")
    if not colour:
        earth = str(COLOURS[choice.practice]["earth"]) if (choice := choice_of(rig)) else "green-yellow"
        colour = earth if circuit is Circuit.EARTH else alike.colour if alike else "black"
    wire = Wire.objects.create(
        rig=rig, number=number, a=a, b=b, circuit=circuit.value, area_mm2=area_mm2, colour=colour
    )
    connection_list(rig)  # refuses what cannot be; the surrounding transaction then undoes the row
    note(
        rig, by, Station.WIRING, f"Wire {number} added", after={"a": a, "b": b, "area_mm2": area_mm2, "colour": colour}
    )
    return wire


def change_wire(rig: Rig, by: User, number: int, a: str, b: str, area_mm2: float, colour: str) -> None:
    wire = _wire(rig, number)
    a, b = _resolved(rig, a, b)
    before = {"a": wire.a, "b": wire.b, "area_mm2": wire.area_mm2, "colour": wire.colour}
    if not 0.05 <= area_mm2 <= 50:
        raise refuse("area_mm2", f"{area_mm2:g} mm² is not a wire for this", "0.05…50 mm²")
    wire.a, wire.b, wire.area_mm2, wire.colour = a, b, area_mm2, colour or wire.colour
    wire.save()
    connection_list(rig)
    wire.circuit = _circuit(rig, a, b).value
    wire.save()
    after = {"a": a, "b": b, "area_mm2": area_mm2, "colour": wire.colour}
    note(rig, by, Station.WIRING, f"Wire {number} changed", before=before, after=after)


def remove_wire(rig: Rig, by: User, number: int) -> None:
    wire = _wire(rig, number)
    before = {"a": wire.a, "b": wire.b, "area_mm2": wire.area_mm2, "colour": wire.colour}
    wire.delete()
    note(rig, by, Station.WIRING, f"Wire {number} removed", before=before)


def swap_ends(rig: Rig, by: User, first: str, second: str) -> None:
    """Exchange the wires at two terminals."""
    for wire in rig.wires.all():
        ends = {first: second, second: first}
        new_a, new_b = ends.get(wire.a, wire.a), ends.get(wire.b, wire.b)
        if (new_a, new_b) != (wire.a, wire.b):
            wire.a, wire.b = new_a, new_b
            wire.save()
    connection_list(rig)
    note(rig, by, Station.WIRING, f"Wires at {first} and {second} exchanged")


def _wire(rig: Rig, number: int) -> Wire:
    wire = rig.wires.filter(number=number).first()
    if wire is None:
        raise refuse("number", f"there is no wire {number}", "a number from the list")
    return wire


def _circuit(rig: Rig, *ends: str) -> Circuit:
    """The circuit a wire between these terminals belongs to."""
    kinds = dict(rig.parts.values_list("name", "kind"))
    found = [(kinds.get(part), name) for part, name in map(split, ends)]
    return circuit_of(PART_TYPES[kind].terminal(name) for kind, name in found if kind)
