"""The approach to a set-point: which one is judged, when it is reached, when it has settled, and what disturbed it afterwards."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .cycles import NO_CYCLES, Cycles, cycles_of
from .series import Series

MOVED_C = 0.05
"""A set-point that moved, °C (our choice)."""
NEARLY = 0.9
"""Rise time: from the start to nine tenths of the way (ISO/IEC usage; Åström & Hägglund)."""
STAYS_RISES, STAYS_CYCLES, STAYS_ROWS = 0.5, 2.0, 10
"""How long a reading must stay in the band to have settled: rise times, cycles, rows, whichever is longest (our choice)."""
WIDE = 0.75
"""The band of a loop that cycles, as a share of its swing: its ends lie half of it from the middle (our choice)."""

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Hold:
    """A stretch of one set-point, °C, from and to in s; ``others``: how many other holds the run has."""

    setpoint_c: float
    start_s: float
    end_s: float
    others: int


@dataclass(frozen=True)
class Approach:
    """Rows of one hold: ``sign`` +1 from below, −1 from above, 0 where it began there; ``reached``, ``nearly`` (nine tenths) and
    ``settled`` rows, ``None`` where not; ``steady``: rows of the settled part; ``disturbances``: first and last row of each."""

    sign: int
    reached: int | None
    nearly: int | None
    settled: int | None
    band_c: float
    steady: NDArray[np.int64]
    disturbances: tuple[tuple[int, int], ...]


def holds(series: Series) -> list[Hold]:
    """Every stretch in which the set-point stood still, in order of time."""
    known = np.flatnonzero(np.isfinite(series.setpoint_c))
    if not len(known):
        return []
    t, sp = series.time_s[known], series.setpoint_c[known]
    edges = np.concatenate(([0], np.flatnonzero(np.abs(np.diff(sp)) > MOVED_C) + 1, [len(sp)]))
    ends = np.append(t[edges[1:-1]], t[-1]) if len(edges) > 2 else t[-1:]
    return [
        Hold(float(sp[a]), float(t[a]), float(end), len(edges) - 2) for a, end in zip(edges[:-1], ends, strict=True)
    ]


def longest(found: list[Hold]) -> Hold:
    """The hold that is judged: the longest, of equally long ones the later. A programme's end is not what it held for hours."""
    return max(found, key=lambda h: (h.end_s - h.start_s, h.start_s))


def approach(t: Array, y: Array, setpoint_c: float, band_c: float) -> Approach:
    """How the reading came to the set-point and stayed. ``t`` in s and ``y`` in °C, shapes (n,)."""
    sign = 1 if y[0] < setpoint_c - band_c else -1 if y[0] > setpoint_c + band_c else 0
    if not sign:
        band = max(band_c, WIDE * _steady_cycles(t, y, 0).swing)
        steady, disturbances = _steady(np.abs(y - setpoint_c) <= band, 0)
        return Approach(0, 0, 0, None, band, steady, disturbances)
    z = sign * (y - setpoint_c)
    nearly = _first(z >= (1.0 - NEARLY) * z[0])
    reached = _first(z >= 0.0)
    if reached is None:
        return Approach(sign, None, nearly, None, band_c, np.flatnonzero(t >= t[0] + (t[-1] - t[0]) * 2 / 3), ())
    cycles = _steady_cycles(t, y, reached)
    band = max(band_c, WIDE * cycles.swing)
    inside = np.abs(y - setpoint_c) <= band
    stays_s = max(
        STAYS_RISES * (t[nearly] - t[0] if nearly is not None else 0.0),
        STAYS_CYCLES * cycles.period(t[reached:]) if len(cycles) else 0.0,
        STAYS_ROWS * float(np.median(np.diff(t))),
    )
    settled = _settled(t, inside, max(reached if inside[reached] else 0, nearly or 0), stays_s)
    if settled is None:
        late = np.flatnonzero(t >= max(t[reached], t[0] + (t[-1] - t[0]) / 2))
        return Approach(sign, reached, nearly, None, band, late, ())
    steady, disturbances = _steady(inside, settled)
    return Approach(sign, reached, nearly, settled, band, steady, disturbances)


def _steady(inside: NDArray[np.bool_], start: int) -> tuple[NDArray[np.int64], tuple[tuple[int, int], ...]]:
    """The rows inside the band from ``start`` on, and the runs of rows outside it. Where most are outside all are steady: it holds
    somewhere else."""
    if np.count_nonzero(inside[start:]) < (len(inside) - start) / 2:
        return np.arange(start, len(inside)), ()
    return np.flatnonzero(inside & (np.arange(len(inside)) >= start)), _spans(~inside, start)


def _steady_cycles(t: Array, y: Array, reached: int) -> Cycles:
    """Cycles after the set-point was first passed, if there are at least two: one swing is no cycle."""
    found = cycles_of(t[reached:], y[reached:])
    return found if len(found) > 1 else NO_CYCLES


def _first(where: NDArray[np.bool_]) -> int | None:
    return int(np.argmax(where)) if where.any() else None


def _settled(t: Array, inside: NDArray[np.bool_], start: int, stays_s: float) -> int | None:
    """The first row from which the reading stays inside for ``stays_s``, or to the end if that is not shorter than a few rows."""
    outside = np.flatnonzero(~inside[start:]) + start
    for i in (start, *(outside + 1)):
        if i >= len(t) or not inside[i]:
            continue
        after = outside[outside > i]
        if (len(after) and t[after[0]] - t[i] >= stays_s) or (not len(after) and len(t) - i > STAYS_ROWS):
            return int(i)
    return None


def _spans(where: NDArray[np.bool_], start: int) -> tuple[tuple[int, int], ...]:
    """First and last rows of the runs of true rows from ``start`` on."""
    edges = np.diff(np.concatenate(([0], where[start:].astype(np.int8), [0])))
    return tuple(
        (int(a) + start, int(b) + start - 1)
        for a, b in zip(np.flatnonzero(edges == 1), np.flatnonzero(edges == -1), strict=True)
    )
