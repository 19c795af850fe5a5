"""How far this rig passes its set-point: in ordinary running with its settings, and while the controller tunes itself."""

from dataclasses import dataclass, replace

import numpy as np

from ..control.settings import ControllerSettings, HysteresisSchool, Mode, climb_s
from ..plant.simulation import Simulation, looking, resolving_s
from ..process.cycles import OnOff, switched_cycle
from ..process.modes import HALVINGS, shares_of, time_63
from ..process.networks import ThermalNetwork
from .family import Family

LAGS = 6.0
"""How long a heat-up is followed, in times to 63 %."""
FEW_STEPS, MOST_STEPS = 20_000, 400_000
RELAY_C = 1.0
"""Hysteresis of a controller that tunes itself, °C (our choice; its own is not known)."""
STEPS_A_LAG = 8.0
HORIZON, POINTS, CYCLES = 40.0, 200, 40


@dataclass(frozen=True)
class Predicted:
    """A rise above the set-point in °C: as it probably is, and its edges over the family."""

    value: float
    low: float
    high: float


def running_overshoot(rigs: Family, settings: ControllerSettings, ambient_c: float) -> Predicted:
    """The highest reading of a heat-up from cold and of what follows, above the set-point, with the settings in force: on/off exactly, by
    the network's modes; PID, and what never switches off, simulated. Of one whose set-point climbs by a ramp of its own, or whose output
    does, the higher of with it and without: it may be switched off."""
    at_once = _over(rigs, replace(settings, ramp_c_per_s=0.0, soft_start_s=0.0), ambient_c)
    if not (settings.ramp_c_per_s or settings.soft_start_s) or settings.mode is Mode.ON_OFF:
        return at_once
    by_ramp = _over(rigs, settings, ambient_c)
    return Predicted(*(max(getattr(p, end) for p in (at_once, by_ramp)) for end in ("value", "low", "high")))


def tuning_overshoot(rigs: Family, settings: ControllerSettings, ambient_c: float) -> Predicted:
    """The same while it is switched by a relay round its set-point, as a controller that tunes itself does."""
    relay = replace(
        settings,
        mode=Mode.ON_OFF,
        hysteresis_c=RELAY_C,
        hysteresis_school=HysteresisSchool.CENTRED,
        output_low=0.0,
        ramp_c_per_s=0.0,
    )
    return _over(rigs, relay, ambient_c)


def _over(rigs: Family, settings: ControllerSettings, ambient_c: float) -> Predicted:
    found = [_one(network, settings, ambient_c) for network in rigs.all]
    return Predicted(found[0], min(found), max(found))


def _one(network: ThermalNetwork, settings: ControllerSettings, ambient_c: float) -> float:
    if settings.mode is Mode.ON_OFF and not settings.output_low:
        return _switched(network, settings, ambient_c)
    length = LAGS * time_63(network) + climb_s(settings.setpoint_c - ambient_c, settings.ramp_c_per_s)
    step = resolving_s(network, settings, STEPS_A_LAG, settings.sample_s)
    step = min(max(step, length / MOST_STEPS), length / FEW_STEPS)
    told = looking(replace(settings, offset_c=0.0), network, step)
    record = Simulation(network, told, ambient_c, step).advance(length)
    rests_c = ambient_c + float(network.equilibrium_rise(settings.output_low)[network.sensor_node])
    return max(float(record.reading_c.max()) - settings.setpoint_c, rests_c - settings.setpoint_c, 0.0)


def _switched(network: ThermalNetwork, settings: ControllerSettings, ambient_c: float) -> float:
    """The higher of the first peak of on/off from cold and the peak it settles to: exact, by the network's modes. The controller looks
    once a sample, so it may be late by one."""
    found, lag, dead = shares_of(network), network.sensor_lag_s, network.dead_time_s + settings.sample_s
    wanted, full = settings.setpoint_c - ambient_c, float(found.shares.sum())
    off_at = wanted + settings.switch_off_offset
    if off_at >= full:
        return max(full - wanted, 0.0)
    low, high = 0.0, HORIZON / float(found.rates.min())
    for _ in range(HALVINGS):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if found.shown(np.array([middle]), lag)[0] < off_at else (low, middle)
    after = np.concatenate((np.linspace(0.0, dead, POINTS), dead + (high + dead) * np.linspace(0.0, 1.0, POINTS) ** 3))
    first = found.shown(high + after, lag) - np.where(after > dead, found.shown(after - dead, lag), 0.0)
    thresholds = OnOff(off_at, wanted + settings.switch_on_offset)
    settled = switched_cycle(found.behind(lag, dead), thresholds, CYCLES).peak if thresholds.on_at > 0 else off_at
    return max(float(first.max()), settled) - wanted
