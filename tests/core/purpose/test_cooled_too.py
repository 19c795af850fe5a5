"""A heater with a cooler beside it: never both at once, on where its thresholds say, counted on by nothing that guards."""

from dataclasses import replace
from itertools import combinations, product
from math import log

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from rellux.core.control.alarms.settings import AlarmKind, AlarmSettings
from rellux.core.control.pid import PID
from rellux.core.control.settings import ControllerSettings, CoolingBand, HysteresisSchool, Mode
from rellux.core.errors import Refused
from rellux.core.guarding.by_effect import findings_in, propose
from rellux.core.guarding.family import HeatedRig, family
from rellux.core.guarding.ladder import Situation, ladder
from rellux.core.guarding.plan import Plan, PlannedAlarm
from rellux.core.heating.conductor_tables import Practice
from rellux.core.plant.rig_models import network_of
from rellux.core.plant.simulation import Simulation
from rellux.core.process.models import FOPDT
from rellux.core.process.networks import ThermalNetwork, from_model
from rellux.core.profiles.feasible import marks
from rellux.core.profiles.predict import Conditions, beside, course, predict
from rellux.core.profiles.profile import EndAction, Profile, Segment, SegmentKind
from rellux.core.purpose.checks import purpose_findings
from rellux.core.purpose.cooler import CooledBy, Cooler
from rellux.core.purpose.purpose import Effect, Fire, Purpose, RigKind, Supply, check_purpose
from rellux.core.questions.answer import Known
from rellux.core.questions.control.split import SPLIT
from rellux.core.runs.cooler_on import cooler_on, recorded_on
from rellux.core.runs.series import Series
from rellux.core.setup.checks import check_sheet
from rellux.core.setup.dictionary import BY_NAME
from rellux.core.setup.parameters import choices_for, parameters_for, settings_from
from rellux.core.setup.proposals import propose as propose_sheet
from rellux.core.setup.proposals.cooler import carries_on_c
from rellux.core.setup.proposals.facts import RigFacts
from rellux.core.tuning.cooled_too import cooled_too
from rellux.core.tuning.relay.before import before
from rellux.core.tuning.relay.experiment import RelayKind, forecast, relay_test
from rellux.core.tuning.situation import Situation as Tuned
from rellux.core.tuning.trials import Trial, put_through
from rellux.core.wiring.choice import Actuator, Choice, Output
from rellux.core.wiring.circuit.solve import CircuitSolver
from rellux.core.wiring.model import ConnectionList
from rellux.core.wiring.rules import check, context_for
from rellux.core.wiring.staleness import stale
from rellux.core.wiring.switching import Switching
from rellux.core.wiring.usual_circuits import Usual, usual
from tests.core.proving.rigs import planned_for, steps_of, wired
from tests.examples import cases, some
from tests.oracle.compare import compare

FAN, WATER = Cooler(CooledBy.FAN, 600.0, 40.0), Cooler(CooledBy.VALVE, 350.0, 12.0, 14.0)
OVEN = Purpose(75.0, 95.0, "the glue browns", Supply.SINGLE_PHASE, 230.0, 1800.0, 230.0, cooler=FAN)
BATH = Purpose(32.0, 40.0, "the pitch gives way", Supply.SINGLE_PHASE, 230.0, 500.0, 230.0, cooler=WATER)
RELAY = Choice("K", Output.RELAY, Actuator.RELAY, True, Practice.IEC)
SSR = Choice("K", Output.SSR_DRIVE, Actuator.SSR, True, Practice.IEC)
WAYS = (
    RELAY,
    replace(RELAY, actuator=Actuator.CONTACTOR),
    SSR,
    replace(SSR, output=Output.LINEAR, actuator=Actuator.PHASE_ANGLE),
    replace(SSR, output=Output.PIN),
    replace(RELAY, output=Output.PIN),
)


def one_node(loss=10.0, capacity=9000.0, power=2000.0, cooler=20.0, coolant_rise=-6.0):
    return ThermalNetwork((capacity,), (), (loss,), power, cooler_w_per_k=cooler, coolant_rise_c=coolant_rise)


def sheet_of(purpose, **changed):
    facts = RigFacts(purpose, "K", "relay")
    return facts, {**{p.name: p.value for p in propose_sheet(facts)}, **changed}


