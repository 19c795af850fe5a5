"""Running a profile over the link: what happens if Rellux stops is said before, somebody starts it, it can be paused, skipped, ended."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db import transaction
from django.utils import timezone
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.control.programme.executor import GOING, Executor, Standing, planned_writes
from rellux.core.control.programme.programme import Phase
from rellux.core.errors import Problem, refuse, refuse_all
from rellux.core.guarding.standing import ProofStanding, alone_cannot
from rellux.core.profiles.before_start import (
    beyond_limits,
    if_stopped,
    least_s,
    not_done,
    step_c,
    timer_off,
    too_quick,
)
from rellux.core.profiles.predict import course
from rellux.core.profiles.profile import Profile, commanded, rest_of, rows_of, segment_at, start_of
from rellux.core.setup.memory import Memory, run_says, wears_out
from rellux.core.setup.writing import as_held, check_write
from rellux.core.spine import Station
from rellux.devices.registers import Register
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.guarding.domain import standing_of
from rellux.server.guarding.stored import plan_of
from rellux.server.links.live import live_of
from rellux.server.links.maps import map_of, memory_of
from rellux.server.links.models import Link, LinkState
from rellux.server.links.views import steps_of
from rellux.server.links.write_views import write_now
from rellux.server.rigs.change import note
from rellux.server.rigs.models import Rig
from rellux.server.runs.domain import open_run
from rellux.server.runs.programme import limits_of
from rellux.server.setup.domain import rig_facts, working_values

from .domain import check_for, conditions_of, heated_rig
from .models import Programme
from .stored import profile_from
from .views import version_of


@dataclass(frozen=True)
class ProgrammeNow:
    """The programme that runs, or ran last. ``left_s``: as commanded, from here; ``expected_s``: as
    it will probably be, from the reading of now; ``next_says``: what comes next."""

    key: str
    number: int
    name: str
    who: str
    attended: bool
    begun_at: datetime
    standing: str
    says: str
    waits: bool
    segment: int
    segments: int
    setpoint_c: float
    written_c: float
    writes: int
    held_s: float
    left_s: float
    expected_s: float | None
    next_says: str


@dataclass(frozen=True)
class BeforeView:
    """What is to be known before a start. ``cannot``: why it may not start, attended; ``alone_cannot``: why not unattended."""

    writes: int
    memory: str
    notes: list[str]
    if_stopped: list[str]
    cannot: list[str]
    alone_cannot: list[str]


@dataclass(frozen=True)
class ProgrammeView:
    now: ProgrammeNow | None
    before: BeforeView | None


@dataclass(frozen=True)
class ProgrammeStart:
    """``attended``: somebody stays with it; ``window``: the one writing is armed for."""

    key: str
    number: int
    window: str
    attended: bool = True


@dataclass(frozen=True)
class ProgrammeAsked:
    ask: Programme.Ask


def going(rig: Rig) -> Programme | None:
    """The programme that runs or is paused."""
    return rig.programmes.filter(standing__in=[g.value for g in GOING]).first()


def _register(link: Link) -> Register | None:
    found = map_of(link).by_name.get("setpoint_c")
    return found if found is not None and found.writable else None


def _step_c(link: Link) -> float:
    return step_c(steps_of(link)["setpoint_c"])


def _timer_s(link: Link) -> float | None:
    """What the controller last said of its link timer: ``None`` where it has none."""
    state = LinkState.objects.filter(link=link, generation=link.generation).first()
    said = None if state is None or "link_timer_s" not in map_of(link).by_name else state.values.get("link_timer_s")
    return None if said is None else float(said)


def _planned(rig: Rig, register: Register, profile: Profile, reading_c: float, step_c: float) -> int:
    told = Programme(rig=rig, step_c=step_c, least_s=least_s(register.stored))
    start = start_of(profile, reading_c, rig.ambient_c)
    return planned_writes(rows_of(profile), start, limits_of(told, profile, rig.highest_c))


def before_start(rig: Rig, profile: Profile) -> BeforeView:
    """What happens if Rellux stops, segment by segment; what it costs the controller's memory; why it may not start."""
    link = Link.objects.filter(rig=rig).first()
    if link is None:
        return BeforeView(0, "", [], [], ["No controller is linked."], [])
    register = _register(link)
    if register is None:
        return BeforeView(0, "", [], [], ["The set-point of this controller cannot be written over the link."], [])
    live = live_of(rig)
    reading = live.reading_c if live.reading_c is not None else rig.ambient_c
    start = start_of(profile, reading, rig.ambient_c)
    limits = (float(working_values(rig)[n]) for n in ("setpoint_low_c", "setpoint_high_c"))
    writes = _planned(rig, register, profile, reading, _step_c(link))
    timer = _timer_s(link)
    return BeforeView(
        writes,
        run_says(memory_of(link, register), writes),
        not_done(profile),
        if_stopped(profile, start, map_of(link).link_loss, timer),
        [
            *_cannot(rig, memory_of(link, register), writes),
            *beyond_limits(profile, start, *limits),
            *too_quick(timer, link.poll_s),
        ],
        [*not_alone(rig), *timer_off(timer)],
    )


def _cannot(rig: Rig, memory: Memory, writes: int) -> list[str]:
    found, live = [], live_of(rig)
    if live.status != "online":
        found.append(live.message or "The controller does not answer.")
    elif live.reading_c is None:
        found.append("The controller shows no reading.")
    if live.mode == "off":
        found.append("The controller is off: set it to control first.")
    if wears_out(memory, writes):
        found.append(
            "It would wear out the memory of the set-point: say in the map what it stands, or use a register that is not stored."
        )
    if going(rig):
        found.append("A programme runs already.")
    return found


