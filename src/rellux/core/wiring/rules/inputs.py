"""Sensor inputs: a sensor at every one that matters, both its legs, the right way and of the kind the input is set for."""

from dataclasses import dataclass

from ...findings import Finding, Severity
from ...sensing.sensors import describe
from ..circuit.failures import PROBES
from ..driven import Driven
from ..model import Part
from ..names import Family, TerminalName, split
from .case import Case, swap
from .sensor import sensor_of

INSTRUMENTS: tuple[Family, ...] = (
    "limiter",
    "controller_relay",
    "controller_ssr",
    "controller_analogue",
    "converter",
    "logger",
)
AT_HEATER = "heater"
PAIRS = (("IN+", "IN-", "IN3"), ("IN2+", "IN2-", ""))
"""Terminals of an instrument's inputs: plus, minus, and the third wire's."""


@dataclass(frozen=True)
class _Input:
    """One sensor input and what wires join to it."""

    instrument: Part
    plus: TerminalName
    minus: TerminalName
    third: TerminalName | None
    at_plus: frozenset[TerminalName]
    at_minus: frozenset[TerminalName]

    @property
    def severity(self) -> Severity:
        """A limiter that feels nothing is a danger, a controller a fault."""
        return Severity.DANGER if self.instrument.type.family == "limiter" else Severity.FAULT

    @property
    def wired(self) -> bool:
        return len(self.at_plus) > 1 or len(self.at_minus) > 1


def _inputs(case: Case) -> list[_Input]:
    found = []
    for part in case.wiring.of_kind(*INSTRUMENTS):
        for plus, minus, third in PAIRS:
            if part.type.terminal(plus):
                ends = part.at(plus), part.at(minus)
                third_end = part.at(third) if third and part.type.terminal(third) else None
                found.append(_Input(part, *ends, third_end, case.joined(ends[0]), case.joined(ends[1])))
    return found


def _ends(probe: Part) -> tuple[TerminalName, TerminalName]:
    first, second = probe.ends[:2]
    return first, second


def sensors(case: Case) -> list[Finding]:
    """Every input has a sensor, with both legs on terminals of their own."""
    found = []
    probes = case.wiring.of_kind(*PROBES)
    for at in _inputs(case):
        name = at.instrument.name
        if at.minus in at.at_plus:
            found.append(_bridged(at, [p for p in probes if set(_ends(p)) <= at.at_plus], case.driven))
        elif any(len({*_ends(p)} & at.at_plus) + len({*_ends(p)} & at.at_minus) == 2 for p in probes):
            shorted = [p for p in probes if set(_ends(p)) <= at.at_plus or set(_ends(p)) <= at.at_minus]
            found += [_bridged(at, shorted, case.driven)] if shorted else []
        elif at.wired:
            leg = next((p for p in probes if {*_ends(p)} & (at.at_plus | at.at_minus)), None)
            found.append(
                Finding(
                    "wiring.sensor-leg" if leg else "wiring.no-sensor",
                    at.severity,
                    title=f"Only one leg of {leg.name} reaches {name}"
                    if leg
                    else f"No sensor reaches {at.plus} and {at.minus}",
                    reason=f"An open input reads whatever its burnout setting says: it may {case.driven.do} on, or never trip.",
                    fix="Both legs, on terminals of their own.",
                    subjects=(name, *((leg.name,) if leg else ())),
                )
            )
        elif at.instrument.type.family != "logger":
            found.append(
                Finding(
                    "wiring.no-sensor",
                    at.severity,
                    title=f"{name} has no sensor"
                    if split(at.plus)[1] == "IN+"
                    else f"{name}'s second input has no sensor",
                    reason="A limiter that feels nothing guards nothing."
                    if at.instrument.type.family == "limiter"
                    else "It controls by a reading that does not exist.",
                    fix=f"A sensor to {at.plus} and {at.minus}.",
                    subjects=(name,),
                )
            )
    return found


def _bridged(at: _Input, legs: list[Part], driven: Driven) -> Finding:
    """An input whose two terminals are one: what it reads then is its own terminals."""
    name = at.instrument.name
    words = f"both legs of {legs[0].name} are on one terminal" if legs else "a wire joins its two terminals"
    return Finding(
        "wiring.sensor-bridged",
        Severity.DANGER,
        title=f"{name}'s input is shorted: {words}",
        reason="A shorted thermocouple input reads the temperature of its own terminals, a shorted resistive one the lowest there is: "
        f"it {driven.does} on, and a limiter never trips.",
        fix="Each leg on its own terminal, and nothing between them.",
        subjects=(name, *(p.name for p in legs)),
        source="common practice, no source",
    )


