"""What stands at the terminals of a controller, and one controller in place of another: which wire goes from where to where."""

from collections.abc import Collection, Iterable, Iterator, Mapping
from dataclasses import dataclass

from ..errors import Problem
from ..wiring.library import PART_TYPES
from ..wiring.model import Connection
from ..wiring.names import split
from ..wiring.own_parts import LONGEST_NUMBER
from .description import Description

VARIANTS = tuple(kind for kind in PART_TYPES if kind.startswith("controller_"))
"""The kinds of part that a controller is to the wiring."""


@dataclass(frozen=True)
class WireMove:
    """One wire of an exchange: its number, colour and size, at which terminal of the controller it is (as the wiring calls it), what stands
    there on the old one and on the new one (empty: the new one has no such terminal), where its other end is, whether it is ``done``."""

    wire: int
    colour: str
    area_mm2: float
    terminal: str
    before: str
    after: str
    other: str
    done: bool


def numbers_of(description: Description | None, variant: str) -> dict[str, str]:
    """What stands at each terminal of a part of this kind; empty where the description says nothing of them."""
    found = description.terminals if description else ()
    return {t.terminal: t.number for t in found if t.variant in ("", variant) and _has(variant, t.terminal)}


def moves(
    wires: Iterable[Connection], part: str, before: Mapping[str, str], after: Mapping[str, str], built: Collection[int]
) -> tuple[WireMove, ...]:
    """Every wire at the controller, one at a time in the order of their numbers. Where nothing is known of a controller's terminals they
    are called as the wiring calls them."""
    found = []
    for wire in sorted(wires, key=lambda w: w.number):
        for end, other in ((wire.a, wire.b), (wire.b, wire.a)):
            name, terminal = split(end)
            if name == part:
                now = after.get(terminal, "") if after else terminal
                at = WireMove(
                    wire.number,
                    wire.colour,
                    wire.area_mm2,
                    terminal,
                    before.get(terminal, terminal),
                    now,
                    other,
                    wire.number in built,
                )
                found.append(at)
    return tuple(found)


def terminal_problems(description: Description) -> Iterator[Problem]:
    """Terminals that no such part has, and a number with two roles."""
    for i, at in enumerate(description.terminals):
        field = f"terminals[{i}]."
        if at.variant and at.variant not in VARIANTS:
            yield Problem(f"{field}variant", f"{at.variant} is no kind of controller", ", ".join(VARIANTS))
            continue
        variants = (at.variant,) if at.variant else VARIANTS
        if not any(_has(v, at.terminal) for v in variants):
            names = dict.fromkeys(t.name for v in variants for t in PART_TYPES[v].terminals)
            yield Problem(f"{field}terminal", f"there is no terminal {at.terminal}", ", ".join(names))
        if not 1 <= len(at.number.strip()) <= LONGEST_NUMBER or "." in at.number:
            yield Problem(f"{field}number", "this is not what stands at a terminal", f"1…{LONGEST_NUMBER} characters")
        for other in description.terminals[:i]:
            if at.variant and other.variant and at.variant != other.variant:
                continue
            if at.number == other.number:
                yield Problem(
                    f"{field}number", f"{at.number} is already {other.terminal}: one number has one role", "another"
                )
            elif at.terminal == other.terminal:
                yield Problem(f"{field}terminal", f"{at.terminal} is already at {other.number}", "once")


def _has(variant: str, terminal: str) -> bool:
    return variant in PART_TYPES and PART_TYPES[variant].terminal(terminal) is not None
