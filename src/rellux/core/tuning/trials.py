"""What a rig is put through: heat-up, set-point changes, a cold load, a door, low mains, a gentle ramp; and what is seen of it."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from ..control.programme.kernel import END_HOLD, RAMP_RATE, SEGMENT_SIZE
from ..control.settings import ControllerSettings, CoolingBand, climb_s
from ..messages import difference, percent, quantity, spoken_time
from ..plant.simulation import HALF_CYCLE_S, Disturbance, Simulation
from ..process.models import FOPDT, SOPDT
from ..process.networks import ThermalNetwork

Array = NDArray[np.float64]

LAGS, DEADS = 5.0, 4.0
"""A heat-up is judged over three, anything else over two fifths, of so many lags, each with so many dead times (our choice)."""
SHORTEST_S, LONGEST_S = 1200.0, 48 * 3600.0
HEATS_UP, AFTERWARDS = 0.6, 0.4
STEPS_A_PERIOD = 8.0
NOTHING = 0.05
"""A cycle of the switch that is no longer than this share of the dead time does not show in the reading (numerical)."""
ROWS = 240
"""What is drawn of a trial; it is judged by all of them."""

MOVED, LEAST_MOVED_C, OF_WHAT_IS_LEFT = 0.1, 2.0, 0.5
"""A set-point moves by a tenth of the way from ambient, 2 °C at least, and at most half of what full power has left (our choice)."""
DOOR_S, DOOR_LOSS = 60.0, 2.0
"""How long a door stands open, s, and how many times the usual loss it adds (our choice): the rigs here lose 1 W/K where they work."""
COLD_LOAD, COLD_LOAD_LAG = 0.1, 0.1
"""A cold load: of the rig's heat capacity, and its lag as a share of the rig's (our choice)."""
LOW_MAINS = 0.9
GENTLE = 0.5
"""A gentle ramp: of the rate it still has near the set-point (our choice)."""


class Trial(StrEnum):
    """What it is put through."""

    HEAT_UP = "heat_up"
    UP = "up"
    DOWN = "down"
    COLD_LOAD = "cold_load"
    DOOR = "door"
    MAINS = "mains"
    RAMP = "ramp"
    NEIGHBOUR = "neighbour"


NAMES = {
    Trial.HEAT_UP: "Heat-up",
    Trial.UP: "Step up",
    Trial.DOWN: "Step down",
    Trial.COLD_LOAD: "Cold load",
    Trial.DOOR: "Door",
    Trial.MAINS: "Mains −10 %",
    Trial.RAMP: "Ramp",
    Trial.NEIGHBOUR: "Other zones",
}


@dataclass(frozen=True)
class Stage:
    """Times and sizes of the trials, the same for all candidates. ``moved_c``: by how much the set-point is moved; ``ramp_c_per_s`` of the
    gentle ramp; ``climbs_s``, ``moves_s``: how long the controller's own ramp takes from ambient to the set-point, and over ``moved_c``.
    ``cooling``: of a cooler beside the heater, which takes part only where the set-point moves down. ``beside``: the share that other zones
    have of what the rig loses where it works; 0 of one by itself."""

    ambient_c: float
    length_s: float
    moved_c: float
    ramp_c_per_s: float
    capacity: float
    climbs_s: float = 0.0
    moves_s: float = 0.0
    cooling: CoolingBand | None = None
    beside: float = 0.0

    @property
    def trials(self) -> tuple[Trial, ...]:
        """Those that concern it."""
        return tuple(t for t in Trial if self.beside or t is not Trial.NEIGHBOUR)

    def lasts_s(self, trial: Trial) -> float:
        if trial in (Trial.HEAT_UP, Trial.RAMP):
            return self.length_s * HEATS_UP + self.climbs_s
        return self.length_s * AFTERWARDS + (self.moves_s if trial in (Trial.UP, Trial.DOWN) else 0.0)


@dataclass(frozen=True)
class Course:
    """One trial on one rig; equal-length columns: time in s from its beginning, set-point and reading in °C, output in %, switch
    (0 or 1; not a number where it was not looked at). ``travel``: how far the output went up and down in all, %; ``full_s``: how long full
    power was on in all; ``heater_c``: the most its heater came to until then."""

    time_s: Array
    setpoint_c: Array
    reading_c: Array
    output: Array
    switch: Array
    travel: float
    full_s: float
    heater_c: float


@dataclass(frozen=True)
class Outcome:
    """``away_c``: the furthest it went wrong: beyond the set-point on the way to it, else off it either way. ``back_s``: from when on it
    stays within the band; infinite where it does not. ``mean_c``: how far off on average; ``behind_c``: how far a ramp left it behind;
    ``heater_c``: the most its heater came to, °C."""

    away_c: float
    back_s: float
    mean_c: float
    behind_c: float = 0.0
    heater_c: float = 0.0


def stage(
    process: FOPDT | SOPDT, dead_s: float, setpoint_c: float, ambient_c: float, own_ramp_c_per_s: float = 0.0
) -> Stage:
    """The trials for a process whose dead time is ``dead_s`` with what sampling and actuator add, and a controller that moves its set-point
    at ``own_ramp_c_per_s`` (0: at once)."""
    rise, most = setpoint_c - ambient_c, 100.0 * process.gain
    length = float(min(max(LAGS * (process.lag_s + DEADS * dead_s), SHORTEST_S), LONGEST_S))
    moved = min(max(MOVED * rise, LEAST_MOVED_C), OF_WHAT_IS_LEFT * (most - rise))
    climbs, moves = (climb_s(by, own_ramp_c_per_s) for by in (rise, moved))
    return Stage(ambient_c, length, moved, GENTLE * (most - rise) / process.lag_s, process.lag_s, climbs, moves)


def happens(where: Stage, trial: Trial) -> str:
    """What a trial is, with the sizes it has on this rig."""
    moved, rate = difference(where.moved_c, ".2g"), quantity(60.0 * where.ramp_c_per_s, "°C/min", ".2g")
    return {
        Trial.HEAT_UP: "From cold, full power as far as the settings let it."
        if not where.climbs_s
        else f"From cold, the set-point climbing by the controller’s own ramp for {spoken_time(where.climbs_s)}.",
        Trial.UP: f"The set-point moves up by {moved}.",
        Trial.DOWN: f"The set-point moves down by {moved}: only nature cools."
        if where.cooling is None
        else f"The set-point moves down by {moved}: the cooler helps as far as {difference(where.cooling.off_above_c, '.1f')} above it, "
        "or as a candidate has it.",
        Trial.COLD_LOAD: f"A cold load of {percent(COLD_LOAD)} of the rig’s heat capacity is put in.",
        Trial.DOOR: f"A door is open for {quantity(DOOR_S, 's', 'g')}: {1.0 + DOOR_LOSS:g} times the usual loss.",
        Trial.MAINS: f"The mains fall by {percent(1.0 - LOW_MAINS)}: {percent(1.0 - LOW_MAINS**2)} of the power are gone.",
        Trial.RAMP: f"The set-point climbs at {rate}, {percent(GENTLE)} of the rate the rig still has near it.",
        Trial.NEIGHBOUR: f"The other zones get warmer by {moved} at once, and stay so: {percent(where.beside)} of what this one loses goes "
        "to them.",
    }[trial]


def step_of(process: FOPDT | SOPDT, settings: ControllerSettings) -> float:
    """A step that resolves dead time, lag and control period, in s. Energy within a step is exact, so the period needs no more."""
    quickest = min(process.lag_s, process.dead_time_s or process.lag_s)
    looks = max(settings.sample_s * 4.0, quickest / 100.0)
    finest = min(quickest / 20.0, (settings.period_s or 10.0) / STEPS_A_PERIOD, looks)
    return float(max(finest, HALF_CYCLE_S if process.lag_s < 1.0 else 5.0 * HALF_CYCLE_S))


def put_through(
    network: ThermalNetwork,
    settings: ControllerSettings,
    where: Stage,
    trials: Sequence[Trial],
    step_s: float,
    apart_s: float = 0.0,
) -> dict[Trial, Course]:
    """One rig through each of the trials; all but heat-up and ramp begin where a heat-up ends. A cooler is left out but where the set-point
    moves down: what overshoots must not need it. Rows, and two steps, are no closer than ``apart_s``: they tell the reading then, and not
    the switch."""
    settings, step_s = replace(settings, cooling=None), max(step_s, apart_s / 2.0)
    found = {}
    warm = Simulation(network, settings, where.ambient_c, step_s)
    heats_s = where.lasts_s(Trial.HEAT_UP)
    if Trial.HEAT_UP in trials:
        found[Trial.HEAT_UP] = _seen(warm, heats_s, settings, apart_s)
    elif any(trial is not Trial.RAMP for trial in trials):
        warm.advance(heats_s, heats_s)
    for trial in trials:
        if trial is Trial.RAMP:
            found[trial] = _ramped(Simulation(network, settings, where.ambient_c, step_s), settings, where)
        elif trial is not Trial.HEAT_UP:
            found[trial] = _seen(begun(warm, network, where, trial), where.lasts_s(trial), settings, apart_s)
    return found


def begun(warm: Simulation, network: ThermalNetwork, where: Stage, trial: Trial) -> Simulation:
    """What stands where ``warm`` does, with the trial begun."""
    if trial is Trial.COLD_LOAD:
        load = COLD_LOAD * where.capacity
        link = (network.sensor_node, len(network.capacities), load / (COLD_LOAD_LAG * where.capacity))
        return warm.branch(
            replace(
                network,
                capacities=(*network.capacities, load),
                links=(*network.links, link),
                to_ambient=(*network.to_ambient, 0.0),
                radiation=(*network.radiation, 0.0) if network.radiation else (),
            )
        )
    if trial is Trial.NEIGHBOUR:
        to_ambient = list(network.to_ambient)
        to_ambient[network.sensor_node] -= where.beside
        other = warm.branch(replace(network, to_ambient=tuple(to_ambient)))
        other.lie_beside((where.beside, where.ambient_c + where.moved_c))
        return other
    other = warm.branch()
    if trial is Trial.DOOR:
        other.disturb(Disturbance(0.0, DOOR_S, DOOR_LOSS))
    elif trial is Trial.MAINS:
        other.supply(LOW_MAINS)
    elif trial in (Trial.UP, Trial.DOWN):
        by = where.moved_c if trial is Trial.UP else -where.moved_c
        cooling = where.cooling if trial is Trial.DOWN else None
        other.apply(replace(warm.settings, setpoint_c=warm.settings.setpoint_c + by, cooling=cooling))
    return other


def rows_apart_s(possible: Sequence[FOPDT | SOPDT], settings: ControllerSettings) -> float:
    """How far apart rows may be that tell the reading, s: a cycle of the switch where that is nothing beside the shortest dead time it may
    have; else 0. An inner loop is quicker than that."""
    short = settings.period_s <= NOTHING * min(p.dead_time_s for p in possible)
    return settings.period_s if short and not settings.in_cascade else 0.0


def _seen(rig: Simulation, lasts_s: float, settings: ControllerSettings, apart_s: float) -> Course:
    began, on_s = rig.time_s, rig.on_time_s
    seen = rig.advance(lasts_s, max(min(lasts_s / ROWS, (settings.period_s or 60.0) / STEPS_A_PERIOD), apart_s))
    return Course(
        seen.time_s - began,
        seen.setpoint_c,
        seen.reading_c,
        seen.output,
        seen.switch,
        float(np.abs(np.diff(seen.output)).sum()),
        rig.on_time_s - on_s,
        rig.hottest_heater_c,
    )


def _ramped(cold: Simulation, settings: ControllerSettings, where: Stage) -> Course:
    lasts_s = where.lasts_s(Trial.RAMP)
    rows = np.zeros((2, SEGMENT_SIZE))
    rows[0, :3] = RAMP_RATE, settings.setpoint_c, where.ramp_c_per_s
    rows[1, 0] = END_HOLD
    most = lasts_s + (settings.setpoint_c - where.ambient_c) / where.ramp_c_per_s
    seen = cold.follow(rows, where.ambient_c, most, max(lasts_s / ROWS, cold.step_s), lasts_s)
    return Course(
        seen.time_s,
        seen.setpoint_c,
        seen.reading_c,
        seen.output,
        np.full(len(seen.time_s), np.nan),
        float(np.abs(np.diff(seen.output)).sum()),
        cold.on_time_s,
        cold.hottest_heater_c,
    )


def outcome(course: Course, trial: Trial, band_c: float) -> Outcome:
    """What is seen of a course; within ``band_c`` of the set-point it counts as there."""
    off = course.reading_c - course.setpoint_c
    lasting = np.abs(off) > band_c
    if trial in (Trial.HEAT_UP, Trial.UP, Trial.RAMP):
        away = max(float(off.max()), 0.0)
    elif trial is Trial.DOWN:
        away = max(float(-off.min()), 0.0)
    else:
        away = float(np.abs(off).max())
    outside = np.flatnonzero(lasting)
    back = 0.0
    if len(outside):
        last = int(outside[-1])
        back = float("inf") if last + 1 >= len(off) else float(course.time_s[last + 1])
    behind = max(float(-off.min()), 0.0) if trial is Trial.RAMP else 0.0
    return Outcome(away, back, float(np.abs(off).mean()), behind, course.heater_c)


def thinned(course: Course, rows: int = ROWS) -> Course:
    """The same with so many rows or a few more, for drawing."""
    keep = max(1, len(course.time_s) // rows)
    names = ("time_s", "setpoint_c", "reading_c", "output", "switch")
    return replace(course, **{name: getattr(course, name)[::keep].copy() for name in names})
