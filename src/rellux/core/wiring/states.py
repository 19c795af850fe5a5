"""What is energised in which state: contacts settle until nothing changes, then every load is looked at.

Method of this version: a load is energised when its two terminals reach opposite poles of the supply through wires and
closed contacts (never through another load). Loads in series are therefore seen as off; currents are not computed.
"""

from collections.abc import Iterable
from dataclasses import dataclass

from .model import Closed, ConnectionList, Part, Path, Role

ROUNDS = 20


@dataclass(frozen=True)
class Switching:
    """The state chosen from outside: the controller's output, and whether the limiter has tripped."""

    output_on: bool
    limit_tripped: bool


@dataclass(frozen=True)
class Energised:
    """Names of parts whose load is energised, and every terminal at the potential of each pole."""

    loads: frozenset[str]
    live: frozenset[str]
    neutral: frozenset[str]
    settled: bool


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

    def poles(self) -> tuple[list[str], list[str]]:
        """Terminals of the supplies: live (or plus) and neutral (or minus)."""
        live, neutral = [], []
        for part in self.wiring.of_kind("supply_1ph", "supply_dc"):
            for terminal in part.type.terminals:
                if terminal.role in (Role.LIVE, Role.DC_PLUS):
                    live.append(f"{part.name}.{terminal.name}")
                elif terminal.role in (Role.NEUTRAL, Role.DC_MINUS):
                    neutral.append(f"{part.name}.{terminal.name}")
        return live, neutral

    def solve(self, switching: Switching) -> Energised:
        """Settle the contacts in this state. ``settled`` is False where they keep changing (a buzzer)."""
        live_poles, neutral_poles = self.poles()
        on: frozenset[str] = frozenset()
        for _ in range(ROUNDS):
            closed = [
                (f"{part.name}.{path.a}", f"{part.name}.{path.b}")
                for part in self.wiring.parts
                for path in part.type.paths
                if self._conducts(part, path, switching, on)
            ]
            live, neutral = self.reach(live_poles, closed), self.reach(neutral_poles, closed)
            following = frozenset(
                part.name
                for part in self.wiring.parts
                for path in part.type.paths
                if path.closed is Closed.LOAD and _across(part, path, live, neutral)
            )
            if following == on:
                return Energised(on, live, neutral, True)
            on = following
        return Energised(on, live, neutral, False)

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
        }[path.closed]

    def _driven(self, ssr: Part, on: frozenset[str]) -> bool:
        """Whether this SSR's control input is wired, the right way round, to a powered controller's SSR drive."""
        pair = ssr.type.paired(Role.DRIVE_PLUS, Role.DRIVE_MINUS)
        if pair is None:
            return False
        plus = self.reach([f"{ssr.name}.{pair[0]}"])
        minus = self.reach([f"{ssr.name}.{pair[1]}"])
        return any(
            f"{c.name}.OUT+" in plus and f"{c.name}.OUT-" in minus and c.name in on
            for c in self.wiring.of_kind("controller_ssr")
        )


def _across(part: Part, path: Path, live: frozenset[str], neutral: frozenset[str]) -> bool:
    a, b = f"{part.name}.{path.a}", f"{part.name}.{path.b}"
    return (a in live and b in neutral) or (b in live and a in neutral)


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
