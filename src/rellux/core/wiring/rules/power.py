"""Power: what drives the switch, what the contacts carry, wire against breaker, breaker and voltage against load."""

from ...explain import Figure, Input
from ...findings import Finding, Proposal, Severity
from ...heating.conductor_tables import SOURCE
from ...heating.conductors import conductor_of, highest_breaker
from ...messages import quantity
from ...units import Kind
from ..circuit.branches import AC_SUPPLIES, DRIVE_V, switches_dc
from ..circuit.solve import AC_V
from ..graph import RETURNS
from ..model import Circuit, Closed, Connection, Part, Role
from ..names import BranchName, TerminalName, input_of, is_input, part_of, path_at
from ..switching import OFF, ON
from .case import Case, swap
from .protective import SELF_LIMITING

PILOT_RATING_A = 3.0
SHORT = 10.0
"""From this many times its rating it is a short, which the solved circuit names, and no load."""
SAME = 1.001
"""Share of a rating that is still the rating: what rounding leaves."""
WITHIN, DROP_V, OFF_SHARE = 0.10, 1.0, 0.05
"""How far from its rating a load's voltage may be as a share (IEC 60335-1 and common practice); the volts that
switches and wires may take of it; the share below which it is off (our choice)."""
AT_RETURN = 0.1
"""Share of the supply's voltage up to which a terminal stands at its return (our choice: far from either)."""
ROOT_3 = 3.0**0.5
DELTA_WITHIN = 0.1
"""How near to the root of three the ratio of voltages must be to be called a delta."""
REVERSED_V = 1.0
"""Volts from which an input is reversed, or gets alternating current (our choice)."""
DRIVE_A = 0.03
"""What an SSR drive gives where nothing is said, A (typical of data sheets, from memory)."""
SHARED_A = 0.5
"""Amperes from which contacts side by side are meant to carry a load, not to hold a coil (our choice)."""
FEEDS_MOTOR = 0.5
"""Share of a motor's current from which a motor-protection switch is its own (our choice)."""
MOTOR_W, MOTOR_SHARE = 500.0, 1.25
"""Power above which a motor needs overload protection (IEC 60204-1), and how far above its current that may be set (NEC
430.32); from memory."""


def ssr_drive(case: Case) -> list[Finding]:
    """What has a control input must be driven: its input on with the output on, in some standing of what is in its way."""
    found = []
    for part in case.wiring.of_kind("ssr", "relay_module"):
        plus, minus = part.type.paired(Role.DRIVE_PLUS, Role.DRIVE_MINUS) or ("", "")
        ends = part.at(plus), part.at(minus)
        if not all(case.wires_at(end) for end in ends) or any(input_of(part.name) in s.on for _, s in case.everywhere):
            continue
        on = case.solved(ON)
        if on.direct(*ends) < -REVERSED_V:
            found.append(
                Finding(
                    "wiring.ssr-drive",
                    Severity.FAULT,
                    title=f"{part.name} control input is reversed",
                    reason=f"The input conducts one way only: the output light will be on and the {case.driven.noun} off.",
                    fix="Swap the two control wires.",
                    subjects=(part.name,),
                    proposal=swap(case, *ends),
                )
            )
            continue
        relay = [p for p in case.wiring.of_kind("controller_relay") if _contact_at(case, p, ends)]
        alternating = on.alternating(*ends) > REVERSED_V
        found.append(
            Finding(
                "wiring.ssr-drive",
                Severity.DANGER if alternating else Severity.FAULT,
                title=f"{part.name}'s input gets alternating current" if alternating else f"Nothing drives {part.name}",
                reason="It is made for direct current and burns out."
                if alternating
                else "A relay output is a bare contact with no voltage of its own; the SSR input needs 3–32 V DC."
                if relay
                else f"With the output on its input gets {quantity(abs(on.direct(*ends)), 'V', '.1f')} and needs 3 V and more.",
                fix="Put a DC supply in series with the contact, or use a controller with an SSR drive."
                if relay or alternating
                else f"Connect {plus} to the drive's plus and {minus} to its minus.",
                subjects=(part.name, *(p.name for p in relay)),
            )
        )
    return [*found, *_wrong_kind(case)]


def _contact_at(case: Case, controller: Part, ends: tuple[TerminalName, TerminalName]) -> bool:
    """Whether the contact of a controller's own relay leads to one of these terminals."""
    own = {controller.at(t) for t in ("COM", "NO", "NC")}
    return any(own & case.joined(end) for end in ends)


