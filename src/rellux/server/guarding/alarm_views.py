"""What a person does about an alarm of a linked rig: acknowledge, reset, not hear of it for a while, out of service."""

from dataclasses import dataclass

from django.shortcuts import get_object_or_404
from django.utils import timezone
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.control.alarms.alarm import SAYS, AlarmState
from rellux.core.errors import refuse
from rellux.core.messages import quantity
from rellux.core.spine import Station
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.links.live import Live, live_of
from rellux.server.links.models import LinkState
from rellux.server.rigs.change import note
from rellux.server.rigs.models import Rig

from .models import AlarmAsk

MOST_MINUTES = 480.0
"""Longest that an alarm may be shelved: a shift (our choice)."""
DONE = {
    AlarmAsk.What.ACKNOWLEDGE: "Alarm acknowledged",
    AlarmAsk.What.RESET: "Alarm reset",
    AlarmAsk.What.SHELVE: "Alarm shelved",
    AlarmAsk.What.UNSHELVE: "Alarm taken from the shelf",
    AlarmAsk.What.TAKE_OUT: "Alarm taken out of service",
    AlarmAsk.What.PUT_BACK: "Alarm put back in service",
}
LATCHED = (AlarmState.LATCHED.value, AlarmState.LATCHED_ACKNOWLEDGED.value)


@dataclass(frozen=True)
class AlarmAsked:
    """``what``: acknowledge, reset, shelve (for ``minutes``) or unshelve, take out of service (which takes a ``why``, and may be before
    anything is the matter) or put back. ``why`` goes into the book."""

    name: str
    what: AlarmAsk.What
    minutes: float = 30.0
    why: str = ""


class RigAlarms(APIView):
    changes_rig = False

    @endpoint("askOfAlarm", Live, AlarmAsked)
    def post(self, request: Request, slug: str) -> Response:
        """By name of a person, into the book; the recorder does it within about a second."""
        rig = get_object_or_404(Rig, slug=slug)
        given, live = read(request, AlarmAsked), live_of(rig)
        alarm = next((a for a in live.alarms if a.name == given.name), None)
        if alarm is None and not (given.what is AlarmAsk.What.TAKE_OUT and _is_judged(rig, given.name)):
            raise refuse(
                "name", f"{given.name!r} is not active", ", ".join(a.name for a in live.alarms) or "an active alarm"
            )
        if given.what is AlarmAsk.What.RESET and alarm and alarm.state not in LATCHED:
            raise refuse(
                "what",
                f"it is {SAYS[AlarmState(alarm.state)]}: its condition must be gone first",
                "a latch whose condition is gone",
            )
        if given.what is AlarmAsk.What.SHELVE and not 0 < given.minutes <= MOST_MINUTES:
            raise refuse("minutes", "nobody would hear of it", f"up to {quantity(MOST_MINUTES, 'min')}")
        if given.what is AlarmAsk.What.TAKE_OUT and not given.why.strip():
            raise refuse("why", "whoever takes an alarm out of service says why", "a reason")
        AlarmAsk.objects.create(
            rig=rig, at=timezone.now(), who=request.user.title, name=given.name, what=given.what, minutes=given.minutes
        )
        how = f" for {quantity(given.minutes, 'min')}" if given.what is AlarmAsk.What.SHELVE else ""
        note(rig, request.user, Station.GUARDING, f"{DONE[given.what]}: {given.name}{how}", why=given.why)
        return reply(live_of(rig))


def _is_judged(rig: Rig, name: str) -> bool:
    """Whether the recorder judges an alarm of this name: what nobody judges needs not be taken out."""
    states = LinkState.objects.filter(link__rig=rig).values_list("alarms", flat=True)
    return any(told["name"] == name for alarms in states for told in alarms)
