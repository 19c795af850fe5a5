"""Whether a proof holds: each reason why not, and its near-miss."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest

from rellux.core.guarding.plan import Limiter, Plan
from rellux.core.guarding.standing import (
    FittedSince,
    ProofStanding,
    Proved,
    alone_cannot,
    proof_findings,
    proof_standing,
)

NOW = datetime(2026, 11, 27, 12, tzinfo=UTC)
PLAN = Plan(limiter=Limiter(200.0, 2.0, "K", 10.0), prove_days=90)
GOOD = Proved(of_this_plan=True, at=NOW - timedelta(days=90), passed=True, says="Every guard acted.")
LATER, BEFORE = GOOD.at + timedelta(seconds=1), GOOD.at


@pytest.mark.parametrize(
    ("proved", "since", "expected"),
    [
        (GOOD, BEFORE, ProofStanding.HOLDS),
        (GOOD, None, ProofStanding.HOLDS),
        (None, None, ProofStanding.NONE),
        (GOOD, LATER, ProofStanding.OTHER_LIMITER),
        (replace(GOOD, of_this_plan=False), LATER, ProofStanding.OTHER_LIMITER),
        (replace(GOOD, of_this_plan=False), None, ProofStanding.OTHER_PLAN),
        (replace(GOOD, at=GOOD.at - timedelta(seconds=1)), None, ProofStanding.OVERDUE),
        (replace(GOOD, passed=False), BEFORE, ProofStanding.FAILED),
        (replace(GOOD, passed=False), LATER, ProofStanding.OTHER_LIMITER),
        (replace(GOOD, passed=False, of_this_plan=False), None, ProofStanding.OTHER_PLAN),
    ],
)
def test_a_proof_and_what_ends_it(proved, since, expected):
    assert proof_standing(PLAN, proved, FittedSince(since), NOW) is expected
    holds = expected is ProofStanding.HOLDS
    assert bool(proof_findings(PLAN, proved, FittedSince(since), NOW)) is not holds
    assert bool(alone_cannot(True, expected)) is not holds and alone_cannot(False, expected)


def test_a_plan_without_a_limiter_does_not_ask_for_one():
    bare = replace(PLAN, limiter=None)
    assert proof_standing(bare, GOOD, FittedSince(LATER), NOW) is ProofStanding.HOLDS
    assert not proof_findings(bare, None, FittedSince(), NOW)


def test_another_controller_ends_the_proof_of_what_it_does_itself_and_not_of_the_limiter_alone():
    """The limiter stands apart; alarms and the controller's own maximum are the controller's."""
    exchanged, before = FittedSince(None, LATER), FittedSince(None, BEFORE)
    itself = replace(PLAN, maximum_c=190.0)
    assert proof_standing(itself, GOOD, exchanged, NOW) is ProofStanding.OTHER_CONTROLLER
    assert proof_findings(itself, GOOD, exchanged, NOW)[0].severity == "fault"
    assert alone_cannot(True, ProofStanding.OTHER_CONTROLLER)
    assert (
        proof_standing(itself, GOOD, before, NOW) is proof_standing(PLAN, GOOD, exchanged, NOW) is ProofStanding.HOLDS
    )
