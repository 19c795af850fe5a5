"""What alarms would have done over a recorded series: the same machine, sample by sample, where anything could be the matter."""

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ...compiled import compiled
from .alarm import first_state
from .kernel import (
    ABOVE_SETPOINT,
    ACKNOWLEDGE,
    ACKNOWLEDGED,
    ACTIVE,
    BELOW_SETPOINT,
    CURRENT,
    DISAGREE,
    EVENT,
    EVERY_SETPOINT,
    FALLING,
    FLAG,
    FULL,
    GAP,
    HIGH,
    KIND,
    LATCHED,
    LOOP_BREAK,
    LOW,
    NORMAL,
    OUTPUT,
    OUTSIDE_BAND,
    READING,
    RESET,
    RETURNED,
    RISING,
    SECOND,
    SEEN_SIZE,
    SENSOR_BREAK,
    SETPOINT,
    SETPOINT_MOVED,
    SLOT_DUE,
    SLOTS,
    STANDBY,
    STATE,
    STEP_S,
    VALUE,
    WAS_ON,
    WINDOW,
    look,
)
from .settings import KINDS, AlarmSettings

Array = NDArray[np.float64]
COLUMNS = ("reading_c", "setpoint_c", "output", "second_c", "current_a")
FLAGS = ("programme_end", "holdback")
"""What a programme says."""
MOST = 10_000
"""Occurrences that are kept; the rest is counted."""
ROWS_MISSED = 3.5
"""A step longer than so many usual ones is a stretch without a reading."""
SAMPLED = 10_000
"""Steps by which the usual one is told."""
BLOCK = 512
"""Rows that are looked over at once."""


@dataclass(frozen=True)
class Recorded:
    """Columns as long as one another, rising in time (s), NaN for what is missing; empty where it was not recorded. °C, %, A; of the
    programme whether it has just ended, and whether it holds back: 1 or 0."""

    time_s: Array
    reading_c: Array
    setpoint_c: Array
    output: Array
    second_c: Array
    current_a: Array
    programme_end: Array = field(default_factory=lambda: np.zeros(0))
    holdback: Array = field(default_factory=lambda: np.zeros(0))


@dataclass(frozen=True)
class Occurrence:
    """Once that it acted: when it began to, when its condition was gone (``None``: it was not by the end), s, and the furthest reading."""

    begin_s: float
    end_s: float | None
    furthest_c: float


@dataclass(frozen=True)
class Replayed:
    """``occurrences`` are at most :data:`MOST`; ``count`` is all of them; ``acting_s``: how long in all."""

    occurrences: tuple[Occurrence, ...]
    count: int
    acting_s: float


@compiled()
def _suspects(kind, limit, window, watches_setpoint, usual, reading, setpoint, output, second, flag, first, last):
    """How many rows from ``first`` up to ``last`` keep an alarm that is normal from staying so, or a share of them; -1 where nothing can be
    said without going through them."""
    hits = 0
    if kind == HIGH:
        for j in range(first, last):
            hits += not reading[j] < limit
    elif kind == LOW:
        for j in range(first, last):
            hits += not reading[j] > limit
    elif kind == SENSOR_BREAK:
        for j in range(first, last):
            hits += reading[j] != reading[j]
    elif kind == ABOVE_SETPOINT:
        for j in range(first, last):
            hits += not reading[j] - setpoint[j] < limit
    elif kind == BELOW_SETPOINT:
        for j in range(first, last):
            hits += not setpoint[j] - reading[j] < limit
    elif kind == OUTSIDE_BAND:
        for j in range(first, last):
            hits += not abs(reading[j] - setpoint[j]) <= limit
    elif kind == DISAGREE:
        for j in range(first, last):
            hits += not abs(reading[j] - second[j]) < limit
    elif kind == LOOP_BREAK:
        for j in range(first, last):
            hits += not output[j] < FULL
            hits += reading[j] != reading[j]
    elif kind == EVENT:
        for j in range(first, last):
            hits += flag[j] != 0.0
    elif kind in (RISING, FALLING):
        middle, half = reading[first], limit * window / 120.0
        for j in range(max(first - int(window / usual) - 2, 0), last):
            hits += not abs(reading[j] - middle) < half
    else:
        return -1
    if watches_setpoint:
        for j in range(first, last):
            hits += setpoint[j] != setpoint[max(j - 1, 0)]
    return hits


@compiled()
def _gaps(time, longest):
    """Rows before which there was a stretch without a reading, and the number of rows."""
    count = 0
    for i in range(1, len(time)):
        count += time[i] - time[i - 1] > longest
    found = np.full(count + 1, len(time))
    count = 0
    for i in range(1, len(time) if len(found) > 1 else 0):
        if time[i] - time[i - 1] > longest:
            found[count] = i
            count += 1
    return found


