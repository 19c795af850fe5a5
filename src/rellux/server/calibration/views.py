"""The calibration station: pairs in, the offset to enter out, saved as found and as left."""

from dataclasses import asdict, dataclass
from datetime import date, datetime
from typing import Any

from django.shortcuts import get_object_or_404
from django.utils import timezone
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.calibration.alike import Alike
from rellux.core.calibration.by_use import ByUse
from rellux.core.calibration.certificates import doubts
from rellux.core.calibration.conformity import WHOLE_U
from rellux.core.calibration.drift import Drift
from rellux.core.calibration.due import DUE, DueAgain, Interval
from rellux.core.calibration.due import SAYS as SAYS_INTERVAL
from rellux.core.calibration.offsets import OffsetResult
from rellux.core.calibration.references import ReferenceInput, ReferencePlan, offered
from rellux.core.calibration.schools import OffsetSchool, converted
from rellux.core.calibration.verdicts import SAYS as SAYS_ADVICE
from rellux.core.calibration.verdicts import check_entering
from rellux.core.equipment.equipment import EquipmentRole
from rellux.core.errors import refuse
from rellux.core.findings import Finding
from rellux.core.form import Field, Option, fields_of, plain
from rellux.core.sensing.sensors import tolerance
from rellux.core.spine import Station
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.equipment.models import Equipment
from rellux.server.rigs.change import changing, note
from rellux.server.rigs.domain import purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.setup.domain import save_sheet, working_values
from rellux.server.setup.models import Sheet

from .comparing import OffsetInput, PairInput, comparison
from .domain import (
    ENTERED_HERE,
    RecordPoint,
    again,
    allowed_of,
    compared,
    compared_again,
    offset_of,
    plan_of,
)
from .models import Calibration
from .reading import plain_rule


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
class Instrument:
    """A reference of the workshop. ``due``: when its certificate ends; ``certified``: it has certificates."""

    id: int
    name: str
    note: str
    due: date | None
    certified: bool


@dataclass(frozen=True)
class CalibrationPlanView:
    """By which school it is compared again, as somebody chose; ``hot_c``: above which its sensor ages, where somebody said; ``intervals``:
    what there is to choose."""

    interval: Interval
    days: int | None
    allowed_c: float | None
    guard: float
    hot_c: float | None
    intervals: list[Option]


@dataclass(frozen=True)
class CalibrationView:
    """``beside_c``: what a gain, or points, add beside the offset at the working temperature; ``allowed_c``: how far the display may be
    off; ``tolerance_c``: what a new sensor of its class may be. ``record``: comparisons of the sensor in place near its working
    temperature, wherever it was; ``due`` and ``after``: when it is compared again, and why; ``by_use``,
    ``alike`` and ``jumped`` as of Again."""

    revision: int
    sensor: str
    offset_c: float
    beside_c: float
    allowed_c: float | None
    tolerance_c: float | None
    school: OffsetSchool
    school_fixed_by: str
    step_c: float
    offered: list[ReferencePlan]
    reference_fields: list[Field]
    reference_start: dict[str, Any]
    instruments: list[Instrument]
    rows: list[CalibrationRow]
    doubts: list[Finding]
    record: list[RecordPoint]
    drift: Drift | None
    by_use: ByUse | None
    alike: Alike | None
    jumped: str
    after: DueAgain | None
    due: date | None
    plan: CalibrationPlanView


def calibration_view(rig: Rig) -> CalibrationView:
    known, it = offset_of(rig), again(rig) if rig.sensor else None
    plan = plan_of(rig)
    return CalibrationView(
        rig.revision,
        rig.sensor,
        known.offset_c,
        known.correction.beside(rig.working_c) if known.school is OffsetSchool.ADDED_TO_READING else 0.0,
        allowed_of(rig),
        tolerance(rig.sensor, rig.working_c) if rig.sensor else None,
        known.school,
        known.fixed_by,
        known.step_c,
        list(offered(rig.working_c, purpose_of(rig).ambient_c)),
        list(fields_of(ReferenceInput)),
        plain(ReferenceInput()),
        instruments(),
        [_row(c, known.school) for c in rig.calibrations.all()],
        [*doubts(compared(rig)), *(f for f in compared_again(rig).findings if f.rule != DUE)],
        it.record if it else [],
        it.drift if it else None,
        it.by_use if it else None,
        it.alike if it else None,
        it.jumped if it else "",
        it.after if it else None,
        it.due if it else None,
        CalibrationPlanView(
            Interval(plan.interval) if plan else Interval.RECORD,
            plan.days if plan else None,
            plan.allowed_c if plan else None,
            plan.guard if plan else WHOLE_U,
            plan.hot_c if plan else None,
            [Option(key.value, words) for key, words in SAYS_INTERVAL.items()],
        ),
    )


def instruments() -> list[Instrument]:
    """The workshop's references that are in use."""
    rows = Equipment.objects.filter(role=EquipmentRole.REFERENCE.value, scrapped_at__isnull=True)
    return [Instrument(row.pk, row.name, row.note, row.due, bool(row.certificates)) for row in rows]


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
            found = comparison(rig, given.offset)
            rule, result = found.rule, found.result
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
                pairs=[asdict(p) for p in found.pairs],
                rule=plain_rule(rule),
                as_found_c=rule.existing_c,
                as_left_c=as_left,
                error_c=result.error.value,
                uncertainty_c=result.uncertainty.value,
                compared_with=given.offset.compared_with,
                scatter_before=asdict(found.known.pooled) if found.known.pooled else {},
                allowed_c=found.known.allowed_c,
                guard=found.known.guard,
            )
            if given.enter:
                entered = {"offset_school": rule.school.value, "offset_c": as_left}
                save_sheet(rig, {**working_values(rig), **entered}, Sheet.Kind.AS_LEFT, ENTERED_HERE, request.user)
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
        return reply(comparison(rig, read(request, OffsetInput)).result)
