"""Where a status light promises too much: on the way down its reading is cooler than what was heated with it."""

from collections.abc import Callable, Iterator
from dataclasses import replace
from math import ceil

from ..findings import Finding, Proposal, Severity
from ..messages import spoken_time, temperature
from .accept import with_value
from .cooling import hidden_s, hottest_when
from .family import Family, family
from .feel import BACK_C
from .ladder import Situation, sensor_error
from .plan import LONGEST_AFTER_S, StatusLight

MINUTES_C, SECOND_C = 48.0, 65.0
"""What may be held for ten minutes, and what bare metal may be for a touch of a second, °C (EN ISO 13732-1, from memory)."""
LIMITS = (
    ("cool", "warm_c", MINUTES_C, "held for ten minutes"),
    ("only warm", "hot_c", SECOND_C, "as bare metal touched for a second"),
)
FINEST_C, MINUTE_S = 0.5, 60.0


def usual_light(situation: Situation) -> StatusLight:
    """One for this rig: lower than skin alone asks for where what is inside is ahead of the reading."""
    plan = replace(situation.plan, light=StatusLight())
    for _ in range(len(LIMITS)):  # the lower one first gives room to the other
        for finding in light_findings(replace(situation, plan=plan)):
            if finding.proposal:
                plan = with_value(plan, plan, finding.proposal.target.removeprefix("guarding."), finding.proposal.value)
    assert plan.light
    after = min(_minutes(_after_s(situation, plan.light)), LONGEST_AFTER_S)
    return replace(plan.light, after_s=after)


def _minutes(seconds: float) -> float:
    """Up to the next whole minute."""
    return ceil(seconds / MINUTE_S) * MINUTE_S


def _of(situation: Situation, light: StatusLight) -> tuple[Family, float, float, float]:
    """What the rig may be, the room, the hottest it may be set to, and what its sensor may be off there, °C."""
    room = situation.rig.purpose.ambient_c
    start = max(situation.setpoint_high_c, situation.settings.setpoint_c)
    return (
        family(situation.rig),
        room,
        start,
        sensor_error(situation.sensor, max(light.hot_c, room), "control sensor").value,
    )


def _after_s(situation: Situation, light: StatusLight) -> float:
    rigs, room, start, off = _of(situation, light)
    return hidden_s(rigs, room, start, ((light.warm_c + off, MINUTES_C), (light.hot_c + off, SECOND_C)))


def light_findings(situation: Situation) -> Iterator[Finding]:
    """Where the light would promise too much."""
    light, rig = situation.plan.light, situation.rig
    if light is None or not rig.purpose.heats:
        return
    rigs, room, start, off = _of(situation, light)

    def hottest(reading_c: float) -> float:
        return hottest_when(rigs, room, start, reading_c + off)

    after = _after_s(situation, light)
    if light.after_s < after:
        longer, fits = _minutes(after), after <= LONGEST_AFTER_S - MINUTE_S
        yield Finding(
            "guarding.light-after",
            Severity.FAULT,
            title="The light says cool while what heats is still hot",
            reason=f"After a short heating the reading is low, and what heats may burn for {spoken_time(after)}; it says hot for "
            f"{spoken_time(light.after_s)}.",
            fix="Say hot for longer after the output was on."
            if fits
            else "No light: this reading is no measure of it.",
            subjects=("light",),
            proposal=Proposal("guarding.light_after_s", longer, label=f"For {spoken_time(longer)}") if fits else None,
        )
    for says, name, most, burns in LIMITS:
        value = getattr(light, name)
        there = hottest(value)
        if there <= most:
            continue
        lower = _lowered(value, room if says == "cool" else light.warm_c, hottest, most)
        elsewhere = "Go by a sensor at what is touched: this reading is no measure of it."
        yield Finding(
            "guarding.light-cool" if says == "cool" else "guarding.light-warm",
            Severity.FAULT,
            title=f"The light says {says} too soon",
            reason=f"When the reading comes down to {temperature(value)}, what was heated with it may still be at "
            f"{temperature(there, '.0f')}; {burns}, {temperature(most)} burns.",
            fix=elsewhere if lower is None else "Lower, where what was heated is cool enough too.",
            subjects=("light",),
            source="EN ISO 13732-1, from memory",
            proposal=None
            if lower is None
            else Proposal(f"guarding.light_{name}", lower, label=f"Change at {temperature(lower)}"),
        )


def _lowered(value: float, above_c: float, hottest: Callable[[float], float], most_c: float) -> float | None:
    """The highest half degree below it at which nothing is hotter than ``most_c``; ``None`` where there is none clear of ``above_c``."""
    low, high = ceil((above_c + BACK_C) / FINEST_C), ceil(value / FINEST_C)
    if low >= high or hottest(low * FINEST_C) > most_c:
        return None
    while high - low > 1:  # fine at low, not at high
        middle = (low + high) // 2
        low, high = (middle, high) if hottest(middle * FINEST_C) <= most_c else (low, middle)
    return low * FINEST_C
