"""A recorded run against the profile it was of: segment by segment, as the programme machine itself goes through what was read."""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from ..control.programme.kernel import ENDED, PHASE, through
from ..control.programme.programme import first_state
from ..messages import percent
from ..profiles.profile import MOVES, RAMPS, SOAK_BAND_C, Profile, Segment, SegmentKind, rows_of
from ..units import J_PER_KWH
from .series import GAP, Array, Series


@dataclass(frozen=True)
class PassedSegment:
    """One passage of a segment in a run; times in s from the run's start. ``lag_c``: the most that the reading was off the plan, signed;
    ``overshoot_c``: beyond the segment's temperature, the soak after it included; ``held_s``: the clock waited; ``within_s``/``unseen_s``:
    of a soak, how long load and reading were inside ``band_c``, and how long nothing was recorded; ``output_s``: ∫ output dt in full-power
    seconds; ``early_s``: of it, the first third of a way up, where little is lost yet."""

    segment: int
    start_s: float
    end_s: float
    lag_c: float | None
    overshoot_c: float | None
    held_s: float
    within_s: float | None
    unseen_s: float
    band_c: float
    output_s: float | None
    mean_output: float | None
    early_s: float | None

    def energy_kwh(self, full_power_w: float) -> float | None:
        """What the heater took of the mains in it; ``None`` where its output was not recorded."""
        return None if self.output_s is None else self.output_s * full_power_w / J_PER_KWH


@dataclass(frozen=True)
class Followed:
    """The plan as it went over a run: ``planned_c`` at every row (NaN before its start and after its end), and the segments passed.
    ``ended``: it came to its end within the run."""

    planned_c: Array
    at: np.typing.NDArray[np.int64]
    segments: tuple[PassedSegment, ...]
    ended: bool


def follow(profile: Profile, series: Series, start_s: float, start_c: float, load_c: Array | None = None) -> Followed:
    """Replay a profile that began at ``start_s`` of the run from ``start_c``: the clock waits where the reading that was recorded made it
    wait. A person it waited for is taken to have come when the recorded set-point moved on. ``load_c`` at the same rows."""
    t, y = series.time_s, series.reading_c
    state, order = first_state(start_c), np.array(list(profile.order()))
    planned, held = np.full(len(t), np.nan), np.zeros(len(t))
    at = np.full(len(t), -1, dtype=np.int64)
    through(rows_of(profile), state, t, y, series.setpoint_c, start_s, MOVED_C, planned, at, held)
    at = np.where(at < 0, -1, order[np.clip(at, 0, len(order) - 1)])
    gap = GAP * float(np.median(np.diff(t))) if len(t) > 1 else np.inf
    passed = _passages(profile, series, planned, at, held, load_c if load_c is not None else y, gap)
    return Followed(planned, at, passed, bool(state[PHASE] >= ENDED))


MOVED_C = 0.5


def _passages(
    profile: Profile,
    series: Series,
    planned: Array,
    at: np.typing.NDArray[np.int64],
    held: Array,
    load: Array,
    gap: float,
) -> tuple[PassedSegment, ...]:
    rows = np.flatnonzero(at >= 0)
    if not len(rows):
        return ()
    changes = np.flatnonzero(np.diff(at[rows])) + 1
    starts, ends = [0, *changes.tolist()], [*changes.tolist(), len(rows)]
    pieces = [rows[a:b] for a, b in zip(starts, ends, strict=True)]
    return tuple(
        _passage(
            profile,
            series,
            planned,
            piece,
            int(at[piece[0]]),
            held,
            load,
            gap,
            pieces[n + 1] if n + 1 < len(pieces) else None,
        )
        for n, piece in enumerate(pieces)
    )


def _passage(
    profile: Profile,
    series: Series,
    planned: Array,
    piece: np.typing.NDArray[np.int64],
    segment: int,
    held: Array,
    load: Array,
    gap: float,
    after: np.typing.NDArray[np.int64] | None,
) -> PassedSegment:
    s, t = profile.segments[segment], series.time_s
    band = s.holdback.band_c if s.holdback else SOAK_BAND_C
    y, out = series.reading_c[piece], series.output[piece]
    off = planned[piece] - y
    seen = np.isfinite(off)
    end = float(t[after[0]]) if after is not None else float(t[piece[-1]])
    step = np.diff(np.append(t[piece], end))
    silent = step > gap
    within = None
    if s.kind is SegmentKind.SOAK:
        inside = (np.abs(off) <= band) & (np.abs(planned[piece] - load[piece]) <= band) & ~silent
        within = float(step[inside].sum())
    known = np.isfinite(out) & ~silent
    return PassedSegment(
        segment,
        float(t[piece[0]]),
        end,
        float(off[seen][np.argmax(np.abs(off[seen]))]) if seen.any() else None,
        _overshoot(profile, series, piece, segment, after),
        float(held[piece].sum()),
        within,
        float(step[silent | ~seen].sum()),
        band,
        float((step * out)[known].sum()) / 100.0 if known.any() else None,
        float((step * out)[known].sum() / max(step[known].sum(), 1e-9)) if known.any() else None,
        _early(s, y, step * out / 100.0, known),
    )


