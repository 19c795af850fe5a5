"""Which paths conduct: what coils, outputs, limiters, alarms and hands have moved, and what a fault keeps open or closed."""

import numpy as np
from numpy.typing import NDArray

from ..model import Closed, ConnectionList
from ..names import input_of
from ..switching import Switching
from .branches import ACTIVE_LOW, Branch, Gives, Source, part_sources
from .network import NONE, NodalNetwork
from .solution import Fault

UNMOVED = (Closed.ALWAYS, Closed.LOAD)
MODULES = ("relay_module", "relay_module_low")
"""Relays on a board, which need its supply beside their input."""
MAKES_SO = (Closed.COIL, Closed.OUTPUT, Closed.ALARM, Closed.LIMIT_OK, Closed.DRIVEN, Closed.NOT_HAND)
"""Paths that conduct when what commands them stands; the others conduct when it does not."""
MAKES = (Closed.COIL, Closed.OUTPUT, Closed.DRIVEN, Closed.LIMIT_OK, Closed.HAND)
"""Paths that a welded or shorted part keeps closed."""
RESTS = (Closed.NOT_COIL, Closed.NOT_OUTPUT, Closed.NOT_DRIVEN, Closed.LIMIT_TRIPPED)
"""The other sides of those, which then never close: a changeover is on one side only."""
Asked = tuple[object, ...]
"""A switching, and what a fault makes controllers and limiters ask for beside it."""
Moved = tuple[NDArray[np.bool_], tuple[bool, ...]]
"""Which branches conduct, and which sources give."""


class Contacts:
    """The moving parts of a network. ``deciding``: names of what moves something when it comes on or goes off;
    ``changeover``: coils whose contacts leave one side before they reach the other."""

    def __init__(self, wiring: ConnectionList, net: NodalNetwork) -> None:
        branches, self._net = net.branches, net
        self._supplies = frozenset(s.name for p in wiring.of_kind("supply") for s in part_sources(p))
        self._switched = np.array([i for i, b in enumerate(branches) if b.closed not in UNMOVED], dtype=int)
        low = frozenset(p.name for p in wiring.parts if p.type.kind in ACTIVE_LOW)
        boards = frozenset(p.name for p in wiring.of_kind(*MODULES))
        self._needs = [_needs(branches[i], low, boards) for i in self._switched]
        self._makes_so = np.array([branches[i].closed in MAKES_SO for i in self._switched], dtype=bool)
        self._commands: dict[Asked, NDArray[np.bool_]] = {}
        self._known: dict[tuple[Asked, frozenset[str], frozenset[str]], Moved] = {}
        self._making, self._resting = _named(net, MAKES), _named(net, RESTS)
        self._coiled = _named(net, (Closed.COIL, Closed.NOT_COIL))
        needed = {name for on, off in self._needs for name in (*on, *off)}
        self.deciding = frozenset(needed | {s.by for s in net.sources})
        self.changeover = frozenset(b.name for b in branches if b.closed is Closed.NOT_COIL)

    def making(self, name: str) -> NDArray[np.int_]:
        """Branches that this part keeps closed when it welds or is shorted."""
        return self._making.get(name, NONE)

    def resting(self, name: str) -> NDArray[np.int_]:
        """Branches that then never close."""
        return self._resting.get(name, NONE)

    def conducting(
        self, switching: Switching, on: frozenset[str], moving: frozenset[str], fault: Fault, tripped: frozenset[str]
    ) -> Moved:
        """What conducts with these parts on, these changeovers on neither side, this fault and these devices opened."""
        following, live = self._follow(switching, on, moving, fault)
        mask = following.copy()
        for name in fault.closed:
            mask[self.making(name)] = True
            mask[self.resting(name)] = False
        for name in (*fault.opened, *tripped):
            mask[self._net.named(name)] = False
        for name, _, _ in fault.tapped:
            mask[self._net.named(name)[:1]] = False
        if fault.gone:
            live = tuple(gives and s.name not in fault.gone for s, gives in zip(self._net.sources, live, strict=True))
        return mask, live

    def _follow(self, switching: Switching, on: frozenset[str], moving: frozenset[str], fault: Fault) -> Moved:
        """What conducts where every contact follows what moves it."""
        asked = (switching, *((fault.calling, fault.quiet, fault.blind, fault.tripped) if fault.commands else ()))
        key = (asked, on, moving)
        if key not in self._known:
            if asked not in self._commands:
                found = [_commanded(self._net.branches[i], switching, fault) for i in self._switched]
                self._commands[asked] = np.array(found, dtype=bool)
            powered = np.array([on.issuperset(need) and on.isdisjoint(off) for need, off in self._needs], dtype=bool)
            mask = np.ones(len(self._net.branches), dtype=bool)
            mask[self._switched] = (powered & self._commands[asked]) == self._makes_so
            for name in moving:
                mask[self._coiled[name]] = False
            self._known[key] = mask, tuple(self._gives(s, switching, on, fault) for s in self._net.sources)
        return self._known[key]

    def _gives(self, source: Source, switching: Switching, on: frozenset[str], fault: Fault) -> bool:
        if not source.by:
            return switching.power or source.name not in self._supplies
        if source.by not in on or source.gives is Gives.ALWAYS:
            return source.by in on
        if source.gives in (Gives.COOLING, Gives.NOT_COOLING):
            return switching.alarm_on is (source.gives is Gives.COOLING)
        return calls(source.by, switching, fault) is (source.gives is Gives.CALLED)


def calls(controller: str, switching: Switching, fault: Fault) -> bool:
    """Whether a controller calls for heat."""
    return (switching.output_on or controller in fault.calling) and controller not in fault.quiet


def _named(net: NodalNetwork, sorts: tuple[Closed, ...]) -> dict[str, NDArray[np.int_]]:
    """Branches of these sorts by name."""
    found: dict[str, list[int]] = {}
    for i, branch in enumerate(net.branches):
        if branch.closed in sorts:
            found.setdefault(branch.name, []).append(i)
    return {name: np.array(places, dtype=int) for name, places in found.items()}


def _needs(branch: Branch, low: frozenset[str], boards: frozenset[str]) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The loads that must be on, and those that must be off, for a path to be commanded: nothing for one that a hand moves."""
    name = branch.name
    if branch.closed in (Closed.HAND, Closed.NOT_HAND):
        return (), ()
    if branch.closed not in (Closed.DRIVEN, Closed.NOT_DRIVEN):
        return (name,), ()
    own = (name,) if name in boards else ()
    return (own, (input_of(name),)) if name in low else ((*own, input_of(name)), ())


def _commanded(branch: Branch, switching: Switching, fault: Fault) -> bool:
    """Whether the output, alarm, limiter or hand behind a path says so; a coil or control input needs only its power."""
    if branch.closed in (Closed.OUTPUT, Closed.NOT_OUTPUT):
        return calls(branch.name, switching, fault)
    if branch.closed in (Closed.ALARM, Closed.NOT_ALARM):
        return switching.alarm_on
    if branch.closed in (Closed.LIMIT_OK, Closed.LIMIT_TRIPPED):
        tripped = (switching.limit_tripped and branch.name not in fault.blind) or branch.name in fault.tripped
        return not tripped
    if branch.closed in (Closed.HAND, Closed.NOT_HAND):
        return branch.name in switching.operated
    return True
