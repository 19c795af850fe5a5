"""Proposed values with reasons, checks with their near-misses, purpose and the spine."""

from dataclasses import replace

import numpy as np
import pytest

from rellux.core.calibration.schools import OffsetSchool
from rellux.core.errors import Refused
from rellux.core.findings import Finding, Severity
from rellux.core.plant.simulation import Simulation
from rellux.core.process.models import FOPDT, with_second_lag
from rellux.core.process.networks import from_fopdt
from rellux.core.purpose.purpose import Effect, Purpose, Supply, check_purpose
from rellux.core.questions.switch.swing import SWING
from rellux.core.setup.checks import check_sheet
from rellux.core.setup.dictionary import BY_NAME
from rellux.core.setup.parameters import check_values, choices_for, settings_from
from rellux.core.setup.proposals import propose
from rellux.core.setup.proposals.facts import RigFacts
from rellux.core.setup.schools import check_school_change, with_school
from rellux.core.setup.writing import check_write
from rellux.core.spine import Facts, Progress, Station, next_action, spine

CABINET = Purpose(60, 68, "the cement clouds", Supply.SINGLE_PHASE, 230, 300, 230, 57.5, "stays soft")
FACTS = RigFacts(CABINET, "Pt100", "relay")


def sheet(facts=FACTS, **changed):
    return {**{p.name: p.value for p in propose(facts)}, **changed}


def found(facts=FACTS, **changed):
    return {f.rule for f in check_sheet(sheet(facts, **changed), facts)}


def test_every_parameter_is_proposed_with_a_reason_and_inside_its_range():
    proposed = propose(FACTS)
    assert {p.name for p in proposed} == set(BY_NAME)
    assert all(p.reason for p in proposed)
    check_values({p.name: p.value for p in proposed})
    settings_from(sheet())


def test_the_proposals_pass_their_own_checks():
    assert found() == set()


CASES = [
    ("setup.input-type", {"input_type": "K"}, {"input_type": "Pt100"}),
    ("setup.limit-above-highest", {"setpoint_high_c": 68.0}, {"setpoint_high_c": 67.9}),
    ("setup.setpoint-outside-limits", {"setpoint_c": 67.0}, {"setpoint_c": 65.9}),
    ("setup.limit-on-setpoint", {"setpoint_high_c": 60.5}, {"setpoint_high_c": 61.0}),
    ("setup.action", {"action": "cooling"}, {"action": "heating"}),
    ("setup.failure-output", {"sensor_failure_output": 10.0}, {"sensor_failure_output": 0.0}),
    ("setup.period-relay", {"mode": "pid", "period_s": 2.0}, {"mode": "pid", "period_s": 10.0}),
    ("setup.offset-large", {"offset_c": -0.7}, {"offset_c": -0.6}),  # IEC 60751 class B at 60 °C: ±0.6
]


QUICK = FOPDT(2.0, 100.0, 10.0)
"""A light oven: 200 °C at full power, so 60 °C takes 19.5 %."""
LOOP = [
    ("setup.display-unit", {}, {"display_unit": "F"}, {"display_unit": "C"}),
    ("setup.band-narrow", {}, {"mode": "pid", "proportional_band_c": 0.9}, {"mode": "pid", "proportional_band_c": 1.0}),
    (
        "setup.band-narrow",
        {},
        {"mode": "pid", "proportional_band_c": 0.1},
        {"mode": "on_off", "proportional_band_c": 0.1},
    ),
    # least band 100 K / (π/2 τ/(L + T/2) + 1) = 200 / 15.3
    (
        "setup.band-unstable",
        {"process": QUICK},
        {"proportional_band_c": 12.9, "period_s": 2.0},
        {"proportional_band_c": 13.2, "period_s": 2.0},
    ),
    (
        "setup.derivative",
        {},
        {"integral_time_s": 100.0, "derivative_time_s": 26.0},
        {"integral_time_s": 100.0, "derivative_time_s": 25.0},
    ),
    ("setup.hysteresis", {}, {"mode": "on_off", "hysteresis_c": 50.0}, {"mode": "on_off", "hysteresis_c": 10.5}),
    ("setup.period-transistor", {"actuator": "mosfet"}, {"period_s": 20.0}, {"period_s": 1.0}),
    ("setup.period-process", {"process": QUICK}, {"period_s": 20.0}, {"period_s": 10.0}),
    ("setup.output-limit", {}, {"output_high": 1.0}, {"output_high": 10.0}),
    ("setup.output-limit", {"process": QUICK}, {"output_high": 19.0}, {"output_high": 20.0}),
]


