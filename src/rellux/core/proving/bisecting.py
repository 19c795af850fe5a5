"""What may be wrong at a failed step, and the next measurement that halves what is left: always with the plug out."""

from dataclasses import dataclass
from math import inf

from ..errors import refuse
from ..wiring.circuit.dead import Dead
from ..wiring.circuit.failures import Failure, failures
from ..wiring.circuit.meter import LEAST_OHM, LEAST_V, OHM_TOLERANCE, VOLT_TOLERANCE
from ..wiring.circuit.solution import SOUND, Fault
from ..wiring.circuit.solve import CircuitSolver
from ..wiring.circuit.suspects import swapped
from ..wiring.names import TerminalName, is_inner, split
from ..wiring.switching import Switching
from .scope import between, edges_of
from .step import ProvingStep

MOST_CLUES = 12
"""Measurements after which no end is seen (our choice)."""
Bounds = tuple[float | None, float | None]
"""What a meter may show; no upper end: perhaps no connection; both ``None``: surely none, or volts of a point that nothing holds."""


@dataclass(frozen=True)
class Clue:
    """What was read between two terminals: ohms with the plug out (``None``: no connection), with a part ``moved`` or nothing; or volts in
    a position of the circuit (``None``: undefined)."""

    a: TerminalName
    b: TerminalName
    value: float | None
    moved: str = ""
    switching: Switching | None = None


@dataclass(frozen=True)
class PartSuspect:
    """What may be wrong, and the part or wire it is."""

    title: str
    subject: str


@dataclass(frozen=True)
class NextMeasure:
    """Ohms between two terminals with the plug out. ``least``/``most``: what a sound rig shows; ``None``: no connection. ``leaves``: how
    many suspects it leaves at most."""

    a: TerminalName
    b: TerminalName
    least: float | None
    most: float | None
    leaves: int


@dataclass(frozen=True)
class Bisection:
    """``suspects``: all that explain every clue; ``next``: what tells them apart, ``None`` where nothing does."""

    suspects: tuple[PartSuspect, ...]
    next: NextMeasure | None


@dataclass(frozen=True)
class _Candidate:
    """Something that may be wrong; ``poor``: it only conducts badly."""

    failure: Failure
    dead: Dead
    poor: bool = False

    def shows(self, clue: Clue) -> Bounds:
        """What a meter may show with this wrong."""
        if clue.switching is None:
            ohms = self.dead.ohms(clue.a, clue.b, self.failure.fault, clue.moved)
            return (self.dead.ohms(clue.a, clue.b, moved=clue.moved).least if self.poor else ohms.least), ohms.most
        circuit = self.dead.circuit
        start = circuit.running(clue.switching) if clue.switching.output_on else circuit.begun(clue.switching)
        volts = circuit.solve(clue.switching, self.failure.fault, start).between(clue.a, clue.b)
        return volts, volts

    def away(self, clue: Clue) -> float:
        """How far a reading is from what would be shown, without any tolerance; infinite between a connection and none."""
        low, high = self.shows(clue)
        if clue.value is None or low is None:
            return 0.0 if clue.value is None and high is None else inf
        return max(low - clue.value, 0.0 if high is None else clue.value - high, 0.0)

    def explains(self, clue: Clue) -> bool:
        low, high = self.shows(clue)
        if clue.switching is not None:  # where nothing holds a point, a meter shows anything
            return low is None or (
                clue.value is not None and abs(clue.value - low) <= max(VOLT_TOLERANCE * low, LEAST_V)
            )
        if clue.value is None:
            return high is None
        return low is not None and _widened(low, high)[0] <= clue.value <= _widened(low, high)[1]


def clue_of(step: ProvingStep, number: float | None) -> Clue:
    """What a step itself showed; ``None`` beyond range. Raises ``Refused`` for a step that measures nothing between two terminals."""
    if step.between is None or step.measure is None:
        raise refuse("key", "nothing is measured between two terminals at this step", "a step of ohms or volts")
    return Clue(*step.between, number, step.moved, step.switching)


