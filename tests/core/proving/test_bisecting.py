"""By halves: whatever single thing is wrong is among what is left, and what is left at the end no ohms tell apart."""

from math import ceil, log2

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.proving.bisecting import Clue, bisect, clue_of, places
from rellux.core.proving.judging import SeenAtStep, StepVerdict, judge_step
from rellux.core.wiring.circuit.dead import Dead
from rellux.core.wiring.circuit.failures import failures
from rellux.core.wiring.circuit.solution import Fault
from tests.core.proving.rigs import NAMES, facts, steps_of
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


def measured(known, dead, step, fault):
    return (
        middle(dead.ohms(*step.between, fault, step.moved))
        if step.switching is None
        else volts(known.circuit, step, fault)
    )


def failed(step, number):
    """Whether a number makes a step fail."""
    seen = SeenAtStep(number, beyond=number is None, as_told=True, sure=True)
    return judge_step(step, seen).verdict is StepVerdict.FAILED


def halvable(known):
    return [s for s in steps_of(known).values() if s.between and s.measure]


@pytest.mark.slow
@settings(max_examples=cases(6), deadline=None)
@given(st.sampled_from(RIGS), st.data())
def test_the_true_failure_is_never_thrown_out_and_what_changes_nothing_is_never_named(name, data):
    """The truth is any failure that makes a step fail."""
    known = facts(name)
    circuit, dead = known.circuit, Dead(known.circuit)
    step = data.draw(st.sampled_from(halvable(known)), "step")
    seen = [(f, measured(known, dead, step, f.fault)) for f in failures(known.wiring)]
    truths = [(f, n) for f, n in seen if (n is not None or step.switching is None) and failed(step, n)]
    if not truths:
        return
    truth, first = data.draw(st.sampled_from(truths), "truth")
    sound = measured(known, dead, step, Fault())
    idle = {f.title for f, n in seen if n == sound}
    clues = [clue_of(step, first)]
    begun = len(bisect(circuit, tuple(clues)).suspects)
    for _ in range(12):
        found = bisect(circuit, tuple(clues))
        assert any(s.subject == truth.subject for s in found.suspects), (truth.title, clues)
        assert not idle & {s.title for s in found.suspects}
        if found.next is None:
            break
        clues.append(Clue(found.next.a, found.next.b, middle(dead.ohms(found.next.a, found.next.b, truth.fault))))
    assert len(clues) - 1 <= 2 * ceil(log2(begun + 1)) + 2


@pytest.mark.slow
@pytest.mark.parametrize("name", NAMES)
def test_what_a_step_expects_is_what_halving_takes_for_sound(name):
    """Else a sound rig would be searched for a failure: steps about what the circuit does not hold, as sensors, have no halves."""
    known = facts(name)
    dead = Dead(known.circuit)
    for step in halvable(known):
        number = measured(known, dead, step, Fault())
        assert number is None or not failed(step, number), step.key
    assert not [s.key for s in halvable(known) if s.key.startswith(("sensor", "leads", "sheath"))]


@pytest.mark.slow
@pytest.mark.parametrize(
    ("rig", "key", "number"),
    [("plate limited", "drive V1 on", 2.9), ("plate limited", "rail G1", 4.6), ("kiln", "earth X1.PE", 0.4)],
)
def test_a_small_number_that_is_wrong_is_never_taken_for_a_sound_one(rig, key, number):
    """1.7 V, 0.4 V and 0.3 Ω away: less than a meter's own error would excuse elsewhere."""
    known = facts(rig)
    step, dead = steps_of(known)[key], Dead(known.circuit)
    assert failed(step, number)
    idle = {
        f.title
        for f in failures(known.wiring)
        if measured(known, dead, step, f.fault) == measured(known, dead, step, Fault())
    }
    assert not idle & {s.title for s in bisect(known.circuit, (clue_of(step, number),)).suspects}


@pytest.mark.slow
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
