"""What a lost reading does: stop at once, or ride through a glitch, and for how long at most."""

from .ladder import Ladder, Situation

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
    when = found.alone.when(margin)
    return NEVER_S if when is None else min(when, NEVER_S)


def usual_hold(found: Ladder, situation: Situation) -> float:
    """The hold to begin with, s."""
    most = longest_hold(found, situation)
    return min(QUICK_HOLD_S if most < QUICK_S else USUAL_HOLD_S, most)
