"""Mains that a generator or an inverter makes: they give no more than their nameplate says, and little in a short circuit."""

from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum
from math import sqrt

from ..errors import Problem
from ..messages import quantity, span

MADE_W = (50.0, 1_000_000.0)
"""What one may give, W (our choice: beyond it a slip of unit is likelier)."""


class MadeBy(StrEnum):
    """What makes them."""

    GENERATOR = "generator"
    INVERTER = "inverter"


SHORTED = {MadeBy.GENERATOR: 3.0, MadeBy.INVERTER: 1.5}
"""What one brings in a short circuit for as long as that lasts, as a multiple of its rated current (typical of data sheets, from memory;
many bring less)."""


@dataclass(frozen=True)
class OwnMains:
    """``made_w``: what it gives for hours, W, by its nameplate."""

    made_by: MadeBy
    made_w: float

    def fault_a(self, volts: float, three_phase: bool) -> float:
        """What it brings in a short circuit, A.

        >>> OwnMains(MadeBy.INVERTER, 2300.0).fault_a(230.0, three_phase=False)
        15.0
        """
        return SHORTED[self.made_by] * self.made_w / (volts * (sqrt(3.0) if three_phase else 1.0))


def own_mains_problems(own: OwnMains) -> Iterator[Problem]:
    """What of it cannot be."""
    if not MADE_W[0] <= own.made_w <= MADE_W[1]:
        reason = f"{quantity(own.made_w, 'W')} looks like a slip of unit (W or kW?)"
        yield Problem("own_mains.made_w", reason, span(*MADE_W, "W"))