def limiter_type(case: Case) -> list[Finding]:
    """A limiter's input must be set for the sensor that is wired to it."""
    found = []
    for at in _inputs(case):
        set_for = at.instrument.ratings.get("sensor")
        if at.instrument.type.family != "limiter" or set_for is None:
            continue
        for probe in case.wiring.of_kind(*PROBES):
            fitted = sensor_of(probe)
            if fitted and {*_ends(probe)} & (at.at_plus | at.at_minus) and fitted != set_for:
                found.append(
                    Finding(
                        "wiring.limiter-type",
                        Severity.DANGER,
                        title=f"{at.instrument.name} is set for another sensor",
                        reason=f"{probe.name} is a {describe(fitted)}, the limiter is set for a {describe(str(set_for))}: it trips at "
                        "another temperature than it shows.",
                        fix=f"Set it for a {describe(fitted)}, or fit the other sensor.",
                        subjects=(at.instrument.name, probe.name),
                    )
                )
    return found


def exchanged(case: Case) -> list[Finding]:
    """A cascade's inner loop feels the heater, its outer one the chamber or the load: their probes exchanged."""
    found = []
    by_instrument: dict[str, dict[str, Part]] = {}
    for at in _inputs(case):
        for probe in case.wiring.of_kind(*PROBES):
            if {*_ends(probe)} & (at.at_plus | at.at_minus):
                inner = split(at.plus)[1] == "IN2+"
                by_instrument.setdefault(at.instrument.name, {})["inner" if inner else "outer"] = probe
    for name, seen in by_instrument.items():
        inner_probe, outer_probe = seen.get("inner"), seen.get("outer")
        if not inner_probe or not outer_probe:
            continue
        if outer_probe.ratings.get("place") == AT_HEATER and inner_probe.ratings.get("place") not in (AT_HEATER, None):
            found.append(
                Finding(
                    "wiring.probes-exchanged",
                    Severity.DANGER,
                    title=f"{outer_probe.name} and {inner_probe.name} are exchanged",
                    reason=f"{outer_probe.name} at the heater is on the input that {name} takes for the chamber, and the inner loop "
                    "feels the chamber: it asks for heat until the chamber is as hot as the heater may be.",
                    fix=f"{inner_probe.name} to {name}.IN+ and IN-, {outer_probe.name} to IN2+ and IN2-; or say where each tip is.",
                    subjects=(outer_probe.name, inner_probe.name, name),
                )
            )
    return found


def three_wires(case: Case) -> list[Finding]:
    """A three-wire Pt100: one leg at plus, the two that are joined in the probe at minus and at the third terminal."""
    found = []
    for at in _inputs(case):
        for probe in case.wiring.of_kind("pt100"):
            a, b, b2 = (probe.at(t) for t in ("A", "B", "B2"))
            if not at.third or at.minus in at.at_plus or not {a, b, b2} & at.at_plus or not {a, b, b2} & at.at_minus:
                continue
            at_third = case.joined(at.third)
            third_wired = bool(case.wires_at(b2))
            exchanged = a in at.at_minus and {b, b2} & at.at_plus
            misplaced = third_wired and not exchanged and not ({b, b2} <= at.at_minus | at_third and {b, b2} & at_third)
            if not exchanged and not misplaced:
                continue
            found.append(
                Finding(
                    "wiring.rtd-order",
                    Severity.FAULT,
                    title=f"{probe.name}'s {'legs are exchanged' if exchanged else 'third wire is misplaced'}",
                    reason="The third wire then measures another lead than the one it is there for: the reading is wrong by the leads, "
                    "and by much more if it crosses the element.",
                    fix=f"A to {at.plus}, B and B2 to {at.minus} and {at.third}: those two show next to no ohms between them.",
                    subjects=(probe.name, at.instrument.name),
                    proposal=swap(case, at.plus, at.minus) if exchanged else None,
                    source="IEC 60751; common practice",
                )
            )
    return found
