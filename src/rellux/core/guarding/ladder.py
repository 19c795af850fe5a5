"""The ladder: everything on this rig that has a temperature, on one scale, and whether the gaps between are wide enough.

All temperatures are the chamber's, in °C; what sits elsewhere (a thermal fuse on the outside) is brought to it.
"""

from dataclasses import dataclass, replace
from enum import StrEnum
from functools import lru_cache

from ..control.alarms.settings import Action, AlarmKind
from ..control.settings import ControllerSettings
from ..explain import Figure, Input
from ..messages import difference, quantity, temperature
from ..process.modes import time_63
from ..purpose.purpose import Purpose
from ..sensing.sensors import describe, is_thermocouple, tolerance
from ..sensing.tolerances import COLD_JUNCTION_C
from ..units import Kind
from .family import Family, HeatedRig, family
from .plan import Limiter, LimiterReset, Plan, ThermalFuse
from .predict import Predicted, running_overshoot, tuning_overshoot
from .runaway import Course, Follower, runaway, soonest, worst_peak

OUTSIDE_CLASS = 0.01
"""Error of a sensor beyond the range of its class, as a share of the temperature (our choice)."""
DIGIT_C = 0.5
"""Least distance between two steps of one and the same sensor: a digit and its noise, °C (our choice)."""
FUSE_BELOW_C = 10.0
"""A thermal fuse opens up to so much below its rating, °C, and not above it (IEC 60691, from memory)."""
SEEN = 1.25
"""The next run may pass its set-point by so much more than the worst of the last ones (our choice)."""
LONGEST_S = 12 * 3600.0
ENOUGH = 6.0
"""A course is followed for so many times to 63 %."""


class Rung(StrEnum):
    """What stands on the ladder, from below."""

    LOWEST = "lowest"
    WORKING = "working"
    RUNNING = "running"
    SETPOINT_HIGH = "setpoint_high"
    TUNING = "tuning"
    COOLER = "cooler"
    ALARM = "alarm"
    MAXIMUM = "maximum"
    LIMITER = "limiter"
    AFTER_TRIP = "after_trip"
    FUSE = "fuse"
    HIGHEST = "highest"
    MATERIAL = "material"
    FULL_POWER = "full_power"


@dataclass(frozen=True)
class Step:
    """One thing on the scale. ``low``/``high``: where it may really be. ``target``: what moves it, as proposals name it; empty where it is
    predicted or given."""

    rung: Rung
    key: str
    name: str
    celsius: float
    low: float
    high: float
    says: str
    target: str = ""


@dataclass(frozen=True)
class Gap:
    """Between two steps: what there is, and what is needed with how that is found."""

    key: str
    below: str
    above: str
    present_c: float
    needed: Figure
    reason: str

    @property
    def is_wide_enough(self) -> bool:
        return self.present_c >= self.needed.value - TINY_C


TINY_C = 0.05


@dataclass(frozen=True)
class Situation:
    """A rig with its plan and what its controller holds. ``control_error_c``: how wrong its own sensor may be, where that is known from a
    calibration. ``has_limiter``: one is among its parts. ``seen_overshoots_c``: how far recent runs
    with these settings passed their set-point."""

    rig: HeatedRig
    plan: Plan
    sensor: str
    settings: ControllerSettings
    setpoint_high_c: float
    control_error_c: float | None = None
    has_limiter: bool = True
    seen_overshoots_c: tuple[float, ...] = ()


@dataclass(frozen=True)
class Ladder:
    """``weakest``: the key of the step that must never be reached. ``trip`` and ``alone`` are courses of a switch that fails closed, with
    the limiter and without it (bad edge)."""

    steps: tuple[Step, ...]
    gaps: tuple[Gap, ...]
    weakest: str
    family: Family
    after_trip_c: float | None
    trip: Course | None
    alone: Course

    def step(self, key: str) -> Step:
        return next(s for s in self.steps if s.key == key)

    @property
    def running_top(self) -> Step:
        """What gets hottest in ordinary work, or may be asked for; at its bad edge."""
        return max((s for s in self.steps if s.rung in (Rung.RUNNING, Rung.SETPOINT_HIGH)), key=lambda s: s.high)

    def gap(self, key: str) -> Gap | None:
        return next((g for g in self.gaps if g.key == key), None)


