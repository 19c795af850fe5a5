"""What the proof sheet says of the circuit when a guard acts: read off circuits whose wires are listed by hand, and against the
power that every element gets over every usual circuit."""

from dataclasses import replace

import pytest

from rellux.core.control.alarms.settings import Action, AlarmKind, AlarmSettings
from rellux.core.errors import Refused
from rellux.core.guarding.acting import NOT_WIRED, NOTHING, acting_in
from rellux.core.guarding.plan import PlannedAlarm
from rellux.core.guarding.proof import MAXIMUM, proof_sheet
from rellux.core.guarding.wired import wired_in
from rellux.core.wiring.circuit.positions import table
from rellux.core.wiring.circuit.solve import CircuitSolver
from rellux.core.wiring.model import Connection
from rellux.core.wiring.usual_circuits import Usual, usual
from tests.core.guarding.test_guarding import HIGH, planned
from tests.oracle.circuits import RIGS

KILN = RIGS["kiln"]


def acting(wiring, volts=KILN[0].control_voltage_v):
    return acting_in(wiring, table(CircuitSolver(wiring, volts)), wired_in(wiring))


def test_what_the_limiter_opens_and_what_an_alarm_lights_are_said():
    """The limiter's contact feeds K0's coil, whose contact carries the element; the alarm's contact feeds the beacon."""
    found = acting(usual(*KILN, Usual.BEACON))
    assert found.limiter == "With the output on: E1 (heater) goes dead, K0 (contactor) drops out."
    assert found.alarm == "With the output on: H1 (beacon) lights." and AlarmKind.HIGH in found.alarms
    plain = acting(usual(*KILN, Usual.PARTS))
    assert plain.limiter == found.limiter and plain.alarm == ""
    bare = acting(usual(*RIGS["kiln bare"], Usual.PARTS))
    assert bare == replace(NOT_WIRED, output="With the output on: E1 (heater) goes dead.")


@pytest.mark.parametrize("bridge", [("A2.COM", "A2.OK"), ("A2.L", "K0.A1")])
def test_a_limiter_that_is_bridged_opens_nothing_and_it_is_said(bridge):
    wiring = usual(*KILN, Usual.PARTS)
    bridged = replace(wiring, connections=(*wiring.connections, Connection(99, *bridge)))
    assert acting(bridged).limiter == NOTHING
    beside = replace(wiring, connections=(*wiring.connections, Connection(99, "Q0.L", "A2.L")))  # past a fuse only
    assert acting(beside).limiter == acting(wiring).limiter


def test_every_step_at_which_a_guard_acts_says_what_is_seen_and_no_other():
    low = PlannedAlarm("Too cold", AlarmSettings(AlarmKind.LOW, 57.5, 0.5), (Action.BEACON,), "", "", "look")
    found = acting(usual(*KILN, Usual.BEACON))
    steps = proof_sheet(planned(HIGH, low), 23.0, acting=found).steps
    expected = {"Too hot": found.alarm, "Too cold": "", "independent limiter": found.limiter}
    assert all(s.shows == (expected[s.guard] if s.acts else "") for s in steps)
    assert {s.shows for s in proof_sheet(planned(HIGH, low), 23.0).steps} == {""}


def test_what_the_controllers_own_maximum_ends_is_read_off_the_circuit():
    """Where its output drives the contactor, that drops out; where it drives an SSR behind one, that stays in."""
    for rig in ("kiln", "cabinet"):
        wiring = usual(*RIGS[rig], Usual.PARTS)
        found = acting(wiring, RIGS[rig][0].control_voltage_v)
        (up,) = [
            s
            for s in proof_sheet(planned(HIGH, maximum_c=72.0), 23.0, acting=found).steps
            if s.guard == MAXIMUM and s.acts
        ]
        positions = {p.name: p for p in table(CircuitSolver(wiring, RIGS[rig][0].control_voltage_v))}
        gone = positions["output on"].energised - positions["output off"].energised
        assert up.shows == found.output and all(f"{name} (" in up.shows for name in gone) and gone
        kept = positions["output off"].energised
        assert not any(f"{name} (" in up.shows for name in kept & positions["output on"].energised)


def test_where_the_one_contact_may_be_either_of_two_alarms_neither_is_shown():
    """Which of them it is set to stands in the controller, not in the wires."""
    hotter = replace(HIGH, name="Much too hot", alarm=replace(HIGH.alarm, value=75.0))
    steps = proof_sheet(planned(HIGH, hotter), 23.0, acting=acting(usual(*KILN, Usual.BEACON))).steps
    assert {s.guard for s in steps if s.shows} == {"independent limiter"}


@pytest.mark.slow
@pytest.mark.parametrize("rig", RIGS)
def test_whatever_is_said_to_go_dead_got_power_before_and_gets_none_after(rig):
    """By the currents themselves: a part that is said to go off loses them, and none that keeps them is left out."""
    purpose, choice = RIGS[rig]
    for key in Usual:
        try:
            wiring = usual(purpose, choice, key)
        except Refused:  # a circuit that this rig cannot have
            continue
        positions = {p.name: p for p in table(CircuitSolver(wiring, purpose.control_voltage_v))}
        said = acting(wiring, purpose.control_voltage_v).limiter
        if "limit tripped, output on" not in positions:
            assert said == ""
            continue
        before, after = positions["output on"], positions["limit tripped, output on"]
        for heater in [p.name for p in wiring.parts if p.type.family == "heater"]:
            dead = before.heats(heater, 1.0) and not after.heats(heater, 1.0)
            assert (f"{heater} (" in said) == dead
