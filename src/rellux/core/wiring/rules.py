"""The first wiring rules. Each looks at the connection list and what is computed from it, never at a drawing."""

from collections.abc import Callable
from dataclasses import dataclass

from ..explain import Figure, Input
from ..findings import Finding, Proposal, Severity, worst_first
from ..heating.protection import ampacity
from ..heating.protection_data import SOURCE, Practice
from ..sensing.sensors import describe
from ..units import Kind
from .model import Circuit, Closed, Connection, ConnectionList, Part, split
from .states import Conduction, Switching

EXTRA_LOW_VOLTAGE = {"supply_1ph": 50.0, "supply_dc": 120.0}
PILOT_RATING_A = 3.0


@dataclass(frozen=True)
class Context:
    """What the rules need to know beyond the list: supply in V, heater current in A, practice and configured input."""

    supply_voltage_v: float
    heater_current_a: float
    practice: Practice
    input_type: str


@dataclass(frozen=True)
class Case:
    """A connection list under examination, with the helpers every rule uses."""

    wiring: ConnectionList
    context: Context
    conduction: Conduction

    def heaters(self) -> list[Part]:
        return self.wiring.of_kind("heater")

    def reach_live(self, *excluded: Callable[[Part, Closed, bool], bool]) -> frozenset[str]:
        """Terminals reachable from the live poles with every contact closed, except the excluded paths."""
        closed = [
            (f"{p.name}.{path.a}", f"{p.name}.{path.b}")
            for p in self.wiring.parts
            for path in p.type.paths
            if path.closed is not Closed.LOAD and not any(e(p, path.closed, path.breaks) for e in excluded)
        ]
        return self.conduction.reach(self.conduction.poles()[0], closed)

    def touches(self, part: Part, terminals: frozenset[str]) -> bool:
        return any(f"{part.name}.{t.name}" in terminals for t in part.type.terminals)

    def wires_at(self, *terminals: str) -> list[Connection]:
        return [c for c in self.wiring.connections if c.a in terminals or c.b in terminals]


def check(wiring: ConnectionList, context: Context) -> list[Finding]:
    """All findings, worst first."""
    case = Case(wiring, context, Conduction(wiring))
    found: list[Finding] = []
    for rule in RULES:
        found.extend(rule(case))
    return worst_first(found)


def earth(case: Case) -> list[Finding]:
    """A metal enclosure must reach the supply's earth by wire alone, unless the supply is extra-low voltage."""
    supplies = case.wiring.of_kind("supply_1ph", "supply_dc")
    if all(case.context.supply_voltage_v <= EXTRA_LOW_VOLTAGE[s.type.kind] for s in supplies):
        return []
    earths = [f"{s.name}.PE" for s in supplies if s.type.terminal("PE")]
    bonded = case.conduction.reach(earths)
    return [
        Finding(
            "wiring.earth",
            Severity.DANGER,
            f"{part.name} is not earthed",
            "One loose live wire would put mains on the metal, and nothing would trip.",
            f"Run an earth wire from {earths[0] if earths else 'the supply earth'} to {part.name}.PE, unbroken.",
            (part.name,),
            proposal=Proposal("wiring.connect", f"{earths[0]}>{part.name}.PE", "Add the earth wire")
            if earths
            else None,
            source="IEC 60364-4-41; NEC 250",
        )
        for part in case.wiring.of_kind("enclosure")
        if f"{part.name}.PE" not in bonded
    ]


def overcurrent(case: Case) -> list[Finding]:
    """Every way from the live pole to a heater must pass a breaker or fuse."""
    unprotected = case.reach_live(lambda part, closed, breaks: breaks)
    return [
        Finding(
            "wiring.overcurrent",
            Severity.DANGER,
            f"No breaker ahead of {heater.name}",
            "A short in the heater or its wire would be limited only by the supply: the wire burns first.",
            "Put a breaker or fuse in the live conductor ahead of everything.",
            (heater.name,),
            source="IEC 60364-4-43; NEC 240",
        )
        for heater in case.heaters()
        if case.touches(heater, unprotected)
    ]


