"""The simulator everyone uses: predictions, tuning candidates, stand-in devices, the demo's recorded runs."""

from copy import copy
from dataclasses import dataclass, replace
from math import exp, inf, isinf
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..control.alarms.alarm import STATES, AlarmState, first_state
from ..control.alarms.kernel import SECOND, SEEN_SIZE, SETTINGS_SIZE
from ..control.alarms.kernel import STATE as ALARM_STATE
from ..control.alarms.kernel import STATE_SIZE as ALARM_STATE_SIZE
from ..control.alarms.settings import Action, AlarmSettings
from ..control.pid import tracking_time_s
from ..control.programme.kernel import PHASE
from ..control.programme.programme import PHASES, Phase, Rows
from ..control.programme.programme import first_state as before_it_runs
from ..control.settings import FULL_OUTPUT, AntiWindup, ControllerSettings, Mode
from ..errors import refuse
from ..process.networks import ThermalNetwork, discretise
from . import follow, kernel

MOST_STEPS = 200_000_000
"""Steps at once: about a minute of computing (our choice)."""

HALF_CYCLE_S = 0.01
"""What an output is switched by, s: half a cycle of 50 Hz; on 60 Hz it is a sixth less."""

Array = NDArray[np.float64]

_WINDUP = {
    AntiWindup.STOPS: kernel.WINDUP_STOPS,
    AntiWindup.TRACKS: kernel.WINDUP_TRACKS,
    AntiWindup.LIMITS: kernel.WINDUP_LIMITS,
}
_MODE = {
    Mode.OFF: kernel.MODE_OFF,
    Mode.ON_OFF: kernel.MODE_ON_OFF,
    Mode.PID: kernel.MODE_PID,
    Mode.MANUAL: kernel.MODE_MANUAL,
}


_BITS = {Action.OUTPUT_OFF: kernel.OUTPUT_OFF, Action.CONTACTOR: kernel.OPENS_CONTACTOR}


@dataclass(frozen=True)
class Record:
    """Equal-length columns: time in s, set-point and display in °C, output in %, switch 0 or 1."""

    time_s: Array
    setpoint_c: Array
    reading_c: Array
    output: Array
    switch: Array

    @property
    def columns(self) -> tuple[Array, Array, Array, Array, Array]:
        return self.time_s, self.setpoint_c, self.reading_c, self.output, self.switch


@dataclass(frozen=True)
class Followed:
    """A programme as the plant followed it; equal-length columns: time in s, set-point and reading in °C, mean output in % until the next
    row, row of the programme, phase; ``nodes_c`` (rows, nodes) in °C; ``is_over``: it came to its end."""

    time_s: Array
    setpoint_c: Array
    reading_c: Array
    output: Array
    at: NDArray[np.int64]
    phase: NDArray[np.int64]
    nodes_c: Array
    is_over: bool


@dataclass(frozen=True)
class Disturbance:
    """Extra loss from the sensor's node between two times: a door opened, a cold draught. W/K."""

    start_s: float
    end_s: float
    loss_w_per_k: float


FEW_STEPS = 5_000
"""So many take some tenths of a second without the compiler."""


def resolving_s(network: ThermalNetwork, settings: ControllerSettings, looks: float, most_s: float) -> float:
    """A step, s, that looks so often in the sensor's lag, in the dead time and in a control period; ``most_s`` where nothing is quicker."""
    quick = (t / looks for t in (network.sensor_lag_s, network.dead_time_s, settings.period_s) if t > 0)
    return min([most_s, *quick])


INNER_LOOKS = 3.0
"""So often at the least a loop at the heater is looked at in what it takes to answer."""


def inner_answers_s(gain: float, network: ThermalNetwork) -> float:
    """In what time a loop at the heater answers with this gain, %/°C: the heater's heat capacity over what a degree calls for, s."""
    return network.capacities[network.heater_node] * FULL_OUTPUT / (gain * abs(network.heater_power_w))


def looking(settings: ControllerSettings, network: ThermalNetwork, step_s: float) -> ControllerSettings:
    """The settings as they are simulated in such steps: it looks no more often than that, and a loop at the heater that would need it to is
    slower."""
    told = replace(settings, sample_s=max(settings.sample_s, step_s))
    if settings.inner is None:
        return told
    most = inner_answers_s(1.0, network) / (INNER_LOOKS * told.sample_s)
    return replace(told, inner=replace(settings.inner, gain=min(settings.inner.gain, most)))


