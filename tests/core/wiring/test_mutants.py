"""Seeded mutants of the circuits: a wire added, dropped, moved, swapped; a part replaced, re-rated, bridged, doubled. And the
smallest list of every disagreement ever found."""

from collections.abc import Callable

import pytest

from rellux.core.wiring.circuit.faults import FailureVerdict, analyse
from rellux.core.wiring.circuit.solve import CircuitSolver
from rellux.core.wiring.model import ConnectionList
from rellux.core.wiring.usual_circuits import Usual, usual
from tests.core.wiring.mistakes import moved, without
from tests.examples import cases
from tests.oracle.circuits import RIGS, added, dressed_circuits, part, usual_circuits
from tests.oracle.compare import compare, seconds
from tests.oracle.mutants import mutant

SECOND = ("kiln, alarm in the coil",)
"""What an unnoticed failure waits for was once said of one standing alone."""
BASES = {n: c for n, c in {**usual_circuits(), **dressed_circuits()}.items() if "monitor" not in n}
SEEDS = range(cases(10))


@pytest.mark.slow
@pytest.mark.parametrize("seed", SEEDS)
def test_mutants_are_judged_as_by_brute_force(seed):
    name = sorted(BASES)[(7 * seed) % len(BASES)]
    wiring, volts = BASES[name]
    found = compare(mutant(wiring, seed, 1 + seed % 3), volts)
    assert found.wrong == (), f"{name}, seed {seed}"


def of(rig: str, key: Usual) -> ConnectionList:
    return usual(*RIGS[rig], key)


def short_until_welded() -> ConnectionList:
    """A short through the resting contact opens the breaker; the relay welded, there is no short, and it heats uncalled."""
    return moved(of("cabinet", Usual.THERMOSTAT), "A1.N", "H2.1", "Q0.N")


def live_past_the_ssr() -> ConnectionList:
    """One live straight on the element: its other end on the case trips the breaker while the SSR is on, and heats while it is
    off. What trips depends on when it failed."""
    return added(without(of("dryer", Usual.START), "K0.3", "K0.4"), ("F1.4", "E1.2"))


def trip_that_lets_in() -> ConnectionList:
    """A relay on the limiter's other contact bridges the contactor that it drops."""
    return dressed_circuits()["kiln, trip lets a relay in"][0]


def lamp_in_the_return() -> ConnectionList:
    """The drive's minus goes back through the alarm's lamp: with the alarm on it drives, with the alarm off it does not."""
    wiring = moved(of("kiln bare", Usual.BEACON), "V1.4-", "X1.PE", "A1.OUT-")
    return added(moved(wiring, "X1.PE", "V1.4-", "Q0.PE"), ("X1.PE", "H1.1"))


FOUND: dict[str, tuple[Callable[[], ConnectionList], float]] = {
    "a short that a weld clears": (short_until_welded, 230.0),
    "a live past the SSR": (live_past_the_ssr, 240.0),
    "a lamp in the drive's return": (lamp_in_the_return, 230.0),
    "a trip that lets a relay in": (trip_that_lets_in, 230.0),
}


@pytest.mark.slow
@pytest.mark.parametrize("name", FOUND)
def test_what_was_once_judged_wrongly(name):
    make, volts = FOUND[name]
    found = compare(make(), volts)
    assert found.wrong == () and found.marginal < found.judged


def outcomes(wiring: ConnectionList, volts: float = 230.0):
    found = analyse(CircuitSolver(wiring, volts))
    return {o.title: o for o in found.outcomes}, found.summary


def test_a_position_that_bypasses_the_limiter_is_not_merged_with_one_that_does_not():
    by_title, summary = outcomes(dressed_circuits()["kiln, selector past the limiter"][0])
    shorted = by_title["V1 fails shorted"]
    assert shorted.verdict is FailureVerdict.UNCOVERED and shorted.says.startswith("With S4 in II: E1 heats on")
    assert "the limiter does not stop" in " ".join(by_title) and summary.startswith("With nothing broken:")


def test_an_alarm_contact_across_the_limiter_is_seen():
    by_title, summary = outcomes(dressed_circuits()["kiln, alarm across the limiter"][0])
    assert (
        by_title["V1 fails shorted"].verdict is FailureVerdict.UNCOVERED
        and "the alarm on" in by_title["V1 fails shorted"].says
    )
    assert not summary.startswith("No single failure")


def test_a_small_element_beside_a_large_one_is_seen():
    """60 W beside 3200 W, past the controller: under 2 % of the whole, all of its own."""
    by_title, summary = outcomes(dressed_circuits()["kiln, second element past all"][0])
    assert by_title["With nothing broken: E2 heats uncalled"].verdict is FailureVerdict.UNCALLED
    assert summary.startswith("With nothing broken: E2 heats although nobody calls for heat.")


@pytest.mark.parametrize("rig", ["kiln", "kiln bare"])
def test_a_rig_that_always_heats_has_that_as_its_first_sentence(rig):
    wiring = of(rig, Usual.PARTS)
    past = added(wiring, ("V1.1", "V1.2"))
    _, summary = outcomes(past)
    assert summary.startswith("With nothing broken: E1 heats although nobody calls for heat.")


def test_a_stop_that_stops_nothing_is_in_the_summary():
    _, summary = outcomes(dressed_circuits()["kiln, stop at the start button"][0])
    assert "S9 does not stop E1." in summary
    _, feed = outcomes(dressed_circuits()["kiln, stop in the controller's feed"][0])
    assert "S9 stops E1 only through V1, which the controller works too." in feed


@pytest.mark.slow
def test_what_was_not_tried_is_said():
    """Seven switches: not every combination is tried, and the summary says so."""
    wiring = of("kiln", Usual.PARTS)
    switches = tuple(part(f"S{i}", "switch") for i in range(1, 8))
    pairs = [(f"S{i}.2", f"S{i + 1}.1") for i in range(1, 7)]
    many = added(wiring, ("F2.2", "S1.1"), *pairs, ("S7.2", "Q0.N"), parts=switches)
    found = analyse(CircuitSolver(without(many, "S7.2"), 230.0))
    assert "no more than two are turned at once" in found.careful and found.careful in found.summary


def test_a_coil_that_burns_out_closes_its_resting_contact():
    """An element on the resting contact of a relay that the controller holds: the coil burnt out, it heats, limiter or not."""
    parts = (
        part("Q0", "supply_1ph", voltage_v=230.0),
        part("K1", "relay", coil_v=230.0),
        part("E1", "heater", power_w=500.0, voltage_v=230.0),
    )
    wiring = added(
        ConnectionList(parts, ()),
        ("Q0.L", "K1.A1"),
        ("K1.A2", "Q0.N"),
        ("Q0.L", "K1.COM"),
        ("K1.NC", "E1.1"),
        ("E1.2", "Q0.N"),
    )
    by_title, _ = outcomes(wiring)
    assert by_title["K1 does not pull in"].verdict is FailureVerdict.UNCOVERED


@pytest.mark.slow
@pytest.mark.parametrize("name", SECOND)
def test_what_must_not_fail_second_is_named_whatever_stands_how(name):
    assert seconds(*BASES[name]).wrong == ()
