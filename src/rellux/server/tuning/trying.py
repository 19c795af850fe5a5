"""Trying things out in the tuning station: candidates in another trial, and settings by hand."""

from dataclasses import dataclass

from django.shortcuts import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import refuse
from rellux.core.tuning.candidates import first_trials, try_out
from rellux.core.tuning.fit_verdict import FitVerdict
from rellux.core.tuning.hand import HandNumbers, proposal_of
from rellux.core.tuning.schools import TuningSchool, schools
from rellux.core.tuning.situation import Situation, check_reaches
from rellux.core.tuning.trials import Trial
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.rigs.models import Rig

from .comparing import CandidateView, TrialCourse, candidate_view, comparison, situation_of, trial_of
from .models import Identification

MOST_AT_ONCE = 8


@dataclass(frozen=True)
class TriedView:
    """One candidate in the trial that was asked for."""

    key: str
    course: TrialCourse


@dataclass(frozen=True)
class TrialsInput:
    """``candidates``: the keys of those that are drawn."""

    trial: Trial
    candidates: list[str]


@dataclass(frozen=True)
class TrialsView:
    trial: str
    candidates: list[TriedView]


@dataclass(frozen=True)
class TryInput:
    """``trial``: what they are put through besides the heat-up."""

    numbers: HandNumbers
    trial: Trial = Trial.HEAT_UP


@dataclass(frozen=True)
class SchoolsView:
    schools: list[TuningSchool]


def found_for(rig: Rig) -> Identification:
    """The newest fit. Raises ``Refused`` where there is none that may be used."""
    row = rig.identifications.first()
    if row is None:
        raise refuse("candidate", "no process has been found yet", "a run to learn from")
    if not FitVerdict(row.verdict).usable:
        reason = f"the process is not known well enough. {row.result['verdict_reason']}"
        raise refuse("candidate", reason, "a run that shows what the heater does")
    return row


def _check_trial(situation: Situation, trial: Trial) -> None:
    """Raises ``Refused`` for a trial that does not concern the rig."""
    if trial not in situation.stage.trials:
        raise refuse("trial", "it has no other zones beside it", ", ".join(situation.stage.trials))


class TryTrials(APIView):
    changes_rig = False

    @endpoint("tryTrials", TrialsView, TrialsInput)
    def post(self, request: Request, slug: str) -> Response:
        """Candidates in one of the trials, on the rig as it was found and on those it may be."""
        rig, given = get_object_or_404(Rig, slug=slug), read(request, TrialsInput)
        if not 1 <= len(given.candidates) <= MOST_AT_ONCE:
            raise refuse("candidates", "so many are not drawn at once", f"1…{MOST_AT_ONCE}")
        found, tried = comparison(rig, found_for(rig)), []
        _check_trial(found.situation, given.trial)
        for i, key in enumerate(given.candidates):
            candidate = found.candidate(key)
            if candidate is None:
                keys = ", ".join(c.key for c in found.candidates)
                raise refuse(f"candidates[{i}]", f"{key!r} is not a candidate", keys)
            tried.append(TriedView(key, trial_of(found, candidate, given.trial)))
        return reply(TrialsView(given.trial.value, tried))


class TryByHand(APIView):
    changes_rig = False

    @endpoint("tryByHand", CandidateView, TryInput)
    def post(self, request: Request, slug: str) -> Response:
        """What one's own numbers would do."""
        rig, given = get_object_or_404(Rig, slug=slug), read(request, TryInput)
        situation = reachable(rig)
        _check_trial(situation, given.trial)
        candidate = try_out(
            situation, proposal_of(situation, given.numbers), tuple({*first_trials(situation), given.trial})
        )
        return reply(candidate_view(situation, candidate, given.trial))


class Schools(APIView):
    @endpoint("tuningSchools", SchoolsView)
    def get(self, request: Request, slug: str) -> Response:
        """The manual schools, each with the numbers this rig will stop at by its model."""
        return reply(SchoolsView(list(schools(reachable(get_object_or_404(Rig, slug=slug))))))


def reachable(rig: Rig) -> Situation:
    """What is tried on. Raises ``Refused`` where no process is known well enough, or its set-point cannot be reached."""
    situation = situation_of(rig, found_for(rig))
    check_reaches(situation)
    return situation
