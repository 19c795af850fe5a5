"""Whether a rig can follow a profile: where its heater is flat out, where only nature cools, and the fastest that it can follow."""

from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from ..process.networks import Array
from ..units import J_PER_KWH
from .predict import Conditions, Course, Predicted, predict
from .profile import MOVES, RAMPS, SOAK_BAND_C, Profile, SegmentKind, commanded, start_of, with_segment

BEHIND_C = 2.0
"""A reading that far from the set-point, with the output at its limit, does not follow (our choice: a few digits of a display)."""
CLEAR_C = 1.5
"""What is proposed stays closer than this: a reading that drifts meanwhile must not bring the mark back (our choice)."""
FULL = 0.5
"""The output is at its limit within this, %."""
TRIES = 24
"""Steps towards the fastest profile."""
SLOWER = 0.94
"""Each of them takes so much off a rate beyond what was reached: it converges from the quick side."""
LEAST = 0.3
"""A rate is cut to this share at once at the most."""


class Why(StrEnum):
    """Why a part of a profile is not followed: the heater gives no more, nothing cools, the cooler takes no more, it is out of reach, or
    the controller swings between both ends with the settings it has."""

    FLAT_OUT = "flat_out"
    NATURE = "nature"
    COOLER = "cooler"
    NEVER = "never"
    SWINGS = "swings"


@dataclass(frozen=True)
class NotFollowed:
    """A part that is not followed: between two moments (s) of the prediction, by up to ``behind_c`` °C. ``sure``: as the rig probably is
    too, not only at its bad edge."""

    why: Why
    segment: int
    start_s: float
    end_s: float
    behind_c: float
    sure: bool


def marks(
    profile: Profile, predicted: Predicted, conditions: Conditions, within_c: float = BEHIND_C
) -> tuple[NotFollowed, ...]:
    """Every ramp that is not followed ``within_c``, from its first moment to its last: why, as it probably is; else why it may be so.

    A step asks for as quick as it can, so it and what comes up to it are not marked; a temperature that is never reached is.
    """
    found: dict[tuple[Why, int], NotFollowed] = {}
    for member in (predicted.able, predicted.slow, predicted.fast):
        for mark in _marks_of(profile, member, conditions, within_c):
            known = found.get((mark.why, mark.segment))
            sure = member is predicted.able
            if known is None:
                found[mark.why, mark.segment] = replace(mark, sure=sure)
            elif mark.behind_c > known.behind_c:
                found[mark.why, mark.segment] = replace(known, behind_c=mark.behind_c)
    sure_of = {m.segment for m in found.values() if m.sure}
    told = [m for m in found.values() if m.sure or m.segment not in sure_of]
    return tuple(sorted(told, key=lambda m: (m.start_s, m.segment)))


def _marks_of(profile: Profile, c: Course, conditions: Conditions, within_c: float) -> list[NotFollowed]:
    settings = conditions.settings
    error = c.setpoint_c - c.reading_c
    high, low = settings.output_high - FULL, settings.output_low + FULL
    asked = [s.kind in RAMPS for s in profile.segments]
    ramps = np.array(asked)[c.at]
    above = settings.cooling.above_c if settings.cooling else 0.0  # so far above neither side acts
    flat_out = (error > within_c) & (c.output >= high) & ramps
    nature = (-error > within_c + above) & (c.output <= low) & ramps
    cools = Why.COOLER if settings.cooling else Why.NATURE
    found = []
    for segment in np.unique(c.at[flat_out | nature]):
        here = c.at == segment
        both = (flat_out & here).any() and (nature & here).any()
        why = Why.SWINGS if both else Why.FLAT_OUT if (flat_out & here).any() else cools
        rows = np.flatnonzero((flat_out | nature) & here)
        behind = float(np.abs(error[rows]).max())
        found.append(
            NotFollowed(why, int(segment), float(c.time_s[rows[0]]), float(c.time_s[rows[-1]]), behind, sure=False)
        )
    beyond = _out_of_reach(profile, c)
    if not beyond and not c.is_over:
        last, end = int(c.at[-1]), float(c.time_s[-1])
        beyond = [NotFollowed(Why.NEVER, last, end, end, float(abs(error[-1])), sure=False)]
    never = {m.segment for m in beyond}
    return [*(m for m in found if m.segment not in never), *beyond]


def _out_of_reach(profile: Profile, c: Course) -> list[NotFollowed]:
    """Temperatures above where it comes to rest with all it has, or below where it does with its heat off."""
    found = []
    for segment, s in enumerate(profile.segments):
        rows = np.flatnonzero((c.at == segment) | ((c.at == segment + 1) & (s.kind is SegmentKind.STEP)))
        if s.kind not in MOVES or s.target_c is None or not len(rows):
            continue
        away = max(s.target_c - c.reach_c, c.floor_c - s.target_c)
        if away > 0:
            start, end = float(c.time_s[rows[0]]), float(c.time_s[rows[-1]])
            found.append(NotFollowed(Why.NEVER, segment, start, end, away, sure=False))
    return found


