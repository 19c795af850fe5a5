"""How far two courses of set-points are from one another."""

from .profile import Corner


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