def sensor_error(sensor: str, celsius: float, what: str) -> Figure:
    """How far a new sensor of the usual class and its input may be off, ± °C."""
    own = tolerance(sensor, celsius)
    permitted = own if own is not None else max(OUTSIDE_CLASS * abs(celsius), 1.0)
    junction = COLD_JUNCTION_C if is_thermocouple(sensor) else 0.0
    inputs = [
        Input(f"{describe(sensor)} at {temperature(celsius, '.0f')}", permitted, Kind.DIFFERENCE, "a", "its class")
    ]
    if junction:
        inputs.append(Input("cold junction", junction, Kind.DIFFERENCE, "b", "typical of data sheets"))
    return Figure(
        what,
        permitted + junction,
        Kind.DIFFERENCE,
        formula="a + b" if junction else "a",
        inputs=tuple(inputs),
        reason="A new sensor of its usual class and its input, both the same way: a used one may have drifted beyond that.",
        source="IEC 60584-1, IEC 60751: tolerance classes",
    )


def length_s(rigs: Family) -> float:
    """How long a course of this rig is worth following, s."""
    return min(ENOUGH * max(time_63(n) for n in rigs.all), LONGEST_S)


def soonest_at(rigs: Family, situation: Situation, level_c: float) -> float | None:
    """How soon after the switch failed the chamber can be at ``level_c`` with nothing to stop it, s, at the bad edge; ``None``: never."""
    purpose = situation.rig.purpose
    return soonest(rigs.fast, situation.rig.rests_c, purpose.working_c, length_s(rigs), level_c)


def fuse_share(fuse: ThermalFuse, working_c: float, ambient_c: float) -> float:
    """What share of the chamber's rise the fuse's place has."""
    return max((fuse.place_c - ambient_c) / (working_c - ambient_c), 0.01)


@lru_cache(maxsize=128)
def ladder(situation: Situation) -> Ladder:
    """Raises ``Refused`` for a process that does not heat."""
    purpose, plan = situation.rig.purpose, situation.plan
    rigs, error = _family(situation.rig), control_error(situation)
    above = limits(purpose)
    weakest = min(above, key=lambda s: s.celsius)
    steps = [
        *_work(situation, rigs, error),
        *alarm_steps(plan, situation.settings.setpoint_c),
        *above,
        _full_power(rigs, situation.rig.rests_c),
    ]
    if plan.maximum_c is not None:
        says = "its firmware ends the heat: the same sensor and switch, so no limiter"
        maximum = fixed(Rung.MAXIMUM, "maximum", "the controller’s maximum", plan.maximum_c, says)
        steps.append(replace(maximum, target="guarding.maximum_c"))
    trip, after = None, None
    if plan.limiter:
        peak = peak_after(rigs, situation, plan.limiter.trip_c)
        after = max(peak - plan.limiter.trip_c, 0.0) if peak is not None else 0.0
        limiter = _limiter(plan.limiter)
        steps += [limiter, *([_after(limiter, after)] if peak is not None else [])]
        trip = _tripped(rigs, situation, limiter.high)
    if plan.fuse:
        steps.append(_fuse(plan.fuse, purpose.working_c, situation.rig.rests_c))
    alone = runaway(rigs.fast, situation.rig.rests_c, purpose.working_c, length_s(rigs))
    found = Ladder(tuple(sorted(steps, key=lambda s: s.celsius)), (), weakest.key, rigs, after, trip, alone)
    return replace(found, gaps=tuple(_gaps(found, situation, error)))


