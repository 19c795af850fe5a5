"""What is wrong with a run, and which one of the things that could be put right would mend it: by simulating each on this rig.

The run is told by a few features: how far over, how long until it is there, how far off at the end, how much it swings there and how often,
what output that takes, how noisy the reading is. First the rig is simulated with the settings in force: where that is not what was
recorded, by more than the rigs it may be differ among themselves, something on the rig has changed, and each such cause is simulated. Where
it is, the fault is in the numbers, and each is put right by itself: the cause is the one that mends most.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from enum import StrEnum
from math import inf, isfinite, log

import numpy as np
from numpy.typing import NDArray

from ..control.settings import FULL_OUTPUT, ControllerSettings, Mode
from ..errors import Refused, refuse
from ..messages import difference, quantity
from ..plant.simulation import Simulation
from ..process.networks import ThermalNetwork
from ..runs.approach import holds, longest
from ..runs.cycles import noise_of
from ..runs.lost import Lost
from ..runs.series import Series
from .broken import unbroken
from .candidates import calm_settings
from .hand import HandNumbers, numbers_of
from .identify import identify
from .loop_figures import loop_of
from .replayed import SAME_OUTPUT, unlike_output
from .robustness import NERVOUS_MS
from .rules.capping import noise_gain
from .situation import REACHES, Situation
from .stretch import Stretch

LEAST_ROWS = 40
ROWS = 400
"""A run is looked at in so many rows."""
LATE = 0.6
"""From this part of it on it should hold."""
THERE = 0.95
"""It is there from so much of the way on."""
TOLERATED_C, OF_RISE = 1.0, 0.02
"""What nobody complains of: so many °C, or so much of the way (our choice)."""
SLOWER = 1.5
"""Nor of taking so many times as long as it would with calm numbers."""
MENDS, TELLS = 0.35, 0.1
"""A cause is named from such a share of the complaint mended or explained on; two nearer than the second are one (our choice)."""
FEW_JUDGES, UNLIKE = 7, 3.0
"""Rigs whose differences are the measure, and how many of those the record must be off on average to be another rig (our choice)."""
WORSE_NUMBERS = 1.3
"""A number nearer to the calm one than so many times is not at fault (our choice)."""
PERIOD_OF_DEAD_TIME = 0.25
"""A control period up to such a share of the dead time shows in nothing (our choice)."""
SHORTEST_PERIOD_S = 1.0
OUTPUT_NOISE = 3.0
"""An output that wanders by so many % (standard deviation) with its noise alone is complained of (our choice)."""
FLOOR = (0.5, 0.5, 0.5, 0.25, 0.7, 5.0)
"""What nobody tells apart: of sizes (over, off, swing) by their area sine in what is tolerated, time and crossings by their logarithm, and
the output in % (our choice)."""
WEAK, LATER, HEAVY = (0.85, 0.7, 0.55, 0.45, 0.35, 0.25), (1.6, 2.2, 3.0, 4.2, 6.0), (1.5, 2.0, 2.8, 4.0)
"""Rig causes as they are tried: power, dead time and heat capacity in shares of what was found."""

Array = NDArray[np.float64]


class Cause(StrEnum):
    """What may be at fault: a number of the controller, or something on the rig."""

    GAIN_HIGH = "gain_high"
    GAIN_LOW = "gain_low"
    INTEGRAL_SHORT = "integral_short"
    INTEGRAL_LONG = "integral_long"
    DERIVATIVE = "derivative"
    PERIOD = "period"
    OUTPUT_LIMIT = "output_limit"
    NOISE = "noise"
    WEAK = "weak"
    LATE = "late"
    HEAVY = "heavy"


NAMES = {
    Cause.GAIN_HIGH: "The proportional band is too narrow",
    Cause.GAIN_LOW: "The proportional band is too wide",
    Cause.INTEGRAL_SHORT: "The integral time is too short",
    Cause.INTEGRAL_LONG: "The integral time is too long, or there is none",
    Cause.DERIVATIVE: "There is too much derivative",
    Cause.PERIOD: "The control period is too long",
    Cause.OUTPUT_LIMIT: "The output limit holds it back",
    Cause.NOISE: "Noise of the reading comes through to the output",
    Cause.WEAK: "There is less power than there was: mains, an element, a joint",
    Cause.LATE: "It answers later than it did: the probe moved or got loose, a filter, a slower look",
    Cause.HEAVY: "There is more to heat than there was",
}
OTHERWISE = "The process that was found does not explain this run. By the one that the run itself shows:"
OF_PID = (Cause.GAIN_HIGH, Cause.GAIN_LOW, Cause.INTEGRAL_SHORT, Cause.INTEGRAL_LONG, Cause.DERIVATIVE, Cause.NOISE)
ON_RIG = (Cause.WEAK, Cause.LATE, Cause.HEAVY)


@dataclass(frozen=True)
class Seen:
    """What is seen of a run. ``over_c`` above the set-point; ``there_s`` to 95 % of the way (infinite: never); ``off_c``: the mean of the
    late part less the set-point; ``swing_c`` and ``crossings`` of the late part; ``output``: its mean, %; ``noise_c`` of a reading."""

    over_c: float
    there_s: float
    off_c: float
    swing_c: float
    crossings: int
    output: float
    noise_c: float


@dataclass(frozen=True)
class Blamed:
    """A cause with how much of the complaint it mends or explains (0 to 1), and the change; ``settings``: with the change made, where it is
    one of the controller's numbers and leaves Ms below 2."""

    cause: Cause
    share: float
    change: str
    settings: ControllerSettings | None

    @property
    def numbers(self) -> HandNumbers | None:
        """The change as PID numbers, where it is one of them."""
        return numbers_of(self.settings) if self.settings and self.cause in OF_PID else None