def ssr_drive(case: Case) -> list[Finding]:
    """An SSR's input needs DC from an SSR drive, right way round; AC types switch AC loads, DC types DC loads."""
    found = []
    dc_supply = bool(case.wiring.of_kind("supply_dc"))
    for ssr in case.wiring.of_kind("ssr"):
        plus, minus = (case.conduction.reach([f"{ssr.name}.{t}"]) for t in ("3+", "4-"))
        drives = case.wiring.of_kind("controller_ssr")
        if any(f"{d.name}.OUT+" in minus and f"{d.name}.OUT-" in plus for d in drives):
            found.append(
                Finding(
                    "wiring.ssr-drive",
                    Severity.FAULT,
                    f"{ssr.name} control input is reversed",
                    "The input conducts one way only: the output light will be on and the heater cold.",
                    "Swap the two control wires.",
                    (ssr.name,),
                    proposal=_swap(case, f"{ssr.name}.3+", f"{ssr.name}.4-"),
                )
            )
        elif not any(f"{d.name}.OUT+" in plus and f"{d.name}.OUT-" in minus for d in drives):
            relay = case.wiring.of_kind("controller_relay")
            found.append(
                Finding(
                    "wiring.ssr-drive",
                    Severity.FAULT,
                    f"Nothing drives {ssr.name}",
                    "A relay output is a bare contact with no voltage of its own; the SSR input needs 3–32 V DC."
                    if relay
                    else "Its control input does not reach the controller's SSR drive.",
                    "Use a controller with an SSR drive, or put a DC supply in series with the contact."
                    if relay
                    else "Connect 3+ to OUT+ and 4- to OUT-.",
                    (ssr.name,),
                )
            )
        if (ssr.ratings.get("load_type", "ac") == "dc") is not dc_supply:
            found.append(
                Finding(
                    "wiring.ssr-load",
                    Severity.DANGER if dc_supply else Severity.FAULT,
                    f"{ssr.name} is the wrong kind for this supply",
                    "An AC SSR turns off only when the current passes zero: on DC it never turns off."
                    if dc_supply
                    else "A DC SSR conducts only one half-wave.",
                    "Fit an SSR of the supply's kind.",
                    (ssr.name,),
                )
            )
    return found


def relay_overload(case: Case) -> list[Finding]:
    """A controller's own relay is a pilot; heater current through it burns its contacts."""
    found = []
    for controller in case.wiring.of_kind("controller_relay"):
        rating = controller.number("contact_a", PILOT_RATING_A)
        if case.context.heater_current_a <= rating:
            continue
        name = controller.name
        without = case.reach_live(lambda p, closed, breaks, name=name: p.name == name)  # type: ignore[misc]
        complete = case.reach_live()
        for heater in case.heaters():
            if case.touches(heater, complete) and not case.touches(heater, without):
                current = Input("heater current", case.context.heater_current_a, Kind.CURRENT, "I", "computed")
                found.append(
                    Finding(
                        "wiring.relay-overload",
                        Severity.DANGER,
                        f"{name}'s relay carries the heater",
                        f"Its contact is a {rating:g} A pilot and the heater draws "
                        f"{case.context.heater_current_a:.1f} A: it will weld shut, with the heat on.",
                        "Let it switch a contactor or relay coil instead.",
                        (name, heater.name),
                        (
                            Figure(
                                "load on the controller's relay",
                                case.context.heater_current_a / rating,
                                Kind.RATIO,
                                "I / I_rated",
                                (current, Input("contact rating", rating, Kind.CURRENT, "I_rated", "part")),
                                "More than 1 is beyond its rating.",
                            ),
                        ),
                    )
                )
    return found


