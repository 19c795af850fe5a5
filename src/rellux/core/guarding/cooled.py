"""A rig that cools: the danger is below. What it does when its switch sticks is computed on its *twin*, a rig that heats, mirrored at the
room's temperature: same masses, same losses, as much heat put in as the cooler takes out. Everything is told in the rig's own temperatures.

The cooler is taken to pump at every temperature what it pumps at work; colder it pumps less, so the real rig cools slower and not as far.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from ..control.alarms.settings import Action, AlarmKind, AlarmSettings, Standby
from ..explain import Figure, Input
from ..findings import Finding, Proposal, Severity, worst_first
from ..messages import difference, spoken_time, temperature
from ..process.networks import Array
from ..purpose.purpose import Effect
from ..sensing.sensors import sensor_range
from ..units import Kind
from ..wiring.circuit.verdicts import Outcome
from .family import HeatedRig
from .findings import contact_senses, gap_finding, limiter_itself, rounded_up
from .ladder import (
    DIGIT_C,
    Gap,
    Ladder,
    Rung,
    Situation,
    Step,
    alarm_steps,
    control_error,
    fixed,
    ladder,
    needed,
    sensor_error,
    soonest_at,
)
from .plan import Limiter, LimiterReset, Plan, PlannedAlarm
from .propose import LIMITER_HYSTERESIS, ProposedPlan, Reason
from .stuck import Reached, Stuck, load_peaks, stuck
from .wired import unnoticed, unstopped

DOOR_S = 300.0
"""A door that stands open while something is put in does not call yet, s (our choice)."""
LATE_S = 5.0
"""A reading below its bound is called after so long, s (our choice)."""
TRIES = 3
LOOKED_AT = (
    AlarmKind.HIGH,
    AlarmKind.LOW,
    AlarmKind.ABOVE_SETPOINT,
    AlarmKind.BELOW_SETPOINT,
    AlarmKind.OUTSIDE_BAND,
    AlarmKind.INSIDE_BAND,
    AlarmKind.RISING,
    AlarmKind.FALLING,
    AlarmKind.SENSOR_BREAK,
    AlarmKind.DISAGREE,
    AlarmKind.CURRENT_WHILE_OFF,
)
"""What an alarm of a rig that cools may look at; the others ask whether it warms."""


@dataclass(frozen=True)
class Cooled:
    """Everything on its scale, the gaps between, the key of what must never be reached, and the twin's ladder."""

    steps: tuple[Step, ...]
    gaps: tuple[Gap, ...]
    weakest: str
    twin: Ladder

    def step(self, key: str) -> Step:
        return next(s for s in self.steps if s.key == key)

    def gap(self, key: str) -> Gap | None:
        return next((g for g in self.gaps if g.key == key), None)


def twin_rig(rig: HeatedRig) -> HeatedRig:
    """The rig that heats as this one cools."""
    p = rig.purpose

    def mirrored(celsius: float) -> float:
        return 2.0 * p.ambient_c - celsius

    assert p.lowest_c is not None
    heated = replace(
        p, effect=Effect.HEATS, working_c=mirrored(p.working_c), highest_c=mirrored(p.lowest_c), highest_reason=p.lowest_reason,
        lowest_c=mirrored(p.highest_c), lowest_reason=p.highest_reason, materials=(),
    )  # fmt: skip
    return replace(rig, purpose=heated)


def twin_of(situation: Situation) -> Situation:
    """The rig that heats as this one cools. ``setpoint_high_c`` of a cooled situation is the lowest that may be asked for."""
    p, settings, limiter = situation.rig.purpose, situation.settings, situation.plan.limiter

    def mirrored(celsius: float) -> float:
        return 2.0 * p.ambient_c - celsius

    return Situation(
        twin_rig(situation.rig),
        Plan(limiter=replace(limiter, trip_c=mirrored(limiter.trip_c)) if limiter else None),
        situation.sensor,
        replace(
            settings,
            setpoint_c=mirrored(settings.setpoint_c),
            offset_c=-settings.offset_c,
            cools=False,
            rest_s=0.0,
            run_s=0.0,
        ),
        mirrored(situation.setpoint_high_c),
        control_error(situation).value,
        situation.has_limiter,
        situation.seen_overshoots_c,
    )


