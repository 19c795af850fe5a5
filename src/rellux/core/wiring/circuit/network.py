"""The linear circuit: branches, sources and earth ties over numbered nodes, solved as ``Y v = i``.

AC (rms phasors at mains frequency) and DC are separate right-hand sides of one real symmetric matrix. Every node is tied to
earth by 1 nS, which only makes floating islands solvable: a node no source reaches is reported as undefined. Sources are
Norton equivalents behind their own impedance, so no loop is ideal. Which entries the matrix has does not depend on what
conducts, so it is ordered once and factorised anew (sparse ``L D Lᵀ``) for every position and failure.
"""

from collections.abc import Iterable

import numpy as np
import qdldl
import scipy
from numpy.typing import NDArray

from ..names import TerminalName
from .branches import Branch, Sort, Source
from .solution import Fault

NONE: NDArray[np.int_] = np.zeros(0, dtype=int)
NOWHERE = TerminalName("*")
"""The one node of a network without parts."""
TIE_S = 1e-9
BRIDGE_S = 1e3
NEAREST = 0.01
"""Share of a load's length left at either end of a tap (numerical)."""
Nodes = NDArray[np.float64]
"""Volts of every node against earth: rows AC real, AC imaginary, DC."""
Injected = tuple[NDArray[np.float64], list[tuple[int, NDArray[np.float64]]]]
Extra = tuple[int, int, float]
"""A piece a fault adds: from node, to node, conductance in S."""


class NodalNetwork:
    """Fixed branches and sources, solved again and again with some of them in and some out."""

    def __init__(
        self,
        branches: tuple[Branch, ...],
        sources: tuple[Source, ...],
        ties: Iterable[tuple[TerminalName, float]],
        names: Iterable[TerminalName],
    ) -> None:
        self.branches, self.sources = branches, sources
        nodes: set[TerminalName] = (
            set(names) | {n for b in branches for n in (b.a, b.b)} | {n for s in sources for n in (s.node, s.back)}
        )
        self.index = {name: i for i, name in enumerate(sorted(nodes or {NOWHERE}))}
        self.a = np.array([self.index[b.a] for b in branches], dtype=int)
        self.b = np.array([self.index[b.b] for b in branches], dtype=int)
        self.conductance = np.array([1.0 / b.ohm for b in branches])
        self.ties = tuple(ties)
        self._source_ends = [(self.index[s.node], self.index[s.back]) for s in sources]
        self._norton: dict[tuple[bool, ...], Injected] = {}
        self._factors: dict[tuple[tuple[tuple[int, int], ...], bool], _Factors] = {}
        by_name: dict[str, list[int]] = {}
        for i, branch in enumerate(branches):
            for name in (branch.name, branch.at):
                by_name.setdefault(name, []).append(i)
        self._by_name = {name: np.array(found) for name, found in by_name.items()}

    def named(self, name: str) -> NDArray[np.int_]:
        """The branches of this name, or of this path."""
        return self._by_name.get(name, NONE)

    def solve(
        self, mask: NDArray[np.bool_], conductance: NDArray[np.float64], live: tuple[bool, ...], fault: Fault
    ) -> Nodes:
        """Voltages of all nodes; ``live``: which of the sources give."""
        if live not in self._norton:
            self._norton[live] = self._injected(live)
        inner, sides = self._norton[live]
        extra = self.extra(fault)
        factors = self._factors_for(extra)
        factors.renew((conductance * mask, inner, *_siemens(extra)))
        nodes = np.zeros((3, len(self.index)))
        for row, side in sides:
            nodes[row] = factors.solve(side)
        return nodes

    def _injected(self, live: tuple[bool, ...]) -> Injected:
        """Inner conductance of every source, and the currents those that give inject at the nodes, row by row."""
        inner = np.array([gives / s.ohm for s, gives in zip(self.sources, live, strict=True)])
        sides = np.zeros((3, len(self.index)))
        for s, (i, j), g in zip(self.sources, self._source_ends, inner, strict=True):
            value = s.volts * g
            for row, amps in ((2, value.real),) if s.dc else ((0, value.real), (1, value.imag)):
                sides[row, i] += amps
                sides[row, j] -= amps
        return inner, [(row, side) for row, side in enumerate(sides) if side.any()]

    def ohms(
        self,
        mask: NDArray[np.bool_],
        fault: Fault,
        a: TerminalName,
        b: TerminalName,
        conductance: NDArray[np.float64] | None = None,
    ) -> float:
        """Resistance in Ω between two nodes with the supply unplugged, sources, its earth and all; tens of MΩ and more where
        nothing joins them. ``conductance`` of every branch in S, where it is not the usual one."""
        extra = self.extra(fault)
        factors = self._factors_for(extra, earthed=False)
        siemens = self.conductance if conductance is None else conductance
        factors.renew((siemens * mask, np.zeros(len(self.sources)), *_siemens(extra)))
        i, j = self.index[a], self.index[b]
        ampere = np.zeros(len(self.index))
        ampere[i], ampere[j] = 1.0, -1.0
        volts = factors.solve(ampere)
        return float(volts[i] - volts[j])

    def extra(self, fault: Fault) -> tuple[Extra, ...]:
        """What a fault joins: bridged terminals, and both halves of a load that touches something along its length."""
        if not fault.joined and not fault.tapped:
            return ()
        bridges = tuple(
            (self.index[a], self.index[b], BRIDGE_S) for a, b in fault.joined if a in self.index and b in self.index
        )
        return bridges + self.halves(fault)

    def halves(self, fault: Fault) -> tuple[Extra, ...]:
        """The two pieces of every tapped load."""
        found: list[Extra] = []
        for name, fraction, node in fault.tapped:
            if node in self.index and len(self.named(name)):
                branch = self.branches[self.named(name)[0]]
                share = min(max(fraction, NEAREST), 1.0 - NEAREST)
                a, b, touched = self.index[branch.a], self.index[branch.b], self.index[node]
                pieces = (a, touched, 1 / (branch.ohm * share)), (touched, b, 1 / (branch.ohm * (1 - share)))
                found += [piece for piece in pieces if piece[0] != piece[1]]
        return tuple(found)

    def _factors_for(self, extra: tuple[Extra, ...], earthed: bool = True) -> "_Factors":
        """The matrix with room for these pieces."""
        ends = tuple((i, j) for i, j, _ in extra)
        if (ends, earthed) not in self._factors:
            pairs = np.array([*zip(self.a, self.b, strict=True), *self._source_ends, *ends], dtype=int).reshape(-1, 2)
            tied = np.full(len(self.index), TIE_S)
            for node, siemens in self.ties if earthed else ():
                tied[self.index[node]] += siemens
            self._factors[ends, earthed] = _Factors(pairs, tied)
        return self._factors[ends, earthed]

    def in_series(self) -> dict[str, str]:
        """For every wire the first of those in series with it: between two of them lie only nodes where nothing branches
        off, so that it is the same which of them comes off."""
        at: dict[int, list[int]] = {}
        for i, (a, b) in enumerate(zip(self.a, self.b, strict=True)):
            at.setdefault(int(a), []).append(i)
            at.setdefault(int(b), []).append(i)
        ends = {n for pair in self._source_ends for n in pair} | {self.index[node] for node, _ in self.ties}
        first = list(range(len(self.branches)))

        def root(i: int) -> int:
            while first[i] != i:
                i = first[i]
            return i

        for node, pair in at.items():
            if len(pair) == 2 and node not in ends:
                one, other = sorted((root(pair[0]), root(pair[1])))
                first[other] = one
        names = [b.name for b in self.branches]
        return {names[i]: names[root(i)] for i, b in enumerate(self.branches) if b.sort is Sort.WIRE}

    def unreached(self, mask: NDArray[np.bool_], live: tuple[bool, ...], fault: Fault) -> dict[TerminalName, int]:
        """Nodes that no source and no earth reaches through what conducts, each with its island's number."""
        size = len(self.index)
        pairs = [*zip(self.a[mask], self.b[mask], strict=True), *((i, j) for i, j, _ in self.extra(fault))]
        rows, columns = np.array(pairs, dtype=int).reshape(-1, 2).T
        joined = scipy.sparse.csc_matrix((np.ones(len(rows)), (rows, columns)), shape=(size, size))
        _, island = scipy.sparse.csgraph.connected_components(joined, directed=False)
        held = [n for ends, gives in zip(self._source_ends, live, strict=True) if gives for n in ends]
        held += [self.index[node] for node, _ in self.ties]
        reached = set(island[held])
        return {name: int(island[i]) for name, i in self.index.items() if island[i] not in reached}


