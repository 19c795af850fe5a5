"""How a list is drawn: columns along the circuit, a drawing for each circuit of a large rig, flags for nets of many wires."""

import pytest
from benchmarks.large_rig import large_rig

from rellux.core.conductor_colours import CONDUCTOR_COLOURS, colour_of
from rellux.core.wiring.drawing import MOST_DRAWN, View, drawings
from rellux.core.wiring.model import Circuit, Connection, ConnectionList
from rellux.core.wiring.usual_circuits import Usual, usual
from tests.core.wiring.test_wiring_more import CONTACTOR, KILN, SHELL, SSR, part


def columns(wiring, view):
    drawing = next(d for d in drawings(wiring) if d.view is view)
    return {p.name: p.column for p in drawing.places}


def test_parts_stand_in_the_order_in_which_current_passes_them():
    found = columns(usual(SHELL, CONTACTOR, Usual.CASCADE_BEACON), View.ALL)
    power = [found[name] for name in ("Q0", "F1", "K0", "K1", "E1")]
    assert power == sorted(power) and len(set(power)) == len(power)
    assert found["A1"] < found["K1"] and found["A1"] < found["B1"] and found["A1"] < found["H1"]


def test_what_a_relay_feeds_stands_right_of_its_coil():
    """The start relay holds itself through its own contact and feeds the limiter's contactor."""
    found = columns(usual(KILN, SSR, Usual.START), View.CONTROL)
    assert found["S0"] < found["S1"] <= found["K9"] < found["K0"]


def test_contacts_lead_from_column_to_column():
    """The start circuit of the oven, then a zone: each contact passed is a step, however the parts are wired besides."""
    found = columns(large_rig(), View.CONTROL)
    steps = [found[name] for name in ("F4", "S1", "S2", "S3", "X8", "A1", "S4", "K1")]
    assert steps == sorted(steps) and len(set(steps)) == len(steps)
    assert found["S3"] == found["K9"] and found["K8"] == found["X8"] and found["A1"] == found["A4"] == found["M1"]


def test_a_large_rig_has_a_drawing_for_each_circuit_and_every_wire_is_in_one():
    rig = large_rig()
    found = drawings(rig)
    assert [d.view for d in found] == [View.POWER, View.CONTROL, View.SENSOR]
    shown = [n for d in found for n in (*d.lines, *d.flags)]
    assert sorted(shown) == [w.number for w in rig.connections]
    poles, coil = (next(p for p in d.places if p.name == "K1").terminals for d in found[:2])
    assert set(poles) == {"1", "2", "3", "4", "5", "6"} and set(coil) == {"A1", "A2"}
    order = ["Q0", "S0", "F0", "F1", "K1", "V1", "X2", "E1"]
    assert [columns(rig, View.POWER)[name] for name in order] == list(range(8))
    assert len({columns(rig, View.POWER)[f"K{n}"] for n in (1, 2, 3)}) == 1


def test_the_neutral_of_a_large_control_circuit_is_flags_and_a_small_one_is_drawn():
    rig = large_rig()
    control = next(d for d in drawings(rig) if d.view is View.CONTROL)
    colours = {w.number: w.colour for w in rig.connections}
    assert {colours[n] for n in control.flags} == {"blue"} and "blue" not in {colours[n] for n in control.lines}
    assert not any(d.flags for d in drawings(usual(KILN, SSR, Usual.START)))


@pytest.mark.parametrize(("count", "flagged"), [(MOST_DRAWN, 0), (MOST_DRAWN + 1, MOST_DRAWN + 1)])
def test_a_net_of_many_wires_becomes_flags(count, flagged):
    lamps = tuple(part(f"H{i}", "lamp", voltage_v=230.0) for i in range(count))
    supply = part("Q0", "supply_1ph", voltage_v=230.0)
    wires = tuple(Connection(i + 1, "Q0.L", f"H{i}.1", Circuit.POWER) for i in range(count))
    drawing = drawings(ConnectionList((supply, *lamps), wires))[0]
    assert len(drawing.flags) == flagged and len(drawing.lines) == count - flagged


def test_a_circuit_without_wires_has_no_drawing():
    supply, lamp = part("Q0", "supply_1ph", voltage_v=230.0), part("H1", "lamp", voltage_v=230.0)
    power = ConnectionList((supply, lamp), (Connection(1, "Q0.L", "H1.1", Circuit.POWER),))
    assert [d.view for d in drawings(power)] == [View.ALL, View.POWER]


def test_a_board_of_many_pins_shows_those_in_use_once_it_is_wired():
    supply, board = part("Q0", "supply_dc", voltage_v=5.0), part("A1", "microcontroller")
    shown = [
        next(p for p in drawings(ConnectionList((supply, board), wires))[0].places if p.name == "A1").terminals
        for wires in ((), (Connection(1, "Q0.+", "A1.5V", Circuit.POWER),))
    ]
    assert len(shown[0]) == len(board.type.terminals) and shown[1] == ("5V",)


def test_parts_wired_to_nothing_and_a_list_without_wires_are_drawn():
    loose = ConnectionList((part("Q0", "supply_1ph", voltage_v=230.0), part("H1", "lamp", voltage_v=230.0)), ())
    assert {p.name for p in drawings(loose)[0].places} == {"Q0", "H1"}


def test_a_part_not_wired_yet_stands_in_the_first_drawing_of_a_large_rig():
    rig = large_rig()
    more = ConnectionList((*rig.parts, part("H99", "lamp", voltage_v=230.0)), rig.connections)
    assert [d.view for d in drawings(more) if "H99" in {p.name for p in d.places}] == [View.POWER]
    assert [d.view for d in drawings(ConnectionList(more.parts, ()))] == [View.ALL]


def test_every_conductor_colour_has_letters_of_its_own_and_an_unknown_one_says_so():
    codes = [c.code for c in CONDUCTOR_COLOURS.values()]
    assert len(set(codes)) == len(codes) and colour_of("tartan").code == "?"
