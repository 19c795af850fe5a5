"""How much of the process window calibration, ripple and unevenness eat together."""

from dataclasses import dataclass

from django.shortcuts import get_object_or_404
from django.utils import timezone
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.calibration.due import is_near
from rellux.core.calibration.window import Eaten, ProcessWindow, WindowEaten, window_eaten
from rellux.core.errors import Refused
from rellux.core.runs.metrics import measure
from rellux.server.answers.once import remembered
from rellux.server.api.endpoint import endpoint
from rellux.server.api.numbers import number_from
from rellux.server.api.shapes import reply
from rellux.server.rigs.domain import purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.runs import store
from rellux.server.runs.models import Run

from .domain import again


@dataclass(frozen=True)
class ProcessWindowView:
    """``swing_from``: the run the ripple is of, empty where none shows it. ``window`` is ``None`` before anything was compared."""

    window: WindowEaten | None
    swing_c: float | None
    swing_from: str


class ProcessWindowDetail(APIView):
    @endpoint("processWindow", ProcessWindowView, query={"uneven": float, "swing": float})
    def get(self, request: Request, slug: str) -> Response:
        """``uneven``: by how much the load's places differ, ±; ``swing``: the ripple from trough to peak, left out for the newest
        run's; °C."""
        rig = get_object_or_404(Rig, slug=slug)
        given = number_from(request, "swing", None)
        swing, run = (given, "") if given is not None else ripple_of(rig)
        uneven = number_from(request, "uneven", None)
        return reply(ProcessWindowView(_eaten(rig, swing, uneven), swing, run))


def _eaten(rig: Rig, swing_c: float | None, uneven_c: float | None) -> WindowEaten | None:
    it = again(rig) if rig.sensor else None
    if it is None or not it.record or it.due is None:
        return None
    newest = timezone.localdate(it.record[-1].at)
    days = (max(it.due, timezone.localdate()) - newest).days  # what is overdue drifts on
    purpose = purpose_of(rig)
    return window_eaten(
        ProcessWindow(purpose.working_c, purpose.highest_c, purpose.lowest_c),
        Eaten(
            abs(it.drift.left_c),
            it.record[-1].expanded_c,
            it.drift.moved_c(days),
            swing_c,
            uneven_c,
        ),
    )


def ripple_of(rig: Rig) -> tuple[float | None, str]:
    """From trough to peak in the newest run that held a temperature near its work, °C, and the run's name; ``None`` where none did."""
    for run in (
        rig.runs.filter(removed_at__isnull=True).exclude(status=Run.Status.RECORDING).order_by("-started_at")[:5]
    ):
        swing = _ripple(run.pk, run.samples, rig.working_c)
        if swing is not None:
            return swing, run.name
    return None, ""


@remembered(256)
def _ripple(key: int, samples: int, working_c: float) -> float | None:
    try:
        found = measure(store.read(Run.objects.get(pk=key)))
    except Refused:
        return None
    return found.ripple.value if found.ripple and is_near(found.setpoint_c, working_c) else None
