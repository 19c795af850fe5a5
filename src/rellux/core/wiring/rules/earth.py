"""The protective earth: metal that is bonded, by a wire that is unbroken, thick enough, and nothing but an earth."""

from ...findings import Finding, Proposal, Severity
from ...heating.conductor_tables import Practice
from ...heating.wire import awg_area_mm2
from ...messages import quantity
from ..circuit.solution import Solution
from ..graph import Conduction
from ..model import Circuit, Closed, Connection, ConnectionList, Part, Role
from ..names import TerminalName, split
from .case import Case
from .protective import is_extra_low

EARTH_COLOURS = ("green-yellow",)
CARRIES_A = 0.01
"""Amperes in an earth wire of a sound rig from which it is used as a conductor: leakage is below (our choice)."""
LIVE_SHARE = 0.1
"""Share of the supply's voltage from which a conductor counts as live (our choice)."""
IEC_SAME_UP_TO_MM2, IEC_HALF_FROM_MM2 = 16.0, 35.0
"""IEC 60364-5-54 table 54.2: an earth as thick as its live up to 16 mm², 16 mm² up to 35, half of it beyond (from memory)."""
NEC_EARTH_AWG = ((15.0, 14), (20.0, 12), (60.0, 10), (100.0, 8), (200.0, 6), (300.0, 4))
NEC_EARTH_BEYOND_AWG = 3
"""NEC 250.122: up to this breaker in A, the gauge of the earth; and beyond, up to 400 A (from memory)."""
SLACK = 0.98
"""Share of a required size that still counts as it: AWG sizes are rounded."""


def earths(case: Case) -> list[TerminalName]:
    """The supplies' earth terminals."""
    return [s.at("PE") for s in case.wiring.of_kind("supply") if s.type.terminal("PE")]


def earth(case: Case) -> list[Finding]:
    """A metal enclosure must reach the supply's earth by wire alone, unless the supply is extra-low voltage; and where no
    enclosure is in the list, it is asked."""
    if is_extra_low(case) or not case.wiring.of_kind("supply"):
        return []
    bonded = case.conduction.reach(earths(case))
    found = [
        Finding(
            "wiring.earth",
            Severity.DANGER,
            title=f"{part.name} is not earthed",
            reason="One loose live wire would put mains on the metal, and nothing would trip.",
            fix=f"Run an earth wire from {next(iter(earths(case)), 'the supply earth')} to {part.at('PE')}, unbroken.",
            subjects=(part.name,),
            proposal=Proposal("wiring.connect", f"{earths(case)[0]}>{part.at('PE')}", label="Add the earth wire")
            if earths(case)
            else None,
            source="IEC 60364-4-41; NEC 250",
        )
        for part in case.wiring.of_kind("enclosure")
        if part.at("PE") not in bonded
    ]
    if case.heaters() and not case.wiring.of_kind("enclosure"):
        found.append(
            Finding(
                "wiring.no-enclosure",
                Severity.ADVICE,
                title="Is there no metal in this rig?",
                reason="No metal enclosure, panel or chamber is in the list, so nothing is checked for its earth.",
                fix="Add every metal part somebody can touch, each with its earth wire.",
                subjects=tuple(h.name for h in case.heaters()),
                source="IEC 60364-4-41; NEC 250",
            )
        )
    return found


def earth_broken(case: Case) -> list[Finding]:
    """Earth may pass no fuse, breaker or switch."""
    bare = _earthed(case)
    switched = [p for p in case.wiring.parts if p.type.family != "regulator" and _switches(p, bare)]
    return [
        Finding(
            "wiring.earth-broken",
            Severity.DANGER,
            title=f"The earth goes through {part.name}",
            reason="When it opens the metal is no longer earthed, and nobody can see it.",
            fix="Earth by wire alone, from the supply to every metal part.",
            subjects=(part.name,),
            source="IEC 60364-5-54, NEC 250; from memory",
        )
        for part in switched
    ]


def _switches(part: Part, net: frozenset[TerminalName]) -> bool:
    """Whether a contact of this part has an end in a net."""
    paths = (p for p in part.type.paths if p.closed not in (Closed.ALWAYS, Closed.LOAD))
    return any(set(part.across(p)) & net for p in paths)


def _earthed(case: Case) -> frozenset[TerminalName]:
    """Terminals that earth reaches by wire, without those that only a joint with the neutral brings to it."""
    joins = {w.number for w in _joins(case)}
    kept = ConnectionList(case.wiring.parts, tuple(w for w in case.wiring.connections if w.number not in joins))
    return Conduction(kept).reach(earths(case))


def _joins(case: Case) -> list[Connection]:
    """Wires that join a neutral and an earth: without any one of them the two are apart."""
    neutral = [t for name, ts in case.conduction.poles().items() if name == "N" for t in ts]
    if not neutral or not frozenset(neutral) & case.conduction.reach(earths(case)):
        return []
    found = []
    for wire in case.wiring.connections:
        left = tuple(w for w in case.wiring.connections if w is not wire)
        if not frozenset(neutral) & Conduction(ConnectionList(case.wiring.parts, left)).reach(earths(case)):
            found.append(wire)
    return found


