"""A rig that only watches: nothing can be switched off, so all that guards is an alarm that calls in time, above and below."""

from collections.abc import Iterator
from dataclasses import dataclass

from ..control.alarms.settings import Action, AlarmKind, AlarmSettings
from ..explain import Figure, Input
from ..findings import Finding, Proposal, Severity, worst_first
from ..messages import difference, temperature
from ..units import Kind
from .findings import contact_senses, rounded_up
from .ladder import DIGIT_C, Gap, Rung, Situation, Step, alarm_steps, control_error, fixed, limits, needed
from .plan import Plan, PlannedAlarm
from .propose import LOW_DELAY_S, WARNING_DELAY_S, ProposedPlan, Reason

SWITCHING = (Action.OUTPUT_OFF, Action.CONTACTOR)
"""What needs something to switch."""
WATCHES = (
    AlarmKind.HIGH,
    AlarmKind.LOW,
    AlarmKind.RISING,
    AlarmKind.FALLING,
    AlarmKind.SENSOR_BREAK,
    AlarmKind.DISAGREE,
)
"""What can be watched without set-point, output or programme."""
CALLS = (Action.BEACON,)
"""What an alarm contact has: something that is seen."""


@dataclass(frozen=True)
class Watched:
    """Everything on its scale, the gaps between, and the key of what must never be reached."""

    steps: tuple[Step, ...]
    gaps: tuple[Gap, ...]
    weakest: str

    def step(self, key: str) -> Step:
        return next(s for s in self.steps if s.key == key)


def watched(situation: Situation) -> Watched:
    """The scale of a rig that only watches, with its alarms."""
    purpose, error = situation.rig.purpose, control_error(situation)
    usual = purpose.working_c
    off = f"its sensor may be off by {difference(error.value, '.1f')}"
    above = limits(purpose)
    weakest = min(above, key=lambda s: s.celsius)
    steps = [
        Step(Rung.WORKING, "working", "usual temperature", usual, usual - error.value, usual + error.value, off),
        *alarm_steps(situation.plan, usual),
        *above,
    ]
    if purpose.lowest_c is not None:
        steps.append(fixed(Rung.LOWEST, "lowest", "the lowest allowed", purpose.lowest_c, purpose.lowest_reason))
    found = Watched(tuple(sorted(steps, key=lambda s: s.celsius)), (), weakest.key)
    return Watched(found.steps, tuple(_gaps(found, situation.plan, error)), weakest.key)


def _gaps(found: Watched, plan: Plan, error: Figure) -> Iterator[Gap]:
    wrong = needed((error.as_input("a"),))
    digit = needed((Input("a digit and noise", DIGIT_C, Kind.DIFFERENCE, "q", "our choice"),))
    late = "The sensor may be off: closer, it calls when it is too late already."
    ignored = "Closer, it calls in ordinary times, and is soon ignored."
    usual, weakest = found.step("working"), found.step(found.weakest)
    lowest = next((s for s in found.steps if s.rung is Rung.LOWEST), None)
    for i, planned in enumerate(plan.alarms):
        if planned.alarm.kind not in (AlarmKind.HIGH, AlarmKind.LOW):
            continue
        at = found.step(f"alarm {i}")
        if planned.alarm.kind is AlarmKind.HIGH:
            yield Gap(f"{at.key} in time", at.key, weakest.key, weakest.celsius - at.celsius, wrong, late)
            yield Gap(f"{at.key} quiet", usual.key, at.key, at.celsius - usual.celsius, digit, ignored)
        else:
            if lowest:
                yield Gap(f"{at.key} in time", lowest.key, at.key, at.celsius - lowest.celsius, wrong, late)
            yield Gap(f"{at.key} quiet", at.key, usual.key, usual.celsius - at.celsius, digit, ignored)


def propose_watch(situation: Situation) -> ProposedPlan:
    """Alarms above and below, and for a lost reading, each with its reason."""
    purpose, error = situation.rig.purpose, control_error(situation).value
    weakest = min(limits(purpose), key=lambda s: s.celsius)
    high = _below(weakest.celsius - error, purpose.working_c)
    sure = f"by {difference(error, '.1f')}, what the sensor may be off"
    alarms = [
        (
            PlannedAlarm(
                "Too hot", AlarmSettings(AlarmKind.HIGH, high, DIGIT_C, on_delay_s=WARNING_DELAY_S), CALLS,
                "what makes the temperature has failed, or a door stands open", weakest.says,
                "Look at what makes the temperature, and bring the load to safety.",
            ),
            f"Below {weakest.name} {sure}.",
        ),
        (
            PlannedAlarm(
                "Sensor broken", AlarmSettings(AlarmKind.SENSOR_BREAK, gap_s=2.0), CALLS,
                "a lead broken or loose", "nobody sees what the temperature does", "Mend the lead. Look at the load meanwhile.",
            ),
            "Without a reading nothing calls any more.",
        ),
    ]  # fmt: skip
    if purpose.lowest_c is not None:
        low = -_below(-(purpose.lowest_c + error), -purpose.working_c)
        alarms.append(
            (
                PlannedAlarm(
                    "Too cold", AlarmSettings(AlarmKind.LOW, low, DIGIT_C, on_delay_s=LOW_DELAY_S), CALLS,
                    "what makes the temperature has failed, or a door stands open", purpose.lowest_reason or "the load is not held",
                    "Look at what makes the temperature, and bring the load to safety.",
                ),
                f"Above the lowest allowed {sure}.",
            )
        )  # fmt: skip
    return ProposedPlan(Plan(tuple(a for a, _ in alarms)), tuple(Reason(a.name, why) for a, why in alarms))


