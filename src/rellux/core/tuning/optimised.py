"""Settings searched for instead of taken from a rule: the least error after a step of the load, with a ceiling on Ms.

The error is ∫|e| dt after the loss has grown by a tenth, the output continuous, everything that acts late in the dead time. The search
runs over the logarithms of gain and times from several starts (Nelder & Mead 1965); what is beyond the ceiling costs.
"""

from collections.abc import Callable
from dataclasses import replace
from math import inf

import numpy as np
import scipy
from numpy.typing import NDArray

from ..control.pid import PID
from ..control.settings import ControllerSettings, Mode
from ..plant.simulation import Disturbance, Simulation
from ..process.models import FOPDT, SOPDT
from ..process.networks import from_model
from .robustness import CALM_MS, controller_response
from .rules.published import amigo_pid, simc_pi

LOOKS, CLOSE = 120, 0.01
A_DECADE, BELOW, ABOVE = 60, 1e-2, 30.0
"""Points a decade, from and to multiples of 1/(L + τ) and 1/L: Ms within a hundredth."""
PENALTY = 50.0
LOAD, RISE_C, HELD = 0.1, 1.0, 50.0
"""By how much the loss grows, and a rise that half of the output holds: the loop stays within its limits."""
STEPS_A_DEAD_TIME, LASTS, MOST_STEPS = 20.0, 8.0, 20_000
LONGEST_DERIVATIVE = 0.25
"""Of the integral time: beyond, no series form exists (Åström & Hägglund, PID Controllers)."""

Array = NDArray[np.float64]


def least_error(
    process: FOPDT | SOPDT, derivative: bool, most_gain: Callable[[PID], float], most_ms: float = CALM_MS
) -> PID | None:
    """PI, or PID, with the least error after a load step among those with Ms up to ``most_ms`` and no more gain than ``most_gain``
    allows. ``None`` where there is no dead time: then there is no end to the gain."""
    dead = process.dead_time_s
    if dead <= 0.0:
        return None
    second = process.second_lag_s if isinstance(process, SOPDT) else 0.0
    one = FOPDT(process.gain, process.lag_s, dead + second)
    w = np.geomspace(BELOW / (process.lag_s + dead), ABOVE / dead, int(A_DECADE * np.log10(ABOVE / BELOW * 30.0)))
    seen = process.response(w)

    def read(p: Array) -> PID:
        gain, integral = float(np.exp(p[0])), float(np.exp(p[1]))
        pid = PID(gain, integral, min(float(np.exp(p[2])), LONGEST_DERIVATIVE * integral) if derivative else 0.0)
        return replace(pid, gain=min(gain, most_gain(pid)))

    def ms(pid: PID) -> float:
        return float(np.max(np.abs(1.0 / (1.0 + controller_response(pid, w) * seen))))

    def cost(p: Array) -> float:
        pid = read(p)
        beyond = max(ms(pid) / most_ms - 1.0, 0.0)
        return PENALTY * (1.0 + beyond) if beyond > 1.0 else np.log(load_error(process, pid)) + PENALTY * beyond

    best, least = None, inf
    for start in (simc_pi(one, one.dead_time_s), simc_pi(one, 2.0 * one.dead_time_s), amigo_pid(one)):
        times = [start.integral_time_s, *([max(start.derivative_time_s, 0.3 * dead)] if derivative else [])]
        found = scipy.optimize.minimize(
            cost,
            np.log([start.gain, *times]),
            method="Nelder-Mead",
            options={"maxfev": LOOKS, "xatol": CLOSE, "fatol": CLOSE / 10.0},
        )
        pid = read(found.x)
        if found.fun < least and ms(pid) <= most_ms * (1.0 + CLOSE):
            best, least = pid, float(found.fun)
    return best


def load_error(process: FOPDT | SOPDT, pid: PID) -> float:
    """∫|e| dt in °C·s after the loss has grown by a tenth, for a rise of 1 °C that half of the output holds."""
    dead = process.dead_time_s
    unit = replace(process, gain=RISE_C / HELD)
    scaled = replace(pid, gain=pid.gain * process.gain / unit.gain)
    lasts = LASTS * (dead + min(pid.integral_time_s, process.lag_s))
    step = max(dead / STEPS_A_DEAD_TIME, lasts / MOST_STEPS)
    held = ControllerSettings(RISE_C, Mode.MANUAL, manual_output=HELD, period_s=0.0, sample_s=step)
    rig = Simulation(from_model(unit), held, 0.0, step)
    rig.start_at(RISE_C, HELD)
    rig.advance(step)
    rig.apply(replace(held, mode=Mode.PID, pid=scaled))
    rig.disturb(Disturbance(0.0, inf, LOAD))
    return float(np.abs(rig.advance(lasts).reading_c - RISE_C).sum() * step)
