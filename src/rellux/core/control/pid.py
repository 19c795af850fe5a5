"""PID settings in the standard form and their exact conversions to the other languages controllers speak.

Standard form: ``u = K_c [ b·r − y + (1/T_i) ∫(r − y) dt − T_d dy/dt ]``, derivative on the measurement through a
first-order filter of time constant T_d/N. Gains are in %/°C. Source: Åström & Hägglund, PID Controllers, 2nd ed., ch. 3.
"""

from dataclasses import dataclass
from math import inf, sqrt

from ..errors import Problem, refuse, refuse_all

SERIES_EXISTS = 4.0
"""A series form exists from T_i = 4 T_d (discriminant of its quadratic; Åström & Hägglund, PID Controllers, 2nd ed.)."""


@dataclass(frozen=True)
class PID:
    """Standard form. ``gain`` in %/°C, times in s; ``integral_time_s`` may be infinite (no integral action)."""

    gain: float
    integral_time_s: float = inf
    derivative_time_s: float = 0.0
    setpoint_weight: float = 1.0
    derivative_filter: float = 8.0

    def __post_init__(self) -> None:
        problems = []
        if not self.gain > 0:
            problems.append(Problem("gain", "must be more than zero", "> 0 %/°C"))
        if not self.integral_time_s > 0:
            problems.append(Problem("integral_time_s", "must be more than zero", "> 0 s, or infinite for none"))
        if not self.derivative_time_s >= 0:
            problems.append(Problem("derivative_time_s", "cannot be negative", "0 s or more"))
        refuse_all(problems)

    @property
    def proportional_band_c(self) -> float:
        """Band in °C over which proportional action alone moves the output by 100 %: ``100 / K_c``."""
        return 100.0 / self.gain


def tracking_time_s(pid: PID) -> float:
    """How fast back-calculation draws the integral to what the output really gives: √(T_i T_d), T_i without derivative, s; infinite without
    integral. Source: Åström & Hägglund, PID Controllers, 2nd ed., section 3.5.

    >>> tracking_time_s(PID(5.0, 400.0, 100.0)), tracking_time_s(PID(5.0, 400.0))
    (200.0, 400.0)
    """
    if pid.integral_time_s == inf or not pid.derivative_time_s:
        return pid.integral_time_s
    return sqrt(pid.integral_time_s * pid.derivative_time_s)


def from_band(band_c: float, integral_time_s: float = inf, derivative_time_s: float = 0.0) -> PID:
    """Standard form from a proportional band in °C (``K_c = 100 / PB``).
    Raises ``Refused`` for one that is not above 0.
    """
    if not band_c > 0:
        raise refuse("proportional_band_c", "must be more than zero", "more than {0 Δ°C}")
    return PID(100.0 / band_c, integral_time_s, derivative_time_s)


def from_series(gain: float, integral_time_s: float, derivative_time_s: float) -> PID:
    """Standard form from the series (interacting) form: ``f = 1 + Td'/Ti'``; K·f, Ti·f, Td/f.

    >>> found = from_series(10.0, 8.0, 2.0)  # Skogestad (2003) prints 12.5, 10 and 1.6
    >>> found.gain, found.integral_time_s, found.derivative_time_s
    (12.5, 10.0, 1.6)
    """
    factor = 1.0 + derivative_time_s / integral_time_s
    return PID(gain * factor, integral_time_s * factor, derivative_time_s / factor)


def to_series(pid: PID) -> tuple[float, float, float]:
    """Series form (gain, Ti, Td) of a standard one; exists only for Ti ≥ 4 Td. Raises ``Refused`` for others."""
    if pid.integral_time_s < SERIES_EXISTS * pid.derivative_time_s:
        raise refuse("derivative_time_s", "no series form exists", "Td up to Ti / 4")
    factor = 0.5 * (1.0 + sqrt(1.0 - 4.0 * pid.derivative_time_s / pid.integral_time_s))
    return pid.gain * factor, pid.integral_time_s * factor, pid.derivative_time_s / factor
