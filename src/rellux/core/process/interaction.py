"""Zones that heat one another: what each must give, and how strongly one loop feels the others. Gains as a matrix, ``K[i, j]`` °C of zone
``i`` for each % of heater ``j``.
"""

from itertools import permutations

import numpy as np

from ..control.settings import FULL_OUTPUT
from ..errors import refuse
from .networks import Array

SINGULAR = 60.0
"""Condition number from which zones that are moved differently cannot be told from errors of a few percent (our choice)."""


def check_apart(gains: Array) -> None:
    """Raise ``Refused`` for zones that all heaters move alike: no outputs hold them at temperatures of their own.
    ``gains`` in °C/%, shape (n, n).
    """
    scaled = gains / np.maximum(np.abs(gains).max(axis=1, keepdims=True), 1e-12)
    if not np.isfinite(gains).all() or np.linalg.cond(scaled) > SINGULAR:
        raise refuse(
            "zones", "every heater moves them all alike: they are one zone", "rises that differ from zone to zone"
        )


def relative_gains(gains: Array) -> Array:
    """(n, n) relative gain array ``K ∘ (K⁻¹)ᵀ``: the gain from heater ``j`` to zone ``i`` with the other heaters left alone, over that with
    the other zones held. Rows and columns sum to 1. Source: Bristol 1966; the column of Wood and Berry (1973) gives 2.01 (from memory).

    >>> np.round(relative_gains(np.array([[12.8, -18.9], [6.6, -19.4]])), 2).tolist()
    [[2.01, -1.01], [-1.01, 2.01]]
    """
    check_apart(gains)
    return np.asarray(gains * np.linalg.inv(gains).T)


def holding_outputs(gains: Array, rises_c: Array) -> Array:
    """(n,) outputs in % that hold the zones so far above the room; below 0 or above 100 there are none.

    >>> np.round(holding_outputs(np.array([[3.0, 1.0], [1.0, 3.0]]), np.array([200.0, 120.0])), 6).tolist()
    [60.0, 20.0]
    """
    check_apart(gains)
    return np.asarray(np.linalg.solve(gains, rises_c))


def kept_at_c(gains: Array, rises_c: Array, zone: int) -> float:
    """How far above the room a zone stays with its own heater off and the others holding theirs as far as they can, °C."""
    others = [i for i in range(len(gains)) if i != zone]
    outputs = np.linalg.lstsq(gains[np.ix_(others, others)], rises_c[others], rcond=None)[0]
    return float(gains[zone, others] @ np.clip(outputs, 0.0, FULL_OUTPUT))


def better_paired(gains: Array) -> tuple[int, ...] | None:
    """Which heater each zone is moved by most, where that is another order than their own: the one whose product of gains is largest.
    ``None`` where it is their own."""
    own = tuple(range(len(gains)))
    best = max(permutations(own), key=lambda order: float(np.prod([gains[i, j] for i, j in enumerate(order)])))
    return best if best != own else None  # of equals it is their own, which comes first
