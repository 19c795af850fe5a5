"""The network of a kind that answers as a furnace was learnt to: as steeply, and as late with its element and sensor counted in."""

from dataclasses import replace

import numpy as np

from ..process.modes import HALVINGS, shares_of, tangent, time_63
from ..process.networks import ThermalNetwork

TIMES, SOON = 600, 1e-4
"""At so many moments its tangent is looked for, from this share of its time to 63 % on."""
QUICKEST = 1e-3
"""Element and sensor are at least this share as slow as those of its kind."""


def answering(typical: ThermalNetwork, full_rise_c: float, lag_s: float, dead_time_s: float) -> ThermalNetwork:
    """``typical`` with another rise at full power, °C, whose steepest rate is that over ``lag_s``, and whose tangent there cuts the time
    axis at ``dead_time_s``. Where its own element and sensor are later than that, they are quicker; else the rest is dead time.

    >>> from rellux.core.process.networks import ThermalNetwork
    >>> kind = ThermalNetwork((50.0, 900.0), ((0, 1, 5.0),), (0.0, 1.0), 600.0, sensor_node=1, sensor_lag_s=10.0)
    >>> found = answering(kind, 300.0, 1200.0, 60.0)
    >>> [round(v) for v in answer(found)], found.dead_time_s < 60.0
    ([1200, 60], True)
    """
    network = typical
    if _share(typical) > dead_time_s / lag_s:
        low, high = QUICKEST, 1.0
        for _ in range(HALVINGS):
            middle = 0.5 * (low + high)
            low, high = (low, middle) if _share(_quicker(typical, middle)) > dead_time_s / lag_s else (middle, high)
        network = _quicker(typical, low)
    lag, late = answer(replace(network, dead_time_s=0.0))
    times = lag_s / lag
    return scaled(network, full_rise_c, times, max(dead_time_s - late * times, 0.0))


def answer(network: ThermalNetwork) -> tuple[float, float]:
    """Its rise over its steepest rate as its sensor shows them, s, and where the tangent there cuts the time axis, s."""
    modes, own = shares_of(network).behind(network.sensor_lag_s, network.dead_time_s), time_63(network)
    rate, late = tangent(modes, np.geomspace(SOON * own, own, TIMES))
    return float(sum(modes.weights)) / rate, late


def scaled(network: ThermalNetwork, full_rise_c: float, times: float, dead_time_s: float) -> ThermalNetwork:
    """The same shape with another full-power rise at the sensor, °C, and all its time constants ``times`` as long."""
    share = float(network.equilibrium_rise()[network.sensor_node]) / full_rise_c
    return replace(
        network,
        capacities=tuple(c * share * times for c in network.capacities),
        links=tuple((i, j, g * share) for i, j, g in network.links),
        to_ambient=tuple(g * share for g in network.to_ambient),
        sensor_lag_s=network.sensor_lag_s * times,
        dead_time_s=dead_time_s,
    )


def _share(network: ThermalNetwork) -> float:
    """How late its element and sensor make it, over its lag."""
    lag, late = answer(replace(network, dead_time_s=0.0))
    return late / lag


def _quicker(network: ThermalNetwork, share: float) -> ThermalNetwork:
    """With an element that holds so much of its heat, and a sensor that is as much quicker."""
    capacities = list(network.capacities)
    capacities[network.heater_node] *= share
    return replace(network, capacities=tuple(capacities), sensor_lag_s=network.sensor_lag_s * share)
