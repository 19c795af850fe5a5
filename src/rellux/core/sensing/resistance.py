"""Platinum resistance thermometers by IEC 60751: ``R = R₀[1 + At + Bt² + C(t − 100)t³]``, C only below 0 °C."""

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..errors import refuse
from ..messages import span

Array = NDArray[np.float64]

A = 3.9083e-3
B = -5.775e-7
C = -4.183e-12
RANGE_C = (-200.0, 850.0)


def resistance(temperature_c: ArrayLike, r0: float = 100.0) -> Array:
    """Resistance in Ω of a platinum sensor with ``r0`` Ω at 0 °C; same shape as ``temperature_c`` (°C).

    Raises ``Refused`` outside −200…850 °C.

    >>> float(resistance(100.0, 100.0).round(2))  # IEC 60751 prints 138.51 Ω
    138.51
    """
    t = np.asarray(temperature_c, dtype=np.float64)
    if not bool(np.all((t >= RANGE_C[0]) & (t <= RANGE_C[1]))):
        raise refuse("temperature_c", "outside the range of a platinum sensor (IEC 60751)", "{-200…850 °C}")
    cold = np.where(t < 0.0, C * (t - 100.0) * t**3, 0.0)
    return np.asarray(r0 * (1.0 + A * t + B * t**2 + cold))


def temperature(resistance_ohm: ArrayLike, r0: float = 100.0) -> Array:
    """Temperature in °C from resistance in Ω: the quadratic's root, refined by Newton below 0 °C.
    Raises ``Refused`` beyond its table.
    """
    r = np.asarray(resistance_ohm, dtype=np.float64)
    low, high = (float(v) for v in resistance(np.array(RANGE_C), r0))
    if not bool(np.all((r >= low - 1e-9) & (r <= high + 1e-9))):
        raise refuse("resistance_ohm", "outside the range of a platinum sensor", span(low, high, "Ω", ".2f"))
    ratio = r / r0
    t = (-A + np.sqrt(A * A - 4.0 * B * (1.0 - ratio))) / (2.0 * B)
    below = t < 0.0
    for _ in range(6):
        cold = np.where(below, C * (t - 100.0) * t**3, 0.0)
        cold_slope = np.where(below, C * (4.0 * t**3 - 300.0 * t**2), 0.0)
        t = t - (1.0 + A * t + B * t * t + cold - ratio) / (A + 2.0 * B * t + cold_slope)
    return np.asarray(t)
