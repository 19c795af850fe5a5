"""The workshop's equipment: what there is, where each piece is and was, what it has gone through; and what is fitted to a rig."""

from dataclasses import dataclass, field
from datetime import date, datetime

from django.db import transaction
from django.http import Http404
from django.shortcuts import get_object_or_404
from django.utils import timezone
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.calibration.certified import Certificate
from rellux.core.equipment.equipment import (
    FITTED,
    LONGEST_NOTE,
    Equipment,
    EquipmentRole,
    Probe,
    ProbeKind,
    changed,
    check_equipment,
    check_same_piece,
    probe_kinds,
)
from rellux.core.equipment.findings import due_findings, worn_findings
from rellux.core.equipment.stays import check_fitting, check_moment
from rellux.core.errors import refuse
from rellux.core.findings import Finding, worst_first
from rellux.core.spine import Station
from rellux.server.accounts.models import User
from rellux.server.api.endpoint import endpoint
from rellux.server.api.errors import Conflict
from rellux.server.api.shapes import read, reply
from rellux.server.rigs.change import changing, note, stated
from rellux.server.rigs.models import Rig

from . import models
from .domain import equipment_findings, keep, operations_of, piece
from .places import fitted_to, place_of, places_in, stay_of, where_it_is
from .record import RecordLine, record_of, used


@dataclass(frozen=True)
class EquipmentInput:
    """``revision``: of the piece it was changed from; left out for a new one."""

    name: str
    role: EquipmentRole
    note: str = ""
    probe: Probe | None = None
    life: float | None = None
    due: date | None = None
    revision: int | None = None
    certificates: list[Certificate] = field(default_factory=list)

    def piece(self) -> Equipment:
        return Equipment(
            self.name.strip(), self.role, self.note.strip(), self.probe, self.life, self.due, tuple(self.certificates)
        )


@dataclass(frozen=True)
class StayView:
    """``rig`` is its slug, empty where the rig was removed."""

    rig: str
    rig_name: str
    since: datetime
    until: datetime | None


@dataclass(frozen=True)
class EquipmentRow:
    """A piece in the list. ``says``: what it is, in words; its place now is the last stay without an end."""

    id: int
    name: str
    role: EquipmentRole
    says: str
    due: date | None
    scrapped: bool
    revision: int
    stays: list[StayView]
    findings: list[Finding]


@dataclass(frozen=True)
class EquipmentView:
    """One piece with its record, the newest line first. ``follows_s``: a probe's 63 % in moved air. Hours and the
    hottest reading are of runs recorded with it."""

    row: EquipmentRow
    note: str
    probe: Probe | None
    life: float | None
    certificates: list[Certificate]
    follows_s: float | None
    operations: float
    hours: float
    hottest_c: float | None
    record: list[RecordLine]


@dataclass(frozen=True)
class FitEquipmentInput:
    """``rig``: where to. ``revision`` of the piece, ``rig_revision`` of the rig. ``at``: since when, left out for now."""

    rig: str
    revision: int
    rig_revision: int
    at: datetime | None = None
    why: str = ""


@dataclass(frozen=True)
class TakeOutInput:
    revision: int
    at: datetime | None = None
    why: str = ""


@dataclass(frozen=True)
class RemarkInput:
    revision: int
    text: str


@dataclass(frozen=True)
class ScrapInput:
    """``scrapped`` false: it was not, after all."""

    revision: int
    scrapped: bool
    why: str = ""


@dataclass(frozen=True)
class PlaceView:
    """One place of a rig: what is in it, and what else could be, with where that is now."""

    role: EquipmentRole
    fitted: EquipmentRow | None
    others: list[EquipmentRow]


@dataclass(frozen=True)
class FittedHereView:
    """The places of a rig, and what is wrong with what is in them."""

    places: list[PlaceView]
    findings: list[Finding]


def _row(row: models.Equipment) -> EquipmentRow:
    it = piece(row)
    today = timezone.localdate()
    return EquipmentRow(
        row.pk,
        row.name,
        it.role,
        it.says,
        it.due,
        row.scrapped_at is not None,
        row.revision,
        [
            StayView(s.rig.slug if s.rig else "", s.rig.name if s.rig else s.rig_name, s.since, s.until)
            for s in row.stays.all()
        ],
        []
        if row.scrapped_at
        else [*due_findings(it, today), *worn_findings(it, operations_of(row) if it.life else 0.0)],
    )


