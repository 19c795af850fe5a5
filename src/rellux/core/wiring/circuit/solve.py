"""Nodal analysis of a connection list in a state: contacts settle, protective devices trip, the circuit is solved again.

Method: AC (rms phasors at mains frequency) and DC are separate networks over the same nodes, each solved as ``Y v = i`` with
every node tied to earth by 1 nS, which only makes floating islands solvable; a node no source reaches is reported as
undefined. Sources are Norton equivalents behind their own impedance. Coils pull in at 85 % of their voltage and drop out
below 20 %; instruments run from 80 %. An SSR's 1.2 V is iterated as a resistance. The return of AC supplies is earthed (TN).
"""

from collections.abc import Iterable
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray
from scipy.linalg.lapack import dgesv

from ..model import Closed, ConnectionList, Role
from ..states import Switching
from .branches import Branch, Sort, Source, part_branches, part_sources, wire_branch

TIE_S = 1e-9
PULL_IN, DROP_OUT, RUNS = 0.85, 0.20, 0.80
SSR_ON_V, SSR_DROP_V = 3.0, 1.2
TRIPS_AT = 1.45
"""A breaker or fuse surely opens within an hour at 1.45 times its rating (IEC 60898)."""
AT_ONCE = 5.0
"""From five times its rating it opens in milliseconds, before a contactor can drop out (B curve)."""
HEATS = 0.02
ROUNDS = 24


@dataclass(frozen=True)
class Fault:
    """A change to the circuit: branches of ``opened`` names never conduct, ``closed`` names always do, ``gone`` sources give
    nothing, ``joined`` nodes are bridged."""

    opened: frozenset[str] = frozenset()
    closed: frozenset[str] = frozenset()
    gone: frozenset[str] = frozenset()
    joined: tuple[tuple[str, str], ...] = ()


SOUND = Fault()


@dataclass(frozen=True)
class Through:
    """One branch solved: V across (rms), A through, W in it."""

    volts: float
    amps: float
    watts: float


@dataclass(frozen=True)
class Solution:
    """A state solved. ``loads`` and ``wires`` by name; ``volts``: each terminal against earth (AC rms and DC);
    ``tripped``: protective devices that opened, with the current in A that did it; ``undefined``: terminals no source reaches."""

    on: frozenset[str]
    loads: dict[str, Through]
    wires: dict[str, Through]
    contacts: dict[str, Through]
    ac: dict[str, complex]
    dc: dict[str, float]
    tripped: dict[str, float]
    undefined: frozenset[str]
    settled: bool

    def between(self, a: str, b: str) -> float | None:
        """Volts a meter shows between two terminals (AC and DC combined as rms), or None where undefined."""
        if a in self.undefined or b in self.undefined:
            return None
        ac = abs(self.ac.get(a, 0j) - self.ac.get(b, 0j))
        dc = abs(self.dc.get(a, 0.0) - self.dc.get(b, 0.0))
        return float((ac * ac + dc * dc) ** 0.5)


@dataclass(frozen=True)
class _Round:
    """One solution by arrays: which branches conduct, V across and A through each, node voltages (AC, DC)."""

    on: frozenset[str]
    mask: NDArray[np.bool_]
    volts: NDArray[np.float64]
    amps: NDArray[np.float64]
    nodes: NDArray[np.complex128]
    live: tuple[Source, ...]
    settled: bool


