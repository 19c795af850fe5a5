"""The ladder, a stuck switch, limiter and fuse: held against a general solver, a true rig behind each generated one, and by hand."""

from dataclasses import replace

import numpy as np
import pytest
import thermocouple_its90
from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.control.alarms.replay import Recorded
from rellux.core.control.alarms.settings import Action, AlarmKind, AlarmSettings
from rellux.core.control.pid import PID
from rellux.core.control.settings import HysteresisSchool, Mode, climb_s
from rellux.core.errors import Refused
from rellux.core.findings import Severity
from rellux.core.guarding.accept import with_value
from rellux.core.guarding.family import RESERVE_UNKNOWN, Identified, Span, family
from rellux.core.guarding.findings import guarding_findings
from rellux.core.guarding.fuses import choose_fuse
from rellux.core.guarding.ladder import Rung, ladder, length_s, sensor_error
from rellux.core.guarding.log_check import chart, check_run
from rellux.core.guarding.plan import (
    FaultPolicy,
    FaultSchool,
    LimiterReset,
    Plan,
    PlannedAlarm,
    ThermalFuse,
    check_plan,
)
from rellux.core.guarding.policy import glitches, longest_hold
from rellux.core.guarding.predict import running_overshoot
from rellux.core.guarding.proof import MAXIMUM, Observed, Source, dial, judge, proof_sheet, unseen
from rellux.core.guarding.propose import propose_plan
from rellux.core.guarding.runaway import Follower, runaway
from rellux.core.guarding.stuck import load_peaks, stuck
from rellux.core.guarding.wired import Wired, wired_findings, wired_in
from rellux.core.heating.conductor_tables import Practice
from rellux.core.plant.rig_models import CHARACTERS, network_for
from rellux.core.plant.simulation import Simulation
from rellux.core.process.modes import time_63
from rellux.core.purpose.purpose import Limited
from rellux.core.wiring.choice import Actuator, Choice, Output
from rellux.core.wiring.circuit.faults import analyse
from rellux.core.wiring.circuit.solve import CircuitSolver
from rellux.core.wiring.usual_circuits import Usual, usual
from tests.core.guarding.rigs import (
    CABINET,
    KNOWN,
    LIMITER,
    between_steps,
    generated,
    situation,
    true_peak,
    true_peaks,
    true_time_s,
)
from tests.examples import cases


def found(case):
    return {f.rule: f for f in guarding_findings(ladder(case), case)}


@pytest.mark.parametrize("kind", CHARACTERS)
def test_a_stuck_switch_runs_as_a_general_solver_says(kind):
    """Within half a percent of the rise, through the trip and after it."""
    network = network_for(kind, CABINET, 300.0)
    course = runaway(
        network,
        21.0,
        60.0,
        min(8.0 * time_63(network), 6000.0),
        (Follower(LIMITER.lag_s, 1.0, LIMITER.trip_c, LIMITER.relay_s),),
    )
    assert course.opened_s is not None
    peak = true_peak(network, CABINET, LIMITER, 0.0, 60.0)
    assert course.peak_c - 21.0 == pytest.approx(peak - 21.0, rel=0.005)


@settings(max_examples=cases(8), deadline=None)
@given(st.integers(0, 10**6), st.sampled_from(HysteresisSchool), st.sampled_from((0.0, 0.005, 0.05, 0.5)))
def test_on_off_passes_its_set_point_as_far_as_a_simulation_does(seed, school, ramp):
    """By the network's modes, against the loop simulated step by step; the settled peak too, which is often the higher one, and that of
    one whose set-point climbs."""
    known, _, _ = generated(seed)
    settings = replace(known.settings, hysteresis_c=1.5, hysteresis_school=school, ramp_c_per_s=ramp)
    rigs = family(known.rig)
    found = running_overshoot(rigs, settings, 21.0)
    length = min(6.0 * time_63(rigs.fast) + climb_s(settings.setpoint_c - 21.0, ramp), 100_000.0)
    record = Simulation(rigs.fast, settings, 21.0, 0.25).advance(length)
    simulated = max(record.reading_c.max() - settings.setpoint_c, 0.0)
    assert found.high >= simulated - max(
        0.15, 0.01 * simulated
    )  # the simulation looks in steps, and its dead time is whole ones
    assert found.low <= found.value <= found.high


