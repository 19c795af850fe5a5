"""Layered walls of a box-shaped chamber: steady loss, temperature through the wall, outside temperature.

Every layer obeys Fourier's law with its own conductivity by temperature: ``Q ∫dx/A = ∫k dT``. The area grows outwards:
for a box ``A(x) = (A₀ + 0.54 E x + 1.2 x²)² / (A₀ − 1.2 x²)`` (A₀ inner surface, E sum of the inner edges) is the area whose
``∫dx/A`` gives exactly the conduction shape factor ``A₀/x + 0.54 E + 1.2 x`` of Langmuir, Adams & Meikle (1913).
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import scipy
from numpy.typing import NDArray

from ..errors import Problem, refuse, refuse_all
from ..messages import quantity, temperature
from ..units import ABSOLUTE_ZERO_C
from .materials import MATERIALS, Material
from .outside import STEFAN_BOLTZMANN, convection, radiation

NEVER_C = 2000.0
"""No chamber here is hotter, °C."""

CUTS = 24
"""Slices a layer is cut into."""

MOST_OPEN = 0.5
"""Largest opening as a share of the inner surface."""

THICKEST = 0.6
"""Thickest wall as a share of √A₀: beyond it the shape factor does not hold."""


SLENDER = 5.0
"""Thickest wall as a multiple of the narrowest inside edge: beyond it the shape factor does not hold (Langmuir, Adams & Meikle)."""


@dataclass(frozen=True)
class Layer:
    """A layer of the wall: key of :data:`MATERIALS` and thickness in m."""

    material: str
    thickness_m: float

    @property
    def of(self) -> Material:
        return MATERIALS[self.material]


@dataclass(frozen=True)
class Chamber:
    """Inside width, height and depth in m, layers from the inside out, and what else loses heat.

    ``opening_m2`` sees the room directly (a spy hole, a gap); ``bridges`` is what door seals, cables and corners add to
    the wall's loss (0.1 = 10 %); ``emissivity`` is the outside's.
    """

    width_m: float
    height_m: float
    depth_m: float
    layers: tuple[Layer, ...]
    opening_m2: float = 0.0
    bridges: float = 0.1
    emissivity: float = 0.9

    @cached_property
    def inside_m2(self) -> float:
        w, h, d = self.width_m, self.height_m, self.depth_m
        return 2.0 * (w * h + w * d + h * d)

    @cached_property
    def edges_m(self) -> float:
        return 4.0 * (self.width_m + self.height_m + self.depth_m)

    def area(self, depth_m: NDArray[np.float64] | float) -> NDArray[np.float64]:
        """Effective area for heat flow at a depth in the wall, m²; smaller than the outside, whose corners stay cool."""
        x = np.asarray(depth_m, dtype=float)
        grown = self.inside_m2 + 0.54 * self.edges_m * x + 1.2 * x * x
        return np.asarray(grown**2 / (self.inside_m2 - 1.2 * x * x))

    @cached_property
    def thickness_m(self) -> float:
        return sum(layer.thickness_m for layer in self.layers)

    @cached_property
    def outside_m2(self) -> float:
        return float(self.area(self.thickness_m))

    @property
    def outside_height_m(self) -> float:
        return self.height_m + 2.0 * self.thickness_m

    def surface_loss(self, surface_c: float, ambient_c: float) -> float:
        """Heat in W leaving the outside at ``surface_c``."""
        h = convection(surface_c, ambient_c, self.outside_height_m) + radiation(surface_c, ambient_c, self.emissivity)
        return float(h * self.outside_m2 * (surface_c - ambient_c))

    def opening_loss(self, inside_c: float, ambient_c: float) -> float:
        """Heat in W radiated through the opening: a black hole, ``σ A (T⁴ − T_a⁴)``."""
        hot, cold = inside_c - ABSOLUTE_ZERO_C, ambient_c - ABSOLUTE_ZERO_C
        return float(STEFAN_BOLTZMANN * self.opening_m2 * (hot**4 - cold**4))


@dataclass(frozen=True)
class Steady:
    """The wall at rest. ``depth_m``/``celsius``: the profile; ``interfaces_c``: inner face, between layers, outside."""

    wall_w: float
    bridges_w: float
    opening_w: float
    interfaces_c: tuple[float, ...]
    depth_m: NDArray[np.float64]
    celsius: NDArray[np.float64]

    @property
    def loss_w(self) -> float:
        return self.wall_w + self.bridges_w + self.opening_w

    @property
    def outside_c(self) -> float:
        return self.interfaces_c[-1]


def check_chamber(chamber: Chamber) -> None:
    """Raise ``Refused`` for a chamber that cannot be computed."""
    problems = []
    if not chamber.layers:
        problems.append(Problem("layers", "a wall has at least one layer", "1 layer or more"))
    for i, layer in enumerate(chamber.layers):
        if layer.material not in MATERIALS:
            problems.append(
                Problem(f"layers[{i}].material", f"{layer.material!r} is not in the list", ", ".join(MATERIALS))
            )
        if not 0 < layer.thickness_m <= 1:
            problems.append(Problem(f"layers[{i}].thickness_m", "cannot be so thick", "up to 1 m"))
    if chamber.thickness_m > THICKEST * chamber.inside_m2**0.5:
        thickest = f"{quantity(THICKEST * chamber.inside_m2**0.5 * 1000, 'mm', '.0f')} together"
        problems.append(Problem("layers", "the wall is too thick for so small a chamber", f"up to {thickest}"))
    narrowest = min(chamber.width_m, chamber.height_m, chamber.depth_m)
    if chamber.thickness_m > SLENDER * narrowest:
        thickest = f"{quantity(SLENDER * narrowest * 1000, 'mm', '.0f')} together"
        problems.append(Problem("layers", "the chamber is too narrow for so thick a wall", f"up to {thickest}"))
    if chamber.opening_m2 > MOST_OPEN * chamber.inside_m2:
        problems.append(Problem("opening_m2", "more than half the chamber's surface is open", "less than half of it"))
    refuse_all(problems)


LEAST_WARMER_C = 0.01
"""Less above the room is not hotter than it, °C: below it the films are not found."""


def steady(chamber: Chamber, inside_c: float, ambient_c: float) -> Steady:
    """The wall with its inner face at ``inside_c`` for as long as it takes. Raises ``Refused``."""
    check_chamber(chamber)
    if inside_c < ambient_c + LEAST_WARMER_C:
        raise refuse("inside_c", "the chamber is not hotter than the room", f"above {temperature(ambient_c)}")

    def missing(surface_c: float) -> float:
        return float(_inwards(chamber, surface_c, ambient_c)[1][0]) - inside_c

    surface = float(scipy.optimize.brentq(missing, ambient_c + 1e-9, inside_c, xtol=1e-6))
    depth, celsius = _inwards(chamber, surface, ambient_c)
    wall = chamber.surface_loss(surface, ambient_c)
    ends = np.concatenate(([0.0], np.cumsum([layer.thickness_m for layer in chamber.layers])))
    return Steady(
        wall,
        wall * chamber.bridges,
        chamber.opening_loss(inside_c, ambient_c),
        tuple(float(t) for t in np.interp(ends, depth, celsius)),
        depth,
        celsius,
    )


def _inwards(chamber: Chamber, surface_c: float, ambient_c: float) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Depth and temperature through the wall when its outside is at ``surface_c``, from the inside out."""
    flow = chamber.surface_loss(surface_c, ambient_c)
    end, celsius = chamber.thickness_m, surface_c
    depths, temperatures = [np.array([end])], [np.array([surface_c])]
    for layer in reversed(chamber.layers):
        x = np.linspace(end, end - layer.thickness_m, CUTS + 1)
        middle = (x[1:] + x[:-1]) / 2.0
        resistance = np.concatenate(([0.0], np.cumsum(-np.diff(x) / chamber.area(middle))))
        grid = np.linspace(celsius, 2000.0, 800) if celsius < NEVER_C else np.array([celsius, celsius + 1.0])
        risen = layer.of.k_integral(grid) - layer.of.k_integral(grid[:1])
        temperature = np.interp(flow * resistance, risen, grid, right=np.nan)
        temperature = np.where(np.isnan(temperature), 2000.0 + flow * resistance, temperature)
        depths.append(x[1:])
        temperatures.append(temperature[1:])
        end, celsius = float(x[-1]), float(temperature[-1])
    return np.concatenate(depths)[::-1], np.concatenate(temperatures)[::-1]
