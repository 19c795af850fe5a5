"""What every parameter should be for this rig, and why."""

from ...calibration.schools import OffsetSchool, converted
from ...control.settings import Mode
from ...messages import difference, temperature
from ...purpose.purpose import Purpose
from ...sensing.sensors import describe, sensor_range
from ..parameters import Sheet
from .alarms import propose_alarms
from .cooler import REST_S, RUN_S, propose_cooler
from .facts import Proposed, RigFacts
from .inner import in_two, propose_inner
from .service import propose_front, propose_input, propose_link, propose_outputs, propose_starts

PERIODS = {"relay": 20.0, "contactor": 20.0, "ssr": 2.0, "mosfet": 0.1, "phase_angle": 0.0, "none": 20.0}
PERIOD_REASON = {
    "phase_angle": "The unit takes a share of every half-wave: there is no period.",
    "relay": "A mechanical relay wants 15–30 s: 20 s is common; shorter wears it out.",
    "contactor": "A contactor wants 15–30 s: 20 s is common; shorter wears it out.",
    "ssr": "An SSR does not wear: 1–2 s keeps the ripple small.",
    "mosfet": "Ten pulses a second: no heated mass follows them, and at this rate nothing sings (common practice, no source).",
    "none": "Nothing is switched.",
}


def propose(facts: RigFacts) -> tuple[Proposed, ...]:
    """A value and a reason for every parameter of the sheet."""
    p = facts.purpose
    low, high = sensor_range(facts.sensor)
    ceiling = min(p.highest_c - headroom(p), high)
    tuned = facts.tuning or {}
    band = max(round((p.working_c - p.ambient_c) * 0.1, 1), 2.0)
    mode, mode_reason = _mode(p, tuned)
    both = in_two(facts, PERIODS[facts.actuator])
    integral_s = 300.0
    if both is not None:
        band, integral_s = round(both.pid.proportional_band_c, 1), float(round(both.pid.integral_time_s))
    untuned = "A starting value only, until a run is recorded and tuned."
    return (
        Proposed("input_type", facts.sensor, f"The rig has a {describe(facts.sensor)}."),
        Proposed("display_unit", "C", "Everything else here is entered in the unit set first."),
        _school(facts),
        Proposed(
            "offset_c",
            converted(facts.calibrated_offset_c or 0.0, facts.calibrated_school, offset_school(facts)),
            "As left by the last calibration."
            if facts.calibrated_offset_c is not None
            else "Zero until this sensor has been calibrated.",
        ),
        Proposed("setpoint_c", p.working_c, "The working temperature."),
        *_limits(p, ceiling, low),
        Proposed("mode", mode, mode_reason),
        Proposed("action", "cooling", "The output cools: more of it when too warm.")
        if p.cools
        else Proposed("action", "heating", "The output heats: more of it when too cold."),
        Proposed(
            "hysteresis_c", 2.0, "A compressor stands 6 to 10 starts an hour: what is between on and off sets them."
        )
        if p.cools
        else Proposed(
            "hysteresis_c",
            float(tuned.get("hysteresis_c", 1.0)),
            "Small enough for the window; dead time sets the rest of the swing.",
        ),
        Proposed("switch_off_c", p.working_c, "The working temperature."),
        Proposed(
            "switch_on_c",
            p.working_c + 2.0 if p.cools else p.working_c - float(tuned.get("hysteresis_c", 1.0)),
            "The hysteresis before it.",
        ),
        Proposed("hysteresis_school", facts.controller_hysteresis, "The controller is made so.")
        if facts.controller_hysteresis
        else Proposed(
            "hysteresis_school", "one_sided", "Off at the set-point, so it never aims beyond it: the safer school."
        ),
        Proposed(
            "proportional_band_c", float(tuned.get("proportional_band_c", band)), "From Tuning." if tuned else untuned
        ),
        Proposed(
            "integral_time_s", float(tuned.get("integral_time_s", integral_s)), "From Tuning." if tuned else untuned
        ),
        Proposed("derivative_time_s", float(tuned.get("derivative_time_s", 0.0)), "From Tuning." if tuned else untuned),
        Proposed(
            "setpoint_weight", 1.0, "All of it, as nearly every controller does; less overshoots less and comes later."
        ),
        Proposed("anti_windup", facts.controller_windup, "The controller is made so.")
        if facts.controller_windup
        else Proposed(
            "anti_windup",
            "stops",
            "Least overshoot after a heat-up at full output. Where it cannot be set, say how yours does it.",
        ),
        Proposed("integrates_within_c", 0.0, "Everywhere: where it stops at full output, nothing winds up."),
        Proposed("period_s", PERIODS[facts.actuator], PERIOD_REASON[facts.actuator]),
        Proposed("output_high", 100.0, "No reason to limit power yet."),
        Proposed("sensor_failure_output", 0.0, "Off when the sensor is lost: it would freeze the load.")
        if p.cools
        else Proposed("sensor_failure_output", 0.0, "Heat off when the sensor is lost."),
        Proposed(
            "minimum_off_s",
            REST_S,
            "3 to 5 min until pressures are even; a start before that stalls it (typical, from memory).",
        ),
        Proposed(
            "alive_after_s",
            ALIVE_AFTER_S,
            "Before embers are out (typical of charcoal and wood, from memory): try it on your fuel.",
        ),
        Proposed("alive_s", ALIVE_S, "A breath that makes them glow again."),
        *propose_inner(facts, both),
        *propose_cooler(facts),
        Proposed("minimum_on_s", RUN_S, "1 to 2 min until its oil has come back (typical, from memory)."),
        *propose_input(facts),
        *propose_starts(facts),
        *propose_outputs(facts),
        *propose_alarms(facts),
        *propose_link(facts),
        *propose_front(facts),
    )


