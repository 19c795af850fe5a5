"""Comparisons near one temperature each, as they serve to correct at several: free of what was in force, with what is known of them."""

from dataclasses import dataclass
from math import hypot, sqrt

import numpy as np

from ..errors import refuse
from .due import CLOSE_C
from .offsets import KnownBefore, OffsetRule, Pair, work_out
from .schools import SAYS, OffsetSchool


@dataclass(frozen=True)
class Level:
    """A comparison near one temperature: its pairs without any correction, °C; the standard uncertainty of how they repeat and of the
    rest, the expanded one; ``day`` it was taken, ``named`` so."""

    named: str
    day: float
    raw_c: tuple[float, ...]
    reference_c: tuple[float, ...]
    repeats_u_c: float
    common_u_c: float
    expanded_c: float
    reference_u_c: float

    @property
    def raw_mean_c(self) -> float:
        return float(np.mean(self.raw_c))

    @property
    def reference_mean_c(self) -> float:
        return float(np.mean(self.reference_c))

    @property
    def add_c(self) -> float:
        """What has to be added there, °C."""
        return self.reference_mean_c - self.raw_mean_c

    @property
    def u_c(self) -> float:
        """Combined standard uncertainty, °C."""
        return hypot(self.repeats_u_c, self.common_u_c)


def temperatures(pairs: tuple[Pair, ...]) -> tuple[tuple[Pair, ...], ...]:
    """The pairs of one comparison by the temperature they were taken at, coolest first: more than 10 °C apart is another one."""
    found: list[list[Pair]] = []
    for pair in sorted(pairs, key=lambda p: p.reference_c):
        if found and pair.reference_c - found[-1][-1].reference_c <= CLOSE_C:
            found[-1].append(pair)
        else:
            found.append([pair])
    return tuple(tuple(group) for group in found)


def level_of(
    named: str, day: float, pairs: tuple[Pair, ...], rule: OffsetRule, sensor: str, known: KnownBefore
) -> Level:
    """Pairs near one temperature, worked out as the comparison they are of. Raises ``Refused`` for a control that adjusts what it
    delivers: it has one number only."""
    if rule.school is OffsetSchool.TEMPERATURE_ADJUST:
        raise refuse(
            "correcting",
            "a number that makes the load hotter or cooler is one number, at one temperature",
            SAYS[OffsetSchool.ADDED_TO_READING],
        )
    belief = work_out(pairs, rule, sensor, known).belief
    repeat = next((t.u.value for t in belief.terms if t.key == "repeats"), 0.0)
    return Level(
        named,
        day,
        tuple(p.display_c - rule.adds_now_c(p.display_c) for p in pairs),
        tuple(p.reference_c + rule.added_c for p in pairs),
        repeat,
        sqrt(max(belief.combined.value**2 - repeat**2, 0.0)),
        belief.expanded.value,
        rule.reference_u_c,
    )
