"""The sensor's run: its wires, what they pass, and what they lie beside."""

from ...findings import Finding, Severity
from ...heating.conductor_tables import Practice
from ...heating.wire import ohm_per_metre
from ...messages import difference, quantity
from ...sensing.colours import ANSI_E230, IEC_60584_3
from ..model import Circuit, Connection, Part
from ..names import terminal_of
from .case import Case
from .earth import earths

OHM_TO_C = 2.6
"""Error of a Pt100 for each ohm of its loop, °C (IEC 60751: 1/0.385)."""
SHORT_LEADS_C = 0.3


def _legs(case: Case, probe: Part) -> tuple[list[Connection], list[Connection]]:
    """Wires of a thermocouple's plus leg and of its minus leg, all the way to the instrument."""
    plus, minus = case.joined(probe.at("+")), case.joined(probe.at("-"))
    wires = case.wiring.connections
    return [w for w in wires if {w.a, w.b} <= plus], [w for w in wires if {w.a, w.b} <= minus]


def copper(case: Case) -> list[Finding]:
    """Copper in place of extension wire moves the cold junction to the probe's head."""
    return [
        Finding(
            "wiring.copper",
            Severity.FAULT,
            title=f"{probe.name} goes on in copper",
            reason="It then reads low by what the probe's head is warmer than the terminals.",
            fix=f"Extension wire of type {probe.ratings.get('sensor', 'K')} all the way to the instrument.",
            subjects=(probe.name, *(w.name for w in wires)),
            source="NIST Monograph 175; IEC 60584-3",
        )
        for probe in case.wiring.of_kind("thermocouple")
        if (wires := [w for leg in _legs(case, probe) for w in leg if w.insulation == "copper_pair"])
    ]


def colours(case: Case) -> list[Finding]:
    """Colours that say the opposite of what is connected, by the standard of the practice chosen."""
    standard = IEC_60584_3 if case.context.practice is Practice.IEC else ANSI_E230
    found = []
    for probe in case.wiring.of_kind("thermocouple"):
        expected = standard.get(str(probe.ratings.get("sensor", "K")))
        plus, minus = _legs(case, probe)
        if not expected or not plus or not minus or plus == minus:
            continue
        legs = [(w, expected[i], expected[1 - i]) for i, leg in enumerate((plus, minus)) for w in leg]
        turned = [w for w, own, other in legs if w.colour == other]
        strange = [w for w, own, other in legs if w.colour not in (own, other)]
        letter = probe.ratings.get("sensor", "K")
        if turned:
            whole = len(turned) == len(legs)
            found.append(
                Finding(
                    "wiring.tc-colours",
                    Severity.FAULT,
                    title=f"The colours of {probe.name} say the opposite"
                    + ("" if whole else f" at wire {turned[0].number}"),
                    reason=f"By this standard {expected[0]} is positive; here {expected[1]} is.",
                    fix="Warm the tip: the reading must rise. Then correct the wires or the list.",
                    subjects=(probe.name, *(w.name for w in turned)),
                    source="IEC 60584-3, ASTM E230; from memory",
                )
            )
        elif strange:
            found.append(
                Finding(
                    "wiring.tc-colours",
                    Severity.ADVICE,
                    title=f"The colours of {probe.name} are not those of its type",
                    reason=f"{' and '.join(dict.fromkeys(w.colour for w in strange))}; by this standard type {letter} is"
                    f" {expected[0]} and {expected[1]}. It may be another standard's cable, or another type.",
                    fix="Ask which wire is positive, and make the test named there.",
                    subjects=(probe.name, *(w.name for w in strange)),
                    source="IEC 60584-3, ASTM E230; from memory",
                )
            )
    return found


def terminals(case: Case) -> list[Finding]:
    """A thermocouple through plain terminals is right only while both are equally warm."""
    found = []
    for probe in case.wiring.of_kind("thermocouple"):
        passed = case.parts_at(probe.at("+")) & case.parts_at(probe.at("-"))
        plain = [n for n in sorted(passed) if case.wiring.part(n).type.kind in ("terminal_block", "slip_ring")]
        if plain:
            found.append(
                Finding(
                    "wiring.tc-terminals",
                    Severity.ADVICE,
                    title=f"{probe.name} passes {plain[0]}",
                    reason="Every pair of plain terminals that is not equally warm adds a small thermocouple of its own.",
                    fix="Terminals and plugs of the type's own alloy, or keep the two screws close and cool.",
                    subjects=(probe.name, *plain),
                )
            )
    return found


