"""Two probes compared, exchanged in their places and compared again: what is the instruments' and what is the place's."""

from dataclasses import dataclass
from math import inf, sqrt

import numpy as np
from numpy.typing import NDArray

from ..errors import Problem, refuse_all
from ..explain import Figure, Input
from ..messages import difference
from ..units import Kind
from .coverage import coverage_factor
from .offsets import MOST_PAIRS
from .repeats import repeats

Array = NDArray[np.float64]

LARGEST_DIGIT_C = 10.0
"""The coarsest display that is taken, °C (our choice)."""


@dataclass(frozen=True)
class Exchanged:
    """``instruments``: by how much the first shows more than the second in the same place; ``gradient``: by how much the first one's first
    place is warmer. Both with 95.45 % either side."""

    instruments: Figure
    gradient: Figure
    says: str


def exchanged(before_c: Array, after_c: Array, digit_c: float) -> Exchanged:
    """From the differences first − second, °C, of pairs before and after the exchange, shapes (n,) and (m,); ``digit_c``: the smallest
    step of both displays. The scatter of either side keeps its own t, as few pairs may agree by chance.

    Raises ``Refused`` where fewer than two pairs were taken on either side, and for a step that is none."""
    problems = [
        Problem(name, f"{len(values)} pairs", f"2…{MOST_PAIRS}: one says nothing about how well it repeats")
        for name, values in (("before", before_c), ("after", after_c))
        if not 2 <= len(values) <= MOST_PAIRS
    ]
    if not 0 <= digit_c <= LARGEST_DIGIT_C:
        problems.append(Problem("digit_c", f"{digit_c:g} is no step of a display", f"{{0…{LARGEST_DIGIT_C:g} Δ°C}}"))
    refuse_all(problems)
    sides = [repeats(before_c), repeats(after_c)]
    first, second = float(np.mean(before_c)), float(np.mean(after_c))
    digits = 2.0 * coverage_factor(inf) ** 2 * 2.0 * digit_c**2 / 12.0  # two displays, rounded anew on either side
    expanded = sqrt(sum((coverage_factor(s.freedom) * s.u_c) ** 2 for s in sides) + digits) / 2.0
    inputs = (
        Input("difference before", first, Kind.DIFFERENCE, "d₁", "entered"),
        Input("difference after the exchange", second, Kind.DIFFERENCE, "d₂", "entered"),
    )
    both = ((first + second) / 2.0, (first - second) / 2.0)
    instruments, gradient = (
        Figure(
            name,
            value,
            Kind.DIFFERENCE,
            formula=formula,
            inputs=inputs,
            reason=reason,
            low=value - expanded,
            high=value + expanded,
        )
        for name, value, formula, reason in (
            (
                "the first shows more by",
                both[0],
                "(d₁ + d₂) / 2",
                "What stays when they are exchanged belongs to the instruments.",
            ),
            (
                "the first place is warmer by",
                both[1],
                "(d₁ − d₂) / 2",
                "What turns round when they are exchanged belongs to the places.",
            ),
        )
    )
    return Exchanged(instruments, gradient, _says(both, expanded))


def _says(both: tuple[float, float], expanded: float) -> str:
    told = []
    for value, what, none in (
        (both[0], "of instruments", "The instruments agree"),
        (both[1], "of places", "The two places are alike"),
    ):
        if abs(value) > expanded:
            told.append(f"{difference(abs(value), '.2g')} is {what}.")
        else:
            told.append(f"{none} within {difference(expanded, '.2g')}.")
    return " ".join(told)