@dataclass
class Circuit:
    """A connection list ready to be solved in any state. ``supply_v`` is what parts without ratings are taken for.

    ``ideal_wires``: wires have no resistance and join their ends to one node: many solutions quickly, without wire currents.
    """

    wiring: ConnectionList
    supply_v: float
    ideal_wires: bool = False
    _branches: tuple[Branch, ...] = field(init=False)
    _sources: tuple[Source, ...] = field(init=False)
    _index: dict[str, int] = field(init=False)

    def __post_init__(self) -> None:
        branches = [wire_branch(w) for w in self.wiring.connections]
        for part in self.wiring.parts:
            branches += part_branches(part, self.supply_v)
        self._branches = tuple(branches)
        self._sources = tuple(s for p in self.wiring.parts for s in part_sources(p))
        names = {f"{p.name}.{t.name}" for p in self.wiring.parts for t in p.type.terminals}
        names |= {n for b in branches for n in (b.a, b.b)}
        self._index = {name: i for i, name in enumerate(sorted(names))}
        self._earths = [
            f"{p.name}.{t.name}"
            for p in self.wiring.of_kind("supply")
            for t in p.type.terminals
            if t.role in (Role.EARTH, Role.NEUTRAL)
        ]
        self._kinds = {p.name: p for p in self.wiring.parts}
        self._a = np.array([self._index[b.a] for b in branches], dtype=int)
        self._b = np.array([self._index[b.b] for b in branches], dtype=int)
        self._g = np.array([1.0 / b.ohm for b in branches])
        self._switched = [i for i, b in enumerate(branches) if b.sort in (Sort.CONTACT, Sort.SSR)]
        self._loads = [i for i, b in enumerate(branches) if b.sort is Sort.LOAD]
        self._load_names = [branches[i].name for i in self._loads]
        levels = [self._thresholds(name) for name in self._load_names]
        self._pull_in, self._drop_out = (np.array([level[k] for level in levels]) for k in (0, 1))
        self._holding: dict[frozenset[str], NDArray[np.bool_]] = {}
        self._heaters = np.array([i for i in self._loads if self._is_heater(i)], dtype=int)
        self._by_name: dict[str, list[int]] = {}
        for i, branch in enumerate(branches):
            self._by_name.setdefault(branch.name, []).append(i)
        self._ratings = {p.name: p.number("current_a", 1e9) for p in self.wiring.of_kind("breaker", "fuse")}
        self._ssrs = [i for i, b in enumerate(branches) if b.sort is Sort.SSR]
        self._wires = np.array([b.sort is Sort.WIRE for b in branches], dtype=bool)
        self._wire_ends = [(b.name, self._index[b.a], self._index[b.b]) for b in branches if b.sort is Sort.WIRE]
        self._joined: dict[frozenset[str], tuple[NDArray[np.int_], int]] = {}
        self._guards = [i for i, b in enumerate(branches) if b.breaks]

    @property
    def branches(self) -> tuple[Branch, ...]:
        """Everything that can conduct."""
        return self._branches

    def solve(self, switching: Switching, fault: Fault = SOUND) -> Solution:
        """Settle and solve. ``settled`` is False where contacts keep changing."""
        state, tripped = self._through_trips(switching, fault)
        return self._solution(state, tripped, fault)

    def network(self, switching: Switching) -> tuple[list[tuple[Branch, float]], tuple[Source, ...]]:
        """What conducts once settled, with its ohms, and the sources that give: for a netlist."""
        state, _ = self._through_trips(switching, SOUND)
        ohms = np.divide(state.volts, state.amps, out=np.full(len(state.amps), np.nan), where=state.amps > 0)
        found = [
            (b, b.ohm if b.sort is not Sort.SSR or not np.isfinite(ohm) else float(ohm))
            for b, ohm, m in zip(self._branches, ohms, state.mask, strict=True)
            if m
        ]
        return found, state.live

    def settled(self, switching: Switching) -> frozenset[str]:
        """What is on once a sound circuit has settled: where a failure finds it."""
        return self._through_trips(switching, SOUND)[0].on

    def heat(
        self, switching: Switching, fault: Fault = SOUND, start: frozenset[str] = frozenset()
    ) -> tuple[float, dict[str, float]]:
        """Power in W of all heaters, and what tripped; quicker than :meth:`solve`. ``start``: what is on when it begins."""
        state, tripped = self._through_trips(switching, fault, start)
        heaters = self._heaters[state.mask[self._heaters]]
        return float(np.sum(state.volts[heaters] * state.amps[heaters])), tripped

    def _is_heater(self, i: int) -> bool:
        part = self._kinds.get(self._branches[i].name)
        return part is not None and part.type.family == "heater"

    def _through_trips(
        self, switching: Switching, fault: Fault, start: frozenset[str] = frozenset()
    ) -> tuple[_Round, dict[str, float]]:
        tripped: dict[str, float] = {}
        while True:
            state = self._settle(switching, fault, frozenset(tripped), start)
            opening = self._opening(state, TRIPS_AT)
            if not opening:
                return state, tripped
            tripped |= opening

    def _settle(self, switching: Switching, fault: Fault, tripped: frozenset[str], start: frozenset[str]) -> _Round:
        """Contacts, SSRs and drives until nothing changes; a device far beyond its rating opens before any coil moves."""
        on = start
        seen: list[frozenset[str]] = []
        g = self._g.copy()
        for _ in range(ROUNDS):
            state = self._once(switching, fault, on, g, tripped)
            if self._opening(state, AT_ONCE):
                return state
            following = self._following(state)
            moved = self._ssr_ohms(state, g)
            if following == on and not moved:
                return state
            if following != on and following in seen:
                break
            seen.append(on)
            on = following
        return replace(state, settled=False)

    def _opening(self, state: _Round, times: float) -> dict[str, float]:
        """The protective device furthest above ``times`` its rating, with its current."""
        worst, most = "", times
        for i in self._guards:
            if state.mask[i]:
                name = self._branches[i].name
                share = state.amps[i] / self._ratings[name]
                if share > most:
                    worst, most = name, share
        return {worst: most * self._ratings[worst]} if worst else {}

    def _following(self, state: _Round) -> frozenset[str]:
        """Parts whose coil, supply or control input is on at these voltages."""
        if state.on not in self._holding:
            self._holding[state.on] = np.array([name in state.on for name in self._load_names], dtype=bool)
        least = np.where(self._holding[state.on], self._drop_out, self._pull_in)
        alive = (state.volts[self._loads] >= least) & state.mask[self._loads]
        return frozenset(self._load_names[i] for i in np.flatnonzero(alive))

    def _thresholds(self, name: str) -> tuple[float, float]:
        """Volts at which a load comes on, and below which it goes off again."""
        if name.endswith(" input"):
            return SSR_ON_V, SSR_ON_V
        part = self._kinds[name]
        coil = part.type.family in ("relay", "contactor")
        rated = part.number("coil_v" if coil else "voltage_v", self.supply_v)
        if coil:
            return PULL_IN * rated, DROP_OUT * rated
        least = (HEATS if part.type.family == "heater" else RUNS) * rated
        return least, least

    def _ssr_ohms(self, state: _Round, g: NDArray[np.float64]) -> bool:
        """Set each conducting SSR's resistance so that it drops 1.2 V; True while that still changes."""
        moved = False
        for i in self._ssrs:
            if state.mask[i] and state.amps[i] > 0.01:
                wanted = state.amps[i] / SSR_DROP_V
                moved = moved or abs(g[i] - wanted) > 0.02 * wanted
                g[i] = min(max(wanted, 0.1), 1e3)
        return moved

    def _conducts(self, branch: Branch, switching: Switching, on: frozenset[str]) -> bool:
        closed, powered = branch.closed, branch.name in on
        if closed in (Closed.ALWAYS, Closed.LOAD):
            return True
        if closed in (Closed.COIL, Closed.NOT_COIL):
            return powered is (closed is Closed.COIL)
        if closed in (Closed.OUTPUT, Closed.NOT_OUTPUT):
            return (powered and switching.output_on) is (closed is Closed.OUTPUT)
        if closed in (Closed.LIMIT_OK, Closed.LIMIT_TRIPPED):
            return (powered and not switching.limit_tripped) is (closed is Closed.LIMIT_OK)
        return (f"{branch.name} input" in on) is (closed is Closed.DRIVEN)

    def _mask(
        self, switching: Switching, fault: Fault, on: frozenset[str], tripped: frozenset[str]
    ) -> NDArray[np.bool_]:
        mask = np.ones(len(self._branches), dtype=bool)
        for i in self._switched:
            branch = self._branches[i]
            mask[i] = branch.name in fault.closed or self._conducts(branch, switching, on)
        for name in (*fault.opened, *tripped):
            mask[self._by_name.get(name, [])] = False
        return mask

    def _once(
        self,
        switching: Switching,
        fault: Fault,
        on: frozenset[str],
        g: NDArray[np.float64],
        tripped: frozenset[str],
    ) -> _Round:
        mask = self._mask(switching, fault, on, tripped)
        live = [s for s in self._sources if s.name not in fault.gone and self._gives(s, switching, on)]
        place, size = self._places(frozenset(n for n in fault.opened if n.startswith("wire ")))
        stamped = mask & ~self._wires if self.ideal_wires else mask
        admittance = np.zeros((size, size))
        _stamp(admittance, place[self._a[stamped]], place[self._b[stamped]], g[stamped])
        for a, b in fault.joined:
            if a in self._index and b in self._index:
                _stamp(admittance, place[[self._index[a]]], place[[self._index[b]]], np.array([1e3]))
        for node in self._earths:
            admittance[place[self._index[node]], place[self._index[node]]] += 1e3
        admittance[np.arange(size), np.arange(size)] += TIE_S
        currents = np.zeros((size, 2), dtype=complex)
        for s in live:
            i, j = place[self._index[s.node]], place[self._index[s.back]]
            admittance[i, i] += 1.0 / s.ohm
            admittance[j, j] += 1.0 / s.ohm
            admittance[i, j] -= 1.0 / s.ohm
            admittance[j, i] -= 1.0 / s.ohm
            currents[i, int(s.dc)] += s.volts / s.ohm
            currents[j, int(s.dc)] -= s.volts / s.ohm
        nodes = _solved(admittance, currents)[place]
        across = nodes[self._a] - nodes[self._b]
        volts = np.sqrt(np.sum(np.abs(across) ** 2, axis=1))
        return _Round(on, mask, volts, volts * g * mask, nodes, tuple(live), True)

    def _places(self, opened: frozenset[str]) -> tuple[NDArray[np.int_], int]:
        """The matrix row of every terminal, and how many rows: with ideal wires one for all that are joined."""
        if not self.ideal_wires:
            return np.arange(len(self._index)), len(self._index)
        if opened not in self._joined:
            root = list(range(len(self._index)))

            def find(i: int) -> int:
                while root[i] != i:
                    root[i] = root[root[i]]
                    i = root[i]
                return i

            for name, a, b in self._wire_ends:
                if name not in opened:
                    root[find(a)] = find(b)
            labels, rows = np.unique([find(i) for i in range(len(root))], return_inverse=True)
            self._joined[opened] = (rows, len(labels))
        return self._joined[opened]

    def _solution(self, state: _Round, tripped: dict[str, float], fault: Fault) -> Solution:
        conducting = [b for b, m in zip(self._branches, state.mask, strict=True) if m]
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
            {name: complex(state.nodes[i, 0]) for name, i in self._index.items()},
            {name: float(state.nodes[i, 1].real) for name, i in self._index.items()},
            tripped,
            self._unreached([*((b.a, b.b) for b in conducting), *fault.joined], state.live),
            state.settled,
        )

    def _gives(self, source: Source, switching: Switching, on: frozenset[str]) -> bool:
        if not source.by:
            return True
        return source.by in on and (switching.output_on or not source.name.endswith(" drive"))

    def _unreached(self, joined: Iterable[tuple[str, str]], live: Iterable[Source]) -> frozenset[str]:
        near: dict[str, list[str]] = {}
        for a, b in joined:
            near.setdefault(a, []).append(b)
            near.setdefault(b, []).append(a)
        waiting = [n for s in live for n in (s.node, s.back)] + list(self._earths)
        found = set(waiting)
        while waiting:
            for following in near.get(waiting.pop(), ()):
                if following not in found:
                    found.add(following)
                    waiting.append(following)
        return frozenset(set(self._index) - found)


