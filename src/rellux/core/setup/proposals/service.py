"""What else a controller asks for: filter and scale, starts, outputs, signal, link and front."""

from collections.abc import Iterator

from ...calibration.corrections import MOST_POINTS
from ...messages import temperature
from ...purpose.purpose import Purpose
from ...sensing.sensors import describe, sensor_range
from ..dictionary.output import COOLING, OUTPUTS
from .alarms import planned_here
from .facts import Linked, Proposed, RigFacts

FOUR_DIGITS = 9999
"""What four digits count to: with one behind the point they end at 999.9."""
UNUSED_C = -50.0
"""Where a point of a correction stands that is not in use, °C (our choice: nothing here is colder, and every page takes it)."""
FAN_ABOVE_C = 10.0
"""How far above the room a fan that carries heat away starts, °C (our choice: cold, it need not run)."""


def propose_input(facts: RigFacts) -> Iterator[Proposed]:
    """Decimals, scale, slope and filter."""
    low, high = sensor_range(facts.sensor)
    fits = facts.purpose.highest_c * 10 <= FOUR_DIGITS
    yield Proposed(
        "display_decimals",
        "1" if fits else "0",
        f"One digit behind the point still shows {temperature(facts.purpose.highest_c)}."
        if fits
        else f"With one behind the point four digits end at 999.9, below {temperature(facts.purpose.highest_c)}.",
    )
    yield Proposed("scale_low_c", low, f"A {describe(facts.sensor)} begins there.")
    yield Proposed("scale_high_c", high, f"A {describe(facts.sensor)} ends there; nothing hot is then off the scale.")
    kept = facts.corrected or {}
    found = "As calibrated at several temperatures."
    one = "One offset does for one working temperature; a slope needs two points."
    yield Proposed("gain_correction", kept.get("gain_correction", 1.0), found if kept else one)
    yield Proposed("correction", kept.get("correction", "offset"), found if kept else one)
    for n in range(1, MOST_POINTS + 1):
        at, add = f"point_{n}_at_c", f"point_{n}_add_c"
        yield Proposed(
            at, kept.get(at, low), found if at in kept else "Not in use: no point is below the one before it."
        )
        yield Proposed(add, kept.get(add, 0.0), found if add in kept else one)
    yield Proposed("filter_s", 0.0, "None, unless the reading is noisy: it would only come later.")


def propose_starts(facts: RigFacts) -> Iterator[Proposed]:
    """What is held when: run state, programme, starts, and the set-points beside the first."""
    p = facts.purpose
    yield Proposed("run_state", "automatic", "It regulates.")
    yield Proposed("setpoint_source", "local", "Its own set-point: what is written over a link is written there too.")
    yield Proposed(
        "programme",
        "on" if facts.programme_top_c is not None else "off",
        "A profile is kept for this rig." if facts.programme_top_c is not None else "No profile is kept for this rig.",
    )
    yield Proposed("ramp_c_per_min", 0.0, "A programme says how fast; without one, as fast as its power allows.")
    yield Proposed("soft_start_s", 0.0, "Only for heaters that draw much more when cold.")
    yield (
        Proposed("after_power", "go_on", "What is cold must stay cold; its rest after a start is kept apart.")
        if p.cools
        else Proposed(
            "after_power",
            "stand_by",
            "Nobody knows what happened to the load meanwhile: somebody looks first. Others let it go on, where a cold load costs more.",
        )
    )
    yield Proposed("start_setpoint_c", _at_rest(p), "Where nothing happens to the load.")
    yield Proposed("second_setpoint", "off", "One set-point only; a second one is for stand-by or a boost.")
    yield Proposed("second_setpoint_c", _at_rest(p), "Where nothing happens to the load.")
    yield Proposed("idle_s", 1800.0, "Half an hour without use, where it is used.")


def _at_rest(p: Purpose) -> float:
    return p.working_c if p.cools else max(p.ambient_c, p.lowest_c if p.lowest_c is not None else p.ambient_c)


def propose_outputs(facts: RigFacts) -> Iterator[Proposed]:
    """Which function is on which output, limits, signal and fan."""
    alarms = [f"alarm_{i + 1}" for i in range(len(planned_here(facts.plan)))]
    regulates = ["control", COOLING] if facts.purpose.cooler else ["control"]
    functions = [*regulates, *alarms] if facts.purpose.acts else alarms
    for n in OUTPUTS:
        does = functions[n - 1] if n <= len(functions) else "none"
        told = {
            "control": "The first output regulates.",
            COOLING: "The cooler’s relay hangs on the second.",
            "none": "Nothing is left for it.",
        }
        yield Proposed(f"output_{n}", does, told.get(does, "Guarding’s alarms in their order, on what is left."))
    yield Proposed("output_low", 0.0, "Off must be off: above 0 it heats with no set-point to stop it.")
    yield Proposed("output_curve", "power", "The rules of Tuning count in shares of power.")
    low, high = sensor_range(facts.sensor)
    yield Proposed("retransmission", "off", "Nothing here takes a signal from it.")
    yield Proposed("retransmission_signal", "4_20", "A broken wire then reads below 4 mA, and is seen.")
    yield Proposed("retransmission_low_c", low, "The input’s own scale.")
    yield Proposed("retransmission_high_c", high, "The input’s own scale.")
    yield Proposed(
        "fan_above_c",
        facts.purpose.ambient_c + FAN_ABOVE_C,
        "A fan that carries heat away runs as soon as there is any.",
    )
    yield Proposed("fan_speed", 100.0, "All of it, until it is too loud or moves the load.")
    yield Proposed(
        "fan_run_on_s",
        0.0,
        "Only where a fan carries heat away: then until what is round it has given off its own, some minutes.",
    )


def propose_link(facts: RigFacts) -> Iterator[Proposed]:
    """How it is reached, and what it does when it no longer is."""
    linked, none = facts.linked or Linked("none"), "Nothing is linked to it."
    told = "As Rellux reaches it." if facts.linked else none
    yield Proposed("protocol", linked.protocol, told)
    yield Proposed("link_address", float(linked.address), told)
    yield Proposed("link_baud", str(linked.baud), told)
    yield Proposed("link_parity", linked.parity, told)
    yield Proposed("link_stop_bits", str(linked.stop_bits), told)
    yield Proposed(
        "write_enable",
        "on" if linked.writes else "off",
        "Rellux writes to it, when somebody arms it."
        if linked.writes
        else "Reading is enough; nobody changes it from afar.",
    )
    cools = facts.purpose.cools
    yield Proposed(
        "link_lost",
        "goes_on" if cools else "local",
        "What is cold must stay cold." if cools else "Its own set-point: what was written last may be wrong by then.",
    )


def propose_front(facts: RigFacts) -> Iterator[Proposed]:
    yield Proposed("display", "on", "Somebody looks at it.")
    yield Proposed("brightness", 100.0, "To be read from two metres.")
    yield Proposed("lock", "setpoint", "Whoever passes can change the set-point, inside its limits, and nothing else.")
