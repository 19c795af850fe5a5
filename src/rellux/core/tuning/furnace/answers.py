"""What a furnace of known numbers does: its answer where it works, what it holds, how it climbs at full power."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...process.models import FOPDT
from ...process.modes import shares_of, tangent
from ...process.networks import ThermalNetwork
from ...units import J_PER_KWH
from .record import STEPS, shown
from .shape import Node

Array = NDArray[np.float64]
Course = tuple[Array, Array]
"""Time in s and reading in °C, (n) each; the reading never falls."""

LASTS, LOOKS = 20.0, 800
"""For how many of the quickest lag and the sensor's its steepest answer is looked for, and how often."""
CLIMBS = 30
"""Temperatures at which the climb is told."""


@dataclass(frozen=True)
class Climb:
    """How fast it climbs at full power from cold where it shows ``celsius``: the least, the likeliest, the most, °C/min."""

    celsius: float
    low: float
    likely: float
    high: float


def answer_at(network: ThermalNetwork, rise_c: float, ambient_c: float) -> FOPDT:
    """As one lag with dead time: the gain of the whole way up to ``rise_c``, rate and dead time of its answer there, by the tangent."""
    gain = rise_c / (100.0 * network.holding_w(rise_c, ambient_c) / network.heater_power_w)
    near = shares_of(network.linearised(rise_c, ambient_c))
    quick_s = network.sensor_lag_s + 1.0 / float(near.rates.max())
    times = np.linspace(0.0, LASTS * quick_s, LOOKS)
    rate, late_s = tangent(near.behind(network.sensor_lag_s, network.dead_time_s), times)
    return FOPDT(gain, gain / rate, late_s)


def gain_at(network: ThermalNetwork, rise_c: float, ambient_c: float) -> float:
    """What one per cent more adds for ever where it shows ``rise_c`` above ambient, °C/%: the less, the more of its loss is radiation."""
    there = network.linearised(rise_c, ambient_c)
    return float(there.equilibrium_rise(1.0)[network.sensor_node])


def stored_kwh(network: ThermalNetwork, rise_c: float) -> float:
    """The heat above ambient in chamber, lining and load once the chamber was held ``rise_c`` above it for long."""
    held, g = (Node.INNER, Node.OUTER, Node.LOAD), network.conductance_matrix()
    rises = np.linalg.solve(g[np.ix_(held, held)], -g[held, Node.CHAMBER] * rise_c)
    heats = network.capacities[Node.CHAMBER] * rise_c + float(np.dot([network.capacities[i] for i in held], rises))
    return heats / J_PER_KWH


def at_full(network: ThermalNetwork, ambient_c: float, lasts_s: float) -> Course:
    """A heat-up at full power from cold."""
    power, step_s = np.full(STEPS, network.heater_power_w), lasts_s / STEPS
    rises = shown(network, power, step_s, np.zeros(len(network.capacities)), ambient_c)
    return np.linspace(0.0, lasts_s, STEPS + 1), np.asarray(ambient_c + np.maximum.accumulate(rises))


def when_at(course: Course, celsius: float) -> float:
    """When it comes there, s; the later beyond its end the further it is from there then."""
    t, y = course
    return float(np.interp(celsius, y, t)) if y[-1] >= celsius else float(t[-1] + celsius - y[-1])


def climbs(courses: Sequence[Course], ambient_c: float, up_to_c: float) -> tuple[Climb, ...]:
    """What all of them do between ambient and ``up_to_c``; the first is the likeliest."""
    by = (up_to_c - ambient_c) / CLIMBS / 2.0

    def rate(course: Course, celsius: float) -> float:
        if course[1][-1] < celsius + by:
            return 0.0
        return 60.0 * 2.0 * by / (when_at(course, celsius + by) - when_at(course, celsius - by))

    found = []
    for celsius in np.linspace(ambient_c + 2.0 * by, up_to_c - by, CLIMBS):
        rates = [rate(c, float(celsius)) for c in courses]
        found.append(Climb(float(celsius), min(rates), rates[0], max(rates)))
    return tuple(found)