def neutral_earth(case: Case) -> list[Finding]:
    """Neutral and earth are joined once, at the origin of the supply, and never again behind it."""
    wires = _joins(case)
    neutral = frozenset(t for name, ts in case.conduction.poles().items() if name == "N" for t in ts)
    if not wires and not neutral & case.conduction.reach(earths(case)):
        return []
    numbers = " and ".join(str(w.number) for w in wires)
    return [
        Finding(
            "wiring.neutral-earth",
            Severity.DANGER,
            title="Neutral and earth are joined" + (f" by wire {numbers}" if wires else " more than once"),
            reason="The earth then carries part of the rig's current all the time, an earth-leakage breaker trips or is blind, and a "
            "broken neutral puts mains on the metal.",
            fix="Take the joint out: they meet once, at the origin of the supply.",
            subjects=tuple(w.name for w in wires) or ("neutral",),
            source="IEC 60364-5-54, NEC 250.24; from memory",
        )
    ]


def earth_carries(case: Case) -> list[Finding]:
    """No protective earth is a return or a live."""
    if neutral_earth(case):
        return []
    bonded = case.conduction.reach(earths(case))
    worst: dict[int, float] = {}
    for _, solved in case.everywhere:
        for wire in case.wiring.connections:
            through = solved.wires.get(wire.name)
            if {wire.a, wire.b} & bonded and through and through.amps > CARRIES_A:
                worst[wire.number] = max(worst.get(wire.number, 0.0), through.amps)
    if not worst:
        return []
    most = max(worst, key=lambda number: worst[number])
    return [
        Finding(
            "wiring.earth-carries",
            Severity.DANGER,
            title=f"The earth carries {quantity(worst[most], 'A', '.3g')} in normal work",
            reason=f"Wire {most} and what it hangs on use the protective earth as a conductor: where it comes off, the metal is live.",
            fix="Take the load back to the neutral, or to its own live; the earth carries nothing until something fails.",
            subjects=tuple(f"wire {number}" for number in sorted(worst)),
            source="IEC 60364-5-54, NEC 250; from memory",
        )
    ]


def earth_colour(case: Case) -> list[Finding]:
    """Green-yellow is an earth and nothing else."""
    bonded = _earthed(case)
    found = []
    for wire in case.wiring.connections:
        marked = wire.colour in EARTH_COLOURS or wire.circuit is Circuit.EARTH
        if not marked or {wire.a, wire.b} & bonded or _to_metal(case, wire):
            continue
        live = any(_volts(s, wire) > LIVE_SHARE * case.context.supply_voltage_v for _, s in case.everywhere)
        found.append(
            Finding(
                "wiring.earth-colour",
                Severity.DANGER if live else Severity.FAULT,
                title=f"Wire {wire.number} is marked as an earth and is {'live' if live else 'none'}",
                reason="Whoever works here next takes green-yellow for safe to touch.",
                fix="Another colour, and the circuit it belongs to.",
                subjects=(wire.name,),
                source="IEC 60445, NEC 250.119; from memory",
            )
        )
    return found


def _to_metal(case: Case, wire: Connection) -> bool:
    """Whether a wire leads to metal: a missing earth is said elsewhere."""
    return any(
        case.wiring.part(split(end)[0]).type.terminal(split(end)[1]).role is Role.EARTH  # type: ignore[union-attr]
        for end in (wire.a, wire.b)
    )


def _volts(solved: Solution, wire: Connection) -> float:
    return max(solved.to_earth(wire.a) or 0.0, solved.to_earth(wire.b) or 0.0)


def earth_size(case: Case) -> list[Finding]:
    """An earth is as thick as its live, or as the breaker ahead of it asks."""
    if is_extra_low(case):
        return []
    bonded = _earthed(case)
    live = [w for w in case.wiring.connections if w.circuit is Circuit.POWER and not {w.a, w.b} & bonded]
    breakers = [p.number("current_a") for p in case.wiring.of_kind("breaker", "fuse")]
    if not live:
        return []
    thickest = max(w.area_mm2 for w in live)
    least = nec_earth(max(breakers, default=0.0)) if case.context.practice is Practice.NEC else iec_earth(thickest)
    least = min(least, thickest)  # never more than the live itself
    return [
        Finding(
            "wiring.earth-size",
            Severity.FAULT,
            title=f"Earth wire {wire.number} is thinner than its live needs",
            reason=f"{quantity(wire.area_mm2, 'mm²', '.3g')} beside {quantity(thickest, 'mm²', '.3g')}: "
            "on an earth fault it may burn before the breaker opens.",
            fix=f"{quantity(least, 'mm²', '.3g')} or more.",
            subjects=(wire.name,),
            source="IEC 60364-5-54 table 54.2; NEC 250.122; from memory",
        )
        for wire in case.wiring.connections
        if {wire.a, wire.b} <= bonded and wire.area_mm2 < SLACK * least
    ]


def iec_earth(live_mm2: float) -> float:
    """Least earth in mm² beside a live of this size."""
    if live_mm2 <= IEC_SAME_UP_TO_MM2:
        return live_mm2
    return IEC_SAME_UP_TO_MM2 if live_mm2 <= IEC_HALF_FROM_MM2 else live_mm2 / 2.0


def nec_earth(breaker_a: float) -> float:
    """Least earth in mm² behind this breaker."""
    gauge = next((awg for rating, awg in NEC_EARTH_AWG if breaker_a <= rating), NEC_EARTH_BEYOND_AWG)
    return awg_area_mm2(gauge)
