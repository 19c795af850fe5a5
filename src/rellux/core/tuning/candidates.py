"""Tuning candidates simulated with the rig's own actuator and limits, side by side, and the one to prefer."""

from dataclasses import dataclass, replace
from enum import StrEnum
from math import isfinite

import numpy as np
from numpy.typing import NDArray

from ..control.pid import PID
from ..control.settings import ControllerSettings, Mode
from ..errors import refuse
from ..explain import Figure, Input
from ..messages import difference, temperature
from ..plant.simulation import HALF_CYCLE_S, Disturbance, Record, Simulation
from ..process.models import FOPDT, SOPDT
from ..process.networks import from_model
from ..runs.metrics import Metrics, measure
from ..runs.series import Series
from ..units import Kind
from .family import family
from .robustness import Margins, margins
from .rules import LARGEST_STEP, cap_gain, simc_pi, ziegler_nichols_pid

REACHES = 0.98
"""Share of full-power rise up to which a set-point is one the process reaches (our choice: a hundredth for each of its errors)."""
SETTLED_FROM, UNTIL_DOOR = 0.35, 0.6
"""Parts of a simulated run: judged as steady from here on, and before it the disturbance (our choice)."""
ROBUST_MS = 2.0
"""Largest Ms of a loop that is proposed (Åström & Hägglund, PID Controllers: 1.4 to 2.0)."""

Array = NDArray[np.float64]

STEPS_A_PERIOD = 8.0
ROWS = 600


class Priority(StrEnum):
    """What the user cares about most."""

    NO_OVERSHOOT = "no_overshoot"
    FAST = "fast"
    GENTLE = "gentle"


@dataclass(frozen=True)
class Situation:
    """What the candidates are tried on: the process, the settings in force, ambient, the window and the reading's digit. ``model``: the
    process as it was found, where it has a second lag; ``possible``: those it may be instead; ``noise_c`` of a reading."""

    process: FOPDT
    settings: ControllerSettings
    ambient_c: float
    window_low_c: float
    window_high_c: float
    digit_c: float = 0.1
    model: SOPDT | None = None
    possible: tuple[FOPDT | SOPDT, ...] = ()
    noise_c: float = 0.0

    @property
    def plant(self) -> FOPDT | SOPDT:
        return self.model or self.process

    @property
    def members(self) -> tuple[FOPDT | SOPDT, ...]:
        """Where nothing else is told, processes near the one."""
        p = self.process
        rate = p.gain / p.lag_s
        return self.possible or family((p.gain,) * 3, (rate,) * 3, (p.dead_time_s,) * 3)


class Window(StrEnum):
    """Whether the reading stays in the process window: ``holds`` it whichever of the possible processes it is; ``may_leave`` it with some
    of them; ``leaves`` it with the one that was found."""

    HOLDS = "holds"
    MAY_LEAVE = "may_leave"
    LEAVES = "leaves"


@dataclass(frozen=True)
class Candidate:
    """One set of settings with its simulated response. ``low_c``/``high_c``: where the readings will probably lie, whichever of the
    possible processes it is."""

    key: str
    name: str
    source: str
    aim: str
    settings: ControllerSettings
    figures: tuple[Figure, ...]
    metrics: Metrics
    margins: Margins | None
    ms: Figure | None
    record: Record
    low_c: Array
    high_c: Array
    window: Window


@dataclass(frozen=True)
class Comparison:
    """All candidates, when the door opens (s), and which one each priority prefers, with the reason."""

    candidates: tuple[Candidate, ...]
    disturbance_s: float
    preferred: dict[Priority, str]
    reason: dict[Priority, str]


def effective_dead_time(situation: Situation, process: FOPDT | SOPDT | None = None) -> float:
    """Dead time for tuning in s: L + T_s/2 + d·T_c, of its process or another. A duty latched at the cycle start acts late by its
    on-share."""
    s, p = situation.settings, process or situation.process
    rise = s.setpoint_c - situation.ambient_c
    duty = min(max(rise / (100.0 * p.gain), 0.0), 1.0)
    return p.dead_time_s + s.sample_s / 2.0 + duty * s.period_s