@pytest.mark.parametrize("c_per_min", [0.5, 5.0, 60.0])
def test_a_ramp_of_the_set_point_takes_nothing_from_what_is_allowed_for(c_per_min):
    """It may be switched off; and along it an integral may gather more than at once. Judge: the loop with it, to the end of its climb."""
    known, _, _ = generated(3)
    loop = replace(known.settings, mode=Mode.PID, pid=PID(3.0, 200.0), period_s=0.0, ramp_c_per_s=0.0)
    rigs, ramped = family(known.rig), replace(loop, ramp_c_per_s=c_per_min / 60.0)
    at_once, found = (running_overshoot(rigs, s, 21.0) for s in (loop, ramped))
    assert found.value >= at_once.value and found.high >= at_once.high
    climbs = (loop.setpoint_c - 21.0) / ramped.ramp_c_per_s
    seen = Simulation(rigs.likely, ramped, 21.0, 0.25).advance(min(climbs + 3.0 * time_63(rigs.likely), 200_000.0))
    assert found.value >= seen.reading_c.max() - loop.setpoint_c - 0.1


@pytest.mark.slow
@settings(max_examples=cases(6), deadline=None)
@given(st.integers(0, 10**6))
def test_what_is_said_to_be_protected_is_in_every_rig_it_may_be(seed):
    """The judge is a true rig inside what is known, its switch failing at work or while it heats up, its limiter's sensor wrong by up
    to its class, solved by a general solver."""
    known, truth, rng = generated(seed)
    step = ladder(known)
    assert between_steps(step)
    gap = step.gap("weakest over limiter")
    limiter = known.plan.limiter
    own = sensor_error(limiter.sensor, limiter.trip_c, "").value
    purpose = known.rig.purpose
    start = float(rng.choice([purpose.ambient_c, purpose.working_c, rng.uniform(purpose.ambient_c, purpose.working_c)]))
    peak = true_peak(truth, purpose, limiter, float(rng.choice([-own, 0.0, own])), start)
    weakest = step.step(step.weakest).celsius
    if gap.is_wide_enough:
        assert peak <= weakest + 0.2
    answer = stuck(step, known)
    if "never reached" in answer.alone:
        rest = truth.equilibrium_rise()[truth.sensor_node] + known.rig.purpose.ambient_c
        assert rest < weakest
    if "is not reached" in answer.with_limiter:
        assert peak <= weakest + 0.2


@pytest.mark.slow
@settings(max_examples=cases(6), deadline=None)
@given(st.integers(0, 10**6))
def test_nobody_has_less_time_to_open_the_main_switch_than_is_said(seed):
    known, truth, _ = generated(seed)
    found = ladder(known)
    answer, weakest = stuck(found, known), found.step(found.weakest).celsius
    there = true_time_s(truth, known.rig.purpose, weakest)
    if answer.act_within_s is not None:
        assert there >= 0.99 * answer.act_within_s
    elif "never reached" in answer.alone:
        assert there == np.inf
    else:
        assert there >= 0.99 * length_s(found.family)


@pytest.mark.slow
@settings(max_examples=cases(15), deadline=None)
@given(st.integers(0, 10**6), st.floats(60, 120), st.floats(60.5, 100))
def test_an_accepted_proposal_leaves_no_gap_worse_and_no_limiter_above_what_breaks(seed, trip, setpoint_high):
    rng = np.random.default_rng(seed)
    purpose = replace(
        CABINET, highest_c=float(rng.uniform(66, 120)), materials=(Limited("cork", float(rng.uniform(66, 130))),)
    )
    case = situation(
        purpose, replace(LIMITER, trip_c=round(trip, 1)), KNOWN if seed % 2 else None, round(setpoint_high, 1)
    )
    before = ladder(case)
    for finding in guarding_findings(before, case):
        if not finding.proposal:
            continue
        station, _, name = finding.proposal.target.partition(".")
        if station == "setup":
            after_case = replace(case, setpoint_high_c=finding.proposal.value)
        elif station == "guarding":
            offered = propose_plan(replace(case, plan=Plan())).plan
            after_case = replace(case, plan=with_value(case.plan, offered, name, finding.proposal.value))
        else:
            continue
        after = ladder(after_case)
        fine = {g.key for g in before.gaps if g.is_wide_enough}
        assert all(g.is_wide_enough for g in after.gaps if g.key in fine)
        assert finding.rule not in found(after_case) or station == "setup"
        limiter = after_case.plan.limiter
        if name.startswith("limiter"):
            assert limiter.trip_c < after.step(after.weakest).celsius


