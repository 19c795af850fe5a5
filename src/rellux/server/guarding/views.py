"""The guarding station: the ladder of the plan in force or of one that is tried, alarms, fuse, and what happens when a switch sticks."""

from dataclasses import dataclass, replace
from datetime import datetime, timedelta

import numpy as np
from django.shortcuts import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.control.alarms.alarm import SAYS
from rellux.core.control.alarms.settings import KINDS, AlarmKind, AlarmSettings, check_alarm
from rellux.core.control.alarms.table import TableRow, truth_table
from rellux.core.errors import refuse
from rellux.core.explain import Figure
from rellux.core.findings import Finding
from rellux.core.guarding.by_effect import Offered, alarm_kinds, offered
from rellux.core.guarding.cooled import Cooled, cool_stuck, cooled
from rellux.core.guarding.fuses import MOUNTING, FuseChoice, choose_fuse
from rellux.core.guarding.ladder import Gap, Ladder, Situation, Step, ladder
from rellux.core.guarding.plan import Plan, check_plan
from rellux.core.guarding.policy import longest_hold, usual_hold
from rellux.core.guarding.propose import Reason
from rellux.core.guarding.stuck import Reached, Stuck, stuck
from rellux.core.guarding.watched import Watched, watched
from rellux.core.guarding.wired import Unnoticed
from rellux.core.setup.parameters import check_values
from rellux.core.spine import Station
from rellux.core.wiring.circuit.verdicts import Outcome
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import as_json, read, reply
from rellux.server.rigs.change import changing, difference, note
from rellux.server.rigs.models import Rig

from .domain import findings_of_plan, findings_of_situation, outcomes_of, proposed, situation_of, told
from .stored import plan_of, save_plan


@dataclass(frozen=True)
class GapView:
    """A gap; ``fine`` where it is wide enough."""

    key: str
    below: str
    above: str
    present_c: float
    needed: Figure
    reason: str
    fine: bool


@dataclass(frozen=True)
class StuckView:
    """A switch that fails closed: sentences, and courses in s and °C (``guarded_c`` is empty without a limiter that acts)."""

    with_limiter: str
    load: str
    alone: str
    act: str
    act_within_s: float | None
    reached: list[Reached]
    unnoticed: list[Unnoticed]
    opened_s: float | None
    time_s: list[float]
    guarded_c: list[float]
    fast_c: list[float]
    likely_c: list[float]
    slow_c: list[float]


@dataclass(frozen=True)
class LadderView:
    """``weakest``: key of the step that must never be reached. ``model``: what the predictions rest on. ``longest_hold_s``: how long a
    lost reading may be ridden through; ``usual_hold_s`` is what is begun with. ``stuck`` is missing where there is no switch."""

    steps: list[Step]
    gaps: list[GapView]
    weakest: str
    setpoint_c: float
    model: str
    longest_hold_s: float
    usual_hold_s: float
    stuck: StuckView | None
    findings: list[Finding]


@dataclass(frozen=True)
class AlarmKindView:
    """A kind of alarm in words; ``quantity`` of its value, and what it asks for besides."""

    kind: AlarmKind
    label: str
    means: str
    quantity: str | None
    low: float
    high: float
    window: str
    move: str
    hysteresis: bool


@dataclass(frozen=True)
class ProofView:
    """A proof that was done, and until when it holds."""

    at: datetime
    who: str
    passed: bool
    says: str
    due: datetime
    of_this_plan: bool


@dataclass(frozen=True)
class PlanChange:
    at: datetime
    why: str


@dataclass(frozen=True)
class GuardingView:
    """``saved``: a plan is in force; else ``plan`` is the proposal. ``offered`` is what may be added to it. ``findings`` are those of the
    plan in force."""

    revision: int
    saved: bool
    plan: Plan
    proposed: Plan
    offered: Offered
    reasons: list[Reason]
    ladder: LadderView
    findings: list[Finding]
    kinds: list[AlarmKindView]
    proofs: list[ProofView]
    history: list[PlanChange]


@dataclass(frozen=True)
class PlanInput:
    revision: int
    plan: Plan
    why: str = ""


@dataclass(frozen=True)
class TriedPlan:
    """``setpoint_limit_c``: tried too, in place of what the controller is set to."""

    plan: Plan
    setpoint_limit_c: float | None = None


@dataclass(frozen=True)
class FusePlace:
    """How warm the place is while the rig is at its working temperature, and how slowly a fuse there follows."""

    plan: Plan
    place_c: float
    lag_s: float = 30.0


@dataclass(frozen=True)
class FusesView:
    choices: list[FuseChoice]
    mounting: str


@dataclass(frozen=True)
class AlarmInput:
    alarm: AlarmSettings


@dataclass(frozen=True)
class TableView:
    rows: list[TableRow]
    says: dict[str, str]


def rig_with_parts(slug: str) -> Rig:
    rig = get_object_or_404(Rig, slug=slug)
    if not rig.sensor:
        raise refuse(
            "parts", "choose the parts first: what guards the rig follows from them", "sensor, output and switch"
        )
    return rig


