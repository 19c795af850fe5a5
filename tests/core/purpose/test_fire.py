"""A fire with a fan: what it does with the fan standing, how it is kept alight, and what cannot be."""

from dataclasses import replace
from itertools import product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.errors import Refused
from rellux.core.guarding.by_effect import moved_w, propose
from rellux.core.guarding.family import HeatedRig, assumed
from rellux.core.guarding.ladder import Situation, ladder
from rellux.core.guarding.plan import Plan
from rellux.core.heating.conductor_tables import Practice
from rellux.core.messages import spoken_time
from rellux.core.plant.rig_models import CHARACTERS, HOLDS, check_fire, network_of, rests_c
from rellux.core.plant.simulation import Simulation
from rellux.core.purpose.checks import purpose_findings
from rellux.core.purpose.heater import heater_current
from rellux.core.purpose.purpose import Effect, Fire, Purpose, RigKind, Supply, check_purpose
from rellux.core.setup.checks import check_sheet
from rellux.core.setup.parameters import parameters_for
from rellux.core.setup.proposals import propose as propose_sheet
from rellux.core.setup.proposals.facts import RigFacts
from rellux.core.wiring.choice import Actuator, Choice, Output, switched_a
from rellux.core.wiring.usual_circuits import Usual, usual

FIRE = Fire(12_000.0, 5.0, 300.0)
BOILER = Purpose(75.0, 90.0, "it boils over", Supply.SINGLE_PHASE, 230.0, 40.0, 230.0, ambient_c=18.0, fire=FIRE)
CHOICE = Choice("Pt100", Output.RELAY, Actuator.RELAY, True, Practice.IEC)
KINDS = st.sampled_from([RigKind.BOILER, RigKind.KILN, RigKind.OVEN, RigKind.FIRE])


def stepped(network, ambient_c, idle_w, output, start, times):
    """Its nodes by SciPy's Runge–Kutta, the idle heat as what it is: heat at the fire, in a room that is cold."""
    c, g = np.array(network.capacities), network.conductance_matrix()
    heat = np.zeros(len(c))
    heat[network.heater_node] = idle_w + network.heater_power_w * output
    solved = solve_ivp(
        lambda _t, x: (heat - g @ x) / c, (0.0, times[-1]), start, t_eval=times, rtol=1e-9, atol=1e-9, method="LSODA"
    )
    return solved.y[network.sensor_node] + ambient_c


@settings(max_examples=25, deadline=None)
@given(KINDS, st.floats(0.0, 40.0), st.floats(10.0, 3000.0), st.floats(0.0, 1.0))
def test_what_glows_on_is_as_good_as_a_warmer_room(kind, idle_percent, dies_s, output):
    """The simulation in the room it settles at, against the heat put in at the fire in the real room."""
    purpose = replace(BOILER, working_c=300.0, highest_c=400.0, fire=Fire(8000.0, idle_percent, dies_s))
    network = replace(network_of(kind, purpose), dead_time_s=0.0, sensor_lag_s=0.0)
    room, warmer = purpose.ambient_c, rests_c(kind, purpose)
    manual = ControllerSettings(100.0, Mode.MANUAL, manual_output=100.0 * output, period_s=0.0)
    run = Simulation(network, manual, warmer, 1.0)
    run.start_at(warmer)
    got = run.advance(4000.0, 200.0)
    times = np.arange(1.0, len(got.time_s)) * 200.0
    idle_w = purpose.fire.idle * purpose.fire.fire_w
    glowing = np.linalg.solve(network.conductance_matrix(), [idle_w, 0.0, 0.0])
    assert warmer == pytest.approx(room + glowing[network.sensor_node], abs=1e-6)
    truth = stepped(network, room, idle_w, output, glowing, times)
    assert np.allclose(got.reading_c[1:], truth, atol=0.01 + 1e-3 * (truth.max() - warmer))


@pytest.mark.slow
@settings(max_examples=25, deadline=None)
@given(KINDS, st.floats(60.0, 1500.0), st.floats(600.0, 6000.0), st.floats(40.0, 110.0))
def test_after_its_fan_stops_it_dies_down_by_itself(kind, dies_s, blown_s, working_c):
    """Judged by a bed whose release follows its fan with one lag, whatever it heats, into chamber and lining, by Runge–Kutta."""
    purpose = replace(BOILER, working_c=working_c, highest_c=400.0, fire=Fire(8000.0, 0.0, dies_s))
    network = replace(network_of(kind, purpose), dead_time_s=0.0, sensor_lag_s=0.0)
    c, g = np.array(network.capacities[1:]), network.conductance_matrix()[1:, 1:].copy()
    g[0, 0] -= network.links[0][2]  # what it gives to the fire: nothing

    def flow(t, x):
        asked = 8000.0 if t < blown_s else 0.0
        return [(asked - x[0]) / dies_s, *((np.array([x[0], 0.0]) - g @ x[1:]) / c)]

    times = np.arange(0.0, blown_s + 6.0 * dies_s, 20.0)
    solved = solve_ivp(flow, (0.0, times[-1]), np.zeros(3), t_eval=times, rtol=1e-8, max_step=20.0)
    blown = ControllerSettings(400.0, Mode.MANUAL, manual_output=100.0, period_s=0.0)
    run = Simulation(network, blown, purpose.ambient_c, 1.0)
    before = run.advance(blown_s).reading_c[-1]
    run.apply(replace(blown, manual_output=0.0))
    peak = run.advance(6.0 * dies_s).reading_c.max()
    truth = solved.y[1] + purpose.ambient_c
    runs_on = truth.max() - np.interp(blown_s, times, truth)
    assert abs((peak - before) - runs_on) < 0.3 + 0.15 * runs_on