def limits(purpose: Purpose) -> list[Step]:
    """The highest allowed, and what every material stands."""
    highest = fixed(Rung.HIGHEST, "highest", "the highest allowed", purpose.highest_c, purpose.highest_reason)
    stand = (fixed(Rung.MATERIAL, f"material {m.name}", m.name, m.limit_c, "stands no more") for m in purpose.materials)
    return [highest, *stand]


def _work(situation: Situation, rigs: Family, error: Figure) -> list[Step]:
    """What ordinary work, and a controller that tunes itself, reach; and what may be asked for."""
    purpose, setpoint = situation.rig.purpose, situation.settings.setpoint_c
    working, tuning = purpose.working_c, _tuning(situation.rig, situation.settings)
    if seen := situation.seen_overshoots_c:
        running = Predicted(max(seen), min(seen), SEEN * max(seen) + DIGIT_C)
        runs = f"last {len(seen)} runs" if len(seen) > 1 else "last run"
        says = f"{difference(max(seen), '.1f')} over the set-point in the {runs}"
    else:
        running = _running(situation.rig, situation.settings)
        says = f"at most {difference(running.high, '.1f')} over the set-point, predicted"
    found = [
        Step(
            Rung.WORKING, "working", "working temperature", working, working - error.value, working + error.value,
            f"its sensor may be off by {difference(error.value, '.1f')}",
        ),
        _over(Rung.RUNNING, "running", "ordinary running", setpoint, running, says),
        _over(
            Rung.TUNING, "tuning", "auto-tune swing", setpoint, tuning,
            f"up to {difference(tuning.high, '.1f')} over the set-point, predicted",
        ),
        replace(
            fixed(Rung.SETPOINT_HIGH, "setpoint_high", "set-point high limit", situation.setpoint_high_c, "nobody can ask for more"),
            target="setup.setpoint_high_c",
        ),
    ]  # fmt: skip
    if band := situation.settings.cooling:
        says = "heat is off before; what guards it does not count on it"
        found.append(fixed(Rung.COOLER, "cooler", "the cooler comes on", setpoint + band.above_c, says))
    if purpose.lowest_c is not None:
        found.append(fixed(Rung.LOWEST, "lowest", "lowest useful", purpose.lowest_c, purpose.lowest_reason))
    return found


def _over(rung: Rung, key: str, name: str, setpoint_c: float, by: Predicted, says: str) -> Step:
    return Step(rung, key, name, setpoint_c + by.value, setpoint_c + by.low, setpoint_c + by.high, says)


def _full_power(rigs: Family, ambient_c: float) -> Step:
    ends = [ambient_c + float(n.equilibrium_rise()[n.sensor_node]) for n in rigs.all]
    says = "where it ends if nothing stops it"
    return Step(Rung.FULL_POWER, "full_power", "full power for good", ends[0], min(ends), max(ends), says)


def _limiter(limiter: Limiter) -> Step:
    own = sensor_error(limiter.sensor, limiter.trip_c, "limiter’s sensor").value
    says = "latches until it is reset" if limiter.reset is LimiterReset.MANUAL else "closes again by itself"
    trip = limiter.trip_c
    return Step(
        Rung.LIMITER, "limiter", "independent limiter", trip, trip - own, trip + own, says, "guarding.limiter_trip_c"
    )


def _after(limiter: Step, after_c: float) -> Step:
    says = f"stored heat and lag carry it {difference(after_c, '.1f')} further, simulated"
    at = limiter.celsius
    return Step(Rung.AFTER_TRIP, "after_trip", "peak after it trips", at + after_c, at, limiter.high + after_c, says)


_family = lru_cache(maxsize=64)(family)


@lru_cache(maxsize=64)
def _running(rig: HeatedRig, settings: ControllerSettings) -> Predicted:
    """Once for all plans that are tried."""
    return running_overshoot(_family(rig), settings, rig.rests_c)


