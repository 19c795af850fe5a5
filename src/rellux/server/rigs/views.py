"""Rigs: the workshop, creating, the purpose, the parts, accepting proposals, the book."""

from dataclasses import asdict, dataclass, field, fields
from datetime import datetime
from typing import Any

from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone
from django.utils.text import slugify
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import refuse
from rellux.core.explain import Figure
from rellux.core.findings import Severity
from rellux.core.heating.protection_data import Practice
from rellux.core.parts.chain import Piece, chain
from rellux.core.purpose.purpose import Limited, Purpose, RigKind, Supply, check_purpose
from rellux.core.setup.proposals import PERIODS
from rellux.core.spine import Station
from rellux.core.wiring.generate import SUGGESTED, Actuator, Choice, Output, check_choice
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.questions.domain import worst_by_piece
from rellux.server.setup.domain import current_values
from rellux.server.wiring.domain import follow_purpose

from .accept import accept
from .change import changing, difference, note
from .domain import PARTS_FIELDS, PURPOSE_FIELDS, choice_of, purpose_of
from .models import Entry, Rig
from .overview import ChoiceView, RigStrip, RigView, rig_view, strips


@dataclass(frozen=True)
class PurposeInput:
    """Name, kind and purpose of a rig. ``revision`` is needed when changing one."""

    name: str
    kind: RigKind
    working_c: float
    highest_c: float
    highest_reason: str
    supply: Supply
    supply_voltage_v: float
    heater_power_w: float
    heater_voltage_v: float
    lowest_c: float | None = None
    lowest_reason: str = ""
    ambient_c: float = 21.0
    materials: list[Limited] = field(default_factory=list)
    revision: int | None = None

    def purpose(self) -> Purpose:
        values = {f.name: getattr(self, f.name) for f in fields(Purpose)}
        return Purpose(**{**values, "materials": tuple(self.materials)})

    def stored(self) -> dict[str, Any]:
        """The purpose as the rig's fields hold it."""
        values = {name: getattr(self, name) for name in PURPOSE_FIELDS}
        return {**values, "materials": [asdict(m) for m in self.materials]}


def _checked(given: PurposeInput) -> PurposeInput:
    if not 1 <= len(given.name.strip()) <= 60 or not slugify(given.name):
        raise refuse("name", "a rig needs a name with letters or digits in it", "1…60 characters")
    for name in ("highest_reason", "lowest_reason"):
        if len(getattr(given, name)) > 200:
            raise refuse(name, "is too long", "up to 200 characters")
    check_purpose(given.purpose())
    return given


def free_slug(name: str) -> str:
    """A slug nobody has yet."""
    base = slugify(name)[:50]
    taken = set(Rig.objects.filter(slug__startswith=base).values_list("slug", flat=True))
    return next(s for s in (base, *(f"{base}-{i}" for i in range(2, 1000))) if s not in taken)


class Workshop(APIView):
    @endpoint("workshop", RigStrip, many=True)
    def get(self, request: Request) -> Response:
        return reply(strips())

    @endpoint("createRig", RigView, PurposeInput, status=201)
    def post(self, request: Request) -> Response:
        given = _checked(read(request, PurposeInput))
        with transaction.atomic():
            rig = Rig.objects.create(
                slug=free_slug(given.name),
                name=given.name.strip(),
                kind=given.kind.value,
                created_at=timezone.now(),
                **given.stored(),
            )
            after = {name: getattr(rig, name) for name in PURPOSE_FIELDS}
            note(rig, request.user, Station.PURPOSE, f"Rig described: {rig.name}", after=after)
        return reply(rig_view(rig), 201)


class RigDetail(APIView):
    @endpoint("rig", RigView)
    def get(self, request: Request, slug: str) -> Response:
        return reply(rig_view(get_object_or_404(Rig, slug=slug)))


