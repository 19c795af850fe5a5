"""What cools a rig that heats too, switched on and off beside the heater: a fan with the room's air, a valve with water, a compressor, or a
thermo-electric module; or a module that is the heater itself, turned round."""

from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum

from ..errors import Problem
from ..messages import quantity, span, temperature
from ..units import ABSOLUTE_ZERO_C

COOLER_W = (1.0, 200_000.0)
"""What it may take out, W (our choice: as a heater's)."""
DRIVE_W = (0.1, 2000.0)
"""What fan, valve, compressor or module of it may draw, W (our choice: more is a motor with a starter of its own)."""
WATER_C = (1.0, 95.0)
"""Water that cools, °C: neither ice nor steam."""
COLDEST_STAGE_C = -45.0
"""A single compressor stage reaches about so far, °C (typical, from memory)."""
MODULE_FALLS_C = 80.0
"""No single thermo-electric module gets colder than what carries its heat away by more, °C (70 to 75, from memory)."""


class CooledBy(StrEnum):
    """What carries the heat away."""

    FAN = "fan"
    VALVE = "valve"
    COMPRESSOR = "compressor"
    MODULE = "module"
    TURNED = "turned"


@dataclass(frozen=True)
class Cooler:
    """``cooler_w``: the heat in W it takes out at the working temperature; ``coolant_c``: how warm in °C the water is that comes through a
    valve; ``coldest_c``: at what temperature in °C of what it cools a compressor or module takes out nothing any more. Both are ``None`` of
    what has none: a fan blows the room's air. ``drive_w``: what it draws itself, W; ``None`` of a heater that is turned round, which draws
    what it draws as a heater."""

    cooled_by: CooledBy
    cooler_w: float
    drive_w: float | None = None
    coolant_c: float | None = None
    coldest_c: float | None = None

    @property
    def pumps(self) -> bool:
        """Whether it lifts heat out of what is colder than the room, and may so freeze a load."""
        return self.cooled_by in (CooledBy.COMPRESSOR, CooledBy.MODULE, CooledBy.TURNED)

    @property
    def turns(self) -> bool:
        """Whether it is the heater itself, a module whose current is turned round."""
        return self.cooled_by is CooledBy.TURNED

    @property
    def draws_w(self) -> float:
        """What it draws besides the heater, W."""
        return self.drive_w or 0.0

    @property
    def rests(self) -> bool:
        """Whether it has to rest before it starts again."""
        return self.cooled_by is CooledBy.COMPRESSOR

    def with_c(self, ambient_c: float) -> float:
        """What it cools with, °C: where it takes nothing out any more. What is pumped is taken to fall evenly down to there, as a module's
        does at a given current (:mod:`rellux.core.cooling.thermoelectric`)."""
        told = {CooledBy.FAN: None, CooledBy.VALVE: self.coolant_c}.get(self.cooled_by, self.coldest_c)
        return ambient_c if told is None else told

    def w_per_k(self, working_c: float, ambient_c: float) -> float:
        """What it takes out for every degree that the rig is warmer than what cools it, W/K.

        >>> Cooler(CooledBy.VALVE, 1200.0, 12.0, 15.0).w_per_k(75.0, 21.0)
        20.0
        """
        return self.cooler_w / (working_c - self.with_c(ambient_c))


def cooler_problems(cooler: Cooler, working_c: float, ambient_c: float) -> Iterator[Problem]:
    """What of it cannot be."""
    for name, value, (low, high) in (("cooler_w", cooler.cooler_w, COOLER_W), ("drive_w", cooler.drive_w, DRIVE_W)):
        if value is not None and not low <= value <= high:
            reason = f"{quantity(value, 'W')} looks like a slip of unit (W or kW?)"
            yield Problem(f"cooler.{name}", reason, span(low, high, "W"))
    if cooler.turns and cooler.drive_w is not None:
        yield Problem("cooler.drive_w", "it is the heater itself, which draws what is said there", "left empty")
    elif not cooler.turns and cooler.drive_w is None:
        yield Problem("cooler.drive_w", "say what it draws", span(*DRIVE_W, "W"))
    if cooler.coolant_c is not None and cooler.cooled_by is not CooledBy.VALVE:
        why = "it cools with no water"
        if cooler.cooled_by is CooledBy.FAN:
            why = "a fan blows the room’s air: its temperature is the room’s"
        yield Problem("cooler.coolant_c", why, "left empty")
    if cooler.coldest_c is not None and not cooler.pumps:
        yield Problem("cooler.coldest_c", "it gets nothing colder than what it cools with", "left empty")
    if cooler.pumps:
        yield from _pump_problems(cooler, working_c, ambient_c)
    elif cooler.cooled_by is CooledBy.VALVE:
        yield from _water_problems(cooler, working_c)


def _pump_problems(cooler: Cooler, working_c: float, ambient_c: float) -> Iterator[Problem]:
    least = COLDEST_STAGE_C if cooler.rests else max(ambient_c - MODULE_FALLS_C, ABSOLUTE_ZERO_C)
    accepted = span(round(least), working_c, "°C")
    if cooler.coldest_c is None:
        yield Problem("cooler.coldest_c", "say at what temperature it takes out nothing any more", accepted)
    elif cooler.coldest_c >= working_c:
        yield Problem(
            "cooler.coldest_c",
            f"it would take out nothing where the rig works, at {temperature(working_c)}",
            f"below {temperature(working_c)}",
        )
    elif not cooler.coldest_c >= least:
        what = "one compressor stage does" if cooler.rests else "one module on this room’s air does"
        yield Problem("cooler.coldest_c", f"{what} not reach {temperature(cooler.coldest_c)}", accepted)


def _water_problems(cooler: Cooler, working_c: float) -> Iterator[Problem]:
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
