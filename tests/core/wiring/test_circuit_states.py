"""Circuits in time and on every supply: latches, races, buzzers, power cuts, earthing systems, leakage, faults along elements.

Every expected value is worked by hand beside its check.
"""

import re
from dataclasses import replace
from math import sqrt

import pytest

from rellux.core.heating.conductor_tables import Practice
from rellux.core.wiring.as_built import Change, Done, differences, done
from rellux.core.wiring.choice import Actuator, Choice, Output
from rellux.core.wiring.circuit.faults import FailureVerdict, Reaches, analyse
from rellux.core.wiring.circuit.findings import circuit_findings
from rellux.core.wiring.circuit.memory import memory
from rellux.core.wiring.circuit.positions import table
from rellux.core.wiring.circuit.solution import Fault
from rellux.core.wiring.circuit.solve import CircuitSolver
from rellux.core.wiring.generate import generate
from rellux.core.wiring.listing import from_plain, to_plain
from rellux.core.wiring.model import Circuit as Kind
from rellux.core.wiring.model import Connection, ConnectionList
from rellux.core.wiring.switching import OFF, ON, TRIPPED, Switching
from rellux.core.wiring.usual_circuits import Usual, usual
from tests.core.wiring.test_wiring_more import CONTACTOR, KILN, SHELL, SSR, part

POWER = part("Q0", "supply_1ph", voltage_v=230.0)


def wired(parts, *pairs):
    wires = tuple(Connection(i, a, b, Kind.POWER, 50.0, "black") for i, (a, b) in enumerate(pairs, 1))
    return CircuitSolver(ConnectionList((POWER, *parts), wires), 230.0)


def relay(name, **ratings):
    return part(name, "relay", coil_v=230.0, **ratings)


def heater(name="E1", watts=1000.0):
    return part(name, "heater", power_w=watts, voltage_v=230.0)


LATCH = (
    (relay("K1"), part("S1", "pushbutton"), part("S0", "switch"), heater()),
    ("Q0.L", "S0.1"),
    ("S0.2", "S1.1"),
    ("S1.2", "K1.A1"),
    ("S0.2", "K1.COM"),
    ("K1.NO", "K1.A1"),
    ("K1.A2", "Q0.N"),
    ("K1.NO", "E1.1"),
    ("E1.2", "Q0.N"),
)


def test_a_self_holding_relay_latches_is_let_go_and_forgets_with_the_supply():
    latch = wired(*LATCH)
    assert "K1" not in latch.settled(ON)
    pressed = latch.settled(replace(ON, operated=frozenset({"S1"})))
    held = latch.settled(ON, pressed)
    assert {"K1", "E1"} <= held
    stopped = latch.settled(replace(ON, operated=frozenset({"S0"})), held)
    assert "K1" not in latch.settled(ON, stopped)
    cut = latch.settled(replace(ON, power=False), held)
    assert "E1" not in latch.settled(ON, cut)
    known = memory(latch)
    assert known.holds == ("K1",) and known.restarts == () and known.races == {}


def test_a_buzzer_never_rests_and_a_plain_coil_does():
    buzzer = wired((relay("K1"),), ("Q0.L", "K1.COM"), ("K1.NC", "K1.A1"), ("K1.A2", "Q0.N"))
    assert buzzer.solve(ON).chatters == {"K1"} and not buzzer.solve(ON).settled
    assert any(f.title.startswith("K1 chatters with: ") for f in circuit_findings(buzzer))
    plain = wired((relay("K1"),), ("Q0.L", "K1.A1"), ("K1.A2", "Q0.N"))
    assert plain.solve(ON).settled and plain.solve(ON).time_s == pytest.approx(0.012)  # 10 ms of coil, 2 ms of transit


