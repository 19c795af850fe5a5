"""Which wire and breaker, and would the next smaller one do?"""

from dataclasses import dataclass, replace
from math import sqrt
from typing import Any

from ...errors import Refused
from ...explain import Figure, Input
from ...findings import Finding, Severity, worst_first
from ...heating.conductor_tables import SCHOOL, SOURCE, Practice
from ...heating.conductors import Insulation, Laying, Run, Size, Sizing, size, usual_run
from ...heating.protection import AT_ONCE, PLUG_TAKES_MM2, adiabatic_k, fault_loop, sizing_for, withstands
from ...heating.wire import nearest_awg
from ...messages import percent, quantity, temperature
from ...units import Kind
from ...wiring.generate import loaded_cores
from ..answer import Alternative, Answer, Bar, Known, Question, Topic
from ..form import choice, number
from ..rig_values import amps

AT_LIMIT, AS_THICK = 0.95, 0.99
"""Share of its ampacity at which a wire is at its limit (common practice, no source); a fitted wire as thick as the least, within
the rounding of AWG (our choice)."""

NOT_YET = {"B": 3.0, "C": 5.0, "D": 10.0}
"""Times its rating at which a breaker of each curve surely does not yet open at once (IEC 60898-1)."""
NEC_NOT_YET = 5.0
"""The same for a usual North American breaker (from memory; they are set higher)."""

ROUTE = {"two": "Single-phase or DC, two wires", "three": "Three-phase, three wires"}
DROP_SHARE = 0.03
"""Voltage drop worth a word: 3 % (NEC 210.19 note; IEC 60364-5-52 annex G has 3 % and 5 %)."""


@dataclass(frozen=True)
class WireInput:
    """A load and the way its wire runs."""

    current_a: float = number("Load current", Kind.CURRENT, 0.1, 200, 13)
    practice: Practice = choice(
        "Sized by", {Practice.IEC: SCHOOL[Practice.IEC], Practice.NEC: SCHOOL[Practice.NEC]}, Practice.IEC
    )
    route: str = choice("Wires", ROUTE, "two")
    voltage_v: float = number("Voltage between them", Kind.VOLTAGE, 3, 690, 230)
    laying: Laying = choice(
        "Laid as", {Laying.CORD: "Flexible cord", Laying.CONDUIT: "Wires in conduit or trunking"}, Laying.CORD
    )
    insulation: Insulation = choice(
        "Insulation",
        {
            Insulation.PVC: "PVC (cord {60 °C})",
            Insulation.XLPE: "Cross-linked, {90 °C}",
            Insulation.SILICONE: "Silicone, {180 °C}",
            Insulation.PTFE: "PTFE, {250 °C}",
            Insulation.GLASS: "Glass braid, {400 °C}",
        },
        Insulation.PVC,
    )
    ambient_c: float = number("Hottest place on the way", Kind.TEMPERATURE, -20, 500, 30)
    together: float = number(
        "Together in one bundle",
        Kind.COUNT,
        1,
        40,
        1,
        hint="circuits (IEC), loaded conductors (NEC: 3 and fewer count nothing)",
    )
    length_m: float = number("Length, one way", Kind.METRES, 0.1, 500, 3)
    terminals: str = choice(
        "Ends marked",
        {
            "0": "Not at all: {70 °C} (IEC), {60 °C} (NEC)",
            "60": "{60 °C}",
            "70": "{70 °C}",
            "75": "{75 °C}",
            "90": "{90 °C}",
        },
        "0",
        hint="terminals, plug, breaker: the coolest decides",
    )

    curve: str = choice(
        "Breaker's curve",
        {"B": "B: trips at 3–5 times", "C": "C: 5–10 times", "D": "D: 10–20 times"},
        "B",
        when=("practice", (Practice.IEC,)),
    )
    inrush: float = number(
        "Switch-on current, times the load's", Kind.RATIO, 1, 20, 1, hint="lamps 8–12, transformers 10–15, plain wire 1"
    )
    plug_a: float | None = number("Ends in a plug of (if any)", Kind.CURRENT, 1, 63, None, optional=True)
    fitted_mm2: float | None = number("Fitted now (if any)", Kind.AREA, 0.05, 120, None, optional=True)

    def run(self) -> Run:
        return Run(
            self.practice,
            self.laying,
            self.insulation,
            3 if self.route == "three" else 2,
            self.ambient_c,
            round(self.together),
            self.length_m,
            self.voltage_v,
            int(self.terminals),
        )