def test_the_gaps_of_a_worked_example_made_by_hand():
    """60 °C cabinet, Pt100 both: class B at 60 °C is 0.3 + 0.005 × 60 = 0.6, at 76 °C 0.68 (IEC 60751)."""
    step = ladder(situation())
    over, under = step.gap("limiter over running"), step.gap("weakest over limiter")
    top = max(64.0, step.step("running").high)
    assert over.present_c == pytest.approx(76.0 - top) and over.needed.value == pytest.approx(0.6 + 0.68)
    assert under.present_c == pytest.approx(90.0 - 76.0)
    rise = step.family.fast
    assert under.needed.value == pytest.approx(
        0.68 + runaway(rise, 21.0, 60.0, step.alone.time_s[-1], (Follower(10.0, 1.0, 76.0, 0.2),)).peak_c - 76.0
    )
    order = [s.rung for s in step.steps]
    assert (
        order.index(Rung.WORKING) < order.index(Rung.LIMITER) < order.index(Rung.AFTER_TRIP) < order.index(Rung.HIGHEST)
    )
    assert step.weakest == "highest" and found(situation()).keys() == {"guarding.no-alarm"}


FUSE = ThermalFuse(98.0, 82.0, 60.0, 20.0)
HIGH = PlannedAlarm("Too hot", AlarmSettings(AlarmKind.HIGH, 70.0, 0.5), (Action.BEACON,), "", "", "look")


def trips(celsius, **changed):
    return situation(limiter=replace(LIMITER, trip_c=celsius), **changed)


def calls(celsius):
    return planned(replace(HIGH, alarm=replace(HIGH.alarm, value=celsius)))


def planned(*alarms, **changed):
    return situation(plan=Plan(alarms or (HIGH,), LIMITER, **changed))


CASES = [  # rule, one that triggers it, a near miss
    ("guarding.no-limiter", situation(limiter=None), situation(replace(CABINET, highest_c=150.0), None)),
    ("guarding.limiter-not-fitted", situation(has_limiter=False), situation()),
    ("guarding.limiter-self-resetting", situation(limiter=replace(LIMITER, reset=LimiterReset.SELF)), situation()),
    ("guarding.limiter-break", situation(limiter=replace(LIMITER, trips_on_break=False)), situation()),
    ("guarding.limiter-too-high", trips(88.0), trips(87.5)),
    ("guarding.limiter-in-running", situation(setpoint_high_c=75.0), situation(setpoint_high_c=74.5)),
    ("guarding.limiter-in-tuning", trips(64.0, setpoint_high_c=60.5, seen_overshoots_c=(0.5,)), situation()),
    ("guarding.limiter-unreachable", trips(102.0), trips(99.0)),
    ("guarding.limiter-late", situation(limiter=replace(LIMITER, lag_s=150.0)), situation()),
    ("guarding.maximum-in-running", planned(maximum_c=67.0), planned(maximum_c=67.5)),
    ("guarding.maximum-above-limiter", planned(maximum_c=76.0), planned(maximum_c=75.5)),
    ("guarding.fuse-first", planned(fuse=replace(FUSE, rating_c=84.0, holding_c=70.0)), planned(fuse=FUSE)),
    ("guarding.fuse-too-high", planned(fuse=FUSE), situation(replace(CABINET, highest_c=120.0), plan=Plan((HIGH,), LIMITER, FUSE))),
    ("guarding.fuse-holding", planned(fuse=replace(FUSE, holding_c=63.0)), planned(fuse=FUSE)),
    ("guarding.no-alarm", situation(), planned()),
    ("guarding.alarm-in-running", calls(60.5), planned()),
    ("guarding.alarm-above-limiter", calls(76.0), calls(75.5)),
    (
        "guarding.low-above-setpoint",
        planned(replace(HIGH, alarm=AlarmSettings(AlarmKind.LOW, 60.0))),
        planned(replace(HIGH, alarm=AlarmSettings(AlarmKind.LOW, 57.5))),
    ),
    (
        "guarding.contact-sense",
        planned(HIGH, replace(HIGH, name="Other", alarm=replace(HIGH.alarm, de_energise=False))),
        planned(HIGH, replace(HIGH, name="Other", does=(Action.BUZZER,), alarm=replace(HIGH.alarm, de_energise=False))),
    ),
    (
        "guarding.hold-too-long",
        situation(plan=Plan((HIGH,), replace(LIMITER, trip_c=61.0), policy=FaultPolicy(FaultSchool.RIDE_THROUGH, 60.0))),
        planned(policy=FaultPolicy(FaultSchool.RIDE_THROUGH, 10.0)),
    ),
]  # fmt: skip


