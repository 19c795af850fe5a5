"""The circuit solved: hand-worked phasor examples, laws, trips, single faults against a table made by hand, the meter."""

from cmath import rect
from dataclasses import replace
from math import pi, sqrt

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from rellux.core.heating.conductor_tables import Practice
from rellux.core.purpose.purpose import Purpose, Supply
from rellux.core.wiring.choice import Actuator, Choice, Output
from rellux.core.wiring.circuit.dead import Ohms
from rellux.core.wiring.circuit.faults import FailureVerdict, analyse
from rellux.core.wiring.circuit.findings import circuit_findings
from rellux.core.wiring.circuit.meter import plan
from rellux.core.wiring.circuit.solution import Fault
from rellux.core.wiring.circuit.solve import CircuitSolver
from rellux.core.wiring.circuit.suspects import Measured, explain
from rellux.core.wiring.generate import generate
from rellux.core.wiring.library import PART_TYPES
from rellux.core.wiring.model import Circuit as Kind
from rellux.core.wiring.model import Connection, ConnectionList, Part
from rellux.core.wiring.schedule import schedule
from rellux.core.wiring.switching import OFF, ON
from rellux.core.wiring.usual_circuits import Usual, usual
from tests.core.wiring.test_wiring_properties import rigs

KILN = Purpose(515, 600, "slumps", Supply.SINGLE_PHASE, 230, 3200, 230)
SHELL = Purpose(150, 180, "seals", Supply.THREE_PHASE, 400, 4500, 400)
PLATE = Purpose(65, 80, "oils", Supply.DC, 24, 110, 24)
SSR = Choice("N", Output.SSR_DRIVE, Actuator.SSR, True, Practice.IEC)
CONTACTOR = Choice("K", Output.RELAY, Actuator.CONTACTOR, True, Practice.IEC)
MOSFET = Choice("NTC", Output.PIN, Actuator.MOSFET, False, Practice.IEC)


def circuit(purpose, choice):
    return CircuitSolver(generate(purpose, choice), purpose.control_voltage_v)


def part(name, kind, **ratings):
    return Part(name, PART_TYPES[kind], ratings)


def wired(parts, *pairs):
    """Parts joined by thick short wires."""
    wires = tuple(Connection(i, a, b, Kind.POWER, 50.0, "black") for i, (a, b) in enumerate(pairs, 1))
    return CircuitSolver(ConnectionList(tuple(parts), wires), 230.0)


def test_two_heaters_in_series_share_the_voltage_by_their_resistance():
    """By hand: 1000 W and 2000 W at 230 V in series: 52.9 Ω and 26.45 Ω, 2.898 A, 444 W and 222 W."""
    parts = [part("Q0", "supply_1ph", voltage_v=230.0), part("E1", "heater", power_w=1000.0, voltage_v=230.0)]
    parts.append(part("E2", "heater", power_w=2000.0, voltage_v=230.0))
    found = wired(parts, ("Q0.L", "E1.1"), ("E1.2", "E2.1"), ("E2.2", "Q0.N")).solve(ON)
    assert found.loads["E1"].amps == pytest.approx(2.898, rel=0.005)
    assert found.loads["E1"].watts == pytest.approx(444, rel=0.01)
    assert found.loads["E2"].watts == pytest.approx(222, rel=0.01)


def star(lost=""):
    parts = [part("Q0", "supply_3ph", voltage_v=400.0), part("E1", "heater_3ph", power_w=4500.0, voltage_v=400.0)]
    return wired(parts, *((f"Q0.L{i}", f"E1.{i}") for i in (1, 2, 3) if f"L{i}" != lost))


def test_a_balanced_star_and_a_lost_phase():
    """By hand: 4500 W on 400 V is 6.495 A a line; without one phase two elements in series have half the power."""
    assert star().solve(ON).loads["E1"].amps == pytest.approx(6.495, rel=0.005)
    assert star().solve(ON).loads["E1"].watts == pytest.approx(4500, rel=0.01)
    assert star("L3").solve(ON).loads["E1"].watts == pytest.approx(2250, rel=0.01)


