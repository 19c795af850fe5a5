"""An unknown lining from a log of a heat-up and the cool-down after it: its conductivity and the heat it stores.

The lining is taken as one layer with constant properties, cut into slices and stepped by the backward Euler method; inside
it the contents share the temperature of its inner face, outside a film carries the heat to the room. Conductivity k and
heat capacity per volume ρc are found by least squares on the log (Levenberg–Marquardt on their logarithms).
A heat-up alone tells little more than the product k ρc: early in it a wall is as good as infinitely thick and its face rises
by ``2 q √(t/(π k ρc))`` (Carslaw & Jaeger, Conduction of Heat in Solids, 1959, §2.9). The end of the heat-up and the cool-down
tell them apart; the standard errors say how well.
"""

from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from ..errors import refuse
from ..messages import difference
from .fluids import AIR_J_M3_K
from .transient import Contents
from .walls import Chamber

LEAST_ROWS, LEAST_RISE_C = 4, 20.0
"""Rows of a log, and rise above the room in °C, that can tell a lining (our choice: two unknowns and their errors)."""

MOST_MISS_C, MOST_MISS = 3.0, 0.05
"""A fit that misses the log by more, °C rms or share of its rise, is none (our choice: properties change that much with
temperature)."""
AT_END = 1.02

Array = NDArray[np.float64]

SLICES = 20
STEPS = 500
OUTSIDE_W_M2K = 10.0
"""Film from the outer face to the room (8–12 W/m²K, common practice)."""
K_RANGE = (0.01, 5.0)
RHO_C_RANGE = (1e4, 5e6)


@dataclass(frozen=True)
class Log:
    """A run at full power until ``off_s``, then without: times in s from the start, temperatures in °C inside."""

    time_s: Array
    inside_c: Array
    power_w: float
    off_s: float
    ambient_c: float


@dataclass(frozen=True)
class Lining:
    """Conductivity in W/m·K and heat capacity in J/m³K with their relative standard errors; rms of what is left in °C."""

    conductivity: float
    heat_capacity: float
    conductivity_error: float
    heat_capacity_error: float
    rms_c: float
    fitted_c: Array


def course(chamber: Chamber, contents: Contents, log: Log, conductivity: float, heat_capacity: float) -> Array:
    """Inside temperatures in °C at the log's times for a lining of these properties, of the chamber's whole thickness."""
    thickness = sum(layer.thickness_m for layer in chamber.layers)
    edges = np.linspace(0.0, thickness, SLICES + 1)
    middle = (edges[1:] + edges[:-1]) / 2.0
    width = thickness / SLICES
    store = np.concatenate(([_contents(chamber, contents)], heat_capacity * chamber.area(middle) * width))
    between = np.concatenate(
        (
            [2.0 * conductivity * float(chamber.area(width / 4.0)) / width],
            conductivity * chamber.area(edges[1:-1]) / width,
        )
    )
    out = 1.0 / (
        width / (2.0 * conductivity * float(chamber.area(thickness)))
        + 1.0 / (OUTSIDE_W_M2K * float(chamber.area(thickness)))
    )
    flows = np.diag(np.concatenate((between, [out]))) + np.diag(np.concatenate(([0.0], between)))
    flows -= np.diag(between, 1) + np.diag(between, -1)
    step = float(log.time_s[-1]) / STEPS
    onward = np.linalg.inv(np.diag(store) + step * flows)
    carried, warmed = onward * store, onward[:, 0] * step * log.power_w
    above = np.zeros(SLICES + 1)
    found = np.empty(STEPS + 1)
    found[0] = 0.0
    for i in range(1, STEPS + 1):
        heated = min(max((log.off_s - (i - 1) * step) / step, 0.0), 1.0)
        above = carried @ above + heated * warmed
        found[i] = above[0]
    return np.asarray(log.ambient_c + np.interp(log.time_s, np.arange(STEPS + 1) * step, found))


def _contents(chamber: Chamber, contents: Contents) -> float:
    air = AIR_J_M3_K * chamber.width_m * chamber.height_m * chamber.depth_m
    return contents.mass_kg * contents.specific_heat + air


def estimate(chamber: Chamber, contents: Contents, log: Log) -> Lining:
    """The lining that follows the log best. Raises ``Refused`` for a log too short or not rising."""
    if len(log.time_s) < LEAST_ROWS:
        raise refuse("log", f"{len(log.time_s)} readings", "at least four")
    if not bool(np.all(np.diff(log.time_s) > 0)):
        raise refuse("log", "the times do not rise from reading to reading", "minutes in order, each once")
    if float(log.inside_c.max()) < log.ambient_c + LEAST_RISE_C:
        raise refuse("log", "it hardly rises above the room", "a heat-up of at least {20 Δ°C}")

    def missed(logs: Array) -> Array:
        k, rho_c = np.exp(logs)
        return course(chamber, contents, log, float(k), float(rho_c)) - log.inside_c

    bounds = np.log(np.array([K_RANGE, RHO_C_RANGE])).T
    starts = [np.log([k, rho_c]) for k in (0.06, 0.3) for rho_c in (1e5, 8e5)]
    best = min(
        (scipy.optimize.least_squares(missed, s, bounds=bounds, x_scale=0.5) for s in starts),
        key=lambda r: float(r.cost),
    )
    freedom = max(len(log.time_s) - 2, 1)
    noise = max(2.0 * float(best.cost) / freedom, 0.25)  # nobody reads better than half a degree
    spread = np.sqrt(np.diag(np.linalg.pinv(best.jac.T @ best.jac)) * noise)
    k, rho_c = (float(v) for v in np.exp(best.x))
    rms = float(np.sqrt(np.mean(best.fun**2)))
    rise = float(log.inside_c.max()) - log.ambient_c
    if rms > max(MOST_MISS_C, MOST_MISS * rise):
        raise refuse(
            "log",
            f"no lining of this size follows it: the best misses it by {difference(rms, '.0f')}",
            "the power while on, the minute of switching off and the sizes as they were; no door opened",
        )
    edge = [
        name
        for name, value, ends in (("conducts", k, K_RANGE), ("stores", rho_c, RHO_C_RANGE))
        if at_an_end(value, ends)
    ]
    if edge:
        raise refuse(
            "log", f"it {' and '.join(edge)} more or less than any lining does", "power, sizes and times as they were"
        )
    return Lining(k, rho_c, float(spread[0]), float(spread[1]), rms, log.inside_c + best.fun)


def at_an_end(value: float, ends: tuple[float, float]) -> bool:
    """A fit that stopped at the end of what was searched found nothing."""
    return value < ends[0] * AT_END or value > ends[1] / AT_END
