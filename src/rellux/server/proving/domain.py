"""Proving between the database and the core: the facts of a rig, what was recorded, how it stands."""

from dataclasses import dataclass, replace
from datetime import datetime

from django.utils import timezone

from rellux.core.equipment.equipment import EquipmentRole
from rellux.core.explain import Figure
from rellux.core.findings import Finding, Severity
from rellux.core.guarding.plan import Plan
from rellux.core.guarding.standing import next_proof
from rellux.core.proving.facts import Fitted, ProvingFacts
from rellux.core.proving.judging import StepVerdict
from rellux.core.proving.plan import FIRST_STAGE, ProvingStage, proving_stages
from rellux.core.proving.standing import (
    StageSignature,
    StageStands,
    StepRecord,
    due_again,
    never_proved,
    proving_findings,
    stands,
    waiting_after,
)
from rellux.core.setup.parameters import settings_from
from rellux.core.spine import Station
from rellux.core.wiring.circuit.solve import CircuitSolver
from rellux.server.answers.once import remembered
from rellux.server.equipment.places import fitted_since
from rellux.server.guarding.domain import proved_of, situation_of, standing_of
from rellux.server.guarding.stored import plan_of
from rellux.server.questions.domain import kept_answers
from rellux.server.rigs.chain import parts_findings
from rellux.server.rigs.domain import purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.setup.domain import working_values
from rellux.server.wiring.domain import connection_list, wiring_findings


def facts_for(rig: Rig, room_c: float) -> ProvingFacts:
    """Everything that the steps of a wired rig are made from."""
    purpose, values, wiring, plan = purpose_of(rig), working_values(rig), connection_list(rig), plan_of(rig)
    guarded = situation_of(rig, plan or Plan())
    situation = replace(guarded, rig=replace(guarded.rig, purpose=purpose))  # a zone is proved with the others off
    return ProvingFacts(
        purpose,
        rig.sensor,
        wiring,
        CircuitSolver(wiring, purpose.control_voltage_v),
        values,
        settings_from(values, purpose),
        situation.rig,
        situation if plan else None,
        room_c,
        _fitted(rig),
        _box(rig),
    )


def _box(rig: Rig) -> Figure | None:
    """How warm the box was found to get, where somebody asked and kept it."""
    answer = kept_answers(rig).get("warm")
    return answer.figures[0] if answer else None


def _fitted(rig: Rig) -> dict[Fitted, str]:
    """Since when exchangeable pieces are there, where that is known."""
    exchanged = rig.controllers.filter(fresh=True).first()
    since = {
        Fitted.SENSOR: fitted_since(rig, EquipmentRole.SENSOR),
        Fitted.LIMITER: fitted_since(rig, EquipmentRole.LIMITER),
        Fitted.CONTROLLER: exchanged.at if exchanged else None,
    }
    return {role: f"since {at:%Y-%m-%d %H:%M}" for role, at in since.items() if at}


def stages_of(rig: Rig, room_c: float | None = None) -> tuple[ProvingStage, ...]:
    """The stages of a rig; none before it is wired. Once a revision and room."""
    if not rig.sensor or not rig.parts.exists():
        return ()
    room = purpose_of(rig).ambient_c if room_c is None else room_c
    identified = rig.identifications.values_list("pk", flat=True).first()
    return _stages(rig.pk, rig.created_at, rig.revision, identified, room)


@remembered(32, lasts=True)
def _stages(
    key: int, created_at: datetime, revision: int, identified: int | None, room_c: float
) -> tuple[ProvingStage, ...]:
    return proving_stages(facts_for(Rig.objects.get(pk=key), room_c))


def forget() -> None:
    _stages.cache_clear()


def newest_records(rig: Rig) -> dict[str, StepRecord]:
    """Of every step the newest record."""
    found: dict[str, StepRecord] = {}
    for row in rig.proved_steps.all():
        found.setdefault(row.key, StepRecord(StepVerdict(row.verdict), row.at, row.cites))
    return found


def standing_stages(rig: Rig, stages: tuple[ProvingStage, ...]) -> tuple[StageStands, ...]:
    signatures: dict[int, StageSignature] = {}
    for row in rig.proved_stages.all():
        signatures.setdefault(row.stage, StageSignature(row.at, row.who, row.why, frozenset(row.steps)))
    plan = plan_of(rig)
    proof = standing_of(rig, plan) if plan else None
    dangers = tuple(f.title for f in wiring_findings(rig) if f.severity is Severity.DANGER)
    return stands(stages, newest_records(rig), signatures, proof, dangers)


def dangers_of(rig: Rig) -> list[Finding]:
    """What is dangerous about the wiring and the chosen parts."""
    return [f for f in (*wiring_findings(rig), *parts_findings(rig)) if f.severity is Severity.DANGER]


def due_of(rig: Rig, found: tuple[StageStands, ...]) -> datetime | None:
    """When all of it is to be proved again, by the plan in force."""
    return due_again(found, (plan_of(rig) or Plan()).prove_days)


def dates_of(rig: Rig) -> list[tuple[str, datetime]]:
    """What of a rig is to be proved again, and when."""
    found = []
    if rig.proved_steps.exists() and (due := due_of(rig, standing_stages(rig, stages_of(rig)))):
        found.append(("Proving is due", due))
    plan = plan_of(rig)
    if plan and (proved := proved_of(rig, plan)) and proved.passed:
        found.append(("Guards are to be proved", next_proof(plan, proved)))
    return found


@dataclass(frozen=True)
class ProvingTold:
    """What the spine is told: findings, what is next by the station after which it belongs, whether anything was proved, and all."""

    findings: tuple[Finding, ...]
    to_prove: dict[Station, str]
    begun: bool
    done: bool
    due: datetime | None = None


def proving_told(rig: Rig, has_run: bool) -> ProvingTold:
    """Of a rig. Nothing is worked out before the first step is recorded."""
    if not rig.proved_steps.exists():
        wired = bool(rig.sensor) and rig.parts.exists()
        none = (never_proved(),) if has_run and wired else ()
        return ProvingTold(none, {Station.WIRING: FIRST_STAGE} if wired else {}, False, False)
    stages = stages_of(rig)
    found = standing_stages(rig, stages)
    waiting = {Station(after): words for after, words in waiting_after(stages, found).items()}
    due = due_of(rig, found)
    return ProvingTold(tuple(proving_findings(stages, found, due, timezone.now())), waiting, True, not waiting, due)
