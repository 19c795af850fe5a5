"""The limit of stability: with how much gain alone a loop just keeps swinging, and how fast."""

from dataclasses import dataclass

import numpy as np
import scipy

from ...process.models import Model

DECADES, A_DECADE = 4, 200


@dataclass(frozen=True)
class Limit:
    """Ultimate gain, %/°C, and its period, s."""

    gain: float
    period_s: float


def limit_of(process: Model, time_scale_s: float) -> Limit | None:
    """Where its exact response, dead time as e^(−jωL), turns by half a circle; ``None`` for one that no gain makes swing.

    ``time_scale_s`` (about L + τ) centres the search, four decades either way.
    """
    w = np.geomspace(10.0**-DECADES, 10.0**DECADES, 2 * DECADES * A_DECADE) / time_scale_s
    late = process.modes().dead_time_s
    seen = process.response(w) * np.exp(
        1j * w * late
    )  # what dead time turns is taken apart, for it turns round many times
    lags = np.unwrap(np.angle(seen))
    there = np.flatnonzero(lags - w * late <= -np.pi)
    if not len(there) or there[0] == 0:
        return None
    i = int(there[0]) - 1

    def turned(at: float) -> float:
        """Phase and half a circle, rad."""
        one = process.response(np.array([at]))[0] * np.exp(1j * at * late)
        return float(lags[i] + np.angle(one / seen[i]) - at * late + np.pi)

    found = float(scipy.optimize.brentq(turned, w[i], w[i + 1]))
    return Limit(1.0 / float(np.abs(process.response(np.array([found])))[0]), 2.0 * np.pi / found)
