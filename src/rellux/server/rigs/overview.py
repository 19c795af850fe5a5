"""A rig as the spine and the workshop see it: facts, findings, next action, live reading, ribbon."""

import logging
from dataclasses import dataclass, fields
from datetime import date, datetime, timedelta
from typing import Any

from django.db.models import Exists, OuterRef, Prefetch, QuerySet, Subquery
from django.utils import timezone

from rellux.core.equipment.equipment import EquipmentRole
from rellux.core.equipment.stays import compared_in_place
from rellux.core.findings import Finding, Severity, worst_first
from rellux.core.purpose.checks import purpose_findings
from rellux.core.purpose.controls import Controls
from rellux.core.purpose.cooler import Cooler
from rellux.core.purpose.heater_sensor import HeaterSensor
from rellux.core.purpose.own_mains import OwnMains
from rellux.core.purpose.purpose import Effect, Fire, Limited
from rellux.core.setup.parameters import CORRECTS
from rellux.core.spine import Facts, NextAction, Station, StationState, next_action, spine
from rellux.core.wiring.choice import Choice
from rellux.server.answers.once import remembered
from rellux.server.calibration.domain import ComparedAgain, compared_again
from rellux.server.calibration.models import Calibration
from rellux.server.equipment.domain import equipment_findings
from rellux.server.equipment.models import Stay
from rellux.server.guarding.domain import findings_of_plan
from rellux.server.guarding.models import GuardPlan
from rellux.server.links.live import NO_LINK, Live, live
from rellux.server.profiles.models import ProfileVersion
from rellux.server.proving.domain import ProvingTold, proving_told
from rellux.server.runs.models import Run
from rellux.server.setup.domain import setup_findings
from rellux.server.setup.models import Sheet
from rellux.server.tuning.models import Identification
from rellux.server.wiring.domain import wiring_findings
from rellux.server.wiring.models import Wire
from rellux.server.zones.domain import zone_findings
from rellux.server.zones.places import chamber_of

from .chain import parts_findings
from .domain import choice_of, kind_of, purpose_of
from .models import Rig


@dataclass(frozen=True)
class PurposeView:
    working_c: float
    highest_c: float
    highest_reason: str
    lowest_c: float | None
    lowest_reason: str
    ambient_c: float
    supply: str
    supply_voltage_v: float
    frequency_hz: float
    effect: Effect
    heater_power_w: float
    heater_voltage_v: float
    materials: list[Limited]
    fire: Fire | None
    cooler: Cooler | None
    controls: Controls | None
    own_mains: OwnMains | None
    heater_sensor: HeaterSensor | None


@dataclass(frozen=True)
class ZoneOf:
    """The chamber that a rig is a zone of."""

    id: int
    name: str


@dataclass(frozen=True)
class RigView:
    """One rig with its spine."""

    slug: str
    name: str
    kind: str
    revision: int
    purpose: PurposeView
    choice: Choice | None
    spine: list[StationState]
    next: NextAction
    live: Live
    archived: bool
    purpose_findings: list[Finding]
    zone_of: ZoneOf | None


@dataclass(frozen=True)
class RibbonRun:
    """A run on the ribbon."""

    id: int
    name: str
    started_at: datetime
    length_s: float
    peak_c: float | None
    status: str


@dataclass(frozen=True)
class RigStrip:
    """One rig on the workshop page. ``unreadable``: why it cannot be read, where it cannot; it never hides the others. ``prove_again``:
    when all of it is to be proved again, where all of it was; ``compare_again``: when its display is, where it was compared."""

    slug: str
    name: str
    kind: str
    effect: Effect
    working_c: float
    highest_c: float
    next: NextAction
    worst: Severity | None
    findings: int
    live: Live
    ribbon: list[RibbonRun]
    revision: int
    archived: bool = False
    unreadable: str = ""
    prove_again: datetime | None = None
    compare_again: date | None = None


RIBBON_DAYS = 21
CORRECTIONS = ("offset_c", *CORRECTS)
Ran = tuple[int | None, int | None]
"""The newest finished run, and the newest that was hotter than ever allowed."""
Corrected = tuple[tuple[str, Any], ...]
log = logging.getLogger("rellux.rigs")


