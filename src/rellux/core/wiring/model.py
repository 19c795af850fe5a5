"""Parts, terminals and connections: the list that everything about the wiring is computed from.

A terminal is written ``part.terminal``. A connection is one wire between two terminals. Inside a part, *paths* conduct
between its terminals, always or depending on a coil, on the controller's output or on the limiter.
"""

from collections.abc import Iterable
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property
from typing import Literal, cast

from ..errors import Problem, refuse_all
from ..units import Kind
from .driven import Driven, driven_of
from .names import INNER, BranchName, Family, TerminalName, split, terminal_of, wire_name
from .pins import NO_PIN


class Role(StrEnum):
    """Electrical role of a terminal."""

    LIVE = "live"
    NEUTRAL = "neutral"
    EARTH = "earth"
    DC_PLUS = "dc_plus"
    DC_MINUS = "dc_minus"
    SUPPLY_IN = "supply_in"
    POWER = "power"
    COIL = "coil"
    CONTACT = "contact"
    DRIVE_PLUS = "drive_plus"
    DRIVE_MINUS = "drive_minus"
    SENSOR_PLUS = "sensor_plus"
    SENSOR_MINUS = "sensor_minus"
    SENSOR = "sensor"


class Closed(StrEnum):
    """When a path inside a part conducts. ``HAND``: until the part is operated by hand or heat; ``NOT_HAND``: only then."""

    ALWAYS = "always"
    COIL = "coil"
    NOT_COIL = "not_coil"
    OUTPUT = "output"
    NOT_DRIVEN = "not_driven"
    NOT_OUTPUT = "not_output"
    LIMIT_OK = "limit_ok"
    LIMIT_TRIPPED = "limit_tripped"
    DRIVEN = "driven"
    ALARM = "alarm"
    NOT_ALARM = "not_alarm"
    HAND = "hand"
    NOT_HAND = "not_hand"
    LOAD = "load"


CONTACTS = tuple(closed for closed in Closed if closed is not Closed.LOAD)
"""Paths that carry what flows without taking power."""


class Circuit(StrEnum):
    """Which circuit a wire belongs to; they are drawn and bundled apart."""

    POWER = "power"
    CONTROL = "control"
    SENSOR = "sensor"
    EARTH = "earth"


@dataclass(frozen=True)
class Terminal:
    """A screw: ``name`` as used in the list, ``role``, and the side it is drawn on."""

    name: str
    role: Role
    side: str = "right"


CIRCUIT_OF_ROLE = {
    Role.EARTH: Circuit.EARTH,
    Role.SENSOR_PLUS: Circuit.SENSOR,
    Role.SENSOR_MINUS: Circuit.SENSOR,
    Role.SENSOR: Circuit.SENSOR,
    Role.COIL: Circuit.CONTROL,
    Role.SUPPLY_IN: Circuit.CONTROL,
    Role.DRIVE_PLUS: Circuit.CONTROL,
    Role.DRIVE_MINUS: Circuit.CONTROL,
}


def circuit_of(ends: Iterable[Terminal | None]) -> Circuit:
    """The circuit a wire between these terminals belongs to: what the first telling terminal says, else power."""
    return next((CIRCUIT_OF_ROLE[t.role] for t in ends if t and t.role in CIRCUIT_OF_ROLE), Circuit.POWER)


@dataclass(frozen=True)
class Path:
    """Conduction from one terminal of a part to another. ``breaks``: it is a fuse or breaker."""

    a: str
    b: str
    closed: Closed
    breaks: bool = False


@dataclass(frozen=True)
class Rating:
    """Something a part is rated for, with the value a generic one has. ``kind`` None: words, one of ``options``."""

    name: str
    label: str
    kind: Kind | None
    usual: float | str
    options: tuple[str, ...] = ()


@dataclass(frozen=True)
class PartType:
    """A generic part: its terminals and what happens inside. ``of``: the kind whose rules it obeys, if another."""

    kind: str
    title: str
    terminals: tuple[Terminal, ...]
    paths: tuple[Path, ...] = ()
    of: Family | Literal[""] = ""
    ratings: tuple[Rating, ...] = ()

    @property
    def family(self) -> Family:
        return cast(Family, self.of or self.kind)

    def terminal(self, name: str) -> Terminal | None:
        return next((t for t in self.terminals if t.name == name), None)

    def paired(self, first: Role, second: Role) -> tuple[str, str] | None:
        """Names of the first terminals with these two roles."""
        a = next((t.name for t in self.terminals if t.role is first), None)
        b = next((t.name for t in self.terminals if t.role is second and t.name != a), None)
        return (a, b) if a and b else None


