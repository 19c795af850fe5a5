"""A connection list under examination: the context of its rig, and the helpers every rule uses."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property

from ...findings import Proposal
from ...heating.conductor_tables import Practice
from ...purpose.heater import most_fault_a
from ...purpose.purpose import Purpose
from ..circuit.branches import is_coil
from ..circuit.idle import IdleGuard, commanded, idle_guards
from ..circuit.judge import HOT
from ..circuit.solution import SOUND, Fault, Solution
from ..circuit.solve import CircuitSolver
from ..circuit.standings import ALARM_ON, Reached, Standings, standings
from ..driven import Driven
from ..generate import loaded_cores
from ..graph import Conduction
from ..model import Closed, Connection, ConnectionList, Part
from ..names import Family, TerminalName, split
from ..switching import OFF, ON, TRIPPED, Switching

RAILS: tuple[Family, ...] = ("terminal_block", "earth_bar", "slip_ring")
"""Parts that carry at their terminals what their wires carry."""


@dataclass(frozen=True)
class Context:
    """What the rules need to know beyond the list: supply in V, practice, configured input, voltage of control circuits in V
    (None: the supply's own), loaded cores, working temperature in °C, and A that the supply brings in a fault at the most (None: as its
    part says)."""

    supply_voltage_v: float
    practice: Practice
    input_type: str
    control_voltage_v: float | None = None
    cores: int = 2
    working_c: float = 20.0
    fault_a: float | None = None

    @property
    def control_v(self) -> float:
        """Volts that parts of control circuits without a rating are taken for."""
        return self.control_voltage_v or self.supply_voltage_v


def context_for(purpose: Purpose, practice: Practice, input_type: str) -> Context:
    """The context of a rig with this purpose, whose controller's input is set for ``input_type``."""
    return Context(
        purpose.supply_voltage_v,
        practice,
        input_type,
        purpose.control_voltage_v,
        loaded_cores(purpose),
        purpose.working_c,
        most_fault_a(purpose),
    )