def test_line_and_phase_voltages_of_each_supply():
    three = star().solve(ON)
    assert three.between("Q0.L1", "Q0.L2") == pytest.approx(400, rel=0.01)
    assert three.between("Q0.L1", "Q0.N") == pytest.approx(400 / sqrt(3), rel=0.01)
    expected = abs(rect(230.94, 0) - rect(230.94, -2 * pi / 3))
    assert three.between("Q0.L2", "Q0.L3") == pytest.approx(expected, rel=0.01)
    split = wired([part("Q0", "supply_split", voltage_v=240.0)]).solve(ON)
    assert split.between("Q0.L1", "Q0.L2") == pytest.approx(240) and split.between("Q0.L1", "Q0.N") == pytest.approx(
        120
    )


def test_an_ssr_drops_its_volt_when_on_and_leaks_when_off():
    kiln = circuit(KILN, SSR)
    assert kiln.solve(ON).contacts["V1"].volts == pytest.approx(1.2, rel=0.03)
    off = kiln.solve(OFF)
    assert off.loads["E1"].amps == pytest.approx(0.005, rel=0.02)  # 5 mA of leakage, far below any heat
    assert off.between("V1.1", "V1.2") == pytest.approx(230, rel=0.01)  # what a meter shows across it


def test_a_short_opens_the_breaker_and_names_it():
    kiln = circuit(KILN, SSR)
    short = kiln.solve(ON, Fault(joined=(("E1.1", "E1.2"),)))
    assert list(short.tripped) == ["F1"] and short.tripped["F1"] > 500
    assert "A1" in short.on  # the controller has a breaker of its own and stays alive


def test_a_floating_end_is_undefined_never_zero():
    parts = [part("Q0", "supply_1ph", voltage_v=230.0), part("E1", "heater"), part("K1", "contactor", coil_v=230.0)]
    found = wired(parts, ("Q0.L", "K1.1"), ("K1.2", "E1.1")).solve(ON)
    assert found.between("E1.1", "Q0.N") is None and {"E1.1", "E1.2"} <= found.undefined


def test_a_contactor_that_breaks_its_own_coil_chatters():
    parts = [part("Q0", "supply_1ph", voltage_v=230.0), part("K1", "relay", coil_v=230.0)]
    buzzer = wired(parts, ("Q0.L", "K1.COM"), ("K1.NC", "K1.A1"), ("K1.A2", "Q0.N"))
    assert not buzzer.solve(ON).settled


@settings(max_examples=20)
@given(rigs(), st.randoms())
def test_the_order_of_wires_and_a_second_wire_change_nothing(rig, random):
    purpose, _, wiring = rig
    assume(purpose.supply_voltage_v >= 24)
    shuffled = list(wiring.connections)
    random.shuffle(shuffled)
    extra = replace(shuffled[0], number=999, a=shuffled[0].b, b=shuffled[0].a)
    before = CircuitSolver(wiring, purpose.control_voltage_v).heat(ON).total_w
    assert CircuitSolver(ConnectionList(wiring.parts, tuple(shuffled)), purpose.control_voltage_v).heat(
        ON
    ).total_w == pytest.approx(before)
    doubled = object.__new__(ConnectionList)  # the list itself refuses a duplicate; the solver must not care
    object.__setattr__(doubled, "parts", wiring.parts)
    object.__setattr__(doubled, "connections", (*wiring.connections, extra))
    assert CircuitSolver(doubled, purpose.control_voltage_v).heat(ON).total_w == pytest.approx(before, rel=0.03)