def _wrong_kind(case: Case) -> list[Finding]:
    """An AC type turns off only as its current passes zero; a DC type conducts one half-wave always."""
    return [
        Finding(
            "wiring.ssr-load",
            Severity.DANGER,
            title=f"{ssr.name} is the wrong kind for what it switches",
            reason=f"A DC type on AC conducts one half-wave all the time: the {case.driven.noun} never goes off."
            if switches_dc(ssr)
            else "An AC type turns off only when its current passes zero: on DC, once on, it never turns off.",
            fix="Fit one of the load's kind.",
            subjects=(ssr.name,),
        )
        for ssr in case.wiring.of_kind("ssr")
        if ssr.name in case.circuit.uncontrolled and (not switches_dc(ssr) or stands_on_ac(case, ssr))
    ]


def stands_on_ac(case: Case, ssr: Part) -> bool:
    """Whether the load side of a semiconductor is at alternating current."""
    off = case.solved(OFF)
    paths = ssr.ways(Closed.DRIVEN)
    earths = [s.at("PE") for s in case.wiring.of_kind(*AC_SUPPLIES)]
    places = [(a, b) for a, b in paths] + [(end, earth) for path in paths for end in path for earth in earths]
    return any(off.alternating(a, b) > AC_V for a, b in places)


def drive_budget(case: Case) -> list[Finding]:
    """One drive gives a few tens of milliamps: so many inputs and no more."""
    found = []
    for part in case.wiring.of_kind("controller_ssr"):
        pair = part.drive()
        if part.type.kind == "microcontroller" or pair is None:
            continue
        fed = case.joined(part.at(pair[0]))
        inputs = [b for b in case.circuit.branches if is_input(b.name) and {b.a, b.b} & fed]
        volts, most = part.number("drive_v", DRIVE_V), part.number("drive_a", DRIVE_A)
        amps = sum(volts / b.ohm for b in inputs)
        if amps > most * SAME:
            names = tuple(part_of(b.name) for b in inputs)
            found.append(
                Finding(
                    "wiring.drive-budget",
                    Severity.FAULT,
                    title=f"{part.name}'s drive would feed {len(names)} inputs",
                    reason=f"They take {quantity(amps * 1000, 'mA', '.0f')} and it gives "
                    f"{quantity(most * 1000, 'mA', '.0f')}: its voltage sags until none turns on.",
                    fix="Inputs in series where the voltage is enough for all, or a DC supply behind its contact.",
                    subjects=(part.name, *names),
                    source="data sheets, from memory",
                )
            )
    return found


def relay_overload(case: Case) -> list[Finding]:
    """A controller's own relay is a pilot; heater current through it burns its contacts."""
    found = []
    for controller in case.wiring.of_kind("controller_relay"):
        rating, name = controller.number("contact_a", PILOT_RATING_A), controller.name
        amps = max(
            (s.paths[at].amps for _, s in case.everywhere for at in _own_paths(controller) if at in s.paths),
            default=0.0,
        )
        if amps <= rating * SAME:
            continue
        found.append(
            Finding(
                "wiring.relay-overload",
                Severity.DANGER,
                title=f"{name}'s relay carries the {case.driven.noun}",
                reason=f"Its contact is a {quantity(rating, 'A')} pilot and the {case.driven.noun} draws "
                f"{quantity(amps, 'A', '.1f')}: it will weld shut, with the {case.driven.effect} on.",
                fix="Let it switch a contactor or relay coil instead.",
                subjects=(name, *(h.name for h in case.heaters())),
                figures=(
                    Figure(
                        "load on the controller's relay",
                        amps / rating,
                        Kind.RATIO,
                        formula="I / I_rated",
                        inputs=(
                            Input("through its contact", amps, Kind.CURRENT, "I", "solved"),
                            Input("contact rating", rating, Kind.CURRENT, "I_rated", "part"),
                        ),
                        reason="More than 1 is beyond its rating.",
                    ),
                ),
            )
        )
    return found


def _own_paths(controller: Part) -> list[BranchName]:
    """The contacts of a controller's own relay."""
    return [path_at(*way) for way in controller.ways(Closed.OUTPUT, Closed.NOT_OUTPUT)]