@dataclass(frozen=True)
class Case:
    """A connection list under examination, with the helpers every rule uses."""

    wiring: ConnectionList
    context: Context
    circuit: CircuitSolver

    @property
    def driven(self) -> Driven:
        """How what it drives is spoken of."""
        return self.wiring.driven

    @cached_property
    def conduction(self) -> Conduction:
        return Conduction(self.wiring)

    @cached_property
    def _solved(self) -> dict[tuple[Switching, Fault], Solution]:
        return {}

    def solved(self, switching: Switching, fault: Fault = SOUND) -> Solution:
        """The position solved, once, started where there is a start button."""
        key = switching, fault
        if key not in self._solved:
            self._solved[key] = self.circuit.solve(switching, fault, self.circuit.begun(switching))
        return self._solved[key]

    @cached_property
    def standings(self) -> Standings:
        """How switches, selectors and the alarm may stand."""
        return standings(self.wiring)

    @cached_property
    def reached(self) -> Reached:
        return Reached(self.circuit, self.standings)

    @cached_property
    def everywhere(self) -> tuple[tuple[str, Solution], ...]:
        """Every lasting standing solved with the output off and on, with the words of the standing; with the alarm on too where it only
        tells somebody, which is no standing of its own."""
        lasting = [s for s in self.standings.all if not s.momentary]
        found = [(s.words, self.solved(s.of(position))) for s in lasting for position in (ON, OFF)]
        if self._alarm_only_tells:
            found += [(ALARM_ON, self.solved(replace(position, alarm_on=True))) for position in (ON, OFF)]
        return tuple(found)

    @cached_property
    def _alarm_only_tells(self) -> bool:
        contacts = (way for p in self.wiring.parts for way in p.ways(Closed.ALARM, Closed.NOT_ALARM))
        return not any(s.alarm_on for s in self.standings.all) and any(self.wiring.wired >= {*way} for way in contacts)

    @cached_property
    def off(self) -> tuple[tuple[str, Solution], ...]:
        """Every lasting standing solved with the output off."""
        return tuple((s.words, self.solved(s.of(OFF))) for s in self.standings.all if not s.momentary)

    @cached_property
    def commanded(self) -> tuple[str, ...]:
        """Parts that follow the controller's output."""
        return commanded(self.circuit)

    @cached_property
    def idle_guards(self) -> tuple[IdleGuard, ...]:
        return idle_guards(self.circuit, self.reached, self.standings)

    def moved(self, switching: Switching, *parts: str) -> Switching:
        """A position with these parts in their other position as well."""
        return replace(switching, operated=switching.operated | frozenset(parts))

    def let_past(self, position: Switching, heater: Part) -> tuple[str, str] | None:
        """What lets a heater heat on in a position that should stop it, and how the rig then stands: no part where nothing needs
        to stick; None where it stops in every standing, and with the output off whichever commanded part sticks."""
        least = HOT * heater.number("power_w", 1000.0)
        for standing in (s for s in self.standings.all if not s.momentary):
            start = self.reached.running(standing)
            off = replace(position, output_on=False)
            stuck = ((name, off, Fault(closed=frozenset({name}))) for name in self.commanded)
            for name, there, fault in (("", position, SOUND), *stuck):
                if self.circuit.heat(standing.of(there), fault, start).watts[heater.name] > least:
                    return name, standing.words
        return None

    def dropped_by_limiter(self) -> frozenset[str]:
        """Coils that a tripping limiter lets go, whatever the controller's output does."""
        on, left = self.circuit.running(ON), self.circuit.settled(TRIPPED, self.circuit.running(ON))
        return frozenset(p.name for p in self.wiring.parts if is_coil(p) and p.name in on - left)

    def most_volts(self, load: str) -> float:
        """The highest voltage across a load, V, wherever it is on."""
        found = [s for _, s in (*self.everywhere, *self._untripped) if load in s.loads]
        return max((s.loads[load].volts for s in found), default=0.0)

    @cached_property
    def _untripped(self) -> tuple[tuple[str, Solution], ...]:
        """Standings with the output on in which something opens, as they are before it does."""
        lasting = [s for s in self.standings.all if not s.momentary and self.solved(s.of(ON)).tripped]
        return tuple((s.words, self.circuit.solve(s.of(ON), trips=False)) for s in lasting)

    def most_amps(self, part: Part) -> float:
        """The highest current through a contact, semiconductor or terminal of a part, A; of what trips, what tripped it."""
        ends = set(part.ends)
        wires = [w.name for w in self.wiring.connections if {w.a, w.b} & ends] if part.type.family in RAILS else []
        most = 0.0
        for _, s in self.everywhere:
            found = [s.contacts[part.name].amps] if part.name in s.contacts else []
            found += [s.wires[w].amps for w in wires if w in s.wires]
            most = max([most, s.tripped.get(part.name, 0.0), *found])
        return most

    def share(self, heater: Part, switching: Switching) -> float:
        """How much of its power a heater gives in a position, as a share of what it would on the whole supply."""
        return self.gives(heater, self.solved(switching)) / (self.context.supply_voltage_v / self._rated(heater)) ** 2

    def gives(self, heater: Part, solved: Solution) -> float:
        """How much of its own rated power a heater gives."""
        found = solved.loads.get(heater.name)
        return found.watts / heater.number("power_w", 1000.0) if found else 0.0

    def _rated(self, heater: Part) -> float:
        return heater.number("voltage_v", self.context.supply_voltage_v)

    def joined(self, terminal: TerminalName) -> frozenset[TerminalName]:
        """Every terminal wires and terminal blocks join to this one."""
        return self.conduction.reach([terminal])

    def parts_at(self, terminal: TerminalName) -> set[str]:
        """Names of the parts wires and terminal blocks join to this terminal."""
        return {split(t)[0] for t in self.joined(terminal)}

    def heaters(self) -> list[Part]:
        return self.wiring.of_kind("heater")

    def reach_live(self, *excluded: Callable[[Part, Closed, bool], bool]) -> frozenset[TerminalName]:
        """Terminals reachable from the live poles with every contact closed, except the excluded paths."""
        return self.conduction.reach(self.conduction.live_poles(), self.contacts(*excluded))

    def contacts(self, *excluded: Callable[[Part, Closed, bool], bool]) -> list[tuple[TerminalName, TerminalName]]:
        """Both ends of every contact, except the excluded paths."""
        return [
            p.across(path)
            for p in self.wiring.parts
            for path in p.type.paths
            if path.closed is not Closed.LOAD and not any(e(p, path.closed, path.breaks) for e in excluded)
        ]

    def touches(self, part: Part, terminals: frozenset[TerminalName]) -> bool:
        return not terminals.isdisjoint(part.ends)

    def wires_at(self, *terminals: TerminalName) -> list[Connection]:
        return [c for c in self.wiring.connections if c.a in terminals or c.b in terminals]


def swap(case: Case, first: TerminalName, second: TerminalName) -> Proposal | None:
    """Proposal to exchange the wires at two terminals, where each has exactly one."""
    a, b = case.wires_at(first), case.wires_at(second)
    if len(a) != 1 or len(b) != 1 or a[0].number == b[0].number:
        return None
    return Proposal("wiring.swap", f"{first}>{second}", label=f"Swap wires {a[0].number} and {b[0].number}")
