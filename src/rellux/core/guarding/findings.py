"""What is wrong with a plan for this rig, and the proposal that moves the right thing."""

from collections.abc import Iterator
from dataclasses import replace
from math import ceil

from ..control.alarms.settings import Action, AlarmKind
from ..findings import Finding, Proposal, Severity, worst_first
from ..messages import difference, quantity, temperature
from .fuses import choose_fuse, hottest_at_place
from .ladder import Gap, Ladder, Rung, Situation, ladder, soonest_at
from .plan import LimiterReset
from .policy import longest_hold

HALF = 0.5
"""Detection, contactor and lag may use up half of the time from the trip to damage (our choice: the other half is for being wrong)."""
WHOLE_C, TENTHS_C = 100.0, 0.5
"""Proposals are whole degrees from here up, half ones below."""


def guarding_findings(found: Ladder, situation: Situation) -> list[Finding]:
    """Everything about the plan that does not suit the rig, worst first."""
    each = (_limiter, _maximum, _fuse, _alarms, _policy)
    return worst_first([finding for check in each for finding in check(found, situation)])


def gap_finding(rule: str, severity: Severity, gap: Gap, fix: str, proposal: Proposal | None, title: str) -> Finding:
    """Two steps that stand too near to each other."""
    return Finding(
        rule,
        severity,
        title=title,
        reason=f"There is {difference(gap.present_c, '.1f')} and it needs {difference(gap.needed.value, '.1f')}. {gap.reason}",
        fix=fix,
        subjects=(gap.below, gap.above),
        figures=(gap.needed,),
        proposal=proposal,
    )


def _limiter(found: Ladder, situation: Situation) -> Iterator[Finding]:
    weakest, limiter = found.step(found.weakest), situation.plan.limiter
    dangerous = found.step("full_power").high >= weakest.celsius
    if limiter is None:
        if dangerous:
            when = soonest_at(found.family, situation, weakest.celsius)
            yield Finding(
                "guarding.no-limiter",
                Severity.DANGER,
                title="No independent limiter is in the plan",
                reason=f"If the switch fails closed, {weakest.name} ({temperature(weakest.celsius)}) can be reached "
                f"{_after(when)} and nothing of its own stops it.",
                fix="Fit a limiter with its own sensor and its own contactor, and enter what it is set to.",
                subjects=("limiter",),
                proposal=Proposal("guarding.limiter", True, label="Plan it")
                if situation.has_limiter
                else Proposal("parts.limiter", True, label="Add one to the parts"),
            )
        return
    yield from limiter_itself(situation, dangerous)
    over, under = found.gap("limiter over running"), found.gap("weakest over limiter")
    assert over and under
    proposal, is_known = _limiter_proposal(found, situation), situation.rig.identified is not None
    if not under.is_wide_enough and dangerous:
        fix = _limiter_fix(proposal, under, is_known)
        title = f"The limiter stops it too late for {weakest.name}"
        yield gap_finding("guarding.limiter-too-high", Severity.DANGER, under, fix, proposal, title)
    if not over.is_wide_enough:
        title = "The limiter trips in ordinary work" if over.present_c < 0 else "The limiter may trip in ordinary work"
        yield gap_finding(
            "guarding.limiter-in-running",
            Severity.FAULT,
            over,
            _limiter_fix(proposal, over, is_known),
            proposal,
            title,
        )
    tuning = found.gap("limiter over tuning")
    if tuning and not tuning.is_wide_enough and over.is_wide_enough:
        lower = situation.settings.setpoint_c - (tuning.needed.value - tuning.present_c)
        yield gap_finding(
            "guarding.limiter-in-tuning",
            Severity.ADVICE,
            tuning,
            f"Let it tune itself at {temperature(lower, '.0f')} or below, or tune it from a recorded run.",
            None,
            "The limiter may trip while the controller tunes itself",
        )
    reachable = found.step("full_power")
    if reachable.low < limiter.trip_c:
        yield Finding(
            "guarding.limiter-unreachable",
            Severity.FAULT if dangerous else Severity.ADVICE,
            title=f"It may not get as hot as the limiter’s {temperature(limiter.trip_c)}",
            reason=f"Full power for good ends between {temperature(reachable.low, '.0f')} and {temperature(reachable.high, '.0f')}: "
            "it could not be proved by heat, and may never act.",
            fix="Prove it with a source at its input, or set it lower.",
            subjects=("limiter", "full_power"),
        )
    yield from _late(found, situation)


