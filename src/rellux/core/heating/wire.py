"""Copper wire as metal: American gauges, resistance at its temperature, drop and heat along a run.

AWG: ASTM B258, ``d = 0.127 mm × 92^((36 − n)/39)``. Copper: IEC 60028, 1.7241e-8 Ω m at 20 °C, +0.393 %/K.
"""

from math import log, pi, sqrt

from ..errors import refuse
from .conductor_tables import CLASS_5_OHM_PER_KM

THICKEST_GAUGE, THINNEST_GAUGE = -3, 40
"""4/0 and 40 AWG (ASTM B258)."""

COPPER_OHM_M = 1.7241e-8
COPPER_PER_KELVIN = 3.93e-3
KCMIL_MM2 = 0.506707
"""A thousand circular mils: a circle of 1 mil is π/4 × (0.0254 mm)²."""
STRANDING = 1.02
"""A stranded conductor's own length beyond the cable's, for AWG sizes (NEC chapter 9 table 8)."""


def awg_diameter_mm(gauge: int) -> float:
    """Diameter of a solid wire in mm; 0 is 1/0, −1 is 2/0. Raises ``Refused`` outside 4/0…40.

    >>> round(awg_diameter_mm(14), 3)  # ASTM B258 prints 1.628 mm
    1.628
    """
    if not THICKEST_GAUGE <= gauge <= THINNEST_GAUGE:
        raise refuse("gauge", f"{gauge} AWG is not in the table", "-3 (4/0)…40")
    return float(0.127 * 92.0 ** ((36 - gauge) / 39.0))


def awg_area_mm2(gauge: int) -> float:
    """Cross-section in mm².

    >>> round(awg_area_mm2(14), 3)  # NEC chapter 9 table 8 prints 2.08 mm²
    2.081
    """
    return float(pi / 4.0 * awg_diameter_mm(gauge) ** 2)


def area_of(label: str) -> float:
    """Cross-section in mm² of a size by its label: mm², AWG or kcmil.

    >>> area_of("6 mm²"), round(area_of("4/0 AWG"), 1), round(area_of("250 kcmil"), 1)
    (6.0, 107.2, 126.7)
    """
    number, unit = label.split()
    if unit == "kcmil":
        return float(number) * KCMIL_MM2
    if unit == "AWG":
        return awg_area_mm2(1 - int(number[:-2]) if number.endswith("/0") else int(number))
    return float(number)


def nearest_awg(area_mm2: float) -> int:
    """The gauge whose cross-section is nearest by ratio. Raises ``Refused`` for no area."""
    if area_mm2 <= 0:
        raise refuse("area_mm2", "must be more than zero", "> 0 mm²")
    diameter = sqrt(4.0 * area_mm2 / pi)
    return round(36 - 39.0 * log(diameter / 0.127) / log(92.0))


def ohm_per_metre(label: str, area_mm2: float, celsius: float) -> float:
    """Resistance in Ω of one metre of one stranded conductor at ``celsius``."""
    at_20 = (
        COPPER_OHM_M / (area_mm2 * 1e-06) * STRANDING if "mm²" not in label else CLASS_5_OHM_PER_KM[area_mm2] / 1000.0
    )
    return at_20 * (1.0 + COPPER_PER_KELVIN * (celsius - 20.0))
