"""How hot and how fast can it get, and what does a firing cost?"""

from dataclasses import dataclass
from typing import Any

from ...explain import Figure, Input
from ...findings import Finding, Severity, worst_first
from ...form import flag, number
from ...heating.transient import HIGHEST_C, Capability, Contents, capability
from ...heating.walls import Chamber, steady
from ...messages import quantity, temperature
from ...units import J_PER_KWH, Kind
from ..answer import Alternative, Answer, Axis, Curves, Known, Mark, Question, Topic, curve
from ..rig_values import watts
from .chamber import ChamberInput, chamber_of_rig, layer_findings

RUNS_AWAY, RUNS_AWAY_C = 1.3, 50.0
"""A heater left on that goes beyond 1.3 times the wanted temperature and 50 °C destroys the rig (our choice: ordinary reserve of
power is less)."""

SOURCE = "layered wall with its own heat, backward Euler; conductivity by temperature"


@dataclass(frozen=True)
class CapabilityInput(ChamberInput):
    """A chamber, its heater, its contents and a firing."""

    power_w: float = number("Heater", Kind.POWER, 1, 200_000, 3200)
    load_kg: float = number("Load and shelves", Kind.MASS, 0, 5000, 8)
    load_heat: float = number(
        "Their specific heat, J/kg·K", Kind.COUNT, 100, 5000, 850, hint="glass and brick 850, steel 490, water 4190"
    )
    soak_h: float = number("Held for, hours", Kind.COUNT, 0, 200, 4)
    limiter: bool = flag("An independent limiter is fitted", False)
    price: float = number("Price of a kWh", Kind.MONEY, 0, 1000, 0.30)


def _answer(g: CapabilityInput) -> Answer:
    chamber, contents = g.chamber(), Contents(g.load_kg, g.load_heat)
    found = capability(chamber, contents, g.power_w, g.ambient_c, g.inside_c, g.soak_h * 3600)
    got = float(found.heat_up.chamber_c[-1])
    reaches = found.reachable_c > g.inside_c + 1 and got > g.inside_c - 1
    at_rest = steady(chamber, min(g.inside_c, found.reachable_c), g.ambient_c)
    heat_up = float(found.heat_up.time_s[-1])
    energy = (found.heat_up.energy_j + found.hold.energy_j) / J_PER_KWH
    minutes = 60.0
    marks = [Mark("wanted", g.inside_c, float(found.up[-1]) * minutes)] if reaches else []
    figures = (
        Figure(
            "highest it reaches",
            found.reachable_c,
            Kind.TEMPERATURE,
            formula="loss(T) = P",
            inputs=(Input("heater", g.power_w, Kind.POWER, "P", "given"),),
            reason=_far(found),
            source=SOURCE,
        ),
        Figure(
            "heater for its inner surface",
            g.power_w / (chamber.inside_m2 * 1e4),
            Kind.SURFACE_LOAD,
            formula="P / A₀",
            inputs=(Input("inner surface", chamber.inside_m2, Kind.SURFACE, "A₀", "given"),),
            reason="A rule of thumb, only beside the computed answer: soft-brick kilns to {1000 °C} usually have {0.5…1.2 W/cm²}, "
            "light ovens to {250 °C} 0.1–0.3.",
            source="common practice, no source",
        ),
        Figure(
            "heat-up at full power" if reaches else "gains next to nothing after",
            heat_up,
            Kind.TIME,
            reason="From cold, load and wall together." if reaches else "What was asked for is out of reach.",
            source=SOURCE,
        ),
    )
    firing = (
        Figure(
            "power to hold at the end",
            float(found.hold.power_w[-1]),
            Kind.POWER,
            reason="Falls for hours while the lining takes up heat.",
            source=SOURCE,
        ),
        Figure(
            "outside at the end of the hold",
            float(found.hold.outside_c[-1]),
            Kind.TEMPERATURE,
            reason="Goes on rising after that for a while.",
            source=SOURCE,
        ),
        Figure(
            "energy of the firing",
            energy,
            Kind.ENERGY,
            formula="∫P dt",
            reason="Heat-up and hold; cooling costs nothing.",
            source=SOURCE,
        ),
        Figure(
            "stored in load and wall",
            found.stored_j / J_PER_KWH,
            Kind.ENERGY,
            formula="Σ ρ c V (T − T_a)",
            reason="At the end of the hold, above the room: it all comes out again while cooling.",
            source=SOURCE,
        ),
        Figure(
            "cost of the firing",
            energy * g.price,
            Kind.MONEY,
            formula="E × price",
            inputs=(Input("energy", energy, Kind.ENERGY, "E", "computed"),),
            reason="In the money you gave.",
            source="price given",
        ),
        Figure(
            "cooling by itself, closed",
            float(found.cooling.time_s[-1]),
            Kind.TIME,
            reason="To 8 % of the way above the room, door shut.",
            source=SOURCE,
        ),
    )
    return Answer(
        _headline(g, found, heat_up, energy, reaches),
        (*figures, *firing) if reaches else figures,
        tuple(worst_first([*layer_findings(chamber, at_rest), *_findings(found, g)])),
        Curves(
            Axis("chamber", Kind.TEMPERATURE),
            Axis("rate", Kind.RATE),
            (
                curve("fastest ramp at full power", found.up_c.tolist(), [float(v) * minutes for v in found.up]),
                curve("cooling by itself", found.down_c.tolist(), [float(v) * minutes for v in found.down], "other"),
            ),
            tuple(marks),
        ),
        alternatives=_changes(g, chamber, contents, heat_up, energy) if reaches else (),
    )


