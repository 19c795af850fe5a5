"""What still holds, when a name may be put under a stage, and what is due."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest

from rellux.core.errors import Refused
from rellux.core.findings import Severity
from rellux.core.guarding.standing import ProofStanding
from rellux.core.proving.judging import StepVerdict
from rellux.core.proving.plan import proving_stages
from rellux.core.proving.standing import (
    StageSignature,
    StepRecord,
    StepState,
    check_again,
    check_turn,
    due_again,
    name_under,
    next_step,
    proving_findings,
    stands,
    waiting_after,
)
from tests.core.proving.rigs import facts

NOW = datetime(2026, 11, 28, 9, 0, tzinfo=UTC)
STAGES = proving_stages(facts("kiln"))


def recorded(upto=7, verdict=StepVerdict.PASSED, **others):
    found = {
        s.key: StepRecord(verdict, NOW, s.cites)
        for stage in STAGES
        if stage.number <= upto
        for s in stage.steps
        if not s.elsewhere
    }
    return {**found, **others}


def signed(upto=7, why="", later=1):
    return {
        s.number: StageSignature(NOW + timedelta(minutes=later), "Technician", why, frozenset(x.key for x in s.steps))
        for s in STAGES
        if s.number <= upto
    }


def seen(records, signatures, proof=ProofStanding.HOLDS, dangers=(), stages=STAGES):
    return {s.number: s for s in stands(stages, records, signatures, proof, dangers)}


def test_all_that_is_proved_and_signed_stands_and_nothing_waits():
    found = stands(STAGES, recorded(), signed(), ProofStanding.HOLDS, ())
    assert all(s.signed and not s.before and not s.against for s in found)
    assert next_step(found) is None and waiting_after(STAGES, found) == {}
    assert proving_findings(STAGES, found, NOW + timedelta(days=1), NOW) == []
    assert [f.rule for f in proving_findings(STAGES, found, NOW, NOW + timedelta(days=1))] == ["proving.due"]


def test_nothing_recorded_begins_with_looking_and_waits_after_the_wiring():
    found = stands(STAGES, {}, {}, None, ())
    assert next_step(found) == (0, "look")
    assert list(waiting_after(STAGES, found)) == ["wiring", "setup", "guarding"]
    assert not proving_findings(STAGES, found, None, NOW)


@pytest.mark.parametrize("upto", range(7))
def test_a_stage_has_its_turn_when_those_before_it_are_signed(upto):
    found = seen(recorded(), signed(upto))
    later = [n for n in found if n > upto]
    assert not found[later[0]].before
    for n in later[1:]:
        assert f"Stage {later[0]} is not signed." in found[n].before


def test_a_danger_in_the_wiring_stands_before_everything():
    """But what is measured dead may be measured: how else would it be found?"""
    found = seen(recorded(), signed(), dangers=("the case is live",))
    assert all("the case is live" in s.before[0] for n, s in found.items() if n)
    assert not found[0].before and "the case is live" in found[0].against[0]


@pytest.mark.parametrize(
    ("proof", "blocks"),
    [(ProofStanding.HOLDS, False), (ProofStanding.OTHER_LIMITER, True), (ProofStanding.FAILED, True), (None, True)],
)
def test_first_heat_needs_the_guards_proved_dry_whoever_signed(proof, blocks):
    found = seen(recorded(3), signed(3, "it was late"), proof)
    assert any("What stops it" in b for b in found[4].before) == blocks
    assert not any("What stops it" in b for b in found[2].before)


def test_the_fuse_and_full_power_need_the_live_trip_even_where_it_was_left_out_for_a_reason():
    skipped = {k: replace(r, verdict=StepVerdict.SKIPPED) for k, r in recorded().items() if k == "trip live"}
    with_it, without = seen(recorded(), signed()), seen(recorded(**skipped), signed())
    assert not with_it[6].before and not with_it[7].before
    for n in (6, 7):
        assert without[n].before == ("The limiter did not end full power for real yet.",)
    assert not without[5].before and without[5].signed


def test_a_change_voids_the_steps_that_hung_on_it_and_ends_the_names_over_them_also_those_given_for_a_reason():
    key = "ohms E1.1 E1.2"
    old = replace(recorded()[key], cites={**recorded()[key].cites, "part E1": "heater: power_w 2000"})
    for why in ("", "because it was late"):
        found = seen(recorded(**{key: old}), signed(why=why))
        step = next(s for s in found[0].steps if s.key == key)
        assert step.state is StepState.VOID and step.changed == ("part E1 was changed",)
        assert found[0].signed is None and found[1].signed and found[0].against
    told = proving_findings(STAGES, tuple(found.values()), None, NOW)
    assert [(f.rule, f.severity, f.subjects) for f in told] == [("proving.void", Severity.FAULT, (key,))]
    gone = {k: v for k, v in old.cites.items() if not k.startswith("part")} | {"wire A–B": "1 mm²"}
    moved = next(s for s in seen(recorded(**{key: replace(old, cites=gone)}), signed())[0].steps if s.key == key)
    assert moved.changed == ("part E1 is new", "wire A–B is gone")


def test_volts_that_hardly_differ_are_the_same_and_others_are_not():
    key = "supply A1"
    for factor, state in ((1.001, StepState.PASSED), (1.05, StepState.VOID)):
        cites = recorded()[key].cites
        other = replace(
            recorded()[key], cites={**cites, "what is expected": f"{float(cites['what is expected']) * factor:.5g}"}
        )
        assert next(s for s in seen(recorded(**{key: other}), {})[1].steps if s.key == key).state is state


def test_what_is_recorded_after_a_name_ends_it_and_a_failure_is_told():
    key = "ohms E1.1 E1.2"
    failed = replace(recorded()[key], verdict=StepVerdict.FAILED, at=NOW + timedelta(hours=1))
    found = seen(recorded(**{key: failed}), signed())
    assert found[0].signed is None and found[0].against == ("Heater E1: failed.",)
    assert [f.rule for f in proving_findings(STAGES, tuple(found.values()), None, NOW)] == ["proving.failed"]
    assert next_step(tuple(found.values())) == (0, key)


def test_an_open_step_may_be_signed_over_for_a_reason_only():
    partly = {k: r for k, r in recorded().items() if k != "insulation"}
    assert seen(partly, signed())[0].signed is None
    assert seen(partly, signed(why="no tester here"))[0].signed.why == "no tester here"


def test_without_a_plan_what_guards_it_waits():
    known = replace(facts("kiln"), situation=None)
    stages = proving_stages(known)
    found = {s.number: s for s in stands(stages, {}, {}, None, ())}
    assert found[3].against and "put a plan in force" in found[3].against[0] and not found[3].steps


def test_a_step_that_a_stage_did_not_have_when_it_was_signed_ends_the_name_also_one_given_for_a_reason():
    """As when a limiter is planned, or a fuse, after somebody signed for a reason."""
    fewer = {n: replace(s, steps=s.steps - {"insulation"}) for n, s in signed(why="no tester").items()}
    partly = {k: r for k, r in recorded().items() if k != "insulation"}
    assert seen(partly, fewer)[0].signed is None and seen(partly, fewer)[1].signed


def test_facts_out_of_a_strange_file_void_and_break_nothing():
    for strange in ("", "nan", "many volts", "1e999"):
        odd = replace(recorded()["supply A1"], cites={**recorded()["supply A1"].cites, "what is expected": strange})
        step = next(s for s in seen(recorded(**{"supply A1": odd}), {})[1].steps if s.key == "supply A1")
        assert step.state is StepState.VOID and step.changed == ("what is expected was changed",)


def test_a_name_takes_a_reason_where_something_stands_against_it_and_none_is_good_enough_for_a_voided_step():
    open_one = seen({k: r for k, r in recorded().items() if k != "look"}, {})[0]
    for why in ("", "  ", "no"):
        with pytest.raises(Refused) as refused:
            name_under(open_one, why)
        assert refused.value.problems[0].field == "why" and "Looked over: is open." in refused.value.problems[0].reason
    assert name_under(open_one, " lent the lamp ") == "lent the lamp"
    assert name_under(seen(recorded(), signed())[0], "whatever") == ""
    old = replace(recorded()["look"], cites={})
    with pytest.raises(Refused) as refused:
        name_under(seen(recorded(look=old), {})[0], "it is nearly the same")
    assert refused.value.problems[0].field == "stage"


def test_a_turn_is_waited_for_and_a_step_that_stands_is_not_recorded_by_mistake():
    later = seen(recorded(0), {})[1]
    with pytest.raises(Refused):
        check_turn(later, "")
    check_turn(later, "the probe is new")
    check_turn(seen({}, {})[0], "")
    done = seen(recorded(), signed())[0]
    with pytest.raises(Refused) as refused:
        check_again(done, "look", "Optician recorded it", again=False)
    assert refused.value.problems[0].reason == "Optician recorded it"
    check_again(done, "look", "", again=True)
    check_again(seen({}, {})[0], "look", "", again=False)


def test_it_is_due_so_long_after_the_oldest_name_and_only_when_all_are_there():
    found = stands(STAGES, recorded(), signed(), ProofStanding.HOLDS, ())
    assert due_again(found, 365) == NOW + timedelta(minutes=1, days=365)
    assert (
        due_again(stands(STAGES, recorded(), signed(4), ProofStanding.HOLDS, ()), 365) is None
        and due_again((), 365) is None
    )