@pytest.mark.slow
@settings(max_examples=cases(40), deadline=None)
@given(
    st.floats(2.0, 40.0), st.floats(1.0, 60.0), st.floats(-15.0, 25.0), st.floats(0.5, 8.0), st.floats(0.1, 0.9),
)  # fmt: skip
def test_it_is_on_between_its_thresholds_as_by_hand(loss, cooler, coolant_rise, above, share):
    """From 100 °C down to a set-point of 60 in a room of 20: with both paths to the threshold where it goes off, by the logarithm of one
    lag; never lower than nature takes it."""
    band, capacity = CoolingBand(above, share * above), 9000.0
    run = Simulation(
        one_node(loss, capacity, cooler=cooler, coolant_rise=coolant_rise),
        ControllerSettings(60.0, Mode.PID, pid=PID(5.0, float("inf")), period_s=0.0, cooling=band), 20.0, 0.25,
    )  # fmt: skip
    run.start_at(100.0)
    ends = cooler * coolant_rise / (loss + cooler)
    down = capacity / (loss + cooler) * log((80.0 - ends) / (40.0 + band.off_above_c - ends))
    seen = run.advance(down + 40.0)
    assert run.cooled_s == pytest.approx(down, abs=0.6) and run.coolings == 1
    at = np.interp(down, seen.time_s, seen.reading_c)
    assert at == pytest.approx(60.0 + band.off_above_c, abs=0.02 + 0.6 * (loss + cooler) / capacity * 80.0)


@settings(max_examples=cases(40), deadline=None)
@given(
    st.sampled_from([Mode.ON_OFF, Mode.PID, Mode.MANUAL, Mode.OFF]), st.floats(0.0, 6.0), st.floats(0.0, 9.0),
    st.sampled_from([0.0, 4.0, 20.0]), st.floats(0.0, 6.0), st.booleans(), st.floats(15.0, 120.0),
)  # fmt: skip
def test_heater_and_cooler_are_never_on_together(mode, above, hysteresis, period, heater_band, centred, start_c):
    """In every step of a run, in the middle of a pulse too, whatever overlaps; and no cooling while it is off, by hand or blind."""
    school = HysteresisSchool.CENTRED if centred else HysteresisSchool.ONE_SIDED
    told = ControllerSettings(
        60.0,
        mode,
        heater_band,
        school,
        PID(8.0, 60.0, 10.0),
        period,
        manual_output=40.0,
        cooling=CoolingBand(above, hysteresis),
    )
    run = Simulation(replace(one_node(), dead_time_s=5.0, sensor_lag_s=8.0), told, 20.0, 0.5)
    run.start_at(start_c)
    cooled = False
    for _ in range(900):
        run.advance(0.5)
        cooled |= run.cools_now
        assert not (run.cools_now and run.switch_closed)
        assert not run.cools_now or mode in (Mode.PID, Mode.ON_OFF)
    run.break_sensor(True)
    run.advance(5.0)
    assert not run.cools_now
    assert cooled or mode in (Mode.MANUAL, Mode.OFF) or start_c < 60.0 + above + 1.0


def test_a_pulse_that_the_cooler_cut_short_does_not_go_on_afterwards():
    """An output of 100 % in a long period, then a reading that is pushed up and down within it."""
    told = ControllerSettings(60.0, Mode.PID, pid=PID(20.0), period_s=600.0, cooling=CoolingBand(2.0, 1.5))
    run = Simulation(one_node(power=3000.0, cooler=400.0), told, 20.0, 0.5)
    run.start_at(50.0)
    seen = run.advance(590.0)
    assert run.coolings == 1 and seen.switch[-1] == 0
    cut = int(np.flatnonzero(np.diff(seen.switch) < 0)[0]) + 2
    assert not seen.switch[cut:].any() and not seen.output[cut:].any()


def test_a_stuck_heater_is_cooled_and_settles_where_both_together_do():
    """Against SciPy on the same two paths; the alarm that stops the heat leaves the cooler on."""
    run = Simulation(one_node(), ControllerSettings(60.0, cooling=CoolingBand(3.0, 1.0)), 20.0, 0.25)
    run.stick(True)
    run.advance(20_000.0)
    truth = solve_ivp(lambda _t, x: (2000.0 - 10.0 * x - 20.0 * (x + 6.0)) / 9000.0, (0.0, 20_000.0), [0.0], rtol=1e-9)
    assert run.reading_c - 20.0 == pytest.approx(truth.y[0, -1], abs=0.01) and run.cools_now


KINDS = st.sampled_from([RigKind.OVEN, RigKind.CABINET, RigKind.TANK, RigKind.PRESS])


