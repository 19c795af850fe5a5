"""What each change brought: runs before it and after it, and whether they differ by more than runs that nothing lies between.

A change is credited with the difference of the means of the runs on either side of it, up to the next change. Its uncertainty comes from
runs with nothing between them: their spread, pooled over all such groups, with Student's t. Where several things changed between two runs,
nobody knows which of them it was, and that is said instead.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from math import sqrt

import numpy as np
import scipy

from ..explain import Figure, Input
from ..setup.parameters import TUNING_PARAMETERS
from ..units import Kind

LEVEL = 0.95
"""Of all figures of a change together: each is told at a level so much stricter (Bonferroni)."""
LIKE_C, LIKE_SHARE = 2.0, 0.05
"""Runs are held against each other whose set-points, and starts, differ by no more than the larger of so many °C and so much of the way
(our choice)."""
MOST_EACH = 6
"""Runs on either side that count: older ones tell of other times (our choice)."""
TOGETHER = frozenset(TUNING_PARAMETERS)
"""What is one change when it is made at once: a tuning."""


@dataclass(frozen=True)
class RanAs:
    """A run that was judged. ``at``: when it began, s since 1970; figures are ``None`` where it does not show them."""

    key: int
    name: str
    at: float
    setpoint_c: float
    begins_c: float
    overshoot_c: float | None
    settling_s: float | None
    ripple_c: float | None
    switchings_per_h: float | None


@dataclass(frozen=True)
class Changed:
    """Something that was changed at ``at``, s since 1970: what it is called, and the names of what differs, with before and after."""

    at: float
    title: str
    why: str
    values: tuple[tuple[str, str, str], ...] = ()

    @property
    def parts(self) -> frozenset[str]:
        """What counts as one change each: the numbers of a tuning together; a change without values by its title."""
        names = {name for name, _, _ in self.values}
        tuned = {"tuning"} if names & TOGETHER else set()
        return frozenset(names - TOGETHER | tuned) or frozenset({self.title})


@dataclass(frozen=True)
class Credit:
    """``figure``: after less before, with its interval where runs without a change between them tell by how much they differ anyway;
    ``is_told``: it differs by more than that; ``says`` what it is then."""

    figure: Figure
    is_told: bool
    is_better: bool
    says: str


@dataclass(frozen=True)
class LedgerLine:
    """One change, or several that nothing lies between. ``says``: what came of it, in a sentence."""

    at: float
    changes: tuple[Changed, ...]
    before: tuple[RanAs, ...]
    after: tuple[RanAs, ...]
    credits: tuple[Credit, ...]
    is_attributable: bool
    says: str


_JUDGED = (
    ("overshoot_c", "overshoot", Kind.DIFFERENCE, "less overshoot", "more overshoot"),
    ("settling_s", "there for good", Kind.TIME, "an earlier end of waiting", "a later end of waiting"),
    ("ripple_c", "ripple", Kind.DIFFERENCE, "less ripple", "more ripple"),
    ("switchings_per_h", "switchings", Kind.PER_HOUR, "fewer switchings", "more switchings"),
)


def ledger(runs: Iterable[RanAs], changes: Iterable[Changed]) -> tuple[LedgerLine, ...]:
    """Every change that has a run before it and one after it, the newest first."""
    ran, made = list(runs), list(changes)
    groups: list[list[RanAs]] = [[]]
    between: list[list[Changed]] = []
    waiting: list[Changed] = []
    events: list[RanAs | Changed] = [*made, *ran]
    for event in sorted(events, key=lambda e: e.at):
        if isinstance(event, Changed):
            waiting.append(event)
            continue
        if waiting:
            if groups[-1]:
                groups.append([])
                between.append(waiting)
            waiting = []  # what came before the first run has nothing to be held against
        groups[-1].append(event)
    spread = {name: _pooled(groups, name) for name, *_ in _JUDGED}
    lines = [_line(made, *sides, spread) for made, sides in zip(between, pairwise(groups), strict=True)]
    return tuple(reversed(lines))


def _line(
    made: list[Changed], before: list[RanAs], after: list[RanAs], spread: dict[str, tuple[float, int]]
) -> LedgerLine:
    last = after[0]
    old = tuple(r for r in before if _alike(r, last))[-MOST_EACH:]
    new = tuple(r for r in after if _alike(r, last))[:MOST_EACH]
    parts = frozenset[str]().union(*(c.parts for c in made))
    credits = tuple(c for c in (_credit(old, new, judged, spread[judged[0]]) for judged in _JUDGED) if c)
    alone = len(parts) == 1
    return LedgerLine(made[-1].at, tuple(made), old, new, credits, alone, _says(old, credits, parts))


def _alike(one: RanAs, other: RanAs) -> bool:
    near = max(LIKE_C, LIKE_SHARE * abs(other.setpoint_c - other.begins_c))
    return abs(one.setpoint_c - other.setpoint_c) <= near and abs(one.begins_c - other.begins_c) <= near


def _pooled(groups: Sequence[Sequence[RanAs]], name: str) -> tuple[float, int]:
    """Standard deviation of a figure among like runs that nothing lies between, and its degrees of freedom."""
    squares, freedom = 0.0, 0
    for group in groups:
        rest = list(group)
        while rest:
            like = [r for r in rest if _alike(r, rest[0])]
            rest = [r for r in rest if r not in like]
            told = [v for v in (getattr(r, name) for r in like) if v is not None]
            if len(told) > 1:
                squares += float(np.var(told, ddof=1)) * (len(told) - 1)
                freedom += len(told) - 1
    return (sqrt(squares / freedom), freedom) if freedom else (0.0, 0)


def _credit(
    old: tuple[RanAs, ...], new: tuple[RanAs, ...], judged: tuple[str, str, Kind, str, str], spread: tuple[float, int]
) -> Credit | None:
    field, name, kind, less, more = judged
    first, second = ([v for v in (getattr(r, field) for r in side) if v is not None] for side in (old, new))
    if not first or not second:
        return None
    change = float(np.mean(second) - np.mean(first))
    s, freedom = spread
    half = None
    if freedom:
        half = (
            float(scipy.special.stdtrit(freedom, 1.0 - (1.0 - LEVEL) / (2.0 * len(_JUDGED))))
            * s
            * sqrt(1.0 / len(first) + 1.0 / len(second))
        )
    return Credit(
        Figure(
            name,
            change,
            kind,
            low=None if half is None else change - half,
            high=None if half is None else change + half,
            formula="mean after − mean before",
            inputs=(
                Input("mean before", float(np.mean(first)), kind, "", f"{len(first)} runs"),
                Input("mean after", float(np.mean(second)), kind, "", f"{len(second)} runs"),
                Input("runs apart by anyway", s, kind, "s", f"{freedom} degrees of freedom"),
            ),
            reason="Against how much runs differ that nothing lies between; at 95 % for all figures of a change together."
            if freedom
            else "How much runs differ anyway is not known: record two with nothing changed between them.",
        ),
        half is not None and abs(change) > half,
        change < 0.0,
        less if change < 0.0 else more,
    )


def _says(old: tuple[RanAs, ...], credits: tuple[Credit, ...], parts: frozenset[str]) -> str:
    if not old or not credits:
        return "No run before it is like the one after it: another set-point, or another start."
    if len(parts) > 1:
        return "Several things changed at once: what came of it cannot be put down to one of them."
    if all(c.figure.low is None for c in credits):
        return "One run on each side: it may be chance."
    told = [c.says for c in credits if c.is_told]
    if not told:
        return "It did nothing that can be told from how runs differ anyway."
    return f"It brought {' and '.join(told)}."
