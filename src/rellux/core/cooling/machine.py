"""A cooler that is switched on and off: what it pumps for its power, how often it starts, and what a forced rest lets the box warm.

Bound: ``COP ≤ T_c / (T_h − T_c)`` in kelvin (Carnot). The cycle is that of a box with one capacity between two thresholds; sensor and dead
time, which add to the swing, are left out.
"""

from ..errors import refuse
from ..units import ABSOLUTE_ZERO_C

EVAPORATOR_C, CONDENSER_C = 10.0, 15.0
"""How much colder than the box, and hotter than the room, the refrigerant has to be, °C (typical of small machines, from memory)."""
S_PER_H = 3600.0


def carnot(cold_c: float, hot_c: float) -> float:
    """The most heat per work that can be lifted from ``cold_c`` to ``hot_c``. Raises ``Refused`` where there is nothing to lift.
    A ratio; from °C.

    >>> round(carnot(4.0, 21.0), 2)
    16.3
    """
    if hot_c <= cold_c:
        raise refuse(
            "inside_c", "a cooler does not warm: it is wanted no colder than what is round it", "colder than the room"
        )
    return (cold_c - ABSOLUTE_ZERO_C) / (hot_c - cold_c)


def pumped_w(power_w: float, share: float, inside_c: float, ambient_c: float) -> float:
    """Heat in W that a machine takes out of a box at ``inside_c``: ``share`` of Carnot's between evaporator and condenser."""
    return power_w * share * carnot(inside_c - EVAPORATOR_C, ambient_c + CONDENSER_C)


def starts_per_hour(pumped: float, leaked: float, heat_j_per_k: float, hysteresis_c: float) -> float:
    """Starts an hour between two thresholds ``hysteresis_c`` apart: ``3600 Q_l (Q_c − Q_l) / (Q_c C H)``; 0 where it never stops.

    >>> round(starts_per_hour(300.0, 150.0, 60_000.0, 2.0), 2)
    2.25
    """
    if leaked >= pumped:
        return 0.0
    return S_PER_H * leaked * (pumped - leaked) / (pumped * heat_j_per_k * hysteresis_c)


def least_hysteresis(pumped: float, heat_j_per_k: float, starts: float) -> float:
    """Hysteresis in °C with which it never starts more often than ``starts`` an hour, whatever leaks in: ``900 Q_c / (C N)``, which is
    the case of half load."""
    return 0.25 * S_PER_H * pumped / (heat_j_per_k * starts)


def rest_rise(leaked: float, heat_j_per_k: float, rest_s: float) -> float:
    """How far the box warms during a forced rest, °C: ``Q_l m / C``."""
    return leaked * rest_s / heat_j_per_k
