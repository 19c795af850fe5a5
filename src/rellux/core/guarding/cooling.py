"""How long a rig stays too hot to touch after it was switched off."""

from collections.abc import Callable

import numpy as np
import scipy

from ..process.modes import shares_of
from ..process.networks import Array, ThermalNetwork
from .family import Family

TOUCHED_C = 43.0
"""Bare metal that may be held for hours, °C (ISO 13732-1, from memory): cooler, nobody is burnt."""
SETTLES = 5.0
"""A sensor has followed after so many of its lags."""
LOOKS, HEATINGS = 300, 40
"""Moments that are looked at, and how long it was heated before."""
ENOUGH = 60.0
"""Longest looked at, in slowest time constants."""


def cooling_s(rigs: Family, ambient_c: float, from_c: float, to_c: float = TOUCHED_C) -> float | None:
    """Time in s from rest at ``from_c`` with nothing heating until chamber, element and lining are all at ``to_c``, of the slowest the rig
    may be; 0 where it is there already, ``None`` where the room is too warm for it ever to be.

    With nothing heating every node is a sum of falling exponentials: exact, as the networks are.
    """
    if from_c <= to_c:
        return 0.0
    if ambient_c >= to_c:
        return None
    return max(_cooling_s(network, ambient_c, from_c, to_c) for network in rigs.all)


def hottest_when(rigs: Family, ambient_c: float, from_c: float, reading_c: float) -> float:
    """How hot the hottest part of the slowest to follow still is when the chamber comes down to ``reading_c`` from rest at ``from_c``, °C.
    A chamber that never comes so far down is left alone as long as is looked."""
    return max(_hottest_when(network, ambient_c, from_c, reading_c) for network in rigs.all)


def _hottest_when(network: ThermalNetwork, ambient_c: float, from_c: float, reading_c: float) -> float:
    fall, longest = _fall(network, ambient_c, from_c), _longest_s(network)

    def above(t: float) -> float:
        return float(fall(t)[network.sensor_node]) - (reading_c - ambient_c)

    when = (
        0.0
        if above(0.0) <= 0.0
        else longest
        if above(longest) >= 0.0
        else float(scipy.optimize.brentq(above, 0.0, longest))
    )
    return ambient_c + float(fall(when).max())


def hidden_s(rigs: Family, ambient_c: float, highest_c: float, bounds: tuple[tuple[float, float], ...]) -> float:
    """For how long after its output was on something inside may be hotter than the reading lets believe, s, of the worst the rig may be:
    heated from cold for any time until the chamber is at ``highest_c``. ``bounds``: below which reading nothing may be hotter than what,
    °C, rising. At most as long as is looked."""
    return max(_hidden_s(network, ambient_c, highest_c, bounds) for network in rigs.all)


def _hidden_s(
    network: ThermalNetwork, ambient_c: float, highest_c: float, bounds: tuple[tuple[float, float], ...]
) -> float:
    full, longest = network.equilibrium_rise(), _longest_s(network)
    heats, latest = _left_alone(network, full), 0.0
    times = np.concatenate(([0.0], np.geomspace(1.0, longest, LOOKS)))
    for heated_s in np.geomspace(1.0, longest, HEATINGS):
        start = full - heats(float(heated_s))  # from cold, exactly: the way to rest is what is left of it
        left = _left_alone(network, start)
        rises = left(times)
        reading, hottest = ambient_c + rises[:, network.sensor_node], ambient_c + rises.max(axis=1)
        most = np.full(len(times), np.inf)
        for below, allowed in reversed(bounds):
            most[reading < below] = allowed
        late = np.flatnonzero(hottest > most)
        if len(late):
            latest = max(latest, float(times[min(late[-1] + 1, LOOKS)]))
        if ambient_c + start[network.sensor_node] >= highest_c:
            break
    return latest + network.dead_time_s + SETTLES * network.sensor_lag_s if latest else 0.0


def _cooling_s(network: ThermalNetwork, ambient_c: float, from_c: float, to_c: float) -> float:
    fall = _fall(network, ambient_c, from_c)

    def above(t: float) -> float:
        return float(fall(t).max()) - (to_c - ambient_c)

    return 0.0 if above(0.0) <= 0.0 else float(scipy.optimize.brentq(above, 0.0, _longest_s(network)))


def _longest_s(network: ThermalNetwork) -> float:
    return ENOUGH / float(shares_of(network).rates.min())


def _fall(network: ThermalNetwork, ambient_c: float, from_c: float) -> Callable[[float | Array], Array]:
    """Every node's rise above the room over time, s, left alone out of rest with the chamber at ``from_c``."""
    rest = network.equilibrium_rise()
    return _left_alone(network, rest * (from_c - ambient_c) / rest[network.sensor_node])


def _left_alone(network: ThermalNetwork, start: Array) -> Callable[[float | Array], Array]:
    """Every node's rise above the room, (…, nodes), at times, s, with nothing heating, out of ``start``."""
    root = np.sqrt(np.array(network.capacities))
    rates, modes = np.linalg.eigh(network.conductance_matrix() / np.outer(root, root))
    weights = modes.T @ (root * start)
    return lambda t: (np.exp(-np.multiply.outer(t, rates)) * weights) @ modes.T / root
