"""Breaker and conductor for a continuous heating load, by one of the two schools."""

from dataclasses import dataclass
from functools import cache

from ..errors import refuse
from ..explain import Figure, Input
from ..messages import quantity
from ..units import Kind
from .protection_data import (
    BREAKERS,
    IEC_B1,
    IEC_CORD,
    NEC_310_16,
    NEC_SMALL,
    SCHOOL,
    SOURCE,
    Conductor,
    Practice,
)
from .wire import awg_area_mm2

CONTINUOUS_FACTOR = {Practice.IEC: 1.0, Practice.NEC: 1.25}


@dataclass(frozen=True)
class Protection:
    """The breaker in A and the conductor that belongs behind it, each with its derivation."""

    breaker: Figure
    conductor: Conductor
    area: Figure


@cache
def conductors(practice: Practice, cores: int = 2) -> tuple[Conductor, ...]:
    """Conductors of a practice at 30 °C, not bundled, thinnest first, with ``cores`` loaded (3 for three-phase).

    IEC: flexible cord, and above it insulated wires in conduit (method B1, 70 °C). NEC: the 60 °C column under the
    small-conductor rule.
    """
    if practice is Practice.NEC:
        table = {k: min(a, NEC_SMALL.get(k, a)) for k, a in NEC_310_16[60].items()}
        return tuple(Conductor(k, float(f"{awg_area_mm2(int(k.split()[0])):.3g}"), a) for k, a in table.items())
    cord = IEC_CORD[cores]
    thicker = {k: a for k, a in IEC_B1[(70, cores)].items() if k > max(cord)}
    return tuple(Conductor(_metric(k), float(k), a) for k, a in {**cord, **thicker}.items())


def _metric(area_mm2: float) -> str:
    return "1.0 mm²" if area_mm2 == 1.0 else f"{area_mm2:g} mm²"


def size_protection(load_current_a: float, practice: Practice, cores: int = 2) -> Protection:
    """Smallest standard breaker and conductor for a load current in A.

    IEC: load ≤ breaker ≤ conductor. NEC: breaker and conductor at least 125 % of the continuous load, and the
    breaker not above what the conductor stands. Raises ``Refused`` when the tables do not reach.
    """
    if not load_current_a > 0:
        raise refuse("load_current_a", "must be more than zero", "> 0 A")
    factor = CONTINUOUS_FACTOR[practice]
    needed = load_current_a * factor
    rating = next((r for r in BREAKERS[practice] if r >= needed), None)
    if rating is None:
        raise refuse(
            "load_current_a", f"{quantity(load_current_a, 'A', '.1f')} is beyond the tables here", "have it designed"
        )
    conductor = next((c for c in conductors(practice, cores) if c.ampacity >= rating), None)
    if conductor is None:
        raise refuse("load_current_a", f"no conductor in the table stands a {rating} A breaker", "have it designed")
    load = Input("load current", load_current_a, Kind.CURRENT, "I_b", "computed")
    breaker = Figure(
        "breaker",
        rating,
        Kind.CURRENT,
        formula="I_n ≥ 1.25 I_b" if factor > 1 else "I_n ≥ I_b",
        inputs=(load, Input("least rating", needed, Kind.CURRENT, "I", "computed")),
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
        inputs=(breaker.as_input("I_n"), Input("conductor stands", conductor.ampacity, Kind.CURRENT, "I_z", "table")),
        reason=f"{conductor.label} is the thinnest conductor the {rating} A breaker still protects, "
        "at {30 °C} around it and not bundled.",
        source=SOURCE[practice],
        school=SCHOOL[practice],
        symbol="S",
    )
    return Protection(breaker, conductor, area)


def ampacity(area_mm2: float, practice: Practice, cores: int = 2) -> float:
    """Current in A a conductor of ``area_mm2`` may carry: the row of the largest listed size not above it, else 0."""
    fitting = [c.ampacity for c in conductors(practice, cores) if c.area_mm2 <= area_mm2 * 1.001]
    return fitting[-1] if fitting else 0.0
