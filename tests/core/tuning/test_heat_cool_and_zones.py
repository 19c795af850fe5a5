"""A cooler beside the heater, and other zones, among what candidates are tried on: never in turns, calm whatever the others do."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from rellux.core.control.pid import PID
from rellux.core.control.settings import ControllerSettings, CoolingBand, Mode
from rellux.core.plant.simulation import Simulation
from rellux.core.process.models import FOPDT, times_as_hot
from rellux.core.process.networks import from_model
from rellux.core.tuning.candidates import calm_settings, heat_cool, proposals, try_out
from rellux.core.tuning.choosing import Priority
from rellux.core.tuning.comparison import compare, setting_figures
from rellux.core.tuning.cooled_too import CooledToo
from rellux.core.tuning.hand import as_entered
from rellux.core.tuning.heat_cool import carries_on_c, clear_above_c
from rellux.core.tuning.trials import Trial, begun
from tests.examples import cases

from .test_trials import situation

RUNS_ON = CoolingBand(3.0, 1.5, 0.0, 60.0)
PROCESSES = st.builds(FOPDT, st.floats(0.8, 4.0), st.floats(120.0, 4000.0), st.floats(2.0, 60.0))
COOLERS = st.builds(
    CooledToo, st.floats(0.2, 6.0), st.floats(-30.0, 5.0), st.sampled_from([CoolingBand(3.0, 1.5), RUNS_ON])
)


def calm(s):
    """The calm rule's numbers, as they would be tried."""
    return try_out(s, next(p for p in proposals(s) if p.settings == calm_settings(s)))


@pytest.mark.slow
@settings(max_examples=cases(25), deadline=None)
@given(PROCESSES, COOLERS, st.floats(30.0, 120.0))
def test_heat_and_cool_do_not_take_turns_and_their_heat_up_is_without_the_cooler(process, too, setpoint):
    """A day of it from above the set-point, with both at work: the cooler comes on once, and below what is highest."""
    if 100.0 * process.gain < 1.3 * (setpoint - 21.0):
        return
    s = replace(situation(process, setpoint, window_high_c=setpoint + 25.0), cooler=too)
    bare = calm(s)
    told = heat_cool(s, bare)
    if told is None:
        return
    both = try_out(s, told, (Trial.HEAT_UP,))
    assert both.heat_up.worst == bare.heat_up.worst and both.heat_up.found == bare.heat_up.found
    above = told.settings.cooling.above_c
    day = Simulation(s.network, told.settings, 21.0, s.step_s(told.settings))
    day.start_at(setpoint + above + 1.0, 100.0 * s.duty())
    day.advance(60.0 * process.lag_s)
    assert day.coolings <= 1 and above < 25.0


@pytest.mark.slow
def test_what_follows_down_sooner_is_preferred_where_all_else_is_alike():
    """Its cooler far off as it is set: nearer it is sooner down. Where it stands as near already nothing is sooner."""
    process = FOPDT(1.2, 900.0, 3.0)
    far, there = (
        replace(situation(process, 60.0, window_high_c=75.0), cooler=CooledToo(1.0, -10.0, CoolingBand(a, a / 2.0)))
        for a in (9.0, 1.0)
    )
    found = compare(far)
    assert found.preferred[Priority.NO_OVERSHOOT].key == "heat_cool"
    mine = found.candidate("heat_cool")
    alike = next(
        c for c in found.candidates
        if c is not mine and c.proposal.settings == replace(mine.proposal.settings, cooling=None)
    )  # fmt: skip
    assert mine.tried[Trial.DOWN].worst.back_s < alike.tried[Trial.DOWN].worst.back_s
    assert mine.heat_up.worst == alike.heat_up.worst and alike.proposal.name in mine.proposal.aim
    values, figures = as_entered(mine.proposal.settings), setting_figures(far, mine.proposal)
    assert values["cool_above_c"] == figures[-2].value and values["cool_hysteresis_c"] == figures[-1].value
    room, swing, clear = (i.value for i in figures[-2].inputs)
    assert figures[-2].value == pytest.approx(max(min(max(0.15 * room, 1.0), 5.0), 1.5 * swing, clear), abs=0.051)
    assert "cool_above_c" not in as_entered(alike.proposal.settings)
    assert compare(there).preferred[Priority.NO_OVERSHOOT].key != "heat_cool"


