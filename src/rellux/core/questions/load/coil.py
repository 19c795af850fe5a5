"""Which resistance wire, and how long?"""

from dataclasses import dataclass
from typing import Any

from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...heating.elements import (
    ALLOYS,
    WIRE_SIZES_MM,
    allowed_load,
    least_diameter_mm,
    wire_element,
)
from ...units import Kind
from ..answer import MEMORY, Alternative, Answer, Axis, Curves, Known, Mark, Question, Topic, curve
from ..form import choice, number


@dataclass(frozen=True)
class CoilInput:
    """An element to be wound."""

    alloy: str = choice("Alloy", {k: a.name for k, a in ALLOYS.items()}, "fecral")
    power_w: float = number("Power wanted", Kind.POWER, 5, 50_000, 1600)
    voltage_v: float = number("on", Kind.VOLTAGE, 3, 480, 230)
    chamber_c: float = number("Chamber, hottest", Kind.TEMPERATURE, 20, 1400, 1000)
    diameter_mm: float = number("Wire (empty: proposed)", Kind.MILLIMETRES, 0.1, 8, None, optional=True)


def _coil(g: CoilInput) -> Answer:
    allowed = allowed_load(g.alloy, g.chamber_c)
    least = least_diameter_mm(g.alloy, g.power_w, g.voltage_v, allowed)
    proposed = next((d for d in WIRE_SIZES_MM if d >= least), None)
    chosen = g.diameter_mm or proposed
    if chosen is None:
        return Answer(
            f"The wire would have to be {least:.1f} mm thick.",
            findings=(
                Finding(
                    "coil.thick",
                    Severity.FAULT,
                    "No usual wire is so thick",
                    f"{least:.1f} mm for {allowed:.1f} W/cm².",
                    "Several elements in parallel, or strip.",
                ),
            ),
        )
    made = wire_element(g.alloy, g.power_w, g.voltage_v, chosen)
    findings = []
    if made.surface_load > allowed * 1.02:
        findings.append(
            Finding(
                "coil.load",
                Severity.FAULT,
                f"{made.surface_load:.1f} W/cm² is too much",
                f"In a chamber at {g.chamber_c:.0f} °C this alloy lives long at up to {allowed:.1f} W/cm².",
                f"Wire of {proposed or least:g} mm or thicker, or less power.",
            )
        )
    grid = [
        ALLOYS[g.alloy].load_c[0] + i * (ALLOYS[g.alloy].load_c[-1] - ALLOYS[g.alloy].load_c[0]) / 60 for i in range(61)
    ]
    alternatives = [
        Alternative(
            f"{d:g} mm",
            f"{d:g} mm wire",
            Severity.FAULT if e.surface_load > allowed * 1.02 else None,
            f"{e.length_m:.1f} m, {e.surface_load:.2g} W/cm², {e.turns:.0f} turns on {e.coil_mm:.0f} mm, "
            f"{e.stretched_mm / 1000:.1f} m of groove",
            chosen=d == chosen,
        )
        for d in _near(chosen)
        for e in (wire_element(g.alloy, g.power_w, g.voltage_v, d),)
    ]
    return Answer(
        f"{made.length_m:.1f} m of {chosen:g} mm wire: {made.cold_ohm:.1f} Ω cold, {made.surface_load:.1f} W/cm².",
        (
            Figure(
                "thinnest wire",
                least,
                Kind.MILLIMETRES,
                "d = (4 ρ P² / (π² V² p))^⅓",
                (
                    Input("allowed surface load", allowed, Kind.SURFACE_LOAD, "p", MEMORY),
                    Input("power", g.power_w, Kind.POWER, "P", "given"),
                    Input("voltage", g.voltage_v, Kind.VOLTAGE, "V", "given"),
                ),
                "From R = 4ρL/πd² and p = P/(πdL).",
                "Ohm's law and geometry",
            ),
            Figure(
                "length",
                made.length_m,
                Kind.METRES,
                "L = R π d² / 4ρ",
                (
                    Input("wire", chosen, Kind.MILLIMETRES, "d", "chosen"),
                    Input("cold", made.cold_ohm, Kind.RESISTANCE, "R", "computed"),
                ),
                "Between the tails; double and twist those.",
                "Ohm's law",
            ),
            Figure(
                "measures cold",
                made.cold_ohm,
                Kind.RESISTANCE,
                "V²/P ÷ hot factor",
                reason="Check before mounting.",
                source="alloy table, from memory",
            ),
            Figure(
                "surface load",
                made.surface_load,
                Kind.SURFACE_LOAD,
                "P / (π d L)",
                reason="Less is a longer life.",
                source="geometry",
            ),
            Figure(
                "turns",
                made.turns,
                Kind.COUNT,
                "L / (π D)",
                (Input("mean coil", made.coil_mm, Kind.MILLIMETRES, "D", "6 wires"),),
                "Wind on a mandrel of five wires; six is the mean.",
                "geometry",
            ),
            Figure(
                "stretched to",
                made.stretched_mm / 1000,
                Kind.METRES,
                "turns × 2.5 d",
                reason="At a pitch of two and a half wires; the groove must be about so long.",
                source="common practice, no source",
            ),
        ),
        tuple(findings),
        Curves(
            Axis("chamber", Kind.TEMPERATURE),
            Axis("surface load", Kind.SURFACE_LOAD),
            (curve("stands for long", grid, [allowed_load(g.alloy, t) for t in grid], "limit"),),
            (Mark(f"{chosen:g} mm", max(g.chamber_c, grid[0]), made.surface_load),),
        ),
        alternatives=tuple(alternatives),
    )


def _near(chosen: float) -> list[float]:
    sizes = sorted({*WIRE_SIZES_MM, chosen})
    i = sizes.index(chosen)
    return sizes[max(0, i - 1) : i + 3]


def _coil_of_rig(known: Known) -> dict[str, Any]:
    p = known.purpose
    return {"power_w": p.heater_power_w, "voltage_v": p.supply_voltage_v, "chamber_c": min(p.highest_c, 1300.0)}


COIL = Question(
    "coil",
    "Which resistance wire, and how long?",
    Topic.LOAD,
    CoilInput,
    _coil,
    _coil_of_rig,
    (
        "Surface loads are from memory of makers' tables for free coils in air; in grooves take two thirds.",
        "Joints in the hot zone: no solder, no tinned copper lugs; nickel or stainless, with mica or glass wire.",
    ),
    "Live bare wire inside a chamber: a door switch or rule must cut all poles before a hand goes in.",
    ("heater",),
)