@dataclass(frozen=True)
class Part:
    """A fitted part. ``ratings`` hold what the rules need: ``current_a``, ``voltage_v``, ``sensor`` …; ``title`` and
    ``numbers`` (what stands at a terminal) are those of the user's own part, if one is fitted."""

    name: str
    type: PartType
    ratings: dict[str, float | str] = field(default_factory=dict)
    title: str = ""
    numbers: dict[str, str] = field(default_factory=dict)

    @property
    def heats(self) -> bool:
        """Whether it is what the rig drives: a heating element, or what takes heat out."""
        return self.type.family == "heater"

    @property
    def signals(self) -> bool:
        """Whether it tells somebody something: lamps, beacons, buzzers."""
        return self.type.kind in SIGNALS

    @cached_property
    def ends(self) -> tuple[TerminalName, ...]:
        """All its terminals."""
        return tuple(self.at(t.name) for t in self.type.terminals)

    def at(self, terminal: str) -> TerminalName:
        """The terminal of this name."""
        return terminal_of(self.name, terminal)

    def across(self, path: Path) -> tuple[TerminalName, TerminalName]:
        """Both ends of a path inside it."""
        return self.at(path.a), self.at(path.b)

    def ways(self, *closed: Closed) -> list[tuple[TerminalName, TerminalName]]:
        """Both ends of each path inside it that conducts then."""
        return [self.across(p) for p in self.type.paths if p.closed in closed]

    def acting_as(self, *roles: Role) -> list[TerminalName]:
        """Its terminals of these roles."""
        return [self.at(t.name) for t in self.type.terminals if t.role in roles]

    def drive(self) -> tuple[str, str] | None:
        """Terminals that drive another part's input, plus first: those of the type, or the pin chosen as output."""
        pair = self.type.paired(Role.DRIVE_PLUS, Role.DRIVE_MINUS)
        return (str(self.ratings.get("output_pin", pair[0])), pair[1]) if pair else None

    @property
    def cooling_pin(self) -> str:
        """The pin of a board that calls a cooler; empty where none does."""
        pin = str(self.ratings.get("cooling_pin", NO_PIN))
        return "" if pin == NO_PIN else pin

    def number(self, rating: str, otherwise: float = 0.0) -> float:
        value = self.ratings.get(rating, otherwise)
        return float(value)


SIGNALS = ("lamp", "beacon", "buzzer")
USUAL_M = 1.5
"""Length in m taken for a wire inside a box when nobody gave one."""


@dataclass(frozen=True)
class Connection:
    """One wire. ``a`` and ``b`` are ``part.terminal``; area in mm², length in m. ``insulation``: a key of
    :data:`INSULATIONS`; ``route``: the duct or bundle it lies in, where somebody said so."""

    number: int
    a: TerminalName
    b: TerminalName
    circuit: Circuit = Circuit.POWER
    area_mm2: float = 1.5
    colour: str = "black"
    length_m: float = USUAL_M
    insulation: str = ""
    route: str = ""

    @property
    def name(self) -> BranchName:
        """As the branch it is in the solved circuit."""
        return wire_name(self.number)

    @property
    def parts(self) -> frozenset[str]:
        """The names of the parts it joins."""
        return frozenset((split(self.a)[0], split(self.b)[0]))


@dataclass(frozen=True)
class ConnectionList:
    """All parts and wires of a rig. Construction refuses terminals that do not exist, self-wires and duplicates."""

    parts: tuple[Part, ...]
    connections: tuple[Connection, ...]

    def __post_init__(self) -> None:
        refuse_all(_problems(self))

    @cached_property
    def by_name(self) -> dict[str, Part]:
        return {p.name: p for p in self.parts}

    def part(self, name: str) -> Part:
        return self.by_name[name]

    def problems_of(self, wire: Connection, beside: Iterable[Connection]) -> list[Problem]:
        """What forbids one more wire, beside these."""
        already = next((w for w in beside if {w.a, w.b} == {wire.a, wire.b}), None)
        return [*_ends_missing(self.by_name, wire), *([_joined_already(wire, already.number)] if already else [])]

    @cached_property
    def driven(self) -> Driven:
        """How what it drives is spoken of."""
        return driven_of(p.type.kind for p in self.parts if p.heats)

    @cached_property
    def terminals(self) -> frozenset[TerminalName]:
        """All terminals of all parts."""
        return frozenset(t for p in self.parts for t in p.ends)

    @cached_property
    def wired(self) -> frozenset[TerminalName]:
        """The terminals a wire leads to."""
        return frozenset(end for w in self.connections for end in (w.a, w.b))

    @cached_property
    def fed_by(self) -> tuple[str, ...]:
        """Names of the supplies from whose lives, or plus, something is fed."""
        return tuple(p.name for p in self.of_kind("supply") if self.wired & {*p.acting_as(Role.LIVE, Role.DC_PLUS)})

    def of_kind(self, *kinds: str) -> list[Part]:
        return [p for p in self.parts if p.type.kind in kinds or p.type.family in kinds]


def _problems(wiring: ConnectionList) -> list[Problem]:
    found: list[Problem] = []
    names: set[str] = set()
    for part in wiring.parts:
        if not part.name or any(c in f".{INNER}" or c.isspace() for c in part.name):
            found.append(Problem("parts", f"{part.name!r} is no name for a part", "no dots and no spaces in it"))
        if part.name in names:
            found.append(Problem("parts", f"two parts are called {part.name}", "a name of its own for each part"))
        names.add(part.name)
    seen: dict[frozenset[str], int] = {}
    for wire in wiring.connections:
        found += _ends_missing(wiring.by_name, wire)
        ends = frozenset((wire.a, wire.b))
        if ends in seen and wire.a != wire.b:
            found.append(_joined_already(wire, seen[ends]))
        seen[ends] = wire.number
    return found


def _joined_already(wire: Connection, number: int) -> Problem:
    return Problem("b", f"{wire.a} and {wire.b} are already joined by wire {number}", "another terminal")


def _ends_missing(by_name: dict[str, Part], wire: Connection) -> list[Problem]:
    """What is wrong with where a wire leads."""
    found = []
    for end, terminal in (("a", wire.a), ("b", wire.b)):
        part_name, name = split(terminal)
        part = by_name.get(part_name)
        if part is None:
            found.append(Problem(end, f"there is no part {part_name[:40]!r}", ", ".join(by_name)))
        elif part.type.terminal(name) is None:
            names = ", ".join(t.name for t in part.type.terminals)
            found.append(Problem(end, f"{part_name} has no terminal {name[:40]!r}", names))
    if wire.a == wire.b:
        found.append(Problem("b", f"wire {wire.number} would run from {wire.a} to itself", "another terminal"))
    return found