def limiter_itself(situation: Situation, dangerous: bool) -> Iterator[Finding]:
    """A limiter that is only planned, that resets itself, or that is blind without its sensor; wherever it stands."""
    limiter = situation.plan.limiter
    assert limiter
    if not situation.has_limiter:
        yield Finding(
            "guarding.limiter-not-fitted",
            Severity.DANGER if dangerous else Severity.FAULT,
            title="The limiter of the plan is not among the parts",
            reason="What is planned protects nothing before it is fitted and wired.",
            fix="Choose it under Parts, and wire it.",
            subjects=("limiter",),
            proposal=Proposal("parts.limiter", True, label="Add it to the parts"),
        )
    if limiter.reset is LimiterReset.SELF:
        yield Finding(
            "guarding.limiter-self-resetting",
            Severity.FAULT,
            title="The limiter closes again by itself",
            reason="It then regulates at its limit, for hours, and hides that something has failed. A limiter stays tripped until a person "
            "resets it.",
            fix="One with manual reset, or a latching relay behind it.",
            subjects=("limiter",),
            source="EN 14597, from memory",
        )
    if not limiter.trips_on_break:
        yield Finding(
            "guarding.limiter-break",
            Severity.DANGER,
            title="The limiter does not trip when its own sensor breaks",
            reason="A broken wire would leave it blind, and nobody would notice until it is needed.",
            fix="Set it so that an open sensor trips it, or fit one that does.",
            subjects=("limiter",),
        )


def _late(found: Ladder, situation: Situation) -> Iterator[Finding]:
    limiter, weakest = situation.plan.limiter, found.step(found.weakest)
    assert limiter
    damage, trip = found.alone.when(weakest.celsius), found.alone.when(limiter.trip_c)
    if damage is None or trip is None or found.trip is None or found.trip.opened_s is None or damage <= trip:
        return
    taken, there = found.trip.opened_s - trip, damage - trip
    if taken > HALF * there:
        yield Finding(
            "guarding.limiter-late",
            Severity.FAULT,
            title="The limiter needs too much of the time there is",
            reason=f"From its value to {weakest.name} full power takes {quantity(there, 's', '.0f')} at the bad edge; its sensor’s "
            f"error, its lag and the contactor take {quantity(taken, 's', '.0f')} of that.",
            fix="A thinner sensor nearer to what heats, or a lower trip value.",
            subjects=("limiter",),
        )


def _limiter_fix(proposal: Proposal | None, gap: Gap, is_known: bool) -> str:
    if proposal:
        return "Move it to where both gaps are wide enough."
    missing = difference(gap.needed.value - gap.present_c, ".1f")
    unknown = "" if is_known else " Find the process in a recorded run: until then the worst of its kind is assumed."
    return (
        "No value fits between ordinary work and what must not happen. A limiter’s sensor that is quicker and nearer to the heat, a "
        f"lower set-point limit, or less heating power would give the missing {missing}.{unknown}"
    )


def _limiter_proposal(found: Ladder, situation: Situation) -> Proposal | None:
    """The lowest value at which the limiter stays out of ordinary work, if it also protects what is weakest; else a lower limit of the
    set-point, where that makes room for one. Tried before it is proposed: no gap may become worse than it needs."""
    limiter = situation.plan.limiter
    assert limiter
    over = found.gap("limiter over running")
    assert over
    trip = rounded_up(found.running_top.high + over.needed.value)
    tried = found
    for _ in range(3):
        tried = ladder(replace(situation, plan=replace(situation.plan, limiter=replace(limiter, trip_c=trip))))
        gap = tried.gap("limiter over running")
        if gap is None or gap.is_wide_enough:
            break
        trip = rounded_up(trip + gap.needed.value - gap.present_c)
    wanted = ("limiter over running", "weakest over limiter")
    if all((gap := tried.gap(key)) is not None and gap.is_wide_enough for key in wanted):
        if trip == limiter.trip_c or _worse(found, tried):
            return None
        return Proposal("guarding.limiter_trip_c", trip, label=f"Set the limiter to {temperature(trip)}")
    return _lower_setpoint(found, situation)