@pytest.mark.slow
@pytest.mark.parametrize(("rule", "triggers", "misses"), CASES, ids=[c[0] for c in CASES])
def test_every_finding_has_its_case_and_its_near_miss(rule, triggers, misses):
    assert rule in found(triggers) and rule not in found(misses)


@pytest.mark.slow
def test_what_is_proposed_for_a_rig_is_fine_with_it():
    for case in (situation(limiter=None), situation(replace(CABINET, highest_c=140.0), None, None)):
        plan = propose_plan(replace(case, plan=Plan())).plan
        check_plan(plan)
        assert all(f.severity is Severity.ADVICE for f in found(replace(case, plan=plan)).values())
    assert propose_plan(situation(plan=Plan(), has_limiter=False)).plan.limiter is None
    hot = situation(
        replace(CABINET, working_c=700.0, highest_c=900.0), known=None
    )  # its own kind of sensor does not read so high
    assert propose_plan(replace(hot, plan=Plan(), sensor="NTC")).plan.limiter.sensor == "K"
    for seed in range(10):
        check_plan(propose_plan(replace(generated(seed)[0], plan=Plan())).plan)


@pytest.mark.slow
def test_a_fuse_fits_between_ordinary_work_and_what_breaks():
    case = situation(replace(CABINET, highest_c=130.0))
    fits = [c.fuse.rating_c for c in choose_fuse(case, 60.0, 20.0) if c.fits]
    assert fits and min(fits) - 10.0 > LIMITER.trip_c and max(fits) < 130.0
    assert not any(c.fits for c in choose_fuse(situation(), 60.0, 400.0))
    cooler = [c.fuse.rating_c for c in choose_fuse(case, 50.0, 20.0) if c.fits]
    assert min(cooler) <= min(fits)


def test_a_hold_is_bounded_by_what_full_power_eats():
    case = trips(61.0)
    step = ladder(case)
    out_of_a_hold = step.alone.when(61.0)
    assert 0 < longest_hold(step, case) <= out_of_a_hold  # out of a heat-up the element is hot already


def test_what_is_dialled_is_what_the_standards_print():
    """IEC 60751: 90 °C is 134.71 Ω, 115 °C 144.18 Ω. Thermocouples against an independent implementation of ITS-90."""
    assert dial("Pt100", 90.0, 23.0).value == pytest.approx(134.71, abs=0.005)
    assert dial("Pt100", 115.0, 23.0).value == pytest.approx(144.18, abs=0.005)
    for letter in "KNJTSR":
        for celsius, terminals in ((200.0, 23.0), (350.0, 31.5)):
            ours = dial(letter, celsius, terminals).value
            reference = thermocouple_its90.get(letter)
            assert ours == pytest.approx(reference.emf(celsius) - reference.emf(terminals), abs=0.001)


