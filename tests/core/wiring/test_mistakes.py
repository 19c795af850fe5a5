"""Every known mistake on every circuit must produce the finding that names it; the sound circuit none. And what is right but
unusual must not be called wrong."""

from dataclasses import replace

import pytest

from rellux.core.findings import Severity
from rellux.core.heating.conductor_tables import Practice
from rellux.core.wiring.circuit.findings import circuit_findings
from rellux.core.wiring.circuit.solve import CircuitSolver
from rellux.core.wiring.model import ConnectionList
from rellux.core.wiring.rules import check, context_for
from rellux.core.wiring.usual_circuits import Usual, usual
from tests.core.wiring.mistakes import MISTAKES, Mistake, gone, into, moved, other, rated, without
from tests.oracle.circuits import KILN, RIGS, added, part, through
from tests.readable import check_readable

LISTS = {name: usual(purpose, choice, Usual.PARTS) for name, (purpose, choice) in RIGS.items()}


def rules(wiring: ConnectionList, rig: str) -> dict[str, str]:
    purpose, choice = RIGS[rig]
    found = check(wiring, context_for(purpose, choice.practice, choice.sensor))
    check_readable(found)
    return {f.rule: f.title for f in found}


@pytest.mark.parametrize("rig", RIGS)
def test_the_sound_circuit_has_no_finding(rig):
    _, choice = RIGS[rig]
    assert set(rules(LISTS[rig], rig)) == (set() if choice.limiter else {"wiring.limiter"})


@pytest.mark.slow
@pytest.mark.parametrize("mistake", MISTAKES, ids=lambda m: m.title.replace(" ", "-"))
def test_a_mistake_is_named_on_every_circuit_that_can_have_it(mistake: Mistake):
    missed = {}
    for rig, wiring in LISTS.items():
        changed = mistake.make(wiring)
        if isinstance(changed, ConnectionList) and mistake.rule not in (found := rules(changed, rig)):
            missed[rig] = sorted(found)
    assert not missed, f"{mistake.title}: {mistake.rule} is not found"


@pytest.mark.slow
@pytest.mark.parametrize("mistake", MISTAKES, ids=lambda m: m.title.replace(" ", "-"))
def test_in_whatever_order_the_parts_stand_the_same_is_found(mistake: Mistake):
    """What is found of one part hides nothing of those after it."""
    rig, changed = next((r, c) for r, w in LISTS.items() if isinstance(c := mistake.make(w), ConnectionList))
    purpose, choice = RIGS[rig]
    context = context_for(purpose, choice.practice, choice.sensor)
    there, back = (
        {
            (f.rule, f.severity, f.title if len(f.subjects) < 2 else "", frozenset(f.subjects))
            for f in check(wiring, context)
        }
        for wiring in (changed, ConnectionList(changed.parts[::-1], changed.connections))
    )
    assert there == back


def test_no_cell_of_the_table_is_empty_without_its_reason(capsys):
    """Prints mistakes × circuits: ● where the mistake is made and found, else the letter of why this circuit cannot have it."""
    reasons: dict[str, str] = {}
    rows = []
    for mistake in MISTAKES:
        cells = [mistake.make(wiring) for wiring in LISTS.values()]
        for cell in cells:
            if isinstance(cell, str):
                assert len(cell) > 5
                reasons.setdefault(cell, "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ"[len(reasons)])
        marks = [reasons[c] if isinstance(c, str) else "●" for c in cells]
        assert "●" in marks, f"no circuit can have: {mistake.title}"
        rows.append(f"{mistake.title:44s} {mistake.rule:26s} {' '.join(marks)}")
    legend = [f"{letter}: {reason}" for reason, letter in reasons.items()]
    with capsys.disabled():
        print("", f"columns: {', '.join(LISTS)}", *rows, *legend, sep="\n")