def _rows() -> list[EquipmentRow]:
    return [_row(e) for e in models.Equipment.objects.prefetch_related("stays__rig")]


def _view(row: models.Equipment) -> EquipmentView:
    it, use = piece(row), used(row)
    follows_s = it.probe.follows_s if it.probe else None
    times, record = operations_of(row), record_of(row)
    return EquipmentView(
        _row(row), it.note, it.probe, it.life, list(it.certificates), follows_s, times, use.hours, use.hottest_c, record
    )


def _changing(key: int, revision: int | None) -> models.Equipment:
    """The piece, locked for one change. Raises ``Conflict`` where it was changed since."""
    row = get_object_or_404(models.Equipment.objects.select_for_update(), pk=key)
    if row.revision != stated(revision):
        raise Conflict("another window changed it after this one was loaded", "look at it as it is now, then repeat")
    row.revision += 1
    return row


def _remark(row: models.Equipment, by: User, text: str) -> None:
    models.Remark.objects.create(equipment=row, at=timezone.now(), who=by.title, by=by, text=text[:LONGEST_NOTE])


def _check_free_name(row: models.Equipment, name: str) -> None:
    if models.Equipment.objects.filter(name__iexact=name).exclude(pk=row.pk).exists():
        raise refuse("name", f"there is {name} already: two alike cannot be told apart on a label", "another name")


class All(APIView):
    @endpoint("equipment", EquipmentRow, many=True)
    def get(self, request: Request) -> Response:
        return reply(_rows())

    @endpoint("addEquipment", EquipmentView, EquipmentInput, status=201)
    def post(self, request: Request) -> Response:
        row, it = models.Equipment(), read(request, EquipmentInput).piece()
        check_equipment(it, timezone.localdate())
        _check_free_name(row, it.name)
        keep(row, it)
        with transaction.atomic():
            row.save()
            _remark(row, request.user, "Entered")
        return reply(_view(row), 201)


class Probes(APIView):
    @endpoint("probeKinds", ProbeKind, many=True)
    def get(self, request: Request) -> Response:
        """What a probe of each sensor can have."""
        return reply(list(probe_kinds()))


class One(APIView):
    @endpoint("pieceOfEquipment", EquipmentView)
    def get(self, request: Request, key: int) -> Response:
        return reply(_view(get_object_or_404(models.Equipment, pk=key)))

    @endpoint("changeEquipment", EquipmentView, EquipmentInput)
    def put(self, request: Request, key: int) -> Response:
        given = read(request, EquipmentInput)
        with transaction.atomic():
            row = _changing(key, given.revision)
            before, it = piece(row), given.piece()
            check_equipment(it, timezone.localdate())
            _check_free_name(row, it.name)
            if row.stays.exists():
                check_same_piece(before, it)
            keep(row, it)
            row.save()
            if it != before:
                _remark(row, request.user, changed(before, it))
            _touch(where_it_is(row))
        return reply(_view(row))


def _touch(where: models.Stay | None) -> None:
    """What is said of the rig it is in depends on it: the rig has moved on."""
    if where and where.rig:
        with changing(where.rig.slug, where.rig.revision):
            pass


def _end(row: models.Stay, at: datetime, by: User, why: str, what: str) -> None:
    """A stay is over; its rig's book says so."""
    row.until = at
    row.save()
    if row.rig:
        with changing(row.rig.slug, row.rig.revision) as rig:
            note(rig, by, Station.PARTS, what, before={row.equipment.role: row.equipment.name}, why=why)


def _open_rig(rig: Rig | None) -> None:
    if rig is not None and rig.archived_at is not None:
        raise refuse("rig", f"{rig.name} is archived, and stays as it is", "a rig taken out of the archive")