def test_what_fails_unseen_is_the_mean_over_the_time_between_two_proofs():
    for days in (30, 365, 1000):
        hours = np.linspace(0.0, 24.0 * days, 10_001)
        assert unseen(days).value == pytest.approx(100.0 * np.mean(1.0 - np.exp(-2e-6 * hours)), rel=0.02)


def test_a_proof_goes_up_past_every_value_and_down_and_is_judged():
    low = PlannedAlarm("Too cold", AlarmSettings(AlarmKind.LOW, 57.5, 0.5), (Action.BEACON,), "", "", "look")
    sheet = proof_sheet(planned(HIGH, low), 23.0)
    assert sheet.source is Source.DECADE
    by_guard = {
        g: [(s.celsius, s.acts) for s in sheet.steps if s.guard == g]
        for g in ("Too hot", "Too cold", "independent limiter")
    }
    (a, quiet), (b, acts), (c, back) = by_guard["Too hot"]
    assert a < 70.0 < b and c < 69.5 and (quiet, acts, back) == (False, True, False)
    (a, quiet), (b, acts), (c, back) = by_guard["Too cold"]
    assert a > 57.5 > b and c > 58.0 and (quiet, acts, back) == (False, True, False)
    assert [acts for _, acts in by_guard["independent limiter"]] == [
        False,
        True,
        True,
        False,
        True,
    ]  # latches; reset; lead off
    seen = [Observed(s.acts) for s in sheet.steps]
    assert judge(sheet, seen).passed
    wrong = judge(sheet, [Observed(not s.acts) if i == 1 else Observed(s.acts) for i, s in enumerate(sheet.steps)])
    assert not wrong.passed and wrong.failed == (1,) and "did not act" in wrong.says
    left = judge(
        sheet, [Observed(None, "no source") if i == 0 else Observed(s.acts) for i, s in enumerate(sheet.steps)]
    )
    assert not left.passed and left.left_out == (0,)
    for bad in (seen[:-1], [Observed(None), *seen[1:]]):
        with pytest.raises(Refused):
            judge(sheet, bad)
    assert not judge(proof_sheet(situation(limiter=None), 23.0), []).passed
    own = [s for s in proof_sheet(planned(HIGH, maximum_c=72.0), 23.0).steps if s.guard == MAXIMUM]
    assert [s.acts for s in own] == [False, True] and own[0].celsius < 72.0 < own[1].celsius


def test_over_a_run_the_plan_says_what_would_have_called_and_what_nobody_can_say():
    time = np.arange(4000.0)
    reading = 60 + 12 * np.exp(-(((time - 2000) / 100) ** 2))
    nothing = np.zeros(0)
    case = planned(HIGH, replace(HIGH, name="Beside", alarm=AlarmSettings(AlarmKind.ABOVE_SETPOINT, 3.0)))
    hot, beside, limiter = check_run(case.plan, case, Recorded(time, reading, nothing, nothing, nothing, nothing))
    assert hot.found.count == 1 and beside.found is None and limiter.found.count == 0
    assert hot.found.occurrences[0].begin_s == np.argmax(reading >= 70.0)
    table = chart(HIGH.alarm, Recorded(time, reading, nothing, nothing, nothing, nothing))
    for value, row in zip(table.values, table.calls, strict=True):
        met = (reading >= value - 0.5) & (np.arange(4000) >= np.argmax(reading >= value))
        long_enough = [bool(value <= reading.max() and met.sum() > d) for d in table.delays_s]
        assert [n > 0 for n in row] == long_enough
        assert sorted(row, reverse=True) == list(row)
    assert chart(AlarmSettings(AlarmKind.SENSOR_BREAK), Recorded(time, reading, *[nothing] * 4)) is None


