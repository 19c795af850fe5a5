"""Whether a fit may be trusted, and with what."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from ..messages import difference, quantity
from .stretch import Stretch

SATURATED, MANY_LEVELS = 0.5, 10
"""An output at its end, %; levels beyond which a controller moved it (our choice)."""
MISSES, SHORT, MOVED_C = 0.05, 0.4, 0.5
"""Residual as a share of the travel that is poor; span against the lag at which only the slope is known; a set-point that moved, °C
(our choice)."""
WELL_KNOWN = 0.2
"""Relative half-width of an interval, or a row's distance over the dead time, up to which a figure is known (our choice)."""
COLOURED, FINE = 3.0, 0.015
"""Residual over noise from which it is no noise, where it is also more than this share of the travel (our choice)."""

DRIFTED_C = 3.0
"""Surroundings that moved by more are no longer the ordinary wandering of a room, °C (our choice)."""

Array = NDArray[np.float64]


class FitVerdict(StrEnum):
    """``supported``: use it. ``slope_only``: K/τ is known, K and τ apart are not. ``poor``: the model does not fit.
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
    """What speaks for a fit: residual in °C rms, gain, the largest relative half-width of gain, lag and dead time (``half_width``),
    residual over the reading's own noise (``colour``), how many lags the stretch lasts, its length in s, and how far the
    surroundings must have wandered meanwhile, °C."""

    rms: float
    gain: float
    half_width: float
    colour: float
    lags: float
    span_s: float
    drift_c: float


def judge(stretch: Stretch, y: Array, found: Fitness) -> tuple[FitVerdict, str]:
    """Whether to trust a fit, and the sentence that says so."""
    rms = found.rms
    if found.gain <= 0:
        return FitVerdict.POOR, (
            "The reading falls when the output rises. Look for reversed sensor leads, a wrong action or swapped columns."
        )
    if rms > MISSES * float(np.ptp(y)):
        return FitVerdict.POOR, (
            f"The model misses the reading by {difference(rms, '.2g')} rms, more than a twentieth of its travel. "
            "Something else moved it: a door, another heater, a second lag. Choose a calmer stretch."
        )
    levels = len(np.unique(np.round(stretch.output, 1)))
    saturated = bool(np.any(stretch.output <= SATURATED) or np.any(stretch.output >= 100.0 - SATURATED))
    moved = stretch.setpoint_c is not None and float(np.ptp(stretch.setpoint_c)) > MOVED_C
    if levels > MANY_LEVELS and not saturated and not moved:
        return FitVerdict.BIASED, (
            "The loop was closed and nobody changed the set-point, so output and disturbances are entangled. "
            "Use a heat-up or a set-point change."
        )
    if found.lags < SHORT:
        return FitVerdict.SLOPE_ONLY, (
            "The stretch ends long before the reading would level off: the rate at full power is known, "
            "gain and lag apart are not. The controller gain rests on their ratio; the simulated heat-up is less certain."
        )
    if found.colour > COLOURED and rms > FINE * float(np.ptp(y)):
        return FitVerdict.SLOPE_ONLY, (
            f"What is left ({difference(rms, '.2g')} rms) is no noise but a slow swing: something this model does not have moves the "
            "reading too, so its intervals are too narrow."
        )
    if abs(found.drift_c) > DRIFTED_C:
        return FitVerdict.SLOPE_ONLY, (
            f"The surroundings seem to have moved it by {difference(abs(found.drift_c), '.1f')} meanwhile, and nobody measured them: "
            "gain and lag are less certain than their intervals say. Repeat it in a steady room, or record the room too."
        )
    if found.half_width > WELL_KNOWN:
        return FitVerdict.SLOPE_ONLY, (
            f"One of gain, lag and dead time is known to {quantity(min(found.half_width, 9.99) * 100, '%', '.0f')} only: the rate "
            "at full power is better known than they are apart. A longer stretch, or one more step of the output, tells them apart."
        )
    return (
        FitVerdict.SUPPORTED,
        f"The model follows the reading within {difference(rms, '.2g')} rms over {quantity(found.span_s / 60, 'min', '.0f')}.",
    )