@dataclass(frozen=True)
class Diagnosis:
    """``complaints`` in words; ``causes`` likeliest first, none where nothing is wrong or none explains it; ``says`` the answer."""

    seen: Seen
    complaints: tuple[str, ...]
    causes: tuple[Blamed, ...]
    says: str


@dataclass(frozen=True)
class _Run:
    """One approach: times from its beginning, readings, outputs, and from where to where."""

    time_s: Array
    reading_c: Array
    output: Array
    setpoint_c: float

    @property
    def way_c(self) -> float:
        return self.setpoint_c - float(self.reading_c[0])


def diagnose(situation: Situation, settings: ControllerSettings, series: Series) -> Diagnosis:
    """A recorded approach, with the settings that were in force; held against the calm rule's.

    Raises ``Refused`` for a run that is no approach from below, or was not under these numbers."""
    if settings.mode is not Mode.PID:
        raise refuse("run", "it was not controlled by PID: on/off swings by nature", "a run under PID")
    if settings.inner is not None:
        reason = "two loops were at work, and this judges the numbers of one"
        raise refuse("run", reason, "a run under one loop, or Tuning’s candidates")
    run = _approach(series, settings)
    settings = replace(settings, setpoint_c=run.setpoint_c)
    _check_controlled(run, settings, situation.process.dead_time_s)
    here = _as_it_should_be(situation, run.setpoint_c)
    calm = calm_settings(here)
    seen, tolerated = _seen(run), _tolerated(here, run)
    ideal = _seen(_simulated(here, here.network, calm, run))
    said, lost = tuple(_complaints(seen, ideal, tolerated, settings)), Lost.of(run.time_s, run.reading_c)
    if not said:
        nothing = f"Nothing to complain of beyond {difference(tolerated, '.2g')}: it gets there, and holds at the end."
        return Diagnosis(seen, (), (), f"{nothing} {lost.says}".strip())
    found = sorted(_blamed(here, settings, calm, run, seen, ideal, tolerated), key=lambda b: -b.share)
    named = tuple(b for b in found if b.share >= MENDS)
    if named:
        return Diagnosis(seen, said, named, f"{_says(named)} {lost.says}".strip())
    own = _of_this_run(here, run)
    if own:  # the process that was found is not this one: by the one that this run shows itself, the numbers alone may be at fault
        found = [
            b for b in _blamed(own, settings, calm_settings(own), run, seen, ideal, tolerated) if b.cause not in ON_RIG
        ]
        named = tuple(sorted((b for b in found if b.share >= MENDS), key=lambda b: -b.share))
    if named:
        return Diagnosis(seen, said, named, f"{OTHERWISE} {_says(named)} {lost.says}".strip())
    return Diagnosis(seen, said, (), f"{_says(())} {lost.says}".strip())


def _as_it_should_be(situation: Situation, setpoint_c: float) -> Situation:
    """The rig with nothing in its controller that may be at fault besides PID: a period that shows in nothing, and all of the output."""
    shows_not = max(PERIOD_OF_DEAD_TIME * situation.process.dead_time_s, SHORTEST_PERIOD_S)
    settings = situation.settings
    return replace(
        situation,
        settings=replace(
            settings,
            setpoint_c=setpoint_c,
            period_s=min(settings.period_s, shows_not),
            output_high=float(FULL_OUTPUT),
        ),
    )


