"""Stage 7: from cold at full power, recorded; then the hottest run that is meant, with a real load."""

from collections.abc import Iterator

from ..control.settings import FULL_OUTPUT
from ..explain import Figure, Input
from ..heating.switches import CASE_TO_SINK, JUNCTION_AIM_C, ssr_dissipation
from ..messages import quantity, temperature
from ..panel.enclosure import HIGHEST_INSIDE_C
from ..units import Kind
from ..wiring.circuit.branches import switches_dc
from ..wiring.circuit.meter import live
from ..wiring.switching import ON
from .facts import EXPECTED, Citing, ProvingFacts
from .first_heat import hottest_terminal
from .isolating import CONTROLLERS
from .predicted import model_of, time_to
from .step import Measure, MeterSetting, ProvingStep, Take

FULL_SHARE = 0.7
"""How far of the way to the working temperature the heat-up from cold is taken (our choice)."""
TOUCH_C = 55.0
"""Metal that somebody may touch for some seconds, °C (EN ISO 13732-1, from memory)."""
WARM = ("ssr", "power_module", "regulator", "contactor", "relay", "enclosure", *CONTROLLERS)
"""Families that warm a box, or feel it."""
JUNCTION_TO_CASE = 0.5
"""K/W of an SSR, typical (data sheets, from memory)."""


def steps(facts: ProvingFacts) -> Iterator[ProvingStep]:
    """Stage 7: from cold at full power, recorded; then the hottest run meant, with a real load."""
    if not facts.purpose.acts:
        return
    cite = Citing(facts)
    cite.sensor()
    working = cite.purpose("working_c")
    goal = facts.room_c + FULL_SHARE * (working - facts.room_c)
    high = cite.number("output_high")
    cite.setting("ramp_c_per_min")
    rigs = model_of(cite)
    if rigs is not None:
        figure, early, late = time_to(
            rigs,
            goal - facts.room_c,
            f"from the room to {temperature(goal, '.0f')}",
            (Input("rise", goal - facts.room_c, Kind.DIFFERENCE, "ΔT", "our choice"),),
        )
        less = (
            f" With the output held to {quantity(high, '%')} it takes longer: set it to {quantity(FULL_OUTPUT, '%')} for this."
            if high < FULL_OUTPUT
            else ""
        )
        yield ProvingStep(
            "heat-up",
            7,
            "Heat-up from cold",
            f"Cold, empty, recorded: full output until {temperature(goal, '.0f')}. It takes…",
            f"The step test for Tuning, and what later heat-ups are held against.{less}",
            Measure(figure, early, late, take=Take.REACHED, by=goal),
            MeterSetting.CLOCK,
            caution="Attended to the end.",
            cites=dict(cite.cites),
        )
    else:
        yield ProvingStep(
            "heat-up",
            7,
            "From rest to work",
            "From rest with nothing in it, recorded, until it holds.",
            "It gets there and holds.",
            caution="Attended to the end.",
            cites=dict(cite.cites),
        )
    if facts.purpose.heats:
        yield _case(facts)
        yield hottest_terminal(facts, "terminals hot", 7, "after the hottest run")
        yield from _plates(facts)
        yield _inside(facts)


def _case(facts: ProvingFacts) -> ProvingStep:
    case = Citing(facts)
    case.purpose("working_c")
    case.purpose("highest_c")
    for part in facts.wiring.of_kind("enclosure", "heater", "ssr"):
        case.part(part.name)
    touch = Figure(
        "outside of the case",
        TOUCH_C,
        Kind.TEMPERATURE,
        source="EN ISO 13732-1, from memory",
        reason="Hotter metal burns who touches it for some seconds: guard it, or mark it.",
    )
    run = f"The hottest run that is meant, with a real load, near its end ({temperature(facts.purpose.working_c)})"
    return ProvingStep(
        "case",
        7,
        "Outside of the case",
        f"{run}: the hottest place that can be touched is…",
        "Nothing that can be touched burns.",
        Measure(touch, None, TOUCH_C),
        MeterSetting.THERMOMETER,
        cites=case.cites,
    )


def _plates(facts: ProvingFacts) -> Iterator[ProvingStep]:
    """The metal behind every semiconductor: as warm as it may be with its junction where it is aimed to stay, at the current as wired."""
    solved = live(facts.circuit, ON)
    for part in facts.wiring.of_kind("ssr"):
        amps = max((solved.contacts[n].amps for n in (part.name,) if n in solved.contacts), default=0.0)
        if amps <= 0 or switches_dc(part):
            continue
        cite = Citing(facts)
        cite.part(part.name)
        cite.loads()
        heat = ssr_dissipation(amps)
        drop = heat.value * (JUNCTION_TO_CASE + CASE_TO_SINK)
        figure = Figure(
            f"metal behind {part.name}",
            JUNCTION_AIM_C - drop,
            Kind.TEMPERATURE,
            formula="T_j − P (R_jc + R_cs)",
            symbol="T",
            inputs=(
                Input("junction, aimed for", JUNCTION_AIM_C, Kind.TEMPERATURE, "T_j", "{125 °C} limit less a margin"),
                heat.as_input("P"),
                Input("junction to case", JUNCTION_TO_CASE, Kind.THERMAL_RESISTANCE, "R_jc", "typical"),
                Input("case to sink", CASE_TO_SINK, Kind.THERMAL_RESISTANCE, "R_cs", "typical, with paste"),
            ),
            reason="Hotter metal means a junction beyond its aim: more metal, more air, or paste that is missing.",
            source="steady thermal chain; typical SSR values, from memory",
        )
        yield ProvingStep(
            f"plate {part.name}",
            7,
            f"Metal behind {part.name}",
            f"Near the end of a long stretch of full output: the sink or back plate right beside {part.name} is…",
            "Its warmth spreads: the metal further off is only a little cooler.",
            Measure(figure, None, figure.value),
            MeterSetting.THERMOMETER,
            caution="Live parts beside it: a thermal picture from outside, or a probe that was fixed with the plug out.",
            cites={**cite.cites, EXPECTED: f"{figure.value:.5g}"},
        )


def _inside(facts: ProvingFacts) -> ProvingStep:
    cite = Citing(facts)
    for part in facts.wiring.parts:
        if part.type.family in WARM:
            cite.part(part.name)
    found = facts.box
    asked = (
        f"Found for this box: {temperature(found.value, '.0f')}." if found else "Ask the bench how warm this box gets."
    )
    figure = Figure(
        "air in the box",
        found.value if found else HIGHEST_INSIDE_C,
        Kind.TEMPERATURE,
        inputs=(found.as_input("T"),) if found else (),
        reason=f"Most controllers stand no more around them. {asked}",
        source="data sheets, common practice",
    )
    return ProvingStep(
        "inside",
        7,
        "Air in the box",
        "After the hottest run, the door of the box shut all the while: beside the controller it is…",
        "The display agrees with what it showed in a cool box: a cold junction errs while it warms.",
        Measure(figure, None, HIGHEST_INSIDE_C),
        MeterSetting.THERMOMETER,
        cites=cite.cites,
    )
