"""A run of wire: how it is laid, in what insulation, how hot and in what company, and what protects it."""

from dataclasses import dataclass
from enum import StrEnum

from .conductor_tables import Practice

TABLE_AMBIENT_C = 30.0
"""Ambient temperature of both codes' ampacity tables."""


class Laying(StrEnum):
    """How the conductor runs."""

    CORD = "cord"
    CONDUIT = "conduit"
    INSIDE = "inside"


class Insulation(StrEnum):
    """Insulation by the conductor temperature it stands for good."""

    PVC = "pvc"
    XLPE = "xlpe"
    SILICONE = "silicone"
    PTFE = "ptfe"
    GLASS = "glass"


LIMIT_C = {
    Practice.IEC: {Insulation.PVC: 70, Insulation.XLPE: 90},
    Practice.NEC: {Insulation.PVC: 75, Insulation.XLPE: 90},
}
HOT_LIMIT_C = {Insulation.SILICONE: 180, Insulation.PTFE: 250, Insulation.GLASS: 400}
CORD_LIMIT_C = 60
ENDS_C = {Practice.IEC: 70, Practice.NEC: 60}
"""What terminals stand where nothing is marked: IEC 60947-1 tests them with 70 °C wire; NEC 110.14(C) up to 1 AWG."""
THICK_ENDS_C = 75
"""The same of terminals for thicker conductors: NEC 110.14(C)."""
THICK_MM2 = 42.5
"""A conductor from here on is thicker than 1 AWG (42.41 mm²)."""


@dataclass(frozen=True)
class Behind:
    """A breaker that is there already. ``overload``: it must protect the wire against a lasting overload too, not needed where the
    load cannot draw more than it does (IEC 60364-4-43): then the short circuit decides. ``fault_a``: short-circuit current
    where the wire begins, None unknown."""

    breaker_a: float
    overload: bool = True
    curve: str = "B"
    fault_a: float | None = None


@dataclass(frozen=True)
class Run:
    """A run of wire: ``cores`` loaded (2, or 3 for three-phase), ``together`` circuits (IEC) or loaded conductors (NEC)
    in one bundle, ``length_m`` one way, ``voltage_v`` between the conductors; terminals of ``terminal_c`` (0: unmarked).

    ``behind``: what protects it, where that is not a breaker chosen for it; ``least_mm2``: thinner is not done for its use."""

    practice: Practice
    laying: Laying
    insulation: Insulation
    cores: int
    ambient_c: float
    together: int
    length_m: float
    voltage_v: float
    terminal_c: int = 0
    behind: Behind | None = None
    least_mm2: float = 0.0

    def ends_c(self, area_mm2: float) -> int:
        """Temperature in °C that the ends of a conductor of this size stand."""
        return self.terminal_c or unmarked_ends(self.practice, area_mm2)


def unmarked_ends(practice: Practice, area_mm2: float) -> int:
    """What terminals of this size stand where nothing is marked, °C."""
    return THICK_ENDS_C if practice is Practice.NEC and area_mm2 >= THICK_MM2 else ENDS_C[practice]


def usual_laying(practice: Practice) -> Laying:
    """How a rig's own wires are taken to run: flexible cord (IEC), building wire in a raceway (NEC)."""
    return Laying.CORD if practice is Practice.IEC else Laying.CONDUIT


def usual_run(practice: Practice, cores: int, voltage_v: float, length_m: float = 3.0) -> Run:
    """A rig's own run where nothing else is said: PVC at 30 °C, not bundled, ends unmarked."""
    insulation = Insulation.PVC
    return Run(practice, usual_laying(practice), insulation, cores, TABLE_AMBIENT_C, 1, length_m, voltage_v)


def insulation_limit(run: Run) -> float:
    """Temperature in °C the insulation stands."""
    if run.insulation in HOT_LIMIT_C:
        return HOT_LIMIT_C[run.insulation]
    if run.laying is Laying.CORD:
        return CORD_LIMIT_C
    return LIMIT_C[run.practice][run.insulation]
