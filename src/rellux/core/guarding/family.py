"""How this rig heats up, as a family of thermal networks: as it probably is, and the two edges of what it may be."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from ..control.settings import FULL_OUTPUT
from ..errors import refuse
from ..messages import spoken_time
from ..plant.rig_models import network_for, rests_c
from ..process.models import FOPDT
from ..process.modes import time_63
from ..process.networks import ThermalNetwork
from ..purpose.purpose import Fire, Purpose, RigKind, Supply
from .answering import answering, scaled

MASSES_UNKNOWN = 1.6
"""Heat capacities of a kind of rig, either way, while nothing is recorded (common practice, no source)."""
RESERVE_UNKNOWN = 1.3
"""Its full-power rise, either way (the same)."""
SHAPE = 1.25
"""An identified process says little about how heat divides between element, chamber and lining: its intervals are widened by this."""


@dataclass(frozen=True)
class Span:
    """A value with the ends of its 95 % interval."""

    value: float
    low: float
    high: float


@dataclass(frozen=True)
class Identified:
    """What Tuning found: process gain in °C per %, lag and dead time in s. The upper ends of gain and lag are infinite where the record
    went on rising as if for ever. ``by_rate``: of a furnace, whose lag is its gain over its steepest rate and whose dead time is that of
    the tangent there, element and sensor counted in. ``rate_only``: how fast it moves is known, how hot it gets is not: it may
    get as hot as others of its kind. ``by_itself``: of a zone, before others heated beside it; else it was found among them."""

    gain: Span
    lag_s: Span
    dead_time_s: Span
    by_rate: bool = False
    rate_only: bool = False
    by_itself: bool = False

    def as_hot_as(self, rise_c: float) -> "Identified":
        """Where the gain has no upper end: one of a full-power rise like other rigs of the kind, as quick as it was found."""
        if np.isfinite(self.gain.high):
            return self
        likely = max(rise_c / FULL_OUTPUT, self.gain.value)
        gain = Span(likely, self.gain.low, likely * RESERVE_UNKNOWN)
        slower = self.lag_s.value / self.gain.value
        return replace(self, gain=gain, lag_s=Span(*(slower * v for v in (gain.value, gain.low, gain.high))))

    def times(self, by: float) -> "Identified":
        """As quick at first, and so many times as hot in the end."""
        gain, lag = (Span(s.value * by, s.low * by, s.high * by) for s in (self.gain, self.lag_s))
        return replace(self, gain=gain, lag_s=lag)

    @property
    def process(self) -> FOPDT:
        return FOPDT(self.gain.value, self.lag_s.value, self.dead_time_s.value)


@dataclass(frozen=True)
class HeatedRig:
    """What a prediction about a rig needs."""

    kind: RigKind
    purpose: Purpose
    power_w: float
    identified: Identified | None = None

    @property
    def rests_c(self) -> float:
        """Where it settles with its output off, °C: at the room, or above it by what a fire glows on."""
        return rests_c(self.kind, self.purpose)


@dataclass(frozen=True)
class Family:
    """``fast`` heats quickest, furthest, and with the most heat in its element; ``slow`` least. Verdicts use the bad edge."""

    likely: ThermalNetwork
    fast: ThermalNetwork
    slow: ThermalNetwork
    says: str

    @property
    def all(self) -> tuple[ThermalNetwork, ThermalNetwork, ThermalNetwork]:
        return self.likely, self.fast, self.slow


def family(rig: HeatedRig) -> Family:
    """The rig's networks: of its kind, brought to the identified process where there is one.

    Raises ``Refused`` for a process that does not heat.
    """
    typical = network_for(rig.kind, rig.purpose, rig.power_w)
    found = rig.identified
    if found is None:
        rise = float(typical.equilibrium_rise()[typical.sensor_node])
        quick = scaled(typical, rise * RESERVE_UNKNOWN, 1.0 / MASSES_UNKNOWN, typical.dead_time_s * MASSES_UNKNOWN)
        slow = scaled(typical, rise / RESERVE_UNKNOWN, MASSES_UNKNOWN, typical.dead_time_s / MASSES_UNKNOWN)
        return Family(
            typical,
            glowing(quick, rig.purpose, MASSES_UNKNOWN),
            glowing(slow, rig.purpose, 1.0 / MASSES_UNKNOWN),
            "a rig of its kind: its masses are not known until a run is recorded and a process found in it",
        )
    if not found.gain.value > 0 or not found.lag_s.value > 0:
        raise refuse("process", "the process found does not heat", "a gain and a lag above 0")
    typical_rise = float(typical.equilibrium_rise()[typical.sensor_node])
    found = found.as_hot_as(typical_rise)
    if found.by_itself and rig.purpose.neighbours:
        found = found.times(1.0 - rig.purpose.neighbours.share)
    most, least = _most(found.gain), _least(found.lag_s)
    hottest = max(most, typical_rise / FULL_OUTPUT) if found.rate_only else most
    member = _by_rate(typical) if found.by_rate else _by_lag(typical)
    return Family(
        glowing(member(found.gain.value, found.lag_s.value, found.dead_time_s.value), rig.purpose, 1.0),
        glowing(member(hottest, least * hottest / most, _most(found.dead_time_s)), rig.purpose, MASSES_UNKNOWN),
        glowing(
            member(_least(found.gain), _most(found.lag_s), _least(found.dead_time_s)), rig.purpose, 1.0 / MASSES_UNKNOWN
        ),
        "the process found in a run, its intervals widened for what a reading does not tell of the element",
    )


def _most(span: Span) -> float:
    return max(span.high, span.value * SHAPE)


def _least(span: Span) -> float:
    return min(max(span.low, span.value / 4.0), span.value / SHAPE)


def _by_lag(typical: ThermalNetwork) -> Callable[[float, float, float], ThermalNetwork]:
    """A member of such a gain, lag and dead time. Element and sensor come to the dead time, though they are in what was found: a lag of
    the whole record is slower than the chamber alone, once walls and load are warm, and this makes up for it. Without it one in twenty
    rigs of another build passes its edge."""
    own = time_63(typical)
    return lambda gain, lag, dead: scaled(typical, FULL_OUTPUT * gain, lag / own, dead)


def _by_rate(typical: ThermalNetwork) -> Callable[[float, float, float], ThermalNetwork]:
    """The same of a furnace, whose rate is the chamber's own."""
    return lambda gain, lag, dead: answering(typical, FULL_OUTPUT * gain, lag, dead)


