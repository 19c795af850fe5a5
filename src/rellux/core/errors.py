"""How the core refuses: always with the field, the reason and the accepted range."""

from collections.abc import Iterable
from dataclasses import dataclass

from .messages import render


@dataclass(frozen=True)
class Problem:
    """One thing wrong with what was given.

    ``field`` is the name the caller used, ``reason`` a sentence, ``accepted`` what would be accepted instead.
    """

    field: str
    reason: str
    accepted: str


class Refused(ValueError):  # noqa: N818 - reads as a sentence: "raise Refused(...)"
    """Input that cannot be used. Carries one :class:`Problem` or several."""

    def __init__(self, *problems: Problem) -> None:
        self.problems = problems
        super().__init__(render("; ".join(f"{p.field}: {p.reason}" for p in problems)))


def refuse(field: str, reason: str, accepted: str = "") -> Refused:
    """The common case of one problem: ``raise refuse("period_s", "…", "1…60 s")``."""
    return Refused(Problem(field, reason, accepted))


def refuse_all(problems: Iterable[Problem]) -> None:
    """Raise :class:`Refused` when there is at least one problem."""
    found = tuple(problems)
    if found:
        raise Refused(*found)
