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
        self._wire_ends = [(b.name, self.index[b.a], self.index[b.b]) for b in branches if b.sort is Sort.WIRE]
        self._joined: dict[frozenset[str], tuple[NDArray[np.int_], int]] = {}
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
        place, size = self._places(frozenset(n for n in fault.opened if n.startswith("wire ")))
        stamped = mask & ~self.is_wire if self.ideal else mask
        y = np.zeros((size, size))
        _stamp(y, place[self.a[stamped]], place[self.b[stamped]], conductance[stamped])
        for a, b, siemens in self._bridges(fault):
            _stamp(y, place[[a]], place[[b]], np.array([siemens]))
        for node, siemens in self._tied:
            y[place[node], place[node]] += siemens
        y[np.arange(size), np.arange(size)] += TIE_S
        currents = np.zeros((size, 2), dtype=complex)
        for s in live:
            i, j, g = place[self.index[s.node]], place[self.index[s.back]], 1.0 / s.ohm
            y[i, i] += g
            y[j, j] += g
            y[i, j] -= g
            y[j, i] -= g
            currents[i, int(s.dc)] += s.volts * g
            currents[j, int(s.dc)] -= s.volts * g
        return _solved(y, currents)[place]

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

    def _places(self, opened: frozenset[str]) -> tuple[NDArray[np.int_], int]:
        """The matrix row of every node, and how many rows: with ideal wires one for all that are joined."""
        if not self.ideal:
            return np.arange(len(self.index)), len(self.index)
        if opened not in self._joined:
            root = list(range(len(self.index)))

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


def _solved(y: NDArray[np.float64], currents: Nodes) -> Nodes:
    """The matrix is real, so real and imaginary parts are right-hand sides of one factorisation."""
    sides = np.hstack((currents.real, currents.imag))
    volts = dgesv(y, sides)[2]
    half = currents.shape[1]
    return np.asarray(volts[:, :half] + 1j * volts[:, half:])


def _stamp(matrix: NDArray[np.float64], a: NDArray[np.int_], b: NDArray[np.int_], g: NDArray[np.float64]) -> None:
    np.add.at(matrix, (a, a), g)
    np.add.at(matrix, (b, b), g)
    np.add.at(matrix, (a, b), -g)
    np.add.at(matrix, (b, a), -g)
