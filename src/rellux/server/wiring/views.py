"""The wiring station: the list, the diagram's data, the findings and the states."""

from dataclasses import dataclass

from django.shortcuts import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.findings import Finding
from rellux.core.heating.protection import conductors
from rellux.core.heating.protection_data import Practice
from rellux.core.spine import Station
from rellux.core.wiring.model import Terminal
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.library.models import Own
from rellux.server.rigs.change import changing
from rellux.server.rigs.models import Rig
from rellux.server.rigs.overview import findings_of

from .domain import connection_list, positions_of
from .edit import add_wire, change_wire, fit_own, lay_out, remove_wire, replaced
from .paste import paste


@dataclass(frozen=True)
class PartView:
    name: str
    kind: str
    title: str
    own: str
    rating: str
    terminals: list[Terminal]
    numbers: dict[str, str]


@dataclass(frozen=True)
class WireView:
    number: int
    a: str
    b: str
    circuit: str
    area_mm2: float
    colour: str


@dataclass(frozen=True)
class StateView:
    """A state: which loads are energised, and which terminals are at live and neutral potential."""

    name: str
    energised: list[str]
    live: list[str]
    neutral: list[str]
    settled: bool


@dataclass(frozen=True)
class WiringView:
    revision: int
    parts: list[PartView]
    wires: list[WireView]
    findings: list[Finding]
    states: list[StateView]
    sizes: list[float]
    can_put_back: bool


def _rating(ratings: dict[str, float | str]) -> str:
    words = []
    for key, unit in (("power_w", "W"), ("voltage_v", "V"), ("current_a", "A"), ("coil_v", "V coil")):
        if key in ratings:
            words.append(f"{ratings[key]:g} {unit}")
    if "sensor" in ratings:
        words.append(str(ratings["sensor"]))
    return ", ".join(words)


def wiring_view(rig: Rig) -> WiringView:
    wiring = connection_list(rig)
    states = [
        StateView(p.name, sorted(p.energised), sorted(p.live), sorted(p.idle), p.solution.settled)
        for p in (positions_of(rig) if wiring.connections else [])
    ]
    return WiringView(
        rig.revision,
        [
            PartView(p.name, p.type.kind, p.type.title, p.title, _rating(p.ratings), list(p.type.terminals), p.numbers)
            for p in wiring.parts
        ],
        [WireView(c.number, c.a, c.b, c.circuit.value, c.area_mm2, c.colour) for c in wiring.connections],
        list(findings_of(rig)[Station.WIRING]),
        states,
        [c.area_mm2 for c in conductors(Practice(rig.practice))],
        replaced(rig) is not None,
    )


@dataclass(frozen=True)
class LayOutInput:
    revision: int


@dataclass(frozen=True)
class WireInput:
    revision: int
    a: str
    b: str
    number: int | None = None
    area_mm2: float | None = None
    colour: str = ""


class Wiring(APIView):
    @endpoint("wiring", WiringView)
    def get(self, request: Request, slug: str) -> Response:
        return reply(wiring_view(get_object_or_404(Rig, slug=slug)))

    @endpoint("layOutWiring", WiringView, LayOutInput)
    def post(self, request: Request, slug: str) -> Response:
        with changing(slug, read(request, LayOutInput).revision) as rig:
            lay_out(rig, request.user)
        return reply(wiring_view(rig))


@dataclass(frozen=True)
class FitInput:
    """``own``: one of the workshop's own parts, or None for a generic one."""

    revision: int
    own: int | None = None


class FittedDetail(APIView):
    @endpoint("fitOwnPart", WiringView, FitInput)
    def put(self, request: Request, slug: str, name: str) -> Response:
        given = read(request, FitInput)
        own = get_object_or_404(Own, pk=given.own).part() if given.own is not None else None
        with changing(slug, given.revision) as rig:
            fit_own(rig, request.user, name, own)
        return reply(wiring_view(rig))


class Wires(APIView):
    @endpoint("addWire", WiringView, WireInput)
    def post(self, request: Request, slug: str) -> Response:
        given = read(request, WireInput)
        with changing(slug, given.revision) as rig:
            add_wire(rig, request.user, given.a, given.b, given.number, given.area_mm2, given.colour)
        return reply(wiring_view(rig))


@dataclass(frozen=True)
class PasteInput:
    """``text``: one wire a line, ``from, to`` and where given number, mm² and colour."""

    revision: int
    text: str


class Paste(APIView):
    @endpoint("pasteWires", WiringView, PasteInput)
    def post(self, request: Request, slug: str) -> Response:
        given = read(request, PasteInput)
        with changing(slug, given.revision) as rig:
            paste(rig, request.user, given.text)
        return reply(wiring_view(rig))


class WireDetail(APIView):
    @endpoint("changeWire", WiringView, WireInput)
    def put(self, request: Request, slug: str, number: int) -> Response:
        given = read(request, WireInput)
        with changing(slug, given.revision) as rig:
            change_wire(rig, request.user, number, given.a, given.b, given.area_mm2 or 0.0, given.colour)
        return reply(wiring_view(rig))

    @endpoint("removeWire", WiringView, query={"revision": int})
    def delete(self, request: Request, slug: str, number: int) -> Response:
        revision = request.query_params.get("revision", "")
        with changing(slug, int(revision) if revision.isdigit() else -1) as rig:
            remove_wire(rig, request.user, number)
        return reply(wiring_view(rig))
