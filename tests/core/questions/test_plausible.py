"""Every question with random inputs inside its own bounds: an answer without nonsense, or a refusal that names a field."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.form import Rows, fields_of, rows_of
from rellux.core.questions.registry import ALL
from rellux.core.units import Kind
from tests.examples import cases

NEVER_NEGATIVE = {
    Kind.POWER,
    Kind.TIME,
    Kind.RESISTANCE,
    Kind.CURRENT,
    Kind.ENERGY,
    Kind.AREA,
    Kind.MASS,
    Kind.FREQUENCY,
}
HOTTEST_C = 4000.0
"""Nothing here is hotter: refractories melt, and no sensor reads it."""


def value(field):
    if isinstance(field, Rows):
        return st.lists(inputs(field.fields), min_size=field.least, max_size=min(field.most, field.least + 3))
    if field.sort == "choice":
        return st.sampled_from([o.value for o in field.options])
    if field.sort == "flag":
        return st.booleans()
    if field.sort == "text":
        return st.text(max_size=8)
    low, high = float(field.low), float(field.high)
    near = st.floats(low, high)
    if low > 0:
        near |= st.floats(math.log(low), math.log(high)).map(lambda x: min(max(math.exp(x), low), high))
    return near | st.none() if field.optional else near


def inputs(fields):
    return st.fixed_dictionaries({}, optional={f.name: value(f) for f in fields})


@pytest.mark.slow
@pytest.mark.parametrize("question", ALL, ids=lambda q: q.key)
@settings(max_examples=cases(4))
@given(st.data())
def test_no_question_answers_nonsense(question, data):
    rows = rows_of(question.shape)
    given_ = data.draw(inputs((*fields_of(question.shape), *([rows] if rows else ()))))
    try:
        answer = question.ask(given_)
    except Refused as refused:
        assert all(p.field and p.reason for p in refused.problems)
        return
    assert "nan" not in answer.headline and "inf" not in answer.headline.split()
    for figure in answer.figures:
        assert math.isfinite(figure.value), figure.name
        assert figure.kind not in NEVER_NEGATIVE or figure.value >= -1e-9, (figure.name, figure.value)
        assert figure.kind is not Kind.TEMPERATURE or -273.15 <= figure.value <= HOTTEST_C, (figure.name, figure.value)
    for line in answer.curves.lines if answer.curves else ():
        assert all(math.isfinite(v) for v in (*line.x, *(y for y in line.y if y is not None))), line.name
