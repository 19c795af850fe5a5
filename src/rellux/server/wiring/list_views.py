"""Editing the list: parts, wires, ticks."""

from dataclasses import dataclass, field
from typing import Any

from django.shortcuts import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.wiring.wishes import WireWish
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.library.models import Own
from rellux.server.rigs.change import changing

from .edit import add_part, add_wire, change_wire, fit_own, paste, rate_part, remove_part, remove_wire, tick
from .views import WiringView, wiring_view


@dataclass(frozen=True)
class PartInput:
    """A generic part; without a name it gets the next free one."""

    revision: int
    kind: str
    name: str = ""
    ratings: dict[str, Any] = field(default_factory=dict)


class Parts(APIView):
    @endpoint("addPart", WiringView, PartInput)
    def post(self, request: Request, slug: str) -> Response:
        given = read(request, PartInput)
        with changing(slug, given.revision) as rig:
            add_part(rig, request.user, given.kind, given.name, given.ratings)
        return reply(wiring_view(rig))


@dataclass(frozen=True)
class FitInput:
    """``own``: one of the workshop's own parts, or None for a generic one."""

    revision: int
    own: int | None = None


class PartDetail(APIView):
    @endpoint("fitOwnPart", WiringView, FitInput)
    def put(self, request: Request, slug: str, name: str) -> Response:
        given = read(request, FitInput)
        own = get_object_or_404(Own, pk=given.own).part() if given.own is not None else None
        with changing(slug, given.revision) as rig:
            fit_own(rig, request.user, name, own)
        return reply(wiring_view(rig))

    @endpoint("removePart", WiringView, query={"revision": int})
    def delete(self, request: Request, slug: str, name: str) -> Response:
        with changing(slug, revision_of(request)) as rig:
            remove_part(rig, request.user, name)
        return reply(wiring_view(rig))


@dataclass(frozen=True)
class RatingsInput:
    revision: int
    ratings: dict[str, Any] = field(default_factory=dict)


class PartRatings(APIView):
    @endpoint("ratePart", WiringView, RatingsInput)
    def put(self, request: Request, slug: str, name: str) -> Response:
        given = read(request, RatingsInput)
        with changing(slug, given.revision) as rig:
            rate_part(rig, request.user, name, given.ratings)
        return reply(wiring_view(rig))


@dataclass(frozen=True)
class WireInput:
    revision: int
    a: str
    b: str
    number: int | None = None
    area_mm2: float | None = None
    colour: str = ""
    length_m: float | None = None
    insulation: str | None = None
    route: str | None = None

    def wish(self) -> WireWish:
        return WireWish(
            self.a, self.b, self.number, self.area_mm2, self.colour, self.length_m, self.insulation, self.route
        )


class Wires(APIView):
    @endpoint("addWire", WiringView, WireInput)
    def post(self, request: Request, slug: str) -> Response:
        given = read(request, WireInput)
        with changing(slug, given.revision) as rig:
            add_wire(rig, request.user, given.wish())
        return reply(wiring_view(rig))


class WireDetail(APIView):
    @endpoint("changeWire", WiringView, WireInput)
    def put(self, request: Request, slug: str, number: int) -> Response:
        given = read(request, WireInput)
        with changing(slug, given.revision) as rig:
            change_wire(rig, request.user, number, given.wish())
        return reply(wiring_view(rig))

    @endpoint("removeWire", WiringView, query={"revision": int})
    def delete(self, request: Request, slug: str, number: int) -> Response:
        with changing(slug, revision_of(request)) as rig:
            remove_wire(rig, request.user, number)
        return reply(wiring_view(rig))


@dataclass(frozen=True)
class TickInput:
    revision: int
    built: bool


class Built(APIView):
    @endpoint("tickWire", WiringView, TickInput)
    def put(self, request: Request, slug: str, number: int) -> Response:
        given = read(request, TickInput)
        with changing(slug, given.revision) as rig:
            tick(rig, number, given.built)
        return reply(wiring_view(rig))


@dataclass(frozen=True)
class PasteInput:
    """``text``: one wire a line, ``from, to`` and where given number, mm² and colour; or with a heading line."""

    revision: int
    text: str


class Paste(APIView):
    @endpoint("pasteWires", WiringView, PasteInput)
    def post(self, request: Request, slug: str) -> Response:
        given = read(request, PasteInput)
        with changing(slug, given.revision) as rig:
            paste(rig, request.user, given.text)
        return reply(wiring_view(rig))


def revision_of(request: Request) -> int:
    text = request.query_params.get("revision", "")
    return int(text) if text.isdigit() else -1
