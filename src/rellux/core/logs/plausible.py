"""What a column of a log can hold at all: temperatures that exist, a switch that is on or off, a last line that is whole."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..errors import refuse
from ..messages import span
from .dialect import divide
from .mapping import READINGS_C, celsius, tolerable

LEAST_LINES, COMPARED = 3, 20
"""Whole lines above the last that it is compared with at least and at most (our choice)."""

Array = NDArray[np.float64]


def temperatures(values: Array, unit: str, role: str) -> tuple[Array, NDArray[np.intp]]:
    """A column of temperatures (``role``) in °C, NaN where it is no temperature, and the rows of these.

    Raises ``Refused`` for a reading without any number, and for more than a few values that are no temperatures.
    """
    shown = celsius(values, unit)
    low, high = float(np.fmin.reduce(shown)), float(np.fmax.reduce(shown))
    if np.isnan(low):
        if role == "reading":
            raise refuse("columns.reading", "this column holds no number at all", "the column with the temperatures")
        return shown, np.empty(0, dtype=np.intp)
    if low >= READINGS_C[0] and high <= READINGS_C[1]:
        return shown, np.empty(0, dtype=np.intp)
    wrong = np.flatnonzero((shown < READINGS_C[0]) | (shown > READINGS_C[1]))
    if not tolerable(len(wrong), int(np.isfinite(shown).sum())):
        raise refuse(
            f"columns.{role}",
            f"it holds {span(low, high, '°C')}: these are not temperatures",
            f"{span(*READINGS_C, '°C')}; perhaps another column, unit or decimal mark",
        )
    shown = shown.copy()
    shown[wrong] = np.nan
    return shown, wrong


def check_state(values: Array, role: str) -> None:
    """Raises ``Refused`` for the column of a state (``role``) that holds anything beyond 0 and 1."""
    low, high = float(np.fmin.reduce(values)), float(np.fmax.reduce(values))
    if low < 0 or high > 1:
        raise refuse(
            f"columns.{role}",
            f"it holds {span(low, high)}",
            "0 or 1, or words for on and off; a percentage is the output",
        )


def may_be_cut(lines: Sequence[str], delimiter: str, width: int) -> bool:
    """Whether the last of these lines, which does not end, may be half a row: all its ``width`` cells are there, and the last is
    shorter than that of every line above."""
    ends = [divide(line, delimiter)[-1:] for line in lines if line.strip()]
    if len(ends) <= LEAST_LINES or not all(ends):
        return False
    *above, last = (len(e[0]) for e in ends)
    return len(divide(lines[-1], delimiter)) == width and last < min(above[-COMPARED:])