@settings(max_examples=cases(60), deadline=None)
@given(PROCESSES, COOLERS, st.floats(30.0, 120.0))
def test_clear_is_half_as_much_again_as_is_carried_on_and_no_more(process, too, setpoint):
    """By the exponential towards where both end: the fall from where it goes off, or its least run from where it comes on, is two thirds of
    what there is to the set-point, and neither is more."""
    told = situation(process, setpoint).settings
    clear = clear_above_c(process, too, told, 21.0)
    if clear is None:
        return
    both, late, rise = 1.0 + too.times_loss, process.dead_time_s + told.sample_s, setpoint - 21.0
    ends = too.times_loss * too.coolant_rise_c / both

    def of_what_there_is(above, for_s):
        return 1.5 * (rise + above - ends) * (1.0 - np.exp(-both * for_s / process.lag_s)) / above

    shares = of_what_there_is(clear / 2.0, late), of_what_there_is(clear, too.band.run_s + late)
    assert max(shares) == pytest.approx(1.0, rel=1e-6)
    here = replace(too, band=CoolingBand(clear, clear / 2.0, 0.0, too.band.run_s))
    assert carries_on_c(process, here, told, 21.0) <= clear / 2.0


def test_a_cooler_that_pulls_through_from_anywhere_makes_no_candidate_and_that_is_said():
    weak, strong = (
        replace(situation(FOPDT(1.2, 900.0, 8.0), 60.0), cooler=CooledToo(q, -30.0, CoolingBand(3.0, 1.5)))
        for q in (0.2, 60.0)
    )
    assert heat_cool(weak, calm(weak)) is not None and heat_cool(strong, calm(strong)) is None
    assert "no distance is clear" in compare(strong).short and "no distance is clear" not in compare(weak).short


@settings(max_examples=cases(20), deadline=None)
@given(PROCESSES, st.floats(0.05, 0.8), st.floats(1.0, 12.0))
def test_zones_that_get_warmer_push_it_as_their_share_does(process, share, gain):
    """Against the balance of one degree: with no integral it ends ``s Δ / (1 + K K_c)`` off; by the course of SciPy with none at all."""
    s = replace(situation(process, 21.0 + 40.0 * process.gain), beside=share)
    told = replace(s.settings, mode=Mode.PID, pid=PID(gain, float("inf")), period_s=0.0)
    network = replace(from_model(process), dead_time_s=0.0)
    warm = Simulation(network, told, 21.0, s.step_s(told))
    warm.advance(25.0 * process.lag_s)
    rig = begun(warm, network, s.stage, Trial.NEIGHBOUR)
    before, after = warm.reading_c, rig.advance(25.0 * process.lag_s).reading_c[-1]
    assert after - before == pytest.approx(share * s.stage.moved_c / (1.0 + process.gain * gain), rel=0.02, abs=2e-3)
    held = Simulation(network, replace(told, mode=Mode.OFF), 21.0, s.step_s(told))
    left = begun(held, network, s.stage, Trial.NEIGHBOUR).advance(process.lag_s)
    pushed = solve_ivp(
        lambda _t, x: (share * s.stage.moved_c - x) / process.lag_s, (0.0, process.lag_s), [0.0], rtol=1e-8
    )
    assert left.reading_c[-1] - 21.0 == pytest.approx(pushed.y[0, -1], rel=0.02, abs=1e-3)


def peak_of_s(process, told, dead_s):
    """Ms over a grid of frequencies, from the textbook loop."""
    w = np.geomspace(1e-3, 30.0, 4000) / dead_s
    plant = process.gain * np.exp(-1j * w * dead_s) / (1.0 + 1j * w * process.lag_s)
    pid = told.pid.gain * (1.0 + 1.0 / (1j * w * told.pid.integral_time_s))
    return np.abs(1.0 / (1.0 + plant * pid)).max()


@settings(max_examples=cases(60), deadline=None)
@given(PROCESSES, st.floats(0.05, 0.8))
def test_what_is_tuned_with_the_others_held_is_calm_whatever_they_do(process, share):
    """Two zones alike, closed together, are their sum and their difference: one loses only what goes to the room, the other twice what lies
    between. With the others off it is the first. Their gain and lag change alike, which these numbers do not feel."""
    s = situation(process, 21.0 + 40.0 * process.gain)
    told, dead = calm_settings(s), s.known.one.dead_time_s
    for times in (1.0, 1.0 / (1.0 - share), 1.0 / (1.0 + share)):
        assert peak_of_s(times_as_hot(process, times), told, dead) < 1.75


def test_only_zones_are_tried_with_others_beside_them():
    alone, zone = situation(), replace(situation(), beside=0.3)
    assert Trial.NEIGHBOUR not in alone.stage.trials and Trial.NEIGHBOUR in zone.stage.trials
    proposal = next(p for p in proposals(zone) if p.key == "on_off")
    found = try_out(zone, proposal, (Trial.NEIGHBOUR,))
    assert found.tried[Trial.NEIGHBOUR].found.away_c > 0.0
    assert isinstance(found.proposal.settings, ControllerSettings)