@lru_cache(maxsize=128)
def cooled(situation: Situation) -> Cooled:
    """The scale of a rig that cools, with what guards it."""
    p, error = situation.rig.purpose, control_error(situation)
    found = ladder(twin_of(situation))
    beyond = _runs_on(found, situation)
    names = _names(found, situation, beyond)

    def real(step: Step) -> Step:
        low, high = 2.0 * p.ambient_c - step.high, 2.0 * p.ambient_c - step.low
        name, says = names[step.key]
        low -= beyond if step.key == "running" else 0.0
        return replace(
            step,
            name=name,
            celsius=2.0 * p.ambient_c - step.celsius,
            low=low,
            high=high,
            says=says,
            target=TARGETS.get(step.key, ""),
        )

    own = [real(s) for s in found.steps if s.key in names and s.key not in ("highest", "lowest")]
    steps = [
        *own,
        *alarm_steps(situation.plan, situation.settings.setpoint_c),
        fixed(Rung.HIGHEST, "lowest", "the lowest allowed", p.lowest_c or 0.0, p.lowest_reason),
        fixed(Rung.LOWEST, "highest", "the highest it must hold", p.highest_c, p.highest_reason),
    ]
    told = Cooled(tuple(sorted(steps, key=lambda s: s.celsius)), (), "lowest", found)
    return replace(told, gaps=tuple(_gaps(told, situation, error)))


TARGETS = {"limiter": "guarding.limiter_trip_c", "setpoint_high": "setup.setpoint_low_c"}


def _runs_on(found: Ladder, situation: Situation) -> float:
    """How much further it gets because a compressor that has started must run for a while, °C."""
    if situation.settings.run_s <= 0:
        return 0.0
    network = found.family.fast
    rate = network.heater_power_w / sum(network.capacities)
    return max(rate * situation.settings.run_s - situation.settings.hysteresis_c, 0.0)


def _names(found: Ladder, situation: Situation, beyond_c: float) -> dict[str, tuple[str, str]]:
    setpoint = found.step("running").celsius - (2.0 * situation.rig.purpose.ambient_c - situation.settings.setpoint_c)
    under = max(found.step("running").high - (found.step("running").celsius - setpoint), 0.0) + beyond_c
    error = difference(control_error(situation).value, ".1f")
    reset = situation.plan.limiter.reset if situation.plan.limiter else LimiterReset.MANUAL
    further = difference(found.after_trip_c or 0.0, ".1f")
    return {
        "working": ("working temperature", f"its sensor may be off by {error}"),
        "running": ("ordinary running", f"at most {difference(under, '.1f')} under the set-point, predicted"),
        "setpoint_high": ("set-point low limit", "nobody can ask for less"),
        "limiter": (
            "independent low limiter",
            "latches until it is reset" if reset is LimiterReset.MANUAL else "closes again by itself",
        ),
        "after_trip": ("coldest after it trips", f"lag and stored cold carry it {further} further, simulated"),
        "full_power": (
            "cooling for good",
            "where it ends if nothing stops it, as far as it pumps what it pumps at work",
        ),
    }


def _gaps(found: Cooled, situation: Situation, error: Figure) -> Iterator[Gap]:
    plan, running, lowest = situation.plan, found.step("running"), found.step("lowest")
    digit = needed((Input("a digit and noise", DIGIT_C, Kind.DIFFERENCE, "q", "our choice"),))
    for i, planned in enumerate(plan.alarms):
        key = f"alarm {i}"
        if planned.alarm.kind is AlarmKind.LOW:
            yield Gap(
                f"{key} under running", key, "running", running.low - planned.alarm.value, digit,
                "Above this it calls in ordinary running, and is soon ignored.",
            )  # fmt: skip
        elif planned.alarm.kind is AlarmKind.HIGH:
            top = situation.settings.setpoint_c + situation.settings.hysteresis_c
            yield Gap(
                f"{key} over running", "working", key, planned.alarm.value - top, digit,
                "Below this it calls whenever the compressor rests.",
            )  # fmt: skip
            yield Gap(
                f"{key} in time", key, "highest", situation.rig.purpose.highest_c - planned.alarm.value,
                needed((error.as_input("a"),)), "The sensor may read low: closer, it calls when it is too late already.",
            )  # fmt: skip
    limiter = plan.limiter
    if limiter is None:
        return
    own = sensor_error(limiter.sensor, limiter.trip_c, "limiter’s sensor")
    bottom = min(running.low, found.step("setpoint_high").low)
    yield Gap(
        "limiter under running", "limiter", "running", bottom - limiter.trip_c, needed((error.as_input("a"), own.as_input("b"))),
        "Both sensors may be off, one high and the other low: closer, it trips in ordinary work and somebody turns it down.",
    )  # fmt: skip
    after = Input(
        "further after the trip", found.twin.after_trip_c or 0.0, Kind.DIFFERENCE, "Δ", "simulated at the bad edge"
    )
    yield Gap(
        "lowest under limiter", "lowest", "limiter", limiter.trip_c - lowest.celsius, needed((own.as_input("a"), after)),
        "Its sensor may read high, its own lag and the contactor take time, and what is cold already goes on cooling.",
    )  # fmt: skip


