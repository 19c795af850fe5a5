"""Kinds of heating element: how they measure cold, what they draw at switch-on, how power goes with voltage; wire design.

Cold and inrush factors: common practice and data sheets, from memory. Wire alloys: resistivity at 20 °C and its change when
hot, from memory of makers' tables (FeCrAl 1.45, NiCr 80/20 1.09 Ω mm²/m).
"""

from dataclasses import dataclass
from math import pi

import numpy as np

from ..errors import refuse
from ..messages import temperature


@dataclass(frozen=True)
class ElementKind:
    """``cold``: lowest and highest cold resistance over hot (None: ohms say nothing); ``inrush``: current at switch-on over
    rated; ``exponent``: P ∝ V^n; ``settles_s``: how long the inrush lasts; ``told_by_ohms``: whether a meter can tell its power."""

    name: str
    cold: tuple[float, float] | None
    inrush: tuple[float, float]
    exponent: float
    settles_s: float
    says: str
    told_by_ohms: bool = True


ELEMENT_KINDS = {
    "wire": ElementKind(
        "Wire coil, iron-chromium-aluminium",
        (0.91, 1.01),
        (1.0, 1.06),
        2.0,
        0.0,
        "Nearly the same cold and hot (factor 1.04).",
    ),
    "nichrome": ElementKind(
        "Wire coil or tubular, nickel-chromium", (0.89, 1.01), (1.0, 1.08), 2.0, 0.0, "A few percent lower when cold."
    ),
    "cartridge": ElementKind(
        "Cartridge or band heater",
        (0.89, 1.01),
        (1.0, 1.08),
        2.0,
        0.0,
        "Measure to the sheath too: damp magnesia leaks until baked dry.",
    ),
    "halogen": ElementKind(
        "Halogen or infrared lamp",
        (1 / 15, 1 / 10),
        (8.0, 12.0),
        1.55,
        0.2,
        "Tungsten: ohms when cold say only 'not open, not shorted'.",
        told_by_ohms=False,
    ),
    "ptc": ElementKind(
        "PTC heater",
        None,
        (1.5, 3.0),
        0.3,
        30.0,
        "Limits itself: power hardly follows the voltage. Never compute its ohms from V²/P.",
        told_by_ohms=False,
    ),
    "sic": ElementKind(
        "Silicon carbide rod",
        (0.9, 2.5),
        (0.5, 1.2),
        2.0,
        0.0,
        "Rises with age to several times: needs voltage in reserve, all rods of one age.",
    ),
    "disilicide": ElementKind(
        "Molybdenum disilicide",
        (0.07, 0.12),
        (8.0, 14.0),
        2.0,
        60.0,
        "Cold it is nearly a short: start on reduced voltage. Never compute its ohms from V²/P.",
        told_by_ohms=False,
    ),
}


def power_on(rated_w: float, rated_v: float, supply_v: float, kind: str) -> float:
    """Power in W on another voltage: ``P (V₂/V₁)^n``."""
    return float(rated_w * (supply_v / rated_v) ** ELEMENT_KINDS[kind].exponent)


@dataclass(frozen=True)
class Alloy:
    """Resistance wire: Ω mm²/m at 20 °C, factor to hot at 1000 °C, highest wire temperature, and the surface load in W/cm² a
    free coil in air stands by chamber temperature in °C."""

    name: str
    resistivity: float
    hot_factor: float
    limit_c: float
    load_c: tuple[float, ...]
    load: tuple[float, ...]


ALLOYS = {
    "fecral": Alloy(
        "Iron-chromium-aluminium", 1.45, 1.04, 1400, (600, 800, 1000, 1100, 1200, 1300), (5.0, 4.0, 2.6, 1.9, 1.3, 0.9)
    ),
    "nicr": Alloy("Nickel-chromium 80/20", 1.09, 1.05, 1200, (600, 800, 900, 1000, 1100), (3.8, 2.6, 1.9, 1.3, 0.8)),
}
WIRE_SIZES_MM = (0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.0, 1.2, 1.4, 1.6, 1.8, 2.0, 2.3, 2.6, 3.0, 3.5, 4.0, 5.0)


@dataclass(frozen=True)
class WireElement:
    """A coil: wire of ``diameter_mm``, ``length_m`` long, ``surface_load`` W/cm², cold ohms, ``turns`` on ``coil_mm`` mean
    diameter, ``stretched_mm`` long at a pitch of two and a half wires."""

    diameter_mm: float
    length_m: float
    surface_load: float
    hot_ohm: float
    cold_ohm: float
    coil_mm: float
    turns: float
    stretched_mm: float


def allowed_load(alloy: str, chamber_c: float) -> float:
    """Surface load in W/cm² for long life. Raises ``Refused`` where the wire would not live."""
    a = ALLOYS[alloy]
    if chamber_c > a.load_c[-1]:
        raise refuse(
            "chamber_c",
            f"{a.name} does not live in a chamber at {temperature(chamber_c, '.0f')}",
            f"up to {temperature(a.load_c[-1], '.0f')}",
        )
    return float(np.interp(chamber_c, a.load_c, a.load))


def least_diameter_mm(alloy: str, power_w: float, voltage_v: float, load_w_cm2: float) -> float:
    """Thinnest wire for a surface load: ``d = (4 ρ P² / (π² V² p))^(1/3)``, from R = 4ρL/πd² and p = P/πdL."""
    rho = ALLOYS[alloy].resistivity * ALLOYS[alloy].hot_factor * 1e-6  # Ω m
    return float((4.0 * rho * power_w**2 / (pi**2 * voltage_v**2 * load_w_cm2 * 1e4)) ** (1 / 3) * 1000.0)


def wire_element(
    alloy: str, power_w: float, voltage_v: float, diameter_mm: float, coil_over_wire: float = 6.0
) -> WireElement:
    """The coil of this wire that gives ``power_w`` hot on ``voltage_v``; ``coil_over_wire``: its mean diameter as a ratio to the wire's.
    Raises ``Refused`` for what is not above 0.
    """
    if min(power_w, voltage_v, diameter_mm) <= 0:
        raise refuse("diameter_mm", "must be more than zero", "> 0")
    a = ALLOYS[alloy]
    hot = voltage_v**2 / power_w
    cold = hot / a.hot_factor
    length = cold * pi / 4.0 * diameter_mm**2 / a.resistivity
    surface_cm2 = pi * diameter_mm * length * 10.0
    coil = coil_over_wire * diameter_mm
    turns = length * 1000.0 / (pi * coil)
    return WireElement(diameter_mm, length, power_w / surface_cm2, hot, cold, coil, turns, turns * 2.5 * diameter_mm)
