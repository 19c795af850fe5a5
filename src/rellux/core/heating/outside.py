"""Heat leaving a surface into a room: free convection and radiation, and what a hand stands.

Convection: Churchill & Chu (1975), vertical plate, all Rayleigh numbers; air from Sutherland's law. Radiation: grey surface
in a large room. Touch: ISO 13732-1, burn threshold of bare smooth metal, from memory.
"""

import numpy as np

from ..errors import refuse
from ..units import ABSOLUTE_ZERO_C

STEFAN_BOLTZMANN = 5.670374419e-8
GRAVITY = 9.80665
AIR_PRANDTL = 0.71
PRESSURE_PA = 101_325.0

TOUCH_LIMITS = ((8 * 3600.0, 43.0), (600.0, 48.0), (60.0, 51.0), (10.0, 55.0), (1.0, 67.0))
"""Contact time in s and the bare-metal temperature in °C that burns, ISO 13732-1, from memory."""

EMISSIVITY = {"painted": 0.9, "oxidised": 0.8, "stainless": 0.3, "bright": 0.1}
"""Of usual outsides, textbook values, from memory."""


def air_conductivity(celsius: float) -> float:
    """Of air in W/m·K, Sutherland form; within 3 % from −20 to 500 °C."""
    t = celsius - ABSOLUTE_ZERO_C
    return float(2.64638e-3 * t**1.5 / (t + 245.4 * 10.0 ** (-12.0 / t)))


def air_viscosity(celsius: float) -> float:
    """Kinematic viscosity of air at sea level in m²/s, Sutherland's law; within 3 % to 500 °C."""
    t = celsius - ABSOLUTE_ZERO_C
    dynamic = 1.458e-6 * t**1.5 / (t + 110.4)
    return float(dynamic / (PRESSURE_PA / (287.05 * t)))


def convection(surface_c: float, ambient_c: float, height_m: float) -> float:
    """Free convection coefficient of an upright surface in W/m²K. Raises ``Refused`` for a height that is none.

    ``Nu = (0.825 + 0.387 Ra^(1/6) / (1 + (0.492/Pr)^(9/16))^(8/27))²`` with air at the film temperature.
    """
    if height_m <= 0:
        raise refuse("height_m", "must be more than zero", "> 0 m")
    film = (surface_c + ambient_c) / 2.0
    k, nu = air_conductivity(film), air_viscosity(film)
    expansion = 1.0 / (film - ABSOLUTE_ZERO_C)
    rayleigh = GRAVITY * expansion * abs(surface_c - ambient_c) * height_m**3 / nu**2 * AIR_PRANDTL
    nusselt = (0.825 + 0.387 * rayleigh ** (1 / 6) / (1.0 + (0.492 / AIR_PRANDTL) ** (9 / 16)) ** (8 / 27)) ** 2
    return float(nusselt * k / height_m)


def radiation(surface_c: float, ambient_c: float, emissivity: float) -> float:
    """Radiative coefficient of a surface in a large room, W/m²K: ``ε σ (T⁴ − T_a⁴) / (T − T_a)``."""
    a, b = surface_c - ABSOLUTE_ZERO_C, ambient_c - ABSOLUTE_ZERO_C
    return float(emissivity * STEFAN_BOLTZMANN * (a * a + b * b) * (a + b))


def longest_touch(surface_c: float) -> float | None:
    """Longest contact in s with bare metal at ``surface_c`` before a burn, or None when it is not even one second."""
    below = [time for time, limit in TOUCH_LIMITS if surface_c <= limit]
    return float(np.max(below)) if below else None
