"""A thermal network by its modes: what its sensor's node does after full power began, exactly."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..control.settings import FULL_OUTPUT
from .models import Modes
from .networks import ThermalNetwork, decomposed

Array = NDArray[np.float64]

HALVINGS = 60
APART = 1e-6
"""A sensor as quick as a mode is taken to be so much quicker."""


@dataclass(frozen=True)
class Shares:
    """A network's step response at its sensor's node by modes: each goes ``1 − e^(−λt)`` of its share; λ in 1/s, shares in °C at full
    power. With C the capacities, ``C^−½ G C^−½ = Q Λ Qᵀ``: exact."""

    rates: Array
    shares: Array

    def rise(self, t: Array) -> Array:
        """The rise of the sensor's node above the room at times ``t`` (n), s, after full power began; °C."""
        return np.asarray((self.shares * -np.expm1(-np.outer(np.maximum(t, 0.0), self.rates))).sum(axis=1))

    def behind(self, lag_s: float, dead_time_s: float) -> Modes:
        """As a sensor with a lag shows it, in °C per %: one mode more, and the shares of the others changed."""
        if lag_s <= 0:
            return Modes(tuple(self.rates), tuple(self.shares / FULL_OUTPUT), dead_time_s)
        a = 1.0 / lag_s
        rates = np.where(np.abs(self.rates - a) < APART * a, self.rates * (1.0 + APART), self.rates)
        weights = np.append(self.shares * a / (a - rates), -np.sum(self.shares * rates / (a - rates))) / FULL_OUTPUT
        return Modes(tuple(np.append(rates, a)), tuple(weights), dead_time_s)

    def shown(self, t: Array, lag_s: float) -> Array:
        """The same as a sensor shows it that follows with ``lag_s``."""
        if lag_s <= 0:
            return self.rise(t)
        a, late = 1.0 / lag_s, np.maximum(t, 0.0)
        rates = np.where(np.abs(self.rates - a) < APART * a, self.rates * (1.0 + APART), self.rates)
        left = (a * np.exp(-np.outer(late, rates)) - rates * np.exp(-a * late)[:, None]) / (a - rates)
        return np.asarray((self.shares * (1.0 - left)).sum(axis=1))


@lru_cache(maxsize=256)
def shares_of(network: ThermalNetwork) -> Shares:
    """The modes of a network."""
    root, rates, modes = decomposed(network)
    shares = modes[network.sensor_node] * modes[network.heater_node] / rates
    return Shares(rates, shares * network.heater_power_w / (root[network.sensor_node] * root[network.heater_node]))


@lru_cache(maxsize=256)
def time_63(network: ThermalNetwork) -> float:
    """When the sensor's node has gone 63 % of its way at full power, s, from cold, dead time and sensor left out.

    >>> from rellux.core.process.models import FOPDT
    >>> from rellux.core.process.networks import from_fopdt
    >>> round(time_63(from_fopdt(FOPDT(2.0, 600.0, 0.0))), 3)
    600.0
    """
    found = shares_of(network)
    goal, low, high = (1.0 - np.exp(-1.0)) * found.shares.sum(), 0.0, 20.0 / found.rates.min()
    for _ in range(HALVINGS):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if found.rise(np.array([middle]))[0] < goal else (low, middle)
    return float(0.5 * (low + high))


def tangent(modes: Modes, times_s: Array) -> tuple[float, float]:
    """The steepest rate of a step response, °C/s per %, looked for at ``times_s`` (n) after its dead time, and where its tangent there cuts
    the time axis, s (Ziegler & Nichols 1942).

    >>> rate, late_s = tangent(Modes((0.01,), (2.0,), 5.0), np.linspace(0.0, 10.0, 11))
    >>> round(rate, 9), round(late_s, 9)
    (0.02, 5.0)
    """
    rates, weights = np.array(modes.rates), np.array(modes.weights)
    left = np.exp(-np.outer(times_s, rates))
    slopes, rises = left @ (weights * rates), (1.0 - left) @ weights
    at = int(np.argmax(slopes))
    return float(slopes[at]), float(modes.dead_time_s + times_s[at] - rises[at] / slopes[at])
