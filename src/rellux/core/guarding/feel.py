"""A light that says how hot a rig is to touch, by its reading and by when it was heated last."""

from enum import StrEnum
from math import isnan

from .plan import StatusLight

BACK_C = 1.0
"""So far below its value a reading must be before the light changes back (our choice)."""


class Feel(StrEnum):
    """How hot it is to touch. Heated a moment ago, what heats is hot whatever is read; where nothing is read it counts as hot too."""

    COOL = "cool"
    WARM = "warm"
    HOT = "hot"
    HEATED = "heated"
    UNKNOWN = "unknown"


_ORDER = (Feel.COOL, Feel.WARM, Feel.HOT)


class Light:
    """One light in time. It begins as if the output had just been on: nobody saw what was before."""

    def __init__(self, settings: StatusLight) -> None:
        self.settings = settings
        self._level, self._off_s = 0, 0.0

    def look(self, step_s: float, reading_c: float, output: float) -> Feel:
        """``step_s`` s after the look before; °C and %, NaN for what is not told."""
        self._off_s = self._off_s + step_s if output <= 0.0 else 0.0
        if isnan(reading_c):
            self._level = 0
            return Feel.UNKNOWN
        self._level = max(self._of(reading_c), min(self._of(reading_c + BACK_C), self._level))
        if isnan(output):
            return Feel.UNKNOWN
        if _ORDER[self._level] is not Feel.HOT and (output > 0.0 or self._off_s < self.settings.after_s):
            return Feel.HEATED
        return _ORDER[self._level]

    def blind(self) -> Feel:
        """Nothing was told: it may have been heated meanwhile."""
        self._off_s = 0.0
        return Feel.UNKNOWN

    def _of(self, celsius: float) -> int:
        return (celsius >= self.settings.warm_c) + (celsius >= self.settings.hot_c)
