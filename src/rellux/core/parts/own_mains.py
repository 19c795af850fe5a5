"""What a rig asks of a generator or an inverter that feeds it: its power, the start of a motor, the pulses it is drawn in."""

from collections.abc import Iterator

from ..explain import Figure, Input
from ..findings import Finding, Severity
from ..messages import percent, quantity
from ..purpose.heater import heater_current, heater_power, most_fault_a
from ..purpose.own_mains import MadeBy, OwnMains
from ..purpose.purpose import Purpose
from ..units import Kind
from ..wiring.choice import Actuator, Choice
from ..wiring.generate import CONTROL_W
from ..wiring.library import PART_TYPES
from ..wiring.model import Part
from ..wiring.rules.currents import at_start

FOR_HOURS = 0.8
"""Share of its nameplate a source is used to for hours (common practice, no source)."""
PULSES = 0.25
"""Share from which what comes and goes at once is felt by whatever else hangs on it (our choice)."""
ARTICLES = {MadeBy.GENERATOR: "a generator", MadeBy.INVERTER: "an inverter"}
WORDS = {MadeBy.GENERATOR: "generator", MadeBy.INVERTER: "inverter"}


def own_mains_findings(purpose: Purpose, choice: Choice) -> list[Finding]:
    """Nothing of a rig on public mains."""
    own = purpose.own_mains
    if own is None:
        return []
    return [
        *_power(purpose, own),
        *_starts(purpose, own),
        *_pulses(purpose, choice, own),
        *_waveform(choice, own),
    ]


def _power(purpose: Purpose, own: OwnMains) -> Iterator[Finding]:
    load, cooler = heater_power(purpose), purpose.cooler
    most = max(load.value, cooler.draws_w if cooler else 0.0)  # never both
    whole = most + (0.0 if purpose.controls and purpose.controls.apart else CONTROL_W)
    if whole <= FOR_HOURS * own.made_w:
        return
    over, source = whole > own.made_w, WORDS[own.made_by]
    yield Finding(
        "parts.own-mains-power",
        Severity.FAULT if over else Severity.ADVICE,
        title=f"The {source} is {'too small' if over else 'used to its end'}",
        reason=f"{quantity(whole, 'W', '.0f')} are drawn of {quantity(own.made_w, 'W', '.0f')}: "
        + (
            "it stops, or its voltage gives way."
            if over
            else "for hours that is hot, and nothing is left for what else hangs on it."
        ),
        fix=f"One of {quantity(whole / FOR_HOURS, 'W', '.0f')} or more, or less heat.",
        subjects=("Supply",),
        figures=(
            Figure(
                "drawn of it",
                100.0 * whole / own.made_w,
                Kind.PERCENT,
                formula="P / P_source",
                inputs=(
                    Input(load.name, load.value, Kind.POWER, "P", "at this supply"),
                    Input("it gives", own.made_w, Kind.POWER, "P_source", "nameplate"),
                ),
                reason=f"Up to {percent(FOR_HOURS)} for hours.",
                source="common practice, no source",
            ),
        ),
        source="common practice, no source",
    )


def _starts(purpose: Purpose, own: OwnMains) -> Iterator[Finding]:
    cooler = purpose.cooler
    beside = cooler is not None and cooler.rests and purpose.controls is None
    if not (purpose.cools or beside):
        return
    _, times, _ = at_start(Part("M1", PART_TYPES["compressor"]))
    draws = cooler.draws_w / purpose.control_voltage_v if cooler and beside else heater_current(purpose).value
    needed, brought = times * draws, most_fault_a(purpose) or 0.0
    if needed <= brought:
        return
    yield Finding(
        "parts.own-mains-start",
        Severity.FAULT,
        title=f"The {WORDS[own.made_by]} hardly starts its compressor",
        reason=f"It starts with some {quantity(needed, 'A', '.0f')}, and no more than about {quantity(brought, 'A', '.0f')} come: it hums, "
        "stalls and trips its protector.",
        fix="A larger one, or one whose sheet names motors of this size.",
        subjects=("Supply",),
        source="typical of data sheets, from memory",
    )


def _pulses(purpose: Purpose, choice: Choice, own: OwnMains) -> Iterator[Finding]:
    share = heater_power(purpose).value / own.made_w
    if not purpose.heats or choice.actuator is Actuator.PHASE_ANGLE or share <= PULSES:
        return
    yield Finding(
        "parts.own-mains-pulses",
        Severity.ADVICE,
        title=f"At each pulse {percent(share)} of the {WORDS[own.made_by]} come and go",
        reason="Its voltage swings with every pulse, lamps flicker, and a speed governor hunts after them."
        if own.made_by is MadeBy.GENERATOR
        else "Its voltage swings with every pulse, and what else hangs on it feels that.",
        fix="A longer control period, a heater in smaller parts that take turns, or nothing delicate on the same source.",
        subjects=("Supply",),
        source="common practice, no source",
    )


def _waveform(choice: Choice, own: OwnMains) -> Iterator[Finding]:
    if choice.actuator is not Actuator.PHASE_ANGLE:
        return
    yield Finding(
        "parts.own-mains-waveform",
        Severity.FAULT,
        title=f"Phase angle on {ARTICLES[own.made_by]}",
        reason="It cuts into every half-wave of a source that is soft: the voltage is bent, the unit loses the zero it counts from, and "
        "the source's own control is disturbed or trips.",
        fix="An SSR that switches whole half-waves, or ask the makers of both.",
        subjects=("Phase-angle unit",),
        source="common practice, no source",
    )
