"""Tuning rules: from an identified process to PID settings. Each names its source and aim."""

from ..control.pid import PID, from_series
from ..process.models import FOPDT, SOPDT


def ziegler_nichols_pid(process: FOPDT) -> PID:
    """Reaction-curve PID: ``K_c = 1.2 τ/(K L)``, ``T_i = 2 L``, ``T_d = L/2``.

    Ziegler & Nichols, Trans. ASME 64 (1942). Aims at quarter decay: fast, with a large overshoot.
    """
    dead = process.dead_time_s
    return PID(1.2 * process.lag_s / (process.gain * dead), 2.0 * dead, 0.5 * dead)


def simc_pi(process: FOPDT, closed_loop_s: float) -> PID:
    """SIMC PI: ``K_c = τ / (K (τ_c + L))``, ``T_i = min(τ, 4 (τ_c + L))``.

    Skogestad, J. Process Control 13 (2003). ``closed_loop_s`` is τ_c; τ_c = L is the tight choice.

    >>> found = simc_pi(FOPDT(1.0, 21.0, 2.0), 2.0)  # Skogestad (2003) prints 5.25 and 16
    >>> found.gain, found.integral_time_s
    (5.25, 16.0)
    """
    total = closed_loop_s + process.dead_time_s
    return PID(process.lag_s / (process.gain * total), min(process.lag_s, 4.0 * total))


def simc_pid(process: SOPDT, closed_loop_s: float) -> PID:
    """SIMC PID for two lags: series ``K_c = τ₁/(K(τ_c + L))``, ``T_i = min(τ₁, 4(τ_c + L))``, ``T_d = τ₂``;
    returned in the standard form (Skogestad 2003)."""
    total = closed_loop_s + process.dead_time_s
    return from_series(process.lag_s / (process.gain * total), min(process.lag_s, 4.0 * total), process.second_lag_s)


LARGEST_STEP = 5.0
"""By how many per cent one digit of the reading may move the output (our choice: a twentieth is not seen in a heater)."""


def cap_gain(pid: PID, digit_c: float, process: FOPDT) -> PID:
    """The same settings with the gain limited so that one digit of the reading moves the output by 5 % at most.

    A smaller gain is a slower loop, ``τ_c + L = τ/(K K_c)``, and its integral time grows with it, ``4 (τ_c + L)`` and never beyond τ
    (Skogestad 2003): kept as it was it would make a lag-dominant loop swing.
    """
    ceiling = LARGEST_STEP / digit_c
    if pid.gain <= ceiling:
        return pid
    slower = min(4.0 * process.lag_s / (process.gain * ceiling), process.lag_s)
    return PID(
        ceiling, max(pid.integral_time_s, slower), pid.derivative_time_s, pid.setpoint_weight, pid.derivative_filter
    )
