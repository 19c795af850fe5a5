"""The wiring station: the list, the diagram's data, findings, positions, laying out, undo, and the list as a file."""

import json
from dataclasses import dataclass, field
from datetime import datetime

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.conductor_colours import CONDUCTOR_COLOURS, ConductorColour
from rellux.core.errors import refuse
from rellux.core.findings import Finding
from rellux.core.heating.conductor_tables import Practice
from rellux.core.heating.conductors import conductors
from rellux.core.messages import quantity
from rellux.core.spine import Station
from rellux.core.wiring.as_built import Done, ToDo, differences, done
from rellux.core.wiring.circuit.positions import Position, operable, verb
from rellux.core.wiring.drawing import CircuitDrawing
from rellux.core.wiring.insulation import INSULATIONS
from rellux.core.wiring.listing import from_plain, to_plain
from rellux.core.wiring.model import Connection, Rating, Terminal
from rellux.core.wiring.usual_circuits import Offer, offers
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.api.strict_json import NotStrictError, loads
from rellux.server.rigs.change import changing
from rellux.server.rigs.domain import choice_of, kind_of, purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.rigs.overview import findings_of
from rellux.server.rigs.revised import revised

from .domain import connection_list, drawings_of, every_finding, positions_of
from .edit import lay_out, replace_list
from .steps import first_undone, last_done, redo, undo

LARGEST_FILE = 2_000_000


@dataclass(frozen=True)
class PartView:
    """``operated``: what its other position is called, empty where nobody operates it; ``heats``: a heating element;
    ``signals``: a lamp, beacon or buzzer."""

    name: str
    kind: str
    title: str
    own: str
    rating: str
    terminals: list[Terminal]
    numbers: dict[str, str]
    ratings: dict[str, float | str]
    asks: list[Rating]
    operated: str
    heats: bool
    signals: bool


@dataclass(frozen=True)
class WireView:
    """``done``: whether it has been ticked off at the rig, and is still as it was then."""

    number: int
    a: str
    b: str
    circuit: str
    area_mm2: float
    colour: str
    length_m: float
    insulation: str
    route: str
    done: Done


@dataclass(frozen=True)
class StateView:
    """A position: which parts are on, which modules cool, which terminals are live, which at earth's potential."""

    name: str
    energised: list[str]
    turned: list[str]
    live: list[str]
    neutral: list[str]
    settled: bool


@dataclass(frozen=True)
class AcceptedView:
    """A finding somebody lives with. ``title`` empty: it no longer occurs."""

    id: int
    rule: str
    title: str
    reason: str
    who: str
    at: datetime


@dataclass(frozen=True)
class PhotoView:
    id: int
    terminal: str
    at: datetime


@dataclass(frozen=True)
class Covering:
    """An insulation by its key, in words."""

    key: str
    words: str


@dataclass(frozen=True)
class WiringView:
    """``undo`` and ``redo``: what would be taken back or done again, empty for nothing."""

    revision: int
    circuit: str
    parts: list[PartView]
    wires: list[WireView]
    drawings: list[CircuitDrawing]
    findings: list[Finding]
    accepted: list[AcceptedView]
    states: list[StateView]
    sizes: list[float]
    coverings: list[Covering]
    differences: list[ToDo]
    photos: list[PhotoView]
    undo: str
    redo: str


def _rating(ratings: dict[str, float | str]) -> str:
    words = []
    for key, unit in (("power_w", "W"), ("voltage_v", "V"), ("current_a", "A"), ("coil_v", "V")):
        if key in ratings:
            words.append(quantity(float(ratings[key]), unit) + (" coil" if key == "coil_v" else ""))
    if "sensor" in ratings:
        words.append(str(ratings["sensor"]))
    return ", ".join(words)


def _built(rig: Rig) -> dict[int, Connection]:
    return {b.number: Connection(b.number, b.a, b.b, area_mm2=b.area_mm2, colour=b.colour) for b in rig.built.all()}


def _accepted(rig: Rig) -> list[AcceptedView]:
    rows = list(rig.accepted.all())
    titles = {(f.rule, f.subjects): f.title for f in every_finding(rig)} if rows else {}
    return [
        AcceptedView(a.pk, a.rule, titles.get((a.rule, tuple(a.subjects)), ""), a.reason, a.who, a.at) for a in rows
    ]


def state_view(p: Position) -> StateView:
    on, turned = sorted(p.energised), sorted(p.solution.turned)
    return StateView(p.name, on, turned, sorted(p.live), sorted(p.idle), p.solution.settled)


