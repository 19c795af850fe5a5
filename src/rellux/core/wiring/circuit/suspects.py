"""Which fault explains what somebody measured: a failure, two wires swapped near where it was measured, or nothing at all."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import combinations

from ..model import Connection, ConnectionList
from ..names import TerminalName, split
from ..switching import ON
from .dead import Dead
from .failures import Failure, failures
from .meter import LEAST_OHM, LEAST_V, OHM_TOLERANCE, VOLT_TOLERANCE, moves, states
from .solution import SOUND
from .solve import CircuitSolver

FINE, FAVOUR = "nothing is wrong", 0.5
"""What most readings mean: it comes before a fault that fits better by less than half a tolerance (our choice)."""
SWAPS_WITHIN = 2
"""Wires away from what was measured within which swapped wires are looked for (our choice)."""
OPEN_MISFIT, UNDEFINED_MISFIT = 5.0, 3.0
"""Tolerances between a connection and none, and between volts and a point that nothing holds (our choice: surely apart)."""


@dataclass(frozen=True)
class Measured:
    """What somebody read: ohms dead (infinite as None), with nothing moved where ``state`` is empty or with a part moved as
    :func:`~.meter.moves` names it; or volts live in one of :func:`~.meter.states`."""

    a: TerminalName
    b: TerminalName
    value: float | None
    state: str = ""


@dataclass(frozen=True)
class Suspect:
    """A fault and how well it explains everything measured: 0 fits, larger fits worse."""

    title: str
    subject: str
    misfit: float
    fits: bool


def explain(circuit: CircuitSolver, measured: tuple[Measured, ...]) -> tuple[Suspect, ...]:
    """What explains everything measured, best first."""
    here = Dead(circuit)
    tried = [(Failure(FINE, "", SOUND), here)]
    tried += [(failure, here) for failure in failures(circuit.wiring)]
    tried += [
        (Failure(title, part, SOUND), Dead(other))
        for title, part, other in swapped(circuit, {split(end)[0] for m in measured for end in (m.a, m.b)})
    ]
    found = []
    for failure, tested in tried:
        misfit = max((_misfit(tested, failure, m) for m in measured), default=0.0)
        found.append(Suspect(failure.title, failure.subject, misfit, misfit <= 1.0))
    return tuple(sorted(found, key=lambda s: s.misfit - (FAVOUR if s.title == FINE else 0.0)))


def swapped(circuit: CircuitSolver, parts: set[str]) -> Iterator[tuple[str, str, CircuitSolver]]:
    """Circuits with two wires of one circuit exchanged at a part, near some parts, as words, part and circuit."""
    wiring, near = circuit.wiring, set(parts)
    for _ in range(SWAPS_WITHIN):
        near |= {split(e)[0] for w in wiring.connections for e in (w.a, w.b) if {split(w.a)[0], split(w.b)[0]} & near}
    at: dict[TerminalName, list[Connection]] = {}
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
        yield words, split(one)[0], CircuitSolver(ConnectionList(wiring.parts, exchanged), circuit.supply_v)


def _misfit(tested: Dead, failure: Failure, m: Measured) -> float:
    """Distance from what this fault would show, in tolerances."""
    circuit = tested.circuit
    switching = states(circuit.wiring).get(m.state)
    if switching is not None:
        start = circuit.running(ON) if switching.output_on else circuit.begun(switching)
        expected = circuit.solve(switching, failure.fault, start).between(m.a, m.b)
        if expected is None or m.value is None:
            return 0.0 if expected is None and m.value is None else UNDEFINED_MISFIT
        return abs(m.value - expected) / max(VOLT_TOLERANCE * expected, LEAST_V)
    ohms = tested.ohms(m.a, m.b, failure.fault, moves(circuit.wiring).get(m.state, ""))
    least, most = ohms.least, ohms.most
    if m.value is None:
        return 0.0 if most is None else OPEN_MISFIT
    if least is None:
        return OPEN_MISFIT
    if m.value < least:
        return (least - m.value) / max(OHM_TOLERANCE * least, LEAST_OHM)
    if most is not None and m.value > most:
        return (m.value - most) / max(OHM_TOLERANCE * most, LEAST_OHM)
    return 0.0
