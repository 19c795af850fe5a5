"""Which wires and parts a measurement goes through: what lies on some way from one terminal to the other."""

from collections.abc import Iterable

import numpy as np

from ..wiring.circuit.branches import DRIVEN, Branch, Sort
from ..wiring.circuit.solve import CircuitSolver
from ..wiring.model import Closed, Part, Role
from ..wiring.names import TerminalName

CARRIES = 1e-9
"""Share of the whole current from which a branch lies on a way (numerical)."""
SEED = 1
Edge = tuple[str, TerminalName, TerminalName]
"""A wire or part by name, and two terminals that it joins."""


def edges_of(branches: Iterable[Branch]) -> list[Edge]:
    return [(b.name, b.a, b.b) for b in branches]


def reached(edges: Iterable[Edge], start: TerminalName) -> frozenset[TerminalName]:
    """Terminals that hang together with one."""
    beside: dict[TerminalName, list[TerminalName]] = {}
    for _, a, b in edges:
        beside.setdefault(a, []).append(b)
        beside.setdefault(b, []).append(a)
    found, todo = {start}, [start]
    while todo:
        for near in beside.get(todo.pop(), ()):
            if near not in found:
                found.add(near)
                todo.append(near)
    return frozenset(found)


def between(edges: list[Edge], a: TerminalName, b: TerminalName) -> frozenset[str]:
    """Names of what lies on some way from ``a`` to ``b`` that passes no terminal twice; empty where there is none.

    A branch lies on such a way just where it carries current between the two in a network of generic resistances (Kirchhoff).
    """
    there = reached(edges, a)
    if b not in there or a == b:
        return frozenset()
    index = {node: i for i, node in enumerate(sorted(there))}
    inside = [(name, index[x], index[y]) for name, x, y in edges if x in index and x != y]
    siemens = np.random.default_rng(SEED).uniform(1.0, 2.0, len(inside))
    laplacian = np.zeros((len(index), len(index)))
    for (_, x, y), g in zip(inside, siemens, strict=True):
        laplacian[[x, y], [x, y]] += g
        laplacian[[x, y], [y, x]] -= g
    inflow = np.zeros(len(index))
    inflow[index[a]] = 1.0
    kept = np.arange(len(index)) != index[b]
    volts = np.zeros(len(index))
    volts[kept] = np.linalg.solve(laplacian[np.ix_(kept, kept)], inflow[kept])
    return frozenset(
        name for (name, x, y), g in zip(inside, siemens, strict=True) if abs(volts[x] - volts[y]) * g > CARRIES
    )


def feeding(circuit: CircuitSolver, ends: Iterable[TerminalName]) -> frozenset[str]:
    """Names of what brings volts to these terminals in any position: the way to every source that reaches them through wires and contacts,
    and the same for whatever moves a contact on that way, or makes such a source; and the wires that hang on just these terminals, where
    something beside may draw current."""
    edges = edges_of(b for b in circuit.branches if b.sort in (Sort.WIRE, Sort.CONTACT, Sort.SSR))
    parts, sources = circuit.wiring.by_name, circuit.net.sources
    wires = edges_of(b for b in circuit.branches if b.sort is Sort.WIRE)
    todo, done = list(ends), set[TerminalName]()
    at_ends = frozenset[TerminalName]().union(*(reached(wires, end) for end in todo))
    found = {name for name, a, _ in wires if a in at_ends}
    while todo:
        end = todo.pop()
        if end in done:
            continue
        done.add(end)
        near = reached(edges, end)
        on_way = set[str]()
        for source in sources:
            for pole in {source.node, source.back} & near:
                on_way |= {source.name, *between(edges, end, pole)}
                todo += _fed_by(parts.get(source.by))
        for name in on_way - found:
            todo += _fed_by(parts.get(name))
        found |= on_way
    return frozenset(found)


def _fed_by(part: Part | None) -> list[TerminalName]:
    """The terminals of a part that must have volts for it to work: its coil or own supply, and its control input."""
    if part is None:
        return []
    own = [end for way in part.ways(Closed.LOAD) for end in way]
    pair = part.type.paired(Role.DRIVE_PLUS, Role.DRIVE_MINUS) if part.type.family in DRIVEN else None
    return own + [part.at(end) for end in pair or ()]
