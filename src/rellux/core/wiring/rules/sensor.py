"""Sensors: thermocouple polarity, sensor against input."""

from ...findings import Finding, Proposal, Severity
from ...sensing.sensors import describe
from ..driven import COOLER, Driven
from ..model import Part
from ..names import split
from .case import Case, swap


def polarity(case: Case) -> list[Finding]:
    """Thermocouple plus to plus. Reversed, the reading falls while the load heats."""
    found = []
    for probe in case.wiring.of_kind("thermocouple"):
        plus = case.conduction.reach([probe.at("+")])
        minus = case.conduction.reach([probe.at("-")])
        for instrument in case.wiring.of_kind("controller_relay", "controller_ssr", "limiter", "converter"):
            for first, second in (("IN+", "IN-"), ("IN2+", "IN2-")):
                if instrument.at(second) not in plus or instrument.at(first) not in minus:
                    continue
                found.append(
                    Finding(
                        "wiring.tc-polarity",
                        Severity.DANGER,
                        title=f"{probe.name} is connected backwards",
                        reason=_backwards(case.driven),
                        fix=f"Swap the two wires at {instrument.name}. Check with a warm hand: the reading must rise.",
                        subjects=(probe.name, instrument.name),
                        proposal=swap(case, instrument.at(first), instrument.at(second)),
                        source="E(T_read) = 2 E(T_cj) − E(T), NIST Monograph 175",
                    )
                )
    return found


def sensor_of(probe: Part) -> str | None:
    """What a probe is: as rated, or the only thing its kind can be; None where nobody said which."""
    rating = probe.type.ratings[0]
    return str(probe.ratings.get("sensor", rating.usual if len(rating.options) == 1 else "")) or None


def sensor_type(case: Case) -> list[Finding]:
    """The input must be set for the sensor that is wired to it."""
    found = []
    for probe in case.wiring.of_kind("thermocouple", "pt100", "pt1000", "thermistor"):
        fitted = sensor_of(probe)
        if fitted is None:
            continue
        ends = [split(t) for t in case.joined(probe.ends[0])]
        joined = {part for part, terminal in ends if not terminal.startswith("IN2")}  # the inner loop has its own input
        for controller in case.wiring.of_kind("controller_relay", "controller_ssr", "converter"):
            if controller.name in joined and fitted != case.context.input_type:
                found.append(
                    Finding(
                        "wiring.sensor-type",
                        Severity.DANGER,
                        title="Sensor and input do not match",
                        reason=f"{probe.name} is a {describe(fitted)}, the input of {controller.name} is set for a "
                        f"{describe(case.context.input_type)}.",
                        fix="Set the input type, or fit the other sensor.",
                        subjects=(probe.name, controller.name),
                        proposal=Proposal("setup.input_type", fitted, label=f"Set the input to {fitted}"),
                    )
                )
    return found


def _backwards(driven: Driven) -> str:
    moves = "rises" if driven is COOLER else "falls"
    return f"The reading {moves} as the load {driven.does}, so the controller {driven.does} harder and harder."
