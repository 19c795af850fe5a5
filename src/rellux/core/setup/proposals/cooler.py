"""When a cooler beside the heater comes on, and goes off again."""

from collections.abc import Iterator
from dataclasses import replace
from math import expm1

from ...control.settings import ControllerSettings, CoolingBand, HysteresisSchool, Mode
from ...errors import Refused
from ...messages import difference
from ...process.cycles import pulse_ripple
from ...process.models import FOPDT, SOPDT
from ...process.on_off import steady, switching_of
from ...tuning.situation import cooled_too
from .facts import Proposed, RigFacts

OF_THE_ROOM = 0.15
"""It comes on at this share of what is left between working and highest temperature (our choice: alarm and limiter come after it)."""
LEAST_C, MOST_C = 1.0, 5.0
"""Nearer, a display's digits and ripple call it; farther, it comes late, °C (our choice)."""
OVER_SWING = 1.5
"""Farther from the set-point than the heater's own swing goes, by so much (as the dead band of a split output; our choice)."""
REST_S, RUN_S = 240.0, 90.0
"""What a small compressor rests and runs at least, s."""
HYSTERESIS = 0.5
"""It goes off half way back: still above the set-point (our choice)."""


def heats_over_c(facts: RigFacts, settings: ControllerSettings) -> float:
    """How far above the set-point the heater's own switching takes it, °C: on/off by the process where it is known, else where it
    switches off; PID by half the ripple of its pulses, once the process is known."""
    by = switching_of(settings, facts.purpose.ambient_c)
    process = facts.model or facts.process
    if settings.mode is not Mode.ON_OFF:
        return _ripple_c(facts, settings)
    try:
        return steady(process, by).peak - by.setpoint_c if process else by.off_at - by.setpoint_c
    except Refused:
        return by.off_at - by.setpoint_c


def _ripple_c(facts: RigFacts, settings: ControllerSettings) -> float:
    if facts.process is None or not settings.period_s:
        return 0.0
    share = (settings.setpoint_c - facts.purpose.ambient_c) / facts.process.full_power_rise_c
    return pulse_ripple(facts.process, min(max(share, 0.0), 1.0), settings.period_s) / 2.0


def carries_on_c(facts: RigFacts, settings: ControllerSettings) -> float:
    """How far the reading still falls after the cooler's threshold to go off was passed, °C: for its dead time, taken to be the reading's
    own, both the cooler and what the rig loses pull at it; a compressor that must run on does so. 0 where no process is known."""
    band = settings.cooling
    if facts.process is None or band is None or facts.purpose.cooler is None:
        return 0.0
    off = settings.setpoint_c + band.off_above_c - facts.purpose.ambient_c
    on = off + band.hysteresis_c
    ends, share = _pulled(facts, settings, band)
    least_run = (on - ends) * _pulled(facts, settings, band, band.run_s)[1] - band.hysteresis_c
    return max((off - ends) * share, least_run, 0.0)


def clear_above_c(facts: RigFacts, settings: ControllerSettings) -> float | None:
    """From how far above the set-point a cooler that goes off half way back, or after its least run, does not carry it below, with
    ``OVER_SWING`` of room, °C; ``None`` where it pulls so hard that no distance is enough. 0 where no process is known."""
    band = settings.cooling
    if facts.process is None or band is None or facts.purpose.cooler is None:
        return 0.0
    rise = settings.setpoint_c - facts.purpose.ambient_c
    needs = []
    for run_s, back in ((0.0, HYSTERESIS), (band.run_s, 1.0)):
        ends, share = _pulled(facts, settings, band, run_s)
        share *= OVER_SWING
        if share >= 1.0:
            return None
        needs.append((rise - ends) * share / (1.0 - share) / back)
    return max(*needs, 0.0)


def _pulled(
    facts: RigFacts, settings: ControllerSettings, band: CoolingBand, run_s: float = 0.0
) -> tuple[float, float]:
    """Where loss and cooler together would end, °C above the room, and the share of the way there that is gone in ``run_s`` and the dead
    time."""
    process = facts.model or facts.process
    assert process
    too = cooled_too(facts.purpose, FOPDT(process.gain, process.lag_s, process.dead_time_s), band)
    assert too
    late = (
        run_s + process.dead_time_s + (process.second_lag_s if isinstance(process, SOPDT) else 0.0) + settings.sample_s
    )
    both = 1.0 + too.times_loss
    return too.times_loss * too.coolant_rise_c / both, -expm1(-both * late / process.lag_s)


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
    rest_s, run_s = (REST_S, RUN_S) if p.cooler and p.cooler.rests else (0.0, 0.0)
    clear = clear_above_c(facts, replace(as_set, cooling=CoolingBand(above, HYSTERESIS * above, rest_s, run_s)))
    above = round(max(above, clear or 0.0), 1)
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
