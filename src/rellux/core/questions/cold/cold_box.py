"""Does this cooler hold the box, and how often does its compressor start?"""

from dataclasses import dataclass
from typing import Any

import numpy as np
import scipy

from ...cooling.dew_point import dew_point
from ...cooling.machine import CONDENSER_C, EVAPORATOR_C, carnot, least_hysteresis, pumped_w, rest_rise, starts_per_hour
from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...form import number
from ...messages import difference, percent, quantity, spoken_time, temperature
from ...units import Kind
from ..answer import MEMORY, Answer, Axis, Curves, Known, Mark, Question, Topic, curve

SHORTEST_RUN_S = 60.0
"""A compressor should run so long each time that its oil comes back, s (makers say one to two minutes, from memory)."""
COLDEST_C = -60.0
"""The picture, and the search for how cold it gets, end here: no single compressor stage goes so far (our choice)."""
POINTS = 61


@dataclass(frozen=True)
class ColdInput:
    """A box, its cooler, and how it is switched."""

    inside_c: float = number("Inside", Kind.TEMPERATURE, -40, 25, 4)
    ambient_c: float = number("Room, at its warmest", Kind.TEMPERATURE, 0, 50, 25)
    humidity_percent: float = number("Its humidity", Kind.PERCENT, 5, 100, 60)
    leak_w_k: float = number(
        "The box leaks", Kind.CONDUCTANCE, 0.01, 500, 1.2, hint="W for each degree: walls, seal, openings"
    )
    load_w: float = number("Made inside", Kind.POWER, 0, 20_000, 5, hint="lamp, fan, detector, door heater")
    content_kg: float = number("Content", Kind.MASS, 0.1, 5000, 12, hint="with what warms and cools of the box itself")
    content_heat: float = number("J to warm a kg by a degree", Kind.COUNT, 100, 4200, 2500)
    power_w: float = number("The cooler takes", Kind.POWER, 5, 20_000, 90)
    share: float = number("It does, of what physics allows", Kind.PERCENT, 5, 70, 40, hint="small machines 30 to 50 %")
    hysteresis_c: float = number("Between on and off", Kind.DIFFERENCE, 0.1, 20, 2)
    starts: float = number(
        "Starts an hour, at most", Kind.PER_HOUR, 0.5, 60, 6, hint="its sheet says; 6 to 10 are usual"
    )
    rest_s: float = number("Rest after it stopped", Kind.TIME, 0, 1800, 240, hint="3 to 5 min: pressures must even out")
    window_c: float = number("The content may wander by", Kind.DIFFERENCE, 0.1, 30, 4)

    @property
    def capacity(self) -> float:
        """J/K."""
        return self.content_kg * self.content_heat

    def pumped(self, inside_c: float) -> float:
        return pumped_w(self.power_w, self.share / 100.0, inside_c, self.ambient_c)

    def leaked(self, inside_c: float) -> float:
        return self.leak_w_k * (self.ambient_c - inside_c) + self.load_w


