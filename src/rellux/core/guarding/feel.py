"""A light that says how hot a rig is to touch, by its reading."""

from enum import StrEnum
from math import isnan

from .plan import StatusLight

BACK_C = 1.0
"""So far below its value a reading must be before the light changes back (our choice)."""


class Feel(StrEnum):
    """How hot it is to touch; where nothing is read it counts as hot."""

    COOL = "cool"
    WARM = "warm"
    HOT = "hot"
    UNKNOWN = "unknown"


_ORDER = (Feel.COOL, Feel.WARM, Feel.HOT)


def feel(light: StatusLight, reading_c: float, before: Feel | None = None) -> Feel:
    """What the light says of a reading (°C, NaN: there is none), after what it said before."""
    if isnan(reading_c):
        return Feel.UNKNOWN

    def of(celsius: float) -> int:
        return (celsius >= light.warm_c) + (celsius >= light.hot_c)

    held = _ORDER.index(before) if before in _ORDER else 0
    return _ORDER[max(of(reading_c), min(of(reading_c + BACK_C), held))]
