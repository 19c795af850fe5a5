"""What a furnace is made of, as numbers that are varied, and what is known of them before anything is recorded."""

from dataclasses import dataclass
from enum import IntEnum

import numpy as np
from numpy.typing import NDArray

from ...plant.rig_models import CHARACTERS
from ...process.networks import ThermalNetwork
from ...purpose.heater import heat_w
from ...purpose.purpose import Purpose, RigKind
from ...units import ABSOLUTE_ZERO_C

Array = NDArray[np.float64]


class Node(IntEnum):
    """The nodes of the network."""

    ELEMENT, CHAMBER, INNER, OUTER, LOAD = range(5)


class Number(IntEnum):
    """What is varied, each as its logarithm. Losses at the working temperature in W/K, past the lining and by radiation; conductance into
    the lining, W/K, through and out of it as multiples of that; heat capacity of the chamber, J/K, of lining, element and load as multiples
    of it, and of the lining's outer half as one of its inner; the element's lag, s, that of the load as a part of the chamber's; lag of the
    sensor and dead time, s."""

    DIRECT, RADIATED, INTO, THROUGH, OUT, HEAT, LINED = range(7)
    SPLIT, ELEMENT_S, ELEMENT_HOLDS, LOADED, LOAD_LATE, SENSOR_S, DEAD_S = range(7, 14)


BEFOREHAND = (1.5, 1.5, 1.0, 0.7, 0.7, 1.5, 1.0, 0.7, 0.7, 0.7, 0.8, 0.7, 0.8, 1.0)
"""How sure each is before anything is recorded: the standard deviation of its logarithm. 0.7: within half to twice, two times in three (our
choice: what the reading tells well is left nearly open)."""
RADIATES, INTO_LINING, HOLDS, IS_LOADED, LOAD_LAG = 0.25, 3.0, 0.03, 0.1, 0.15
"""Where they are sought first: radiation as a share of all that is lost, and what one kind of furnace is like another in (typical, from
memory)."""


@dataclass(frozen=True)
class Shape:
    """Logarithms of a furnace's numbers as its kind has them, for its power and its working temperature."""

    expected: Array
    heater_w: float
    rise_c: float
    ambient_c: float

    @property
    def sure(self) -> Array:
        return np.array(BEFOREHAND)

    def network(self, p: Array, mains: float = 1.0) -> ThermalNetwork:
        """The network of these numbers (14), with so many times its power."""
        direct, radiated, into, through, out, heat, lined, split, element_s, holds, loaded, late, sensor_s, dead_s = (
            np.exp(p)
        )
        ambient_k = self.ambient_c - ABSOLUTE_ZERO_C
        fourth = ((self.rise_c + ambient_k) ** 4 - ambient_k**4) / self.rise_c
        lag = heat / (direct + radiated + into / (1.0 + 1.0 / through + 1.0 / out))
        return ThermalNetwork(
            capacities=(
                holds * heat,
                heat,
                lined * heat / (1.0 + split),
                lined * heat * split / (1.0 + split),
                loaded * heat,
            ),
            links=(
                (Node.ELEMENT, Node.CHAMBER, holds * heat / element_s),
                (Node.CHAMBER, Node.INNER, into),
                (Node.INNER, Node.OUTER, into * through),
                (Node.CHAMBER, Node.LOAD, loaded * heat / (late * lag)),
            ),
            to_ambient=(0.0, direct, 0.0, into * out, 0.0),
            heater_power_w=self.heater_w * mains,
            heater_node=Node.ELEMENT,
            sensor_node=Node.CHAMBER,
            sensor_lag_s=sensor_s,
            dead_time_s=dead_s,
            radiation=(0.0, radiated / fourth, 0.0, 0.0, 0.0),
        )


def shape_of(kind: RigKind, purpose: Purpose) -> Shape:
    """What a rig of this kind and purpose is like until it is recorded."""
    character, heater_w = CHARACTERS[kind], heat_w(purpose)
    rise = purpose.working_c - purpose.ambient_c
    total = heater_w / (character.reserve * rise)
    lined = total * character.lining_share
    heat = total * character.chamber_s
    expected = np.empty(len(BEFOREHAND))
    expected[Number.DIRECT] = total * (1.0 - character.lining_share - RADIATES)
    expected[Number.RADIATED] = total * RADIATES
    expected[[Number.INTO, Number.THROUGH, Number.OUT]] = lined * INTO_LINING, 1.0, 1.0
    expected[[Number.HEAT, Number.LINED, Number.SPLIT]] = heat, lined * character.lining_s / heat, 1.0
    expected[Number.ELEMENT_S], expected[Number.ELEMENT_HOLDS] = character.element_s, HOLDS
    expected[Number.LOADED], expected[Number.LOAD_LATE] = IS_LOADED, LOAD_LAG
    expected[Number.SENSOR_S], expected[Number.DEAD_S] = character.sensor_s, character.dead_s
    return Shape(np.log(expected), heater_w, rise, purpose.ambient_c)
