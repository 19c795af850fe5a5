"""When a cold surface sweats: the dew point of moist air by Magnus' formula over water (coefficients of the WMO guide, from memory)."""

from math import log

A, B_C = 17.62, 243.12


def dew_point(ambient_c: float, humidity_percent: float) -> float:
    """Temperature in °C below which a surface in this air is wet; within 0.1 °C from −20 to 50 °C.

    >>> round(dew_point(20.0, 50.0), 1)
    9.3
    """
    gamma = log(humidity_percent / 100.0) + A * ambient_c / (B_C + ambient_c)
    return B_C * gamma / (A - gamma)