def _siemens(extra: tuple[Extra, ...]) -> tuple[NDArray[np.float64], ...]:
    return (np.array([g for _, _, g in extra]),) if extra else ()


class _Factors:
    """The admittance matrix as its upper triangle, entries always at the same places, factorised anew when they change."""

    def __init__(self, pairs: NDArray[np.int_], tied: NDArray[np.float64]) -> None:
        size = len(tied)
        a, b = pairs[:, 0], pairs[:, 1]
        diagonal = np.arange(size) * (size + 1)
        off = np.maximum(a, b) * size + np.minimum(a, b)  # by column, as sparse columns are kept
        places, at = np.unique(np.concatenate((diagonal, off)), return_inverse=True)
        self._entries = np.concatenate((at[a], at[b], at[size:]))
        self._tied = np.bincount(at[:size], tied, len(places))
        columns, rows = np.divmod(places, size)
        starts = np.searchsorted(columns, np.arange(size + 1))
        self._matrix = scipy.sparse.csc_matrix((self._tied, rows, starts), shape=(size, size))
        self._matrix.data = self._data((np.ones(len(pairs)),))
        self._solver = qdldl.Solver(self._matrix, upper=True)

    def _data(self, siemens: tuple[NDArray[np.float64], ...]) -> NDArray[np.float64]:
        g = np.concatenate(siemens)
        entries = np.bincount(self._entries, np.concatenate((g, g, -g)), len(self._tied))
        return np.asarray(entries + self._tied, dtype=np.float64)

    def renew(self, siemens: tuple[NDArray[np.float64], ...]) -> None:
        """Take these conductances of all pairs, in S: of branches, sources and extra pieces."""
        self._matrix.data = self._data(siemens)
        self._solver.update(self._matrix, upper=True)

    def solve(self, amps: NDArray[np.float64]) -> NDArray[np.float64]:
        """Node voltages in V for the currents injected, in A."""
        return np.asarray(self._solver.solve(amps))
