"""What is known of the offset in a rig's controller, of its sensor's record, of what it is compared with, and when that is due again."""

from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

import numpy as np
from django.db.models import QuerySet
from django.utils import timezone

from rellux.core.calibration.alike import Alike
from rellux.core.calibration.by_use import ByUse, by_use
from rellux.core.calibration.certificates import Compared
from rellux.core.calibration.conformity import WHOLE_U, check_guard
from rellux.core.calibration.corrections import NOTHING, Correction
from rellux.core.calibration.drift import Aged, Drift, drift, said_of_jump
from rellux.core.calibration.due import (
    ELSEWHERE,
    ComparedAt,
    DueAgain,
    Interval,
    Since,
    calibration_findings,
    due_again,
    of_the_work,
)
from rellux.core.calibration.offsets import (
    KnownBefore,
    OffsetResult,
    Pair,
    deviations,
    work_out,
)
from rellux.core.calibration.references import ReferenceInput
from rellux.core.calibration.repeats import Pooled, pooled
from rellux.core.calibration.schools import OffsetSchool, converted
from rellux.core.equipment.equipment import EquipmentRole
from rellux.core.findings import Finding
from rellux.core.form import fill
from rellux.core.sensing.sensors import tolerance
from rellux.core.setup.parameters import CORRECTS, correction_of
from rellux.core.setup.proposals import offset_school
from rellux.core.setup.schools import school_of
from rellux.server.equipment.domain import compared_with
from rellux.server.equipment.places import place_of, sensors_of
from rellux.server.links.live import live_of
from rellux.server.links.maps import map_of
from rellux.server.links.models import LinkState
from rellux.server.rigs.domain import purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.runs.models import Run
from rellux.server.setup.domain import current_values, rig_facts, working_values
from rellux.server.setup.models import Sheet

from .ageing import hot_use, sensors_alike
from .models import Calibration, CalibrationPlan
from .reading import compared_as, day_of, rule_from, spread_of

ENTERED_HERE = "calibration"
"""Why a sheet was written, where this station did it."""
USUAL_STEP_C = 0.1
"""Step of an offset where nothing is known of the controller, °C (common practice, no source)."""


@dataclass(frozen=True)
class Known:
    """``offset_c`` in ``school``, with ``gain`` and ``points`` beside it. ``fixed_by`` says what fixed the school; empty where it may
    still be chosen."""

    school: OffsetSchool
    fixed_by: str
    offset_c: float
    step_c: float
    correction: Correction = NOTHING


def offset_of(rig: Rig) -> Known:
    """The controller itself is asked where it answers; else its sheet is believed."""
    if not rig.sensor:
        return Known(OffsetSchool.ADDED_TO_READING, "", 0.0, USUAL_STEP_C)
    link, sheet, facts = getattr(rig, "link", None), working_values(rig), rig_facts(rig)
    written_in = school_of(current_values(rig))
    school = written_in or offset_school(facts)
    offset = float(sheet["offset_c"])
    beside, step = {n: sheet[n] for n in CORRECTS if n in sheet}, USUAL_STEP_C
    if link:
        register = map_of(link).by_name.get("offset_c")
        step = register.step if register else step
        state = LinkState.objects.filter(link=link).first()
        if state and live_of(rig).status == "online":
            beside |= {n: state.values[n] for n in CORRECTS if n in state.values}
            plain = register is None or register.counts_celsius or float(beside.get("gain_correction", 1.0)) == 1.0
            if facts.controller_school and "offset_c" in state.values and plain:
                offset = converted(float(state.values["offset_c"]), facts.controller_school, school)
    by = "as its sheet says" if written_in else "as the controller is made" if facts.controller_school else ""
    in_force = correction_of({**beside, "offset_c": offset, "offset_school": school.value})
    return Known(school, by, offset, step, in_force)


def compared(rig: Rig) -> list[Compared]:
    """The comparisons of its record, oldest first."""
    stays = sensors_of(rig)
    return [
        compared_as(c, next((s.equipment for s in stays if s.covers(c.at)), ""))
        for c in rig.calibrations.order_by("at", "pk")
    ]


