"""A run that did not go well: what it shows, and what would mend it."""

from dataclasses import dataclass

from django.shortcuts import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import refuse
from rellux.core.setup.dictionary.inner import LOOPS, ONE
from rellux.core.setup.parameters import same_tuning, settings_from
from rellux.core.tuning.complaints import NAMES, Blamed, diagnose
from rellux.core.tuning.hand import HandNumbers
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.rigs.domain import purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.runs import store
from rellux.server.runs.models import Run
from rellux.server.setup.domain import working_values

from .trying import reachable


@dataclass(frozen=True)
class DiagnoseInput:
    run: int


@dataclass(frozen=True)
class CauseView:
    """``share``: of the complaint that it explains or mends, 0 to 1. ``numbers``: the change made, where it is one of PID's and the sheet
    still has those of the run."""

    cause: str
    name: str
    share: float
    change: str
    numbers: HandNumbers | None


@dataclass(frozen=True)
class DiagnosisView:
    """``is_current``: the sheet still has the numbers that the run had."""

    run: int
    complaints: list[str]
    causes: list[CauseView]
    says: str
    is_current: bool


class Diagnose(APIView):
    changes_rig = False

    @endpoint("diagnoseRun", DiagnosisView, DiagnoseInput)
    def post(self, request: Request, slug: str) -> Response:
        """What is wrong with a run under PID, each cause simulated on this rig."""
        rig, given = get_object_or_404(Rig, slug=slug), read(request, DiagnoseInput)
        run = get_object_or_404(Run, rig=rig, pk=given.run, removed_at__isnull=True)
        if run.samples == 0:
            raise refuse("run", "this run has no samples yet", "a run with samples")
        situation, values = reachable(rig), working_values(rig)
        current = same_tuning(run.sheet, values)
        of_before = {LOOPS: ONE} if run.sheet else {}  # a sheet of before there were two does not say
        settings = settings_from({**values, **of_before, **run.sheet, "offset_c": 0.0}, purpose_of(rig))
        told = diagnose(situation, settings, store.read(run))
        causes = [_cause(c, current) for c in told.causes]
        return reply(DiagnosisView(run.pk, list(told.complaints), causes, told.says, current))


def _cause(c: Blamed, current: bool) -> CauseView:
    return CauseView(c.cause.value, NAMES[c.cause], round(float(c.share), 3), c.change, c.numbers if current else None)
