"""How much gain a reading bears: its digit and its noise must not throw the output about."""

from dataclasses import replace
from math import sqrt

from ...control.pid import PID
from ...process.models import FOPDT

LARGEST_STEP = 5.0
"""By how many per cent one digit of the reading, or the noise of one, may move the output (our choice: a twentieth is not seen in a
heater)."""


def noise_gain(pid: PID, sample_s: float) -> float:
    """By how many % the output wanders (standard deviation) for each °C of white noise of the reading, looked at every ``sample_s``.

    The sum of squares of the impulse response of ``K_c [1 + g (1 − z⁻¹)/(1 − α z⁻¹)]`` with ``g = T_d/(T_d/N + T_s)`` and
    ``α = 1 − T_s/(T_d/N + T_s)``; the integral's part is left out.
    """
    slow = pid.derivative_time_s / pid.derivative_filter + sample_s
    kick, share = pid.derivative_time_s / slow, sample_s / slow
    return pid.gain * sqrt((1.0 + kick) ** 2 + kick**2 * share / (2.0 - share))


def ceiling(pid: PID, digit_c: float, noise_c: float, sample_s: float) -> float:
    """The most gain, %/°C, with which one digit and the noise of a reading (standard deviation, °C) move the output by 5 % at most."""
    unruly = noise_c * noise_gain(replace(pid, gain=1.0), sample_s)
    return LARGEST_STEP / max(digit_c, unruly)


def cap_gain(pid: PID, process: FOPDT, digit_c: float, noise_c: float = 0.0, sample_s: float = 0.25) -> PID:
    """The same settings with the gain no higher than its :func:`ceiling`.

    A smaller gain is a slower loop, ``τ_c + L = τ/(K K_c)``, and its integral time grows with it, ``4 (τ_c + L)`` and never beyond τ
    (Skogestad 2003): kept as it was it would make a lag-dominant loop swing.
    """
    most = ceiling(pid, digit_c, noise_c, sample_s)
    if pid.gain <= most:
        return pid
    slower = min(4.0 * process.lag_s / (process.gain * most), process.lag_s)
    return replace(pid, gain=most, integral_time_s=max(pid.integral_time_s, slower))
