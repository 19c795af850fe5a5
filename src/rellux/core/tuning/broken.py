"""A stretch whose rows are missing while its output worked: what the heater got meanwhile nobody knows, so each part is learnt from by
itself."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..errors import Refused, refuse
from ..messages import spoken_time
from .stretch import LEAST_CHANGE, Stretch, checked, outputs_of

USUAL = 0.9
"""The share of all rows that come no later than is usual: a log may have a rhythm of its own (our choice)."""
MISSING, UNSEEN = 4.0, 0.5
"""Rows are missing from so many times the usual distance; and as a share of the shortest time between two changes of an output that
cycles, from which it may have gone there and back unseen (our choice)."""
LITTLE = 0.005
"""Of all the heat that was given: what may be wrong by less is left to what is said of late rows (our choice)."""
MOST_PARTS = 4
"""Parts that are learnt from at the most; the longest (our choice)."""


def unbroken(stretch: Stretch) -> tuple[Stretch, ...]:
    """The parts of a stretch between which its output is not known; itself where nothing is missing, or where the output stood still.
    The last one says in ``ends_by`` what was missing. Raises ``Refused`` where no part can be learnt from.

    The first and the last row of what is missing are known; whether the output changed meanwhile is judged by both, and by how it
    cycles."""
    times, values, counted = outputs_of(stretch)
    half_s, shortest_s = _rhythm(times, values)
    missing = _missing(times, values, counted, shortest_s)
    within = missing[times[missing + 1] > stretch.time_s[0]]
    if not len(within):
        return (stretch,)
    parts = []
    for start_s, end_s in zip((-np.inf, *times[within + 1]), (*times[within], np.inf), strict=True):
        part = _between(stretch, start_s, end_s, half_s)
        try:
            checked(part)
        except Refused:
            continue
        parts.append(part)
    said = _says(times[within], times[within + 1], stretch.time_s[0])
    if not parts:
        raise refuse(
            "stretch",
            f"{said} Neither what is before nor what is after can be learnt from by itself",
            "a stretch without missing rows in which the output changes",
        )
    longest = sorted(parts, key=lambda p: float(p.time_s[0] - p.time_s[-1]))[:MOST_PARTS]
    *first, last = sorted(longest, key=lambda p: float(p.time_s[0]))
    which = "Each part" if len(parts) <= MOST_PARTS else f"Each of the {MOST_PARTS} longest parts"
    learnt = f"{said} {which} that tells something is learnt from by itself."
    return (*first, replace(last, ends_by=" ".join(filter(None, (learnt, stretch.ends_by)))))


def _rhythm(times: NDArray[np.float64], values: NDArray[np.float64]) -> tuple[float, float]:
    """The usual and the shortest time from one change of the output to the next, s; 0 and without end where it hardly changes."""
    moved = times[1:][np.abs(np.diff(values)) >= LEAST_CHANGE]
    return (float(np.median(np.diff(moved))), float(np.diff(moved).min())) if len(moved) > 1 else (0.0, np.inf)


def _missing(
    times: NDArray[np.float64], values: NDArray[np.float64], counted: NDArray[np.bool_], shortest_s: float
) -> NDArray[np.intp]:
    """The rows after which rows are missing, and the output may have changed meanwhile by what matters."""
    step = np.diff(times)
    late = step > MISSING * np.quantile(step, USUAL) if len(step) else np.zeros(0, bool)
    late &= np.ptp(values) * step > LITTLE * float(np.sum(np.abs(values[:-1]) * step))
    jumps = np.abs(np.diff(values)) >= LEAST_CHANGE
    return np.flatnonzero(late & (jumps | (step > UNSEEN * shortest_s)) & ~counted[:-1] & ~counted[1:])


def _between(stretch: Stretch, start_s: float, end_s: float, half_s: float) -> Stretch:
    """Its rows from a time to a time. Where rows are missing before it, what comes in the first ``half_s`` may still be of what the output
    did meanwhile: an on/off loop takes longer than its dead time from one change to the next. Of that only the output is taken."""
    first = not np.isfinite(start_s)
    begins_s = stretch.time_s[0] if first else max(start_s + half_s, stretch.time_s[0])
    now = (stretch.time_s >= begins_s) & (stretch.time_s <= end_s)
    before = (stretch.time_s >= start_s) & (stretch.time_s < begins_s)
    earlier = (stretch.earlier_s >= start_s) & (stretch.earlier_s <= end_s)
    return replace(
        stretch,
        time_s=stretch.time_s[now],
        reading_c=stretch.reading_c[now],
        output=stretch.output[now],
        setpoint_c=None if stretch.setpoint_c is None else stretch.setpoint_c[now],
        earlier_s=np.append(stretch.earlier_s[earlier], stretch.time_s[before]),
        earlier_output=np.append(stretch.earlier_output[earlier], stretch.output[before]),
        output_before=stretch.output_before if first else None,
        since_missing=stretch.since_missing if first else True,
        ends_by="",
    )


def _says(from_s: NDArray[np.float64], until_s: NDArray[np.float64], start_s: float) -> str:
    """What is missing, in a sentence."""
    long = spoken_time(float(np.sum(until_s - from_s)))
    if len(from_s) == 1:
        where = f"for {long}, {spoken_time(max(float(from_s[0] - start_s), 0.0))} after its beginning"
    else:
        where = f"{len(from_s)} times, {long} in all"
    return f"Rows are missing {where}, and the output worked meanwhile, nobody knows how."
