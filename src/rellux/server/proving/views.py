"""The proving station: stages with their steps, what was seen at each, names under them, and where a failed step comes from."""

from dataclasses import dataclass, field
from datetime import datetime
from math import isfinite, nan

from django.shortcuts import get_object_or_404
from django.utils import timezone
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import refuse
from rellux.core.explain import Figure
from rellux.core.findings import Finding
from rellux.core.messages import quantity, render, shortened
from rellux.core.proving.bisecting import Bisection, Clue, bisect, clue_of
from rellux.core.proving.facts import check_room
from rellux.core.proving.judging import JudgedStep, SeenAtStep, StepVerdict, accepted, judge_step
from rellux.core.proving.meters import METER_HELP
from rellux.core.proving.plan import ProvingStage
from rellux.core.proving.standing import (
    StageStands,
    StepStands,
    StepState,
    check_again,
    check_turn,
    name_under,
    next_step,
)
from rellux.core.proving.step import ProvingStep, Take
from rellux.core.proving.taking import taken
from rellux.core.spine import Station
from rellux.core.wiring.circuit.solve import CircuitSolver
from rellux.core.wiring.model import ConnectionList
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import as_json, read, reply
from rellux.server.links.live import live_of
from rellux.server.rigs.change import changing, note
from rellux.server.rigs.domain import purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.runs import store
from rellux.server.runs.models import Run
from rellux.server.wiring.domain import connection_list

from .domain import dangers_of, due_of, stages_of, standing_stages
from .models import ProvedStage, ProvedStep


@dataclass(frozen=True)
class MeasureView:
    """What is measured: within ``low`` and ``high`` (either may be open), ``accepts`` says it."""

    figure: Figure
    low: float | None
    high: float | None
    accepts: str
    divided: bool
    take: Take | None


@dataclass(frozen=True)
class StepRecordView:
    at: datetime
    who: str
    verdict: StepVerdict
    says: str
    remark: str
    why: str


@dataclass(frozen=True)
class ProvingStepView:
    """A step as it stands. ``help``: how the meter is set and what misleads; ``changed``: what voided it; ``halves``: a failure there
    can be found by halves; ``dangers``: what is dangerous, anywhere on the rig, about the parts that it goes through."""

    key: str
    title: str
    does: str
    must: str
    measure: MeasureView | None
    help: str
    isolated: str
    caution: str
    constant: str
    elsewhere: str
    halves: bool
    state: StepState
    changed: list[str]
    record: StepRecordView | None
    dangers: list[str]


@dataclass(frozen=True)
class SignedView:
    at: datetime
    who: str
    why: str


@dataclass(frozen=True)
class ProvingStageView:
    """``before``: why it is not its turn yet; ``against``: what of its own stands against a name under it."""

    number: int
    title: str
    after: Station
    warns: str
    waits: str
    steps: list[ProvingStepView]
    done: int
    signed: SignedView | None
    before: list[str]
    against: list[str]


@dataclass(frozen=True)
class StepInHand:
    stage: int
    key: str


@dataclass(frozen=True)
class ProvingView:
    """``stages`` are none before the rig is wired. ``next``: the step in hand; ``due``: when all is to be proved again."""

    revision: int
    room_c: float
    stages: list[ProvingStageView]
    next: StepInHand | None
    due: datetime | None


@dataclass(frozen=True)
class StepInput:
    """What was seen at a step. ``again``: although somebody recorded it already; ``why``: although it is not its turn."""

    revision: int
    room_c: float
    key: str
    seen: SeenAtStep
    again: bool = False
    why: str = ""


@dataclass(frozen=True)
class StageInput:
    """A name under a stage; ``why`` where something stands against it."""

    revision: int
    stage: int
    why: str = ""


@dataclass(frozen=True)
class ClueInput:
    """Ohms read between two terminals with the plug out; ``None``: no connection."""

    a: str
    b: str
    ohms: float | None


@dataclass(frozen=True)
class BisectInput:
    """Of a failed step: what it showed is known, ``clues`` is what was measured since."""

    key: str
    clues: list[ClueInput] = field(default_factory=list)


@dataclass(frozen=True)
class TakenView:
    """A step's number without a meter, and where it is from."""

    value: float
    says: str


def wired_rig(slug: str) -> Rig:
    rig = get_object_or_404(Rig, slug=slug)
    if not stages_of(rig):
        raise refuse("wiring", "lay out the wiring first: what is proved follows from it", "a connection list")
    return rig


