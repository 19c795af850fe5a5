"""Stage 7: from cold at full power, recorded; then the hottest run that is meant, with a real load."""

from collections.abc import Iterator

from ..control.settings import FULL_OUTPUT
from ..explain import Figure, Input
from ..messages import quantity, temperature
from ..units import Kind
from .facts import Citing, ProvingFacts
from .first_heat import hottest_terminal
from .predicted import model_of, time_to
from .step import Measure, MeterSetting, ProvingStep, Take

FULL_SHARE = 0.7
"""How far of the way to the working temperature the heat-up from cold is taken (our choice)."""
TOUCH_C = 55.0
"""Metal that somebody may touch for some seconds, °C (EN ISO 13732-1, from memory)."""


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
