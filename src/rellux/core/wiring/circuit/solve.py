"""A connection list in a position: contacts move one after another, protective devices trip, the circuit is solved again.

Coils pull in at 85 % of their voltage and drop out below 20 %; instruments run from 80 %. Contacts follow their coil after
its own delay, in the order of an event queue, and a changeover leaves one side before it reaches the other. An SSR's 1.2 V is
iterated as a resistance. Breakers and fuses open by their current, earth-leakage breakers by what does not come back.
"""

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from ...heating.elements import ELEMENT_KINDS
from ..model import Closed, ConnectionList
from ..switching import Switching
from .branches import Branch, Sort, Source, is_coil, part_branches, part_sources, wire_branch
from .earthing import ties
from .network import NONE, Network, Nodes
from .solution import SOUND, Fault, Solution, Through

PULL_IN, DROP_OUT, RUNS = 0.85, 0.20, 0.80
SSR_ON_V, SSR_DROP_V = 3.0, 1.2
SSR_WITHIN = 0.05
"""How near its 1.2 V an SSR's drop is brought, as a share of it."""
TRIPS_AT = 1.45
"""A breaker or fuse surely opens within an hour at 1.45 times its rating (IEC 60898)."""
AT_ONCE = 5.0
"""From five times its rating it opens in milliseconds, before a contactor can drop out (B curve)."""
HEATS = 0.02
NO_A, NO_V = 1e-4, 1e-3
"""Below these nothing flows and nothing stands across: less than any coil or input takes, more than the ties to earth."""
EVENTS = 60
DELAYS_S = {"relay": (0.010, 0.005), "contactor": (0.025, 0.015), "input": (0.010, 0.010), "instrument": (0.5, 0.1)}
"""Operate and release delays of coils, control inputs and instruments starting up (typical, from memory of data sheets)."""
TRANSIT_S = 0.002
"""How long a changeover contact is on neither side."""
FOLLOWS = (
    *(Closed.COIL, Closed.NOT_COIL, Closed.OUTPUT, Closed.NOT_OUTPUT),
    *(Closed.ALARM, Closed.NOT_ALARM, Closed.LIMIT_OK, Closed.LIMIT_TRIPPED),
)
"""Paths that move with the coil or the supply of their own part."""
MAKES = (Closed.COIL, Closed.OUTPUT, Closed.DRIVEN, Closed.LIMIT_OK, Closed.HAND)
"""Paths that a welded or shorted part keeps closed; its opening contacts are not among them."""
LISTED = {"loads": (Sort.LOAD,), "wires": (Sort.WIRE,), "contacts": (Sort.CONTACT, Sort.SSR)}
UNMOVED = (Closed.ALWAYS, Closed.LOAD)
MAKES_SO = (Closed.COIL, Closed.OUTPUT, Closed.ALARM, Closed.LIMIT_OK, Closed.DRIVEN, Closed.NOT_HAND)
"""Paths that conduct when what commands them stands; the others conduct when it does not."""
INSTRUMENTS = ("controller_relay", "controller_ssr", "limiter", "logger")


@dataclass(frozen=True)
class State:
    """The network between two events: what is on, which branches conduct, volts across and amperes through each."""

    on: frozenset[str]
    mask: NDArray[np.bool_]
    conductance: NDArray[np.float64]
    volts: NDArray[np.float64]
    amps: NDArray[np.float64]
    nodes: Nodes
    live: tuple[bool, ...]
    time_s: float = 0.0
    chatters: frozenset[str] = frozenset()