def glowing(network: ThermalNetwork, purpose: Purpose, times: float) -> ThermalNetwork:
    """With a fire that dies down ``times`` as slowly as was said: the longer it glows, the further it runs on, so at the bad edge it glows
    longest, while the rest is lightest. Others are as they are."""
    if purpose.fire is None:
        return network
    link = next(g for i, j, g in network.links if network.heater_node in (i, j))
    capacities = list(network.capacities)
    capacities[network.heater_node] = link * purpose.fire.dies_s * times
    return replace(network, capacities=tuple(capacities))


def assumed(kind: RigKind, burns: bool = False) -> str:
    """What is taken of a kind of rig until a process is found, as a sentence; whatever its power and temperatures. ``burns``: over a fire
    that dies down as usual.

    >>> assumed(RigKind.PLATE).split(";")[0]
    'full power brings it 2.2 × as far above the room as its work needs, 63 % of that in {6 min}'
    """
    rig = Purpose(121.0, 200.0, "", Supply.SINGLE_PHASE, 230.0, 100.0, 230.0, ambient_c=21.0)
    if burns:
        rig = replace(rig, fire=Fire(rig.heater_power_w, idle_percent=0.0))
    typical = network_for(kind, rig, rig.heater_power_w)
    times = float(typical.equilibrium_rise()[typical.sensor_node]) / (rig.working_c - rig.ambient_c)
    return (
        f"full power brings it {times:.1f} × as far above the room as its work needs, 63 % of that in {spoken_time(time_63(typical))}; "
        f"that time may be off by a factor of {MASSES_UNKNOWN:g}, the end by {RESERVE_UNKNOWN:g}"
    )
