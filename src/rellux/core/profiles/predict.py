"""What a rig makes of a profile: reading, load, power, over the family of what the rig may be."""

from dataclasses import dataclass, replace

import numpy as np

from ..control.programme.kernel import ENDED, HOLDING, KIND, TARGET, WAIT_ABOVE, WAIT_PERSON, WAITING
from ..control.programme.programme import Rows
from ..control.settings import FULL_OUTPUT, ControllerSettings, Mode
from ..guarding.family import Family
from ..plant.rig_models import with_cooler
from ..plant.simulation import Followed, Simulation, inner_answers_s, looking, resolving_s
from ..process.models import FOPDT
from ..process.modes import shares_of, time_63
from ..process.networks import Array, ThermalNetwork, behind_heater
from ..purpose.purpose import Purpose
from ..tuning.rules.published import simc_pi
from ..units import ABSOLUTE_ZERO_C
from .load import Load, Loaded, exchange_at, loaded
from .profile import Profile, commanded, rows_of, start_of

TICKS = 12_000
"""How finely a profile is followed."""
RIPPLES = 5.0
"""A control period up to so many ticks is taken as a continuous output: its ripple is not what a profile asks about."""
LONGER = 3.0
"""Waiting may make a programme so many times as long before it is given up."""
SETTLED = 8.0
"""And so many times to 63 % longer still."""
STEPS_A_LAG = 4.0
FINEST = 50.0
"""Steps of a tick at the most: what is quicker makes no difference to a programme."""
CALM = 2.0
"""An edge's controller answers in so many dead times (SIMC's tight choice is 1)."""
AFTER_S = 600.0
NO_HOTTER_C = 10.0
"""What a furnace was learnt from holds for so much hotter still (our choice)."""
COOLER_UNKNOWN = 1.3
"""What a cooler was said to take out may be so many times what it does (our choice, as of a rig's reserve)."""


@dataclass(frozen=True)
class Conditions:
    """What a prediction is made for: the rig as a family, its controller's settings, the room and where the reading begins, the load.
    ``furnace``: the rig as it was learnt to be where it stays below ``furnace_up_to_c``."""

    rigs: Family
    settings: ControllerSettings
    room_c: float
    begins_c: float
    load: Load | None = None
    furnace: Family | None = None
    furnace_up_to_c: float = 0.0

    def rigs_for(self, profile: Profile) -> Family:
        """What it is for a profile: a furnace only where that goes no hotter than it was recorded."""
        hotter = profile.highest_c > self.furnace_up_to_c + NO_HOTTER_C
        return self.rigs if self.furnace is None or hotter else self.furnace

    @property
    def power_w(self) -> float:
        return self.rigs.likely.heater_power_w


@dataclass(frozen=True)
class Course:
    """One member of the family following the profile; equal-length columns. ``surface_c`` and ``core_c`` are the load's, the reading's own
    place where there is none. ``at``: segment of the profile (counted from 0), ``waits``: the clock stands still. ``length_s``: when its
    last segment ended; what follows is what the rig does by itself. ``reach_c``: where it would come to rest with all it has; ``floor_c``:
    with its heat off, and its cooler on where it has one."""

    time_s: Array
    setpoint_c: Array
    reading_c: Array
    output: Array
    surface_c: Array
    core_c: Array
    at: np.typing.NDArray[np.int64]
    waits: np.typing.NDArray[np.bool_]
    is_over: bool
    length_s: float
    reach_c: float
    floor_c: float

    @property
    def held_s(self) -> float:
        """How long its clock stood still, s."""
        return float(np.sum(np.diff(self.time_s)[self.waits[:-1]])) if len(self.time_s) > 1 else 0.0


@dataclass(frozen=True)
class Predicted:
    """As it probably goes, and as its quickest and its slowest edge; ``able``: as it probably could go, which is another thing only where
    the control is on/off and swings by itself."""

    likely: Course
    able: Course
    fast: Course
    slow: Course
    says: str

    @property
    def all(self) -> tuple[Course, Course, Course]:
        return self.likely, self.fast, self.slow


def beside(rigs: Family, purpose: Purpose) -> Family:
    """The family with the cooler beside its heater, where the rig has one: at both edges weaker than was said."""
    if purpose.cooler is None:
        return rigs
    edges = (with_cooler(n, purpose) for n in (rigs.fast, rigs.slow))
    fast, slow = (replace(n, cooler_w_per_k=n.cooler_w_per_k / COOLER_UNKNOWN) for n in edges)
    return replace(rigs, likely=with_cooler(rigs.likely, purpose), fast=fast, slow=slow)


def predict(profile: Profile, conditions: Conditions) -> Predicted:
    """The profile on every member of the family."""
    rigs = conditions.rigs_for(profile)
    likely, fast, slow = rigs.all
    goes = course(profile, likely, conditions)

    def able(network: ThermalNetwork) -> Course:
        near = network.linearised(profile.highest_c - conditions.room_c, conditions.room_c)
        return course(profile, network, replace(conditions, settings=_suited(conditions.settings, near)))

    switched = conditions.settings.mode is Mode.ON_OFF
    return Predicted(goes, able(likely) if switched else goes, able(fast), able(slow), rigs.says)


