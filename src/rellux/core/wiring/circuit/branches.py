"""What every part is electrically: branches with a resistance, and sources behind one.

Wires and closed contacts stay milliohm branches; an SSR that is on drops about 1.2 V, off it leaks; coils, instruments and
modules take the power given here (typical, common practice, no source). Values stay between 1 mΩ and 1 GΩ.
"""

from cmath import rect
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise
from math import pi, sqrt

from ...heating.wire import ohm_per_metre
from ..model import Closed, Connection, Part, Role
from ..names import (
    BranchName,
    Family,
    SourceName,
    TerminalName,
    inner_of,
    input_of,
    neutral_of,
    path_at,
    source_of,
    terminal_of,
)
from .earthing import Earthing, earthing_of

CONTACT_OHM, MOSFET_OHM = 0.002, 0.02
LEAST_OHM, MOST_OHM = 1e-3, 1e9
LEAKAGE_A = 0.005
PROSPECTIVE_A = 1500.0
"""Prospective fault current of a socket or small board, A; sets the source's own impedance (common practice)."""
DC_SAG = 0.02
"""Share of its voltage a DC supply or regulator loses at its rated current."""
DRIVE_V, DRIVE_OHM, SSR_INPUT_OHM = 12.0, 150.0, 1200.0
PIN_OHM, LOGIC_RAIL_V = 100.0, 5.0
COIL_W, INSTRUMENT_W = 3.0, 4.0
LOGIC_V, LOGIC_W = 12.0, 0.3
AC_SUPPLIES = ("supply_1ph", "supply_split", "supply_3ph")
DRIVEN: tuple[Family, ...] = ("ssr", "relay_module", "relay_module_low")
"""Families with a control input."""
ACTIVE_LOW = ("relay_module_low",)
"""Kinds whose input works while it is low."""
LOW_INPUT_OHM = 100_000.0
"""Input resistance of a module that works low: its own pull-up is too weak to hold it (typical, from memory)."""
BOARD_RAIL_A = 0.5
"""What a board's own regulator gives at its 5 V pin, A (typical, from memory)."""


class Sort(StrEnum):
    """What a branch is."""

    WIRE = "wire"
    CONTACT = "contact"
    LOAD = "load"
    SSR = "ssr"
    LEAK = "leak"


@dataclass(frozen=True)
class Branch:
    """A resistance between two nodes. ``name``: the part, or ``wire 7``; ``closed``: when it conducts."""

    name: BranchName
    sort: Sort
    a: TerminalName
    b: TerminalName
    ohm: float
    closed: Closed = Closed.ALWAYS
    breaks: bool = False

    @property
    def at(self) -> BranchName:
        """The path by its two ends, to tell it from others of the same part."""
        return path_at(self.a, self.b)


class Gives(StrEnum):
    """When a source gives, beside its part being powered."""

    ALWAYS = "always"
    CALLED = "called"
    UNCALLED = "uncalled"
    COOLING = "cooling"
    NOT_COOLING = "not_cooling"


@dataclass(frozen=True)
class Source:
    """A voltage (rms phasor for AC) at ``node`` against ``back``, behind ``ohm``. ``by``: the part that must be powered;
    ``gives``: whether that part must also call for heat, or for its cooler, or not call."""

    name: SourceName
    node: TerminalName
    back: TerminalName
    volts: complex
    ohm: float
    dc: bool
    by: str = ""
    gives: Gives = Gives.ALWAYS


def wire_branch(wire: Connection) -> Branch:
    """A wire as its own resistance, by its cross-section."""
    ohm = ohm_per_metre("AWG", wire.area_mm2, 30.0) * wire.length_m
    return Branch(wire.name, Sort.WIRE, wire.a, wire.b, max(ohm, LEAST_OHM))


def part_branches(part: Part, supply_v: float, wired: frozenset[TerminalName] = frozenset()) -> list[Branch]:
    """The branches inside a part; ``wired``: the terminals of the list that have wires."""
    own = BranchName(part.name)
    if part.type.kind == "heater_3ph":
        ohm = part.number("voltage_v", supply_v) ** 2 / part.number("power_w", 1000.0)
        return [Branch(own, Sort.LOAD, part.at(n), inner_of(part.name), ohm) for n in ("1", "2", "3")]
    if part.type.kind == "heater_3ph_delta":
        leg = 3.0 * part.number("voltage_v", supply_v) ** 2 / part.number("power_w", 1000.0)
        ends = [part.at(n) for n in ("1", "2", "3", "1")]
        return [Branch(own, Sort.LOAD, a, b, leg) for a, b in pairwise(ends)]
    found = []
    if part.type.kind in AC_SUPPLIES:
        found.append(Branch(neutral_of(part.name), Sort.CONTACT, inner_of(part.name, "n"), part.at("N"), CONTACT_OHM))
    for path in part.type.paths:
        a, b = part.across(path)
        if fed_raw(part, wired):
            a = part.at("RAW")
        if path.closed is Closed.LOAD:
            found.append(Branch(own, Sort.LOAD, a, b, _load_ohm(part, supply_v)))
        elif path.closed is Closed.DRIVEN and part.type.kind == "mosfet":
            found.append(Branch(own, Sort.CONTACT, a, b, MOSFET_OHM, path.closed))
        elif path.closed is Closed.DRIVEN and part.type.family == "ssr":
            found.append(Branch(own, Sort.SSR, a, b, 0.1, path.closed))
            found.append(Branch(own, Sort.LEAK, a, b, max(supply_v / LEAKAGE_A, 1e3)))
        elif part.type.kind == "regulator" and path.closed is Closed.COIL:
            continue  # its output is a source of its own
        else:
            found.append(Branch(own, Sort.CONTACT, a, b, CONTACT_OHM, path.closed, path.breaks))
    if part.type.kind == "resistor":
        found.append(
            Branch(
                own,
                Sort.LOAD,
                part.at("1"),
                part.at("2"),
                part.number("ohm", 10_000.0),
            )
        )
    if part.type.family in DRIVEN and (pair := part.type.paired(Role.DRIVE_PLUS, Role.DRIVE_MINUS)):
        ohm = LOW_INPUT_OHM if part.type.kind in ACTIVE_LOW else SSR_INPUT_OHM
        found.append(Branch(input_of(part.name), Sort.LOAD, part.at(pair[0]), part.at(pair[1]), ohm))
    return found


