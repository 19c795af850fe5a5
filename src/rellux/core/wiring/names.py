"""What terminals, branches and sources of a list are called: made and taken apart here only. A part says what its own are called
(:meth:`.model.Part.at`, ``ends``, ``ways``); only the lists that Rellux itself proposes have theirs written out, as ``part.terminal``.

No part's own name holds a dot or a space (:mod:`.model` refuses it), so that a name says of which part it is.
"""

from typing import Literal, NewType

TerminalName = NewType("TerminalName", str)
"""``part.terminal``, or a point inside a part."""
BranchName = NewType("BranchName", str)
"""A part, one of its own branches (``V1 input``, ``Q0 neutral``), a wire (``wire 7``), or a path by its two ends."""

SourceName = NewType("SourceName", str)
"""What drives current: a supply, or one of what a part gives (``A1 drive``, ``Q0 L1``)."""
Family = Literal[
    "beacon",
    "breaker",
    "buzzer",
    "contactor",
    "controller_analogue",
    "controller_relay",
    "controller_ssr",
    "converter",
    "cooling_module",
    "current_transformer",
    "cutout_auto",
    "cutout_manual",
    "display",
    "door_switch",
    "earth_bar",
    "enclosure",
    "encoder",
    "estop",
    "estop_no",
    "fan",
    "flow_switch",
    "fuse",
    "heater",
    "isolator",
    "lamp",
    "level_switch",
    "limiter",
    "logger",
    "motor",
    "panel_meter",
    "plug",
    "power_module",
    "pt100",
    "pt1000",
    "pushbutton",
    "rcd",
    "regulator",
    "relay",
    "relay_module",
    "relay_module_low",
    "resistor",
    "selector",
    "slip_ring",
    "snubber",
    "solenoid",
    "ssr",
    "supply",
    "switch",
    "terminal_block",
    "thermal_fuse",
    "thermistor",
    "thermocouple",
    "timer",
    "zero_cross",
]
"""What a part is to the rules: its kind, or the kind whose rules it obeys."""

INNER = "\x1f"
"""Marks a point inside a part that is no terminal: a star point, a supply's middle. No name holds it."""
INPUT, NEUTRAL, WIRE = "input", "neutral", "wire"


def terminal_of(part: str, terminal: str) -> TerminalName:
    """
    >>> terminal_of("Q0", "L")
    'Q0.L'
    """
    return TerminalName(f"{part}.{terminal}")


def split(terminal: str) -> tuple[str, str]:
    """``part.terminal`` into its two names."""
    part, _, name = terminal.partition(".")
    return part, name


def inner_of(part: str, point: str = "") -> TerminalName:
    """A point inside a part, where it has more than one by its name."""
    return terminal_of(part, INNER + point)


def is_inner(node: str) -> bool:
    """Whether a node is no terminal but a point inside a part: a star point, a supply's middle."""
    return INNER in node


def wire_name(number: int) -> BranchName:
    """
    >>> wire_name(7), wire_number(wire_name(7)), wire_number(BranchName("Q0"))
    ('wire 7', 7, None)
    """
    return BranchName(f"{WIRE} {number}")


def wire_number(branch: str) -> int | None:
    """Of a wire; ``None`` for any other branch."""
    kind, _, number = branch.partition(" ")
    return int(number) if kind == WIRE and number.isdecimal() else None


def input_of(part: str) -> BranchName:
    """The control input of a part, a load of its own."""
    return BranchName(f"{part} {INPUT}")


def neutral_of(part: str) -> BranchName:
    """The neutral of a supply, a contact of its own that can be lost."""
    return BranchName(f"{part} {NEUTRAL}")


def source_of(part: str, gives: str = "") -> SourceName:
    """What a part gives; by the part alone where it gives one thing only."""
    return SourceName(f"{part} {gives}" if gives else part)


def is_input(branch: str) -> bool:
    """Whether this is the name of a control input and not of a part."""
    return branch.partition(" ")[2] == INPUT


def path_at(a: str, b: str) -> BranchName:
    """How the path between two terminals of a part is named."""
    return BranchName(f"{a} {b}")


def part_of(branch: str) -> str:
    """
    >>> part_of(input_of("V1")), part_of("V1"), part_of(path_at("K1.13", "K1.14"))
    ('V1', 'V1', 'K1')
    """
    return split(branch.partition(" ")[0])[0]
