"""Whether the newest proof still says that what guards a rig acts."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum

from ..findings import Finding, Severity
from ..messages import quantity
from .plan import Plan
from .proof import provable


class ProofStanding(StrEnum):
    """``holds``, or the first reason why not: a proof of something else says nothing, however it went."""

    HOLDS = "holds"
    NONE = "none"
    OTHER_LIMITER = "other_limiter"
    OTHER_CONTROLLER = "other_controller"
    OTHER_PLAN = "other_plan"
    FAILED = "failed"
    OVERDUE = "overdue"


@dataclass(frozen=True)
class Proved:
    """The newest proof: whether it was of the plan in force, when, how it went, and what it said."""

    of_this_plan: bool
    at: datetime
    passed: bool
    says: str


@dataclass(frozen=True)
class FittedSince:
    """Since when the limiter and the controller that are there now are there, where that is known: an exchange of one is meant."""

    limiter: datetime | None = None
    controller: datetime | None = None


def proof_standing(plan: Plan, proved: Proved | None, since: FittedSince, now: datetime) -> ProofStanding:
    """Of the plan in force."""
    if proved is None:
        return ProofStanding.NONE
    if plan.limiter is not None and since.limiter is not None and proved.at < since.limiter:
        return ProofStanding.OTHER_LIMITER
    acts_itself = bool(plan.alarms) or plan.maximum_c is not None
    if acts_itself and since.controller is not None and proved.at < since.controller:
        return ProofStanding.OTHER_CONTROLLER
    if not proved.of_this_plan:
        return ProofStanding.OTHER_PLAN
    if not proved.passed:
        return ProofStanding.FAILED
    return ProofStanding.OVERDUE if next_proof(plan, proved) < now else ProofStanding.HOLDS


def next_proof(plan: Plan, proved: Proved) -> datetime:
    """When it is to be proved again, where nothing else speaks against it."""
    return proved.at + timedelta(days=plan.prove_days)


def proof_findings(plan: Plan, proved: Proved | None, since: FittedSince, now: datetime) -> list[Finding]:
    """What is to be said of the proof; nothing where there is nothing to prove, or it holds."""
    found = proof_standing(plan, proved, since, now)
    if not provable(plan) or found is ProofStanding.HOLDS:
        return []
    title, reason = {
        ProofStanding.NONE: ("Nothing has been proved to act yet", "A guard that was never made to act is a hope."),
        ProofStanding.FAILED: ("The last proof was not passed", proved.says if proved else ""),
        ProofStanding.OTHER_LIMITER: (
            "The limiter was changed since it was proved",
            "The one that is fitted now was never made to act here.",
        ),
        ProofStanding.OTHER_CONTROLLER: (
            "The controller was exchanged since it was proved",
            "Its alarms and their contacts are another’s now: those were never made to act here.",
        ),
        ProofStanding.OTHER_PLAN: (
            "The plan was changed since it was proved",
            "What was changed was never made to act.",
        ),
        ProofStanding.OVERDUE: (
            "The proof is due",
            f"The last was {quantity((now - proved.at).days if proved else 0)} days ago, and every {quantity(plan.prove_days)} is planned.",
        ),
    }[found]
    grave = found in (ProofStanding.OTHER_LIMITER, ProofStanding.OTHER_CONTROLLER) or (
        proved is not None and not proved.passed
    )
    severity = Severity.FAULT if grave else Severity.ADVICE
    fix = "Go up past every value and down again, under Proof."
    return [Finding("guarding.proof", severity, title=title, reason=reason, fix=fix)]


ALONE = {
    ProofStanding.NONE: "The limiter was not proved to act.",
    ProofStanding.FAILED: "The limiter was not proved to act.",
    ProofStanding.OTHER_LIMITER: "The limiter was changed since it was proved.",
    ProofStanding.OTHER_CONTROLLER: "The controller was exchanged since it was proved.",
    ProofStanding.OTHER_PLAN: "The plan was changed since the limiter was proved.",
    ProofStanding.OVERDUE: "The proof of the limiter is out of date.",
}
"""Why a rig may not be left alone, by how its proof stands."""


def alone_cannot(limiter: bool, found: ProofStanding) -> list[str]:
    """Why it may not be left alone: there must be a limiter, planned and fitted (``limiter``), and its proof must hold."""
    if not limiter:
        return ["Nothing independent stops the heat: no limiter is planned and fitted."]
    return [ALONE[found]] if found in ALONE else []
