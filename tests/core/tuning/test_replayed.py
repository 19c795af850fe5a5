"""Whether a record is of these numbers, and what its cycles say of the limit: on records of the simulator, which is judged elsewhere."""

from dataclasses import replace

import numpy as np
import pytest

from rellux.core.control.pid import PID
from rellux.core.control.settings import ControllerSettings, HysteresisSchool, Mode
from rellux.core.plant.simulation import Simulation
from rellux.core.process.models import FOPDT
from rellux.core.process.networks import from_fopdt
from rellux.core.runs.series import Series
from rellux.core.tuning.relay.recorded import relay_figures
from rellux.core.tuning.replayed import SAME_OUTPUT, unlike_output
from rellux.core.tuning.rules.limit import limit_of

CABINET = FOPDT(1.05, 620.0, 52.0)
LOOP = ControllerSettings(60.0, Mode.PID, pid=PID(4.0, 400.0), period_s=20.0)


def off(ran, said, every=5.0, noise=0.0, seed=1):
    """By how much the output that ``said`` makes is not the one that was recorded under ``ran``."""
    record = Simulation(from_fopdt(CABINET), ran, 21.0).advance(4000.0, every)
    reading = np.round(record.reading_c + np.random.default_rng(seed).normal(0.0, noise, len(record.time_s)), 1)
    return unlike_output(record.time_s, reading, record.output, said, CABINET.dead_time_s)


@pytest.mark.parametrize(
    "ran",
    [
        LOOP,
        replace(LOOP, period_s=0.0),
        replace(LOOP, period_s=120.0),
        replace(LOOP, output_high=60.0),
        replace(LOOP, pid=PID(4.0, float("inf"))),
        replace(LOOP, pid=PID(4.0, 400.0, 25.0)),
        replace(LOOP, pid=PID(12.0, 100.0)),
        replace(LOOP, ramp_c_per_s=0.02),
        replace(LOOP, pid=PID(4.0, 400.0, setpoint_weight=0.4)),
        replace(LOOP, soft_start_s=900.0),
        replace(LOOP, output_low=12.0),
    ],
)
def test_the_numbers_that_were_in_force_make_the_recorded_output(ran):
    for noise in (0.0, 0.05):
        assert off(ran, ran, noise=noise) < 0.8 * SAME_OUTPUT, noise


@pytest.mark.parametrize(
    "ran",
    [
        replace(LOOP, mode=Mode.MANUAL, manual_output=40.0),
        replace(LOOP, pid=PID(0.6, 400.0)),
        replace(LOOP, output_high=45.0),
        replace(LOOP, mode=Mode.OFF),
        replace(LOOP, ramp_c_per_s=0.02),
    ],
)
def test_other_numbers_or_a_hand_on_the_output_do_not(ran):
    assert off(ran, LOOP) > SAME_OUTPUT


def cycled(hysteresis, seconds=6000.0):
    loop = ControllerSettings(60.0, Mode.ON_OFF, hysteresis, HysteresisSchool.CENTRED)
    return Series(*Simulation(from_fopdt(CABINET), loop, 21.0).advance(seconds, 2.0).columns)


def test_recorded_cycles_give_both_estimates_and_say_how_far_apart_they_are():
    limit = limit_of(CABINET, 672.0)
    rough, period, gain, exact = relay_figures(cycled(2.0), limit)
    assert (gain.value, exact.value) == (limit.gain, limit.period_s)
    assert 0.65 < rough.value / gain.value < 0.9 and "less" in rough.reason  # lag-dominant, with a hysteresis besides
    assert period.value > exact.value and "more" in period.reason
    alone = relay_figures(cycled(2.0), None)
    assert len(alone) == 2 and "nothing to compare with" in alone[0].reason


def test_what_does_not_cycle_on_and_off_gives_none():
    assert relay_figures(cycled(2.0, 400.0), None) == ()
    held = Simulation(from_fopdt(CABINET), LOOP, 21.0).advance(6000.0, 2.0)
    assert relay_figures(Series(*held.columns), None) == ()
