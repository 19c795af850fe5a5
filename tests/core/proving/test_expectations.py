"""Numbers of the steps against printed tables and other solvers; what is judged of them; a unit that was mistaken."""

from dataclasses import replace

import control
import numpy as np
import pytest
from scipy.integrate import solve_ivp

from rellux.core.cooling.machine import pumped_w
from rellux.core.errors import Refused
from rellux.core.guarding.family import HeatedRig, family
from rellux.core.plant.rig_models import network_of
from rellux.core.process.models import FOPDT
from rellux.core.process.networks import from_fopdt
from rellux.core.proving.judging import SeenAtStep, StepVerdict, judge_step
from rellux.core.proving.predicted import shown_after
from rellux.core.proving.step import Take
from rellux.core.proving.taking import taken
from rellux.core.purpose.purpose import RigKind
from rellux.core.runs.series import Series
from rellux.core.units import Kind
from tests.core.proving.rigs import NAMES, burning, cooled, facts, steps_of, wired
from tests.oracle.circuits import KILN, added, part


@pytest.mark.parametrize(("room_c", "ohm"), [(0.0, 100.0), (20.0, 107.79), (25.0, 109.73), (30.0, 111.67)])
def test_a_pt100_in_the_room_has_the_ohms_of_the_standard(room_c, ohm):
    """IEC 60751, table 1."""
    step = steps_of(replace(facts("cabinet relay"), room_c=room_c))["sensor B1"]
    assert step.measure.figure.value == pytest.approx(ohm, abs=0.006)
    assert step.measure.low < ohm < step.measure.high < ohm + 8.0


def test_earth_insulation_and_element_by_hand():
    """1.5 m of 1.5 mm² copper, 0.0121 Ω/m at 20 °C (IEC 60228, class 1); 230²/3200 = 16.53 Ω; 500 V and 1 MΩ (IEC 60364-6, from memory)."""
    steps = steps_of(facts("kiln"))
    earth = steps["earth X1.PE"].measure
    assert earth.high - 0.1 == pytest.approx(earth.figure.value) == pytest.approx(0.0121 * 1.5, rel=0.03)
    element = steps["ohms E1.1 E1.2"].measure
    assert element.low < 0.9 * 16.53 < 16.53 < element.high < 1.15 * 16.53 + 0.6
    assert steps["insulation"].measure.low == 1e6 and "{500 V}" in steps["insulation"].does
    assert {"A1", "A2"} <= set(steps["insulation"].does.split("off ")[1].split(";")[0].split(", "))
    assert "{250 V}" in steps_of(facts("plate"))["insulation"].does
    assert steps["hot E1"].measure.figure.value == pytest.approx(16.53, rel=0.01)


@pytest.mark.long
def test_no_sound_rig_is_refused_at_its_own_expectations():
    """Every step passes at just what it expects, whatever the rig."""
    for name in NAMES:
        for step in steps_of(facts(name)).values():
            if step.measure and not step.elsewhere:
                number = step.measure.figure.value
                seen = (
                    SeenAtStep(230.0, 230.0 / number, as_told=True)
                    if step.measure.divided
                    else SeenAtStep(number, as_told=True)
                )
                assert judge_step(step, seen).verdict is StepVerdict.PASSED, (name, step.key)


def test_the_rise_of_a_network_is_that_of_its_differential_equations():
    """SciPy integrates the network itself, its dead time and its sensor's lag beside it."""
    network = family(HeatedRig(RigKind.OVEN, KILN, 3200.0)).likely
    when = shown_after(network, 20.0)
    n, g = len(network.capacities), network.conductance_matrix()
    heat = np.zeros(n)
    heat[network.heater_node] = network.heater_power_w

    def slope(t, x):
        inside = (heat * (t >= network.dead_time_s) - g @ x[:n]) / np.array(network.capacities)
        return np.append(inside, (x[network.sensor_node] - x[n]) / max(network.sensor_lag_s, 1e-3))

    solved = solve_ivp(slope, (0.0, when), np.zeros(n + 1), rtol=1e-9, atol=1e-9, max_step=when / 200)
    assert solved.y[n][-1] == pytest.approx(20.0, rel=2e-3)


def test_a_first_order_rise_is_that_of_another_library():
    rig = from_fopdt(FOPDT(2.0, 600.0, 30.0))
    when = shown_after(rig, 40.0)
    time, rise = control.step_response(control.tf([200.0], [600.0, 1.0]), T=np.linspace(0.0, 300.0, 3001))
    assert when - 30.0 == pytest.approx(np.interp(40.0, rise, time), rel=1e-4)
    assert shown_after(rig, 201.0) is None


