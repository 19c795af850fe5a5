"""Breaker and conductor of a rig with their derivations; what a breaker asks of the earth loop and of a short circuit."""

from dataclasses import dataclass, replace
from math import log, sqrt

from ..errors import refuse
from ..explain import Figure, Input
from ..units import Kind
from .conductor_tables import SCHOOL, SOURCE, Practice
from .conductors import CONTINUOUS_FACTOR, Insulation, Laying, Size, Sizing, size, usual_run

AT_ONCE = {"B": 5.0, "C": 10.0, "D": 20.0}
"""Multiples of its rating at which a breaker of each curve surely opens at once (IEC 60898)."""
PLUG_TAKES_MM2 = {
    Practice.IEC: {10.0: 1.0, 13.0: 1.5, 16.0: 2.5, 32.0: 6.0, 63.0: 16.0},
    Practice.NEC: {15.0: 3.31, 20.0: 3.31, 30.0: 5.26, 50.0: 13.3},
}
"""Largest conductor that goes into a plug's terminals, mm², by its rating (from memory of the standards)."""
FUSE_AT_ONCE = 10.0
"""The same of a usual fuse, for 0.4 s (common practice, no source)."""
ENDS_AT_C = {Insulation.PVC: (70.0, 160.0), Insulation.XLPE: (90.0, 250.0), Insulation.SILICONE: (180.0, 350.0)}
"""Conductor temperature in °C before and after a short circuit, copper: IEC 60364-5-54 annex A and BS 7671 table 43.1, from
memory. PTFE and glass are taken as silicone: their joints and terminals decide (our choice)."""


@dataclass(frozen=True)
class Protection:
    """The breaker in A and the conductor that belongs behind it, each with its derivation."""

    breaker: Figure
    conductor: Size
    area: Figure


def sizing_for(load_current_a: float, practice: Practice, cores: int, voltage_v: float = 230.0) -> Sizing:
    """The usual run of a rig sized for its load: as flexible cord where there is one, else as fixed wires in conduit."""
    run = usual_run(practice, cores, voltage_v)
    found = size(load_current_a, run)
    return found if found.best else size(load_current_a, replace(run, laying=Laying.CONDUIT))


def size_protection(load_current_a: float, practice: Practice, cores: int = 2) -> Protection:
    """Smallest standard breaker and conductor for a load current in A (:func:`sizing_for`). Raises ``Refused`` when the tables
    do not reach.

    >>> found = size_protection(8000 / 230, Practice.IEC)
    >>> found.breaker.value, found.conductor.label
    (40.0, '6 mm²')
    """
    found = sizing_for(load_current_a, practice, cores)
    conductor, rating = found.best, found.breaker_a
    if conductor is None:
        raise refuse("load_current_a", f"no conductor in the table stands a {rating:g} A breaker", "have it designed")
    factor = CONTINUOUS_FACTOR[practice]
    load = Input("load current", load_current_a, Kind.CURRENT, "I_b", "computed")
    breaker = Figure(
        "breaker",
        rating,
        Kind.CURRENT,
        formula="I_n ≥ 1.25 I_b" if factor > 1 else "I_n ≥ I_b",
        inputs=(load, Input("least rating", load_current_a * factor, Kind.CURRENT, "I", "computed")),
        reason="The smallest standard breaker that carries the heater for hours without tripping.",
        source=SOURCE[practice],
        school=SCHOOL[practice],
        symbol="I_n",
    )
    area = Figure(
        "conductor",
        conductor.area_mm2,
        Kind.AREA,
        formula="I_z ≥ I_n",
        inputs=(breaker.as_input("I_n"), Input("conductor stands", conductor.allowed_a, Kind.CURRENT, "I_z", "table")),
        reason=f"{conductor.label} is the thinnest conductor the {rating:g} A breaker still protects, "
        "at {30 °C} around it and not bundled.",
        source=SOURCE[practice],
        school=SCHOOL[practice],
        symbol="S",
    )
    return Protection(breaker, conductor, area)


def fault_loop(to_earth_v: float, breaker_a: float, curve: str = "B") -> float:
    """Largest earth-fault loop impedance in Ω with which a breaker opens at once: ``Z_s = U₀/(k I_n)`` (IEC 60364-4-41).

    >>> round(fault_loop(230, 16), 3)
    2.875
    """
    return to_earth_v / (AT_ONCE[curve] * breaker_a)


def adiabatic_k(insulation: Insulation) -> float:
    """k of copper in A√s/mm²: ``226 √ln(1 + (θ_f − θ_i)/(234.5 + θ_i))`` (IEC 60364-5-54 annex A).

    >>> round(adiabatic_k(Insulation.PVC)), round(adiabatic_k(Insulation.XLPE))
    (115, 143)
    """
    before, after = ENDS_AT_C.get(insulation, ENDS_AT_C[Insulation.SILICONE])
    return 226.0 * sqrt(log(1.0 + (after - before) / (234.5 + before)))


def withstands(area_mm2: float, insulation: Insulation) -> float:
    """Let-through in A²s a conductor stands in a short circuit: ``k² S²`` (IEC 60364-4-43)."""
    return (adiabatic_k(insulation) * area_mm2) ** 2