def room_from(given: str | float | None, rig: Rig) -> float:
    """The room's temperature as it was said, else the purpose’s. Raises ``Refused`` for one that no room has, and where there is
    nothing to do out of it."""
    try:
        purpose = purpose_of(rig)
        room = purpose.ambient_c if given in (None, "") else float(given)
    except ValueError:
        raise refuse("room_c", "is no number", "the room’s temperature") from None
    check_room(room, purpose)
    return room


def step_of(stages: tuple[ProvingStage, ...], key: str) -> tuple[ProvingStage, ProvingStep]:
    """Raises ``Refused`` where the rig has no such step."""
    for stage in stages:
        for step in stage.steps:
            if step.key == key:
                return stage, step
    raise refuse("key", f"this rig has no step {key[:60]!r} any more", "a step of the list as it is now")


def proving_view(rig: Rig, room_c: float) -> ProvingView:
    stages = stages_of(rig, room_c)
    found = standing_stages(rig, stages)
    rows: dict[str, ProvedStep] = {}
    for row in rig.proved_steps.all():
        rows.setdefault(row.key, row)
    hand, dangers = next_step(found), dangers_of(rig)
    return ProvingView(
        rig.revision,
        room_c,
        [_stage_view(stage, stood, rows, dangers) for stage, stood in zip(stages, found, strict=True)],
        StepInHand(*hand) if hand else None,
        due_of(rig, found),
    )


def _stage_view(
    stage: ProvingStage, stood: StageStands, rows: dict[str, ProvedStep], dangers: list[Finding]
) -> ProvingStageView:
    states = {s.key: s for s in stood.steps}
    signed = stood.signed
    return ProvingStageView(
        stage.number,
        stage.title,
        Station(stage.after),
        stage.warns,
        stage.waits,
        [_step_view(s, states[s.key], rows.get(s.key), dangers) for s in stage.steps],
        stood.done,
        SignedView(signed.at, signed.who, signed.why) if signed else None,
        list(stood.before),
        list(stood.against),
    )


def _step_view(step: ProvingStep, stood: StepStands, row: ProvedStep | None, dangers: list[Finding]) -> ProvingStepView:
    m = step.measure
    return ProvingStepView(
        step.key,
        step.title,
        step.does,
        step.must,
        MeasureView(m.figure, m.low, m.high, accepted(m), m.divided, m.take) if m else None,
        METER_HELP[step.meter] if step.meter else "",
        step.isolated,
        step.caution,
        step.constant,
        step.elsewhere,
        step.between is not None,
        stood.state,
        list(stood.changed),
        StepRecordView(row.at, row.who, StepVerdict(row.verdict), row.says, str(row.seen.get("remark", "")), row.why)
        if row
        else None,
        [f.title for f in dangers if any(f"part {name}" in step.cites for name in f.subjects)],
    )


class Proving(APIView):
    @endpoint("proving", ProvingView, query={"room_c": float})
    def get(self, request: Request, slug: str) -> Response:
        """Every stage with its steps, for a room of this temperature."""
        rig = get_object_or_404(Rig, slug=slug)
        return reply(proving_view(rig, room_from(request.query_params.get("room_c"), rig)))


class ProvingSteps(APIView):
    @endpoint("recordProvingStep", ProvingView, StepInput, status=201)
    def post(self, request: Request, slug: str) -> Response:
        """Keep what was seen at a step. Refused where it is not its turn and no reason is given, where somebody recorded it already, and
        for a number that fits in another unit."""
        given = read(request, StepInput)
        rig = wired_rig(slug)
        room = room_from(given.room_c, rig)
        with changing(slug, given.revision) as rig:
            stages = stages_of(rig, room)
            stage, step = step_of(stages, given.key)
            found = next(s for s in standing_stages(rig, stages) if s.number == stage.number)
            judged = judge_step(step, given.seen)
            check_turn(found, given.why)
            check_again(found, step.key, _recorded(rig, step), given.again)
            row = ProvedStep.objects.create(
                rig=rig,
                at=timezone.now(),
                who=request.user.title,
                key=step.key,
                stage=stage.number,
                title=step.title,
                verdict=judged.verdict.value,
                says=shortened(judged.says, 500),
                seen=as_json(given.seen),
                number=_finite(judged),
                room_c=room,
                cites=step.cites,
                why=given.why[:400],
            )
            note(rig, request.user, Station.PROVING, f"{step.title}: {row.verdict}", why=judged.says)
        return reply(proving_view(rig, room), 201)


def _finite(judged: JudgedStep) -> float | None:
    return judged.number if judged.number is not None and judged.number < float("inf") else None