@lru_cache(maxsize=64)
def _tuning(rig: HeatedRig, settings: ControllerSettings) -> Predicted:
    """The same."""
    return tuning_overshoot(_family(rig), settings, rig.rests_c)


def control_error(situation: Situation) -> Figure:
    """How far what is read may be off, ± °C: by its calibration, or by its class."""
    if situation.control_error_c is None:
        return sensor_error(situation.sensor, situation.rig.purpose.working_c, "control sensor")
    return Figure(
        "control sensor",
        situation.control_error_c,
        Kind.DIFFERENCE,
        reason="The uncertainty of its last calibration.",
        source="Calibration",
    )


def fixed(rung: Rung, key: str, name: str, celsius: float, says: str) -> Step:
    """A step that is where it is."""
    return Step(rung, key, name, celsius, celsius, celsius, says)


def alarm_steps(plan: Plan, setpoint_c: float) -> list[Step]:
    """Every alarm that has a temperature."""
    found = []
    for i, planned in enumerate(plan.alarms):
        alarm = planned.alarm
        offset = {AlarmKind.ABOVE_SETPOINT: 1.0, AlarmKind.OUTSIDE_BAND: 1.0, AlarmKind.BELOW_SETPOINT: -1.0}.get(
            alarm.kind
        )
        if alarm.kind in (AlarmKind.HIGH, AlarmKind.LOW):
            at = alarm.value
        elif offset is not None:
            at = setpoint_c + offset * alarm.value
        else:
            continue
        does = ", ".join(SAYS_ACTION[a] for a in planned.does)
        found.append(Step(Rung.ALARM, f"alarm {i}", planned.name, at, at, at, does, f"guarding.alarm.{i}"))
    return found


SAYS_ACTION = {
    Action.BEACON: "beacon",
    Action.BUZZER: "buzzer",
    Action.OUTPUT_OFF: "output off",
    Action.CONTACTOR: "opens the contactor",
}


def follower_at(situation: Situation, opens_c: float) -> Follower:
    """The limiter of a plan that has one, as it follows the chamber, opening at this temperature of its own."""
    limiter = situation.plan.limiter
    assert limiter
    return Follower(limiter.lag_s, 1.0, opens_c, limiter.relay_s)


def _tripped(rigs: Family, situation: Situation, opens_c: float) -> Course:
    purpose = situation.rig.purpose
    return runaway(
        rigs.fast, situation.rig.rests_c, purpose.working_c, length_s(rigs), (follower_at(situation, opens_c),)
    )


def peak_after(rigs: Family, situation: Situation, opens_c: float) -> float | None:
    """The hottest the chamber gets at the bad edge of the rig if the limiter trips at this chamber-sensor temperature, °C; out of a hold or
    a heat-up. ``None`` where it never trips."""
    purpose = situation.rig.purpose
    at = follower_at(situation, opens_c)
    return worst_peak(rigs.fast, situation.rig.rests_c, purpose.working_c, length_s(rigs), at)


def _fuse(fuse: ThermalFuse, working_c: float, ambient_c: float) -> Step:
    share = fuse_share(fuse, working_c, ambient_c)
    low, high = (ambient_c + (t - ambient_c) / share for t in (fuse.rating_c - FUSE_BELOW_C, fuse.rating_c))
    place = f"{temperature(fuse.rating_c)} at its place, which has {quantity(100 * share, '%', '.0f')} of the chamber’s rise"
    return Step(Rung.FUSE, "fuse", "thermal fuse", high, low, high, place, "guarding.fuse_rating_c")


