"""What a recorded run says: rise, overshoot, settling, ripple, duty and switching, each with how it was found.

Intervals longer than five sampling intervals count as gaps; nothing is computed across them.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..errors import refuse
from ..explain import Figure, Input
from ..messages import quantity
from ..units import Kind
from .series import GAP, Series

LEAST_ROWS, LEAST_CYCLE_ROWS = 10, 4
"""Rows that can be judged at all; rows that can hold a cycle (our choice)."""
NEARLY = 0.9
"""Rise time: from the start to nine tenths of the way (ISO/IEC usage; Åström & Hägglund)."""
MOVED_C = 0.05
"""A set-point that moved, °C (our choice)."""

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Metrics:
    """Figures of one stretch; None where the stretch does not show it (``missing`` says why)."""

    setpoint_c: float
    overshoot: Figure | None
    rise_time: Figure | None
    settling_time: Figure | None
    mean_error: Figure | None
    ripple: Figure | None
    ripple_period: Figure | None
    duty: Figure | None
    switchings: Figure | None
    switch_rate: Figure | None
    missing: tuple[str, ...]

    @property
    def figures(self) -> tuple[Figure, ...]:
        found = (
            self.overshoot,
            self.rise_time,
            self.settling_time,
            self.mean_error,
            self.ripple,
            self.ripple_period,
            self.duty,
            self.switchings,
            self.switch_rate,
        )
        return tuple(f for f in found if f is not None)


def measure(series: Series, setpoint_c: float | None = None, band_c: float = 1.0) -> Metrics:
    """Judge a stretch against its last set-point (or ``setpoint_c``); settled means staying within ± ``band_c``.

    The settling band widens to the ripple itself where the loop cycles. Raises ``Refused`` without 10 readings.
    """
    good = np.isfinite(series.reading_c)
    t, y = series.time_s[good], series.reading_c[good]
    if len(t) < LEAST_ROWS:
        raise refuse("stretch", f"only {len(t)} readings in this stretch", "at least 10")
    if setpoint_c is None:
        known = series.setpoint_c[np.isfinite(series.setpoint_c)]
        if not len(known):
            raise refuse("setpoint_c", "this run has no set-point column", "give the set-point")
        setpoint_c = float(known[-1])
    missing: list[str] = []
    start = _start_of_last_setpoint(series, setpoint_c)
    t, y = t[t >= start], y[t >= start]
    at = Input("set-point", setpoint_c, Kind.TEMPERATURE, "SP", "run")

    from_below = y[0] < setpoint_c - band_c
    reached = np.flatnonzero(y >= setpoint_c) if from_below else np.array([], dtype=np.int64)
    overshoot = rise = settling = None
    if from_below and len(reached):
        first = int(reached[0])
        top = first + int(np.argmax(y[first:]))
        overshoot = Figure(
            "overshoot",
            float(y[top] - setpoint_c),
            Kind.DIFFERENCE,
            formula="max(y) − SP",
            inputs=(at, Input("highest reading", float(y[top]), Kind.TEMPERATURE, "max(y)", "run")),
            reason=f"Reached {quantity((t[top] - t[0]) / 60, 'min', '.0f')} into the stretch.",
        )
        near = int(np.argmax(y >= y[0] + NEARLY * (setpoint_c - y[0])))
        rise = Figure(
            "rise time",
            float(t[near] - t[0]),
            Kind.TIME,
            formula="t(y₀ + 0.9 (SP − y₀)) − t₀",
            inputs=(at, Input("start", float(y[0]), Kind.TEMPERATURE, "y₀", "run")),
            reason="From the start of the stretch to nine tenths of the way.",
        )
    elif from_below:
        missing.append("The reading never reached the set-point here.")

    steady_from = (
        t[0] + (t[-1] - t[0]) * 2 / 3 if not len(reached) else max(float(t[int(reached[0])]), t[0] + (t[-1] - t[0]) / 2)
    )
    tail = t >= steady_from
    ripple_c = float(np.ptp(y[tail])) if tail.sum() > 3 else 0.0
    band = max(band_c, 0.75 * ripple_c if _cycles(y[tail]) >= 2 else band_c)
    if from_below and len(reached):
        outside = np.flatnonzero(np.abs(y - setpoint_c) > band)
        last = int(outside[-1]) if len(outside) else 0
        if last < len(y) - 1:
            settling = Figure(
                "settling time",
                float(t[min(last + 1, len(t) - 1)] - t[0]),
                Kind.TIME,
                formula="last time |y − SP| > band",
                inputs=(
                    at,
                    Input("band", band, Kind.DIFFERENCE, "±", "{1 Δ°C}, or three quarters of the ripple if it cycles"),
                ),
                reason="From the start until it stays inside the band.",
            )
        else:
            missing.append("It had not settled by the end.")
    mean_error = _mean_error(t[tail], y[tail], setpoint_c, at)
    ripple, ripple_period = _ripple(t[tail], y[tail], at)
    duty, switchings, rate = _switching(series.between(float(steady_from), float(t[-1])), series)
    return Metrics(
        setpoint_c, overshoot, rise, settling, mean_error, ripple, ripple_period, duty, switchings, rate, tuple(missing)
    )


def _start_of_last_setpoint(series: Series, setpoint_c: float) -> float:
    """Time from which the set-point has stayed where it is at the end."""
    different = np.flatnonzero(np.isfinite(series.setpoint_c) & (np.abs(series.setpoint_c - setpoint_c) > MOVED_C))
    if not len(different) or different[-1] + 1 >= len(series):
        return float(series.time_s[0])
    return float(series.time_s[different[-1] + 1])


def _weights(t: Array) -> Array:
    """Trapezoid weights with gaps left out."""
    step = np.diff(t)
    step = np.where(step > GAP * np.median(step), 0.0, step)
    weights = np.zeros(len(t))
    weights[:-1] += step / 2
    weights[1:] += step / 2
    return weights


def _mean_error(t: Array, y: Array, setpoint_c: float, at: Input) -> Figure | None:
    weights = _weights(t) if len(t) > 3 else np.zeros(0)
    if not weights.sum() > 0:
        return None
    mean = float(np.average(y, weights=weights))
    return Figure(
        "steady error",
        mean - setpoint_c,
        Kind.DIFFERENCE,
        formula="mean(y) − SP",
        inputs=(at, Input("time-weighted mean", mean, Kind.TEMPERATURE, "mean(y)", "last part of the stretch")),
        reason="How far the mean sits from the set-point once it holds.",
    )


def _crossings(y: Array) -> NDArray[np.int64]:
    """Upward crossings of the middle, with a tenth of the swing as hysteresis against noise."""
    if len(y) < LEAST_CYCLE_ROWS:
        return np.array([], dtype=np.int64)
    middle, guard = 0.5 * (np.max(y) + np.min(y)), 0.1 * np.ptp(y)
    state = np.where(y > middle + guard, 1, np.where(y < middle - guard, -1, 0))
    decided = np.flatnonzero(state)
    up = np.flatnonzero(np.diff(state[decided]) == 2)
    return np.asarray(decided[up + 1], dtype=np.int64)


def _cycles(y: Array) -> int:
    return max(len(_crossings(y)) - 1, 0)


def _ripple(t: Array, y: Array, at: Input) -> tuple[Figure | None, Figure | None]:
    if len(y) < LEAST_ROWS:
        return None, None
    up = _crossings(y)
    ripple = Figure(
        "ripple, peak to peak",
        float(np.ptp(y)),
        Kind.DIFFERENCE,
        formula="max(y) − min(y)",
        inputs=(at, Input("readings", len(y), Kind.COUNT, "n", "last part of the stretch")),
        reason="Over the last part of the stretch, noise included.",
    )
    if len(up) < 3:
        return ripple, None
    cycles = len(up) - 1
    period = Figure(
        "ripple period",
        float(t[up[-1]] - t[up[0]]) / cycles,
        Kind.TIME,
        formula="(t_last − t_first) / cycles",
        inputs=(Input("whole cycles", cycles, Kind.COUNT, "cycles", "upward crossings of the middle"),),
        reason="Compare with the control period: if they match, the actuator's cycle shows in the reading.",
    )
    return ripple, period


def _switching(steady: Series, whole: Series) -> tuple[Figure | None, Figure | None, Figure | None]:
    duty = switchings = rate = None
    drive = np.where(np.isfinite(steady.output), steady.output, 100.0 * steady.switch)
    good = np.isfinite(drive)
    if good.sum() > 3:
        weights = _weights(steady.time_s[good])
        if weights.sum() > 0:
            duty = Figure(
                "duty when holding",
                float(np.average(drive[good], weights=weights)),
                Kind.PERCENT,
                formula="mean(output)",
                inputs=(Input("readings", int(good.sum()), Kind.COUNT, "n", "last part of the stretch"),),
                reason="The share of full power it takes to hold; near 100 % there is no reserve.",
            )
    switch = whole.switch[np.isfinite(whole.switch)]
    if len(switch) > 3:
        count = int(np.sum((switch[1:] > 0.5) & (switch[:-1] <= 0.5)) + (switch[0] > 0.5))
        hours = float(whole.time_s[-1] - whole.time_s[0]) / 3600.0
        note = "Counted from the recorded switch state; switchings between two samples are missed."
        switchings = Figure("switchings", count, Kind.COUNT, formula="count of off → on", inputs=(), reason=note)
        if hours > 0:
            rate = Figure(
                "switchings per hour",
                count / hours,
                Kind.PER_HOUR,
                formula="count / hours",
                inputs=(switchings.as_input("count"), Input("length", hours * 3600.0, Kind.TIME, "hours", "run")),
                reason="Each one spends relay life.",
            )
    return duty, switchings, rate
