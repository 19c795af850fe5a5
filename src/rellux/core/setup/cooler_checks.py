"""Checks of a sheet whose rig has a cooler beside its heater: whether they take turns, whether it comes too late, or never."""

from collections.abc import Iterator

from ..control.settings import CoolingBand
from ..findings import Finding, Proposal, Severity
from ..messages import difference, spoken_time, temperature
from ..tuning.heat_cool import HYSTERESIS
from .dictionary.output import COOLING, OUTPUTS
from .parameters import Sheet, settings_from
from .proposals.cooler import carries_on_c, clear_above_c, heats_over_c
from .proposals.facts import RigFacts


def check_cooler(sheet: Sheet, facts: RigFacts) -> Iterator[Finding]:
    """Nothing of a rig without one."""
    settings = settings_from(sheet, facts.purpose)
    band = settings.cooling
    if facts.purpose.cooler is None or band is None:
        return
    yield from _no_output(sheet)
    if band.off_above_c <= 0.0:
        yield Finding(
            "setup.cools-below",
            Severity.FAULT,
            title="It cools down to the set-point and below",
            reason=f"It comes on {difference(band.above_c, '.1f')} above the set-point and goes off {difference(band.hysteresis_c, '.1f')} "
            "further down: the heater makes good what the cooler took, for ever.",
            fix="A hysteresis smaller than the distance at which it comes on.",
            subjects=("cool_hysteresis_c", "cool_above_c"),
            proposal=Proposal(
                "setup.cool_hysteresis_c", round(HYSTERESIS * band.above_c, 1), label="Off half way back"
            ),
            source="common practice, no source",
        )
    falls = carries_on_c(facts, settings)
    if 0.0 < band.off_above_c < falls:
        clear = clear_above_c(facts, settings)
        enough = clear is not None and settings.setpoint_c + clear < facts.purpose.highest_c
        yield Finding(
            "setup.cools-through",
            Severity.FAULT,
            title="The cooler carries it below the set-point",
            reason=f"It goes off {difference(band.off_above_c, '.1f')} above the set-point, and by the found process the reading falls "
            f"{difference(falls, '.1f')} further before that shows{_least_run(band)}: the heater makes good what was too much.",
            fix=f"On from about {difference(clear or 0.0, '.1f')} above and off half way back, or a weaker cooler."
            if enough
            else "A weaker cooler: no distance is enough before it is too hot.",
            subjects=("cool_above_c", "cool_hysteresis_c"),
            source="the found process with the cooler as it was described, through its dead time",
        )
    over = heats_over_c(facts, settings)
    if over >= band.above_c:
        yield Finding(
            "setup.take-turns",
            Severity.FAULT,
            title="Heating and cooling take turns",
            reason=f"The heater’s own switching takes it {difference(over, '.1f')} above the set-point, and the cooler comes on at "
            f"{difference(band.above_c, '.1f')}: each works against the other at every cycle.",
            fix="The cooler from farther above, a smaller hysteresis of the heater, or PID.",
            subjects=("cool_above_c", "hysteresis_c"),
            source="the cycle of the identified process, where it is known",
        )
    p = facts.purpose
    comes = settings.setpoint_c + band.above_c
    if comes >= p.highest_c:
        yield Finding(
            "setup.cools-late",
            Severity.FAULT,
            title="It cools only when it is too hot already",
            reason=f"From {temperature(comes)}; highest allowed is {temperature(p.highest_c)} ({p.highest_reason}).",
            fix=f"Nearer to the set-point: {difference(p.highest_c - settings.setpoint_c)} is all there is.",
            subjects=("cool_above_c",),
        )


def _least_run(band: CoolingBand) -> str:
    return f" and it has run its least {spoken_time(band.run_s)}" if band.run_s else ""


def _no_output(sheet: Sheet) -> Iterator[Finding]:
    does = [str(sheet[f"output_{n}"]) for n in OUTPUTS if f"output_{n}" in sheet]
    if len(does) < len(OUTPUTS) or COOLING in does:
        return
    free = next((n for n in OUTPUTS if sheet[f"output_{n}"] == "none"), None)
    yield Finding(
        "setup.no-cooling-output",
        Severity.FAULT,
        title="No output cools",
        reason="Every output does something else: the cooler never comes on.",
        fix="The output that its relay is wired to. A controller without such a function does it with an alarm above the set-point: then "
        "that output is this one.",
        subjects=tuple(f"output_{n}" for n in OUTPUTS),
        proposal=Proposal(f"setup.output_{free}", COOLING, label=f"Output {free} cools") if free else None,
    )
