"""Ohms with the plug out, as a range: a meter's low voltage goes through wires, contacts at rest, and loads that measure cold
and with direct current, which is seldom V²/P.

Every source is out, breakers and fuses are in, contacts are as they rest; electronics are left out of the sum, since what a
meter shows through them is unpredictable. The resistance between two points never falls when a resistance in the network rises
(Rayleigh's monotonicity law), so the ends of the range are the network with every load at its lowest, and at its highest.
"""

from dataclasses import dataclass
from math import inf

import numpy as np
from numpy.typing import NDArray

from ...heating.elements import ELEMENT_KINDS
from ..driven import BLOWING, COOLING
from ..kinds.loads import TURNS
from ..model import Closed, Part
from ..names import Family, TerminalName
from ..switching import ON
from .branches import Branch, Sort, is_coil
from .contacts import RESTS
from .solution import SOUND, Fault
from .solve import CircuitSolver

OPEN_OHM = 1e6
"""What counts as no connection on a meter."""
RESTING = (Closed.ALWAYS, Closed.HAND, *(c for c in RESTS))
"""Paths that conduct with everything unpowered and nothing moved."""
PLAIN: tuple[Family, ...] = ("heater", "relay", "contactor", "timer", "lamp", "solenoid", "fan", "motor")
"""Loads a meter sees: coils, windings, elements and filaments; not what has electronics in it."""
AC_COIL, DC_COIL = (0.01, 1.0), (0.8, 1.25)
"""Ohms of a coil over V²/P: a coil for alternating current is inductive, and its winding far below (typical, from memory)."""
LAMP, PTC = (1.0 / 15.0, inf), (0.02, 10.0)
"""Of a lamp: a cold filament, or a light-emitting diode that shows nothing; of a PTC element (typical, from memory)."""
MODULE = (0.3, inf)
"""Of a thermo-electric module: a few degrees between its faces give the meter a voltage of its own (typical, from memory)."""
ALTERNATING_V = 1.0
"""Volts from which a load stands on alternating current."""


@dataclass(frozen=True)
class Ohms:
    """Least and most that a meter may show; None for no connection."""

    least: float | None
    most: float | None


def cold_factors(circuit: CircuitSolver, part: Part) -> tuple[float, float]:
    """Least and most ohms a meter shows of a load, over V²/P."""
    if is_coil(part) or part.type.family in ("solenoid", "fan", "motor") or part.type.kind in (*COOLING, *BLOWING):
        return AC_COIL if _alternating(circuit, part) else DC_COIL
    if part.type.kind == "lamp":
        return LAMP
    if part.type.kind == TURNS:
        return MODULE
    kind = ELEMENT_KINDS[str(part.ratings.get("element", "wire"))]
    return kind.cold or PTC


def _alternating(circuit: CircuitSolver, part: Part) -> bool:
    """Whether a load stands on alternating current when it is on; where nothing reaches it, as the rig's supply is."""
    a, b = ("A1", "A2") if is_coil(part) else ("1", "2")
    solved = circuit.solve(ON, start=circuit.begun(ON))
    ends = part.at(a), part.at(b)
    if max(solved.alternating(*ends), abs(solved.direct(*ends))) < ALTERNATING_V:
        return not circuit.wiring.of_kind("supply_dc")
    return solved.alternating(*ends) > abs(solved.direct(*ends))


class Dead:
    """A circuit unplugged, ready to be measured anywhere."""

    def __init__(self, circuit: CircuitSolver) -> None:
        self.circuit = circuit
        self._parts = {p.name: p for p in circuit.wiring.parts}
        factors = {p.name: cold_factors(circuit, p) for p in circuit.wiring.parts if p.type.family in PLAIN}
        usual = circuit.net.conductance
        self._least, self._most = (
            np.array([g / factors.get(b.name, (1.0, 1.0))[end] for b, g in zip(circuit.branches, usual, strict=True)])
            for end in (0, 1)
        )

    def _in_two(self, branch: Branch, fault: Fault) -> bool:
        """Whether a branch is the one that touches something along its length: its halves stand for it. Of a bank it is the first leg."""
        net = self.circuit.net
        return any(branch.name == name and branch is net.branches[net.named(name)[0]] for name, _, _ in fault.tapped)

    def ohms(self, a: TerminalName, b: TerminalName, fault: Fault = SOUND, moved: str = "") -> Ohms:
        """Least and most ohms between two terminals, with the part ``moved`` in its other position."""
        mask = np.array([self.rests(branch, fault, moved) for branch in self.circuit.branches], dtype=bool)
        return Ohms(self._between(mask, self._least, fault, a, b), self._between(mask, self._most, fault, a, b))

    def _between(
        self, mask: NDArray[np.bool_], conductance: NDArray[np.float64], fault: Fault, a: TerminalName, b: TerminalName
    ) -> float | None:
        ohm = self.circuit.net.ohms(mask, fault, a, b, conductance)
        return ohm if ohm < OPEN_OHM else None

    def rests(self, branch: Branch, fault: Fault = SOUND, moved: str = "") -> bool:
        """Whether a branch conducts with everything unpowered and a meter's low voltage on it."""
        if {branch.name, branch.at} & fault.opened or self._in_two(branch, fault):
            return False
        if branch.name in fault.closed and branch.closed in RESTS:
            return False
        if branch.name in fault.closed and branch.sort in (Sort.CONTACT, Sort.SSR):
            return True
        if branch.sort is Sort.WIRE:
            return True
        if branch.sort is Sort.LOAD:
            part = self._parts.get(branch.name)
            return part is not None and part.type.family in PLAIN
        if branch.name == moved and branch.closed in (Closed.HAND, Closed.NOT_HAND):
            return branch.closed is Closed.NOT_HAND
        return branch.sort is Sort.CONTACT and branch.closed in RESTING
