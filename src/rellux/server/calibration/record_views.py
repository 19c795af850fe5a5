"""When a display is compared again: by which school, how far it may be off, and into any calendar."""

from dataclasses import dataclass
from functools import partial

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.calibration.by_use import check_hot
from rellux.core.calibration.conformity import WHOLE_U, check_guard
from rellux.core.calibration.due import SAYS, Interval, check_plan
from rellux.core.calibration.verdicts import LEAST_REASON
from rellux.core.errors import refuse
from rellux.core.proving.judging import LONGEST_WHY
from rellux.core.spine import Station
from rellux.server.api.calendar import Dated, feed
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.equipment.models import Equipment
from rellux.server.rigs.change import changing, note
from rellux.server.rigs.domain import purpose_of
from rellux.server.rigs.models import Rig

from .domain import dates_of_calibration, plan_of
from .models import CalibrationPlan
from .views import CalibrationView, calibration_view


@dataclass(frozen=True)
class CalibrationPlanInput:
    """``days``: of a fixed interval. ``allowed_c``: how far the display may be off, left out for what its class permits.
    ``guard``: the guard band in expanded uncertainties; less than all of U needs a reason. ``hot_c``: above which temperature hours age its
    sensor, left out for most of the rise to its work."""

    revision: int
    interval: Interval
    days: int | None = None
    allowed_c: float | None = None
    guard: float = WHOLE_U
    hot_c: float | None = None
    why: str = ""


class CalibrationPlanDetail(APIView):
    @endpoint("planCalibration", CalibrationView, CalibrationPlanInput)
    def put(self, request: Request, slug: str) -> Response:
        given = read(request, CalibrationPlanInput)
        check_plan(given.interval, given.days, given.allowed_c)
        check_guard(given.guard)
        _check_hot(slug, given.hot_c)
        if given.guard < WHOLE_U and len(given.why.strip()) < LEAST_REASON:
            raise refuse(
                "why", "a narrower guard band accepts what may be outside: say why", f"{LEAST_REASON} letters at least"
            )
        if len(given.why.strip()) > LONGEST_WHY:
            raise refuse("why", "that is too long", f"up to {LONGEST_WHY} characters")
        with changing(slug, given.revision) as rig:
            before = plan_of(rig)
            CalibrationPlan.objects.create(
                rig=rig,
                at=timezone.now(),
                who=request.user.title,
                interval=given.interval.value,
                days=given.days,
                allowed_c=given.allowed_c,
                guard=given.guard,
                hot_c=given.hot_c,
                why=given.why.strip(),
            )
            note(
                rig,
                request.user,
                Station.CALIBRATION,
                "When it is compared again",
                before=_plain(before),
                after={
                    "interval": SAYS[given.interval],
                    "days": given.days,
                    "allowed_c": given.allowed_c,
                    "guard": given.guard,
                    "hot_c": given.hot_c,
                },
                why=given.why.strip(),
            )
        return reply(calibration_view(rig))


def _check_hot(slug: str, hot_c: float | None) -> None:
    """Raise ``Refused`` for a temperature its sensor is always above, or never."""
    if hot_c is not None:
        purpose = purpose_of(get_object_or_404(Rig, slug=slug))
        check_hot(hot_c, purpose.ambient_c, purpose.highest_c)


def _plain(plan: CalibrationPlan | None) -> dict[str, object]:
    if plan is None:
        return {}
    return {
        "interval": SAYS[Interval(plan.interval)],
        "days": plan.days,
        "allowed_c": plan.allowed_c,
        "guard": plan.guard,
        "hot_c": plan.hot_c,
    }


class CalibrationCalendar(APIView):
    @endpoint("calibrationCalendar", None)
    def get(self, request: Request) -> HttpResponse:
        """One whole-day event for every rig whose display is to be compared again, and for every certificate that ends."""
        rigs = [partial(_dates, rig) for rig in Rig.objects.filter(archived_at__isnull=True)]
        return feed("calibration", [*rigs, _certificates])


def _dates(rig: Rig) -> list[Dated]:
    return [(f"{rig.slug}-compare", f"{rig.name}: {what}", day) for what, day in dates_of_calibration(rig)]


def _certificates() -> list[Dated]:
    rows = Equipment.objects.filter(scrapped_at__isnull=True, due__isnull=False)
    return [(f"equipment-{row.pk}", f"{row.name}: its certificate ends", row.due) for row in rows if row.due]
