"""How long a rig stays too hot to touch after it was switched off."""

from collections.abc import Callable

import numpy as np
from scipy.optimize import brentq

from ..process.networks import Array, ThermalNetwork
from .family import Family, shares_of

TOUCHED_C = 43.0
"""Bare metal that may be held for hours, °C (ISO 13732-1, from memory): cooler, nobody is burnt."""
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


def _cooling_s(network: ThermalNetwork, ambient_c: float, from_c: float, to_c: float) -> float:
    rest = network.equilibrium_rise()
    x = rest * (from_c - ambient_c) / rest[network.sensor_node]
    found = _falls(network, x)
    slowest = ENOUGH / float(shares_of(network).rates.min())
    if found(0.0) <= to_c - ambient_c:
        return 0.0
    return float(brentq(lambda t: found(t) - (to_c - ambient_c), 0.0, slowest))


def _falls(network: ThermalNetwork, start: Array) -> Callable[[float], float]:
    """The hottest node's rise above the room over time, s, left alone out of ``start``."""
    root = np.sqrt(np.array(network.capacities))
    rates, modes = np.linalg.eigh(network.conductance_matrix() / np.outer(root, root))
    weights = modes.T @ (root * start)
    return lambda t: float(((modes @ (weights * np.exp(-rates * t))) / root).max())
