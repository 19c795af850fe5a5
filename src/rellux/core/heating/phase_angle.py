"""Power by firing angle and by bursts of whole cycles.

Phase angle, resistive load on its own sine (single-phase, or star with neutral): ``p = 1 − α/π + sin 2α / 2π`` with the
delay α from the zero crossing. Burst: whole half-cycles on and off, so the share of power is the share of time.
"""

from math import pi, sin, sqrt

import scipy

from ..errors import refuse


def phase_power(angle_rad: float) -> float:
    """Share of full power (0…1) when firing is delayed by ``angle_rad`` (0…π). Raises ``Refused`` beyond.

    >>> round(phase_power(pi / 2), 3), round(phase_power(pi / 3), 3)
    (0.5, 0.804)
    """
    if not 0 <= angle_rad <= pi:
        raise refuse("angle", "the delay lies within a half-cycle", "0…180°")
    return max(1.0 - angle_rad / pi + sin(2.0 * angle_rad) / (2.0 * pi), 0.0)


def phase_angle(power: float) -> float:
    """The delay in rad that gives ``power`` (0…1); monotone, solved numerically. Raises ``Refused`` beyond."""
    if not 0 <= power <= 1:
        raise refuse("power", "a share of full power", "0…1")
    return float(scipy.optimize.brentq(lambda a: phase_power(a) - power, 0.0, pi, xtol=1e-10))


CLEAR_S = 0.0005
"""A pulse keeps so far from both zero crossings, s (common practice, no source)."""


def pin_delay(power: float, mains_hz: float, detector_s: float) -> float:
    """What a firmware waits after its detector's edge, s, for a share of full power (0…1): ``α / (2π f)`` less what the edge is late by,
    kept clear of both crossings. Negative where that moment is past already.

    >>> round(1e6 * pin_delay(0.5, 50.0, 0.0003))
    4700
    """
    half = 0.5 / mains_hz
    return min(max(phase_angle(power) / pi * half, CLEAR_S), half - CLEAR_S) - detector_s


def pin_reach(mains_hz: float) -> tuple[float, float]:
    """Least and most share of power that is left between the clearances."""
    half = 0.5 / mains_hz
    return phase_power(pi * (half - CLEAR_S) / half), phase_power(pi * CLEAR_S / half)


def rms_share(angle_rad: float) -> float:
    """Voltage or current as rms over its full value: ``√p``."""
    return sqrt(phase_power(angle_rad))


def neutral_share(angle_rad: float) -> float:
    """Neutral current of three equal phase-fired loads in star, as a multiple of the *full* line current.

    Summed numerically over a period: the closed forms differ below 60°, to 90° and beyond.
    """
    steps = 3600
    total = 0.0
    for i in range(steps):
        angle = 2.0 * pi * (i + 0.5) / steps
        summed = sum(_fired(angle - shift, angle_rad) for shift in (0.0, 2 * pi / 3, 4 * pi / 3))
        total += summed * summed
    return sqrt(total / steps) * sqrt(2.0)


def _fired(angle: float, delay: float) -> float:
    """A phase's current at ``angle``, amplitude 1."""
    return sin(angle) if angle % pi >= delay else 0.0


def burst_steps(period_s: float, mains_hz: float) -> float:
    """Power steps a control period has with a zero-cross switch: ``period / half-cycle``.
    Raises ``Refused`` for what is not above 0.
    """
    if period_s <= 0 or mains_hz <= 0:
        raise refuse("period_s", "must be more than zero", "> 0 s")
    return 2.0 * mains_hz * period_s
