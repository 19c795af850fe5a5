"""The oven of three zones in 60 parts, against what a practitioner finds with the plan on the table."""

from collections import Counter

import pytest
from benchmarks.large_rig import PURPOSE, large_rig

from rellux.core.findings import Severity
from rellux.core.heating.conductor_tables import Practice
from rellux.core.wiring.circuit.faults import FailureVerdict, analyse
from rellux.core.wiring.circuit.findings import circuit_findings
from rellux.core.wiring.circuit.memory import memory
from rellux.core.wiring.circuit.positions import table
from rellux.core.wiring.circuit.solve import CircuitSolver
from rellux.core.wiring.model import Circuit, Connection, ConnectionList
from rellux.core.wiring.names import split
from rellux.core.wiring.rules import check, context_for
from rellux.core.wiring.switching import ON

CONTEXT = context_for(PURPOSE, Practice.IEC, "K")


@pytest.fixture(scope="module")
def oven():
    return CircuitSolver(large_rig(), 230.0)


@pytest.fixture(scope="module")
def outcomes(oven):
    return {o.title: o for o in analyse(oven).outcomes}


@pytest.mark.slow
def test_nothing_dangerous_is_found_in_it(oven):
    found = [*check(oven.wiring, CONTEXT, oven), *circuit_findings(oven)]
    assert [f.title for f in found if f.severity is not Severity.ADVICE] == []


def test_each_zone_draws_what_its_element_takes(oven):
    """4500 W in star on 400 V: 35.6 Ω a leg, 6.5 A, less the drop of a milliohm path and 1.2 V in the SSR."""
    on = oven.solve(ON, start=oven.running(ON))
    for zone in (1, 2, 3):
        assert on.loads[f"E{zone}"].watts == pytest.approx(4500, rel=0.05)
        assert on.contacts[f"F{zone}"].amps == pytest.approx(4500 / 3**0.5 / 400, rel=0.03)
    assert on.contacts["F0"].amps == pytest.approx(3 * on.contacts["F1"].amps, rel=0.05)


def test_it_waits_for_its_button_and_stays_off_after_a_power_cut(oven):
    known = memory(oven)
    assert known.restarts == () and known.races == {} and "K9" in known.holds
    positions = table(oven)
    names = {p.name for p in positions}
    assert {f"{name}, output on" for name in ("S0 off", "S1 pressed", "S2 door open", "S3 pressed", "F1 open")} <= names
    hot = {p.name for p in positions if p.heats("E1", 100)}
    assert {"output on", "F2 open, output on"} <= hot
    assert not {"output off", "S1 pressed, output on", "S2 door open, output on", "F1 open, output on"} & hot


BY_HAND = [
    ("V1 fails shorted", FailureVerdict.COVERED),
    ("A2 keeps its output on", FailureVerdict.COVERED),
    ("B3 slips out or reads too low", FailureVerdict.COVERED),
    ("K1 welds", FailureVerdict.LATENT),
    ("A5 does not open its contact", FailureVerdict.LATENT),
    ("B6 slips out or reads too low", FailureVerdict.LATENT),
    ("S1 does not open", FailureVerdict.LATENT),
    ("S2 does not open", FailureVerdict.LATENT),
    ("K9 welds", FailureVerdict.LATENT),
    ("S3 stays closed", FailureVerdict.LATENT),
    ("S3 does not close", FailureVerdict.NOTHING),
    ("F1 opens", FailureVerdict.WEAKER),
    ("Q0 L2 is lost", FailureVerdict.WEAKER),
    ("F4 opens", FailureVerdict.STOPS),
    ("K9 does not pull in", FailureVerdict.STOPS),
    ("E1 touches the case at 1", FailureVerdict.TRIPS),
    ("E2 is shorted", FailureVerdict.TRIPS),
]


@pytest.mark.slow
@pytest.mark.parametrize(("title", "verdict"), BY_HAND)
def test_its_single_failures(outcomes, title, verdict):
    if title not in outcomes:
        pytest.fail(f"no such failure; there are {sorted(outcomes)}")
    assert outcomes[title].verdict is verdict


def test_what_heats_less_or_no_more_is_named(outcomes):
    assert outcomes["F1 opens"].says == "E1 no longer heats."
    assert outcomes["Q0 L2 is lost"].says.count("heats with {50 %}") == 3


def test_the_summary_counts_what_it_names(oven, outcomes):
    counted = Counter(o.verdict for o in outcomes.values())
    assert counted[FailureVerdict.UNCOVERED] == 0
    says = analyse(oven).summary
    assert says.startswith(
        f"No single failure of {len(outcomes)} leaves the heat on: {counted[FailureVerdict.COVERED]} are stopped"
    )
    assert f"{counted[FailureVerdict.LATENT]} would go unnoticed" in says


def test_a_second_failure_counts_in_its_own_zone_only(outcomes):
    after = set(outcomes["K1 welds"].second)
    assert {"V1 fails shorted", "A1 keeps its output on", "B1 slips out or reads too low"} <= after
    assert not {"V2 fails shorted", "A3 keeps its output on"} & after


def test_an_earth_that_comes_off_is_latent_until_a_live_touches_the_case(outcomes, oven):
    numbers = [w.number for w in oven.wiring.connections if w.colour == "green-yellow"]
    for number in numbers:
        assert outcomes[f"wire {number} comes off"].verdict is FailureVerdict.LATENT


def test_an_earth_bar_earths_and_without_its_wire_does_not(oven):
    assert "wiring.earth" not in {f.rule for f in check(oven.wiring, CONTEXT, oven)}
    cut = ConnectionList(oven.wiring.parts, tuple(w for w in oven.wiring.connections if w.a != "Q0.PE"))
    assert "wiring.earth" in {f.rule for f in check(cut, CONTEXT)}


def without(wiring, *names):
    """The list without some parts and the wires at them."""
    wires = tuple(w for w in wiring.connections if not {split(w.a)[0], split(w.b)[0]} & set(names))
    return ConnectionList(tuple(p for p in wiring.parts if p.name not in names), wires)


def test_a_zone_without_a_limiter_of_its_own_is_said(oven):
    def rules(wiring):
        return {f.rule for f in check(wiring, CONTEXT)}

    assert "wiring.limiter-zones" not in rules(oven.wiring)
    shared = without(oven.wiring, "A6", "B6", "S6")  # its contactor now hangs on the second zone's limiter
    joined = (
        Connection(900, "S5.2", "K3.A1", Circuit.CONTROL),
        Connection(901, "A3.N", "K3.A2", Circuit.CONTROL),
    )
    found = rules(ConnectionList(shared.parts, (*shared.connections, *joined)))
    assert "wiring.limiter-zones" in found and "wiring.never-heats" not in found