def _cold(g: ColdInput) -> Answer:
    most = carnot(g.inside_c, g.ambient_c)
    pumped, leaked = g.pumped(g.inside_c), g.leaked(g.inside_c)
    duty = min(leaked / pumped, 1.0)
    starts = starts_per_hour(pumped, leaked, g.capacity, g.hysteresis_c)
    least, rise = least_hysteresis(pumped, g.capacity, g.starts), rest_rise(leaked, g.capacity, g.rest_s)
    dew = dew_point(g.ambient_c, g.humidity_percent)
    run_s = g.capacity * g.hysteresis_c / (pumped - leaked) if pumped > leaked else 0.0
    heat = (
        Input("leaks in", leaked, Kind.POWER, "Q_l", "computed"),
        Input("pumped", pumped, Kind.POWER, "Q_c", "computed"),
    )
    figures = [
        Figure(
            "leaks in",
            leaked,
            Kind.POWER,
            formula="G (T_a − T) + Q_0",
            inputs=(
                Input("leaks", g.leak_w_k, Kind.CONDUCTANCE, "G", "given"),
                Input("made inside", g.load_w, Kind.POWER, "Q_0", "given"),
            ),
            reason="With the box where it should be and the room at its warmest.",
            symbol="Q_l",
        ),
        Figure(
            "heat pumped",
            pumped,
            Kind.POWER,
            formula="P η T_c / (T_h − T_c)",
            inputs=(
                Input("power", g.power_w, Kind.POWER, "P", "given"),
                Input("share of Carnot", g.share / 100.0, Kind.RATIO, "η", "given"),
                Input("evaporator", g.inside_c - EVAPORATOR_C, Kind.TEMPERATURE, "T_c", MEMORY),
                Input("condenser", g.ambient_c + CONDENSER_C, Kind.TEMPERATURE, "T_h", MEMORY),
            ),
            reason=f"{pumped / g.power_w:.1f} W of heat for each W it takes; no machine could do more than {most:.0f} here.",
            source="Carnot's bound, and what small machines reach of it",
            symbol="Q_c",
        ),
        Figure(
            "runs for",
            100.0 * duty,
            Kind.PERCENT,
            formula="Q_l / Q_c",
            inputs=heat,
            reason="Of the time.",
            source="heat balance",
        ),
        Figure(
            "starts",
            starts,
            Kind.PER_HOUR,
            formula="3600 Q_l (Q_c − Q_l) / (Q_c C H)",
            inputs=(*heat, Input("hysteresis", g.hysteresis_c, Kind.DIFFERENCE, "H", "given")),
            reason="The lag of the sensor makes the swing larger and the starts fewer.",
            source="a box between two thresholds",
        ),
        Figure(
            "between on and off, at least",
            least,
            Kind.DIFFERENCE,
            formula="900 Q_c / (C N)",
            inputs=(heat[1], Input("starts allowed", g.starts, Kind.PER_HOUR, "N", "given")),
            reason="So that it never starts more often, also at half load, where it starts most.",
            source="the same, at its worst",
        ),
        Figure(
            "a rest warms it by",
            rise,
            Kind.DIFFERENCE,
            formula="Q_l m / C",
            inputs=(heat[0], Input("rest", g.rest_s, Kind.TIME, "m", "given")),
            reason="Whatever the set-point is.",
            source="heat balance",
        ),
        Figure(
            "dew point of the room",
            dew,
            Kind.TEMPERATURE,
            formula="γ = ln(RH) + A T / (B + T); B γ / (A − γ)",
            inputs=(),
            reason="What is colder outside of the box is wet.",
            source="Magnus, coefficients of the WMO guide, from memory",
        ),
    ]
    coldest = _coldest(g)
    if coldest is not None:
        why = "Where it pumps no more than leaks in."
        figures.append(
            Figure(
                "coldest it gets",
                coldest,
                Kind.TEMPERATURE,
                formula="Q_c(T) = Q_l(T)",
                inputs=heat,
                reason=why,
                source="heat balance",
            )
        )
    return Answer(
        _headline(g, duty, starts, coldest),
        tuple(figures),
        tuple(_findings(g, pumped, leaked, starts, rise, dew, run_s)),
        _picture(g),
    )


def _coldest(g: ColdInput) -> float | None:
    """Where it would come to rest without ever stopping; ``None`` beyond the picture's end."""

    def spare(inside_c: float) -> float:
        return g.pumped(inside_c) - g.leaked(inside_c)

    warm = g.ambient_c - 0.1
    if spare(COLDEST_C) > 0:
        return None
    return float(scipy.optimize.brentq(spare, COLDEST_C, warm)) if spare(warm) > 0 else warm