@compiled()
def _over(
    settings,
    state,
    usual,
    has_setpoint,
    time,
    reading,
    setpoint,
    output,
    second,
    current,
    flag,
    gaps,
    begins,
    ends,
    furthest,
):
    """Fills ``begins``, ``ends`` and ``furthest`` (as long as one another); returns how many there were, and the s it acted. ``gaps``:
    rows before which there was a stretch without a reading, and the number of rows."""
    seen = np.zeros(SEEN_SIZE)
    n, count, acting, most, gap = len(time), 0, 0.0, len(begins), 0
    kind, window = settings[0, KIND], settings[0, WINDOW]
    watches_setpoint = has_setpoint and settings[0, STANDBY] == EVERY_SETPOINT
    rates = kind in (RISING, FALLING)
    i = 0
    while i < n:
        while gaps[gap] < i:
            gap += 1
        if state[0, STATE] == NORMAL and i > 0:  # most of the time nothing is the matter: on to where something may be
            begun = i
            while i < gaps[gap]:
                last = min(i + BLOCK, gaps[gap])
                args = (kind, settings[0, VALUE], window, watches_setpoint, usual)
                if _suspects(*args, reading, setpoint, output, second, flag, i, last) != 0:
                    break
                i = last
            if i > begun and i < n and rates:  # what it remembers of the window before
                state[0, SLOTS], state[0, SLOT_DUE] = 0.0, 0.0
                i = max(begun, i - int(window / usual) - 2)
            if i > begun and kind == LOOP_BREAK:
                state[0, WAS_ON] = 0.0
            if i == n:
                break
        stop = i + 1 if state[0, STATE] != NORMAL else min(i + BLOCK, n)
        while i < stop:
            step = time[i] - time[i - 1] if i > 0 else 0.0
            was = state[0, STATE]
            if i == gaps[gap] and i > 0:
                seen[STEP_S], seen[READING], seen[SETPOINT], seen[OUTPUT] = step - usual, np.nan, np.nan, np.nan
                seen[SECOND], seen[CURRENT], seen[FLAG] = np.nan, np.nan, flag[i - 1]
                look(settings, state, seen)
                step = usual
                gap += 1
                if state[0, STATE] == ACTIVE and was != ACTIVE:
                    if count < most:
                        begins[count], ends[count] = time[i - 1] + settings[0, GAP], np.nan
                        furthest[count] = np.nan
                    count += 1
                    was = ACTIVE
            seen[STEP_S], seen[READING] = step, reading[i]
            seen[SETPOINT], seen[OUTPUT] = setpoint[i], output[i]
            seen[SECOND], seen[CURRENT], seen[FLAG] = second[i], current[i], flag[i]
            moved = watches_setpoint and i > 0 and setpoint[i] != setpoint[i - 1]
            seen[SETPOINT_MOVED] = 1.0 if moved else 0.0
            seen[ACKNOWLEDGE] = (
                1.0 if was == RETURNED else 0.0
            )  # somebody acknowledges and resets as soon as it is gone
            seen[RESET] = 1.0 if was == LATCHED else 0.0
            look(settings, state, seen)
            now = state[0, STATE]
            if now == ACTIVE and was != ACTIVE:
                if count < most:
                    begins[count], ends[count], furthest[count] = time[i], np.nan, reading[i]
                count += 1
            elif (now in (ACTIVE, ACKNOWLEDGED)) and 0 < count <= most:
                further = reading[i] < furthest[count - 1] if kind == LOW else reading[i] > furthest[count - 1]
                if further or furthest[count - 1] != furthest[count - 1]:
                    furthest[count - 1] = reading[i]
            elif was == ACTIVE and 0 < count <= most:
                ends[count - 1] = time[i]
            if was == ACTIVE and i > 0:
                acting += time[i] - time[i - 1]
            i += 1
    return count, acting


def replay(alarms: Sequence[AlarmSettings], recorded: Recorded) -> tuple[Replayed | None, ...]:
    """What each of ``alarms`` would have done; ``None`` where what it watches was not recorded. Somebody is taken to acknowledge and to
    reset as soon as its condition is gone, so that every time counts."""
    time = np.ascontiguousarray(recorded.time_s, dtype=np.float64)
    n = len(time)
    some = np.arange(0, n - 1, max(1, n // SAMPLED))
    usual = float(np.median(time[some + 1] - time[some])) if n > 1 else 1.0
    gaps = _gaps(time, ROWS_MISSED * usual)
    given = {name: np.ascontiguousarray(getattr(recorded, name), dtype=np.float64) for name in (*COLUMNS, *FLAGS)}
    columns = [given[name] if len(given[name]) == n else time for name in COLUMNS]  # one that nobody looks at
    has_setpoint = len(given["setpoint_c"]) == n
    found: list[Replayed | None] = []
    for alarm in alarms:
        if any(name not in given or len(given[name]) != n for name in KINDS[alarm.kind].needs):
            found.append(None)
            continue
        begins, ends, furthest = (np.empty(MOST) for _ in range(3))
        row, state = np.array([alarm.row()]), np.array([first_state(alarm)])
        flag = next((given[name] for name in FLAGS if name in KINDS[alarm.kind].needs), time)
        count, acting = _over(row, state, usual, has_setpoint, time, *columns, flag, gaps, begins, ends, furthest)
        rows = zip(begins[:count], ends[:count], furthest[:count], strict=False)
        occurrences = tuple(Occurrence(float(b), None if np.isnan(e) else float(e), float(f)) for b, e, f in rows)
        found.append(Replayed(occurrences, int(count), float(acting)))
    return tuple(found)
