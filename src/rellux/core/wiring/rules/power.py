"""Power: what drives the switch, what the contacts carry, wire against breaker, breaker and voltage against load."""

from ...explain import Figure, Input
from ...findings import Finding, Proposal, Severity
from ...heating.protection import ampacity
from ...heating.protection_data import NEC_BREAKERS, NEC_SMALL, SOURCE, Practice
from ...units import Kind
from ..model import Circuit, Closed, Connection, Part, Role
from ..switching import ON
from .case import Case, swap

PILOT_RATING_A = 3.0
SHORT = 10.0
"""From this many times its rating it is a short, which the solved circuit names, and no load."""
LIMITS = ("regulator", "power_module")
"""Sources that give no more than their own rating, whatever is ahead of them."""


def ssr_drive(case: Case) -> list[Finding]:
    """An SSR's input needs DC from an SSR drive, right way round; AC types switch AC loads, DC types DC loads."""
    found = []
    dc_supply = bool(case.wiring.of_kind("supply_dc"))
    for ssr in case.wiring.of_kind("ssr"):
        plus, minus = ssr.type.paired(Role.DRIVE_PLUS, Role.DRIVE_MINUS) or ("", "")
        if case.conduction.drivers(ssr, reversed_=True):
            found.append(
                Finding(
                    "wiring.ssr-drive",
                    Severity.FAULT,
                    f"{ssr.name} control input is reversed",
                    "The input conducts one way only: the output light will be on and the heater cold.",
                    "Swap the two control wires.",
                    (ssr.name,),
                    proposal=swap(case, f"{ssr.name}.{plus}", f"{ssr.name}.{minus}"),
                )
            )
        elif not case.conduction.drivers(ssr):
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
                    else f"Connect {plus} to the drive's plus and {minus} to its minus.",
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
        rating, name = controller.number("contact_a", PILOT_RATING_A), controller.name
        amps = case.amps(controller)
        if amps <= rating:
            continue
        found.append(
            Finding(
                "wiring.relay-overload",
                Severity.DANGER,
                f"{name}'s relay carries the heater",
                f"Its contact is a {rating:g} A pilot and the heater draws {amps:.1f} A: it will weld shut, with the heat on.",
                "Let it switch a contactor or relay coil instead.",
                (name, *(h.name for h in case.heaters())),
                (
                    Figure(
                        "load on the controller's relay",
                        amps / rating,
                        Kind.RATIO,
                        "I / I_rated",
                        (
                            Input("through its contact", amps, Kind.CURRENT, "I", "solved"),
                            Input("contact rating", rating, Kind.CURRENT, "I_rated", "part"),
                        ),
                        "More than 1 is beyond its rating.",
                    ),
                ),
            )
        )
    return found


def wire_breaker(case: Case) -> list[Finding]:
    """Every mains or power wire must stand the breaker ahead of it."""
    found = []
    for protector in case.wiring.of_kind("breaker", "fuse"):
        rating = protector.number("current_a")
        for wire in _downstream(case, protector):
            stands = ampacity(wire.area_mm2, case.context.practice, case.context.cores)
            if stands >= rating or _next_size_up(case, stands, rating):
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


def _next_size_up(case: Case, stands: float, rating: float) -> bool:
    """NEC 240.4(B): a breaker of the next usual size above what the wire stands is allowed, beyond the small conductors."""
    if case.context.practice is not Practice.NEC or stands <= max(NEC_SMALL.values()):
        return False
    return rating == next((b for b in NEC_BREAKERS if b >= stands), None)


def _fed_terminals(case: Case, protector: Part) -> frozenset[str]:
    """Terminals on the side of this protector away from the supply, up to the next load."""
    others = {p.name for p in case.wiring.of_kind("breaker", "fuse")} - {protector.name}
    ahead = case.reach_live(lambda p, closed, breaks: p.name == protector.name)
    closed = [
        (f"{p.name}.{path.a}", f"{p.name}.{path.b}")
        for p in case.wiring.parts
        for path in p.type.paths
        if path.closed is not Closed.LOAD and p.name not in {*others, protector.name} and p.type.kind not in LIMITS
    ]
    ends = [f"{protector.name}.{t.name}" for t in protector.type.terminals]
    outlets = [t for t in ends if t not in ahead]
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
    """A breaker must carry what flows through it with the output on, for hours."""
    return [
        Finding(
            "wiring.breaker-load",
            Severity.FAULT,
            f"{protector.name} is smaller than the load",
            f"{case.amps(protector):.1f} A flow for hours, and {protector.name} is made for "
            f"{protector.number('current_a'):g} A: it will trip.",
            "Lay the wiring out again for this heater.",
            (protector.name,),
            proposal=Proposal("wiring.generate", True, "Lay it out again"),
            source=SOURCE[case.context.practice],
        )
        for protector in case.wiring.of_kind("breaker", "fuse")
        if protector.number("current_a") < case.amps(protector) < SHORT * protector.number("current_a")
    ]


def _across(case: Case, heater: Part) -> float:
    """Volts a heater stands on: as solved where it heats alone between its ends, else the supply's."""
    solved = case.solved(ON).loads.get(heater.name)
    alone = heater.type.kind == "heater" and len(case.heaters()) > 1
    return solved.volts if alone and solved and solved.volts > 1.0 else case.context.supply_voltage_v


def load_voltage(case: Case) -> list[Finding]:
    """Heaters and coils must be made for the supply they sit on, within ten percent."""
    found = []
    for part in case.wiring.of_kind("heater", "relay", "contactor"):
        heater = part.heats
        supply = _across(case, part) if heater else case.context.control_voltage_v or case.context.supply_voltage_v
        rated = part.number("voltage_v" if heater else "coil_v", supply)
        if abs(supply - rated) <= 0.1 * rated + 1e-9:
            continue
        ratio = (supply / rated) ** 2
        found.append(
            Finding(
                "wiring.load-voltage",
                Severity.DANGER if supply > rated else Severity.FAULT,
                f"{part.name} is made for {rated:g} V",
                f"On {supply:.3g} V it {'gives' if heater else 'takes'} {ratio:.2f} times its power.",
                "Join the far ends of these elements to one star point: they stand in delta."
                if heater and abs(supply / rated - 3**0.5) < 0.1
                else "Use the right voltage, or a part made for this supply.",
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
