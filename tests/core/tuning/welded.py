"""A switch that stuck closed, and a limiter at the chamber that ends it: how much hotter the chamber still gets, for many rigs at once, by
the midpoint method. The judge of what is told of the peak after a trip."""

from collections.abc import Callable

import numpy as np

LET_GO, MOST = 0.3, 600_000
"""A peak is past once every chamber fell by so much, °C; steps at the most."""
Slopes = Callable[[np.ndarray, np.ndarray], np.ndarray]


def beyond_trip(
    slopes: Slopes, x: np.ndarray, held_w: np.ndarray, full_w: np.ndarray, late_s: np.ndarray, dt: np.ndarray, trip_c
) -> np.ndarray:
    """°C over ``trip_c`` of the chambers (column 1 of ``x``, rigs by nodes) out of ``x``, where ``held_w`` is on its way still; ``slopes``
    of temperatures and heat. Not a number where one never trips."""
    behind = np.maximum(np.round(late_s / dt).astype(int), 1)
    line = np.tile(held_w, (int(behind.max()) + 1, 1))
    on, peak, each = np.ones(len(dt), bool), x[:, 1].copy(), np.arange(len(dt))
    for k in range(MOST):
        on &= x[:, 1] < trip_c
        line[k % len(line)] = np.where(on, full_w, 0.0)
        heat = np.where(k >= behind, line[(k - behind) % len(line), each], held_w)
        half = x + dt[:, None] / 2 * slopes(x, heat)
        x = x + dt[:, None] * slopes(half, heat)
        peak = np.maximum(peak, x[:, 1])
        if (~on & (x[:, 1] < peak - LET_GO)).all():
            break
    return np.where(on, np.nan, peak - trip_c)
