"""When a reading will have risen so far, over all that the rig may be."""

from dataclasses import dataclass, replace

import numpy as np

from ..control.settings import FULL_OUTPUT
from ..cooling.machine import pumped_w
from ..explain import Figure, Input
from ..guarding.cooled import twin_rig
from ..guarding.family import MASSES_UNKNOWN, Family, family, glowing
from ..messages import spoken_time
from ..process.modes import shares_of
from ..process.networks import ThermalNetwork
from ..purpose.purpose import Purpose
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


@dataclass(frozen=True)
class FromRest:
    """How a rig goes from its rest to its work. ``rigs``: all that it may be, as they heat; of one that cools those of its twin, mirrored
    at the room; ``paced``: all that bound its times. ``rests_c``: where it begins, with its output off; ``sign``: 1 up, -1 down."""

    rigs: Family
    paced: tuple[ThermalNetwork, ...]
    rests_c: float
    sign: float

    def share(self, of_c: float, share: float) -> float:
        """The temperature that lies a share of the way from its rest to another, in whole degrees: it is dialled."""
        return float(round(self.rests_c + share * (of_c - self.rests_c)))

    def time_to(
        self, change_c: float, output: float, name: str, inputs: tuple[Input, ...]
    ) -> tuple[Figure, float, float | None]:
        """When it has gone so far from its rest, up or down, at an ``output`` in %: a time with its least and most over all that the rig
        may be: quick or slow, with a dead time of either."""
        at_full = abs(change_c) * FULL_OUTPUT / output
        found = [shown_after(network, at_full) for network in self.paced]
        dead = [n.dead_time_s for n in self.paced]
        first = min((t for t in found if t is not None), default=LONGEST_S)
        early = max(first - max(dead) + min(dead), 0.0)
        late = None if None in found else max(t for t in found if t is not None) + max(dead) - min(dead)
        figure = Figure(
            name,
            shown_after(self.rigs.likely, at_full) or LONGEST_S,
            Kind.TIME,
            formula="L + step response⁻¹(ΔT · 100 / y)",
            inputs=(*inputs, Input("output, at most", output, Kind.PERCENT, "y", "sheet")),
            low=early,
            high=late,
            symbol="t",
            reason=self.rigs.says,
        )
        return figure, early, late


def course_of(cite: Citing) -> FromRest:
    """Of the rig as it may be: out of the room, a fire out of its glow. While a cooler is warm it pumps more than at work: at the quick
    edge as much as in the room."""
    facts, purpose = cite.facts, cite.facts.purpose
    for name in ("working_c", "heater_power_w", "heater_voltage_v", "supply_voltage_v"):
        cite.purpose(name)
    if purpose.fire is not None:
        cite.cites["purpose fire"] = str(purpose.fire)
    if not purpose.cools:
        heated = family(facts.rig)
        rests_c = facts.room_c + facts.rig.rests_c - purpose.ambient_c
        return FromRest(heated, (*heated.all, *_coming_up(heated, purpose)), rests_c, 1.0)
    rigs = family(twin_rig(facts.rig))
    warm, cold = (pumped_w(1.0, 1.0, c, purpose.ambient_c) for c in (purpose.ambient_c, purpose.working_c))
    fast = replace(rigs.fast, heater_power_w=rigs.fast.heater_power_w * warm / cold)
    rigs = replace(rigs, fast=fast)
    return FromRest(rigs, rigs.all, facts.room_c, -1.0)


def _coming_up(rigs: Family, purpose: Purpose) -> tuple[ThermalNetwork, ...]:
    """A fire that glows long is dangerous after a trip, but slow to come up: its time lies between the quick rig over the quickest fire
    and the slow one over the slowest."""
    quick, slow = 1.0 / MASSES_UNKNOWN, MASSES_UNKNOWN
    return glowing(rigs.fast, purpose, quick), glowing(rigs.slow, purpose, slow)


def plain_start(cite: Citing) -> str:
    """What must be off for a time to mean anything, as part of a sentence; nothing where nothing slows the start."""
    slowed = [
        words for name, words in (("ramp_c_per_min", "ramp"), ("soft_start_s", "soft start")) if cite.number(name) > 0
    ]
    return f", {' and '.join(slowed)} set to 0 for this" if slowed else ""


def before_start(cite: Citing) -> str:
    """What must be so before a time is taken, as a sentence; nothing where it begins at the room with nothing burning."""
    if cite.facts.purpose.fire is not None:
        return "Lit and glowing, its fan standing, until the reading stays where it is. "
    if cite.facts.purpose.cools and cite.number("minimum_off_s") > 0:
        rest = spoken_time(cite.number("minimum_off_s"))
        return f"Just switched on the compressor rests {rest} first: the time counts from when it starts. "
    return ""
