"""How warm a closed box gets from the heat inside, and what a metal panel does as a heat sink.

``ΔT = P / (U A)``; U about 5.5 W/m²K for painted steel, 3.5 for plastic, free-standing (IEC 60890 and makers' charts, from
memory). Only surfaces with air behind them count. Forced air: ``P = ρ c V̇ ΔT``.
"""

from dataclasses import dataclass

from ..heating.fluids import AIR_J_M3_K
from ..heating.outside import EMISSIVITY, convection, radiation

HIGHEST_INSIDE_C = 50.0
"""What most controllers stand around them (data sheets, common practice)."""
TRANSFER = {"steel": 5.5, "stainless": 4.5, "plastic": 3.5}
"""Overall W/m²K from the air inside to the room, by material; from memory."""


@dataclass(frozen=True)
class Box:
    """Outside width, height, depth in m; ``covered_m2`` of it stand against a wall or floor."""

    width_m: float
    height_m: float
    depth_m: float
    material: str
    covered_m2: float = 0.0

    @property
    def surface_m2(self) -> float:
        w, h, d = self.width_m, self.height_m, self.depth_m
        return max(2 * (w * h + w * d + h * d) - self.covered_m2, 0.01)


def rise(box: Box, heat_w: float, air_m3_s: float = 0.0) -> float:
    """K by which the air inside is warmer than the room."""
    return heat_w / (TRANSFER[box.material] * box.surface_m2 + AIR_J_M3_K * air_m3_s)


def plate_resistance(area_m2: float, plate_c: float, ambient_c: float, both_sides: bool) -> float:
    """K/W of a flat upright painted plate as a heat sink, spread evenly (thick enough, or it is worse)."""
    height = area_m2**0.5
    h = convection(plate_c, ambient_c, height) + radiation(plate_c, ambient_c, EMISSIVITY["painted"])
    return 1.0 / (h * area_m2 * (2.0 if both_sides else 1.0))