@settings(max_examples=cases(12), deadline=None)
@given(KINDS, st.sampled_from([OVEN, BATH]), st.floats(0.3, 3.0), st.floats(1.0, 6.0))
def test_a_network_takes_out_what_was_said_at_work(kind, purpose, share, above):
    """The heat the cooler takes at the working temperature, by the slope of SciPy's course the moment it comes on."""
    purpose = replace(purpose, cooler=replace(purpose.cooler, cooler_w=share * purpose.heater_power_w))
    network = replace(network_of(kind, purpose), sensor_lag_s=0.0)
    run = Simulation(
        network,
        ControllerSettings(purpose.working_c - above - 1.0, cooling=CoolingBand(above, 0.5)),
        purpose.ambient_c,
        0.25,
    )
    run.start_at(purpose.working_c)
    without = run.branch()
    without.apply(replace(without.settings, cooling=None))
    dropped = without.advance(2.0).reading_c[-1] - run.advance(2.0).reading_c[-1]
    taken = dropped * network.capacities[network.sensor_node] / 1.75
    assert taken == pytest.approx(purpose.cooler.cooler_w, rel=0.05)


@pytest.mark.slow
@pytest.mark.parametrize("choice", some(WAYS, 3), ids=lambda c: f"{c.output.value}-{c.actuator.value}")
@pytest.mark.parametrize(
    "purpose",
    some([OVEN, BATH, replace(OVEN, supply=Supply.SPLIT_PHASE, supply_voltage_v=240.0, heater_voltage_v=240.0)], 1),
)
def test_as_wired_never_both_in_any_position_and_by_the_second_opinion(purpose, choice):
    if purpose.lives > 1 and choice.actuator is Actuator.RELAY:
        return
    wiring = usual(purpose, choice, Usual.PARTS)
    facts = planned_for(purpose, choice, RigKind.OVEN)
    hands = [frozenset(c) for n in (0, 1) for c in combinations(["F1", "F2"], n)]
    beside_it = {"M2", "Y1"} & {p.name for p in wiring.parts}
    assert check(wiring, context_for(purpose, choice.practice, "K")) == []
    for out, trip, alarm, moved in product((False, True), (False, True), (False, True), hands):
        on = facts.circuit.solve(Switching(out, trip, alarm, moved)).on
        heats = any(p.heats and p.name in on for p in wiring.parts)
        assert not (heats and beside_it & on)
        assert bool(beside_it & on) == (alarm and "F2" not in moved)
        assert heats == (out and not trip and not alarm and not moved)
    if choice.output is Output.LINEAR:
        return  # the second opinion knows no phase-angle unit
    found = compare(wiring, purpose.control_voltage_v)
    assert found.wrong == () and found.marginal <= 0.05 * found.judged


def without(wiring: ConnectionList, *ends: tuple[str, str]) -> ConnectionList:
    return replace(wiring, connections=tuple(w for w in wiring.connections if (w.a, w.b) not in ends))


@pytest.mark.slow
@pytest.mark.parametrize(
    ("choice", "past"),
    [
        (RELAY, ("K2.COM", "A1.COM")),
        (SSR, ("A1.OUT+", "V1.3+")),
        (replace(SSR, output=Output.PIN), ("A1.PWM3", "V1.3+")),
        (replace(RELAY, output=Output.PIN), ("A1.PWM3", "K1.IN")),
    ],
)
def test_a_command_past_the_relay_of_the_cooler_is_found(choice, past):
    """In the list by a rule, at the rig by a step whose meter then shows the drive."""
    wiring = usual(OVEN, choice, Usual.PARTS)
    wire = next(w for w in wiring.connections if w.b == "F2.1")
    bridged = replace(wiring, connections=(*wiring.connections, replace(wire, number=99, a=past[0], b=past[1])))
    rules = {f.rule for f in check(bridged, context_for(OVEN, choice.practice, "K"))}
    assert "wiring.cooler-interlock" in rules
    facts = planned_for(OVEN, choice, RigKind.OVEN)
    sound = next(s for k, s in steps_of(facts).items() if k.startswith("never both"))
    ends, volts = sound.between, facts.circuit.solve(sound.switching)
    assert abs(volts.between(*ends) or 0.0) <= sound.measure.high
    wrong = wired(facts, bridged)
    assert abs(wrong.circuit.solve(sound.switching).between(*ends) or 0.0) > sound.measure.high
    assert "cooler" in steps_of(facts) and not {k for k in steps_of(wrong) if k.startswith("never both")}