def _gaps(found: Ladder, situation: Situation, error: Figure) -> list[Gap]:
    gaps = []
    top, running = found.running_top, found.step("running")
    for step in found.steps:
        if step.rung is Rung.ALARM and step.celsius > situation.settings.setpoint_c:
            gaps.append(
                Gap(
                    f"{step.key} over running", "running", step.key, step.celsius - running.high,
                    needed((Input("a digit and noise", DIGIT_C, Kind.DIFFERENCE, "q", "our choice"),)),
                    "Below this it calls in ordinary running, and is soon ignored.",
                )
            )  # fmt: skip
    if situation.plan.maximum_c is not None:
        over = max(running.high - situation.settings.setpoint_c, 0.0)
        inputs = (
            Input("ordinary overshoot", over, Kind.DIFFERENCE, "a", "predicted, or seen in runs"),
            Input("a digit and noise", DIGIT_C, Kind.DIFFERENCE, "q", "our choice"),
        )
        gaps.append(
            Gap(
                "maximum over set-points", "setpoint_high", "maximum", situation.plan.maximum_c - situation.setpoint_high_c, needed(inputs),
                "Set as high as the highest set-point, ordinary overshoot shuts the rig down in the middle of a run.",
            )
        )  # fmt: skip
    weakest = found.step(found.weakest)
    limiter = situation.plan.limiter
    if limiter and found.after_trip_c is not None:
        own = sensor_error(limiter.sensor, limiter.trip_c, "limiter’s sensor")
        both = (error.as_input("a"), own.as_input("b"))
        gaps.append(
            Gap(
                "limiter over running", top.key, "limiter", limiter.trip_c - top.high, needed(both),
                "Both sensors may be off, one low and the other high: closer, it trips in ordinary work and somebody turns it up.",
            )
        )  # fmt: skip
        tuning = found.step("tuning")
        gaps.append(
            Gap(
                "limiter over tuning",
                "tuning",
                "limiter",
                limiter.trip_c - tuning.high,
                needed(both),
                "A controller that tunes itself swings above its set-point on purpose.",
            )
        )
        after = Input("rise after the trip", found.after_trip_c, Kind.DIFFERENCE, "Δ", "simulated at the bad edge")
        gaps.append(
            Gap(
                "weakest over limiter", "limiter", weakest.key, weakest.celsius - limiter.trip_c, needed((own.as_input("a"), after)),
                "Its sensor may read low, its own lag and the contactor take time, and what heat is stored before the chamber still comes.",
            )
        )  # fmt: skip
        if situation.plan.fuse:
            fuse = found.step("fuse")
            gaps.append(
                Gap(
                    "fuse over limiter", "limiter", "fuse", fuse.low - limiter.trip_c, needed((own.as_input("a"), after)),
                    "Otherwise the fuse opens before the limiter has ended it, and a blown fuse means opening the rig.",
                )
            )  # fmt: skip
    if situation.plan.fuse:
        fuse = found.step("fuse")
        gaps.append(
            Gap(
                "weakest over fuse", "fuse", weakest.key, weakest.celsius - fuse.high, needed((_fuse_soak(found, situation),)),
                "The fuse follows its place with a lag, and the stored heat comes after it opened.",
            )
        )  # fmt: skip
    return gaps


def _fuse_soak(found: Ladder, situation: Situation) -> Input:
    fuse, purpose = situation.plan.fuse, situation.rig.purpose
    assert fuse
    share = fuse_share(fuse, purpose.working_c, situation.rig.rests_c)
    follower = Follower(fuse.lag_s, share, fuse.rating_c)
    peak = worst_peak(found.family.fast, situation.rig.rests_c, purpose.working_c, length_s(found.family), follower)
    rise = peak - found.step("fuse").high if peak is not None else 0.0
    return Input("rise after it opened", max(rise, 0.0), Kind.DIFFERENCE, "Δ", "simulated at the bad edge")


def needed(inputs: tuple[Input, ...]) -> Figure:
    """What a gap needs: all of them together."""
    return Figure(
        "needed",
        sum(i.value for i in inputs),
        Kind.DIFFERENCE,
        formula=" + ".join(i.symbol for i in inputs),
        inputs=inputs,
    )