def test_a_part_that_nobody_rated_is_not_taken_for_a_danger():
    """A list of before, or a part added bare: a thermocouple of no type, a MOSFET without words."""
    bare = {
        name: ConnectionList(
            tuple(replace(p, ratings={}) if p.name in names else p for p in LISTS[name].parts), LISTS[name].connections
        )
        for name, names in (("kiln", ("B1", "B2")), ("plate", ("V1",)))
    }
    assert not {"wiring.sensor-type", "wiring.limiter-type"} & set(rules(bare["kiln"], "kiln"))
    assert set(rules(bare["plate"], "plate")) == {"wiring.limiter"}


# What is right though it is not the usual way: no finding about it

KILN_LIST, CABINET_LIST, PLATE_LIST = LISTS["kiln"], LISTS["cabinet relay"], LISTS["plate"]
RAIL = part("G9", "power_module", voltage_v=230.0, output_v=24.0, output_a=5.0)
RAIL_FEED = (("F2.2", "G9.L"), ("Q0.N", "G9.N"))


def multi_voltage():
    """A coil of 24 V on a supply module of 24 V, in a rig of 230 V."""
    free = rated(without(KILN_LIST, "K0.A1", "K0.A2"), "K0", coil_v=24.0)
    return added(free, *RAIL_FEED, ("G9.OUT+", "A2.OK"), ("A2.COM", "K0.A1"), ("K0.A2", "G9.OUT-"), parts=(RAIL,))


def _only_rail(wiring: ConnectionList) -> ConnectionList:
    kept = tuple(w for w in wiring.connections if {w.a, w.b} != {"A2.L", "A2.COM"})
    return ConnectionList(wiring.parts, kept)


def dc_heater():
    """A small DC heater on a module in a mains rig, through a DC SSR that the controller drives."""
    own = (
        part("E2", "heater", power_w=60.0, voltage_v=24.0),
        part("V2", "ssr", current_a=10.0, load_type="dc"),
        part("F9", "fuse", current_a=4.0, voltage_v=60.0),
    )
    pairs = (
        ("K0.2", "G9.L"), ("Q0.N", "G9.N"), ("G9.OUT+", "F9.1"), ("F9.2", "V2.1"), ("V2.2", "E2.1"), ("E2.2", "G9.OUT-"),
        ("V1.3+", "V2.3+"), ("V1.4-", "V2.4-"),
    )  # fmt: skip
    return added(KILN_LIST, *pairs, parts=(RAIL, *own))


def contact_and_supply():
    """The fix we suggest ourselves: a relay output in series with a DC supply drives an SSR."""
    relay = other(KILN_LIST, "A1", "controller_relay", contact_a=3.0, voltage_v=230.0)
    rail = replace(RAIL, ratings={**RAIL.ratings, "output_v": 12.0})
    pairs = (*RAIL_FEED, ("G9.OUT+", "A1.COM"), ("A1.NO", "V1.3+"), ("V1.4-", "G9.OUT-"))
    return added(relay, *pairs, parts=(rail,))


def door_in_drive():
    return through(KILN_LIST, part("S9", "switch"), "A1.OUT+", "V1.3+", "S9.1", "S9.2")


def two_inputs_in_series():
    """Two SSRs in series with one element, their inputs in series on one drive."""
    first = other(KILN_LIST, "V1", "ssr", current_a=25.0, load_type="ac", sink="fitted")
    cut = without(without(first, "V1.4-"), "V1.2")
    pairs = (("V1.4-", "V2.3+"), ("V2.4-", "A1.OUT-"), ("V1.2", "V2.1"), ("V2.2", "E1.1"))
    found = added(cut, *pairs, parts=(part("V2", "ssr", current_a=25.0, sink="fitted"),))
    wires = tuple(
        replace(w, area_mm2=1.5, insulation="glass" if "E1.1" in (w.a, w.b) else "")
        if w.number > 900 or "V2" in w.a + w.b
        else w
        for w in found.connections
    )
    return ConnectionList(found.parts, wires)


