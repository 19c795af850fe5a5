"""The controller's own alarms out of Guarding's plan: those of its kinds, in the plan's order, as many as the dictionary names."""

from collections.abc import Iterator

from ...control.alarms.settings import AlarmKind
from ...guarding.plan import Plan, PlannedAlarm
from ..dictionary.alarms import ABSOLUTE, ALARM_NUMBERS, RELATIVE
from ..dictionary.parameter import Value
from .facts import Proposed, RigFacts

OWN_KINDS = (*ABSOLUTE, *RELATIVE)
NONE_PLANNED = "Guarding plans none for it: off, so that no light confuses."
NO_PLAN = "Guarding has no plan yet: off until it has."


def planned_here(plan: Plan | None) -> tuple[PlannedAlarm, ...]:
    """The alarms of a plan that a controller's own alarms can be, as many as it has."""
    alarms = plan.alarms if plan else ()
    return tuple(a for a in alarms if a.alarm.kind.value in OWN_KINDS)[: len(ALARM_NUMBERS)]


def planned_value(plan: Plan | None, kind: AlarmKind) -> float:
    """The value of the plan's first alarm of a kind; 0 where there is none."""
    return next((a.alarm.value for a in (plan.alarms if plan else ()) if a.alarm.kind is kind), 0.0)


def alarm_values(number: int, planned: PlannedAlarm) -> dict[str, Value]:
    """One planned alarm as the parameters of alarm ``number``."""
    alarm, name = planned.alarm, f"alarm_{number}"
    kind = alarm.kind.value
    return {
        f"{name}_type": kind,
        f"{name}_at_c" if kind in ABSOLUTE else f"{name}_away_c": alarm.value,
        f"{name}_hysteresis_c": alarm.hysteresis,
        f"{name}_delay_s": alarm.on_delay_s,
        f"{name}_latch": "on" if alarm.latching else "off",
        f"{name}_standby": alarm.standby.value,
        f"{name}_contact": "opens" if alarm.de_energise else "closes",
    }


def propose_alarms(facts: RigFacts) -> Iterator[Proposed]:
    """All parameters of all alarms."""
    here = planned_here(facts.plan)
    for n in ALARM_NUMBERS:
        name = f"alarm_{n}"
        at_rest: dict[str, Value] = {
            f"{name}_type": "off",
            f"{name}_at_c": facts.purpose.highest_c,
            f"{name}_away_c": USUAL_AWAY_C,
            f"{name}_hysteresis_c": 1.0,
            f"{name}_delay_s": 0.0,
            f"{name}_latch": "off",
            f"{name}_standby": "none",
            f"{name}_contact": "opens",
        }
        told = {} if n > len(here) else alarm_values(n, here[n - 1])
        reason = (
            f"As Guarding plans {here[n - 1].name}." if told else NONE_PLANNED if facts.plan is not None else NO_PLAN
        )
        for parameter, value in (at_rest | told).items():
            unused = told and parameter not in told
            yield Proposed(parameter, value, "Not of this type." if unused else reason)
    seconds, amperes = (planned_value(facts.plan, k) for k in (AlarmKind.LOOP_BREAK, AlarmKind.HEATER_BREAK))
    yield Proposed(
        "loop_break_s", seconds, "As Guarding plans it." if seconds else "Guarding does not plan to watch it."
    )
    yield Proposed(
        "heater_break_a",
        amperes,
        "As Guarding plans it; its current transformer must be wired."
        if amperes
        else "Guarding does not plan to watch its current.",
    )


USUAL_AWAY_C = 5.0
"""What a distance from the set-point begins with, °C (our choice)."""
