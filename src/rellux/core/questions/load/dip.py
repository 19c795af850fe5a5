"""What does a cold or wet load do to a hot chamber?"""

from dataclasses import dataclass
from typing import Any

from ...errors import refuse
from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import choice, flag, number
from ...heating.dips import BOILING_C, LATENT_J_KG, ColdLoad, Dip, HotChamber, dip, saturation_pa
from ...messages import difference, quantity, temperature
from ...units import J_PER_KWH, Kind
from ..answer import Answer, Axis, Curves, Known, Question, Topic, curve
from ..rig_values import watts


@dataclass(frozen=True)
class DipInput:
    """A load put into a hot chamber."""

    setpoint_c: float = number("Chamber at", Kind.TEMPERATURE, 20, 1800, 180)
    ambient_c: float = number("Room", Kind.TEMPERATURE, -40, 60, 21)
    power_w: float = number("Heater", Kind.POWER, 1, 200_000, 2000)
    loss_w: float = number("Power that only holds it", Kind.POWER, 0.1, 200_000, 400)
    lining_kg: float = number("Air, racks, inner skin, as steel", Kind.MASS, 0.01, 5000, 4)
    load_kg: float = number("Load", Kind.MASS, 0.001, 5000, 6)
    load_heat: float = number(
        "Its specific heat, J/kg·K", Kind.COUNT, 100, 5000, 500, hint="steel 490, aluminium 900, glass 850"
    )
    start_c: float = number("put in at", Kind.TEMPERATURE, -40, 1000, 21)
    water_kg: float = number("Water in it", Kind.MASS, 0, 1000, 0)
    surface_m2: float = number("Surface of the load", Kind.SURFACE, 0.001, 100, 0.4)
    air: str = choice("Air in the chamber", {"still": "Still", "fan": "Moved by a fan"}, "fan")
    vented: bool = flag("Vapour can leave", True)


COEFFICIENT = {"still": 12.0, "fan": 35.0}
"""W/m²K from chamber to load, air and radiation together, typical."""
CONVECTION = {"still": 5.0, "fan": 28.0}
"""The part of it that is air, W/m²K, typical."""
HUMIDITY = 0.5
"""Of the room, whose air comes in through the vent (our choice)."""
MUCH = 0.05
"""Share of the way up from the room by which a hot load may pass the set-point before it is a fault (our choice)."""
UNNOTICED_C = 0.5
"""A dip nobody sees on a display of whole degrees, °C."""

STEEL_J_KG_K = 490.0


