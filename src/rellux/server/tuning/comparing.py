"""Candidates of a rig between the database and the core, and as they are shown."""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.equipment.equipment import EquipmentRole
from rellux.core.explain import Figure
from rellux.core.heating.switches import RELAY_OPERATIONS
from rellux.core.plant.rig_models import rests_c
from rellux.core.process.models import FOPDT, SOPDT, times_as_hot
from rellux.core.purpose.purpose import Purpose
from rellux.core.setup.parameters import Sheet, inner_of, settings_from
from rellux.core.tuning.candidates import Candidate, first_trials, remark_of, try_out
from rellux.core.tuning.cascade import heated_chamber
from rellux.core.tuning.comparison import Comparison, compare, loop_figures, ms_of, outcome_figures, setting_figures
from rellux.core.tuning.cooled_too import CooledToo, cooled_too
from rellux.core.tuning.hand import as_entered
from rellux.core.tuning.situation import Situation
from rellux.core.tuning.trials import Trial
from rellux.core.wiring.choice import CONTACTS, Actuator
from rellux.server.answers.once import remembered
from rellux.server.equipment.places import place_of
from rellux.server.rigs.domain import kind_of, purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.setup.domain import current_values, working_values
from rellux.server.zones.places import at_work, purpose_at_work

from .domain import model_of, noise_of, possible, process_of
from .models import Identification

DRAWN = 160
"""Points of a response on the screen."""


@dataclass(frozen=True)
class TrialCourse:
    """A trial of one candidate: times in s from its beginning, °C. ``low_c``/``high_c``: where the reading probably lies."""

    time_s: list[float]
    setpoint_c: list[float]
    reading_c: list[float]
    low_c: list[float]
    high_c: list[float]
    output: list[float]
    figures: list[Figure]


@dataclass(frozen=True)
class CandidateView:
    """``outcome`` of the heat-up, ``door`` of a door opened, ``down`` of a set-point that moves down where a cooler follows,
    ``neighbour`` of other zones that get warmer, where there are some: as found, and the worst of what may be. ``swings``: by itself, with
    process as it was found. ``values``: as a sheet has its numbers."""

    key: str
    name: str
    source: str
    aim: str
    mode: str
    remark: str
    figures: list[Figure]
    metrics: list[Figure]
    outcome: list[Figure]
    door: list[Figure]
    down: list[Figure]
    neighbour: list[Figure]
    loop: list[Figure]
    ms: Figure | None
    swings: bool
    window: str
    values: dict[str, Any]
    course: TrialCourse | None


def situation_of(rig: Rig, row: Identification) -> Situation:
    """What candidates of a rig are made for and tried on."""
    values, purpose = working_values(rig), purpose_at_work(rig)
    room_c, of_gain = rests_c(kind_of(rig), purpose), at_work(rig, row)
    process, model = times_as_hot(process_of(row), of_gain), model_of(row)
    switch = place_of(rig, EquipmentRole.SWITCH)
    wears = rig.actuator and Actuator(rig.actuator) in CONTACTS
    return Situation(
        process,
        settings_from({**values, "mode": Mode.ON_OFF.value, "setpoint_c": rig.working_c, "offset_c": 0.0}),
        room_c,
        rig.lowest_c if rig.lowest_c is not None else rig.ambient_c,
        rig.highest_c,
        model=times_as_hot(model, of_gain) if isinstance(model, SOPDT) else None,
        possible=tuple(times_as_hot(p, of_gain) for p in possible(row)),
        noise_c=noise_of(row),
        now=_now(rig, purpose, values) if current_values(rig) else None,
        chamber=heated_chamber(kind_of(rig), purpose_of(rig), process, room_c),
        cooler=_cooler(purpose, process, values),
        beside=purpose.neighbours.share if purpose.neighbours else 0.0,
        life=(switch.equipment.life if switch and switch.equipment.life else RELAY_OPERATIONS) if wears else None,
    )


def _cooler(purpose: Purpose, process: FOPDT, values: Sheet) -> CooledToo | None:
    """The cooler beside its heater against what the found process loses."""
    band = settings_from(values, purpose).cooling
    return cooled_too(purpose, process, band) if band else None


def _now(rig: Rig, purpose: Purpose, values: Sheet) -> ControllerSettings | None:
    """What the newest sheet has, at the working temperature; nothing where it does not control."""
    settings = settings_from({**values, "offset_c": 0.0})
    if purpose.heater_sensor is not None:
        settings = replace(settings, inner=inner_of(values))
    return replace(settings, setpoint_c=rig.working_c) if settings.mode in (Mode.PID, Mode.ON_OFF) else None


@remembered(6, lasts=True)
def _compared(situation: Situation) -> Comparison:
    """The same situation gives the same answer: opening the station twice simulates once."""
    return compare(situation)


@remembered(16)
def _tried(situation: Situation, key: str, trial: Trial) -> Candidate:
    found = _compared(situation).candidate(key)
    assert found is not None  # see :func:`trial_of`
    return try_out(situation, found.proposal, (trial,))


def comparison(rig: Rig, row: Identification) -> Comparison:
    """All candidates of a rig. Raises ``Refused`` where its set-point cannot be reached."""
    return _compared(situation_of(rig, row))


def trial_of(found: Comparison, candidate: Candidate, trial: Trial) -> TrialCourse:
    """One of its candidates in another trial."""
    if trial in candidate.tried:
        return course_view(found.situation, candidate, trial)
    return course_view(found.situation, _tried(found.situation, candidate.key, trial), trial)


def course_view(situation: Situation, candidate: Candidate, trial: Trial) -> TrialCourse:
    """One trial of one candidate as it is drawn."""
    tried = candidate.tried[trial]
    every = max(1, len(tried.course.time_s) // DRAWN)
    course = tried.course
    columns = (course.time_s, course.setpoint_c, course.reading_c, tried.low_c, tried.high_c, course.output)
    return TrialCourse(*(np.round(c[::every], 2) for c in columns), list(outcome_figures(situation, tried, trial)))  # type: ignore[arg-type]


def _seen(situation: Situation, c: Candidate, trial: Trial) -> list[Figure]:
    """What a trial that all are put through showed; nothing of one that does not concern the rig."""
    wanted = trial in c.tried and trial in first_trials(situation)
    return list(outcome_figures(situation, c.tried[trial], trial)) if wanted else []


def candidate_view(situation: Situation, c: Candidate, trial: Trial | None = None) -> CandidateView:
    """A candidate, with its course in one trial where that is wanted."""
    p, ms = c.proposal, ms_of(situation, c)
    return CandidateView(
        p.key,
        p.name,
        p.source,
        p.aim,
        p.settings.mode.value,
        remark_of(situation, c),
        list(setting_figures(situation, p)),
        list(c.metrics.figures),
        list(outcome_figures(situation, c.heat_up, Trial.HEAT_UP)),
        *(_seen(situation, c, t) for t in (Trial.DOOR, Trial.DOWN, Trial.NEIGHBOUR)),
        list(loop_figures(situation, c)),
        ms,
        c.loop is not None and ms is None,
        c.window.value,
        as_entered(p.settings, situation.chamber is not None),
        course_view(situation, c, trial) if trial else None,
    )
