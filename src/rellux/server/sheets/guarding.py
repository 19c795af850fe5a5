"""What the guarding sheet says of a rig, from its plan, its ladder and its newest proof."""

from collections.abc import Iterator
from datetime import datetime

from django.utils import timezone

from rellux.core.control.alarms.settings import KINDS as ALARM_KINDS
from rellux.core.guarding.by_effect import scale
from rellux.core.guarding.ladder import SAYS_ACTION
from rellux.core.guarding.plan import LimiterReset, Plan
from rellux.core.guarding.proof import ProofSheet, Source, proof_sheet
from rellux.core.guarding.standing import ProofStanding
from rellux.core.messages import of_kind, temperature
from rellux.server.guarding.domain import acting_of, findings_of_plan, situation_of, standing_of
from rellux.server.rigs.models import Rig

from .guarding_sheet import Guard, GuardingSheet, Tick
from .parts_sheet import said

DIALLED = {
    Source.DECADE: "A resistance decade stands in for the sensor, at the ends of its leads",
    Source.MILLIVOLTS: "A millivolt source stands in for the thermocouple, joined with copper",
    Source.HEAT: "The probe itself is warmed or cooled beside a reference",
}


def day(at: datetime) -> str:
    """By the clock on the wall."""
    return f"{timezone.localtime(at):%Y-%m-%d}"


CHANGED = {
    ProofStanding.OTHER_PLAN: " The plan was changed since: what was changed is not proved.",
    ProofStanding.OTHER_CONTROLLER: " The controller was exchanged since: its alarms are not proved.",
    ProofStanding.OTHER_LIMITER: " The limiter was changed since: the one that is fitted is not proved.",
}


def proof_says(rig: Rig, plan: Plan | None) -> str:
    """How it stands with the newest proof."""
    newest = rig.proofs.first()
    if newest is None:
        return "Nothing of it was ever made to act: a guard that was not proved is a hope."
    changed = CHANGED.get(standing_of(rig, plan) if plan else ProofStanding.OTHER_PLAN, "")
    return f"Made to act on {day(newest.at)} by {newest.who}: {newest.says.rstrip('.')}.{changed}"


def guards(plan: Plan) -> Iterator[Guard]:
    """Every alarm, the limiter and the fuse, in words."""
    for a in plan.alarms:
        kind = ALARM_KINDS[a.alarm.kind]
        at = of_kind(a.alarm.value, kind.quantity) if kind.quantity else kind.means
        yield Guard(a.name, at, ", ".join(SAYS_ACTION[does] for does in a.does), (a.cause, a.consequence, a.response))
    if plan.maximum_c is not None:
        yield Guard("Controller’s maximum", temperature(plan.maximum_c), "ends the heat, by the same sensor and switch")
    if plan.limiter:
        by_hand = plan.limiter.reset is LimiterReset.MANUAL
        resets = "stays open until it is reset by hand" if by_hand else "closes again by itself"
        yield Guard("Independent limiter", temperature(plan.limiter.trip_c), f"opens the contactor, {resets}")
    if plan.fuse:
        yield Guard("Thermal fuse", temperature(plan.fuse.rating_c), "opens for good")
    if plan.light:
        at = f"{temperature(plan.light.warm_c)}, {temperature(plan.light.hot_c)}"
        yield Guard("Status light", at, "says warm, and hot to touch; a courtesy of the software")


def guarding_of(rig: Rig, plan: Plan, terminals_c: float, by_heat: bool) -> GuardingSheet:
    """The sheet for terminals of this temperature, with what was seen where the newest proof was of the same steps."""
    situation = situation_of(rig, plan)
    steps, gaps = scale(situation)
    sheet = proof_sheet(situation, terminals_c, by_heat, acting_of(rig))
    head = f"{DIALLED[sheet.source]}; the input's terminals are at {temperature(terminals_c)}. {sheet.why_heat}".strip()
    return GuardingSheet(
        rig.name,
        f"{timezone.localdate():%Y-%m-%d}, revision {rig.revision}",
        steps,
        gaps,
        tuple(guards(plan)),
        tuple(findings_of_plan(rig)),
        head,
        tuple(_ticks(sheet, _observed(rig, plan, terminals_c, by_heat))),
        proof_says(rig, plan),
    )


def _observed(rig: Rig, plan: Plan, terminals_c: float, by_heat: bool) -> list[str]:
    """What was seen at each step, in words, where the newest proof was of this plan and this limiter, and made in this way."""
    newest = rig.proofs.first()
    if (
        newest is None
        or standing_of(rig, plan) in CHANGED
        or (newest.terminals_c, newest.by_heat) != (terminals_c, by_heat)
    ):
        return []
    words = {True: "acted", False: "quiet", None: "left out"}
    return [f"{words[o['acted']]} {o['remark']}".strip() for o in newest.observed]


def _ticks(sheet: ProofSheet, observed: list[str]) -> Iterator[Tick]:
    for i, step in enumerate(sheet.steps):
        yield Tick(
            step.guard if i == 0 or sheet.steps[i - 1].guard != step.guard else "",
            said(step.dial) if step.dial else "lead off",
            "" if step.celsius is None else temperature(step.celsius, ".1f"),
            "have acted" if step.acts else "be quiet",
            f"{step.says} {step.shows}".strip(),
            observed[i] if len(observed) == len(sheet.steps) else "",
        )