@pytest.mark.parametrize("limiter", [True, False])
@pytest.mark.parametrize("choice", WAYS, ids=lambda c: f"{c.output.value}-{c.actuator.value}")
def test_beside_a_cooler_the_limiter_lights_the_beacon(choice, limiter):
    """And of a board, which has no alarm contact: off while all is well, lit whenever it has tripped."""
    own = replace(choice, limiter=limiter)
    if not limiter:
        with pytest.raises(Refused) as refused:
            usual(OVEN, own, Usual.BEACON)
        assert "no limiter that could light it" in refused.value.problems[0].reason
        return
    wiring = usual(OVEN, own, Usual.BEACON)
    assert check(wiring, context_for(OVEN, choice.practice, "K")) == []
    circuit = CircuitSolver(wiring, 230.0)
    for out, trip, alarm in product((False, True), repeat=3):
        assert ("H1" in circuit.solve(Switching(out, trip, alarm)).on) is trip


def test_one_pin_is_not_to_heat_and_to_cool():
    wiring = usual(OVEN, replace(SSR, output=Output.PIN), Usual.PARTS)
    both = replace(
        wiring,
        parts=tuple(
            replace(p, ratings={**p.ratings, "cooling_pin": "PWM3"}) if p.name == "A1" else p for p in wiring.parts
        ),
    )
    found = [{f.rule for f in check(w, context_for(OVEN, Practice.IEC, "K"))} for w in (wiring, both)]
    assert "wiring.pin-both" not in found[0] and "wiring.pin-both" in found[1]


RULES = ("setup.cools-below", "setup.take-turns", "setup.cools-late", "setup.no-cooling-output")


def rules_of(purpose=OVEN, process=None, **changed):
    facts, sheet = sheet_of(purpose, **changed)
    return {f.rule for f in check_sheet(sheet, replace(facts, process=process)) if f.rule in RULES}


def test_overlaps_are_found_and_what_is_proposed_has_none():
    assert rules_of() == rules_of(BATH) == set()
    assert rules_of(cool_above_c=3.0, cool_hysteresis_c=3.0) == {"setup.cools-below"}
    assert rules_of(cool_above_c=3.0, cool_hysteresis_c=2.9) == set()
    centred = {"hysteresis_school": "centred", "hysteresis_c": 4.0, "cool_hysteresis_c": 0.5}
    assert rules_of(cool_above_c=2.0, **centred) == {"setup.take-turns"}
    assert rules_of(cool_above_c=2.1, **centred) == set()
    assert rules_of(cool_above_c=20.0) == {"setup.cools-late"} and rules_of(cool_above_c=19.9) == set()
    assert (
        rules_of(output_2="none")
        == {"setup.no-cooling-output"}
        == rules_of(output_2="alarm_1")
        == rules_of(output_2="none")
    )
    assert rules_of(replace(OVEN, cooler=None), cool_above_c=0.0) == set()


@settings(max_examples=cases(10), deadline=None)
@given(st.floats(0.4, 2.5), st.floats(120.0, 2500.0), st.floats(3.0, 60.0), st.floats(0.2, 3.0), st.floats(0.3, 6.0))
def test_whether_they_take_turns_is_what_a_simulated_day_shows(gain, lag_s, dead_s, hysteresis, above):
    process = FOPDT(gain, lag_s, min(dead_s, lag_s / 3.0))
    facts, sheet = sheet_of(OVEN, hysteresis_c=hysteresis, cool_above_c=above, cool_hysteresis_c=above / 2.0)
    if gain * 100.0 < 60.0:
        return
    told = {f.rule for f in check_sheet(sheet, replace(facts, process=process))} & {"setup.take-turns"}
    network = replace(from_model(process), cooler_w_per_k=0.5)
    day = Simulation(network, settings_from(sheet, OVEN), OVEN.ambient_c, 0.25)
    day.start_at(OVEN.working_c)
    day.advance(40 * lag_s)
    before = day.coolings
    day.advance(40 * lag_s)
    peak = day.branch()
    peak.apply(replace(peak.settings, cooling=None))
    nearly = abs(peak.advance(20 * lag_s).reading_c.max() - OVEN.working_c - above) < 0.05 + 0.05 * above
    assert nearly or bool(told) == (day.coolings > before)


