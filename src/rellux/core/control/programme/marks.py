"""What a programme did, as it is marked in its run, and for each moment of the run what its alarms see of it."""

from collections.abc import Iterable
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
ENDED_S = 60.0
"""For how long it counts as just ended, s (our choice): longer than any alarm of it need be delayed, gone before the next one begins."""


class MarkKind(StrEnum):
    """What is marked; ``PROGRAMME``: all that is only told."""

    PROGRAMME = "programme"
    ENDED = "programme_end"
    HELD_BACK = "held_back"
    WENT_ON = "went_on"


def flags(time_s: Array, marks: Iterable[tuple[float, str]]) -> tuple[Array, Array]:
    """At each time (s, rising) whether a programme has just ended, and whether it holds back, 1 or 0; both empty where no programme ran.
    ``marks``: time in s and kind, rising in time."""
    known = {kind.value for kind in MarkKind}
    own = [(at, kind) for at, kind in marks if kind in known]
    if not own:
        return np.zeros(0), np.zeros(0)
    ended, held = np.zeros(len(time_s)), np.zeros(len(time_s))
    for at, kind in own:
        if kind == MarkKind.ENDED:
            ended[(time_s > at) & (time_s <= at + ENDED_S)] = 1.0
        if kind in (MarkKind.HELD_BACK, MarkKind.WENT_ON, MarkKind.ENDED):
            held[time_s > at] = float(kind == MarkKind.HELD_BACK)
    return ended, held
