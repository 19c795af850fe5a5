"""A thermo-electric module that is the heater, and the cooler with its current turned round."""

from dataclasses import replace
from itertools import product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.cooling.thermoelectric import module_of, works
from rellux.core.errors import Refused
from rellux.core.heating.conductor_tables import Practice
from rellux.core.purpose.checks import purpose_findings
from rellux.core.purpose.controls import Controls, ControlsFedBy
from rellux.core.purpose.cooler import CooledBy, Cooler
from rellux.core.purpose.heater import heat_w
from rellux.core.purpose.purpose import Purpose, RigKind, Supply, check_purpose
from rellux.core.wiring.choice import Actuator, Choice, Output, check_choice, fitting, suggested
from rellux.core.wiring.circuit.solution import Fault
from rellux.core.wiring.circuit.solve import CircuitSolver
from rellux.core.wiring.rules import check, context_for
from rellux.core.wiring.switching import Switching
from rellux.core.wiring.usual_circuits import Usual, usual
from tests.core.proving.rigs import planned_for, steps_of
from tests.examples import cases
from tests.oracle.compare import compare
from tests.oracle.mutants import mutant

TURNED = Cooler(CooledBy.TURNED, 60.0, coldest_c=-10.0)
BLOCK = Purpose(30.0, 45.0, "the cells die", Supply.DC, 24.0, 96.0, 24.0, 20.0, "they stop growing", cooler=TURNED)
RELAY = Choice("Pt100", Output.RELAY, Actuator.RELAY, True, Practice.IEC)
PIN = replace(RELAY, output=Output.PIN)
BARE = replace(RELAY, limiter=False)
APART = replace(BLOCK, controls=Controls(ControlsFedBy.MAINS, 230.0))
WIRED = ((BLOCK, RELAY), (BLOCK, PIN), (BLOCK, BARE), (APART, RELAY))


def wired(purpose=BLOCK, choice=RELAY):
    return usual(purpose, choice, Usual.PARTS)


def joined(wiring, **ends):
    """The same list with ends exchanged: ``K1_NO="K1.NC"`` also the other way."""
    both = {a.replace("_", ".").replace("plus", "+"): b for a, b in ends.items()}
    both |= {b: a for a, b in both.items()}
    moved = (replace(w, a=both.get(w.a, w.a), b=both.get(w.b, w.b)) for w in wiring.connections)
    return replace(wiring, connections=tuple(moved))


@pytest.mark.slow
@pytest.mark.parametrize(("purpose", "choice"), WIRED)
def test_it_heats_or_cools_as_it_is_called_in_every_position_and_by_the_second_opinion(purpose, choice):
    """With both called it cools: the relay at its minus takes the heat's command away."""
    wiring, facts = wired(purpose, choice), planned_for(purpose, choice, RigKind.CABINET)
    rules = {f.rule for f in check(wiring, context_for(purpose, choice.practice, "Pt100"))}
    assert rules <= {"wiring.several-supplies", *(() if choice.limiter else ("wiring.limiter",))}
    for out, trip, cool in product((False, True), repeat=3):
        found = facts.circuit.solve(Switching(out, trip and choice.limiter, cool))
        on = not (trip and choice.limiter)
        assert ("E1" in found.loads and found.loads["E1"].watts > 50.0) == (out and not cool and on)
        assert ("E1" in found.turned) == (cool and on)
        assert facts.circuit.heat(Switching(out, trip and choice.limiter, cool)).total_w == pytest.approx(
            found.loads["E1"].watts if "E1" in found.loads else 0.0, abs=1e-9
        )
    judged = compare(wiring, purpose.control_voltage_v)
    assert judged.wrong == () and judged.judged > 40 and judged.marginal <= 0.05 * judged.judged


@pytest.mark.parametrize(
    ("ends", "does", "beside"),
    [
        ({}, [], set()),
        ({"E1_plus": "E1.-"}, ["cools where it should heat"], {"wiring.no-nc"}),
        ({"K2_NO": "K2.NC"}, ["cools while nothing is called"], set()),
        ({"A1_NO": "A1.AL2"}, ["heats where it should cool"], {"wiring.no-nc"}),
        ({"K1_NO": "K1.NC"}, [], {"wiring.no-nc"}),
    ],
)
def test_ends_that_are_exchanged_are_a_danger(ends, does, beside):
    found = check(joined(wired(), **ends), context_for(BLOCK, Practice.IEC, "Pt100"))
    says = [f.title for f in found if f.rule == "wiring.module-heats"]
    assert says == [f"E1 {d}" for d in does]
    assert {f.rule for f in found if f.severity == "danger"} - {"wiring.module-heats"} == beside


