"""What is wrong with a profile on this rig: what it does not follow, what would trip, what is met on the ladder, what nature does."""

from collections.abc import Iterator

import numpy as np

from ..control.alarms.replay import Recorded
from ..findings import Finding, Proposal, Severity, worst_first
from ..guarding.ladder import Ladder, Rung, Situation
from ..guarding.log_check import LIMITER, check_run
from ..messages import difference, spoken_time, temperature
from .feasible import NotFollowed, Why
from .predict import Conditions, Course, Predicted
from .profile import Profile, SegmentKind

LONG_S = 4 * 3600.0
"""A programme so long is left alone sooner or later (our choice)."""
STEPS = (Rung.MAXIMUM, Rung.LIMITER, Rung.FUSE, Rung.HIGHEST, Rung.MATERIAL)


def profile_findings(
    profile: Profile,
    predicted: Predicted,
    marks: tuple[NotFollowed, ...],
    conditions: Conditions,
    ladder: Ladder | None,
    situation: Situation | None,
    fastest: bool,
) -> list[Finding]:
    """Everything about it that does not suit the rig, worst first. ``ladder`` and ``situation`` are of the plan in force, where there is
    one; ``fastest``: there is a profile that the rig can follow."""
    found = [*_marked(profile, marks, fastest)]
    if ladder is not None and situation is not None:
        found += [*_on_the_ladder(predicted, ladder), *_alarms(profile, predicted.likely, situation)]
    else:
        found.append(_NO_PLAN)
    found += _alone(predicted.likely, situation)
    found += _waits(profile, predicted.likely)
    return worst_first(found)


_NO_PLAN = Finding(
    "profiles.no-plan",
    Severity.ADVICE,
    title="Nothing is planned that guards it",
    reason="Whether an alarm calls, or a limiter is met on the way, cannot be said before there is a plan.",
    fix="Plan it under Guarding.",
)


def _marked(profile: Profile, marks: tuple[NotFollowed, ...], fastest: bool) -> Iterator[Finding]:
    proposal = Proposal("profiles.fastest", True, label="The fastest it can follow") if fastest else None
    for m in marks:
        segment = profile.segments[m.segment]
        perhaps = "" if m.sure else "It may be able to, and may not: the rig is not known well enough. "
        name = f"Segment {m.segment + 1}"
        if m.why is Why.FLAT_OUT:
            yield Finding(
                "profiles.flat-out",
                Severity.FAULT if m.sure else Severity.ADVICE,
                title=f"{name}: it is flat out and gets behind",
                reason=f"{perhaps}From {spoken_time(m.start_s)} on the reading is up to "
                f"{difference(m.behind_c, '.0f')} below the set-point.",
                fix="A slower ramp, more power, or a holdback that lets the clock wait.",
                subjects=(f"segments[{m.segment}]",),
                proposal=proposal,
            )
        elif m.why is Why.NATURE:
            until = f"{temperature(segment.target_c)} " if segment.target_c is not None else ""
            yield Finding(
                "profiles.nature-cools",
                Severity.FAULT if m.sure else Severity.ADVICE,
                title=f"{name}: nothing cools it so fast",
                reason=f"{perhaps}The output is off from {spoken_time(m.start_s)} on, and the reading is up to "
                f"{difference(m.behind_c, '.0f')} above the set-point.",
                fix=f"A slower ramp. If the load stands it, open the door by {spoken_time(m.start_s)}: {until}comes "
                "sooner then. Hot air comes out: stand aside, wear gloves.",
                subjects=(f"segments[{m.segment}]",),
                proposal=proposal,
            )
        elif m.why is Why.COOLER:
            yield Finding(
                "profiles.cooler-flat-out",
                Severity.FAULT if m.sure else Severity.ADVICE,
                title=f"{name}: its cooler takes no more",
                reason=f"{perhaps}The cooler is on from {spoken_time(m.start_s)} on, and the reading is up to "
                f"{difference(m.behind_c, '.0f')} above the set-point.",
                fix="A slower ramp, or more air or water through it.",
                subjects=(f"segments[{m.segment}]",),
                proposal=proposal,
            )
        elif m.why is Why.SWINGS:
            yield Finding(
                "profiles.swings",
                Severity.FAULT if m.sure else Severity.ADVICE,
                title=f"{name}: the control swings",
                reason=f"{perhaps}With the settings it has, the output goes from full to off and back: up to "
                f"{difference(m.behind_c, '.0f')} off.",
                fix="Tune it first, under Tuning.",
                subjects=(f"segments[{m.segment}]",),
            )
        else:
            yield Finding(
                "profiles.never",
                Severity.FAULT if m.sure else Severity.ADVICE,
                title=f"{name}: it never gets there",
                reason=f"{perhaps}With all it has it stays {difference(m.behind_c, '.0f')} away.",
                fix="Another temperature, more power, or less loss.",
                subjects=(f"segments[{m.segment}]",),
            )


