"""The numbers of a sized wire, each with its derivation."""

from math import sqrt

from ...explain import Figure, Input
from ...heating.conductor_tables import SCHOOL, SOURCE, Practice
from ...heating.conductors import Size, Sizing
from ...heating.run_of_wire import Laying
from ...heating.short_circuit import AT_ONCE, adiabatic_k, fault_loop, let_through, withstands
from ...messages import temperature
from ...units import Kind
from .form import WireInput


def allowed(s: Size, g: WireInput) -> Figure:
    """What a size may carry here."""
    return Figure(
        f"{s.label} may carry",
        s.allowed_a,
        Kind.CURRENT,
        formula="I_z = min(I_table × factor, I_ends)",
        inputs=(
            Input("table at {30 °C}", s.base_a, Kind.CURRENT, "I_table", "table"),
            Input("ambient and grouping", s.factor, Kind.RATIO, "factor", "computed"),
            Input("hottest place", g.ambient_c, Kind.TEMPERATURE, "T_a", "given"),
            Input(f"its ends, at {temperature(g.run().ends_c(s.area_mm2))}", s.ends_a, Kind.CURRENT, "I_ends", "table"),
        ),
        reason="What is left at this temperature and in this company, and never more than its ends stand.",
        source=SOURCE[g.practice],
        school=SCHOOL[g.practice],
        symbol="I_z",
    )


def _ends(best: Size, g: WireInput) -> tuple[Figure, ...]:
    """The column of the ends beside that of the insulation, where the two are columns of one table."""
    if g.laying is Laying.CORD:
        return ()
    return (
        Figure(
            f"its ends, at {temperature(g.run().ends_c(best.area_mm2))}",
            best.ends_a,
            Kind.CURRENT,
            formula="I_ends",
            inputs=(
                Input("column of the insulation", best.base_a, Kind.CURRENT, "I_table", "table"),
                Input(
                    "what is left of it here", best.base_a * best.factor, Kind.CURRENT, "I_table × factor", "computed"
                ),
            ),
            reason="The column of the terminals is the most the wire may carry, whatever its insulation stands.",
            source=SOURCE[g.practice],
            school=SCHOOL[g.practice],
        ),
    )


def _short_circuit(found: Sizing, best: Size, g: WireInput) -> tuple[Figure, ...]:
    shown = (
        Figure(
            "short circuit it stands",
            withstands(best.area_mm2, g.insulation),
            Kind.LET_THROUGH,
            formula="k² S²",
            inputs=(Input("k of copper in this insulation", adiabatic_k(g.insulation), Kind.RATIO, "k", "table 43A"),),
            reason="The breaker's I²t must be below. One that protects the wire against overload too is taken to do so.",
            source="IEC 60364-4-43, 434.5.2 and 435.1",
        ),
    )
    behind = found.run.behind
    through = let_through(behind.breaker_a, behind.curve, behind.fault_a) if behind and not behind.overload else None
    if through is None:
        return shown
    return (
        *shown,
        Figure(
            "the breaker lets through, at most",
            through,
            Kind.LET_THROUGH,
            formula="I²t",
            reason="A 6 kA breaker of energy class 3, or the short-circuit current for the tenth of a second in which it opens.",
            source="EN 60898-1 annex ZA, from memory",
        ),
    )


def figures(g: WireInput, found: Sizing, best: Size) -> tuple[Figure, ...]:
    """All of them, for the chosen size."""
    iec = g.practice is Practice.IEC
    earth = g.voltage_v / sqrt(3.0) if g.route == "three" else g.voltage_v
    drop = "√3 L I r" if g.route == "three" else "2 L I r"
    shown = [
        Figure(
            "breaker",
            found.breaker_a,
            Kind.CURRENT,
            formula="given" if found.run.behind else "I_n ≥ I_b" if iec else "I_n ≥ 1.25 I_b",
            inputs=(Input("load", g.current_a, Kind.CURRENT, "I_b", "given"),),
            reason="The one that is there."
            if found.run.behind
            else "The smallest standard one that carries the load for hours.",
            source=SOURCE[g.practice],
            school=SCHOOL[g.practice],
            symbol="I_n",
        ),
        allowed(best, g),
        *_ends(best, g),
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
        shown += [
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
            *_short_circuit(found, best, g),
        ]
    return tuple(shown)