def _early(s: Segment, y: Array, used_s: Array, known: np.typing.NDArray[np.bool_]) -> float | None:
    """What the first third of a way up took, in full-power seconds; ``None`` where it is none, or something of it was not recorded."""
    good = np.flatnonzero(np.isfinite(y))
    if s.target_c is None or not len(good) or s.target_c <= y[good[0]]:
        return None
    third = y[good[0]] + (s.target_c - y[good[0]]) / 3.0
    past = np.flatnonzero(y >= third)
    end = int(past[0]) if len(past) else 0
    return float(used_s[:end].sum()) if end and known[:end].all() else None


def _overshoot(
    profile: Profile,
    series: Series,
    piece: np.typing.NDArray[np.int64],
    segment: int,
    after: np.typing.NDArray[np.int64] | None,
) -> float | None:
    """How far the reading passed the segment's temperature, in it and in the soak after it; for a way down, below it."""
    s = profile.segments[segment]
    if s.kind not in (*RAMPS, SegmentKind.STEP) or s.target_c is None or s.kind not in MOVES:
        return None
    rows = (
        piece
        if after is None or profile.segments[_next(profile, segment)].kind is not SegmentKind.SOAK
        else np.concatenate((piece, after))
    )
    y = series.reading_c[rows]
    y = y[np.isfinite(y)]
    if not len(y):
        return None
    up = s.target_c >= float(y[0])
    beyond = float(y.max()) - s.target_c if up else s.target_c - float(y.min())
    return max(beyond, 0.0)


def _next(profile: Profile, segment: int) -> int:
    return min(segment + 1, len(profile.segments) - 1)


TOGETHER = 0.35
"""Heating up and holding rise alike within that share of the larger (our choice)."""
ALIKE = 0.04
"""A change of output smaller than that is nothing (our choice: mains voltage alone does 2 % in power)."""


ALIKE_SAYS = "Beginning to heat and holding took what they take now."
UNKNOWN_SAYS = "What it took of the heater is not known in both: nothing can be said of it."


def slower_because(now: tuple[PassedSegment, ...], before: tuple[PassedSegment, ...], profile: Profile) -> str:
    """What changed between two runs of one profile, from what the first third of heating up, where little is lost, and holding took of
    the output; that it is alike, or that it cannot be told.

    Less power for each per cent of output (element, voltage) raises both alike; more loss (door, insulation) raises holding, a heavier
    load heating up (common practice, no source)."""
    heating = _ratio(
        [[p.early_s for p in passed if p.segment == i] for passed in (now, before)] for i in _of(profile, *MOVES)
    )
    holding = _ratio(
        [[p.mean_output for p in passed if p.segment == i] for passed in (now, before)]
        for i in _of(profile, SegmentKind.SOAK)
    )
    if heating is None or holding is None:
        return UNKNOWN_SAYS
    up, hold = heating - 1.0, holding - 1.0
    if abs(up) < ALIKE and abs(hold) < ALIKE:
        return ALIKE_SAYS
    begun, held = (f"{percent(abs(v))} {'more' if v > 0 else 'less'}" for v in (up, hold))
    said = f"Beginning to heat took {begun} of the heater than before, holding {held}. "
    if up >= ALIKE and hold >= ALIKE and abs(up - hold) <= max(ALIKE, TOGETHER * max(up, hold)):
        return (
            said
            + "Both alike: each per cent of output gives less heat. Look at the supply voltage and at every element."
        )
    if hold >= ALIKE and up < hold:
        return said + "More to hold than to begin with: more is lost. Look at the door, its seal and the insulation."
    if up >= ALIKE:
        return said + "More to begin with than to hold: there was more to heat, or it began colder."
    return said + "It needs less than before: a lighter load, a warmer start, or a reading that is higher than it was."


def _of(profile: Profile, *kinds: SegmentKind) -> list[int]:
    return [i for i, s in enumerate(profile.segments) if s.kind in kinds]


def _ratio(pairs: Iterable[list[list[float | None]]]) -> float | None:
    """What segments took now over what they took before, where both are known on their first passage."""
    sums = [0.0, 0.0]
    for now, before in pairs:
        if now and before and now[0] is not None and before[0] is not None:
            sums[0] += now[0]
            sums[1] += before[0]
    return sums[0] / sums[1] if sums[0] > 0 and sums[1] > 0 else None
