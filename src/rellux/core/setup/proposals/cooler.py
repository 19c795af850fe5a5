"""When a cooler beside the heater comes on, and goes off again."""

from collections.abc import Iterator

from ...control.settings import ControllerSettings, HysteresisSchool, Mode
from ...errors import Refused
from ...messages import difference
from ...process.on_off import steady, switching_of
from .facts import Proposed, RigFacts

OF_THE_ROOM = 0.15
"""It comes on at this share of what is left between working and highest temperature (our choice: alarm and limiter come after it)."""
LEAST_C, MOST_C = 1.0, 5.0
"""Nearer, a display's digits and ripple call it; farther, it comes late, °C (our choice)."""
OVER_SWING = 1.5
"""Farther from the set-point than the heater's own swing goes, by so much (as the dead band of a split output; our choice)."""
HYSTERESIS = 0.5
"""It goes off half way back: still above the set-point (our choice)."""


def heats_over_c(facts: RigFacts, settings: ControllerSettings) -> float:
    """How far above the set-point the heater's own switching takes it, °C: on/off by the process where it is known, else where it
    switches off; PID is not meant to."""
    if settings.mode is not Mode.ON_OFF:
        return 0.0
    by = switching_of(settings, facts.purpose.ambient_c)
    process = facts.model or facts.process
    try:
        return steady(process, by).peak - by.setpoint_c if process else by.off_at - by.setpoint_c
    except Refused:
        return by.off_at - by.setpoint_c


def propose_cooler(facts: RigFacts) -> Iterator[Proposed]:
    """A dead band wide enough for the heater's own swing, well below the highest allowed temperature."""
    p = facts.purpose
    tuned = facts.tuning or {}
    as_set = ControllerSettings(
        p.working_c,
        Mode(str(tuned.get("mode", Mode.ON_OFF.value))),
        float(tuned.get("hysteresis_c", 1.0)),
        HysteresisSchool.ONE_SIDED,
    )
    swings = heats_over_c(facts, as_set)
    above = max(min(max(OF_THE_ROOM * (p.highest_c - p.working_c), LEAST_C), MOST_C), OVER_SWING * swings)
    above = round(above, 1)
    swung = f", and over the {difference(swings, '.1f')} that the heater’s own switching takes it" if swings else ""
    yield Proposed(
        "cool_above_c",
        above,
        f"Neither acts for {difference(HYSTERESIS * above, '.1f')} above the set-point, so that they do not take turns{swung}.",
    )
    yield Proposed(
        "cool_hysteresis_c",
        round(HYSTERESIS * above, 1),
        "Off half way back: nearer, it would cool what the heater then makes good.",
    )