def _tolerated(situation: Situation, run: _Run) -> float:
    """What nobody complains of, °C: no more than the window leaves on the nearer side, where the run is within it."""
    usual = max(TOLERATED_C, OF_RISE * run.way_c)
    room = min(situation.window_high_c - run.setpoint_c, run.setpoint_c - situation.window_low_c)
    return min(usual, max(room, situation.digit_c)) if room > 0.0 else usual


def _of_this_run(situation: Situation, run: _Run) -> Situation | None:
    """The rig as this run alone shows it, where it does."""
    try:
        found = identify(*unbroken(Stretch(run.time_s, run.reading_c, run.output, situation.ambient_c)))
    except Refused:
        return None
    own = replace(situation, process=found.process, model=None, possible=(), noise_c=found.noise_c)
    if not found.verdict.usable or own.rise_c >= REACHES * found.process.full_power_rise_c:
        return None
    return own


def _says(named: tuple[Blamed, ...]) -> str:
    if not named:
        return "None of the known causes explains it: a door, a cold load, a loose wire, or the process found no longer holds."
    if len(named) > 1 and named[0].share - named[1].share < TELLS:
        first, second = (NAMES[b.cause] for b in named[:2])
        return f"It cannot be told which: {first.lower()}, or {second.lower()}. Put the first right, and record again."
    return f"{NAMES[named[0].cause]}."


def _approach(series: Series, settings: ControllerSettings) -> _Run:
    found = holds(series)
    hold = longest(found) if found else None
    part = series.between(hold.start_s, hold.end_s) if hold else series
    output = np.where(np.isfinite(part.output), part.output, 100.0 * part.switch)
    good = np.isfinite(part.reading_c) & np.isfinite(output)
    t, y, u = part.time_s[good], part.reading_c[good], output[good]
    if len(t) < LEAST_ROWS:
        raise refuse("run", f"only {len(t)} rows with reading and output", f"at least {LEAST_ROWS}")
    run = _Run(t - t[0], y, u, hold.setpoint_c if hold else settings.setpoint_c)
    if run.way_c < 3.0 * TOLERATED_C:
        raise refuse("run", "it does not begin well below its set-point", "a heat-up, or a step up of the set-point")
    return run


def _check_controlled(run: _Run, settings: ControllerSettings, dead_s: float) -> None:
    off = unlike_output(run.time_s, run.reading_c, run.output, settings, dead_s)
    if off > SAME_OUTPUT:
        raise refuse(
            "run",
            f"its output is not what the numbers of its sheet make of this reading, by {quantity(off, '%', '.0f')} on average: "
            "it was in manual, its set-point climbed by a ramp, or the controller held other numbers",
            "a run under the numbers of its sheet",
        )


def _seen(run: _Run) -> Seen:
    t, y, u = run.time_s, run.reading_c, run.output
    late = t >= LATE * t[-1]
    there = np.flatnonzero(y - y[0] >= THERE * run.way_c)
    noise = noise_of(y)
    low, high = np.percentile(y[late], (2.0, 98.0))
    swing = max(float(high - low) - 4.0 * noise, 0.0)  # of noise alone 4.1 (normal distribution)
    middle, guard = (low + high) / 2.0, max(0.2 * (high - low), 2.5 * noise)
    state = np.where(y[late] > middle + guard, 1, np.where(y[late] < middle - guard, -1, 0))
    decided = state[state != 0]
    return Seen(
        max(float(y.max()) - 2.0 * noise - run.setpoint_c, 0.0),
        float(t[there[0]]) if len(there) else inf,
        float(y[late].mean()) - run.setpoint_c,
        swing,
        int(np.sum(decided[1:] != decided[:-1])) if swing > 0 else 0,
        float(u[late].mean()),
        noise,
    )