def test_every_rig_that_may_be_is_inside_the_span_of_its_first_heat():
    step = steps_of(facts("kiln"))["rises"].measure
    assert step.low < step.figure.value < step.high
    for network in family(facts("kiln").situation.rig).all:
        assert step.low <= shown_after(network, 3.0) <= step.high


def told(known, light, dialled=None, lag_s=1.0, length_s=40_000.0):
    """A rig of ``light`` times its masses by SciPy, out of its rest at full output: rows of its time and reading; a cooler’s pump follows
    what it has to lift. Ends when a limiter that follows with ``lag_s`` is at ``dialled``."""
    p, rig = known.purpose, known.rig
    network = network_of(rig.kind, p)
    n, g = len(network.capacities), network.conductance_matrix()
    masses = np.array(network.capacities) * light
    base = known.room_c + rig.rests_c - p.ambient_c
    sign = -1.0 if p.cools else 1.0

    def slope(t, x, on):
        inside = base + x[network.sensor_node]
        watts = network.heater_power_w
        if p.cools:
            watts *= pumped_w(1.0, 1.0, inside, known.room_c) / pumped_w(1.0, 1.0, p.working_c, p.ambient_c)
        heat = np.zeros(n)
        heat[network.heater_node] = watts * on * (t >= network.dead_time_s)
        shown = (x[network.sensor_node] - x[n : n + 2]) / np.array([max(network.sensor_lag_s, 1e-3), lag_s])
        return np.concatenate([(heat - g @ x[:n]) / masses, shown])

    def trips(_t, x):
        return sign * (base + x[n + 1] - dialled)

    trips.terminal = True
    how = {"method": "LSODA", "max_step": 20.0, "rtol": 1e-7, "atol": 1e-7}
    there = solve_ivp(
        lambda t, x: slope(t, x, 1.0), (0.0, length_s), np.zeros(n + 2), events=trips if dialled else None, **how
    )
    if dialled is None:
        return there.t, base + there.y[n]
    after = solve_ivp(lambda t, x: slope(t, x, 0.0), (there.t[-1], there.t[-1] + 8000.0), there.y[:, -1], **how)
    return base + there.y[n][-1], base + sign * (sign * after.y[n]).max()


@pytest.mark.slow
@pytest.mark.parametrize("known", [cooled(), burning(), facts("kiln"), facts("cabinet relay")])
@pytest.mark.parametrize("light", [1 / 1.6, 1.0, 1.6])
def test_whatever_its_masses_it_does_what_its_steps_expect(known, light):
    """Its first change, its way to work, its trip and what comes after, each by differential equations of its own."""
    steps = steps_of(known)
    sign = -1.0 if known.purpose.cools else 1.0
    time, reading = told(known, light)
    moved = sign * (reading - reading[0])
    for key in ("rises", "heat-up"):
        m = steps[key].measure
        goal = m.by if m.take is Take.RISEN else sign * (m.by - reading[0])
        assert m.low <= np.interp(goal, moved, time) <= m.high, key
    trip, limiter = steps["trip live"].measure, known.situation.plan.limiter
    assert trip.figure.value == round(trip.figure.value), "as it is dialled"
    at, after = told(known, light, trip.figure.value, limiter.lag_s)
    assert trip.low <= at <= trip.high
    m = steps["peak after"].measure
    assert m.low <= after <= m.high


OHMS = steps_of(facts("kiln"))["ohms E1.1 E1.2"]
LOW, HIGH = OHMS.measure.low, OHMS.measure.high


@pytest.mark.parametrize(
    ("number", "verdict"),
    [(LOW, "passed"), (HIGH, "passed"), (LOW - 0.01, "failed"), (HIGH + 0.01, "failed"), (0.2, "failed")],
)
def test_a_number_passes_to_its_bounds_and_no_further(number, verdict):
    assert judge_step(OHMS, SeenAtStep(number, as_told=True)).verdict == verdict


@pytest.mark.parametrize(
    ("key", "number", "slip"),
    [
        ("ohms E1.1 E1.2", 0.0165, "kΩ"),
        ("ohms E1.1 E1.2", 16_500.0, "mΩ"),
        ("supply A1", 0.23, "kV"),
        ("supply A1", 230_000.0, "mV"),
        ("rises", 0.8, "minutes"),
        ("reading", 70.0, "°F"),
        ("rcd F9", 28.0, "ms"),
        ("earth X1.PE", 62.0, "mΩ"),
    ],
)
def test_a_number_in_another_unit_is_asked_back_and_kept_where_it_was_meant(key, number, slip):
    known = facts("kiln")
    step = steps_of(wired(known, added(known.wiring, parts=(part("F9", "rcd"),))))[key]
    with pytest.raises(Refused) as refused:
        judge_step(step, SeenAtStep(number, as_told=True))
    problem = refused.value.problems[0]
    assert problem.field == "sure" and slip in problem.reason and problem.accepted
    assert judge_step(step, SeenAtStep(number, as_told=True, sure=True)).verdict is StepVerdict.FAILED


