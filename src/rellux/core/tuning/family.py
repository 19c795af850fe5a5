"""Which processes a record leaves possible: what is predicted is predicted of each of them."""

import numpy as np

from ..process.models import FOPDT, SOPDT, with_second_lag

MEMBERS = 24
STEEPER, SOONER, LATER = 0.15, 0.8, 1.25
"""A rig is no lag with dead time: beyond their intervals its rate may be off by such a share either way, and its dead time be so many times
what was found (our choice, by simulated rigs with element, walls, load and radiation: tests/core/tuning/test_predicted)."""
LEAST_GAIN = 0.25
"""Of the gain found: less than that is not taken for possible (our choice)."""

OPEN = 4.0
"""Where a gain has no upper end, so many times its least (our choice)."""

Ends = tuple[float, float, float]
"""A value between the ends of its interval: low, value, high; the upper is infinite where it is open."""


def later(dead_s: Ends, row_s: float) -> Ends:
    """A dead time that was found in rows ``row_s`` apart: half of that later is told from nothing in them."""
    low, value, high = dead_s
    return low, value, high + row_s / 2.0


def family(
    gain: Ends, rate: Ends, dead_s: Ends, second_s: float = 0.0, slow_gain: float = 0.0
) -> tuple[FOPDT | SOPDT, ...]:
    """Processes over the intervals of gain (°C/%), ``rate`` (K/τ, °C/s per %) and dead time, their edges among them: the better known rate
    and the less known gain are drawn apart, and the lag follows. ``second_s``: the second lag; ``slow_gain``: what may come more slowly
    than the record shows, °C/% more."""
    rng = np.random.default_rng(MEMBERS)
    highest = OPEN * gain[0] if np.isinf(gain[2]) else gain[2]
    gain_low, most = max(gain[0], LEAST_GAIN * gain[1]), highest + slow_gain
    gains = np.append((most, gain_low), rng.uniform(gain_low, most, MEMBERS - 2))
    rates = rng.uniform(rate[0], rate[2], MEMBERS) * rng.uniform(1.0 - STEEPER, 1.0 + STEEPER, MEMBERS)
    deads = rng.uniform(dead_s[0], dead_s[2], MEMBERS) * rng.uniform(SOONER, LATER, MEMBERS)
    return tuple(
        with_second_lag(FOPDT(float(k), float(k / r), max(float(d), 0.0)), second_s)
        for k, r, d in zip(gains, np.maximum(rates, LEAST_GAIN * rate[1]), deads, strict=True)
    )