def leads(case: Case) -> list[Finding]:
    """A Pt100 by two wires reads its leads as temperature."""
    found = []
    for probe in case.wiring.of_kind("pt100"):
        if case.wires_at(probe.at("B2")):
            continue
        loop = sum(
            ohm_per_metre("AWG", w.area_mm2, 25.0) * w.length_m
            for end in ("A", "B")
            for w in case.wires_at(probe.at(end))
        )
        if loop * OHM_TO_C > SHORT_LEADS_C:
            found.append(
                Finding(
                    "wiring.rtd-leads",
                    Severity.FAULT,
                    title=f"{probe.name} reads {difference(loop * OHM_TO_C, '.1f')} high by its leads",
                    reason=f"On two wires the {quantity(loop, 'Ω', '.2f')} of the leads count as sensor.",
                    fix="Its third wire, from B2 to the input's third terminal.",
                    subjects=(probe.name,),
                    source="IEC 60751: about {2.6 Δ°C} for each ohm of loop",
                )
            )
    return found


def grounded(case: Case) -> list[Finding]:
    """A grounded junction on an earthed case and an input that is not isolated: two earths. So are two grounded junctions on
    two inputs that share a ground."""
    probes = [p for p in case.wiring.of_kind("thermocouple") if p.ratings.get("junction") == "grounded"]
    inputs = [(p, name) for p in probes for name in sorted(case.parts_at(p.at("-"))) if _common(case, name)]
    metal = [p.at("PE") for p in case.wiring.of_kind("enclosure")]
    if set(metal) & case.conduction.reach(earths(case)):
        inputs_earthed = [(p, name) for p, name in inputs if _grounded_itself(case, name)]
    else:
        inputs_earthed = []
    found = [
        Finding(
            "wiring.tc-grounded",
            Severity.FAULT,
            title=f"{probe.name} is grounded, and so is {name}'s input",
            reason=f"The case and the instrument are two earths: no reading, or noise that follows the {case.driven.noun}.",
            fix="A probe with an insulated junction, or an isolated input.",
            subjects=(probe.name, name),
        )
        for probe, name in inputs_earthed
    ]
    if len(inputs) > 1 and not found and len({name for _, name in inputs}) > 1:
        names = tuple(p.name for p, _ in inputs)
        found.append(
            Finding(
                "wiring.tc-grounded",
                Severity.FAULT,
                title=f"{' and '.join(names)} are grounded, on inputs that share a ground",
                reason="Through the metal they touch and the ground they share a current flows in their leads: both read wrong.",
                fix="Probes with insulated junctions, or inputs that are isolated from each other.",
                subjects=(*names, *(name for _, name in inputs)),
                source="common practice, no source",
            )
        )
    return found


def _common(case: Case, name: str) -> bool:
    """Whether a part's sensor input is not isolated from its supply."""
    part = case.wiring.part(name)
    usual = next((str(r.usual) for r in part.type.ratings if r.name == "input"), "isolated")
    return part.ratings.get("input", usual) == "common"


def _grounded_itself(case: Case, name: str) -> bool:
    """Whether an instrument's ground is at earth: one on mains is by its supply, a board only where its ground is wired there."""
    part = case.wiring.part(name)
    if part.type.terminal("GND") is None:
        return True
    return bool(case.joined(terminal_of(name, "GND")) & case.conduction.reach(earths(case)))


def bundle(case: Case) -> list[Finding]:
    """Sensor wires in the duct of heater wires pick up what those carry."""
    power = {w.route for w in case.wiring.connections if w.circuit is Circuit.POWER and w.route}
    beside = [w for w in case.wiring.connections if w.circuit is Circuit.SENSOR and w.route in power]
    if not beside:
        return []
    return [
        Finding(
            "wiring.bundle",
            Severity.ADVICE,
            title=f"Sensor wires lie beside {case.driven.noun} wires in {beside[0].route}",
            reason=f"Microvolts beside amperes: the reading jumps whenever the {case.driven.noun} switches.",
            fix="A duct of their own, twisted, shielded, the shield earthed at one end only.",
            subjects=tuple(w.name for w in beside),
            source="common practice, no source",
        )
    ]
