"""Where a meter tells whether something is driven: inputs of solid state switches and boards, and coils."""

from collections.abc import Iterator

from ..wiring.circuit.branches import DRIVEN, is_coil
from ..wiring.model import ConnectionList, Part, Role
from ..wiring.names import TerminalName

OFF_V, OFF_SHARE = 1.0, 0.1
"""What is no more than nothing: V, and as a share of what it is when on (our choice)."""
APART_V = 1.0
"""Volts by which on and off must differ for a place to tell anything."""


def places(wiring: ConnectionList) -> Iterator[tuple[Part, tuple[TerminalName, TerminalName]]]:
    """Every part that is driven, with the two terminals between which that is seen."""
    for part in wiring.parts:
        pair = part.type.paired(Role.DRIVE_PLUS, Role.DRIVE_MINUS) if part.type.family in DRIVEN else None
        if pair is None and is_coil(part):
            pair = ("A1", "A2")
        if pair:
            yield part, (part.at(pair[0]), part.at(pair[1]))
