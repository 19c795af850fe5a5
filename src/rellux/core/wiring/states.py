"""What is energised in which state: contacts settle until nothing changes, then every load is looked at.

Method of this version: a load is energised when its two terminals reach opposite poles of the supply through wires and
closed contacts (never through another load). Loads in series are therefore seen as off; currents are not computed.
"""

from collections.abc import Iterable
from dataclasses import dataclass

from .model import Closed, ConnectionList, Part, Path, Role

ROUNDS = 20
POLES = (Role.LIVE, Role.NEUTRAL, Role.DC_PLUS, Role.DC_MINUS)
RETURNS = ("N", "-")


@dataclass(frozen=True)
class Switching:
    """The state chosen from outside: the controller's output, and whether the limiter has tripped."""

    output_on: bool
    limit_tripped: bool


@dataclass(frozen=True)
class Energised:
    """Names of parts whose load is energised, every terminal at a live or at the return's potential, and by pole."""

    loads: frozenset[str]
    live: frozenset[str]
    neutral: frozenset[str]
    settled: bool
    reached: dict[str, frozenset[str]]


class Conduction:
    """The graph of wires and of the paths that conduct in a state; reach is by breadth-first search."""

    def __init__(self, wiring: ConnectionList) -> None:
        self.wiring = wiring
        self._wires = [(c.a, c.b) for c in wiring.connections]

    def reach(self, starts: Iterable[str], closed: Iterable[tuple[str, str]] = ()) -> frozenset[str]:
        """Every terminal joined to one of ``starts`` by wires and the given closed paths."""
        neighbours: dict[str, list[str]] = {}
        for a, b in (*self._wires, *closed):
            neighbours.setdefault(a, []).append(b)
            neighbours.setdefault(b, []).append(a)
        found = set(starts)
        waiting = list(found)
        while waiting:
            for following in neighbours.get(waiting.pop(), ()):
                if following not in found:
                    found.add(following)
                    waiting.append(following)
        return frozenset(found)

    def poles(self) -> dict[str, list[str]]:
        """Terminals of the supplies by pole: ``L``, ``L1``…, ``N``, ``+``, ``-``."""
        found: dict[str, list[str]] = {}
        for part in self.wiring.of_kind("supply"):
            for terminal in part.type.terminals:
                if terminal.role in POLES:
                    found.setdefault(terminal.name, []).append(f"{part.name}.{terminal.name}")
        return found

    def live_poles(self) -> list[str]:
        """Terminals of the supplies that are not neutral or minus."""
        return [t for name, terminals in self.poles().items() if name not in RETURNS for t in terminals]

    def reached(self, closed: Iterable[tuple[str, str]]) -> dict[str, frozenset[str]]:
        """Terminals at the potential of each pole."""
        closed = list(closed)
        return {name: self.reach(starts, closed) for name, starts in self.poles().items()}

    def solve(self, switching: Switching) -> Energised:
        """Settle the contacts in this state. ``settled`` is False where they keep changing (a buzzer)."""
        on: frozenset[str] = frozenset()
        for _ in range(ROUNDS):
            reached = self.reached(
                (f"{part.name}.{path.a}", f"{part.name}.{path.b}")
                for part in self.wiring.parts
                for path in part.type.paths
                if self._conducts(part, path, switching, on)
            )
            following = frozenset(part.name for part in self.wiring.parts if energised(part, reached))
            if following == on:
                return _energised(on, reached, True)
            on = following
        return _energised(on, reached, False)

    def _conducts(self, part: Part, path: Path, switching: Switching, on: frozenset[str]) -> bool:
        powered = part.name in on
        return {
            Closed.ALWAYS: True,
            Closed.LOAD: False,
            Closed.COIL: powered,
            Closed.NOT_COIL: not powered,
            Closed.OUTPUT: powered and switching.output_on,
            Closed.NOT_OUTPUT: not (powered and switching.output_on),
            Closed.LIMIT_OK: powered and not switching.limit_tripped,
            Closed.LIMIT_TRIPPED: not powered or switching.limit_tripped,
            Closed.DRIVEN: switching.output_on and self._driven(part, on),
            Closed.NOT_DRIVEN: not (switching.output_on and self._driven(part, on)),
        }[path.closed]

    def _driven(self, ssr: Part, on: frozenset[str]) -> bool:
        """Whether this SSR's control input is wired, the right way round, to a powered controller's SSR drive."""
        return any(c.name in on for c in self.drivers(ssr))

    def drivers(self, ssr: Part, reversed_: bool = False) -> list[Part]:
        """Controllers whose drive is wired to this part's control input, the right way round or ``reversed_``."""
        pair = ssr.type.paired(Role.DRIVE_PLUS, Role.DRIVE_MINUS)
        if pair is None:
            return []
        plus, minus = (self.reach([f"{ssr.name}.{t}"]) for t in (pair[::-1] if reversed_ else pair))
        found = []
        for controller in self.wiring.of_kind("controller_ssr"):
            drive = controller.type.paired(Role.DRIVE_PLUS, Role.DRIVE_MINUS)
            if drive and f"{controller.name}.{drive[0]}" in plus and f"{controller.name}.{drive[1]}" in minus:
                found.append(controller)
        return found


def energised(part: Part, reached: dict[str, frozenset[str]]) -> bool:
    """Whether a load of this part has its two ends at different poles."""
    return any(_loads(part, reached))


def wholly_energised(part: Part, reached: dict[str, frozenset[str]]) -> bool:
    """Whether every load of this part is, so that no phase is missing."""
    return all(_loads(part, reached))


def _loads(part: Part, reached: dict[str, frozenset[str]]) -> list[bool]:
    found = []
    for path in part.type.paths:
        if path.closed is Closed.LOAD:
            at_a, at_b = (
                {name for name, terminals in reached.items() if f"{part.name}.{t}" in terminals}
                for t in (path.a, path.b)
            )
            found.append(bool(at_a and at_b) and (at_a != at_b or len(at_a) > 1))
    return found


def _energised(on: frozenset[str], reached: dict[str, frozenset[str]], settled: bool) -> Energised:
    live = frozenset().union(*(t for name, t in reached.items() if name not in RETURNS))
    returns = frozenset().union(*(t for name, t in reached.items() if name in RETURNS))
    return Energised(on, live, returns, settled, reached)


STATES = (
    ("output off", Switching(False, False)),
    ("output on", Switching(True, False)),
    ("limit tripped, output off", Switching(False, True)),
    ("limit tripped, output on", Switching(True, True)),
)


def state_table(wiring: ConnectionList) -> list[tuple[str, Energised]]:
    """Each state that matters with what is energised in it; limiter states only where a limiter is fitted."""
    conduction = Conduction(wiring)
    has_limiter = bool(wiring.of_kind("limiter"))
    return [(name, conduction.solve(s)) for name, s in STATES if has_limiter or not s.limit_tripped]
