"""What controller, coils and the rest of the controls are fed with, where that is not the heater's own supply."""

from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum

from ..errors import Problem
from ..messages import quantity, span

Span = tuple[float, float]

LEAST_DC_V = 10.0
"""Least DC of controls, V: controllers and coils for less than 12 V are hardly made (our choice)."""


class ControlsFedBy(StrEnum):
    """Another circuit of the mains, a DC supply that stands elsewhere, or a supply module in the box that makes DC from the heater's
    mains."""

    MAINS = "mains"
    DC = "dc"
    MODULE = "module"


@dataclass(frozen=True)
class Controls:
    """``controls_v``: the voltage the controls are made for, V."""

    fed_by: ControlsFedBy
    controls_v: float

    @property
    def direct(self) -> bool:
        """Whether they run on DC."""
        return self.fed_by is not ControlsFedBy.MAINS

    @property
    def apart(self) -> bool:
        """Whether they stay live while the heater's supply is off."""
        return self.fed_by is not ControlsFedBy.MODULE


def controls_problems(controls: Controls, mains_v: Span, dc_v: Span, heated_with_dc: bool) -> Iterator[Problem]:
    """What of it cannot be; ``mains_v``, ``dc_v``: what a supply of each may be, V."""
    low, high = (LEAST_DC_V, dc_v[1]) if controls.direct else mains_v
    if not low <= controls.controls_v <= high:
        reason = f"no controls are fed with {quantity(controls.controls_v, 'V')}{' DC' if controls.direct else ''}"
        yield Problem("controls.controls_v", reason, span(low, high, "V"))
    if controls.fed_by is ControlsFedBy.MODULE and heated_with_dc:
        reason = "a supply module makes DC from mains, and the heater’s supply is DC already"
        yield Problem("controls.fed_by", reason, "the heater’s own supply, or one of their own")
