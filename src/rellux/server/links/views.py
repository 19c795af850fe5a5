"""The link to the controller: where it is, and what differs between the controller and its sheet."""

from dataclasses import dataclass
from math import ceil
from typing import Any

from django.http import Http404
from django.shortcuts import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.control.steps import is_held
from rellux.core.errors import Problem, refuse, refuse_all
from rellux.core.logs.lines import LineFormat
from rellux.core.logs.lines import check as check_lines
from rellux.core.messages import quantity
from rellux.core.setup.parameters import BY_NAME
from rellux.core.setup.schools import school_of
from rellux.core.setup.writing import as_held
from rellux.core.spine import Station
from rellux.devices.modbus_link import is_host
from rellux.devices.poll_plan import shortest_interval_s
from rellux.devices.register_map import STAND_IN, RegisterMap
from rellux.devices.serial_ports import BAUDS, PARITIES, port_problems, serial_ports
from rellux.devices.text_link import TEXT
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import as_json, read, reply
from rellux.server.rigs.change import note
from rellux.server.rigs.models import Rig
from rellux.server.setup.domain import current_values

from .commands import lapse
from .live import Live, live_of
from .maps import map_by_key, map_of
from .models import Link, LinkState
from .reaching import address_of, line_format_of
from .stand_ins import free_port


@dataclass(frozen=True)
class Difference:
    """One value that differs between the controller and the sheet."""

    name: str
    title: str
    kind: str | None
    controller: Any
    sheet: Any


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
    live: Live
    differences: list[Difference]


@dataclass(frozen=True)
class LinkInput:
    """``port`` may be left out for a stand-in: Rellux finds a free one. ``register_map``: how the controller is spoken to; a stand-in
    speaks any of them, to rehearse. ``line_format``: how a board that is listened to writes, ``poll_s`` then how often."""

    stand_in: bool
    host: str = "127.0.0.1"
    port: int | None = None
    unit_id: int = 1
    poll_s: float = 0.25
    speed: float = 1.0
    register_map: str = STAND_IN.key
    way: str = Link.Way.TCP.value
    device: str = ""
    baud: int = 9600
    parity: str = "N"
    stop_bits: int = 1
    line_format: LineFormat | None = None


def shortest_of(way: str, device: str, baud: int, register_map: RegisterMap, rig: str) -> float:
    """Shortest honest interval between polls, s, beside the other devices on its bus; 0 where no serial bus slows it down."""
    if way != Link.Way.SERIAL:
        return 0.0
    others = Link.objects.filter(way=Link.Way.SERIAL, device=device).exclude(rig__slug=rig)
    return shortest_interval_s([register_map.blocks, *(map_of(link).blocks for link in others)], baud)


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
        shortest_of(link.way, link.device, link.baud, map_of(link), link.rig.slug),
        link.host,
        link.port,
        link.unit_id,
        link.register_map,
        map_of(link).title,
        map_of(link).link_loss,
        link.poll_s,
        link.speed,
        line_format_of(link) if link.way == Link.Way.TEXT else None,
        live_of(link.rig),
        differences(link),
    )


def writable(link: Link) -> list[str]:
    return [r.name for r in map_of(link).registers if r.writable and r.name in BY_NAME]


def steps_of(link: Link) -> dict[str, float]:
    """The least change of every value the controller takes, by parameter."""
    return {r.name: r.step for r in map_of(link).registers if r.writable and not r.choices}


def differences(link: Link) -> list[Difference]:
    """Old → new for everything the sheet says otherwise; the run state (mode off) is not a difference."""
    state = LinkState.objects.filter(link=link, generation=link.generation).first()
    sheet = as_held(current_values(link.rig), steps_of(link))
    if state is None or not sheet:
        return []
    found = []
    other_kind = school_of(sheet) not in (None, map_of(link).offset_school)
    for name in writable(link):
        if name == "offset_c" and other_kind:
            continue  # Set-up says so; a number of the other kind is not sent
        holds, wanted = state.values.get(name), sheet.get(name)
        if holds is None or wanted is None or (name == "mode" and holds == "off"):
            continue
        if not is_held(wanted, holds, map_of(link).by_name[name].step):
            kind = BY_NAME[name].kind
            found.append(Difference(name, BY_NAME[name].title, kind.value if kind else None, holds, wanted))
    return found