def compare(situation: Situation) -> Comparison:
    """Simulate two rules (SIMC both calm and tight) and on/off on a heat-up and a door opened for a minute.

    Says which candidate suits which priority. Raises ``Refused`` where full power cannot reach the set-point.
    """
    p, s = situation.process, situation.settings
    if s.setpoint_c - situation.ambient_c >= p.full_power_rise_c * REACHES:
        raise refuse(
            "setpoint_c",
            f"full power only reaches {temperature(situation.ambient_c + p.full_power_rise_c, '.0f')} with this process",
            "a lower working temperature, or more power",
        )
    tuned_for = replace(p, dead_time_s=effective_dead_time(situation))
    calm = max(2.0 * tuned_for.dead_time_s, 3.0 * s.sample_s)
    length_s = float(min(max(5.0 * (p.lag_s + 4.0 * tuned_for.dead_time_s), 1200.0), 48 * 3600.0))
    tried = [
        _simulate(
            situation,
            "simc",
            "SIMC, calm",
            "Skogestad 2003, τ_c = 2 L",
            "Least overshoot, forgiving.",
            _with_pid(s, cap_gain(simc_pi(tuned_for, calm), situation.digit_c, tuned_for)),
            length_s,
        ),
        _simulate(
            situation,
            "simc_tight",
            "SIMC, tight",
            "Skogestad 2003, τ_c = L",
            "Faster, still robust.",
            _with_pid(s, cap_gain(simc_pi(tuned_for, tuned_for.dead_time_s), situation.digit_c, tuned_for)),
            length_s,
        ),
        _simulate(
            situation,
            "reaction_curve",
            "Reaction curve, 1942",
            "Ziegler & Nichols 1942, open loop",
            "Quarter decay: fast, overshoots.",
            _with_pid(s, cap_gain(ziegler_nichols_pid(tuned_for), situation.digit_c, tuned_for)),
            length_s,
        ),
        _simulate(
            situation,
            "on_off",
            "On/off",
            "hysteresis as set",
            "Simplest; swings by nature.",
            replace(s, mode=Mode.ON_OFF),
            length_s,
        ),
    ]
    preferred, reason = _prefer(tried)
    return Comparison(tuple(tried), length_s * 0.6, preferred, reason)


def _with_pid(settings: ControllerSettings, pid: PID) -> ControllerSettings:
    return replace(settings, mode=Mode.PID, pid=pid)


def _step(process: FOPDT | SOPDT, settings: ControllerSettings) -> float:
    """A step that resolves dead time, lag and control period, in s. Energy within a step is exact, so the period needs no more."""
    quickest = min(process.lag_s, process.dead_time_s or process.lag_s)
    period = settings.period_s or 10.0
    finest = min(quickest / 20.0, period / STEPS_A_PERIOD, settings.sample_s * 4)
    return float(max(finest, HALF_CYCLE_S if process.lag_s < 1.0 else 5.0 * HALF_CYCLE_S))


def _run(
    process: FOPDT | SOPDT, settings: ControllerSettings, ambient_c: float, duration_s: float, every_s: float
) -> Record:
    """Heat-up from cold, then after 60 % of the time a door opened for a minute: three times the normal loss."""
    door = Disturbance(duration_s * UNTIL_DOOR, duration_s * UNTIL_DOOR + 60.0, 2.0)
    simulation = Simulation(from_model(process), settings, ambient_c, _step(process, settings), (door,))
    return simulation.advance(duration_s, every_s)


