"""What an output did between two looks at it, from the time it was on in all as the controller counts it."""

JUST_AFTER = 0.001
"""Where in the interval a mean begins to count, as a share of it: right after the first look; a change is as far from either look (our
choice)."""


def between(first: tuple[float, float, float], second: tuple[float, float, float]) -> tuple[float, float] | None:
    """A moment in s and the output in % from then until the second look; each look is (time s, on-time s, output %).

    Where one change from the first output to the second explains what was counted, the moment of that change; else the mean, from
    just after the first look. None where nothing can be said: no time passed, or it began to count anew.

    >>> between((0.0, 0.0, 100.0), (20.0, 8.0, 0.0))
    (8.0, 0.0)
    >>> between((0.0, 0.0, 0.0), (20.0, 8.0, 0.0))[1]
    40.0
    """
    step, on = second[0] - first[0], second[1] - first[1]
    if not step > 0 or not on >= 0:
        return None
    mean = min(max(100.0 * on / step, 0.0), 100.0)
    was, became = first[2], second[2]
    if was != became and min(was, became) <= mean <= max(was, became):
        share = (mean - became) / (was - became)
        return first[0] + step * min(max(share, JUST_AFTER), 1.0 - JUST_AFTER), became
    return first[0] + JUST_AFTER * step, mean
