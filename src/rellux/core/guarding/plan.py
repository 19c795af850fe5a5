"""The plan that guards a rig: its alarms, its independent limiter, its thermal fuse, and what happens when the sensor fails."""

from dataclasses import dataclass, field
from enum import StrEnum

from ..control.alarms.settings import KINDS, Action, AlarmKind, AlarmSettings, alarm_problems
from ..errors import Problem, refuse_all
from ..messages import span, temperature
from ..sensing.sensors import NAMES, sensor_range

MOST_ALARMS = 12
LONGEST_WORDS = 160
SLOWEST_S = 600.0
"""Slowest sensor or fuse, s (our choice: slower guards nothing)."""
SLOWEST_RELAY_S = 10.0
MOST_HOLD_S = 60.0
"""Longest that a broken sensor may be ridden through, s (our choice: the rig's own bound is shorter)."""
MOST_RATE = 1000.0
LEAST_DAYS, MOST_DAYS = 1, 3650


class LimiterReset(StrEnum):
    """A limiter that stays tripped until a person resets it, or a cut-out that closes again by itself (both EN 14597, from memory)."""

    MANUAL = "manual"
    SELF = "self"


class FaultSchool(StrEnum):
    """What a lost reading does to a run: it ends it, or the heat waits a while for the reading to come back."""

    STOP = "stop"
    RIDE_THROUGH = "ride_through"


@dataclass(frozen=True)
class Limiter:
    """The independent limiter: its own sensor with its own lag at its place; ``relay_s`` from its trip until the contactor is open."""

    trip_c: float
    hysteresis_c: float
    sensor: str
    lag_s: float
    relay_s: float = 0.2
    reset: LimiterReset = LimiterReset.MANUAL
    trips_on_break: bool = True


@dataclass(frozen=True)
class ThermalFuse:
    """A one-shot thermal fuse. ``holding_c``: what it stands for good; ``place_c``: how warm its place is while the chamber is at the
    working temperature."""

    rating_c: float
    holding_c: float
    place_c: float
    lag_s: float = 30.0


@dataclass(frozen=True)
class PlannedAlarm:
    """One alarm with what it is for: without an operator's response it is no alarm (ISA-18.2, from memory)."""

    name: str
    alarm: AlarmSettings
    does: tuple[Action, ...]
    cause: str
    consequence: str
    response: str


@dataclass(frozen=True)
class FaultPolicy:
    """What a lost reading does. ``rate_c_per_min``: a reading that comes back is believed up to this change from where it was."""

    school: FaultSchool = FaultSchool.STOP
    hold_s: float = 0.0
    rate_c_per_min: float = 60.0


@dataclass(frozen=True)
class StatusLight:
    """A light that says how hot it is to touch, by the reading: cool below ``warm_c``, hot from ``hot_c``. What skin stands for eight
    hours, and for some ten seconds (EN ISO 13732-1, from memory). What heats is hot before any reading says so: it counts as hot while the
    output is on, and for ``after_s`` after it last was."""

    warm_c: float = 43.0
    hot_c: float = 55.0
    after_s: float = 3600.0


@dataclass(frozen=True)
class Plan:
    """Everything that guards a rig. ``prove_days``: how often it is proved to act. ``maximum_c``: where the controller's own firmware ends
    the heat, where it has such a setting: by the same sensor and the same switch, so it guards against nothing that happens to them."""

    alarms: tuple[PlannedAlarm, ...] = ()
    limiter: Limiter | None = None
    fuse: ThermalFuse | None = None
    policy: FaultPolicy = field(default_factory=FaultPolicy)
    prove_days: int = 365
    light: StatusLight | None = None
    maximum_c: float | None = None


def check_plan(plan: Plan) -> None:
    """Raises ``Refused`` naming every field that cannot be, whatever the rig; what does not suit the rig is a finding."""
    refuse_all(plan_problems(plan))