def _recorded(rig: Rig, step: ProvingStep) -> str:
    """Who recorded a step last, and what."""
    row = rig.proved_steps.filter(key=step.key).first()
    return f"{row.who} recorded it on {timezone.localtime(row.at):%Y-%m-%d %H:%M}: {render(row.says)}" if row else ""


class ProvingStages(APIView):
    @endpoint("signProvingStage", ProvingView, StageInput, status=201)
    def post(self, request: Request, slug: str) -> Response:
        """A name under a stage. Refused while something stands against it and no reason is given."""
        given = read(request, StageInput)
        wired_rig(slug)
        with changing(slug, given.revision) as rig:
            found = next((s for s in standing_stages(rig, stages_of(rig)) if s.number == given.stage), None)
            if found is None:
                raise refuse("stage", f"this rig has no stage {given.stage}", "one of its stages")
            why = name_under(found, given.why)
            ProvedStage.objects.create(
                rig=rig,
                at=timezone.now(),
                who=request.user.title,
                stage=given.stage,
                why=why[:400],
                steps=[s.key for s in found.steps],
            )
            note(rig, request.user, Station.PROVING, f"Stage {given.stage} signed", why=why)
        return reply(proving_view(rig, purpose_of(rig).ambient_c), 201)


class ProvingBisect(APIView):
    @endpoint("bisectProvingStep", Bisection, BisectInput)
    def post(self, request: Request, slug: str) -> Response:
        """What may be wrong at a failed step, and the next measurement that halves what is left. Nothing is kept."""
        given = read(request, BisectInput)
        rig = wired_rig(slug)
        _, step = step_of(stages_of(rig), given.key)
        row = rig.proved_steps.filter(key=given.key).first()
        if row is None or row.verdict != StepVerdict.FAILED:
            raise refuse("key", "this step did not fail", "a failed step")
        wiring = connection_list(rig)
        circuit = CircuitSolver(wiring, purpose_of(rig).control_voltage_v)
        clues = (clue_of(step, row.number), *(_clue(wiring, c, i) for i, c in enumerate(given.clues)))
        return reply(bisect(circuit, clues))


def _clue(wiring: ConnectionList, given: ClueInput, i: int) -> Clue:
    terminals = wiring.terminals
    for name, end in (("a", given.a), ("b", given.b)):
        if end not in terminals:
            raise refuse(f"clues[{i}].{name}", f"there is no terminal {end[:60]!r}", "a terminal of the list")
    if given.ohms is not None and given.ohms < 0:
        raise refuse(f"clues[{i}].ohms", "cannot be negative", "0 or more, or beyond range")
    return Clue(given.a, given.b, given.ohms)


class ProvingTake(APIView):
    @endpoint(
        "takeProvingStep", TakenView, query={"key": str, "room_c": float, "run": int, "from_s": float, "to_s": float}
    )
    def get(self, request: Request, slug: str) -> Response:
        """A step's number from the link as it is now, or out of a stretch of a run."""
        rig = wired_rig(slug)
        asked = request.query_params
        _, step = step_of(stages_of(rig, room_from(asked.get("room_c"), rig)), asked.get("key", ""))
        if step.measure is None or step.measure.take is None:
            raise refuse("key", "this number takes a meter", "a step whose number is the reading, or a time")
        if not asked.get("run"):
            return reply(_from_link(rig, step))
        number = asked.get("run", "")
        run = get_object_or_404(Run, rig=rig, pk=int(number) if number.isdecimal() else 0, removed_at__isnull=True)
        if not run.samples:
            raise refuse("run", "this run has no samples yet", "a run with samples")
        start = _seconds(asked.get("from_s", "0"), "from_s")
        end = _seconds(asked.get("to_s", str(run.length_s)), "to_s")
        value = taken(step.measure, store.read(run).between(start, end))
        return reply(TakenView(value, f"from {run.name}, {quantity(start, 's', '.0f')} to {quantity(end, 's', '.0f')}"))


def _seconds(given: str, name: str) -> float:
    try:
        found = float(given)
    except ValueError:
        found = nan
    if not isfinite(found) or found < 0:
        raise refuse(name, "is no moment of a run", "seconds from its start")
    return found


def _from_link(rig: Rig, step: ProvingStep) -> TakenView:
    now = live_of(rig)
    if step.measure is None or step.measure.take is not Take.READING:
        raise refuse("run", "this is not one reading but a course: choose a run", "a run")
    if now.reading_c is None or (now.age_s or 0.0) > now.stale_after_s:
        raise refuse("link", "nothing is heard from the controller now", "a link that is online")
    return TakenView(now.reading_c, "read from the link")