def test_a_lost_reading_is_ridden_through_only_within_the_hold_and_where_it_can_have_got_to():
    time = np.arange(100.0)
    reading = np.full(100, 60.0)
    reading[10:12] = reading[30:40] = reading[95:] = np.nan
    reading[50:52], reading[52:95] = np.nan, 75.0
    rides = FaultPolicy(FaultSchool.RIDE_THROUGH, 3.0, 60.0)
    found = glitches(rides, time, reading)
    assert [(g.begin_s, g.length_s, g.rides) for g in found] == [
        (10.0, 2.0, True), (30.0, 10.0, False), (50.0, 2.0, False), (95.0, 4.0, False)
    ]  # fmt: skip
    assert ["longer" in found[1].why, "cannot have got to" in found[2].why, "did not come back" in found[3].why] == [
        True
    ] * 3
    assert not any(g.rides for g in glitches(FaultPolicy(), time, reading)) and glitches(rides, time, time) == []


@pytest.mark.long
@settings(max_examples=cases(12), deadline=None)
@given(st.integers(0, 10**6))
def test_a_load_comes_to_between_what_is_said_in_every_rig_it_may_be(seed):
    """Light or as heavy as the rig itself, out of a hold at work; the limiter's sensor wrong by up to its class."""
    known, truth, rng = generated(seed)
    found = ladder(known)
    peaks = load_peaks(found, known)
    limiter, purpose = known.plan.limiter, known.rig.purpose
    own = sensor_error(limiter.sensor, limiter.trip_c, "").value
    lag = float(rng.uniform(1.0, min(time_63(n) for n in found.family.all)))
    chamber, load = true_peaks(truth, purpose, limiter, float(rng.uniform(-own, own)), purpose.working_c, lag)
    if peaks is None or found.trip is None or found.trip.opened_s is None:
        return
    assert peaks[0] <= peaks[1] and load <= chamber + 0.01
    assert peaks[0] - 0.5 <= load <= peaks[1] + 0.5


def test_plan_and_wiring_that_contradict_one_another_are_found():
    choice = Choice("Pt100", Output.RELAY, Actuator.RELAY, True, Practice.IEC, None)
    plain, lit = (wired_in(usual(CABINET, choice, key)) for key in (Usual.PARTS, Usual.BEACON))
    plan, working = Plan((HIGH,)), replace(lit, rests_closed=False)
    assert plain.alarm == "" and {f.rule for f in wired_findings(plan, plain, ())} == {"guarding.not-wired"}
    assert lit.alarm == "high" and wired_findings(plan, lit, ()) == []
    pulls = Plan((replace(HIGH, alarm=replace(HIGH.alarm, de_energise=False)),))
    opens = {(p is plan, w.rests_closed): wired_findings(p, w, ()) for p in (plan, pulls) for w in (lit, working)}
    assert {case: {f.rule for f in found} for case, found in opens.items()} == {
        (True, True): set(), (False, False): set(),
        (True, False): {"guarding.contact-opens"}, (False, True): {"guarding.contact-opens"},
    }  # fmt: skip
    ends = Plan((replace(pulls.alarms[0], does=(Action.CONTACTOR,)),))  # what it ends must open
    assert wired_findings(ends, lit, ()) == []
    low = Plan((replace(HIGH, alarm=replace(HIGH.alarm, kind=AlarmKind.LOW)),))
    assert {f.rule for f in wired_findings(low, lit, ())} == {"guarding.wired-otherwise"}
    assert wired_findings(Plan((replace(HIGH, does=(Action.OUTPUT_OFF,)),)), plain, ()) == []


def test_a_limiter_that_is_not_in_the_way_stops_nothing():
    """Judged by the solved circuit: the usual one, and the same with the limiter's contact bridged."""
    choice = Choice("Pt100", Output.SSR_DRIVE, Actuator.SSR, True, Practice.IEC, None)
    case, nothing = situation(), Wired(frozenset(), "")
    wiring = usual(CABINET, choice, Usual.PARTS)
    limiter = next(p.name for p in wiring.parts if "limiter" in p.type.kind)
    ends = [
        end
        for c in wiring.connections
        for end in (c.a, c.b)
        if end.startswith(f"{limiter}.") and c.circuit.value == "control"
    ]
    contact = sorted({e for e in ends if e.rpartition(".")[2] not in ("L", "N", "+", "-")})
    assert len(contact) == 2
    bridged = replace(
        wiring,
        connections=(*wiring.connections, replace(wiring.connections[0], number=999, a=contact[0], b=contact[1])),
    )
    for known, stops in ((wiring, True), (bridged, False)):
        outcomes = analyse(CircuitSolver(known, 230.0)).outcomes
        answer = stuck(ladder(case), case, outcomes)
        rules = {f.rule for f in wired_findings(case.plan, nothing, outcomes)}
        assert ("opens the contactor after" in answer.with_limiter) is stops and bool(len(answer.guarded_c)) is stops
        assert ("guarding.limiter-not-in-the-way" not in rules) is stops
        assert answer.unnoticed or not stops  # a welded contactor is noticed by nobody before the limiter is needed


