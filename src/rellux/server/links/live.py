"""What the controller says right now, as the recorder last heard it."""

from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Any

from django.utils import timezone

from rellux.core.control.alarms.alarm import ACTING, CALLING, SAYS, AlarmState
from rellux.core.control.alarms.habits import chatters, floods
from rellux.core.control.liveness import LEAST_STALE_S, NOT_ALIVE_S, stale_after_s
from rellux.core.guarding.feel import Feel
from rellux.core.messages import quantity
from rellux.core.tuning.relay.driven import UNDER_WAY
from rellux.server.rigs.models import Rig
from rellux.server.runs.models import Run

from . import aside
from .maps import map_of
from .models import Link, LinkState


@dataclass(frozen=True)
class LiveAlarm:
    """An alarm of the plan that is not normal, judged by the recorder: a courtesy, it protects nothing. ``calls``: nobody has acknowledged
    it, and it is not shelved. ``first``: the one that came first of those that act. ``chatters``: it comes and goes too often.
    ``out_by``: who took it out of service."""

    name: str
    state: str
    says: str
    since: datetime
    response: str
    calls: bool
    first: bool
    chatters: bool
    shelved_by: str = ""
    shelved_until: datetime | None = None
    out_by: str = ""


@dataclass(frozen=True)
class Live:
    """State of the link. ``status``: none (no link), offline, online. Values are None unless online. ``age_s``: of the newest
    poll as this is said; what is older than ``stale_after_s`` is not shown as live, by whoever shows it. ``armed_window``: the
    one window that may write, for ``armed_left_s``. ``safe_off``: the controller can be switched off over the link.
    ``notice``: what else must be known now, such as a full disk.
    ``flood``: more alarms came than one person can see to. ``feel``: how hot to touch, as its status light says; empty where it has
    none."""

    status: str
    message: str = ""
    at: datetime | None = None
    reading_c: float | None = None
    setpoint_c: float | None = None
    output: float | None = None
    switch: float | None = None
    mode: str | None = None
    recording: int | None = None
    run_time_s: float | None = None
    armed: bool = False
    armed_window: str = ""
    armed_left_s: float = 0.0
    safe_off: bool = False
    age_s: float | None = None
    stale_after_s: float = LEAST_STALE_S
    notice: str = ""
    alarms: list[LiveAlarm] = field(default_factory=list)
    flood: bool = False
    feel: str = ""


NO_LINK = Live("none")
SHOWN = ("reading_c", "setpoint_c", "output", "switch", "mode")


def tested(rig: Rig) -> bool:
    """Whether a relay test runs over its link: until it is over, nothing else is written, and the link stays as it is."""
    return bool(rig.relay_tests.filter(standing__in=[s.value for s in UNDER_WAY]).exists())


def live_of(rig: Rig) -> Live:
    """The newest known state of a rig, read now."""
    run = rig.runs.filter(status=Run.Status.RECORDING, removed_at__isnull=True).first()
    return live(rig, Link.objects.select_related("state").filter(rig=rig).first(), run)


def live(rig: Rig, link: Link | None, run: Run | None) -> Live:
    """The state of a link with what is being recorded; one that is stale, or that was heard from where the link pointed before,
    counts as offline."""
    recording, run_time = (run.pk, run.length_s) if run else (None, None)
    state: LinkState | None = getattr(link, "state", None)
    if link is None:
        return Live("none", recording=recording, run_time_s=run_time)
    now, left = timezone.now(), armed_left_s(link)
    known = Live(
        "offline",
        recording=recording,
        run_time_s=run_time,
        armed=left > 0,
        armed_window=link.armed_window if left > 0 else "",
        armed_left_s=left,
        safe_off=map_of(link).safe_off is not None,
        stale_after_s=stale_after_s(link.poll_s),
        feel=Feel.UNKNOWN if state and state.feel else "",
    )
    if rig.archived_at is not None:
        return replace(known, message="archived")
    if said := aside.heard(link.pk):
        return replace(
            known,
            status="online",
            at=datetime.fromisoformat(said.at),
            age_s=max(0.0, (now - datetime.fromisoformat(said.at)).total_seconds()),
            notice=_kept(said, recording),
            **{name: said.values.get(name) for name in SHOWN},
        )
    if state is None or state.generation != link.generation:
        return replace(known, message="waiting for the recorder")
    known = replace(
        known,
        at=state.at,
        age_s=max(0.0, (now - state.at).total_seconds()),
        alarms=alarms_of(state.alarms, now),
        flood=floods(s for a in state.alarms for s in _ago(a, now)),
    )
    if link.recorder_at is not None and (now - link.recorder_at).total_seconds() > NOT_ALIVE_S:
        return replace(known, message="the recorder does not run")
    if not state.online or known.age_s > known.stale_after_s:
        return replace(
            known,
            message=state.message or f"the recorder has not heard from it for {quantity(known.age_s, 's', '.0f')}",
        )
    return replace(
        known,
        status="online",
        notice=state.message,
        feel=state.feel,
        **{name: state.values.get(name) for name in SHOWN},
    )


def alarms_of(told: list[dict[str, Any]], now: datetime) -> list[LiveAlarm]:
    """What the recorder keeps of the alarms, those left out that are normal, first those that call."""
    found = []
    begun = [a["since"] for a in told if AlarmState(a["state"]) in ACTING]
    for a in told:
        state = AlarmState(a["state"])
        if state not in ACTING | CALLING | {AlarmState.OUT_OF_SERVICE}:
            continue
        until = datetime.fromisoformat(a["shelved_until"]) if a["shelved_until"] else None
        shelved = until is not None and until > now
        found.append(
            LiveAlarm(
                a["name"],
                state.value,
                SAYS[state],
                datetime.fromisoformat(a["since"]),
                a["response"],
                state in CALLING and not shelved,
                len(begun) > 1 and a["since"] == min(begun) and state in ACTING,
                chatters(_ago(a, now)),
                a["shelved_by"] if shelved else "",
                until if shelved else None,
                a.get("out_by", ""),
            )
        )
    return sorted(found, key=lambda a: (not a.calls, a.since))


def _ago(told: dict[str, Any], now: datetime) -> list[float]:
    """How long ago an alarm came each time, s."""
    return [(now - datetime.fromisoformat(c)).total_seconds() for c in told.get("came", ())]


def _kept(said: aside.Said, recording: int | None) -> str:
    """What a full disk means for what is being recorded."""
    if recording is None:
        return "The disk takes nothing more. Make room: nothing can be saved, recorded or written to the controller."
    if said.left_s <= 0:
        return (
            f"The disk takes nothing more. {said.kept} samples are kept in memory; what comes now is lost. Make room."
        )
    return (
        f"The disk takes nothing more. {said.kept} samples are kept in memory, for {said.left_s / 60:.0f} more minutes: "
        "make room, and recording goes on by itself. Leave Rellux running."
    )


def armed_left_s(link: Link) -> float:
    """Seconds for which writing is still armed; 0 where it is not."""
    return 0.0 if link.armed_until is None else max(0.0, (link.armed_until - timezone.now()).total_seconds())