def wiring_view(rig: Rig) -> WiringView:
    wiring, built = connection_list(rig), _built(rig)
    positions = positions_of(rig) if wiring.connections else []
    last, following = last_done(rig), first_undone(rig)
    by_hand = operable(wiring)
    return WiringView(
        rig.revision,
        rig.circuit,
        [
            PartView(
                p.name,
                p.type.kind,
                p.type.title,
                p.title,
                _rating(p.ratings),
                list(p.type.terminals),
                p.numbers,
                p.ratings,
                list(p.type.ratings),
                verb(p) if p in by_hand else "",
                p.heats,
                p.signals,
            )
            for p in wiring.parts
        ],
        [
            WireView(
                c.number,
                c.a,
                c.b,
                c.circuit.value,
                c.area_mm2,
                c.colour,
                c.length_m,
                c.insulation,
                c.route,
                done(c, built.get(c.number)),
            )
            for c in wiring.connections
        ],
        list(drawings_of(rig)),
        list(findings_of(rig)[Station.WIRING]),
        _accepted(rig),
        [state_view(p) for p in positions],
        [c.area_mm2 for c in conductors(Practice(rig.practice))],
        [Covering(key, words) for key, (words, _) in INSULATIONS.items()],
        list(differences(wiring.connections, built)) if built else [],
        [PhotoView(p.pk, p.terminal, p.at) for p in rig.photos.defer("image")],
        last.title if last else "",
        following.title if following else "",
    )


@dataclass(frozen=True)
class LayOutInput:
    """``circuit``: a usual circuit to start from; empty for the one it is laid out as."""

    revision: int
    circuit: str = ""


@dataclass(frozen=True)
class RevisionInput:
    revision: int


class Wiring(APIView):
    @endpoint("wiring", WiringView)
    def get(self, request: Request, slug: str) -> Response:
        return reply(wiring_view(get_object_or_404(Rig, slug=slug)))

    @endpoint("layOutWiring", WiringView, LayOutInput)
    def post(self, request: Request, slug: str) -> Response:
        given = read(request, LayOutInput)
        with changing(slug, given.revision) as rig:
            lay_out(rig, request.user, given.circuit)
        return reply(wiring_view(rig))


class ConductorColours(APIView):
    @endpoint("conductorColours", ConductorColour, many=True)
    def get(self, request: Request) -> Response:
        return reply(list(CONDUCTOR_COLOURS.values()))


class UsualCircuits(APIView):
    @revised
    @endpoint("usualCircuits", Offer, many=True)
    def get(self, request: Request, slug: str) -> Response:
        rig = get_object_or_404(Rig, slug=slug)
        choice = choice_of(rig)
        return reply(list(offers(kind_of(rig), purpose_of(rig), choice)) if choice else [])


class Undo(APIView):
    @endpoint("undoWiring", WiringView, RevisionInput)
    def post(self, request: Request, slug: str) -> Response:
        with changing(slug, read(request, RevisionInput).revision) as rig:
            undo(rig, request.user)
        return reply(wiring_view(rig))


class Redo(APIView):
    @endpoint("redoWiring", WiringView, RevisionInput)
    def post(self, request: Request, slug: str) -> Response:
        with changing(slug, read(request, RevisionInput).revision) as rig:
            redo(rig, request.user)
        return reply(wiring_view(rig))


class ListFile(APIView):
    @endpoint("wiringFile", None)
    def get(self, request: Request, slug: str) -> HttpResponse:
        wiring = connection_list(get_object_or_404(Rig, slug=slug))
        text = json.dumps({"format": "rellux-wiring", "version": 1, **to_plain(wiring)}, indent=1, ensure_ascii=False)
        response = HttpResponse(text, content_type="application/json; charset=utf-8")
        response["Content-Disposition"] = f'attachment; filename="{slug}-wiring.json"'
        return response


@dataclass(frozen=True)
class ListInput:
    """``text``: a connection list as :class:`ListFile` writes it; it takes the place of the whole list."""

    revision: int
    text: str = field(default="")


class ListImport(APIView):
    @endpoint("importWiring", WiringView, ListInput)
    def post(self, request: Request, slug: str) -> Response:
        given = read(request, ListInput)
        if len(given.text) > LARGEST_FILE:
            raise refuse("text", "the file is too large", f"up to {LARGEST_FILE // 1_000_000} MB")
        try:
            data = loads(given.text)
        except NotStrictError as error:
            raise refuse("text", str(error), "a connection list as Rellux writes it") from None
        if not isinstance(data, dict):
            raise refuse("text", "this is no connection list", "a connection list as Rellux writes it")
        with changing(slug, given.revision) as rig:
            replace_list(rig, request.user, from_plain(data), "Connection list imported")
        return reply(wiring_view(rig))