BAD = [
    ("alarms[0].response", Plan((replace(HIGH, response=" "),))),
    ("alarms[0].does", Plan((replace(HIGH, does=()),))),
    ("alarms[1].name", Plan((HIGH, replace(HIGH, name="too hot")))),
    ("alarms[0].alarm.on_delay_s", Plan((replace(HIGH, alarm=replace(HIGH.alarm, on_delay_s=-1.0)),))),
    ("limiter.trip_c", Plan(limiter=replace(LIMITER, trip_c=2000.0))),
    ("limiter.sensor", Plan(limiter=replace(LIMITER, sensor="Q"))),
    ("limiter.lag_s", Plan(limiter=replace(LIMITER, lag_s=601.0))),
    ("limiter.relay_s", Plan(limiter=replace(LIMITER, relay_s=11.0))),
    ("limiter.hysteresis_c", Plan(limiter=replace(LIMITER, hysteresis_c=101.0))),
    ("fuse.rating_c", Plan(fuse=replace(FUSE, rating_c=801.0))),
    ("fuse.holding_c", Plan(fuse=replace(FUSE, holding_c=98.0))),
    ("fuse.lag_s", Plan(fuse=replace(FUSE, lag_s=601.0))),
    ("policy.hold_s", Plan(policy=FaultPolicy(hold_s=61.0))),
    ("policy.rate_c_per_min", Plan(policy=FaultPolicy(rate_c_per_min=0.0))),
    ("prove_days", Plan(prove_days=0)),
    ("maximum_c", Plan(maximum_c=1901.0)),
]


@pytest.mark.parametrize(("field", "plan"), BAD)
def test_a_plan_that_cannot_be_is_refused_by_its_field(field, plan):
    with pytest.raises(Refused) as refused:
        check_plan(plan)
    assert field in [p.field for p in refused.value.problems]


@pytest.mark.parametrize(
    ("name", "value", "field"),
    [("limiter_trip_c", "hot", "value"), ("fuse_rating_c", 70.0, "target"), ("alarm.7", 70.0, "target")],
)
def test_what_is_nothing_of_a_plan_is_not_accepted(name, value, field):
    with pytest.raises(Refused) as refused:
        with_value(Plan((HIGH,), LIMITER), Plan(), name, value)
    assert refused.value.problems[0].field == field


def test_a_gain_without_an_upper_end_is_taken_as_of_rigs_of_its_kind_and_as_quick_as_found():
    """A heat-up that never bent: its rate is known, where it ends is not."""
    endless = Identified(Span(0.6, 0.6, np.inf), Span(900.0, 900.0, np.inf), KNOWN.dead_time_s)
    rig = situation(known=endless).rig
    found, typical = family(rig), network_for(rig.kind, rig.purpose, rig.power_w)
    rise = typical.equilibrium_rise()[typical.sensor_node]
    assert found.likely.equilibrium_rise()[1] == pytest.approx(rise)
    assert found.fast.equilibrium_rise()[1] == pytest.approx(RESERVE_UNKNOWN * rise, rel=0.05)
    assert rise / time_63(found.likely) == pytest.approx(100 * 0.6 / 900)
    bounded = replace(rig, identified=replace(endless, gain=Span(0.6, 0.6, 0.7), lag_s=Span(900.0, 900.0, 1050.0)))
    assert family(bounded).fast.equilibrium_rise()[1] < found.fast.equilibrium_rise()[1]