def _worse(before: Ladder, after: Ladder) -> bool:
    """Whether a gap that was wide enough no longer is."""
    fine = {g.key for g in before.gaps if g.is_wide_enough}
    return any(not g.is_wide_enough for g in after.gaps if g.key in fine)


def _lower_setpoint(found: Ladder, situation: Situation) -> Proposal | None:
    """Where only the set-point's limit is in the way: the highest at which a limiter has room between it and what is weakest."""
    over, under = found.gap("limiter over running"), found.gap("weakest over limiter")
    if found.running_top.rung is not Rung.SETPOINT_HIGH or over is None or under is None:
        return None
    room = found.step(found.weakest).celsius - under.needed.value
    lower = -rounded_up(-(room - over.needed.value))
    if not situation.settings.setpoint_c <= lower < situation.setpoint_high_c or lower < found.step("running").high:
        return None
    return Proposal("setup.setpoint_high_c", lower, label=f"Limit the set-point to {temperature(lower)}")


def rounded_up(celsius: float) -> float:
    """A setting: up to the next whole degree, or half of one where it is cool."""
    step = 1.0 if abs(celsius) >= WHOLE_C else TENTHS_C
    return ceil(round(celsius / step, 6)) * step


def _maximum(found: Ladder, situation: Situation) -> Iterator[Finding]:
    maximum, limiter = situation.plan.maximum_c, situation.plan.limiter
    if maximum is None:
        return
    gap = found.gap("maximum over set-points")
    assert gap
    value = rounded_up(situation.setpoint_high_c + gap.needed.value)
    fits = limiter is None or value < limiter.trip_c
    if not gap.is_wide_enough:
        yield gap_finding(
            "guarding.maximum-in-running",
            Severity.FAULT,
            gap,
            "Move it up, or limit the set-point." if fits else "Limit the set-point: above it the limiter comes first.",
            Proposal("guarding.maximum_c", value, label=f"Set it to {temperature(value)}") if fits else None,
            "The controller’s maximum may end ordinary runs",
        )
    if limiter and maximum >= limiter.trip_c:
        yield Finding(
            "guarding.maximum-above-limiter",
            Severity.ADVICE,
            title="The controller’s maximum comes after the limiter",
            reason=f"The limiter trips at {temperature(limiter.trip_c)}: the controller never ends it by itself before, and somebody has "
            "to reset the limiter each time.",
            fix="Below the limiter, above the set-points.",
            subjects=("maximum", "limiter"),
            proposal=Proposal("guarding.maximum_c", value, label=f"Set it to {temperature(value)}") if fits else None,
        )


def _fuse(found: Ladder, situation: Situation) -> Iterator[Finding]:
    fuse = situation.plan.fuse
    if fuse is None:
        return
    proposal = None
    fits = [c for c in choose_fuse(situation, fuse.place_c, fuse.lag_s) if c.fits]
    if fits:
        rating = fits[0].fuse.rating_c
        proposal = Proposal("guarding.fuse_rating_c", rating, label=f"Use one for {temperature(rating)}")
    elsewhere = "A place that is warmer or cooler in ordinary work has others; none of the usual ratings fits here."
    fix = "The next usual rating that fits at its place." if proposal else elsewhere
    over, soak = found.gap("fuse over limiter"), found.gap("weakest over fuse")
    if over and not over.is_wide_enough:
        title = "The thermal fuse may open before the limiter has ended it"
        yield gap_finding("guarding.fuse-first", Severity.FAULT, over, fix, proposal, title)
    if soak and not soak.is_wide_enough:
        title = f"The thermal fuse opens too late for {found.step(found.weakest).name}"
        yield gap_finding("guarding.fuse-too-high", Severity.DANGER, soak, fix, proposal, title)
    place = hottest_at_place(found, situation, fuse)
    if fuse.holding_c <= place:
        yield Finding(
            "guarding.fuse-holding",
            Severity.FAULT,
            title="The thermal fuse ages in ordinary work",
            reason=f"It holds {temperature(fuse.holding_c)} for good, and its place gets {temperature(place, '.0f')}: it would open by "
            "itself some day.",
            fix=fix,
            subjects=("fuse",),
            proposal=proposal,
            source="IEC 60691, from memory",
        )


