"""Thermal plants as networks of heat capacities and conductances, and their exact discretisation.

State: temperature rise above ambient of every node. ``C dx/dt = −(G + diag(g_amb)) x + q`` with the heat flows q held
constant over a step, so a step is exact: ``x⁺ = e^(A h) x + ∫₀ʰ e^(A s) ds · q``. Radiation is evaluated at the start of
each step and added to q; keep the step below a twentieth of the fastest radiating node's time constant.
"""

from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
import scipy
from numpy.typing import NDArray

from ..errors import refuse
from .models import FOPDT, SOPDT

Array = NDArray[np.float64]


@dataclass(frozen=True)
class ThermalNetwork:
    """Nodes with capacities (J/K), conductances between them and to ambient (W/K), and one heater and one sensor.

    ``links`` holds ``(node, node, W/K)``; ``to_ambient`` W/K per node; ``radiation`` W/K⁴ per node (emissivity × area ×
    5.67e-8). The sensor follows its node with ``sensor_lag_s``; heat arrives ``dead_time_s`` after it is switched.
    ``cooler_w_per_k``: what a cooler beside the heater joins the sensor's node with, while it is on, to a coolant ``coolant_rise_c`` warmer
    than ambient.
    """

    capacities: tuple[float, ...]
    links: tuple[tuple[int, int, float], ...]
    to_ambient: tuple[float, ...]
    heater_power_w: float
    heater_node: int = 0
    sensor_node: int = 0
    sensor_lag_s: float = 0.0
    dead_time_s: float = 0.0
    radiation: tuple[float, ...] = ()
    cooler_w_per_k: float = 0.0
    coolant_rise_c: float = 0.0

    def conductance_matrix(self) -> Array:
        """(n, n) matrix G with row sums equal to the conductance to ambient, W/K."""
        matrix = np.diag(np.array(self.to_ambient, dtype=np.float64))
        for i, j, g in self.links:
            matrix[i, i] += g
            matrix[j, j] += g
            matrix[i, j] -= g
            matrix[j, i] -= g
        return matrix

    def equilibrium_rise(self, output: float = 100.0, cooled: bool = False) -> Array:
        """Steady rise of each node in °C at ``output`` percent, radiation left out; ``cooled``: its cooler on all the time."""
        heat, conductances = np.zeros(len(self.capacities)), self.conductance_matrix()
        heat[self.heater_node] = self.heater_power_w * output / 100.0
        if cooled:
            heat[self.sensor_node] += self.cooler_w_per_k * self.coolant_rise_c
            conductances[self.sensor_node, self.sensor_node] += self.cooler_w_per_k
        return np.asarray(np.linalg.solve(conductances, heat), dtype=np.float64)


@dataclass(frozen=True)
class Step:
    """One exact time step: ``x⁺ = transition x + response q``; both flattened row by row for the kernel, which only reads them."""

    transition: Array
    response: Array


@lru_cache(maxsize=128)
def discretise(network: ThermalNetwork, step_s: float) -> Step:
    """The exact step of length ``step_s`` seconds (matrix exponential of the augmented system)."""
    if not step_s > 0:
        raise refuse("step_s", "must be more than zero", "> 0 s")
    n = len(network.capacities)
    inverse_capacity = np.diag(1.0 / np.array(network.capacities, dtype=np.float64))
    augmented = np.zeros((2 * n, 2 * n))
    augmented[:n, :n] = -inverse_capacity @ network.conductance_matrix()
    augmented[:n, n:] = inverse_capacity
    exponential = scipy.linalg.expm(augmented * step_s)
    return Step(np.ascontiguousarray(exponential[:n, :n]).ravel(), np.ascontiguousarray(exponential[:n, n:]).ravel())


def from_model(process: FOPDT | SOPDT) -> ThermalNetwork:
    """The one-node network that behaves exactly as this process; a second lag is its sensor's."""
    if isinstance(process, SOPDT):
        one = from_fopdt(FOPDT(process.gain, process.lag_s, process.dead_time_s))
        return replace(one, sensor_lag_s=process.second_lag_s)
    return from_fopdt(process)


def from_fopdt(process: FOPDT) -> ThermalNetwork:
    """The one-node network that behaves exactly as this FOPDT process."""
    return ThermalNetwork(
        capacities=(process.lag_s,),
        links=(),
        to_ambient=(1.0,),
        heater_power_w=process.full_power_rise_c,
        dead_time_s=process.dead_time_s,
    )
