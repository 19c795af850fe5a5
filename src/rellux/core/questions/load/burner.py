"""How far does it run on after the fan stopped, and how long may it wait?"""

from dataclasses import dataclass
from math import inf

import numpy as np

from ...errors import refuse
from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import number
from ...heating.fluids import WATER_J_KG_K
from ...heating.fuel_bed import boiling_c, latest_off, peak_after, temperature_after, turns_s
from ...messages import difference, quantity, spoken_time, temperature
from ...purpose.checks import CONDENSES_C
from ...units import Kind
from ..answer import MEMORY, Answer, Axis, Curves, Question, Topic, curve

MARGIN_C = 5.0
"""Kept below boiling, °C (our choice)."""
POINTS = 121
SOURCE = "a decaying release into one capacity, solved exactly"


@dataclass(frozen=True)
class BedInput:
    """A bed of fuel, its fan, and the water or mass it heats."""

    full_w: float = number("With the fan it gives", Kind.POWER, 100, 200_000, 12_000)
    idle_w: float = number("Without, for good", Kind.POWER, 0, 50_000, 300, hint="what a leaking door feeds")
    bed_s: float = number("Its glow fades in", Kind.TIME, 10, 7200, 420, hint="to a third; minutes")
    content_kg: float = number("Water in it", Kind.MASS, 1, 20_000, 90)
    loss_w_k: float = number(
        "Loses", Kind.CONDUCTANCE, 0.1, 2000, 18, hint="W for each degree above the room, use included"
    )
    ambient_c: float = number("Room", Kind.TEMPERATURE, -20, 45, 18)
    setpoint_c: float = number("Fan off at", Kind.TEMPERATURE, 30, 110, 75)
    differential_c: float = number("On again below it by", Kind.DIFFERENCE, 0.5, 40, 8)
    height_m: float = number("Height above the sea", Kind.METRES, 0, 4500, 400)
    alive_s: float = number(
        "Fan at least every", Kind.TIME, 60, 86_400, 2400, hint="longest it may be off and not go out"
    )
    pulse_s: float = number("for", Kind.TIME, 1, 1800, 40, hint="the pulse that keeps it alight")
    start_loss_kwh: float = number("Lost at every start", Kind.ENERGY, 0, 10, 0.2, hint="fuel that goes up the flue")

    @property
    def bed(self) -> tuple[float, float, float, float, float, float]:
        heat = self.content_kg * WATER_J_KG_K
        return self.full_w, self.idle_w, self.bed_s, heat, self.loss_w_k, self.ambient_c


def _check(g: BedInput) -> None:
    """Raises ``Refused`` for a fan that turns it down, and for pulses longer than what they come in."""
    if g.full_w <= g.idle_w:
        raise refuse("idle_w", "without its fan it would give no less than with it", f"below {quantity(g.full_w, 'W')}")
    if g.pulse_s > g.alive_s:
        raise refuse("pulse_s", "a pulse is no longer than what it comes in", f"up to {quantity(g.alive_s, 's')}")


def _bed(g: BedInput) -> Answer:
    _check(g)
    boils = boiling_c(g.height_m)
    peak, when = peak_after(g.setpoint_c, *g.bed), turns_s(g.setpoint_c, *g.bed)
    latest = latest_off(boils - MARGIN_C, *g.bed)
    alive_w = (g.full_w - g.idle_w) * g.pulse_s / g.alive_s + g.idle_w
    leaves = g.loss_w_k * (g.setpoint_c - g.ambient_c)
    heat = g.bed[3]
    cycle_s = _cycle_s(g, heat, leaves)
    bed = (
        Input("with the fan", g.full_w, Kind.POWER, "Q_0", "given"),
        Input("without", g.idle_w, Kind.POWER, "Q_i", "given"),
        Input("fades in", g.bed_s, Kind.TIME, "τ_b", "given"),
    )
    release = "Q(t) = Q_i + (Q_0 − Q_i) e^(−t/τ_b)"
    figures = [
        Figure(
            "hottest after off",
            peak,
            Kind.TEMPERATURE,
            formula=release,
            inputs=bed,
            reason="With nothing drawn but its loss.",
            source=SOURCE,
        ),
        Figure(
            "runs on by",
            max(peak - g.setpoint_c, 0.0),
            Kind.DIFFERENCE,
            formula=release,
            inputs=bed,
            reason="Above where the fan stopped.",
            source=SOURCE,
        ),
        Figure(
            "it boils at",
            boils,
            Kind.TEMPERATURE,
            formula="p = p₀ (1 − 2.25577e-5 h)^5.25588",
            inputs=(Input("height", g.height_m, Kind.METRES, "h", "given"),),
            reason="In an open vessel at this height.",
            source="ISO 2533; Antoine's equation, from memory",
        ),
        Figure(
            "fan off at most at",
            latest,
            Kind.TEMPERATURE,
            formula="peak = boiling less a margin",
            inputs=bed,
            reason=f"So that it stays {difference(MARGIN_C)} below boiling.",
            source=SOURCE,
        ),
        Figure(
            "kept alight it gives",
            alive_w,
            Kind.POWER,
            formula="Q_i + (Q_0 − Q_i) t / T",
            inputs=bed,
            reason="On average, with nothing called for.",
            source="heat of the pulses",
        ),
        Figure(
            "starts",
            3600.0 / cycle_s,
            Kind.PER_HOUR,
            formula="Q_l (Q_0 − Q_l) / (Q_0 C H)",
            inputs=bed,
            reason="With its loss as it is at the set-point.",
            source="a capacity between two thresholds",
        ),
        Figure(
            "lost by starting, a day",
            24.0 * 3600.0 / cycle_s * g.start_loss_kwh,
            Kind.ENERGY,
            formula="starts × loss",
            inputs=(),
            reason="Half of it with twice the differential.",
            source="count",
        ),
    ]
    if 0 < when < inf:
        figures.insert(
            1,
            Figure(
                "reached after",
                when,
                Kind.TIME,
                formula="dT/dt = 0",
                inputs=bed,
                reason="Then it cools.",
                source=SOURCE,
            ),
        )
    return Answer(
        _headline(g, peak, latest),
        tuple(figures),
        tuple(_findings(g, peak, boils, latest, alive_w, leaves)),
        _picture(g, when, boils),
    )


