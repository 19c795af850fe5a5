"""Whether a controller looks often enough, as far as its log tells."""

from ..messages import quantity

A_DEAD_TIME, A_RISE, RISE_OF_LAG = 4.0, 10.0, 2.2
"""Looks in a dead time, and in the rise of the closed loop, at the least (handbook of the trade: Åström & Wittenmark, from memory); a first
order rises from a tenth to nine tenths in 2.2 lags."""


def seldom(interval_s: float, dead_s: float, closed_loop_s: float) -> str:
    """What is to be said where the rows of a log are further apart than a controller should look; empty where they are not.

    ``closed_loop_s``: the lag of the loop that is aimed at.

    >>> seldom(1.0, 50.0, 100.0)
    ''
    """
    longest = min(dead_s / A_DEAD_TIME, RISE_OF_LAG * closed_loop_s / A_RISE)
    if interval_s <= longest:
        return ""
    return (
        f"The log has a row every {quantity(interval_s, 's', '.2g')}. Should the controller look no oftener, it looks too seldom: "
        f"{quantity(longest, 's', '.2g')} is the longest for this process, and what is foretold here does not hold."
    )
