"""Questions of the bench: what they ask, their answers, and answers kept in a rig."""

from dataclasses import dataclass, field
from typing import Any

from django.http import Http404
from django.shortcuts import get_object_or_404
from django.utils import timezone
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.findings import Severity, worst_first
from rellux.core.form import Field, Rows, fill, plain
from rellux.core.questions.answer import Answer, Question, Topic
from rellux.core.questions.registry import ALL, QUESTIONS, TOPICS
from rellux.core.spine import Station
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply
from rellux.server.rigs.change import changing, note
from rellux.server.rigs.models import Rig
from rellux.server.rigs.overview import RigView, rig_view

from .domain import answer_of, kept_answers, known_of, start_of
from .models import Kept


@dataclass(frozen=True)
class QuestionView:
    """A question with its form. ``start`` holds a value for every field; ``kept``: the rig keeps an answer to it.
    ``follows``: fields whose value is always the rig's own in an answer kept in it."""

    key: str
    title: str
    topic: Topic
    fields: list[Field]
    rows: Rows | None
    start: dict[str, Any]
    notes: list[str]
    caution: str
    pieces: list[str]
    follows: list[str]
    kept: bool


@dataclass(frozen=True)
class Values:
    """Plain values by field name; what is left out keeps its default."""

    values: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class KeepInput:
    revision: int
    values: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class KeptView:
    """A kept answer in one line."""

    key: str
    title: str
    headline: str
    worst: Severity | None
    findings: int


def question_of(key: str) -> Question:
    if key not in QUESTIONS:
        raise Http404(f"There is no question {key!r}.")
    return QUESTIONS[key]


class Questions(APIView):
    @endpoint("questions", QuestionView, query={"rig": str}, many=True)
    def get(self, request: Request) -> Response:
        slug = request.query_params.get("rig")
        known = known_of(get_object_or_404(Rig, slug=slug)) if slug else None
        return reply(
            [
                QuestionView(
                    q.key,
                    q.title,
                    q.topic,
                    list(q.fields()),
                    q.rows(),
                    start_of(q, known),
                    list(q.notes),
                    q.caution,
                    list(q.pieces),
                    list(q.follows),
                    known is not None and q.key in known.kept,
                )
                for q in ALL
                if known is None or q.key in known.kept or q.topic in TOPICS[known.purpose.effect]
            ]
        )


class Ask(APIView):
    @endpoint("ask", Answer, Values)
    def post(self, request: Request, key: str) -> Response:
        question = question_of(key)
        return reply(answer_of(question.key, read(request, Values).values))


class RigAnswers(APIView):
    @endpoint("keptAnswers", KeptView, many=True)
    def get(self, request: Request, slug: str) -> Response:
        found = kept_answers(get_object_or_404(Rig, slug=slug))
        return reply([_line(QUESTIONS[key], answer) for key, answer in found.items()])


def _line(question: Question, answer: Answer) -> KeptView:
    findings = worst_first(answer.findings)
    worst = findings[0].severity if findings else None
    return KeptView(question.key, question.title, answer.headline, worst, len(findings))


class RigAnswer(APIView):
    @endpoint("keepAnswer", RigView, KeepInput)
    def put(self, request: Request, slug: str, key: str) -> Response:
        question, given = question_of(key), read(request, KeepInput)
        values = plain(fill(question.shape, given.values))
        answer = answer_of(key, values)
        with changing(slug, given.revision) as rig:
            before = rig.kept.filter(question=key).first()
            Kept.objects.update_or_create(rig=rig, question=key, defaults={"values": values, "at": timezone.now()})
            was = before.values if before else {}
            title = f"Kept: {question.title} {answer.headline}"
            note(rig, request.user, Station.PARTS, title, before=_changed(was, values), after=_changed(values, was))
        return reply(rig_view(rig))

    @endpoint("dropAnswer", RigView, query={"revision": int})
    def delete(self, request: Request, slug: str, key: str) -> Response:
        question = question_of(key)
        revision = request.query_params.get("revision", "")
        with changing(slug, int(revision) if revision.isdigit() else -1) as rig:
            kept = get_object_or_404(Kept, rig=rig, question=key)
            note(rig, request.user, Station.PARTS, f"No longer kept: {question.title}", before=kept.values)
            kept.delete()
        return reply(rig_view(rig))


def _changed(these: dict[str, Any], others: dict[str, Any]) -> dict[str, Any]:
    return {k: v for k, v in these.items() if others.get(k) != v}
