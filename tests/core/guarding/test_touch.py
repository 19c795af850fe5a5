"""A light that says how hot it is to touch: what it says, and that it does not promise what is still too hot inside."""

from dataclasses import replace
from math import nan

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from rellux.core.errors import Refused
from rellux.core.guarding.accept import with_value
from rellux.core.guarding.by_effect import findings_in
from rellux.core.guarding.cooling import hottest_when
from rellux.core.guarding.family import family
from rellux.core.guarding.feel import Feel, Light
from rellux.core.guarding.ladder import sensor_error
from rellux.core.guarding.plan import Plan, StatusLight, check_plan
from rellux.core.guarding.touch import MINUTES_C, SECOND_C, usual_light
from tests.core.guarding.rigs import CABINET, generated, situation
from tests.examples import cases

LIGHT = StatusLight(43.0, 55.0)
LIMITS = {"guarding.light-cool": MINUTES_C, "guarding.light-warm": SECOND_C}


def told(known):
    return {f.rule: f for f in findings_in(known) if f.rule in LIMITS}


def test_what_it_says_up_and_down():
    light = Light(replace(LIGHT, after_s=0.0))
    readings = (20.0, 42.9, 43.0, 54.9, 55.0, 54.1, 53.9, 43.5, 42.1, 41.9, nan, 42.5, 80.0, 20.0)
    said = [light.look(1.0, r, 0.0).value for r in readings]
    assert " ".join(said) == "cool cool warm warm hot hot warm warm warm cool unknown cool hot cool"


def test_what_heats_is_hot_before_any_reading_says_so_and_for_a_while_after():
    light = Light(replace(LIGHT, after_s=30.0))
    assert [light.look(10.0, 20.0, 0.0).value for _ in range(4)] == [
        "heated",
        "heated",
        "cool",
        "cool",
    ]  # nobody saw before
    assert light.look(1.0, 20.0, 5.0) is Feel.HEATED and light.look(1.0, 60.0, 100.0) is Feel.HOT
    assert [light.look(10.0, 20.0, 0.0).value for _ in range(3)] == ["heated", "heated", "cool"]
    assert light.look(1.0, 20.0, nan) is Feel.UNKNOWN and light.blind() is Feel.UNKNOWN
    assert light.look(1.0, 20.0, 0.0) is Feel.HEATED


@given(
    st.lists(st.tuples(st.floats(-50, 300) | st.just(nan), st.sampled_from([0.0, 40.0, nan])), min_size=1, max_size=30)
)
def test_it_never_says_less_than_the_reading(looks):
    light, order = Light(replace(LIGHT, after_s=3.0)), [Feel.COOL, Feel.WARM, Feel.HOT]
    for i, (reading, output) in enumerate(looks):
        said = light.look(1.0, reading, output)
        assert (said is Feel.UNKNOWN) == (reading != reading or output != output)
        if said in order:
            assert order.index(said) >= (reading >= 43.0) + (reading >= 55.0)
            assert said is Feel.HOT or all(o == 0.0 for _, o in looks[max(i - 2, 0) : i + 1])


@settings(max_examples=cases(8), deadline=None)
@given(st.integers(0, 10**6), st.floats(0.0, 1.0))
def test_after_any_heating_nothing_burns_for_longer_than_the_light_says_hot(seed, share):
    """Judge: the likely rig by SciPy, heated from cold for any time, then left alone; the sensor and dead time left out."""
    known, _, _ = generated(seed)
    light = usual_light(known)
    network, room = family(known.rig).likely, known.rig.purpose.ambient_c
    capacity, matrix, n = np.array(network.capacities), network.conductance_matrix(), network.sensor_node
    full = np.zeros(len(capacity))
    full[network.heater_node] = network.heater_power_w
    slowest = capacity.sum() / np.array(network.to_ambient).sum()
    how = {"method": "LSODA", "rtol": 1e-8, "atol": 1e-8}
    heated = solve_ivp(
        lambda t, x: (full - matrix @ x) / capacity, (0, slowest**share), np.zeros(len(capacity)), **how
    ).y[:, -1]
    if room + heated[n] > max(known.setpoint_high_c, known.settings.setpoint_c):
        return
    times = light.after_s + np.linspace(0, 3 * slowest, 400)
    left = solve_ivp(lambda t, x: -(matrix @ x) / capacity, (0, times[-1]), heated, t_eval=times, **how).y + room
    for reading, hottest in zip(left[n], left.max(axis=0), strict=True):
        assert (
            hottest <= (MINUTES_C if reading < light.warm_c else SECOND_C if reading < light.hot_c else np.inf) + 0.05
        )


