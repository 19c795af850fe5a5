"""Stage 1, control power with the load dead: rails, the reading and how it behaves, and what can be dialled."""

from collections.abc import Iterator

from ..control.settings import FULL_OUTPUT
from ..explain import Figure, Input
from ..guarding.ladder import sensor_error
from ..messages import quantity, temperature
from ..sensing.sensors import describe, is_thermocouple
from ..units import Kind
from ..wiring.circuit.failures import PROBES
from ..wiring.circuit.meter import live
from ..wiring.model import Part, Role
from ..wiring.names import TerminalName
from ..wiring.switching import OFF
from .facts import Citing, Fitted, ProvingFacts
from .isolating import CONTROLLERS, isolated
from .step import Measure, MeterSetting, ProvingStep, Take

RAIL, MAINS = 0.05, 0.10
"""How far a rail, and the mains, may be from its nominal volts, as a share (handbooks of logic boards; EN 50160; from memory)."""
THERMOMETER_C = 1.0
"""What a room thermometer may be off, °C (our choice)."""
DIGIT_C = 1.0
"""Nobody dials finer than a whole degree of a display without decimals, °C (our choice)."""
UNPLUGGED_S = 10.0
"""A broken sensor must be told within so long, s (our choice: what a filter of a few seconds allows)."""


def steps(facts: ProvingFacts) -> Iterator[ProvingStep]:
    """Rails before boards, then the controller."""
    yield from _rails(facts)
    yield from _supplied(facts)
    yield from _reading(facts)
    yield from _limits(facts)


def _rail(part: Part) -> tuple[TerminalName, TerminalName, float] | None:
    if part.type.kind == "supply_dc":
        return part.at("+"), part.at("-"), part.number("voltage_v", 24.0)
    if part.type.kind in ("regulator", "power_module"):
        return part.at("OUT+"), part.at("OUT-"), part.number("output_v", 5.0)
    return None


def _rails(facts: ProvingFacts) -> Iterator[ProvingStep]:
    for part in facts.wiring.parts:
        if (rail := _rail(part)) is None:
            continue
        plus, minus, volts = rail
        cite = Citing(facts)
        cite.part(part.name)
        cite.live(plus, minus)
        isolation = isolated(facts, cite)
        figure = Figure(
            f"rail of {part.name}",
            volts,
            Kind.VOLTAGE,
            symbol="U",
            source="common practice, no source",
            inputs=(Input("nominal", volts, Kind.VOLTAGE, "U_n", f"rating of {part.name}"),),
            reason="Logic is made for this much and no more.",
        )
        yield ProvingStep(
            f"rail {part.name}",
            1,
            f"Rail of {part.name}",
            f"Before a board is plugged onto it: from {plus} (red) to {minus} (black), direct volts.",
            "Steady, with the sign right.",
            Measure(figure, volts * (1 - RAIL), volts * (1 + RAIL)),
            MeterSetting.VOLTS_DC,
            isolation,
            "A board on a wrong rail is dead before you see it.",
            cite.cites,
            between=(plus, minus),
            switching=OFF,
        )


def _supplied(facts: ProvingFacts) -> Iterator[ProvingStep]:
    """Volts at the supply terminals of controller, limiter and the like, with the output off."""
    solved = live(facts.circuit, OFF)
    for part in facts.wiring.of_kind(*CONTROLLERS, "limiter", "logger"):
        pair = part.type.paired(Role.SUPPLY_IN, Role.SUPPLY_IN)
        ends = (part.at(pair[0]), part.at(pair[1])) if pair else None
        volts = solved.between(*ends) if ends else None
        if ends is None or not volts:
            continue
        cite = Citing(facts)
        cite.part(part.name)
        cite.live(*ends)
        cite.expects(volts)
        isolation = isolated(facts, cite)
        direct = abs(solved.direct(*ends)) > solved.alternating(*ends)
        figure = Figure(
            f"supply of {part.name}",
            volts,
            Kind.VOLTAGE,
            symbol="U",
            reason="From the list as wired, with the output off.",
            source="EN 50160: mains stay within a tenth, from memory",
        )
        yield ProvingStep(
            f"supply {part.name}",
            1,
            f"Supply of {part.name}",
            f"From {ends[0]} to {ends[1]}: volts.",
            "It starts and shows no fault.",
            Measure(figure, volts * (1 - MAINS), volts * (1 + MAINS)),
            MeterSetting.VOLTS_DC if direct else MeterSetting.VOLTS_AC,
            isolation,
            "" if direct else "Live: probes with covered tips, one hand, local code and a licensed person.",
            cite.cites,
            between=ends,
            switching=OFF,
        )