def active_low():
    """A relay module that works low, on a pin that works low, with a pull-up."""
    module = rated(
        other(LISTS["cabinet module"], "K1", "relay_module_low", current_a=10.0, voltage_v=5.0), "A1", active="low"
    )
    pull = part("R9", "resistor", ohm=10_000.0)
    return added(module, ("R9.1", "K1.VCC"), ("R9.2", "K1.IN"), parts=(pull,))


def raw_fed():
    """A board at its raw input, on a module of 9 V, its own 5 V feeding the relay module."""
    module = rated(LISTS["cabinet module"], "G1", output_v=9.0)
    return moved(module, "A1.5V", "A1.RAW", "G1.OUT+")


def two_pole_control():
    """The control circuit through a breaker of two poles."""
    two = other(KILN_LIST, "F2", "breaker_2p", current_a=6.0)
    ends = {w.a if w.b == "Q0.N" else w.b for w in two.connections if "Q0.N" in (w.a, w.b)} - {"E1.2"}
    past = ConnectionList(
        two.parts,
        tuple(
            replace(w, a="F2.4" if w.a == "Q0.N" else w.a, b="F2.4" if w.b == "Q0.N" else w.b)
            if {w.a, w.b} & ends and "Q0.N" in (w.a, w.b) else w
            for w in two.connections
        ),
    )  # fmt: skip
    return added(past, ("Q0.N", "F2.3"))


def own_second_switch():
    """A limiter with a contactor of its own, whose coil is fed from behind the controller's output as well."""
    past = without(CABINET_LIST, "A2.COM")
    return added(past, ("A2.L", "A1.COM"), ("A1.NO", "A2.COM"))


def thermal_fuse():
    return into(LISTS["cabinet"], "E1.1", part("F9", "thermal_fuse", current_a=10.0))


def shared_probe():
    """Two controllers on one probe, no limiter among them."""
    second = part("A9", "controller_relay", voltage_v=230.0)
    pairs = (("F2.2", "A9.L"), ("Q0.N", "A9.N"), ("B1.+", "A9.IN+"), ("B1.-", "A9.IN-"))
    return added(LISTS["kiln"], *pairs, parts=(second,))


def bus():
    """A display on the board's bus."""
    pairs = (("A1.GND", "U2.GND"), ("A1.5V", "U2.VCC"), ("A1.BUS1", "U2.SDA"), ("A1.BUS2", "U2.SCL"))
    return added(PLATE_LIST, *pairs, parts=(part("U2", "display", voltage_v=5.0, power_w=0.1),))


def behind(kind: str) -> ConnectionList:
    """Both poles of the kiln behind one more device."""
    turned = {"Q0.L": "D1.2", "Q0.N": "D1.4"}
    ahead = tuple(replace(w, a=turned.get(w.a, w.a), b=turned.get(w.b, w.b)) for w in KILN_LIST.connections)
    return added(
        ConnectionList((*KILN_LIST.parts, part("D1", kind, current_a=16.0)), ahead), ("Q0.L", "D1.1"), ("Q0.N", "D1.3")
    )


@pytest.mark.parametrize("kind", ["rcd", "isolator", "breaker_2p", "plug"])
def test_a_neutral_is_a_neutral_behind_whatever_opens_both_poles(kind):
    assert set(rules(behind(kind), "kiln")) - TIDY == set()
    for single in ("fuse", "breaker", "switch", "estop", "thermal_fuse", "cutout_manual", "cutout_auto"):
        found = rules(into(behind(kind), "E1.2", part("Z9", single, current_a=20.0)), "kiln")
        assert any(title == "Z9 is in the neutral" for title in found.values()), single
        assert "wiring.wire-breaker" not in found


