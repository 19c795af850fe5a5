"""Whether a list belongs to what was chosen, what a new part or wire is like, and how a changed purpose reaches the parts."""

from dataclasses import replace

import pytest

from rellux.core.conductor_colours import CONDUCTOR_COLOURS
from rellux.core.heating.conductor_tables import Practice
from rellux.core.wiring.choice import Output
from rellux.core.wiring.defaults import usual_ratings, usual_wire
from rellux.core.wiring.generate import generate
from rellux.core.wiring.model import Circuit, ConnectionList
from rellux.core.wiring.staleness import for_purpose, same_joints, stale, voided
from rellux.core.wiring.usual_circuits import Usual, usual
from tests.core.wiring.test_wiring_more import KILN, SHELL, SSR, part


def changed(wiring, number, **values):
    return replace(
        wiring,
        connections=tuple(replace(w, **values) if w.number == number else w for w in wiring.connections),
    )


def test_only_other_joints_make_another_circuit():
    wiring = generate(KILN, SSR)
    first = wiring.connections[0]
    assert same_joints(wiring, changed(wiring, first.number, colour="pink", area_mm2=4.0, a=first.b, b=first.a))
    assert same_joints(wiring, replace(wiring, connections=wiring.connections[::-1]))
    assert not same_joints(wiring, replace(wiring, connections=wiring.connections[1:]))
    other_probe = tuple(replace(p, ratings={**p.ratings, "sensor": "J"}) if p.name == "B1" else p for p in wiring.parts)
    assert not same_joints(wiring, replace(wiring, parts=other_probe))


def test_a_list_for_other_parts_is_stale_and_one_with_more_parts_is_not():
    wiring = generate(KILN, SSR)
    assert stale(wiring, KILN, SSR, Usual.PARTS) == []
    more = replace(wiring, parts=(*wiring.parts, part("H1", "lamp", voltage_v=230.0)))
    assert stale(more, KILN, SSR, Usual.PARTS) == []
    found = stale(wiring, KILN, replace(SSR, sensor="J"), Usual.PARTS)
    assert [f.rule for f in found] == ["wiring.stale"] and "chosen thermocouple J" in found[0].reason
    impossible = stale(wiring, KILN, replace(SSR, output=Output.RELAY), Usual.PARTS)
    assert "cannot work together" in impossible[0].reason


def test_what_was_measured_before_a_change_is_named():
    assert voided([]) == []
    assert voided(["the calibration", "the tuning"])[0].title.endswith("since the calibration and the tuning")


def test_a_new_purpose_reaches_one_heater_whole_and_several_in_their_shares():
    stronger = replace(KILN, heater_power_w=6400.0, heater_voltage_v=240.0)
    heater = next(p for p in for_purpose(generate(KILN, SSR).parts, stronger) if p.heats)
    assert (heater.number("power_w"), heater.number("voltage_v")) == (6400.0, 240.0)
    pair = (
        part("E1", "heater", power_w=1000.0, voltage_v=115.0),
        part("E2", "heater", power_w=3000.0, voltage_v=115.0),
    )
    shared = for_purpose(pair, stronger)
    assert [p.number("power_w") for p in shared] == [1600.0, 4800.0]
    assert {p.number("voltage_v") for p in shared} == {115.0}


@pytest.mark.parametrize(
    ("a", "b", "circuit", "colour"),
    [
        ("F1.2", "E1.1", Circuit.POWER, "brown"),
        ("F2.2", "A1.L", Circuit.CONTROL, "brown"),
        ("Q0.PE", "X1.PE", Circuit.EARTH, "green-yellow"),
        ("B1.+", "A1.IN+", Circuit.SENSOR, None),
    ],
)
def test_a_new_wire_is_as_its_neighbours(a, b, circuit, colour):
    wiring = generate(KILN, SSR)
    wire = usual_wire(wiring.parts, wiring.connections, a, b)
    same = [w.area_mm2 for w in wiring.connections if w.circuit is circuit]
    assert wire.circuit is circuit and wire.area_mm2 in same
    assert wire.number == max(w.number for w in wiring.connections) + 1
    assert wire.colour == colour or (colour is None and wire.colour in CONDUCTOR_COLOURS)


def test_an_earth_wire_has_the_colour_of_the_practice():
    empty = ConnectionList((), ())
    assert usual_wire(empty.parts, empty.connections, "Q0.PE", "X1.PE", Circuit.EARTH, Practice.NEC).colour == "green"


def test_a_new_part_takes_the_control_voltage():
    assert usual_ratings("contactor_3p", 24.0)["coil_v"] == 24.0
    assert usual_ratings("lamp", SHELL.control_voltage_v)["voltage_v"] == 230.0
    assert usual_ratings("breaker", 24.0)["current_a"] == usual_ratings("breaker", 230.0)["current_a"]


def test_a_usual_circuit_is_what_it_is_compared_with():
    started = usual(KILN, SSR, Usual.START)
    assert stale(started, KILN, SSR, Usual.START) == []
    assert stale(generate(KILN, SSR), KILN, SSR, Usual.START)
