"""Invariants of the wiring rules and states on many lists, not on one."""

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.findings import Severity
from rellux.core.heating.conductor_tables import Practice
from rellux.core.purpose.purpose import SUPPLY_VOLTAGES, Purpose, Supply
from rellux.core.sensing.sensors import NAMES
from rellux.core.wiring.choice import Actuator, Choice, Output
from rellux.core.wiring.circuit.positions import table
from rellux.core.wiring.circuit.solve import CircuitSolver
from rellux.core.wiring.generate import generate
from rellux.core.wiring.graph import Conduction
from rellux.core.wiring.model import Circuit, ConnectionList
from rellux.core.wiring.rules import check, context_for
from rellux.core.wiring.switching import OFF, ON, TRIPPED, Switching

PAIRS = [
    (Output.RELAY, Actuator.RELAY),
    (Output.RELAY, Actuator.CONTACTOR),
    (Output.SSR_DRIVE, Actuator.SSR),
    (Output.PIN, Actuator.MOSFET),
    (Output.PIN, Actuator.SSR),
]


@st.composite
def rigs(draw):
    """A purpose a person could have, parts that can work together, and the usual circuit for them."""
    supply = draw(st.sampled_from(list(Supply)))
    volts = draw(st.sampled_from(SUPPLY_VOLTAGES[supply]))
    amperes = draw(st.floats(0.2, 12))
    purpose = Purpose(60, 80, "spoils", supply, volts, round(volts * amperes, 1), volts)
    fitting = [
        (output, actuator)
        for output, actuator in PAIRS
        if (actuator is not Actuator.MOSFET or supply is Supply.DC)
        and (actuator is not Actuator.RELAY or purpose.lives == 1)
    ]
    output, actuator = draw(st.sampled_from(fitting))
    choice = Choice(
        draw(st.sampled_from(NAMES)), output, actuator, draw(st.booleans()), draw(st.sampled_from(list(Practice)))
    )
    return purpose, choice, generate(purpose, choice)


def context(purpose, choice):
    return context_for(purpose, choice.practice, choice.sensor)


def hot(wiring, purpose):
    """Positions in which the heater gives more than a hundredth of its power."""
    circuit = CircuitSolver(wiring, purpose.control_voltage_v)
    return {p.name for p in table(circuit) if p.heats("E1", 0.01 * purpose.heater_power_w)}


@pytest.mark.slow
@settings(max_examples=60)
@given(rigs())
def test_what_rellux_lays_out_itself_is_sound(rig):
    purpose, choice, wiring = rig
    taken = {"wiring.load-voltage"} if purpose.supply_voltage_v <= 24 else set()  # by wires and switches
    assert {f.rule for f in check(wiring, context(purpose, choice))} <= {"wiring.limiter"} | taken
    if purpose.supply_voltage_v >= 24:  # below, wires and the SSR take so much that contactors let go: as they would
        assert hot(wiring, purpose) == {"output on", "supply back, output on"}


@settings(max_examples=60)
@given(rigs(), st.data())
def test_taking_any_wire_away_never_makes_the_heater_run_when_it_should_not(rig, data):
    """Fail-safe: the usual circuits are de-energise-to-trip, so a broken wire can only turn the heat off."""
    purpose, _, wiring = rig
    gone = data.draw(st.sampled_from(wiring.connections))
    left = ConnectionList(wiring.parts, tuple(c for c in wiring.connections if c is not gone))
    assert hot(left, purpose) <= {"output on", "supply back, output on"}


@settings(max_examples=40)
@given(rigs(), st.data())
def test_taking_a_power_wire_away_is_always_found(rig, data):
    purpose, choice, wiring = rig
    power = [c for c in wiring.connections if c.circuit is Circuit.POWER and "F2.1" not in (c.a, c.b)]
    gone = data.draw(st.sampled_from(power))
    left = ConnectionList(wiring.parts, tuple(c for c in wiring.connections if c is not gone))
    assert {"wiring.never-heats", "wiring.lost-phase"} & {f.rule for f in check(left, context(purpose, choice))}


@settings(max_examples=40)
@given(rigs())
def test_taking_the_earth_away_from_mains_is_always_a_danger(rig):
    purpose, choice, wiring = rig
    left = ConnectionList(wiring.parts, tuple(c for c in wiring.connections if c.circuit is not Circuit.EARTH))
    found = {f.rule: f.severity for f in check(left, context(purpose, choice))}
    if purpose.supply is not Supply.DC:
        assert found["wiring.earth"] is Severity.DANGER
    else:
        assert "wiring.earth" not in found


@pytest.mark.slow
@settings(max_examples=40)
@given(rigs(), st.permutations(range(5)))
def test_turning_wires_round_changes_no_finding(rig, order):
    purpose, choice, wiring = rig
    turned = tuple(replace(c, a=c.b, b=c.a) if i % 5 in order[:2] else c for i, c in enumerate(wiring.connections))
    before = {(f.rule, f.subjects) for f in check(wiring, context(purpose, choice))}
    assert {
        (f.rule, f.subjects) for f in check(ConnectionList(wiring.parts, turned), context(purpose, choice))
    } == before


@settings(max_examples=40)
@given(rigs())
def test_closing_more_contacts_only_adds_to_what_is_live(rig):
    """Monotone: with one more path closed, no terminal loses its pole."""
    _, _, wiring = rig
    conduction = Conduction(wiring)
    live_poles = conduction.live_poles()
    closed = [
        (f"{p.name}.{path.a}", f"{p.name}.{path.b}")
        for p in wiring.parts
        for path in p.type.paths
        if path.closed != "load"
    ]
    for i in range(len(closed)):
        assert conduction.reach(live_poles, closed[:i]) <= conduction.reach(live_poles, closed[: i + 1])


@settings(max_examples=30)
@given(rigs(), st.data())
def test_opening_a_switch_in_series_never_puts_more_heat_on(rig, data):
    """The heat is monotone in closed series contacts: an opened guard anywhere in a live never adds to it."""
    purpose, _, wiring = rig
    circuit = CircuitSolver(wiring, purpose.control_voltage_v)
    guard = data.draw(st.sampled_from([p.name for p in wiring.of_kind("breaker", "fuse")]))
    for switching in (OFF, ON, TRIPPED):
        opened = Switching(switching.output_on, switching.limit_tripped, operated=frozenset({guard}))
        assert circuit.heat(opened).total_w <= circuit.heat(switching).total_w + 1e-3
