"""Register maps: the library of those the workshop has described, their file, their poll plan, and finding out."""

import time
from dataclasses import dataclass, field
from typing import Any

from django.http import HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import Problem, refuse, refuse_all
from rellux.core.units import Kind
from rellux.devices.finding import MOST_SCANNED, Guess, Typed, guess, moving, scan
from rellux.devices.map_file import NAMES, parse, plain
from rellux.devices.modbus_link import Address, LinkDown, ModbusLink, is_host
from rellux.devices.poll_plan import shortest_interval_s
from rellux.devices.register_map import STAND_IN, RegisterMap
from rellux.devices.registers import HIGHEST_ADDRESS, RegisterTable, kind_of, notation_of, words_of
from rellux.devices.serial_ports import BAUDS
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply

from .maps import current, keep, map_by_key, remove, succeed, users_of
from .models import RegisterMapFile

LOOK_AGAIN_S = 1.5
"""Between the two looks of a scan, s: what is alive moves by then (our choice)."""


@dataclass(frozen=True)
class MapName:
    """A map in the library; ``users``: the rigs whose link speaks by it."""

    key: str
    title: str
    users: list[str]
    own: bool


@dataclass(frozen=True)
class NameOption:
    """A value a register can be: its neutral name, what it is called, and whether it is in degrees."""

    name: str
    words: str
    degrees: bool


@dataclass(frozen=True)
class MapsView:
    maps: list[MapName]
    names: list[NameOption]


@dataclass(frozen=True)
class MapInput:
    """``map``: the map as its file says it."""

    map: Any


@dataclass(frozen=True)
class Place:
    """Where a value is, in both notations."""

    name: str
    table: str
    address: int
    notation: str


@dataclass(frozen=True)
class Pace:
    """Shortest honest interval on a serial bus of this speed, this device alone."""

    baud: int
    interval_s: float


@dataclass(frozen=True)
class MapView:
    key: str
    title: str
    map: Any
    places: list[Place]
    reads: int
    paces: list[Pace]


@dataclass(frozen=True)
class ScanInput:
    """Where to look, read only. ``table``: coil, discrete, holding or input."""

    host: str
    port: int = 502
    unit_id: int = 1
    table: str = "holding"
    start: int = 0
    count: int = 100


@dataclass(frozen=True)
class Answered:
    """One register that answers: its word now, and whether it moved between two looks."""

    address: int
    notation: str
    word: int
    moves: bool


@dataclass(frozen=True)
class ScanView:
    registers: list[Answered]


@dataclass(frozen=True)
class TypedInput:
    """What the display showed when the registers held ``words`` (by address)."""

    shown: str
    words: dict[str, int]


@dataclass(frozen=True)
class GuessInput:
    table: str
    typed: list[TypedInput] = field(default_factory=list)


@dataclass(frozen=True)
class WayView:
    address: int
    notation: str
    coding: str
    order: str
    scale: float
    words: int


@dataclass(frozen=True)
class GuessView:
    """``sure``: the candidates are one place, one order and one number of decimals. ``says``: what to do next."""

    sure: bool
    says: str
    candidates: list[WayView]


def _view(found: RegisterMap) -> MapView:
    places = [Place(r.name, r.table.value, r.address, r.notation) for r in found.registers]
    blocks = found.asked
    paces = [Pace(b, shortest_interval_s(blocks, b)) for b in BAUDS]
    return MapView(found.key, found.title, plain(found), places, len(blocks), paces)


class RegisterMaps(APIView):
    @endpoint("registerMaps", MapsView)
    def get(self, request: Request) -> Response:
        own = [MapName(m.key, m.title, users_of(m.key), True) for m in current()]
        maps = [*own, MapName(STAND_IN.key, STAND_IN.title, users_of(STAND_IN.key), False)]
        degrees = (Kind.TEMPERATURE, Kind.DIFFERENCE)
        return reply(MapsView(maps, [NameOption(n, words_of(n), kind_of(n) in degrees) for n in NAMES]))

    @endpoint("addRegisterMap", MapView, MapInput, status=201)
    def post(self, request: Request) -> Response:
        return reply(_view(map_by_key(keep(read(request, MapInput).map).key)), 201)


class RegisterMapCheck(APIView):
    @endpoint("checkRegisterMap", MapView, MapInput)
    def post(self, request: Request) -> Response:
        """What a map would mean, without storing it."""
        return reply(_view(parse(read(request, MapInput).map, "tried")))