def limiter(case: Case) -> list[Finding]:
    """There should be an independent limiter, and tripping it must take the heat away whatever the output does."""
    if not case.wiring.of_kind("limiter"):
        return [
            Finding(
                "wiring.limiter",
                Severity.DANGER,
                "Nothing independent stops the heater",
                "A welded relay or a shorted SSR leaves the heat on, and the controller can only watch.",
                "Fit a limiter with its own sensor that drops a contactor ahead of the heater.",
                (),
                proposal=Proposal("parts.limiter", True, "Add an independent limiter"),
                source="common practice; handbook of any over-temperature standard, such as EN 60519-2",
            )
        ]
    # The worst case: the actuator has failed closed. Every contact but the limiter's own chain conducts.
    found = []
    for heater in case.heaters():
        if _heats_with_welded_actuator(case, heater):
            found.append(
                Finding(
                    "wiring.limiter-place",
                    Severity.DANGER,
                    f"The limiter cannot stop {heater.name}",
                    "With the actuator welded and the limiter tripped, the heater still has both poles.",
                    "Put the limiter's contactor in the live conductor of the heater, its coil through COM and OK.",
                    (heater.name, *(p.name for p in case.wiring.of_kind("limiter"))),
                    source="single-fault reasoning",
                )
            )
    found.extend(_shared_sensor(case))
    return found


def _heats_with_welded_actuator(case: Case, heater: Part) -> bool:
    """Solve with the limiter tripped and every actuator that the controller commands stuck closed."""
    commanded = _commanded(case)
    welded = [
        (f"{p.name}.{path.a}", f"{p.name}.{path.b}")
        for p in case.wiring.parts
        if p.name in commanded
        for path in p.type.paths
        if path.closed in (Closed.COIL, Closed.DRIVEN, Closed.OUTPUT)
    ]
    tripped = case.conduction.solve(Switching(True, True))
    live_poles, neutral_poles = case.conduction.poles()
    closed = [
        (f"{p.name}.{path.a}", f"{p.name}.{path.b}")
        for p in case.wiring.parts
        for path in p.type.paths
        if path.closed is Closed.ALWAYS
        or (path.closed is Closed.COIL and p.name in tripped.loads)
        or (path.closed is Closed.LIMIT_TRIPPED)
    ] + welded
    live, neutral = case.conduction.reach(live_poles, closed), case.conduction.reach(neutral_poles, closed)
    a, b = f"{heater.name}.1", f"{heater.name}.2"
    return (a in live and b in neutral) or (b in live and a in neutral)


def _commanded(case: Case) -> set[str]:
    """Parts that follow the controller's output: its own relay, SSRs, and coils that drop when the output goes off."""
    on = case.conduction.solve(Switching(True, False)).loads
    off = case.conduction.solve(Switching(False, False)).loads
    names = {p.name for p in case.wiring.of_kind("ssr", "controller_relay")}
    return names | {p.name for p in case.wiring.of_kind("relay", "contactor") if p.name in on - off}


def _shared_sensor(case: Case) -> list[Finding]:
    found = []
    for probe in case.wiring.of_kind("thermocouple", "pt100"):
        first = probe.type.terminals[0].name
        joined = {split(t)[0] for t in case.conduction.reach([f"{probe.name}.{first}"])}
        users = [
            p.name for p in case.wiring.of_kind("limiter", "controller_relay", "controller_ssr") if p.name in joined
        ]
        if len(users) > 1:
            found.append(
                Finding(
                    "wiring.limiter-sensor",
                    Severity.DANGER,
                    "Limiter and controller share one sensor",
                    f"If {probe.name} slips out, both read too low together and the heat stays on.",
                    "Give the limiter a sensor of its own.",
                    (probe.name, *users),
                )
            )
    return found


def polarity(case: Case) -> list[Finding]:
    """Thermocouple plus to plus. Reversed, the reading falls while the load heats."""
    found = []
    for probe in case.wiring.of_kind("thermocouple"):
        plus = case.conduction.reach([f"{probe.name}.+"])
        minus = case.conduction.reach([f"{probe.name}.-"])
        for instrument in case.wiring.of_kind("controller_relay", "controller_ssr", "limiter"):
            if f"{instrument.name}.IN-" in plus and f"{instrument.name}.IN+" in minus:
                found.append(
                    Finding(
                        "wiring.tc-polarity",
                        Severity.DANGER,
                        f"{probe.name} is connected backwards",
                        "The reading falls as the load heats, so the controller heats harder and harder.",
                        f"Swap the two wires at {instrument.name}. Check with a warm hand: the reading must rise.",
                        (probe.name, instrument.name),
                        proposal=_swap(case, f"{instrument.name}.IN+", f"{instrument.name}.IN-"),
                        source="E(T_read) = 2 E(T_cj) − E(T), NIST Monograph 175",
                    )
                )
    return found


