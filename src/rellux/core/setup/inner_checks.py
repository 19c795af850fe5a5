"""Checks of a sheet with two loops: what is asked of the heater, whether either loop swings by itself, what a digit does to the output."""

from collections.abc import Iterator
from dataclasses import replace
from math import ceil, isfinite

from ..control.settings import AntiWindup, ControllerSettings, InnerLoop, Mode
from ..errors import Refused
from ..findings import Finding, Proposal, Severity
from ..messages import difference, percent, quantity, temperature
from ..purpose.heater_sensor import SPARE_C
from ..tuning.cascade import HeatedChamber, cascade, margins_of
from ..tuning.robustness import NERVOUS_MS
from .dictionary.inner import LOOPS, TWO
from .parameters import Sheet, settings_from
from .proposals.facts import RigFacts
from .proposals.inner import DIGIT_C

MOST_JUMP = 0.1
"""Share of full power by which one digit may move the output (our choice: ten digits from full to none)."""


def in_two_loops(sheet: Sheet, facts: RigFacts) -> bool:
    """Whether a sheet of such a rig has two loops at work."""
    return settings_from(sheet, facts.purpose).in_cascade


def check_asked(sheet: Sheet, facts: RigFacts) -> Iterator[Finding]:
    """Whatever its mode, and with one loop too: what stands there is in force as soon as there are two."""
    sensor = facts.purpose.heater_sensor
    if sensor is None:
        return
    low = float(sheet.get("inner_low_c", facts.purpose.ambient_c))
    asks = max(float(sheet.get("inner_high_c", sensor.most_c)), low)
    if asks > sensor.most_c:
        yield _too_hot(asks, sensor.most_c)
    yield from _lets_go(low, float(sheet["setpoint_c"]), facts)


def _too_hot(asks: float, most: float) -> Finding:
    return Finding(
        "setup.asks-too-hot",
        Severity.DANGER,
        title="The heater may be asked to be hotter than it may",
        reason=f"The outer loop asks it for {temperature(asks)}, and it may show {temperature(most)} at the most.",
        fix=f"{temperature(most)}, and a limiter that is neither of the two sensors.",
        subjects=("inner_high_c", "inner_low_c", LOOPS),
        proposal=Proposal("setup.inner_high_c", most, label=f"Lower it to {temperature(most)}"),
    )


def _lets_go(low: float, setpoint: float, facts: RigFacts) -> Iterator[Finding]:
    """Whether a heater that is asked for least leaves the rig below its set-point."""
    room, chamber = facts.purpose.ambient_c, facts.chamber
    share = chamber.rise_c / (chamber.rise_c + chamber.hotter_c) if chamber else 1.0
    rests = room + (low - room) * share
    if rests < setpoint:
        return
    yield Finding(
        "setup.never-lets-go",
        Severity.DANGER,
        title="The heater is never let go",
        reason=f"With nothing given by the outer loop it is still held at {temperature(low)}: that alone keeps the rig at "
        f"{temperature(rests, '.0f')}, and {temperature(setpoint)} is wanted.",
        fix=f"The room’s temperature, {temperature(room)}, where the outer loop gives nothing.",
        subjects=("inner_low_c", LOOPS),
        proposal=Proposal("setup.inner_low_c", room, label=f"Lower it to {temperature(room)}"),
    )


def check_left_over(sheet: Sheet, facts: RigFacts) -> Finding | None:
    """Of a rig whose second sensor was taken away."""
    if facts.purpose.heater_sensor is not None or sheet.get(LOOPS) != TWO or sheet["mode"] != Mode.PID:
        return None
    return Finding(
        "setup.made-for-two",
        Severity.FAULT,
        title="These numbers were made for two loops",
        reason="The rig has no second sensor at its heater any more. A band that asked a heater gives the output here.",
        fix="Choose the control anew in Tuning, or save the sheet with numbers of one loop.",
        subjects=("proportional_band_c", "integral_time_s"),
    )


def check_inner(sheet: Sheet, facts: RigFacts) -> Iterator[Finding]:
    """Nothing of a rig without a second sensor at its heater."""
    settings, sensor, chamber = settings_from(sheet, facts.purpose), facts.purpose.heater_sensor, facts.chamber
    if sensor is None:
        return
    if settings.inner is None:
        yield Finding(
            "setup.one-loop",
            Severity.ADVICE,
            title="Its second sensor is not used",
            reason="The rig has one at its heater, and this sheet has one loop: nothing here keeps the heater below "
            f"{temperature(sensor.most_c)}.",
            fix="Two loops with their numbers from Tuning; or take the second sensor out of Purpose.",
            subjects=(LOOPS,),
        )
        return
    inner = settings.inner
    if chamber is not None:
        yield from _reach(settings, inner, chamber, facts)
        yield from _swings(settings, chamber, facts)
        yield from _pulses(settings, chamber)
    yield from _digit(settings, inner)
    if settings.anti_windup is not AntiWindup.STOPS:
        yield Finding(
            "setup.winds-up-behind",
            Severity.FAULT,
            title="While the heater’s loop gives all it can, the other goes on integrating",
            reason="It only looks at its own limits: after a heat-up it asks for a hot heater until that is undone.",
            fix="Let its integral stop while the inner loop is at its limit, where the controller can; else a ramp that it can follow.",
            subjects=("anti_windup",),
            source="Åström & Hägglund, PID Controllers, 2nd ed., section 3.5",
        )


