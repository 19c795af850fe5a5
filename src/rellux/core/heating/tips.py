"""A hand tool's tip as one lump on its heater: how fast it is ready, and what a joint takes off it."""

from dataclasses import dataclass
from math import log

from ..errors import refuse
from ..messages import quantity, span, temperature
from .dips import ColdLoad, Dip, HotChamber, dip

COPPER_J_G_K = 0.39
"""Specific heat of copper (and, within a tenth, of iron), J/g·K."""
CONTACT_W_K = 0.6
"""Wetted contact of a tip on a joint, W/K (typical, from memory)."""
STEP_S = 0.05
SPARE = 1.05
"""Least power against the power that only holds it, so that it gets there in a sensible time (our choice)."""


@dataclass(frozen=True)
class Tool:
    """A tool at work: temperatures in °C, power of its heater and power that only holds it, W."""

    working_c: float
    idle_c: float
    ambient_c: float
    power_w: float
    hold_w: float

    def __post_init__(self) -> None:
        if self.working_c <= self.ambient_c:
            raise refuse("working_c", "the tip is not hotter than the room", f"above {temperature(self.ambient_c)}")
        if self.power_w <= self.hold_w * SPARE:
            gives = f"the heater gives {quantity(self.power_w, 'W', '.3g')} here and would not get there"
            raise refuse("hold_w", gives, f"below {quantity(self.power_w / SPARE, 'W', '.3g')}")
        if not self.ambient_c <= self.idle_c < self.working_c:
            raise refuse("idle_c", "idling is cooler than working", span(self.ambient_c, self.working_c, "°C"))


@dataclass(frozen=True)
class AtWork:
    """Seconds from cold and from idle; what the joint does to it, and how deep it dips in °C."""

    cold_s: float
    idle_s: float
    dip: Dip
    depth_c: float


def heat_up_s(tool: Tool, mass_g: float, start_c: float) -> float:
    """Seconds at full power from ``start_c`` to work: ``(C/G) ln((P − G ΔT)/(P − P_hold))``, ``G = P_hold/(T_w − T_a)``."""
    conductance = tool.hold_w / (tool.working_c - tool.ambient_c)
    left = (tool.power_w - conductance * (start_c - tool.ambient_c)) / (tool.power_w - tool.hold_w)
    return mass_g * COPPER_J_G_K / conductance * log(left)


def at_work(tool: Tool, mass_g: float, joint_g: float) -> AtWork:
    """A tip of ``mass_g`` with its heated part, and a copper joint of ``joint_g`` at room temperature."""
    found = dip(
        HotChamber(tool.working_c, tool.ambient_c, mass_g * COPPER_J_G_K, tool.hold_w, tool.power_w),
        ColdLoad(joint_g / 1000, COPPER_J_G_K * 1000, tool.ambient_c, CONTACT_W_K),
        STEP_S,
    )
    cold, idle = (heat_up_s(tool, mass_g, start) for start in (tool.ambient_c, tool.idle_c))
    return AtWork(cold, idle, found, tool.working_c - found.lowest_c)
