"""Tuning rules as they were published: from a process, or from what it does at the limit of stability, to PID settings.

K: process gain, °C/%; τ: lag; L: dead time; a = K L/τ; K_u, P_u: gain and period at the limit. Values are from memory of the papers and
of the tables in Åström & Hägglund, *PID Controllers* (2nd ed., 1995), and Seborg et al., *Process Dynamics and Control*.
"""

from ...control.pid import PID, from_series
from ...process.models import FOPDT, SOPDT
from .limit import Limit


def reaction_curve_pi(process: FOPDT) -> PID:
    """Ziegler & Nichols, Trans. ASME 64 (1942): ``K_c = 0.9/a``, ``T_i = 3.3 L``. Quarter decay after a disturbance."""
    return PID(0.9 / _a(process), process.dead_time_s / 0.3)


def reaction_curve_pid(process: FOPDT) -> PID:
    """Ziegler & Nichols 1942: ``K_c = 1.2/a``, ``T_i = 2 L``, ``T_d = L/2``. Quarter decay: fast, with a large overshoot."""
    dead = process.dead_time_s
    return PID(1.2 / _a(process), 2.0 * dead, 0.5 * dead)


def at_the_limit_pi(limit: Limit) -> PID:
    """Ziegler & Nichols 1942: ``K_c = 0.45 K_u``, ``T_i = P_u/1.2``."""
    return PID(0.45 * limit.gain, limit.period_s / 1.2)


def at_the_limit_pid(limit: Limit) -> PID:
    """Ziegler & Nichols 1942: ``K_c = 0.6 K_u``, ``T_i = P_u/2``, ``T_d = P_u/8``.

    >>> found = at_the_limit_pid(Limit(8.0, 3.62))  # Åström & Hägglund print 4.8, 1.81 and 0.45 for 1/(s+1)³
    >>> found.gain, found.integral_time_s, found.derivative_time_s
    (4.8, 1.81, 0.4525)
    """
    return PID(0.6 * limit.gain, limit.period_s / 2.0, limit.period_s / 8.0)


def some_overshoot(limit: Limit) -> PID:
    """``K_u/3, P_u/2, P_u/3`` (common practice, no source). A name, not a property."""
    return PID(limit.gain / 3.0, limit.period_s / 2.0, limit.period_s / 3.0)


def no_overshoot(limit: Limit) -> PID:
    """``K_u/5, P_u/2, P_u/3`` (common practice, no source). A name, not a property: a lag-dominant process overshoots with it."""
    return PID(limit.gain / 5.0, limit.period_s / 2.0, limit.period_s / 3.0)


def tyreus_luyben_pi(limit: Limit) -> PID:
    """Tyreus & Luyben, Ind. Eng. Chem. Res. 31 (1992): ``K_c = K_u/3.2``, ``T_i = 2.2 P_u``, for processes that nearly integrate."""
    return PID(limit.gain / 3.2, 2.2 * limit.period_s)


def tyreus_luyben_pid(limit: Limit) -> PID:
    """Tyreus & Luyben 1992, and Luyben 1996: ``K_c = K_u/2.2``, ``T_i = 2.2 P_u``, ``T_d = P_u/6.3``."""
    return PID(limit.gain / 2.2, 2.2 * limit.period_s, limit.period_s / 6.3)


def cohen_coon_pi(process: FOPDT) -> PID:
    """Cohen & Coon, Trans. ASME 75 (1953), with r = L/τ: ``K_c = (0.9 + r/12)/a``, ``T_i = L (30 + 3 r)/(9 + 20 r)``."""
    r, dead = process.dead_time_s / process.lag_s, process.dead_time_s
    return PID((0.9 + r / 12.0) / _a(process), dead * (30.0 + 3.0 * r) / (9.0 + 20.0 * r))


def cohen_coon_pid(process: FOPDT) -> PID:
    """Cohen & Coon 1953: ``K_c = (4/3 + r/4)/a``, ``T_i = L (32 + 6 r)/(13 + 8 r)``, ``T_d = 4 L/(11 + 2 r)``."""
    r, dead = process.dead_time_s / process.lag_s, process.dead_time_s
    return PID(
        (4.0 / 3.0 + r / 4.0) / _a(process), dead * (32.0 + 6.0 * r) / (13.0 + 8.0 * r), 4.0 * dead / (11.0 + 2.0 * r)
    )


def for_setpoint_pi(process: FOPDT, overshoots: bool) -> PID:
    """Chien, Hrones & Reswick, Trans. ASME 74 (1952), set-point: ``0.35/a, 1.2 τ``; with 20 % overshoot ``0.6/a, τ``."""
    return PID((0.6 if overshoots else 0.35) / _a(process), (1.0 if overshoots else 1.2) * process.lag_s)


