"""Every check of the sheet beyond the loop: a case that triggers it, and a near miss; alarms against the plan; a changed unit."""

from dataclasses import replace
from math import isclose

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.control.alarms.settings import Action, AlarmKind, AlarmSettings, Standby
from rellux.core.guarding.plan import Plan, PlannedAlarm
from rellux.core.process.models import FOPDT
from rellux.core.purpose.purpose import Effect, Purpose, Supply
from rellux.core.setup.checks import check_sheet
from rellux.core.setup.dictionary import BY_NAME, PARAMETERS
from rellux.core.setup.parameters import check_values
from rellux.core.setup.proposals import propose
from rellux.core.setup.proposals.facts import Linked, RigFacts
from rellux.core.setup.unit_change import check_unit_change, kept_digits
from rellux.core.units import Kind
from rellux.devices.registers import LIVE

CABINET = Purpose(60, 68, "the cement clouds", Supply.SINGLE_PHASE, 230, 300, 230, 57.5, "stays soft", ambient_c=20)
HOT = replace(CABINET, highest_c=555)
KILN = replace(CABINET, working_c=980, highest_c=1010, lowest_c=None)


def planned(name, kind, value, **more):
    alarm = AlarmSettings(kind, value, **more)
    return PlannedAlarm(name, alarm, (Action.BEACON,), "", "", "Look at it.")


