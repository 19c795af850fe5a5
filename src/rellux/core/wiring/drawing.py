"""How a list is drawn: which parts stand in which column, counted along the circuit from the supply to the load.

A small list is one drawing. Beyond :data:`LARGE` parts every circuit is a drawing of its own, as schematics are drawn: a
contactor's poles stand among the power, its coil among the control. What many wires join (a neutral, a control live) is not
drawn wire by wire: each end gets a flag with the wire's number, and the same number stands at its other end.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum
from heapq import heappop, heappush

from .circuit.branches import is_coil
from .graph import Conduction
from .model import CONTACTS, Circuit, Connection, ConnectionList, Part, Role
from .names import Family, TerminalName, split

LARGE = 30
"""Parts beyond which each circuit is drawn on its own."""
MOST_DRAWN, MOST_RETURNING = 12, 3
"""Wires of one net that are still drawn, and of a control circuit's neutral in a large list; more of them become flags."""
MOST_PINS = 12
"""Parts with more terminals than this are drawn with those in use only."""
PASSES = 3
"""How often columns are counted, each time with the coils where the last count put them."""
SOURCES: tuple[Family, ...] = ("controller_ssr", "controller_analogue", "power_module", "regulator")
"""Parts that feed on what they are fed with."""
RETURNING = (Role.NEUTRAL, Role.DC_MINUS, Role.EARTH)


class View(StrEnum):
    """What a drawing shows."""

    ALL = "all"
    POWER = "power"
    CONTROL = "control"
    SENSOR = "sensor"


SHOWN = {
    View.ALL: tuple(Circuit),
    View.POWER: (Circuit.POWER, Circuit.EARTH),
    View.CONTROL: (Circuit.CONTROL,),
    View.SENSOR: (Circuit.SENSOR,),
}


@dataclass(frozen=True)
class DrawnPart:
    """A part in a drawing: its column, and which of its terminals are drawn there."""

    name: str
    column: int
    terminals: tuple[str, ...]


@dataclass(frozen=True)
class CircuitDrawing:
    """One drawing: its parts from left to right, the wires drawn as lines, and those drawn as flags."""

    view: View
    places: tuple[DrawnPart, ...]
    lines: tuple[int, ...]
    flags: tuple[int, ...]


def drawings(wiring: ConnectionList) -> tuple[CircuitDrawing, ...]:
    """The drawing of everything, where the list is small enough for one, then that of each circuit with wires."""
    views: list[View] = [
        v for v in View if v is not View.ALL and any(w.circuit in SHOWN[v] for w in wiring.connections)
    ]
    if len(wiring.parts) <= LARGE or not views:
        views.insert(0, View.ALL)
    along = _columns(wiring, (p.name for p in wiring.parts), wiring.connections, {})
    loose = {p.name for p in wiring.parts} - {split(end)[0] for end in wiring.wired}
    return tuple(_drawing(wiring, view, along, loose if view is views[0] else set()) for view in views)


def _drawing(wiring: ConnectionList, view: View, along: dict[str, int], loose: set[str]) -> CircuitDrawing:
    """``loose``: parts that are wired to nothing yet, to be drawn here."""
    wires = tuple(w for w in wiring.connections if w.circuit in SHOWN[view])
    used = {end for w in wires for end in (w.a, w.b)}
    elsewhere = wiring.wired - used
    here = {split(end)[0] for end in used} | loose
    names = [p.name for p in wiring.parts if view is View.ALL or p.name in here]
    columns = _columns(wiring, names, wires, along)
    dense = {c: i for i, c in enumerate(sorted(set(columns.values())))}
    places = []
    for part in wiring.parts:
        if part.name not in columns:
            continue
        ends = part.ends
        few = len(ends) > MOST_PINS and any(e in used for e in ends)
        drawn = [e for e in ends if e in used or not (few or e in elsewhere)]
        places.append(DrawnPart(part.name, dense[columns[part.name]], tuple(split(e)[1] for e in drawn)))
    back = Conduction(wiring).reach(_returns(wiring)) if view is View.CONTROL and len(wiring.parts) > LARGE else ()
    most = {True: MOST_RETURNING, False: MOST_DRAWN}
    flagged = {w.number for net in _nets(wires) if len(net) > most[net[0].a in back] for w in net}
    return CircuitDrawing(
        view,
        tuple(sorted(places, key=lambda p: p.column)),
        tuple(w.number for w in wires if w.number not in flagged),
        tuple(w.number for w in wires if w.number in flagged),
    )


