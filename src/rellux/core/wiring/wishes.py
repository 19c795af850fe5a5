"""A wire as somebody wants it, and the wire that comes of it: what is left out is as at its neighbours."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from ..errors import refuse
from ..heating.conductor_tables import Practice
from .defaults import usual_wire
from .listing import check_number, check_wire
from .model import Circuit, Connection, Part
from .own_parts import resolve


@dataclass(frozen=True)
class WireWish:
    """Ends as ``part.terminal``, or with the numbers on the user's own parts; what is None or empty is left out."""

    a: str
    b: str
    number: int | None = None
    area_mm2: float | None = None
    colour: str = ""
    length_m: float | None = None
    insulation: str | None = None
    route: str | None = None
    circuit: Circuit | None = None


def fulfil(parts: Sequence[Part], wires: Sequence[Connection], wish: WireWish, practice: Practice) -> Connection:
    """The new wire. Raises ``Refused`` for a number that is taken and for what no wire has; whether its terminals exist is
    for the whole list to say."""
    a, b = resolve(parts, wish.a), resolve(parts, wish.b)
    usual = usual_wire(parts, wires, a, b, wish.circuit, practice)
    number = usual.number if wish.number is None else check_number(wish.number)
    if any(w.number == number for w in wires):
        raise refuse("number", f"there is a wire {number} already", "a free number")
    wire = replace(
        usual,
        number=number,
        area_mm2=usual.area_mm2 if wish.area_mm2 is None else wish.area_mm2,
        colour=wish.colour or usual.colour,
        length_m=usual.length_m if wish.length_m is None else wish.length_m,
        insulation=wish.insulation or "",
        route=wish.route or "",
    )
    check_wire(wire)
    return wire