@settings(max_examples=40, deadline=None)
@given(
    st.floats(30.0, 400.0),
    st.floats(2.0, 29.0),
    st.sampled_from([Mode.ON_OFF, Mode.PID, Mode.MANUAL, Mode.OFF]),
    st.floats(60.0, 95.0),
    st.booleans(),
)
def test_it_never_stands_longer_than_it_may_and_never_blows_when_it_is_off(after, breath, mode, start_c, broken):
    told = ControllerSettings(75.0, mode, period_s=20.0, alive_after_s=after, alive_s=breath)
    run = Simulation(network_of(RigKind.BOILER, BOILER), told, rests_c(RigKind.BOILER, BOILER), 0.5)
    run.start_at(start_c)
    run.break_sensor(broken)
    on = run.advance(3000.0).switch > 0.5
    if mode is Mode.OFF or broken:
        assert not on.any()
        return
    edges = np.flatnonzero(np.diff(np.concatenate(([1], on.astype(int), [1]))))
    pauses = np.diff(edges)[::2] * 0.5
    assert pauses.max(initial=0.0) <= after + 21.0  # a period may have begun
    if start_c > 80.0 and mode is Mode.ON_OFF:
        assert on.any() and on[: int(after / 0.5) - 1].sum() == 0
        first = np.flatnonzero(on)[0]
        assert on[first : first + int(breath / 0.5)].all() and not on[first + int(breath / 0.5) + 2]


def test_what_is_said_of_a_kind_over_a_fire_is_what_its_model_does():
    """The sentence's time against the network stepped by Runge–Kutta, with the embers a fire is taken to have."""
    for kind in (RigKind.BOILER, RigKind.KILN):
        purpose = replace(BOILER, working_c=121.0, ambient_c=21.0, fire=replace(FIRE, idle_percent=0.0))
        network = replace(network_of(kind, purpose), dead_time_s=0.0)
        times = np.linspace(0.0, 40_000.0, 40_001)
        rise = stepped(network, 0.0, 0.0, 1.0, np.zeros(3), times)
        end = network.equilibrium_rise()[network.sensor_node]
        at = float(np.interp((1.0 - np.exp(-1.0)) * end, rise, times))
        assert spoken_time(at) in assumed(kind, burns=True)


def test_a_fire_that_holds_it_by_itself_is_asked_back():
    most = 100.0 * HOLDS / CHARACTERS[RigKind.BOILER].reserve
    check_fire(RigKind.BOILER, replace(BOILER, fire=replace(FIRE, idle_percent=most - 0.1)))
    check_fire(RigKind.BOILER, replace(BOILER, fire=None))
    with pytest.raises(Refused) as refused:
        check_fire(RigKind.BOILER, replace(BOILER, fire=replace(FIRE, idle_percent=most + 0.1)))
    assert refused.value.problems[0].field == "fire.idle_percent"


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"fire": replace(FIRE, fire_w=12.0)}, "fire.fire_w"),
        ({"fire": replace(FIRE, fire_w=float("nan"))}, "fire.fire_w"),
        ({"fire": replace(FIRE, idle_percent=100.0)}, "fire.idle_percent"),
        ({"fire": replace(FIRE, idle_percent=-1.0)}, "fire.idle_percent"),
        ({"fire": replace(FIRE, dies_s=0.0)}, "fire.dies_s"),
        ({"supply": Supply.THREE_PHASE, "supply_voltage_v": 400.0}, "supply"),
        ({"effect": Effect.WATCHES, "heater_power_w": 0.0, "heater_voltage_v": 0.0}, "fire"),
    ],
)
def test_what_cannot_be_is_refused_by_its_field(change, field):
    check_purpose(BOILER)
    with pytest.raises(Refused) as refused:
        check_purpose(replace(BOILER, **change))
    assert field in [p.field for p in refused.value.problems]