def reference_from(plain: dict[str, Any]) -> ReferenceInput:
    """What is asked of a reference, from plain values. Raises ``Refused`` for what cannot be."""
    return fill(ReferenceInput, plain)


def of_sensor(rig: Rig) -> QuerySet[Calibration]:
    """Comparisons of the sensor in place, oldest first: a piece the workshop knows brings its own from other rigs."""
    fitted = place_of(rig, EquipmentRole.SENSOR)
    if fitted is None:
        return rig.calibrations.filter(sensor=rig.sensor).order_by("at", "pk")
    return compared_with(fitted.equipment).filter(sensor=rig.sensor).order_by("at", "pk")


@dataclass(frozen=True)
class RecordPoint:
    """One comparison of the sensor in place: what it read too high without any offset, and U, °C; ``rig``: where."""

    at: datetime
    error_c: float
    expanded_c: float
    near_c: float
    rig: str


def record_of_sensor(rig: Rig) -> list[RecordPoint]:
    """Those that say something of the working temperature, oldest first."""
    found = [(c, compared_as(c)) for c in of_sensor(rig).select_related("rig")]
    at = [ComparedAt(day_of(c.at), it.near_c, spread_of(c)) for c, it in found]
    return [
        RecordPoint(c.at, it.reads_high_c, it.uncertainty_c, it.near_c, c.rig.name)
        for c, it in (found[i] for i in of_the_work(at, rig.working_c))
    ]


def scatter_before(rig: Rig) -> Pooled | None:
    """How single pairs scattered in earlier comparisons of this rig."""
    scatters = []
    for c in rig.calibrations.filter(sensor=rig.sensor):
        display, reference = (np.array([p[name] for p in c.pairs]) for name in ("display_c", "reference_c"))
        if len(display) > 1:
            of = deviations(display, reference, OffsetSchool(c.school))
            scatters.append((len(of), float(np.std(of, ddof=1))))
    return pooled(scatters)


def known_before(rig: Rig) -> KnownBefore:
    """What a new comparison is held against."""
    purpose, fitted = purpose_of(rig), place_of(rig, EquipmentRole.SENSOR)
    now = (rig.sensor, fitted.equipment.name if fitted else "")
    before = next((c for c in reversed(compared(rig)) if c.probe == now), None)
    plan = plan_of(rig)
    guard = plan.guard if plan else WHOLE_U
    return KnownBefore(before, scatter_before(rig), purpose.ambient_c, purpose.highest_c, allowed_of(rig), guard)


def known_then(scatter_before: dict[str, Any], allowed_c: float | None, guard: float = WHOLE_U) -> KnownBefore:
    """What was known when a comparison was recorded. Raises ``ValueError`` or ``TypeError`` for what cannot be."""
    before = Pooled(**scatter_before) if scatter_before else None
    if before and not (before.s_c >= 0 and before.freedom > 0):
        raise ValueError("a scatter that is none")
    check_guard(guard)
    return KnownBefore(pooled=before, allowed_c=allowed_c, guard=guard)


def worked_again(c: Calibration) -> OffsetResult:
    """A recorded comparison, worked out from its pairs as it was then."""
    pairs = tuple(Pair(**p) for p in c.pairs)
    return work_out(pairs, rule_from(c.rule, c.school), c.sensor, known_then(c.scatter_before, c.allowed_c, c.guard))


def plan_of(rig: Rig) -> CalibrationPlan | None:
    return rig.calibration_plans.first()


def allowed_of(rig: Rig) -> float | None:
    """How far its display may be off: as somebody set it, else what its sensor's class permits when new; °C."""
    plan = plan_of(rig)
    if plan and plan.allowed_c is not None:
        return plan.allowed_c
    return tolerance(rig.sensor, rig.working_c) if rig.sensor else None


@dataclass(frozen=True)
class Again:
    """The sensor's record, its drift by the calendar and by the hours it was hot, and when it is compared again; ``due`` is ``None`` where
    nothing was compared yet. ``jumped`` says what a jump means, ``alike`` what others like it did where its own record is too short."""

    record: list[RecordPoint]
    drift: Drift
    after: DueAgain | None
    due: date | None
    by_use: ByUse | None = None
    alike: Alike | None = None
    jumped: str = ""