def ladder_view(rig: Rig, situation: Situation) -> LadderView:
    purpose = situation.rig.purpose
    if purpose.heats:
        return _heated(ladder(situation), situation, outcomes_of(rig))
    if purpose.cools:
        cold = cooled(situation)
        answer = cool_stuck(cold, situation, outcomes_of(rig))
        return _view(cold, situation, cold.twin.family.says, 0.0, 0.0, answer)
    return _view(watched(situation), situation, "", 0.0, 0.0, None)


def _heated(found: Ladder, situation: Situation, outcomes: tuple[Outcome, ...]) -> LadderView:
    answer = stuck(found, situation, outcomes)
    holds = longest_hold(found, situation), usual_hold(found, situation)
    return _view(found, situation, found.family.says, *holds, answer)


def _view(
    found: Ladder | Cooled | Watched,
    situation: Situation,
    says: str,
    longest_s: float,
    usual_s: float,
    answer: Stuck | None,
) -> LadderView:
    acts = situation.rig.purpose.acts
    return LadderView(
        list(found.steps),
        [_gap(g) for g in found.gaps],
        found.weakest,
        situation.settings.setpoint_c if acts else situation.rig.purpose.working_c,
        says,
        longest_s,
        usual_s,
        _stuck(answer) if answer else None,
        findings_of_situation(situation),
    )


def _stuck(answer: Stuck) -> StuckView:
    return StuckView(
        answer.with_limiter,
        answer.load,
        answer.alone,
        answer.act,
        answer.act_within_s,
        list(answer.reached),
        list(answer.unnoticed),
        answer.opened_s,
        *(
            np.round(c, 2).tolist()
            for c in (answer.time_s, answer.guarded_c, answer.fast_c, answer.likely_c, answer.slow_c)
        ),
    )


def _gap(gap: Gap) -> GapView:
    return GapView(gap.key, gap.below, gap.above, gap.present_c, gap.needed, gap.reason, gap.is_wide_enough)


def guarding_view(rig: Rig) -> GuardingView:
    plan, begun = plan_of(rig), proposed(rig)
    shown = plan or begun.plan
    situation = situation_of(rig, shown)
    kinds = alarm_kinds(situation.rig.purpose.effect)
    return GuardingView(
        rig.revision,
        plan is not None,
        shown,
        begun.plan,
        offered(situation),
        list(begun.reasons),
        ladder_view(rig, situation),
        findings_of_plan(rig),
        [
            AlarmKindView(
                k,
                w.label,
                w.means,
                w.quantity.value if w.quantity else None,
                w.low,
                w.high,
                w.window,
                w.move,
                w.hysteresis,
            )
            for k, w in KINDS.items()
            if k in kinds
        ],
        [
            ProofView(p.at, p.who, p.passed, p.says, p.at + timedelta(days=shown.prove_days), p.plan == as_json(shown))
            for p in rig.proofs.all()[:20]
        ],
        [PlanChange(p.at, p.why) for p in rig.guard_plans.all()[:30]],
    )


class Guarding(APIView):
    @endpoint("guarding", GuardingView)
    def get(self, request: Request, slug: str) -> Response:
        return reply(guarding_view(rig_with_parts(slug)))

    @endpoint("saveGuarding", GuardingView, PlanInput)
    def put(self, request: Request, slug: str) -> Response:
        given = read(request, PlanInput)
        rig_with_parts(slug)
        with changing(slug, given.revision) as rig:
            before = plan_of(rig)
            save_plan(rig, given.plan, given.why)
            was, now = difference(told(before), told(given.plan))
            note(
                rig, request.user, Station.GUARDING, "What guards it, as planned", before=was, after=now, why=given.why
            )
        return reply(guarding_view(rig))


class GuardingPreview(APIView):
    @endpoint("previewGuarding", LadderView, TriedPlan)
    def post(self, request: Request, slug: str) -> Response:
        """The ladder of a plan that is only tried: nothing is kept."""
        given = read(request, TriedPlan)
        check_plan(given.plan)
        rig = rig_with_parts(slug)
        situation = situation_of(rig, given.plan)
        if given.setpoint_limit_c is not None:
            name = "setpoint_low_c" if situation.rig.purpose.cools else "setpoint_high_c"
            check_values({name: given.setpoint_limit_c})
            situation = replace(situation, setpoint_high_c=given.setpoint_limit_c)
        return reply(ladder_view(rig, situation))


class Fuses(APIView):
    @endpoint("fuses", FusesView, FusePlace)
    def post(self, request: Request, slug: str) -> Response:
        """Every usual thermal fuse at a place of this rig."""
        given = read(request, FusePlace)
        rig = rig_with_parts(slug)
        check_plan(given.plan)
        return reply(FusesView(list(choose_fuse(situation_of(rig, given.plan), given.place_c, given.lag_s)), MOUNTING))


class TruthTable(APIView):
    @endpoint("alarmTable", TableView, AlarmInput)
    def post(self, request: Request, slug: str) -> Response:
        """What an alarm becomes in every case, from the machine itself."""
        get_object_or_404(Rig, slug=slug)
        alarm = read(request, AlarmInput).alarm
        check_alarm(alarm)
        return reply(TableView(list(truth_table(alarm)), {s.value: says for s, says in SAYS.items()}))