def sensor_type(case: Case) -> list[Finding]:
    """The input must be set for the sensor that is wired to it."""
    found = []
    for probe in case.wiring.of_kind("thermocouple", "pt100"):
        fitted = str(probe.ratings.get("sensor", "Pt100"))
        first = probe.type.terminals[0].name
        joined = {split(t)[0] for t in case.conduction.reach([f"{probe.name}.{first}"])}
        for controller in case.wiring.of_kind("controller_relay", "controller_ssr"):
            if controller.name in joined and fitted != case.context.input_type:
                found.append(
                    Finding(
                        "wiring.sensor-type",
                        Severity.DANGER,
                        "Sensor and input do not match",
                        f"{probe.name} is a {describe(fitted)}, the input of {controller.name} is set for a "
                        f"{describe(case.context.input_type)}.",
                        "Set the input type, or fit the other sensor.",
                        (probe.name, controller.name),
                        proposal=Proposal("setup.input_type", fitted, f"Set the input to {fitted}"),
                    )
                )
    return found


def wire_breaker(case: Case) -> list[Finding]:
    """Every mains or power wire must stand the breaker ahead of it."""
    found = []
    for protector in case.wiring.of_kind("breaker", "fuse"):
        rating = protector.number("current_a")
        for wire in _downstream(case, protector):
            stands = ampacity(wire.area_mm2, case.context.practice)
            if stands >= rating:
                continue
            found.append(
                Finding(
                    "wiring.wire-breaker",
                    Severity.DANGER,
                    f"Wire {wire.number} is thinner than {protector.name} protects",
                    f"{wire.area_mm2:g} mm² stands {stands:g} A, {protector.name} lets {rating:g} A flow for hours.",
                    "Use a thicker wire or a smaller breaker.",
                    (f"wire {wire.number}", protector.name),
                    (
                        Figure(
                            f"what wire {wire.number} stands",
                            stands,
                            Kind.CURRENT,
                            "I_z from the table",
                            (
                                Input("conductor", wire.area_mm2, Kind.AREA, "S", "connection list"),
                                Input(f"{protector.name} rating", rating, Kind.CURRENT, "I_n", "part"),
                            ),
                            "At 30 °C, not bundled.",
                            SOURCE[case.context.practice],
                        ),
                    ),
                    source=SOURCE[case.context.practice],
                )
            )
    return found


def _fed_terminals(case: Case, protector: Part) -> frozenset[str]:
    """Terminals on the side of this protector away from the supply, up to the next load."""
    others = {p.name for p in case.wiring.of_kind("breaker", "fuse")} - {protector.name}
    ahead = case.reach_live(lambda p, closed, breaks: p.name == protector.name)
    closed = [
        (f"{p.name}.{path.a}", f"{p.name}.{path.b}")
        for p in case.wiring.parts
        for path in p.type.paths
        if path.closed is not Closed.LOAD and p.name not in others and p.name != protector.name
    ]
    outlets = [t for t in (f"{protector.name}.1", f"{protector.name}.2") if t not in ahead]
    return case.conduction.reach(outlets, closed)


def _downstream(case: Case, protector: Part) -> list[Connection]:
    """Power and control wires fed through this protector."""
    fed = _fed_terminals(case, protector)
    return [
        c
        for c in case.wiring.connections
        if c.a in fed and c.b in fed and c.circuit in (Circuit.POWER, Circuit.CONTROL)
    ]


