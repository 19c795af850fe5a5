"""The usual circuits as starting points: what the chosen parts need, and what is often added to or left out of it."""

from dataclasses import dataclass, replace
from enum import StrEnum

from ..errors import Problem, Refused, refuse
from ..messages import quantity
from ..purpose.heater import heater_current
from ..purpose.kinds import KINDS
from ..purpose.purpose import Purpose, RigKind
from .choice import Choice, Output
from .generate import CONTROL_MODULE, CONTROL_SUPPLY, control_colours, generate
from .library import PART_TYPES
from .model import Circuit, Connection, ConnectionList, Part
from .names import TerminalName, split, terminal_of

PILOT_A = 3.0
CASCADE = {
    "controller_relay": "controller_cascade",
    "controller_ssr": "controller_cascade_ssr",
    "controller_linear": "controller_cascade_linear",
}


class Usual(StrEnum):
    """Starting points."""

    PARTS = "parts"
    BEACON = "beacon"
    CASCADE = "cascade"
    CASCADE_BEACON = "cascade_beacon"
    START = "start"
    FAN = "fan"
    PUMP = "pump"
    THERMOSTAT = "thermostat"
    MONITOR = "monitor"


MOVED = {Usual.FAN: "fan", Usual.PUMP: "pump"}
"""What moves air or liquid past the heater."""


@dataclass(frozen=True)
class Offer:
    """A starting point as offered: ``refused`` says why these parts cannot have it."""

    key: Usual
    title: str
    says: str
    refused: str = ""


WORDS = {
    Usual.PARTS: (
        "The chosen parts",
        "Breakers, controller, limiter, switch, heater and sensors as chosen under Parts.",
    ),
    Usual.BEACON: (
        "… with an alarm beacon",
        "The alarm contact lights a beacon; where that is taken or missing the limiter does when it has tripped.",
    ),
    Usual.CASCADE: ("… as a cascade of two sensors", "A second sensor on the heater: an inner loop limits it."),
    Usual.CASCADE_BEACON: ("… cascade and beacon", "Both of them."),
    Usual.START: ("… started by a button", "A contactor that holds itself: after a power cut the heat stays off."),
    Usual.FAN: (
        "… with a fan and its flow switch",
        "A fan from the control breaker; the flow switch drops the heat whenever no air moves.",
    ),
    Usual.PUMP: (
        "… with a pump and its flow switch",
        "A pump from the control breaker; the flow switch drops the heat whenever nothing flows.",
    ),
    Usual.THERMOSTAT: (
        "Thermostat with its own relay",
        "The controller's relay switches a small load, a lamp shows off.",
    ),
    Usual.MONITOR: ("Only a thermometer", "The controller reads a sensor and switches nothing."),
}


WATCHING_WORDS = {
    Usual.PARTS: ("The chosen parts", "Breaker, controller and sensor as chosen under Parts."),
    Usual.BEACON: WORDS[Usual.BEACON],
}
"""Of a rig that only watches."""
COOLED_TOO = (
    "The chosen parts",
    "Breakers, controller, limiter, switch, heater and sensors as chosen under Parts; the cooler on a relay that opens the heater’s "
    "command.",
)
"""Of one with a cooler beside its heater."""
COOLING_WORDS = {
    Usual.PARTS: (
        "The chosen parts",
        "Breakers, controller, low limiter, switch, compressor and sensors as chosen under Parts.",
    ),
    Usual.BEACON: WORDS[Usual.BEACON],
    Usual.START: ("… started by a button", "A contactor that holds itself: after a power cut the cooling stays off."),
}
"""Of one that cools."""


FIRE_WORDS = {
    Usual.PARTS: ("The chosen parts", "Breakers, controller, limiter, switch, fan and sensors as chosen under Parts."),
    Usual.BEACON: WORDS[Usual.BEACON],
    Usual.START: ("… started by a button", "A contactor that holds itself: after a power cut the fan stays off."),
}
"""Of one with a fire."""