# What a practitioner works out on paper for the usual circuits
BY_HAND = [
    (KILN, SSR, "V1 fails shorted", FailureVerdict.COVERED),
    (KILN, SSR, "V1 fails open", FailureVerdict.STOPS),
    (KILN, SSR, "K0 welds", FailureVerdict.LATENT),
    (KILN, SSR, "A2 does not open its contact", FailureVerdict.LATENT),
    (KILN, SSR, "A2 loses its supply", FailureVerdict.STOPS),
    (KILN, SSR, "A1 keeps its output on", FailureVerdict.COVERED),
    (KILN, SSR, "B1 slips out or reads too low", FailureVerdict.COVERED),
    (KILN, SSR, "B2 slips out or reads too low", FailureVerdict.LATENT),
    (KILN, SSR, "E1 burns out", FailureVerdict.STOPS),
    (KILN, SSR, "E1 touches the case at 1", FailureVerdict.TRIPS),
    (KILN, replace(SSR, limiter=False), "V1 fails shorted", FailureVerdict.UNCOVERED),
    (KILN, replace(SSR, limiter=False), "B1 slips out or reads too low", FailureVerdict.UNCOVERED),
    (SHELL, CONTACTOR, "K1 welds", FailureVerdict.COVERED),
    (SHELL, CONTACTOR, "K0 does not pull in", FailureVerdict.STOPS),
    (SHELL, CONTACTOR, "wire 12 comes off", FailureVerdict.WEAKER),
    (SHELL, CONTACTOR, "E1 touches the case at 3", FailureVerdict.TRIPS),
    (PLATE, MOSFET, "V1 fails shorted", FailureVerdict.UNCOVERED),
    (PLATE, MOSFET, "F1 opens", FailureVerdict.STOPS),
]


@pytest.mark.slow
@pytest.mark.parametrize(("purpose", "choice", "title", "verdict"), BY_HAND)
def test_single_faults(purpose, choice, title, verdict):
    outcomes = {o.title: o for o in analyse(circuit(purpose, choice)).outcomes}
    assert outcomes[title].verdict is verdict


def test_a_limiter_that_stops_nothing_is_no_excuse():
    """The contactor's coil straight from the control breaker: what should be covered is not, and nothing is latent for it."""
    wiring = generate(KILN, SSR)
    past = tuple(replace(w, a="F2.2") if {w.a, w.b} == {"A2.OK", "K0.A1"} else w for w in wiring.connections)
    outcomes = {o.title: o for o in analyse(CircuitSolver(ConnectionList(wiring.parts, past), 230.0)).outcomes}
    assert outcomes["V1 fails shorted"].verdict is FailureVerdict.UNCOVERED
    assert outcomes["E1 burns out"].verdict is FailureVerdict.STOPS
    assert outcomes["A2 does not open its contact"].verdict is FailureVerdict.NOTHING


def test_a_second_fault_after_an_unnoticed_one_leaves_nothing():
    outcomes = {o.title: o for o in analyse(circuit(KILN, SSR)).outcomes}
    assert "V1 fails shorted" in outcomes["K0 welds"].second
    earth = next(o for o in outcomes.values() if "no longer earthed" in o.says)
    assert earth.verdict is FailureVerdict.LATENT and "nothing opens" in earth.says


def test_a_shared_sensor_is_a_common_cause():
    wiring = generate(KILN, SSR)
    shared = tuple(replace(c, a="B1" + c.a[2:]) if c.a.startswith("B2.") else c for c in wiring.connections)
    outcomes = {o.title: o for o in analyse(CircuitSolver(ConnectionList(wiring.parts, shared), 230.0)).outcomes}
    assert outcomes["B1 slips out or reads too low"].verdict is FailureVerdict.UNCOVERED


def test_the_meter_plan_of_the_kiln():
    places = {(r.a, r.b): r for r in plan(circuit(KILN, SSR))}
    heater = places[("E1.1", "E1.2")]
    assert heater.ohms.least < 230**2 / 3200 < heater.ohms.most < 1.12 * heater.ohms.least
    assert heater.volts["output on"] == pytest.approx(226, abs=4) and heater.volts["output off"] < 1
    assert places[("E1.1", "X1.PE")].ohms == Ohms(None, None) and places[("Q0.PE", "X1.PE")].ohms.most < 1
    assert "low-impedance" in heater.trap