class Fit(APIView):
    @endpoint("fitEquipment", EquipmentView, FitEquipmentInput)
    def post(self, request: Request, key: int) -> Response:
        """Into its place of a rig; out of where it was, and what was in that place out of it."""
        given = read(request, FitEquipmentInput)
        now = timezone.now()
        at = given.at or now
        with transaction.atomic():
            row = _changing(key, given.revision)
            rig = get_object_or_404(Rig, slug=given.rig)
            _open_rig(rig)
            if row.scrapped_at:
                raise refuse("equipment", "it was scrapped", "one that is in use")
            was, there = where_it_is(row), place_of(rig, EquipmentRole(row.role))
            if was and was.rig == rig:
                raise refuse("rig", f"{row.name} is there already", "another rig")
            _open_rig(was.rig if was else None)
            known = [stay_of(s) for s in row.stays.select_related("equipment")]
            check_fitting(piece(row), places_in(rig), at, now, [*known, *([stay_of(there)] if there else [])])
            if was:
                _end(was, at, request.user, given.why, f"{row.name} taken out, to {rig.name}")
            if there:
                there.until = at
                there.save()
                models.Equipment.objects.filter(pk=there.equipment_id).update(revision=there.equipment.revision + 1)
            models.Stay.objects.create(equipment=row, rig=rig, rig_name=rig.name, since=at)
            row.save()
            with changing(rig.slug, given.rig_revision) as rig:
                before = {row.role: there.equipment.name} if there else {}
                note(
                    rig,
                    request.user,
                    Station.PARTS,
                    f"{row.name} fitted",
                    before=before,
                    after={row.role: row.name},
                    why=given.why,
                )
        return reply(_view(row))


class TakeOut(APIView):
    @endpoint("takeOutEquipment", EquipmentView, TakeOutInput)
    def post(self, request: Request, key: int) -> Response:
        given = read(request, TakeOutInput)
        with transaction.atomic():
            row = _changing(key, given.revision)
            _take_out(row, given.at, request.user, given.why)
            row.save()
        return reply(_view(row))


def _take_out(row: models.Equipment, at: datetime | None, by: User, why: str) -> None:
    was, now = where_it_is(row), timezone.now()
    if was is None:
        raise refuse("equipment", "it is fitted nowhere", "one that is fitted")
    _open_rig(was.rig)
    check_moment(at or now, now, [stay_of(was)])
    _end(was, at or now, by, why, f"{row.name} taken out")


class Remarks(APIView):
    @endpoint("remarkOnEquipment", EquipmentView, RemarkInput, status=201)
    def post(self, request: Request, key: int) -> Response:
        given = read(request, RemarkInput)
        if not 1 <= len(given.text.strip()) <= LONGEST_NOTE:
            raise refuse("text", "say what was done or seen", f"1…{LONGEST_NOTE} characters")
        with transaction.atomic():
            row = _changing(key, given.revision)
            row.save()
            _remark(row, request.user, given.text.strip())
        return reply(_view(row), 201)


class Scrap(APIView):
    @endpoint("scrapEquipment", EquipmentView, ScrapInput)
    def post(self, request: Request, key: int) -> Response:
        """Out of use, its record kept; taken out of where it is."""
        given = read(request, ScrapInput)
        with transaction.atomic():
            row = _changing(key, given.revision)
            if given.scrapped and where_it_is(row):
                _take_out(row, None, request.user, given.why or "scrapped")
            row.scrapped_at = timezone.now() if given.scrapped else None
            row.save()
            what = "Scrapped" if given.scrapped else "Taken back into use"
            _remark(row, request.user, f"{what}: {given.why.strip()}" if given.why.strip() else what)
        return reply(_view(row))


class OfRig(APIView):
    @endpoint("fitted", FittedHereView)
    def get(self, request: Request, slug: str) -> Response:
        """The places of a rig, what is in them, and what could be."""
        rig = Rig.objects.filter(slug=slug).first()
        if rig is None:
            raise Http404("There is no such rig.")
        here = {role: s.equipment_id for role, s in fitted_to(rig).items()}
        rows, has = [r for r in _rows() if not r.scrapped], places_in(rig)
        places = [
            PlaceView(
                role,
                next((r for r in rows if r.id == here.get(role)), None),
                [r for r in rows if r.role is role and r.id != here.get(role)],
            )
            for role in FITTED
            if role in has or role in here
        ]
        return reply(FittedHereView(places, worst_first(equipment_findings(rig))))
