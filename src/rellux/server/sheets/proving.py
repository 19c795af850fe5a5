"""What the proving sheet says of a rig: its steps, and where it is not wanted blank what was seen."""

from django.utils import timezone

from rellux.core.messages import temperature
from rellux.core.proving.judging import accepted
from rellux.core.proving.plan import ProvingStage
from rellux.core.proving.standing import StageStands, StepState
from rellux.core.proving.step import ProvingStep
from rellux.server.proving.domain import stages_of, standing_stages
from rellux.server.proving.models import ProvedStep
from rellux.server.rigs.models import Rig

from .guarding import day
from .proving_sheet import ProvingLine, ProvingPart, ProvingSheet

TICK = "(  ) yes   (  ) no"


def proving_of(rig: Rig, room_c: float, blank: bool) -> ProvingSheet:
    """The sheet of a wired rig."""
    stages = stages_of(rig, room_c)
    found = standing_stages(rig, stages)
    rows: dict[str, ProvedStep] = {}
    for row in () if blank else rig.proved_steps.all():
        rows.setdefault(row.key, row)
    return ProvingSheet(
        rig.name,
        f"{timezone.localdate():%Y-%m-%d}, revision {rig.revision}, for a room of {temperature(room_c)}",
        tuple(_part(stage, stood, rows, blank) for stage, stood in zip(stages, found, strict=True)),
        () if blank else tuple(f"Stage {stood.number}: {words}" for stood in found for words in stood.against),
    )


def _part(stage: ProvingStage, stood: StageStands, rows: dict[str, ProvedStep], blank: bool) -> ProvingPart:
    states = {s.key: s.state for s in stood.steps}
    signed = (
        ""
        if blank or stood.signed is None
        else f"Signed by {stood.signed.who}, {day(stood.signed.at)}. {stood.signed.why}".strip()
    )
    return ProvingPart(
        f"Stage {stage.number}: {stage.title}",
        stage.waits or stage.warns,
        tuple(_line(s, rows.get(s.key), states[s.key], blank) for s in stage.steps),
        signed,
    )


def _line(step: ProvingStep, row: ProvedStep | None, state: StepState, blank: bool) -> ProvingLine:
    seen, wrong = TICK, False
    if row is not None:
        seen, wrong = (
            f"{row.verdict}: {row.says} {row.seen.get('remark', '')} {row.why}".strip(),
            state in (StepState.FAILED, StepState.VOID),
        )
        if state is StepState.VOID:
            seen = f"VOID, changed since. {seen}"
    elif step.elsewhere and not blank and state is not StepState.OPEN:
        seen, wrong = f"{state.value}, under {step.elsewhere}", state is not StepState.PASSED
    return ProvingLine(
        step.title,
        step.does,
        step.must,
        accepted(step.measure) if step.measure else "",
        tuple(c for c in (step.isolated, step.caution) if c),
        seen,
        f"{row.who}, {day(row.at)}" if row else "",
        wrong,
    )
