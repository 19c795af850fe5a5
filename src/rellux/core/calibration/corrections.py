"""What a controller adds to a reading: one offset, a gain before it, or points with their own number each.

Shown = gain × raw + offset + what the points add at raw: straight between two of them; outside, as the nearest (common practice: some
controllers go on along the line instead, so what lies outside is never promised). All in °C; in another unit the *offset* beside a gain is
another number, because that unit's zero lies elsewhere.
"""

from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise

import numpy as np

from ..errors import refuse
from ..messages import temperature
from ..units import Kind, from_unit, in_unit


class Correcting(StrEnum):
    """How a controller corrects at more than one temperature."""

    GAIN = "gain"
    POINTS = "points"


SAYS = {
    Correcting.GAIN: "an offset and a gain",
    Correcting.POINTS: "two points, or a table of points",
}
MOST_POINTS = 5
"""Points a table has at most (our choice: controllers that have one take two to five, some more)."""


@dataclass(frozen=True)
class CorrectionPoint:
    """``add_c`` is added where the reading without any correction is ``at_c``, °C."""

    at_c: float
    add_c: float


@dataclass(frozen=True)
class Correction:
    """What is in force. ``points``: coolest first."""

    offset_c: float = 0.0
    gain: float = 1.0
    points: tuple[CorrectionPoint, ...] = ()

    def shown(self, raw_c: float) -> float:
        """What the display shows, °C.

        >>> Correction(-2.0, 1.01).shown(500.0)
        503.0
        """
        return self.gain * raw_c + self.offset_c + self._of_points(raw_c)

    def raw(self, shown_c: float) -> float:
        """The reading without any correction, °C: the one that would be shown as this. Raises ``Refused`` for a correction that shows a
        hotter reading as a cooler one, where no reading can be told from the display."""
        check_correction(self)
        corners = [p.at_c for p in self.points]
        at = [self.shown(c) for c in corners]
        beyond = sum(1 for value in at if value < shown_c)
        if not at or beyond in (0, len(at)):
            near = self._of_points(corners[0] if beyond == 0 else corners[-1]) if at else 0.0
            return (shown_c - self.offset_c - near) / self.gain
        low, high = beyond - 1, beyond
        share = (shown_c - at[low]) / (at[high] - at[low])
        return corners[low] + share * (corners[high] - corners[low])

    def beside(self, shown_c: float) -> float:
        """What gain and points add beside the offset where this is shown, °C; 0 where there are none."""
        if self.gain == 1.0 and not self.points:
            return 0.0
        return shown_c - self.offset_c - self.raw(shown_c)

    def added(self, shown_c: float) -> float:
        """All that is added where this is shown, °C."""
        return self.offset_c + self.beside(shown_c)

    def _of_points(self, raw_c: float) -> float:
        if not self.points:
            return 0.0
        return float(np.interp(raw_c, [p.at_c for p in self.points], [p.add_c for p in self.points]))


NOTHING = Correction()


def check_correction(it: Correction) -> None:
    """Raise ``Refused`` where points are not in order, or it shows a hotter reading as a cooler one."""
    if not it.gain > 0:
        raise refuse("gain_correction", f"{it.gain:g} would turn the reading round", "more than 0")
    for cooler, hotter in pairwise(it.points):
        if not cooler.at_c < hotter.at_c:
            raise refuse(
                "points",
                f"{temperature(hotter.at_c, 'g')} comes after {temperature(cooler.at_c, 'g')}",
                "the coolest first, each once",
            )
        if not it.shown(hotter.at_c) > it.shown(cooler.at_c):
            raise refuse(
                "points",
                f"between {temperature(cooler.at_c, 'g')} and {temperature(hotter.at_c, 'g')} it would show a hotter reading as cooler",
                "numbers that change less than the temperature does",
            )


def offset_in_unit(offset_c: float, gain: float, unit: str) -> float:
    """The offset beside a gain as a controller takes it that counts in ``unit`` (C, F, K).

    Shown in °F is 1.8 × shown in °C + 32, and so is the reading: the gain acts on 32 too many.

    >>> round(offset_in_unit(-2.0, 1.01, "F"), 2), offset_in_unit(-2.0, 1.0, "F")
    (-3.92, -3.6)
    """
    return in_unit(offset_c, Kind.DIFFERENCE, unit) + in_unit(0.0, Kind.TEMPERATURE, unit) * (1.0 - gain)


def offset_from_unit(offset: float, gain: float, unit: str) -> float:
    """The same the other way, °C."""
    return from_unit(offset - in_unit(0.0, Kind.TEMPERATURE, unit) * (1.0 - gain), Kind.DIFFERENCE, unit)
