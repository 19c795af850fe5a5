"""The link to the controller: where it is, and what differs between the controller and its sheet."""

from dataclasses import dataclass
from typing import Any

from django.http import Http404
from django.shortcuts import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.control.steps import is_held
from rellux.core.errors import refuse
from rellux.core.logs.lines import LineFormat
from rellux.core.logs.mapping import Mapping
from rellux.core.messages import quantity
from rellux.core.runs.channels import READING
from rellux.core.setup.auto_tune import AUTO_TUNE
from rellux.core.setup.dictionary import BY_NAME
from rellux.core.setup.memory import write_says
from rellux.core.setup.parameters import parameters_for
from rellux.core.setup.schools import school_of
from rellux.core.setup.writing import as_held
from rellux.core.spine import Station
from rellux.devices.registers import words_of
from rellux.devices.serial_ports import BAUDS, PARITIES, serial_ports
from rellux.devices.text_commands import TextCommands, commands_from
from rellux.devices.text_commands import check as check_commands
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import as_json, read, reply
from rellux.server.rigs.change import note
from rellux.server.rigs.domain import purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.setup.domain import current_values

from .commands import lapse
from .live import Live, live_of, tested
from .maps import line_format_of, map_by_key, map_of, memory_of
from .models import Link, LinkState
from .place import PlaceInput, checked_place, shortest_of
from .reaching import address_of


@dataclass(frozen=True)
class Difference:
    """One value that differs between the controller and the sheet."""

    name: str
    title: str
    kind: str | None
    controller: Any
    sheet: Any


@dataclass(frozen=True)
class WearView:
    """A value that goes to memory that wears out, and what is to be known before it is written once more."""

    name: str
    title: str
    says: str


@dataclass(frozen=True)
class PortView:
    """A serial port of this machine, by the name that stays, and what the system says it is."""

    device: str
    words: str


@dataclass(frozen=True)
class ParityView:
    """A parity by its letter, and in words."""

    letter: str
    words: str


@dataclass(frozen=True)
class SerialView:
    """What a serial link can be: ports of this machine, speeds, parities."""

    ports: list[PortView]
    bauds: list[int]
    parities: list[ParityView]


@dataclass(frozen=True)
class LinkView:
    stand_in: bool
    way: str
    device: str
    baud: int
    parity: str
    stop_bits: int
    shortest_s: float
    host: str
    port: int
    unit_id: int
    register_map: str
    map_title: str
    link_loss: str
    poll_s: float
    speed: float
    line_format: LineFormat | None
    mapping: Mapping | None
    username: str
    has_password: bool
    encrypted: bool
    authority: str
    commands: TextCommands | None
    auto_tune: str | None
    live: Live
    differences: list[Difference]
    kept: list[WearView]


@dataclass(frozen=True)
class LinkInput(PlaceInput):
    """The controller's place; ``speed``: how many times faster than real a simulated one goes; ``commands``: what a board takes as lines
    of text, none where it is only listened to."""

    speed: float = 1.0
    commands: TextCommands | None = None


def link_of(slug: str) -> Link:
    rig = get_object_or_404(Rig, slug=slug)
    link = Link.objects.filter(rig=rig).first()
    if link is None:
        raise Http404
    return link


def link_view(link: Link) -> LinkView:
    return LinkView(
        link.stand_in,
        link.way,
        link.device,
        link.baud,
        link.parity,
        link.stop_bits,
        shortest_of(link.way, link.device, link.baud, map_of(link), link),
        link.host,
        link.port,
        link.unit_id,
        link.register_map,
        map_of(link).title,
        map_of(link).link_loss,
        link.poll_s,
        link.speed,
        line_format_of(link) if link.way == Link.Way.TEXT else None,
        Mapping(**link.mapping) if link.mapping else None,
        link.username,
        bool(link.password),
        link.encrypted,
        link.authority,
        commands_from(link.text_commands),
        _auto_tune(link),
        live_of(link.rig),
        differences(link),
        _kept(link),
    )


def _kept(link: Link) -> list[WearView]:
    registers = (r for r in map_of(link).registers if r.writable)
    told = ((r.name, write_says(memory_of(link, r))) for r in registers)
    return [WearView(name, words_of(name), says) for name, says in told if says]


def _auto_tune(link: Link) -> str | None:
    """Whether it tunes itself now: ``on`` or ``off``; ``None`` where it cannot be told to, or does not say."""
    if AUTO_TUNE not in writable(link):
        return None
    state = LinkState.objects.filter(link=link, generation=link.generation).first()
    return (state.values if state else {}).get(AUTO_TUNE)