def _suited(settings: ControllerSettings, network: ThermalNetwork) -> ControllerSettings:
    """The settings as they would be had the rig turned out to be this one: what is asked of an edge is whether it *can* follow."""
    if settings.mode not in (Mode.PID, Mode.ON_OFF):
        return settings
    late = network.dead_time_s + network.sensor_lag_s + 1.0 / float(shares_of(network).rates.max())
    gain = float(shares_of(network).shares.sum()) / FULL_OUTPUT
    if settings.inner is not None:
        return _suited_outer(settings, network)
    return replace(settings, mode=Mode.PID, period_s=0.0, pid=simc_pi(FOPDT(gain, time_63(network), late), CALM * late))


def _suited_outer(settings: ControllerSettings, network: ThermalNetwork) -> ControllerSettings:
    """Of two loops: the outer one, for what the heater's own temperature does to the rest; the heater keeps its limit."""
    assert settings.inner
    rest = behind_heater(network, settings.inner.span_c)
    gain = float(rest.equilibrium_rise()[rest.sensor_node]) / FULL_OUTPUT
    late = network.dead_time_s + network.sensor_lag_s + inner_answers_s(settings.inner.gain, network)
    return replace(settings, mode=Mode.PID, period_s=0.0, pid=simc_pi(FOPDT(gain, time_63(rest), late), CALM * late))


def course(profile: Profile, network: ThermalNetwork, conditions: Conditions) -> Course:
    """The profile on one network: simulated with the controller's own settings, the programme looking at the reading as it goes."""
    start_c = start_of(profile, conditions.begins_c, conditions.room_c)
    planned = max(commanded(profile, start_c)[-1].time_s, 1.0)
    body = _with_load(network, profile, conditions)
    tick = max(planned / TICKS, conditions.settings.sample_s)
    settings = _smoothed(replace(conditions.settings, setpoint_c=start_c, offset_c=0.0), tick)
    step = _step(network, settings, tick)
    told = looking(settings, body.network if body else network, step)
    simulation = Simulation(body.network if body else network, told, conditions.room_c, step)
    simulation.start_at(conditions.begins_c)
    most = planned * LONGER + time_63(network) * SETTLED
    followed = simulation.follow(_attended(rows_of(profile)), start_c, most, tick, AFTER_S)
    reach_c = conditions.room_c + _rests(network, settings, conditions.room_c)
    floor = network.equilibrium_rise(0.0, settings.cooling is not None)[network.sensor_node]
    ends_c = reach_c, min(conditions.room_c + float(floor), conditions.room_c)
    return _course(followed, profile, body, network.sensor_node, ends_c)


def _rests(network: ThermalNetwork, settings: ControllerSettings, room_c: float) -> float:
    """Where all it has brings it, °C above the room; of two loops no further than a heater at its limit."""
    rises = network.resting_rise(settings.output_high, room_c)
    if settings.inner is None or settings.mode is not Mode.PID:
        return rises
    rest = behind_heater(network, settings.inner.high_c - room_c)
    return min(rises, rest.resting_rise(FULL_OUTPUT, room_c))


def _smoothed(settings: ControllerSettings, tick_s: float) -> ControllerSettings:
    quick = settings.mode is Mode.PID and settings.period_s <= RIPPLES * tick_s
    return replace(settings, period_s=0.0) if quick else settings


def _attended(rows: Rows) -> Rows:
    """Somebody is there at once where it waits for a person: how long they take nobody can predict."""
    at_once = rows[:, KIND] == WAIT_PERSON
    rows[at_once, KIND], rows[at_once, TARGET] = WAIT_ABOVE, ABSOLUTE_ZERO_C
    return rows


def _step(network: ThermalNetwork, settings: ControllerSettings, tick_s: float) -> float:
    """The simulation's step, s: fine enough for sensor, dead time and a time-proportioned output."""
    finest = max(resolving_s(network, settings, STEPS_A_LAG, tick_s), tick_s / FINEST)
    return tick_s / max(1, round(tick_s / finest))


def _with_load(network: ThermalNetwork, profile: Profile, conditions: Conditions) -> Loaded | None:
    if conditions.load is None:
        return None
    return loaded(network, conditions.load, exchange_at(0.5 * (conditions.room_c + profile.highest_c)))


def _course(
    followed: Followed, profile: Profile, body: Loaded | None, sensor: int, ends_c: tuple[float, float]
) -> Course:
    order = np.array(list(profile.order()))
    at = order[np.minimum(followed.at, len(order) - 1)]
    place, ended = followed.nodes_c[:, sensor], np.flatnonzero(followed.phase >= ENDED)
    return Course(
        followed.time_s,
        followed.setpoint_c,
        followed.reading_c,
        followed.output,
        body.surface_c(followed.nodes_c) if body else place,
        body.core_c(followed.nodes_c) if body else place,
        at,
        (followed.phase == HOLDING) | (followed.phase == WAITING),
        followed.is_over,
        float(followed.time_s[ended[0]]) if len(ended) else float(followed.time_s[-1]),
        *ends_c,
    )