@dataclass(frozen=True)
class SegmentForecast:
    """How one passage of a segment probably goes. Times in s from the start; ``lag_c``: the most the reading is behind (below while
    rising), ``core_lag_c`` the same of the load's core; ``within_s``: how long reading and load's core are within ``band_c`` of a soak's
    temperature; ``energy_kwh`` and the least power left, in %."""

    segment: int
    start_s: float
    end_s: float
    held_s: float
    lag_c: float
    core_lag_c: float
    within_s: float | None
    band_c: float
    energy_kwh: float
    reserve: float


def forecasts(
    profile: Profile, c: Course, conditions: Conditions, band_c: float = SOAK_BAND_C
) -> tuple[SegmentForecast, ...]:
    """Every passage of every segment, in the order they run."""
    changes = np.flatnonzero(np.diff(c.at)) + 1
    starts, ends = [0, *changes.tolist()], [*changes.tolist(), len(c.at)]
    step = np.diff(c.time_s, append=c.time_s[-1])
    found = []
    for a, b in zip(starts, ends, strict=True):
        rows = slice(a, b)
        segment = int(c.at[a])
        s = profile.segments[segment]
        band = s.holdback.band_c if s.holdback else band_c
        behind, core_behind = c.setpoint_c[rows] - c.reading_c[rows], c.setpoint_c[rows] - c.core_c[rows]
        within = None
        if s.kind is SegmentKind.SOAK:
            inside = (np.abs(behind) <= band) & (np.abs(core_behind) <= band)
            within = float(step[rows][inside].sum())
        found.append(
            SegmentForecast(
                segment,
                float(c.time_s[a]),
                float(c.time_s[b] if b < len(c.time_s) else c.time_s[-1]),
                float(step[rows][c.waits[rows]].sum()),
                float(behind[np.argmax(np.abs(behind))]),
                float(core_behind[np.argmax(np.abs(core_behind))]),
                within,
                band,
                float((step[rows] * c.output[rows]).sum()) / 100.0 * conditions.power_w / J_PER_KWH,
                float(conditions.settings.output_high - c.output[rows].max()),
            )
        )
    return tuple(found)


def fastest(profile: Profile, conditions: Conditions, also_cold: bool = False) -> Profile | None:
    """The same profile with each ramp that is not followed as quick as this rig can, at its bad edge; ``None`` where no rate will do.
    With ``also_cold`` it is followed from the room's temperature too, not only from where ``conditions`` begin.

    What is returned was predicted anew from each beginning and stays within ``CLEAR_C``: it has no mark, also when the reading drifts a
    little. The profile itself where it does so.
    """
    starts = [conditions]
    if also_cold and conditions.begins_c != conditions.room_c:
        starts.append(replace(conditions, begins_c=conditions.room_c))
    tried = profile
    for _ in range(TRIES):
        made = [(predict(tried, start), start) for start in starts]
        left = [m for predicted, start in made for m in marks(tried, predicted, start, CLEAR_C)]
        if not left:
            return tried
        if any(m.why in (Why.NEVER, Why.SWINGS) and m.sure for m in left):
            return None
        courses = [c for predicted, _ in made for c in (predicted.able, predicted.fast, predicted.slow)]
        for segment in {m.segment for m in left}:
            tried = _slower(tried, segment, courses)
    return None


def _slower(profile: Profile, i: int, courses: list[Course]) -> Profile:
    share = min(_reached_share(profile, i, c) for c in courses)
    s = profile.segments[i]
    factor = max(min(share, 1.0) * SLOWER, LEAST)
    if s.kind is SegmentKind.RAMP_RATE:
        return with_segment(profile, i, rate_c_per_min=_fewer_digits((s.rate_c_per_min or 0.0) * factor, down=True))
    return with_segment(profile, i, time_s=_fewer_digits((s.time_s or 0.0) / factor, down=False))


def _fewer_digits(value: float, down: bool) -> float:
    """Two figures that count and a half, to the careful side."""
    unit = 10.0 ** (np.floor(np.log10(value)) - 2)
    whole = np.floor(value / unit) if down else np.ceil(value / unit)
    return float(f"{whole * unit:.6g}")


def _reached_share(profile: Profile, i: int, c: Course) -> float:
    """How much of a ramp's rate was kept: its own length over the time until the reading was near its end."""
    rows = np.flatnonzero(c.at == i)
    if not len(rows):
        return 1.0
    target, a = profile.segments[i].target_c or 0.0, rows[0]
    there = np.flatnonzero(np.abs(c.reading_c[a:] - target) <= BEHIND_C)
    length = float(c.time_s[rows[-1]] - c.time_s[a]) - float(np.sum(c.waits[rows]) * _tick(c.time_s))
    needed = float(c.time_s[a + there[0]] - c.time_s[a]) if len(there) else float("inf")
    return max(length, _tick(c.time_s)) / max(needed, _tick(c.time_s))


def _tick(time_s: Array) -> float:
    return float(time_s[1] - time_s[0]) if len(time_s) > 1 else 1.0


def total_commanded(profile: Profile, conditions: Conditions) -> float:
    """How long it lasts if nothing ever waits, s, from where it begins here."""
    return commanded(profile, start_of(profile, conditions.begins_c, conditions.room_c))[-1].time_s