def bisect(circuit: CircuitSolver, clues: tuple[Clue, ...]) -> Bisection:
    """From everything measured so far, the step that failed first. A single failure, or two wires exchanged, is looked for: what comes
    nearer to what that step showed than a sound rig does. Nothing is left where no single thing explains all of it."""
    near = {split(end)[0] for c in clues for end in (c.a, c.b)}
    here = Dead(circuit)
    sound = _Candidate(Failure("", "", SOUND), here).away(clues[0])
    tried = [_Candidate(f, here) for f in failures(circuit.wiring)]
    tried += [_Candidate(Failure(title, part, SOUND), Dead(other)) for title, part, other in swapped(circuit, near)]
    left = [c for c in tried if c.away(clues[0]) < sound and all(c.explains(clue) for clue in clues)]
    if not left:  # a joint that is only poor shows anything from sound to open
        wires = [w.name for w in circuit.wiring.connections]
        poor = [
            _Candidate(Failure(f"a joint of {w} is poor", w, Fault(opened=frozenset({w}))), here, True) for w in wires
        ]
        left = [c for c in poor if c.away(clues[0]) < sound and all(c.explains(clue) for clue in clues)]
    ends: dict[str, str] = {w.name: f"{w.name} ({w.a} to {w.b})" for w in circuit.wiring.connections}
    said = {
        c.failure.title: c.failure.title.replace(c.failure.subject, ends.get(c.failure.subject, c.failure.subject))
        for c in left
    }
    suspects = tuple(dict.fromkeys(PartSuspect(said[c.failure.title], c.failure.subject) for c in left))
    if len(suspects) < 2 or len(clues) >= MOST_CLUES:
        return Bisection(suspects, None)
    return Bisection(suspects, _next(here, left, clues))


def _next(here: Dead, left: list[_Candidate], clues: tuple[Clue, ...]) -> NextMeasure | None:
    best, fewest = None, len(left)
    done = {frozenset((c.a, c.b)) for c in clues if c.switching is None and not c.moved}
    for a, b in places(here.circuit, clues[0].a, clues[0].b):
        if frozenset((a, b)) in done:
            continue
        largest = _largest([c.shows(Clue(a, b, None)) for c in left])
        if largest < fewest:
            best, fewest = (a, b), largest
    if best is None:
        return None
    sound = here.ohms(*best)
    return NextMeasure(*best, sound.least, sound.most, fewest)


def places(circuit: CircuitSolver, a: TerminalName, b: TerminalName) -> list[tuple[TerminalName, TerminalName]]:
    """Where to measure: from either end to every terminal on a way between the two, and over every wire and part on it."""
    edges = edges_of(circuit.branches)
    on_way = between(edges, a, b)
    pairs = [(x, y) for name, x, y in edges if name in on_way and not is_inner(x) and not is_inner(y)]
    terminals = sorted({end for pair in pairs for end in pair})
    found = [(end, t) for end in (a, b) for t in terminals if t != end] + pairs
    return list(dict.fromkeys(tuple(sorted(p)) for p in found))  # type: ignore[misc]


def _largest(shown: list[Bounds]) -> int:
    """The most that one answer would leave: those whose ranges reach into one another stay together."""
    opened = sum(high is None for _, high in shown)
    ranges = sorted(_widened(low, high) for low, high in shown if low is not None)
    most, together, end = opened, 0, -1.0
    for low, high in ranges:
        together = together + 1 if low <= end else 1
        end = max(end, high) if low <= end else high
        most = max(most, together)
    return most


def _widened(low: float, high: float | None) -> tuple[float, float]:
    most = inf if high is None else high
    return low - max(OHM_TOLERANCE * low, LEAST_OHM), most + max(OHM_TOLERANCE * most, LEAST_OHM)
