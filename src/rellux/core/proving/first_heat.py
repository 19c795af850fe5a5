"""Stage 4, the first heat: supervised, low, a hand on the switch."""

from collections.abc import Iterator
from dataclasses import replace
from itertools import pairwise

from ..explain import Figure, Input
from ..heating.elements import ELEMENT_KINDS
from ..messages import difference, quantity, spoken_time, temperature
from ..units import Kind
from ..wiring.circuit.meter import live
from ..wiring.circuit.solution import Solution, Through
from ..wiring.insulation import INSULATIONS
from ..wiring.model import Circuit, Part
from ..wiring.names import TerminalName, terminal_of
from ..wiring.switching import ON
from .facts import EXPECTED, Citing, ProvingFacts
from .predicted import LONGEST_S, before_start, course_of, plain_start
from .safety import stops_with_heat
from .step import Measure, MeterSetting, ProvingStep, Take

OHMS, HOT_MAINS = 0.10, 0.10
"""How far hot ohms may be from the nameplate’s, and the mains from nominal, as a share (handbooks of elements; EN 50160; from memory)."""
RCD_S = 0.3
"""An earth-leakage breaker trips at its rated current within, s (IEC 61008-1, from memory)."""
FIRST_SHARE = 0.3
"""How far of the way to the working temperature the first heat is taken (our choice)."""
SEEN_C = 3.0
"""A change that no noise makes, °C (our choice)."""
SEEN_SHARE = 0.5
"""And no more of the way to the first set-point (our choice)."""
SETTLED_MIN = 10.0
PAIR = 2
BARE = "Live: covered probes, local code and a licensed person; or by a meter that is built in."


def steps(facts: ProvingFacts) -> Iterator[ProvingStep]:
    """Stage 4: supervised, low, hand on the switch."""
    if not facts.purpose.acts:
        return
    yield from _rises(facts)
    yield from _power(facts)
    yield from _turned(facts)
    yield from stops_with_heat(facts)
    yield from _leakage(facts)
    yield from _rotation(facts)
    yield _smell(facts)
    yield hottest_terminal(facts, "terminals", 4, f"after {quantity(SETTLED_MIN, 'min')}")


def _rises(facts: ProvingFacts) -> Iterator[ProvingStep]:
    cite = Citing(facts)
    cite.sensor()
    output, working = cite.number("output_high"), cite.purpose("working_c")
    course = course_of(cite)
    goal = course.share(working, FIRST_SHARE)
    seen = min(SEEN_C, SEEN_SHARE * abs(goal - course.rests_c))
    inputs = (
        Input("change", seen, Kind.DIFFERENCE, "ΔT", "our choice"),
        Input(
            "full-power change",
            float(course.rigs.likely.equilibrium_rise()[course.rigs.likely.sensor_node]),
            Kind.DIFFERENCE,
            "K·100",
            "process",
        ),
        Input("dead time", course.rigs.likely.dead_time_s, Kind.TIME, "L", "process"),
    )
    figure, early, late = course.time_to(seen, output, "until it shows", inputs)
    heats = facts.purpose.heats
    moves = "risen" if heats else "fallen"
    yield ProvingStep(
        "rises",
        4,
        "First heat" if heats else "First cold",
        f"{before_start(cite)}Fire extinguisher at hand, hand on the main switch{plain_start(cite)}: set-point "
        f"{temperature(goal, '.0f')}, and take the time.",
        f"The reading has {moves} {quantity(seen, 'Δ°C', '.2g')} after…; nothing by {spoken_time(late or LONGEST_S)} means: off, "
        "and look for why.",
        Measure(figure, early, late, take=Take.RISEN, by=seen, falls=not heats),
        MeterSetting.CLOCK,
        caution="Nobody leaves. If it smells or smokes, or the reading goes the wrong way: off.",
        cites=cite.cites,
    )