def not_alone(rig: Rig) -> list[str]:
    """Why a rig's heat may not be left alone: what is planned and proved to stop it."""
    plan = plan_of(rig)
    if plan is None:
        return alone_cannot(False, ProofStanding.NONE)
    return alone_cannot(plan.limiter is not None and rig.limiter, standing_of(rig, plan))


def programme_now(rig: Rig) -> ProgrammeNow | None:
    told = rig.programmes.first()
    if told is None:
        return None
    version = version_of(rig, told.key, told.number)
    profile = profile_from(version.profile)
    executor = Executor(rows_of(profile), limits_of(told, profile, rig.highest_c), told.start_c, told.state or None)
    programme = executor.programme
    at = segment_at(profile, programme.segment)
    rest = rest_of(profile, programme.segment, programme.elapsed_s, programme.setpoint_c)
    following = profile.segments[min(at + 1, len(profile.segments) - 1)]
    return ProgrammeNow(
        told.key,
        told.number,
        version.name,
        told.who,
        told.attended,
        told.begun_at,
        told.standing,
        executor.said,
        programme.phase is Phase.WAITING,
        at,
        len(profile.segments),
        programme.setpoint_c,
        executor.written_c,
        executor.writes,
        programme.held_s,
        commanded(rest, programme.setpoint_c)[-1].time_s,
        _expected(rig, rest) if executor.standing in GOING else None,
        following.says or following.kind.value.replace("_", " "),
    )


def _expected(rig: Rig, rest: Profile) -> float | None:
    """How long the rest probably lasts from what it reads now, waiting for the load counted, s; unknown without a reading."""
    reading = live_of(rig).reading_c
    if reading is None:
        return None
    conditions, _, _ = conditions_of(rig, None, reading)
    found = course(rest, conditions.rigs.likely, conditions)
    return found.length_s if found.is_over else None


class ProgrammeDetail(APIView):
    @endpoint("programme", ProgrammeView, query={"key": str, "number": int})
    def get(self, request: Request, slug: str) -> Response:
        """What runs now; and for a profile, what is to be known before it is started."""
        rig = heated_rig(slug)
        key, number = request.query_params.get("key", ""), request.query_params.get("number", "")
        before = None
        if key:
            version = version_of(rig, key, int(number) if number.isdecimal() else None)
            before = before_start(rig, profile_from(version.profile))
        return reply(ProgrammeView(programme_now(rig), before))

    @endpoint("startProgramme", ProgrammeView, ProgrammeStart, status=201)
    def post(self, request: Request, slug: str) -> Response:
        """Start it: the first set-point is written like any other, armed and read back; from then on the recorder writes."""
        rig, given = heated_rig(slug), read(request, ProgrammeStart)
        version = version_of(rig, given.key, given.number)
        profile = profile_from(version.profile)
        check_for(rig, profile)
        before = before_start(rig, profile)
        refuse_all(Problem("programme", why, "as the station says") for why in before.cannot)
        if not given.attended:
            refuse_all(Problem("attended", why, "somebody who stays with it") for why in before.alone_cannot)
        link, reading = Link.objects.get(rig=rig), live_of(rig).reading_c
        assert reading is not None
        start_c = min(start_of(profile, reading, rig.ambient_c), rig.highest_c)
        first, most = (as_held({"setpoint_c": c}, steps_of(link)) for c in (start_c, profile.highest_c))
        check_write(most, {**working_values(rig), **most}, rig_facts(rig))
        write_now(link, request.user, given.window, first)
        register = _register(link)
        assert register is not None
        with transaction.atomic():
            now = timezone.now()
            if going(rig):
                raise refuse("programme", "a programme runs already", "end it first")
            Programme.objects.create(
                rig=rig, generation=link.generation, key=version.key, number=version.number, who=request.user.title,
                attended=given.attended, begun_at=now, beat_at=now, start_c=float(first["setpoint_c"]),
                least_s=least_s(register.stored), step_c=_step_c(link), standing=Standing.RUNNING.value,
            )  # fmt: skip
            _recorded(rig, version.name, {"key": version.key, "number": version.number})
            who = "somebody stays with it" if given.attended else "unattended"
            note(
                rig,
                request.user,
                Station.PROFILES,
                f"Programme started: {version.name}",
                why=who,
                after={"writes": before.writes},
            )
        return reply(ProgrammeView(programme_now(rig), None), 201)


def _recorded(rig: Rig, name: str, programme: dict[str, Any]) -> None:
    """The run it is recorded in: the one that is open, or a new one."""
    run, _ = open_run(rig, name)
    run.programme = {**programme, "start_s": float(run.length_s)}
    run.save(update_fields=["programme"])


class ProgrammeAsk(APIView):
    changes_rig = False

    @endpoint("askProgramme", ProgrammeView, ProgrammeAsked)
    def post(self, request: Request, slug: str) -> Response:
        """Pause, go on, skip a segment, or end it: done by the recorder within about a second, and written down."""
        rig, given = heated_rig(slug), read(request, ProgrammeAsked)
        told = going(rig)
        if told is None:
            raise refuse("programme", "none runs", "start one first")
        Programme.objects.filter(pk=told.pk).update(ask=given.ask)
        note(rig, request.user, Station.PROFILES, f"Programme: {_ASKED[given.ask]}")
        return reply(ProgrammeView(programme_now(rig), None))


_ASKED = {
    Programme.Ask.PAUSE: "paused",
    Programme.Ask.GO_ON: "goes on",
    Programme.Ask.SKIP: "a segment skipped",
    Programme.Ask.ABORT: "ended by hand, heat off",
}