def _simulate(
    situation: Situation, key: str, name: str, source: str, aim: str, settings: ControllerSettings, duration_s: float
) -> Candidate:
    fine = _run(
        situation.plant,
        settings,
        situation.ambient_c,
        duration_s,
        min(duration_s / ROWS, (settings.period_s or 60.0) / 8.0),
    )
    undisturbed = fine.time_s < duration_s * UNTIL_DOOR
    series = Series(*(column[undisturbed] for column in fine.columns))
    metrics = measure(series, settings.setpoint_c)
    stride = max(1, len(fine.time_s) // ROWS)
    record = Record(*(column[::stride] for column in fine.columns))
    span = []
    for other in situation.members:
        response = _run(other, settings, situation.ambient_c, duration_s, duration_s / ROWS)
        span.append(np.interp(record.time_s, response.time_s, response.reading_c))
    stack = np.array(span)
    courses = [(series.time_s, series.reading_c), *((record.time_s, course) for course in stack)]
    inside = [_inside(situation, duration_s, *course) for course in courses]
    window = Window.HOLDS if all(inside) else Window.MAY_LEAVE if inside[0] else Window.LEAVES
    loop = _margins(situation, settings, situation.plant) if settings.mode is Mode.PID else None
    return Candidate(
        key,
        name,
        source,
        aim,
        settings,
        _figures(situation, settings, source),
        metrics,
        loop,
        _ms(situation, settings, loop) if loop and isfinite(loop.ms) else None,
        record,
        stack.min(axis=0) - 2.0 * situation.noise_c,
        stack.max(axis=0) + 2.0 * situation.noise_c,
        window,
    )


def _inside(situation: Situation, duration_s: float, time_s: Array, reading_c: Array) -> bool:
    """Before the door opens: never above the window, and not below it once it has settled."""
    settled = (time_s > duration_s * SETTLED_FROM) & (time_s < duration_s * UNTIL_DOOR)
    warmest = reading_c[time_s < duration_s * UNTIL_DOOR].max()
    return bool(np.all(reading_c[settled] >= situation.window_low_c) and warmest <= situation.window_high_c)


def _margins(situation: Situation, settings: ControllerSettings, process: FOPDT | SOPDT) -> Margins:
    late = replace(process, dead_time_s=effective_dead_time(situation, process))
    return margins(settings.pid, late, process.lag_s)


def _ms(situation: Situation, settings: ControllerSettings, loop: Margins) -> Figure:
    p, pid = situation.process, settings.pid
    others = [_margins(situation, settings, m).ms for m in situation.members]
    worst = max(loop.ms, *others)
    sure = isfinite(worst)
    return Figure(
        "Ms",
        loop.ms,
        Kind.RATIO,
        low=min(loop.ms, *others) if sure else None,
        high=worst if sure else None,
        formula="max |1 / (1 + P C)| over frequency",
        inputs=(
            Input("process gain", p.gain, Kind.GAIN, "K", "identified"),
            Input("lag", p.lag_s, Kind.TIME, "τ", "identified"),
            Input(
                "dead time with actuator", effective_dead_time(situation), Kind.TIME, "L", "L + T_s/2 + duty × period"
            ),
            Input("controller gain", pid.gain, Kind.PERCENT_PER_DEGREE, "K_c", "candidate"),
            Input("integral time", pid.integral_time_s, Kind.TIME, "T_i", "candidate"),
            Input("phase margin, degrees", loop.phase_margin, Kind.RATIO, "φ", "computed"),
        ),
        reason="How near the loop comes to swinging by itself: below 1.6 is calm, above 2 is nervous."
        + ("" if sure else " With some of the processes it may be, it swings by itself."),
        source="Åström & Hägglund, PID Controllers, 2nd ed., ch. 4; dead time exact",
        symbol="Ms",
    )


def _figures(situation: Situation, settings: ControllerSettings, source: str) -> tuple[Figure, ...]:
    p = situation.process
    dead = effective_dead_time(situation)
    inputs: tuple[Input, ...] = (
        Input("process gain", p.gain, Kind.GAIN, "K", "identified"),
        Input("lag", p.lag_s, Kind.TIME, "τ", "identified"),
        Input("dead time with actuator", dead, Kind.TIME, "L", "L + T_s/2 + duty × period"),
    )
    if settings.mode is not Mode.PID:
        hysteresis = Input("hysteresis", settings.hysteresis_c, Kind.DIFFERENCE, "H", "set-up")
        return (Figure("hysteresis", settings.hysteresis_c, Kind.DIFFERENCE, inputs=(hysteresis,), source=source),)
    pid = settings.pid
    simc = "1942" not in source
    capped = abs(pid.gain - LARGEST_STEP / situation.digit_c) < 1e-9
    band = "PB = 100 K (τ_c + L) / τ" if simc else "PB = 100 K L / (1.2 τ)"
    integral = "T_i = min(τ, 4 (τ_c + L))" if simc else "T_i = 2 L"
    if capped:
        band = "PB = 100 × digit / 5 %"
        integral += ", at least 4 τ/(K K_c)"
        inputs = (*inputs, Input("one digit of the reading", situation.digit_c, Kind.DIFFERENCE, "digit", "controller"))
    return (
        Figure(
            "proportional band",
            pid.proportional_band_c,
            Kind.DIFFERENCE,
            formula=band,
            inputs=inputs,
            reason="As wide as one digit of the reading needs, which may move the output by {5 %}; the rule alone would be narrower."
            if capped
            else "The width over which the output goes from full to none.",
            source=source,
            symbol="PB",
        ),
        Figure(
            "integral time",
            pid.integral_time_s,
            Kind.TIME,
            formula=integral,
            inputs=inputs,
            reason="How long it takes to remove a standing error.",
            source=source,
            symbol="T_i",
        ),
        Figure(
            "derivative time",
            pid.derivative_time_s,
            Kind.TIME,
            formula="none" if simc else "T_d = L / 2",
            inputs=inputs,
            reason="Looks ahead by this long; zero for a process without a clear second lag.",
            source=source,
            symbol="T_d",
        ),
    )


NEAREST = {
    Window.HOLDS: " that hold the window",
    Window.MAY_LEAVE: "; with some of the processes it may be each leaves the window",
    Window.LEAVES: "; none holds the window",
}
"""What is said of the best there is."""


def _value(figure: Figure | None, otherwise: float) -> float:
    return otherwise if figure is None else figure.value


def _worst_ms(candidate: Candidate) -> float:
    """Ms with the least favourable of the possible processes; without end where one of them swings by itself, or there is no loop."""
    return float("inf") if candidate.ms is None or candidate.ms.high is None else candidate.ms.high


def _prefer(tried: list[Candidate]) -> tuple[dict[Priority, str], dict[Priority, str]]:
    never = float("inf")
    robust = [c for c in tried if _worst_ms(c) < ROBUST_MS]
    loops = robust or [
        min((c for c in tried if c.margins is not None), key=lambda c: c.margins.ms if c.margins else never)
    ]
    calmest = min(loops, key=lambda c: _value(c.metrics.overshoot, 0.0))  # one that only creeps up has none
    rank = list(Window).index
    fastest = min(loops, key=lambda c: (rank(c.window), _value(c.metrics.settling_time, never)))
    gentle = min(
        (c for c in tried if c.margins is None or c in loops),
        key=lambda c: (rank(c.window), _value(c.metrics.switch_rate, never)),
    )
    on_off = next(c for c in tried if c.key == "on_off")
    swing = difference(_value(on_off.metrics.ripple, 0.0), ".2g")
    overshoot = difference(_value(calmest.metrics.overshoot, 0.0), ".2g")
    good_enough = (
        f"On/off would swing {swing} peak to peak"
        + {
            Window.HOLDS: ", inside the window: it is good enough if you like it simple.",
            Window.MAY_LEAVE: ", inside the window as it was found, but with some of the processes it may be it leaves it.",
            Window.LEAVES: " and leave the window.",
        }[on_off.window]
    )
    those = (
        "those with Ms below 2 for all it may be"
        if robust
        else "what there is: no loop here has Ms below 2 for all it may be,"
    )
    preferred = {Priority.NO_OVERSHOOT: calmest.key, Priority.FAST: fastest.key, Priority.GENTLE: gentle.key}
    reason = {
        Priority.NO_OVERSHOOT: f"Smallest overshoot, {overshoot}. {good_enough}",
        Priority.FAST: f"Settles soonest of {those}{NEAREST[fastest.window]}. {good_enough}",
        Priority.GENTLE: f"Fewest switchings of {those}, and on/off{NEAREST[gentle.window]}. {good_enough}",
    }
    return preferred, reason
