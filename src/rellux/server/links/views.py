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
from rellux.core.setup.parameters import BY_NAME
from rellux.core.setup.writing import check_write
from rellux.core.spine import Station
from rellux.devices.register_map import REGISTER_MAPS
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.rigs.change import note
from rellux.server.rigs.models import Rig
from rellux.server.setup.domain import current_values, rig_facts, working_values

from .commands import cancel_queued, lapse, queue, take_back
from .live import Live, live_of
from .models import Command, Link, LinkState
from .stand_ins import free_port

ARMED_FOR = timedelta(minutes=10)
ANSWER_S, SENDING_S = 4.0, 6.0
"""How long a write may wait to be sent, and how long one that is being sent is waited for, s."""


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
        cancel_queued(link)
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
        """Arm writing for a while, or disarm: what waits to be sent is then cancelled."""
        link = _link(slug)
        if read(request, ArmInput).armed:
            link.armed_until = timezone.now() + ARMED_FOR
            link.save(update_fields=["armed_until"])
            note(link.rig, request.user, Station.RUNS, f"Writing armed for {ARMED_FOR.seconds // 60} minutes")
        else:
            lapse(link)
            note(link.rig, request.user, Station.RUNS, "Writing disarmed")
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
        command = queue(link, request.user, values, before, timedelta(seconds=ANSWER_S))
        _wait(command, ANSWER_S)
        if take_back(command, Command.State.EXPIRED):
            raise refuse(
                "link", "the recorder did not send it in time: it was taken back, and nothing was written",
                "a controller that answers",
            )  # fmt: skip
        _wait(command, SENDING_S)
        command.refresh_from_db()
        if command.state != Command.State.DONE:
            raise refuse(
                "link", _became(command), "read the differences; if it heats, switch it off at the main switch"
            )
        if state:
            state.refresh_from_db()
            state.values = {**state.values, **command.read_back}
            state.save(update_fields=["values"])
        return reply(link_view(link))


def _wait(command: Command, seconds: float) -> None:
    """Until the command has ended, or so long."""
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline and command.state in (Command.State.QUEUED, Command.State.SENDING):
        time.sleep(0.05)
        command.refresh_from_db()


def _became(command: Command) -> str:
    """In words, what is known of a command that did not end well: never that nothing was written unless that is so."""
    if command.state == Command.State.CANCELLED:
        return "writing was disarmed before it was sent: nothing was written"
    if command.state == Command.State.EXPIRED:
        return "it had expired before it was sent: nothing was written"
    if command.state == Command.State.REFUSED:
        return f"{command.error}: nothing was written"
    sent = ", ".join(command.read_back) or "nothing of it"
    if command.state == Command.State.PART:
        return f"{command.error}. Confirmed: {sent}; the rest may have reached it or not"
    return f"it is still being sent. Confirmed so far: {sent}"


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
    state = LinkState.objects.filter(link=link).first()
    held = {n: v for n, v in (state.values if state else {}).items() if n in BY_NAME}
    check_write(values, {**working_values(link.rig), **held}, rig_facts(link.rig))