PLAN = Plan(
    (
        planned("Too hot", AlarmKind.HIGH, 66.0, on_delay_s=5.0, latching=True),
        planned("Sensor broken", AlarmKind.SENSOR_BREAK, 0.0),
        planned("Too cold", AlarmKind.BELOW_SETPOINT, 4.0, standby=Standby.FIRST, de_energise=False),
        planned("Loop", AlarmKind.LOOP_BREAK, 900.0, move_c=2.0),
    )
)
FACTS = RigFacts(CABINET, "Pt100", "relay")
KNOWN = replace(FACTS, process=FOPDT(0.5, 600.0, 40.0))
LINKED = replace(FACTS, linked=Linked("rtu", 7, 19200, "E", 1))
PLANNED = replace(FACTS, plan=PLAN)
WRITABLE = replace(FACTS, linked=Linked("tcp", 1, writes=True))
PROGRAMME = replace(FACTS, programme_top_c=62.0)
COLD = replace(CABINET, effect=Effect.COOLS, working_c=4, highest_c=8, lowest_c=1, lowest_reason="it freezes")
CHILLED = RigFacts(COLD, "Pt100", "relay")
CENTRED = replace(FACTS, controller_hysteresis="centred")
WINDS = replace(FACTS, controller_windup="limits")
SECOND = {"second_setpoint": "idle"}
SENT = {"retransmission": "reading"}
TWO = {"hysteresis_school": "thresholds"}
BY_PID = {"mode": "pid"}
AWAY = {"alarm_1_type": "outside_band", "alarm_1_away_c": 4.0, "alarm_1_standby": "first"}
CASES = [
    ("decimals", replace(FACTS, purpose=KILN, sensor="N"), {"display_decimals": "1"}, {"display_decimals": "0"}),
    ("decimals", replace(FACTS, purpose=HOT), {"display_decimals": "1", "display_unit": "F"}, {"display_decimals": "1"}),
    ("scale", FACTS, {"scale_high_c": 67.9}, {"scale_high_c": 68.0}),
    ("scale", FACTS, {"scale_low_c": 21.0}, {"scale_low_c": 20.0}),
    ("scale-beyond", FACTS, {"scale_high_c": 851.0}, {"scale_high_c": 850.0}),
    ("slope", FACTS, {"gain_correction": 0.97}, {"gain_correction": 0.98}),
    ("filter", FACTS, {"filter_s": 11.0}, {"filter_s": 10.0}),
    ("filter", KNOWN, {"filter_s": 41.0}, {"filter_s": 40.0}),
    ("manual", FACTS, {"run_state": "manual"}, {"run_state": "manual", "mode": "off"}),
    ("stands-by", FACTS, {"run_state": "inhibited"}, {"run_state": "automatic"}),
    ("remote", FACTS, {"setpoint_source": "remote"}, {"setpoint_source": "local"}),
    ("other-setpoint", FACTS, {**SECOND, "second_setpoint_c": 66.1}, {**SECOND, "second_setpoint_c": 66.0}),
    ("other-setpoint", FACTS, {"after_power": "start_setpoint", "start_setpoint_c": 57.0}, {"start_setpoint_c": 57.0}),
    ("ramp-and-programme", PROGRAMME, {"ramp_c_per_min": 2.0}, {"ramp_c_per_min": 2.0, "programme": "off"}),
    ("limit-below-programme", PROGRAMME, {"setpoint_high_c": 61.9}, {"setpoint_high_c": 62.0}),
    ("hysteresis-school", CENTRED, {"hysteresis_school": "one_sided"}, {"hysteresis_school": "centred"}),
    ("start-stop", FACTS, {**TWO, "switch_on_c": 60.0}, {**TWO, "switch_on_c": 59.9}),
    ("start-stop", CHILLED, {**TWO, "switch_on_c": 4.0}, {**TWO, "switch_on_c": 4.1}),
    ("stop-setpoint", FACTS, {**TWO, "switch_off_c": 60.5}, {"switch_off_c": 60.5}),
    ("no-output", FACTS, {"output_1": "none"}, {"output_1": "none", "output_3": "control"}),
    ("output-idle", FACTS, {"output_2": "alarm_1"}, {"output_2": "alarm_1", "alarm_1_type": "high"}),
    ("output-low", FACTS, {"output_low": 1.0}, {"output_low": 0.0}),
    ("retransmission", FACTS, {**SENT, "retransmission_high_c": 67.0}, {**SENT, "retransmission_high_c": 68.0}),
    ("retransmission", FACTS, {**SENT, "retransmission_low_c": 850.0}, {"retransmission_low_c": 850.0}),
    ("link", LINKED, {"link_parity": "N"}, {"link_parity": "E"}),
    ("link", LINKED, {"link_address": 8.0}, {"link_address": 7.0}),
    ("link-lost", WRITABLE, {"setpoint_source": "remote", "link_lost": "goes_on"}, {"setpoint_source": "remote"}),
    ("alarm-differs", PLANNED, {"alarm_1_at_c": 66.5}, {"alarm_1_at_c": 66.0}),
    ("alarm-differs", PLANNED, {"alarm_2_type": "low"}, {"alarm_2_hysteresis_c": 1.0}),
    ("alarm-differs", PLANNED, {"alarm_2_contact": "opens"}, {"alarm_2_contact": "closes"}),
    ("alarm-unplanned", PLANNED, {"alarm_3_type": "high"}, {"alarm_3_at_c": 65.0}),
    ("alarm-always", FACTS, {"alarm_1_type": "high", "alarm_1_at_c": 60.0}, {"alarm_1_type": "high", "alarm_1_at_c": 60.1}),
    ("alarm-always", FACTS, {"alarm_1_type": "low", "alarm_1_at_c": 60.0}, {"alarm_1_type": "low", "alarm_1_at_c": 59.9}),
    ("alarm-never-clears", FACTS, {**AWAY, "alarm_1_hysteresis_c": 4.0}, {**AWAY, "alarm_1_hysteresis_c": 3.9}),
    ("alarm-on-the-way", FACTS, {**AWAY, "alarm_1_standby": "none"}, AWAY),
    ("integral-out-of-reach", KNOWN, {**BY_PID, "integrates_within_c": 3.1}, {**BY_PID, "integrates_within_c": 3.2}),  # 0.8 of 4 °C
    ("integral-out-of-reach", KNOWN, {**BY_PID, "integrates_within_c": 3.1}, {"integrates_within_c": 3.1}),
    ("winds-up", FACTS, {**BY_PID, "anti_windup": "limits"}, {**BY_PID, "anti_windup": "tracks"}),
    ("winds-up", FACTS, {**BY_PID, "anti_windup": "limits"}, {**BY_PID, "anti_windup": "limits", "integrates_within_c": 4.0}),
    ("anti-windup", WINDS, {**BY_PID, "anti_windup": "stops"}, {**BY_PID, "anti_windup": "limits"}),
    ("loop-break-early", KNOWN, {"loop_break_s": 52.0}, {"loop_break_s": 53.0}),  # 40 + 600 · ln(1/(1 − 1/50)) = 52.1 s
]  # fmt: skip


def sheet(facts, **changed):
    return {**{p.name: p.value for p in propose(facts)}, **changed}


def rules(facts, **changed):
    return {f.rule for f in check_sheet(sheet(facts, **changed), facts)}


@pytest.mark.parametrize(("rule", "rig", "wrong", "near_miss"), CASES, ids=[f"{i}-{c[0]}" for i, c in enumerate(CASES)])
def test_a_check_triggers_and_its_near_miss_does_not(rule, rig, wrong, near_miss):
    assert f"setup.{rule}" in rules(rig, **wrong)
    assert f"setup.{rule}" not in rules(rig, **near_miss)


@pytest.mark.parametrize(
    "facts", [FACTS, KNOWN, LINKED, PLANNED, WRITABLE, PROGRAMME, replace(FACTS, purpose=KILN, sensor="N")]
)
def test_what_is_proposed_passes_its_own_checks_and_every_proposal_settles_its_finding(facts):
    assert rules(facts) <= {"setup.swing"}  # on/off is proposed first, and told what it does
    for rule, rig, wrong, _ in CASES:
        before = sheet(rig, **wrong)
        for found in check_sheet(before, rig):
            if found.rule == f"setup.{rule}" and found.proposal:
                after = {**before, found.proposal.target.removeprefix("setup."): found.proposal.value}
                check_values(after)
                assert found not in check_sheet(after, rig)


