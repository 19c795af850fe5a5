"""A run with everything measured beside it as one table, in order of time."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rellux.core.units import UNIT, Kind

from . import store
from .models import Run

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Column:
    """A column of the table: its name, its unit ("1" for a state), and of a channel what else is known of it."""

    name: str
    unit: str
    told: dict[str, Any] | None = None


OWN = (
    Column("time_s", "s"),
    Column("setpoint_c", "°C"),
    Column("reading_c", "°C"),
    Column("output", "%"),
    Column("switch", "1"),
)
"""Of the run itself; a switch is closed where it is 1."""


def columns_of(run: Run) -> list[Column]:
    """The run's own columns, and those of its tracks."""
    beside = [
        Column(
            f"{track.device}: {c['name']}", UNIT[Kind(c["kind"])] if c["kind"] else "1", {**c, "device": track.device}
        )
        for track in run.tracks.all()
        for c in track.channels
    ]
    return [*OWN, *beside]


def joined(run: Run) -> Iterator[list[Array]]:
    """The columns of :func:`columns_of`, some ten thousand rows at a time: one for every moment at which any device was read, NaN for
    those that were not. Offsets are added."""
    held = [run, *run.tracks.all()]
    offsets = [[0.0] * 4, *([c["offset"] for c in track.channels] for track in held[1:])]
    flows = [store.parts(h) for h in held]
    waiting = [next(flow, None) for flow in flows]
    while any(w is not None for w in waiting):
        end = min(w.time_s[-1] for w in waiting if w is not None)
        taken = [None if w is None else w.between(-np.inf, end) for w in waiting]
        time_s = np.unique(np.concatenate([t.time_s for t in taken if t is not None]))
        rows = [time_s]
        for given, added in zip(taken, offsets, strict=True):
            at = slice(None) if given is None else np.searchsorted(time_s, given.time_s)
            for i, offset in enumerate(added):
                column = np.full(len(time_s), np.nan)
                if given is not None:
                    column[at] = given.columns[i + 1] + offset
                rows.append(column)
        yield rows
        for i, w in enumerate(waiting):
            if w is not None:
                left = w.between(np.nextafter(end, np.inf), np.inf)
                waiting[i] = left if len(left) else next(flows[i], None)


HELD_INTERVALS = 3.5
"""What a device beside the run showed last is taken to hold for so many of its intervals."""


def held_at(run: Run, role: str, time_s: Array) -> Array:
    """What the first channel of this role showed at or before each of these times, offset added; NaN where that was too long ago. Empty
    where the run has no such channel."""
    for track in run.tracks.all():
        for i, channel in enumerate(track.channels):
            if channel["role"] == role and track.samples:
                points = store.read(track)
                at = np.searchsorted(points.time_s, time_s, side="right") - 1
                fresh = (at >= 0) & (time_s - points.time_s[at] <= HELD_INTERVALS * max(track.interval_s, 1e-3))
                return np.where(fresh, points.columns[i + 1][at] + channel["offset"], np.nan)
    return np.zeros(0)