def test_the_meter_plan_knows_each_position_of_a_switch():
    """The start button closes when pressed; a breaker is closed until it is opened; nothing else makes a difference."""
    started = CircuitSolver(usual(KILN, SSR, Usual.START), 230.0)
    places = {(r.a, r.b): r for r in plan(started)}
    assert places[("S1.1", "S1.2")].ohms.least is None and places[("S1.1", "S1.2")].moved["S1 pressed"].most < 1
    assert places[("F1.1", "F1.2")].ohms.most < 1 and places[("F1.1", "F1.2")].moved == {"F1 open": Ohms(None, None)}


def test_only_a_heater_behind_an_ssr_traps_a_meter():
    assert {r.about for r in plan(circuit(KILN, SSR)) if r.trap} == {"heater E1", "drive of V1"}
    assert not any(r.trap for r in plan(circuit(SHELL, CONTACTOR)))


@pytest.mark.parametrize(
    ("measured", "title"),
    [
        ((Measured("S1.1", "S1.2", 0.2, "S1 pressed"),), "nothing is wrong"),
        ((Measured("S0.1", "S0.2", 0.2, "S0 pressed"),), "S0 does not open"),
    ],
)
def test_a_reading_with_a_switch_moved_is_explained(measured, title):
    suspects = explain(CircuitSolver(usual(KILN, SSR, Usual.START), 230.0), measured)
    fitting = {s.title for s in suspects if s.fits}
    assert title in fitting and ("nothing is wrong" in fitting) is (title == "nothing is wrong")


@pytest.mark.parametrize(
    ("measured", "title"),
    [
        ((Measured("E1.1", "E1.2", 16.4),), "nothing is wrong"),
        ((Measured("E1.1", "E1.2", None),), "E1 burns out"),
        ((Measured("E1.1", "X1.PE", 0.2), Measured("E1.1", "E1.2", 16.5)), "E1 touches the case at 1"),
        ((Measured("E1.1", "E1.2", 225.0, "output off"),), "V1 fails shorted"),
    ],
)
def test_what_a_meter_shows_is_explained(measured, title):
    suspects = explain(circuit(KILN, SSR), measured)
    best = suspects[0].misfit
    assert title in {s.title for s in suspects if s.misfit <= best + 0.05 and s.fits}


def test_nothing_is_wrong_comes_before_faults_that_fit_hardly_better():
    read = (Measured("E1.1", "E1.2", 16.5), Measured("F1.1", "F1.2", None, "F1 open"))
    assert explain(circuit(KILN, SSR), read)[0].title == "nothing is wrong"
    assert explain(circuit(KILN, SSR), (*read, Measured("V1.1", "V1.2", 0.1)))[0].title == "V1 fails shorted"


@pytest.mark.parametrize(
    ("element", "reads", "fits"),
    [("wire", 16.0, True), ("wire", 1.5, False), ("halogen", 1.5, True), ("halogen", 16.5, False), ("ptc", 40.0, True),
     ("disilicide", 1.5, True), ("disilicide", 0.05, False)],
)  # fmt: skip
def test_an_element_is_judged_by_what_its_kind_measures_cold(element, reads, fits):
    wiring = generate(KILN, SSR)
    parts = tuple(replace(p, ratings={**p.ratings, "element": element}) if p.name == "E1" else p for p in wiring.parts)
    suspects = explain(
        CircuitSolver(ConnectionList(parts, wiring.connections), 230.0), (Measured("E1.1", "E1.2", reads),)
    )
    assert next(s for s in suspects if s.title == "nothing is wrong").fits is fits


