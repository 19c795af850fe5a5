"""The circuits of a thermocouple's connection, right and wrong: the voltage at the terminals from the EMF of the load, the head and the
terminals (Kirchhoff's sum of NIST Monograph 175's functions), and what is shown for a whole range of one circumstance."""

from collections.abc import Callable
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from . import resistance
from .reading import Shown, from_emf, from_resistance
from .sensors import NOMINAL_OHM, is_thermocouple
from .thermocouples import emf, temperature_range

Array = NDArray[np.float64]
Voltage = Callable[[Array, Array, Array], Array]
"""mV at the terminals, of E(load), E(terminals) and E(head), which broadcast."""

CIRCUITS: dict[str, Voltage] = {
    "right": lambda load, cold, head: load - cold,
    "reversed": lambda load, cold, head: cold - load,
    "reversed_head": lambda load, cold, head: (head - load) + (head - cold),
    "copper": lambda load, cold, head: load - head,
    "crossed": lambda load, cold, head: (load - head) - (head - cold),
    "no_compensation": lambda load, cold, head: load - cold,
    "warm_terminals": lambda load, cold, head: load - cold,
}


def shown_by(letter: str, key: str, load: Array, cold: Array, head: Array, taken: Array) -> Shown:
    """What a type shows through a circuit, from E(load), E(terminals), E(head) and E of what the instrument takes its terminals for, mV;
    shapes that broadcast."""
    return from_emf(letter, CIRCUITS[key](load, cold, head) + (0.0 if key == "no_compensation" else taken))


@lru_cache(64)
def emf_of(letter: str, celsius: float) -> Array:
    """Of one temperature in °C, taken for the end of the type's range where it is outside, mV."""
    return emf(letter, np.clip(celsius, *temperature_range(letter)))


def swept(sensor: str, key: str, name: str, values: Array, true_c: Array, terminals_c: float, head_c: float) -> Array:
    """°C shown for true temperatures of shape (n,) with the circumstance ``name`` at ``values``, which broadcast with them, and the others
    as said: not a number where the instrument would be out of its range."""
    if not is_thermocouple(sensor):
        own = NOMINAL_OHM[sensor]
        return from_resistance(resistance.resistance(true_c, own) + values, own).celsius
    ends = temperature_range(sensor)
    if key not in CIRCUITS:
        at = values if name in ("head_c", "terminals_c") else head_c if key == "shorted_head" else terminals_c
        return np.broadcast_to(np.maximum(at, ends[0]), np.broadcast_shapes(np.shape(at), true_c.shape))
    cold, head = emf_of(sensor, terminals_c), emf_of(sensor, head_c)
    taken = cold
    if name == "head_c":
        head = emf(sensor, np.clip(values, *ends))
    elif name == "terminals_c":
        cold = taken = emf(sensor, np.clip(values, *ends))
    else:
        taken = emf(sensor, np.clip(terminals_c - values, *ends))
    return shown_by(sensor, key, emf(sensor, true_c), cold, head, taken).celsius
