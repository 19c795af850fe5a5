"""A connection list in a position: contacts move one after another, protective devices trip, the circuit is solved again.

Contacts follow their coil after its own delay, in the order of an event queue, and a changeover leaves one side before it
reaches the other. What is solved sound is kept; a fault that changes nothing there is not solved again.
"""

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from ..model import Closed, ConnectionList
from ..names import TerminalName
from ..switching import OFF, ON, Switching
from .branches import Branch, Source, board_rail, fed_raw, part_branches, part_sources, switches_dc, wire_branch
from .contacts import Contacts
from .earthing import ties
from .guards import AT_ONCE, TRIPS_AT, Guards
from .loads import Loads
from .network import NodalNetwork
from .results import Results
from .solution import SOUND, Fault, Heat, Solution
from .state import State

NO_A, NO_V = 1e-4, 1e-3
"""Below these nothing flows and nothing stands across: less than any coil or input takes, more than the ties to earth."""
PEAK = 2.0**0.5
DIODE_V, AC_V = 1.0, 3.0
"""Volts across a semiconductor from which its own diode conducts, and from which it stands on the wrong kind of current."""
EVENTS = 60
SAME_S = 1e-9
"""Events this close are one (numerical)."""
TRANSIT_S = 0.002
"""How long a changeover contact is on neither side."""
NOBODY: frozenset[str] = frozenset()
Rest = tuple[State, dict[str, float]]
"""Where a circuit comes to rest, and what tripped on the way, with the current in A that did it."""


