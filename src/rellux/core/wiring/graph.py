"""What is joined to what by wires, terminal blocks and closed paths, by breadth-first search: no currents, no states."""

from collections.abc import Iterable

from .model import Closed, ConnectionList, Part, Role
from .names import TerminalName

POLES = (Role.LIVE, Role.NEUTRAL, Role.DC_PLUS, Role.DC_MINUS)
RETURNS = ("N", "-")
JOINTS = ("terminal_block", "earth_bar", "slip_ring")
"""Parts that only carry wires on."""
FEEDS = ("supply", "power_module", "regulator")
"""Parts that hold their terminals at a voltage."""


class Conduction:
    """The graph of wires and of what carries them on, and of whatever paths a question adds to them."""

    def __init__(self, wiring: ConnectionList) -> None:
        self.wiring = wiring
        self._near: dict[TerminalName, list[TerminalName]] = {}
        joints = (way for p in wiring.of_kind(*JOINTS) for way in p.ways(Closed.ALWAYS))
        for a, b in (*((c.a, c.b) for c in wiring.connections), *joints):
            self._near.setdefault(a, []).append(b)
            self._near.setdefault(b, []).append(a)

    def reach(
        self, starts: Iterable[TerminalName], closed: Iterable[tuple[TerminalName, TerminalName]] = ()
    ) -> frozenset[TerminalName]:
        """Every terminal joined to one of ``starts`` by wires, terminal blocks and the given closed paths."""
        across: dict[TerminalName, list[TerminalName]] = {}
        for a, b in closed:
            across.setdefault(a, []).append(b)
            across.setdefault(b, []).append(a)
        found = set(starts)
        waiting = list(found)
        while waiting:
            terminal = waiting.pop()
            for following in (*self._near.get(terminal, ()), *across.get(terminal, ())):
                if following not in found:
                    found.add(following)
                    waiting.append(following)
        return frozenset(found)

    def poles(self) -> dict[str, list[TerminalName]]:
        """Terminals of the supplies by pole: ``L``, ``L1``…, ``N``, ``+``, ``-``."""
        found: dict[str, list[TerminalName]] = {}
        for part in self.wiring.of_kind("supply"):
            for terminal in part.type.terminals:
                if terminal.role in POLES:
                    found.setdefault(terminal.name, []).append(part.at(terminal.name))
        return found

    def live_poles(self) -> list[TerminalName]:
        """Terminals of the supplies that are not neutral or minus."""
        return [t for name, terminals in self.poles().items() if name not in RETURNS for t in terminals]

    def drivers(self, ssr: Part, reversed_: bool = False) -> list[Part]:
        """Controllers whose drive is wired to this part's control input, the right way round or ``reversed_``."""
        pair = ssr.type.paired(Role.DRIVE_PLUS, Role.DRIVE_MINUS)
        if pair is None:
            return []
        plus, minus = (self.reach([ssr.at(t)]) for t in (pair[::-1] if reversed_ else pair))
        found = []
        for controller in self.wiring.of_kind("controller_ssr"):
            drive = controller.drive()
            if drive and controller.at(drive[0]) in plus and controller.at(drive[1]) in minus:
                found.append(controller)
        return found
