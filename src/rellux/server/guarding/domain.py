"""Plans between the database and the core, and what the core needs to know of their rig."""

from typing import Any

from django.utils import timezone

from rellux.core.equipment.equipment import EquipmentRole
from rellux.core.equipment.stays import compared_in_place
from rellux.core.findings import Finding, worst_first
from rellux.core.guarding.acting import NOT_WIRED, Acting, acting_in
from rellux.core.guarding.by_effect import findings_in, moved_w, propose
from rellux.core.guarding.family import HeatedRig
from rellux.core.guarding.ladder import Situation
from rellux.core.guarding.plan import Plan
from rellux.core.guarding.propose import ProposedPlan
from rellux.core.guarding.seen import RUNS_LOOKED_AT, seen_overshoots
from rellux.core.guarding.standing import FittedSince, ProofStanding, Proved, proof_findings, proof_standing
from rellux.core.guarding.wired import wired_findings, wired_in
from rellux.core.setup.parameters import Sheet, settings_from
from rellux.core.wiring.circuit.verdicts import Outcome
from rellux.server.answers.once import remembered
from rellux.server.api.shapes import as_json
from rellux.server.equipment.places import fitted_since
from rellux.server.rigs.domain import kind_of
from rellux.server.rigs.models import Rig
from rellux.server.runs.models import Run
from rellux.server.setup.domain import working_values
from rellux.server.wiring.domain import connection_list, faults_of, positions_of
from rellux.server.zones.places import known_of, purpose_at_work

from .stored import plan_of


def told(plan: Plan | None) -> dict[str, Any]:
    """A plan for the book: its alarms, and what limiter, fuse and a lost reading are set to."""
    if plan is None:
        return {}
    told: dict[str, Any] = {"alarms": ", ".join(f"{a.name} {a.alarm.value:g}" for a in plan.alarms)}
    if plan.limiter:
        told["limiter_trip_c"] = plan.limiter.trip_c
    if plan.fuse:
        told["fuse_rating_c"] = plan.fuse.rating_c
    return {**told, "hold_s": plan.policy.hold_s, "prove_days": plan.prove_days}


def situation_of(rig: Rig, plan: Plan) -> Situation:
    """The rig as guarding sees it; it must have parts."""
    purpose, values = purpose_at_work(rig), working_values(rig)
    calibration = rig.calibrations.first()
    known = calibration is not None and compared_in_place(
        rig.sensor, calibration.sensor, calibration.at, fitted_since(rig, EquipmentRole.SENSOR)
    )
    return Situation(
        HeatedRig(
            kind_of(rig),
            purpose,
            moved_w(purpose),
            known_of(rig, rig.identifications.first()) if purpose.heats else None,
        ),
        plan,
        rig.sensor,
        settings_from(values, purpose),
        float(values["setpoint_low_c" if purpose.cools else "setpoint_high_c"]),
        calibration.uncertainty_c if known and calibration else None,
        rig.limiter,
        _overshoots(rig, values) if purpose.heats else (),
    )


def _overshoots(rig: Rig, values: Sheet) -> tuple[float, ...]:
    """How far its last runs passed the set-point, where they tell of today."""
    runs = rig.runs.filter(removed_at__isnull=True, peak_c__isnull=False).exclude(status=Run.Status.RECORDING)
    return seen_overshoots(values, ((r.sheet, r.peak_c) for r in runs.order_by("-started_at")[:RUNS_LOOKED_AT]))


def proposed(rig: Rig) -> ProposedPlan:
    return _proposed(situation_of(rig, Plan()))


@remembered(64, lasts=True)
def _proposed(situation: Situation) -> ProposedPlan:
    return propose(situation)


@remembered(64, lasts=True)
def findings_of_situation(situation: Situation) -> list[Finding]:
    return findings_in(situation)


def findings_of_plan(rig: Rig) -> list[Finding]:
    """What is wrong with the plan in force, and whether its proof is due. Nothing before there is one."""
    plan = plan_of(rig) if rig.sensor else None
    if plan is None:
        return []
    situation = situation_of(rig, plan)
    wired = wired_findings(plan, wired_in(connection_list(rig)), outcomes_of(rig)) if rig.parts.exists() else []
    lived_with = {(a.rule, tuple(a.subjects)) for a in rig.accepted.all()}
    wired = [f for f in wired if (f.rule, f.subjects) not in lived_with]
    due = proof_findings(plan, proved_of(rig, plan), since_of(rig), timezone.now())
    return worst_first([*findings_of_situation(situation), *wired, *due])


def acting_of(rig: Rig) -> Acting:
    """What the circuit does when a guard acts; nothing before it is wired."""
    if not rig.parts.exists():
        return NOT_WIRED
    wiring = connection_list(rig)
    return acting_in(wiring, positions_of(rig), wired_in(wiring))


def outcomes_of(rig: Rig) -> tuple[Outcome, ...]:
    """What every single failure does, as the rig is wired; nothing before it is."""
    return faults_of(rig).outcomes if rig.parts.exists() else ()


def proved_of(rig: Rig, plan: Plan) -> Proved | None:
    newest = rig.proofs.first()
    return Proved(newest.plan == as_json(plan), newest.at, newest.passed, newest.says) if newest else None


def since_of(rig: Rig) -> FittedSince:
    """Since when what guards the rig is there."""
    exchanged = rig.controllers.filter(fresh=True).first()
    return FittedSince(fitted_since(rig, EquipmentRole.LIMITER), exchanged.at if exchanged else None)


def standing_of(rig: Rig, plan: Plan) -> ProofStanding:
    """Whether the newest proof still holds for a plan."""
    return proof_standing(plan, proved_of(rig, plan), since_of(rig), timezone.now())