def _headline(g: CapabilityInput, found: Capability, heat_up: float, energy: float, reaches: bool) -> str:
    if reaches:
        return f"{temperature(g.inside_c, '.0f')} in {_hours(heat_up)}; {quantity(energy, 'kWh', '.1f')} a firing."
    if found.reachable_c > g.inside_c + 1:
        return f"After {_hours(heat_up)} it is only at {temperature(found.heat_up.chamber_c[-1], '.0f')}."
    return f"It stops at {temperature(found.reachable_c, '.0f')}: {temperature(g.inside_c, '.0f')} is out of reach."


def _far(found: Capability) -> str:
    if found.reachable_c >= HIGHEST_C:
        return "Further than any sensor and lining here: something else gives way first. Guard it."
    return "Where the loss of the wall at rest takes all the heater gives."


def _hours(seconds: float) -> str:
    return quantity(seconds / 3600, "h", ".1f") if seconds > 5400 else quantity(seconds / 60, "min", ".0f")


def _findings(found: Capability, g: CapabilityInput) -> list[Finding]:
    if found.reachable_c <= g.inside_c + 1:
        return [
            Finding(
                "capability.reach",
                Severity.FAULT,
                title=f"{temperature(g.inside_c, '.0f')} is out of reach",
                reason=f"At {temperature(found.reachable_c, '.0f')} the wall loses all the heater's {quantity(g.power_w, 'W', '.0f')}.",
                fix="More insulation, a lid, closed openings, or more power.",
            )
        ]
    if found.heat_up.chamber_c[-1] < g.inside_c - 1:
        return [
            Finding(
                "capability.slow",
                Severity.FAULT,
                title=f"{temperature(g.inside_c, '.0f')} is not reached in days",
                reason="The heater covers the loss, but hardly anything is left to warm load and wall.",
                fix="Less load at once, lighter walls, or more power.",
            )
        ]
    if not g.limiter and found.reachable_c > RUNS_AWAY * g.inside_c + RUNS_AWAY_C:
        return [
            Finding(
                "capability.runaway",
                Severity.DANGER,
                title="Left on, it goes on to "
                f"{'more than ' if found.reachable_c >= HIGHEST_C else ''}{temperature(found.reachable_c, '.0f')}",
                reason="A heater strong enough to heat quickly destroys the rig when a switch fails shorted.",
                fix="An independent limiter with its own sensor and contactor, set a little above the highest working temperature.",
            )
        ]
    return []


def _changes(
    g: CapabilityInput, chamber: Chamber, contents: Contents, heat_up: float, energy: float
) -> tuple[Alternative, ...]:
    """Half as much power again, and three quarters of it."""
    found = []
    for share, title in ((1.5, "Half as much power again"), (0.75, "Limited to 75 % power")):
        then = capability(chamber, contents, share * g.power_w, g.ambient_c, g.inside_c, g.soak_h * 3600)
        if then.reachable_c <= g.inside_c + 1:
            found.append(
                Alternative(title, title, Severity.FAULT, says=f"stops at {temperature(then.reachable_c, '.0f')}")
            )
            continue
        used = (then.heat_up.energy_j + then.hold.energy_j) / J_PER_KWH
        found.append(
            Alternative(
                title,
                title,
                None,
                says=f"{_hours(float(then.heat_up.time_s[-1]))} instead of "
                f"{_hours(heat_up)}, {quantity(used - energy, 'kWh', '+.1f')}",
            )
        )
    return tuple(found)


def _of_rig(known: Known) -> dict[str, Any]:
    power = watts(known)
    return {**chamber_of_rig(known), "power_w": power, "limiter": known.choice.limiter}


CAPABILITY = Question(
    "capability",
    "How hot and how fast can it get?",
    Topic.WALL,
    CapabilityInput,
    _answer,
    _of_rig,
    (
        "The ramp is the fastest from cold: a hot lining lets a second firing rise faster.",
        "Cooling is with the door shut; a programme that asks for faster cooling only waits.",
        "Limiting power is a legitimate way to tame a strong heater: it scales the process gain.",
    ),
    "What a heater can reach when a switch fails shorted is what the limiter must guard against.",
    ("heater",),
    ("limiter",),
)