def _answer(g: WireInput) -> Answer:
    found = size(g.current_a, g.run())
    best = found.best
    if best is None:
        return _none(g, found)
    at = found.sizes.index(best)
    shown = found.sizes[max(0, at - 1) : at + 3]
    full = max(s.allowed_a for s in shown)
    return Answer(
        f"{_both(best)} behind a {quantity(found.breaker_a, 'A')} breaker.",
        _figures(g, found, best),
        tuple(worst_first([*_findings(g, best), *_inrush(g, found), *_plug(g, best)])),
        bars=tuple(
            Bar(s.label, _allowed(s, g), full, g.current_a, _word(i, found, s), Severity.DANGER if s.wrong else None)
            for i, s in enumerate(found.sizes)
            if s in shown
        ),
        alternatives=tuple(_alternative(i, s, g, found) for i, s in enumerate(found.sizes) if s in shown),
    )


def _none(g: WireInput, found: Sizing) -> Answer:
    """Nothing of its kind will do: what of the other kind would."""
    last, fixed = found.sizes[-1], size(g.current_a, replace(g.run(), laying=Laying.CONDUIT)).best
    if g.laying is Laying.CORD and fixed:
        headline = (
            f"No cord is made for this: {_both(fixed)} in conduit behind a {quantity(found.breaker_a, 'A')} breaker."
        )
        fix = f"Fixed wiring: {_both(fixed)}, in conduit or trunking, and no plug."
    else:
        headline = "No size in the table will do here."
        fix = "Cooler route, hotter insulation, fewer together, or have it designed."
    finding = Finding(
        "wire.none",
        Severity.DANGER,
        title="No cord will do" if g.laying is Laying.CORD else "No size in the table will do",
        reason=f"{last.label}: {last.wrong[0]}.",
        fix=fix,
    )
    return Answer(headline, findings=(finding,))


def _word(i: int, found: Sizing, s: Size) -> str:
    if s.wrong:
        return "too thin"
    return "the least" if i == found.chosen else "comfortable"


def _both(s: Size) -> str:
    """A size in its own words and the other world's."""
    return (
        f"{s.label} ({quantity(s.area_mm2, 'mm²', '.2g')})"
        if "AWG" in s.label
        else f"{s.label} (about {nearest_awg(s.area_mm2)} AWG)"
    )


def _allowed(s: Size, g: WireInput) -> Figure:
    return Figure(
        f"{s.label} may carry",
        s.allowed_a,
        Kind.CURRENT,
        formula="I_z = min(I_table × factor, I_ends)",
        inputs=(
            Input("table at {30 °C}", s.base_a, Kind.CURRENT, "I_table", "table"),
            Input("ambient and grouping", s.factor, Kind.RATIO, "factor", "computed"),
            Input("hottest place", g.ambient_c, Kind.TEMPERATURE, "T_a", "given"),
            Input(f"its ends, at {temperature(g.run().ends_c)}", s.ends_a, Kind.CURRENT, "I_ends", "table"),
        ),
        reason="What is left at this temperature and in this company, and never more than its ends stand.",
        source=SOURCE[g.practice],
        school=SCHOOL[g.practice],
        symbol="I_z",
    )


def _alternative(i: int, s: Size, g: WireInput, found: Sizing) -> Alternative:
    share = s.drop_v / g.voltage_v
    says = (
        s.wrong[0]
        if s.wrong
        else f"drops {percent(share, '.1f')}, {quantity(s.heat_w_m, 'W/m', '.1f')}, {temperature(s.conductor_c, '.0f')} inside"
    )
    return Alternative(
        s.label, _both(s), Severity.DANGER if s.wrong else None, says=says, reasons=s.wrong, chosen=i == found.chosen
    )


