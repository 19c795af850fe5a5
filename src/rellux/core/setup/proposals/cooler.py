"""When a cooler beside the heater comes on, and goes off again."""

from collections.abc import Iterator
from dataclasses import replace

from ...control.settings import ControllerSettings, CoolingBand, HysteresisSchool, Mode
from ...messages import difference
from ...process.models import FOPDT
from ...tuning import heat_cool
from ...tuning.cooled_too import CooledToo, cooled_too
from ...tuning.heat_cool import on_and_back_c
from .facts import Proposed, RigFacts

REST_S, RUN_S = 240.0, 90.0
"""What a small compressor rests and runs at least, s."""


def heats_over_c(facts: RigFacts, settings: ControllerSettings) -> float:
    """How far above the set-point the heater's own switching takes it, °C."""
    return heat_cool.heats_over_c(facts.model or facts.process, settings, facts.purpose.ambient_c)


def carries_on_c(facts: RigFacts, settings: ControllerSettings) -> float:
    """How far the reading still falls after the cooler's threshold to go off was passed, °C; 0 where no process is known."""
    process, too = facts.model or facts.process, _too(facts, settings.cooling)
    return heat_cool.carries_on_c(process, too, settings, facts.purpose.ambient_c) if process and too else 0.0


def clear_above_c(facts: RigFacts, settings: ControllerSettings) -> float | None:
    """From how far above the set-point it does not carry the reading below, °C; ``None`` where no distance is enough, 0 where no process is
    known."""
    process, too = facts.model or facts.process, _too(facts, settings.cooling)
    return heat_cool.clear_above_c(process, too, settings, facts.purpose.ambient_c) if process and too else 0.0


def _too(facts: RigFacts, band: CoolingBand | None) -> CooledToo | None:
    process = facts.model or facts.process
    if process is None or band is None:
        return None
    return cooled_too(facts.purpose, FOPDT(process.gain, process.lag_s, process.dead_time_s), band)


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
    rest_s, run_s = (REST_S, RUN_S) if p.cooler and p.cooler.rests else (0.0, 0.0)
    clear = clear_above_c(facts, replace(as_set, cooling=CoolingBand(0.0, 0.0, rest_s, run_s)))
    above, back = on_and_back_c(p.highest_c - p.working_c, swings, clear or 0.0)
    swung = f", and over the {difference(swings, '.1f')} that the heater’s own switching takes it" if swings else ""
    yield Proposed(
        "cool_above_c",
        above,
        f"Neither acts for {difference(above - back, '.1f')} above the set-point, so that they do not take turns{swung}.",
    )
    yield Proposed(
        "cool_hysteresis_c",
        back,
        "Off half way back: nearer, it would cool what the heater then makes good.",
    )
