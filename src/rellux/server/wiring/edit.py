"""Changing the connection list; every change is checked against the whole list before it is stored."""

from dataclasses import asdict, replace
from typing import Any

from django.utils import timezone

from rellux.core.errors import refuse
from rellux.core.heating.conductor_tables import Practice
from rellux.core.spine import Station
from rellux.core.wiring.defaults import circuit_between, usual_ratings
from rellux.core.wiring.library import PART_TYPES
from rellux.core.wiring.listing import check_ratings, check_wire
from rellux.core.wiring.model import USUAL_M, ConnectionList
from rellux.core.wiring.names import split
from rellux.core.wiring.naming import check_name, free_name
from rellux.core.wiring.own_parts import OwnPart, resolve
from rellux.core.wiring.pasted import pasted
from rellux.core.wiring.usual_circuits import starting_point
from rellux.core.wiring.usual_circuits import usual as usual_list
from rellux.core.wiring.wishes import WireWish, fulfil
from rellux.server.accounts.models import User
from rellux.server.rigs.change import note
from rellux.server.rigs.domain import choice_of, purpose_of
from rellux.server.rigs.models import Rig

from .domain import connection_list, store
from .models import BuiltWire, FittedPart, Wire
from .steps import step


def lay_out(rig: Rig, by: User, key: str = "") -> None:
    """Replace the list by a usual circuit for the chosen parts; ``key`` empty: the one it was laid out as. One step back."""
    choice = choice_of(rig)
    if choice is None:
        raise refuse("parts", "choose the parts first", "sensor, output and switch")
    point = starting_point(key or rig.circuit)
    wiring = usual_list(purpose_of(rig), choice, point)
    own = {(p.name, p.kind): p for p in rig.parts.exclude(title="")}
    parts = tuple(
        replace(p, title=mine.title, numbers=mine.numbers) if (mine := own.get((p.name, p.type.kind))) else p
        for p in wiring.parts
    )
    rig.circuit = point.value
    rig.save()
    replace_list(rig, by, ConnectionList(parts, wiring.connections), "Wiring laid out")


def replace_list(rig: Rig, by: User, wiring: ConnectionList, title: str) -> None:
    """Put another list in the place of this one."""
    before = {"wires": rig.wires.count(), "parts": rig.parts.count()}
    with step(rig, title):
        store(rig, wiring)
    after = {"wires": len(wiring.connections), "parts": len(wiring.parts)}
    note(rig, by, Station.WIRING, title, before=before, after=after)


def add_part(rig: Rig, by: User, kind: str, name: str = "", ratings: dict[str, Any] | None = None) -> str:
    """A new part of a generic kind; without a name it gets the next free one of its letter. Returns the name."""
    if kind not in PART_TYPES:
        raise refuse("kind", f"there is no kind of part {kind!r}", ", ".join(PART_TYPES))
    taken = [p.name for p in rig.parts.all()]
    name = check_name(name, taken) if name else free_name(kind, set(taken))
    given = check_ratings(kind, ratings or {})
    control_v = purpose_of(rig).control_voltage_v
    title = f"{name} added: {PART_TYPES[kind].title.lower()}"
    with step(rig, title):
        FittedPart.objects.create(rig=rig, name=name, kind=kind, ratings={**usual_ratings(kind, control_v), **given})
        connection_list(rig)
    note(rig, by, Station.WIRING, title)
    return name


def rate_part(rig: Rig, by: User, name: str, ratings: dict[str, Any]) -> None:
    """Change what a part is rated for; what is not given stays."""
    part = _part(rig, name)
    given = check_ratings(part.kind, ratings)
    before = {k: part.ratings.get(k) for k in given}
    with step(rig, f"{name} rated anew"):
        part.ratings = {**part.ratings, **given}
        part.save()
    note(rig, by, Station.WIRING, f"{name} rated anew", before=before, after=dict(given))


def remove_part(rig: Rig, by: User, name: str) -> None:
    """Take a part out, and every wire at it."""
    part = _part(rig, name)
    title = f"{name} removed: {PART_TYPES[part.kind].title.lower()}"
    with step(rig, title):
        wires = [w.pk for w in rig.wires.all() if name in (split(w.a)[0], split(w.b)[0])]
        rig.wires.filter(pk__in=wires).delete()
        part.delete()
    note(rig, by, Station.WIRING, title, before={"wires": len(wires)})


def _part(rig: Rig, name: str) -> FittedPart:
    part = rig.parts.filter(name=name).first()
    if part is None:
        raise refuse("name", f"there is no part {name!r}", ", ".join(p.name for p in rig.parts.all()))
    return part


