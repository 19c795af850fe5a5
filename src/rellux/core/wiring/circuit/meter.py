"""What a meter should show: ohms with the plug out, volts in each state; and which fault explains what it does show.

Dead: every source is out, breakers and fuses are in, contacts are as they rest, and once more with each switch or breaker
moved that makes a difference; electronics are left out of the sum, since what a meter shows through them is unpredictable.
Live: the state solved, a 10 MΩ meter taken as no load, so that what leaks through an SSR that is off shows almost the whole
mains.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np

from ..model import Closed, Connection, ConnectionList, Part, split
from ..switching import OFF, ON, Switching
from .branches import Branch, Sort
from .contacts import RESTS
from .failures import Failure, failures
from .positions import operable, verb
from .solution import SOUND, Fault, Solution
from .solve import Circuit

OPEN_OHM = 1e6
"""What counts as no connection on a meter."""
OHM_TOLERANCE, VOLT_TOLERANCE = 0.10, 0.06
LEAST_OHM, LEAST_V = 1.0, 2.0
"""Differences below these are the meter's and the leads' own."""
FINE, FAVOUR = "nothing is wrong", 0.5
"""What most readings mean: it comes before a fault that fits better by less than half a tolerance."""
SWAPS_WITHIN = 2
"""Wires away from what was measured within which swapped wires are looked for."""
RESTING = (Closed.ALWAYS, Closed.HAND, Closed.NOT_COIL, Closed.NOT_OUTPUT, Closed.LIMIT_TRIPPED, Closed.NOT_DRIVEN)
"""Paths that conduct with everything unpowered and nothing moved."""
PLAIN = ("heater", "relay", "contactor", "lamp", "solenoid", "fan", "buzzer", "beacon")


@dataclass(frozen=True)
class Reading:
    """One place to measure: between two terminals, what it is about, dead ohms (None: no connection), the same with a part
    moved (``S1 pressed``) where that differs, volts in each state (None: undefined)."""

    a: str
    b: str
    about: str
    ohm: float | None
    moved: dict[str, float | None]
    volts: dict[str, float | None]
    trap: str = ""


@dataclass(frozen=True)
class Measured:
    """What somebody read: ohms dead (infinite as None), with nothing moved where ``state`` is empty or with a part moved as
    :func:`moves` names it; or volts live in a ``state`` of :data:`STATES`."""

    a: str
    b: str
    value: float | None
    state: str = ""


@dataclass(frozen=True)
class Suspect:
    """A fault and how well it explains everything measured: 0 fits, larger fits worse."""

    title: str
    subject: str
    misfit: float
    fits: bool


STATES: dict[str, Switching] = {"output off": OFF, "output on": ON}


def plan(circuit: Circuit, chosen: tuple[tuple[str, str], ...] = ()) -> tuple[Reading, ...]:
    """The places worth measuring: over every heater, coil and supply, over every contact somebody moves, from live and
    neutral to the case, the earth; and the ``chosen`` pairs of terminals."""
    solved = {name: circuit.solve(s) for name, s in STATES.items()}
    moved, found = moves(circuit.wiring), []
    for a, b, about in (*_places(circuit.wiring), *((a, b, "chosen here") for a, b in chosen)):
        volts = {name: solution.between(a, b) for name, solution in solved.items()}
        rest = dead_ohm(circuit, a, b)
        other = {words: dead_ohm(circuit, a, b, moved=name) for words, name in moved.items()}
        differing = {words: ohm for words, ohm in other.items() if _tells_apart(rest, ohm)}
        found.append(Reading(a, b, about, rest, differing, volts, _trap(circuit.wiring, about)))
    return tuple(found)


def moves(wiring: ConnectionList) -> dict[str, str]:
    """How a meter plan calls a part in its other position (``F1 open``), and the part's name."""
    return {f"{p.name} {verb(p)}": p.name for p in operable(wiring)}


def _tells_apart(one: float | None, other: float | None) -> bool:
    """Whether a meter shows these two as different."""
    if one is None or other is None:
        return one is not other
    return abs(one - other) > max(OHM_TOLERANCE * one, LEAST_OHM)


def _trap(wiring: ConnectionList, about: str) -> str:
    if about.startswith("heater") and wiring.of_kind("ssr"):
        return "Through an SSR that is off a high-impedance meter shows almost the whole mains: use a low-impedance tester."
    return ""


def _places(wiring: ConnectionList) -> list[tuple[str, str, str]]:
    found = []
    for supply in wiring.of_kind("supply"):
        ends = [f"{supply.name}.{t.name}" for t in supply.type.terminals]
        found += [(ends[0], end, "supply" if not end.endswith("PE") else "live to earth") for end in ends[1:]]
    for heater in wiring.of_kind("heater"):
        names = [t.name for t in heater.type.terminals]
        pairs = zip(names, names[1:] if len(names) == 2 else [*names[1:], names[0]], strict=False)
        found += [(f"{heater.name}.{a}", f"{heater.name}.{b}", f"heater {heater.name}") for a, b in pairs]
    for coil in wiring.of_kind("relay", "contactor"):
        found.append((f"{coil.name}.A1", f"{coil.name}.A2", f"coil of {coil.name}"))
    for moved in operable(wiring):
        poles = [p for p in moved.type.paths if p.closed in (Closed.HAND, Closed.NOT_HAND)]
        found += [(f"{moved.name}.{p.a}", f"{moved.name}.{p.b}", f"contact of {moved.name}") for p in poles]
    earths = [f"{s.name}.PE" for s in wiring.of_kind("supply") if s.type.terminal("PE")]
    for case in wiring.of_kind("enclosure"):
        found += [(earth, f"{case.name}.PE", "earth of the case") for earth in earths]
        found += [
            (f"{h.name}.{h.type.terminals[0].name}", f"{case.name}.PE", f"{h.name} to the case")
            for h in wiring.of_kind("heater")
        ]
    return found


