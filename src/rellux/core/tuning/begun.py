"""What a stretch began from, estimated with the model: its first reading, where it goes without heat, and the output before it."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ..explain import Figure
from ..units import Kind
from .explained import FAMILY, FORMULAS, SOURCE, Found

Array = NDArray[np.float64]
LEAST_GAIN = 1e-9
"""°C/%: with less nothing tells what the output was."""
Of = Callable[[Array], tuple[float, Array]]
"""A value of the coefficients (n), and how it changes with each of them."""


def begun(found: Found, stretch: int) -> tuple[Figure, ...]:
    """The figures of one stretch, each with its interval over all that fits; the output before it only where nobody knows that."""
    part = found.record.parts[stretch]

    def figure(name: str, kind: Kind, symbol: str, of: Of, why: str, ends: tuple[float, float]) -> Figure:
        each = []
        for place in (found.best, *found.region.some(found.limit, FAMILY)):
            fit = found.record.at(found.noise, *place.model)
            value, by = of(fit.thetas[stretch])
            c = fit.covariances[stretch]
            by = by[: len(c)]  # an output that is held at its end has no variance
            reach = np.sqrt(max(found.limit - (fit.deviance - found.fit.deviance), 0.0) * max(float(by @ c @ by), 0.0))
            each.append(np.clip((value, value - reach, value + reach), *ends))
        low, high = min(e[1] for e in each), max(e[2] for e in each)
        return Figure(
            name, float(each[0][0]), kind, formula=FORMULAS[found.best.form], reason=why, source=SOURCE, symbol=symbol,
            low=float(low), high=float(high),
        )  # fmt: skip

    anywhere = (-np.inf, np.inf)
    without = "With the output off, once the room no longer wanders."
    first = (
        ()
        if part.cold
        else (figure("reading at its beginning", Kind.TEMPERATURE, "y₀", _level(1), "Without its noise.", anywhere),)
    )
    room = figure("temperature without heat", Kind.TEMPERATURE, "T_a", _level(1 if part.cold else 2), without, anywhere)
    if not part.unknown or found.best.dead_s <= 0.0 or found.fit.gain <= 0.0:
        return (*first, room)
    on_its_way = "What was still on its way when the record began."
    return (*first, room, figure("output before it", Kind.PERCENT, "u₋", _before, on_its_way, (0.0, 100.0)))


def _level(at: int) -> Of:
    def of(theta: Array) -> tuple[float, Array]:
        return float(theta[at]), np.eye(len(theta))[at]

    return of


def _before(theta: Array) -> tuple[float, Array]:
    """The last coefficient is that output times the gain."""
    gain, by = max(float(theta[0]), LEAST_GAIN), np.zeros(len(theta))
    by[-1], by[0] = 1.0 / gain, -theta[-1] / gain**2
    return float(theta[-1] / gain), by
