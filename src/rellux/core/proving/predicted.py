"""When a reading will have risen so far, over all that the rig may be."""

import numpy as np

from ..control.settings import FULL_OUTPUT
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


def time_to(
    rigs: Family, rise_c: float, output: float, name: str, inputs: tuple[Input, ...]
) -> tuple[Figure, float, float | None]:
    """A time with its least and most, over all that the rig may be: quick or slow, with a dead time of either, at an ``output`` in %."""
    at_full = rise_c * FULL_OUTPUT / output
    found = [shown_after(network, at_full) for network in rigs.all]
    first = min((t for t in found if t is not None), default=LONGEST_S)
    early = max(first - max(n.dead_time_s for n in rigs.all) + min(n.dead_time_s for n in rigs.all), 0.0)
    late = (
        None
        if None in found
        else max(t for t in found if t is not None)
        + max(n.dead_time_s for n in rigs.all)
        - min(n.dead_time_s for n in rigs.all)
    )
    value = shown_after(rigs.likely, at_full) or LONGEST_S
    figure = Figure(
        name,
        value,
        Kind.TIME,
        formula="L + step response⁻¹(ΔT · 100 / y)",
        inputs=(*inputs, Input("output, at most", output, Kind.PERCENT, "y", "sheet")),
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


def plain_start(cite: Citing) -> str:
    """What must be off for a time to mean anything, as part of a sentence; nothing where nothing slows the start."""
    slowed = [
        words for name, words in (("ramp_c_per_min", "ramp"), ("soft_start_s", "soft start")) if cite.number(name) > 0
    ]
    return f", {' and '.join(slowed)} set to 0 for this" if slowed else ""
