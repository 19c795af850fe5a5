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
from .network import Network, Nodes
from .solution import SOUND, Fault, Solution, Through

PULL_IN, DROP_OUT, RUNS = 0.85, 0.20, 0.80
SSR_ON_V, SSR_DROP_V = 3.0, 1.2
TRIPS_AT = 1.45
"""A breaker or fuse surely opens within an hour at 1.45 times its rating (IEC 60898)."""
AT_ONCE = 5.0
"""From five times its rating it opens in milliseconds, before a contactor can drop out (B curve)."""
HEATS = 0.02
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
    live: tuple[Source, ...]
    time_s: float = 0.0
    chatters: frozenset[str] = frozenset()


@dataclass
class Circuit:
    """A connection list ready to be solved in any position. ``supply_v``: what parts without ratings are taken for;
    ``ideal_wires`` as in :class:`Network`; ``slow``: parts whose coil takes ten times as long, to look for races."""

    wiring: ConnectionList
    supply_v: float
    ideal_wires: bool = False
    slow: frozenset[str] = frozenset()
    net: Network = field(init=False)

    def __post_init__(self) -> None:
        branches = [wire_branch(w) for w in self.wiring.connections]
        for part in self.wiring.parts:
            branches += part_branches(part, self.supply_v)
        sources = tuple(s for p in self.wiring.parts for s in part_sources(p))
        earths = [tie for p in self.wiring.of_kind("supply") for tie in ties(p)]
        names = {f"{p.name}.{t.name}" for p in self.wiring.parts for t in p.type.terminals}
        self.net = Network(tuple(branches), sources, earths, names, self.ideal_wires)
        self._kinds = {p.name: p for p in self.wiring.parts}
        self._buttons = [p.name for p in self.wiring.of_kind("pushbutton")]
        self._supplies = frozenset(s.name for p in self.wiring.of_kind("supply") for s in part_sources(p))
        self._switched = [i for i, b in enumerate(branches) if b.closed not in (Closed.ALWAYS, Closed.LOAD)]
        self._loads = [i for i, b in enumerate(branches) if b.sort is Sort.LOAD]
        self._load_names = [branches[i].name for i in self._loads]
        levels = [self._thresholds(name) for name in self._load_names]
        self._pull_in, self._drop_out = (np.array([level[k] for level in levels]) for k in (0, 1))
        self._holding: dict[frozenset[str], NDArray[np.bool_]] = {}
        self._masks: dict[tuple[Switching, frozenset[str], frozenset[str]], NDArray[np.bool_]] = {}
        self._named: dict[bytes, frozenset[str]] = {}
        self._harmless: dict[frozenset[str], bool] = {}
        self._load_at = np.array(self._loads, dtype=int)
        self._heaters = np.array([i for i in self._loads if self._is_heater(i)], dtype=int)
        self._ratings = {p.name: p.number("current_a", 1e9) for p in self.wiring.of_kind("breaker", "fuse")}
        self._guards = [i for i, b in enumerate(branches) if b.breaks and b.name in self._ratings]
        self._leakage = {p.name: p.number("trips_a", 0.03) for p in self.wiring.of_kind("rcd")}
        self._laws = {i: law for i in self._loads if (law := self._law(branches[i].name)) is not None}
        self._ssrs = [i for i, b in enumerate(branches) if b.sort is Sort.SSR]
        driven = {f"{b.name} input" for b in branches if b.closed in (Closed.DRIVEN, Closed.NOT_DRIVEN)}
        self._deciding = frozenset({b.name for b in branches if b.closed in FOLLOWS} | driven | {s.by for s in sources})
        self._weighty = self._deciding | {branches[i].name for i in self._heaters}
        self._delays = {name: self._delay(name) for name in self._load_names}
        self._changeover = frozenset(b.name for b in branches if b.closed is Closed.NOT_COIL)

    @property
    def branches(self) -> tuple[Branch, ...]:
        """Everything that can conduct."""
        return self.net.branches

    def solve(
        self, switching: Switching, fault: Fault = SOUND, start: frozenset[str] = frozenset(), trips: bool = True
    ) -> Solution:
        """Settle and solve from ``start``, what is on when it begins. ``trips``: protective devices may open."""
        state, tripped = self._through_trips(switching, fault, start) if trips else (self._still(switching, fault), {})
        return self._solution(state, tripped, fault)

    def _still(self, switching: Switching, fault: Fault) -> State:
        """Settled sound, then the fault, before anything opens."""
        on = self.running(switching)
        return self._once(switching, fault, on, frozenset(), self.net.conductance.copy(), frozenset())

    def network(self, switching: Switching) -> tuple[list[tuple[Branch, float]], tuple[Source, ...]]:
        """What conducts once settled, with its ohms, and the sources that give: for a netlist."""
        state, _ = self._through_trips(switching, SOUND, frozenset())
        found = [
            (b, b.ohm if b.sort is not Sort.SSR else 1.0 / float(g))
            for b, g, m in zip(self.branches, state.conductance, state.mask, strict=True)
            if m
        ]
        return found, state.live

    def settled(self, switching: Switching, start: frozenset[str] = frozenset()) -> frozenset[str]:
        """What is on once a sound circuit has settled: where a failure finds it."""
        return self._through_trips(switching, SOUND, start)[0].on

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
        self, switching: Switching, fault: Fault = SOUND, start: frozenset[str] = frozenset()
    ) -> tuple[float, dict[str, float]]:
        """Power in W of all heaters, and what tripped; quicker than :meth:`solve`."""
        state, tripped = self._through_trips(switching, fault, start)
        heaters = self._heaters[state.mask[self._heaters]]
        watts = float(np.sum(state.volts[heaters] * state.amps[heaters]))
        for a, b, siemens in self.net.halves(fault):
            across = state.nodes[self.net.index[a]] - state.nodes[self.net.index[b]]
            watts += float(np.sum(np.abs(across) ** 2)) * siemens
        return watts, tripped

    def harmless(self, wires: frozenset[str]) -> bool:
        """Whether nothing that heats or decides hangs on these wires, so that without them the heat is the same."""
        if wires not in self._harmless:
            dead = self.net.parts_off(wires) if self.ideal_wires else None
            self._harmless[wires] = dead is not None and not dead & self._weighty
        return self._harmless[wires]

    def _is_heater(self, i: int) -> bool:
        part = self._kinds.get(self.branches[i].name)
        return part is not None and part.type.family == "heater"

    def _through_trips(
        self, switching: Switching, fault: Fault, start: frozenset[str]
    ) -> tuple[State, dict[str, float]]:
        tripped: dict[str, float] = {}
        while True:
            state = self._settle(switching, fault, frozenset(tripped), start)
            opening = self._opening(state, TRIPS_AT)
            if not opening:
                return state, tripped
            tripped |= opening

    def _settle(self, switching: Switching, fault: Fault, tripped: frozenset[str], start: frozenset[str]) -> State:
        """Let contacts follow their coils until nothing changes; a device far beyond its rating opens before any coil moves."""
        on, moving, now = start & self._deciding, frozenset[str](), 0.0
        waiting: dict[str, float] = {}
        seen: dict[tuple[frozenset[str], frozenset[str], frozenset[str]], int] = {}
        moved: list[frozenset[str]] = []
        conductance = self.net.conductance.copy()
        for _ in range(EVENTS):
            state = self._once(switching, fault, on, moving, conductance, tripped, now)
            if self._opening(state, AT_ONCE):
                return state
            adjusted = self._adjust(state, conductance)
            following = self._following(state)
            changes = on ^ (following & self._deciding)
            waiting = {
                n: waiting.get(n, now + self._delays[n][0 if n not in on else 1]) for n in changes if n not in moving
            } | {n: waiting[n] for n in moving}
            if not waiting:
                if adjusted:
                    continue
                return replace(state, on=following)
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
        worst, most = "", times
        for i in self._guards:
            if state.mask[i]:
                name = self.branches[i].name
                share = state.amps[i] / self._ratings[name]
                if share > most:
                    worst, most = name, share
        if worst:
            return {worst: most * self._ratings[worst]}
        for name, limit in self._leakage.items():
            poles = [i for i in self.net.named(name) if state.mask[i]]
            flows = [
                (state.nodes[self.net.a[i], 0] - state.nodes[self.net.b[i], 0]) * state.conductance[i] for i in poles
            ]
            if abs(sum(flows)) > limit:
                return {name: float(abs(sum(flows)))}
        return {}

    def _following(self, state: State) -> frozenset[str]:
        """Parts whose coil, supply or control input is on at these voltages."""
        if state.on not in self._holding:
            self._holding[state.on] = np.array([name in state.on for name in self._load_names], dtype=bool)
        least = np.where(self._holding[state.on], self._drop_out, self._pull_in)
        alive = (state.volts[self._load_at] >= least) & state.mask[self._load_at]
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
        least = (HEATS if part.type.family == "heater" else RUNS) * rated
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
        for i in self._ssrs:
            if state.mask[i] and state.amps[i] > 0.01:
                wanted = min(max(state.amps[i] / SSR_DROP_V, 0.1), 1e3)
                moved = moved or abs(conductance[i] - wanted) > 0.02 * wanted
                conductance[i] = wanted
        return moved

    def _conducts(self, branch: Branch, switching: Switching, on: frozenset[str], moving: frozenset[str]) -> bool:
        closed, powered = branch.closed, branch.name in on
        if closed in (Closed.COIL, Closed.NOT_COIL):
            return branch.name not in moving and powered is (closed is Closed.COIL)
        if closed in (Closed.OUTPUT, Closed.NOT_OUTPUT):
            return (powered and switching.output_on) is (closed is Closed.OUTPUT)
        if closed in (Closed.ALARM, Closed.NOT_ALARM):
            return (powered and switching.alarm_on) is (closed is Closed.ALARM)
        if closed in (Closed.LIMIT_OK, Closed.LIMIT_TRIPPED):
            return (powered and not switching.limit_tripped) is (closed is Closed.LIMIT_OK)
        if closed in (Closed.HAND, Closed.NOT_HAND):
            return (branch.name in switching.operated) is (closed is Closed.NOT_HAND)
        return (f"{branch.name} input" in on) is (closed is Closed.DRIVEN)

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
        mask = self._sound(switching, on, moving).copy()
        for name in fault.closed:
            mask[[i for i in self.net.named(name) if self.branches[i].closed in MAKES]] = True
        for name in (*fault.opened, *tripped):
            mask[self.net.named(name)] = False
        for name, _, _ in fault.tapped:
            mask[self.net.named(name)[:1]] = False
        live = tuple(s for s in self.net.sources if s.name not in fault.gone and self._gives(s, switching, on))
        nodes = self.net.solve(mask, conductance, live, fault)
        across = nodes[self.net.a] - nodes[self.net.b]
        volts = np.sqrt(np.sum(np.abs(across) ** 2, axis=1))
        return State(on, mask, conductance.copy(), volts, volts * conductance * mask, nodes, live, now)

    def _sound(self, switching: Switching, on: frozenset[str], moving: frozenset[str]) -> NDArray[np.bool_]:
        """What conducts in a sound circuit."""
        key = (switching, on, moving)
        if key not in self._masks:
            mask = np.ones(len(self.branches), dtype=bool)
            for i in self._switched:
                mask[i] = self._conducts(self.branches[i], switching, on, moving)
            self._masks[key] = mask
        return self._masks[key]

    def _gives(self, source: Source, switching: Switching, on: frozenset[str]) -> bool:
        if not source.by:
            return switching.power or source.name not in self._supplies
        return source.by in on and (switching.output_on or not source.name.endswith(" drive"))

    def _solution(self, state: State, tripped: dict[str, float], fault: Fault) -> Solution:
        conducting = [b for b, m in zip(self.branches, state.mask, strict=True) if m]
        through = [
            Through(float(v), float(a), float(v * a))
            for v, a, m in zip(state.volts, state.amps, state.mask, strict=True)
            if m
        ]
        return Solution(
            state.on,
            _summed(conducting, through, (Sort.LOAD,)),
            _summed(conducting, through, (Sort.WIRE,)),
            _summed(conducting, through, (Sort.CONTACT, Sort.SSR)),
            {name: complex(state.nodes[i, 0]) for name, i in self.net.index.items()},
            {name: float(state.nodes[i, 1].real) for name, i in self.net.index.items()},
            tripped,
            self.net.unreached([*((b.a, b.b) for b in conducting), *fault.joined], state.live),
            state.chatters,
            state.time_s,
        )


def _summed(branches: list[Branch], through: list[Through], sorts: tuple[Sort, ...]) -> dict[str, Through]:
    """By name: the highest voltage and current of its branches, their power together."""
    found: dict[str, Through] = {}
    for branch, t in zip(branches, through, strict=True):
        if branch.sort in sorts:
            was = found.get(branch.name, Through(0.0, 0.0, 0.0))
            found[branch.name] = Through(max(was.volts, t.volts), max(was.amps, t.amps), was.watts + t.watts)
    return found
