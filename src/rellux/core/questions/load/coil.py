"""Which resistance wire, and how long?"""

from dataclasses import dataclass
from typing import Any

from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import choice, number
from ...heating.elements import (
    ALLOYS,
    WIRE_SIZES_MM,
    allowed_load,
    least_diameter_mm,
    wire_element,
)
from ...messages import quantity, temperature
from ...units import Kind
from ..answer import MEMORY, Alternative, Answer, Axis, Curves, Known, Mark, Question, Topic, curve

ROUNDING = 1.02
"""Slack for wire sizes that are sold: 2 % (our choice)."""


@dataclass(frozen=True)
class CoilInput:
    """An element to be wound."""

    alloy: str = choice("Alloy", {k: a.name for k, a in ALLOYS.items()}, "fecral")
    power_w: float = number("Power wanted", Kind.POWER, 5, 200_000, 1600)
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
            f"The wire would have to be {quantity(least, 'mm', '.1f')} thick.",
            findings=(
                Finding(
                    "coil.thick",
                    Severity.FAULT,
                    title="No usual wire is so thick",
                    reason=f"{quantity(least, 'mm', '.1f')} for {quantity(allowed, 'W/cm²', '.1f')}.",
                    fix="Several elements in parallel, or strip.",
                ),
            ),
        )
    made = wire_element(g.alloy, g.power_w, g.voltage_v, chosen)
    findings = []
    if made.surface_load > allowed * ROUNDING:
        findings.append(
            Finding(
                "coil.load",
                Severity.FAULT,
                title=f"{quantity(made.surface_load, 'W/cm²', '.1f')} is too much",
                reason=f"In a chamber at {temperature(g.chamber_c, '.0f')} this alloy "
                f"lives long at up to {quantity(allowed, 'W/cm²', '.1f')}.",
                fix=f"Wire of {quantity(proposed or least, 'mm')} or thicker, or less power.",
            )
        )
    grid = [
        ALLOYS[g.alloy].load_c[0] + i * (ALLOYS[g.alloy].load_c[-1] - ALLOYS[g.alloy].load_c[0]) / 60 for i in range(61)
    ]
    alternatives = [
        Alternative(
            quantity(d, "mm"),
            f"{quantity(d, 'mm')} wire",
            Severity.FAULT if e.surface_load > allowed * ROUNDING else None,
            says=f"{quantity(e.length_m, 'm', '.1f')}, {quantity(e.surface_load, 'W/cm²', '.2g')}, "
            f"{quantity(e.turns, 'turns', '.0f')} on {quantity(e.coil_mm, 'mm', '.0f')}, "
            f"{quantity(e.stretched_mm / 1000, 'm', '.1f')} of groove",
            chosen=d == chosen,
        )
        for d in _near(chosen)
        for e in (wire_element(g.alloy, g.power_w, g.voltage_v, d),)
    ]
    return Answer(
        f"{quantity(made.length_m, 'm', '.1f')} of {quantity(chosen, 'mm')} wire: "
        f"{quantity(made.cold_ohm, 'Ω', '.1f')} cold, {quantity(made.surface_load, 'W/cm²', '.1f')}.",
        (
            Figure(
                "thinnest wire",
                least,
                Kind.MILLIMETRES,
                formula="d = (4 ρ P² / (π² V² p))^⅓",
                inputs=(
                    Input("allowed surface load", allowed, Kind.SURFACE_LOAD, "p", MEMORY),
                    Input("power", g.power_w, Kind.POWER, "P", "given"),
                    Input("voltage", g.voltage_v, Kind.VOLTAGE, "V", "given"),
                ),
                reason="From R = 4ρL/πd² and p = P/(πdL).",
                source="Ohm's law and geometry",
            ),
            Figure(
                "length",
                made.length_m,
                Kind.METRES,
                formula="L = R π d² / 4ρ",
                inputs=(
                    Input("wire", chosen, Kind.MILLIMETRES, "d", "chosen"),
                    Input("cold", made.cold_ohm, Kind.RESISTANCE, "R", "computed"),
                ),
                reason="Between the tails; double and twist those.",
                source="Ohm's law",
            ),
            Figure(
                "measures cold",
                made.cold_ohm,
                Kind.RESISTANCE,
                formula="V²/P ÷ hot factor",
                reason="Check before mounting.",
                source="alloy table, from memory",
            ),
            Figure(
                "surface load",
                made.surface_load,
                Kind.SURFACE_LOAD,
                formula="P / (π d L)",
                reason="Less is a longer life.",
                source="geometry",
            ),
            Figure(
                "turns",
                made.turns,
                Kind.COUNT,
                formula="L / (π D)",
                inputs=(Input("mean coil", made.coil_mm, Kind.MILLIMETRES, "D", "6 wires"),),
                reason="Wind on a mandrel of five wires; six is the mean.",
                source="geometry",
            ),
            Figure(
                "stretched to",
                made.stretched_mm / 1000,
                Kind.METRES,
                formula="turns × 2.5 d",
                reason="At a pitch of two and a half wires; the groove must be about so long.",
                source="common practice, no source",
            ),
        ),
        tuple(findings),
        Curves(
            Axis("chamber", Kind.TEMPERATURE),
            Axis("surface load", Kind.SURFACE_LOAD),
            (curve("stands for long", grid, [allowed_load(g.alloy, t) for t in grid], "limit"),),
            (Mark(quantity(chosen, "mm"), max(g.chamber_c, grid[0]), made.surface_load),),
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