def _complaints(seen: Seen, ideal: Seen, tolerated: float, settings: ControllerSettings) -> Iterator[str]:
    if seen.over_c > tolerated:
        yield f"It goes {difference(seen.over_c, '.1f')} over."
    if seen.there_s == inf:
        yield "It never arrives."
    elif isfinite(ideal.there_s) and seen.there_s > SLOWER * ideal.there_s:
        yield f"It takes {quantity(seen.there_s / 60.0, 'min', '.0f')} to get there."
    if abs(seen.off_c) > tolerated and seen.swing_c < 4.0 * abs(seen.off_c):
        yield f"It ends {difference(seen.off_c, '+.1f')} off."
    if seen.swing_c > 2.0 * tolerated:
        yield f"It keeps swinging by {difference(seen.swing_c, '.1f')}."
    if _output_noise(seen, settings) > OUTPUT_NOISE:
        yield f"The noise of the reading makes the output wander by {quantity(_output_noise(seen, settings), '%', '.0f')}."


def _output_noise(seen: Seen, settings: ControllerSettings) -> float:
    """What the noise of the reading makes of the output, % (standard deviation)."""
    return seen.noise_c * noise_gain(settings.pid, settings.sample_s)


def _badness(seen: Seen, ideal: Seen, tolerated: float, noise: float) -> float:
    """How much there is to complain of, in what is tolerated of each."""
    slow = 0.0
    if isfinite(ideal.there_s):
        slow = log(max(min(seen.there_s, 20.0 * ideal.there_s) / ideal.there_s, 1.0)) / log(SLOWER)
    return (
        seen.over_c / tolerated
        + seen.swing_c / (2.0 * tolerated)
        + max(abs(seen.off_c) / tolerated - seen.swing_c / (4.0 * tolerated), 0.0)
        + slow
        + noise / OUTPUT_NOISE
    )


def _blamed(
    situation: Situation,
    settings: ControllerSettings,
    calm: ControllerSettings,
    run: _Run,
    seen: Seen,
    ideal: Seen,
    tolerated: float,
) -> Iterator[Blamed]:
    here = situation.network
    as_is = _seen(_simulated(situation, here, settings, run))
    others = [_seen(_simulated(situation, n, settings, run)) for n in situation.judges[:FEW_JUDGES]]
    unlike = _unlike(seen, as_is, others, tolerated)
    in_numbers = 1.0 / (1.0 + (unlike / UNLIKE) ** 2)
    noise = _output_noise(seen, settings)
    bad = max(_badness(as_is, ideal, tolerated, noise), _badness(seen, ideal, tolerated, noise))
    most = 0.0
    for cause, mended in _numbers(situation, settings, calm, noise):
        better = _seen(_simulated(situation, here, mended, run))
        left = _badness(better, ideal, tolerated, _output_noise(seen, mended))
        share = in_numbers * max((_badness(as_is, ideal, tolerated, noise) - left) / bad, 0.0)
        most = max(most, share)
        safe = loop_of(replace(situation, settings=mended), mended).worst_ms <= NERVOUS_MS  # with its own period
        change = _change(cause, settings, mended)
        yield Blamed(
            cause,
            share,
            change if safe else f"{change}: nervous with the rest as it is; take calm numbers for all.",
            mended if safe else None,
        )
    nearest: dict[Cause, float] = {}
    for cause, network in _rigs(here):
        explains = _unlike(seen, _seen(_simulated(situation, network, settings, run)), others, tolerated)
        nearest[cause] = min(nearest.get(cause, inf), explains)
    for cause, explains in nearest.items():
        share = (1.0 - most) * max(1.0 - (explains / unlike) ** 2, 0.0) if unlike > 0 else 0.0
        yield Blamed(cause, share, "Look at the rig first; then learn the process anew.", None)


def _numbers(
    situation: Situation, settings: ControllerSettings, calm: ControllerSettings, noise: float
) -> Iterator[tuple[Cause, ControllerSettings]]:
    """Each of the controller's numbers that is far from the calm one, put right by itself."""
    pid, good = settings.pid, calm.pid
    if pid.gain > WORSE_NUMBERS * good.gain:
        yield Cause.GAIN_HIGH, replace(settings, pid=replace(pid, gain=good.gain))
    if pid.gain < good.gain / WORSE_NUMBERS:
        yield Cause.GAIN_LOW, replace(settings, pid=replace(pid, gain=good.gain))
    if pid.integral_time_s < good.integral_time_s / WORSE_NUMBERS:
        yield Cause.INTEGRAL_SHORT, replace(settings, pid=replace(pid, integral_time_s=good.integral_time_s))
    if pid.integral_time_s > WORSE_NUMBERS * good.integral_time_s:
        yield Cause.INTEGRAL_LONG, replace(settings, pid=replace(pid, integral_time_s=good.integral_time_s))
    if pid.derivative_time_s > WORSE_NUMBERS * max(good.derivative_time_s, situation.process.dead_time_s / 2.0):
        yield Cause.DERIVATIVE, replace(settings, pid=replace(pid, derivative_time_s=good.derivative_time_s))
    elif noise > OUTPUT_NOISE and pid.derivative_time_s > good.derivative_time_s:
        yield Cause.NOISE, replace(settings, pid=replace(pid, derivative_time_s=good.derivative_time_s))
    if settings.period_s > WORSE_NUMBERS * calm.period_s:
        yield Cause.PERIOD, replace(settings, period_s=calm.period_s)
    if settings.output_high < FULL_OUTPUT:
        yield Cause.OUTPUT_LIMIT, replace(settings, output_high=float(FULL_OUTPUT))


