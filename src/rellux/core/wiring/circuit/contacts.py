"""Which paths conduct: what coils, outputs, limiters, alarms and hands have moved, and what a fault keeps open or closed."""

import numpy as np
from numpy.typing import NDArray

from ..model import Closed, ConnectionList
from ..switching import Switching
from .branches import Branch, Source, part_sources
from .network import NONE, Network
from .solution import Fault

UNMOVED = (Closed.ALWAYS, Closed.LOAD)
FOLLOWS = (
    *(Closed.COIL, Closed.NOT_COIL, Closed.OUTPUT, Closed.NOT_OUTPUT),
    *(Closed.ALARM, Closed.NOT_ALARM, Closed.LIMIT_OK, Closed.LIMIT_TRIPPED),
)
"""Paths that move with the coil or the supply of their own part."""
MAKES_SO = (Closed.COIL, Closed.OUTPUT, Closed.ALARM, Closed.LIMIT_OK, Closed.DRIVEN, Closed.NOT_HAND)
"""Paths that conduct when what commands them stands; the others conduct when it does not."""
MAKES = (Closed.COIL, Closed.OUTPUT, Closed.DRIVEN, Closed.LIMIT_OK, Closed.HAND)
"""Paths that a welded or shorted part keeps closed; its opening contacts are not among them."""
Moved = tuple[NDArray[np.bool_], tuple[bool, ...]]
"""Which branches conduct, and which sources give."""


class Contacts:
    """The moving parts of a network. ``deciding``: names of what moves something when it comes on or goes off;
    ``changeover``: coils whose contacts leave one side before they reach the other."""

    def __init__(self, wiring: ConnectionList, net: Network) -> None:
        branches, self._net = net.branches, net
        self._supplies = frozenset(s.name for p in wiring.of_kind("supply") for s in part_sources(p))
        self._switched = np.array([i for i, b in enumerate(branches) if b.closed not in UNMOVED], dtype=int)
        self._powers = [_powered_by(branches[i]) for i in self._switched]
        self._makes_so = np.array([branches[i].closed in MAKES_SO for i in self._switched], dtype=bool)
        self._commands: dict[tuple[Switching, frozenset[str]], NDArray[np.bool_]] = {}
        self._known: dict[tuple[Switching, frozenset[str], frozenset[str], frozenset[str]], Moved] = {}
        self._making = _named(net, MAKES)
        self._coiled = _named(net, (Closed.COIL, Closed.NOT_COIL))
        driven = {f"{b.name} input" for b in branches if b.closed in (Closed.DRIVEN, Closed.NOT_DRIVEN)}
        follow = {b.name for b in branches if b.closed in FOLLOWS}
        self.deciding = frozenset(follow | driven | {s.by for s in net.sources})
        self.changeover = frozenset(b.name for b in branches if b.closed is Closed.NOT_COIL)

    def making(self, name: str) -> NDArray[np.int_]:
        """Branches that this part keeps closed when it welds or is shorted."""
        return self._making.get(name, NONE)

    def conducting(
        self, switching: Switching, on: frozenset[str], moving: frozenset[str], fault: Fault, tripped: frozenset[str]
    ) -> Moved:
        """What conducts with these parts on, these changeovers on neither side, this fault and these devices opened."""
        following, live = self._follow(switching, on, moving, fault.calling)
        mask = following.copy()
        for name in fault.closed:
            mask[self.making(name)] = True
        for name in (*fault.opened, *tripped):
            mask[self._net.named(name)] = False
        for name, _, _ in fault.tapped:
            mask[self._net.named(name)[:1]] = False
        if fault.gone:
            live = tuple(gives and s.name not in fault.gone for s, gives in zip(self._net.sources, live, strict=True))
        return mask, live

    def _follow(
        self, switching: Switching, on: frozenset[str], moving: frozenset[str], calling: frozenset[str]
    ) -> Moved:
        """What conducts where every contact follows what moves it."""
        key = (switching, on, moving, calling)
        if key not in self._known:
            commands = (switching, calling)
            if commands not in self._commands:
                found = [_commanded(self._net.branches[i], switching, calling) for i in self._switched]
                self._commands[commands] = np.array(found, dtype=bool)
            powered = np.array([not name or name in on for name in self._powers], dtype=bool)
            mask = np.ones(len(self._net.branches), dtype=bool)
            mask[self._switched] = (powered & self._commands[commands]) == self._makes_so
            for name in moving:
                mask[self._coiled[name]] = False
            self._known[key] = mask, tuple(self._gives(s, switching, on, calling) for s in self._net.sources)
        return self._known[key]

    def _gives(self, source: Source, switching: Switching, on: frozenset[str], calling: frozenset[str]) -> bool:
        if not source.by:
            return switching.power or source.name not in self._supplies
        calls = switching.output_on or source.by in calling
        return source.by in on and (calls or not source.name.endswith(" drive"))


def _named(net: Network, sorts: tuple[Closed, ...]) -> dict[str, NDArray[np.int_]]:
    """Branches of these sorts by name."""
    found: dict[str, list[int]] = {}
    for i, branch in enumerate(net.branches):
        if branch.closed in sorts:
            found.setdefault(branch.name, []).append(i)
    return {name: np.array(places, dtype=int) for name, places in found.items()}


def _powered_by(branch: Branch) -> str:
    """The load that must be on for a path to be commanded: nothing for one that a hand moves."""
    if branch.closed in (Closed.HAND, Closed.NOT_HAND):
        return ""
    return f"{branch.name} input" if branch.closed in (Closed.DRIVEN, Closed.NOT_DRIVEN) else branch.name


def _commanded(branch: Branch, switching: Switching, calling: frozenset[str]) -> bool:
    """Whether the output, alarm, limiter or hand behind a path says so; a coil or control input needs only its power."""
    if branch.closed in (Closed.OUTPUT, Closed.NOT_OUTPUT):
        return switching.output_on or branch.name in calling
    if branch.closed in (Closed.ALARM, Closed.NOT_ALARM):
        return switching.alarm_on
    if branch.closed in (Closed.LIMIT_OK, Closed.LIMIT_TRIPPED):
        return not switching.limit_tripped
    if branch.closed in (Closed.HAND, Closed.NOT_HAND):
        return branch.name in switching.operated
    return True