class PurposeDetail(APIView):
    @endpoint("changePurpose", RigView, PurposeInput)
    def put(self, request: Request, slug: str) -> Response:
        given = _checked(read(request, PurposeInput))
        with changing(slug, _revision(given.revision)) as rig:
            before = {n: getattr(rig, n) for n in ("name", "kind", *PURPOSE_FIELDS)}
            for name, value in {"kind": given.kind, **given.stored()}.items():
                setattr(rig, name, value)
            rig.name = given.name.strip()
            was, now = difference(before, {n: getattr(rig, n) for n in before})
            rig.save()
            follow_purpose(rig)
            if now:
                note(rig, request.user, Station.PURPOSE, "Purpose changed", before=was, after=now)
        return reply(rig_view(rig))


def _revision(revision: int | None) -> int:
    if revision is None:
        raise refuse("revision", "say which state of the rig this change was made on", "the rig's revision")
    return revision


@dataclass(frozen=True)
class PartsInput:
    sensor: str
    output: Output
    actuator: Actuator
    limiter: bool
    practice: Practice
    revision: int | None = None

    def choice(self) -> Choice:
        return Choice(self.sensor, self.output, self.actuator, self.limiter, self.practice)


@dataclass(frozen=True)
class PartsView:
    """The chain for a choice of parts, saved or only tried."""

    choice: ChoiceView
    pieces: list[Piece]
    figures: list[Figure]
    fills: list[float]
    worst: list[Severity | None]


def _parts_view(rig: Rig, choice: Choice) -> PartsView:
    period = float(current_values(rig).get("period_s") or PERIODS[choice.actuator.value])
    found = chain(purpose_of(rig), choice, period)
    view = ChoiceView(choice.sensor, choice.output.value, choice.actuator.value, choice.limiter, choice.practice.value)
    worst = worst_by_piece(rig)
    return PartsView(
        view,
        list(found.pieces),
        list(found.figures),
        [p.fill for p in found.pieces],
        [worst.get(p.key) for p in found.pieces],
    )


class PartsDetail(APIView):
    @endpoint("parts", PartsView)
    def get(self, request: Request, slug: str) -> Response:
        rig = get_object_or_404(Rig, slug=slug)
        return reply(_parts_view(rig, choice_of(rig) or SUGGESTED))

    @endpoint("chooseParts", RigView, PartsInput)
    def put(self, request: Request, slug: str) -> Response:
        given = read(request, PartsInput)
        with changing(slug, _revision(given.revision)) as rig:
            choice = given.choice()
            check_choice(purpose_of(rig), choice)
            _parts_view(rig, choice)
            before = {n: getattr(rig, n) for n in PARTS_FIELDS}
            for name in PARTS_FIELDS:
                setattr(rig, name, getattr(choice, name))
            was, now = difference(before, {n: getattr(rig, n) for n in PARTS_FIELDS})
            if now:
                note(rig, request.user, Station.PARTS, "Parts chosen", before=was, after=now)
        return reply(rig_view(rig))


class PartsTrial(APIView):
    @endpoint("tryParts", PartsView, PartsInput)
    def post(self, request: Request, slug: str) -> Response:
        rig = get_object_or_404(Rig, slug=slug)
        given = read(request, PartsInput)
        check_choice(purpose_of(rig), given.choice())
        return reply(_parts_view(rig, given.choice()))


@dataclass(frozen=True)
class AcceptInput:
    """A proposal as a finding offered it."""

    revision: int
    target: str
    value: Any = field(default=None)


class AcceptDetail(APIView):
    @endpoint("acceptProposal", RigView, AcceptInput)
    def post(self, request: Request, slug: str) -> Response:
        given = read(request, AcceptInput)
        with changing(slug, given.revision) as rig:
            accept(rig, request.user, given.target, given.value)
        return reply(rig_view(rig))


@dataclass(frozen=True)
class EntryView:
    id: int
    at: datetime
    who: str
    station: str
    title: str
    why: str
    before: dict[str, Any]
    after: dict[str, Any]


class Book(APIView):
    @endpoint("book", EntryView, many=True)
    def get(self, request: Request, slug: str) -> Response:
        rig = get_object_or_404(Rig, slug=slug)
        return reply([entry_view(e) for e in rig.entries.all()[:500]])


def entry_view(e: Entry) -> EntryView:
    return EntryView(e.pk, e.at, e.who, e.station, e.title, e.why, e.before, e.after)