TIDY = {"wiring.crowded", "wiring.thermal-fuse"}
"""Said of any list with another wire under a screw, or with a thermal fuse in it."""
RIGHT = {
    "a coil on a rail of its own": (_only_rail(multi_voltage()), "kiln", set()),
    "a DC heater on a module": (dc_heater(), "kiln", set()),
    "a contact with a DC supply drives an SSR": (contact_and_supply(), "kiln", set()),
    "a switch in the drive": (door_in_drive(), "kiln", set()),
    "two inputs in series": (two_inputs_in_series(), "kiln", set()),
    "active low with a pull-up": (active_low(), "cabinet module", set()),
    "a board at its raw input": (raw_fed(), "cabinet module", set()),
    "a control circuit of two poles": (two_pole_control(), "kiln", set()),
    "a limiter with a switch of its own": (own_second_switch(), "cabinet relay", set()),
    "a thermal fuse is independent": (thermal_fuse(), "cabinet", set()),
    "bus lines": (bus(), "plate", {"wiring.limiter"}),
}


@pytest.mark.parametrize("name", RIGHT)
def test_what_is_right_is_not_called_wrong(name):
    wiring, rig, expected = RIGHT[name]
    assert {r: t for r, t in rules(wiring, rig).items() if r not in TIDY | expected} == {}


def test_two_controllers_on_one_probe_are_not_called_a_limiter():
    found = rules(shared_probe(), "kiln")
    assert "wiring.limiter-sensor" not in found and "share one sensor" in found["wiring.shared-sensor"]


def test_a_load_that_trips_its_breaker_is_said_and_not_called_cold():
    found = rules(rated(KILN_LIST, "E1", power_w=9000.0), "kiln")
    assert found["wiring.breaker-load"] == "The load overloads F1, which opens" and "wiring.never-heats" not in found


def test_a_joined_neutral_is_called_by_its_name_and_nothing_else():
    found = rules(added(KILN_LIST, ("Q0.N", "X1.PE")), "kiln")
    assert set(found) - TIDY == {"wiring.neutral-earth"} and "by wire" in found["wiring.neutral-earth"]


def test_a_rig_that_heats_uncalled_without_a_limiter_says_so_first():
    """An element straight behind the breaker, no limiter: neither the rules nor the summary praise anything."""
    bare = added(gone(LISTS["kiln bare"], "V1"), ("F1.2", "E1.1"))
    found = {
        f.rule: f.severity
        for f in [*check(bare, context_for(KILN, Practice.IEC, "N")), *circuit_findings(CircuitSolver(bare, 230.0))]
    }
    assert found["wiring.no-nc"] is Severity.DANGER and found["wiring.limiter"] is Severity.DANGER


def test_a_logic_pin_drives_an_ssr_where_volts_and_milliamps_of_both_allow():
    assert "wiring.ssr-input" not in rules(pin_drives(4.0), "cabinet") and "wiring.ssr-drive" not in rules(
        pin_drives(4.0), "cabinet"
    )
    assert "wiring.ssr-input" in rules(pin_drives(5.0), "cabinet")


def pin_drives(least_v: float) -> ConnectionList:
    module = LISTS["cabinet module"]
    past = gone(module, "K1")
    ahead = next(e for w in module.connections for e in (w.a, w.b) if "K1.COM" in (w.a, w.b) and e != "K1.COM")
    parts = (part("V1", "ssr", current_a=10.0, input_least_v=least_v, sink="fitted"),)
    return added(past, ("A1.PWM3", "V1.3+"), ("A1.GND", "V1.4-"), (ahead, "V1.1"), ("V1.2", "E1.1"), parts=parts)


def test_the_bus_of_a_board_is_not_called_floating():
    assert "circuit.floating" not in {f.rule for f in circuit_findings(CircuitSolver(bus(), 24.0))}
    loose = added(PLATE_LIST, ("H1.1", "H1.2"), ("H1.2", "H2.1"), parts=(part("H1", "lamp"), part("H2", "lamp")))
    assert "circuit.floating" in {f.rule for f in circuit_findings(CircuitSolver(loose, 24.0))}