@pytest.mark.parametrize(("rule", "rig", "wrong", "near_miss"), LOOP)
def test_a_check_of_the_loop_triggers_and_its_near_miss_does_not(rule, rig, wrong, near_miss):
    facts = replace(FACTS, **rig)
    pid = {"mode": "pid", "proportional_band_c": 30.0, "integral_time_s": 400.0, "derivative_time_s": 0.0}
    assert rule in found(facts, **{**pid, **wrong}) and rule not in found(facts, **{**pid, **near_miss})


def test_a_band_called_unstable_swings_in_the_simulation_and_twice_of_it_does_not():
    """The ultimate gain against the simulation kernel: a band a fifth narrower swings, the one that is proposed settles."""
    facts = replace(FACTS, process=QUICK, actuator="ssr")
    pid = {"mode": "pid", "proportional_band_c": 5.0, "integral_time_s": 0.0, "derivative_time_s": 0.0, "period_s": 2.0}
    (finding,) = [f for f in check_sheet(sheet(facts, **pid), facts) if f.rule == "setup.band-unstable"]
    wide = float(finding.proposal.value)

    def late_swing(band):
        loop = settings_from(sheet(facts, **{**pid, "proportional_band_c": band}))
        return float(np.ptp(Simulation(from_fopdt(QUICK), loop, 21.0).advance(3000, 1.0).reading_c[2000:]))

    assert late_swing(0.8 * wide / 2) > 2 * late_swing(wide)


@pytest.mark.parametrize(("rule", "wrong", "near_miss"), CASES, ids=[c[0] for c in CASES])
def test_check_triggers_and_its_near_miss_does_not(rule, wrong, near_miss):
    assert rule in found(**wrong)
    assert rule not in found(**near_miss)


def test_long_period_on_an_ssr_is_only_advice():
    facts = replace(FACTS, actuator="ssr", process=FOPDT(0.9, 840, 50))
    findings = check_sheet(sheet(facts, mode="pid", period_s=20.0), facts)
    (advice,) = [f for f in findings if f.rule == "setup.period-ssr"]
    assert advice.severity is Severity.ADVICE
    assert advice.figures[0].value == pytest.approx(
        90 * (39 / 90) * (1 - 39 / 90) * 20 / 840, rel=1e-4
    )  # its first term
    assert "setup.period-ssr" not in found(facts, mode="pid", period_s=5.0)


def test_offset_of_another_sensor_is_recognised():
    inherited = replace(FACTS, sensor="N", calibrated_sensor="K")
    assert "setup.offset-inherited" in found(inherited, offset_c=-2.0)
    assert "setup.offset-inherited" not in found(inherited, offset_c=0.0)
    assert "setup.offset-inherited" not in found(replace(inherited, calibrated_sensor="N"), offset_c=-2.0)


def test_a_gain_and_points_of_another_sensor_are_recognised_too():
    inherited = replace(FACTS, sensor="N", calibrated_sensor="K")
    points = {
        "correction": "points",
        "point_1_at_c": 0.0,
        "point_1_add_c": 1.0,
        "point_2_at_c": 90.0,
        "point_2_add_c": 0.0,
    }
    assert "setup.gain-inherited" in found(inherited, gain_correction=1.01)
    assert "setup.gain-inherited" not in found(inherited, gain_correction=1.0)
    assert "setup.points-inherited" in found(inherited, **points)
    assert "setup.points-inherited" not in found(inherited, **{**points, "correction": "offset"})


