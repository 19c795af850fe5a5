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
from .earthing import Earthing, earthing_of

CONTACT_OHM, MOSFET_OHM = 0.002, 0.02
LEAST_OHM, MOST_OHM = 1e-3, 1e9
LEAKAGE_A = 0.005
PROSPECTIVE_A = 1500.0
"""Prospective fault current of a socket or small board, A; sets the source's own impedance (common practice)."""
DC_SAG = 0.02
"""Share of its voltage a DC supply or regulator loses at its rated current."""
DRIVE_V, DRIVE_OHM, SSR_INPUT_OHM = 12.0, 150.0, 1200.0
PIN_OHM = 100.0
COIL_W, INSTRUMENT_W = 3.0, 4.0
LOGIC_V, LOGIC_W = 12.0, 0.3
AC_SUPPLIES = ("supply_1ph", "supply_split", "supply_3ph")


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

    name: str
    sort: Sort
    a: str
    b: str
    ohm: float
    closed: Closed = Closed.ALWAYS
    breaks: bool = False


@dataclass(frozen=True)
class Source:
    """A voltage (rms phasor for AC) at ``node`` against ``back``, behind ``ohm``. ``by``: the part that must be powered."""

    name: str
    node: str
    back: str
    volts: complex
    ohm: float
    dc: bool
    by: str = ""


def wire_branch(wire: Connection) -> Branch:
    """A wire as its own resistance, by its cross-section."""
    ohm = ohm_per_metre("AWG", wire.area_mm2, 30.0) * wire.length_m
    return Branch(f"wire {wire.number}", Sort.WIRE, wire.a, wire.b, max(ohm, LEAST_OHM))


def part_branches(part: Part, supply_v: float) -> list[Branch]:
    """The branches inside a part."""
    if part.type.kind == "heater_3ph":
        ohm = part.number("voltage_v", supply_v) ** 2 / part.number("power_w", 1000.0)
        return [Branch(part.name, Sort.LOAD, f"{part.name}.{n}", f"{part.name}.*", ohm) for n in ("1", "2", "3")]
    if part.type.kind == "heater_3ph_delta":
        leg = 3.0 * part.number("voltage_v", supply_v) ** 2 / part.number("power_w", 1000.0)
        ends = [f"{part.name}.{n}" for n in ("1", "2", "3", "1")]
        return [Branch(part.name, Sort.LOAD, a, b, leg) for a, b in pairwise(ends)]
    found = []
    if part.type.kind in AC_SUPPLIES:
        found.append(Branch(f"{part.name} neutral", Sort.CONTACT, f"{part.name}.*n", f"{part.name}.N", CONTACT_OHM))
    for path in part.type.paths:
        a, b = f"{part.name}.{path.a}", f"{part.name}.{path.b}"
        if path.closed is Closed.LOAD:
            found.append(Branch(part.name, Sort.LOAD, a, b, _load_ohm(part, supply_v)))
        elif path.closed is Closed.DRIVEN and part.type.kind == "mosfet":
            found.append(Branch(part.name, Sort.CONTACT, a, b, MOSFET_OHM, path.closed))
        elif path.closed is Closed.DRIVEN and part.type.family == "ssr":
            found.append(Branch(part.name, Sort.SSR, a, b, 0.1, path.closed))
            found.append(Branch(part.name, Sort.LEAK, a, b, max(supply_v / LEAKAGE_A, 1e3)))
        elif part.type.kind == "regulator" and path.closed is Closed.COIL:
            continue  # its output is a source of its own
        else:
            found.append(Branch(part.name, Sort.CONTACT, a, b, CONTACT_OHM, path.closed, path.breaks))
    if part.type.kind == "resistor":
        found.append(Branch(part.name, Sort.LOAD, f"{part.name}.1", f"{part.name}.2", part.number("ohm", 10_000.0)))
    if part.type.family in ("ssr", "relay_module"):
        pair = part.type.paired(Role.DRIVE_PLUS, Role.DRIVE_MINUS)
        if pair:
            found.append(
                Branch(
                    f"{part.name} input", Sort.LOAD, f"{part.name}.{pair[0]}", f"{part.name}.{pair[1]}", SSR_INPUT_OHM
                )
            )
    return found


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
        return [Source(name, f"{name}.+", f"{name}.-", volts, ohm, dc=True)]
    if kind in AC_SUPPLIES:
        fault_a = part.number("fault_a", PROSPECTIVE_A)
        return [
            Source(f"{name} {live}", f"{name}.{live}", f"{name}.*n", v, abs(v) / fault_a, dc=False)
            for live, v in _phasors(part, volts).items()
        ]
    if kind in ("regulator", "power_module"):
        out = part.number("output_v", 5.0)
        ohm = DC_SAG * out / part.number("output_a", 1.0)
        return [Source(name, f"{name}.OUT+", f"{name}.OUT-", out, ohm, dc=True, by=name)]
    if part.type.family == "controller_ssr":
        pair = part.drive()
        if pair:
            pin = kind == "microcontroller"
            drive, ohm = (part.number("pin_v", 5.0), PIN_OHM) if pin else (part.number("drive_v", DRIVE_V), DRIVE_OHM)
            return [Source(f"{name} drive", f"{name}.{pair[0]}", f"{name}.{pair[1]}", drive, ohm, dc=True, by=name)]
    return []