class RegisterMapDetail(APIView):
    @endpoint("registerMap", MapView)
    def get(self, request: Request, key: str) -> Response:
        if key != STAND_IN.key:
            get_object_or_404(RegisterMapFile, key=key)
        return reply(_view(map_by_key(key)))

    @endpoint("changeRegisterMap", MapView, MapInput)
    def put(self, request: Request, key: str) -> Response:
        """Store a changed map; links that speak by the old one speak by the new one from now on."""
        old = get_object_or_404(RegisterMapFile, key=key)
        if old.successor_id is not None:
            raise refuse("map", "it has been changed meanwhile", "the newest one")
        return reply(_view(map_by_key(succeed(old, read(request, MapInput).map, request.user).key)))

    @endpoint("removeRegisterMap", None, status=204)
    def delete(self, request: Request, key: str) -> Response:
        remove(get_object_or_404(RegisterMapFile, key=key))
        return Response(status=204)


class RegisterMapFileView(APIView):
    @endpoint("registerMapFile", None)
    def get(self, request: Request, key: str) -> HttpResponse:
        """The map as a file."""
        if key != STAND_IN.key:
            get_object_or_404(RegisterMapFile, key=key)
        found = map_by_key(key)
        answer = JsonResponse(plain(found), json_dumps_params={"indent": 1, "ensure_ascii": False})
        name = "".join(c if c.isascii() and c.isalnum() else "-" for c in found.title.lower()).strip("-") or "map"
        answer["Content-Disposition"] = f'attachment; filename="{name}.registers.json"'
        return answer


def _table(name: str) -> RegisterTable:
    if name not in [t.value for t in RegisterTable]:
        raise refuse("table", f"{name!r} is no table", ", ".join(t.value for t in RegisterTable))
    return RegisterTable(name)


class RegisterScan(APIView):
    @endpoint("scanRegisters", ScanView, ScanInput)
    def post(self, request: Request) -> Response:
        """Read a range of a device twice, slowly, and say what answers and what moves. Nothing is written."""
        g = read(request, ScanInput)
        table = _table(g.table)
        problems = []
        if not is_host(g.host):
            problems.append(Problem("host", "say where the controller is", "a name or address"))
        if not 1 <= g.port <= 65_535:
            problems.append(Problem("port", f"{g.port} is not a port", "1…65535, usually 502"))
        if not 1 <= g.unit_id <= 247:
            problems.append(Problem("unit_id", f"{g.unit_id} is not a unit address", "1…247"))
        if not 1 <= g.count <= MOST_SCANNED:
            problems.append(Problem("count", f"{g.count} registers", f"1…{MOST_SCANNED}"))
        if not 0 <= g.start <= HIGHEST_ADDRESS or g.start + g.count > HIGHEST_ADDRESS + 1:
            problems.append(Problem("start", "beyond the last address", f"0…{HIGHEST_ADDRESS}"))
        refuse_all(problems)
        try:
            with ModbusLink(Address(g.host.strip(), g.port, g.unit_id), STAND_IN) as link:
                first = scan(link.words_of, table, g.start, g.count)
                time.sleep(LOOK_AGAIN_S)
                second = scan(link.words_of, table, g.start, g.count)
        except LinkDown as down:
            raise refuse("host", str(down), "a device that answers") from down
        moved = moving([first, second])
        return reply(ScanView([Answered(a, notation_of(table, a), w, a in moved) for a, w in sorted(second.items())]))


class RegisterGuess(APIView):
    @endpoint("guessRegister", GuessView, GuessInput)
    def post(self, request: Request) -> Response:
        """Which register, coding, order and decimals show what was typed from the display."""
        g = read(request, GuessInput)
        table, typed = _table(g.table), []
        for i, t in enumerate(g.typed):
            try:
                words = {int(a): int(w) & 0xFFFF for a, w in t.words.items()}
                typed.append(Typed(t.shown, words))
                typed[-1].value  # noqa: B018 - reading it is the check
            except ValueError:
                raise refuse(f"typed[{i}].shown", f"{t.shown!r} is not a number", "what the display showed") from None
        found = guess(typed, table)
        ways = [WayView(r.address, r.notation, str(r.coding), r.order, r.scale, r.words) for r in found.candidates]
        return reply(GuessView(found.sure, _says(found, len(typed)), ways))


def _says(found: Guess, typed: int) -> str:
    ways = len(found.candidates)
    if not typed:
        return "Type what the display shows now."
    if not ways:
        return "Nothing in this range shows that. Another range or table, or a typing slip."
    if found.sure:
        return "Only one place and one way of reading fits."
    if found.one_place:
        return (
            f"Only one place fits, {found.candidates[0].notation}; whether it has 16 or 32 bits cannot be told while the word "
            "beside it stays nothing. Its manual says."
        )
    return f"{ways} ways still fit: not sure. Type once more when the display has changed by some digits."