def test_two_relays_that_lock_each_other_out_race():
    """Each coil through the other's NC contact: whichever is quicker wins."""
    pairs = [
        ("Q0.L", "K1.COM"),
        ("K1.NC", "K2.A1"),
        ("K2.A2", "Q0.N"),
        ("Q0.L", "K2.COM"),
        ("K2.NC", "K1.A1"),
        ("K1.A2", "Q0.N"),
    ]
    race = wired((relay("K1"), relay("K2")), *pairs)
    said = [f.title for f in circuit_findings(race) if f.rule == "circuit.chatters"]
    assert all(" chatter with: " in title for title in said)
    assert set(memory(race).races["output on"]) == {"K1", "K2"}
    assert {"circuit.race", "circuit.chatters"} & {f.rule for f in circuit_findings(race)}
    apart = wired(
        (relay("K1"), relay("K2")), ("Q0.L", "K1.A1"), ("K1.A2", "Q0.N"), ("Q0.L", "K2.A1"), ("K2.A2", "Q0.N")
    )
    assert memory(apart).races == {}


def test_a_timer_pulls_in_after_its_delay():
    timed = wired((part("K1", "timer", coil_v=230.0, delay_s=7.0),), ("Q0.L", "K1.A1"), ("K1.A2", "Q0.N"))
    assert timed.solve(ON).time_s == pytest.approx(7.0, abs=0.01)


def test_a_latch_that_guards_is_forgotten_by_a_power_cut():
    """A door switch trips a relay that holds itself off by NC; after a power cut the heat is back."""
    parts = (relay("K1"), part("S3", "pushbutton"), heater())
    pairs = [
        ("Q0.L", "S3.1"), ("S3.2", "K1.A1"), ("Q0.L", "K1.COM"), ("K1.NO", "K1.A1"), ("K1.A2", "Q0.N"),
        ("K1.NC", "E1.1"), ("E1.2", "Q0.N"),
    ]  # fmt: skip
    guard = wired((*parts[:1], part("S3", "estop_no"), parts[2]), *pairs)
    assert memory(guard).forgets == ("K1",)
    assert "circuit.forgets" in {f.rule for f in circuit_findings(guard)}


def test_the_start_button_keeps_the_heat_off_after_a_power_cut():
    started = CircuitSolver(usual(KILN, SSR, Usual.START), 230.0)
    hot = {p.name for p in table(started) if p.heats("E1", 100)}
    assert "output on" in hot and "supply back, output on" not in hot
    assert memory(started).restarts == () and memory(CircuitSolver(generate(KILN, SSR), 230.0)).restarts == ("E1",)


def test_every_hand_operated_part_has_its_position():
    started = CircuitSolver(usual(KILN, SSR, Usual.START), 230.0)
    names = {p.name: p for p in table(started)}
    assert not names["S0 pressed, output on"].heats("E1", 1)
    assert not names["F1 open, output on"].heats("E1", 1) and "A1" in names["F1 open, output on"].energised


def earthed(system):
    """A heater behind a 16 A breaker in an earthed case."""
    supply = part("Q0", "supply_1ph", voltage_v=230.0, earthing=system)
    pairs = (("Q0.L", "F1.1"), ("F1.2", "E1.1"), ("E1.2", "Q0.N"), ("Q0.PE", "X1.PE"))
    wires = tuple(Connection(i, a, b, area_mm2=50.0) for i, (a, b) in enumerate(pairs, 1))
    parts = (supply, part("F1", "breaker", current_a=16.0), heater(), part("X1", "enclosure"))
    return CircuitSolver(ConnectionList(parts, wires), 230.0)


TOUCH = Fault(joined=(("E1.1", "X1.PE"),))


@pytest.mark.parametrize(
    ("system", "amps", "opens"),
    [
        ("tn", 1500.0, True),  # the prospective current, less the milliohms of the way
        ("tt", 2.3, False),  # 230 V over a rod of 100 Ω
        ("it", 0.00023, False),  # 230 V over 1 MΩ
    ],
)
def test_an_earth_fault_in_each_earthing_system(system, amps, opens):
    found = earthed(system)
    through = found.solve(ON, TOUCH, trips=False).contacts["F1"].amps - 230 / 52.9
    assert through == pytest.approx(amps, rel=0.15, abs=0.02)
    assert bool(found.solve(ON, TOUCH).tripped) is opens