def fit_own(rig: Rig, by: User, name: str, own: OwnPart | None) -> None:
    """Say which of the workshop's own parts this is: its ratings and numbers; None makes it generic again."""
    part = _part(rig, name)
    if own is not None and own.kind != part.kind:
        title = PART_TYPES[part.kind].title.lower()
        raise refuse("own", f"{own.title} is another kind of part than a {title}", f"an own {title}")
    before = {"part": part.title or PART_TYPES[part.kind].title}
    with step(rig, f"{name} is {own.title if own else 'generic'}"):
        part.title, part.numbers = (own.title, own.numbers) if own else ("", {})
        part.ratings = {**part.ratings, **(own.ratings if own else {})}
        part.save()
    after = {"part": part.title or PART_TYPES[part.kind].title}
    note(rig, by, Station.WIRING, f"{name} is {after['part']}", before=before, after=after)


def _resolved(rig: Rig, a: str, b: str) -> tuple[str, str]:
    """Both ends by the generic names of their terminals, whatever stands on the real parts."""
    parts = connection_list(rig).parts
    return resolve(parts, a), resolve(parts, b)


def _practice(rig: Rig) -> Practice:
    choice = choice_of(rig)
    return choice.practice if choice else Practice.IEC


def add_wire(rig: Rig, by: User, wish: WireWish) -> Wire:
    """A new wire between two terminals. Circuit, size and colour default to those of its neighbours."""
    wiring = connection_list(rig)
    wire = fulfil(wiring.parts, wiring.connections, wish, _practice(rig))
    with step(rig, f"Wire {wire.number} added"):
        row = Wire.objects.create(rig=rig, **{**asdict(wire), "circuit": wire.circuit.value})
        connection_list(rig)  # refuses what cannot be; the surrounding transaction then undoes the row
    note(rig, by, Station.WIRING, f"Wire {wire.number} added", after=_of(row))
    return row


def paste(rig: Rig, by: User, text: str) -> None:
    """Add every wire of the text, or none."""
    before = connection_list(rig)
    after, count = pasted(before, text, _practice(rig))
    title = f"{count} wire{'s' if count > 1 else ''} pasted"
    with step(rig, title):
        store(rig, after)
    new = after.connections[len(before.connections) :]
    note(rig, by, Station.WIRING, title, after={str(w.number): f"{w.a} – {w.b}" for w in new})


def change_wire(rig: Rig, by: User, number: int, wish: WireWish) -> None:
    wire = _wire(rig, number)
    a, b = _resolved(rig, wish.a, wish.b)
    before = _of(wire)
    with step(rig, f"Wire {number} changed"):
        wire.a, wire.b, wire.colour = a, b, wish.colour or wire.colour
        for name in ("area_mm2", "length_m", "insulation", "route"):
            if getattr(wish, name) is not None:
                setattr(wire, name, getattr(wish, name))
        wire.save()
        wire.circuit = circuit_between(connection_list(rig).parts, a, b).value
        wire.save()
        check_wire(next(c for c in connection_list(rig).connections if c.number == number))
    note(rig, by, Station.WIRING, f"Wire {number} changed", before=before, after=_of(wire))


def remove_wire(rig: Rig, by: User, number: int) -> None:
    wire = _wire(rig, number)
    with step(rig, f"Wire {number} removed"):
        wire.delete()
    note(rig, by, Station.WIRING, f"Wire {number} removed", before=_of(wire))


def _of(wire: Wire) -> dict[str, Any]:
    """What the book says of a wire."""
    plain = {"a": wire.a, "b": wire.b, "area_mm2": wire.area_mm2, "colour": wire.colour}
    more = {"length_m": wire.length_m, "insulation": wire.insulation, "route": wire.route}
    return {**plain, **{k: v for k, v in more.items() if v not in ("", USUAL_M)}}


def tick(rig: Rig, number: int, built: bool) -> None:
    """Say that a wire is fitted as it is planned now, or that it is not fitted after all."""
    if not built:
        rig.built.filter(number=number).delete()
        return
    wire = _wire(rig, number)
    values = {"a": wire.a, "b": wire.b, "area_mm2": wire.area_mm2, "colour": wire.colour, "at": timezone.now()}
    BuiltWire.objects.update_or_create(rig=rig, number=number, defaults=values)


def swap_ends(rig: Rig, by: User, first: str, second: str) -> None:
    """Exchange the wires at two terminals."""
    ends = {first: second, second: first}
    with step(rig, f"Wires at {first} and {second} exchanged"):
        for wire in rig.wires.all():
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
