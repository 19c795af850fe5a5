"""How far two courses of set-points are from one another."""

from collections.abc import Sized
from enum import StrEnum

from .profile import Corner

NOTHING = 1e-6
"""Degrees, or seconds, that only arithmetic makes of nothing."""
SAME_C, SAME_S = 0.005, 0.5
"""Courses nearer than that are told apart by no display and no clock (our choice)."""


class Keeps(StrEnum):
    """What another form keeps of a profile: all of it, the course of its set-point, or not even that."""

    WHOLE = "whole"
    COURSE = "course"
    PART = "part"


def keeps(losses: Sized, apart_c: float, late_s: float) -> Keeps:
    """What is kept by a form that loses ``losses``, is up to ``apart_c`` off and ends ``late_s`` later."""
    if not losses and apart_c < NOTHING and abs(late_s) < NOTHING:
        return Keeps.WHOLE
    return Keeps.COURSE if apart_c < SAME_C and abs(late_s) < SAME_S else Keeps.PART


def apart(a: tuple[Corner, ...], b: tuple[Corner, ...], start_c: float) -> float:
    """The largest difference of two courses of set-points, °C: at a corner of either, on each side of it where it steps."""
    moments = sorted({0.0, *(c.time_s for c in a), *(c.time_s for c in b)})
    return max(
        (abs(_at(a, t, start_c, late) - _at(b, t, start_c, late)) for t in moments for late in (False, True)),
        default=0.0,
    )


def _at(corners: tuple[Corner, ...], t: float, start_c: float, late: bool) -> float:
    """The set-point at ``t``; ``late``: just after, where it steps there."""
    before_s, before_c = 0.0, start_c
    for c in corners:
        if c.time_s > t or (c.time_s == t and not late and c.time_s > before_s):
            if c.time_s == before_s:
                return before_c
            return before_c + (c.celsius - before_c) * (t - before_s) / (c.time_s - before_s)
        before_s, before_c = c.time_s, c.celsius
    return before_c
