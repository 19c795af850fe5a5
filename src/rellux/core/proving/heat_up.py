"""Stage 7: from cold at full power, recorded; then the hottest run that is meant, with a real load."""

from collections.abc import Iterator

from ..explain import Figure, Input
from ..guarding.plan import StatusLight
from ..heating.switches import ssr_dissipation, warmest_metal
from ..messages import difference, temperature
from ..panel.enclosure import HIGHEST_INSIDE_C
from ..units import Kind
from ..wiring.circuit.branches import switches_dc
from ..wiring.circuit.meter import live
from ..wiring.names import Family
from ..wiring.switching import ON
from .facts import EXPECTED, Citing, ProvingFacts
from .first_heat import hottest_terminal
from .isolating import CONTROLLERS
from .predicted import before_start, course_of, plain_start
from .step import Measure, MeterSetting, ProvingStep, Take

FULL_SHARE = 0.7
"""How far of the way to the working temperature the heat-up from cold is taken (our choice)."""
WARM: tuple[Family, ...] = ("ssr", "power_module", "regulator", "contactor", "relay", "enclosure", *CONTROLLERS)
"""Families that warm a box, or feel it."""


def steps(facts: ProvingFacts) -> Iterator[ProvingStep]:
    """Stage 7: from cold at full power, recorded; then the hottest run meant, with a real load."""
    if not facts.purpose.acts:
        return
    yield _from_rest(facts)
    if facts.purpose.heats:
        yield _case(facts)
    yield hottest_terminal(
        facts, "terminals hot", 7, "after the hottest run" if facts.purpose.heats else "after the longest run"
    )
    yield from _plates(facts)
    yield _inside(facts)


def _from_rest(facts: ProvingFacts) -> ProvingStep:
    cite = Citing(facts)
    cite.sensor()
    working, high = cite.purpose("working_c"), cite.number("output_high")
    course = course_of(cite)
    goal = course.share(working, FULL_SHARE)
    change = abs(goal - course.rests_c)
    heats, burns = facts.purpose.heats, facts.purpose.fire is not None
    says = f"until it has risen by {difference(change, '.0f')}" if burns else f"until {temperature(goal, '.0f')}"
    figure, early, late = course.time_to(
        change,
        high,
        "up from its glow" if burns else f"from the room to {temperature(goal, '.0f')}",
        (Input("change", change, Kind.DIFFERENCE, "ΔT", "our choice"),),
    )
    return ProvingStep(
        "heat-up",
        7,
        "Heat-up from its glow" if burns else "Heat-up from cold" if heats else "From the room to work",
        f"{before_start(cite)}{'Cold, empty' if heats and not burns else 'Empty'}, recorded{plain_start(cite)}: all the output it may give "
        f"{says}. It takes…",
        "The step test for Tuning, and what later heat-ups are held against."
        if heats
        else "What later ones are held against.",
        Measure(
            figure,
            early,
            late,
            take=Take.RISEN if burns else Take.REACHED,
            by=change if burns else goal,
            falls=not heats,
        ),
        MeterSetting.CLOCK,
        caution="Attended to the end.",
        cites=cite.cites,
    )


def _case(facts: ProvingFacts) -> ProvingStep:
    case = Citing(facts)
    case.purpose("working_c")
    case.purpose("highest_c")
    for part in facts.wiring.of_kind("enclosure", "heater", "ssr"):
        case.part(part.name)
    light = (facts.situation.plan.light if facts.situation else None) or StatusLight()
    case.plan("hot to touch", light.hot_c)
    touch = Figure(
        "outside of the case",
        light.hot_c,
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
        Measure(touch, None, light.hot_c),
        MeterSetting.THERMOMETER,
        cites=case.cites,
    )


def _plates(facts: ProvingFacts) -> Iterator[ProvingStep]:
    """The metal behind every semiconductor: as warm as it may be with its junction where it is aimed to stay, at the current as wired."""
    solved = live(facts.circuit, ON)
    for part in facts.wiring.of_kind("ssr"):
        through = solved.contacts.get(part.name)
        if through is None or through.amps <= 0 or switches_dc(part):
            continue
        cite = Citing(facts)
        cite.part(part.name)
        cite.loads()
        figure = warmest_metal(ssr_dissipation(through.amps))
        yield ProvingStep(
            f"plate {part.name}",
            7,
            f"Metal behind {part.name}",
            f"Near the end of a long stretch of full output: the sink or back plate right beside {part.name} is…",
            "Its warmth spreads: the metal further off is only a little cooler.",
            Measure(figure, None, figure.value),
            MeterSetting.THERMOMETER,
            caution=f"Live parts beside it: a thermal picture from outside, or a probe that was fixed with {facts.the_plug} out.",
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
        f"After the {'hottest' if facts.purpose.heats else 'longest'} run, the door of the box shut all the while: beside the controller "
        "it is…",
        "The display agrees with what it showed in a cool box: a cold junction errs while it warms.",
        Measure(figure, None, HIGHEST_INSIDE_C),
        MeterSetting.THERMOMETER,
        cites=cite.cites,
    )
