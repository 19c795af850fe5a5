"""Two loops: what the one at the heater is set to, and the one that asks it, before anything was recorded."""

from collections.abc import Iterator
from math import floor, isfinite

from ...control.settings import ControllerSettings, Mode
from ...errors import Refused
from ...messages import temperature
from ...tuning.cascade import cascade
from ..dictionary.inner import LOOPS, ONE, TWO
from .facts import Proposed, RigFacts

DIGIT_C = 0.1
"""A usual digit of the display, °C (our choice)."""
BAND_C, INTEGRAL_S, LOW_C, HIGH_C = 50.0, 60.0, 0.0, 100.0
"""Of a sheet that has no such loop: nothing comes of them, and nothing changes them."""


def rounded_down(celsius: float) -> float:
    """To a tenth of a degree that is never more: of what must not be passed."""
    return floor(10.0 * celsius + 1e-6) / 10.0


def in_two(facts: RigFacts, period_s: float) -> ControllerSettings | None:
    """Both loops as they are worked out from what is known of the rig; ``None`` where it has one, or was set as one."""
    chamber = facts.chamber
    if chamber is None or facts.set_as_one:
        return None
    one = ControllerSettings(facts.purpose.working_c, Mode.PID, period_s=period_s)
    try:
        found = cascade(chamber, one.sample_s, period_s, DIGIT_C)
    except Refused:
        return None
    return found.settings(one, facts.purpose.ambient_c) if found.fits else None


def propose_inner(facts: RigFacts, both: ControllerSettings | None) -> Iterator[Proposed]:
    """The loop at the heater; without a second sensor there, what one loop leaves unused."""
    p, inner = facts.purpose, both.inner if both else None
    why = "By SIMC from its lag and how much hotter it is: the inner loop is tuned first."
    nothing = "There is one loop: nothing comes of it."
    if facts.set_as_one:
        reason = "As this sheet was made: choose two with their numbers in Tuning."
    elif p.heater_sensor is None:
        reason = "It has one sensor that controls."
    elif inner is None:
        reason = "What is known of its heater makes no two loops that a controller takes."
    else:
        reason = "It has a second sensor at its heater."
    yield Proposed(LOOPS, TWO if inner else ONE, reason)
    integral = inner.integral_time_s if inner and isfinite(inner.integral_time_s) else 0.0
    yield Proposed("inner_band_c", round(inner.band_c, 1) if inner else BAND_C, why if inner else nothing)
    yield Proposed("inner_integral_s", float(round(integral)) if inner else INTEGRAL_S, why if inner else nothing)
    sensor = p.heater_sensor
    if sensor is None:
        yield Proposed("inner_low_c", LOW_C, nothing)
        yield Proposed("inner_high_c", HIGH_C, nothing)
        return
    asks = f"Nothing asked is a heater as warm as the room, {temperature(p.ambient_c)}."
    yield Proposed("inner_low_c", round(p.ambient_c, 1), asks)
    most = inner.high_c if inner else sensor.most_c
    less = "As much as the widest band of a controller asks; its sensor may show more."
    why_most = less if most < sensor.most_c else "What its sensor may show at the most."
    yield Proposed("inner_high_c", rounded_down(most), why_most)
