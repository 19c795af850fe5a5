"""Searching a fit: the linear parameters, the dead time on its jagged cost, and the ends of an interval."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

MANY, LONGEST_DEAD, CYCLES_AWAY = 0.05, 0.4, 6
"""The share of a stretch below which a cycle is short; the longest dead time looked for, as a share of it; and by how many cycles a
dead time may be taken wrongly before it is looked for again."""

Array = NDArray[np.float64]


def solve(columns: Array, y: Array, known: Array, expected: Array, free: int) -> Array:
    """The linear parameters that fit best, the first ``free`` of them; the others are zero."""
    x, n = columns[:free], free
    normal = x @ x.T + known[:n, :n]
    normal.flat[:: n + 1] += 1e-12 * np.trace(
        normal
    )  # a column may be nothing at all, as f is before the delay has passed
    solved = np.zeros(len(columns))
    solved[:n] = np.linalg.solve(normal, x @ y + known[:n, :n] @ expected[:n])
    return solved


def best_dead_time(cost: Callable[[float], float], span_s: float, cycle_s: float) -> float:
    """Grid, then finer grids round the best. Dense at short delays; a log of pulses repeats its minimum every cycle, so the delays
    some cycles away from the best are tried too."""
    grid = LONGEST_DEAD * span_s * np.linspace(0.0, 1.0, 41) ** 2
    _, best = _refined(cost, grid, int(np.argmin([cost(float(d)) for d in grid])), span_s)
    if 0.0 < cycle_s < MANY * span_s:
        others = best + cycle_s * np.arange(-CYCLES_AWAY, CYCLES_AWAY + 1)
        others = others[(others >= 0.0) & (others < LONGEST_DEAD * span_s)]
        costs = [cost(float(d)) for d in others]
        i = int(np.argmin(costs))
        near = np.linspace(max(others[i] - 0.4 * cycle_s, 0.0), others[i] + 0.4 * cycle_s, 9)
        best = min(_refined(cost, near, int(np.argmin([cost(float(d)) for d in near])), span_s), (cost(best), best))[1]
    return best


def _refined(cost: Callable[[float], float], grid: Array, i: int, span_s: float) -> tuple[float, float]:
    """(cost, dead time) at the bottom of the valley round ``grid[i]``."""
    while True:
        low, high = float(grid[max(i - 1, 0)]), float(grid[min(i + 1, len(grid) - 1)])
        if high - low < 2e-4 * span_s:
            return cost(float(grid[i])), float(grid[i])
        grid = np.linspace(low, high, 9)
        i = int(np.argmin([cost(float(d)) for d in grid]))


def interval_of(excess: Callable[[float], float], best: float, lowest: float, highest: float) -> tuple[float, float]:
    """Where ``excess`` (negative inside) changes sign on either side of ``best``."""

    def side(end: float) -> float:
        step, inside = (end - best) / 256.0, best
        for _ in range(9):
            outside = best + step
            if excess(outside) > 0:
                break
            inside, step = outside, step * 2.0
        else:
            return end
        for _ in range(14):
            middle = 0.5 * (inside + outside)
            if excess(middle) > 0:
                outside = middle
            else:
                inside = middle
        return 0.5 * (inside + outside)

    return side(lowest), side(highest)


def effective_points(residual: Array) -> float:
    """How many independent points a residual is worth: ``n (1 − ρ)/(1 + ρ)``, ρ its correlation from row to row, never below 8."""
    n = len(residual)
    power = float(residual @ residual)
    if power < 1e-12:
        return float(n)
    rho = float(residual[:-1] @ residual[1:]) / power
    rho = min(max(rho, 0.0), 0.99)
    return max(n * (1.0 - rho) / (1.0 + rho), 8.0)