def _below(celsius: float, usual_c: float) -> float:
    """A setting at or below ``celsius``; halfway to the usual temperature where that leaves no room."""
    value = -rounded_up(-celsius)
    return value if value >= usual_c + DIGIT_C else round((max(celsius, usual_c + 2.0 * DIGIT_C) + usual_c) / 2.0, 2)


def watch_findings(found: Watched, situation: Situation) -> list[Finding]:
    """What of a plan does not suit a rig that only watches, worst first."""
    return worst_first(
        [
            *_missing(situation),
            *_nothing_to_switch(situation.plan),
            *_narrow(found, situation),
            *contact_senses(situation),
        ]
    )


def _missing(situation: Situation) -> Iterator[Finding]:
    kinds = {a.alarm.kind for a in situation.plan.alarms}
    sides = [(AlarmKind.HIGH, "hot", True), (AlarmKind.LOW, "cold", situation.rig.purpose.lowest_c is not None)]
    for kind, words, asked in sides:
        if asked and kind not in kinds:
            yield Finding(
                f"guarding.watch-no-{kind.value}",
                Severity.FAULT,
                title=f"Nothing calls when it gets too {words}",
                reason="A rig that only watches guards by calling, and by nothing else.",
                fix="Plan an alarm for it.",
                proposal=Proposal("guarding.alarms", True, label="Plan the usual alarms"),
            )


def _nothing_to_switch(plan: Plan) -> Iterator[Finding]:
    for i, planned in enumerate(plan.alarms):
        if planned.alarm.kind not in WATCHES:
            yield Finding(
                "guarding.watch-kind",
                Severity.FAULT,
                title=f"{planned.name} watches what this rig does not have",
                reason="It looks at a set-point, an output or a programme, and this rig only watches: it never calls.",
                fix="Take it out, or let it watch the reading.",
                subjects=(f"alarm {i}",),
            )
        if set(planned.does) & set(SWITCHING):
            yield Finding(
                "guarding.watch-switches",
                Severity.FAULT,
                title=f"{planned.name} has nothing to switch off",
                reason="This rig only watches: what it is planned to open or to switch off is not there.",
                fix="Let it light a beacon or sound a buzzer.",
                subjects=(f"alarm {i}",),
            )
    if plan.limiter or plan.fuse:
        yield Finding(
            "guarding.watch-guard",
            Severity.FAULT,
            title="A limiter or fuse is planned, and there is nothing it could end",
            reason="This rig only watches. What makes the temperature may need one of its own, where that is.",
            fix="Take it out of this plan.",
            subjects=("limiter" if plan.limiter else "fuse",),
        )


def _narrow(found: Watched, situation: Situation) -> Iterator[Finding]:
    for gap in found.gaps:
        if gap.is_wide_enough:
            continue
        in_time = gap.key.endswith("in time")
        i = int(gap.key.split()[1])
        planned = situation.plan.alarms[i]
        yield Finding(
            "guarding.watch-late" if in_time else "guarding.watch-calls",
            Severity.FAULT,
            title=f"{planned.name} {'calls too late' if in_time else 'calls in ordinary times'}",
            reason=f"There is {difference(gap.present_c, '.1f')} and it needs {difference(gap.needed.value, '.1f')}. {gap.reason}",
            fix="Move it; where no value does both, a better sensor or a calibration leaves more room.",
            subjects=(f"alarm {i}",),
            figures=(gap.needed,),
            proposal=_moved(found, situation, i, gap) if in_time else None,
        )


def _moved(found: Watched, situation: Situation, i: int, gap: Gap) -> Proposal | None:
    """The nearest setting that calls in time and not in ordinary times."""
    usual = situation.rig.purpose.working_c
    if situation.plan.alarms[i].alarm.kind is AlarmKind.HIGH:
        value = -rounded_up(-(found.step(gap.above).celsius - gap.needed.value))
        quiet = value >= usual + DIGIT_C
    else:
        value = rounded_up(found.step(gap.below).celsius + gap.needed.value)
        quiet = value <= usual - DIGIT_C
    return Proposal(f"guarding.alarm.{i}", value, label=f"Set it to {temperature(value)}") if quiet else None