def again(rig: Rig) -> Again:
    """Of a rig with a sensor."""
    record = record_of_sensor(rig)
    days = tuple(Aged(day_of(p.at), p.error_c, p.expanded_c) for p in record)
    found = drift(days, allowed_of(rig), _added_now(rig))
    newest = of_sensor(rig).last()
    if newest is None:
        return Again(record, found, None, None)
    if not record:
        return Again(record, found, ELSEWHERE, ELSEWHERE.after(timezone.localdate(newest.at)))
    plan = plan_of(rig)
    school = Interval(plan.interval) if plan else Interval.RECORD
    used, like = _by_use(rig, plan, record, days, found), None
    if found.per_year is None:
        like = sensors_alike(rig, found.allowed_c, found.left_c, record[-1].expanded_c)
    due = due_again(
        school,
        plan.days if plan else None,
        found.counted,
        rig.sensor,
        rig.working_c,
        found,
        _since(rig, record[-1]),
        used,
        like,
    )
    return Again(record, found, due, due.after(timezone.localdate(record[-1].at)), used, like, _jumped(record, found))


def _by_use(
    rig: Rig, plan: CalibrationPlan | None, record: list[RecordPoint], days: tuple[Aged, ...], found: Drift
) -> ByUse | None:
    if found.per_year is None or rig.working_c <= purpose_of(rig).ambient_c:
        return None
    return by_use(days, hot_use(rig, (p.at for p in record), plan.hot_c if plan else None), found)


def _jumped(record: list[RecordPoint], found: Drift) -> str:
    if found.jumped is None:
        return ""
    before, after = (timezone.localdate(record[found.jumped.before + i].at) for i in (0, 1))
    return said_of_jump(found.jumped, found.counted, before, after)


def _since(rig: Rig, newest: RecordPoint) -> Since:
    """What happened to the rig since its newest comparison."""
    runs = rig.runs.filter(removed_at__isnull=True, started_at__gt=newest.at, peak_c__gt=purpose_of(rig).highest_c)
    hot = runs.exclude(source=Run.Source.SIMULATED).order_by("-peak_c").first()
    exchanged, place = rig.controllers.filter(fresh=True).first(), place_of(rig, EquipmentRole.SENSOR)
    return Since(
        timezone.localdate(hot.started_at) if hot else None,
        hot.peak_c if hot and hot.peak_c is not None else 0.0,
        timezone.localdate(exchanged.at) if exchanged and exchanged.at > newest.at else None,
        timezone.localdate(place.since) if place and place.since > newest.at else None,
    )


def _added_now(rig: Rig) -> float:
    """What its controller adds to the reading at the working temperature, °C."""
    return offset_of(rig).correction.added(rig.working_c)


@dataclass(frozen=True)
class ComparedAgain:
    """When a rig's display is compared again, ``None`` where it never was; and what is found wrong with its comparisons."""

    due: date | None
    findings: tuple[Finding, ...]


def compared_again(rig: Rig) -> ComparedAgain:
    """Of any rig."""
    if not rig.sensor or not rig.calibrations.exists():
        return ComparedAgain(None, ())
    it = again(rig)
    if it.due is None or it.after is None:
        return ComparedAgain(None, ())
    today, entered = timezone.localdate(), _entered_since(rig)
    found = calibration_findings(it.drift, len(it.record), it.due, it.after.why, today, entered)
    return ComparedAgain(it.due, tuple(found))


def _entered_since(rig: Rig) -> date | None:
    """When a correction was entered that no comparison has looked at since."""
    newest = rig.calibrations.first()
    if newest is None:
        return None
    if newest.as_left_c != newest.as_found_c:
        return timezone.localdate(newest.at)
    later = rig.sheets.filter(at__gt=newest.at, kind=Sheet.Kind.AS_LEFT, why=ENTERED_HERE).first()
    return timezone.localdate(later.at) if later else None


def dates_of_calibration(rig: Rig) -> list[tuple[str, date]]:
    """What of a rig is to be compared again, and when."""
    due = compared_again(rig).due
    return [("Compare the display", due)] if due else []
