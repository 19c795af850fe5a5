"""How wide an interval must be to hold the truth at one level, 95.45 %: Student's t, and Monte Carlo where no normal law fits."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from math import inf, isinf, sqrt

import numpy as np
import scipy

from ..errors import refuse

LEVEL = 0.9545
"""Coverage of every uncertainty here: two standard deviations of a normal distribution (JCGM 100:2008, G.1.3)."""
DRAWS, SEED = 100_000, 20
"""Monte Carlo draws, and where they begin: the same answer every time."""


class Law(StrEnum):
    """How an unknown is spread: a normal or Student distribution, or evenly between two ends."""

    NORMAL = "normal"
    RECTANGULAR = "rectangular"


@dataclass(frozen=True)
class Spread:
    """One input: standard uncertainty in °C, degrees of freedom (``inf``: known as such), and its law."""

    u_c: float
    freedom: float = inf
    law: Law = Law.NORMAL


def coverage_factor(degrees_of_freedom: float) -> float:
    """Student's t for 95.45 %: 4.53 for 2 degrees of freedom, 2.65 for 5, towards 2 for many (GUM table G.2).
    Raises ``Refused`` for none.
    """
    if not degrees_of_freedom > 0:
        raise refuse("degrees_of_freedom", "must be more than zero", "> 0")
    if isinf(degrees_of_freedom):
        return float(scipy.special.ndtri(0.5 + LEVEL / 2))
    return float(scipy.special.stdtrit(degrees_of_freedom, 0.5 + LEVEL / 2))


def effective_freedom(inputs: Sequence[Spread]) -> float:
    """Degrees of freedom of the combined uncertainty (Welch–Satterthwaite; JCGM 100:2008, equation G.2b); ``inf`` where nothing was
    estimated from readings."""
    combined = sum(i.u_c**2 for i in inputs)
    estimated = sum(i.u_c**4 / i.freedom for i in inputs)
    return combined**2 / estimated if estimated > 0 else inf


def sampled(inputs: Sequence[Spread]) -> float:
    """Half-width in °C of the interval round zero that holds 95.45 % of the sum of ``inputs``, by Monte Carlo (JCGM 101:2008, 6.4: a
    Student law for what was estimated from readings, scaled by its u)."""
    random = np.random.default_rng(SEED)
    total = np.zeros(DRAWS)
    for i in inputs:
        if i.law is Law.RECTANGULAR:
            total += random.uniform(-1.0, 1.0, DRAWS) * i.u_c * sqrt(3.0)
        elif isinf(i.freedom):
            total += random.standard_normal(DRAWS) * i.u_c
        else:
            total += random.standard_t(i.freedom, DRAWS) * i.u_c
    return float(np.quantile(np.abs(total), LEVEL))