def _rigs(network: ThermalNetwork) -> Iterator[tuple[Cause, ThermalNetwork]]:
    """The rig with something changed on it, each in more than one size."""
    for share in WEAK:
        yield Cause.WEAK, replace(network, heater_power_w=network.heater_power_w * share)
    for times in LATER:
        yield Cause.LATE, replace(network, dead_time_s=network.dead_time_s * times)
    for times in HEAVY:
        yield Cause.HEAVY, replace(network, capacities=tuple(c * times for c in network.capacities))


def _unlike(seen: Seen, other: Seen, judges: list[Seen], tolerated: float) -> float:
    """How unlike two runs are, in what rigs that fit the record differ among themselves (root of the mean square of the features)."""

    def told(s: Seen) -> Array:
        there = min(s.there_s, 1e7)
        sizes = np.arcsinh(np.array([s.over_c, s.off_c, s.swing_c]) / tolerated)
        return np.array([*sizes, log(there), log(1.0 + s.crossings), s.output])

    floor = np.array(FLOOR)
    spread = np.std([told(j) for j in judges], axis=0) if judges else 0.0
    off = (told(seen) - told(other)) / np.hypot(floor, spread)
    return float(np.sqrt(np.mean(np.clip(off, -6.0, 6.0) ** 2)))


def _simulated(situation: Situation, network: ThermalNetwork, settings: ControllerSettings, run: _Run) -> _Run:
    """The same approach, from where it began."""
    lasts = float(run.time_s[-1])
    every = lasts / ROWS
    step = min(situation.step_s(settings), every)
    rig = Simulation(network, _begun(settings, run), situation.ambient_c, step)
    begins = float(run.reading_c[0])
    if begins > situation.ambient_c + TOLERATED_C:
        held = min(max((begins - situation.ambient_c) / network.heater_power_w * 100.0, 0.0), 100.0)
        rig.start_at(begins, held)
    record = rig.advance(lasts, every)
    return _Run(record.time_s, record.reading_c, record.output, run.setpoint_c)


def _begun(settings: ControllerSettings, run: _Run) -> ControllerSettings:
    """Without a soft start where the run shows that power had been on before."""
    early = run.time_s < settings.soft_start_s
    most = settings.output_high * run.time_s[early] / max(settings.soft_start_s, 1.0) + SAME_OUTPUT
    return replace(settings, soft_start_s=0.0) if np.any(run.output[early] > most) else settings


def _change(cause: Cause, was: ControllerSettings, now: ControllerSettings) -> str:
    if cause in (Cause.GAIN_HIGH, Cause.GAIN_LOW):
        return (
            f"Proportional band {difference(was.pid.proportional_band_c, '.3g')} → "
            f"{difference(now.pid.proportional_band_c, '.3g')}"
        )
    if cause in (Cause.INTEGRAL_SHORT, Cause.INTEGRAL_LONG):
        before = quantity(was.pid.integral_time_s, "s", ".0f") if isfinite(was.pid.integral_time_s) else "none"
        return f"Integral time {before} → {quantity(now.pid.integral_time_s, 's', '.0f')}"
    if cause in (Cause.DERIVATIVE, Cause.NOISE):
        return f"Derivative time {quantity(was.pid.derivative_time_s, 's', '.0f')} → {quantity(now.pid.derivative_time_s, 's', '.0f')}"
    if cause is Cause.PERIOD:
        return f"Control period {quantity(was.period_s, 's', '.3g')} → {quantity(now.period_s, 's', '.2g')}, where the switch stands that"
    return f"Output limit {quantity(was.output_high, '%', '.0f')} → {quantity(now.output_high, '%', '.0f')}"
