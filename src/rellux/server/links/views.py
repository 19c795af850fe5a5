"""The link to the controller: where it is, arming writes, and sending values."""

import time
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from django.http import Http404
from django.shortcuts import get_object_or_404
from django.utils import timezone
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import Problem, Refused, refuse, refuse_all
from rellux.core.setup.parameters import BY_NAME, check_values
from rellux.core.spine import Station
from rellux.devices.register_map import REGISTER_MAPS
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.rigs.change import note
from rellux.server.rigs.models import Rig
from rellux.server.setup.domain import current_values, working_values

from .live import Live, live_of
from .models import Command, Link, LinkState
from .stand_ins import free_port

ARMED_FOR = timedelta(minutes=10)
ANSWER_S = 4.0


@dataclass(frozen=True)
class Difference:
    """One value that differs between the controller and the sheet."""

    name: str
    title: str
    kind: str | None
    controller: Any
    sheet: Any


@dataclass(frozen=True)
class LinkView:
    stand_in: bool
    host: str
    port: int
    unit_id: int
    poll_s: float
    speed: float
    live: Live
    differences: list[Difference]


@dataclass(frozen=True)
class LinkInput:
    """``port`` may be left out for a stand-in: Rellux finds a free one."""

    stand_in: bool
    host: str = "127.0.0.1"
    port: int | None = None
    unit_id: int = 1
    poll_s: float = 0.25
    speed: float = 1.0


@dataclass(frozen=True)
class ArmInput:
    armed: bool


@dataclass(frozen=True)
class WriteInput:
    """Values by parameter name; empty means the whole sheet."""

    values: dict[str, Any]


def _link(slug: str) -> Link:
    rig = get_object_or_404(Rig, slug=slug)
    link = Link.objects.filter(rig=rig).first()
    if link is None:
        raise Http404
    return link


def link_view(link: Link) -> LinkView:
    return LinkView(
        link.stand_in,
        link.host,
        link.port,
        link.unit_id,
        link.poll_s,
        link.speed,
        live_of(link.rig),
        differences(link),
    )


def writable(link: Link) -> list[str]:
    return [r.name for r in REGISTER_MAPS[link.register_map].registers if r.writable and r.name in BY_NAME]


def differences(link: Link) -> list[Difference]:
    """Old → new for everything the sheet says otherwise; the run state (mode off) is not a difference."""
    state = LinkState.objects.filter(link=link).first()
    sheet = current_values(link.rig)
    if state is None or not sheet:
        return []
    found = []
    for name in writable(link):
        held, wanted = state.values.get(name), sheet.get(name)
        if held is None or wanted is None or (name == "mode" and held == "off"):
            continue
        register = REGISTER_MAPS[link.register_map].by_name[name]
        if register.decode(register.encode(wanted)) != held:
            kind = BY_NAME[name].kind
            found.append(Difference(name, BY_NAME[name].title, kind.value if kind else None, held, wanted))
    return found


def _check_link(given: LinkInput) -> None:
    problems = []
    if given.port is None and not given.stand_in:
        problems.append(Problem("port", "say where the controller listens", "1…65535, usually 502"))
    if given.port is not None and not 1 <= given.port <= 65535:
        problems.append(Problem("port", f"{given.port} is not a port", "1…65535"))
    if not 0.05 <= given.poll_s <= 60:
        problems.append(Problem("poll_s", f"{given.poll_s:g} s between polls", "0.05…60 s"))
    if not 0.1 <= given.speed <= 200:
        problems.append(Problem("speed", f"{given.speed:g} times real time", "0.1…200"))
    if not 1 <= given.unit_id <= 247:
        problems.append(Problem("unit_id", f"{given.unit_id} is not a unit address", "1…247"))
    if not given.host.strip() or len(given.host) > 100:
        problems.append(Problem("host", "say where the controller is", "a name or address"))
    refuse_all(problems)