def test_a_leakage_breaker_sees_what_does_not_come_back():
    """Half of a 52.9 Ω element to the case of a TT system: 115 V over 100 Ω is about 1 A, far above 30 mA."""
    tt = earthed("tt")
    wires = [
        replace(w, a={"Q0.L": "F0.2"}.get(w.a, w.a), b={"Q0.N": "F0.4"}.get(w.b, w.b)) for w in tt.wiring.connections
    ]
    wires += [Connection(8, "Q0.L", "F0.1", area_mm2=50.0), Connection(9, "Q0.N", "F0.3", area_mm2=50.0)]
    guarded = CircuitSolver(ConnectionList((*tt.wiring.parts, part("F0", "rcd", trips_a=0.03)), tuple(wires)), 230.0)
    assert guarded.solve(ON).tripped == {}
    halfway = Fault(tapped=(("E1", 0.5, "X1.PE"),))
    tripped = guarded.solve(ON, halfway).tripped
    assert list(tripped) == ["F0"] and tripped["F0"] == pytest.approx(115 / (100 + 13), rel=0.1)
    borrowed = replace(
        guarded.wiring,
        connections=tuple(replace(w, b="Q0.N") if w.b == "F0.4" else w for w in guarded.wiring.connections),
    )
    rules = {f.rule for f in circuit_findings(CircuitSolver(borrowed, 230.0))}
    assert "circuit.leaks" in rules and "circuit.leaks" not in {f.rule for f in circuit_findings(guarded)}


def test_an_element_on_the_case_along_its_length_by_hand():
    """52.9 Ω, on the case a quarter along: 230²/13.2 = 4000 W less 2 % in the source; 17 A open no 16 A breaker."""
    tn = earthed("tn")
    found = tn.heat(ON, Fault(tapped=(("E1", 0.25, "X1.PE"),)))
    assert found.watts["E1"] == pytest.approx(230**2 / (0.25 * 52.9), rel=0.03) and not found.tripped


def test_corner_earthed_and_high_leg_supplies():
    """Corner: every other line stands at the whole voltage against earth. High leg: 240 × √3/2 = 207.8 V."""
    corner = CircuitSolver(
        ConnectionList((part("Q0", "supply_3ph", voltage_v=240.0, earthing="corner"),), ()), 240.0
    ).solve(ON)
    assert corner.to_earth("Q0.L1") == pytest.approx(240, rel=1e-3) and corner.to_earth("Q0.L2") < 1
    high = CircuitSolver(
        ConnectionList((part("Q0", "supply_3ph", voltage_v=240.0, earthing="high_leg"),), ()), 240.0
    ).solve(ON)
    assert high.to_earth("Q0.L2") == pytest.approx(120 * sqrt(3), rel=1e-3)
    assert high.between("Q0.L1", "Q0.L2") == pytest.approx(240, rel=1e-3)


def test_a_lost_neutral_of_split_phase_overloads_the_weaker_side():
    """1000 W and 2000 W on 120 V: 14.4 and 7.2 Ω in series on 240 V give 160 V and 80 V."""
    supply = part("Q0", "supply_split", voltage_v=240.0)
    parts = (
        supply,
        part("E1", "heater", power_w=1000.0, voltage_v=120.0),
        part("E2", "heater", power_w=2000.0, voltage_v=120.0),
    )
    pairs = (("Q0.L1", "E1.1"), ("E1.2", "Q0.N"), ("Q0.L2", "E2.1"), ("E2.2", "Q0.N"))
    wires = tuple(Connection(i, a, b, area_mm2=50.0) for i, (a, b) in enumerate(pairs, 1))
    split = CircuitSolver(ConnectionList(parts, wires), 120.0)
    lost = split.solve(ON, Fault(opened=frozenset({"Q0 neutral"})))
    assert lost.loads["E1"].volts == pytest.approx(160, rel=0.01) and lost.loads["E2"].volts == pytest.approx(
        80, rel=0.01
    )
    lost_neutral = next(o for o in analyse(split).outcomes if o.title == "Q0 neutral is lost")
    assert lost_neutral.on_w == pytest.approx(160**2 / 14.4 + 80**2 / 7.2, rel=0.02)
    assert lost_neutral.verdict is FailureVerdict.STRONGER  # although together they get less than before
    shares = [int(s) for s in re.findall(r"(\d+) %\}", lost_neutral.says)]
    assert shares == pytest.approx([(160 / 120) ** 2 * 100, (80 / 120) ** 2 * 100], abs=2)