def test_a_set_point_ramp_is_what_the_loop_is_simulated_with():
    assert settings_from(sheet(ramp_c_per_min=3.0)).ramp_c_per_s == pytest.approx(0.05)
    assert settings_from(sheet(ramp_c_per_min=3.0), replace(CABINET, effect=Effect.COOLS)).ramp_c_per_s == 0.0, (
        "no compressor has one"
    )


def test_an_offset_beside_a_gain_is_judged_by_what_both_add_at_the_work():
    """At 60 °C a gain of 1.1 adds 6 °C: an offset of −6 beside it adds nothing, and is not too large; alone it is."""
    assert "setup.offset-large" in found(offset_c=-6.0)
    assert "setup.offset-large" not in found(offset_c=-6.0, gain_correction=1.1)
    assert "setup.offset-large" in found(offset_c=0.0, gain_correction=1.1)
    assert settings_from(sheet(offset_c=-6.0, gain_correction=1.1)).offset_c == pytest.approx(0.0, abs=1e-9)


def test_points_out_of_order_are_told():
    points = {
        "correction": "points",
        "point_1_at_c": 90.0,
        "point_1_add_c": 0.1,
        "point_2_at_c": 20.0,
        "point_2_add_c": 0.0,
    }
    assert "setup.points-order" in found(**points)
    assert "setup.points-order" not in found(**{**points, "point_1_at_c": 10.0})  # the others are not in use
    assert "setup.points-order" in found(
        **{**points, "point_1_at_c": 10.0, "point_1_add_c": 40.0}
    )  # steeper than it rises
    assert "setup.points-order" not in found(**{**points, "correction": "offset"})


def test_what_was_corrected_at_several_temperatures_stays_proposed():
    corrected = replace(FACTS, corrected={"gain_correction": 1.012, "correction": "offset"})
    named = {p.name: p for p in propose(corrected)}
    assert named["gain_correction"].value == 1.012 and "several temperatures" in named["gain_correction"].reason
    assert {p.name: p for p in propose(FACTS)}["gain_correction"].value == 1.0


def test_on_off_that_leaves_the_window_is_told_only_with_a_known_process():
    wide = replace(FACTS, process=FOPDT(1.05, 620, 52))
    assert "setup.swing" in found(wide, hysteresis_c=2.0)
    assert "setup.swing" not in found(replace(FACTS, process=FOPDT(1.05, 620, 5)), hysteresis_c=1.0)
    assert "setup.swing" not in found(hysteresis_c=2.0)
    lags = with_second_lag(wide.process, 100.0)
    assert "setup.swing" in found(wide, hysteresis_c=0.5)
    assert "setup.swing" not in found(replace(wide, model=lags), hysteresis_c=0.5)
    settled = settings_from(sheet(hysteresis_c=8.0))
    (said,) = [f for f in check_sheet(sheet(hysteresis_c=8.0), replace(wide, model=lags)) if f.rule == "setup.swing"]
    asked = SWING.shape(gain=1.05, lag_s=570.0, second_s=100.0, dead_s=2.0, hysteresis_c=8.0, sample_s=settled.sample_s)
    assert said.figures[0].value == pytest.approx(
        SWING.answer(asked).figures[0].value
    )  # Set-up and the question say one thing


def test_values_outside_the_dictionary_are_refused_each_by_name():
    with pytest.raises(Refused) as refused:
        check_values({"period_s": -1.0, "mode": "fuzzy", "gain": 3.0, "offset_c": "much"})
    assert [p.field for p in refused.value.problems] == ["period_s", "mode", "gain", "offset_c"]
    assert refused.value.problems[0].accepted == "{0…300 s}"