def seen() -> QuerySet[Rig]:
    """Rigs with what the overview reads of them, in as many queries for two hundred as for one."""
    mine = {"rig": OuterRef("pk")}
    kept = Run.objects.filter(removed_at__isnull=True)
    since = timezone.now() - timedelta(days=RIBBON_DAYS)
    newest = Calibration.objects.filter(**mine)
    return (
        Rig.objects.select_related("link__state")
        .annotate(
            is_wired=Exists(Wire.objects.filter(**mine)),
            has_sheet=Exists(Sheet.objects.filter(**mine)),
            has_plan=Exists(GuardPlan.objects.filter(**mine)),
            has_profile=Exists(ProfileVersion.objects.filter(**mine, removed_at__isnull=True)),
            has_run=Exists(kept.filter(**mine)),
            is_tuned=Exists(Identification.objects.filter(**mine, accepted_at__isnull=False)),
            identified=Subquery(Identification.objects.filter(**mine).values("pk")[:1]),
            newest_run=Subquery(
                kept.filter(**mine).exclude(status=Run.Status.RECORDING).order_by("-pk").values("pk")[:1]
            ),
            hot_run=Subquery(kept.filter(**mine, peak_c__gt=OuterRef("highest_c")).values("pk")[:1]),
            calibrated_sensor=Subquery(newest.values("sensor")[:1]),
            calibrated_at=Subquery(newest.values("at")[:1]),
            sensor_since=Subquery(
                Stay.objects.filter(**mine, until__isnull=True, equipment__role=EquipmentRole.SENSOR.value).values(
                    "since"
                )[:1]
            ),
        )
        .prefetch_related(
            Prefetch("runs", kept.filter(started_at__gte=since), "on_ribbon"),
            Prefetch("runs", kept.filter(status=Run.Status.RECORDING), "recorded_now"),
        )
    )


def findings_of(rig: Rig) -> dict[Station, tuple[Finding, ...]]:
    """Findings by station."""
    return facts_of(rig).findings


@remembered(1024, lasts=True)
def _findings(
    key: int, created_at: datetime, revision: int, identified: int | None, mapped: str | None, day: date, has_run: bool
) -> dict[Station, tuple[Finding, ...]]:
    """The workshop asks every few seconds; the rules are run once a revision, and anew every ``day`` for what falls due. Every change they
    depend on raises the revision, adds an identification or links a controller; those of calibration are beside them."""
    rig = Rig.objects.get(pk=key)
    return {
        Station.PURPOSE: tuple([*purpose_findings(purpose_of(rig), kind_of(rig)), *zone_findings(rig)]),
        Station.PARTS: tuple(worst_first([*parts_findings(rig), *equipment_findings(rig)])),
        Station.WIRING: tuple(wiring_findings(rig)),
        Station.PROVING: _proving(key, created_at, revision, day, has_run).findings,
        Station.SETUP: tuple(setup_findings(rig)),
        Station.GUARDING: tuple(findings_of_plan(rig)),
    }


@remembered(1024, lasts=True)
def _proving(key: int, created_at: datetime, revision: int, day: date, has_run: bool) -> ProvingTold:
    return proving_told(Rig.objects.get(pk=key), has_run)


@remembered(1024, lasts=True)
def _compared(
    key: int, created_at: datetime, revision: int, day: date, ran: Ran, corrected: Corrected
) -> ComparedAgain:
    """Beside a revision it hangs on runs, which age a sensor, and on the correction that the controller itself was heard to have."""
    return compared_again(Rig.objects.get(pk=key))


def _compared_of(rig: Any) -> ComparedAgain:
    """Of a rig of :func:`seen`."""
    state = getattr(getattr(rig, "link", None), "state", None)
    heard = tuple((name, state.values[name]) for name in CORRECTIONS if name in state.values) if state else ()
    corrected = (*heard, ("online", state.online)) if state else ()
    ran = (rig.newest_run, rig.hot_run)
    return _compared(rig.pk, rig.created_at, rig.revision, timezone.localdate(), ran, corrected)


