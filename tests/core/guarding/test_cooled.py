"""A rig that cools: its switch stuck, its low limiter and its compressor, against true rigs behind what is known of them."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.guarding.cooled import cool_findings, cool_stuck, cooled, propose_cool, twin_of
from rellux.core.guarding.family import MASSES_UNKNOWN, RESERVE_UNKNOWN, HeatedRig
from rellux.core.guarding.ladder import Situation, sensor_error
from rellux.core.guarding.plan import Limiter, LimiterReset, Plan, ThermalFuse
from rellux.core.plant.rig_models import network_of, pumped_at_work
from rellux.core.plant.simulation import Simulation
from rellux.core.purpose.purpose import Effect, Purpose, RigKind, Supply
from tests.core.guarding.rigs import between_steps
from tests.examples import cases

BOX = Purpose(4.0, 10.0, "they drift", Supply.SINGLE_PHASE, 230, 90, 230, -8.0, "it freezes", 23.0, effect=Effect.COOLS)
RUNS = ControllerSettings(4.0, Mode.ON_OFF, 2.0, cools=True, rest_s=240.0, run_s=90.0)


def situation(purpose=BOX, plan=None, setpoint_low_c=0.0, **changed):
    rig = HeatedRig(RigKind.COLD, purpose, pumped_at_work(purpose))
    base = Situation(rig, plan or Plan(), "Pt100", replace(RUNS, setpoint_c=purpose.working_c), setpoint_low_c)
    return replace(base, **changed)


def rules(case):
    return {f.rule: f.severity.value for f in cool_findings(cooled(case), case)}


def generated(seed):
    rng = np.random.default_rng(seed)
    room = float(rng.uniform(15, 35))
    working = room - float(rng.uniform(8, 45))
    lowest = working - float(rng.uniform(2, 25))
    purpose = replace(
        BOX,
        working_c=working,
        highest_c=working + 5.0,
        lowest_c=lowest,
        ambient_c=room,
        heater_power_w=float(rng.uniform(30, 800)),
    )
    typical = network_of(RigKind.COLD, purpose)
    stretch = float(rng.uniform(1 / MASSES_UNKNOWN, MASSES_UNKNOWN))
    reserve = float(rng.uniform(1 / RESERVE_UNKNOWN, RESERVE_UNKNOWN))
    truth = replace(
        typical,
        capacities=tuple(c * stretch / reserve for c in typical.capacities),
        links=tuple((i, j, g / reserve) for i, j, g in typical.links),
        to_ambient=tuple(g / reserve for g in typical.to_ambient),
        dead_time_s=typical.dead_time_s * float(rng.uniform(1 / MASSES_UNKNOWN, MASSES_UNKNOWN)),
    )
    return purpose, truth, rng


def coldest(truth, purpose, limiter, error_c):
    """The judge: the true rig with its compressor stuck on out of a hold, its limiter’s sensor reading high by ``error_c``, by SciPy."""
    n, heat = len(truth.capacities), np.zeros(len(truth.capacities))
    heat[truth.heater_node] = truth.heater_power_w
    capacity, matrix = np.array(truth.capacities), truth.conductance_matrix()
    rest = np.linalg.solve(matrix, heat)
    share = (purpose.working_c - purpose.ambient_c) / rest[truth.sensor_node]
    start = np.append(rest * share, rest[truth.sensor_node] * share)
    trip = limiter.trip_c - error_c - purpose.ambient_c

    def slope(on):
        return lambda t, x: np.append(
            (heat * on - matrix @ x[:n]) / capacity, (x[truth.sensor_node] - x[n]) / limiter.lag_s
        )

    def tripped(t, x):
        return x[n] - trip

    tripped.terminal = True
    how = {"rtol": 1e-8, "atol": 1e-8, "method": "LSODA"}
    span = 8.0 * float(capacity.sum() / np.array(truth.to_ambient).sum())
    waits = solve_ivp(slope(share), (0, truth.dead_time_s), start, **how)
    falls = solve_ivp(slope(1.0), (0, span), waits.y[:, -1], events=tripped, **how)
    low = falls.y[truth.sensor_node].min()
    if falls.t_events[0].size:
        goes_on = solve_ivp(slope(1.0), (0, limiter.relay_s + truth.dead_time_s), falls.y[:, -1], **how)
        warms = solve_ivp(slope(0.0), (0, span / 10), goes_on.y[:, -1], max_step=span / 2000, **how)
        low = min(goes_on.y[truth.sensor_node].min(), warms.y[truth.sensor_node].min())
    return float(low + purpose.ambient_c)


@pytest.mark.slow
@settings(max_examples=cases(6), deadline=None)
@given(st.integers(0, 10**6))
def test_what_is_said_to_be_protected_stays_above_its_bound_in_every_rig_it_may_be(seed):
    purpose, truth, rng = generated(seed)
    low = float(rng.uniform(purpose.lowest_c, purpose.working_c - 0.5))
    limiter = Limiter(round(low, 1), 1.0, "Pt100", float(rng.uniform(2, 40)))
    case = situation(purpose, Plan(limiter=limiter), purpose.lowest_c + 1.0)
    found = cooled(case)
    assert between_steps(found)
    reached = coldest(truth, purpose, limiter, sensor_error(limiter.sensor, limiter.trip_c, "").value)
    if "guarding.limiter-too-low" not in rules(case):
        assert reached > purpose.lowest_c - 0.1
    act = cool_stuck(found, case).act_within_s
    alone = Simulation(truth, replace(RUNS, mode=Mode.MANUAL, manual_output=100.0), purpose.ambient_c, 0.5)
    alone.start_at(purpose.working_c)
    if act is not None:
        assert alone.advance(0.98 * act).reading_c.min() > purpose.lowest_c - 0.05


@pytest.mark.slow
@settings(max_examples=cases(10), deadline=None)
@given(st.integers(0, 10**6))
def test_what_is_proposed_protects_or_says_that_no_value_does(seed):
    purpose, _, _ = generated(seed)
    case = situation(purpose, setpoint_low_c=purpose.lowest_c + 1.0)
    offered = propose_cool(case)
    found = rules(replace(case, plan=offered.plan))
    why = next(r.says for r in offered.reasons if r.about == "limiter")
    assert ("guarding.limiter-too-low" in found) == why.startswith("No value protects")
    assert ("guarding.limiter-in-running" in found) == ("No value" in why or "may trip" in why)


@settings(max_examples=cases(12), deadline=None)
@given(st.integers(0, 10**6), st.sampled_from([Mode.ON_OFF, Mode.PID]))
def test_a_cooled_rig_runs_as_its_twin_in_the_mirror(seed, mode):
    """The loop itself: everything mirrored at the room’s temperature gives the same course, mirrored."""
    purpose, truth, _ = generated(seed)
    asked = replace(RUNS, setpoint_c=purpose.working_c, mode=mode, rest_s=0.0, run_s=0.0)
    twin = twin_of(situation(purpose, settings=asked))
    cold = Simulation(truth, asked, purpose.ambient_c, 0.5).advance(7200.0, 5.0)
    warm = Simulation(
        replace(truth, heater_power_w=-truth.heater_power_w), twin.settings, purpose.ambient_c, 0.5
    ).advance(7200.0, 5.0)
    assert np.abs((2.0 * purpose.ambient_c - warm.reading_c) - cold.reading_c).max() < 1e-6
    assert np.array_equal(warm.switch, cold.switch)


@settings(max_examples=cases(12), deadline=None)
@given(st.integers(0, 10**6), st.floats(0.1, 3.0), st.floats(30.0, 400.0), st.floats(0.0, 200.0))
def test_a_compressor_never_starts_too_soon_nor_stops_too_soon(seed, hysteresis, rest, run):
    """Whatever is asked of it on the way; it begins as just stopped. Only switching it off ends a run early."""
    purpose, truth, rng = generated(seed)
    asked = replace(RUNS, setpoint_c=purpose.working_c, hysteresis_c=hysteresis, rest_s=rest, run_s=run)
    simulation = Simulation(truth, asked, purpose.ambient_c, 1.0)
    switch = []
    for _ in range(20):
        simulation.apply(replace(asked, setpoint_c=purpose.working_c + float(rng.uniform(-6, 6))))
        switch.append(simulation.advance(float(rng.uniform(60, 900))).switch)
    changes = np.flatnonzero(np.diff(np.concatenate(([0.0], *switch)))) + 1
    lengths = np.diff(np.concatenate(([0], changes)))
    offs, ons = lengths[0::2], lengths[1::2]
    assert (offs >= rest - 1.0).all() and (ons >= run - 1.0).all()


@pytest.mark.parametrize(
    ("changed", "rule", "near"),
    [
        ({"limiter": None}, "guarding.no-limiter", {}),
        ({"reset": LimiterReset.SELF}, "guarding.limiter-self-resetting", {}),
        ({"trips_on_break": False}, "guarding.limiter-break", {}),
        ({"trip_c": -7.9}, "guarding.limiter-too-low", {"trip_c": -3.0}),
        ({"trip_c": 2.0}, "guarding.limiter-in-running", {"trip_c": -3.0}),
        ({"fuse": ThermalFuse(98.0, 73.0, 30.0)}, "guarding.fuse-cold", {}),
        ({"has_limiter": False}, "guarding.limiter-not-fitted", {}),
    ],
)
def test_a_plan_that_does_not_suit_is_told(changed, rule, near):
    sound = Limiter(-3.0, 1.0, "Pt100", 20.0)

    def case(values):
        own = {k: v for k, v in values.items() if k in ("reset", "trips_on_break", "trip_c")}
        limiter = None if "limiter" in values else replace(sound, **own)
        plan = Plan(limiter=limiter, fuse=values.get("fuse"))
        return situation(plan=plan, has_limiter=values.get("has_limiter", True))

    assert rule in rules(case(changed)) and rule not in rules(case(near))


def test_its_sentences_are_in_its_own_temperatures():
    case = situation(plan=Plan(limiter=Limiter(-3.0, 1.0, "Pt100", 20.0)))
    found = cooled(case)
    assert between_steps(found)
    steps = [s.celsius for s in found.steps]
    assert (
        steps == sorted(steps)
        and found.step("limiter").celsius == pytest.approx(-3.0)
        and found.step("lowest").celsius == -8.0
    )
    answer = cool_stuck(found, case)
    assert "{-8 °C} is not reached" in answer.with_limiter and "heat" not in " ".join(
        (answer.with_limiter, answer.alone, answer.act)
    )
    assert np.all(answer.fast_c <= 4.0 + 1e-9) and {r.key for r in answer.reached} <= {
        "highest",
        "limiter",
        "setpoint_high",
    }
