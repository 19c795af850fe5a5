"""A connection list under examination: the context of its rig, and the helpers every rule uses."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

from ...findings import Proposal
from ...heating.protection_data import Practice
from ...purpose.purpose import Purpose
from ..circuit.branches import is_coil
from ..circuit.solution import Fault, Solution
from ..circuit.solve import Circuit as Solver
from ..generate import loaded_cores
from ..graph import Conduction
from ..model import Closed, Connection, ConnectionList, Part, split
from ..switching import OFF, ON, TRIPPED, Switching


@dataclass(frozen=True)
class Context:
    """What the rules need to know beyond the list: supply in V, practice, configured input, voltage of control circuits in V
    (None: the supply's own), loaded cores, and working temperature in °C."""

    supply_voltage_v: float
    practice: Practice
    input_type: str
    control_voltage_v: float | None = None
    cores: int = 2
    working_c: float = 20.0

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
    )


@dataclass(frozen=True)
class Case:
    """A connection list under examination, with the helpers every rule uses."""

    wiring: ConnectionList
    context: Context
    circuit: Solver

    @cached_property
    def conduction(self) -> Conduction:
        return Conduction(self.wiring)

    @cached_property
    def _solved(self) -> dict[Switching, Solution]:
        return {}

    def solved(self, switching: Switching) -> Solution:
        """The position solved, once, started where there is a start button."""
        if switching not in self._solved:
            self._solved[switching] = self.circuit.solve(switching, start=self.circuit.begun(switching))
        return self._solved[switching]

    def commanded(self) -> frozenset[str]:
        """Parts that follow the controller's output: its own relay, SSRs, and coils that drop when the output goes off."""
        follow = self.solved(ON).on - self.solved(OFF).on
        own = self.wiring.of_kind("ssr", "controller_relay", "relay_module", "relay_module_low")
        return frozenset(p.name for p in (*own, *(p for p in self.wiring.parts if is_coil(p) and p.name in follow)))

    @cached_property
    def tripped_with_welded_actuator(self) -> Solution:
        """The worst case a limiter is there for: it has tripped, and what the controller commands sticks closed."""
        fault = Fault(closed=self.commanded())
        return self.circuit.solve(TRIPPED, fault, self.circuit.begun(TRIPPED))

    def dropped_by_limiter(self) -> frozenset[str]:
        """Coils that a tripping limiter lets go."""
        on, left = self.solved(ON).on, self.tripped_with_welded_actuator.on
        return frozenset(p.name for p in self.wiring.parts if is_coil(p) and p.name in on - left)

    def share(self, heater: Part, switching: Switching) -> float:
        """How much of its power a heater gives in a position, as a share of what it would on its whole voltage."""
        rated = heater.number("voltage_v", self.context.supply_voltage_v)
        full = heater.number("power_w", 1000.0) * (self.context.supply_voltage_v / rated) ** 2
        found = self.solved(switching).loads.get(heater.name)
        return found.watts / full if found else 0.0

    def amps(self, part: Part) -> float:
        """Current in A through a contact, breaker or SSR with the output on; of a breaker that trips, what tripped it."""
        on = self.solved(ON)
        through = on.contacts.get(part.name)
        return on.tripped.get(part.name, through.amps if through else 0.0)

    def joined(self, terminal: str) -> frozenset[str]:
        """Every terminal wires and terminal blocks join to this one."""
        return self.conduction.reach([terminal])

    def parts_at(self, terminal: str) -> set[str]:
        """Names of the parts wires and terminal blocks join to this terminal."""
        return {split(t)[0] for t in self.joined(terminal)}

    def heaters(self) -> list[Part]:
        return self.wiring.of_kind("heater")

    def reach_live(self, *excluded: Callable[[Part, Closed, bool], bool]) -> frozenset[str]:
        """Terminals reachable from the live poles with every contact closed, except the excluded paths."""
        closed = [
            (f"{p.name}.{path.a}", f"{p.name}.{path.b}")
            for p in self.wiring.parts
            for path in p.type.paths
            if path.closed is not Closed.LOAD and not any(e(p, path.closed, path.breaks) for e in excluded)
        ]
        return self.conduction.reach(self.conduction.live_poles(), closed)

    def touches(self, part: Part, terminals: frozenset[str]) -> bool:
        return any(f"{part.name}.{t.name}" in terminals for t in part.type.terminals)

    def wires_at(self, *terminals: str) -> list[Connection]:
        return [c for c in self.wiring.connections if c.a in terminals or c.b in terminals]


def swap(case: Case, first: str, second: str) -> Proposal | None:
    """Proposal to exchange the wires at two terminals, where each has exactly one."""
    a, b = case.wires_at(first), case.wires_at(second)
    if len(a) != 1 or len(b) != 1 or a[0].number == b[0].number:
        return None
    return Proposal("wiring.swap", f"{first}>{second}", f"Swap wires {a[0].number} and {b[0].number}")