@settings(max_examples=cases(10), deadline=None)
@given(st.integers(0, 10**6), st.floats(0.05, 0.9))
def test_what_is_inside_is_as_hot_as_a_general_solver_says(seed, share):
    """Judge: every node by SciPy, stopped where the sensor's comes down to the reading."""
    known, _, _ = generated(seed)
    rigs, start_c, room = family(known.rig), known.rig.purpose.working_c, known.rig.purpose.ambient_c
    reading = room + share * (start_c - room)
    hottest = []
    for network in rigs.all:
        rest = network.equilibrium_rise()
        start = rest * (start_c - room) / rest[network.sensor_node]
        capacity, matrix = np.array(network.capacities), network.conductance_matrix()

        def reached(t, x, node=network.sensor_node):
            return x[node] - (reading - room)

        reached.terminal = True
        found = solve_ivp(
            lambda t, x, m=matrix, c=capacity: -(m @ x) / c, (0, 1e9), start, method="LSODA", events=reached, rtol=1e-9, atol=1e-9,
        )  # fmt: skip
        hottest.append(room + found.y[:, -1].max())
    assert hottest_when(rigs, room, start_c, reading) == pytest.approx(max(hottest), abs=0.02)


@pytest.mark.slow
@settings(max_examples=cases(4), deadline=None)
@given(st.integers(0, 10**6))
def test_a_light_that_promises_too_much_is_found_and_what_is_proposed_does_not(seed):
    known, _, _ = generated(seed)
    known = replace(known, plan=replace(known.plan, light=LIGHT))
    purpose = known.rig.purpose
    start = max(known.setpoint_high_c, known.settings.setpoint_c)
    rigs = family(known.rig)
    for name, value in (("light-cool", LIGHT.warm_c), ("light-warm", LIGHT.hot_c)):
        rule = f"guarding.{name}"
        off = sensor_error(known.sensor, LIGHT.hot_c, "").value
        assert (rule in told(known)) == (hottest_when(rigs, purpose.ambient_c, start, value + off) > LIMITS[rule])
        finding = told(known).get(rule)
        if finding is None or finding.proposal is None:
            continue
        target = finding.proposal.target.removeprefix("guarding.")
        settled = with_value(known.plan, known.plan, target, finding.proposal.value)
        check_plan(settled)
        assert rule not in told(replace(known, plan=settled))
        higher = with_value(known.plan, known.plan, target, finding.proposal.value + 0.5)
        assert rule in told(replace(known, plan=higher))
    usual = usual_light(known)
    check_plan(Plan(light=usual))
    left = told(replace(known, plan=replace(known.plan, light=usual)))
    assert all(f.proposal is None for f in left.values())  # only what no value helps against is left
    if usual.after_s >= 120.0:
        short = replace(usual, after_s=usual.after_s - 60.0)
        rules = {f.rule for f in findings_in(replace(known, plan=replace(known.plan, light=short)))}
        assert "guarding.light-after" in rules


def test_one_that_cannot_be_is_refused_and_only_a_rig_that_heats_is_judged():
    for light, field in (
        (StatusLight(51.5, 55.0), "light.warm_c"), (StatusLight(43.0, 43.0), "light.hot_c"),
        (StatusLight(after_s=86_401.0), "light.after_s"), (StatusLight(after_s=-1.0), "light.after_s"),
        (StatusLight(43.0, 66.0), "light.hot_c"), (StatusLight(-51.0, 55.0), "light.warm_c"),
    ):  # fmt: skip
        with pytest.raises(Refused) as refused:
            check_plan(Plan(light=light))
        assert [p.field for p in refused.value.problems] == [field]
    assert (
        told(situation(replace(CABINET, working_c=45.0, highest_c=50.0), setpoint_high_c=47.0, plan=Plan(light=LIGHT)))
        == {}
    )
