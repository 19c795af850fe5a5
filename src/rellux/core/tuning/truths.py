"""Rigs that would have given the same record and are no lag with dead time: what a candidate is judged on.

A fit says how fast a rig heats, how far it comes and how late it answers. What stands behind the three it does not say: element, chamber,
walls and load, a part of the loss by radiation, a sensor that follows late. Each truth here keeps the three of one of the possible
processes at the working temperature and has all the rest drawn, its load half as large or half as large again, and its mains between
−10 and +10 %.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..plant.rig_models import MOST_HEAT
from ..process.models import FOPDT, SOPDT
from ..process.networks import ThermalNetwork
from ..units import ABSOLUTE_ZERO_C
from .cascade import HeatedChamber

JUDGES = 19
"""The worst of so many, drawn alike, is not passed by the next one in 19 of 20 cases, whatever they are drawn from (order statistics:
n/(n + 1))."""
RADIATES, WALLS = (0.0, 0.35), (0.0, 0.6)
"""Of the loss at the working temperature; of the chamber's heat (our choice)."""
WALL_LINK, ELEMENT = (0.2, 2.5), (0.01, 0.05)
LOADS, LOAD_LAG = (0.05, 0.3), (0.05, 0.3)
"""Of the heat it holds, as it was recorded; its lag, of the chamber's (our choice)."""
LOAD_IS, MAINS = (0.5, 1.5), (0.9, 1.1)
"""Load and voltage as shares of those of the record."""
PURE_DELAY, FIRST_LAG = (0.35, 0.9), (0.1, 0.9)
"""How much of the dead time is one, and how much of the rest is the element's lag; what is left is the sensor's (our choice)."""
TOLD = (0.8, 1.25)
"""What was read of a heater's sensor, as a share of what it is (our choice: a few degrees of a sensor at a hot part)."""
LEAST_LAG = 1e-3
MOST_DRAWN = 10


@dataclass(frozen=True)
class Truths:
    """Networks that hold the set-point with what power they have, and the share of all drawn ones that cannot: nothing that is set makes
    up for power that is not there."""

    networks: tuple[ThermalNetwork, ...]
    short: float


def judged_on(many: int) -> str:
    """What the worst of so many rigs tells of the next one."""
    if not many:
        return "Of the process as it was found alone: no rig that fits the record has the power to get there."
    return (
        f"The upper value: the worst of {many} rigs that fit the record, with other loads and mains; the next one stays below in {many} of "
        f"{many + 1} cases."
    )


def truths(
    possible: Sequence[FOPDT | SOPDT],
    rise_c: float,
    ambient_c: float,
    reaches: float,
    many: int = JUDGES,
    at_heater: HeatedChamber | None = None,
) -> Truths:
    """``many`` networks, each after one of the possible processes, that hold ``rise_c`` above ``ambient_c`` with up to the share
    ``reaches`` of their full power. Fewer where hardly any can. ``at_heater``: of a rig whose heater has a sensor, which says how hot it is
    and how soon it follows."""
    rng, heaters = (np.random.default_rng(seed) for seed in (JUDGES, JUDGES + 1))
    order = rng.permutation(len(possible))
    found, drawn = list[ThermalNetwork](), 0
    while len(found) < many and drawn < MOST_DRAWN * many:
        process = possible[int(order[drawn % len(possible)])]
        network = _truth(process, rise_c, ambient_c, rng)
        if at_heater is not None:
            network = _with_heater(network, process, at_heater, heaters)
        drawn += 1
        if rise_c <= reaches * network.heater_power_w:  # a loss of 1 W/K there
            found.append(network)
    return Truths(tuple(found), 1.0 - len(found) / drawn)


def _truth(process: FOPDT | SOPDT, rise_c: float, ambient_c: float, rng: np.random.Generator) -> ThermalNetwork:
    lag, late = process.lag_s, process.dead_time_s
    delay = float(rng.uniform(*PURE_DELAY)) * late
    element_lag = max(float(rng.uniform(*FIRST_LAG)) * (late - delay), LEAST_LAG * lag)
    sensor_lag = max(late - delay - element_lag, 0.0)
    if isinstance(process, SOPDT):
        sensor_lag += process.second_lag_s
    radiating, walls, link = (float(rng.uniform(*ends)) for ends in (RADIATES, WALLS, WALL_LINK))
    element, load, load_lag = (float(rng.uniform(*ends)) for ends in (ELEMENT, LOADS, LOAD_LAG))
    more, mains = float(rng.uniform(*LOAD_IS)), float(rng.uniform(*MAINS))
    ambient_k = ambient_c - ABSOLUTE_ZERO_C
    # a loss of 1 W/K at the working temperature, so that capacities are lags
    capacities = (element * lag, (1.0 - element - load) * lag, walls * lag, load * more * lag)
    return ThermalNetwork(
        capacities=tuple(max(c, LEAST_LAG * lag) for c in capacities),
        links=((0, 1, element * lag / element_lag), (1, 2, link), (1, 3, load / load_lag)),
        to_ambient=(0.0, 1.0 - radiating, 0.0, 0.0),
        heater_power_w=100.0 * process.gain * mains**2,
        heater_node=0,
        sensor_node=1,
        sensor_lag_s=sensor_lag,
        dead_time_s=delay,
        radiation=(0.0, radiating * rise_c / ((rise_c + ambient_k) ** 4 - ambient_k**4), 0.0, 0.0),
    )


def _with_heater(
    network: ThermalNetwork, process: FOPDT | SOPDT, told: HeatedChamber, rng: np.random.Generator
) -> ThermalNetwork:
    """The same rig with the heater that was told, as far as that was read rightly. What the heater makes the chamber late by is not there
    a second time."""
    hotter, lag = (float(rng.uniform(*TOLD)) * v for v in (told.hotter_c, told.heater_lag_s))
    link = told.rise_c / hotter
    chamber = sum(network.capacities)
    heater = min(link * lag, MOST_HEAT * process.lag_s)
    own = replace(told, process=one_lag(process), hotter_c=hotter, heater_lag_s=heater / link)
    late = own.process.dead_time_s
    left = own.later_s / late if late > 0.0 else 0.0
    was, *others = network.capacities
    return replace(
        network,
        capacities=(heater, max(others[0] + was - heater, LEAST_LAG * chamber), *others[1:]),
        links=((0, 1, link), *network.links[1:]),
        sensor_lag_s=network.sensor_lag_s * left,
        dead_time_s=network.dead_time_s * left,
        late_reading=True,
    )


def one_lag(process: FOPDT | SOPDT) -> FOPDT:
    """A second lag as dead time."""
    second = process.second_lag_s if isinstance(process, SOPDT) else 0.0
    return FOPDT(process.gain, process.lag_s, process.dead_time_s + second)