def plan_problems(plan: Plan) -> list[Problem]:
    """Every field of a plan that cannot be."""
    found: list[Problem] = []

    def unless(ok: bool, at: str, reason: str, accepted: str) -> None:
        if not ok:
            found.append(Problem(at, reason, accepted))

    unless(
        len(plan.alarms) <= MOST_ALARMS,
        "alarms",
        f"{len(plan.alarms)} alarms: nobody tells them apart",
        f"up to {MOST_ALARMS}",
    )
    names = [a.name.strip().lower() for a in plan.alarms]
    for i, planned in enumerate(plan.alarms):
        at = f"alarms[{i}]."
        found += alarm_problems(planned.alarm, f"{at}alarm.")
        unless(
            1 <= len(planned.name.strip()) <= LONGEST_WORDS,
            f"{at}name",
            "say what it is called",
            f"1…{LONGEST_WORDS} characters",
        )
        unless(names.count(names[i]) == 1, f"{at}name", f"{planned.name} is there twice", "a name of its own")
        for part in ("cause", "consequence", "response"):
            words = getattr(planned, part)
            unless(
                len(words) <= LONGEST_WORDS, f"{at}{part}", "too long for a screen", f"up to {LONGEST_WORDS} characters"
            )
        unless(
            bool(planned.response.strip()),
            f"{at}response",
            "without something to do it is no alarm",
            "what the operator does",
        )
        unless(bool(planned.does), f"{at}does", "an alarm that does nothing alarms nobody", "at least one")
    low, high = KINDS[AlarmKind.HIGH].low, KINDS[AlarmKind.HIGH].high
    unless(
        plan.maximum_c is None or low <= plan.maximum_c <= high,
        "maximum_c",
        "no controller is set to that",
        span(low, high, "°C"),
    )
    found += _limiter_problems(plan.limiter) if plan.limiter else []
    found += _fuse_problems(plan.fuse) if plan.fuse else []
    found += _light_problems(plan.light) if plan.light else []
    unless(0 <= plan.policy.hold_s <= MOST_HOLD_S, "policy.hold_s", "blind for too long", span(0, MOST_HOLD_S, "s"))
    unless(
        0 < plan.policy.rate_c_per_min <= MOST_RATE,
        "policy.rate_c_per_min",
        "nothing changes so fast",
        span(0.1, MOST_RATE, "°C/min"),
    )
    unless(
        LEAST_DAYS <= plan.prove_days <= MOST_DAYS,
        "prove_days",
        "no interval for a proof",
        f"{LEAST_DAYS}…{MOST_DAYS} days",
    )
    return found


def _limiter_problems(limiter: Limiter) -> list[Problem]:
    found = []
    if limiter.sensor not in NAMES:
        return [Problem("limiter.sensor", f"{limiter.sensor!r} is not a sensor this version knows", ", ".join(NAMES))]
    low, high = sensor_range(limiter.sensor)
    if not low <= limiter.trip_c <= high:
        reason = f"its own sensor does not read {temperature(limiter.trip_c)}"
        found.append(Problem("limiter.trip_c", reason, span(low, high, "°C")))
    if not 0 <= limiter.hysteresis_c <= LARGEST_HYSTERESIS_C:
        found.append(Problem("limiter.hysteresis_c", "no limiter has that", span(0, LARGEST_HYSTERESIS_C, "Δ°C")))
    if not 0 <= limiter.lag_s <= SLOWEST_S:
        found.append(Problem("limiter.lag_s", "so slow a sensor guards nothing", span(0, SLOWEST_S, "s")))
    if not 0 <= limiter.relay_s <= SLOWEST_RELAY_S:
        found.append(Problem("limiter.relay_s", "no contactor takes so long", span(0, SLOWEST_RELAY_S, "s")))
    return found


def _fuse_problems(fuse: ThermalFuse) -> list[Problem]:
    found = []
    if not FUSE_C[0] <= fuse.rating_c <= FUSE_C[1]:
        found.append(Problem("fuse.rating_c", "no thermal fuse is made for that", span(*FUSE_C, "°C")))
    if not fuse.holding_c < fuse.rating_c:
        reason = f"it cannot hold {temperature(fuse.holding_c)} for good and open at {temperature(fuse.rating_c)}"
        found.append(Problem("fuse.holding_c", reason, f"below {temperature(fuse.rating_c)}"))
    if not 0 <= fuse.lag_s <= SLOWEST_S:
        found.append(Problem("fuse.lag_s", "so slow a fuse guards nothing", span(0, SLOWEST_S, "s")))
    return found


def _light_problems(light: StatusLight) -> list[Problem]:
    found = []
    if not WARM_C[0] <= light.warm_c <= WARM_C[1]:
        found.append(Problem("light.warm_c", "that is not where cool ends", span(*WARM_C, "°C")))
    if not light.warm_c < light.hot_c <= HOTTEST_WARM_C:
        reason = "hot begins above warm, and before bare metal burns in a second"
        found.append(
            Problem("light.hot_c", reason, f"above {temperature(light.warm_c)}, up to {temperature(HOTTEST_WARM_C)}")
        )
    if not 0 <= light.after_s <= LONGEST_AFTER_S:
        found.append(Problem("light.after_s", "nobody believes it any more", span(0, LONGEST_AFTER_S, "s")))
    return found


WARM_C, HOTTEST_WARM_C = (-50.0, 51.0), 65.0
"""Where cool may end, and warm at the latest, °C: what any surface may be for a minute, and bare metal for a second (EN ISO 13732-1,
from memory)."""
LONGEST_AFTER_S = 86_400.0
"""Longest that a light says hot after the output was on, s (our choice)."""
LARGEST_HYSTERESIS_C = 100.0
FUSE_C = (50.0, 800.0)
"""Thermal fuses, °C: pellets up to about 240, fusible links beyond (from memory)."""