def test_one_that_nothing_turns_round_is_told_and_one_on_mains_heats():
    context = context_for(BLOCK, Practice.IEC, "Pt100")
    wiring = wired()
    to_minus = tuple(replace(w, a="K2.NC") if {w.a, w.b} == {"K2.COM", "E1.-"} else w for w in wiring.connections)
    stays = replace(wiring, connections=to_minus)
    assert "wiring.module-stays" in {f.rule for f in check(stays, context)}
    mains = replace(BLOCK, supply=Supply.SINGLE_PHASE, supply_voltage_v=24.0, cooler=None)
    on_ac, module = wired(mains, RELAY), wiring.part("E1")
    cooling = replace(on_ac.part("A1"), ratings={**on_ac.part("A1").ratings, "alarm": "cooling"})
    ends = {"E1.1": "E1.+", "E1.2": "E1.-"}
    other = replace(
        on_ac,
        parts=tuple({"E1": module, "A1": cooling}.get(p.name, p) for p in on_ac.parts),
        connections=tuple(replace(w, a=ends.get(w.a, w.a), b=ends.get(w.b, w.b)) for w in on_ac.connections),
    )
    found = [f for f in check(other, context_for(mains, Practice.IEC, "Pt100")) if f.rule == "wiring.module-heats"]
    assert [f.title for f in found] == ["E1 heats where it should cool"] and "alternating" in found[0].reason
    assert CircuitSolver(other, 24.0).heat(Switching(True)).total_w > 50.0


def test_a_relay_that_sticks_heats_for_ever_or_cools_for_ever():
    circuit = CircuitSolver(wired(), 24.0)
    welded = Fault(closed=frozenset({"K1"}))
    assert circuit.heat(Switching(), welded).total_w > 50.0
    assert circuit.heat(Switching(limit_tripped=True), welded).total_w < 1.0
    frozen = circuit.solve(Switching(), Fault(closed=frozenset({"K2"})))
    assert frozen.turned["E1"].watts > 50.0 and "E1" not in frozen.loads


def test_it_is_proved_where_it_turns_round():
    steps = steps_of(planned_for(BLOCK, RELAY, RigKind.CABINET))
    assert steps["cooler"].must.startswith("K2, K3 pull in there and let go")
    assert [k for k in steps if k.startswith("never both")] == ["never both K1"]
    turned = steps["turned E1"]
    assert turned.measure.figure.value == pytest.approx(-22.8, abs=0.3) and turned.between == ("E1.+", "E1.-")


@pytest.mark.parametrize(
    ("purpose", "field"),
    [
        (replace(BLOCK, cooler=replace(TURNED, drive_w=90.0)), "cooler.drive_w"),
        (replace(BLOCK, cooler=replace(TURNED, coldest_c=None)), "cooler.coldest_c"),
        (replace(BLOCK, lowest_c=None, lowest_reason=""), "lowest_c"),
        (replace(BLOCK, supply=Supply.SINGLE_PHASE, supply_voltage_v=230.0, heater_voltage_v=230.0), "supply"),
        (replace(BLOCK, cooler=Cooler(CooledBy.FAN, 60.0)), "cooler.drive_w"),
    ],
)
def test_what_cannot_be_is_refused_by_its_field(purpose, field):
    check_purpose(BLOCK)
    with pytest.raises(Refused) as refused:
        check_purpose(purpose)
    assert field in [p.field for p in refused.value.problems]


def test_only_contacts_that_change_over_turn_it():
    for actuator, output in (
        (Actuator.SSR, Output.SSR_DRIVE),
        (Actuator.MOSFET, Output.PIN),
        (Actuator.CONTACTOR, Output.RELAY),
    ):
        choice = replace(RELAY, output=output, actuator=actuator)
        with pytest.raises(Refused) as refused:
            check_choice(BLOCK, choice)
        assert [p.field for p in refused.value.problems] == ["actuator"]
        assert fitting(BLOCK, choice).actuator is Actuator.RELAY
    check_choice(BLOCK, suggested(BLOCK))


@settings(max_examples=cases(30), deadline=None)
@given(st.floats(6.0, 16.0), st.floats(2.0, 8.0), st.floats(0.2, 1.0), st.floats(-10.0, 60.0))
def test_turned_round_it_heats_by_what_it_draws_and_pumps(volts, amps, share, celsius):
    """By a module's own equations with both faces at one temperature: Q_h = αIT + ½I²R where it took out αIT − ½I²R."""
    module = module_of(volts, amps, 68.0, 27.0)
    out = works(module, share * amps, celsius, celsius, 0.0)
    if out is None or out.pumped_w < 1.0:
        return
    current, kelvin = share * amps, celsius + 273.15
    gives = module.seebeck * current * kelvin + 0.5 * current**2 * module.ohm
    rig = replace(BLOCK, heater_power_w=out.power_w, cooler=replace(TURNED, cooler_w=out.pumped_w))
    assert heat_w(rig) == pytest.approx(gives, rel=1e-6)


@pytest.mark.parametrize(
    ("highest", "works_at", "said"), [(80.0, 30.0, None), (80.1, 30.0, "advice"), (95.0, 80.1, "fault")]
)
def test_a_module_hotter_than_it_stands_is_told(highest, works_at, said):
    for cooler in (TURNED, Cooler(CooledBy.MODULE, 60.0, 90.0, coldest_c=-10.0)):
        found = purpose_findings(replace(BLOCK, working_c=works_at, highest_c=highest, cooler=cooler), RigKind.CABINET)
        assert [f.severity for f in found if f.rule == "purpose.module-hot"] == ([said] if said else [])


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(cases(6)))
def test_however_it_is_miswired_nothing_calm_is_said_falsely(seed):
    """Seeded mutants of both circuits, every single failure of each, by the second opinion."""
    judged = compare(mutant(wired(BLOCK, (PIN, RELAY)[seed % 2]), seed, 1 + seed % 3), 24.0)
    assert judged.wrong == ()