def forget() -> None:
    _compared.cache_clear()
    _findings.cache_clear()
    _proving.cache_clear()


def _facts(rig: Any) -> Facts:
    """Of a rig of :func:`seen`."""
    link, today = getattr(rig, "link", None), timezone.localdate()
    proving = _proving(rig.pk, rig.created_at, rig.revision, today, rig.has_run)
    return Facts(
        has_parts=bool(rig.sensor),
        has_wiring=rig.is_wired,
        has_sheet=rig.has_sheet,
        has_plan=rig.has_plan,
        has_profile=rig.has_profile,
        effect=Effect(rig.effect),
        has_run=rig.has_run,
        is_recording=bool(rig.recorded_now),
        is_tuned=rig.is_tuned,
        is_calibrated=compared_in_place(rig.sensor, rig.calibrated_sensor, rig.calibrated_at, rig.sensor_since),
        findings={
            **_findings(
                rig.pk, rig.created_at, rig.revision, rig.identified, link and link.register_map, today, rig.has_run
            ),
            Station.CALIBRATION: _compared_of(rig).findings,
        },
        to_prove=proving.to_prove,
        has_proved=proving.begun,
        is_proved=proving.done,
    )


def _live(rig: Any) -> Live:
    return live(rig, getattr(rig, "link", None), next(iter(rig.recorded_now), None))


def facts_of(rig: Rig) -> Facts:
    """What exists of a rig, and what was found at every station."""
    return _facts(seen().get(pk=rig.pk))


def rig_view(rig: Rig) -> RigView:
    rig = seen().get(pk=rig.pk)
    facts, purpose, chamber = _facts(rig), purpose_of(rig), chamber_of(rig)
    return RigView(
        rig.slug,
        rig.name,
        rig.kind,
        rig.revision,
        PurposeView(**{f.name: getattr(purpose, f.name) for f in fields(PurposeView)}),
        choice_of(rig),
        list(spine(facts)),
        next_action(facts),
        _live(rig),
        rig.archived_at is not None,
        list(facts.findings[Station.PURPOSE]),
        ZoneOf(chamber.pk, chamber.name) if chamber else None,
    )


def strip(rig: Any) -> RigStrip:
    """Of a rig of :func:`seen`."""
    facts = _facts(rig)
    findings = [f for found in facts.findings.values() for f in found]
    order = list(Severity)
    return RigStrip(
        rig.slug,
        rig.name,
        rig.kind,
        Effect(rig.effect),
        rig.working_c,
        rig.highest_c,
        next_action(facts),
        min((f.severity for f in findings), key=order.index, default=None),
        len(findings),
        _live(rig),
        [RibbonRun(r.pk, r.name, r.started_at, r.length_s, r.peak_c, r.status) for r in rig.on_ribbon],
        rig.revision,
        rig.archived_at is not None,
        prove_again=_proving(rig.pk, rig.created_at, rig.revision, timezone.localdate(), rig.has_run).due,
        compare_again=_compared_of(rig).due,
    )


def _readable(rig: Rig) -> RigStrip:
    """The strip, or one that says why there is none: a row that cannot be read is a fault of the rig, not of the page."""
    try:
        return strip(rig)
    except Exception as error:
        log.exception("rig %s cannot be read", rig.slug)
        said = f"{type(error).__name__}: {error}"[:200]
        next_ = NextAction(
            Station.BOOK, "Could not be read: export it, repair it, or remove it with a copy kept", Severity.FAULT
        )
        return RigStrip(
            rig.slug,
            rig.name,
            rig.kind,
            Effect.HEATS,
            rig.working_c,
            rig.highest_c,
            next_,
            Severity.FAULT,
            0,
            NO_LINK,
            [],
            rig.revision,
            unreadable=said,
        )


def strips() -> list[RigStrip]:
    """All rigs, those that need attention first: danger, fault, the rest; the archived last."""
    order = [*Severity, None]
    return sorted((_readable(r) for r in seen()), key=lambda s: (s.archived, order.index(s.worst)))
