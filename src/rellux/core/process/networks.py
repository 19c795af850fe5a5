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
from ..units import ABSOLUTE_ZERO_C
from .models import FOPDT, SOPDT

Array = NDArray[np.float64]

LARGEST = 1e12
"""Nothing that is heated holds, passes or takes more, in J/K, W/K, W or s."""
STILL = 1e-12
"""A mode that goes less than this share of its way in a step keeps what it is given."""


@dataclass(frozen=True)
class ThermalNetwork:
    """Nodes with capacities (J/K), conductances between them and to ambient (W/K), and one heater and one sensor.

    ``links`` holds ``(node, node, W/K)``; ``to_ambient`` W/K per node; ``radiation`` W/K⁴ per node (emissivity × area ×
    5.67e-8). The sensor follows its node with ``sensor_lag_s``; heat arrives ``dead_time_s`` after it is switched.
    ``cooler_w_per_k``: what a cooler beside the heater joins the sensor's node with, while it is on, to a coolant ``coolant_rise_c`` warmer
    than ambient. ``late_reading``: the dead time lies between the sensor's node and its reading; a second sensor at the heater feels the
    heat at once.
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
    late_reading: bool = False

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

    def radiated_w(self, rise_c: float, ambient_c: float) -> float:
        """What its sensor's node loses by radiation at ``rise_c`` above ``ambient_c``, W."""
        if not self.radiation:
            return 0.0
        room_k = ambient_c - ABSOLUTE_ZERO_C
        return self.radiation[self.sensor_node] * ((rise_c + room_k) ** 4 - room_k**4)

    def holding_w(self, rise_c: float, ambient_c: float) -> float:
        """The heat that holds its sensor's node ``rise_c`` above ``ambient_c`` for ever, W; only that node may radiate."""
        g = self.conductance_matrix()
        unknown = g.copy()  # the heat takes the place of the temperature that is known
        unknown[:, self.sensor_node] = 0.0
        unknown[self.heater_node, self.sensor_node] = -1.0
        flows = -g[:, self.sensor_node] * rise_c
        flows[self.sensor_node] -= self.radiated_w(rise_c, ambient_c)
        return float(np.linalg.solve(unknown, flows)[self.sensor_node])

    def resting_rise(self, output: float, ambient_c: float) -> float:
        """Where its sensor's node settles at ``output`` percent, °C above ``ambient_c``, radiation counted."""
        settles = float(self.equilibrium_rise(output)[self.sensor_node])
        if not any(self.radiation) or settles <= 0.0:
            return settles
        heat = self.heater_power_w * output / 100.0
        return float(scipy.optimize.brentq(lambda rise: self.holding_w(rise, ambient_c) - heat, 0.0, settles))

    def linearised(self, rise_c: float, ambient_c: float) -> "ThermalNetwork":
        """As it answers to small changes where its sensor's node is ``rise_c`` above ``ambient_c``: radiation a conductance."""
        if not self.radiation:
            return self
        kelvin = ambient_c + rise_c - ABSOLUTE_ZERO_C
        lost = (g + 4.0 * r * kelvin**3 for g, r in zip(self.to_ambient, self.radiation, strict=True))
        return replace(self, to_ambient=tuple(lost), radiation=())


def check_network(network: ThermalNetwork, field: str) -> None:
    """Raise ``Refused`` for numbers that are no network: masses and conductances of every node, links between two of them, one loss."""
    n = len(network.capacities)
    numbers = (
        *network.capacities,
        *network.to_ambient,
        *network.radiation,
        *(g for *_, g in network.links),
        network.heater_power_w,
        network.sensor_lag_s,
        network.dead_time_s,
    )
    nodes = (network.heater_node, network.sensor_node, *(i for a, b, _ in network.links for i in (a, b)))
    fits = len(network.to_ambient) == n and len(network.radiation) in (0, n) and n > 0
    real = all(0.0 <= v < LARGEST for v in numbers) and min(network.capacities, default=0.0) > 1.0 / LARGEST
    if not (fits and real and all(0 <= i < n for i in nodes) and sum(network.to_ambient) > 0.0):
        raise refuse(field, "it is no network of masses and conductances", "every node with its own, none below zero")


@dataclass(frozen=True)
class Step:
    """One exact time step: ``x⁺ = transition x + response q``; both flattened row by row for the kernel, which only reads them."""

    transition: Array
    response: Array


def decomposed(network: ThermalNetwork) -> tuple[Array, Array, Array]:
    """``C^−½ G C^−½ = Q Λ Qᵀ``: roots of the capacities (n), rates Λ in 1/s (n) and modes Q (n, n)."""
    root = np.sqrt(np.array(network.capacities, dtype=np.float64))
    rates, modes = np.linalg.eigh(network.conductance_matrix() / np.outer(root, root))
    return root, rates, modes


@lru_cache(maxsize=128)
def discretise(network: ThermalNetwork, step_s: float) -> Step:
    """The exact step of length ``step_s`` seconds, by modes: ``C^−½ G C^−½ = Q Λ Qᵀ``, for conductances are the same both ways.
    Raises ``Refused`` for a step that is none.
    """
    if not step_s > 0:
        raise refuse("step_s", "must be more than zero", "> 0 s")
    root, rates, modes = decomposed(network)
    gone = -np.expm1(-rates * step_s)
    answers = np.divide(gone, rates, out=np.full(len(rates), step_s), where=np.abs(rates) * step_s > STILL)
    transition = (modes / root[:, None]) @ np.diag(1.0 - gone) @ (modes.T * root)
    response = (modes / root[:, None]) @ np.diag(answers) @ (modes.T / root)
    return Step(np.ascontiguousarray(transition).ravel(), np.ascontiguousarray(response).ravel())


def behind_heater(network: ThermalNetwork, hot_c: float) -> ThermalNetwork:
    """What a heater that is brought to ``hot_c`` above ambient, whatever it takes, does to the rest. Its power is what comes through the
    link then, to the node beside it. Raises ``Refused`` for a heater that is what the sensor feels, or has more than one beside it.

    >>> oven = ThermalNetwork((50.0, 900.0), ((0, 1, 5.0),), (0.0, 1.0), 600.0, sensor_node=1)
    >>> round(float(behind_heater(oven, 120.0).equilibrium_rise()[0]))
    100
    """
    heater = network.heater_node
    joined = {j if i == heater else i: g for i, j, g in network.links if heater in (i, j)}
    if len(joined) != 1 or heater == network.sensor_node:
        raise refuse("network", "its heater is not joined with one node beside it", "a heater with what it heats")
    ((beside, link),) = joined.items()
    places = {i: k for k, i in enumerate(i for i in range(len(network.capacities)) if i != heater)}
    to_ambient = [g + (link if i == beside else 0.0) for i, g in enumerate(network.to_ambient)]
    return replace(
        network,
        capacities=tuple(network.capacities[i] for i in places),
        links=tuple((places[i], places[j], g) for i, j, g in network.links if heater not in (i, j)),
        to_ambient=tuple(to_ambient[i] for i in places),
        radiation=tuple(network.radiation[i] for i in places) if network.radiation else (),
        heater_power_w=link * hot_c,
        heater_node=places[beside],
        sensor_node=places[network.sensor_node],
    )


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