# What a practitioner works out on paper, beyond the usual circuits
BY_HAND = [
    (KILN, SSR, "V1 conducts every other half-wave", FailureVerdict.COVERED),
    (KILN, SSR, "B1 is shorted along its cable: reads too low", FailureVerdict.COVERED),
    (KILN, SSR, "Q0 neutral is lost", FailureVerdict.STOPS),
    (KILN, SSR, "E1 is shorted", FailureVerdict.TRIPS),
    (SHELL, CONTACTOR, "Q0 L2 is lost", FailureVerdict.WEAKER),
    (SHELL, CONTACTOR, "K0 welds", FailureVerdict.LATENT),
]


@pytest.mark.parametrize(("purpose", "choice", "title", "verdict"), BY_HAND)
def test_single_faults(purpose, choice, title, verdict):
    found = CircuitSolver(generate(purpose, choice), purpose.control_voltage_v)
    outcomes = {o.title: o for o in analyse(found).outcomes}
    assert outcomes[title].verdict is verdict


def test_a_half_wave_gives_half_the_heat():
    outcomes = {o.title: o for o in analyse(CircuitSolver(generate(KILN, SSR), 230.0)).outcomes}
    assert outcomes["V1 conducts every other half-wave"].off_w == pytest.approx(outcomes["V1 fails shorted"].off_w / 2)


def test_heat_that_leads_nowhere_dangerous_is_told_apart():
    """Without a limiter a shorted SSR is uncovered, unless everything stands the temperature it leads to."""
    bare = CircuitSolver(generate(KILN, replace(SSR, limiter=False)), 230.0)

    def verdict(reaches):
        return next(o.verdict for o in analyse(bare, reaches).outcomes if o.title == "V1 fails shorted")

    assert verdict(None) is FailureVerdict.UNCOVERED
    assert verdict(Reaches(lambda watts: 20 + watts / 5, 600.0)) is FailureVerdict.UNCOVERED  # 660 °C
    assert (
        verdict(Reaches(lambda watts: 20 + watts / 5, 700.0)) is FailureVerdict.UNCOVERED
    )  # the walls are known to a quarter
    assert verdict(Reaches(lambda watts: 20 + watts / 5, 820.0)) is FailureVerdict.WARM


@pytest.mark.parametrize(
    ("purpose", "choice", "key"), [(SHELL, CONTACTOR, Usual.CASCADE_BEACON), (KILN, SSR, Usual.START)]
)
def test_a_wire_that_comes_off_is_a_list_without_it(purpose, choice, key):
    """However many short cuts the analysis takes (nothing flowed there, or another wire in series stands for it)."""
    wiring = usual(purpose, choice, key)
    circuit = CircuitSolver(wiring, purpose.control_voltage_v)
    for wire in wiring.connections:
        without = ConnectionList(wiring.parts, tuple(w for w in wiring.connections if w is not wire))
        for switching in (OFF, ON, TRIPPED):
            start = circuit.running(switching)
            found = circuit.heat(switching, Fault(opened=frozenset({f"wire {wire.number}"})), start)
            expected = CircuitSolver(without, purpose.control_voltage_v).heat(switching, start=start)
            assert found.total_w == pytest.approx(expected.total_w, rel=2e-3, abs=0.5)
            assert set(found.tripped) == set(expected.tripped)


def test_with_a_switch_off_leakage_is_no_heat():
    """In the SSR's drive: with it off only the SSR's leakage reaches the element, and nothing is judged by that."""
    wiring = generate(KILN, SSR)
    cut = next(w for w in wiring.connections if {w.a, w.b} == {"A1.OUT+", "V1.3+"})
    kept = tuple(w for w in wiring.connections if w is not cut)
    ends = (Connection(800, "A1.OUT+", "S5.1", Kind.CONTROL), Connection(801, "S5.2", "V1.3+", Kind.CONTROL))
    switched = CircuitSolver(
        ConnectionList((*wiring.parts, part("S5", "switch", current_a=6.0)), (*kept, *ends)), 230.0
    )
    outcomes = {o.title: o for o in analyse(switched).outcomes}
    assert outcomes["E1 burns out"].verdict is FailureVerdict.STOPS and outcomes["B2 slips out or reads too low"].says


