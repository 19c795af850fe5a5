"""Whether a fit may be trusted, and with what."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from ..explain import Figure
from ..messages import difference, quantity, spoken_time, temperature
from .stretch import Stretch

SATURATED, MANY_LEVELS = 0.5, 10
"""An output at its end, %; levels beyond which a controller moved it (our choice)."""
MISSES, SHORT, MOVED_C = 0.05, 1.2, 0.5
"""Residual as a share of the travel that is poor; span against the lag at which only the slope is known; a set-point that moved, °C
(our choice)."""
WELL_KNOWN = 0.2
"""Relative half-width of an interval, or a row's distance over the dead time, up to which a figure is known (our choice)."""
FINE = 0.015
"""What moves the reading slowly besides, as a share of its travel, from which the model is not enough (our choice)."""
FORESEEN = 0.8
"""Of the last part of a record the share that its first part must foresee (our choice)."""

DRIFTED_C, DRIFTED = 3.0, 0.08
"""Surroundings that moved by more are no longer the ordinary wandering of a room, °C, nor of walls, as a share of the travel (our
choice)."""


class FitVerdict(StrEnum):
    """``supported``: use it. ``slope_only``: K/τ is known, K and τ apart are not. ``poor``: the model does not fit, or another as well.
    ``biased``: closed loop without excitation."""

    @property
    def usable(self) -> bool:
        """Whether settings may be taken from it."""
        return self in (FitVerdict.SUPPORTED, FitVerdict.SLOPE_ONLY)

    SUPPORTED = "supported"
    SLOPE_ONLY = "slope_only"
    POOR = "poor"
    BIASED = "biased"


@dataclass(frozen=True)
class Fitness:
    """What speaks for a fit: residual in °C rms, the gain and the lower end of its interval, the largest relative half-width of gain,
    lag and dead time (``half_width``), by how much something slow that the model does not have moves the reading (``swing_c``), how many
    lags the stretch lasts, its length in s, how far the surroundings must have wandered meanwhile, °C, when it is furthest off, s from
    its beginning, the share of its last part that its first predicts (``None``: not tried), whether it bends enough to level off, the
    least and the most gain of several stretches where they differ by more than chance, and the dead time, s, with another, some cycles
    of the output away, that explains it nearly as well."""

    rms: float
    gain_low: float
    gain: float
    half_width: float
    swing_c: float
    lags: float
    span_s: float
    drift_c: float
    worst_s: float
    held_out: float | None
    levels_off: bool = True
    gains: tuple[float, float] | None = None
    dead_s: float = 0.0
    alike_s: float | None = None


def half_width(figure: Figure, least: float = 1e-12) -> float:
    """Half the width of a figure's interval as a share of it, of ``least`` where it is less; where its upper end is open, no limit."""
    if figure.low is None or figure.high is None:
        return float("inf")
    return (figure.high - figure.low) / 2.0 / max(abs(figure.value), least)


def judge(stretches: tuple[Stretch, ...], found: Fitness) -> tuple[FitVerdict, str]:
    """Whether to trust a fit, and the sentence that says so, with what to record next."""
    rms, travel = found.rms, max(float(np.nanmax(s.reading_c) - np.nanmin(s.reading_c)) for s in stretches)
    if found.gain <= 0:
        return FitVerdict.POOR, (
            "The reading falls when the output rises. Look for reversed sensor leads, a wrong action or swapped columns."
        )
    if rms > MISSES * travel:
        return FitVerdict.POOR, (
            f"The model misses the reading by {difference(rms, '.2g')} rms, more than a twentieth of its travel, most of all "
            f"{spoken_time(found.worst_s)} after its beginning. Something else moved it: a door, other heat, a changed load. "
            "Choose a stretch without it."
        )
    if all(_closed(s) for s in stretches):
        return FitVerdict.BIASED, (
            "The loop was closed and nobody changed the set-point, so output and disturbances are entangled. "
            "Record a heat-up or a set-point change."
        )
    if found.gain_low <= 0:
        return FitVerdict.POOR, (
            "Whether the output moved it at all cannot be told from its noise. Record a larger step of the output, and longer."
        )
    if found.alike_s is not None:
        return FitVerdict.POOR, (
            f"The output worked in even cycles, and a dead time of {spoken_time(found.alike_s)} explains the reading nearly as well as "
            f"one of {spoken_time(found.dead_s)}. Take the heat-up before it as well, or record a step."
        )
    if found.gains is not None:
        least, most = (quantity(k, "°C/%", ".2g") for k in found.gains)
        return FitVerdict.SLOPE_ONLY, (
            f"The stretches do not agree: by themselves their gains are {least} to {most}. Another load, another temperature, a door: take "
            "stretches of the same, or one of them."
        )
    if found.held_out is not None and found.held_out < FORESEEN:
        return FitVerdict.SLOPE_ONLY, (
            f"What its first part says of the last holds for {quantity(100.0 * found.held_out, '%', '.0f')} of the rows only: the process "
            "changed on the way (walls that took up heat, more loss when hot, a door, another load). Record a step near the temperature "
            "where it will work."
        )
    if not found.levels_off:
        return FitVerdict.SLOPE_ONLY, (
            "As far as this record shows, the reading goes on rising for ever: rate and dead time are known, the gain only from below. The "
            "controller gain rests on the rate. Record on until it levels off, or through a cool-down."
        )
    if found.lags < SHORT:
        return FitVerdict.SLOPE_ONLY, (
            "The stretch ends long before the reading would level off: the rate at full power is known, "
            "gain and lag apart are not. The controller gain rests on their ratio; the simulated heat-up is less certain. "
            "Record on until it levels off, or through a cool-down."
        )
    if found.swing_c > FINE * travel:
        return FitVerdict.SLOPE_ONLY, (
            f"Something slow that this model does not have moves the reading by {difference(found.swing_c, '.2g')} rms, most of all "
            f"{spoken_time(found.worst_s)} after its beginning. Record a calm step near the temperature where it will work."
        )
    if abs(found.drift_c) > max(DRIFTED_C, DRIFTED * travel):
        return FitVerdict.SLOPE_ONLY, (
            f"Something slow moved it by {difference(abs(found.drift_c), '.1f')} meanwhile, the room or walls that still took up heat, and "
            "nobody measured it: gain and lag are less certain than their intervals say. Record longer, or the room too."
        )
    if found.half_width > WELL_KNOWN:
        return FitVerdict.SLOPE_ONLY, (
            f"One of gain, lag and dead time is known to {quantity(min(found.half_width, 9.99) * 100, '%', '.0f')} only: the rate "
            "at full power is better known than they are apart. A longer stretch, or one more step of the output, tells them apart."
        )
    y = stretches[-1].reading_c[np.isfinite(stretches[-1].reading_c)]
    near = float(np.median(y[-max(len(y) // 3, 1) :]))
    return FitVerdict.SUPPORTED, (
        f"The model follows the reading within {difference(rms, '.2g')} rms over {spoken_time(found.span_s)}. "
        f"It holds near {temperature(near, '.0f')} and over times like these; far from there, or once slower walls "
        "are warm, the gain is another."
    )


def _closed(stretch: Stretch) -> bool:
    """A loop that was closed, and that nobody moved."""
    levels = len(np.unique(np.round(stretch.output, 1)))
    saturated = bool(np.any(stretch.output <= SATURATED) or np.any(stretch.output >= 100.0 - SATURATED))
    moved = stretch.setpoint_c is not None and float(np.ptp(stretch.setpoint_c)) > MOVED_C
    return levels > MANY_LEVELS and not saturated and not moved
