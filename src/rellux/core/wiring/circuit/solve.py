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
    """A connection list ready to be solved in any state. ``supply_v`` is what parts without ratings are taken for."""

    wiring: ConnectionList
    supply_v: float
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
        self._ssrs = [i for i, b in enumerate(branches) if b.sort is Sort.SSR]
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

    def heat(self, switching: Switching, fault: Fault = SOUND) -> tuple[float, dict[str, float]]:
        """Power in W of all heaters, and what tripped; quicker than :meth:`solve`."""
        state, tripped = self._through_trips(switching, fault)
        heaters = [
            i for i in self._loads if self._branches[i].name in self._kinds and self._is_heater(i) and state.mask[i]
        ]
        return float(np.sum(state.volts[heaters] * state.amps[heaters])), tripped

    def _is_heater(self, i: int) -> bool:
        return self._kinds[self._branches[i].name].type.family == "heater"

    def _through_trips(self, switching: Switching, fault: Fault) -> tuple[_Round, dict[str, float]]:
        tripped: dict[str, float] = {}
        while True:
            state = self._settle(switching, fault, frozenset(tripped))
            opening = self._opening(state, TRIPS_AT)
            if not opening:
                return state, tripped
            tripped |= opening

    def _settle(self, switching: Switching, fault: Fault, tripped: frozenset[str]) -> _Round:
        """Contacts, SSRs and drives until nothing changes; a device far beyond its rating opens before any coil moves."""
        on: frozenset[str] = frozenset()
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
                share = state.amps[i] / self._kinds[name].number("current_a", 1e9)
                if share > most:
                    worst, most = name, share
        return {worst: most * self._kinds[worst].number("current_a", 1e9)} if worst else {}

    def _following(self, state: _Round) -> frozenset[str]:
        """Parts whose coil, supply or control input is on at these voltages."""
        found = set()
        for i in self._loads:
            if not state.mask[i]:
                continue
            name = self._branches[i].name
            if name.endswith(" input"):
                if state.volts[i] >= SSR_ON_V:
                    found.add(name)
                continue
            part = self._kinds[name]
            coil = part.type.family in ("relay", "contactor")
            rated = part.number("coil_v" if coil else "voltage_v", self.supply_v)
            least = (DROP_OUT if name in state.on else PULL_IN) if coil else RUNS
            if part.type.family == "heater":
                least = HEATS
            if state.volts[i] >= least * rated:
                found.add(name)
        return frozenset(found)

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
        powered, driven = branch.name in on, f"{branch.name} input" in on
        return {
            Closed.ALWAYS: True,
            Closed.LOAD: True,
            Closed.COIL: powered,
            Closed.NOT_COIL: not powered,
            Closed.OUTPUT: powered and switching.output_on,
            Closed.NOT_OUTPUT: not (powered and switching.output_on),
            Closed.LIMIT_OK: powered and not switching.limit_tripped,
            Closed.LIMIT_TRIPPED: not powered or switching.limit_tripped,
            Closed.DRIVEN: driven,
            Closed.NOT_DRIVEN: not driven,
        }[branch.closed]

    def _mask(
        self, switching: Switching, fault: Fault, on: frozenset[str], tripped: frozenset[str]
    ) -> NDArray[np.bool_]:
        mask = np.ones(len(self._branches), dtype=bool)
        for i in self._switched:
            branch = self._branches[i]
            mask[i] = branch.name in fault.closed or self._conducts(branch, switching, on)
        opened = fault.opened | tripped
        if opened:
            mask &= np.array([b.name not in opened for b in self._branches])
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
        size = len(self._index)
        admittance = np.zeros((size, size))
        _stamp(admittance, self._a[mask], self._b[mask], g[mask])
        for a, b in fault.joined:
            if a in self._index and b in self._index:
                _stamp(admittance, np.array([self._index[a]]), np.array([self._index[b]]), np.array([1e3]))
        for node in self._earths:
            admittance[self._index[node], self._index[node]] += 1e3
        admittance[np.arange(size), np.arange(size)] += TIE_S
        currents = np.zeros((size, 2), dtype=complex)
        for s in live:
            i, j = self._index[s.node], self._index[s.back]
            _stamp(admittance, np.array([i]), np.array([j]), np.array([1.0 / s.ohm]))
            currents[i, int(s.dc)] += s.volts / s.ohm
            currents[j, int(s.dc)] -= s.volts / s.ohm
        nodes = np.asarray(np.linalg.solve(admittance, currents), dtype=np.complex128)
        across = nodes[self._a] - nodes[self._b]
        volts = np.sqrt(np.sum(np.abs(across) ** 2, axis=1))
        return _Round(on, mask, volts, volts * g * mask, nodes, tuple(live), True)

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