def _solved(admittance: NDArray[np.float64], currents: NDArray[np.complex128]) -> NDArray[np.complex128]:
    """Node voltages. The matrix is real, so real and imaginary parts are right-hand sides of one factorisation."""
    sides = np.hstack((currents.real, currents.imag))
    volts = dgesv(admittance, sides)[2]
    half = currents.shape[1]
    return np.asarray(volts[:, :half] + 1j * volts[:, half:])


def _stamp(matrix: NDArray[np.float64], a: NDArray[np.int_], b: NDArray[np.int_], g: NDArray[np.float64]) -> None:
    np.add.at(matrix, (a, a), g)
    np.add.at(matrix, (b, b), g)
    np.add.at(matrix, (a, b), -g)
    np.add.at(matrix, (b, a), -g)


def _summed(branches: list[Branch], through: list[Through], sorts: tuple[Sort, ...]) -> dict[str, Through]:
    """By name: the highest voltage and current of its branches, their power together."""
    found: dict[str, Through] = {}
    for branch, t in zip(branches, through, strict=True):
        if branch.sort in sorts:
            was = found.get(branch.name, Through(0.0, 0.0, 0.0))
            found[branch.name] = Through(max(was.volts, t.volts), max(was.amps, t.amps), was.watts + t.watts)
    return found