def _power(facts: ProvingFacts) -> Iterator[ProvingStep]:
    solved = live(facts.circuit, ON)
    for part in (p for p in facts.wiring.parts if p.heats):
        cite = Citing(facts)
        cite.part(part.name)
        cite.live(*part.ends)
        for ends in pairwise(part.ends if len(part.ends) == PAIR else [*part.ends, part.ends[0]]):
            yield from _volts(part, ends, solved, dict(cite.cites))
        if part.type.kind == "heater" and part.name in solved.loads and solved.loads[part.name].amps > 0:
            yield _quotient(part, solved.loads[part.name], dict(cite.cites))


def _volts(
    part: Part, ends: tuple[TerminalName, TerminalName], solved: Solution, cites: dict[str, str]
) -> Iterator[ProvingStep]:
    volts = solved.between(*ends)
    if not volts:
        return
    cites = {**cites, EXPECTED: f"{volts:.5g}"}
    figure = Figure(
        f"volts at {part.name}",
        volts,
        Kind.VOLTAGE,
        symbol="U",
        reason="From the list as wired, output on.",
        source="EN 50160, from memory",
    )
    yield ProvingStep(
        f"volts {ends[0]} {ends[1]}",
        4,
        f"Volts at {part.name}",
        f"Output steadily on: from {ends[0]} to {ends[1]}: volts.",
        "All of the supply’s, less little.",
        Measure(figure, volts * (1 - HOT_MAINS), volts * (1 + HOT_MAINS)),
        MeterSetting.VOLTS_AC if solved.alternating(*ends) > abs(solved.direct(*ends)) else MeterSetting.VOLTS_DC,
        caution=BARE,
        cites=cites,
        between=ends,
        switching=ON,
    )


def _turned(facts: ProvingFacts) -> Iterator[ProvingStep]:
    """A module that is turned round to cool, the reading well above the set-point."""
    cooled = replace(ON, output_on=False, alarm_on=True)
    solved = live(facts.circuit, cooled)
    for name, through in solved.turned.items():
        ends = terminal_of(name, "+"), terminal_of(name, "-")
        cite = Citing(facts)
        cite.part(name)
        cite.live(*ends)
        figure = Figure(
            f"volts at {name}, turned round",
            cite.expects(-through.volts),
            Kind.VOLTAGE,
            symbol="U",
            reason="From the list as wired, the cooler called.",
            source="first principles",
        )
        yield ProvingStep(
            f"turned {name}",
            4,
            f"{name}, turned round",
            f"Set-point more than {difference(cite.number('cool_above_c'))} below the reading: from {ends[0]} to {ends[1]}: volts, with "
            "their sign.",
            "Minus what it had while it heated, and the reading falls.",
            Measure(figure, -through.volts * (1 + HOT_MAINS), -through.volts * (1 - HOT_MAINS)),
            MeterSetting.VOLTS_DC,
            caution=BARE,
            cites=dict(cite.cites),
            between=ends,
            switching=cooled,
        )


def _quotient(part: Part, through: Through, cites: dict[str, str]) -> ProvingStep:
    kind = ELEMENT_KINDS[str(part.ratings.get("element", "wire"))]
    ohm = through.volts / through.amps
    after = f"once it has settled ({spoken_time(kind.settles_s)})" if kind.settles_s else "once it is warm"
    figure = Figure(
        f"hot ohms of {part.name}",
        ohm,
        Kind.RESISTANCE,
        formula="R = U / I",
        symbol="R",
        reason=kind.says,
        inputs=(
            Input("volts as wired", through.volts, Kind.VOLTAGE, "U", "computed"),
            Input("amperes as wired", through.amps, Kind.CURRENT, "I", "computed"),
        ),
    )
    return ProvingStep(
        f"hot {part.name}",
        4,
        f"Amperes of {part.name}",
        f"Output steadily on, {after}: volts, and amperes by a clamp round one lead only.",
        "Part of it broken, or another one, shows in their quotient.",
        Measure(figure, ohm * (1 - OHMS), ohm * (1 + OHMS), divided=True),
        MeterSetting.CLAMP,
        caution=BARE,
        cites=cites,
    )