def fed_raw(part: Part, wired: frozenset[TerminalName]) -> bool:
    """Whether a board is fed at its raw input, and makes its own 5 V."""
    return part.type.kind == "microcontroller" and part.at("RAW") in wired


def switches_dc(part: Part) -> bool:
    """Whether a semiconductor is made for direct current."""
    return part.type.kind == "mosfet" or part.ratings.get("load_type", "ac") == "dc"


def is_coil(part: Part) -> bool:
    """Whether a part's load is a coil that moves contacts."""
    return part.type.family in ("relay", "contactor") or part.type.kind == "timer"


def _load_ohm(part: Part, supply_v: float) -> float:
    if is_coil(part):
        return part.number("coil_v", supply_v) ** 2 / COIL_W
    volts = part.number("voltage_v", supply_v)
    watts = part.number("power_w", LOGIC_W if volts <= LOGIC_V else INSTRUMENT_W)
    return min(max(volts**2 / max(watts, 1e-3), LEAST_OHM), MOST_OHM)


def _phasors(part: Part, volts: float) -> dict[str, complex]:
    """Each live against the source's middle, for a supply of ``volts`` between lives (single-phase: to neutral)."""
    if part.type.kind == "supply_1ph":
        return {"L": complex(volts)}
    if part.type.kind == "supply_split":
        return {"L1": complex(volts / 2.0), "L2": complex(-volts / 2.0)}
    if earthing_of(part) is Earthing.HIGH_LEG:
        return {"L1": complex(volts / 2.0), "L2": 1j * volts * sqrt(3.0) / 2.0, "L3": complex(-volts / 2.0)}
    return {f"L{i + 1}": rect(volts / sqrt(3.0), angle) for i, angle in enumerate((0.0, -2 * pi / 3, 2 * pi / 3))}


def part_sources(part: Part) -> list[Source]:
    """Sources inside a part: a supply's lives against its neutral, a rail, a controller's SSR drive."""
    name, volts = part.name, part.number("voltage_v", 230.0)
    kind = part.type.kind
    if kind == "supply_dc":
        ohm = DC_SAG * volts / part.number("current_a", 6.0)
        return [Source(source_of(name), terminal_of(name, "+"), terminal_of(name, "-"), volts, ohm, dc=True)]
    if kind in AC_SUPPLIES:
        fault_a = part.number("fault_a", PROSPECTIVE_A)
        return [
            Source(source_of(name, live), terminal_of(name, live), inner_of(name, "n"), v, abs(v) / fault_a, dc=False)
            for live, v in _phasors(part, volts).items()
        ]
    if kind in ("regulator", "power_module"):
        out = part.number("output_v", 5.0)
        ohm = DC_SAG * out / part.number("output_a", 1.0)
        return [
            Source(source_of(name), terminal_of(name, "OUT+"), terminal_of(name, "OUT-"), out, ohm, dc=True, by=name)
        ]
    if kind == "microcontroller":
        return _board_sources(part)
    if part.type.family == "controller_ssr" and (pair := part.drive()):
        ends = terminal_of(name, pair[0]), terminal_of(name, pair[1])
        drive_v = part.number("drive_v", DRIVE_V)
        return [Source(source_of(name, "drive"), *ends, drive_v, DRIVE_OHM, dc=True, by=name, gives=Gives.CALLED)]
    return []


def _board_sources(board: Part) -> list[Source]:
    """A board's output pin, high when it calls (or when it does not, where it works low) and held low otherwise; its cooler's pin, high
    while that is called."""
    name, pair = board.name, board.drive()
    ground = terminal_of(name, "GND")
    calls, rests = Gives.CALLED, Gives.UNCALLED
    if board.ratings.get("active") == "low":
        calls, rests = rests, calls
    found, volts = [], board.number("pin_v", LOGIC_RAIL_V)
    if board.cooling_pin:
        pin = terminal_of(name, board.cooling_pin)
        found.append(
            Source(source_of(name, "cooler"), pin, ground, volts, PIN_OHM, dc=True, by=name, gives=Gives.COOLING)
        )
        found.append(
            Source(source_of(name, "cooler low"), pin, ground, 0.0, PIN_OHM, dc=True, by=name, gives=Gives.NOT_COOLING)
        )
    if pair:
        pin = terminal_of(name, pair[0])
        found.append(Source(source_of(name, "drive"), pin, ground, volts, PIN_OHM, dc=True, by=name, gives=calls))
        found.append(Source(source_of(name, "low"), pin, ground, 0.0, PIN_OHM, dc=True, by=name, gives=rests))
    return found


def board_rail(board: Part) -> Source:
    """The 5 V a board makes of what stands at its raw input."""
    volts = board.number("voltage_v", LOGIC_RAIL_V)
    ohm = DC_SAG * volts / BOARD_RAIL_A
    return Source(
        source_of(board.name, "rail"),
        board.at("5V"),
        board.at("GND"),
        volts,
        ohm,
        dc=True,
        by=board.name,
    )
