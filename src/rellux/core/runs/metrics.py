"""What a recorded run says: rise, overshoot, settling, ripple, duty and switching, each with how it was found.

Where rows are missing (:mod:`.lost`) nobody knows what happened: a figure that it may have changed is told from one side only, with
how long it was, and what is averaged or counted by the hour is of the rows there are.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..errors import refuse
from ..explain import Figure, Input
from ..messages import quantity
from ..units import Kind
from .approach import MOVED_C, NEARLY, Approach, Hold, approach, holds, longest
from .cycles import Cycles, cycles_of
from .lost import SAID, Lost, is_gap
from .series import Series
from .wear import HALF_ON, times_on

LEAST_ROWS = 10
"""Rows that can be judged at all (our choice)."""

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Metrics:
    """Figures of one stretch; None where the stretch does not show it (``missing`` says why)."""

    setpoint_c: float
    judged_against: Figure
    overshoot: Figure | None
    rise_time: Figure | None
    settling_time: Figure | None
    mean_error: Figure | None
    disturbance: Figure | None
    ripple: Figure | None
    ripple_period: Figure | None
    duty: Figure | None
    switchings: Figure | None
    switch_rate: Figure | None
    missing: tuple[str, ...]

    @property
    def figures(self) -> tuple[Figure, ...]:
        found = (
            self.judged_against,
            self.overshoot,
            self.rise_time,
            self.settling_time,
            self.mean_error,
            self.disturbance,
            self.ripple,
            self.ripple_period,
            self.duty,
            self.switchings,
            self.switch_rate,
        )
        return tuple(f for f in found if f is not None)


def measure(series: Series, setpoint_c: float | None = None, band_c: float = 1.0) -> Metrics:
    """Judge a stretch against the set-point it held longest (or ``setpoint_c``); settled means staying within ± ``band_c``.

    Overshoot, rise and settling belong to the approach, from below or from above; what leaves the band after it has settled is a
    disturbance and counted apart. The band widens to three quarters of the swing where the loop cycles. Raises ``Refused`` without
    10 readings.
    """
    hold = _judged(series, setpoint_c)
    good = np.isfinite(series.reading_c) & (series.time_s >= hold.start_s) & (series.time_s <= hold.end_s)
    t, y = series.time_s[good], series.reading_c[good]
    if len(t) < LEAST_ROWS:
        raise refuse("stretch", f"only {len(t)} readings in this stretch", "at least 10")
    at = Input("set-point", hold.setpoint_c, Kind.TEMPERATURE, "SP", "run" if setpoint_c is None else "given")
    found, lost = approach(t, y, hold.setpoint_c, band_c), Lost.of(t, y)
    missing = [lost.says] if lost else []
    if found.sign and found.reached is None:
        missing.append("The reading never reached the set-point here.")
    elif found.sign and found.settled is None:
        missing.append("It had not settled by the end.")
    steady_t, steady_y = t[found.steady], y[found.steady]
    cycles = cycles_of(steady_t, steady_y)
    ripple, ripple_period = _ripple(steady_t, steady_y, cycles, at)
    whole = series.between(hold.start_s, hold.end_s)
    ends = (float(steady_t[0]), float(steady_t[-1])) if len(steady_t) else (hold.start_s, hold.end_s)
    duty = _duty(whole.between(*_whole_cycles(steady_t, cycles, ends)))
    switchings, rate = _switching(whole)
    return Metrics(
        hold.setpoint_c,
        _against(hold, setpoint_c),
        _overshoot(t, y, found, at, lost),
        _rise(t, y, found, at, lost),
        _settling(t, found, at, lost),
        _mean_error(steady_t, steady_y, cycles, hold.setpoint_c, at),
        _disturbance(t, y, found, at),
        ripple,
        ripple_period,
        duty,
        switchings,
        rate,
        tuple(missing),
    )


def _judged(series: Series, setpoint_c: float | None) -> Hold:
    good = np.isfinite(series.reading_c)
    if int(good.sum()) < LEAST_ROWS:
        raise refuse("stretch", f"only {int(good.sum())} readings in this stretch", "at least 10")
    if setpoint_c is not None:
        same = [h for h in holds(series) if abs(h.setpoint_c - setpoint_c) <= MOVED_C]
        return longest(same) if same else Hold(setpoint_c, float(series.time_s[0]), float(series.time_s[-1]), 0)
    found = holds(series)
    if not found:
        raise refuse("setpoint_c", "this run has no set-point column", "give the set-point")
    return longest(found)


def _against(hold: Hold, given: float | None) -> Figure:
    why = "The set-point given." if given is not None else "The only one of this stretch."
    if given is None and hold.others:
        minutes = quantity((hold.end_s - hold.start_s) / 60.0, "min", ".0f")
        why = f"Held longest in this stretch, {minutes}; the set-point changed {hold.others} times. Choose a stretch to judge another."
    return Figure(
        "judged against",
        hold.setpoint_c,
        Kind.TEMPERATURE,
        formula="the set-point held longest",
        reason=why,
        source="run",
        symbol="SP",
    )


def _overshoot(t: Array, y: Array, found: Approach, at: Input, lost: Lost) -> Figure | None:
    if not found.sign or found.reached is None:
        return None
    end = found.disturbances[0][0] if found.disturbances else len(y)
    until = end - 1  # that it settled rests on as long again
    if found.settled is not None:
        until = int(np.searchsorted(t, 2.0 * t[found.settled] - t[0]))
    hidden = lost.may_have_passed(at.value, found.sign, found.reached)
    unseen = hidden is not None or lost.within(max(found.reached - 1, 0), until)
    top = found.reached + int(np.argmax(found.sign * y[found.reached : end]))
    above = found.sign > 0
    seen = max(found.sign * (float(y[top]) - at.value), 0.0)
    return Figure(
        "overshoot" if above else "undershoot",
        seen,
        Kind.DIFFERENCE,
        low=seen if unseen else None,
        formula="max(y) − SP" if above else "SP − min(y)",
        inputs=(
            at,
            Input(
                "highest reading" if above else "lowest reading",
                float(y[top]),
                Kind.TEMPERATURE,
                "max(y)" if above else "min(y)",
                "run",
            ),
        ),
        reason=f"On the approach, {quantity((t[top] - t[0]) / 60, 'min', '.0f')} after its start; what leaves the band once it has "
        "settled is a disturbance." + (SAID.format("more") if unseen else ""),
    )


def _rise(t: Array, y: Array, found: Approach, at: Input, lost: Lost) -> Figure | None:
    if not found.sign or found.reached is None or found.nearly is None:
        return None
    seen = float(t[found.nearly] - t[0])
    hidden = lost.may_have_passed(float(y[0] + NEARLY * (at.value - y[0])), found.sign, found.nearly)
    return Figure(
        "rise time" if found.sign > 0 else "fall time",
        seen,
        Kind.TIME,
        low=None if hidden is None else float(t[hidden] - t[0]),
        high=None if hidden is None else seen,
        formula="t(y₀ + 0.9 (SP − y₀)) − t₀",
        inputs=(at, Input("start", float(y[0]), Kind.TEMPERATURE, "y₀", "run")),
        reason="From the start of the approach to nine tenths of the way."
        + (SAID.format("less") if hidden is not None else ""),
    )


def _settling(t: Array, found: Approach, at: Input, lost: Lost) -> Figure | None:
    if found.settled is None:
        return None
    before, after = lost.may_have_passed(at.value, found.sign, found.settled), lost.within(found.settled, len(t) - 1)
    seen = float(t[found.settled] - t[0])
    ways = [way for way, so in (("less", before is not None), ("more", after)) if so]
    told = SAID.format(" or ".join(ways)) if ways else ""
    return Figure(
        "settling time",
        seen,
        Kind.TIME,
        low=(seen if before is None else float(t[before] - t[0])) if told else None,
        high=seen if told and not after else None,
        formula="first time from which |y − SP| ≤ band",
        inputs=(
            at,
            Input("band", found.band_c, Kind.DIFFERENCE, "±", "{1 Δ°C}, or three quarters of the swing if it cycles"),
        ),
        reason=f"From the start until it stays inside the band for half the rise time, two cycles or ten rows.{told}",
    )


def _disturbance(t: Array, y: Array, found: Approach, at: Input) -> Figure | None:
    if not found.disturbances:
        return None
    peaks = [a + int(np.argmax(np.abs(y[a : b + 1] - at.value))) for a, b in found.disturbances]
    worst = max(peaks, key=lambda i: abs(float(y[i]) - at.value))
    return Figure(
        "largest disturbance",
        float(y[worst]) - at.value,
        Kind.DIFFERENCE,
        formula="y − SP, settled before",
        inputs=(at, Input("times it left the band", len(peaks), Kind.COUNT, "n", "run")),
        reason=f"{quantity((t[worst] - t[0]) / 60, 'min', '.0f')} after the start: a door, a cold load, a change of mains.",
    )


def _whole_cycles(t: Array, cycles: Cycles, otherwise: tuple[float, float]) -> tuple[float, float]:
    """From the first to the last upward crossing: the mean of half a cycle more would lean to one side."""
    return (float(t[cycles.at[0]]), float(t[cycles.at[-1]])) if len(cycles) else otherwise


def _weights(t: Array) -> Array:
    """Trapezoid weights with gaps left out."""
    step = np.where(is_gap(t), 0.0, np.diff(t))
    weights = np.zeros(len(t))
    weights[:-1] += step / 2
    weights[1:] += step / 2
    return weights


def _mean_error(t: Array, y: Array, cycles: Cycles, setpoint_c: float, at: Input) -> Figure | None:
    if len(cycles):
        t, y = t[cycles.at[0] : cycles.at[-1] + 1], y[cycles.at[0] : cycles.at[-1] + 1]
    weights = _weights(t) if len(t) > 3 else np.zeros(0)
    if not weights.sum() > 0:
        return None
    mean = float(np.average(y, weights=weights))
    over = f"{len(cycles)} whole cycles" if len(cycles) else "settled part"
    return Figure(
        "steady error",
        mean - setpoint_c,
        Kind.DIFFERENCE,
        formula="mean(y) − SP",
        inputs=(at, Input("time-weighted mean", mean, Kind.TEMPERATURE, "mean(y)", over)),
        reason="How far the mean sits from the set-point once it holds.",
    )


def _ripple(t: Array, y: Array, cycles: Cycles, at: Input) -> tuple[Figure | None, Figure | None]:
    if len(y) < LEAST_ROWS:
        return None, None
    ripple = Figure(
        "ripple, peak to peak",
        cycles.swing if len(cycles) else float(np.ptp(y)),
        Kind.DIFFERENCE,
        formula="max(y) − min(y)",
        inputs=(at, Input("readings", len(y), Kind.COUNT, "n", "settled part")),
        reason="Of the usual cycle once it holds." if len(cycles) else "Once it holds, noise included.",
    )
    if len(cycles) < 2:
        return ripple, None
    period = Figure(
        "ripple period",
        cycles.period(t),
        Kind.TIME,
        formula="median(from one upward crossing to the next)",
        inputs=(Input("whole cycles", len(cycles), Kind.COUNT, "cycles", "upward crossings of the middle"),),
        reason="Compare with the control period: if they match, the actuator's cycle shows in the reading.",
    )
    return ripple, period


def _duty(steady: Series) -> Figure | None:
    drive = np.where(np.isfinite(steady.output), steady.output, 100.0 * steady.switch)
    good = np.isfinite(drive)
    weights = _weights(steady.time_s[good]) if good.sum() > 3 else np.zeros(0)
    if not weights.sum() > 0:
        return None
    return Figure(
        "duty when holding",
        float(np.average(drive[good], weights=weights)),
        Kind.PERCENT,
        formula="mean(output)",
        inputs=(Input("readings", int(good.sum()), Kind.COUNT, "n", "last part of the stretch"),),
        reason="The share of full power it takes to hold; near 100 % there is no reserve.",
    )


def _switching(whole: Series) -> tuple[Figure | None, Figure | None]:
    """How often it came on, and that by the hour of what was seen."""
    told = np.isfinite(whole.switch)
    t, on = whole.time_s[told], whole.switch[told] > HALF_ON
    if len(t) <= 3:
        return None, None
    gap, count = is_gap(t), int(times_on(whole, None)[0])
    seen = count - int(np.sum(~on[:-1] & on[1:] & gap))
    hours = float(np.sum(np.diff(t)[~gap])) / 3600.0
    note = "Counted from the recorded switch state; switchings between two samples are missed."
    switchings = Figure(
        "switchings",
        count,
        Kind.COUNT,
        low=count if gap.any() else None,
        formula="count of off → on",
        inputs=(),
        reason=note + (SAID.format("more") if gap.any() else ""),
    )
    if not hours > 0:
        return switchings, None
    rate = Figure(
        "switchings per hour",
        seen / hours,
        Kind.PER_HOUR,
        formula="count / hours",
        inputs=(
            Input("count", seen, Kind.COUNT, "count", "rows without a gap between"),
            Input("length", hours * 3600.0, Kind.TIME, "hours", "rows without a gap between"),
        ),
        reason="Each one spends relay life.",
    )
    return switchings, rate