def wire_breaker(case: Case) -> list[Finding]:
    """Every mains or power wire must stand the breaker ahead of it."""
    found = []
    for protector in case.wiring.of_kind("breaker", "fuse"):
        rating = protector.number("current_a")
        for wire in _downstream(case, protector):
            practice = case.context.practice
            listed = conductor_of(wire.area_mm2, practice, case.context.cores)
            stands = listed.ampacity if listed else 0.0
            if listed and rating <= highest_breaker(practice, stands, listed.label):
                continue
            found.append(
                Finding(
                    "wiring.wire-breaker",
                    Severity.DANGER,
                    title=f"Wire {wire.number} is thinner than {protector.name} protects",
                    reason=(
                        f"{quantity(wire.area_mm2, 'mm²', '.3g')} stands {quantity(stands, 'A', '.3g')}, "
                        if listed
                        else f"{quantity(wire.area_mm2, 'mm²', '.3g')} is thinner than any that may be laid here, "
                    )
                    + f"{protector.name} lets {quantity(rating, 'A', '.3g')} flow for hours.",
                    fix="Use a thicker wire or a smaller breaker.",
                    subjects=(wire.name, protector.name),
                    figures=(
                        Figure(
                            f"what wire {wire.number} stands",
                            stands,
                            Kind.CURRENT,
                            formula="I_z from the table",
                            inputs=(
                                Input("conductor", wire.area_mm2, Kind.AREA, "S", "connection list"),
                                Input(f"{protector.name} rating", rating, Kind.CURRENT, "I_n", "part"),
                            ),
                            reason="At {30 °C}, not bundled.",
                            source=SOURCE[case.context.practice],
                        ),
                    ),
                    source=SOURCE[case.context.practice],
                )
            )
    return found


def _fed_terminals(case: Case, protector: Part) -> frozenset[TerminalName]:
    """Terminals on the side of this protector away from the supply, up to the next load."""
    others = {p.name for p in case.wiring.of_kind("breaker", "fuse")} - {protector.name}
    ahead = case.reach_live(lambda p, closed, breaks: p.name == protector.name)
    closed = case.contacts(
        lambda p, closed, breaks: p.name in {*others, protector.name} or p.type.kind in SELF_LIMITING
    )
    outlets = [t for t in protector.ends if t not in ahead and not _returns(case, t)]
    return case.conduction.reach(outlets, closed)


def _returns(case: Case, terminal: TerminalName) -> bool:
    """Whether a terminal stands at neutral or minus wherever it stands at anything: what lies behind such a pole is protected by
    what is in the live of its own circuit."""
    poles = case.conduction.poles()
    back = next((t for name in RETURNS for t in poles.get(name, ())), None)
    if back is None:
        return False
    volts = [v for _, s in case.everywhere if (v := s.between(terminal, back)) is not None]
    return bool(volts) and max(volts) < AT_RETURN * case.context.supply_voltage_v


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
    found = []
    for protector in case.wiring.of_kind("breaker", "fuse"):
        amps, rating = case.most_amps(protector), protector.number("current_a", 1e9)
        if not rating * SAME < amps < SHORT * rating:
            continue
        opens = any(protector.name in s.tripped for _, s in case.everywhere)
        found.append(
            Finding(
                "wiring.breaker-load",
                Severity.FAULT,
                title=f"The load overloads {protector.name}, which opens"
                if opens
                else f"{protector.name} is smaller than the load",
                reason=f"{quantity(amps, 'A', '.1f')} flow for hours, and {protector.name} "
                f"is made for {quantity(rating, 'A', '.3g')}: it will trip.",
                fix=f"Lay the wiring out again for this {case.driven.noun}.",
                subjects=(protector.name,),
                proposal=Proposal("wiring.generate", True, label="Lay it out again"),
                source=SOURCE[case.context.practice],
            )
        )
    return found


MADE_FOR = {
    "voltage_v": ("heater", "lamp", "beacon", "buzzer", "fan", "solenoid", "motor", "cooling_module"),
    "coil_v": ("relay", "contactor", "timer"),
}
"""The rating that holds a load's voltage, by family."""


def rated_volts(case: Case, part: Part) -> float:
    """Volts each element of a load, or a coil, is made for."""
    name = next(n for n, families in MADE_FOR.items() if part.type.family in families)
    rated = part.number(name, case.context.control_v if name == "coil_v" else case.context.supply_voltage_v)
    return rated / 3**0.5 if part.type.kind == "heater_3ph" else rated