@pytest.mark.slow
@pytest.mark.parametrize(
    ("key", "seen", "field"),
    [
        ("ohms E1.1 E1.2", SeenAtStep(as_told=True), "value"),
        ("ohms E1.1 E1.2", SeenAtStep(16.5), "as_told"),
        ("ohms E1.1 E1.2", SeenAtStep(float("nan"), as_told=True), "value"),
        ("ohms E1.1 E1.2", SeenAtStep(-3.0, as_told=True), "value"),
        ("supply A1", SeenAtStep(-230.0, as_told=True), "value"),
        ("supply A1", SeenAtStep(beyond=True, as_told=True), "beyond"),
        ("hot E1", SeenAtStep(230.0, as_told=True), "divided_by"),
        ("hot E1", SeenAtStep(230.0, 0.0, as_told=True), "divided_by"),
        ("warmed", SeenAtStep(), "as_told"),
        ("warmed", SeenAtStep(3.0, as_told=True), "value"),
        ("warmed", SeenAtStep(skipped=" x "), "skipped"),
        ("warmed", SeenAtStep(as_told=True, remark="x" * 401), "remark"),
        ("guards", SeenAtStep(as_told=True), "step"),
        ("guards", SeenAtStep(skipped="no source here"), "step"),
    ],
)
def test_what_cannot_be_seen_so_is_refused_by_name(key, seen, field):
    with pytest.raises(Refused) as refused:
        judge_step(steps_of(facts("kiln"))[key], seen)
    assert refused.value.problems[0].field == field


def test_no_connection_is_beyond_the_range_and_a_broken_element_too():
    steps = steps_of(facts("kiln"))
    beyond = SeenAtStep(beyond=True, as_told=True)
    assert judge_step(steps["insulation"], beyond).verdict is StepVerdict.PASSED
    assert judge_step(OHMS, beyond).verdict is StepVerdict.FAILED
    assert judge_step(steps["warmed"], SeenAtStep(as_told=False)).verdict is StepVerdict.FAILED
    assert judge_step(steps["warmed"], SeenAtStep(skipped="probe is cast in")).verdict is StepVerdict.SKIPPED


def test_times_and_peaks_are_taken_from_a_run():
    time = np.arange(0.0, 1000.0, 10.0)
    reading = 20.0 + np.where(time > 240.0, (time - 240.0) * 0.1, 0.0)
    reading[5] = np.nan
    run = Series(time, np.full(100, 200.0), reading, np.where(time >= 200.0, 100.0, 0.0), np.ones(100))
    measure = steps_of(facts("kiln"))["rises"].measure
    assert taken(replace(measure, take=Take.RISEN, by=3.0), run) == pytest.approx(70.0)
    assert taken(replace(measure, take=Take.REACHED, by=60.0), run) == pytest.approx(440.0)
    assert taken(replace(measure, take=Take.PEAK), run) == pytest.approx(reading[-1])
    with pytest.raises(Refused) as refused:
        taken(replace(measure, take=Take.REACHED, by=900.0), run)
    assert "never reached" in refused.value.problems[0].reason
    with pytest.raises(Refused):
        taken(measure, Series(*(np.full(3, np.nan) for _ in range(5))))
    assert measure.kind is Kind.TIME


def test_a_true_failure_is_not_talked_into_another_unit():
    """2 Ω of earth are a bad earth, 40 V no mains: nobody is asked whether they were something else."""
    steps = steps_of(facts("kiln"))
    for key, number in (("earth X1.PE", 2.0), ("supply A1", 40.0), ("rises", 900.0), ("reading", 55.0)):
        assert judge_step(steps[key], SeenAtStep(number, as_told=True)).verdict is StepVerdict.FAILED


def test_less_output_takes_longer_and_what_slows_the_start_is_told():
    def rises(**values):
        return steps_of(replace(facts("kiln"), sheet={**facts("kiln").sheet, **values}))["rises"]

    full, half = rises(output_high=100.0), rises(output_high=50.0)
    assert half.measure.low > full.measure.low and half.measure.high > full.measure.high
    network = facts("kiln").situation and family(facts("kiln").rig).likely
    assert half.measure.figure.value == pytest.approx(shown_after(network, 6.0))
    assert "ramp set to 0" in rises(ramp_c_per_min=2.0).does and "ramp" not in rises(ramp_c_per_min=0.0).does