@dataclass
class Circuit:
    """A connection list ready to be solved in any position. ``supply_v``: what parts without ratings are taken for;
    ``slow``: parts whose coil takes ten times as long, to look for races."""

    wiring: ConnectionList
    supply_v: float
    slow: frozenset[str] = frozenset()
    net: Network = field(init=False)

    def __post_init__(self) -> None:
        branches = [wire_branch(w) for w in self.wiring.connections]
        for part in self.wiring.parts:
            branches += part_branches(part, self.supply_v)
        sources = tuple(s for p in self.wiring.parts for s in part_sources(p))
        earths = [tie for p in self.wiring.of_kind("supply") for tie in ties(p)]
        names = {f"{p.name}.{t.name}" for p in self.wiring.parts for t in p.type.terminals}
        self.net = Network(tuple(branches), sources, earths, names)
        self._kinds = {p.name: p for p in self.wiring.parts}
        self._buttons = [p.name for p in self.wiring.of_kind("pushbutton")]
        self._supplies = frozenset(s.name for p in self.wiring.of_kind("supply") for s in part_sources(p))
        self._switched = np.array([i for i, b in enumerate(branches) if b.closed not in UNMOVED], dtype=int)
        self._powers = [_powered_by(branches[i]) for i in self._switched]
        self._makes_so = np.array([branches[i].closed in MAKES_SO for i in self._switched], dtype=bool)
        self._commands: dict[tuple[Switching, frozenset[str]], NDArray[np.bool_]] = {}
        self._loads = [i for i, b in enumerate(branches) if b.sort is Sort.LOAD]
        self._load_names = [branches[i].name for i in self._loads]
        levels = [self._thresholds(name) for name in self._load_names]
        self._pull_in, self._drop_out = (np.array([level[k] for level in levels]) for k in (0, 1))
        self._least: dict[frozenset[str], NDArray[np.float64]] = {}
        self._masks: dict[
            tuple[Switching, frozenset[str], frozenset[str], frozenset[str]],
            tuple[NDArray[np.bool_], tuple[bool, ...]],
        ] = {}
        self._rests: dict[tuple[Switching, frozenset[str], Fault], tuple[State, dict[str, float]]] = {}
        self._heats: dict[tuple[Switching, frozenset[str], Fault, Fault], tuple[float, dict[str, float]]] = {}
        self._in_series = self.net.in_series()
        self._named: dict[bytes, frozenset[str]] = {}
        self._listed = {what: _listed(self.net.branches, sorts) for what, sorts in LISTED.items()}
        self._load_at = np.array(self._loads, dtype=int)
        self._heaters = np.array([i for i in self._loads if self._is_heater(i)], dtype=int)
        self._ratings = {p.name: p.number("current_a", 1e9) for p in self.wiring.of_kind("breaker", "fuse")}
        self._guards = np.array([i for i, b in enumerate(branches) if b.breaks and b.name in self._ratings], dtype=int)
        self._rated_a = np.array([self._ratings[branches[i].name] for i in self._guards])
        self._making = {
            name: np.array([i for i in self.net.named(name) if branches[i].closed in MAKES], dtype=int)
            for name in {b.name for b in branches}
        }
        self._leakage = {p.name: p.number("trips_a", 0.03) for p in self.wiring.of_kind("rcd")}
        self._laws = {i: law for i in self._loads if (law := self._law(branches[i].name)) is not None}
        self._ssrs = np.array([i for i, b in enumerate(branches) if b.sort is Sort.SSR], dtype=int)
        driven = {f"{b.name} input" for b in branches if b.closed in (Closed.DRIVEN, Closed.NOT_DRIVEN)}
        self._deciding = frozenset({b.name for b in branches if b.closed in FOLLOWS} | driven | {s.by for s in sources})
        self._delays = {name: self._delay(name) for name in self._load_names}
        self._changeover = frozenset(b.name for b in branches if b.closed is Closed.NOT_COIL)
        self._coiled = {
            name: [i for i in self.net.named(name) if branches[i].closed in (Closed.COIL, Closed.NOT_COIL)]
            for name in self._changeover
        }

    @property
    def branches(self) -> tuple[Branch, ...]:
        """Everything that can conduct."""
        return self.net.branches

    def solve(
        self, switching: Switching, fault: Fault = SOUND, start: frozenset[str] = frozenset(), trips: bool = True
    ) -> Solution:
        """Settle and solve from ``start``, what is on when it begins. ``trips``: protective devices may open."""
        state, tripped = self._rest(switching, fault, start) if trips else (self._still(switching, fault), {})
        return self._solution(state, tripped, fault)

    def _still(self, switching: Switching, fault: Fault) -> State:
        """Settled sound, then the fault, before anything opens."""
        on = self.running(switching)
        return self._once(switching, fault, on, frozenset(), self.net.conductance.copy(), frozenset())

    def network(self, switching: Switching) -> tuple[list[tuple[Branch, float]], tuple[Source, ...]]:
        """What conducts once settled, with its ohms, and the sources that give: for a netlist."""
        state, _ = self._rest(switching)
        found = [
            (b, b.ohm if b.sort is not Sort.SSR else 1.0 / float(g))
            for b, g, m in zip(self.branches, state.conductance, state.mask, strict=True)
            if m
        ]
        return found, tuple(s for s, gives in zip(self.net.sources, state.live, strict=True) if gives)

    def settled(self, switching: Switching, start: frozenset[str] = frozenset()) -> frozenset[str]:
        """What is on once a sound circuit has settled: where a failure finds it."""
        return self._rest(switching, SOUND, start)[0].on

    def begun(self, switching: Switching) -> frozenset[str]:
        """Where solving a position begins: from nothing, or from what a start button has brought up."""
        return self.running(switching) if self._buttons else frozenset()

    def running(self, switching: Switching) -> frozenset[str]:
        """What is on once somebody has pressed every start button of a sound circuit and let it go again."""
        on: frozenset[str] = frozenset()
        for button in self._buttons:
            pressed = replace(switching, output_on=True, operated=switching.operated | {button})
            on = self.settled(pressed, on)
        return self.settled(switching, on)

    def heat(
        self, switching: Switching, fault: Fault = SOUND, start: frozenset[str] = frozenset(), already: Fault = SOUND
    ) -> tuple[float, dict[str, float]]:
        """Power in W of all heaters, and what tripped; quicker than :meth:`solve`. ``already``: an earlier failure."""
        if fault.opened:
            fault = replace(fault, opened=frozenset(self._in_series.get(n, n) for n in fault.opened))
        key = (switching, start, fault, already)
        if key not in self._heats:
            self._heats[key] = self._heat(*self._rest(switching, fault, start, already), fault | already)
        return self._heats[key]

    def _heat(self, state: State, tripped: dict[str, float], fault: Fault) -> tuple[float, dict[str, float]]:
        heaters = self._heaters[state.mask[self._heaters]]
        watts = float(np.sum(state.volts[heaters] * state.amps[heaters]))
        for a, b, siemens in self.net.halves(fault):
            watts += float(np.sum((state.nodes[:, a] - state.nodes[:, b]) ** 2)) * siemens
        return watts, tripped

    def _rest(
        self,
        switching: Switching,
        fault: Fault = SOUND,
        start: frozenset[str] = frozenset(),
        already: Fault = SOUND,
    ) -> tuple[State, dict[str, float]]:
        """Where the circuit comes to rest, and what tripped on the way. Before the fault it is kept; a fault that changes
        nothing there leaves it there."""
        key = (switching, start, already)
        if key not in self._rests:
            self._rests[key] = self._through_trips(switching, already, start, self.net.conductance)
        before = self._rests[key]
        if fault == SOUND or self._leaves(before[0], fault):
            return before
        return self._through_trips(switching, already | fault, start, before[0].conductance)

    def _leaves(self, state: State, fault: Fault) -> bool:
        """Whether a fault changes nothing: it opens only what carries no current, closes only what has no voltage across
        it, joins only what stands at one potential. (Compensation theorem: taking such a branch out, or putting it in,
        moves no voltage anywhere.)"""
        if fault.gone or fault.calling or state.chatters:
            return False
        for name in fault.opened:
            if np.any(state.amps[self.net.named(name)] > NO_A):
                return False
        for name in fault.closed:
            makes = self._making.get(name, NONE)
            if np.any(~state.mask[makes] & (state.volts[makes] > NO_V)):
                return False
        ends = [(i, j) for i, j, _ in self.net.extra(fault)]
        return all(np.all(np.abs(state.nodes[:, i] - state.nodes[:, j]) < NO_V) for i, j in ends)

    def _is_heater(self, i: int) -> bool:
        part = self._kinds.get(self.branches[i].name)
        return part is not None and part.heats

    def _through_trips(
        self, switching: Switching, fault: Fault, start: frozenset[str], conductance: NDArray[np.float64]
    ) -> tuple[State, dict[str, float]]:
        """``conductance``: where SSRs and lamps begin to be iterated from."""
        tripped: dict[str, float] = {}
        while True:
            state = self._settle(switching, fault, frozenset(tripped), start, conductance.copy())
            opening = self._opening(state, TRIPS_AT)
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
        on, moving, now = start & self._deciding, frozenset[str](), 0.0
        waiting: dict[str, float] = {}
        seen: dict[tuple[frozenset[str], frozenset[str], frozenset[str]], int] = {}
        moved: list[frozenset[str]] = []
        for _ in range(EVENTS):
            state = self._once(switching, fault, on, moving, conductance, tripped, now)
            if self._opening(state, AT_ONCE):
                return state
            adjusted = self._adjust(state, conductance)
            following = self._following(state)
            changes = on ^ (following & self._deciding)
            if not changes and not moving:
                if adjusted:
                    continue
                return replace(state, on=following)
            waiting = {
                n: waiting.get(n, now + self._delays[n][0 if n not in on else 1]) for n in changes if n not in moving
            } | {n: waiting[n] for n in moving}
            key = (on, moving, frozenset(waiting))
            if key in seen and len(moved) > seen[key]:
                return replace(state, chatters=frozenset().union(*moved[seen[key] :]))
            seen.setdefault(key, len(moved))
            now = min(waiting.values())
            due = frozenset(n for n, t in waiting.items() if t <= now + 1e-9)
            waiting = {n: t for n, t in waiting.items() if n not in due}
            leaving = (due & self._changeover) - moving
            arrived = due - leaving
            on, moving = on ^ arrived, (moving | leaving) - arrived
            waiting |= {n: now + TRANSIT_S for n in leaving}
            moved.append(due)
        return replace(state, chatters=frozenset().union(*moved[-8:]))

    def _opening(self, state: State, times: float) -> dict[str, float]:
        """The protective device furthest above ``times`` its rating, or one whose currents do not add up to nothing."""
        if len(self._guards):
            shares = state.amps.take(self._guards) / self._rated_a
            worst = shares.argmax()
            if shares[worst] > times:
                guard = self._guards[worst]
                return {self.branches[guard].name: float(state.amps[guard])}
        for name, limit in self._leakage.items():
            poles = [i for i in self.net.named(name) if state.mask[i]]
            across = state.nodes[:2, self.net.a[poles]] - state.nodes[:2, self.net.b[poles]]
            lost = float(np.linalg.norm(np.sum(across * state.conductance[poles], axis=1)))
            if lost > limit:
                return {name: lost}
        return {}

    def _following(self, state: State) -> frozenset[str]:
        """Parts whose coil, supply or control input is on at these voltages."""
        if state.on not in self._least:
            holding = np.array([name in state.on for name in self._load_names], dtype=bool)
            self._least[state.on] = np.where(holding, self._drop_out, self._pull_in)
        alive = (state.volts.take(self._load_at) >= self._least[state.on]) & state.mask.take(self._load_at)
        key = alive.tobytes()
        if key not in self._named:
            self._named[key] = frozenset(self._load_names[i] for i in np.flatnonzero(alive))
        return self._named[key]

    def _thresholds(self, name: str) -> tuple[float, float]:
        """Volts at which a load comes on, and below which it goes off again."""
        if name.endswith(" input"):
            return SSR_ON_V, SSR_ON_V
        part = self._kinds[name]
        coil = is_coil(part)
        rated = part.number("coil_v" if coil else "voltage_v", self.supply_v)
        if coil:
            return PULL_IN * rated, DROP_OUT * rated
        least = (HEATS if part.heats else RUNS) * rated
        return least, least

    def _law(self, name: str) -> tuple[float, float] | None:
        """Rated volts and the exponent of power with voltage, for loads that are no plain resistance."""
        part = self._kinds.get(name)
        if part is None:
            return None
        rated = part.number("voltage_v", self.supply_v)
        if part.type.kind in ("regulator", "power_module"):
            return rated, 0.0
        kind = ELEMENT_KINDS.get(str(part.ratings.get("element", "wire")))
        return (rated, kind.exponent) if kind and kind.exponent != 2.0 else None

    def _delay(self, name: str) -> tuple[float, float]:
        """Operate and release delay of a load, s."""
        if name.endswith(" input"):
            return DELAYS_S["input"]
        part = self._kinds[name]
        if part.type.kind == "timer":
            return part.number("delay_s", 10.0), DELAYS_S["relay"][1]
        family = "instrument" if part.type.family in INSTRUMENTS else part.type.family
        operate, release = DELAYS_S.get(family, (0.0, 0.0))
        return (10 * operate, 10 * release) if name in self.slow else (operate, release)

    def _adjust(self, state: State, conductance: NDArray[np.float64]) -> bool:
        """Set each conducting SSR so that it drops 1.2 V, and lamps, PTC elements and supplies to the power they take at
        their voltage, ``P = P_n (V/V_n)^e``; True while that still changes."""
        moved = False
        for i, (rated, exponent) in self._laws.items():
            share = min(max(state.volts[i] / rated, 0.2), 2.0)
            wanted = self.net.conductance[i] * share ** (exponent - 2.0)
            if state.mask[i] and abs(conductance[i] - wanted) > 0.02 * wanted:
                moved, conductance[i] = True, (conductance[i] * wanted) ** 0.5
        carrying = self._ssrs[state.amps.take(self._ssrs) > 0.01]
        if len(carrying):
            wanted = np.clip(state.amps[carrying] / SSR_DROP_V, 0.1, 1e3)
            moved = moved or bool(np.any(np.abs(conductance[carrying] - wanted) > SSR_WITHIN * wanted))
            conductance[carrying] = wanted
        return moved

    def _commanded(self, branch: Branch, switching: Switching, calling: frozenset[str]) -> bool:
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
        following, live = self._moved(switching, on, moving, fault.calling)
        mask = following.copy()
        for name in fault.closed:
            mask[self._making.get(name, NONE)] = True
        for name in (*fault.opened, *tripped):
            mask[self.net.named(name)] = False
        for name, _, _ in fault.tapped:
            mask[self.net.named(name)[:1]] = False
        if fault.gone:
            live = tuple(gives and s.name not in fault.gone for s, gives in zip(self.net.sources, live, strict=True))
        nodes = self.net.solve(mask, conductance, live, fault)
        across = nodes.take(self.net.a, axis=1) - nodes.take(self.net.b, axis=1)
        volts = np.sqrt((across * across).sum(axis=0))
        return State(on, mask, conductance.copy(), volts, volts * conductance * mask, nodes, live, now)

    def _moved(
        self, switching: Switching, on: frozenset[str], moving: frozenset[str], calling: frozenset[str]
    ) -> tuple[NDArray[np.bool_], tuple[bool, ...]]:
        """What conducts where every contact follows what moves it, and which sources give."""
        key = (switching, on, moving, calling)
        if key not in self._masks:
            commands = (switching, calling)
            if commands not in self._commands:
                found = [self._commanded(self.branches[i], switching, calling) for i in self._switched]
                self._commands[commands] = np.array(found, dtype=bool)
            powered = np.array([not name or name in on for name in self._powers], dtype=bool)
            mask = np.ones(len(self.branches), dtype=bool)
            mask[self._switched] = (powered & self._commands[commands]) == self._makes_so
            for name in moving:
                mask[self._coiled[name]] = False
            live = tuple(self._gives(s, switching, on, calling) for s in self.net.sources)
            self._masks[key] = mask, live
        return self._masks[key]

    def _gives(self, source: Source, switching: Switching, on: frozenset[str], calling: frozenset[str]) -> bool:
        if not source.by:
            return switching.power or source.name not in self._supplies
        calls = switching.output_on or source.by in calling
        return source.by in on and (calls or not source.name.endswith(" drive"))

    def _solution(self, state: State, tripped: dict[str, float], fault: Fault) -> Solution:
        alternating = state.nodes[0] + 1j * state.nodes[1]
        return Solution(
            state.on,
            self._through(state, "loads"),
            self._through(state, "wires"),
            self._through(state, "contacts"),
            dict(zip(self.net.index, alternating.tolist(), strict=True)),
            dict(zip(self.net.index, state.nodes[2].tolist(), strict=True)),
            tripped,
            self.net.unreached(state.mask, state.live, fault),
            state.chatters,
            state.time_s,
        )

    def _through(self, state: State, what: str) -> dict[str, Through]:
        """By name, of what conducts: the highest voltage and current of its branches, their power together."""
        names, branch, place = self._listed[what]
        volts, amps, watts = (np.zeros(len(names)) for _ in range(3))
        on = state.mask[branch]
        branch, place = branch[on], place[on]
        np.maximum.at(volts, place, state.volts[branch])
        np.maximum.at(amps, place, state.amps[branch])
        np.add.at(watts, place, state.volts[branch] * state.amps[branch])
        found = zip(volts.tolist(), amps.tolist(), watts.tolist(), strict=True)
        conducting = set(place.tolist())
        return {n: Through(*t) for i, (n, t) in enumerate(zip(names, found, strict=True)) if i in conducting}


def _listed(
    branches: tuple[Branch, ...], sorts: tuple[Sort, ...]
) -> tuple[list[str], NDArray[np.int_], NDArray[np.int_]]:
    """Names of the branches of these sorts, the branches, and the place of each one's name."""
    found = [i for i, b in enumerate(branches) if b.sort in sorts]
    names = list(dict.fromkeys(branches[i].name for i in found))
    places = {name: k for k, name in enumerate(names)}
    return names, np.array(found, dtype=int), np.array([places[branches[i].name] for i in found], dtype=int)


def _powered_by(branch: Branch) -> str:
    """The load that must be on for a path to be commanded: nothing for one that a hand moves."""
    if branch.closed in (Closed.HAND, Closed.NOT_HAND):
        return ""
    return f"{branch.name} input" if branch.closed in (Closed.DRIVEN, Closed.NOT_DRIVEN) else branch.name