def load_voltage(case: Case) -> list[Finding]:
    """Every load and coil gets the voltage it is made for, within ten percent, wherever it is on."""
    found = []
    for part in case.wiring.of_kind(*(family for families in MADE_FOR.values() for family in families)):
        volts, rated = case.most_volts(part.name), rated_volts(case, part)
        enough = rated - max(WITHIN * rated, DROP_V)
        if volts <= (1.0 + WITHIN) * rated and (volts >= enough or volts < OFF_SHARE * rated):
            continue
        ratio = (volts / rated) ** 2
        found.append(
            Finding(
                "wiring.load-voltage",
                Severity.DANGER if volts > rated else Severity.FAULT,
                title=f"{part.name} is made for {quantity(rated, 'V', '.3g')} and gets {quantity(volts, 'V', '.3g')}",
                reason=f"It {'gives' if part.heats else 'takes'} {quantity(ratio, '', '.2f')} times its power.",
                fix="Join the far ends of these elements to one star point: they stand in delta."
                if part.heats and abs(volts / rated - ROOT_3) < DELTA_WITHIN
                else "Use the right voltage, or a part made for this supply.",
                subjects=(part.name,),
                figures=(
                    Figure(
                        f"power of {part.name} at this voltage",
                        ratio * 100.0,
                        Kind.PERCENT,
                        formula="(V / V_rated)²",
                        inputs=(
                            Input("across it", volts, Kind.VOLTAGE, "V", "solved"),
                            Input("rated", rated, Kind.VOLTAGE, "V_rated", "part"),
                        ),
                        reason="Power goes with the square of the voltage.",
                        source="Ohm's law",
                    ),
                ),
            )
        )
    return found


def parallel_contacts(case: Case) -> list[Finding]:
    """Contacts side by side do not share a current: the first to close and the last to open carries it all, and either of
    them welded leaves it on."""
    branches = [b for b in case.circuit.branches if b.closed in (Closed.COIL, Closed.OUTPUT, Closed.DRIVEN)]
    found: dict[frozenset[str], Finding] = {}
    for i, one in enumerate(branches):
        near, far = case.joined(one.a), case.joined(one.b)
        for other in branches[i + 1 :]:
            if other.name == one.name and other.sort is not one.sort:
                continue
            if not ((other.a in near and other.b in far) or (other.b in near and other.a in far)):
                continue
            both = [s for _, s in case.everywhere if one.at in s.paths and other.at in s.paths]
            amps = max((s.paths[one.at].amps + s.paths[other.at].amps for s in both), default=0.0)
            if amps > SHARED_A:
                names = frozenset({one.name, other.name})
                who = " and ".join(sorted(names)) if len(names) > 1 else f"{one.name}'s poles"
                found[names] = Finding(
                    "wiring.parallel-contacts",
                    Severity.FAULT,
                    title=f"{who} stand side by side",
                    reason=f"{quantity(amps, 'A', '.1f')} do not share between contacts: "
                    "one carries all of it, and one that sticks is enough.",
                    fix="One contact or SSR made for the whole current.",
                    subjects=tuple(sorted(names)),
                    source="common practice, no source",
                )
    return list(found.values())


def motors(case: Case) -> list[Finding]:
    """A motor that stalls burns out behind a breaker sized for its wire: above half a kilowatt it needs overload protection."""
    found = []
    for motor in case.wiring.of_kind("motor"):
        watts = motor.number("power_w", 250.0)
        amps = watts / motor.number("voltage_v", case.context.supply_voltage_v)
        guarded = any(
            p.number("current_a") <= MOTOR_SHARE * amps and case.most_amps(p) > FEEDS_MOTOR * amps
            for p in case.wiring.of_kind("motor_breaker")
        )
        if watts <= MOTOR_W or motor.ratings.get("overload", "built in") != "none" or guarded:
            continue
        found.append(
            Finding(
                "wiring.motor-overload",
                Severity.DANGER,
                title=f"Nothing protects {motor.name} when it stalls",
                reason=f"It takes about {quantity(amps, 'A', '.1f')} running and several "
                "times that stalled, for longer than a breaker minds.",
                fix=f"A motor-protection switch set to {quantity(amps, 'A', '.1f')}, or a motor with its own protector.",
                subjects=(motor.name,),
                source="IEC 60204-1, NEC 430.32; from memory",
            )
        )
    return found