def propose_cool(situation: Situation) -> ProposedPlan:
    """Low limiter (where it is among the rig’s parts) and alarms on both sides, each with its reason."""
    limiter, reasons = None, []
    if situation.has_limiter:
        limiter, why = _limiter_for(situation)
        reasons.append(Reason("limiter", why))
    found = cooled(replace(situation, plan=Plan(limiter=limiter)))
    p, running, error = situation.rig.purpose, found.step("running"), control_error(situation).value
    floor = limiter.trip_c if limiter else p.lowest_c or 0.0
    low = -rounded_up(-(running.low - DIGIT_C))
    low = low if low > floor else round((situation.settings.setpoint_c + floor) / 2.0, 2)
    swing = situation.settings.setpoint_c + situation.settings.hysteresis_c
    high = -rounded_up(-(p.highest_c - error))
    high = high if high >= swing + DIGIT_C else round((swing + p.highest_c) / 2.0, 2)
    alarms = [
        (
            PlannedAlarm(
                "Too cold", AlarmSettings(AlarmKind.LOW, low, DIGIT_C, on_delay_s=LATE_S), (Action.BEACON, Action.OUTPUT_OFF),
                "switch stuck, sensor slipped out, set-point typed wrong", p.lowest_reason or "the load is spoiled",
                "Look at the reading and whether the compressor runs. Open the main switch if it still falls.",
            ),
            "Below ordinary running by a digit, and before the low limiter.",
        ),
        (
            PlannedAlarm(
                "Sensor broken", AlarmSettings(AlarmKind.SENSOR_BREAK, gap_s=2.0), (Action.BEACON, Action.OUTPUT_OFF),
                "a lead broken or loose", "the controller is blind", "Leave the cooler off. Mend the lead, look at the load meanwhile.",
            ),
            "Without a reading nobody knows what it is doing: the output goes off.",
        ),
        (
            PlannedAlarm(
                "Too warm",
                AlarmSettings(AlarmKind.HIGH, high, DIGIT_C, on_delay_s=DOOR_S, standby=Standby.FIRST), (Action.BEACON,),
                "door open, seal iced up, condenser dirty, compressor resting or dead", p.highest_reason,
                "Close the door. Listen whether the compressor runs; bring the load to another place.",
            ),
            f"Held until it was first below {temperature(high)}, so that cooling down does not call; a door has {spoken_time(DOOR_S)}.",
        ),
    ]  # fmt: skip
    reasons += [Reason(a.name, why) for a, why in alarms]
    return ProposedPlan(Plan(tuple(a for a, _ in alarms), limiter), tuple(reasons))


def _limiter_for(situation: Situation) -> tuple[Limiter, str]:
    """A low limiter as near to ordinary work as both sensors allow, and why there."""
    p = situation.rig.purpose
    assert p.lowest_c is not None
    start = cooled(replace(situation, plan=Plan()))
    lag = max(start.twin.family.likely.sensor_lag_s, 1.0)
    trip = (p.working_c + p.lowest_c) / 2.0
    low, high = sensor_range(situation.sensor)
    sensor = situation.sensor if low <= trip <= high else "T"
    limiter = Limiter(trip, max(round(LIMITER_HYSTERESIS * abs(trip), 1), 1.0), sensor, lag)
    for _ in range(TRIES):
        found = cooled(replace(situation, plan=Plan(limiter=limiter)))
        under, over = found.gap("limiter under running"), found.gap("lowest under limiter")
        assert under and over
        warmest = limiter.trip_c + under.present_c - under.needed.value
        coldest = p.lowest_c + over.needed.value
        trip = -rounded_up(-warmest)
        limiter = replace(limiter, trip_c=trip if trip >= coldest else min(rounded_up(coldest), p.working_c - DIGIT_C))
    found = cooled(replace(situation, plan=Plan(limiter=limiter)))
    under, over = found.gap("limiter under running"), found.gap("lowest under limiter")
    assert under and over
    if under.is_wide_enough and over.is_wide_enough:
        spare = difference(over.present_c - over.needed.value, ".1f")
        return (
            limiter,
            f"Clear of ordinary work by both sensors’ errors ({difference(under.needed.value, '.1f')}); {spare} to spare below.",
        )
    if over.is_wide_enough:
        return limiter, "It protects the load, and may trip in ordinary work: no value does both."
    return limiter, "No value protects the load and stays out of ordinary work: see what is found."