def breaker_load(case: Case) -> list[Finding]:
    """The heater's breaker must carry its current for hours."""
    current = case.context.heater_current_a
    return [
        Finding(
            "wiring.breaker-load",
            Severity.FAULT,
            f"{protector.name} is smaller than the load",
            f"The heater draws {current:.1f} A for hours, {protector.name} is {protector.number('current_a'):g} A: it will trip.",
            "Lay the wiring out again for this heater.",
            (protector.name,),
            proposal=Proposal("wiring.generate", True, "Lay it out again"),
            source=SOURCE[case.context.practice],
        )
        for protector in case.wiring.of_kind("breaker", "fuse")
        if protector.number("current_a") < current
        and any(
            f"{h.name}.{t.name}" in _fed_terminals(case, protector) for h in case.heaters() for t in h.type.terminals
        )
    ]


def load_voltage(case: Case) -> list[Finding]:
    """Heaters and coils must be made for the supply they sit on, within ten percent."""
    found = []
    supply = case.context.supply_voltage_v
    for part in case.wiring.of_kind("heater", "relay", "contactor"):
        rated = part.number("voltage_v" if part.type.kind == "heater" else "coil_v", supply)
        if abs(supply - rated) <= 0.1 * rated + 1e-9:
            continue
        ratio = (supply / rated) ** 2
        heater = part.type.kind == "heater"
        found.append(
            Finding(
                "wiring.load-voltage",
                Severity.DANGER if supply > rated else Severity.FAULT,
                f"{part.name} is made for {rated:g} V",
                f"On {supply:g} V it {'gives' if heater else 'takes'} {ratio:.2f} times its power.",
                "Use the right voltage, or a part made for this supply.",
                (part.name,),
                (
                    Figure(
                        f"power of {part.name} at this supply",
                        ratio * 100.0,
                        Kind.PERCENT,
                        "(V / V_rated)²",
                        (
                            Input("supply", supply, Kind.VOLTAGE, "V", "purpose"),
                            Input("rated", rated, Kind.VOLTAGE, "V_rated", "part"),
                        ),
                        "Power goes with the square of the voltage.",
                        "Ohm's law",
                    ),
                ),
            )
        )
    return found


def no_nc(case: Case) -> list[Finding]:
    """Output off must mean heater off, and output on must mean heater on."""
    off = case.conduction.solve(Switching(False, False))
    on = case.conduction.solve(Switching(True, False))
    found = []
    for heater in case.heaters():
        if heater.name in off.loads:
            without_nc = case.reach_live(lambda p, closed, breaks: closed in (Closed.NOT_COIL, Closed.NOT_OUTPUT))
            normally_closed = not case.touches(heater, without_nc) or heater.name not in on.loads
            found.append(
                Finding(
                    "wiring.no-nc",
                    Severity.DANGER,
                    f"{heater.name} heats while the output is off",
                    "It hangs on a normally-closed contact: the heat comes on when the controller says stop, and stays "
                    "on when the controller loses power."
                    if normally_closed
                    else "It has a way to both poles that passes no switch the controller commands.",
                    "Use the NO contact." if normally_closed else "Take the heater through the actuator.",
                    (heater.name,),
                )
            )
        elif heater.name not in on.loads:
            found.append(
                Finding(
                    "wiring.never-heats",
                    Severity.FAULT,
                    f"{heater.name} never heats",
                    "With the output on and the limiter in order it still lacks one pole of the supply.",
                    "Follow the path from breaker to heater: a wire or a coil connection is missing.",
                    (heater.name,),
                )
            )
    return found


RULES: tuple[Callable[[Case], list[Finding]], ...] = (
    earth,
    overcurrent,
    ssr_drive,
    relay_overload,
    limiter,
    polarity,
    sensor_type,
    wire_breaker,
    breaker_load,
    load_voltage,
    no_nc,
)


def _swap(case: Case, first: str, second: str) -> Proposal | None:
    """Proposal to exchange the wires at two terminals, where each has exactly one."""
    a, b = case.wires_at(first), case.wires_at(second)
    if len(a) != 1 or len(b) != 1 or a[0].number == b[0].number:
        return None
    return Proposal("wiring.swap", f"{first}>{second}", f"Swap wires {a[0].number} and {b[0].number}")
