"""A heater and the cooler beside it as one: from how far above the set-point the cooler may come on, so that they do not take turns and it
does not carry the reading through the set-point."""

from dataclasses import replace
from math import expm1

from ..control.settings import ControllerSettings, CoolingBand, Mode
from ..errors import Refused
from ..process.cycles import pulse_ripple
from ..process.models import FOPDT, SOPDT
from ..process.on_off import steady, switching_of
from .cooled_too import CooledToo

OF_THE_ROOM = 0.15
"""It comes on at this share of what is left between set-point and highest temperature (our choice: alarm and limiter come after it)."""
LEAST_C, MOST_C = 1.0, 5.0
"""Nearer, a display's digits and ripple call it; farther, it comes late, °C (our choice)."""
OVER_SWING = 1.5
"""Farther from the set-point than the heater's own swing goes, by so much (as the dead band of a split output; our choice)."""
HYSTERESIS = 0.5
"""It goes off half way back: still above the set-point (our choice)."""


def heats_over_c(process: FOPDT | SOPDT | None, settings: ControllerSettings, ambient_c: float) -> float:
    """How far above the set-point the heater's own switching takes it, °C: on/off by the process where it is known, else where it
    switches off; PID by half the ripple of its pulses, once the process is known."""
    by = switching_of(settings, ambient_c)
    if settings.mode is not Mode.ON_OFF:
        return _ripple_c(process, settings, ambient_c)
    try:
        return steady(process, by).peak - by.setpoint_c if process else by.off_at - by.setpoint_c
    except Refused:
        return by.off_at - by.setpoint_c


def _ripple_c(process: FOPDT | SOPDT | None, settings: ControllerSettings, ambient_c: float) -> float:
    if process is None or not settings.period_s:
        return 0.0
    one = FOPDT(process.gain, process.lag_s, process.dead_time_s)
    share = (settings.setpoint_c - ambient_c) / one.full_power_rise_c
    return pulse_ripple(one, min(max(share, 0.0), 1.0), settings.period_s) / 2.0


def carries_on_c(process: FOPDT | SOPDT, too: CooledToo, settings: ControllerSettings, ambient_c: float) -> float:
    """How far the reading still falls after the threshold of ``too`` to go off was passed, °C: for its dead time, taken to be the reading's
    own, both the cooler and what the rig loses pull at it; a compressor that must run on does so."""
    band = too.band
    off = settings.setpoint_c + band.off_above_c - ambient_c
    ends, share = _pulled(process, too, settings)
    least_run = (off + band.hysteresis_c - ends) * _pulled(process, too, settings, band.run_s)[1] - band.hysteresis_c
    return max((off - ends) * share, least_run, 0.0)


def clear_above_c(
    process: FOPDT | SOPDT, too: CooledToo, settings: ControllerSettings, ambient_c: float
) -> float | None:
    """From how far above the set-point a cooler that goes off half way back, or after its least run, does not carry it below, with
    ``OVER_SWING`` of room, °C; ``None`` where it pulls so hard that no distance is enough."""
    rise = settings.setpoint_c - ambient_c
    needs = []
    for run_s, back in ((0.0, HYSTERESIS), (too.band.run_s, 1.0)):
        ends, share = _pulled(process, too, settings, run_s)
        share *= OVER_SWING
        if share >= 1.0:
            return None
        needs.append((rise - ends) * share / (1.0 - share) / back)
    return max(*needs, 0.0)


def _pulled(
    process: FOPDT | SOPDT, too: CooledToo, settings: ControllerSettings, run_s: float = 0.0
) -> tuple[float, float]:
    """Where loss and cooler together would end, °C above the room, and the share of the way there that is gone in ``run_s`` and the dead
    time."""
    both = 1.0 + too.times_loss
    late = run_s + process.dead_time_s + settings.sample_s
    late += process.second_lag_s if isinstance(process, SOPDT) else 0.0
    return too.times_loss * too.coolant_rise_c / both, -expm1(-both * late / process.lag_s)


def on_and_back_c(room_c: float, swings_c: float, clear_c: float) -> tuple[float, float]:
    """Where a cooler comes on, °C above the set-point, and how far below that it goes off, as a sheet has them: by the ``room_c`` that is
    left up to the highest temperature, how far the heater's own switching goes, and where it is clear."""
    above = round(max(min(max(OF_THE_ROOM * room_c, LEAST_C), MOST_C), OVER_SWING * swings_c, clear_c), 1)
    return above, round(HYSTERESIS * above, 1)


def band_for(
    process: FOPDT | SOPDT, too: CooledToo, settings: ControllerSettings, ambient_c: float, highest_c: float
) -> CoolingBand | None:
    """Of the cooler ``too``, beside a heater with these settings: clear of both swings; ``None`` where no distance is enough before it is
    as hot as it may be."""
    clear = clear_above_c(process, too, settings, ambient_c)
    if clear is None:
        return None
    room = highest_c - settings.setpoint_c
    above, back = on_and_back_c(room, heats_over_c(process, settings, ambient_c), clear)
    return replace(too.band, above_c=above, hysteresis_c=back) if above < room else None