def _cycle_s(g: BedInput, heat: float, leaves: float) -> float:
    """One on and off between the thresholds, s, the running on left out; a day where it never stops or never cools."""
    up, down = g.full_w - leaves, leaves - g.idle_w
    if up <= 0 or down <= 0:
        return 86_400.0
    return heat * g.differential_c * (1.0 / up + 1.0 / down)


def _headline(g: BedInput, peak: float, latest: float) -> str:
    runs = f"Off at {temperature(g.setpoint_c)} it runs on to {temperature(peak, '.0f')}"
    return f"{runs}; the fan must stop at {temperature(latest, '.0f')} or below."


def _findings(g: BedInput, peak: float, boils: float, latest: float, alive_w: float, leaves: float) -> list[Finding]:
    found = []
    if g.setpoint_c > latest:
        found.append(
            Finding(
                "burner.boils",
                Severity.DANGER,
                title=f"It runs on to {temperature(peak, '.0f')}, and boils at {temperature(boils, '.0f')}",
                reason="The glow of the bed is in the water already when the fan stops: steam, and in a closed system a burst.",
                fix=f"Fan off at {temperature(latest, '.0f')} or below, and what the code asks for: safety valve, thermal discharge.",
            )
        )
    if alive_w > leaves:
        found.append(
            Finding(
                "burner.alive",
                Severity.FAULT,
                title="Keeping it alight heats more than is lost",
                reason=f"The pulses and the door give {quantity(alive_w, 'W', '.0f')} and {quantity(leaves, 'W', '.0f')} are lost: "
                "it creeps up with nothing called for.",
                fix="Shorter pulses, longer between them, a tighter door, or let it go out in summer.",
            )
        )
    if g.setpoint_c - g.differential_c < CONDENSES_C:
        found.append(
            Finding(
                "burner.condenses",
                Severity.FAULT,
                title=f"It comes on only below {temperature(g.setpoint_c - g.differential_c)}",
                reason=f"Below about {temperature(CONDENSES_C)} water from the flue gas condenses in the boiler, and tar with it.",
                fix="A higher set-point or a smaller differential; mix for what wants cooler water.",
                source=MEMORY,
            )
        )
    off_s = g.bed[3] * g.differential_c / max(leaves - g.idle_w, 1e-9)
    if off_s > g.alive_s:
        found.append(
            Finding(
                "burner.out",
                Severity.ADVICE,
                title=f"It waits {spoken_time(min(off_s, 86_400.0))}, longer than it stays alight",
                reason=f"Without a pulse every {spoken_time(g.alive_s)} it goes out before it is called for again.",
                fix="Let the controller pulse the fan, and count that as heat; or a smaller differential.",
            )
        )
    return found


def _picture(g: BedInput, when: float, boils: float) -> Curves:
    until = max(3.0 * g.bed_s, 2.0 * when if when < inf else 0.0)
    grid = np.linspace(0.0, until, POINTS)
    return Curves(
        Axis("minutes after off", Kind.COUNT),
        Axis("water", Kind.TEMPERATURE),
        (
            curve("runs on", grid / 60.0, [temperature_after(g.setpoint_c, float(t), *g.bed) for t in grid]),
            curve("boils", (0.0, until / 60.0), (boils, boils), "limit"),
            curve("fan off", (0.0, until / 60.0), (g.setpoint_c, g.setpoint_c), "other"),
        ),
    )


BURNER = Question(
    "burner",
    "How far does a fire run on after its fan stopped?",
    Topic.LOAD,
    BedInput,
    _bed,
    None,
    (
        "A certified burner control owns purge, ignition and fuel valve: a controller only opens or closes its demand contact.",
        "A door that leaks more than is lost never stops heating: no set-point cures it.",
    ),
    "Fire, flue and a closed boiler are licensed work, and kill by carbon monoxide: an alarm for it hangs where people are.",
)
