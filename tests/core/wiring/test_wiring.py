"""Wiring: the usual circuits are sound, every rule has a case that triggers it and a near-miss that does not."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.heating.conductor_tables import Practice
from rellux.core.purpose.purpose import Purpose, Supply
from rellux.core.wiring.choice import Actuator, Choice, Output
from rellux.core.wiring.circuit.positions import table
from rellux.core.wiring.circuit.solve import CircuitSolver
from rellux.core.wiring.generate import generate
from rellux.core.wiring.library import PART_TYPES
from rellux.core.wiring.model import Circuit, Connection, ConnectionList, Part
from rellux.core.wiring.rules import Context, check
from rellux.core.wiring.switching import OFF, ON

KILN = Purpose(515, 600, "slumps", Supply.SINGLE_PHASE, 230, 3200, 230)
PLATE = Purpose(60, 80, "chars", Supply.DC, 24, 120, 24)
SSR = Choice("N", Output.SSR_DRIVE, Actuator.SSR, True, Practice.IEC)
RELAY = Choice("N", Output.RELAY, Actuator.RELAY, True, Practice.IEC)


def context(purpose=KILN, sensor="N", practice=Practice.IEC):
    return Context(purpose.supply_voltage_v, practice, sensor)


def rules_of(wiring, **changed):
    return {f.rule for f in check(wiring, replace(context(), **changed))}


def wires(wiring, change):
    """The list with ``change`` applied to every wire; None takes a wire away."""
    kept = tuple(w for w in (change(c) for c in wiring.connections) if w is not None)
    return ConnectionList(wiring.parts, kept)


def without(wiring, a, b):
    return wires(wiring, lambda c: None if {c.a, c.b} == {a, b} else c)


def moved(wiring, old, new):
    return wires(wiring, lambda c: replace(c, a=new if c.a == old else c.a, b=new if c.b == old else c.b))


def rated(wiring, part, **ratings):
    parts = tuple(replace(p, ratings={**p.ratings, **ratings}) if p.name == part else p for p in wiring.parts)
    return ConnectionList(parts, wiring.connections)


CHOICES = [
    Choice(sensor, output, actuator, limiter, practice)
    for sensor in ("K", "Pt100")
    for output, actuator in (
        (Output.RELAY, Actuator.RELAY),
        (Output.RELAY, Actuator.CONTACTOR),
        (Output.SSR_DRIVE, Actuator.SSR),
    )
    for limiter in (True, False)
    for practice in Practice
]


@pytest.mark.parametrize("purpose", [KILN, PLATE])
@pytest.mark.parametrize("choice", CHOICES, ids=lambda c: f"{c.sensor}-{c.actuator}-{c.limiter}-{c.practice}")
def test_usual_circuits_are_sound(purpose, choice):
    wiring = generate(purpose, choice)
    found = {f.rule for f in check(wiring, context(purpose, choice.sensor, choice.practice))}
    assert found == (set() if choice.limiter else {"wiring.limiter"})


@pytest.mark.parametrize("choice", CHOICES, ids=lambda c: f"{c.sensor}-{c.actuator}-{c.limiter}-{c.practice}")
def test_the_heater_is_on_only_with_output_on_and_limit_ok(choice):
    on = {p.name for p in table(CircuitSolver(generate(KILN, choice), 230.0)) if p.heats("E1", 100)}
    assert on == {"output on", "supply back, output on"}


def test_an_ssr_drive_cannot_move_a_coil_nor_a_contact_an_ssr():
    with pytest.raises(Refused, match="pulses"):
        generate(KILN, replace(SSR, actuator=Actuator.CONTACTOR))
    with pytest.raises(Refused, match="bare contact"):
        generate(KILN, replace(RELAY, actuator=Actuator.SSR))


# Each rule: what breaks it, and a change of the same sort that does not.
def test_earth():
    good = generate(KILN, SSR)
    assert "wiring.earth" in rules_of(without(good, "Q0.PE", "X1.PE"))
    assert "wiring.earth" not in rules_of(wires(good, lambda c: replace(c, a=c.b, b=c.a)))  # direction is no matter
    plate = generate(PLATE, replace(SSR, sensor="K"))
    assert "wiring.earth" not in {f.rule for f in check(plate, context(PLATE, "K"))}  # extra-low voltage


def test_overcurrent_protection():
    good = generate(KILN, SSR)
    assert "wiring.overcurrent" in rules_of(moved(good, "F1.2", "Q0.L"))
    assert "wiring.overcurrent" not in rules_of(moved(good, "F1.2", "F2.2"))  # another breaker protects as well


def test_ssr_and_output():
    good = generate(KILN, SSR)
    crossed = wires(
        good,
        lambda c: replace(c, b={"V1.3+": "V1.4-", "V1.4-": "V1.3+"}.get(c.b, c.b)),
    )
    found = check(crossed, context())
    assert any(f.rule == "wiring.ssr-drive" and "reversed" in f.title for f in found)
    assert any(f.proposal and f.proposal.target == "wiring.swap" for f in found)
    assert "wiring.floating-input" in rules_of(without(good, "A1.OUT+", "V1.3+"))
    both_ends = wires(crossed, lambda c: replace(c, a={"A1.OUT+": "A1.OUT-", "A1.OUT-": "A1.OUT+"}.get(c.a, c.a)))
    assert "wiring.ssr-drive" not in rules_of(both_ends)  # crossed twice is right again
    assert "wiring.ssr-load" in rules_of(rated(good, "V1", load_type="dc"))


def test_ssr_on_a_relay_output():
    """A bare contact has no voltage of its own."""
    parts = tuple(
        Part("A1", PART_TYPES["controller_relay"], p.ratings) if p.name == "A1" else p
        for p in generate(KILN, SSR).parts
    )
    rename = {"A1.OUT+": "A1.COM", "A1.OUT-": "A1.NO"}
    wiring = ConnectionList(
        parts,
        tuple(replace(c, a=rename.get(c.a, c.a), b=rename.get(c.b, c.b)) for c in generate(KILN, SSR).connections),
    )
    found = [f for f in check(wiring, context()) if f.rule == "wiring.ssr-drive"]
    assert found and "no voltage of its own" in found[0].reason


def controller_switches_heater(current_a):
    """The relay's contacts are bypassed by the controller's own."""
    good = generate(replace(KILN, heater_power_w=230.0 * current_a), RELAY)
    changed = wires(
        good,
        lambda c: None if {c.a, c.b} in ({"F2.2", "A1.COM"}, {"A1.NO", "K1.A1"}) else c,
    )
    changed = moved(moved(changed, "K1.COM", "A1.COM"), "K1.NO", "A1.NO")
    return rules_of(changed)


def test_controller_relay_driving_a_heater():
    assert "wiring.relay-overload" in controller_switches_heater(13.9)
    assert "wiring.relay-overload" not in controller_switches_heater(2.9)  # inside the pilot's 3 A


def test_limiter_missing_and_its_place():
    assert "wiring.limiter" in rules_of(generate(KILN, replace(SSR, limiter=False)))
    good = generate(KILN, SSR)
    bypassed = moved(good, "K0.2", "K0.1")  # the contactor is there, but not in the heater's path
    assert "wiring.limiter-place" in rules_of(bypassed)
    only_coil = generate(KILN, replace(RELAY, actuator=Actuator.CONTACTOR))
    only_coil = moved(without(only_coil, "A2.OK", "K0.A1"), "K0.2", "K0.1")
    only_coil = wires(only_coil, lambda c: replace(c, a="A2.OK") if {c.a, c.b} == {"F2.2", "A1.COM"} else c)
    assert "wiring.limiter-place" in rules_of(only_coil)  # it drops the actuator's coil: a welded contact defeats it
    in_neutral = wires(
        good,
        lambda c: (
            replace(c, a="F1.2", b="V1.1")
            if {c.a, c.b} == {"K0.2", "V1.1"}
            else replace(c, a="E1.2", b="K0.1")
            if {c.a, c.b} == {"F1.2", "K0.1"}
            else replace(c, a="K0.2", b="Q0.N")
            if {c.a, c.b} == {"E1.2", "Q0.N"}
            else c
        ),
    )
    assert "wiring.limiter-place" not in rules_of(in_neutral)  # one pole taken away stops a two-pole load


def test_limiter_shares_the_controllers_sensor():
    good = generate(KILN, SSR)
    shared = moved(moved(good, "B2.+", "B1.+"), "B2.-", "B1.-")
    assert "wiring.limiter-sensor" in rules_of(shared)
    assert "wiring.limiter-sensor" not in rules_of(good)


def test_thermocouple_polarity():
    good = generate(KILN, SSR)

    def crossed(instrument):
        ends = {f"{instrument}.IN+": f"{instrument}.IN-", f"{instrument}.IN-": f"{instrument}.IN+"}
        return wires(good, lambda c: replace(c, a=ends.get(c.a, c.a), b=ends.get(c.b, c.b)))

    found = [f for f in check(crossed("A1"), context()) if f.rule == "wiring.tc-polarity"]
    assert found[0].proposal.value == "A1.IN+>A1.IN-"
    assert "wiring.tc-polarity" in rules_of(crossed("A2"))
    pt100 = generate(KILN, replace(SSR, sensor="Pt100", limiter=False))
    assert "wiring.tc-polarity" not in rules_of(pt100, input_type="Pt100")


def test_sensor_type_against_the_input():
    good = generate(KILN, SSR)
    assert "wiring.sensor-type" in rules_of(good, input_type="K")
    assert "wiring.sensor-type" not in rules_of(good, input_type="N")


def test_wire_against_breaker():
    good = generate(KILN, SSR)

    def thinner(area):
        return wires(good, lambda c: replace(c, area_mm2=area) if c.circuit is Circuit.POWER else c)

    assert "wiring.wire-breaker" in rules_of(thinner(1.0))  # 10 A behind 16 A
    assert "wiring.wire-breaker" not in rules_of(thinner(1.5))
    control = wires(good, lambda c: replace(c, area_mm2=0.5) if c.circuit is Circuit.CONTROL else c)
    found = [f for f in check(control, context()) if f.rule == "wiring.wire-breaker"]
    assert found and all(f.subjects[1] == "F2" for f in found)  # only the control breaker's own wires


def test_breaker_against_load():
    good = generate(KILN, SSR)
    assert "wiring.breaker-load" in rules_of(rated(good, "F1", current_a=13.0))
    assert "wiring.breaker-load" not in rules_of(
        rated(good, "F2", current_a=4.0)
    )  # the control breaker feeds no heater


@pytest.mark.parametrize(("volts", "wrong"), [(120.0, True), (200.0, True), (240.0, False), (220.0, False)])
def test_load_voltage(volts, wrong):
    assert ("wiring.load-voltage" in rules_of(rated(generate(KILN, SSR), "E1", voltage_v=volts))) is wrong


def test_normally_open_and_normally_closed():
    good = generate(KILN, RELAY)
    inverted = moved(good, "K1.NO", "K1.NC")
    found = [f for f in check(inverted, context()) if f.rule == "wiring.no-nc"]
    assert found and "normally-closed" in found[0].reason
    twice = moved(inverted, "A1.NO", "A1.NC")  # inverted twice: on again when the output is on
    assert "wiring.no-nc" not in rules_of(twice)
    commanded = moved(good, "A1.NO", "A1.NC")  # the heater itself hangs on NO: the controller commands it the wrong way
    found = [f for f in check(commanded, context()) if f.rule == "wiring.no-nc"]
    assert found and "normally-closed" in found[0].reason
    past = moved(good, "K1.NO", "K1.COM")
    assert any(f.rule == "wiring.no-nc" and "no switch" in f.reason for f in check(past, context()))


def test_a_heater_that_never_gets_its_pole():
    assert "wiring.never-heats" in rules_of(without(generate(KILN, RELAY), "Q0.N", "K1.A2"))


# The list itself
@pytest.mark.parametrize(
    ("a", "b", "reason"),
    [
        ("F9.1", "E1.1", "no part 'F9'"),
        ("F1.7", "E1.1", "no terminal '7'"),
        ("E1.1", "E1.1", "itself"),
        ("Q0.L", "F1.1", "already joined"),
    ],
)
def test_impossible_wires_are_refused(a, b, reason):
    good = generate(KILN, SSR)
    with pytest.raises(Refused, match=reason):
        ConnectionList(good.parts, (*good.connections, Connection(99, a, b)))


def test_two_parts_of_one_name_are_refused():
    good = generate(KILN, SSR)
    with pytest.raises(Refused, match="two parts are called F1"):
        ConnectionList((*good.parts, good.parts[1]), good.connections)


@pytest.mark.slow
@given(st.randoms(use_true_random=False))
def test_the_order_of_wires_does_not_matter(random):
    good = generate(KILN, SSR)
    shuffled = list(good.connections)
    random.shuffle(shuffled)
    mixed = ConnectionList(good.parts, tuple(shuffled))
    for output in (ON, OFF):
        assert CircuitSolver(mixed, 230.0).settled(output) == CircuitSolver(good, 230.0).settled(output)


def test_a_self_interrupting_coil_is_reported_as_unsettled():
    parts = (Part("Q0", PART_TYPES["supply_1ph"]), Part("K1", PART_TYPES["relay"]))
    wiring = ConnectionList(
        parts, (Connection(1, "Q0.L", "K1.COM"), Connection(2, "K1.NC", "K1.A1"), Connection(3, "Q0.N", "K1.A2"))
    )
    assert CircuitSolver(wiring, 230.0).solve(ON).chatters == {"K1"}
