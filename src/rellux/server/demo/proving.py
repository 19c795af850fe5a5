"""What the shop proved of its rigs: one to the end, one as far as a step that failed, one in part voided by a new lead."""

import random
from datetime import datetime, timedelta

from rellux.core.proving.judging import SeenAtStep, judge_step
from rellux.core.proving.step import ProvingStep
from rellux.core.spine import Station
from rellux.server.api.shapes import as_json
from rellux.server.proving.domain import forget, stages_of
from rellux.server.proving.models import ProvedStage, ProvedStep
from rellux.server.rigs.models import Rig

from .making import OPTICIAN, TECHNICIAN, Day, book, proved

ROOM_C = 21.0


def proving(day: Day) -> None:
    """After everything else of the workshop is there: what a step hangs on is what is fitted now."""
    board = Rig.objects.get(slug="board-plate")
    proved(board, day.ago(8.2), TECHNICIAN)
    prove(board, day.ago(8), TECHNICIAN, last=7)
    annealer = Rig.objects.get(slug="blank-annealer")
    prove(annealer, day.ago(25), TECHNICIAN, last=4)
    new_lead(annealer, day.ago(4))
    cold = Rig.objects.get(slug="detector-cold-box")
    prove(cold, day.ago(1), OPTICIAN, last=1, failing=("supply A2", 0.3))
    forget()


def prove(rig: Rig, at: datetime, who: str, last: int, failing: tuple[str, float] | None = None) -> None:
    """Every step up to a stage as somebody would have measured it; the one that fails is the last that was done."""
    rng = random.Random(rig.slug)
    for stage in stages_of(rig, ROOM_C):
        if stage.number > last:
            return
        for step in stage.steps:
            at += timedelta(minutes=rng.randint(2, 6))
            if step.elsewhere:
                continue
            failed = failing is not None and step.key == failing[0]
            record(
                rig,
                stage.number,
                step,
                at,
                who,
                SeenAtStep(failing[1], as_told=True) if failing and failed else as_seen(step, rng),
            )
            if failed:
                return
        at += timedelta(minutes=1)
        ProvedStage.objects.create(rig=rig, at=at, who=who, stage=stage.number, steps=[s.key for s in stage.steps])
        book(rig, at, who, Station.PROVING, f"Stage {stage.number} signed")


def as_seen(step: ProvingStep, rng: random.Random) -> SeenAtStep:
    """A number inside what is expected, as a meter would show it."""
    m = step.measure
    if m is None:
        return SeenAtStep(as_told=True)
    if m.high is None:
        return (
            SeenAtStep(beyond=True, as_told=True) if m.kind == "resistance" else SeenAtStep(value=m.low, as_told=True)
        )
    low = m.low if m.low is not None else 0.6 * m.high
    value = float(f"{low + rng.uniform(0.35, 0.65) * (m.high - low):.4g}")
    return (
        SeenAtStep(value=230.0, divided_by=230.0 / value, as_told=True)
        if m.divided
        else SeenAtStep(value=value, as_told=True)
    )


def record(rig: Rig, stage: int, step: ProvingStep, at: datetime, who: str, seen: SeenAtStep) -> None:
    judged = judge_step(step, seen)
    ProvedStep.objects.create(
        rig=rig,
        at=at,
        who=who,
        key=step.key,
        stage=stage,
        title=step.title,
        verdict=judged.verdict.value,
        says=judged.says,
        seen=as_json(seen),
        number=None if judged.number in (None, float("inf")) else judged.number,
        room_c=ROOM_C,
        cites=step.cites,
    )
    book(rig, at, who, Station.PROVING, f"{step.title}: {judged.verdict.value}", why=judged.says)


def new_lead(rig: Rig, at: datetime) -> None:
    """The lead at the element had gone brittle."""
    wire = rig.wires.get(a="E1.2") if rig.wires.filter(a="E1.2").exists() else rig.wires.filter(b="E1.2").get()
    wire.insulation, wire.length_m = "glass", wire.length_m + 0.3
    wire.save()
    book(rig, at, TECHNICIAN, Station.WIRING, f"Wire {wire.number} renewed: glass braid, longer")
