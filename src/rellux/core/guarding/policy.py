"""What a lost reading does: stop at once, or ride through a glitch, and for how long at most."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .ladder import Ladder, Situation, soonest_at
from .plan import FaultPolicy, FaultSchool

USUAL_HOLD_S = 10.0
"""A hold for slow rigs, s (handbook values: 2 s where seconds count, 10 s where minutes do; common practice, no source)."""
QUICK_HOLD_S, QUICK_S = 2.0, 60.0
"""The hold where full power eats the margin within a minute, s."""
NEVER_S = 60.0


def longest_hold(found: Ladder, situation: Situation) -> float:
    """How long the rig may be blind: what full power needs, at the bad edge, from the set-point to the limiter, or to what is weakest
    where there is none; s. Although the output is off meanwhile: whoever is blind may also be wrong about that."""
    limiter = situation.plan.limiter
    margin = limiter.trip_c if limiter else found.step(found.weakest).celsius
    when = soonest_at(found.family, situation, margin)
    return NEVER_S if when is None else min(when, NEVER_S)


def usual_hold(found: Ladder, situation: Situation) -> float:
    """The hold to begin with, s."""
    most = longest_hold(found, situation)
    return min(QUICK_HOLD_S if most < QUICK_S else USUAL_HOLD_S, most)


@dataclass(frozen=True)
class Glitch:
    """A stretch of a run without a reading: when it began and how long it took, s; whether the run would have gone on after it, and why
    or why not, as a sentence."""

    begin_s: float
    length_s: float
    rides: bool
    why: str


def glitches(policy: FaultPolicy, time_s: NDArray[np.float64], reading_c: NDArray[np.float64]) -> list[Glitch]:
    """What ``policy`` would have made of every stretch of rows without a reading (NaN); times rising, s."""
    lost = ~np.isfinite(reading_c)
    edges = np.flatnonzero(np.diff(np.concatenate(([False], lost, [False])).astype(np.int8)))
    found = []
    for first, after in zip(edges[::2], edges[1::2], strict=True):
        begin = float(time_s[first])
        back = after < len(time_s)
        length = float((time_s[after] if back else time_s[-1]) - begin)
        found.append(Glitch(begin, length, *_judged(policy, time_s, reading_c, int(first), int(after), length)))
    return found


def _judged(
    policy: FaultPolicy,
    time_s: NDArray[np.float64],
    reading_c: NDArray[np.float64],
    first: int,
    after: int,
    length_s: float,
) -> tuple[bool, str]:
    if policy.school is FaultSchool.STOP:
        return False, "every lost reading ends the run"
    if after >= len(time_s):
        return False, "it did not come back"
    if length_s > policy.hold_s:
        return False, "longer than it is waited for"
    if first > 0:
        rate = abs(reading_c[after] - reading_c[first - 1]) / (time_s[after] - time_s[first - 1]) * 60.0
        if rate > policy.rate_c_per_min:
            return False, "it came back where it cannot have got to"
    return True, "ridden through"
