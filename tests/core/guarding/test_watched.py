"""A rig that only watches: what is proposed for it calls in time and not in ordinary times, or says that no value does."""

from dataclasses import replace

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from rellux.core.control.alarms.settings import AlarmKind
from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.errors import Refused
from rellux.core.guarding.family import HeatedRig
from rellux.core.guarding.ladder import DIGIT_C, Situation, control_error
from rellux.core.guarding.plan import Plan
from rellux.core.guarding.watched import propose_watch, watch_findings, watched
from rellux.core.heating.conductor_tables import Practice
from rellux.core.purpose.purpose import Effect, Limited, Purpose, RigKind, Supply, check_purpose
from rellux.core.sensing.sensors import sensor_range
from rellux.core.wiring.choice import SUGGESTED, WATCHING, Actuator, check_choice, fitting
from rellux.core.wiring.usual_circuits import Usual, offers, usual
from tests.core.guarding.rigs import between_steps

STORE = Purpose(6.0, 12.0, "ages", Supply.SINGLE_PHASE, 230.0, 0.0, 0.0, 2.0, "crystallises", effect=Effect.WATCHES)


def situation(purpose=STORE, plan=None, sensor="Pt100"):
    rig = HeatedRig(RigKind.CABINET, purpose, 0.0)
    seen = Situation(rig, plan or Plan(), sensor, ControllerSettings(purpose.working_c, Mode.OFF), purpose.highest_c)
    return seen if plan else replace(seen, plan=propose_watch(seen).plan)


def rules(seen):
    return [f.rule for f in watch_findings(watched(seen), seen)]


@given(
    usual_c=st.floats(-150, 800),
    above=st.floats(0.1, 300),
    below=st.floats(0.1, 300) | st.none(),
    stands=st.floats(0.1, 500) | st.none(),
    sensor=st.sampled_from(("Pt100", "K", "S", "T")),
)
def test_what_is_proposed_fits_wherever_something_does(usual_c, above, below, stands, sensor):
    materials = (Limited("seal", usual_c + stands),) if stands else ()
    lowest = None if below is None else usual_c - below
    purpose = replace(STORE, working_c=usual_c, highest_c=usual_c + above, lowest_c=lowest, materials=materials)
    assume(sensor_range(sensor)[0] < usual_c < sensor_range(sensor)[1])
    seen = situation(purpose, sensor=sensor)
    assert between_steps(watched(seen))
    step = 1.0 if abs(usual_c) + above + (below or 0) >= 100 else 0.5
    room = control_error(seen).value + DIGIT_C + step
    sides = [min(above, stands or above)] + ([below] if below else [])
    if all(side >= room + 1e-6 for side in sides):
        assert rules(seen) == []
    for planned in seen.plan.alarms:  # whatever there is room for, it never calls at the usual temperature itself
        if planned.alarm.kind is AlarmKind.HIGH:
            assert planned.alarm.value > usual_c
        if planned.alarm.kind is AlarmKind.LOW:
            assert planned.alarm.value < usual_c


@pytest.mark.parametrize(
    ("kind", "value", "said"),
    [
        (AlarmKind.HIGH, 11.5, []),
        (AlarmKind.HIGH, 11.9, ["guarding.watch-late"]),
        (AlarmKind.HIGH, 6.5, []),
        (AlarmKind.HIGH, 6.4, ["guarding.watch-calls"]),
        (AlarmKind.LOW, 2.5, []),
        (AlarmKind.LOW, 2.1, ["guarding.watch-late"]),
        (AlarmKind.LOW, 5.6, ["guarding.watch-calls"]),
    ],
)
def test_an_alarm_moved_is_found_and_just_before_it_is_not(kind, value, said):
    plan = situation().plan
    moved = tuple(replace(a, alarm=replace(a.alarm, value=value)) if a.alarm.kind is kind else a for a in plan.alarms)
    seen = situation(plan=Plan(moved))
    assert rules(seen) == said
    late = [f for f in watch_findings(watched(seen), seen) if f.rule == "guarding.watch-late"]
    for finding in late:  # its proposal settles it
        i = next(i for i, a in enumerate(moved) if a.alarm.kind is kind)
        settled = replace(moved[i], alarm=replace(moved[i].alarm, value=finding.proposal.value))
        assert rules(situation(plan=Plan((*moved[:i], settled, *moved[i + 1 :])))) == []


def test_neither_purpose_nor_parts_nor_circuit_has_what_there_is_not():
    check_purpose(STORE)
    for wrong in ({"heater_power_w": 5.0}, {"heater_voltage_v": 230.0}):
        with pytest.raises(Refused, match="only watches"):
            check_purpose(replace(STORE, **wrong))
    check_choice(STORE, WATCHING)
    assert fitting(STORE, SUGGESTED) == WATCHING and fitting(STORE, WATCHING) == WATCHING
    for practice in Practice:
        for supply, volts in ((Supply.SINGLE_PHASE, 120.0), (Supply.THREE_PHASE, 400.0), (Supply.DC, 24.0)):
            purpose, choice = (
                replace(STORE, supply=supply, supply_voltage_v=volts),
                replace(WATCHING, practice=practice),
            )
            wired = usual(purpose, choice, Usual.PARTS)
            assert not any(p.heats for p in wired.parts) and wired.connections
            for kind in RigKind:
                possible = [o.key for o in offers(kind, purpose, choice) if not o.refused]
                assert possible == [Usual.PARTS, Usual.BEACON]
    with pytest.raises(Refused, match="nothing to switch"):
        check_choice(STORE, replace(WATCHING, actuator=Actuator.SSR))
    with pytest.raises(Refused, match="something must switch it"):
        check_choice(replace(STORE, effect=Effect.HEATS, working_c=60.0, highest_c=70.0), WATCHING)
    with pytest.raises(Refused, match="not wired so"):
        usual(STORE, WATCHING, Usual.CASCADE)
