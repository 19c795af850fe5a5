"""Lists changed as people change them by mistake: a wire added, dropped, moved, swapped; a part replaced, re-rated, bridged,
doubled. One seed makes one list."""

from dataclasses import replace
from random import Random

from rellux.core.errors import Refused
from rellux.core.wiring.library import PART_TYPES
from rellux.core.wiring.model import Circuit, Connection, ConnectionList, Part

REPLACED = {
    "contactor": ("contactor_2p",), "contactor_2p": ("contactor_3p",), "relay": ("timer",), "ssr": ("triac",),
    "switch": ("estop", "door_switch", "pushbutton"), "estop": ("switch", "estop_no", "thermal_fuse"), "breaker": ("fuse",),
    "pushbutton": ("switch",), "thermal_fuse": ("cutout_auto", "switch"), "controller_relay": ("logger",),
}  # fmt: skip
RERATED = ("current_a", "voltage_v", "coil_v", "power_w", "contact_a")


def mutant(wiring: ConnectionList, seed: int, changes: int = 1) -> ConnectionList:
    """The list with this many changes of the kinds above."""
    random = Random(seed)
    found = wiring
    while changes:
        try:
            found = random.choice(KINDS)(found, random)
            changes -= 1
        except (Refused, IndexError, KeyError):
            continue
    return found


def _terminals(wiring: ConnectionList, random: Random) -> str:
    part = random.choice(wiring.parts)
    return f"{part.name}.{random.choice(part.type.terminals).name}"


def _next(wiring: ConnectionList) -> int:
    return max((w.number for w in wiring.connections), default=0) + 1


def _added(wiring: ConnectionList, random: Random) -> ConnectionList:
    wire = Connection(
        _next(wiring), _terminals(wiring, random), _terminals(wiring, random), Circuit.CONTROL, 1.5, "black"
    )
    return ConnectionList(wiring.parts, (*wiring.connections, wire))


def _dropped(wiring: ConnectionList, random: Random) -> ConnectionList:
    gone = random.choice(wiring.connections)
    return ConnectionList(wiring.parts, tuple(w for w in wiring.connections if w is not gone))


def _moved(wiring: ConnectionList, random: Random) -> ConnectionList:
    one = random.choice(wiring.connections)
    end = {random.choice(("a", "b")): _terminals(wiring, random)}
    return ConnectionList(wiring.parts, tuple(replace(w, **end) if w is one else w for w in wiring.connections))


def _swapped(wiring: ConnectionList, random: Random) -> ConnectionList:
    one, other = random.sample(wiring.connections, 2)
    ends = {one.number: other.b, other.number: one.b}
    return ConnectionList(wiring.parts, tuple(replace(w, b=ends.get(w.number, w.b)) for w in wiring.connections))


def _replaced(wiring: ConnectionList, random: Random) -> ConnectionList:
    one = random.choice([p for p in wiring.parts if p.type.kind in REPLACED])
    kind = random.choice(REPLACED[one.type.kind])
    new = replace(one, type=PART_TYPES[kind])
    return ConnectionList(tuple(new if p is one else p for p in wiring.parts), wiring.connections)


def _rerated(wiring: ConnectionList, random: Random) -> ConnectionList:
    one = random.choice([p for p in wiring.parts if set(p.ratings) & set(RERATED) and p.type.family != "supply"])
    name = random.choice(sorted(set(one.ratings) & set(RERATED)))
    new = replace(one, ratings={**one.ratings, name: float(one.ratings[name]) * random.choice((0.2, 0.5, 2.0, 5.0))})
    return ConnectionList(tuple(new if p is one else p for p in wiring.parts), wiring.connections)


def _bridged(wiring: ConnectionList, random: Random) -> ConnectionList:
    part = random.choice([p for p in wiring.parts if p.type.paths])
    path = random.choice(part.type.paths)
    wire = Connection(_next(wiring), f"{part.name}.{path.a}", f"{part.name}.{path.b}", Circuit.CONTROL, 1.5, "black")
    return ConnectionList(wiring.parts, (*wiring.connections, wire))


def _doubled(wiring: ConnectionList, random: Random) -> ConnectionList:
    """A second part beside one, all its terminals at the same places."""
    one = random.choice([p for p in wiring.parts if p.type.family not in ("supply", "enclosure")])
    twin = Part(f"{one.name}x", one.type, dict(one.ratings))
    used = {e for w in wiring.connections for e in (w.a, w.b) if e.partition(".")[0] == one.name}
    start = _next(wiring)
    wires = tuple(
        Connection(start + i, e, f"{twin.name}.{e.partition('.')[2]}", Circuit.CONTROL, 1.5, "black")
        for i, e in enumerate(sorted(used))
    )
    return ConnectionList((*wiring.parts, twin), (*wiring.connections, *wires))


KINDS = (
    _added,
    _added,
    _dropped,
    _moved,
    _moved,
    _swapped,
    _swapped,
    _replaced,
    _rerated,
    _bridged,
    _bridged,
    _doubled,
)
