"""The calibration station: pairs in, the offset to enter out, saved as found and as left."""

from dataclasses import asdict, dataclass
from datetime import datetime

from django.shortcuts import get_object_or_404
from django.utils import timezone
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.calibration.offsets import OffsetResult, OffsetRule, OffsetSchool, Pair, work_out
from rellux.core.errors import refuse
from rellux.core.sensing.sensors import tolerance
from rellux.core.spine import Station
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.rigs.change import changing, note
from rellux.server.rigs.models import Rig
from rellux.server.setup.domain import save_sheet, working_values
from rellux.server.setup.models import Sheet

from .models import Calibration


@dataclass(frozen=True)
class PairInput:
    display_c: float
    reference_c: float


@dataclass(frozen=True)
class OffsetInput:
    """Pairs and what the controller takes; differences in °C. ``existing_c`` defaults to the sheet's offset."""

    pairs: list[PairInput]
    school: OffsetSchool = OffsetSchool.ADDED_TO_READING
    existing_c: float | None = None
    resolution_c: float = 0.1
    limit_c: float = 20.0
    setpoint_c: float | None = None
    display_digit_c: float = 0.1
    reference_u_c: float = 0.0


@dataclass(frozen=True)
class SaveInput:
    revision: int
    offset: OffsetInput
    reference: str
    enter: bool = True


@dataclass(frozen=True)
class CalibrationRow:
    id: int
    at: datetime
    who: str
    reference: str
    sensor: str
    school: str
    pairs: list[PairInput]
    as_found_c: float
    as_left_c: float
    error_c: float
    uncertainty_c: float


@dataclass(frozen=True)
class CalibrationView:
    revision: int
    sensor: str
    offset_c: float
    tolerance_c: float | None
    school: str
    rows: list[CalibrationRow]


def _worked_out(rig: Rig, given: OffsetInput) -> tuple[OffsetRule, OffsetResult]:
    if not rig.sensor:
        raise refuse("parts", "choose the parts first", "a sensor")
    existing = given.existing_c
    if existing is None:
        existing = float(working_values(rig)["offset_c"])
    rule = OffsetRule(
        given.school,
        existing,
        given.resolution_c,
        given.limit_c,
        given.setpoint_c,
        given.display_digit_c,
        given.reference_u_c,
    )
    return rule, work_out(tuple(Pair(p.display_c, p.reference_c) for p in given.pairs), rule)


def calibration_view(rig: Rig) -> CalibrationView:
    newest = rig.calibrations.first()
    return CalibrationView(
        rig.revision,
        rig.sensor,
        float(working_values(rig)["offset_c"]) if rig.sensor else 0.0,
        tolerance(rig.sensor, rig.working_c) if rig.sensor else None,
        newest.school if newest else OffsetSchool.ADDED_TO_READING.value,
        [
            CalibrationRow(
                c.pk,
                c.at,
                c.who,
                c.reference,
                c.sensor,
                c.school,
                [PairInput(**p) for p in c.pairs],
                c.as_found_c,
                c.as_left_c,
                c.error_c,
                c.uncertainty_c,
            )
            for c in rig.calibrations.all()
        ],
    )


class CalibrationDetail(APIView):
    @endpoint("calibration", CalibrationView)
    def get(self, request: Request, slug: str) -> Response:
        return reply(calibration_view(get_object_or_404(Rig, slug=slug)))

    @endpoint("saveCalibration", CalibrationView, SaveInput, status=201)
    def post(self, request: Request, slug: str) -> Response:
        """Saves as found and as left; with ``enter`` the new offset goes into the parameter sheet."""
        given = read(request, SaveInput)
        if not 1 <= len(given.reference.strip()) <= 120:
            raise refuse("reference", "say what you compared with", "1…120 characters")
        with changing(slug, given.revision) as rig:
            rule, result = _worked_out(rig, given.offset)
            as_left = result.to_enter.value if given.enter else rule.existing_c
            Calibration.objects.create(
                rig=rig,
                at=timezone.now(),
                who=request.user.title,
                reference=given.reference.strip(),
                sensor=rig.sensor,
                school=rule.school.value,
                pairs=[asdict(p) for p in given.offset.pairs],
                rule={**asdict(rule), "school": rule.school.value},
                as_found_c=rule.existing_c,
                as_left_c=as_left,
                error_c=result.error.value,
                uncertainty_c=result.uncertainty.value,
            )
            if given.enter:
                save_sheet(rig, {**working_values(rig), "offset_c": as_left}, Sheet.Kind.AS_LEFT, "calibration")
            note(
                rig,
                request.user,
                Station.CALIBRATION,
                f"Calibrated against {given.reference.strip()}"[:200],
                before={"offset_c": rule.existing_c},
                after={"offset_c": as_left, "error_c": result.error.value, "uncertainty_c": result.uncertainty.value},
                why=result.sentence if given.enter else "as found, left alone",
            )
        return reply(calibration_view(rig), 201)


class CalibrationPreview(APIView):
    @endpoint("workOutOffset", OffsetResult, OffsetInput)
    def post(self, request: Request, slug: str) -> Response:
        rig = get_object_or_404(Rig, slug=slug)
        return reply(_worked_out(rig, read(request, OffsetInput))[1])