def test_a_coil_for_alternating_current_is_no_short_at_a_twentieth_of_its_ohms():
    """230 V and 3 W are 17.6 kΩ of impedance; the winding of such a contactor measures 200…1500 Ω."""
    place = next(r for r in plan(circuit(KILN, SSR)) if r.about == "coil of K0")
    assert place.ohms.least < 200 and place.ohms.most > 1500
    direct = next(r for r in plan(circuit(PLATE, replace(MOSFET, limiter=True))) if r.about == "coil of K0")
    assert direct.ohms.least == pytest.approx(0.8 * 24**2 / 3, rel=0.05)


def test_volts_over_drive_and_load_of_an_ssr_bisect_light_on_no_heat():
    places = {r.about: r.volts for r in plan(circuit(KILN, SSR))}
    assert places["drive of V1"]["output on"] > 8 and places["drive of V1"]["output off"] < 1
    assert places["across V1"]["output off"] > 220 and places["across V1"]["output on"] < 2
    assert places["heater E1"]["limiter tripped"] < 1 and places["drive of V1"]["limiter tripped"] > 8


def test_two_swapped_wires_are_found():
    """A thermostat whose NO and NC wires are exchanged heats when it should not, and the other way round."""
    small = replace(KILN, working_c=60, highest_c=70, heater_power_w=300.0)
    choice = Choice("K", Output.RELAY, Actuator.RELAY, False, Practice.IEC)
    wiring = usual(small, choice, Usual.THERMOSTAT)
    at = {end: w.number for w in wiring.connections for end in (w.a, w.b)}
    read = (Measured("E1.1", "E1.2", 230.0, "output off"), Measured("E1.1", "E1.2", 0.0, "output on"))
    best = explain(CircuitSolver(wiring, 230.0), read)[0]
    assert best.fits and best.subject == "A1"
    assert set(map(str, (at["A1.NO"], at["A1.NC"]))) <= set(best.title.split())


def test_the_schedule_adds_up():
    wiring = generate(KILN, SSR)
    cuts, totals = schedule(wiring)
    assert [c.number for c in cuts] == [w.number for w in wiring.connections]
    assert sum(t.wires for t in totals) == len(cuts)
    assert sum(t.length_m for t in totals) == pytest.approx(sum(c.length_m for c in cuts))


def found(solver):
    return {f.rule for f in circuit_findings(solver)}


def with_wire(purpose, choice, a, b):
    wiring = generate(purpose, choice)
    extra = Connection(900, a, b, Kind.POWER, 2.5, "black")
    return CircuitSolver(ConnectionList(wiring.parts, (*wiring.connections, extra)), purpose.control_voltage_v)


def test_a_sound_circuit_has_no_findings_of_its_own():
    for purpose, choice in ((KILN, SSR), (SHELL, CONTACTOR), (PLATE, MOSFET)):
        assert found(circuit(purpose, choice)) == {"circuit.restarts"}


def test_a_wire_across_the_heater_trips_and_one_beside_it_does_not():
    assert found(with_wire(KILN, SSR, "E1.1", "E1.2")) == {"circuit.trips"}
    assert "circuit.trips" not in found(with_wire(KILN, SSR, "V1.1", "V1.2"))


def test_a_shared_sensor_gets_past_the_limiter():
    wiring = generate(KILN, SSR)
    shared = tuple(replace(c, a="B1" + c.a[2:]) if c.a.startswith("B2.") else c for c in wiring.connections)
    assert "circuit.uncovered" in found(CircuitSolver(ConnectionList(wiring.parts, shared), 230.0))


def test_a_buzzer_is_named():
    parts = [part("Q0", "supply_1ph", voltage_v=230.0), part("K1", "relay", coil_v=230.0)]
    assert found(wired(parts, ("Q0.L", "K1.COM"), ("K1.NC", "K1.A1"), ("K1.A2", "Q0.N"))) == {"circuit.chatters"}
    assert found(wired(parts, ("Q0.L", "K1.A1"), ("K1.A2", "Q0.N"))) == set()
