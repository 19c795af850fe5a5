"""How far this rig passes its set-point: in ordinary running with its settings, and while the controller tunes itself."""

from dataclasses import dataclass, replace

from ..control.settings import ControllerSettings, HysteresisSchool, Mode
from ..plant.simulation import Simulation
from ..process.networks import ThermalNetwork
from .family import Family, time_63

LAGS = 6.0
"""How long a heat-up is followed, in times to 63 %."""
FEW_STEPS, MOST_STEPS = 20_000, 400_000
RELAY_C = 1.0
"""Hysteresis of a controller that tunes itself, °C (our choice; its own is not known)."""
STEPS_A_LAG = 8.0


@dataclass(frozen=True)
class Predicted:
    """A rise above the set-point in °C: as it probably is, and its edges over the family."""

    value: float
    low: float
    high: float


def running_overshoot(rigs: Family, settings: ControllerSettings, ambient_c: float) -> Predicted:
    """The highest reading of a heat-up from cold and the hour after it, above the set-point; simulated with the settings in force."""
    return _over(rigs, settings, ambient_c)


def tuning_overshoot(rigs: Family, settings: ControllerSettings, ambient_c: float) -> Predicted:
    """The same while it is switched by a relay round its set-point, as a controller that tunes itself does."""
    relay = replace(
        settings,
        mode=Mode.ON_OFF,
        hysteresis_c=RELAY_C,
        hysteresis_school=HysteresisSchool.CENTRED,
        output_low=0.0,
    )
    return _over(rigs, relay, ambient_c)


def _over(rigs: Family, settings: ControllerSettings, ambient_c: float) -> Predicted:
    found = [_one(network, settings, ambient_c) for network in rigs.all]
    return Predicted(found[0], min(found), max(found))


def _one(network: ThermalNetwork, settings: ControllerSettings, ambient_c: float) -> float:
    length = LAGS * time_63(network)
    fastest = [t for t in (network.sensor_lag_s, network.dead_time_s, settings.period_s) if t > 0]
    step = min([settings.sample_s, *(t / STEPS_A_LAG for t in fastest)])
    step = min(max(step, length / MOST_STEPS), length / FEW_STEPS)
    simulation = Simulation(
        network, replace(settings, offset_c=0.0, sample_s=max(settings.sample_s, step)), ambient_c, step
    )
    record = simulation.advance(length)
    return max(float(record.reading_c.max()) - settings.setpoint_c, 0.0)