ALIVE_AFTER_S, ALIVE_S = 1800.0, 20.0
"""A fire stands so long before it gets a breath, and how long that is, s."""


def _limits(p: Purpose, ceiling: float, sensor_low: float) -> tuple[Proposed, Proposed]:
    """What may be asked for: the dangerous side is kept clear of what must never be passed."""
    if p.cools and p.lowest_c is not None:
        room = cold_headroom(p)
        return (
            Proposed("setpoint_high_c", p.highest_c, p.highest_reason or "Nothing is held above it."),
            Proposed(
                "setpoint_low_c",
                round(max(p.lowest_c + room, sensor_low), 1),
                f"Above {temperature(p.lowest_c)} ({p.lowest_reason}) by {difference(room, '.1f')} for running on.",
            ),
        )
    return (
        Proposed(
            "setpoint_high_c",
            round(ceiling, 1),
            f"Below {temperature(p.highest_c)} ({p.highest_reason}) by {difference(headroom(p), '.1f')} for ordinary overshoot.",
        ),
        Proposed(
            "setpoint_low_c",
            max(p.lowest_c if p.lowest_c is not None else 0.0, sensor_low),
            p.lowest_reason or "Nothing useful happens below it.",
        ),
    )


def cold_headroom(purpose: Purpose) -> float:
    """Room in °C kept above the lowest allowed temperature of a rig that cools: a quarter of the gap, at least half a degree."""
    gap = purpose.working_c - (purpose.lowest_c if purpose.lowest_c is not None else purpose.working_c)
    return min(max(0.25 * gap, 0.5), 0.5 * gap)


def _mode(purpose: Purpose, tuned: Sheet) -> tuple[str, str]:
    if not purpose.acts:
        return Mode.OFF.value, "It only watches."
    if purpose.cools:
        return Mode.ON_OFF.value, "A compressor is switched on and off, with rests between."
    if tuned:
        return str(tuned.get("mode", Mode.ON_OFF)), "As accepted in Tuning."
    return Mode.ON_OFF.value, "Start with on/off, see the swing, then decide whether it is good enough."


def offset_school(facts: RigFacts) -> OffsetSchool:
    """The school this rig's controller follows: as its map says, else as its sheet says, else as it was calibrated."""
    return facts.controller_school or facts.sheet_school or facts.calibrated_school


def _school(facts: RigFacts) -> Proposed:
    reason = "As the last calibration took it; find out by entering 1 ° and watching the display."
    if facts.controller_school:
        reason = "The controller takes its offsets this way."
    elif facts.sheet_school:
        reason = "As saved in this sheet."
    elif facts.calibrated_offset_c is None:
        reason = "The more usual kind; find out by entering 1 ° and watching the display."
    return Proposed("offset_school", offset_school(facts).value, reason)


def headroom(purpose: Purpose) -> float:
    """Room in °C kept below the highest allowed temperature for ordinary overshoot: a fifth of the gap, at least 2 °C,
    never more than half of it (common practice, no source)."""
    gap = purpose.highest_c - purpose.working_c
    return min(max(0.2 * gap, 2.0), 0.5 * gap)