class LinkDetail(APIView):
    @endpoint("link", LinkView)
    def get(self, request: Request, slug: str) -> Response:
        return reply(link_view(_link(slug)))

    @endpoint("setLink", LinkView, LinkInput)
    def put(self, request: Request, slug: str) -> Response:
        given = read(request, LinkInput)
        _check_link(given)
        rig = get_object_or_404(Rig, slug=slug)
        if not rig.sensor:
            raise refuse("parts", "choose the parts first: the link depends on them", "sensor, output and switch")
        old = Link.objects.filter(rig=rig).first()
        keep = old is not None and old.stand_in and given.stand_in
        link, _ = Link.objects.update_or_create(
            rig=rig,
            defaults={
                "stand_in": given.stand_in,
                "host": "127.0.0.1" if given.stand_in else given.host.strip(),
                "port": given.port or (old.port if keep and old else free_port()),
                "unit_id": given.unit_id,
                "poll_s": given.poll_s,
                "speed": given.speed if given.stand_in else 1.0,
                "armed_until": None,
            },
        )
        LinkState.objects.filter(link=link).update(online=False, message="connecting")
        where = "a simulated controller" if link.stand_in else f"{link.host}:{link.port}"
        note(rig, request.user, Station.RUNS, f"Link set to {where}")
        return reply(link_view(link))

    @endpoint("removeLink", None, status=204)
    def delete(self, request: Request, slug: str) -> Response:
        link = _link(slug)
        if live_of(link.rig).recording:
            raise refuse("link", "a run is being recorded over it", "stop the run first")
        link.delete()
        note(link.rig, request.user, Station.RUNS, "Link removed")
        return Response(status=204)


class LinkArm(APIView):
    @endpoint("armLink", LinkView, ArmInput)
    def post(self, request: Request, slug: str) -> Response:
        link = _link(slug)
        link.armed_until = timezone.now() + ARMED_FOR if read(request, ArmInput).armed else None
        link.save(update_fields=["armed_until"])
        return reply(link_view(link))


class LinkWrite(APIView):
    @endpoint("writeLink", LinkView, WriteInput)
    def post(self, request: Request, slug: str) -> Response:
        """Send values through the recorder and wait for what the controller says it holds afterwards."""
        link = _link(slug)
        values = read(request, WriteInput).values or {d.name: d.sheet for d in differences(link)}
        _check_write(link, values)
        state = LinkState.objects.filter(link=link).first()
        before = {n: (state.values if state else {}).get(n) for n in values}
        command = Command.objects.create(link=link, created_at=timezone.now(), values=values)
        deadline = time.monotonic() + ANSWER_S
        while time.monotonic() < deadline and command.done_at is None:
            time.sleep(0.1)
            command.refresh_from_db()
        if command.done_at is None:
            command.delete()
            raise refuse(
                "link", "the recorder did not send it in time; nothing was written", "a controller that answers"
            )
        if command.error:
            raise refuse("link", command.error, "the controller may have taken some of it: read the differences")
        if state:
            state.refresh_from_db()
            state.values = {**state.values, **command.read_back}
            state.save(update_fields=["values"])
        note(link.rig, request.user, Station.RUNS, "Written to the controller", before=before, after=command.read_back)
        return reply(link_view(link))


def _check_write(link: Link, values: dict[str, Any]) -> None:
    live = live_of(link.rig)
    if not live.armed:
        raise refuse("armed", "writing is off until it is armed for this session", "arm writing first")
    if live.status != "online":
        raise refuse("link", live.message or "the controller does not answer", "a controller that answers")
    if not values:
        raise refuse("values", "the controller already holds what the sheet says", "a value that differs")
    unknown = [n for n in values if n not in writable(link)]
    if unknown:
        raise Refused(*(Problem(n, "this controller has no such register", ", ".join(writable(link))) for n in unknown))
    check_values(values)
    limits = working_values(link.rig)
    setpoint = values.get("setpoint_c")
    if setpoint is not None:
        low, high = float(limits["setpoint_low_c"]), float(limits["setpoint_high_c"])
        if not low <= float(setpoint) <= high:
            raise refuse("setpoint_c", f"{setpoint:g} °C is outside the rig's set-point limits", f"{low:g}…{high:g} °C")
