"""Tuning candidates: settings with what they do on this rig with its own actuator and limits, and on rigs it may be as well."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from math import exp, inf, isfinite, log

import numpy as np
import scipy
from numpy.typing import NDArray

from ..control.pid import PID
from ..control.settings import ControllerSettings, Mode
from ..errors import Refused
from ..messages import temperature
from ..runs.approach import WIDE
from ..runs.metrics import Metrics, measure
from ..runs.series import Series
from .cascade import Cascade, cascade
from .heat_cool import band_for
from .loop_figures import Loop, loop_of
from .optimised import least_error
from .robustness import CALM_MS
from .rules.book import CALM_RULE, RULES
from .rules.capping import cap_gain, ceiling
from .rules.published import simc_pi
from .situation import Situation, check_reaches
from .trials import Course, Outcome, Trial, outcome, put_through, rows_apart_s, thinned

TWO_LOOPS, HEAT_COOL, CALMER = "two_loops", "heat_cool", "simc_calmer"
NEARLY = 0.01
"""How near the logarithm of a closed-loop time is searched (numerical: a hundredth of it)."""
HEATER_OVER = 0.1
"""A heater that gets past the most it may by this share of what it is hotter than the rig is still within (our choice: a loop's own
overshoot, and less than its sensor tells)."""
BAND_C = 1.0
"""Within so many °C of the set-point, or three quarters of a swing, it counts as there, as runs are judged."""
SETTLED_FROM = 0.58
"""Part of a heat-up from which on it is judged as steady (our choice)."""

Array = NDArray[np.float64]


class Window(StrEnum):
    """Whether the reading stays in the process window: ``holds`` it whichever of the possible rigs it is; ``may_leave`` it with some
    of them; ``leaves`` it with the one that was found."""

    HOLDS = "holds"
    MAY_LEAVE = "may_leave"
    LEAVES = "leaves"


@dataclass(frozen=True)
class ProposedTuning:
    """Settings before anything is tried. ``formulas`` of band, integral and derivative time; ``remark``: what is to be said of it here;
    ``closed_loop_s``: τ_c, where it is no plain number of dead times."""

    key: str
    name: str
    source: str
    aim: str
    settings: ControllerSettings
    formulas: tuple[str, str, str] = ("", "", "")
    remark: str = ""
    capped: bool = False
    closed_loop_s: float | None = None


@dataclass(frozen=True)
class TriedOut:
    """One trial of one candidate. ``course``: on the rig as it was found, for drawing; ``low_c``/``high_c``: where the readings of rigs
    that it may be lie; ``found``: what is seen of the one, ``worst`` the worst of each of all of them."""

    course: Course
    low_c: Array
    high_c: Array
    found: Outcome
    worst: Outcome


@dataclass(frozen=True)
class Candidate:
    """A proposal with its simulated trials and what kind of loop it is; ``loop`` is none for on/off."""

    proposal: ProposedTuning
    metrics: Metrics
    loop: Loop | None
    tried: dict[Trial, TriedOut]
    window: Window

    @property
    def key(self) -> str:
        return self.proposal.key

    @property
    def heat_up(self) -> TriedOut:
        return self.tried[Trial.HEAT_UP]


def band_of(metrics: Metrics) -> float:
    """Within what it counts as there, °C."""
    return max(BAND_C, WIDE * metrics.ripple.value) if metrics.ripple else BAND_C


def proposals(situation: Situation) -> Iterator[ProposedTuning]:
    """What is tried: what is in the controller, every rule that starts from what is known, the two optimised ones, on/off.

    Raises ``Refused`` where full power cannot reach the set-point."""
    check_reaches(situation)
    s = situation.settings
    if situation.now:
        yield ProposedTuning("now", "As it is set", "the newest sheet", "What there is to beat.", situation.now)
    for rule in RULES:
        if rule.fits(situation.known):
            pid, capped = _capped(situation, rule.settings(situation.known))
            remark = rule.beyond(situation.known)
            yield ProposedTuning(
                rule.key, rule.name, rule.source, rule.aim, situation.with_pid(pid), rule.formulas, remark, capped
            )
    yield from _calmer(situation)
    yield from _optimised(situation)
    yield from _two_loops(situation)
    swings = "Simplest; swings by nature."
    yield ProposedTuning("on_off", "On/off", "hysteresis as set", swings, replace(s, mode=Mode.ON_OFF))


def calm_settings(situation: Situation) -> ControllerSettings:
    """Those of the calm rule: what others are held against."""
    return situation.with_pid(_capped(situation, CALM_RULE.settings(situation.known))[0])


def _capped(situation: Situation, pid: PID) -> tuple[PID, bool]:
    limits = (situation.digit_c, situation.noise_c, situation.settings.sample_s)
    return cap_gain(pid, situation.known.one, *limits), pid.gain > ceiling(pid, *limits)


def _calmer(situation: Situation) -> Iterator[ProposedTuning]:
    """SIMC slowed until Ms is calm with all the rig may be; nothing where it is so as it stands, or no slower one is."""
    one = situation.known.one
    ends = log(situation.known.calm_s), log(max(one.lag_s, situation.known.calm_s))

    def made(slower: float) -> tuple[PID, bool]:
        return _capped(situation, simc_pi(one, exp(slower)))

    def nervous(slower: float) -> float:
        return loop_of(situation, situation.with_pid(made(slower)[0])).worst_ms - CALM_MS

    if nervous(ends[0]) <= 0.0 or nervous(ends[1]) > 0.0:
        return
    slower = scipy.optimize.bisect(nervous, *ends, xtol=NEARLY) + NEARLY  # on the calm side of it
    if nervous(slower) > 0.0:
        return
    pid, capped = made(slower)
    yield ProposedTuning(
        CALMER,
        "SIMC, calmer",
        f"SIMC (Skogestad 2003), τ_c for Ms of {CALM_MS:g} at the worst",
        "Calm with all that the record leaves possible.",
        situation.with_pid(pid),
        CALM_RULE.formulas,
        capped=capped,
        closed_loop_s=exp(slower),
    )


def _optimised(situation: Situation) -> Iterator[ProposedTuning]:
    limits = (situation.digit_c, situation.noise_c, situation.settings.sample_s)
    known = situation.known.two or situation.known.one
    for derivative in (False, True):
        pid = least_error(known, derivative, lambda pid: ceiling(pid, *limits))
        if pid:
            how = ("with derivative" if derivative else "PI", "_pid" if derivative else "_pi")
            yield ProposedTuning(
                f"optimised{how[1]}",
                f"Optimised, {how[0]}",
                f"least error after a load with Ms up to {CALM_MS:g} on the process as found",
                "Least left after a door or a load.",
                situation.with_pid(pid),
                ("searched", "searched", "searched" if derivative else "none"),
            )


def two_loops(situation: Situation) -> Cascade | None:
    """Of a rig with a second sensor at its heater, as they are worked out; ``None`` where it is looked at too seldom, or no controller
    takes them."""
    s, chamber = situation.settings, situation.chamber
    if chamber is None:
        return None
    try:
        found = cascade(chamber, s.sample_s, s.period_s, situation.digit_c, situation.noise_c)
    except Refused:
        return None
    return found if found.fits else None


def _two_loops(situation: Situation) -> Iterator[ProposedTuning]:
    found = two_loops(situation)
    if found is None:
        return
    yield ProposedTuning(
        TWO_LOOPS,
        "Two loops",
        "SIMC (Skogestad 2003), the inner loop first (Åström & Hägglund 1995)",
        "What the mains do to the heater hardly comes through; the heater is never asked for more than it may.",
        found.settings(situation.settings, situation.ambient_c),
        ("PB = 100 (K (τ_c + L)) / τ", "min(τ, 4 (τ_c + L))", "none"),
    )


def heat_cool(situation: Situation, numbers: Candidate) -> ProposedTuning | None:
    """The numbers of another one, and the cooler beside the heater as near as it may come on with them; ``None`` where there is none, or no
    distance is enough."""
    too, other = situation.cooler, numbers.proposal
    if too is None:
        return None
    band = band_for(situation.plant, too, other.settings, situation.ambient_c, situation.window_high_c)
    if band is None:
        return None
    return replace(
        other,
        key=HEAT_COOL,
        name="Heat and cool",
        aim=f"The numbers of {other.name}; the cooler as near as it may come on: a set-point down is followed too.",
        settings=replace(other.settings, cooling=band),
        remark=f"{other.remark} Its heat-up and its door are those without the cooler, which may have failed.".strip(),
    )


def first_trials(situation: Situation) -> tuple[Trial, ...]:
    """What every candidate is put through: a heat-up and a door; a set-point that moves down where a cooler follows it, neighbours where
    there are some."""
    down = (Trial.DOWN,) if situation.cooler else ()
    return (Trial.HEAT_UP, Trial.DOOR, *down, *((Trial.NEIGHBOUR,) if situation.beside else ()))


def try_out(situation: Situation, proposal: ProposedTuning, trials: Sequence[Trial] = (Trial.HEAT_UP,)) -> Candidate:
    """A proposal put through a heat-up and more trials, on the rig as it was found and on those it may be."""
    settings, wanted = proposal.settings, (Trial.HEAT_UP, *(t for t in trials if t is not Trial.HEAT_UP))
    stage = replace(situation.stage, cooling=settings.cooling) if settings.cooling else situation.stage
    step_s, apart_s = situation.step_s(settings), rows_apart_s(situation.members, settings)
    found = put_through(situation.network, settings, stage, wanted, step_s)
    others = [put_through(network, settings, stage, wanted, step_s, apart_s) for network in situation.judges]
    metrics = _metrics(found[Trial.HEAT_UP], settings)
    tried = {t: _tried(situation, t, found[t], [o[t] for o in others], band_of(metrics)) for t in wanted}
    inside = [_inside(situation, courses[Trial.HEAT_UP]) for courses in (found, *others)]
    window = Window.HOLDS if all(inside) else Window.MAY_LEAVE if inside[0] else Window.LEAVES
    loop = loop_of(situation, settings) if settings.mode is Mode.PID else None
    return Candidate(proposal, metrics, loop, tried, window)


def _metrics(course: Course, settings: ControllerSettings) -> Metrics:
    series = Series(course.time_s, course.setpoint_c, course.reading_c, course.output, course.switch)
    return measure(series, settings.setpoint_c, BAND_C)


def _tried(situation: Situation, trial: Trial, course: Course, others: Sequence[Course], band_c: float) -> TriedOut:
    shown, room = thinned(course), 2.0 * situation.noise_c
    seen = [outcome(c, trial, band_c) for c in (course, *others)]
    span = [shown.reading_c, *(np.interp(shown.time_s, o.time_s, o.reading_c) for o in others)]
    worst = Outcome(
        *(max(getattr(o, name) for o in seen) for name in ("away_c", "back_s", "mean_c", "behind_c", "heater_c"))
    )
    return TriedOut(shown, np.min(span, axis=0) - room, np.max(span, axis=0) + room, seen[0], worst)


def _inside(situation: Situation, course: Course) -> bool:
    """Never above the window, and not below it once a heat-up has settled."""
    settled = course.time_s > SETTLED_FROM * course.time_s[-1]
    low, high = situation.window_low_c, situation.window_high_c
    return bool(np.all(course.reading_c[settled] >= low) and course.reading_c.max() <= high)


def too_hot(situation: Situation, candidate: Candidate) -> bool:
    """Whether a heater with a sensor of its own gets hotter in a heat-up, with some of the rigs it may be, than it may."""
    chamber = situation.chamber
    if chamber is None:
        return False
    most = situation.ambient_c + chamber.most_c + HEATER_OVER * chamber.hotter_c
    return candidate.heat_up.worst.heater_c > most


def remark_of(situation: Situation, candidate: Candidate) -> str:
    """What is to be said of a candidate here."""
    said = candidate.proposal.remark
    if not too_hot(situation, candidate):
        return said
    worst = temperature(candidate.heat_up.worst.heater_c, ".0f")
    return f"{said} Its heater may get to {worst}, which is more than it may.".strip()


def worst_ms(candidate: Candidate) -> float:
    """Ms with the least favourable of the possible processes; without end where one of them swings by itself, or there is no loop."""
    if candidate.loop is None:
        return inf
    return candidate.loop.worst_ms if isfinite(candidate.loop.margins.ms) else inf