def _check_link(given: LinkInput, slug: str) -> None:
    problems = []
    if given.way not in Link.Way.values or (given.stand_in and given.way != Link.Way.TCP):
        problems.append(Problem("way", f"{given.way!r} is no way to it", ", ".join(Link.Way.values)))
    serial = given.way in (Link.Way.SERIAL, Link.Way.TEXT)
    if serial:
        problems += _serial(given)
    if given.way == Link.Way.TEXT and given.line_format is None:
        problems.append(Problem("line_format", "how its lines are read is not known", "listen to it first"))
    if (given.way == Link.Way.TEXT) != (given.register_map == TEXT.key):
        problems.append(
            Problem(
                "register_map",
                "a board that is listened to has none, and no other can be without",
                "a map that fits the way",
            )
        )
    if given.port is None and not given.stand_in and not serial:
        problems.append(Problem("port", "say where the controller listens", "1…65535, usually 502"))
    if given.port is not None and not 1 <= given.port <= 65535:
        problems.append(Problem("port", f"{given.port} is not a port", "1…65535"))
    if not 0.05 <= given.poll_s <= 60:
        problems.append(Problem("poll_s", f"{quantity(given.poll_s, 's')} between polls", "{0.05…60 s}"))
    if not 0.1 <= given.speed <= 200:
        problems.append(Problem("speed", f"{quantity(given.speed)} times real time", "{0.1…200}"))
    if not 1 <= given.unit_id <= 247:
        problems.append(Problem("unit_id", f"{given.unit_id} is not a unit address", "1…247"))
    if not is_host(given.host):
        problems.append(Problem("host", "say where the controller is", "a name or address"))
    refuse_all(problems)
    if given.way == Link.Way.TEXT and given.line_format:
        check_lines(given.line_format)
    least = shortest_of(given.way, given.device.strip(), given.baud, map_by_key(given.register_map), slug)
    if given.poll_s < least:
        reason = f"{quantity(given.poll_s, 's')} is faster than this bus can answer by this map"
        raise refuse("poll_s", reason, f"{quantity(ceil(100 * least) / 100, 's')} and more")


def _serial(given: LinkInput) -> list[Problem]:
    found = port_problems(given.device, given.baud)
    if given.parity not in PARITIES:
        found.append(
            Problem("parity", f"{given.parity!r} is no parity", ", ".join(f"{k} ({v})" for k, v in PARITIES.items()))
        )
    if given.stop_bits not in (1, 2):
        found.append(Problem("stop_bits", f"{given.stop_bits} stop bits", "1 or 2"))
    return found


def _check_bus(given: LinkInput, rig: Rig) -> None:
    """Devices on one bus speak at one speed, each by an address of its own."""
    if given.way not in (Link.Way.SERIAL, Link.Way.TEXT):
        return
    ways = (Link.Way.SERIAL, Link.Way.TEXT)
    for other in Link.objects.filter(way__in=ways, device=given.device.strip()).exclude(rig=rig):
        if Link.Way.TEXT in (given.way, other.way):
            raise refuse("device", f"{other.rig.name} is linked by this port", "a port of its own")
        if other.unit_id == given.unit_id:
            raise refuse(
                "unit_id", f"{other.rig.name} has unit {given.unit_id} on this port", "a unit address of its own"
            )
        if (other.baud, other.parity, other.stop_bits) != (given.baud, given.parity, given.stop_bits):
            spoken = f"{other.baud} baud, parity {PARITIES[other.parity]}, {other.stop_bits} stop"
            raise refuse("baud", f"{other.rig.name} speaks {spoken} on this port", "the same for every device on a bus")


def _port(given: LinkInput, old: Link | None) -> int:
    """The port asked for; a stand-in keeps its own or gets a free one, a serial link has none."""
    if given.port or given.way in (Link.Way.SERIAL, Link.Way.TEXT):
        return given.port or 0
    return old.port if old and old.stand_in and given.stand_in else free_port()


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
        _check_link(given, slug)
        rig = get_object_or_404(Rig, slug=slug)
        if not rig.sensor:
            raise refuse("parts", "choose the parts first: the link depends on them", "sensor, output and switch")
        old = Link.objects.filter(rig=rig).first()
        place = {
            "stand_in": given.stand_in,
            "host": "127.0.0.1" if given.stand_in else given.host.strip(),
            "port": _port(given, old),
            "unit_id": given.unit_id,
            "register_map": given.register_map,
            "way": given.way,
            "device": given.device.strip() if given.way in (Link.Way.SERIAL, Link.Way.TEXT) else "",
            "baud": given.baud,
            "parity": given.parity,
            "stop_bits": given.stop_bits,
            "line_format": as_json(given.line_format) if given.way == Link.Way.TEXT else {},
        }
        moved = old is not None and any(getattr(old, name) != value for name, value in place.items())
        if given.stand_in and Link.objects.filter(stand_in=True, port=place["port"]).exclude(rig=rig).exists():
            raise refuse("port", f"{place['port']} is another rig's simulated controller", "a port of its own, or none")
        _check_bus(given, rig)
        if moved and live_of(rig).recording:
            raise refuse(
                "link", "a run is being recorded over it, and would go on with another controller", "a stopped run"
            )
        pace = {"poll_s": given.poll_s, "speed": given.speed if given.stand_in else 1.0}
        generation = old.generation + moved if old else 0
        link, _ = Link.objects.update_or_create(rig=rig, defaults={**place, **pace, "generation": generation})
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
        link.delete()
        note(link.rig, request.user, Station.RUNS, "Link removed")
        return Response(status=204)
