"""What an instrument shows for a voltage or resistance: a temperature, or its under-range or over-range display.

The same inverse functions as elsewhere, but here a value outside the range is an *answer*, not an error.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from . import resistance
from .inverse import invert_array
from .thermocouples import emf_range

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Shown:
    """Equal-length columns: temperature in °C (NaN outside the range) and side: −1 under-range, 0 inside, +1 over-range."""

    celsius: Array
    side: NDArray[np.int8]


def from_emf(letter: str, emf_mv: Array) -> Shown:
    """What an input set for this thermocouple type shows for EMF values in mV (already cold-junction corrected)."""
    low, high = emf_range(letter)
    return _shown(np.asarray(emf_mv, dtype=np.float64), low, high, lambda inside: invert_array(letter, inside))


def from_resistance(ohms: Array, r0: float = 100.0) -> Shown:
    """What an input set for a platinum sensor of ``r0`` Ω shows for resistances in Ω."""
    low, high = (float(v) for v in resistance.resistance(np.array(resistance.RANGE_C), r0))
    return _shown(np.asarray(ohms, dtype=np.float64), low, high, lambda inside: resistance.temperature(inside, r0))


def _shown(values: Array, low: float, high: float, invert: Callable[[Array], Array]) -> Shown:
    if values.size and values.min() >= low and values.max() <= high:
        return Shown(invert(values), np.zeros(values.shape, dtype=np.int8))
    slack = 1e-9 * (high - low)  # a sum of voltages may miss the end of the range by its rounding
    side = np.where(values < low - slack, -1, np.where(values > high + slack, 1, 0)).astype(np.int8)
    celsius = np.full(values.shape, np.nan)
    inside = side == 0
    celsius[inside] = invert(np.clip(values[inside], low, high))
    return Shown(celsius, side)
