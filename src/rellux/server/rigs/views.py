"""Rigs: the workshop, creating, the purpose, the parts, accepting proposals, the book."""

from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone
from django.utils.text import slugify
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.fields import FieldWords
from rellux.core.fields import fields as fields_with_words
from rellux.core.purpose.kinds import KINDS
from rellux.core.purpose.purpose import (
    PROPOSED_V,
    SUPPLY_VOLTAGES,
    SUPPLY_WORDS,
    Supply,
    usual_hz,
)
from rellux.core.spine import Station
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply

from . import archive
from .accept import accept
from .change import changing, note, revision_in
from .domain import PURPOSE_FIELDS, check_name
from .keeping import bring_back, check_left_alone, double, put_aside, remove, removed_folder
from .kinds import RigKindView, rig_kind_view
from .models import Entry, Rig
from .overview import RigStrip, RigView, rig_view, strips
from .purpose_views import PurposeInput, checked
from .repair import mend, repair


@dataclass(frozen=True)
class SupplyOffer:
    """A kind of supply with its usual voltages in V, the frequency mains of each usually have (0 for DC), and the one a new rig begins
    with."""

    supply: Supply
    words: str
    voltages_v: list[float]
    usual_hz: list[float]
    proposed_v: float


class Fields(APIView):
    @endpoint("fields", FieldWords, many=True)
    def get(self, request: Request) -> Response:
        """What the fields are called on the screens, in refusals and in the Book."""
        return reply(list(fields_with_words()))


class Supplies(APIView):
    @endpoint("supplies", SupplyOffer, many=True)
    def get(self, request: Request) -> Response:
        return reply([_offer(s, list(volts)) for s, volts in SUPPLY_VOLTAGES.items()])


def _offer(supply: Supply, volts: list[float]) -> SupplyOffer:
    direct = supply is Supply.DC
    words = "DC" if direct else f"Mains, {SUPPLY_WORDS[supply]}"
    return SupplyOffer(
        supply, words, volts, [0.0 if direct else usual_hz(supply, v) for v in volts], PROPOSED_V[supply]
    )


class Kinds(APIView):
    @endpoint("kinds", RigKindView, many=True)
    def get(self, request: Request) -> Response:
        """The kinds of rig, with what is taken of each and what is dangerous about it."""
        return reply([rig_kind_view(kind) for kind in KINDS])


def free_slug(name: str) -> str:
    """A slug nobody has yet."""
    base = slugify(name)[:50]
    taken = set(Rig.objects.filter(slug__startswith=base).values_list("slug", flat=True))
    return next(s for s in (base, *(f"{base}-{i}" for i in range(2, 1000))) if s not in taken)


@dataclass(frozen=True)
class Removed:
    """What was kept of a removed rig: the copy's name, to bring it back, and where the file lies."""

    copy: str
    path: str


@dataclass(frozen=True)
class BringBackInput:
    copy: str


@dataclass(frozen=True)
class DoubleInput:
    name: str


@dataclass(frozen=True)
class ArchiveInput:
    revision: int
    archived: bool


@dataclass(frozen=True)
class Repairable:
    """What cannot be read of a rig, and is left out by repairing it. Empty where all of it can be read."""

    left_out: list[str]


class Workshop(APIView):
    @endpoint("workshop", RigStrip, many=True)
    def get(self, request: Request) -> Response:
        return reply(strips())

    @endpoint("createRig", RigView, PurposeInput, status=201)
    def post(self, request: Request) -> Response:
        given = checked(read(request, PurposeInput))
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

    @endpoint("removeRig", Removed, query={"revision": int})
    def delete(self, request: Request, slug: str) -> Response:
        """Takes the rig out of the workshop; a copy is kept, from which it can be brought back."""
        copy = remove(slug, revision_in(request.query_params))
        return reply(Removed(copy, str(removed_folder() / copy)))


class BringBack(APIView):
    @endpoint("bringBackRig", RigView, BringBackInput, status=201)
    def post(self, request: Request) -> Response:
        return reply(rig_view(bring_back(read(request, BringBackInput).copy, free_slug, request.user)), 201)


class Archived(APIView):
    changes_rig = False

    @endpoint("archiveRig", RigView, ArchiveInput)
    def put(self, request: Request, slug: str) -> Response:
        """Put a rig aside, or take it up again."""
        given = read(request, ArchiveInput)
        return reply(rig_view(put_aside(slug, given.revision, request.user, aside=given.archived)))


class Repair(APIView):
    @endpoint("repairable", Repairable)
    def get(self, request: Request, slug: str) -> Response:
        """What a repair would leave out of a rig."""
        copy = b"".join(archive.write(get_object_or_404(Rig, slug=slug)))
        return reply(Repairable(mend(copy)[1]))

    @endpoint("repairRig", Repairable)
    def post(self, request: Request, slug: str) -> Response:
        """Leave out what cannot be read, keeping a copy of the whole."""
        rig = get_object_or_404(Rig, slug=slug)
        check_left_alone(rig)
        return reply(Repairable(repair(rig, request.user)[1]))


class Double(APIView):
    changes_rig = False

    @endpoint("doubleRig", RigView, DoubleInput, status=201)
    def post(self, request: Request, slug: str) -> Response:
        given = read(request, DoubleInput)
        check_name(given.name)
        rig = get_object_or_404(Rig, slug=slug)
        return reply(rig_view(double(rig, given.name.strip(), free_slug, request.user)), 201)


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
    """A line of the book. ``imported``: it came with a rig file; author and moment are only what the file says."""

    id: int
    at: datetime
    who: str
    station: str
    title: str
    why: str
    before: dict[str, Any]
    after: dict[str, Any]
    imported: bool


class Book(APIView):
    @endpoint("book", EntryView, many=True)
    def get(self, request: Request, slug: str) -> Response:
        rig = get_object_or_404(Rig, slug=slug)
        return reply([entry_view(e) for e in rig.entries.all()[:500]])


def entry_view(e: Entry) -> EntryView:
    return EntryView(e.pk, e.at, e.who, e.station, e.title, e.why, e.before, e.after, e.imported)