@dataclass
class CircuitSolver:
    """A connection list ready to be solved in any position. ``supply_v``: what parts without ratings are taken for;
    ``slow``: parts whose coil takes ten times as long, to look for races."""

    wiring: ConnectionList
    supply_v: float
    slow: frozenset[str] = NOBODY
    net: NodalNetwork = field(init=False)
    uncontrolled: frozenset[str] = field(init=False)

    def __post_init__(self) -> None:
        wiring = self.wiring
        branches = [wire_branch(w) for w in wiring.connections]
        for part in wiring.parts:
            branches += part_branches(part, self.supply_v, wiring.wired)
        sources = tuple(
            s for p in wiring.parts for s in (*part_sources(p), *([board_rail(p)] if fed_raw(p, wiring.wired) else []))
        )
        earths = [tie for p in wiring.of_kind("supply") for tie in ties(p)]
        self._made(tuple(branches), sources, earths, wiring.terminals)
        uncontrolled = self._uncontrolled()
        if uncontrolled:
            stuck = (b.name in uncontrolled and b.closed is Closed.DRIVEN for b in branches)
            always = tuple(replace(b, closed=Closed.ALWAYS) if s else b for b, s in zip(branches, stuck, strict=True))
            self._made(always, sources, earths, wiring.terminals)
        self.uncontrolled = uncontrolled

    def _made(
        self,
        branches: tuple[Branch, ...],
        sources: tuple[Source, ...],
        earths: list[tuple[TerminalName, float]],
        names: frozenset[TerminalName],
    ) -> None:
        wiring = self.wiring
        self.net = NodalNetwork(branches, sources, earths, names)
        self._contacts, self._guards = Contacts(wiring, self.net), Guards(wiring, self.net)
        self._loads = Loads(wiring, self.net, self.supply_v, self.slow)
        self._results = Results(self.net)
        self.buttons = [p.name for p in wiring.of_kind("pushbutton")]
        self._in_series = self.net.in_series()
        self._same: dict[Fault, Fault] = {}
        self._rests: dict[tuple[Switching, frozenset[str], Fault], Rest] = {}
        self._heats: dict[tuple[Switching, frozenset[str], Fault, Fault], Heat] = {}

    def _uncontrolled(self) -> frozenset[str]:
        """Semiconductors that nothing turns off: a DC type whose plus is at the minus or that stands on AC conducts through its
        own diode, an AC type on DC never sees its current pass zero."""
        switches = [p for p in self.wiring.parts if p.type.family == "ssr"]
        if not switches:
            return NOBODY
        found = set()
        for switching in (OFF, ON):
            nodes = self._rest(switching, SOUND, self.begun(switching))[0].nodes
            for part in switches:
                for i in self.net.named(part.name):
                    branch = self.branches[i]
                    if branch.closed is Closed.DRIVEN:
                        volts = nodes[:, self.net.a[i]] - nodes[:, self.net.b[i]]
                        ac, dc = float(np.hypot(volts[0], volts[1])), float(volts[2])
                        unfit = dc < -DIODE_V or ac > AC_V if switches_dc(part) else abs(dc) > max(AC_V, PEAK * ac)
                        if unfit:
                            found.add(part.name)
        return frozenset(found)

    def moving(self, on: frozenset[str]) -> frozenset[str]:
        """Of what is on, only what moves something."""
        return on & self._contacts.deciding

    @property
    def branches(self) -> tuple[Branch, ...]:
        """Everything that can conduct."""
        return self.net.branches

    def solve(
        self, switching: Switching, fault: Fault = SOUND, start: frozenset[str] = NOBODY, trips: bool = True
    ) -> Solution:
        """Settle and solve from ``start``, what is on when it begins. ``trips``: protective devices may open."""
        state, tripped = self._rest(switching, fault, start) if trips else (self._still(switching, fault), {})
        return self._results.of(state, tripped, self._loads.turned(state), fault)

    def network(self, switching: Switching) -> tuple[list[tuple[Branch, float]], tuple[Source, ...]]:
        """What conducts once settled, with the ohms it has there, and the sources that give: for a netlist."""
        state, _ = self._rest(switching, SOUND, self.begun(switching))
        found = [(b, 1.0 / float(g)) for b, g, m in zip(self.branches, state.conductance, state.mask, strict=True) if m]
        return found, tuple(s for s, gives in zip(self.net.sources, state.live, strict=True) if gives)

    def settled(self, switching: Switching, start: frozenset[str] = NOBODY, fault: Fault = SOUND) -> frozenset[str]:
        """What is on once the circuit has settled."""
        return self._rest(switching, fault, start)[0].on

    def begun(self, switching: Switching) -> frozenset[str]:
        """Where solving a position begins: from nothing, or from what a start button has brought up."""
        return self.running(switching) if self.buttons else NOBODY

    def running(self, switching: Switching, fault: Fault = SOUND) -> frozenset[str]:
        """What is on once somebody has pressed every start button and let it go again, with a failure there from the
        beginning."""
        on = NOBODY
        for button in self.buttons:
            operated = switching.operated | {button}
            pressed = replace(switching, output_on=True, limit_tripped=False, operated=operated)
            on = self.settled(pressed, on, fault)
            on = self.settled(replace(pressed, operated=switching.operated - {button}), on, fault)
        return self.settled(switching, on, fault)

    def heat(
        self, switching: Switching, fault: Fault = SOUND, start: frozenset[str] = NOBODY, already: Fault = SOUND
    ) -> Heat:
        """Power of every heater, and what tripped; quicker than :meth:`solve`. ``already``: an earlier failure."""
        fault = self.alike(fault)
        key = (switching, start, fault, already)
        if key not in self._heats:
            state, tripped = self._rest(switching, fault, start, already)
            watts = self._loads.heat_w(state)
            for tapped in (fault | already).tapped:
                for a, b, siemens in self.net.halves(Fault(tapped=(tapped,))):
                    across = state.nodes[:, a] - state.nodes[:, b]
                    if tapped[0] in self._loads.turning and across[2] < 0.0:
                        continue  # a piece of a module that cools
                    watts[tapped[0]] = watts.get(tapped[0], 0.0) + float(across @ across) * siemens
            self._heats[key] = Heat(watts, tripped)
        return self._heats[key]

    @property
    def known(self) -> int:
        """How many positions and failures have been solved for their heat, each once."""
        return len(self._heats)

    def alike(self, fault: Fault) -> Fault:
        """The same failure by the first of the wires in series with those that come off."""
        if fault not in self._same:
            opened = frozenset(self._in_series.get(n, n) for n in fault.opened)
            self._same[fault] = replace(fault, opened=opened)
        return self._same[fault]

    def _still(self, switching: Switching, fault: Fault) -> State:
        """Settled sound, then the fault, before anything opens."""
        return self._once(switching, fault, self.running(switching), NOBODY, self.net.conductance.copy(), NOBODY)

    def _rest(
        self, switching: Switching, fault: Fault = SOUND, start: frozenset[str] = NOBODY, already: Fault = SOUND
    ) -> Rest:
        """Where the circuit comes to rest. Before the fault it is kept; a fault that changes nothing there leaves it there,
        unless something had opened: with the fault from the beginning it may not have."""
        key = (switching, start, already)
        if key not in self._rests:
            self._rests[key] = self._through_trips(switching, already, start, self.net.conductance)
        before = self._rests[key]
        if fault == SOUND or (not before[1] and self._leaves(before[0], fault)):
            return before
        return self._through_trips(switching, already | fault, start, before[0].conductance)

    def _leaves(self, state: State, fault: Fault) -> bool:
        """Whether a fault changes nothing: it opens only what carries no current, closes only what has no voltage across
        it, joins only what stands at one potential. (Compensation theorem: taking such a branch out, or putting it in,
        moves no voltage anywhere.)"""
        if fault.gone or fault.commands or fault.stuck or state.chatters:
            return False
        for name in fault.opened:
            if np.any(state.amps[self.net.named(name)] > NO_A):
                return False
        for name in fault.closed:
            makes = self._contacts.making(name)
            rests = self._contacts.resting(name)
            if np.any(~state.mask[makes] & (state.volts[makes] > NO_V)) or np.any(state.amps[rests] > NO_A):
                return False
        ends = [(i, j) for i, j, _ in self.net.extra(fault)]
        return all(np.all(np.abs(state.nodes[:, i] - state.nodes[:, j]) < NO_V) for i, j in ends)

    def _through_trips(
        self, switching: Switching, fault: Fault, start: frozenset[str], conductance: NDArray[np.float64]
    ) -> Rest:
        """``conductance``: where SSRs and lamps begin to be iterated from."""
        tripped: dict[str, float] = {}
        while True:
            state = self._settle(switching, fault, frozenset(tripped), start, conductance.copy())
            opening = self._guards.opening(state, TRIPS_AT, fault.stuck)
            if not opening:
                return state, tripped
            tripped |= opening

    def _settle(
        self,
        switching: Switching,
        fault: Fault,
        tripped: frozenset[str],
        start: frozenset[str],
        conductance: NDArray[np.float64],
    ) -> State:
        """Let contacts follow their coils until nothing changes; a device far beyond its rating opens before any coil moves."""
        deciding = self._contacts.deciding
        on, moving, now = start & deciding, NOBODY, 0.0
        waiting: dict[str, float] = {}
        seen: dict[tuple[frozenset[str], frozenset[str], frozenset[str]], int] = {}
        moved: list[frozenset[str]] = []
        passed: list[State] = []
        for _ in range(EVENTS):
            state = self._once(switching, fault, on, moving, conductance, tripped, now)
            if self._guards.opening(state, AT_ONCE, fault.stuck):
                return state
            adjusted = self._loads.adjust(state, conductance)
            following = self._loads.following(state)
            changes = on ^ (following & deciding)
            if not changes and not moving:
                if adjusted:
                    continue
                return state._replace(on=following)
            begun = {n: waiting.get(n, now + self._loads.delay_s(n, n in on)) for n in changes if n not in moving}
            waiting = begun | {n: waiting[n] for n in moving}
            key = (on, moving, frozenset(waiting))
            if key in seen and len(moved) > seen[key]:
                return state._replace(chatters=NOBODY.union(*moved[seen[key] :]), between=tuple(passed[seen[key] :]))
            seen.setdefault(key, len(moved))
            passed.append(state)
            now = min(waiting.values())
            due = frozenset(n for n, t in waiting.items() if t <= now + SAME_S)
            waiting = {n: t for n, t in waiting.items() if n not in due}
            leaving = (due & self._contacts.changeover) - moving
            arrived = due - leaving
            on, moving = on ^ arrived, (moving | leaving) - arrived
            waiting |= {n: now + TRANSIT_S for n in leaving}
            moved.append(due)
        return state._replace(chatters=NOBODY.union(*moved[-8:]), between=tuple(passed[-8:]))

    def _once(
        self,
        switching: Switching,
        fault: Fault,
        on: frozenset[str],
        moving: frozenset[str],
        conductance: NDArray[np.float64],
        tripped: frozenset[str],
        now: float = 0.0,
    ) -> State:
        """The network as it stands, solved."""
        mask, live = self._contacts.conducting(switching, on, moving, fault, tripped)
        nodes = self.net.solve(mask, conductance, live, fault)
        across = nodes.take(self.net.a, axis=1) - nodes.take(self.net.b, axis=1)
        volts = np.sqrt((across * across).sum(axis=0))
        return State(on, mask, conductance.copy(), volts, volts * conductance * mask, nodes, live, now)