def _reach(
    settings: ControllerSettings, inner: InnerLoop, chamber: HeatedChamber, facts: RigFacts
) -> Iterator[Finding]:
    """Whether a heater at its limit holds the set-point."""
    holds = settings.setpoint_c + chamber.hotter_c * (settings.setpoint_c - facts.purpose.ambient_c) / chamber.rise_c
    if inner.high_c >= holds + SPARE_C - DIGIT_C:
        return
    short = inner.high_c < holds
    yield Finding(
        "setup.asks-too-little",
        Severity.FAULT,
        title="A heater at its limit does not hold the set-point"
        if short
        else "It hardly asks for more than it takes to hold",
        reason=f"To hold {temperature(settings.setpoint_c)} the heater shows about {temperature(holds, '.0f')}; it is asked for "
        f"{temperature(inner.high_c)} at the most.",
        fix=f"{temperature(holds + SPARE_C, '.0f')} or more, as far as the heater stands it.",
        subjects=("inner_high_c",),
    )


def _swings(settings: ControllerSettings, chamber: HeatedChamber, facts: RigFacts) -> Iterator[Finding]:
    """By the exact margins of both loops."""
    try:
        found = margins_of(chamber, settings)
        calm = cascade(chamber, settings.sample_s, settings.period_s, DIGIT_C).settings(
            settings, facts.purpose.ambient_c
        )
    except Refused:
        return
    if found.ms <= NERVOUS_MS:
        return
    swings = not isfinite(found.ms)
    assert calm.inner
    inner_only = not isfinite(margins_of(chamber, replace(calm, inner=settings.inner)).ms)
    which = "inner_band_c" if inner_only else "proportional_band_c"
    band = calm.inner.band_c if inner_only else calm.pid.proportional_band_c
    yield Finding(
        "setup.two-swing",
        Severity.DANGER if swings else Severity.FAULT,
        title="With these numbers the two loops swing by themselves"
        if swings
        else "The outer of the two loops is nervous",
        reason="Worked out with the rig "
        + ("as it was found" if facts.process else "as such rigs are taken to be")
        + (": the loop at the heater alone does." if inner_only else f": Ms is {found.ms:.2g}." if not swings else "."),
        fix=f"By SIMC the band is {difference(band, '.2g')} here; Tuning proposes both loops.",
        subjects=(which, "integral_time_s"),
        proposal=Proposal(f"setup.{which}", round(band, 1), label=f"Widen it to {difference(band, '.1f')}"),
        source="exact margins of both loops, dead time as e^(−jωL)",
    )


def _pulses(settings: ControllerSettings, chamber: HeatedChamber) -> Iterator[Finding]:
    """Whether a heater follows every pulse of its own output: then it is switched on and off, whatever the loop at it says."""
    if settings.period_s <= chamber.heater_lag_s:
        return
    yield Finding(
        "setup.pulses-late",
        Severity.ADVICE,
        title="The heater follows every pulse",
        reason=f"A control period of {quantity(settings.period_s, 's')} is longer than its lag of "
        f"{quantity(chamber.heater_lag_s, 's', '.3g')}: between two of them the loop at the heater has nothing to say.",
        fix="A shorter period with a switch that stands it (SSR), or one loop.",
        subjects=("period_s",),
        source="common practice, no source",
    )


def _digit(settings: ControllerSettings, inner: InnerLoop) -> Iterator[Finding]:
    """A digit of either reading, through both gains."""
    by_outer = DIGIT_C / settings.pid.proportional_band_c * inner.span_c / inner.band_c
    by_inner = DIGIT_C / inner.band_c
    most = max(by_outer, by_inner)
    if most <= MOST_JUMP + 1e-9:
        return
    name, band = (
        ("proportional_band_c", settings.pid.proportional_band_c)
        if by_outer > by_inner
        else ("inner_band_c", inner.band_c)
    )
    enough = ceil(10.0 * band * most / MOST_JUMP - 1e-6) / 10.0
    yield Finding(
        "setup.two-narrow",
        Severity.FAULT,
        title=f"One digit of the display moves the output by {percent(min(most, 1.0))}",
        reason="What the outer loop asks for is multiplied by the inner one: as good as on/off, with the wear of PID.",
        fix=f"At least {difference(enough, '.1f')}.",
        subjects=(name,),
        proposal=Proposal(f"setup.{name}", enough, label=f"Widen it to {difference(enough, '.1f')}"),
    )
