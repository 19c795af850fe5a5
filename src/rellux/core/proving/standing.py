"""What still holds of what was proved: steps voided by what changed, stages that may be signed, what is open, what comes next."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum
from math import isfinite

from ..errors import refuse
from ..findings import Finding, Severity
from ..guarding.standing import ProofStanding
from ..messages import shortened
from .facts import EXPECTED
from .judging import LEAST_WHY, StepVerdict
from .plan import DEAD_STAGE, DRY_STAGE, LIVE_STAGE, ProvingStage
from .step import ProvingStep

SAME_SHARE, SAME = 0.02, 0.1
"""Volts and degrees that differ by less are the same (our choice: a longer wire alone changes them by less)."""
MOST_REASONS = 900
"""Letters of what stands against a name."""
MOST_TOLD = 300
"""Letters of what was changed, in a finding."""
NEED_DRY, NEED_LIVE = 4, 6
"""Stages before which the limiter must have acted without heat, and with it."""


class StepState(StrEnum):
    """``void``: it was proved, and something it hangs on was changed since."""

    OPEN = "open"
    PASSED = "passed"
    FAILED = "failed"
    SKIPPED = "skipped"
    VOID = "void"


DONE = (StepState.PASSED, StepState.SKIPPED)


@dataclass(frozen=True)
class StepRecord:
    """The newest record of a step: how it went, and what it hung on then."""

    verdict: StepVerdict
    at: datetime
    cites: Mapping[str, str]


@dataclass(frozen=True)
class StageSignature:
    """Somebody’s name under a stage, and the keys of the steps it had then; ``why``: why it was signed although something stood against
    it."""

    at: datetime
    who: str
    why: str = ""
    steps: frozenset[str] = frozenset()


@dataclass(frozen=True)
class StepStands:
    """``changed``: what it hangs on that was changed since it was proved, in words."""

    key: str
    state: StepState
    changed: tuple[str, ...] = ()


@dataclass(frozen=True)
class StageStands:
    """``signed``: by whom, while it holds. ``before``: why it is not its turn yet; ``against``: what of its own stands against a name under
    it."""

    number: int
    steps: tuple[StepStands, ...]
    signed: StageSignature | None
    before: tuple[str, ...]
    against: tuple[str, ...]

    @property
    def done(self) -> int:
        return sum(s.state in DONE for s in self.steps)


def changed(then: Mapping[str, str], now: Mapping[str, str]) -> tuple[str, ...]:
    """What differs between two sets of facts, in words."""
    found = []
    for name in sorted(then.keys() | now.keys()):
        if name not in now:
            found.append(f"{name} is gone")
        elif name not in then:
            found.append(f"{name} is new")
        elif then[name] != now[name] and not (name == EXPECTED and _near(then[name], now[name])):
            found.append(f"{name} was changed")
    return tuple(found)


def _near(one: str, other: str) -> bool:
    """Whether two numbers are as good as the same; what is none, out of a strange file, never is."""
    try:
        before, after = float(one), float(other)
    except ValueError:
        return False
    return isfinite(before) and abs(before - after) <= max(SAME_SHARE * abs(before), SAME)


def step_stands(step: ProvingStep, record: StepRecord | None) -> StepStands:
    """Whether the newest record of a step still says something: what it hangs on must be as it was."""
    if record is None:
        return StepStands(step.key, StepState.OPEN)
    moved = changed(record.cites, step.cites)
    if moved:
        return StepStands(step.key, StepState.VOID, moved)
    return StepStands(step.key, StepState(record.verdict.value))


def stands(
    stages: tuple[ProvingStage, ...],
    records: Mapping[str, StepRecord],
    signatures: Mapping[int, StageSignature],
    proof: ProofStanding | None,
    dangers: tuple[str, ...],
) -> tuple[StageStands, ...]:
    """Every stage as it stands. ``proof``: of the guards, which is kept under Guarding; ``dangers``: titles of what is dangerous in the
    wiring."""
    found: list[StageStands] = []
    for stage in stages:
        steps = tuple(_of_proof(s, proof) if s.elsewhere else step_stands(s, records.get(s.key)) for s in stage.steps)
        newest = max((records[s.key].at for s in stage.steps if s.key in records), default=None)
        signature = signatures.get(stage.number)
        kept = signature is not None and _holds(signature, steps, newest)
        unsafe = tuple(f"A danger in the wiring: {title}." for title in dangers)
        own = _against(stage, steps)
        before = _before(stage, found)
        if stage.number == DEAD_STAGE:  # measured dead, a danger hurts nobody: it only stands against the name
            own = (*unsafe, *own)
        else:
            before = (*unsafe, *before)
        found.append(StageStands(stage.number, steps, signature if kept else None, before, own))
    return tuple(found)


def _holds(signature: StageSignature, steps: tuple[StepStands, ...], newest: datetime | None) -> bool:
    """A name stands for what was there when it was written: whatever is recorded after it, or voided by a change, or new among its steps,
    ends it. With a reason steps may have been open."""
    if newest is not None and newest > signature.at:
        return False
    if not {s.key for s in steps} <= signature.steps:
        return False
    return all(s.state in DONE or (signature.why and s.state is not StepState.VOID) for s in steps)


def _of_proof(step: ProvingStep, proof: ProofStanding | None) -> StepStands:
    if proof is None:
        return StepStands(step.key, StepState.OPEN)
    state = {
        ProofStanding.HOLDS: StepState.PASSED,
        ProofStanding.NONE: StepState.OPEN,
        ProofStanding.FAILED: StepState.FAILED,
    }.get(proof, StepState.VOID)
    return StepStands(
        step.key, state, (f"the proof: {proof.value.replace('_', ' ')}",) if state is StepState.VOID else ()
    )


def _before(stage: ProvingStage, earlier: list[StageStands]) -> tuple[str, ...]:
    found = [f"Stage {b.number} is not signed." for b in earlier if b.signed is None]
    for need, number, says in (
        (NEED_DRY, DRY_STAGE, "What stops it was not made to act yet, with the load dead."),
        (NEED_LIVE, LIVE_STAGE, "The limiter did not end full power for real yet."),
    ):
        if stage.number >= need and any(b.number == number and not _all_passed(b) for b in earlier):
            found.append(says)
    return tuple(found)


def _against(stage: ProvingStage, steps: tuple[StepStands, ...]) -> tuple[str, ...]:
    titles = {s.key: s.title for s in stage.steps}
    words = {StepState.OPEN: "is open", StepState.FAILED: "failed", StepState.VOID: "must be proved again"}
    waits = (stage.waits,) if stage.waits else ()
    return (*waits, *(f"{titles[s.key]}: {words[s.state]}." for s in steps if s.state in words))


def _all_passed(stage: StageStands) -> bool:
    return bool(stage.steps) and all(s.state is StepState.PASSED for s in stage.steps)


def next_step(found: tuple[StageStands, ...]) -> tuple[int, str] | None:
    """The step in hand: the first that is not proved, a failed one before those after it; ``None`` where all are."""
    for stage in found:
        for step in stage.steps:
            if step.state in (StepState.OPEN, StepState.FAILED, StepState.VOID):
                return stage.number, step.key
    return None


def check_turn(found: StageStands, why: str) -> None:
    """Raise ``Refused`` for a step whose turn it is not, where no reason is given."""
    if found.before and len(why.strip()) < LEAST_WHY:
        raise refuse("why", f"it is not its turn: {' '.join(found.before)}", "a reason that stays on the sheet")


def check_again(found: StageStands, key: str, earlier: str, again: bool) -> None:
    """Raise ``Refused`` for a step that stands, unless it was measured again; ``earlier`` says who recorded it."""
    if not again and any(s.key == key and s.state in DONE for s in found.steps):
        raise refuse("again", earlier, "say that it was measured again")


def name_under(found: StageStands, why: str) -> str:
    """The reason that a name under a stage needs, empty where it needs none. Raises ``Refused`` where one is missing, and for a stage with
    voided steps, for which none is good enough."""
    if any(s.state is StepState.VOID for s in found.steps):
        raise refuse(
            "stage",
            "steps were voided by a change: no reason stands for measuring them again",
            "those steps proved again",
        )
    reasons = (*found.before, *found.against)
    if not reasons:
        return ""
    if len(why.strip()) < LEAST_WHY:
        raise refuse(
            "why", shortened(" ".join(reasons), MOST_REASONS), "all of it settled, or a reason that stays on the sheet"
        )
    return why.strip()


def due_again(found: tuple[StageStands, ...], days: float) -> datetime | None:
    """When all of it is to be proved again: so long after the oldest name that holds; ``None`` before every stage has one."""
    signed = [s.signed.at for s in found if s.signed]
    return min(signed) + timedelta(days=days) if found and len(signed) == len(found) else None


def waiting_after(stages: tuple[ProvingStage, ...], found: tuple[StageStands, ...]) -> dict[str, str]:
    """By the station after which it belongs, the first stage there that is not signed, in words."""
    waiting: dict[str, str] = {}
    for stage, stood in zip(stages, found, strict=True):
        if stood.signed is None:
            waiting.setdefault(stage.after, f"Prove stage {stage.number}: {stage.title.lower()}")
    return waiting


def proving_findings(
    stages: tuple[ProvingStage, ...], found: tuple[StageStands, ...], due: datetime | None, now: datetime
) -> list[Finding]:
    """Steps that failed, that a change voided, and all of it when it is due. Nothing is said of what was never begun."""
    titles = {s.key: s.title for stage in stages for s in stage.steps if not s.elsewhere}
    steps = [s for stage in found for s in stage.steps if s.key in titles]
    told = []
    for step in (s for s in steps if s.state is StepState.FAILED):
        told.append(
            Finding(
                "proving.failed",
                Severity.FAULT,
                title=f"{titles[step.key]}: not as it must be",
                reason="It was measured, and is not what the list and the parts make.",
                fix="Find it by halves at that step, put it right, measure again.",
                subjects=(step.key,),
            )
        )
    if void := [s for s in steps if s.state is StepState.VOID]:
        what = "; ".join(dict.fromkeys(words for s in void for words in s.changed))
        number = f"{len(void)} steps" if len(void) > 1 else titles[void[0].key]
        told.append(
            Finding(
                "proving.void",
                Severity.FAULT,
                title=f"Prove again: {number}",
                reason=f"Changed since: {shortened(what, MOST_TOLD)}.",
                fix=f"Under Proving: {shortened(', '.join(titles[s.key] for s in void), MOST_TOLD)}.",
                subjects=tuple(s.key for s in void),
            )
        )
    if due is not None and due < now:
        told.append(
            Finding(
                "proving.due",
                Severity.ADVICE,
                title="Proving is due again",
                reason="Contacts weld and screws work loose where nobody looks.",
                fix="Go through the stages once more.",
            )
        )
    return told


def never_proved() -> Finding:
    """Of a rig that has runs, and of which nothing was ever proved."""
    return Finding(
        "proving.none",
        Severity.ADVICE,
        title="It runs, and nothing of it was proved here",
        reason="What was never measured is only believed.",
        fix="Go through the stages once; what is long known takes a minute each.",
    )