@settings(max_examples=cases(30), deadline=None)
@given(
    st.floats(0.9, 2.5),
    st.floats(120.0, 2500.0),
    st.floats(1.0, 60.0),
    st.floats(0.1, 3.0),
    st.floats(0.5, 8.0),
    st.sampled_from([OVEN, BATH]),
)
def test_how_far_the_cooler_carries_it_is_what_a_late_reading_lets_it(gain, lag_s, dead_s, strength, above, purpose):
    """SciPy: loss and cooler pull until a reading that is late by the dead time shows where it goes off; said where that is too far, and
    what is proposed is not."""
    power = purpose.heater_power_w
    purpose = replace(purpose, cooler=replace(purpose.cooler, cooler_w=strength * power))
    process = FOPDT(gain, lag_s, min(dead_s, lag_s / 4.0))
    facts, sheet = sheet_of(purpose, cool_above_c=above, cool_hysteresis_c=above / 2.0)
    facts = replace(facts, process=process)
    loss, own = power / (100.0 * gain), purpose.cooler.w_per_k(purpose.working_c, purpose.ambient_c)
    coolant = purpose.cooler.with_c(purpose.ambient_c) - purpose.ambient_c
    off = purpose.working_c - purpose.ambient_c + above / 2.0
    late = process.dead_time_s + 0.25
    pulled = solve_ivp(
        lambda _t, x: -(loss * x + own * (x - coolant)) / (loss * lag_s), (0.0, late), [off], rtol=1e-10, atol=1e-10
    )
    falls = off - pulled.y[0, -1]
    assert carries_on_c(facts, settings_from(sheet, purpose)) == pytest.approx(falls, rel=1e-6, abs=1e-8)
    said = "setup.cools-through" in {f.rule for f in check_sheet(sheet, facts)}
    assert said == (falls > above / 2.0)
    proposed = {p.name: p.value for p in propose_sheet(facts)}
    still = [f for f in check_sheet(proposed, facts) if f.rule == "setup.cools-through"]
    assert not still or "no distance" in still[0].fix


def test_pulses_long_enough_to_call_the_cooler_are_found():
    """PID of a quick rig: half the ripple of its pulses against a simulation of them at the holding output."""
    process = FOPDT(1.5, 100.0, 2.0)
    for period, above in ((60.0, 2.0), (60.0, 20.0), (4.0, 2.0)):
        facts, sheet = sheet_of(OVEN, mode="pid", period_s=period, cool_above_c=above, cool_hysteresis_c=above / 2.0)
        told = "setup.take-turns" in {f.rule for f in check_sheet(sheet, replace(facts, process=process))}
        by_hand = ControllerSettings(75.0, Mode.MANUAL, manual_output=36.0, period_s=period)
        run = Simulation(from_model(process), by_hand, 21.0, 0.1)
        run.advance(1500.0)
        seen = run.advance(600.0).reading_c
        assert told == (np.ptp(seen) / 2.0 >= above)


SERIES = st.tuples(
    st.floats(0.5, 6.0), st.floats(0.1, 0.95), st.floats(0.5, 3.0), st.integers(1, 40), st.floats(40.0, 120.0)
)


@settings(max_examples=cases(30), deadline=None)
@given(SERIES)
def test_no_row_with_the_cooler_on_is_taken_for_one_without(given_):
    """Sampled as seldom as a log is; the cooler itself looks four times a second."""
    above, share, strength, every, start_c = given_
    band = CoolingBand(above, share * above)
    run = Simulation(
        one_node(cooler=20.0 * strength), ControllerSettings(60.0, Mode.ON_OFF, 0.5, cooling=band), 20.0, 0.25
    )
    run.start_at(start_c)
    rows, truth = [], []
    for i in range(150):
        if i == 75:
            run.apply(replace(run.settings, setpoint_c=45.0))
        rows.append((run.time_s, run.settings.setpoint_c, round(run.reading_c, 1), run.output, 0.0))
        truth.append(run.coolings > 0)
        run.advance(float(every))
    series = Series(*(np.array(c) for c in zip(*rows, strict=True)))
    said, was = cooler_on(series, band), np.array(truth)
    if was.any():  # it had been on at some time before this row
        assert said[: int(np.argmax(was)) + 1].any()


