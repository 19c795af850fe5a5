"""Pairs at two or more temperatures: how the error changes with temperature, and what one point, or two, would leave of it."""

from dataclasses import dataclass
from math import sqrt

import numpy as np
from numpy.typing import NDArray

from ..explain import Figure, Input
from ..messages import difference, span, temperature
from ..units import Kind
from .certificates import NEARBY_C

PER_C = 100.0
"""The slope is said for so many degrees."""

Array = NDArray[np.float64]


@dataclass(frozen=True)
class ErrorLine:
    """``per_100``: by how much the error grows over 100 °C; ``at_low``, ``at_high``: the display's error at the coolest and hottest
    pair by the line, which is what two points of a controller take; ``left``: rms of what a line leaves."""

    per_100: Figure
    at_low: Figure
    at_high: Figure
    left: Figure
    says: str


def error_line(display_c: Array, reference_c: Array) -> ErrorLine | None:
    """Of pairs, shapes (n,); ``None`` where they are near one temperature."""
    low, high = float(np.min(reference_c)), float(np.max(reference_c))
    if high - low <= NEARBY_C:
        return None
    error = display_c - reference_c
    slope, at_zero = np.polyfit(reference_c, error, 1)
    left = error - (at_zero + slope * reference_c)
    rms = sqrt(float(left @ left) / len(left))
    pairs = Input("pairs", len(error), Kind.COUNT, "n", "entered")
    between = f"from {span(low, high, '°C', '.0f')}"

    def figure(name: str, value: float, formula: str, reason: str) -> Figure:
        return Figure(name, value, Kind.DIFFERENCE, formula=formula, inputs=(pairs,), reason=reason)

    per_100 = figure(
        f"error grows over {difference(PER_C)} by",
        slope * PER_C,
        "least squares",
        f"A line through the errors, {between}.",
    )
    ends = [
        figure(
            f"display error at the {word} pair",
            at_zero + slope * at,
            "a + b T",
            f"By the line, at {temperature(at, '.0f')}.",
        )
        for word, at in (("coolest", low), ("hottest", high))
    ]
    left_over = figure(
        "left by a line, rms", rms, "√(Σ(eᵢ − a − b Tᵢ)² / n)", "What neither one point nor two take away."
    )
    says = (
        f"The error goes from {difference(ends[0].value, '+.2g')} at {temperature(low, '.0f')} to {difference(ends[1].value, '+.2g')} at "
        f"{temperature(high, '.0f')}. Outside {span(low, high, '°C', '.0f')} nothing is known of it."
    )
    return ErrorLine(per_100, ends[0], ends[1], left_over, says)