def for_setpoint_pid(process: FOPDT, overshoots: bool) -> PID:
    """Chien, Hrones & Reswick 1952, set-point: ``0.6/a, τ, 0.5 L``; with 20 % overshoot ``0.95/a, 1.4 τ, 0.47 L``."""
    gain, integral, derivative = (0.95, 1.4, 0.47) if overshoots else (0.6, 1.0, 0.5)
    return PID(gain / _a(process), integral * process.lag_s, derivative * process.dead_time_s)


def for_load_pi(process: FOPDT, overshoots: bool) -> PID:
    """Chien, Hrones & Reswick 1952, disturbance: ``0.6/a, 4 L``; with 20 % overshoot ``0.7/a, 2.3 L``."""
    return PID((0.7 if overshoots else 0.6) / _a(process), (2.3 if overshoots else 4.0) * process.dead_time_s)


def for_load_pid(process: FOPDT, overshoots: bool) -> PID:
    """Chien, Hrones & Reswick 1952, disturbance: ``0.95/a, 2.4 L, 0.42 L``; with 20 % overshoot ``1.2/a, 2 L, 0.42 L``."""
    gain, integral = (1.2, 2.0) if overshoots else (0.95, 2.4)
    return PID(gain / _a(process), integral * process.dead_time_s, 0.42 * process.dead_time_s)


def lambda_pi(process: FOPDT, closed_loop_s: float) -> PID:
    """Lambda tuning (Dahlin 1968): ``K_c = τ/(K (λ + L))``, ``T_i = τ``; λ is the lag of the closed loop."""
    return PID(process.lag_s / (process.gain * (closed_loop_s + process.dead_time_s)), process.lag_s)


def imc_pid(process: FOPDT, closed_loop_s: float) -> PID:
    """IMC (Rivera, Morari & Skogestad, Ind. Eng. Chem. Process Des. Dev. 25, 1986), first-order Padé:
    ``K_c = (2 τ + L)/(K (2 λ + L))``, ``T_i = τ + L/2``, ``T_d = τ L/(2 τ + L)``; published for λ above 0.8 L."""
    lag, dead = process.lag_s, process.dead_time_s
    both = 2.0 * lag + dead
    return PID(both / (process.gain * (2.0 * closed_loop_s + dead)), both / 2.0, lag * dead / both)


def imc_two_lags(process: SOPDT, closed_loop_s: float) -> PID:
    """IMC for two lags (Rivera, Morari & Skogestad 1986): ``K_c = (τ₁+τ₂)/(K (λ+L))``, ``T_i = τ₁+τ₂``, ``T_d = τ₁τ₂/(τ₁+τ₂)``.

    >>> found = imc_two_lags(SOPDT(2.0, 10.0, 5.0, 1.0), 1.0)  # Seborg et al. print 3.75, 15 and 3.33
    >>> round(found.gain, 2), found.integral_time_s, round(found.derivative_time_s, 2)
    (3.75, 15.0, 3.33)
    """
    both = process.lag_s + process.second_lag_s
    derivative = process.lag_s * process.second_lag_s / both
    return PID(both / (process.gain * (closed_loop_s + process.dead_time_s)), both, derivative)


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


def amigo_pi(process: FOPDT) -> PID:
    """AMIGO PI (Hägglund & Åström 2002; Åström & Hägglund, J. Process Control 14, 2004), for Ms of 1.4:
    ``K K_c = 0.15 + (0.35 − L τ/(L+τ)²) τ/L``, ``T_i = 0.35 L + 13 L τ²/(τ² + 12 L τ + 7 L²)``."""
    lag, dead = process.lag_s, process.dead_time_s
    gain = 0.15 + (0.35 - dead * lag / (dead + lag) ** 2) * lag / dead
    integral = 0.35 * dead + 13.0 * dead * lag**2 / (lag**2 + 12.0 * dead * lag + 7.0 * dead**2)
    return PID(gain / process.gain, integral)


def amigo_pid(process: FOPDT) -> PID:
    """AMIGO PID (Åström & Hägglund 2004), for Ms of 1.4: ``K K_c = 0.2 + 0.45 τ/L``, ``T_i = L (0.4 L + 0.8 τ)/(L + 0.1 τ)``,
    ``T_d = 0.5 L τ/(0.3 L + τ)``."""
    lag, dead = process.lag_s, process.dead_time_s
    integral = dead * (0.4 * dead + 0.8 * lag) / (dead + 0.1 * lag)
    return PID((0.2 + 0.45 * lag / dead) / process.gain, integral, 0.5 * dead * lag / (0.3 * dead + lag))


def _a(process: FOPDT) -> float:
    return process.gain * process.dead_time_s / process.lag_s