SELECTED = (
    (part("A1", "controller_relay", voltage_v=230.0), part("S1", "selector"), heater(), heater("E2", 500.0)),
    ("Q0.L", "A1.L"),
    ("Q0.N", "A1.N"),
    ("A1.L", "A1.COM"),
    ("A1.NO", "S1.1"),
    ("S1.1", "S1.3"),
    ("S1.2", "E1.1"),
    ("S1.4", "E2.1"),
    ("E1.2", "Q0.N"),
    ("E2.2", "Q0.N"),
)


def test_failures_are_judged_in_every_way_a_switch_may_stand():
    """A selector chooses one of two elements: each of them burnt out stops the heat in its own way of running."""
    chosen = wired(*SELECTED)
    outcomes = {o.title: o for o in analyse(chosen).outcomes}
    assert outcomes["E1 burns out"].verdict is FailureVerdict.STOPS
    assert outcomes["E2 burns out"].verdict is FailureVerdict.STOPS
    assert outcomes["E2 burns out"].says.startswith("With S1 in II")
    welded = outcomes["S1 stays closed at 1–2"]
    assert welded.verdict is FailureVerdict.STRONGER  # turned to II, both heat
    assert welded.says == "With S1 in II: E1 heats as well."


def test_a_list_as_plain_data_comes_back_the_same():
    for key in (Usual.PARTS, Usual.CASCADE_BEACON, Usual.START):
        wiring = usual(SHELL, CONTACTOR, key)
        assert to_plain(from_plain(to_plain(wiring))) == to_plain(wiring)


def test_what_is_built_against_what_is_planned():
    plan = (Connection(1, "Q0.L", "F1.1"), Connection(2, "F1.2", "E1.1"), Connection(3, "E1.2", "Q0.N"))
    built = {1: plan[0], 2: replace(plan[1], area_mm2=1.0), 9: Connection(9, "Q0.L", "E1.1")}
    todo = differences(plan, built)
    assert [(d.number, d.change) for d in todo] == [(9, Change.REMOVE), (2, Change.CHANGE), (3, Change.FIT)]
    assert done(plan[0], plan[0]) is Done.FITTED and done(plan[0], replace(plan[0], a="F1.1", b="Q0.L")) is Done.FITTED


@pytest.mark.parametrize("output", [Output.RELAY, Output.PIN])
def test_a_thermostat_and_a_relay_module_heat_only_when_told(output):
    small = replace(KILN, working_c=60, highest_c=70, heater_power_w=300.0)
    choice = Choice("K", output, Actuator.RELAY, False, Practice.IEC)
    wiring = usual(small, choice, Usual.THERMOSTAT if output is Output.RELAY else Usual.PARTS)
    circuit = CircuitSolver(wiring, 230.0)
    assert circuit.heat(ON).total_w > 290 and circuit.heat(OFF).total_w < 1
    if output is Output.RELAY:  # the changeover's other side lights the lamp
        assert "H2" in circuit.settled(OFF) and "H2" not in circuit.settled(ON)


def test_positions_do_not_depend_on_what_was_solved_before():
    circuit = CircuitSolver(generate(KILN, SSR), 230.0)
    first = circuit.heat(Switching(True))
    circuit.heat(TRIPPED, Fault(closed=frozenset({"V1"})))
    assert circuit.heat(Switching(True)) == first


def test_a_short_ahead_of_every_breaker_is_said_and_one_behind_it_names_its_path():
    bare = wired((heater(),), ("Q0.L", "E1.1"), ("E1.2", "Q0.N"), ("Q0.L", "Q0.N"))
    assert "circuit.short" in {f.rule for f in circuit_findings(bare)}
    guarded = wired(
        (part("F1", "breaker", current_a=16.0), heater()),
        ("Q0.L", "F1.1"),
        ("F1.2", "E1.1"),
        ("E1.2", "Q0.N"),
        ("E1.1", "E1.2"),
    )
    found = {f.rule: f for f in circuit_findings(guarded)}
    assert "circuit.short" not in found
    assert found["circuit.trips"].subjects == ("F1", "wire 1", "wire 2", "wire 3", "wire 4")