def _dip(g: DipInput) -> Answer:
    if g.water_kg > 0 and not 0.0 <= g.start_c <= BOILING_C:
        raise refuse(
            "start_c",
            "water in it would be ice, whose melting is not followed here"
            if g.start_c < 0
            else "water in it would have boiled away",
            "{0…100 °C}, or no water",
        )
    chamber = HotChamber(g.setpoint_c, g.ambient_c, g.lining_kg * STEEL_J_KG_K, g.loss_w, g.power_w)
    found = dip(
        chamber,
        ColdLoad(
            g.load_kg,
            g.load_heat,
            g.start_c,
            COEFFICIENT[g.air] * g.surface_m2,
            g.water_kg,
            CONVECTION[g.air] * g.surface_m2 if g.vented else 0.0,
            HUMIDITY * saturation_pa(g.ambient_c),
        ),
    )
    depth = g.setpoint_c - found.lowest_c
    figures = [
        Figure(
            "dip",
            depth,
            Kind.DIFFERENCE,
            reason="Below the set-point, heater at full power.",
            source="two lumps, stepped",
        ),
        Figure(
            "heat the load takes" if g.start_c <= g.setpoint_c else "heat the load gives",
            g.load_kg * g.load_heat * abs(g.setpoint_c - g.start_c) / J_PER_KWH,
            Kind.ENERGY,
            formula="m c ΔT",
            inputs=(Input("load", g.load_kg, Kind.MASS, "m", "given"),),
            reason="Without its water.",
            source="calorimetry",
        ),
    ]
    if found.recovered_s is not None:
        figures.insert(
            1,
            Figure(
                "load through",
                found.recovered_s,
                Kind.TIME,
                reason="Chamber and load within 1 % of the set-point.",
                source="two lumps, stepped",
            ),
        )
    findings = []
    if g.water_kg > 0:
        figures.append(
            Figure(
                "heat to dry it",
                g.water_kg * LATENT_J_KG / J_PER_KWH,
                Kind.ENERGY,
                formula="m × 2.26 MJ/kg",
                inputs=(Input("water", g.water_kg, Kind.MASS, "m", "given"),),
                reason="The load stalls until it is dry: at boiling, or where vapour can leave near its wet-bulb temperature.",
                source="IAPWS latent heat at 1 bar",
            )
        )
    if found.dry_s is not None:
        figures.append(
            Figure(
                "dry after",
                found.dry_s,
                Kind.TIME,
                reason="Only then does the load go on to the chamber's temperature.",
                source="two lumps, stepped",
            )
        )
    if found.recovered_s is None:
        findings.append(
            Finding(
                "dip.never",
                Severity.FAULT,
                title="The load is not through within a day",
                reason="The heater, or the way heat gets to the load, is too weak.",
                fix="A fan, thinner layers, or more power.",
            )
        )
    if g.water_kg > 0 and g.setpoint_c > BOILING_C:
        findings.append(
            Finding(
                "dip.steam",
                Severity.DANGER,
                title="A wet load makes steam",
                reason="A closed wet load bursts; a closed chamber presses its door open.",
                fix="Vent it; dry below {95 °C} first.",
            )
        )
    if g.water_kg > 0 and not g.vented and g.setpoint_c <= BOILING_C:
        findings.append(
            Finding(
                "dip.wet",
                Severity.FAULT,
                title="It stays wet",
                reason="In a closed chamber below boiling the air is soon full of vapour, and nothing dries.",
                fix="Let the vapour out, or go above {100 °C} with a way out for the steam.",
            )
        )
    if found.highest_c - g.setpoint_c > UNNOTICED_C:
        findings.append(
            Finding(
                "dip.hotter",
                Severity.FAULT
                if found.highest_c - g.setpoint_c > MUCH * (g.setpoint_c - g.ambient_c)
                else Severity.ADVICE,
                title=f"The load is hotter than the chamber and warms it to {temperature(found.highest_c, '.0f')}",
                reason="The heater can only be off meanwhile; it cools as fast as the chamber loses heat.",
                fix="Let the load cool first, or open the chamber a little.",
            )
        )
    minutes = [float(t) / 60 for t in found.time_s[:: max(1, len(found.time_s) // 400)]]
    pick = slice(None, None, max(1, len(found.time_s) // 400))
    return Answer(
        _headline(g, found, depth),
        tuple(figures),
        tuple(findings),
        Curves(
            Axis("minutes", Kind.COUNT),
            Axis("temperature", Kind.TEMPERATURE),
            (
                curve("chamber", minutes, found.chamber_c[pick].tolist()),
                curve("load", minutes, found.load_c[pick].tolist(), "other"),
            ),
        ),
    )


def _headline(g: DipInput, found: Dip, depth: float) -> str:
    if found.recovered_s is None:
        back = "the load is not through within a day"
    elif found.recovered_s < 60:
        back = "the load is through within a minute"
    else:
        back = f"the load is through after {quantity(found.recovered_s / 60, 'min', '.0f')}"
    if depth >= UNNOTICED_C:
        return f"It dips {difference(depth, '.0f' if depth >= 2 else '.1f')}; {back}."
    if g.start_c > g.setpoint_c:
        return f"No dip: the load is hotter and gives heat; {back}."
    return f"The heater keeps up: it dips by less than {difference(UNNOTICED_C)}; {back}."


def _of_rig(known: Known) -> dict[str, Any]:
    p = known.purpose
    power = watts(known)
    return {
        "setpoint_c": p.working_c,
        "ambient_c": p.ambient_c,
        "start_c": p.ambient_c,
        "power_w": power,
        "loss_w": 0.25 * power,
    }


DIP = Question(
    "dip",
    "What does a cold or wet load do?",
    Topic.LOAD,
    DipInput,
    _dip,
    _of_rig,
    (
        "Preheat the load, or put in less at once, where the dip spoils what is already inside.",
        "Integral action winds up during a dip: expect an overshoot after it unless the controller holds the integral.",
        "A burner as actuator lags, heats on after 'off', and may need a longest off-time to stay alight.",
    ),
    "Steam burns unseen. Open the door from behind it.",
    ("heater",),
)