def dead_ohm(circuit: Circuit, a: str, b: str, fault: Fault = SOUND, moved: str = "") -> float | None:
    """Ohms between two terminals with the plug out and the part ``moved`` in its other position, or None where there is no
    connection."""
    kinds = {p.name: p for p in circuit.wiring.parts}
    mask = np.array([_rests(branch, kinds, fault, moved) for branch in circuit.branches], dtype=bool)
    ohm = circuit.net.ohms(mask, fault, a, b)
    return ohm if ohm < OPEN_OHM else None


def _rests(branch: Branch, kinds: dict[str, Part], fault: Fault, moved: str) -> bool:
    """Whether a branch conducts with everything unpowered and a meter's low voltage on it."""
    if {branch.name, branch.at} & fault.opened or any(branch.name == name for name, _, _ in fault.tapped):
        return False
    if branch.name in fault.closed and branch.closed in RESTS:
        return False
    if branch.name in fault.closed and branch.sort in (Sort.CONTACT, Sort.SSR):
        return True
    if branch.sort is Sort.WIRE:
        return True
    if branch.sort is Sort.LOAD:
        part = kinds.get(branch.name)
        return part is not None and part.type.family in PLAIN
    if branch.name == moved and branch.closed in (Closed.HAND, Closed.NOT_HAND):
        return branch.closed is Closed.NOT_HAND
    return branch.sort is Sort.CONTACT and branch.closed in RESTING


def explain(circuit: Circuit, measured: tuple[Measured, ...]) -> tuple[Suspect, ...]:
    """What explains everything measured, best first: a fault, two wires swapped near where it was measured, or nothing
    being wrong."""
    tried = [(Failure(FINE, "", SOUND), circuit)]
    tried += [(failure, circuit) for failure in failures(circuit.wiring)]
    tried += [(Failure(title, part, SOUND), other) for title, part, other in _swapped(circuit, measured)]
    found = []
    for failure, tested in tried:
        misfit = max((_misfit(tested, failure, m) for m in measured), default=0.0)
        found.append(Suspect(failure.title, failure.subject, misfit, misfit <= 1.0))
    return tuple(sorted(found, key=lambda s: s.misfit - (FAVOUR if s.title == FINE else 0.0)))


def _swapped(circuit: Circuit, measured: tuple[Measured, ...]) -> Iterator[tuple[str, str, Circuit]]:
    """Circuits with two wires of one circuit exchanged at a part, as words, part and circuit."""
    wiring = circuit.wiring
    near = {split(end)[0] for m in measured for end in (m.a, m.b)}
    for _ in range(SWAPS_WITHIN):
        near |= {split(e)[0] for w in wiring.connections for e in (w.a, w.b) if {split(w.a)[0], split(w.b)[0]} & near}
    at: dict[str, list[Connection]] = {}
    for wire in wiring.connections:
        for end in (wire.a, wire.b):
            at.setdefault(end, []).append(wire)
    alone = {end: wires[0] for end, wires in at.items() if len(wires) == 1 and split(end)[0] in near}
    for one, other in combinations(alone, 2):
        first, second = alone[one], alone[other]
        if split(one)[0] != split(other)[0] or first is second or first.circuit is not second.circuit:
            continue
        ends = {one: other, other: one}
        exchanged = tuple(
            replace(w, a=ends.get(w.a, w.a), b=ends.get(w.b, w.b)) if w in (first, second) else w
            for w in wiring.connections
        )
        words = f"wires {first.number} and {second.number} are swapped at {split(one)[0]}"
        yield words, split(one)[0], Circuit(ConnectionList(wiring.parts, exchanged), circuit.supply_v)


def _misfit(circuit: Circuit, failure: Failure, m: Measured) -> float:
    """Distance from what this fault would show, in tolerances."""
    if m.state in STATES:
        solution: Solution = circuit.solve(STATES[m.state], failure.fault)
        expected = solution.between(m.a, m.b)
        if expected is None or m.value is None:
            return 0.0 if expected is None and m.value is None else 3.0
        return abs(m.value - expected) / max(VOLT_TOLERANCE * expected, LEAST_V)
    expected = dead_ohm(circuit, m.a, m.b, failure.fault, moves(circuit.wiring).get(m.state, ""))
    if expected is None or m.value is None:
        return 0.0 if expected is None and m.value is None else 5.0
    return abs(m.value - expected) / max(OHM_TOLERANCE * expected, LEAST_OHM)
