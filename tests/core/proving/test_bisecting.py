"""By halves: whatever single thing is wrong is among what is left, and what is left at the end no ohms tell apart."""

from math import ceil, log2

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.proving.bisecting import Clue, bisect, clue_of, places
from rellux.core.wiring.circuit.dead import Dead
from rellux.core.wiring.circuit.failures import failures
from rellux.core.wiring.circuit.solution import Fault
from tests.core.proving.rigs import facts, steps_of
from tests.examples import cases

RIGS = ("kiln", "cabinet relay", "shell", "dryer", "plate limited")


def middle(ohms):
    """What a meter reads somewhere inside what it may; ``None`` for no connection."""
    if ohms.most is None:
        return None
    return 0.5 * ((ohms.least or 0.0) + ohms.most)


def volts(circuit, step, fault):
    start = circuit.running(step.switching) if step.switching.output_on else circuit.begun(step.switching)
    return circuit.solve(step.switching, fault, start).between(*step.between)


@settings(max_examples=cases(6), deadline=None)
@given(st.sampled_from(RIGS), st.data())
def test_the_true_failure_is_never_thrown_out_and_what_remains_looks_the_same(name, data):
    known = facts(name)
    circuit, dead = known.circuit, Dead(known.circuit)
    steps = [
        s for s in steps_of(known).values() if s.between and s.measure and not s.key.startswith(("sensor", "leads"))
    ]
    step = data.draw(st.sampled_from(steps), "step")
    truth = data.draw(st.sampled_from(failures(known.wiring)), "truth")
    first = (
        middle(dead.ohms(*step.between, truth.fault, step.moved))
        if step.switching is None
        else volts(circuit, step, truth.fault)
    )
    clues = [clue_of(step, first)]
    begun = len(bisect(circuit, tuple(clues)).suspects)
    for _ in range(12):
        found = bisect(circuit, tuple(clues))
        assert any(s.subject == truth.subject for s in found.suspects), (truth.title, clues)
        if found.next is None:
            break
        clues.append(Clue(found.next.a, found.next.b, middle(dead.ohms(found.next.a, found.next.b, truth.fault))))
    assert len(clues) - 1 <= 2 * ceil(log2(begun + 1)) + 2


@pytest.mark.parametrize(("number", "subject"), [(3, "wire 3"), (6, "wire 6")])
def test_a_wire_that_came_off_in_the_feed_is_named(number, subject):
    """Worked by hand: from the supply of the limiter back to where its volts end."""
    known = facts("kiln")
    wire = next(w for w in known.wiring.connections if w.number == number)
    fault = Fault(opened=frozenset({f"wire {number}"}))
    dead, step = Dead(known.circuit), steps_of(known)["supply A2"]
    clues = [clue_of(step, volts(known.circuit, step, fault))]
    while (found := bisect(known.circuit, tuple(clues))).next:
        clues.append(Clue(found.next.a, found.next.b, middle(dead.ohms(found.next.a, found.next.b, fault))))
    assert subject in {s.subject for s in found.suspects} and len(found.suspects) <= 2 and len(clues) <= 4
    assert f"{wire.a} to {wire.b}" in " ".join(s.title for s in found.suspects)


def test_a_poor_joint_is_looked_for_where_nothing_that_is_broken_explains_it():
    known = facts("kiln")
    found = bisect(known.circuit, (clue_of(steps_of(known)["earth X1.PE"], 3.2),))
    assert found.suspects and all("poor" in s.title for s in found.suspects)
    assert found.suspects[0].title.count(" to ") == 1


def test_every_place_to_measure_lies_on_the_way():
    known = facts("kiln")
    terminals = {f"{p.name}.{t.name}" for p in known.wiring.parts for t in p.type.terminals}
    for a, b in places(known.circuit, "A2.L", "A2.N"):
        assert a != b and {a, b} <= terminals


def test_a_step_without_two_terminals_has_no_halves():
    with pytest.raises(Refused):
        clue_of(steps_of(facts("kiln"))["look"], None)
