"""Invariants of the wiring rules and states on many lists, not on one."""

from dataclasses import replace

from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.findings import Severity
from rellux.core.heating.protection_data import Practice
from rellux.core.purpose.purpose import SUPPLY_VOLTAGES, Purpose, Supply
from rellux.core.sensing.sensors import NAMES
from rellux.core.wiring.generate import Actuator, Choice, Output, generate
from rellux.core.wiring.model import Circuit, ConnectionList
from rellux.core.wiring.rules import check, context_for
from rellux.core.wiring.states import Conduction, Switching, state_table

PAIRS = [
    (Output.RELAY, Actuator.RELAY),
    (Output.RELAY, Actuator.CONTACTOR),
    (Output.SSR_DRIVE, Actuator.SSR),
    (Output.PIN, Actuator.MOSFET),
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


@settings(max_examples=60)
@given(rigs())
def test_what_rellux_lays_out_itself_is_sound(rig):
    purpose, choice, wiring = rig
    assert {f.rule for f in check(wiring, context(purpose, choice))} <= {"wiring.limiter"}
    assert {n for n, e in state_table(wiring) if "E1" in e.loads} == {"output on"}


@settings(max_examples=60)
@given(rigs(), st.data())
def test_taking_any_wire_away_never_makes_the_heater_run_when_it_should_not(rig, data):
    """Fail-safe: the usual circuits are de-energise-to-trip, so a broken wire can only turn the heat off."""
    _, _, wiring = rig
    gone = data.draw(st.sampled_from(wiring.connections))
    left = ConnectionList(wiring.parts, tuple(c for c in wiring.connections if c is not gone))
    for name, energised in state_table(left):
        assert "E1" not in energised.loads or name == "output on"


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
@given(rigs(), st.booleans(), st.booleans())
def test_closing_more_contacts_only_adds_to_what_is_live(rig, output, tripped):
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
    energised = conduction.solve(Switching(output, tripped))
    assert energised.live <= conduction.reach(live_poles, closed)
    for i in range(len(closed)):
        assert conduction.reach(live_poles, closed[:i]) <= conduction.reach(live_poles, closed[: i + 1])