def _words(purpose: Purpose) -> dict[Usual, tuple[str, str]]:
    if purpose.fire:
        return FIRE_WORDS
    if purpose.cooler:
        return {Usual.PARTS: COOLED_TOO, **{u: WORDS[u] for u in (Usual.BEACON, Usual.CASCADE, Usual.START, *MOVED)}}
    return WORDS if purpose.heats else COOLING_WORDS if purpose.cools else WATCHING_WORDS


def offers(kind: RigKind, purpose: Purpose, choice: Choice) -> tuple[Offer, ...]:
    """Every starting point for this kind of rig, with the reason where these parts cannot have it."""
    found = []
    other = Usual.FAN if KINDS[kind].like is RigKind.TANK else Usual.PUMP
    for key, (title, says) in _words(purpose).items():
        if key is other or (purpose.heater_sensor and key in (Usual.CASCADE, Usual.CASCADE_BEACON)):
            continue
        if key in (Usual.CASCADE, Usual.CASCADE_BEACON):
            found.append(
                Offer(key, title, says, "say in Purpose that a sensor sits at its heater: then both loops are set too")
            )
            continue
        try:
            usual(purpose, choice, key)
            found.append(Offer(key, title, says))
        except Refused as refused:
            found.append(Offer(key, title, says, refused.problems[0].reason))
    return tuple(found)


def usual(purpose: Purpose, choice: Choice, key: Usual) -> ConnectionList:
    """The circuit of a starting point for this purpose and these parts. Raises ``Refused`` where it cannot be."""
    if key not in _words(purpose):
        raise refuse("circuit", "a rig of this purpose is not wired so", ", ".join(_words(purpose)))
    if key is Usual.THERMOSTAT:
        return _thermostat(purpose, choice)
    if key is Usual.MONITOR:
        return _monitor(purpose, choice)
    wiring = generate(purpose, choice)
    if key in (Usual.CASCADE, Usual.CASCADE_BEACON) or purpose.heater_sensor:
        wiring = _cascade(wiring, choice)
    if key in MOVED:
        return _flow(wiring, purpose, choice, MOVED[key])
    if key in (Usual.BEACON, Usual.CASCADE_BEACON):
        wiring = _beacon(wiring, purpose, choice)
    return _start(wiring, purpose, choice) if key is Usual.START else wiring


def _added(wiring: ConnectionList, parts: tuple[Part, ...], *wires: tuple[str, str, Circuit, str]) -> ConnectionList:
    """The list with more parts and wires, sized like those of the same circuit."""
    area = {c: next((w.area_mm2 for w in wiring.connections if w.circuit is c), 0.75) for c in Circuit}
    start = max((w.number for w in wiring.connections), default=0) + 1
    more = tuple(
        Connection(start + i, TerminalName(a), TerminalName(b), circuit, area[circuit], colour)
        for i, (a, b, circuit, colour) in enumerate(wires)
    )
    return ConnectionList((*wiring.parts, *parts), (*wiring.connections, *more))


def _control(wiring: ConnectionList) -> str:
    """A terminal on the control live with room for one more wire: the end of the chain the control breaker feeds."""
    return _last(wiring, "F2.2")


def _last(wiring: ConnectionList, first: str) -> str:
    """The end of a chain of control wires, before it comes to a contact that switches or, along the live, to a coil."""
    chain = [first]
    while True:
        following = next((w.b for w in wiring.connections if w.a == chain[-1] and w.circuit is Circuit.CONTROL), None)
        if following is None or split(following)[1] in ("A1", "NO"):
            return chain[-1]
        chain.append(following)


def _neutral(wiring: ConnectionList) -> str:
    """Where the controls return to: of a supply of their own, a module that feeds them, or the heater's."""
    if any(p.name == CONTROL_MODULE for p in wiring.parts):
        return _last(wiring, terminal_of(CONTROL_MODULE, "OUT-"))
    supplies = wiring.of_kind("supply")
    return _returns(next((p for p in supplies if p.name == CONTROL_SUPPLY), supplies[0]))


def _returns(supply: Part) -> TerminalName:
    return supply.at("-") if supply.type.kind == "supply_dc" else supply.at("N")