def cool_findings(found: Cooled, situation: Situation) -> list[Finding]:
    """What of a plan does not suit a rig that cools, worst first."""
    return worst_first([*_limiter(found, situation), *_alarms(found, situation), *contact_senses(situation)])


def _reaches(found: Cooled) -> bool:
    """Whether a cooler that never stops may get to what must never be reached."""
    return found.step("full_power").low <= found.step("lowest").celsius


def _limiter(found: Cooled, situation: Situation) -> Iterator[Finding]:
    limiter, lowest = situation.plan.limiter, found.step("lowest")
    if situation.plan.fuse:
        yield Finding(
            "guarding.fuse-cold",
            Severity.FAULT,
            title="A thermal fuse guards nothing here",
            reason="It opens when it gets hot, and the danger of this rig is below.",
            fix="Take it out of this plan; the compressor’s own overload protection is its maker’s.",
            subjects=("fuse",),
        )
    if limiter is None:
        if _reaches(found):
            when = soonest_at(found.twin.family, twin_of(situation), found.twin.step(found.twin.weakest).celsius)
            yield Finding(
                "guarding.no-limiter",
                Severity.DANGER,
                title="No independent low limiter is in the plan",
                reason=f"If the switch fails closed, {temperature(lowest.celsius)} can be reached "
                + (f"after {spoken_time(when)}" if when else "in the end")
                + " and nothing of its own stops it.",
                fix="Fit a limiter with its own sensor and its own contactor that opens below, and enter what it is set to.",
                subjects=("limiter",),
                proposal=Proposal("guarding.limiter", True, label="Plan it")
                if situation.has_limiter
                else Proposal("parts.limiter", True, label="Add one to the parts"),
            )
        return
    yield from limiter_itself(situation, _reaches(found))
    yield from _placed(found, situation)


def _placed(found: Cooled, situation: Situation) -> Iterator[Finding]:
    """A low limiter too near to what must not be reached, or to ordinary work."""
    under, over = found.gap("limiter under running"), found.gap("lowest under limiter")
    assert under and over and situation.plan.limiter
    better = _limiter_for(situation)[0].trip_c
    tried = cooled(
        replace(situation, plan=replace(situation.plan, limiter=replace(situation.plan.limiter, trip_c=better)))
    )
    fits = all(
        (g := tried.gap(key)) is not None and g.is_wide_enough
        for key in ("limiter under running", "lowest under limiter")
    )
    proposal = None
    if fits and better != situation.plan.limiter.trip_c:
        proposal = Proposal("guarding.limiter_trip_c", better, label=f"Set the limiter to {temperature(better)}")
    fix = "Move it to where both gaps are wide enough." if proposal else (
        "No value fits between ordinary work and what must not happen: a quicker limiter’s sensor, a higher set-point "
        "limit, or a smaller cooler."
    )  # fmt: skip
    if not over.is_wide_enough and _reaches(found):
        title = "The low limiter stops it too late"
        yield gap_finding("guarding.limiter-too-low", Severity.DANGER, over, fix, proposal, title)
    if not under.is_wide_enough:
        may = "trips" if under.present_c < 0 else "may trip"
        title = f"The low limiter {may} in ordinary work"
        yield gap_finding("guarding.limiter-in-running", Severity.FAULT, under, fix, proposal, title)