class Simulation:
    """A plant under a controller, with state. Advance it in pieces of any length; settings may change in between.
    ``interpreted``: short pieces are run without the compiler, for a process that follows real time and stays small. Raises ``Refused`` for
    two loops on a network whose heater is what the sensor feels.
    """

    def __init__(
        self,
        network: ThermalNetwork,
        settings: ControllerSettings,
        ambient_c: float,
        step_s: float = 0.25,
        disturbances: tuple[Disturbance, ...] = (),
        interpreted: bool = False,
        alarms: tuple[AlarmSettings, ...] = (),
        does: tuple[tuple[Action, ...], ...] = (),
        heater_a: float = 0.0,
    ) -> None:
        if settings.inner is not None and network.heater_node == network.sensor_node:
            raise refuse("loops", "this is taken as one mass, and a second loop needs a heater beside it", "one loop")
        self._interpreted = interpreted
        n = len(network.capacities)
        step = discretise(network, step_s)
        self.step_s = step_s
        self._nodes = np.uint64(n)
        self._transition, self._response = step.transition, step.response
        self._radiation = np.array(network.radiation or (0.0,) * n)
        lag = network.sensor_lag_s
        delay_steps = round(network.dead_time_s / step_s)
        self._plant = np.zeros(kernel.PLANT_SIZE)
        self._plant[kernel.POWER] = network.heater_power_w
        self._plant[kernel.SENSOR_FRACTION] = 1.0 if lag == 0 else 1.0 - exp(-step_s / lag)
        self._plant[kernel.HEATER_NODE] = network.heater_node
        self._plant[kernel.SENSOR_NODE] = network.sensor_node
        self._plant[kernel.STEP_S] = step_s
        self._plant[kernel.DELAY_STEPS] = delay_steps
        self._plant[kernel.COOLER], self._plant[kernel.COOLANT] = network.cooler_w_per_k, network.coolant_rise_c
        self._plant[kernel.LATE_READING] = 1.0 if network.late_reading else 0.0
        self._x = np.zeros(2 * n)
        self._flow = np.zeros(n)
        self._delay = np.zeros(delay_steps + 1)
        self._state = np.zeros(kernel.STATE_SIZE)
        self._control = np.zeros(kernel.CONTROL_SIZE)
        self._control[kernel.AMBIENT] = ambient_c
        self._disturbance = np.array(
            [v for d in disturbances for v in (d.start_s / step_s, d.end_s / step_s, d.loss_w_per_k)]
        )
        self._state[kernel.LAST_PV] = ambient_c + settings.offset_c
        self._plant[kernel.HEATER_A] = heater_a
        self._alarms, self._alarm_states = np.zeros((0, SETTINGS_SIZE)), np.zeros((0, ALARM_STATE_SIZE))
        self.guard(alarms, does)
        self._seen = np.full(SEEN_SIZE, 0.0)
        self._seen[SECOND] = np.nan
        self._state[kernel.ALARM_SETPOINT] = settings.setpoint_c
        self.settings = settings
        self.apply(settings)

    def apply(self, settings: ControllerSettings) -> None:
        """Change settings between steps; a change into PID starts from the present output (bumpless)."""
        c, pid = self._control, settings.pid
        other_loops = (settings.inner is None) != (c[kernel.INNER_GAIN] <= 0.0)
        entering_pid = settings.mode is Mode.PID and (c[kernel.MODE] != kernel.MODE_PID or other_loops)
        begins = c[kernel.MODE] in (kernel.MODE_OFF, kernel.MODE_MANUAL)
        c[kernel.MODE] = _MODE[settings.mode]
        c[kernel.OFF_AT], c[kernel.ON_AT] = settings.switch_off_offset, settings.switch_on_offset
        c[kernel.GAIN] = pid.gain
        c[kernel.TI] = 0.0 if isinf(pid.integral_time_s) else pid.integral_time_s
        c[kernel.TD], c[kernel.FILTER_N] = pid.derivative_time_s, pid.derivative_filter
        c[kernel.WEIGHT] = pid.setpoint_weight
        c[kernel.WINDUP], c[kernel.WITHIN] = _WINDUP[settings.anti_windup], settings.integrates_within_c
        c[kernel.OUT_LOW], c[kernel.OUT_HIGH] = settings.output_low, settings.output_high
        c[kernel.MANUAL] = settings.manual_output
        c[kernel.OFFSET] = settings.offset_c
        c[kernel.SETPOINT] = settings.setpoint_c
        c[kernel.SAMPLE_STEPS] = max(1, round(settings.sample_s / self.step_s))
        c[kernel.TRACKED] = min(c[kernel.SAMPLE_STEPS] * self.step_s / tracking_time_s(pid), 1.0)
        c[kernel.CYCLE_STEPS] = round(settings.period_s / self.step_s)
        c[kernel.CYCLE_HALVES] = max(1, round(c[kernel.CYCLE_STEPS] * self.step_s / HALF_CYCLE_S))
        c[kernel.MIN_ON_STEPS] = settings.minimum_on_s / self.step_s
        c[kernel.SENSE] = -1.0 if settings.cools else 1.0
        c[kernel.REST_STEPS], c[kernel.RUN_STEPS] = settings.rest_s / self.step_s, settings.run_s / self.step_s
        c[kernel.ALIVE_AFTER_STEPS] = settings.alive_after_s / self.step_s
        c[kernel.ALIVE_STEPS] = settings.alive_s / self.step_s
        band = settings.cooling
        c[kernel.COOL_ON] = band.above_c if band else inf
        c[kernel.COOL_OFF] = band.off_above_c if band else inf
        c[kernel.COOL_REST_STEPS] = band.rest_s / self.step_s if band else 0.0
        c[kernel.COOL_RUN_STEPS] = band.run_s / self.step_s if band else 0.0
        c[kernel.SOFT_STEPS] = settings.soft_start_s / self.step_s
        inner = settings.inner
        c[kernel.INNER_GAIN] = inner.gain if inner else 0.0
        c[kernel.INNER_TI] = inner.integral_time_s if inner and not isinf(inner.integral_time_s) else 0.0
        c[kernel.INNER_LOW], c[kernel.INNER_SPAN] = (inner.low_c, inner.span_c) if inner else (0.0, 0.0)
        c[kernel.RAMP] = settings.ramp_c_per_s * c[kernel.SAMPLE_STEPS] * self.step_s
        if begins or not settings.ramp_c_per_s:
            self._state[kernel.WORKING] = np.nan
        if entering_pid and self._state[kernel.CLOCK] > 0:
            working = self._state[kernel.WORKING] if not begins else self.reading_c
            from_c = working if settings.ramp_c_per_s and working == working else settings.setpoint_c
            weighted = pid.setpoint_weight * (from_c - self.ambient_c) + self.ambient_c
            proportional = pid.gain * c[kernel.SENSE] * (weighted - self.reading_c)
            stands = self._state[kernel.OUTPUT]
            if inner:
                self._state[kernel.INNER_INTEGRAL] = stands
                stands = (self.heater_c - inner.low_c) / inner.span_c * FULL_OUTPUT
            self._state[kernel.INTEGRAL] = stands - proportional
        elif entering_pid:
            self._state[kernel.INTEGRAL] = self._state[kernel.INNER_INTEGRAL] = 0.0
        self.settings = settings

    def stick(self, stuck: bool) -> None:
        """The switch fails closed (or is mended): full power whatever the controller says, unless an alarm opens the contactor."""
        self._control[kernel.STUCK] = 1.0 if stuck else 0.0

    def guard(self, alarms: tuple[AlarmSettings, ...], does: tuple[tuple[Action, ...], ...]) -> None:
        """Other alarms from now on, and what each does; one set as one before goes on from where that stood."""
        stood = {tuple(row): state for row, state in zip(self._alarms.tolist(), self._alarm_states, strict=True)}
        rows = [(a.row(), first_state(a)) for a in alarms]
        self._alarms = np.array([row for row, _ in rows]).reshape(-1, SETTINGS_SIZE)
        states = [stood.get(tuple(row), first) for row, first in rows]
        self._alarm_states = np.array(states, dtype=np.float64).reshape(-1, ALARM_STATE_SIZE)
        self._does = np.array([sum(_BITS.get(a, 0) for a in actions) for actions in does], dtype=np.int64)

    def release(self) -> None:
        """Somebody resets at the controller: a latch whose condition is gone lets go."""
        latched = [STATES.index(s) for s in (AlarmState.LATCHED, AlarmState.LATCHED_ACKNOWLEDGED)]
        self._alarm_states[np.isin(self._alarm_states[:, ALARM_STATE], latched), ALARM_STATE] = STATES.index(
            AlarmState.NORMAL
        )

    @property
    def alarm_states(self) -> tuple[AlarmState, ...]:
        """Where each alarm stands."""
        return tuple(STATES[int(s)] for s in self._alarm_states[:, ALARM_STATE])

    def break_sensor(self, broken: bool) -> None:
        """Open (or mend) the sensor: the output goes off while it lasts."""
        self._control[kernel.SENSOR_BROKEN] = 1.0 if broken else 0.0

    def branch(self, network: ThermalNetwork | None = None) -> "Simulation":
        """A second plant that stands just where this one does and goes on by itself. ``network``: another whose first nodes are those of
        this one; what it has more begins at ambient (a cold load put in)."""
        if network is None:
            other = copy(self)
            for name, value in vars(self).items():
                if isinstance(value, np.ndarray):
                    setattr(other, name, value.copy())
            return other
        other = Simulation(network, self.settings, self.ambient_c, self.step_s, interpreted=self._interpreted)
        n = int(self._nodes)
        other._x[:n] = self._x[:n]
        other._state, other._delay = self._state.copy(), self._delay.copy()
        return other

    def disturb(self, *disturbances: Disturbance) -> None:
        """Extra losses from now on, their times counted from now."""
        now = self._state[kernel.CLOCK]
        ends = [(now + d.start_s / self.step_s, now + d.end_s / self.step_s, d.loss_w_per_k) for d in disturbances]
        self._disturbance = np.array(ends).ravel()

    def lie_beside(self, *others: tuple[float, float]) -> None:
        """From now on these are other zones: each joined with the sensor's node by so many W/K, and so warm, °C."""
        total = sum(g for g, _ in others)
        rise = sum(g * (celsius - self.ambient_c) for g, celsius in others) / total if total else 0.0
        self._control[kernel.BESIDE], self._control[kernel.BESIDE_RISE] = total, rise

    def supply(self, share: float) -> None:
        """The mains at another voltage, as a share of what it was: the power of a resistive heater goes with its square."""
        self._plant[kernel.POWER] *= share**2

    def start_at(self, temperature_c: float, output: float = 0.0) -> None:
        """Put every node and the sensor at one temperature, with the delay line carrying ``output`` percent (of a late reading:
        that temperature)."""
        rise = temperature_c - self._control[kernel.AMBIENT]
        self._x[:] = rise
        self._state[kernel.SENSOR] = rise
        self._state[kernel.LAST_PV] = temperature_c + self.settings.offset_c
        late = self._plant[kernel.LATE_READING] > 0.0
        self._delay[:] = rise if late else self._plant[kernel.POWER] * output / 100.0
        self._state[kernel.HOTTEST] = rise

    @property
    def ambient_c(self) -> float:
        """Temperature around it, °C."""
        return float(self._control[kernel.AMBIENT])

    @property
    def nodes_c(self) -> Array:
        """(n,) temperature of every node of its network now, °C."""
        return np.asarray(self._x[: int(self._nodes)] + self.ambient_c)

    @property
    def time_s(self) -> float:
        return float(self._state[kernel.CLOCK]) * self.step_s

    @property
    def reading_c(self) -> float:
        """What the display shows: the sensor, with the offset added to it."""
        return float(self._state[kernel.SENSOR] + self._control[kernel.AMBIENT] + self._control[kernel.OFFSET])

    @property
    def true_c(self) -> float:
        """The temperature at the sensor's place, without sensor lag and offset."""
        return float(self._x[int(self._plant[kernel.SENSOR_NODE])] + self._control[kernel.AMBIENT])

    @property
    def heater_c(self) -> float:
        """What a second sensor at its heater shows, °C."""
        return float(self._x[int(self._plant[kernel.HEATER_NODE])] + self._control[kernel.AMBIENT])

    @property
    def asked_c(self) -> float:
        """What the loop at the heater is asked for, °C: not a number where there is none at work."""
        return float(self._state[kernel.ASKED]) if self.settings.in_cascade else float("nan")

    @property
    def hottest_heater_c(self) -> float:
        """The most its heater came to, °C."""
        return float(self._state[kernel.HOTTEST] + self._control[kernel.AMBIENT])

    @property
    def output(self) -> float:
        """The output in force, %: the duty of the present cycle where it is time-proportioned."""
        return float(self._state[kernel.DUTY])

    @property
    def switch_closed(self) -> bool:
        return bool(self._state[kernel.SWITCH] > 0.5)

    @property
    def cools_now(self) -> bool:
        """Whether its cooler is on."""
        return bool(self._state[kernel.COOLING] > 0.5)

    @property
    def cooled_s(self) -> float:
        """How long its cooler has been on in all, s."""
        return float(self._state[kernel.COOLS_S])

    @property
    def coolings(self) -> int:
        """How often its cooler came on."""
        return int(self._state[kernel.COOLINGS])

    @property
    def switchings(self) -> int:
        return int(self._state[kernel.SWITCHES])

    @property
    def on_time_s(self) -> float:
        """How long the output has been on in all, s; a continuous one by its share."""
        return float(self._state[kernel.ON_S])

    def advance(self, duration_s: float, every_s: float | None = None) -> Record:
        """Run on for ``duration_s``; one row every ``every_s`` (default: every step). Returns the rows written."""
        steps = round(duration_s / self.step_s)
        if steps < 0 or steps > MOST_STEPS:
            raise refuse("duration_s", "is not a length of time to simulate", "0…50 million seconds")
        every = max(1, round((every_s or self.step_s) / self.step_s))
        record = np.empty((steps // every + 2) * 5)
        run = kernel.run.plain if self._interpreted and steps <= FEW_STEPS else kernel.run
        rows = run(steps, every, *self._before_record, record, *self._after_record)
        columns = record[: rows * 5].reshape(rows, 5).T.copy()
        return Record(*columns)

    def follow(self, segments: Rows, start_c: float, most_s: float, tick_s: float, after_s: float = 0.0) -> Followed:
        """Run a programme (rows as :mod:`rellux.core.control.programme.kernel` has them) whose set-point begins at ``start_c`` to its end
        and ``after_s`` beyond, for ``most_s`` at the most; it looks at the reading every ``tick_s``."""
        tick_steps = max(1, round(tick_s / self.step_s))
        ticks, after = (int(np.ceil(s / (tick_steps * self.step_s))) for s in (most_s, after_s))
        if not 0 < ticks * tick_steps <= MOST_STEPS:
            raise refuse("most_s", "is not a length of time to simulate", "0…50 million seconds")
        record = np.empty((ticks, follow.COLUMNS + int(self._nodes)))
        state, scratch = before_it_runs(start_c), np.empty(10)
        rows = follow.follow(
            ticks,
            tick_steps,
            after,
            segments,
            state,
            *self._before_record,
            scratch,
            *self._after_record,
            record,
        )
        told = record[:rows]
        at, phase = (told[:, c].astype(np.int64) for c in (follow.AT, follow.STANDS))
        time_s, setpoint_c, reading_c, output = (
            told[:, c].copy() for c in (follow.TIME, follow.SET, follow.READING, follow.OUTPUT)
        )
        over = PHASES[int(state[PHASE])] in (Phase.ENDED, Phase.OFF)
        return Followed(time_s, setpoint_c, reading_c, output, at, phase, told[:, follow.COLUMNS :].copy(), over)

    @property
    def _before_record(self) -> tuple[Any, ...]:
        return (
            self._nodes,
            self._plant,
            self._transition,
            self._response,
            self._radiation,
            self._control,
            self._disturbance,
            self._x,
            self._flow,
            self._delay,
            self._state,
        )

    @property
    def _after_record(self) -> tuple[Any, ...]:
        return self._alarms, self._alarm_states, self._does, self._seen
