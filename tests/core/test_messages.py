"""Sentences with typed quantities: every one of the core in both units, differences without the 32, nothing left in prose."""

import ast
import json
import re
from collections.abc import Iterator
from pathlib import Path

import pytest

import rellux
from rellux.core.errors import Refused
from rellux.core.form import plain
from rellux.core.messages import difference, of_kind, quantity, render, span, temperature
from rellux.core.questions.answer import Topic
from rellux.core.questions.registry import ALL
from rellux.core.setup.checks import check_sheet
from rellux.core.setup.parameters import spoken_value
from rellux.core.setup.proposals import propose
from rellux.core.units import Kind, celsius_from_fahrenheit
from tests.core.questions.test_questions import KNOWN
from tests.core.setup.test_setup import CASES, FACTS, sheet
from tests.readable import check_readable

SHARED = Path(__file__).parent.parent / "messages.json"
"""The same cases are read by the front end's test."""


@pytest.mark.parametrize("case", json.loads(SHARED.read_text()), ids=lambda c: c["message"] or "nothing")
def test_a_message_reads_the_same_here_and_in_the_front_end(case):
    assert (render(case["message"], "C"), render(case["message"], "F")) == (case["C"], case["F"])


@pytest.mark.parametrize(("fahrenheit", "celsius"), [(32, 0), (212, 100), (-40, -40), (350, 176.6667)])
def test_fahrenheit(fahrenheit, celsius):
    assert celsius_from_fahrenheit(fahrenheit) == pytest.approx(celsius, abs=1e-4)


def test_quantities_are_written_by_their_kind():
    assert temperature(60) + difference(2.5, "+g") == "{60 °C}{+2.5 Δ°C}"
    assert temperature(812.4, ".0f") == "{~812 °C}"
    assert quantity(1250000, "W", ".3g") == "{1250000 W}"
    assert span(0.1, 0.5, "s") == "{0.1…0.5 s}"
    assert of_kind(5, Kind.DIFFERENCE) == "{5 Δ°C}" and of_kind(3, Kind.COUNT) == "{3}"
    assert quantity(float("nan"), "A") == quantity(float("inf"), "A") == "–"
    with pytest.raises(ValueError, match="furlong"):
        quantity(1, "furlong")


@pytest.mark.parametrize(
    ("name", "value", "words"),
    [
        ("setpoint_c", 60.0, "set-point {60 °C}"),
        ("hysteresis_c", 2.0, "hysteresis {2 Δ°C}"),
        ("mode", "on_off", "control mode on/off"),
        ("integral_time_s", 780.0, "integral time {780 s}"),
        ("output_high", 75.0, "output high limit {75 %}"),
    ],
)
def test_a_parameter_is_said_in_the_trades_words(name, value, words):
    assert spoken_value(name, value) == words


def of_questions() -> Iterator[object]:
    """Answers as they open, on a rig and without; at both ends of every number (walls and loads, which take long, as they open only);
    and what is refused beyond."""
    for question in ALL:
        yield (question.title, question.notes, question.caution, question.fields(), question.rows())
        yield question.ask(plain(question.start(KNOWN)))
        start = plain(question.start(None))
        numbers = [f for f in question.fields() if f.sort == "number"]
        quick = question.topic not in (Topic.WALL, Topic.LOAD)
        ends = [{f.name: v} for f in numbers for v in (f.low, f.high)] if quick else []
        for change in ({}, *ends, *({f.name: f.high * 9 + 1} for f in numbers)):
            try:
                yield question.ask({**start, **change})
            except Refused as refused:
                yield refused


def of_setup() -> Iterator[object]:
    yield tuple(p.reason for p in propose(FACTS))
    for _, bad, near_miss in CASES:
        yield tuple(check_sheet(sheet(**bad), FACTS)) + tuple(check_sheet(sheet(**near_miss), FACTS))


@pytest.mark.slow
def test_every_answer_and_every_check_reads_in_both_units():
    """Findings of the wiring are held to it where they are made (``test_mistakes``)."""
    assert sum(map(check_readable, of_questions())) > 1000
    assert sum(map(check_readable, of_setup())) > 10


UNTYPED = re.compile(r"(?:\d|⟨⟩) ?°C")
"""A number or an interpolated value with degrees behind it, outside a quantity's braces."""


def literals(tree: ast.AST) -> Iterator[tuple[int, str]]:
    """Texts of a module but its docstrings, interpolated values as ⟨⟩."""
    passed = set()
    for node in ast.walk(tree):
        body = getattr(node, "body", None)
        for statement in body if isinstance(body, list) else ():
            if isinstance(statement, ast.Expr) and isinstance(statement.value, ast.Constant):
                passed.add(id(statement.value))
        if isinstance(node, ast.JoinedStr):
            passed.update(id(v) for v in node.values)
            yield node.lineno, "".join(str(v.value) if isinstance(v, ast.Constant) else "⟨⟩" for v in node.values)
    for node in ast.walk(tree):
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in passed:
            yield node.lineno, node.value


@pytest.mark.slow
def test_no_sentence_carries_degrees_outside_a_quantity():
    root = Path(rellux.__file__).parent
    found = []
    for path in root.rglob("*.py"):
        if "migrations" in path.parts:
            continue
        for line, text in literals(ast.parse(path.read_text())):
            bare = re.sub(r"\{[^{}]*\}", "", text)
            if UNTYPED.search(bare):
                found.append(f"{path.relative_to(root)}:{line}: {text[:90]}")
    assert not found, "\n".join(found)