def test_what_nothing_holds_is_named():
    loose = wired((heater(), heater("E2")), ("Q0.L", "E1.1"), ("E1.2", "Q0.N"), ("E2.1", "E2.2"))
    floating = next(f for f in circuit_findings(loose) if f.rule == "circuit.floating")
    assert floating.subjects == ("E2",)
    held = wired((heater(), heater("E2")), ("Q0.L", "E1.1"), ("E1.2", "Q0.N"), ("E2.1", "Q0.N"))
    assert "circuit.floating" not in {f.rule for f in circuit_findings(held)}


def test_a_lamp_as_element_takes_what_its_law_says():
    """Halogen: P ∝ V^1.55 (handbook of lamp makers, from memory): at half the voltage 0.341 of the power, not a quarter."""
    lamp = part("E1", "heater", power_w=1000.0, voltage_v=460.0, element="halogen")
    watts = wired((lamp,), ("Q0.L", "E1.1"), ("E1.2", "Q0.N")).solve(ON).loads["E1"].watts
    assert watts == pytest.approx(1000 * 0.5**1.55, rel=0.03)


def test_three_elements_in_delta_by_hand():
    """4500 W at 400 V in delta: 106.7 Ω a leg, 3.75 A in each, √3 times that in a line."""
    supply = part("Q0", "supply_3ph", voltage_v=400.0)
    delta = part("E1", "heater_3ph_delta", power_w=4500.0, voltage_v=400.0)
    wires = tuple(Connection(i, f"Q0.L{i}", f"E1.{i}", area_mm2=50.0) for i in (1, 2, 3))
    found = CircuitSolver(ConnectionList((supply, delta), wires), 230.0).solve(ON)
    assert found.loads["E1"].watts == pytest.approx(4500, rel=0.01)
    assert found.wires["wire 1"].amps == pytest.approx(3.75 * sqrt(3), rel=0.01)


def test_an_emergency_stop_that_no_longer_opens_is_latent():
    started = CircuitSolver(usual(KILN, SSR, Usual.START), 230.0)
    outcomes = {o.title: o for o in analyse(started).outcomes}
    assert (
        outcomes["S0 does not open"].verdict is FailureVerdict.LATENT
        and "S0 no longer stops" in outcomes["S0 does not open"].says
    )
    assert outcomes["S0 stays open"].verdict is FailureVerdict.STOPS
    assert outcomes["K9 welds"].verdict is FailureVerdict.LATENT
    assert outcomes["A2 does not open its contact"].verdict is FailureVerdict.LATENT


def test_a_fault_is_judged_with_the_plug_either_way_round():
    """Single-pole SSR and breaker: turned round, an element that touches the case past the SSR heats on from the neutral side."""
    wiring = generate(KILN, SSR)
    turned = {"Q0.L": "P0.2", "Q0.N": "P0.4"}
    wires = tuple(replace(w, a=turned.get(w.a, w.a), b=turned.get(w.b, w.b)) for w in wiring.connections)
    ends = (Connection(700, "Q0.L", "P0.1"), Connection(701, "Q0.N", "P0.3"))

    def outcome(reversible):
        plug = part("P0", "plug", current_a=16.0, reversible=reversible)
        circuit = CircuitSolver(ConnectionList((*wiring.parts, plug), (*wires, *ends)), 230.0)
        return next(o for o in analyse(circuit).outcomes if o.title == "E1 touches the case at 1")

    assert outcome("no").verdict is FailureVerdict.TRIPS
    either = outcome("yes")
    assert either.verdict is FailureVerdict.UNCOVERED and either.says.startswith("With the plug the other way round")


@pytest.mark.parametrize("parts", [(), (part("X1", "enclosure"),), (POWER,), (heater(),)])
def test_lists_without_wires_are_solved_too(parts):
    empty = CircuitSolver(ConnectionList(parts, ()), 230.0)
    assert not empty.solve(ON).tripped and all(not p.energised for p in table(empty))
    assert analyse(empty).summary.endswith(" heats.")
