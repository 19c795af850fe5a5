"""Which mistake of a sensor's connection explains what was seen: every one is computed and compared with the pairs."""

from dataclasses import dataclass, replace

import numpy as np
import scipy
from numpy.typing import NDArray

from ..errors import Problem, refuse_all
from ..messages import difference, span, temperature
from .mistakes import Circumstances, Mistake, mistakes
from .sensors import describe, standard_range, tolerance

FAR = 10.0
"""An explanation further off than so many times what sensor and instrument explain is none (our choice): it is not shown."""

GRID = 25
"""Values of a circumstance tried before the best is refined."""
NOWHERE_C = 1e6
"""Stands for the distance of a mistake that would show no number."""
FREE = {
    "two_wire": ("lead_ohm", 0.0, 30.0, ""),
    "three_wire": ("lead_difference_ohm", -5.0, 5.0, ""),
    "warm_terminals": ("junction_error_c", -40.0, 40.0, ""),
    "copper": ("head_c", 0.0, 150.0, "With the head at {{{:.0f} °C}}. "),
    "crossed": ("head_c", 0.0, 150.0, "With the head at {{{:.0f} °C}}. "),
    "reversed_head": ("head_c", 0.0, 150.0, "With the head at {{{:.0f} °C}}. "),
    "shorted_head": ("head_c", 0.0, 150.0, "With the head at {{{:.0f} °C}}. "),
    "reversed": ("terminals_c", 0.0, 60.0, "With the terminals at {{{:.0f} °C}}. "),
    "no_compensation": ("terminals_c", 0.0, 60.0, "With the terminals at {{{:.0f} °C}}. "),
    "shorted_terminals": ("terminals_c", 0.0, 60.0, "With the terminals at {{{:.0f} °C}}. "),
}
"""What is free in each mistake, the range found at rigs (our choice), and how it is said where the title does not."""

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Explanation:
    """A mistake against pairs of displayed and true temperature: rms residual in °C, and whether that is near enough."""

    key: str
    title: str
    residual_c: float
    fits: bool
    reason: str


def explain_pairs(
    sensor: str, at: Circumstances, pairs: tuple[tuple[float, float], ...], own_c: float
) -> tuple[Explanation, ...]:
    """Rank what could explain (displayed, true) pairs in °C, best first.

    One fits when its rms residual is within ``own_c``, what sensor and instrument may be off by themselves (°C). Where the right
    connection fits it leads: a mistake that fits as well is no better explanation. What would show no number, or one further off
    than ``FAR`` × ``own_c``, is left out; the right connection is always there. Raises ``Refused`` for no pairs or a true
    temperature that the sensor does not have.
    """
    low, high = standard_range(sensor)
    problems = [
        Problem(f"pairs[{i}]", f"{temperature(true)} is outside a {describe(sensor)}", span(low, high, "°C"))
        for i, (_, true) in enumerate(pairs)
        if not low <= true <= high
    ]
    if not pairs:
        problems.append(Problem("pairs", "none given", "at least one display with its true temperature"))
    refuse_all(problems)
    shown, true = (np.array([p[i] for p in pairs]) for i in (0, 1))
    found = [_explained(m, shown, true, own_c) for m in mistakes(sensor, at)]
    return _ranked([e for e in found if e.key == "right" or e.residual_c <= FAR * own_c])


def explain_freely(sensor: str, pairs: tuple[tuple[float, float], ...], own_c: float) -> tuple[Explanation, ...]:
    """As :func:`explain_pairs` where nobody has measured leads, head and terminals: each mistake with the circumstance that fits
    best, within what is found at rigs, and only those that fit."""
    shown, true = (np.array([p[i] for p in pairs]) for i in (0, 1))
    found = []
    for usual in mistakes(sensor, Circumstances()):
        best, said = _explained(usual, shown, true, own_c), ""
        if usual.key in FREE:
            name, low, high, told = FREE[usual.key]
            value = _best(sensor, usual.key, name, np.linspace(low, high, GRID), shown, true)
            best, said = _explained(_with(sensor, usual.key, name, value), shown, true, own_c), told.format(value)
        if best.fits:
            found.append(replace(best, reason=f"{said}{best.reason}"))
    return _ranked(found)


def _best(sensor: str, key: str, name: str, tried: Array, shown: Array, true: Array) -> float:
    """The value of a circumstance with which a mistake comes nearest to what was seen."""

    def off(value: float) -> float:
        return min(_residual(_with(sensor, key, name, value), shown, true), NOWHERE_C)

    start = min(tried, key=off)
    step = tried[1] - tried[0]
    found = scipy.optimize.minimize_scalar(
        off, bounds=(max(tried[0], start - step), min(tried[-1], start + step)), method="bounded"
    )
    return round(float(found.x if found.fun < off(start) else start), 1)


def _with(sensor: str, key: str, name: str, value: float) -> Mistake:
    at = replace(Circumstances(), **{name: value})
    return next(m for m in mistakes(sensor, at) if m.key == key)


def _residual(mistake: Mistake, shown: Array, true: Array) -> float:
    """Rms distance in °C; infinite where the mistake would show no number."""
    residual = float(np.sqrt(np.mean((mistake.display(true).celsius - shown) ** 2)))
    return residual if np.isfinite(residual) else np.inf


def _explained(mistake: Mistake, shown: Array, true: Array, own_c: float) -> Explanation:
    residual = _residual(mistake, shown, true)
    would = ", ".join(temperature(p, ".1f") for p in dict.fromkeys(mistake.display(true).celsius[:3]) if np.isfinite(p))
    reason = (
        f"It would show {would}: {difference(residual, '.1f')} from what was seen." if np.isfinite(residual) else ""
    )
    return Explanation(mistake.key, mistake.title, residual, residual <= own_c, reason)


def _ranked(found: list[Explanation]) -> tuple[Explanation, ...]:
    return tuple(sorted(found, key=lambda x: (not (x.key == "right" and x.fits), x.residual_c)))


def own_error(sensor: str, true_c: float) -> float:
    """What a new sensor and an ordinary instrument explain without any mistake, ± °C: class tolerance and 1 °C."""
    allowed = tolerance(sensor, true_c)
    return (2.5 if allowed is None else allowed) + 1.0
