"""Alarms that come too often to be of use. Source of the numbers: ISA-18.2 and IEC 62682, from memory."""

from collections.abc import Iterable

CHATTERS, CHATTER_S = 3, 60.0
"""An alarm that comes so often within so many seconds chatters."""
FLOOD, FLOOD_S = 10, 600.0
"""More alarms than these within so many seconds are more than one person can see to."""


def chatters(ago_s: Iterable[float]) -> bool:
    """Whether one alarm does, from how long ago it came each time, s."""
    return sum(s <= CHATTER_S for s in ago_s) >= CHATTERS


def floods(ago_s: Iterable[float]) -> bool:
    """Whether all alarms of a rig together do."""
    return sum(s <= FLOOD_S for s in ago_s) > FLOOD
