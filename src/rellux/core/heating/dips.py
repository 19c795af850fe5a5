"""What a cold, wet or flowing load does to a hot chamber: two lumps, heater at full power until the temperature is back.

Chamber (air, inner lining) and load exchange ``h A (T − T_l)``. Water in the load holds it at 100 °C until dry; where its vapour can
leave, it evaporates below that too, ``m = (h_c A / c_p) · 0.622 · ln((p − p_v) / (p − p_s))`` (Stefan flow with the analogy of heat
and mass transfer, Lewis number 1), and the load stays near its wet-bulb temperature.
Latent heat 2.257 MJ/kg, water 4186 J/kg·K (IAPWS, at 1 bar).
"""

from dataclasses import dataclass
from math import log

import numpy as np
import scipy
from numpy.typing import NDArray

from ..errors import refuse
from ..messages import quantity, temperature
from .fluids import AIR_J_M3_K, WATER_J_KG_K, WATER_KG_L

FINE_STEPS = 900
"""Steps taken finely; from then on a step is that share of the time gone by (our choice: 0.1 % of it)."""

LATENT_J_KG = 2.257e6
"""Heat of evaporation of water at 100 °C, J/kg; 8 % more at 20 °C, which is not followed."""
BOILING_C = 100.0
ATMOSPHERE_PA = 101_325.0
AIR_J_KG_K = 1006.0
VAPOUR_TO_AIR = 0.622
"""Molar mass of water over that of air."""
STEP_S = 1.0
GIVE_UP_S = 24 * 3600.0


@dataclass(frozen=True)
class HotChamber:
    """At ``setpoint_c`` with ``capacity`` J/K near its surface, losing ``loss_w`` there, with up to ``power_w``."""

    setpoint_c: float
    ambient_c: float
    capacity: float
    loss_w: float
    power_w: float


@dataclass(frozen=True)
class ColdLoad:
    """Mass in kg with specific heat J/kg·K, ``water_kg`` in it, exchanging ``conductance`` W/K with the chamber.

    ``drying`` is the part of it that is convection where the vapour can leave, W/K, into air with ``vapour_pa`` of water, Pa; 0 in a
    closed chamber, where nothing dries below boiling.
    """

    mass_kg: float
    specific_heat: float
    start_c: float
    conductance: float
    water_kg: float = 0.0
    drying: float = 0.0
    vapour_pa: float = 0.0


@dataclass(frozen=True)
class Dip:
    """Course in s and °C of chamber and load, the chamber's lowest and highest; ``recovered_s``: both within 1 % of the set-point
    for good, ``None`` if not within a day; ``dry_s``: when its water is gone."""

    time_s: NDArray[np.float64]
    chamber_c: NDArray[np.float64]
    load_c: NDArray[np.float64]
    lowest_c: float
    highest_c: float
    recovered_s: float | None
    dry_s: float | None


def dip(chamber: HotChamber, load: ColdLoad, step_s: float = STEP_S) -> Dip:
    """The dip and the way back, in steps of ``step_s`` that lengthen with the time gone by.

    Raises ``Refused`` when the heater does not even cover the loss.
    """
    if chamber.setpoint_c <= chamber.ambient_c:
        raise refuse("setpoint_c", "the chamber is not hotter than the room", f"above {temperature(chamber.ambient_c)}")
    if chamber.power_w <= chamber.loss_w:
        raise refuse(
            "power_w",
            f"the heater does not cover the loss of {quantity(chamber.loss_w, 'W', '.0f')}",
            f"> {quantity(chamber.loss_w, 'W', '.0f')}",
        )
    t, celsius, loaded, water = 0.0, chamber.setpoint_c, load.start_c, load.water_kg
    rows, dry, back = [(t, celsius, loaded)], None, None
    near = 0.01 * (chamber.setpoint_c - chamber.ambient_c)
    while t < GIVE_UP_S * step_s and back is None:
        step = max(step_s, t / FINE_STEPS)
        heat = load.mass_kg * load.specific_heat + water * WATER_J_KG_K
        t += step
        if water > 0:
            celsius, loaded, evaporated_j = _wet_step(chamber, load, celsius, loaded, heat, step)
            water -= evaporated_j / LATENT_J_KG
            dry = t if water <= 0 else None
        else:
            celsius, loaded = _dry_step(chamber, load, celsius, loaded, heat, step)
        rows.append((t, celsius, loaded))
        if water <= 0 or (chamber.setpoint_c < BOILING_C and not load.drying):
            back = t if max(abs(celsius - chamber.setpoint_c), abs(loaded - chamber.setpoint_c)) < near else None
    time, hot, cold = (np.array(c) for c in zip(*rows, strict=True))
    return Dip(time, hot, cold, float(hot.min()), float(hot.max()), back, dry)


