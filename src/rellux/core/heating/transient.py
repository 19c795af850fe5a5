"""Heating a layered chamber up, holding it and letting it cool: one-dimensional conduction with the wall's own heat.

The chamber's contents and its inner face share one temperature; the wall is cut into slices, each with its conductivity at
its own temperature, stepped by the backward Euler method (stable for any step; first order in time). The step follows the
speed of the chamber: at most :data:`MOVE_K` a step. Contents that warm slower than the wall make the real chamber a
little quicker and its load slower than this.
"""

from dataclasses import dataclass, field
from enum import Enum
from functools import lru_cache

import numpy as np
import scipy
from numpy.typing import NDArray

from ..errors import refuse
from .fluids import AIR_J_M3_K
from .walls import Chamber, check_chamber, steady

SLICES = 14
MOVE_K = 3.0
SHORTEST_S, LONGEST_S = 0.5, 240.0
NEVER_S = 5 * 86400.0
HIGHEST_C = 1900.0


class HeaterUse(Enum):
    """What the heater does."""

    FULL = "full"
    HOLD = "hold"
    OFF = "off"


@dataclass(frozen=True)
class Contents:
    """What is in the chamber: mass in kg, specific heat in J/kg·K. Shelves and trays count."""

    mass_kg: float = 0.0
    specific_heat: float = 900.0


@dataclass(frozen=True)
class Course:
    """Samples of a heat-up, hold or cool-down: s, °C, W, °C outside."""

    time_s: NDArray[np.float64]
    chamber_c: NDArray[np.float64]
    power_w: NDArray[np.float64]
    outside_c: NDArray[np.float64]

    @property
    def energy_j(self) -> float:
        """Energy put in."""
        return float(np.sum(self.power_w[1:] * np.diff(self.time_s)))


@dataclass
class WallState:
    """The chamber in time. ``advance`` moves it on; nothing else changes it."""

    chamber: Chamber
    contents: Contents
    ambient_c: float
    chamber_c: float = field(init=False)
    slice_c: NDArray[np.float64] = field(init=False)
    time_s: float = field(init=False, default=0.0)

    def __post_init__(self) -> None:
        check_chamber(self.chamber)
        edges = [0.0]
        for layer in self.chamber.layers:
            edges += list(edges[-1] + layer.thickness_m * np.arange(1, SLICES + 1) / SLICES)
        x = np.array(edges)
        self._width = np.diff(x)
        middle = (x[1:] + x[:-1]) / 2.0
        self._inner = self.chamber.area((x[:-1] + middle) / 2.0) / (self._width / 2.0)
        self._outer = self.chamber.area((x[1:] + middle) / 2.0) / (self._width / 2.0)
        heat = [layer.of.density * layer.of.specific_heat for layer in self.chamber.layers]
        self._capacity = np.repeat(heat, SLICES) * self.chamber.area(middle) * self._width
        air = AIR_J_M3_K * self.chamber.width_m * self.chamber.height_m * self.chamber.depth_m
        self._content = self.contents.mass_kg * self.contents.specific_heat + air
        self._bridge = _bridges(self.chamber, self.ambient_c)
        self.chamber_c = self.ambient_c
        self.slice_c = np.full(len(self._width), self.ambient_c)
        self.outside_c = self.ambient_c

    def advance(self, mode: HeaterUse, power_w: float, step_s: float) -> float:
        """One step; returns the power in W that went in (for ``HOLD`` what holding took, never more than ``power_w``)."""
        if mode is HeaterUse.HOLD:
            celsius, slices = self._solve(step_s, 0.0, self.chamber_c)
            needed = self._flow_in(slices) + self._losses(self.chamber_c)
            if needed <= power_w:
                self._take(self.chamber_c, slices, step_s)
                return max(needed, 0.0)
        given = 0.0 if mode is HeaterUse.OFF else power_w
        celsius, slices = self._solve(step_s, given, None)
        self._take(celsius, slices, step_s)
        return given

    def _take(self, celsius: float, slices: NDArray[np.float64], step_s: float) -> None:
        self.chamber_c, self.slice_c = celsius, slices
        self.time_s += step_s
        conductance, half = self._outside()
        self.outside_c = float((half * slices[-1] + conductance * self.ambient_c) / (half + conductance))

    def _solve(self, step_s: float, power_w: float, held_c: float | None) -> tuple[float, NDArray[np.float64]]:
        k = np.empty(len(self.slice_c))
        for i, layer in enumerate(self.chamber.layers):
            here = slice(i * SLICES, (i + 1) * SLICES)
            k[here] = layer.of.k(self.slice_c[here])
        inner, outer = k * self._inner, k * self._outer
        between = 1.0 / (1.0 / outer[:-1] + 1.0 / inner[1:])
        film, half = self._outside()
        leaving = 1.0 / (1.0 / half + 1.0 / film)
        store = self._capacity / step_s
        main = np.empty(len(store) + 1)
        main[1:] = store
        main[1] += inner[0]
        main[2:] += between
        main[1:-1] += between
        main[-1] += leaving
        known = np.empty(len(main))
        known[1:] = store * self.slice_c
        known[-1] += leaving * self.ambient_c
        above, below = np.empty(len(store)), np.empty(len(store))
        above[0] = below[0] = -inner[0]
        above[1:] = below[1:] = -between
        if held_c is None:
            loose = self._losses(self.chamber_c) / max(self.chamber_c - self.ambient_c, 1e-3)
            main[0] = self._content / step_s + inner[0] + loose
            known[0] = self._content / step_s * self.chamber_c + power_w + loose * self.ambient_c
        else:
            main[0], above[0], known[0] = 1.0, 0.0, held_c
        solved = scipy.linalg.lapack.dgtsv(below, main, above, known)[3]
        self._entering = inner[0]
        return float(solved[0]), solved[1:]

    @property
    def stored_j(self) -> float:
        """Heat in contents and wall above the room, J."""
        wall = float(np.sum(self._capacity * (self.slice_c - self.ambient_c)))
        return wall + self._content * (self.chamber_c - self.ambient_c)

    def _flow_in(self, slices: NDArray[np.float64]) -> float:
        return float(self._entering * (self.chamber_c - slices[0]))

    def _outside(self) -> tuple[float, float]:
        """Conductance in W/K from the outside to the room, and from the last slice's middle to the outside."""
        surface = max(self.outside_c, self.ambient_c + 0.5)
        film = self.chamber.surface_loss(surface, self.ambient_c) / (surface - self.ambient_c)
        return film, float(self.chamber.layers[-1].of.k(self.slice_c[-1]) * self._outer[-1])

    def _losses(self, celsius: float) -> float:
        """Heat in W past the wall: bridges and the opening."""
        bridges = float(np.interp(celsius, *self._bridge)) if celsius > self.ambient_c else 0.0
        return bridges + self.chamber.opening_loss(celsius, self.ambient_c)


