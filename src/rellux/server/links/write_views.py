"""Writing to the controller: arming, sending values, and safe-off."""

import re
import time
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from django.utils import timezone
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.control.programme.executor import GOING
from rellux.core.errors import Problem, Refused, refuse
from rellux.core.setup.auto_tune import AUTO_TUNE
from rellux.core.setup.dictionary import BY_NAME
from rellux.core.setup.parameters import correction_of, half_corrected, spoken_value
from rellux.core.setup.writing import as_held, check_write
from rellux.core.spine import Station
from rellux.server.accounts.models import User
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.rigs.change import note
from rellux.server.setup.domain import rig_facts, working_values

from .commands import lapse, queue, take_back
from .live import Live, armed_left_s, live_of, tested
from .maps import map_of
from .models import Command, Link, LinkState
from .safe_off import SafeOffView, press
from .views import LinkView, differences, link_of, link_view, steps_of, writable

ARMED_FOR = timedelta(minutes=10)
ANSWER_S, SENDING_S = 4.0, 6.0
"""How long a write may wait to be sent, and how long one that is being sent is waited for, s."""
WINDOW = re.compile(r"[A-Za-z0-9-]{8,40}")


@dataclass(frozen=True)
class ArmInput:
    """``window`` is what the browser window calls itself: arming is for it alone."""

    armed: bool
    window: str


@dataclass(frozen=True)
class WriteInput:
    """Values by parameter name, from the window writing is armed for; no values means the whole sheet."""

    values: dict[str, Any]
    window: str


class LinkArm(APIView):
    @endpoint("armLink", LinkView, ArmInput)
    def post(self, request: Request, slug: str) -> Response:
        """Arm writing for a while from one window, or disarm. What waits to be sent is cancelled either way: it was ordered under
        an arming that has ended."""
        link, given = link_of(slug), read(request, ArmInput)
        if not WINDOW.fullmatch(given.window):
            raise refuse("window", "say which window writes", "8…40 letters, digits and hyphens")
        if not given.armed and link.armed_window not in ("", given.window):
            return reply(link_view(link))  # a window that closes late does not disarm the one that took over
        was_armed = armed_left_s(link) > 0
        lapse(link)
        if given.armed:
            link.armed_until, link.armed_window = timezone.now() + ARMED_FOR, given.window
            link.save(update_fields=["armed_until", "armed_window"])
            note(link.rig, request.user, Station.RUNS, f"Writing armed for {ARMED_FOR.seconds // 60} minutes")
        elif was_armed:
            note(link.rig, request.user, Station.RUNS, "Writing disarmed")
        return reply(link_view(link))


class LinkWrite(APIView):
    @endpoint("writeLink", LinkView, WriteInput)
    def post(self, request: Request, slug: str) -> Response:
        """Send values through the recorder and wait for what the controller says it holds afterwards."""
        link = link_of(slug)
        given = read(request, WriteInput)
        values = as_held(given.values or {d.name: d.sheet for d in differences(link)}, steps_of(link))
        write_now(link, request.user, given.window, values)
        return reply(link_view(link))


def write_now(link: Link, by: User, window: str, values: dict[str, Any], *, of_test: bool = False) -> None:
    """Send values and wait until the controller has said that it holds them; during a relay test only those ``of_test``. Raises
    ``Refused`` with what is known where it has not."""
    _check_write(link, window, values, of_test=of_test)
    state = LinkState.objects.filter(link=link).first()
    before = {n: (state.values if state else {}).get(n) for n in values}
    command = queue(link, by, values, before, timedelta(seconds=ANSWER_S))
    _wait(command, ANSWER_S)
    if take_back(command, Command.State.EXPIRED):
        raise refuse(
            "link", "the recorder did not send it in time: it was taken back, and nothing was written",
            "a controller that answers",
        )  # fmt: skip
    _wait(command, SENDING_S)
    command.refresh_from_db()
    if command.state != Command.State.DONE:
        raise refuse("link", _became(command), "read the differences; if it heats, switch it off at the main switch")
    if state:
        state.refresh_from_db()
        state.values = {**state.values, **command.read_back}
        state.save(update_fields=["values"])


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
    sent = ", ".join(spoken_value(n, v) for n, v in command.read_back.items()) or "nothing of it"
    if command.state == Command.State.PART:
        return f"{command.error}. Confirmed: {sent}; the rest may have reached it or not"
    return f"it is still being sent. Confirmed so far: {sent}"


def _says_offset(link: Link) -> bool:
    """Whether the offset's register means what the sheet's offset does: not beside a gain, where it counts in another unit."""
    register = map_of(link).by_name.get("offset_c")
    return register is None or register.counts_celsius or correction_of(working_values(link.rig)).gain == 1.0


def check_armed(link: Link, window: str) -> Live:
    """The state of a link that may be written to from this window. Raises ``Refused`` where it may not."""
    live = live_of(link.rig)
    if not live.armed:
        raise refuse("armed", "writing is off until it is armed for this session", "arm writing first")
    if live.armed_window != window:
        raise refuse("armed", "writing is armed in another window", "arm it here, which disarms the other")
    return live


def _check_write(link: Link, window: str, values: dict[str, Any], *, of_test: bool) -> None:
    live = check_armed(link, window)
    if live.status != "online":
        raise refuse("link", live.message or "the controller does not answer", "a controller that answers")
    if "offset_c" in values and (why := half_corrected(working_values(link.rig), map_of(link).by_name)):
        raise refuse("offset_c", why, "enter both at the controller’s own keys")
    if "offset_c" in values and not _says_offset(link):
        raise refuse(
            "offset_c",
            "beside a gain it is another number in the unit this controller counts in",
            "enter both at the controller’s own keys",
        )
    if not values:
        raise refuse("values", "the controller already holds what the sheet says", "a value that differs")
    if not of_test and tested(link.rig):
        raise refuse("link", "a relay test runs, and the controller holds its numbers", "end the test first")
    if "setpoint_c" in values and link.rig.programmes.filter(standing__in=[g.value for g in GOING]).exists():
        raise refuse("setpoint_c", "a programme writes it", "pause the programme and end it first")
    unknown = [n for n in values if n not in writable(link)]
    if unknown:
        raise Refused(*(Problem(n, "this controller has no such register", ", ".join(writable(link))) for n in unknown))
    state = LinkState.objects.filter(link=link).first()
    holds = {n: v for n, v in (state.values if state else {}).items() if n in BY_NAME}
    watched = {AUTO_TUNE} if of_test else set()  # that was judged already, by every rig it may be
    judged = {n: v for n, v in values.items() if n not in watched}
    check_write(judged, {**working_values(link.rig), **holds}, rig_facts(link.rig))


class LinkSafeOff(APIView):
    changes_rig = False

    @endpoint("safeOff", SafeOffView)
    def post(self, request: Request, slug: str) -> Response:
        """Switch the heat off: by everybody, from everywhere, armed or not. Says whether the controller confirmed it."""
        link = link_of(slug)
        if map_of(link).safe_off is None:
            raise refuse("link", "this controller cannot be switched off over the link", "its main switch")
        return reply(press(link, request.user))