@pytest.mark.parametrize(
    ("changed", "field"),
    [
        ({"working_c": 2500}, "working_c"),
        ({"working_c": 15}, "working_c"),
        ({"highest_c": 60}, "highest_c"),
        ({"lowest_c": 61}, "lowest_c"),
        ({"highest_reason": " "}, "highest_reason"),
        ({"supply_voltage_v": 23}, "supply_voltage_v"),
        ({"heater_power_w": 3_200_000}, "heater_power_w"),
        ({"heater_voltage_v": 0}, "heater_voltage_v"),
    ],
)
def test_a_purpose_that_cannot_be_right_is_asked_back(changed, field):
    with pytest.raises(Refused) as refused:
        check_purpose(replace(CABINET, **changed))
    assert field in [p.field for p in refused.value.problems]
    assert all(p.accepted for p in refused.value.problems)


def test_a_sound_purpose_passes():
    check_purpose(CABINET)


def danger(rule="wiring.earth"):
    return Finding(rule, Severity.DANGER, title="Not earthed", reason="because", fix="fix")


NOTHING = Facts(False, False, False, False, False, False, False)


def facts(**changed):
    return replace(NOTHING, **changed)


def test_the_spine_leads_through_the_job_in_order():
    done = {}
    steps = []
    for name in ("has_parts", "has_wiring", "has_sheet", "has_plan", "has_run", "is_tuned", "is_calibrated"):
        steps.append(next_action(facts(**done)).station)
        done[name] = True
    before = [Station.PARTS, Station.WIRING, Station.SETUP, Station.GUARDING]
    assert steps == [*before, Station.RUNS, Station.TUNING, Station.CALIBRATION]
    assert next_action(facts(**done)).station is Station.RUNS


def test_proving_comes_between_the_steps_it_belongs_between_and_holds_up_no_rig_that_runs():
    waiting = {Station.WIRING: "Prove stage 0", Station.SETUP: "Prove stage 2", Station.GUARDING: "Prove stage 3"}
    done = {"has_parts": True, "has_wiring": True, "to_prove": waiting}
    assert next_action(facts(**done)).text == "Prove stage 0"
    later = {**done, "to_prove": {k: waiting[k] for k in (Station.SETUP, Station.GUARDING)}}
    assert next_action(facts(**later)).station is Station.SETUP
    assert next_action(facts(**later, has_sheet=True)).text == "Prove stage 2"
    last = {**later, "has_sheet": True, "has_plan": True, "to_prove": {Station.GUARDING: "Prove stage 3"}}
    assert next_action(facts(**last)).text == "Prove stage 3"
    assert next_action(facts(**last, has_run=True)).station is Station.TUNING
    states = {s.station: s.progress for s in spine(facts(**last, has_proved=True))}
    assert states[Station.PROVING] is Progress.OPEN
    assert spine(facts(**last))[3].progress is Progress.UNTOUCHED
    assert {s.station: s.progress for s in spine(facts(has_proved=True, is_proved=True))}[
        Station.PROVING
    ] is Progress.DONE


def test_danger_comes_before_the_next_step_and_opens_its_station():
    with_danger = facts(has_parts=True, has_wiring=True, findings={Station.WIRING: (danger(),)})
    assert next_action(with_danger).rule == "wiring.earth"
    states = {s.station: s for s in spine(with_danger)}
    assert states[Station.WIRING].progress is Progress.OPEN and states[Station.WIRING].waiting == 1
    assert states[Station.SETUP].progress is Progress.UNTOUCHED


ADDED, ADJUST = (school.value for school in OffsetSchool)