@lru_cache(maxsize=32)
def _bridges(chamber: Chamber, ambient_c: float) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """What bridges lose at rest, in W against °C; the same for every firing of a chamber."""
    at = ambient_c + np.array([1.0, 100.0, 400.0, 900.0, 1400.0])
    return at, np.array([steady(chamber, float(t), ambient_c).bridges_w for t in at])


def run(state: WallState, mode: HeaterUse, power_w: float, until_c: float | None, length_s: float = NEVER_S) -> Course:
    """Advance ``state`` until the chamber has passed ``until_c`` or ``length_s`` has gone by, with steps that follow it."""
    start, step = state.time_s, SHORTEST_S
    rows = [(0.0, state.chamber_c, 0.0, state.outside_c)]
    while (left := length_s - (state.time_s - start)) > 1e-6:
        before = state.chamber_c
        step = min(step, left)
        taken = state.advance(mode, power_w, step)
        rows.append((state.time_s - start, state.chamber_c, taken, state.outside_c))
        moved = abs(state.chamber_c - before)
        if until_c is not None and (state.chamber_c - until_c) * (before - until_c) <= 0:
            break
        if len(rows) > 60 and moved / step < 1e-5 and mode is not HeaterUse.HOLD:
            break  # at rest: it will get no further
        step = float(np.clip(step * np.clip(MOVE_K / max(moved, 1e-6), 0.5, 1.5), SHORTEST_S, LONGEST_S))
    return Course(*(np.array(column) for column in zip(*rows, strict=True)))


def reachable(chamber: Chamber, power_w: float, ambient_c: float) -> float:
    """Temperature in °C at which the steady loss equals the heater's power; at most :data:`HIGHEST_C`.
    Raises ``Refused`` for no power.
    """
    if power_w <= 0:
        raise refuse("power_w", "must be more than zero", "> 0 W")

    def spare(celsius: float) -> float:
        return power_w - steady(chamber, celsius, ambient_c).loss_w

    if spare(HIGHEST_C) > 0:
        return HIGHEST_C
    return float(scipy.optimize.brentq(spare, ambient_c + 0.01, HIGHEST_C, xtol=0.05))


@dataclass(frozen=True)
class Capability:
    """Rates in K/s against temperature in °C: the fastest ramp from cold at full power, and cooling by itself."""

    up_c: NDArray[np.float64]
    up: NDArray[np.float64]
    down_c: NDArray[np.float64]
    down: NDArray[np.float64]
    reachable_c: float
    heat_up: Course
    hold: Course
    cooling: Course
    stored_j: float


def capability(
    chamber: Chamber, contents: Contents, power_w: float, ambient_c: float, target_c: float, soak_s: float
) -> Capability:
    """Heat up from cold at full power, hold, cool by itself. ``target_c`` beyond reach stops where it gets to."""
    end = reachable(chamber, power_w, ambient_c)
    state = WallState(chamber, contents, ambient_c)
    heat_up = run(state, HeaterUse.FULL, power_w, min(target_c, end - 1.0))
    hold = run(state, HeaterUse.HOLD, power_w, None, soak_s)
    stored = state.stored_j
    cooling = run(state, HeaterUse.OFF, 0.0, ambient_c + 0.08 * (state.chamber_c - ambient_c))
    up_c, up = _rates(heat_up)
    down_c, down = _rates(cooling)
    return Capability(up_c, up, down_c, -down, end, heat_up, hold, cooling, stored)


def _rates(course: Course) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Rate of change against temperature, on some sixty even temperatures."""
    rate = np.diff(course.chamber_c) / np.diff(course.time_s)
    middle = (course.chamber_c[1:] + course.chamber_c[:-1]) / 2.0
    order = np.argsort(middle)
    grid = np.linspace(middle.min(), middle.max(), 60)
    return grid, np.interp(grid, middle[order], rate[order])
