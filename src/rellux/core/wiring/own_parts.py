"""Parts of the user's own: a generic kind with the ratings and terminal numbers printed on the real one."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from math import isfinite

from ..errors import Problem, refuse_all
from ..messages import of_kind
from .library import PART_TYPES
from .model import Part, PartType
from .names import split, terminal_of
from .pins import FORMERLY, PINS_OF

LONGEST_TITLE, LONGEST_NUMBER = 60, 8


@dataclass(frozen=True)
class OwnPart:
    """``numbers``: what is printed at a generic terminal (``NO`` → ``13``). ``ratings`` only where they differ from the usual."""

    title: str
    kind: str
    numbers: dict[str, str] = field(default_factory=dict)
    ratings: dict[str, float | str] = field(default_factory=dict)


def of_today(part: OwnPart) -> OwnPart:
    """A board's pins by their names of today, where it comes from a file of before."""
    if part.kind != "microcontroller":
        return part
    numbers = {FORMERLY.get(pin, pin): number for pin, number in part.numbers.items()}
    pins = {k: FORMERLY.get(str(v), v) if k in PINS_OF else v for k, v in part.ratings.items()}
    return OwnPart(part.title, part.kind, numbers, pins)


def check_own(part: OwnPart) -> None:
    """Raise ``Refused`` with everything that cannot be: kind, terminals, a number with two roles, ratings."""
    problems = []
    if not 1 <= len(part.title.strip()) <= LONGEST_TITLE:
        problems.append(Problem("title", "a part needs a name", f"1…{LONGEST_TITLE} characters"))
    known = PART_TYPES.get(part.kind)
    if known is None:
        refuse_all([*problems, Problem("kind", f"there is no kind {part.kind!r}", ", ".join(PART_TYPES))])
    assert known is not None
    refuse_all([*problems, *_numbers(part, known), *_ratings(part, known)])


def _numbers(part: OwnPart, known: PartType) -> list[Problem]:
    problems: list[Problem] = []
    taken: dict[str, str] = {}
    for terminal, number in part.numbers.items():
        name = f"numbers.{terminal}"
        if known.terminal(terminal) is None:
            names = ", ".join(t.name for t in known.terminals)
            problems.append(Problem(name, f"a {known.title.lower()} has no terminal {terminal!r}", names))
        elif not 1 <= len(number.strip()) <= LONGEST_NUMBER or "." in number:
            problems.append(Problem(name, "this is not what stands at a terminal", f"1…{LONGEST_NUMBER} characters"))
        elif number in taken:
            problems.append(Problem(name, f"{number} is already {taken[number]}: one number has one role", "another"))
        else:
            taken[number] = terminal
    for name in (t.name for t in known.terminals):
        if taken.get(name, name) != name and name not in part.numbers:
            problems.append(Problem(f"numbers.{name}", f"{name} now names two terminals", "a number for it too"))
    return problems


def _ratings(part: OwnPart, known: PartType) -> list[Problem]:
    problems = []
    for name, value in part.ratings.items():
        rating = next((r for r in known.ratings if r.name == name), None)
        if rating is None:
            rated = ", ".join(r.name for r in known.ratings) or "none"
            problems.append(Problem(f"ratings.{name}", f"a {known.title.lower()} is not rated for this", rated))
        elif rating.kind is None:
            if value not in rating.options:
                problems.append(Problem(f"ratings.{name}", f"{value!r} is not one of them", ", ".join(rating.options)))
        elif isinstance(value, bool) or not isinstance(value, int | float) or not isfinite(value) or value <= 0:
            problems.append(
                Problem(f"ratings.{name}", f"{rating.label}: more than zero", f"more than {of_kind(0, rating.kind)}")
            )
    return problems


def resolve(parts: Sequence[Part], terminal: str) -> str:
    """``A1.13`` as ``A1.NO`` where 13 is what stands at that terminal; anything else unchanged."""
    name, end = split(terminal)
    part = next((p for p in parts if p.name == name), None)
    if part is None:
        return terminal
    return next((terminal_of(name, t) for t, number in part.numbers.items() if number == end), terminal)
