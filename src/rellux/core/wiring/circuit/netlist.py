"""A state of the circuit as a netlist in SPICE text, for any open circuit simulator.

Models: wires, closed contacts and loads are resistors at the value they have in this state; an SSR that is on is the resistor
that drops 1.2 V at its current, off it is its leakage; AC sources are phasors (rms) behind their impedance, DC sources
constant. AC and DC are two analyses of one netlist, as they are solved here: ``.ac`` at mains frequency for what alternates,
``.op`` for what is constant. Node 0 is earth; a supply that is not solidly earthed has the resistor of its earthing system, and
``rshunt`` holds islands that nothing else holds.

Names keep the part's name, without accents and unique after folding capitals: ``R_E1``, node ``q0_l``.
"""

import cmath
import math
import re

from ..names import INNER
from ..naming import folded
from ..switching import Switching
from .earthing import SOLID_S
from .network import TIE_S
from .solve import CircuitSolver

MAINS_HZ, EARTH = 50.0, "0"


def netlist(circuit: CircuitSolver, switching: Switching, title: str, mains_hz: float = MAINS_HZ) -> str:
    """The text. Terminals become nodes by their own names, ``q0_l1``; star points ``e1_star``."""
    branches, sources = circuit.network(switching)
    nodes, elements = _Nodes(circuit), _Names()
    lines = [f"* {_plain(title)}", "* rms values; resistors in ohms; see docs/netlist.md"]
    for source in sources:
        size, angle = cmath.polar(source.volts)
        wave = f"DC {source.volts.real:.6g}" if source.dc else f"DC 0 AC {size:.6g} {math.degrees(angle):.6g}"
        inner = nodes.of(f"{source.name} inner")
        lines.append(f"{elements.new(f'V {source.name}')} {inner} {nodes.of(source.back)} {wave}")
        lines.append(f"{elements.new(f'R src {source.name}')} {inner} {nodes.of(source.node)} {source.ohm:.6g}")
    for branch, ohm in branches:
        a, b = nodes.of(branch.a), nodes.of(branch.b)
        if a != b:
            lines.append(f"{elements.new(f'R {branch.name}')} {a} {b} {ohm:.6g}")
    for tied, siemens in circuit.net.ties:
        if nodes.of(tied) != EARTH:
            lines.append(f"{elements.new(f'R earth {tied}')} {nodes.of(tied)} {EARTH} {1 / siemens:.6g}")
    lines.append(f".options rshunt={1 / TIE_S:.6g}")
    if any(s.dc for s in sources) or not sources:
        lines.append(".op")
    if any(not s.dc for s in sources):
        lines.append(f".ac lin 1 {mains_hz:g} {mains_hz:g}")
    return "\n".join([*lines, ".end", ""])


def node_names(circuit: CircuitSolver, switching: Switching) -> dict[str, str]:
    """What :func:`netlist` calls each terminal of the circuit in this state."""
    branches, sources = circuit.network(switching)
    nodes = _Nodes(circuit)
    for source in sources:
        nodes.of(f"{source.name} inner")
        nodes.of(source.back), nodes.of(source.node)
    for branch, _ in branches:
        nodes.of(branch.a), nodes.of(branch.b)
    return nodes.given


class _Names:
    """Names as a simulator takes them: letters, figures and ``_``, each of its own also where capitals do not count."""

    def __init__(self) -> None:
        self._taken: set[str] = set()

    def new(self, of: str) -> str:
        """A name that nothing has yet."""
        plain, name, count = _safe(of), _safe(of), 1
        while name in self._taken:
            count += 1
            name = f"{plain}_{count}"
        self._taken.add(name)
        return name


class _Nodes:
    """A name for every node, the same each time; solidly earthed ones are all earth."""

    def __init__(self, circuit: CircuitSolver) -> None:
        self.given: dict[str, str] = {node: EARTH for node, siemens in circuit.net.ties if siemens >= SOLID_S}
        self._names = _Names()

    def of(self, node: str) -> str:
        if node not in self.given:
            self.given[node] = self._names.new(node)
        return self.given[node]


def _safe(name: str) -> str:
    """A name folded to plain letters, figures and ``_``; one of none of them becomes ``x``."""
    plain = folded(name).replace("+", "p").replace("-", "m").replace(INNER, "star")
    return re.sub(r"[^a-z0-9_]", "_", plain) or "x"


def _plain(text: str) -> str:
    return " ".join(text.split())