def _figures(g: WireInput, found: Sizing, best: Size) -> tuple[Figure, ...]:
    iec = g.practice is Practice.IEC
    earth = g.voltage_v / sqrt(3.0) if g.route == "three" else g.voltage_v
    drop = "√3 L I r" if g.route == "three" else "2 L I r"
    figures = [
        Figure(
            "breaker",
            found.breaker_a,
            Kind.CURRENT,
            formula="I_n ≥ I_b" if iec else "I_n ≥ 1.25 I_b",
            inputs=(Input("load", g.current_a, Kind.CURRENT, "I_b", "given"),),
            reason="The smallest standard one that carries the load for hours.",
            source=SOURCE[g.practice],
            school=SCHOOL[g.practice],
            symbol="I_n",
        ),
        _allowed(best, g),
        Figure(
            "voltage drop",
            best.drop_v,
            Kind.VOLTAGE,
            formula=drop,
            inputs=(
                Input("length", g.length_m, Kind.METRES, "L", "given"),
                Input("load", g.current_a, Kind.CURRENT, "I", "given"),
            ),
            reason="Stranded conductor at its working temperature.",
            source="IEC 60228 class 5; ASTM B258",
        ),
        Figure(
            "heat along the way",
            best.heat_w_m,
            Kind.POWER_PER_METRE,
            formula="n I² r",
            inputs=(Input("load", g.current_a, Kind.CURRENT, "I", "given"),),
            reason="What a hand feels as a warm lead. Inside the rating it is as it should be.",
            source="Joule's law",
        ),
        Figure(
            "conductor gets",
            best.conductor_c,
            Kind.TEMPERATURE,
            formula="T_a + (T_max − T_a)(I/I_z)²",
            inputs=(Input("insulation stands", found.limit_c, Kind.TEMPERATURE, "T_max", "class"),),
            reason="At the hottest place, alone.",
            source="heat balance of the table's ampacity",
        ),
    ]
    if iec:
        figures += [
            Figure(
                f"fault loop, at most ({g.curve} curve)",
                fault_loop(earth, found.breaker_a, g.curve),
                Kind.RESISTANCE,
                formula=f"Z_s ≤ U₀ / ({AT_ONCE[g.curve]:g} I_n)",
                inputs=(Input("to earth", earth, Kind.VOLTAGE, "U₀", "given"),),
                reason="Measured at the load. Above it an earth fault does not trip the breaker at once.",
                source="IEC 60364-4-41",
                symbol="Z_s",
            ),
            Figure(
                "short circuit it stands",
                withstands(best.area_mm2, g.insulation),
                Kind.LET_THROUGH,
                formula="k² S²",
                inputs=(
                    Input("k of copper in this insulation", adiabatic_k(g.insulation), Kind.RATIO, "k", "table 43A"),
                ),
                reason="The breaker's I²t must be below.",
                source="IEC 60364-4-43",
            ),
        ]
    return tuple(figures)


def _findings(g: WireInput, best: Size) -> list[Finding]:
    findings = []
    if g.fitted_mm2 is not None and g.fitted_mm2 < AS_THICK * best.area_mm2:
        findings.append(
            Finding(
                "wire.fitted",
                Severity.DANGER,
                title=f"{quantity(g.fitted_mm2, 'mm²')} is fitted and {best.label} is the least",
                reason=f"At {temperature(g.ambient_c, '.0f')} and bundled as it is, the "
                "fitted wire may carry less than its breaker lets flow.",
                fix="Run the larger wire, or bring the route into cooler air.",
            )
        )
    if g.current_a > AT_LIMIT * best.allowed_a:
        findings.append(
            Finding(
                "wire.limit",
                Severity.ADVICE,
                title=f"{best.label} is at its very limit",
                reason=f"It carries {quantity(g.current_a, 'A', '.1f')} of {quantity(best.allowed_a, 'A', '.1f')} "
                f"for hours and runs {temperature(best.conductor_c, '.0f')} warm.",
                fix="Take the next size up: cooler, and room for a hotter day (common practice, no source).",
            )
        )
    if best.drop_v > DROP_SHARE * g.voltage_v:
        findings.append(
            Finding(
                "wire.drop",
                Severity.ADVICE,
                title=f"The wire drops {quantity(best.drop_v, 'V', '.1f')}, {percent(best.drop_v / g.voltage_v, '.1f')}",
                reason=f"The heater loses {percent(2 * best.drop_v / g.voltage_v, '.1f')} of its power to it.",
                fix="A larger size, or a shorter way.",
            )
        )
    if g.insulation in (Insulation.PTFE, Insulation.GLASS, Insulation.SILICONE):
        findings.append(
            Finding(
                "wire.terminals",
                Severity.ADVICE,
                title="Hot insulation does not make hot terminals",
                reason="The wire may run hotter than the terminal, plug or breaker it ends in.",
                fix="Check what each end stands; bring the current there down to its own rating.",
            )
        )
    return findings


