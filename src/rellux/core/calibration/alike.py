"""What sensors like this one did, for one whose own record is too short: how fast such a sensor drifts, how much they differ in it, and how
often one moved by more than is allowed from one comparison to the next."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from math import sqrt

import numpy as np
import scipy
from numpy.typing import NDArray

from ..explain import Figure, Input
from ..messages import difference
from ..units import Kind
from .certified import YEAR_DAYS
from .coverage import coverage_factor
from .drift import AHEAD_DAYS, Aged, arrays
from .trend import lines

ALIKE_C = 100.0
"""Sensors of one type are alike where their working temperatures are nearer than this, °C (our choice)."""
LEAST_ALIKE = 3
"""Sensors an interval is told from (our choice: how much they differ is not known from two)."""
LEAST_APART_DAYS = 7.0
"""Comparisons nearer to each other say nothing of a drift (our choice)."""
SURE = 0.95
"""Of the lower limit of how often one moved no more."""

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Alike:
    """``sensors`` like it. ``per_year``: what the next such sensor drifts in a year, with 95.45 % either side; ``within`` of ``looked``
    times one moved by no more than is allowed from one comparison to the next; ``at_least`` of them, with 95 %. ``crosses_days``: after so
    many days one that was just compared leaves what is allowed, ``None`` where it does not within two years."""

    sensors: int
    per_year: Figure
    within: int
    looked: int
    at_least: Figure | None
    crosses_days: float | None
    says: str


def are_alike(sensor: str, working_c: float, other: str, other_c: float) -> bool:
    """Of one type, at about the same heat.

    >>> are_alike("K", 900.0, "K", 960.0), are_alike("K", 900.0, "N", 900.0)
    (True, False)
    """
    return sensor == other and abs(working_c - other_c) < ALIKE_C


def alike(
    others: Sequence[tuple[Aged, ...]], allowed_c: float | None, left_c: float = 0.0, expanded_c: float = 0.0
) -> Alike | None:
    """From the records of other sensors, each with two comparisons a week apart at least; ``None`` from fewer than three of these.
    ``left_c`` and ``expanded_c``: what the one in question is off by since its newest comparison, and U.

    Random effects by moments (DerSimonian and Laird 1986), the prediction for the next one by Student's t (Higgins, Thompson and
    Spiegelhalter 2009); both from memory."""
    records = [r for r in others if len(r) > 1 and r[-1].day - r[0].day >= LEAST_APART_DAYS]
    if len(records) < LEAST_ALIKE:
        return None
    slope, u = (np.array(v) for v in zip(*map(_slope, records), strict=True))
    mean, spread = _next_one(slope, u)
    half = coverage_factor(len(records) - 2.0) * spread
    per_year = Figure(
        "drift of the next sensor like it in a year",
        mean * YEAR_DAYS,
        Kind.DIFFERENCE,
        formula="random effects, prediction by Student’s t",
        inputs=(
            Input("sensors like it", len(records), Kind.COUNT, "k", "their records"),
            Input("spread of the next one", spread * YEAR_DAYS, Kind.DIFFERENCE, "s", "computed"),
        ),
        reason="What such sensors did on the average, and how much they differ.",
        low=(mean - half) * YEAR_DAYS,
        high=(mean + half) * YEAR_DAYS,
    )
    within, looked = _found_within(records, allowed_c)
    lower = _at_least(within, looked) if looked else None
    crosses = None if allowed_c is None else _crosses(mean, half, left_c, expanded_c, allowed_c)
    return Alike(len(records), per_year, within, looked, lower, crosses, _says(per_year, len(records), within, looked))


def _slope(record: tuple[Aged, ...]) -> tuple[float, float]:
    """°C a day, and its standard uncertainty as the comparisons have it; where they scatter more, as they do."""
    day, error, u = arrays(record)
    found = lines(day[None], error[None], u[None])
    return float(found.slope[0]), float(found.u_slope[0])


def _next_one(slope: Array, u: Array) -> tuple[float, float]:
    """The mean of all such sensors, and the standard uncertainty of the next one's drift."""
    w = 1.0 / u**2
    fixed = float(w @ slope / w.sum())
    excess = float(w @ (slope - fixed) ** 2) - (len(slope) - 1.0)
    between = max(excess / float(w.sum() - (w**2).sum() / w.sum()), 0.0)
    w = 1.0 / (u**2 + between)
    return float(w @ slope / w.sum()), sqrt(between + 1.0 / float(w.sum()))


def _found_within(records: Sequence[tuple[Aged, ...]], allowed_c: float | None) -> tuple[int, int]:
    """How often a sensor moved by no more than is allowed from one comparison to the next, and how often one was looked at."""
    if allowed_c is None:
        return 0, 0
    moved = [abs(b.error_c - a.error_c) for r in records for a, b in pairwise(r)]
    return sum(m <= allowed_c for m in moved), len(moved)


def _at_least(within: int, looked: int) -> Figure:
    """The lower limit of a share (Clopper and Pearson 1934)."""
    share = float(scipy.special.betaincinv(within, looked - within + 1, 1.0 - SURE)) if within else 0.0
    return Figure(
        "moved by no more than is allowed, at least",
        100.0 * share,
        Kind.PERCENT,
        formula="binomial, one-sided",
        inputs=(
            Input("moved no more", within, Kind.COUNT, "", "their records"),
            Input("looked at", looked, Kind.COUNT, "", "their records"),
        ),
        reason="How often a sensor like it surely moves by no more than is allowed from one comparison to the next.",
        source="Clopper and Pearson (1934)",
    )


def _crosses(mean: float, half: float, left_c: float, expanded_c: float, allowed_c: float) -> float | None:
    ahead = np.arange(0.0, AHEAD_DAYS + 1.0)
    beyond = np.abs(left_c + mean * ahead) + np.hypot(expanded_c, half * ahead) > allowed_c
    return float(ahead[int(np.argmax(beyond))]) if bool(beyond.any()) else None


def _says(per_year: Figure, sensors: int, within: int, looked: int) -> str:
    assert per_year.low is not None and per_year.high is not None
    half = difference((per_year.high - per_year.low) / 2.0, ".2g")
    found = (
        f" From one comparison to the next, {within} of {looked} moved by no more than is allowed." if looked else ""
    )
    return (
        f"{sensors} sensors like it let expect a drift of {difference(per_year.value, '+.2g')} ± {half} a year.{found}"
    )
