"""How everything may stand while it is asked what heats: switches, selectors, buttons, the alarm; and what the circuit may
remember when it comes there.

A circuit without resting contacts is monotone: opening something never closes something else. There it is enough to look at
switches, selectors and buttons; with resting contacts every guard and breaker is tried in its other position as well.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import combinations, product

from ..graph import FEEDS, Conduction
from ..model import CONTACTS, SIGNALS, Closed, ConnectionList, Part, Role
from ..names import TerminalName, split
from ..switching import ON, Switching
from .failures import GUARDS, PRESSED, TURNED
from .positions import operable, pin_calls, uses_alarm, verb
from .solve import NOBODY, CircuitSolver

MOST_TURNED = 5
"""So many switches and selectors are tried in every combination; of more, two at a time (our choice, because every further one
doubles the time)."""
MOST_EVENTS = 1500
"""So many events are followed in a circuit that remembers (our choice, about a second)."""
INVERSE = (Closed.NOT_COIL, Closed.NOT_OUTPUT, Closed.NOT_DRIVEN, Closed.NOT_ALARM, Closed.LIMIT_TRIPPED)
"""Paths that close when something lets go."""


@dataclass(frozen=True)
class Standing:
    """Parts in their other position, and the alarm; ``words`` say how, empty for everything as it is in normal work.
    ``momentary``: it lasts only while somebody presses."""

    operated: frozenset[str]
    alarm_on: bool
    words: str
    momentary: bool = False

    def of(self, switching: Switching) -> Switching:
        """A position of output and limiter in this standing."""
        return replace(switching, operated=self.operated | switching.operated, alarm_on=self.alarm_on)


@dataclass(frozen=True)
class Standings:
    """All that are looked at. ``left_out``: what was not tried, in words, empty where everything was."""

    all: tuple[Standing, ...]
    left_out: str


def standings(wiring: ConnectionList) -> Standings:
    """Every combination of switches and selectors, with and without the alarm, and each button pressed."""
    turned = [p for p in _wired_through(wiring) if p.type.kind in TURNED]
    most = len(turned) if len(turned) <= MOST_TURNED else 2
    ways = [frozenset(p.name for p in way) for k in range(most + 1) for way in combinations(turned, k)]
    single = [p for p in _wired_through(wiring) if p.type.kind in PRESSED or (inverse(wiring) and p not in turned)]
    pressed = frozenset(p.name for p in single if p.type.kind == "pushbutton")
    moved = [NOBODY, *(frozenset({p.name}) for p in single)]
    called = _moves(wiring, (Closed.ALARM, Closed.NOT_ALARM)) or pin_calls(wiring)
    alarms = (False, True) if called else (False,)
    found = [
        Standing(way | one, alarm, _words(wiring, way | one, alarm), bool(one & pressed))
        for way, one, alarm in product(ways, moved, alarms)
    ]
    left_out = (
        f"of {len(turned)} switches and selectors no more than two are turned at once" if most < len(turned) else ""
    )
    return Standings(tuple(found), left_out)


def _wired_through(wiring: ConnectionList) -> list[Part]:
    """Operable parts with wires at both ends of a contact."""
    return [p for p in operable(wiring) if any(wiring.wired >= {*p.across(x)} for x in p.type.paths)]


def inverse(wiring: ConnectionList) -> bool:
    """Whether something that heats, or moves what heats, closes when something else lets go."""
    return bool(wiring.of_kind("relay_module_low")) or _moves(wiring, INVERSE)


def _moves(wiring: ConnectionList, sorts: tuple[Closed, ...]) -> bool:
    """Whether a contact of one of these sorts is wired at both ends and feeds more than lamps and the like."""
    found = (way for p in wiring.parts for way in p.ways(*sorts))
    return any({a, b} <= wiring.wired and not _only_tells(wiring, a, b) for a, b in found)


ALARM_ON = "the alarm on"

TELLS = (*SIGNALS, "fan", "logger", "panel_meter", "snubber")
"""Loads that neither heat nor move contacts."""


def _only_tells(wiring: ConnectionList, a: TerminalName, b: TerminalName) -> bool:
    """Whether one side of a contact feeds nothing but lamps and the like."""
    conduction = Conduction(wiring)
    closed = [ends for p in wiring.parts for ends in p.ways(*CONTACTS) if ends != (a, b)]
    sources = {end for p in wiring.of_kind(*FEEDS) for end in p.ends}
    for side in (a, b):
        fed = conduction.reach([side], closed)
        if not fed & sources:
            names = {split(t)[0] for t in fed}
            return all(_tells(wiring.part(name), fed) for name in names)
    return False


def _tells(part: Part, fed: frozenset[TerminalName]) -> bool:
    """Whether a part takes nothing from these terminals that could heat, move a contact or run an instrument."""
    if part.type.kind in TELLS:
        return True
    ends = {end for way in part.ways(Closed.LOAD) for end in way}
    return not (ends | {*part.acting_as(Role.DRIVE_PLUS, Role.DRIVE_MINUS)}) & fed


def _words(wiring: ConnectionList, operated: frozenset[str], alarm: bool) -> str:
    said = [f"{name} {verb(wiring.part(name))}" for name in sorted(operated)]
    return " and ".join([*said, *([ALARM_ON] if alarm else [])])


class Reached:
    """What may be on in a sound circuit when it is brought into a position, however it was before. ``complete``: whether
    every way there was followed; ``inverse``: whether less being on may mean more heat."""

    def __init__(self, circuit: CircuitSolver, every: Standings) -> None:
        self._circuit = circuit
        self.inverse = inverse(circuit.wiring)
        self._running = {s: circuit.moving(circuit.running(s.of(ON))) for s in every.all}
        everything = frozenset(p.name for p in circuit.wiring.parts)
        self._remembers = any(circuit.settled(s.of(ON)) != circuit.settled(s.of(ON), everything) for s in every.all)
        self.complete = True
        self._followed = self._follow() if self._remembers and self.inverse else {}
        self._known: dict[Switching, tuple[frozenset[str], ...]] = {}

    def running(self, standing: Standing) -> frozenset[str]:
        """What is on while it heats, once every start button has been pressed."""
        return self._running[standing]

    def starts(self, standing: Standing, switching: Switching) -> tuple[frozenset[str], ...]:
        """What may be on when a position of this standing begins: what was running in it, or in another standing where the
        circuit remembers; and where less may mean more, nothing, and everything else that is reached there."""
        if switching not in self._known:
            found = [self._running[standing]]
            if self._remembers:
                found += self._running.values()
            if self.inverse:
                found += [NOBODY, self._circuit.settled(switching), *self._followed.get(switching, ())]
                found = [self._circuit.moving(on) for on in found]
            self._known[switching] = tuple(dict.fromkeys(found))
        return self._known[switching]

    def _follow(self) -> dict[Switching, set[frozenset[str]]]:
        """Every state reached from power-off by one event after another."""
        found: dict[Switching, set[frozenset[str]]] = {}
        begin = replace(ON, output_on=False, operated=frozenset())
        waiting = [(begin, self._circuit.settled(begin))]
        count = 0
        while waiting:
            switching, on = waiting.pop()
            if on in found.setdefault(switching, set()):
                continue
            found[switching].add(on)
            for after in self._events(switching):
                count += 1
                waiting.append((after, self._circuit.settled(after, on)))
            if count > MOST_EVENTS:
                self.complete = False
                return found
        return found

    def _events(self, switching: Switching) -> Iterator[Switching]:
        yield replace(switching, output_on=not switching.output_on)
        if self._circuit.wiring.of_kind("limiter"):
            yield replace(switching, limit_tripped=not switching.limit_tripped)
        if uses_alarm(self._circuit.wiring):
            yield replace(switching, alarm_on=not switching.alarm_on)
        for part in _wired_through(self._circuit.wiring):
            if part.type.kind in (*GUARDS, *PRESSED, *TURNED):  # a breaker off and on is the supply off and on
                yield replace(switching, operated=switching.operated ^ {part.name})