def _chamber_after(chamber: HotChamber, celsius: float, to_load: float, load_c: float, step: float) -> float:
    """Chamber's temperature after a step beside a load at ``load_c``, seen through ``to_load`` W/K, by backward Euler (stable for
    any lumps). The heater gives what brings the chamber to its set-point, as far as its power goes."""
    per_kelvin = chamber.loss_w / (chamber.setpoint_c - chamber.ambient_c)
    store = chamber.capacity / step

    def needed(at: float) -> float:
        return store * (at - celsius) + per_kelvin * (at - chamber.ambient_c) + to_load * (at - load_c)

    power = min(max(needed(chamber.setpoint_c), 0.0), chamber.power_w)
    return (store * celsius + per_kelvin * chamber.ambient_c + to_load * load_c + power) / (
        store + per_kelvin + to_load
    )


def _dry_step(
    chamber: HotChamber, load: ColdLoad, celsius: float, loaded: float, heat: float, step: float
) -> tuple[float, float]:
    """Chamber and load after a step: seen from the chamber the load is a conductance less than its own while it warms itself."""
    to_load = load.conductance * heat / (heat + load.conductance * step)
    after = _chamber_after(chamber, celsius, to_load, loaded, step)
    return after, loaded + step * to_load * (after - loaded) / heat


def _wet_step(
    chamber: HotChamber, load: ColdLoad, celsius: float, loaded: float, heat: float, step: float
) -> tuple[float, float, float]:
    """Chamber and load after a step, and the heat in J that went into evaporating water."""

    def left_over(at: float) -> float:
        """What the load is given at this temperature beyond what warms and dries it, W."""
        after = _chamber_after(chamber, celsius, load.conductance, at, step)
        return load.conductance * (after - at) - heat * (at - loaded) / step - evaporation_w(load, at)

    nearly = BOILING_C - 1e-6
    boils = left_over(nearly) >= 0
    at = (
        BOILING_C
        if boils
        else float(scipy.optimize.brentq(left_over, min(loaded, celsius) - BOILING_C, nearly, xtol=1e-6))
    )
    after = _chamber_after(chamber, celsius, load.conductance, at, step)
    return after, at, max(0.0, load.conductance * (after - at) * step - heat * (at - loaded))


def evaporation_w(load: ColdLoad, surface_c: float) -> float:
    """Heat in W that leaves a wet surface with its vapour; never negative (nothing condenses on it), 0 in a closed chamber."""
    if not load.drying:
        return 0.0
    saturated = saturation_pa(surface_c)
    if saturated <= load.vapour_pa:
        return 0.0
    flow = VAPOUR_TO_AIR * log((ATMOSPHERE_PA - load.vapour_pa) / max(ATMOSPHERE_PA - saturated, 1.0))
    return load.drying / AIR_J_KG_K * flow * LATENT_J_KG


def saturation_pa(celsius: float) -> float:
    """Vapour pressure of water in Pa by Antoine's equation (1…100 °C within 1 %; constants as tabulated, from memory).

    >>> round(saturation_pa(60.0) / 1000, 1)
    19.9
    """
    return float(133.322 * 10 ** (8.07131 - 1730.63 / (233.426 + celsius)))


def flow_power(litres_per_min: float, rise_c: float, water: bool) -> float:
    """Heat in W a flow takes up: ``ṁ c ΔT``."""
    per_litre = WATER_J_KG_K * WATER_KG_L if water else AIR_J_M3_K / 1000.0
    return litres_per_min / 60.0 * per_litre * rise_c
