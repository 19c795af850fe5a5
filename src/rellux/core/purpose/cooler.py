"""What cools a rig that heats too: a fan with the room's air, or a valve with water, switched on and off beside the heater."""

from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum

from ..errors import Problem
from ..messages import quantity, span, temperature

COOLER_W = (1.0, 200_000.0)
"""What it may take out, W (our choice: as a heater's)."""
DRIVE_W = (0.1, 2000.0)
"""What a fan or valve of it may draw, W (our choice: more is a motor with a starter of its own)."""
WATER_C = (1.0, 95.0)
"""Water that cools, °C: neither ice nor steam."""


class CooledBy(StrEnum):
    """What carries the heat away."""

    FAN = "fan"
    VALVE = "valve"


@dataclass(frozen=True)
class Cooler:
    """``cooler_w``: the heat in W it takes out at the working temperature; ``coolant_c``: how warm in °C the water is that comes through a
    valve, ``None`` of a fan, which blows the room's air; ``drive_w``: what fan or valve draws, W."""

    cooled_by: CooledBy
    cooler_w: float
    drive_w: float
    coolant_c: float | None = None

    def with_c(self, ambient_c: float) -> float:
        """What it cools with, °C."""
        return ambient_c if self.cooled_by is CooledBy.FAN or self.coolant_c is None else self.coolant_c

    def w_per_k(self, working_c: float, ambient_c: float) -> float:
        """What it takes out for every degree that the rig is warmer than what cools it, W/K.

        >>> Cooler(CooledBy.VALVE, 1200.0, 12.0, 15.0).w_per_k(75.0, 21.0)
        20.0
        """
        return self.cooler_w / (working_c - self.with_c(ambient_c))


def cooler_problems(cooler: Cooler, working_c: float, ambient_c: float) -> Iterator[Problem]:
    """What of it cannot be."""
    for name, value, (low, high) in (("cooler_w", cooler.cooler_w, COOLER_W), ("drive_w", cooler.drive_w, DRIVE_W)):
        if not low <= value <= high:
            reason = f"{quantity(value, 'W')} looks like a slip of unit (W or kW?)"
            yield Problem(f"cooler.{name}", reason, span(low, high, "W"))
    if cooler.cooled_by is CooledBy.FAN:
        if cooler.coolant_c is not None:
            yield Problem("cooler.coolant_c", "a fan blows the room’s air: its temperature is the room’s", "left empty")
        return
    if cooler.coolant_c is None:
        yield Problem("cooler.coolant_c", "say how warm the water is that comes in", span(*WATER_C, "°C"))
    elif not WATER_C[0] <= cooler.coolant_c <= WATER_C[1]:
        yield Problem("cooler.coolant_c", f"no water flows at {temperature(cooler.coolant_c)}", span(*WATER_C, "°C"))
    elif cooler.coolant_c >= working_c:
        yield Problem(
            "cooler.coolant_c",
            f"at {temperature(cooler.coolant_c)} it cools nothing that is held at {temperature(working_c)}",
            f"below {temperature(working_c)}",
        )
