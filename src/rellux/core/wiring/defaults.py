"""What a new part or wire is like where nobody said: as usual for the rig, and as its neighbours."""

from collections.abc import Sequence

from ..heating.conductor_tables import Practice
from .generate import COLOURS
from .library import PART_TYPES
from .model import Circuit, Connection, Part, circuit_of
from .names import TerminalName, split

MAINS_V = 230.0
"""The usual value of ratings that follow a rig's control voltage."""
USUAL_MM2, USUAL_COLOUR = 1.5, "black"


def usual_ratings(kind: str, control_v: float) -> dict[str, float | str]:
    """What a generic part is rated for in a rig: its usual values and words, coils and supplies at the control voltage."""
    return {
        r.name: control_v if r.name in ("coil_v", "voltage_v") and r.usual == MAINS_V else r.usual
        for r in PART_TYPES[kind].ratings
    }


def circuit_between(parts: Sequence[Part], a: str, b: str) -> Circuit:
    """The circuit a wire between these terminals belongs to; unknown parts say nothing."""
    ends = [(next((p.type for p in parts if p.name == part), None), name) for part, name in map(split, (a, b))]
    return circuit_of(kind.terminal(name) for kind, name in ends if kind)


def usual_wire(
    parts: Sequence[Part],
    wires: Sequence[Connection],
    a: str,
    b: str,
    circuit: Circuit | None = None,
    practice: Practice = Practice.IEC,
) -> Connection:
    """A new wire between two terminals: the next number, size and colour of the wires at its first end or of its circuit."""
    circuit = circuit or circuit_between(parts, a, b)
    same = [w for w in wires if w.circuit is circuit]
    alike = next((w for w in same if w.a == a), next(iter(same), None))
    earth = str(COLOURS[practice]["earth"])
    return Connection(
        max((w.number for w in wires), default=0) + 1,
        TerminalName(a),
        TerminalName(b),
        circuit,
        alike.area_mm2 if alike else USUAL_MM2,
        earth if circuit is Circuit.EARTH else alike.colour if alike else USUAL_COLOUR,
    )
