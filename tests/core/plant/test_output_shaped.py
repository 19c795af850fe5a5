"""What a controller does to its output besides PID, against the same loop written out or moved by hand: set-point weight, soft start and
an output that never goes to nothing."""

from dataclasses import replace
from math import inf

import control
import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from rellux.core.control.pid import PID
from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.guarding.family import HeatedRig, family
from rellux.core.guarding.predict import running_overshoot
from rellux.core.plant.simulation import Simulation
from rellux.core.process.models import FOPDT
from rellux.core.process.networks import from_model
from rellux.core.purpose.purpose import Purpose, RigKind, Supply
from rellux.core.setup.parameters import settings_from
from rellux.core.setup.proposals import propose
from rellux.core.setup.proposals.facts import RigFacts
from rellux.core.tuning.situation import Situation
from tests.examples import cases

OVEN = Purpose(120.0, 150.0, "the glue browns", Supply.SINGLE_PHASE, 230.0, 1800.0, 230.0)
PROCESS = FOPDT(1.5, 400.0, 0.0)
LOOP = ControllerSettings(120.0, Mode.PID, pid=PID(2.0, 200.0), period_s=0.0)


@settings(max_examples=cases(15), deadline=None)
@given(st.floats(0.0, 1.0), st.floats(0.2, 4.0), st.floats(60.0, 900.0))
def test_a_weighted_set_point_goes_as_python_control_says(weight, gain, integral_s):
    """Small steps that stay within the limits: ``u = K (b r − y) + K/Ti ∫(r − y)`` round one lag (Åström & Hägglund, chapter 3)."""
    loop = replace(LOOP, setpoint_c=22.0, pid=PID(gain, integral_s, setpoint_weight=weight), sample_s=0.25)
    run = Simulation(from_model(PROCESS), replace(loop, output_low=0.0), 20.0, 0.25)
    seen = run.advance(3000.0, 5.0)
    s = control.tf("s")
    plant, feedback = PROCESS.gain / (PROCESS.lag_s * s + 1), gain * (1 + 1 / (integral_s * s))
    closed = control.minreal(plant * gain * (weight + 1 / (integral_s * s)) / (1 + plant * feedback), verbose=False)
    told = control.step_response(closed, seen.time_s)
    inside = (seen.output > 0.01).all() and (seen.output < 99.0).all()
    assume(inside)
    assert np.abs(seen.reading_c - 20.0 - 2.0 * told.outputs).max() < 0.03


@pytest.mark.slow
@settings(max_examples=cases(15), deadline=None)
@given(st.floats(30.0, 1500.0), st.floats(0.0, 15.0), st.floats(30.0, 100.0), st.sampled_from([0.0, 4.0]))
def test_a_soft_start_is_an_output_limit_moved_by_hand_at_every_sample(soft_s, low, high, period_s):
    loop = replace(LOOP, soft_start_s=soft_s, output_low=low, output_high=high, period_s=period_s, sample_s=1.0)
    soft, hard = (Simulation(from_model(PROCESS), s, 20.0, 1.0) for s in (loop, replace(loop, soft_start_s=0.0)))
    for k in range(2000):
        top = max(min(high * k / soft_s, high), low + 1e-9, 1e-9)
        hard.apply(replace(loop, soft_start_s=0.0, output_high=top))
        soft.advance(1.0), hard.advance(1.0)
        assert soft.reading_c == pytest.approx(hard.reading_c, abs=1e-6)
        assert period_s or soft.output <= top + 1e-9


def test_it_is_over_once_and_for_all():
    """Off and on again later is no power cut."""
    loop = replace(LOOP, soft_start_s=600.0)
    run = Simulation(from_model(PROCESS), loop, 20.0, 0.5)
    assert run.advance(300.0).output.max() <= 50.0
    run.advance(2000.0)
    run.apply(replace(loop, mode=Mode.OFF))
    run.advance(3000.0)
    plain = run.branch()
    run.apply(loop), plain.apply(replace(loop, soft_start_s=0.0))
    assert np.array_equal(run.advance(900.0).output, plain.advance(900.0).output)


@settings(max_examples=cases(20), deadline=None)
@given(st.floats(0.0, 1.0), st.floats(0.0, 90.0), st.floats(0.2, 8.0), st.floats(20.0, 115.0))
def test_taking_over_from_by_hand_makes_no_step(weight, by_hand, gain, at_c):
    run = Simulation(from_model(PROCESS), replace(LOOP, mode=Mode.MANUAL, manual_output=by_hand), 20.0, 0.5)
    run.start_at(at_c)
    run.advance(20.0)
    run.apply(replace(LOOP, pid=PID(gain, 1e6, setpoint_weight=weight)))
    then = run.reading_c
    after = run.advance(1.0)
    assert after.output[-1] == pytest.approx(by_hand, abs=0.01 + 1.1 * gain * np.abs(after.reading_c - then).max())


@pytest.mark.parametrize("mode", [Mode.PID, Mode.ON_OFF])
@pytest.mark.parametrize("low", [0.0, 20.0, 70.0])
def test_what_never_switches_off_is_foretold_as_it_settles(mode, low):
    rig = HeatedRig(RigKind.OVEN, OVEN, 1800.0)
    rigs, told = family(rig), replace(LOOP, mode=mode, pid=PID(5.0, 900.0), output_low=low)
    found = running_overshoot(rigs, told, 21.0)
    rests = 21.0 + low / 100.0 * rigs.likely.equilibrium_rise()[rigs.likely.sensor_node] - 120.0
    assert found.value >= rests - 0.5 and found.low <= found.value <= found.high
    assert low < 70.0 or found.value == pytest.approx(rests, abs=0.1)


def test_a_sheet_is_run_as_it_says():
    sheet = {p.name: p.value for p in propose(RigFacts(OVEN, "K", "ssr"))}
    usual = settings_from(sheet, OVEN)
    assert (usual.output_low, usual.soft_start_s, usual.pid.setpoint_weight) == (0.0, 0.0, 1.0)
    changed = {**sheet, "setpoint_weight": 0.3, "soft_start_s": 90.0, "output_low": 5.0}
    told = settings_from(changed, OVEN)
    assert (told.output_low, told.soft_start_s, told.pid.setpoint_weight) == (5.0, 90.0, 0.3)
    assert settings_from({**changed, "output_low": 80.0, "output_high": 60.0}, OVEN).output_low == 59.0
    situation = Situation(PROCESS, told, 21.0, 110.0, 150.0)
    assert situation.with_pid(PID(3.0, inf)).pid == PID(3.0, inf, setpoint_weight=0.3)
