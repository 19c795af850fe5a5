"""Breaker and conductor of a rig with their derivations."""

from dataclasses import dataclass, replace

from ..errors import refuse
from ..explain import Figure, Input
from ..units import Kind
from .conductor_tables import SCHOOL, SOURCE, Practice
from .conductors import CONTINUOUS_FACTOR, Size, Sizing, size
from .run_of_wire import Laying, usual_run

FUSE_AT_ONCE = 10.0
"""Multiple of its rating at which a usual fuse surely opens within 0.4 s (common practice, no source)."""


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
        reason="The smallest standard breaker that carries this for hours without tripping.",
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