def _beacon(wiring: ConnectionList, purpose: Purpose, choice: Choice) -> ConnectionList:
    live, back = control_colours(purpose, choice)
    lamp = Part("H1", PART_TYPES["beacon"], {"power_w": 5.0, "voltage_v": purpose.control_voltage_v})
    if purpose.cooler is not None or choice.output is Output.PIN:
        if not choice.limiter:
            taken = (
                "the controller’s alarm contact is the cooler’s"
                if purpose.cooler
                else "a microcontroller has no alarm contact"
            )
            raise refuse("circuit", f"{taken}, and there is no limiter that could light it", "a limiter")
        lit = (("A2.TRIP", "H1.1", Circuit.CONTROL, live), (_neutral(wiring), "H1.2", Circuit.CONTROL, back))
        return _added(wiring, (lamp,), *lit)
    return _added(
        wiring,
        (lamp,),
        (_control(wiring), "A1.AL1", Circuit.CONTROL, live),
        ("A1.AL2", "H1.1", Circuit.CONTROL, live),
        (_neutral(wiring), "H1.2", Circuit.CONTROL, back),
    )


def _cascade(wiring: ConnectionList, choice: Choice) -> ConnectionList:
    controller = wiring.part("A1")
    if controller.type.kind not in CASCADE:
        raise refuse("circuit", "a cascade needs a controller with two inputs", "a controller, not a board")
    both = replace(controller, type=PART_TYPES[CASCADE[controller.type.kind]])
    outer = wiring.part("B1")
    placed = {"A1": both, "B1": replace(outer, ratings={**outer.ratings, "place": "chamber"})}
    parts = tuple(placed.get(p.name, p) for p in wiring.parts)
    letter = str(next((p.ratings["sensor"] for p in wiring.of_kind("thermocouple")), "K"))
    inner = Part("B3", PART_TYPES["thermocouple"], {"sensor": letter, "place": "heater"})
    pair = next(
        ((w.colour, v.colour) for w in wiring.connections for v in wiring.connections if _legs(w, v)),
        ("green", "white"),
    )
    return _added(
        ConnectionList(parts, wiring.connections),
        (inner,),
        ("B3.+", "A1.IN2+", Circuit.SENSOR, pair[0]),
        ("B3.-", "A1.IN2-", Circuit.SENSOR, pair[1]),
    )


def _legs(plus: Connection, minus: Connection) -> bool:
    part, leg = split(plus.a)
    return leg == "+" and minus.a == terminal_of(part, "-") and plus.circuit is Circuit.SENSOR


def _start(wiring: ConnectionList, purpose: Purpose, choice: Choice) -> ConnectionList:
    """A start and a stop button before the limiter's contact, and a relay that holds itself."""
    if not choice.limiter:
        raise refuse("circuit", "the start relay stands in the limiter's chain, and there is no limiter", "a limiter")
    live, back = control_colours(purpose, choice)
    volts = purpose.control_voltage_v
    parts = (
        Part("S0", PART_TYPES["estop"], {"current_a": 6.0}),
        Part("S1", PART_TYPES["pushbutton"], {"current_a": 6.0}),
        Part("K9", PART_TYPES["relay"], {"current_a": 16.0, "coil_v": volts}),
    )
    ok = next(w for w in wiring.connections if "A2.OK" in (w.a, w.b))
    kept = ConnectionList(wiring.parts, tuple(w for w in wiring.connections if w is not ok))
    return _added(
        kept,
        parts,
        ("A2.OK", "S0.1", Circuit.CONTROL, live),
        ("S0.2", "S1.1", Circuit.CONTROL, live),
        ("S1.1", "K9.COM", Circuit.CONTROL, live),
        ("S1.2", "K9.A1", Circuit.CONTROL, live),
        ("K9.NO", "K9.A1", Circuit.CONTROL, live),
        ("K9.NO", "K0.A1", Circuit.CONTROL, live),
        (_neutral(wiring), "K9.A2", Circuit.CONTROL, back),
    )