def _leakage(facts: ProvingFacts) -> Iterator[ProvingStep]:
    for part in facts.wiring.of_kind("rcd"):
        cite = Citing(facts)
        cite.part(part.name)
        trips = part.number("trips_a", 0.03)
        figure = Figure(
            f"{part.name} trips within",
            RCD_S,
            Kind.TIME,
            symbol="t",
            source="IEC 61008-1, table 1, from memory",
            inputs=(Input("rated current", 1e3 * trips, Kind.MILLIAMPERES, "IΔn", f"rating of {part.name}"),),
        )
        yield ProvingStep(
            f"rcd {part.name}",
            4,
            f"{part.name} holds, and trips in time",
            f"Output on: {part.name} holds. Then a tester at {quantity(1e3 * trips, 'mA')}: how long until it trips?",
            "Holds in use, trips by the tester and by its own button.",
            Measure(figure, 0.0, RCD_S),
            MeterSetting.RCD_TESTER,
            cites=cite.cites,
        )


def _rotation(facts: ProvingFacts) -> Iterator[ProvingStep]:
    turning = [p.name for p in facts.wiring.of_kind("fan", "motor", "fire_fan")]
    supplies = facts.wiring.of_kind("supply_3ph")
    if not turning or not supplies:
        return
    cite = Citing(facts)
    for name in (*turning, *(s.name for s in supplies)):
        cite.part(name)
    yield ProvingStep(
        "rotation",
        4,
        "Turning the right way",
        f"Start {', '.join(turning)} for a moment and look.",
        "They turn the way of the arrow: a fan that turns backwards moves air too, only less.",
        cites=cite.cites,
    )


def _smell(facts: ProvingFacts) -> ProvingStep:
    cite = Citing(facts)
    for part in facts.wiring.parts:
        if part.heats:
            cite.part(part.name)
    cite.names(w.name for w in facts.wiring.connections if w.circuit is Circuit.POWER)
    return ProvingStep(
        "smell",
        4,
        "No smell, no sound",
        f"Stay beside it for {quantity(SETTLED_MIN, 'min')}: nose, ears, eyes.",
        "New elements may smell of oil for minutes; nothing hums, crackles or browns.",
        constant="No number says it: nose, ears and eyes are the same at every rig.",
        cites=cite.cites,
    )


def hottest_terminal(facts: ProvingFacts, key: str, stage: int, when: str) -> ProvingStep:
    """Power terminals after a while with the plug out: no hotter than the poorest covering there stands."""
    cite = Citing(facts)
    power = [w for w in facts.wiring.connections if w.circuit is Circuit.POWER]
    cite.names(w.name for w in power)
    stands = {w.insulation or "pvc" for w in power}
    worst = min(stands or {"pvc"}, key=lambda i: INSULATIONS[i][1])
    words, limit = INSULATIONS[worst]
    inputs = (Input(words, limit, Kind.TEMPERATURE, "T", "data sheets, from memory"),)
    figure = Figure(
        "hottest terminal",
        limit,
        Kind.TEMPERATURE,
        formula="≤ T",
        inputs=inputs,
        reason="No hotter than the poorest covering of a power wire stands. One much hotter than its neighbour is loose.",
    )
    return ProvingStep(
        key,
        stage,
        "Hottest terminal",
        f"{when[0].upper()}{when[1:]}: {facts.the_plug} out, then at once a contact thermometer or thermal picture over all power "
        "terminals: the hottest is…",
        "None stands out from its neighbours. Tighten again when cold.",
        Measure(figure, None, limit),
        MeterSetting.THERMOMETER,
        isolated=f"{facts.plug_out} before anything is touched.",
        cites=cite.cites,
    )
