"""What a cooler beside the heater means for what guards a rig: it is never counted on, it can hide that a switch has failed, and one that
is colder than the room can spoil a load."""

from collections.abc import Iterator

from ..control.alarms.settings import AlarmKind
from ..control.settings import FULL_OUTPUT
from ..findings import Finding, Severity
from ..messages import temperature
from ..plant.rig_models import with_cooler
from .ladder import Ladder, Rung, Situation

TELLS = (AlarmKind.CURRENT_WHILE_OFF, AlarmKind.RISING_WHILE_OFF)
"""Alarms that see a heater that is on while it is told to be off."""


def hidden_at_c(found: Ladder, situation: Situation) -> tuple[float, float]:
    """Where a rig with a cooler settles, °C, with its heater stuck on and its cooler on all the time: as it probably is, and at the coolest
    of what it may be."""
    both = [with_cooler(n, situation.rig.purpose) for n in found.family.all]
    rests = [situation.rig.rests_c + float(n.equilibrium_rise(cooled=True)[n.sensor_node]) for n in both]
    return rests[0], min(rests)


def left_cooling_c(found: Ladder, situation: Situation, output: float) -> float:
    """Where a rig settles, °C, at the coldest of what it may be, with its cooler on for good and its heater at ``output`` percent."""
    both = [with_cooler(n, situation.rig.purpose) for n in found.family.all]
    return situation.rig.rests_c + min(float(n.equilibrium_rise(output, cooled=True)[n.sensor_node]) for n in both)


def _freezes(found: Ladder, situation: Situation) -> Iterator[Finding]:
    """A cooler that is colder than the room does not stop there: where its switch sticks, the load gets as cold as it can make it."""
    purpose = situation.rig.purpose
    lowest, cooler = purpose.lowest_c, purpose.cooler
    if cooler is None or lowest is None or cooler.with_c(purpose.ambient_c) >= purpose.ambient_c:
        return
    alone, against = (left_cooling_c(found, situation, output) for output in (0.0, FULL_OUTPUT))
    told = any(a.alarm.kind is AlarmKind.LOW and a.alarm.value >= lowest for a in situation.plan.alarms)
    if told or alone >= lowest:
        return
    yield Finding(
        "guarding.cooler-freezes",
        Severity.FAULT,
        title=f"A cooler that stays on takes it down to {temperature(alone, '.0f')}",
        reason=f"{temperature(lowest)} is the least it may be ({purpose.lowest_reason or 'the load is spoiled'}). "
        + (
            "Its heater at full output does not hold against it, and nobody is told."
            if against < lowest
            else "The heater works against it unseen, until it is off: then nothing holds it, and nobody is told."
        ),
        fix=f"An alarm at {temperature(lowest)} or above; where a loss is grave, a thermostat of its own in the feed of what cools.",
        subjects=("cooler", "alarms"),
        source="as the rig is taken to be, its cooler on for good",
    )


def cooler_findings(found: Ladder, situation: Situation) -> Iterator[Finding]:
    """Nothing of a rig without one."""
    band = situation.settings.cooling
    if situation.rig.purpose.cooler is None or band is None:
        return
    comes = found.step("cooler").celsius
    for step in found.steps:
        if step.rung is Rung.ALARM and situation.settings.setpoint_c < step.celsius <= comes:
            yield Finding(
                "guarding.cooler-late",
                Severity.FAULT,
                title=f"{step.name} calls before the cooler comes on",
                reason=f"It calls at {temperature(step.celsius, '.1f')}, the cooler comes on at {temperature(comes, '.1f')}.",
                fix="The cooler nearer to the set-point, or the alarm above where the cooler brings it down.",
                subjects=(step.key, "cool_above_c"),
            )
    yield from _freezes(found, situation)
    limiter, (likely, least) = situation.plan.limiter, hidden_at_c(found, situation)
    told = any(a.alarm.kind in TELLS for a in situation.plan.alarms)
    ends = limiter.trip_c if limiter else found.step(found.weakest).celsius
    if told or least >= ends:
        return
    sure = likely < ends
    yield Finding(
        "guarding.cooler-hides",
        Severity.FAULT if sure else Severity.ADVICE,
        title="A heater that stays on is cooled away, and nobody sees it"
        if sure
        else "A heater that stays on may be cooled away",
        reason=f"With both on for good it settles at about {temperature(likely if sure else least, '.0f')}{'' if sure else ', at one edge'}"
        f"{': the limiter never acts' if limiter else ''}, and the day the cooler fails too it runs away from there.",
        fix="An alarm for current while the output is off, or for rising while it is off.",
        subjects=("cooler", "limiter"),
        source="as the rig is taken to be; two outputs are two ways to fail",
    )
