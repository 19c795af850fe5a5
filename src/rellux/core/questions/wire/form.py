"""What is asked about a wire: the load, the way it runs, what protects it, what it ends in."""

from dataclasses import dataclass

from ...form import choice, flag, number
from ...heating.conductor_tables import SCHOOL, Practice
from ...heating.conductors import breaker_for
from ...heating.run_of_wire import Behind, Insulation, Laying, Run
from ...units import Kind

ROUTE = {"two": "Single-phase or DC, two wires", "three": "Three-phase, three wires"}
LOAD, CONTROL = "load", "control"
LEAST_CONTROL_MM2 = 0.75
"""Thinnest control wire at mains voltage, mm²; 18 AWG is 0.82 (common practice, no source)."""


@dataclass(frozen=True)
class WireInput:
    """A load and the way its wire runs."""

    current_a: float = number("Load current", Kind.CURRENT, 0.1, 1000, 13)
    practice: Practice = choice(
        "Sized by", {Practice.IEC: SCHOOL[Practice.IEC], Practice.NEC: SCHOOL[Practice.NEC]}, Practice.IEC
    )
    serves: str = choice(
        "It carries", {LOAD: "A heater or another load", CONTROL: "A control circuit at mains voltage"}, LOAD
    )
    route: str = choice("Wires", ROUTE, "two")
    voltage_v: float = number("Voltage between them", Kind.VOLTAGE, 3, 690, 230)
    laying: Laying = choice(
        "Laid as",
        {
            Laying.CORD: "Flexible cord",
            Laying.CONDUIT: "Wires in conduit or trunking",
            Laying.INSIDE: "Single wires inside the equipment",
        },
        Laying.CORD,
        hint="inside: IEC 60204-1 table 6; NEC fixture wire, 402.5",
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

    behind_a: float | None = number(
        "Behind a breaker of (if it is there already)", Kind.CURRENT, 3, 125, None, optional=True
    )
    cannot_overload: bool = flag(
        "The load cannot draw more than it does",
        False,
        hint="a heater that cannot be exchanged for a larger one: then only a short circuit must be survived",
        when=("practice", (Practice.IEC,)),
    )
    fault_a: float | None = number(
        "Short-circuit current where it begins (if measured)",
        Kind.CURRENT,
        10,
        50_000,
        None,
        optional=True,
        when=("cannot_overload", (True,)),
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
            self._behind(),
            LEAST_CONTROL_MM2 if self.serves == CONTROL else 0.0,
        )

    def _behind(self) -> Behind | None:
        """The breaker that is there already; a control circuit gets a fuse of its own instead."""
        bare = self.cannot_overload and self.practice is Practice.IEC
        if self.serves == CONTROL or (self.behind_a is None and not bare):
            return None
        breaker_a = breaker_for(self.current_a, self.practice) if self.behind_a is None else self.behind_a
        return Behind(breaker_a, not bare, self.curve, self.fault_a)
