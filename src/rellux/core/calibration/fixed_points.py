"""Temperatures that nature keeps: ice, boiling water at the pressure of the place, melting metals.

Boiling: saturation temperature of water, IAPWS R7-97 (IF97), region 4, equation 31. Pressure of the place: standard atmosphere
(ISO 2533), or a weather report's value, which is for sea level, taken back up.
"""

from ..errors import refuse

LOWEST_M, HIGHEST_M = -430.0, 6000.0
"""Where people work: the shore of the lowest lake and the highest settlements (common knowledge)."""
LOWEST_HPA, HIGHEST_HPA = 400.0, 1100.0
"""Air pressures there, hPa (our choice, a little wider)."""
STANDARD_HPA = 1013.25
LAPSE_PER_M, EXPONENT = 2.25577e-5, 5.25588
"""Of the standard atmosphere below 11 km: p = p₀ (1 − a h)^b (ISO 2533)."""
SALT_C_PER_G_KG = 0.5 / 29.0
"""Boiling point raised by salt, °C for each gram in a kilogram of water (common practice: {0.5 °C} for 29 g/kg)."""
METALS = {
    "indium": 156.5985,
    "tin": 231.928,
    "zinc": 419.527,
    "aluminium": 660.323,
    "silver": 961.78,
}
"""Freezing points in °C, fixed points of the ITS-90."""

_N = (
    0.11670521452767e4,
    -0.72421316703206e6,
    -0.17073846940092e2,
    0.12020824702470e5,
    -0.32325550322333e7,
    0.14915108613530e2,
    -0.48232657361591e4,
    0.40511340542057e6,
    -0.23855557567849,
    0.65017534844798e3,
)


def pressure_at(altitude_m: float, sea_level_hpa: float = STANDARD_HPA) -> float:
    """Pressure of the place in hPa, from the value for sea level and its altitude in m.

    >>> round(pressure_at(1609.0), 1)
    834.3

    Raises ``Refused`` for an altitude where nobody works."""
    if not LOWEST_M <= altitude_m <= HIGHEST_M:
        raise refuse("altitude_m", f"{altitude_m:g} m is not where an oven stands", f"{LOWEST_M:g}…{HIGHEST_M:g} m")
    if not LOWEST_HPA <= sea_level_hpa <= HIGHEST_HPA:
        raise refuse(
            "pressure_hpa", f"{sea_level_hpa:g} hPa is no pressure of air", f"{LOWEST_HPA:g}…{HIGHEST_HPA:g} hPa"
        )
    return float(sea_level_hpa * (1.0 - LAPSE_PER_M * altitude_m) ** EXPONENT)


def boiling(pressure_hpa: float, salt_g_per_kg: float = 0.0) -> float:
    """Temperature in °C at which water boils at a pressure in hPa, salt in it raising it.

    >>> round(boiling(1013.25), 2)
    99.97

    Raises ``Refused`` for what is no pressure of air."""
    if not LOWEST_HPA <= pressure_hpa <= HIGHEST_HPA:
        raise refuse(
            "pressure_hpa", f"{pressure_hpa:g} hPa is no pressure of air", f"{LOWEST_HPA:g}…{HIGHEST_HPA:g} hPa"
        )
    n = _N
    b = (pressure_hpa / 1e4) ** 0.25  # of megapascals
    e = b * b + n[2] * b + n[5]
    f = n[0] * b * b + n[3] * b + n[6]
    g = n[1] * b * b + n[4] * b + n[7]
    d = 2.0 * g / (-f - (f * f - 4.0 * e * g) ** 0.5)
    kelvin = (n[9] + d - ((n[9] + d) ** 2 - 4.0 * (n[8] + n[9] * d)) ** 0.5) / 2.0
    return float(kelvin - 273.15 + SALT_C_PER_G_KG * salt_g_per_kg)