def writable(link: Link) -> list[str]:
    return [r.name for r in map_of(link).registers if r.writable and (r.name in BY_NAME or r.name == AUTO_TUNE)]


def steps_of(link: Link) -> dict[str, float]:
    """The least change of every value the controller takes, by parameter."""
    return {r.name: r.step for r in map_of(link).registers if r.writable and not r.choices}


def differences(link: Link) -> list[Difference]:
    """Old → new for everything the sheet says otherwise; the run state (mode off) is not a difference."""
    state = LinkState.objects.filter(link=link, generation=link.generation).first()
    sheet = as_held(current_values(link.rig), steps_of(link))
    if state is None or not sheet:
        return []
    found, has = [], {p.name for p in parameters_for(purpose_of(link.rig))}
    other_kind = school_of(sheet) not in (None, map_of(link).offset_school)
    for name in writable(link):
        if name == "offset_c" and other_kind:
            continue  # Set-up says so; a number of the other kind is not sent
        holds, wanted = state.values.get(name), sheet.get(name)
        if name not in has or holds is None or wanted is None or (name == "mode" and holds == "off"):
            continue
        if not is_held(wanted, holds, map_of(link).by_name[name].step):
            kind = BY_NAME[name].kind
            found.append(Difference(name, BY_NAME[name].title, kind.value if kind else None, holds, wanted))
    return found


def _check_speed(speed: float) -> None:
    if not 0.1 <= speed <= 200:
        raise refuse("speed", f"{quantity(speed)} times real time", "{0.1…200}")


def _commands_of(given: LinkInput) -> dict[str, Any]:
    """What a board takes, as a link keeps it, after every check; nothing for any other."""
    if given.way != Link.Way.TEXT or given.line_format is None or given.commands is None or not given.commands.rows:
        return {}
    check_commands(given.line_format, given.commands)
    return as_json(given.commands)


class SerialPorts(APIView):
    @endpoint("serialPorts", SerialView)
    def get(self, request: Request) -> Response:
        """The serial ports of the machine Rellux runs on."""
        ports = [PortView(p.device, p.words) for p in serial_ports()]
        return reply(SerialView(ports, list(BAUDS), [ParityView(k, v) for k, v in PARITIES.items()]))


class LinkDetail(APIView):
    @endpoint("link", LinkView)
    def get(self, request: Request, slug: str) -> Response:
        return reply(link_view(link_of(slug)))

    @endpoint("setLink", LinkView, LinkInput)
    def put(self, request: Request, slug: str) -> Response:
        given = read(request, LinkInput)
        rig = get_object_or_404(Rig, slug=slug)
        old = Link.objects.filter(rig=rig).first()
        place = {**checked_place(given, old), "text_commands": _commands_of(given)}
        _check_speed(given.speed)
        if READING not in map_by_key(given.register_map).by_name:
            raise refuse(
                "register_map", "it has no reading: such a device cannot be the controller", "a map with a reading"
            )
        if not rig.sensor:
            raise refuse("parts", "choose the parts first: the link depends on them", "sensor, output and switch")
        moved = old is not None and any(getattr(old, name) != value for name, value in place.items())
        if moved and live_of(rig).recording:
            raise refuse(
                "link", "a run is being recorded over it, and would go on with another controller", "a stopped run"
            )
        if old is not None and tested(rig):
            raise refuse("link", "a relay test runs over it", "end the test first")
        pace = {"poll_s": given.poll_s, "speed": given.speed if given.stand_in else 1.0}
        generation = old.generation + moved if old else 0
        fresh = {"writes": {}} if moved else {}
        link, _ = Link.objects.update_or_create(rig=rig, defaults={**place, **pace, **fresh, "generation": generation})
        if moved:
            lapse(link)
        where = "a simulated controller" if link.stand_in else str(address_of(link))
        note(rig, request.user, Station.RUNS, f"Link set to {where}")
        return reply(link_view(link))

    @endpoint("removeLink", None, status=204)
    def delete(self, request: Request, slug: str) -> Response:
        link = link_of(slug)
        if live_of(link.rig).recording:
            raise refuse("link", "a run is being recorded over it", "stop the run first")
        if tested(link.rig):
            raise refuse("link", "a relay test runs over it", "end the test first")
        link.delete()
        note(link.rig, request.user, Station.RUNS, "Link removed")
        return Response(status=204)
