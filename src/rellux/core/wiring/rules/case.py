"""A connection list under examination: the context of its rig, and the helpers every rule uses."""

from collections.abc import Callable
from dataclasses import dataclass

from ...findings import Proposal
from ...heating.protection_data import Practice
from ...purpose.heater import heater_current
from ...purpose.purpose import Purpose
from ..generate import loaded_cores
from ..model import Closed, Connection, ConnectionList, Part
from ..states import Conduction


@dataclass(frozen=True)
class Context:
    """What the rules need to know beyond the list: supply in V, heater current in A, practice, configured input, voltage
    of control circuits in V (None: the supply's own) and loaded cores."""

    supply_voltage_v: float
    heater_current_a: float
    practice: Practice
    input_type: str
    control_voltage_v: float | None = None
    cores: int = 2


def context_for(purpose: Purpose, practice: Practice, input_type: str) -> Context:
    """The context of a rig with this purpose, whose controller's input is set for ``input_type``."""
    return Context(
        purpose.supply_voltage_v,
        heater_current(purpose).value,
        practice,
        input_type,
        purpose.control_voltage_v,
        loaded_cores(purpose),
    )


@dataclass(frozen=True)
class Case:
    """A connection list under examination, with the helpers every rule uses."""

    wiring: ConnectionList
    context: Context
    conduction: Conduction

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