def _reading(facts: ProvingFacts) -> Iterator[ProvingStep]:
    cite = Citing(facts)
    sensor = cite.sensor()
    kind, unit = cite.setting("input_type"), cite.setting("display_unit")
    cite.number("offset_c")
    cite.setting("offset_school")
    cite.fitted(Fitted.CONTROLLER)
    wired = [p for p in facts.wiring.of_kind(*PROBES) if p.ratings.get("place") == "chamber"]
    for part in wired:
        cite.part(part.name)
        for wire in facts.wiring.connections:
            if part.name in wire.parts:
                cite.wire(wire)
    isolation = isolated(facts, cite)
    error = sensor_error(sensor, facts.room_c, "sensor and input at the room")
    off, shown = error.value + THERMOMETER_C, facts.room_c + facts.settings.offset_c
    inputs = (
        Input("room by a thermometer beside the probe", facts.room_c, Kind.TEMPERATURE, "T", "measured"),
        error.as_input("a"),
        Input("the thermometer", THERMOMETER_C, Kind.DIFFERENCE, "b", "our choice"),
        Input("what the offset entered adds to the reading", facts.settings.offset_c, Kind.DIFFERENCE, "c", "sheet"),
    )
    figure = Figure(
        "reading at the room",
        shown,
        Kind.TEMPERATURE,
        formula="T + c ± (a + b)",
        inputs=inputs,
        source=error.source,
        reason=f"{describe(sensor)} read as {kind}, shown in °{unit}: a wrong type shows itself here first.",
    )
    yield ProvingStep(
        "reading",
        1,
        "Reading at the room",
        f"Set to {kind} and °{unit}, a thermometer beside the probe for some minutes: what does the display show?",
        "The two agree.",
        Measure(figure, shown - off, shown + off, take=Take.READING),
        MeterSetting.THERMOMETER,
        isolation,
        cites=dict(cite.cites),
    )
    sense = "Warm the probe between two fingers, or with hot air."
    yield ProvingStep(
        "warmed",
        1,
        "Warmed, it rises",
        sense,
        "The reading rises at once. If it falls, its leads are swapped.",
        isolated=isolation,
        cites=dict(cite.cites),
        constant="A reversed probe shows itself the same way on every rig.",
    )
    if is_thermocouple(sensor):
        yield ProvingStep(
            "touched",
            1,
            "Touched on earth, it stays",
            "Touch the probe’s tip on bare earthed metal.",
            "The reading does not jump by more than a degree.",
            isolated=isolation,
            cites=dict(cite.cites),
            constant="A leak through the input shows itself the same way on every rig.",
        )
    rest = Citing(facts)
    rest.cites |= cite.cites
    given = rest.number("sensor_failure_output")
    calm = "all outputs go off" if given == 0 else f"the output goes to {quantity(given, '%')}"
    danger = (
        ""
        if given == 0 or not facts.purpose.acts
        else f"As it is set it goes on with {quantity(given, '%')} of {quantity(FULL_OUTPUT, '%')} while it is blind: see Set-up."
    )
    yield ProvingStep(
        "unplugged",
        1,
        "Unplugged, it says so",
        "Take one lead of the probe off the input.",
        f"Within {quantity(UNPLUGGED_S, 's')} it shows an open sensor, and {calm}.",
        isolated=isolation,
        caution=danger,
        cites=rest.cites,
    )


def _limits(facts: ProvingFacts) -> Iterator[ProvingStep]:
    if not facts.purpose.acts:
        return
    for name, way, most in (("setpoint_high_c", "above", "highest"), ("setpoint_low_c", "below", "lowest")):
        cite = Citing(facts)
        limit = cite.number(name)
        cite.fitted(Fitted.CONTROLLER)
        isolation = isolated(facts, cite)
        figure = Figure(
            f"{most} that can be dialled",
            limit,
            Kind.TEMPERATURE,
            inputs=(Input("limit", limit, Kind.TEMPERATURE, "", "sheet"),),
            reason="Whoever cannot dial it cannot do it by mistake.",
        )
        yield ProvingStep(
            f"dial {name}",
            1,
            f"Nobody can dial {way} the limit",
            f"Try to set the set-point {way} {temperature(limit)}: the {most} it takes is…",
            "It stops at the limit.",
            Measure(figure, limit - DIGIT_C, limit + DIGIT_C),
            isolated=isolation,
            cites=cite.cites,
        )
