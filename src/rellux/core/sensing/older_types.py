"""Thermocouple types L and U of DIN 43710: withdrawn, still in machines, and taken for J and T.

Values at whole hundreds from memory of DIN 43710 (± 0.02 mV), joined by monotone cubics: good to about half a degree between them.
They serve to recognise such a probe, not to measure with it.
"""

from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

Array = NDArray[np.float64]


@dataclass(frozen=True)
class OlderType:
    """``at_c`` in °C and ``mv`` in mV, reference junction at 0 °C."""

    letter: str
    colours: str
    at_c: tuple[float, ...]
    mv: tuple[float, ...]

    @property
    def range_c(self) -> tuple[float, float]:
        return self.at_c[0], self.at_c[-1]

    def emf(self, celsius: Array) -> Array:
        """EMF in mV; NaN outside the range."""
        return np.asarray(scipy.interpolate.PchipInterpolator(self.at_c, self.mv, extrapolate=False)(celsius))

    @property
    def boiling_mv(self) -> float:
        """Between boiling water and terminals at 20 °C, mV."""
        boiling, room = self.emf(np.array([100.0, 20.0]))
        return float(boiling - room)


OLDER = {
    "J": OlderType(
        "L",
        "red and blue",
        (-200.0, -100.0, 0.0, 100.0, 200.0, 300.0, 400.0, 500.0, 600.0, 700.0, 800.0, 900.0),
        (-8.15, -4.75, 0.0, 5.37, 10.95, 16.56, 22.16, 27.85, 33.67, 39.72, 46.22, 53.14),
    ),
    "T": OlderType(
        "U",
        "red and brown",
        (-200.0, -100.0, 0.0, 100.0, 200.0, 300.0, 400.0, 500.0, 600.0),
        (-5.70, -3.40, 0.0, 4.25, 9.20, 14.90, 21.00, 27.41, 34.31),
    ),
}
"""By the letter they are taken for."""