@pytest.mark.slow
@settings(max_examples=cases(30), deadline=None)
@given(SERIES, st.integers(1, 9))
def test_what_was_recorded_of_the_cooler_tells_when_it_was_on(given_, looks):
    """Looked at every so many seconds, rows at times of their own: no row of the truth is missed, and none is told that lies farther from a
    time with it on than from one look to the next."""
    above, share, strength, every, start_c = given_
    band = CoolingBand(above, share * above)
    run = Simulation(
        one_node(cooler=20.0 * strength), ControllerSettings(60.0, Mode.ON_OFF, 0.5, cooling=band), 20.0, 0.25
    )
    run.start_at(start_c)
    steps = []
    for _ in range(2400):
        run.advance(0.25)
        steps.append((run.time_s, run.cools_now))
    t, on = (np.array(c) for c in zip(*steps, strict=True))
    rows = t[1 :: 4 * every]
    series = Series(*(rows,) * 5)
    seen = slice(0, None, 4 * looks)
    said = recorded_on(series, t[seen], on[seen].astype(float))
    for row, told in zip(rows, said, strict=True):
        near = np.abs(t - row) <= looks
        assert told or not on[np.searchsorted(t, row)] or not on[near].all()
        assert not told or on[near].any() or row > t[seen][-1] or row < t[seen][0]
    gone = recorded_on(series, t[seen], np.full(len(t[seen]), np.nan))
    assert gone.all(), "nobody looked"
    half = t[seen] < t[-1] / 2
    late = recorded_on(series, t[seen][half], np.zeros(int(half.sum())))
    assert not late[rows < t[-1] / 2 - looks].any() and late[rows > t[-1] / 2 + 4 * looks].all()


def test_a_log_without_set_point_tells_nothing_of_the_cooler():
    t = np.arange(50.0)
    with pytest.raises(Refused):
        cooler_on(Series(t, t * np.nan, t, t, t), CoolingBand(2.0, 1.0))


@pytest.mark.slow
def test_guarding_never_counts_on_it_and_says_where_it_hides_a_stuck_switch():
    """The settling point by SciPy's own solution of the kind's network with both on for good."""
    kind, rig = RigKind.OVEN, HeatedRig(RigKind.OVEN, OVEN, 1800.0)
    _, sheet = sheet_of(OVEN)
    bare = Situation(rig, Plan(), "K", settings_from(sheet, OVEN), 84.0, None, True)
    plan = propose(bare).plan
    there, plain = (
        replace(bare, plan=plan),
        replace(bare, plan=plan, rig=HeatedRig(kind, replace(OVEN, cooler=None), 1800.0)),
    )
    assert [s for s in ladder(there).steps if s.key != "cooler"] == [
        s for s in ladder(replace(plain, settings=there.settings)).steps if s.key != "cooler"
    ]
    for cooler_w in (200.0, 600.0, 1000.0, 4000.0):
        purpose = replace(OVEN, cooler=replace(FAN, cooler_w=cooler_w))
        network = network_of(kind, purpose)
        heat = np.zeros(3)
        heat[network.heater_node] = network.heater_power_w
        matrix = network.conductance_matrix()
        matrix[network.sensor_node, network.sensor_node] += cooler_w / 54.0
        rests = 21.0 + np.linalg.solve(matrix, heat)[network.sensor_node]
        situation = replace(there, rig=replace(rig, purpose=purpose))
        hides = "guarding.cooler-hides fault" in {f"{f.rule} {f.severity}" for f in findings_in(situation)}
        assert hides == (rests < plan.limiter.trip_c)
        told = PlannedAlarm("Stuck", AlarmSettings(AlarmKind.CURRENT_WHILE_OFF, 0.5), (), "", "", "")
        seen = replace(situation, plan=replace(plan, alarms=(*plan.alarms, told)))
        assert "guarding.cooler-hides" not in {f.rule for f in findings_in(seen)}


def test_an_alarm_that_calls_before_it_cools_is_found_and_none_is_proposed_so():
    _, sheet = sheet_of(OVEN)
    for above in (1.0, 3.0, 8.0):
        told = settings_from({**sheet, "cool_above_c": above}, OVEN)
        bare = Situation(HeatedRig(RigKind.OVEN, OVEN, 1800.0), Plan(), "K", told, 80.0, None, False)
        plan = propose(bare).plan
        late = lambda p: "guarding.cooler-late" in {f.rule for f in findings_in(replace(bare, plan=p))}  # noqa: B023, E731
        assert not late(plan) or above > 5.0
        at = lambda c: replace(plan.alarms[0], alarm=replace(plan.alarms[0].alarm, value=c))  # noqa: B023, E731
        assert late(replace(plan, alarms=(at(75.0 + above),))) and not late(replace(plan, alarms=(at(75.1 + above),)))


