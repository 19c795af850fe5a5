"""What repeated pairs say of how well they repeat: Type A evaluation (JCGM 100:2008, 4.2), with readings that hang together and with
what earlier comparisons of the same instruments showed."""

from dataclasses import dataclass
from math import sqrt

import numpy as np
import scipy
from numpy.typing import NDArray

from ..errors import refuse

Array = NDArray[np.float64]

UNRECOVERED = 0.8
"""Correlation of readings taken one right after the other, without letting the probe recover (our choice: a probe moves on by a fifth
of its lag)."""
MOST_CORRELATED = 0.99
"""Correlation beyond which readings are one and the same (our choice)."""
UNLIKE = 0.01
"""Probability below which these pairs scatter more than the earlier ones can explain: then only their own scatter counts (our choice)."""


@dataclass(frozen=True)
class Pooled:
    """Scatter of single pairs in earlier comparisons, °C, and its degrees of freedom."""

    s_c: float
    freedom: float


@dataclass(frozen=True)
class Repeats:
    """``n`` pairs with standard deviation ``s_c`` of one; standard uncertainty of their mean, °C, with its degrees of freedom;
    ``worth``: how many independent pairs they are worth; ``from_before``: earlier ones were used. ``freedom`` 0: nothing is known."""

    n: int
    s_c: float
    u_c: float
    freedom: float
    worth: float
    from_before: bool


def pooled(scatters: list[tuple[int, float]]) -> Pooled | None:
    """From (pairs, standard deviation in °C) of each earlier comparison; ``None`` where no two pairs were ever taken
    (JCGM 100:2008, H.3.6: variances weighted by their degrees of freedom)."""
    freedom = sum(n - 1 for n, _ in scatters if n > 1)
    if not freedom:
        return None
    return Pooled(sqrt(sum((n - 1) * s**2 for n, s in scatters if n > 1) / freedom), float(freedom))


def repeats(deviations_c: Array, correlation: float = 0.0, before: Pooled | None = None) -> Repeats:
    """Of shape (n,). ``correlation``: of one pair with the next (0: independent), falling off by as much with every further one.

    With correlated readings s²/n is too small twice: the mean varies more, and the readings scatter less around it. Both are undone
    exactly for a first-order process; degrees of freedom by the first two moments of the quadratic form. Raises ``Refused`` for no
    readings and a correlation outside 0…0.99."""
    n = len(deviations_c)
    if n < 1:
        raise refuse("pairs", "none given", "at least one")
    if not 0 <= correlation <= MOST_CORRELATED:
        raise refuse("correlation", "is none of readings that follow each other", "0…0.99")
    alike = correlation ** np.abs(np.subtract.outer(np.arange(n), np.arange(n)))
    mean_share = float(alike.mean())  # variance of the mean, in variances of one
    seen = float(np.std(deviations_c, ddof=1)) if n > 1 else 0.0
    if n == 1:
        s, freedom = 0.0, 0.0
    else:
        around = np.eye(n) - 1.0 / n
        kept = around @ alike
        expected = float(np.trace(kept)) / (n - 1)  # of s², in variances of one
        s = seen / sqrt(expected)
        freedom = float(np.trace(kept)) ** 2 / float(np.sum(kept * kept.T))
    used = False
    if before is not None and (freedom == 0 or not _unlike(s, freedom, before)):
        s = sqrt((freedom * s**2 + before.freedom * before.s_c**2) / (freedom + before.freedom))
        freedom, used = freedom + before.freedom, True
    return Repeats(n, s, s * sqrt(mean_share), freedom, 1.0 / mean_share, used)


def _unlike(s: float, freedom: float, before: Pooled) -> bool:
    """Whether these scatter more than before (F test)."""
    if before.s_c <= 0:
        return s > 0
    return float(scipy.special.fdtrc(freedom, before.freedom, (s / before.s_c) ** 2)) < UNLIKE