def _flow(wiring: ConnectionList, purpose: Purpose, choice: Choice, mover: str) -> ConnectionList:
    """What moves runs with the controls; a flow switch in the limiter's chain lets nothing heat while it does not."""
    if not choice.limiter:
        raise refuse("circuit", "the flow switch stands in the limiter's chain, and there is no limiter", "a limiter")
    live, back = control_colours(purpose, choice)
    switch = "B4" if any(p.name == "B3" for p in wiring.parts) else "B3"
    usual_w = {r.name: r.usual for r in PART_TYPES[mover].ratings if r.name == "power_w"}
    parts = (
        Part("M1", PART_TYPES[mover], {**usual_w, "voltage_v": purpose.control_voltage_v}),
        Part(switch, PART_TYPES["flow_switch"], {"current_a": 6.0}),
    )
    heated = tuple(
        replace(p, ratings={**p.ratings, "blown": "yes"}) if p.type.family == "heater" else p for p in wiring.parts
    )
    ok = next(w for w in wiring.connections if "A2.OK" in (w.a, w.b))
    kept = ConnectionList(heated, tuple(w for w in wiring.connections if w is not ok))
    return _added(
        kept,
        parts,
        ("A2.OK", terminal_of(switch, "1"), Circuit.CONTROL, live),
        (terminal_of(switch, "2"), "K0.A1", Circuit.CONTROL, live),
        (_control(wiring), "M1.1", Circuit.CONTROL, live),
        (_neutral(wiring), "M1.2", Circuit.CONTROL, back),
    )


def _thermostat(purpose: Purpose, choice: Choice) -> ConnectionList:
    amps = heater_current(purpose).value
    if choice.output is not Output.RELAY:
        raise refuse("circuit", "a thermostat switches with its own relay", "a relay output")
    if amps > PILOT_A or purpose.lives > 1:
        raise refuse(
            "circuit",
            f"the heater draws {quantity(amps, 'A', '.1f')}; a controller's own relay carries {quantity(PILOT_A, 'A')}",
            "a small load",
        )
    wiring = generate(purpose, replace(choice, limiter=False))
    load = replace(purpose, controls=None, heater_sensor=None)
    live, back = control_colours(load, choice)
    gone = {"K1"}
    parts = tuple(p for p in wiring.parts if p.name not in gone)
    wires = tuple(w for w in wiring.connections if not w.parts & gone and "A1.COM" not in (w.a, w.b))
    lamp = Part("H2", PART_TYPES["lamp"], {"power_w": 1.0, "voltage_v": load.control_voltage_v})
    return _added(
        ConnectionList(parts, wires),
        (lamp,),
        ("F1.2", "A1.COM", Circuit.POWER, live),
        ("A1.NO", "E1.1", Circuit.POWER, live),
        ("A1.NC", "H2.1", Circuit.POWER, live),
        ("H2.2", _returns(wiring.of_kind("supply")[0]), Circuit.POWER, back),
    )


def _monitor(purpose: Purpose, choice: Choice) -> ConnectionList:
    if choice.output is Output.PIN:
        raise refuse("circuit", "this starting point is for a controller", "a relay output or an SSR drive")
    wiring = generate(purpose, replace(choice, limiter=False))
    fed = (CONTROL_SUPPLY,) if purpose.controls and purpose.controls.apart else ("Q0", CONTROL_MODULE, "F9")
    keep = {*fed, "F2", "A1", "B1", "X1"}
    return ConnectionList(
        tuple(p for p in wiring.parts if p.name in keep),
        tuple(
            w
            for w in wiring.connections
            if w.parts <= keep and not {"A1.COM", "A1.NO", "A1.OUT+", "A1.OUT-"} & {w.a, w.b}
        ),
    )


def starting_point(key: str) -> Usual:
    """The starting point of this name. Raises ``Refused`` for others."""
    if key not in list(Usual):
        raise Refused(Problem("circuit", f"there is no usual circuit {key!r}", ", ".join(Usual)))
    return Usual(key)
