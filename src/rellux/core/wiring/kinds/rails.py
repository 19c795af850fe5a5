"""Where wires meet, and metal they are bonded to."""

from ..model import Closed, PartType, Path, Role
from .shapes import amps, left, pole_pairs, pole_terminals

RAILS = (
    PartType("enclosure", "Metal enclosure", (left("PE", Role.EARTH),)),
    PartType(
        "terminal_block",
        "Terminal block, four ways",
        pole_terminals(4, Role.POWER),
        tuple(Path(a, b, Closed.ALWAYS) for a, b in pole_pairs(4)),
        ratings=(amps(24),),
    ),
    PartType(
        "earth_bar",
        "Earth bar",
        tuple(left(str(n), Role.EARTH) for n in range(1, 7)),
        tuple(Path("1", str(n), Closed.ALWAYS) for n in range(2, 7)),
    ),
)
