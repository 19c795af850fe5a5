"""When a reading will have risen so far, over all that the rig may be."""

import numpy as np

from ..explain import Figure, Input
from ..guarding.family import Family, family, shares_of
from ..process.networks import ThermalNetwork
from ..units import Kind
from .facts import Citing

LONGEST_S = 48 * 3600.0
HALVINGS = 60


def shown_after(network: ThermalNetwork, rise_c: float) -> float | None:
    """When a reading has risen so far above the room at full output from cold, s, dead time and the sensor’s own lag in it; ``None``
    where it never does."""
    found = shares_of(network)
    if rise_c >= found.shares.sum():
        return None
    low, high = 0.0, 1.0
    while found.shown(np.array([high]), network.sensor_lag_s)[0] < rise_c:
        high *= 2.0
    for _ in range(HALVINGS):
        middle = 0.5 * (low + high)
        low, high = (
            (middle, high) if found.shown(np.array([middle]), network.sensor_lag_s)[0] < rise_c else (low, middle)
        )
    return network.dead_time_s + high


def time_to(rigs: Family, rise_c: float, name: str, inputs: tuple[Input, ...]) -> tuple[Figure, float, float | None]:
    """A time with its least and most, over all that the rig may be: quick or slow, with a dead time of either."""
    found = [shown_after(network, rise_c) for network in rigs.all]
    first = min((t for t in found if t is not None), default=LONGEST_S)
    early = max(first - max(n.dead_time_s for n in rigs.all) + min(n.dead_time_s for n in rigs.all), 0.0)
    late = (
        None
        if None in found
        else max(t for t in found if t is not None)
        + max(n.dead_time_s for n in rigs.all)
        - min(n.dead_time_s for n in rigs.all)
    )
    value = shown_after(rigs.likely, rise_c) or LONGEST_S
    figure = Figure(
        name,
        value,
        Kind.TIME,
        formula="L + step response⁻¹(ΔT)",
        inputs=inputs,
        low=early,
        high=late,
        symbol="t",
        reason=rigs.says,
    )
    return figure, early, late


def model_of(cite: Citing) -> Family | None:
    """The rig as it may be; only for one that heats without a fire: nothing is predicted of others here."""
    facts = cite.facts
    if not facts.purpose.heats or facts.purpose.fire is not None:
        return None
    for name in ("working_c", "heater_power_w", "heater_voltage_v", "supply_voltage_v"):
        cite.purpose(name)
    return family(facts.rig)
