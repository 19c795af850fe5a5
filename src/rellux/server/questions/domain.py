"""From rows to the core's questions, and what kept answers say about a rig."""

import json
from typing import Any

from rellux.core.errors import Refused
from rellux.core.findings import Finding, Severity
from rellux.core.form import plain
from rellux.core.questions.answer import Answer, Known, Question
from rellux.core.questions.registry import QUESTIONS, STARTED
from rellux.core.wiring.choice import suggested
from rellux.core.wiring.model import Circuit
from rellux.server.answers.once import remembered
from rellux.server.rigs.domain import choice_of, kind_of, purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.tuning.domain import model_of


def known_of(rig: Rig) -> Known:
    """What the core may know of a rig to start a question from."""
    kept = {k.question: k.values for k in rig.kept.all() if k.question in QUESTIONS}
    power = rig.wires.filter(circuit=Circuit.POWER.value).order_by("area_mm2").first()
    fitted = power.area_mm2 if power else None
    return Known(
        purpose_of(rig),
        choice_of(rig) or suggested(purpose_of(rig)),
        kind_of(rig),
        kept,
        fitted,
        model_of(rig.identifications.first()),
    )


def start_of(question: Question, known: Known | None) -> dict[str, Any]:
    """The form's values as it opens. Kept values that no longer fit the question are left out."""
    if known and question.topic not in STARTED[known.purpose.effect]:
        known = None
    try:
        return plain(question.start(known))
    except Refused:
        without = Known(known.purpose, known.choice, known.kind) if known else None
        return plain(question.start(without))


@remembered(256, lasts=True)
def _answer(key: str, values: str) -> Answer:
    return QUESTIONS[key].ask(json.loads(values))


def answer_of(key: str, values: dict[str, Any]) -> Answer:
    """The answer; asked again for the same values it is remembered, since some take a good part of a second."""
    return _answer(key, json.dumps(values, sort_keys=True))


def kept_answers(rig: Rig) -> dict[str, Answer]:
    """Every kept question of the rig with its answer as of now; those that can no longer be answered are left out."""
    known = known_of(rig)
    found = {}
    for key in known.kept:
        try:
            found[key] = answer_of(key, start_of(QUESTIONS[key], known))
        except Refused:
            continue
    return found


def kept_findings(rig: Rig) -> list[Finding]:
    """What kept answers have found wrong."""
    return [finding for answer in kept_answers(rig).values() for finding in answer.findings]


def worst_by_piece(rig: Rig) -> dict[str, Severity]:
    """The worst that kept answers say of each piece of the chain."""
    found: dict[str, Severity] = {}
    order = list(Severity)
    for key, answer in kept_answers(rig).items():
        for piece in QUESTIONS[key].pieces:
            for finding in answer.findings:
                found[piece] = min(found.get(piece, finding.severity), finding.severity, key=order.index)
    return found
