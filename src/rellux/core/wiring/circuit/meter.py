"""What a meter should show: ohms with the plug out, volts in each state; where to look, and what is misleading there.

Live: the state solved, a 10 MΩ meter taken as no load, so that what leaks through an SSR that is off shows almost the whole
mains.
"""

from dataclasses import dataclass
from enum import StrEnum

from ..model import Closed, ConnectionList, Role
from ..names import TerminalName
from ..switching import OFF, ON, TRIPPED, Switching
from .branches import DRIVEN
from .dead import Dead, Ohms
from .positions import operable, verb
from .solution import Solution
from .solve import CircuitSolver

OHM_TOLERANCE, VOLT_TOLERANCE = 0.10, 0.06
"""How far from what was computed a reading may be, as a share of it (our choice: parts, leads and the supply together)."""
LEAST_OHM, LEAST_V = 1.0, 2.0
"""Differences below these are the meter's and the leads' own (our choice)."""


class Over(StrEnum):
    """What a place to measure lies over."""

    SUPPLY = "supply"
    LIVE_TO_EARTH = "live_to_earth"
    LOAD = "load"
    DRIVE = "drive"
    SWITCHED = "switched"
    COIL = "coil"
    CONTACT = "contact"
    CASE = "case"
    CHOSEN = "chosen"


@dataclass(frozen=True)
class MeterReading:
    """One place to measure: between two terminals, what it is about; dead ohms; the same with a part moved (``S1 pressed``)
    where that differs; volts in each state (None: undefined)."""

    a: TerminalName
    b: TerminalName
    over: Over
    about: str
    ohms: Ohms
    moved: dict[str, Ohms]
    volts: dict[str, float | None]
    trap: str = ""


def states(wiring: ConnectionList) -> dict[str, Switching]:
    """The states a rig is measured live in, by name."""
    found = {"output off": OFF, "output on": ON}
    return {**found, "limiter tripped": TRIPPED} if wiring.of_kind("limiter") else found


def live(circuit: CircuitSolver, switching: Switching) -> Solution:
    """A state solved as somebody measures in it: started where there is a start button."""
    return circuit.solve(switching, start=circuit.running(ON) if switching.output_on else circuit.begun(switching))


def plan(
    circuit: CircuitSolver, chosen: tuple[tuple[TerminalName, TerminalName], ...] = ()
) -> tuple[MeterReading, ...]:
    """The places worth measuring: over every heater, coil and supply, an SSR's drive and load, over every contact somebody
    moves, from live and neutral to the case, the earth; and the ``chosen`` pairs of terminals."""
    solved = {name: live(circuit, s) for name, s in states(circuit.wiring).items()}
    dead, moved, found = Dead(circuit), moves(circuit.wiring), []
    for a, b, over, about in (*_places(circuit.wiring), *((a, b, Over.CHOSEN, "chosen here") for a, b in chosen)):
        volts = {name: solution.between(a, b) for name, solution in solved.items()}
        rest = dead.ohms(a, b)
        other = {words: dead.ohms(a, b, moved=name) for words, name in moved.items()}
        differing = {words: ohms for words, ohms in other.items() if _tells_apart(rest, ohms)}
        found.append(MeterReading(a, b, over, about, rest, differing, volts, _trap(circuit.wiring, over)))
    return tuple(found)


def moves(wiring: ConnectionList) -> dict[str, str]:
    """How a meter plan calls a part in its other position (``F1 open``), and the part's name."""
    return {f"{p.name} {verb(p)}": p.name for p in operable(wiring)}


def _tells_apart(one: Ohms, other: Ohms) -> bool:
    """Whether a meter shows these two as different."""
    return _differs(one.least, other.least) or _differs(one.most, other.most)


def _differs(one: float | None, other: float | None) -> bool:
    if one is None or other is None:
        return one is not other
    return abs(one - other) > max(OHM_TOLERANCE * one, LEAST_OHM)


def _trap(wiring: ConnectionList, over: Over) -> str:
    if over is Over.LOAD and wiring.of_kind("ssr"):
        return "Through an SSR that is off a high-impedance meter shows almost the whole mains: use a low-impedance tester."
    if over is Over.DRIVE:
        return "Pulses average: a drive that is on half of the time shows half of its volts."
    return ""


_Place = tuple[TerminalName, TerminalName, Over, str]


def _places(wiring: ConnectionList) -> list[_Place]:
    found: list[_Place] = []
    for supply in wiring.of_kind("supply"):
        first, *others = supply.ends
        earth = supply.at("PE")
        found += [
            (first, end, Over.LIVE_TO_EARTH, "live to earth") if end == earth else (first, end, Over.SUPPLY, "supply")
            for end in others
        ]
    for heater in wiring.of_kind("heater"):
        ends = heater.ends
        pairs = zip(ends, ends[1:] if len(ends) == 2 else [*ends[1:], ends[0]], strict=False)
        found += [(a, b, Over.LOAD, f"{wiring.driven.noun} {heater.name}") for a, b in pairs]
    for part in wiring.of_kind(*DRIVEN):
        pair = part.type.paired(Role.DRIVE_PLUS, Role.DRIVE_MINUS)
        if pair:
            found.append((part.at(pair[0]), part.at(pair[1]), Over.DRIVE, f"drive of {part.name}"))
        found += [(*way, Over.SWITCHED, f"across {part.name}") for way in part.ways(Closed.DRIVEN)]
    for coil in wiring.of_kind("relay", "contactor"):
        found.append((coil.at("A1"), coil.at("A2"), Over.COIL, f"coil of {coil.name}"))
    for moved in operable(wiring):
        found += [(*way, Over.CONTACT, f"contact of {moved.name}") for way in moved.ways(Closed.HAND, Closed.NOT_HAND)]
    earths = [s.at("PE") for s in wiring.of_kind("supply") if s.type.terminal("PE")]
    for case in wiring.of_kind("enclosure"):
        found += [(earth, case.at("PE"), Over.CASE, "earth of the case") for earth in earths]
        found += [(h.ends[0], case.at("PE"), Over.CASE, f"{h.name} to the case") for h in wiring.of_kind("heater")]
    return found
