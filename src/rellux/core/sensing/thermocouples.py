"""Thermocouples: EMF from temperature, temperature from EMF, and cold-junction compensation.

Reference functions of NIST Monograph 175 / IEC 60584-1 (ITS-90). Types A and C are not supported.
Nothing here extrapolates: outside a type's range the answer is an error that names the type and its range.
"""

from functools import cache

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..errors import refuse
from ..messages import quantity, span
from .inverse import emf_array, invert_array
from .thermocouple_data import SEGMENTS

Array = NDArray[np.float64]

TYPES = tuple(sorted(SEGMENTS))

TYPE_B_MINIMUM_MV = -0.0025849
"""Lowest EMF of type B, at 21.02 °C; between 0 and 42.13 °C its EMF has no unique temperature."""


def temperature_range(letter: str) -> tuple[float, float]:
    """Lowest and highest temperature in °C of the reference function."""
    segments = _segments(letter)
    return segments[0].low, segments[-1].high


def emf(letter: str, temperature_c: ArrayLike) -> Array:
    """EMF in mV against a reference junction at 0 °C.

    ``temperature_c``: scalar or array of any shape, °C; the result has the same shape.
    Raises ``Refused`` when any value is outside the range of the type, or not a number.

    >>> float(emf("K", 500.0).round(3))  # IEC 60584-1 prints 20.644 mV
    20.644
    """
    low, high = temperature_range(letter)
    values = np.asarray(temperature_c, dtype=np.float64)
    _require_within(values, low, high, "temperature_c", f"type {letter} thermocouple", "°C")
    return emf_array(letter, values)


def temperature(letter: str, emf_mv: ArrayLike) -> Array:
    """Temperature in °C of an EMF in mV against a reference junction at 0 °C, solved to better than 1 mK.

    Newton's method on the reference function itself (not the approximate inverse polynomials), guarded by bisection.
    Type B answers only above its root at 42.13 °C. Raises ``Refused`` for what no temperature gives; for type B at E ≤ 0 too, which
    does not tell 0 from 42 °C.
    """
    values = np.asarray(emf_mv, dtype=np.float64)
    low, high = emf_range(letter)
    if letter == "B":
        smallest = np.nanmin(values, initial=np.inf)
        if TYPE_B_MINIMUM_MV <= smallest <= 0.0:
            raise refuse(
                "emf_mv",
                f"{quantity(smallest, 'mV')} is not determinable for a type B "
                f"thermocouple: anything from 0 to {{42 °C}} gives it",
                f"above 0 and up to {quantity(high, 'mV', '.3f')}",
            )
    _require_within(values, low, high, "emf_mv", f"type {letter} thermocouple", "mV")
    return invert_array(letter, values)


def seebeck(letter: str, temperature_c: float) -> float:
    """Slope of the reference function in mV/°C; central difference of 0.01 °C, one-sided at the ends."""
    low, high = temperature_range(letter)
    a, b = max(temperature_c - 0.01, low), min(temperature_c + 0.01, high)
    return float((emf(letter, b) - emf(letter, a)) / (b - a))


@cache
def emf_range(letter: str) -> tuple[float, float]:
    """Lowest and highest EMF in mV that :func:`temperature` answers for."""
    low, high = temperature_range(letter)
    ends = emf_array(letter, np.array([low, high]))
    return (0.0 if letter == "B" else float(ends[0])), float(ends[1])


def compensate(letter: str, measured_mv: ArrayLike, cold_junction_c: float) -> Array:
    """Temperature in °C of the hot junction: ``E⁻¹(V + E(T_cj))``, with the terminals at ``cold_junction_c``."""
    return temperature(letter, np.asarray(measured_mv, dtype=np.float64) + emf(letter, cold_junction_c))


def _segments(letter: str) -> tuple:  # type: ignore[type-arg]
    if letter not in SEGMENTS:
        raise refuse("type", f"thermocouple type {letter!r} is not supported", ", ".join(TYPES))
    return SEGMENTS[letter]


def _require_within(values: Array, low: float, high: float, field: str, what: str, unit: str) -> None:
    if values.size == 0 or (values.min() >= low and values.max() <= high):  # false as well when one is not a number
        return
    outside = values[~((values >= low) & (values <= high))]
    worst = float(outside.flat[0])
    described = "not a number" if np.isnan(worst) else quantity(worst, unit)
    raise refuse(field, f"{described} is outside the range of a {what}", span(low, high, unit, ".6g"))