def test_a_low_limit_of_the_output_is_told_by_what_it_comes_to():
    """A gain of 0.5 °C/%: a tenth of the power is 5 °C above the room, all of it 50."""
    by = {
        low: next(f for f in check_sheet(sheet(KNOWN, output_low=low), KNOWN) if f.rule == "setup.output-low")
        for low in (10.0, 96.0)
    }
    assert "~25" in by[10.0].reason and by[10.0].severity == "fault"
    assert "~68" in by[96.0].reason and by[96.0].severity == "danger"


def test_the_controllers_alarms_are_guardings_in_its_order_and_off_with_a_reason_where_there_are_none():
    by = {p.name: p for p in propose(PLANNED)}
    told = {n: by[f"alarm_1_{n}"].value for n in ("type", "at_c", "delay_s", "latch", "contact")}
    assert told == {"type": "high", "at_c": 66.0, "delay_s": 5.0, "latch": "on", "contact": "opens"}
    second = {n: by[f"alarm_2_{n}"].value for n in ("type", "away_c", "standby", "contact")}
    assert second == {"type": "below_setpoint", "away_c": 4.0, "standby": "first", "contact": "closes"}
    assert by["alarm_3_type"].value == "off" and "plans none" in by["alarm_3_type"].reason
    assert by["loop_break_s"].value == 900.0
    assert [by[f"output_{n}"].value for n in (1, 2, 3)] == ["control", "alarm_1", "alarm_2"]
    with_page, without = (replace(PLANNED, paged=frozenset(p)) for p in ({"alarm_1_type"}, {"setpoint_c"}))
    assert "setup.alarm-differs" in rules(with_page, alarm_1_type="off") and "setup.alarm-differs" not in rules(
        without, alarm_1_type="off"
    )


def test_the_dictionary_is_whole():
    assert len(BY_NAME) == len(PARAMETERS)
    for p in PARAMETERS:
        assert p.meaning and p.title and (bool(p.choices) != (p.kind is not None))
        assert all(a.name in BY_NAME and set(a.values) <= {c for c, _ in BY_NAME[a.name].choices} for a in p.applies)
        if p.without not in (None, "*"):
            check_values({p.name: p.without})


TO = {"C": lambda c: c, "F": lambda c: c * 9 / 5 + 32, "K": lambda c: c + 273.15}
DEGREE = {"C": 1.0, "F": 1.8, "K": 1.0}


@settings(max_examples=200, deadline=None)
@given(st.sampled_from("CFK"), st.sampled_from("CFK"), st.floats(-30, 900), st.floats(-20, 20))
def test_kept_digits_are_read_as_the_new_unit_reads_them(was, now, setpoint, offset):
    before = {"display_unit": was, "setpoint_c": setpoint, "offset_c": offset, "period_s": 20.0}
    kept = {k.name: k for k in kept_digits(before, {**before, "display_unit": now})}
    assert "period_s" not in kept
    assert ("setpoint_c" in kept) == (not isclose(TO[was](setpoint), TO[now](setpoint), abs_tol=1e-5))
    for name, k in kept.items():
        absolute = BY_NAME[name].kind is Kind.TEMPERATURE
        shows = TO if absolute else {u: (lambda c, u=u: c * DEGREE[u]) for u in "CFK"}
        assert isclose(shows[was](before[name]), k.digits, abs_tol=1e-3)
        assert isclose(shows[now](k.means), k.digits, abs_tol=1e-3)
        assert isclose(shows[now](before[name]), k.enter, abs_tol=1e-3)
        assert k.hotter == (k.means > before[name] + 1e-6)


def test_a_changed_unit_is_a_danger_where_the_digits_mean_more_and_silent_where_the_controller_sees_to_it():
    f, c = ({"display_unit": u, "setpoint_c": 180.0, "hysteresis_c": 2.0} for u in "FC")
    (danger,) = check_unit_change(f, c)
    assert danger.severity == "danger" and danger.subjects == ("display_unit", "setpoint_c", "hysteresis_c")
    assert "356 would be" in danger.reason and "enter 180" in danger.reason
    assert check_unit_change(c, f)[0].severity == "fault"
    assert check_unit_change(f, c, frozenset({"setpoint_c", "hysteresis_c"})) == []
    assert check_unit_change(f, f) == []


def test_no_parameter_is_called_like_a_live_value_of_a_register_map():
    """A map tells the two apart by their name alone."""
    assert not set(LIVE) & set(BY_NAME)