K = SegmentKind


@settings(max_examples=cases(8), deadline=None)
@given(st.floats(0.3, 12.0), st.floats(0.2, 2.0), KINDS)
def test_a_ramp_down_is_followed_where_the_cooler_takes_enough(rate, share, kind):
    """Judged by SciPy: the rig with its cooler on all the way from 75 °C, and whether that reaches 50 °C before the ramp is there."""
    purpose = replace(OVEN, cooler=replace(FAN, cooler_w=share * 1800.0))
    rig = HeatedRig(kind, purpose, 1800.0)
    rigs, told = (
        beside(family(rig), purpose),
        ControllerSettings(75.0, Mode.PID, pid=PID(8.0, 400.0), period_s=0.0, cooling=CoolingBand(3.0, 1.5)),
    )
    down = Profile(
        (
            Segment(K.STEP, 75.0),
            Segment(K.SOAK, time_s=9000.0),
            Segment(K.RAMP_RATE, 50.0, rate),
            Segment(K.END, end=EndAction.OFF),
        )
    )
    conditions = Conditions(rigs, told, 21.0, 75.0)
    marked = any(m.segment == 2 and m.sure for m in marks(down, predict(down, conditions), conditions))
    n = rigs.likely
    g, c = n.conductance_matrix(), np.array(n.capacities)
    held = np.linalg.solve(g, np.eye(3)[n.heater_node])
    start = held / held[n.sensor_node] * 54.0
    g[n.sensor_node, n.sensor_node] += n.cooler_w_per_k
    length = 25.0 / rate * 60.0
    free = solve_ivp(lambda _t, x: -(g @ x) / c, (0.0, length), start, method="LSODA", dense_output=True, rtol=1e-8)
    times = np.linspace(0.0, length, 400)
    behind = (free.sol(times)[n.sensor_node] + 21.0 - (75.0 - times * rate / 60.0)).max()
    if marked:
        assert (
            behind + 3.0 + rate * (n.sensor_lag_s + 30.0) / 60.0 > 5.0
        )  # it comes on late by its band, and shows late
    else:
        assert behind < 5.0 + 2.0 + rate * (n.sensor_lag_s + 30.0) / 60.0


def test_below_the_room_only_what_its_water_is_cold_enough_for():
    network = one_node(loss=10.0, cooler=20.0, coolant_rise=-9.0)
    rigs = family(HeatedRig(RigKind.OVEN, OVEN, 1800.0))
    exact = replace(rigs, likely=network, fast=network, slow=network)
    told = ControllerSettings(30.0, Mode.PID, pid=PID(8.0, 400.0), period_s=0.0, cooling=CoolingBand(1.0, 0.5))

    def goes(c, s=told):
        return course(
            Profile((Segment(K.STEP, c), Segment(K.END, end=EndAction.OFF))), network, Conditions(exact, s, 20.0, 30.0)
        )

    assert goes(15.0).floor_c == pytest.approx(20.0 - 20.0 * 9.0 / 30.0)
    assert goes(15.0, replace(told, cooling=None)).floor_c == 20.0


@settings(max_examples=cases(25), deadline=None)
@given(st.floats(2.0, 60.0), st.floats(1.0, 80.0), st.floats(300.0, 4000.0))
def test_against_the_process_found_it_takes_what_it_takes_in_watts(loss, w_per_k, power):
    """A rig of one node and the process that is found of it settle alike with both on."""
    true = one_node(loss, 9000.0, power, w_per_k, 0.0)
    purpose = replace(OVEN, heater_power_w=power, cooler=Cooler(CooledBy.FAN, w_per_k * 54.0, 40.0))
    process = FOPDT(power / loss / 100.0, 9000.0 / loss, 0.0)
    too = cooled_too(purpose, process, CoolingBand(2.0, 1.0))
    model = too.on(from_model(process))
    assert model.equilibrium_rise(60.0, cooled=True)[0] == pytest.approx(true.equilibrium_rise(60.0, cooled=True)[0])


