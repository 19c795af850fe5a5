"""What the controller says right now, as the recorder last heard it."""

from dataclasses import dataclass
from datetime import datetime

from django.utils import timezone

from rellux.server.rigs.models import Rig
from rellux.server.runs.models import Run

from .models import Link, LinkState

LEAST_STALE_S, POLLS_MISSED = 5.0, 3


@dataclass(frozen=True)
class Live:
    """State of the link. ``status``: none (no link), offline, online. Values are None unless online. ``age_s``: of the newest
    poll as this is said; what is older than ``stale_after_s`` is not shown as live, by whoever shows it."""

    status: str
    message: str
    at: datetime | None
    reading_c: float | None
    setpoint_c: float | None
    output: float | None
    switch: float | None
    mode: str | None
    recording: int | None
    run_time_s: float | None
    armed: bool
    age_s: float | None = None
    stale_after_s: float = LEAST_STALE_S


NO_LINK = Live("none", "", None, None, None, None, None, None, None, None, False)


def stale_after_s(link: Link) -> float:
    """Seconds after which a reading is stale: three missed polls, and never less than five seconds."""
    return max(LEAST_STALE_S, POLLS_MISSED * link.poll_s)


def live_of(rig: Rig) -> Live:
    """The newest known state; one that is stale counts as offline."""
    run = rig.runs.filter(status=Run.Status.RECORDING, removed_at__isnull=True).first()
    recording, run_time = (run.pk, run.length_s) if run else (None, None)
    state = LinkState.objects.select_related("link").filter(link__rig=rig).first()
    link = state.link if state else getattr(rig, "link", None)
    if link is None:
        return Live("none", "", None, None, None, None, None, None, recording, run_time, False)
    armed = link.armed_until is not None and link.armed_until > timezone.now()
    if state is None:
        return Live(
            "offline", "waiting for the recorder", None, None, None, None, None, None, recording, run_time, armed
        )
    age, limit = max(0.0, (timezone.now() - state.at).total_seconds()), stale_after_s(link)
    if not state.online or age > limit:
        message = state.message or f"the recorder has not heard from it for {age:.0f} s"
        return Live("offline", message, state.at, None, None, None, None, None, recording, run_time, armed, age, limit)
    v = state.values
    return Live(
        "online",
        "",
        state.at,
        v.get("reading_c"),
        v.get("setpoint_c"),
        v.get("output"),
        v.get("switch"),
        v.get("mode"),
        recording,
        run_time,
        armed,
        age,
        limit,
    )
