"""Alarms in the simulation, and over a year of samples."""

import numpy as np
from benchmarks.measure import report, turns

from rellux.core.control.alarms.replay import Recorded, replay
from rellux.core.control.alarms.settings import AlarmKind, AlarmSettings, Standby
from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.plant.simulation import Simulation
from rellux.core.process.networks import ThermalNetwork

YEAR = 31_536_000
EIGHT = (
    AlarmSettings(AlarmKind.HIGH, 130.0, 2.0, on_delay_s=2.0, latching=True),
    AlarmSettings(AlarmKind.LOW, -20.0, 2.0, standby=Standby.FIRST),
    AlarmSettings(AlarmKind.ABOVE_SETPOINT, 30.0, 2.0, on_delay_s=10.0),
    AlarmSettings(AlarmKind.OUTSIDE_BAND, 150.0, 5.0, standby=Standby.EVERY, off_delay_s=5.0),
    AlarmSettings(AlarmKind.RISING, 200.0, window_s=60.0),
    AlarmSettings(AlarmKind.LOOP_BREAK, 3600.0, move_c=1.0),
    AlarmSettings(AlarmKind.SENSOR_BREAK, gap_s=5.0),
    AlarmSettings(AlarmKind.RISING_WHILE_OFF, 100.0, window_s=60.0),
)


def in_the_simulation() -> None:
    """24 h of a six-node plant at 0.25 s with eight different alarms, against the same without."""
    links = ((0, 1, 20), (1, 2, 4), (2, 3, 3), (3, 4, 2), (1, 5, 5))
    network = ThermalNetwork((300, 900, 1500, 2500, 4000, 800), links, (0, 1, 0, 0, 2, 0), 500, 0, 1, 10, 20)
    loop = ControllerSettings(100, Mode.PID, period_s=20)

    def run(alarms: tuple[AlarmSettings, ...]) -> None:
        Simulation(network, loop, 20.0, alarms=alarms, does=((),) * len(alarms)).advance(86_400, 60)

    ratio = turns(lambda: run(EIGHT), lambda: run(()))
    report("simulation with eight alarms against the same without", ratio, 2.5, at_least=False)


def over_a_year() -> None:
    """Eight alarms over a year of 1 s samples, against one comparison of the array for each."""
    rng, time = np.random.default_rng(1), np.arange(YEAR, dtype=float)
    reading, setpoint = 100 + rng.normal(0, 1, YEAR), np.full(YEAR, 100.0)
    recorded = Recorded(time, reading, setpoint, np.full(YEAR, 40.0), np.zeros(0), np.zeros(0))
    alarms = EIGHT[:-1]
    ratio = turns(lambda: replay(alarms, recorded), lambda: [reading >= a.value for a in alarms], 3)
    report("a year of samples checked against a comparison per alarm", ratio, 5, at_least=False)