def test_trials_do_without_it_but_for_the_set_point_that_moves_down():
    process, told = FOPDT(1.2, 900.0, 20.0), ControllerSettings(75.0, Mode.PID, pid=PID(8.0, 120.0), period_s=0.0)
    plain = Tuned(process, told, 21.0, 57.0, 95.0)
    cooled = replace(
        plain, cooler=cooled_too(replace(OVEN, cooler=replace(FAN, cooler_w=2000.0)), process, CoolingBand(1.0, 0.5))
    )
    results = []
    for situation in (plain, cooled):
        step = situation.step_s(told)
        results.append(put_through(situation.network, told, situation.stage, list(Trial), step))
    for trial in Trial:
        same = np.allclose(results[0][trial].reading_c, results[1][trial].reading_c, atol=1e-9)
        assert same == (trial is not Trial.DOWN)
    said = [
        before(forecast(s, relay_test(s, RelayKind.OWN)), [], 60.0, True, s.cooler is not None).says
        for s in (plain, cooled)
    ]
    assert [any("cooler off" in line for line in lines) for lines in said] == [False, True]
    first = lambda c: np.argmax(c.reading_c < 75.0 - situation.stage.moved_c + 1.5)  # noqa: E731
    assert first(results[1][Trial.DOWN]) < first(results[0][Trial.DOWN])


@pytest.mark.parametrize(
    ("purpose", "field"),
    [
        (replace(OVEN, cooler=replace(FAN, cooler_w=0.0)), "cooler.cooler_w"),
        (replace(OVEN, cooler=replace(FAN, cooler_w=float("nan"))), "cooler.cooler_w"),
        (replace(OVEN, cooler=replace(FAN, drive_w=5000.0)), "cooler.drive_w"),
        (replace(OVEN, cooler=replace(FAN, coolant_c=20.0)), "cooler.coolant_c"),
        (replace(BATH, cooler=replace(WATER, coolant_c=None)), "cooler.coolant_c"),
        (replace(BATH, cooler=replace(WATER, coolant_c=32.0)), "cooler.coolant_c"),
        (replace(BATH, cooler=replace(WATER, coolant_c=99.0)), "cooler.coolant_c"),
        (replace(OVEN, fire=Fire(9000.0)), "cooler"),
        (replace(OVEN, effect=Effect.WATCHES, heater_power_w=0.0, heater_voltage_v=0.0), "cooler"),
        (replace(OVEN, effect=Effect.COOLS, working_c=4.0, lowest_c=1.0), "cooler"),
    ],
)
def test_what_cannot_be_is_refused_by_its_field(purpose, field):
    check_purpose(OVEN), check_purpose(BATH)
    with pytest.raises(Refused) as refused:
        check_purpose(purpose)
    assert field in [p.field for p in refused.value.problems]


def test_water_in_a_hot_coil_is_a_danger():
    def told(**changed):
        return {
            f"{f.rule} {f.severity}"
            for f in purpose_findings(replace(BATH, **changed), RigKind.TANK)
            if "steam" in f.rule
        }

    assert told(highest_c=99.0) == set() and told(highest_c=100.0) == {"purpose.steam fault"}
    assert told(working_c=100.0, highest_c=120.0) == {"purpose.steam danger"}
    assert told(working_c=150.0, highest_c=180.0, cooler=FAN) == set()


def test_its_settings_are_there_only_with_it():
    names = {"cool_above_c", "cool_hysteresis_c"}
    assert names <= {p.name for p in parameters_for(OVEN)}
    assert not names & {p.name for p in parameters_for(replace(OVEN, cooler=None))}
    functions = lambda p: {v for v, _ in choices_for(BY_NAME["output_2"], p, "none")}  # noqa: E731
    assert functions(OVEN) - functions(replace(OVEN, cooler=None)) == {"cooling"}


def test_a_list_that_calls_no_cooler_is_said_to_and_a_question_knows_what_it_takes():
    wiring = usual(OVEN, SSR, Usual.PARTS)
    a1 = wiring.part("A1")
    deaf = replace(
        wiring, parts=tuple(replace(p, ratings={**p.ratings, "alarm": "high"}) if p is a1 else p for p in wiring.parts)
    )
    rules = [[f.rule for f in stale(w, OVEN, SSR, Usual.PARTS)] for w in (wiring, deaf)]
    assert rules == [[], ["wiring.no-cooling"]]
    process = FOPDT(18.0 / 20.0, 900.0, 20.0)  # 1800 W raise it by 90 °C: 20 W/K, 600 W take 30 °C of that
    known = Known(OVEN, SSR, RigKind.OVEN, process=process)
    assert SPLIT.of_rig(known)["cools"] == pytest.approx(60.0 * (54.0 + 30.0) / 900.0)
