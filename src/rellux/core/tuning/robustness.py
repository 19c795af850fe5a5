"""Margins of a loop from its exact frequency response; dead time enters as e^(−jωL), without approximation.

The frequency grid is logarithmic, 700 points a decade, from far below 1/(L+τ) to far beyond 1/L; peaks sharper than 0.35 % in
frequency would be missed, which no PID on a lag with dead time produces. A loop that is unstable has no margins: Ms is infinite.
"""

from dataclasses import dataclass
from math import isinf

import numpy as np
from numpy.typing import NDArray

from ..control.pid import PID
from ..process.models import Answers, Complex, Frequency

CALM_MS, NERVOUS_MS = 1.6, 2.0
"""Below the first a loop is calm, above the second nervous: nothing beyond is proposed (Åström & Hägglund, PID Controllers: 1.4 to 2.0)."""
A_DECADE, BEYOND = 700, 100.0
"""Points a decade, and how many times 1/L the grid reaches."""


@dataclass(frozen=True)
class Margins:
    """Ms = max |1/(1+PC)|, infinite where the loop is unstable; gain margin as a factor; phase margin in degrees; delay margin, s: how much
    more dead time it bears (inf where there is no crossing)."""

    ms: float
    gain_margin: float
    phase_margin: float
    delay_margin_s: float


def controller_response(pid: PID, w: Frequency) -> Complex:
    """Frequency response of the feedback path, derivative filter included."""
    s = 1j * w
    integral = 0.0 if isinf(pid.integral_time_s) else 1.0 / (pid.integral_time_s * s)
    td = pid.derivative_time_s
    derivative = td * s / (1.0 + td / pid.derivative_filter * s)
    return np.asarray(pid.gain * (1.0 + integral + derivative))


def margins(pid: PID, process: Answers, time_scale_s: float) -> Margins:
    """Margins of the loop; ``time_scale_s`` (about L + τ) centres the frequency grid."""
    dead = process.modes().dead_time_s
    low, high = 1e-3 / time_scale_s, max(1e3 / time_scale_s, BEYOND / dead if dead > 0 else 0.0)
    w = np.geomspace(low, high, int(A_DECADE * np.log10(high / low)))
    loop = controller_response(pid, w) * process.response(w)
    sensitivity = float(np.max(np.abs(1.0 / (1.0 + loop))))
    magnitude = np.abs(loop)
    phase = np.unwrap(np.angle(loop))
    gain_margin = _first_crossing(phase + np.pi, magnitude)
    phase_at_one = _first_crossing(magnitude - 1.0, phase)
    crossing_w = _first_crossing(magnitude - 1.0, w)
    gain_factor = float("inf") if gain_margin is None else 1.0 / gain_margin
    phase_degrees = float("inf") if phase_at_one is None else float(np.degrees(phase_at_one + np.pi))
    stable = gain_factor > 1.0 and phase_degrees > 0.0
    bears_s = float("inf") if crossing_w is None else float(np.radians(phase_degrees)) / crossing_w
    return Margins(sensitivity if stable else float("inf"), gain_factor, phase_degrees, bears_s)


def _first_crossing(falling: NDArray[np.float64], value: NDArray[np.float64]) -> float | None:
    """``value`` interpolated where ``falling`` first goes from positive to negative."""
    crossing = np.flatnonzero((falling[:-1] > 0) & (falling[1:] <= 0))
    if not len(crossing):
        return None
    i = int(crossing[0])
    part = falling[i] / (falling[i] - falling[i + 1])
    return float(value[i] + part * (value[i + 1] - value[i]))
