"""What a step hangs on: judged by the words and numbers of all steps before and after a change, and by another library for ways."""

from dataclasses import replace

import networkx as nx
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.proving.scope import between
from rellux.core.proving.standing import changed
from rellux.core.wiring.circuit.dead import Dead
from rellux.core.wiring.circuit.solution import Fault
from rellux.core.wiring.model import ConnectionList
from tests.core.proving.rigs import NAMES, facts, steps_of, wired
from tests.examples import cases
from tests.oracle.circuits import dressed_circuits
from tests.oracle.mutants import mutant

SHARE = 0.02
DRESSED = dressed_circuits()


def voided(before, after):
    """Steps that are gone, new, or hang on something else."""
    kept = before.keys() & after.keys()
    return (before.keys() ^ after.keys()) | {k for k in kept if changed(before[k].cites, after[k].cites)}


def near(one, other):
    return one is other is None or (None not in (one, other) and one == pytest.approx(other, rel=SHARE, abs=0.1))


def says_the_same(one, other):
    words = [(s.does, s.must, s.caution, s.isolated) for s in (one, other)]
    numbers = [s.measure and (s.measure.low, s.measure.high) for s in (one, other)]
    same = numbers[0] is numbers[1] is None or all(near(a, b) for a, b in zip(*numbers, strict=True))
    return words[0] == words[1] and same


@pytest.mark.slow
@settings(max_examples=cases(10), deadline=None)
@given(st.sampled_from([*NAMES, *DRESSED]), st.integers(0, 10**6))
def test_a_changed_list_changes_no_step_that_still_stands_and_never_goes_unseen(name, seed):
    known = facts(name) if name in NAMES else wired(facts("kiln"), DRESSED[name][0])
    other = mutant(known.wiring, seed)
    if other == known.wiring:
        return
    before, after = steps_of(known), steps_of(wired(known, other))
    void = voided(before, after)
    assert void
    untrue = [k for k in before.keys() - void if not says_the_same(before[k], after[k])]
    assert not untrue, untrue


SETTINGS = {
    "setpoint_high_c": "dial setpoint_high_c", "setpoint_low_c": "dial setpoint_low_c", "offset_c": "reading",
    "sensor_failure_output": "unplugged", "hysteresis_c": "values", "output_high": "asks", "loop_break_s": "drive V1 on",
}  # fmt: skip


@pytest.mark.parametrize("name", SETTINGS)
def test_a_changed_setting_voids_what_it_is_about_and_nothing_else(name):
    known = facts("kiln")
    changed = replace(known, sheet={**known.sheet, name: float(known.sheet.get(name, 0.0)) + 3.0})
    before, after = steps_of(known), steps_of(changed)
    void = voided(before, after)
    assert SETTINGS[name] in void
    assert all(says_the_same(before[k], after[k]) for k in before.keys() - void)
    assert void == {k for k, s in before.items() if f"setting {name}" in s.cites}
    assert len(void) < len(before) / 4


@pytest.mark.slow
def test_a_changed_limit_and_an_exchanged_piece_void_what_they_are_about():
    known = facts("kiln")
    plan = known.situation.plan
    for other in (
        replace(plan, limiter=replace(plan.limiter, trip_c=plan.limiter.trip_c - 5.0)),
        replace(plan, fuse=replace(plan.fuse, rating_c=plan.fuse.rating_c - 5.0)),
    ):
        changed = replace(known, situation=replace(known.situation, plan=other))
        before, after = steps_of(known), steps_of(changed)
        void = voided(before, after)
        assert void and all(says_the_same(before[k], after[k]) for k in before.keys() - void)
        assert all(k.startswith("fuse") for k in void) == (other.limiter == plan.limiter)
    for piece in known.fitted:
        exchanged = replace(known, fitted={**known.fitted, piece: "since today"})
        void = voided(steps_of(known), steps_of(exchanged))
        assert void == {k for k, s in steps_of(known).items() if f"fitted {piece.value}" in s.cites} and void


@pytest.mark.slow
def test_words_that_are_the_same_at_every_rig_say_why():
    """But those that hang on a setting or the plan, or name a part, which are the same here."""
    said: dict[str, set[tuple[str, str]]] = {}
    every = {k: s for name in NAMES for k, s in steps_of(facts(name)).items()}
    for name in NAMES:
        for key, step in steps_of(facts(name)).items():
            said.setdefault(key, set()).add((step.does, step.must))
    same = [s for k, s in every.items() if len(said[k]) == 1 and s.measure is None]
    decided = [s for s in same if any(f.startswith(("setting", "plan")) for f in s.cites) or " A1" in s.does]
    assert [s.key for s in same if s not in decided and not s.constant] == [] and len(same) > len(decided)


@settings(max_examples=cases(80), deadline=None)
@given(st.lists(st.tuples(st.integers(0, 8), st.integers(0, 8)), min_size=1, max_size=16))
def test_ways_are_those_of_another_library(pairs):
    """A branch lies on a simple path from 0 to 1 just where it shares a biconnected component with an edge put between them."""
    edges = [(str(i), str(a), str(b)) for i, (a, b) in enumerate(pairs) if a != b]
    graph = nx.Graph([(a, b) for _, a, b in edges])
    expected = set()
    if {"0", "1"} <= set(graph) and nx.has_path(graph, "0", "1"):
        graph.add_edge("0", "1")
        block = next(c for c in nx.biconnected_component_edges(graph) if {("0", "1"), ("1", "0")} & set(c))
        joined = {frozenset(e) for e in block}
        expected = {name for name, a, b in edges if frozenset((a, b)) in joined}
    assert between(edges, "0", "1") == expected


@pytest.mark.slow
@pytest.mark.parametrize("name", ["kiln", "cabinet module", "shell", "plate limited"])
def test_every_wire_that_changes_a_number_is_hung_on(name):
    """Each wire taken off in turn; ohms and volts solved anew."""
    known = facts(name)
    circuit, steps = known.circuit, [s for s in steps_of(known).values() if s.between and s.measure]
    dead = Dead(circuit)

    def shown(step, fault):
        if step.switching is None:
            ohms = dead.ohms(*step.between, fault, step.moved)
            return ohms.most
        start = circuit.running(step.switching) if step.switching.output_on else circuit.begun(step.switching)
        return circuit.solve(step.switching, fault, start).between(*step.between)

    missed = []
    for step in (s for s in steps if not s.key.startswith(("sensor", "leads"))):
        sound = shown(step, Fault())
        for wire in known.wiring.connections:
            now = shown(step, Fault(opened=frozenset({f"wire {wire.number}"})))
            a, b = sorted((wire.a, wire.b))
            if not near(sound, now) and f"wire {a}–{b}" not in step.cites:
                missed.append((step.key, wire.number, sound, now))
    assert not missed


@pytest.mark.long
def test_every_wire_voids_something_and_none_voids_all():
    """Each wire of each rig made longer in turn: the whole list is looked over again, and never every step is void."""
    for name in ("kiln", "cabinet module", "plate"):
        known = facts(name)
        before = steps_of(known)
        for i, wire in enumerate(known.wiring.connections):
            longer = replace(wire, length_m=wire.length_m + 0.2)
            others = known.wiring.connections
            changed = ConnectionList(known.wiring.parts, (*others[:i], longer, *others[i + 1 :]))
            void = voided(before, steps_of(wired(known, changed)))
            a, b = sorted((wire.a, wire.b))
            assert {"look", "insulation"} & void
            assert void == {k for k, s in before.items() if f"wire {a}–{b}" in s.cites}
            assert len(void) < 0.7 * len(before), (name, wire.number)
