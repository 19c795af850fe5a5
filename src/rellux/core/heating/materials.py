"""Materials walls are made of: conductivity by temperature, density, specific heat, and how hot each may get.

Bricks: VDI Heat Atlas 2010, section D6.3 (refractories L 1260, L 1400, fireclay; 400…1200 °C). Building materials:
ISO 10456. Fibres, boards and microporous slabs: typical of data sheets, from memory. Specific heat of the others:
typical, from memory. A data sheet of the material at hand overrules all of them.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

VDI = "VDI Heat Atlas 2010, D6.3"
SHEET = "typical of data sheets, from memory"
ISO = "ISO 10456; specific heat from memory"


@dataclass(frozen=True)
class Material:
    """``conductivity`` in W/m·K at ``at_c`` in °C; density in kg/m³, specific heat in J/kg·K, limit in °C (continuous)."""

    name: str
    at_c: tuple[float, ...]
    conductivity: tuple[float, ...]
    density: float
    specific_heat: float
    limit_c: float
    source: str = SHEET

    def k(self, temperature_c: float | NDArray[np.float64]) -> NDArray[np.float64]:
        """Conductivity in W/m·K; between the points straight, beyond them the last one."""
        return np.asarray(np.interp(temperature_c, self.at_c, self.conductivity))

    def k_integral(self, temperature_c: NDArray[np.float64]) -> NDArray[np.float64]:
        """∫k dT from 0 °C in W/m: what a layer's heat flow depends on when conductivity changes with temperature."""
        grid = np.unique(np.concatenate(([-60.0, 0.0], self.at_c, [2000.0])))
        k = self.k(grid)
        summed = np.concatenate(([0.0], np.cumsum(np.diff(grid) * (k[1:] + k[:-1]) / 2.0)))
        start = np.interp(0.0, grid, summed)
        below = np.clip(np.searchsorted(grid, temperature_c, side="right") - 1, 0, len(grid) - 2)
        step = temperature_c - grid[below]
        return np.asarray(summed[below] + step * (k[below] + self.k(temperature_c)) / 2.0 - start)


MATERIALS = {
    "blanket": Material(
        "Ceramic fibre blanket, 128 kg/m³", (200, 400, 600, 800, 1000), (0.06, 0.10, 0.15, 0.20, 0.27), 128, 1130, 1200
    ),
    "fibre_board": Material(
        "Ceramic fibre board, 300 kg/m³", (200, 400, 600, 800, 1000), (0.07, 0.09, 0.12, 0.15, 0.19), 300, 1130, 1200
    ),
    "brick_23": Material(
        "Insulating firebrick, {1260 °C} class",
        (400, 600, 800, 1000, 1200),
        (0.14, 0.16, 0.18, 0.20, 0.22),
        490,
        990,
        1230,
        VDI,
    ),
    "brick_26": Material(
        "Insulating firebrick, {1400 °C} class",
        (400, 600, 800, 1000, 1200),
        (0.27, 0.30, 0.32, 0.34, 0.36),
        790,
        1005,
        1370,
        VDI,
    ),
    "fireclay": Material(
        "Dense fireclay brick", (400, 600, 800, 1000, 1200), (1.05, 1.10, 1.15, 1.18, 1.22), 2150, 1000, 1350, VDI
    ),
    "calcium_silicate": Material(
        "Calcium silicate board", (100, 200, 400, 600), (0.065, 0.075, 0.095, 0.12), 250, 1000, 1000
    ),
    "vermiculite": Material("Vermiculite board", (200, 400, 600, 800), (0.16, 0.17, 0.19, 0.22), 450, 950, 1050),
    "microporous": Material(
        "Microporous slab", (100, 200, 400, 600, 800), (0.021, 0.022, 0.024, 0.028, 0.034), 240, 900, 950
    ),
    "rock_wool": Material(
        "Rock wool, 100 kg/m³", (10, 100, 200, 300, 400, 600), (0.036, 0.045, 0.060, 0.082, 0.11, 0.19), 100, 840, 650
    ),
    "glass_wool": Material("Glass wool, bonded", (10, 100, 200), (0.036, 0.055, 0.085), 50, 840, 230),
    "pir_foam": Material("PIR foam board", (10, 100), (0.023, 0.030), 32, 1400, 110),
    "plywood": Material("Plywood", (10,), (0.13,), 500, 1600, 80, ISO),
    "glass": Material("Window glass", (10,), (1.0,), 2500, 750, 200, ISO),
    "steel": Material("Steel sheet", (10, 500), (50, 38), 7800, 450, 450, ISO),
    "stainless": Material("Stainless steel sheet", (10, 500), (17, 21), 7900, 460, 800, ISO),
    "aluminium": Material("Aluminium sheet", (10,), (160,), 2800, 880, 250, ISO),
}
