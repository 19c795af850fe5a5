"""The load of a run as a body in the chamber: how its surface and its core follow.

A body is cut into shells of equal thickness which become nodes of the rig's thermal network, so that it also takes the heat it needs
out of the chamber. In a steady ramp the core is behind the surface by rate · d²/(2α) in a slab heated from both faces (d half its
thickness), R²/4α in a cylinder, R²/6α in a sphere (H. S. Carslaw & J. C. Jaeger, *Conduction of Heat in Solids*, from memory).
"""

from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from ..errors import Problem, refuse_all
from ..heating.outside import STEFAN_BOLTZMANN
from ..messages import quantity, span
from ..process.networks import Array, ThermalNetwork
from ..units import ABSOLUTE_ZERO_C

SHELLS = 8
STILL_AIR = 8.0
"""Convection to a body in the still air of a chamber, W/m²K (typical, from memory: 5…10)."""
EMISSIVITY = 0.85
"""Of what is not bright metal (typical, from memory)."""


class Shape(StrEnum):
    """A slab heated from both faces, a long cylinder, a sphere."""

    SLAB = "slab"
    CYLINDER = "cylinder"
    SPHERE = "sphere"


DIMENSIONS = {Shape.SLAB: 1, Shape.CYLINDER: 2, Shape.SPHERE: 3}


@dataclass(frozen=True)
class Stuff:
    """What a load is made of: W/m·K, kg/m³, J/kg·K (typical, from memory; a data sheet overrules them)."""

    name: str
    conductivity: float
    density: float
    specific_heat: float

    @property
    def diffusivity(self) -> float:
        """α, m²/s."""
        return self.conductivity / (self.density * self.specific_heat)


STUFF = {
    "borosilicate": Stuff("Borosilicate glass", 1.14, 2230.0, 830.0),
    "soda_lime": Stuff("Soda-lime glass", 1.0, 2500.0, 870.0),
    "steel": Stuff("Steel", 45.0, 7850.0, 490.0),
    "stainless": Stuff("Stainless steel", 16.0, 7900.0, 500.0),
    "aluminium": Stuff("Aluminium", 200.0, 2700.0, 900.0),
    "copper": Stuff("Copper", 390.0, 8930.0, 385.0),
    "clay": Stuff("Clay body", 1.2, 1900.0, 900.0),
    "resin": Stuff("Cast resin", 0.25, 1200.0, 1400.0),
    "laminate": Stuff("Glass-fibre laminate", 0.35, 1900.0, 1100.0),
    "water": Stuff("Water", 0.6, 1000.0, 4186.0),
}


@dataclass(frozen=True)
class Load:
    """``half_mm``: half the thickness of a slab, else the radius. ``exchange``: W/m²K between its surface and the chamber; ``None``: still
    air and radiation at the middle of the profile."""

    stuff: str
    shape: Shape
    half_mm: float
    mass_kg: float
    exchange: float | None = None

    @property
    def of(self) -> Stuff:
        return STUFF[self.stuff]

    @property
    def area_m2(self) -> float:
        """Its surface, from mass, density and shape."""
        return DIMENSIONS[self.shape] * self.mass_kg / self.of.density / (self.half_mm / 1000.0)

    @property
    def capacity(self) -> float:
        """J/K."""
        return self.mass_kg * self.of.specific_heat


THINNEST_MM, THICKEST_MM, MOST_KG, MOST_EXCHANGE = 0.1, 500.0, 2000.0, 5000.0


def check_load(load: Load) -> None:
    """Raises ``Refused`` naming every field that cannot be."""
    found = []
    if load.stuff not in STUFF:
        found.append(Problem("load.stuff", f"{load.stuff!r} is unknown", ", ".join(STUFF)))
    if not THINNEST_MM <= load.half_mm <= THICKEST_MM:
        found.append(Problem("load.half_mm", "half its thickness, or its radius", span(THINNEST_MM, THICKEST_MM, "mm")))
    if not 0 < load.mass_kg <= MOST_KG:
        found.append(
            Problem("load.mass_kg", "say what it weighs", f"more than {{0 kg}}, up to {quantity(MOST_KG, 'kg')}")
        )
    if load.exchange is not None and not 0 < load.exchange <= MOST_EXCHANGE:
        found.append(Problem("load.exchange", "no surface exchanges that", f"up to {quantity(MOST_EXCHANGE, 'W/m²K')}"))
    refuse_all(found)


def exchange_at(celsius: float) -> float:
    """Still air and radiation between a body and the chamber round it, both near a temperature in °C; W/m²K.

    >>> round(exchange_at(60.0), 1), round(exchange_at(560.0))
    (15.1, 119)
    """
    return STILL_AIR + 4.0 * EMISSIVITY * STEFAN_BOLTZMANN * (celsius - ABSOLUTE_ZERO_C) ** 3


@dataclass(frozen=True)
class Loaded:
    """A network with a load in it: its shells are the last nodes, outermost last."""

    network: ThermalNetwork
    to_surface: float
    """Share of the way from the outermost shell's middle to the chamber at which the surface is."""

    def surface_c(self, nodes_c: Array) -> Array:
        """(n) of the load's surface from (n, nodes), °C."""
        outer, chamber = nodes_c[:, -1], nodes_c[:, self.network.sensor_node]
        return np.asarray(outer + self.to_surface * (chamber - outer))

    def core_c(self, nodes_c: Array) -> Array:
        """(n) of its middle, °C: through the two innermost shells a parabola, which a steady ramp is."""
        inner, next_one = nodes_c[:, -SHELLS], nodes_c[:, -SHELLS + 1]
        return np.asarray(inner - (next_one - inner) / 8.0)


def loaded(network: ThermalNetwork, load: Load, exchange: float) -> Loaded:
    """The rig's network with the load at its sensor's node; ``exchange`` in W/m²K where the load has none of its own."""
    n, dims = len(network.capacities), DIMENSIONS[load.shape]
    radius = load.half_mm / 1000.0
    edges = np.linspace(0.0, radius, SHELLS + 1)
    volumes = np.diff(edges**dims) / radius**dims
    across = load.area_m2 * (edges[1:] / radius) ** (dims - 1)
    each = radius / SHELLS
    inner = load.of.conductivity * across[:-1] / each
    half = load.of.conductivity * load.area_m2 / (each / 2.0)
    film = (load.exchange or exchange) * load.area_m2
    outer = 1.0 / (1.0 / half + 1.0 / film)
    links = [(n + i, n + i + 1, float(g)) for i, g in enumerate(inner)]
    return Loaded(
        replace(
            network,
            capacities=(*network.capacities, *(float(v) * load.capacity for v in volumes)),
            links=(*network.links, *links, (n + SHELLS - 1, network.sensor_node, float(outer))),
            to_ambient=(*network.to_ambient, *(0.0,) * SHELLS),
            radiation=(*network.radiation, *(0.0,) * SHELLS) if network.radiation else (),
        ),
        float(outer / half),
    )
