"""By how much may two sensors that should read alike differ, and what does a larger difference mean?"""

from dataclasses import dataclass
from enum import StrEnum
from math import hypot

from ..explain import Figure, Input
from ..units import Kind
from .budget import SOURCE, Budget, ReadingChain, budget


class Agreement(StrEnum):
    """What a difference between two sensors means."""

    ALIKE = "alike"
    STRAINED = "strained"
    APART = "apart"


@dataclass(frozen=True)
class Pairing:
    """Two reading chains at one temperature; ``gradient_c``: how much their places differ at most, ``drift_c``: how far each may
    have aged, both in °C and 0 or more."""

    first: ReadingChain
    second: ReadingChain
    gradient_c: float = 0.0
    drift_c: float = 0.0


@dataclass(frozen=True)
class Allowed:
    """``usual``: 19 of 20 sound pairs differ by less; ``most``: the sum of everything each may be off by."""

    usual: Figure
    most: Figure

    def judge(self, difference_c: float) -> Agreement:
        """What a difference of ``difference_c`` °C, of either sign, means."""
        if abs(difference_c) <= self.usual.value:
            return Agreement.ALIKE
        return Agreement.STRAINED if abs(difference_c) <= self.most.value else Agreement.APART


def allowed_difference(pair: Pairing) -> Allowed:
    """Raises ``Refused`` as :func:`budget` does. Independent parts add as squares (JCGM 100, 5.1); the gradient between the places
    and both drifts count in full in either."""
    first, second = budget(pair.first), budget(pair.second)
    inputs = (
        *_of(first, "first", "U₁", "a₁", usual=True),
        *_of(second, "second", "U₂", "a₂", usual=True),
        Input("their places differ by", pair.gradient_c, Kind.DIFFERENCE, "g", "given"),
        Input("each has drifted by, at most", pair.drift_c, Kind.DIFFERENCE, "d", "given"),
    )
    apart = pair.gradient_c + 2.0 * pair.drift_c
    usual = Figure(
        "sound pairs differ by less, 19 times in 20",
        hypot(first.expanded.value, second.expanded.value) + apart,
        Kind.DIFFERENCE,
        formula="√(U₁² + U₂²) + g + 2 d",
        inputs=inputs,
        reason="Both chains new, right and independent; places and age added in full.",
        source=SOURCE,
    )
    most = Figure(
        "allowed at most",
        first.worst.value + second.worst.value + apart,
        Kind.DIFFERENCE,
        formula="Σ a₁ + Σ a₂ + g + 2 d",
        inputs=(
            *_of(first, "first", "U₁", "Σ a₁", usual=False),
            *_of(second, "second", "U₂", "Σ a₂", usual=False),
            *inputs[2:],
        ),
        reason="Everything either may be off by, all the same way. Beyond it one of them, or a connection, is wrong.",
        source=SOURCE,
    )
    return Allowed(usual, most)


def _of(found: Budget, which: str, expanded: str, total: str, *, usual: bool) -> tuple[Input, ...]:
    figure = found.expanded if usual else found.worst
    return (Input(f"{which} chain", figure.value, Kind.DIFFERENCE, expanded if usual else total, "its budget"),)