def _alarms(found: Ladder, situation: Situation) -> Iterator[Finding]:
    plan, setpoint = situation.plan, situation.settings.setpoint_c
    if not plan.alarms:
        yield Finding(
            "guarding.no-alarm",
            Severity.ADVICE,
            title="No alarm is planned",
            reason="One that is wired and heard tells of trouble before the limiter ends the run. Others leave them off until needed: a "
            "forgotten alarm confuses.",
            fix="Plan the warning and the sensor break at least.",
            proposal=Proposal("guarding.alarms", True, label="Plan the usual alarms"),
        )
    for step in (s for s in found.steps if s.rung is Rung.ALARM):
        gap = found.gap(f"{step.key} over running")
        if gap and not gap.is_wide_enough:
            yield gap_finding(
                "guarding.alarm-in-running",
                Severity.FAULT,
                gap,
                "Move it above ordinary running.",
                _alarm_proposal(found, situation, int(step.key.split()[1]), gap),
                f"{step.name} calls in ordinary running",
            )
        if plan.limiter and step.celsius >= plan.limiter.trip_c:
            yield Finding(
                "guarding.alarm-above-limiter",
                Severity.FAULT,
                title=f"{step.name} comes after the limiter",
                reason=f"The limiter trips at {temperature(plan.limiter.trip_c)}: it never calls before.",
                fix="Below the limiter.",
                subjects=(step.key, "limiter"),
            )
    for i, planned in enumerate(plan.alarms):
        if planned.alarm.kind is AlarmKind.LOW and planned.alarm.value >= setpoint:
            yield Finding(
                "guarding.low-above-setpoint",
                Severity.FAULT,
                title=f"{planned.name} is active at the set-point",
                reason=f"It calls at and below {temperature(planned.alarm.value)}, and the set-point is {temperature(setpoint)}.",
                fix="Below the set-point by more than the swing.",
                subjects=(f"alarm {i}",),
            )
    yield from contact_senses(situation)


def contact_senses(situation: Situation) -> Iterator[Finding]:
    """Alarms that want opposite contacts of one relay."""
    for action in Action:
        using = [a for a in situation.plan.alarms if action in a.does]
        if len({a.alarm.de_energise for a in using}) > 1:
            names = " and ".join(a.name for a in using)
            yield Finding(
                "guarding.contact-sense",
                Severity.FAULT,
                title=f"{names} want opposite contacts of one relay",
                reason="One drops it out to alarm, the other pulls it in: on one contact neither can be told.",
                fix="The same sense for both; dropping out also tells of a lost supply.",
                subjects=tuple(a.name for a in using),
            )


def _alarm_proposal(found: Ladder, situation: Situation, i: int, gap: Gap) -> Proposal | None:
    alarm, limiter = situation.plan.alarms[i].alarm, situation.plan.limiter
    value = rounded_up(found.step("running").high + gap.needed.value)
    if (limiter and value >= limiter.trip_c) or value >= found.step(found.weakest).celsius:
        return None
    if alarm.kind is not AlarmKind.HIGH:
        value = rounded_up(value - situation.settings.setpoint_c)
        return Proposal(f"guarding.alarm.{i}", value, label=f"Set it to {difference(value)}")
    return Proposal(f"guarding.alarm.{i}", value, label=f"Set it to {temperature(value)}")


def _policy(found: Ladder, situation: Situation) -> Iterator[Finding]:
    most = longest_hold(found, situation)
    policy = situation.plan.policy
    if policy.hold_s > most:
        yield Finding(
            "guarding.hold-too-long",
            Severity.DANGER,
            title="A lost reading is ridden through for too long",
            reason=f"Blind for {quantity(policy.hold_s, 's', '.0f')}, while full power eats the margin in {quantity(most, 's', '.1f')}.",
            fix=f"At most {quantity(most, 's', '.1f')}.",
            subjects=("policy",),
            proposal=Proposal("guarding.hold_s", float(int(most)), label=f"Hold {quantity(int(most), 's')}"),
        )


def _after(seconds: float | None) -> str:
    return f"{quantity(seconds / 60.0, 'min', '.0f')} later" if seconds is not None else "in the end"