def _on_the_ladder(predicted: Predicted, ladder: Ladder) -> Iterator[Finding]:
    likely, worst = (
        float(c.reading_c.max()) for c in (predicted.likely, max(predicted.all, key=lambda c: c.reading_c.max()))
    )
    for step in ladder.steps:
        if step.rung not in STEPS or step.low > worst:
            continue
        sure = likely >= step.celsius
        yield Finding(
            "profiles.meets-ladder",
            Severity.DANGER
            if sure and step.rung in (Rung.HIGHEST, Rung.MATERIAL)
            else Severity.FAULT
            if sure
            else Severity.ADVICE,
            title=f"It gets to {step.name}",
            reason=f"The reading peaks at {temperature(likely, '.0f')}, at the bad edge at {temperature(worst, '.0f')}; {step.name} is at "
            f"{temperature(step.celsius)}, with its tolerance from {temperature(step.low, '.0f')}.",
            fix="A lower temperature, or a calmer approach to it.",
            subjects=(step.key,),
        )


def _alarms(profile: Profile, course: Course, situation: Situation) -> Iterator[Finding]:
    """The plan's own alarms over the predicted course: the machine that the recorder uses."""
    nothing = np.empty(0)
    recorded = Recorded(course.time_s, course.reading_c, course.setpoint_c, course.output, nothing, nothing)
    for checked in check_run(situation.plan, situation, recorded):
        if checked.found is None or checked.name == LIMITER:
            continue
        first = next((o for o in checked.found.occurrences if _holds(profile, course, checked.name, o.begin_s)), None)
        if first is None:
            continue
        yield Finding(
            "profiles.alarm-calls",
            Severity.ADVICE,
            title=f"The alarm “{checked.name}” will call",
            reason=f"First {spoken_time(first.begin_s)} after the start, as the run is predicted; a call that is always "
            "there is not heard.",
            fix="A slower ramp, standby until it was first in range, or leave it out of this segment.",
            subjects=(checked.name,),
        )


def _holds(profile: Profile, course: Course, alarm: str, at_s: float) -> bool:
    """Whether an alarm holds in the segment of that moment."""
    row = min(int(np.searchsorted(course.time_s, at_s)), len(course.at) - 1)
    kept = profile.segments[int(course.at[row])].alarms
    return kept is None or alarm in kept


def _alone(course: Course, situation: Situation | None) -> Iterator[Finding]:
    if course.length_s < LONG_S:
        return
    guarded = situation is not None and situation.plan.limiter is not None and situation.has_limiter
    yield Finding(
        "profiles.alone",
        Severity.ADVICE if guarded else Severity.FAULT,
        title="It is long enough to be left alone",
        reason=f"It takes {spoken_time(course.length_s)}. "
        + (
            "Nothing independent stops the heat if the switch fails while nobody is there."
            if not guarded
            else "The first run of a programme is watched from beginning to end."
        ),
        fix="Fit and prove an independent limiter before it runs unattended; what your house or shop allows goes first."
        if not guarded
        else "Stay for the first one, and prove the limiter in time.",
    )


def _waits(profile: Profile, course: Course) -> Iterator[Finding]:
    guaranteed = any(s.holdback for s in profile.segments)
    soaks = [s for s in profile.segments if s.kind is SegmentKind.SOAK]
    if course.held_s > LATE * course.length_s:
        yield Finding(
            "profiles.waits-long",
            Severity.ADVICE,
            title=f"Its clock waits {spoken_time(course.held_s)} for the load",
            reason=f"It lasts {spoken_time(course.length_s)} because of it.",
            fix="Ramps the rig can follow: the time is the same, and known beforehand.",
        )
    elif soaks and not guaranteed:
        yield Finding(
            "profiles.soak-not-guaranteed",
            Severity.ADVICE,
            title="Nothing makes sure that it soaks",
            reason="The time of a soak runs from when the set-point is there, not the load.",
            fix="A holdback on the soak, as wide as the load may be off.",
        )


LATE = 0.1
"""Share of a programme that waiting may take before it is said (our choice)."""


def conditions_say(conditions: Conditions) -> str:
    """What a prediction was made for, in a sentence."""
    begins = f"from {temperature(conditions.begins_c, '.0f')} in a room at {temperature(conditions.room_c)}"
    if conditions.load is None:
        return f"Without a load of its own, {begins}."
    return f"With {conditions.load.mass_kg:g} kg of {conditions.load.of.name.lower()}, {begins}."