def _plug(g: WireInput, best: Size) -> list[Finding]:
    """A plug takes only so thick a wire."""
    takes = next((mm2 for rating, mm2 in PLUG_TAKES_MM2[g.practice].items() if g.plug_a and rating >= g.plug_a), None)
    area = max(best.area_mm2, g.fitted_mm2 or 0.0)
    if takes is None or AS_THICK * area <= takes:
        return []
    return [
        Finding(
            "wire.plug",
            Severity.FAULT,
            title=f"{quantity(area, 'mm²', '.3g')} does not go into this plug",
            reason=f"Its terminals take {quantity(takes, 'mm²', '.3g')} at most; strands cut off to fit are hot spots.",
            fix="A larger plug, a cooler or shorter way with a thinner wire, or fixed wiring by a licensed person.",
            source="plug standards, from memory",
        )
    ]


def _inrush(g: WireInput, found: Sizing) -> list[Finding]:
    """A breaker that trips when lamps or a transformer are switched on."""
    lowest = NOT_YET[g.curve] if g.practice is Practice.IEC else NEC_NOT_YET
    peak = g.inrush * g.current_a
    if g.inrush <= 1 or peak <= lowest * found.breaker_a:
        return []
    other = next(
        (c for c, times in NOT_YET.items() if g.practice is Practice.IEC and peak <= times * found.breaker_a), None
    )
    return [
        Finding(
            "wire.inrush",
            Severity.FAULT,
            title="The breaker may trip at switch-on",
            reason=f"{quantity(peak, 'A', '.0f')} for some milliseconds, and it may open from "
            f"{quantity(lowest * found.breaker_a, 'A', '.0f')}.",
            fix=f"A {other} curve, with its lower limit for the fault loop, or a soft start."
            if other
            else "A soft start, or the load switched on in parts.",
            source="IEC 60898-1; NEC breakers from memory",
        )
    ]


def _of_rig(known: Known) -> dict[str, Any]:
    """The run the rig's own chain is sized for, and what is fitted."""
    p, practice = known.purpose, known.choice.practice
    cores = loaded_cores(p)
    try:
        run = sizing_for(amps(known), practice, cores, p.supply_voltage_v).run
    except Refused:  # beyond the breakers here: asking says so, opening does not
        run = replace(usual_run(practice, cores, p.supply_voltage_v), laying=Laying.CONDUIT)
    return {
        "current_a": amps(known),
        "practice": practice,
        "voltage_v": p.supply_voltage_v,
        "route": "three" if cores == 3 else "two",
        "laying": run.laying,
        "ambient_c": run.ambient_c,
        "fitted_mm2": known.fitted_mm2,
    }


WIRE = Question(
    "wire",
    "Which wire and which breaker?",
    Topic.WIRE,
    WireInput,
    _answer,
    _of_rig,
    (
        "IEC: load ≤ breaker ≤ wire. NEC: breaker and wire at least 125 % of a load that runs for hours.",
        "A flex sits beside hot steel more often than people think: measure the place, then size.",
        "Plugs and inlets have a rating of their own; near full load for hours they overheat.",
    ),
    "Values are from memory of the codes. Fixed wiring belongs to a licensed person; the local code overrules.",
    ("plug", "breaker", "conductor"),
    ("current_a", "fitted_mm2"),
)