def _alarms(found: Cooled, situation: Situation) -> Iterator[Finding]:
    plan = situation.plan
    if not plan.alarms:
        yield Finding(
            "guarding.no-alarm",
            Severity.ADVICE,
            title="No alarm is planned",
            reason="One that is wired and heard tells of trouble before the limiter ends it, and of a load that warms.",
            fix="Plan both sides and the sensor break at least.",
            proposal=Proposal("guarding.alarms", True, label="Plan the usual alarms"),
        )
    for i, planned in enumerate(plan.alarms):
        quiet = found.gap(f"alarm {i} under running") or found.gap(f"alarm {i} over running")
        if quiet and not quiet.is_wide_enough:
            title = f"{planned.name} calls in ordinary running"
            yield gap_finding("guarding.alarm-in-running", Severity.FAULT, quiet, "Move it away from it.", None, title)
        late = found.gap(f"alarm {i} in time")
        if late and not late.is_wide_enough:
            title = f"{planned.name} calls too late"
            yield gap_finding("guarding.alarm-late", Severity.FAULT, late, "Move it down.", None, title)
        if plan.limiter and planned.alarm.kind is AlarmKind.LOW and planned.alarm.value <= plan.limiter.trip_c:
            yield Finding(
                "guarding.alarm-above-limiter",
                Severity.FAULT,
                title=f"{planned.name} comes after the limiter",
                reason=f"The limiter trips at {temperature(plan.limiter.trip_c)}: it never calls before.",
                fix="Above the limiter.",
                subjects=(f"alarm {i}", "limiter"),
            )


def _cold_load(found: Cooled, situation: Situation) -> str:
    peaks = load_peaks(found.twin, twin_of(situation))
    if peaks is None:
        return ""
    heavy, light = (temperature(2.0 * situation.rig.purpose.ambient_c - c, ".0f") for c in peaks)
    return f"A load at the working temperature comes to between {heavy}, a heavy one, and {light}, a light one."


def cool_stuck(found: Cooled, situation: Situation, outcomes: tuple[Outcome, ...] = ()) -> Stuck:
    """From rest at the working temperature, the switch closed for good: the twin's courses, mirrored back."""
    ambient, lowest = situation.rig.purpose.ambient_c, found.step("lowest")
    mirrored = stuck(found.twin, twin_of(situation), outcomes)

    def real(course: Array) -> Array:
        return np.asarray(2.0 * ambient - course)

    def told(r: Reached) -> Reached:
        name = {
            "highest": "the lowest allowed",
            "limiter": "independent low limiter",
            "setpoint_high": "set-point low limit",
        }
        return replace(r, name=name.get(r.key, r.name), celsius=2.0 * ambient - r.celsius)

    act = mirrored.act_within_s
    ends = temperature(found.step("full_power").low, ".0f")
    loose, limiter = unstopped(outcomes), situation.plan.limiter
    if loose and limiter:
        guarded = f"As it is wired, the limiter does not stop it. {loose.title}: {loose.says}"
    elif limiter is None:
        guarded = "There is no low limiter in the plan: nothing of its own stops it."
    elif found.twin.trip is None or found.twin.trip.opened_s is None:
        guarded = f"The low limiter is never reached: cooling for good ends at {ends} at the lowest."
    else:
        coldest = min(found.step("after_trip").low, limiter.trip_c)
        verdict = "is not reached" if coldest > lowest.celsius else "is passed all the same"
        guarded = (
            f"The low limiter opens the contactor after {spoken_time(found.twin.trip.opened_s)}. The box goes on to "
            f"{temperature(coldest, '.0f')}; "
            f"{temperature(lowest.celsius)} {verdict} (bad edge of what the rig may be)."
        )
    fails = "If the limiter fails as well" if limiter else "If nothing else stops it"
    if act is not None:
        alone = f"{fails}, {temperature(lowest.celsius)} is reached after {spoken_time(act)} at the earliest; it ends at {ends} or above."
        must = f"Somebody must open the main switch within {spoken_time(act)} if nothing acts by itself."
    elif _reaches(found):
        alone = f"{fails}, {temperature(lowest.celsius)} is reached in the end."
        must = f"Somebody must open the main switch within {spoken_time(float(found.twin.alone.time_s[-1]))} if nothing acts by itself."
    else:
        alone = f"Even with nothing to stop it, it ends at {ends} at the lowest: {temperature(lowest.celsius)} is never reached."
        must = "Nobody must act for the temperature’s sake; switch it off all the same."
    return replace(
        mirrored,
        with_limiter=guarded,
        load=_cold_load(found, situation) if mirrored.load else "",
        alone=alone,
        act=must,
        reached=tuple(told(r) for r in mirrored.reached if r.key in ("highest", "limiter", "setpoint_high")),
        unnoticed=unnoticed(outcomes),
        guarded_c=real(mirrored.guarded_c),
        fast_c=real(mirrored.fast_c),
        likely_c=real(mirrored.likely_c),
        slow_c=real(mirrored.slow_c),
    )
