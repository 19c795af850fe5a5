"""How a supply is earthed: which of its points are tied to earth, and through what.

TN: the source's neutral is earthed and joined to the protective earth. TT: the installation's earth is a rod of its own,
100 Ω taken. IT: nothing but an insulation of 1 MΩ. Corner-earthed: one phase of a delta is earthed. High-leg: the middle of one
winding of a 240 V delta is earthed, so that the third line stands at 208 V. (IEC 60364-1; NEC 250.20; from memory.)
"""

from enum import StrEnum

from ..model import Part
from ..names import TerminalName, inner_of, terminal_of

SOLID_S, ROD_S, INSULATED_S = 1e3, 1e-2, 1e-6


class Earthing(StrEnum):
    """The systems a supply can be earthed in."""

    TN = "tn"
    TT = "tt"
    IT = "it"
    CORNER = "corner"
    HIGH_LEG = "high_leg"


def earthing_of(supply: Part) -> Earthing:
    return Earthing(str(supply.ratings.get("earthing", Earthing.TN)))


def ties(supply: Part) -> list[tuple[TerminalName, float]]:
    """Nodes of a supply tied to earth, with the conductance in S. A DC supply floats unless its minus is wired to earth."""
    if supply.type.kind == "supply_dc":
        return []
    name = supply.name
    centre, protective = inner_of(name, "n"), terminal_of(name, "PE")
    found: dict[Earthing, list[tuple[TerminalName, float]]] = {
        Earthing.TN: [(centre, SOLID_S), (protective, SOLID_S)],
        Earthing.TT: [(centre, SOLID_S), (protective, ROD_S)],
        Earthing.IT: [(centre, INSULATED_S), (protective, SOLID_S)],
        Earthing.CORNER: [(terminal_of(name, "L2"), SOLID_S), (protective, SOLID_S)],
        Earthing.HIGH_LEG: [(centre, SOLID_S), (protective, SOLID_S)],
    }
    return found[earthing_of(supply)]
