"""The linear circuit: branches, sources and earth ties over numbered nodes, solved as ``Y v = i``.

AC (rms phasors at mains frequency) and DC are separate right-hand sides of one real matrix. Every node is tied to earth by
1 nS, which only makes floating islands solvable: a node no source reaches is reported as undefined. Sources are Norton
equivalents behind their own impedance, so no loop is ideal.
"""

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray
from scipy.linalg.lapack import dgesv

from .branches import Branch, Sort, Source
from .solution import Fault

TIE_S = 1e-9
BRIDGE_S = 1e3
Nodes = NDArray[np.complex128]


class Network:
    """Fixed branches and sources, solved again and again with some of them in and some out.

    ``ideal``: wires have no resistance and join their ends to one node: many solutions quickly, without wire currents.
    """

    def __init__(
        self,
        branches: tuple[Branch, ...],
        sources: tuple[Source, ...],
        ties: Iterable[tuple[str, float]],
        names: Iterable[str],
        ideal: bool,
    ) -> None:
        self.branches, self.sources, self.ideal = branches, sources, ideal
        nodes = set(names) | {n for b in branches for n in (b.a, b.b)} | {n for s in sources for n in (s.node, s.back)}
        self.index = {name: i for i, name in enumerate(sorted(nodes))}
        self.a = np.array([self.index[b.a] for b in branches], dtype=int)
        self.b = np.array([self.index[b.b] for b in branches], dtype=int)
        self.conductance = np.array([1.0 / b.ohm for b in branches])
        self.is_wire = np.array([b.sort is Sort.WIRE for b in branches], dtype=bool)
        self.ties = tuple(ties)
        self._tied = [(self.index[node], s) for node, s in self.ties]
        self._wire_ends = {b.name: (self.index[b.a], self.index[b.b]) for b in branches if b.sort is Sort.WIRE}
        self._beside: dict[int, list[tuple[str, int]]] = {}
        for name, (a, b) in self._wire_ends.items():
            self._beside.setdefault(a, []).append((name, b))
            self._beside.setdefault(b, []).append((name, a))
        others = [n for x in branches if x.sort is not Sort.WIRE for n in (x.a, x.b)]
        others += [n for s in sources for n in (s.node, s.back)] + [n for n, _ in self.ties]
        self._matters = frozenset(self.index[n] for n in others)
        self._joined: dict[tuple[frozenset[str], frozenset[int]], tuple[NDArray[np.int_], int]] = {}
        self._by_name: dict[str, list[int]] = {}
        for i, branch in enumerate(branches):
            self._by_name.setdefault(branch.name, []).append(i)

    def named(self, name: str) -> list[int]:
        """The branches of this name."""
        return self._by_name.get(name, [])

    def solve(
        self, mask: NDArray[np.bool_], conductance: NDArray[np.float64], live: Iterable[Source], fault: Fault
    ) -> Nodes:
        """Voltages of all nodes against earth: column 0 AC, column 1 DC."""
        place, size = self._places(frozenset(n for n in fault.opened if n.startswith("wire ")), self._touched(fault))
        stamped = mask & ~self.is_wire if self.ideal else mask
        y = _stamped(place[self.a[stamped]], place[self.b[stamped]], conductance[stamped], size)
        for a, b, siemens in self._bridges(fault):
            i, j = place[a], place[b]
            y[i, i] += siemens
            y[j, j] += siemens
            y[i, j] -= siemens
            y[j, i] -= siemens
        for node, siemens in self._tied:
            y[place[node], place[node]] += siemens
        y[np.arange(size), np.arange(size)] += TIE_S
        sides = np.zeros((size, 4), order="F")  # AC real, DC, AC imaginary, nothing: columns of one factorisation
        for s in live:
            i, j, g = place[self.index[s.node]], place[self.index[s.back]], 1.0 / s.ohm
            y[i, i] += g
            y[j, j] += g
            y[i, j] -= g
            y[j, i] -= g
            value = s.volts * g
            sides[i, int(s.dc)] += value.real
            sides[j, int(s.dc)] -= value.real
            sides[i, 2] += value.imag
            sides[j, 2] -= value.imag
        # the matrix is real and symmetric: its transpose is the same, and laid out as the solver wants it
        volts = dgesv(y.T, sides, overwrite_a=1, overwrite_b=1)[2]
        return np.asarray((volts[:, :2] + 1j * volts[:, 2:])[place])

    def _bridges(self, fault: Fault) -> list[tuple[int, int, float]]:
        """What a fault joins: bridged terminals, and both halves of a load that touches something along its length."""
        found = [
            (self.index[a], self.index[b], BRIDGE_S) for a, b in fault.joined if a in self.index and b in self.index
        ]
        for a, b, siemens in self.halves(fault):
            found.append((self.index[a], self.index[b], siemens))
        return found

    def halves(self, fault: Fault) -> list[tuple[str, str, float]]:
        """The two pieces of every tapped load, as (node, node, conductance in S)."""
        found = []
        for name, fraction, node in fault.tapped:
            if node in self.index and self.named(name):
                branch = self.branches[self.named(name)[0]]
                share = min(max(fraction, 0.01), 0.99)
                found += [(branch.a, node, 1 / (branch.ohm * share)), (node, branch.b, 1 / (branch.ohm * (1 - share)))]
        return found

    def _touched(self, fault: Fault) -> frozenset[int]:
        """Nodes a fault joins to something: they matter, whatever else hangs on them."""
        names = [n for pair in fault.joined for n in pair] + [node for _, _, node in fault.tapped]
        return frozenset(self.index[n] for n in names if n in self.index)

    def _places(self, opened: frozenset[str], touched: frozenset[int] = frozenset()) -> tuple[NDArray[np.int_], int]:
        """The matrix row of every node, and how many rows: with ideal wires one for all that are joined."""
        if not self.ideal:
            return np.arange(len(self.index)), len(self.index)
        key = (opened, touched)
        if key not in self._joined:
            self._joined[key] = (
                self._parted(*self._places(frozenset()), opened, touched | self._matters)
                if opened
                else self._together()
            )
        return self._joined[key]

    def _together(self) -> tuple[NDArray[np.int_], int]:
        """One row for all nodes that wires join."""
        place = np.full(len(self.index), -1)
        size = 0
        for start in range(len(place)):
            if place[start] < 0:
                place[list(self._side(start, frozenset()))] = size
                size += 1
        return place, size

    def _parted(
        self, place: NDArray[np.int_], size: int, opened: frozenset[str], matters: frozenset[int]
    ) -> tuple[NDArray[np.int_], int]:
        """The same with some wires off: what is cut off from the rest gets a row of its own, if anything hangs on it."""
        place = place.copy()
        for name in opened & self._wire_ends.keys():
            a, b = self._wire_ends[name]
            side = self._side(a, opened)
            if b in side or not side & matters:
                continue
            other = self._side(b, opened)
            if other & matters:
                place[list(side)] = size
                size += 1
        return place, size

    def _side(self, start: int, opened: frozenset[str]) -> set[int]:
        """Nodes that wires join to this one."""
        found, waiting = {start}, [start]
        while waiting:
            for name, following in self._beside.get(waiting.pop(), ()):
                if following not in found and name not in opened:
                    found.add(following)
                    waiting.append(following)
        return found

    def parts_off(self, wires: frozenset[str]) -> frozenset[str] | None:
        """What goes dead when these wires come off, with ideal wires: names of the loads that then hang on a single
        net, and so carry nothing. None where more than that changes."""
        size = self._places(frozenset())[1]
        cut_off, new_size = self._places(wires)
        if new_size == size:
            return frozenset()
        if new_size != size + 1:
            return None
        side = cut_off == size
        if any(side[self.index[n]] for s in self.sources for n in (s.node, s.back)) or any(
            side[i] for i, _ in self._tied
        ):
            return None
        touching = (side[self.a] | side[self.b]) & ~self.is_wire
        far = np.concatenate((cut_off[self.a[touching]], cut_off[self.b[touching]]))
        hanging = [self.branches[i] for i in np.flatnonzero(touching)]
        if len(np.unique(far[far != size])) > 1 or any(b.sort is not Sort.LOAD for b in hanging):
            return None
        return frozenset(b.name for b in hanging)

    def unreached(self, joined: Iterable[tuple[str, str]], live: Iterable[Source]) -> frozenset[str]:
        """Nodes that no source and no earth reaches through what conducts."""
        near: dict[str, list[str]] = {}
        for a, b in joined:
            near.setdefault(a, []).append(b)
            near.setdefault(b, []).append(a)
        waiting = [n for s in live for n in (s.node, s.back)] + [node for node, _ in self.ties]
        found = set(waiting)
        while waiting:
            for following in near.get(waiting.pop(), ()):
                if following not in found:
                    found.add(following)
                    waiting.append(following)
        return frozenset(set(self.index) - found)


def _stamped(a: NDArray[np.int_], b: NDArray[np.int_], g: NDArray[np.float64], size: int) -> NDArray[np.float64]:
    """The admittance matrix of branches from ``a`` to ``b``."""
    places = np.concatenate((a * size + a, b * size + b, a * size + b, b * size + a))
    matrix = np.bincount(places, np.concatenate((g, g, -g, -g)), size * size)
    return np.asarray(matrix.reshape((size, size)), dtype=np.float64)
