"""Whether a run was controlled by these numbers: they are given the recorded reading, and what they make of it is held against the
recorded output."""

import numpy as np
from numpy.typing import NDArray

from ..control.settings import ControllerSettings

SAME_OUTPUT = 10.0
"""Outputs that differ by more than so many % on average are not of the same controller (our choice; of the right numbers it is up to 8)."""
DEADS, PERIODS, LEAST_ROWS = 2.0, 3.0, 3
"""They are averaged over so many dead times, control periods and rows before: pulses and noise are not what is asked about."""
INSIDE = 2.0
"""An output so many % inside its limits is not held by them (as runs are judged)."""
LATCHED = 4.0

Array = NDArray[np.float64]


def unlike_output(time_s: Array, reading_c: Array, output: Array, settings: ControllerSettings, dead_s: float) -> float:
    """By how many % the output that these numbers make of the reading differs from the recorded one, on average. (n,) columns in s, °C, %;
    the set-point is the settings'."""
    made = _replayed(time_s, reading_c, output, settings)
    usual = float(np.median(np.diff(time_s)))
    if settings.period_s > LATCHED * usual:
        made = made[_latched(time_s, output, settings.period_s)]
    window = max(int(max(DEADS * dead_s, PERIODS * settings.period_s) / usual), LEAST_ROWS)
    if 2 * window >= len(output):
        window = max(len(output) // 4, 1)
    even = np.ones(window) / window
    return float(np.abs(np.convolve(made, even, "valid") - np.convolve(output, even, "valid")).mean())


def _latched(time_s: Array, output: Array, period_s: float) -> NDArray[np.int64]:
    """Of each row the one at which its cycle began: its duty is that of then. Cycles follow from the first step of the output."""
    steps = np.flatnonzero(np.diff(output) != 0.0) + 1
    phase = float(time_s[steps[0]]) if len(steps) else float(time_s[0])
    cycle = np.floor((time_s - phase) / period_s + 1e-9)
    first = np.concatenate(([True], np.diff(cycle) > 0.0))
    return np.maximum.accumulate(np.where(first, np.arange(len(time_s)), 0))


def _replayed(time_s: Array, reading_c: Array, output: Array, settings: ControllerSettings) -> Array:
    """The discrete PID of the simulation, row by row; its integral, and a ramp of its set-point, begin where the record does."""
    pid, low, high = settings.pid, settings.output_low, settings.output_high
    start_c, weight, soft_s = float(reading_c[0]), pid.setpoint_weight, settings.soft_start_s
    made, begun = np.empty(len(time_s)), low + INSIDE < output[0] < high - INSIDE
    ramp, working = settings.ramp_c_per_s, float(reading_c[0]) if settings.ramp_c_per_s else settings.setpoint_c
    integral = float(output[0]) - pid.gain * weight * (working - start_c) if begun else 0.0
    slope, last, then = 0.0, start_c, float(time_s[0])
    for k, (t, y) in enumerate(zip(time_s.tolist(), reading_c.tolist(), strict=True)):
        dt = t - then
        if ramp:
            working += min(max(settings.setpoint_c - working, -ramp * dt), ramp * dt)
        error = working - y
        if dt > 0.0 and pid.derivative_time_s > 0.0:
            slope += ((y - last) / dt - slope) * dt / (pid.derivative_time_s / pid.derivative_filter + dt)
        weighted = weight * (working - start_c) + start_c
        wanted = pid.gain * (weighted - y - pid.derivative_time_s * slope) + integral
        top = max(min(high, float(output[k])), low) if t - time_s[0] < soft_s else high  # power may have come on then
        made[k] = min(max(wanted, low), top)
        if not ((wanted > top and error > 0.0) or (wanted < low and error < 0.0)):
            integral += pid.gain / pid.integral_time_s * error * dt
        last, then = y, t
    return made
