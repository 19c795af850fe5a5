"""A state of the circuit as a netlist in SPICE text, for any open circuit simulator.

Models: wires, closed contacts and loads are resistors; an SSR that is on is the resistor that drops 1.2 V at its current,
off it is its leakage; AC sources are sines at mains frequency behind their impedance, DC sources constant. Node 0 is earth;
a supply that is not solidly earthed has the resistor of its earthing system.
Names keep the part's name: ``R_E1``, ``V_Q0``.
"""

import cmath
import math
import re

from ..switching import Switching
from .earthing import SOLID_S
from .network import TIE_S
from .solve import Circuit


def netlist(circuit: Circuit, switching: Switching, title: str, mains_hz: float = 50.0) -> str:
    """The text. Terminals become nodes by their own names, ``Q0_L1``; star points ``E1_star``."""
    branches, sources = circuit.network(switching)
    grounded = {node for node, siemens in circuit.net.ties if siemens >= SOLID_S}
    used: dict[str, int] = {}

    def node(name: str) -> str:
        return "0" if name in grounded else _safe(name)

    def unique(name: str) -> str:
        used[name] = used.get(name, 0) + 1
        return name if used[name] == 1 else f"{name}_{used[name]}"

    lines = [f"* {_plain(title)}", "* rms values; resistors in ohms; see docs/netlist.md"]
    for source in sources:
        inner = unique(f"n_{_safe(source.name)}")
        size, angle = cmath.polar(source.volts)
        degrees = math.degrees(angle)
        if source.dc:
            wave = f"DC {source.volts.real:.6g}"
        else:
            peak = size * math.sqrt(2.0)
            wave = f"SIN(0 {peak:.6g} {mains_hz:g} 0 0 {degrees:.6g}) AC {size:.6g} {degrees:.6g}"
        lines.append(f"{unique('V_' + _safe(source.name))} {inner} {node(source.back)} {wave}")
        lines.append(f"{unique('R_src_' + _safe(source.name))} {inner} {node(source.node)} {source.ohm:.6g}")
    for branch, ohm in branches:
        lines.append(f"{unique('R_' + _safe(branch.name))} {node(branch.a)} {node(branch.b)} {ohm:.6g}")
    for tied, siemens in circuit.net.ties:
        if tied not in grounded:
            lines.append(f"{unique('R_earth_' + _safe(tied))} {node(tied)} 0 {1 / siemens:.6g}")
    nodes = {n for line in lines[2:] for n in line.split()[1:3]} - {"0"}
    lines += [f"R_tie_{n} {n} 0 {1 / TIE_S:.6g}" for n in sorted(nodes)]
    return "\n".join([*lines, ".op", ".end", ""])


def _safe(name: str) -> str:
    return re.sub(r"[^A-Za-z0-9_]", "_", name.replace("+", "p").replace("-", "m").replace("*", "star"))


def _plain(text: str) -> str:
    return " ".join(text.split())
