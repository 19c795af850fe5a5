"""What a cold, wet or flowing load does to a hot chamber: two lumps, heater at full power until the temperature is back.

Chamber (air, inner lining) and load exchange ``h A (T − T_l)``; water in the load holds it at 100 °C until dry.
Latent heat 2.257 MJ/kg, water 4186 J/kg·K (IAPWS, at 1 bar).
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..errors import refuse
from ..messages import quantity, temperature
from .fluids import AIR_J_M3_K, WATER_J_KG_K, WATER_KG_L

FINE_STEPS = 3600
"""Steps taken finely, before five at a time do."""

LATENT_J_KG = 2.257e6
"""Heat a litre of air at room conditions takes, J/K: ρ c_p = 1.16."""
BOILING_C = 100.0
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
    """Mass in kg with specific heat J/kg·K, ``water_kg`` in it, exchanging ``conductance`` W/K with the chamber."""

    mass_kg: float
    specific_heat: float
    start_c: float
    conductance: float
    water_kg: float = 0.0


@dataclass(frozen=True)
class Dip:
    """Course in s and °C of chamber and load; ``recovered_s``: both within 1 % of the set-point, None within a day."""

    time_s: NDArray[np.float64]
    chamber_c: NDArray[np.float64]
    load_c: NDArray[np.float64]
    lowest_c: float
    recovered_s: float | None
    dry_s: float | None


def dip(chamber: HotChamber, load: ColdLoad, step_s: float = STEP_S) -> Dip:
    """The dip and the way back, in steps of ``step_s``, five times as long after 3600 of them.

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
        step = step_s if t < FINE_STEPS * step_s else 5.0 * step_s
        boiling = water > 0 and loaded >= BOILING_C
        heat = load.mass_kg * load.specific_heat + water * WATER_J_KG_K
        celsius, exchanged = _step(chamber, load.conductance, celsius, loaded, heat, boiling, step)
        if boiling:
            water -= step * exchanged / LATENT_J_KG
            dry = t if water <= 0 else None
        else:
            loaded += step * exchanged / heat
            if water > 0:
                loaded = min(loaded, BOILING_C)
        t += step
        rows.append((t, celsius, loaded))
        if celsius > chamber.setpoint_c - near and loaded > chamber.setpoint_c - near:
            back = t
    time, hot, cold = (np.array(c) for c in zip(*rows, strict=True))
    return Dip(time, hot, cold, float(hot.min()), back, dry)


def _step(
    chamber: HotChamber, conductance: float, celsius: float, loaded: float, heat: float, boiling: bool, step: float
) -> tuple[float, float]:
    """Chamber's temperature after a step and the heat in W that went into the load, by backward Euler (stable for any lumps).

    The heater gives what brings the chamber back to its set-point, as far as its power goes.
    """
    per_kelvin = chamber.loss_w / (chamber.setpoint_c - chamber.ambient_c)
    # seen from the chamber the load is a conductance to a fixed temperature: less than its own while it warms up itself
    to_load = conductance if boiling else conductance * heat / (heat + conductance * step)
    store = chamber.capacity / step

    def needed(at: float) -> float:
        return store * (at - celsius) + per_kelvin * (at - chamber.ambient_c) + to_load * (at - loaded)

    power = min(max(needed(chamber.setpoint_c), 0.0), chamber.power_w)
    after = (store * celsius + per_kelvin * chamber.ambient_c + to_load * loaded + power) / (
        store + per_kelvin + to_load
    )
    return after, to_load * (after - loaded)


def flow_power(litres_per_min: float, rise_c: float, water: bool) -> float:
    """Heat in W a flow takes up: ``ṁ c ΔT``."""
    per_litre = WATER_J_KG_K * WATER_KG_L if water else AIR_J_M3_K / 1000.0
    return litres_per_min / 60.0 * per_litre * rise_c