def _headline(g: ColdInput, duty: float, starts: float, coldest: float | None) -> str:
    if duty >= 1.0:
        where = f"it ends at {temperature(coldest, '.0f')}" if coldest is not None else ""
        return f"It does not hold {temperature(g.inside_c)}: {where}."
    return f"It runs {percent(duty)} of the time and starts {quantity(starts, '/h', '.2g')}."


def _findings(
    g: ColdInput, pumped: float, leaked: float, starts: float, rise: float, dew: float, run_s: float
) -> list[Finding]:
    found = []
    if pumped <= leaked:
        found.append(
            Finding(
                "cold.reach",
                Severity.FAULT,
                title=f"It pumps {quantity(pumped, 'W', '.0f')} and {quantity(leaked, 'W', '.0f')} leak in",
                reason="It never stops, and the box stays warmer than it should on the warmest days.",
                fix="Thicker walls, a better seal, less made inside, or a larger cooler.",
            )
        )
        return found
    if starts > g.starts:
        least = least_hysteresis(pumped, g.capacity, g.starts)
        found.append(
            Finding(
                "cold.starts",
                Severity.FAULT,
                title=f"It starts {quantity(starts, '/h', '.2g')}, and {quantity(g.starts, '/h')} are what it stands",
                reason="Every start takes several times its current and washes oil out of it.",
                fix=f"At least {difference(least, '.2g')} between on and off, or more content that has to be cooled.",
            )
        )
    if run_s < SHORTEST_RUN_S:
        found.append(
            Finding(
                "cold.short",
                Severity.FAULT,
                title=f"It runs only {spoken_time(run_s)} at a time",
                reason="Its oil does not come back in so short a run, and it wears.",
                fix="More between on and off, or a smaller cooler.",
                source=MEMORY,
            )
        )
    if rise > g.window_c:
        found.append(
            Finding(
                "cold.rest",
                Severity.FAULT,
                title=f"During a rest of {spoken_time(g.rest_s)} it warms by {difference(rise, '.2g')}",
                reason=f"It may wander by {difference(g.window_c, '.2g')}: no set-point cures that.",
                fix="More content, thicker walls, or two smaller coolers that take turns.",
            )
        )
    if g.inside_c < dew:
        found.append(
            Finding(
                "cold.dew",
                Severity.ADVICE,
                title=f"What is below {temperature(dew, '.0f')} outside is wet",
                reason="Seal, window, pipes and anything taken out of it gather water; electronics that are switched on then are lost.",
                fix="Insulate them, warm the seal a little above the dew point, and let what comes out warm up closed.",
            )
        )
    return found


def _picture(g: ColdInput) -> Curves:
    grid = np.linspace(max(g.inside_c - 25.0, COLDEST_C), g.ambient_c - 0.5, POINTS)
    return Curves(
        Axis("inside", Kind.TEMPERATURE),
        Axis("heat", Kind.POWER),
        (
            curve("pumped", grid, [g.pumped(float(t)) for t in grid]),
            curve("leaks in", grid, [g.leaked(float(t)) for t in grid], "other"),
        ),
        (Mark("here", g.inside_c, g.leaked(g.inside_c)),),
    )


def _of_rig(known: Known) -> dict[str, Any]:
    p = known.purpose
    if not p.cools or p.lowest_c is None:
        return {}
    window = min(p.highest_c - p.working_c, p.working_c - p.lowest_c)
    return {"inside_c": p.working_c, "ambient_c": p.ambient_c, "power_w": p.heater_power_w, "window_c": 2.0 * window}


COLD_BOX = Question(
    "cold_box",
    "Does this cooler hold the box, and how often does it start?",
    Topic.COLD,
    ColdInput,
    _cold,
    _of_rig,
    (
        "After the supply comes back a compressor counts as just stopped: it rests first.",
        "A broken sensor must not read warm here: the cooler would run for ever and freeze the content.",
        "Between on and off counts what the content does, not the air that a sensor sees when a door opens.",
    ),
    "Refrigerant burns, chokes or explodes: its circuit is opened by the licensed only.",
)
