"""Two loops in a row, judged by python-control's frequency responses and by a general solver of the same loops in continuous time."""

from dataclasses import replace

import control
import numpy as np
import pytest
from scipy.integrate import solve_ivp

from rellux.core.errors import Refused
from rellux.core.process.models import FOPDT
from rellux.core.tuning.cascade import CHAMBER, HEATER, Cascade, HeatedChamber, cascade, outer_margins, responses, tried
from tests.examples import cases

RIG = HeatedChamber(FOPDT(6.0, 900.0, 20.0), 380.0, 100.0, 40.0, 630.0)


def some_rig(seed: int) -> HeatedChamber:
    """Heater and chamber of any proportion: dead time from none to the heater's own and more."""
    rng = np.random.default_rng(seed)
    lag, rise, holds = 10 ** rng.uniform(2.0, 4.0), rng.uniform(50.0, 1000.0), rng.uniform(20.0, 75.0)
    hotter = rise * rng.uniform(0.1, 0.6)
    heater = lag * rng.uniform(0.01, 0.3) * hotter / rise
    dead = rng.uniform(0.0, 0.1) * lag
    return HeatedChamber(FOPDT(rise / holds, lag, dead), rise, hotter, heater, rise + hotter * rng.uniform(1.3, 3.0))


def transfer(rig: HeatedChamber) -> tuple[control.TransferFunction, control.TransferFunction]:
    """Heater and chamber to the output, by the two equations, without what delays the chamber's reading."""
    heater_j, chamber_j = rig.network().capacities
    g, power = rig.link, rig.process.gain
    system = control.ss(
        [[-g / heater_j, g / heater_j], [g / chamber_j, -(g + 1.0) / chamber_j]],
        [[power / heater_j], [0.0]],
        np.eye(2),
        0,
    )
    both = control.tf(system)
    return both[HEATER, 0], both[CHAMBER, 0]


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(cases(6)))
def test_responses_and_the_outer_loop_are_those_of_python_control(seed):
    found = cascade(some_rig(seed), 0.5, 2.0)
    rig = found.rig
    w = np.geomspace(1e-6, 1e2, 8000)
    heater, chamber = (g(1j * w) for g in transfer(rig))
    chamber = chamber * np.exp(-1j * w * rig.later_s)
    for mine, theirs in zip(responses(rig, w), (heater, chamber), strict=True):
        assert mine == pytest.approx(theirs, rel=1e-6)
    inner, outer = (p.gain * (1.0 + 1.0 / (1j * w * p.integral_time_s)) for p in (found.inner, found.outer))
    inner = inner * heater * np.exp(-1j * w * 1.25)  # half a sample and half a period
    plant = inner / (1.0 + inner) * chamber / heater * np.exp(-0.5j * w * found.sample_s)
    assert outer_margins(found).ms == pytest.approx(np.abs(1.0 / (1.0 + outer * plant)).max(), rel=0.01)
    assert outer_margins(found).ms <= 1.6


def continuous(found: Cascade, in_cascade: bool, low: float) -> float:
    """The judge: how far low mains take the chamber down, both loops without samples, from rest."""
    rig = found.rig
    heater_j, chamber_j = rig.network().capacities
    g, full, u0 = rig.link, rig.process.full_power_rise_c / 100.0, rig.holds_percent
    hot = rig.rise_c + rig.hotter_c
    inner, outer = (found.inner, found.outer) if in_cascade else (None, found.single)

    def slope(t, x):
        heater, chamber, one, two = x
        error = rig.rise_c - chamber
        asked = outer.gain * error + one
        if inner:
            off = asked - heater
            u, more = inner.gain * off + two, inner.gain / inner.integral_time_s * off
        else:
            u, more = asked, 0.0
        heat = full * low**2 * u
        return [
            (heat - g * (heater - chamber)) / heater_j,
            (g * (heater - chamber) - chamber) / chamber_j,
            outer.gain / outer.integral_time_s * error,
            more,
        ]

    start = [hot, rig.rise_c, hot if inner else u0, u0]
    span = 2.0 * rig.process.lag_s
    seen = solve_ivp(slope, (0.0, span), start, method="LSODA", rtol=1e-9, atol=1e-9, max_step=span / 2000)
    return float(rig.rise_c - seen.y[1].min())


@pytest.mark.parametrize("in_cascade", [True, False])
@pytest.mark.parametrize("seed", range(cases(2)))
def test_low_mains_take_off_what_a_solver_says(seed, in_cascade):
    rig = replace(some_rig(seed), process=replace(some_rig(seed).process, dead_time_s=0.0))
    assert rig.later_s == 0.0
    found = cascade(rig, rig.heater_lag_s / 200.0, 0.0)
    told = tried(found, in_cascade, 0.95).dip_c
    assert told == pytest.approx(continuous(found, in_cascade, 0.95), rel=0.05, abs=0.01)


@pytest.mark.parametrize("seed", range(cases(6)))
def test_both_loops_come_up_without_winding_up_and_the_heater_keeps_within_its_limit(seed):
    rig = some_rig(100 + seed)
    found = cascade(rig, max(rig.heater_lag_s / 40.0, 0.05), 0.0)
    course = tried(found, True, 0.95)
    up = course.chamber_c[course.time_s < course.falls_s]
    assert up.max() - rig.rise_c <= max(0.02 * rig.rise_c, 1.0)
    assert course.hottest_heater_c <= rig.most_c + 0.1 * rig.hotter_c
    assert abs(course.chamber_c[-1] - rig.rise_c) <= 0.02 * rig.rise_c
    assert found.times_quicker >= 3.0 - 1e-9


def test_a_heater_that_is_most_of_it_is_refused_with_what_it_may_be():
    slow = replace(RIG, heater_lag_s=200.0)
    with pytest.raises(Refused) as refused:
        slow.network()
    assert refused.value.problems[0].field == "heater_lag_s"
    replace(RIG, heater_lag_s=118.0).network()


def test_a_chamber_that_is_looked_at_too_seldom_is_refused_with_how_often():
    quick = replace(RIG, process=FOPDT(6.0, 200.0, 5.0), heater_lag_s=10.0)
    with pytest.raises(Refused) as refused:
        cascade(quick, 2.6, 0.0)
    assert refused.value.problems[0].field == "sample_s"
    assert len(tried(cascade(quick, 2.5, 0.0), True, 0.95).time_s) > 10
