"""The calibration station: pairs in, the offset to enter out, saved as found and as left."""

from dataclasses import asdict, dataclass
from datetime import datetime

from django.shortcuts import get_object_or_404
from django.utils import timezone
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.calibration.certificates import CertificateSays, doubts
from rellux.core.calibration.offsets import OffsetResult, OffsetRule, Pair, work_out
from rellux.core.calibration.references import Reference, references
from rellux.core.calibration.schools import SAYS, OffsetSchool, converted
from rellux.core.calibration.verdicts import SAYS as SAYS_ADVICE
from rellux.core.calibration.verdicts import check_entering
from rellux.core.equipment.equipment import EquipmentRole
from rellux.core.errors import refuse
from rellux.core.findings import Finding
from rellux.core.sensing.sensors import tolerance
from rellux.core.spine import Station
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.equipment.places import place_of
from rellux.server.rigs.change import changing, note
from rellux.server.rigs.models import Rig
from rellux.server.setup.domain import save_sheet, working_values
from rellux.server.setup.models import Sheet

from .domain import compared, offset_of
from .models import Calibration


@dataclass(frozen=True)
class PairInput:
    display_c: float
    reference_c: float


@dataclass(frozen=True)
class OffsetInput:
    """Pairs and what the controller takes; differences in °C. ``school``, ``existing_c`` and ``resolution_c`` default to what is
    known of the controller; another school than its own is refused."""

    pairs: list[PairInput]
    school: OffsetSchool | None = None
    existing_c: float | None = None
    resolution_c: float | None = None
    limit_c: float = 20.0
    setpoint_c: float | None = None
    display_digit_c: float = 0.1
    reference_u_c: float = 0.0
    certificate_c: float = 0.0
    certificate_says: CertificateSays | None = None


@dataclass(frozen=True)
class SaveInput:
    revision: int
    offset: OffsetInput
    reference: str
    enter: bool = True
    anyway: str = ""


@dataclass(frozen=True)
class CalibrationRow:
    """A calibration, its offsets in the school of the controller as it is now; ``school`` is the one it was recorded in."""

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
    school: OffsetSchool
    school_fixed_by: str
    step_c: float
    references: list[Reference]
    rows: list[CalibrationRow]
    doubts: list[Finding]


def _worked_out(rig: Rig, given: OffsetInput) -> tuple[OffsetRule, OffsetResult]:
    if not rig.sensor:
        raise refuse("parts", "choose the parts first", "a sensor")
    known = offset_of(rig)
    if given.school is not None and given.school is not known.school and known.fixed_by:
        raise refuse(
            "school",
            f"this controller's offset is {SAYS[known.school]}, {known.fixed_by}: one of the other kind corrects the wrong way",
            f"{known.school.value}; if that is wrong, change it in Set-up first",
        )
    rule = OffsetRule(
        given.school or known.school,
        known.offset_c if given.existing_c is None else given.existing_c,
        known.step_c if given.resolution_c is None else given.resolution_c,
        given.limit_c,
        given.setpoint_c,
        given.display_digit_c,
        given.reference_u_c,
        given.certificate_c,
        given.certificate_says,
    )
    pairs = tuple(Pair(p.display_c, p.reference_c) for p in given.pairs)
    fitted = place_of(rig, EquipmentRole.SENSOR)
    now = (rig.sensor, fitted.equipment.name if fitted else "")
    before = next((c for c in reversed(compared(rig)) if c.probe == now), None)
    return rule, work_out(pairs, rule, rig.sensor, before)


def calibration_view(rig: Rig) -> CalibrationView:
    known = offset_of(rig)
    return CalibrationView(
        rig.revision,
        rig.sensor,
        known.offset_c,
        tolerance(rig.sensor, rig.working_c) if rig.sensor else None,
        known.school,
        known.fixed_by,
        known.step_c,
        list(references(rig.working_c)),
        [_row(c, known.school) for c in rig.calibrations.all()],
        list(doubts(compared(rig))),
    )


def _row(c: Calibration, school: OffsetSchool) -> CalibrationRow:
    recorded = OffsetSchool(c.school)
    return CalibrationRow(
        c.pk,
        c.at,
        c.who,
        c.reference,
        c.sensor,
        recorded.value,
        [PairInput(**p) for p in c.pairs],
        converted(c.as_found_c, recorded, school),
        converted(c.as_left_c, recorded, school),
        c.error_c,
        c.uncertainty_c,
    )


def _reason(result: OffsetResult, why: str) -> str:
    """What the Book says of an offset that was entered: what it does, or what advice was passed over, and why."""
    if result.touch:
        return result.sentence
    return f"{result.sentence} The advice was: {SAYS_ADVICE[result.verdict]}." + (
        f" Entered all the same: {why}" if why else ""
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
            why = given.anyway.strip()
            if given.enter:
                check_entering(result.verdict, result.advice, why)
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
                entered = {"offset_school": rule.school.value, "offset_c": as_left}
                save_sheet(rig, {**working_values(rig), **entered}, Sheet.Kind.AS_LEFT, "calibration", request.user)
            note(
                rig,
                request.user,
                Station.CALIBRATION,
                f"Calibrated against {given.reference.strip()}"[:200],
                before={"offset_c": rule.existing_c},
                after={"offset_c": as_left, "error_c": result.error.value, "uncertainty_c": result.uncertainty.value},
                why=_reason(result, why) if given.enter else "as found, left alone",
            )
        return reply(calibration_view(rig), 201)


class CalibrationPreview(APIView):
    changes_rig = False

    @endpoint("workOutOffset", OffsetResult, OffsetInput)
    def post(self, request: Request, slug: str) -> Response:
        rig = get_object_or_404(Rig, slug=slug)
        return reply(_worked_out(rig, read(request, OffsetInput))[1])