def _columns(
    wiring: ConnectionList, names: Iterable[str], wires: tuple[Connection, ...], along: dict[str, int]
) -> dict[str, int]:
    """Steps from a supply for every part, along wires and through contacts but not along neutrals and earths. What no
    contact leads to stands right of what it is wired to; what no supply reaches begins anew at the part nearest to one in
    the whole list (``along``)."""
    walk = _Walk([p for p in wiring.parts if p.name in set(names)], _joined(wiring, wires))
    walk.from_(p.name for p in wiring.of_kind("supply"))
    returns = _returns(wiring)
    behind = {split(e)[0] for w in wires if {w.a, w.b} & returns for e in (w.a, w.b)}
    for name in sorted(walk.parts, key=lambda n: along.get(n, len(wiring.parts))):
        walk.from_([name], first=int(name in behind))
    return walk.columns


def _joined(wiring: ConnectionList, wires: tuple[Connection, ...]) -> dict[TerminalName, frozenset[TerminalName]]:
    """What each terminal is wired to, but for neutrals and earths."""
    returns = _returns(wiring)
    found: dict[TerminalName, frozenset[TerminalName]] = {}
    for net in _nets(wires):
        ends = frozenset(end for w in net for end in (w.a, w.b))
        if not ends & returns:
            found |= dict.fromkeys(ends, ends)
    return found


def _returns(wiring: ConnectionList) -> set[TerminalName]:
    return {end for p in wiring.of_kind("supply") for end in p.acting_as(*RETURNING)}


class _Walk:
    """Goes through the circuit from part to part and counts the steps."""

    def __init__(self, parts: list[Part], joined: dict[TerminalName, frozenset[TerminalName]]) -> None:
        self.parts = {p.name: p for p in parts}
        self.joined = joined
        self.columns: dict[str, int] = {}
        self._ends = {p.name: p.ends for p in parts}
        self._coils = {p.name: p.at("A1") for p in parts if is_coil(p)}

    def from_(self, roots: Iterable[str], first: int = 0) -> None:
        """Give columns to everything that these lead to, and to what hangs on that; the roots stand in column ``first``."""
        starts = [end for name in roots if name not in self.columns for end in self._ends.get(name, ())]
        if not starts:
            return
        pulled: dict[str, int] = {}
        for _ in range(PASSES):  # what a relay's contact feeds stands right of its coil
            steps = self._steps(first, starts, pulled)
            pulled = {name: steps[coil] for name, coil in self._coils.items() if coil in steps}
        for name, ends in self._ends.items():
            reached = [steps[e] for e in ends if e in steps and e != self._coils.get(name)]
            if name not in self.columns and (reached or name in pulled):
                self.columns[name] = max(pulled.get(name, 0), min(reached, default=0))
        self._attach()

    def _steps(self, first: int, starts: list[TerminalName], pulled: dict[str, int]) -> dict[TerminalName, int]:
        """The column of the part at every terminal reached, quickest first."""
        steps: dict[TerminalName, int] = {}
        waiting = [(first, end) for end in sorted(starts)]
        while waiting:
            step, end = heappop(waiting)
            if end in steps:
                continue
            steps[end] = step
            name = split(end)[0]
            for other in self.joined.get(end, ()):
                if split(other)[0] in self.parts:
                    heappush(waiting, (step + (split(other)[0] != name), other))
            for other in _passes(self.parts[name], end):
                heappush(waiting, (max(step, pulled.get(name, 0)), other))
        return steps

    def _attach(self) -> None:
        edge = set(self.columns)
        while edge:
            hanging = {
                split(other)[0]: self.columns[name] + 1
                for name in sorted(edge)
                for end in self._ends[name]
                for other in self.joined.get(end, ())
                if split(other)[0] in self.parts and split(other)[0] not in self.columns
            }
            self.columns |= hanging
            edge = set(hanging)


def _passes(part: Part, terminal: TerminalName) -> list[TerminalName]:
    """Terminals of a part that this one leads to: through its contacts, or all of them where it is a source itself."""
    if part.type.family in SOURCES:
        return [end for end in part.ends if end != terminal]
    return [b if a == terminal else a for a, b in part.ways(*CONTACTS) if terminal in (a, b)]


def _nets(wires: Iterable[Connection]) -> list[list[Connection]]:
    """The wires in groups that join one net each."""
    of: dict[str, list[Connection]] = {}
    ends: dict[int, set[str]] = {}
    for wire in wires:
        a, b = of.get(wire.a, []), of.get(wire.b, [])
        net = a if a is b else [*a, *b]
        net.append(wire)
        together = ends.pop(id(a), set()) | ends.pop(id(b), set()) | {wire.a, wire.b}
        ends[id(net)] = together
        for end in together:
            of[end] = net
    return list({id(net): net for net in of.values()}.values())
