"""How the process changes with temperature, from records at several of them; and whether settings that follow it pay.

A hot rig loses more for each degree (radiation), so its gain falls; what it takes to heat up hardly changes, so the rate does less. The
proportional band that suits goes with K/τ, the integral time with τ (Skogestad 2003). The line is the weighted least squares through the
gains; that they differ at all is judged by χ² at 5 %.
"""

from dataclasses import dataclass

import numpy as np
import scipy

from ..messages import difference, span, temperature

LEAST_APART_C = 15.0
"""Records nearer to one another than this are of one temperature, °C (our choice)."""
CHANCE = 0.05
PAYS = 1.5
"""From how many times the smaller gain the larger one makes a schedule worth its trouble (our choice)."""
SURE = 1.96


@dataclass(frozen=True)
class At:
    """What was found round one temperature: gain in °C/% and rate K/τ in °C/s per %, each with the ends of its 95 % interval."""

    celsius: float
    gain: tuple[float, float, float]
    rate: tuple[float, float, float]


@dataclass(frozen=True)
class OverTemperature:
    """``line_c``/``line``: the gain along a straight line, °C and °C/%. ``differs``: by more than chance; ``pays``: a schedule is worth it.
    ``bands``: at each temperature how many times the band of the first suits there."""

    points: tuple[At, ...]
    differs: bool
    pays: bool
    line_c: tuple[float, float]
    line: tuple[float, float]
    bands: tuple[float, ...]
    says: str


def ended_at_c(measured_c: list[float]) -> float:
    """Round which temperature a record told its gain, °C: where it ended, by the middle of its last third."""
    return float(np.median(measured_c[-max(len(measured_c) // 3, 1) :]))


def over_temperature(found: list[At]) -> OverTemperature | None:
    """``None`` where the records are not of two temperatures."""
    points = _apart(sorted(found, key=lambda p: p.celsius))
    if len(points) < 2:
        return None
    t, k = (np.array([v for v in values]) for values in (([p.celsius for p in points]), ([p.gain[1] for p in points])))
    sd = np.array([max(p.gain[2] - p.gain[0], 1e-9 * p.gain[1]) / (2.0 * SURE) for p in points])
    weight = sd**-2.0
    mean = float(np.sum(weight * k) / np.sum(weight))
    chi2 = float(np.sum(weight * (k - mean) ** 2))
    differs = float(scipy.special.chdtrc(len(points) - 1, chi2)) < CHANCE
    slope, level = np.polyfit(t, k, 1, w=1.0 / sd)
    ends = float(t[0]), float(t[-1])
    line = float(level + slope * ends[0]), float(level + slope * ends[1])
    ratio = max(line) / max(min(line), 1e-9)
    bands = tuple(p.rate[1] / points[0].rate[1] for p in points)
    pays = differs and ratio >= PAYS
    return OverTemperature(tuple(points), differs, pays, ends, line, bands, _says(points, differs, pays, ratio))


def _apart(points: list[At]) -> list[At]:
    """Of records near to one another the best known."""
    kept: list[At] = []
    for p in points:
        if kept and p.celsius - kept[-1].celsius < LEAST_APART_C:
            if _width(p) < _width(kept[-1]):
                kept[-1] = p
        else:
            kept.append(p)
    return kept


def _width(p: At) -> float:
    return (p.gain[2] - p.gain[0]) / p.gain[1]


def _says(points: list[At], differs: bool, pays: bool, ratio: float) -> str:
    where = span(points[0].celsius, points[-1].celsius, "°C", ".0f")
    if not differs:
        return f"Over {where} the gain is the same as far as the records tell."
    less = "falls" if points[-1].gain[1] < points[0].gain[1] else "grows"
    said = f"Over {where} the gain {less}, {ratio:.2g} times from end to end. "
    if not pays:
        return said + "One set of values does: take those found near the temperature where it works."
    between = temperature((points[0].celsius + points[-1].celsius) / 2.0, ".0f")
    return said + (
        f"Two sets of values pay, one for below and one for above {between}; with one set, the wider band is the safe one. A record every "
        f"{difference(100)} or so tells more."
    )