def test_an_offset_of_the_other_kind_than_the_linked_controllers_is_found_and_not_sent():
    linked = replace(FACTS, controller_school=OffsetSchool.ADDED_TO_READING)
    assert "setup.offset-school" not in found(linked, offset_school=ADDED, offset_c=-0.5)
    wrong = sheet(linked, offset_school=ADJUST, offset_c=-0.5)
    (finding,) = [f for f in check_sheet(wrong, linked) if f.rule == "setup.offset-school"]
    assert finding.severity is Severity.DANGER and "+0.5" in finding.fix
    with pytest.raises(Refused, match="other kind"):
        check_write({"offset_c": -0.5}, wrong, linked)
    check_write({"setpoint_c": 59.0}, wrong, linked)  # only what the finding is about is barred
    mended = with_school(wrong, OffsetSchool.ADDED_TO_READING)
    assert (mended["offset_school"], mended["offset_c"]) == (ADDED, 0.5)
    check_write({"offset_c": mended["offset_c"]}, mended, linked)


@pytest.mark.parametrize(
    ("after", "fine"),
    [
        ({"offset_school": ADJUST}, False),
        ({"offset_school": ADJUST, "offset_c": 4.0}, True),
        ({"offset_school": ADJUST, "offset_c": 0.0}, True),
        ({"offset_c": -3.0}, True),
    ],
)
def test_a_school_is_not_changed_under_the_number_of_the_other(after, fine):
    before = sheet(offset_school=ADDED, offset_c=-4.0)
    if fine:
        check_school_change(before, {**before, **after})
        return
    with pytest.raises(Refused, match="other kind") as refused:
        check_school_change(before, {**before, **after})
    assert refused.value.problems[0].field == "offset_c" and "+4" in refused.value.problems[0].accepted


def test_the_simulated_controller_follows_the_school():
    """Whichever way the number is written, the same controller comes out of it."""
    same = [
        settings_from(sheet(offset_school=ADDED, offset_c=-2.0)),
        settings_from(sheet(offset_school=ADJUST, offset_c=2.0)),
    ]
    assert same[0] == same[1]


@pytest.mark.parametrize("dead_s", [2.0, 5.0, 10.0])
def test_a_test_that_the_controller_makes_by_itself_starts_only_where_its_swing_stays_below_the_highest(dead_s):
    """Judge: the same relay simulated step by step."""
    quick = FOPDT(2.0, 100.0, dead_s)
    facts = RigFacts(CABINET, "Pt100", "relay", process=quick, process_verdict="supported")
    for setpoint in (50.0, 57.0, 60.0, 63.0, 66.0):
        simulation = Simulation(
            from_fopdt(quick),
            settings_from(sheet(setpoint_c=setpoint, hysteresis_c=2.0, hysteresis_school="centred", mode="on_off")),
            step_s=0.05,
            ambient_c=CABINET.ambient_c,
        )
        peak = simulation.advance(1000.0).reading_c.max()
        try:
            check_write({"auto_tune": "on"}, sheet(setpoint_c=setpoint), facts)
            assert peak < CABINET.highest_c
        except Refused as refused:
            assert "would swing to" in str(refused) and peak > CABINET.highest_c - 1.5
    for unknown in (FACTS, replace(facts, process_verdict="poor")):
        with pytest.raises(Refused, match="not known for this rig yet"):
            check_write({"auto_tune": "on"}, sheet(), unknown)
    check_write({"auto_tune": "off"}, {}, FACTS)
    with pytest.raises(Refused):
        check_write({"auto_tune": "on", "setpoint_c": 67.5}, sheet(), facts)


def test_a_rig_that_only_watches_is_offered_nothing_that_follows_a_set_point_but_what_it_has():
    watching = replace(CABINET, effect=Effect.WATCHES)
    alarm, out = BY_NAME["alarm_1_type"], BY_NAME["output_1"]
    assert [c for c, _ in choices_for(alarm, watching, "high")] == ["off", "high", "low"]
    assert "above_setpoint" in [c for c, _ in choices_for(alarm, watching, "above_setpoint")]
    assert "control" not in [c for c, _ in choices_for(out, watching, "none")]
    assert choices_for(alarm, CABINET, "high") == alarm.choices