def test_what_is_switched_is_the_fan_and_what_heats_is_the_fire():
    assert heater_current(BOILER).value == pytest.approx(40.0 / (230.0 * 0.6))
    assert switched_a(BOILER) == pytest.approx(3.0 * heater_current(BOILER).value)
    assert moved_w(BOILER) == 12_000.0
    wiring = usual(BOILER, CHOICE, Usual.PARTS)
    assert [p.type.kind for p in wiring.parts if p.heats] == ["fire_fan"] and wiring.driven.noun == "fan"
    assert {"alive_after_s", "alive_s"} <= {p.name for p in parameters_for(BOILER)}
    assert not {"alive_after_s", "alive_s"} & {p.name for p in parameters_for(replace(BOILER, fire=None))}


def test_a_cold_boiler_is_advised_and_a_warm_one_is_not():
    rules = lambda **changed: {f.rule for f in purpose_findings(replace(BOILER, **changed), RigKind.BOILER)}  # noqa: E731
    assert rules(working_c=59.9) == {"purpose.condenses"}
    assert rules() == rules(working_c=60.0) == rules(working_c=59.9, fire=None) == set()


def rules_of(**values: float) -> set[str]:
    facts = RigFacts(BOILER, "Pt100", "relay", full_rise_c=CHARACTERS[RigKind.BOILER].reserve * 57.0)
    sheet = {**{p.name: p.value for p in propose_sheet(facts)}, **values}
    return {
        f"{f.rule} {f.severity}" for f in check_sheet(sheet, facts) if f.rule.startswith(("setup.goes", "setup.alive"))
    }


def test_what_keeps_it_alight_is_counted_as_heat():
    """75 °C are 57 above the room, full heat brings 102.6: 5 % and breaths of 0.529 of the time hold 75, of 0.68 hold 90."""
    assert rules_of() == set()
    assert rules_of(alive_after_s=0.0) == rules_of(alive_s=0.0) == {"setup.goes-out advice"}
    assert rules_of(alive_after_s=100.0, alive_s=112.0) == set()
    assert rules_of(alive_after_s=100.0, alive_s=114.0) == {"setup.alive-heats fault"}
    assert rules_of(alive_after_s=100.0, alive_s=230.0) == {"setup.alive-heats danger"}


def guarded(dies_s: float) -> tuple[Plan, Situation]:
    rig = HeatedRig(RigKind.BOILER, replace(BOILER, fire=replace(FIRE, dies_s=dies_s)), 12_000.0)
    first = Situation(rig, Plan(), "Pt100", ControllerSettings(75.0, hysteresis_c=4.0), 84.0, None, True)
    plan = propose(first).plan
    return plan, replace(first, plan=plan)


def peak_of(network, room: float, trip_c: float) -> float:
    """From cold at full blast until the limiter's own sensor is at its value, then without: by Runge–Kutta."""
    c, g, heated = np.array(network.capacities), network.conductance_matrix(), np.zeros(len(network.capacities))
    heated[network.heater_node] = network.heater_power_w

    def flow(on, lag_s):
        return lambda _t, x: np.append((on * heated - g @ x[:-1]) / c, (x[network.sensor_node] - x[-1]) / lag_s)

    def tripped(_t, x):
        return x[-1] + room - trip_c

    tripped.terminal = True
    start = np.zeros(len(c) + 1)
    up = solve_ivp(flow(1.0, 15.0), (0.0, 1e6), start, events=tripped, method="LSODA", rtol=1e-7, max_step=20.0)
    late = solve_ivp(flow(1.0, 15.0), (0.0, network.dead_time_s + 0.2), up.y[:, -1], method="LSODA", rtol=1e-7)
    on = solve_ivp(flow(0.0, 15.0), (0.0, 8000.0), late.y[:, -1], method="LSODA", rtol=1e-7, max_step=20.0)
    return float(max(late.y[network.sensor_node].max(), on.y[network.sensor_node].max())) + room


@pytest.mark.slow
@pytest.mark.parametrize("dies_s", [20.0, 300.0, 1200.0])
def test_the_peak_after_the_limiter_holds_for_fires_and_masses_that_are_otherwise(dies_s):
    plan, situation = guarded(dies_s)
    said = ladder(situation).step("after_trip").high
    worst = -np.inf
    for glows, masses, reserve in product((0.65, 1.0, 1.55), (0.65, 1.0, 1.55), (0.8, 1.0, 1.28)):
        purpose = replace(situation.rig.purpose, fire=replace(FIRE, dies_s=dies_s * glows))
        network = network_of(RigKind.BOILER, purpose)
        true = replace(
            network,
            capacities=tuple(
                v * (1.0 if i == network.heater_node else masses) for i, v in enumerate(network.capacities)
            ),
            heater_power_w=network.heater_power_w * reserve,
        )
        worst = max(worst, peak_of(true, situation.rig.rests_c, plan.limiter.trip_c))
    assert plan.limiter.trip_c < worst <= said


def test_the_longer_it_glows_the_lower_the_limiter_stands():
    trips = [guarded(dies_s)[0].limiter.trip_c for dies_s in (20.0, 300.0, 1200.0)]
    assert trips[0] > trips[1] > trips[2]
