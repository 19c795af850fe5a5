"""Functions compiled at their first call: they do what is written, and machine code of before is not taken for today's."""

from types import FunctionType

import numpy as np

from rellux.core.compiled import Compiled
from rellux.core.control.alarms import kernel
from rellux.core.plant import kernel as plant


def made(source, **names):
    scope = dict(names)
    exec(source, scope)
    found = next(v for k, v in scope.items() if isinstance(v, FunctionType))
    return Compiled(found, {})


def test_a_change_in_what_is_called_makes_another_version():
    inner = "def inner(x):\n    return x + A"
    outer = "def outer(x):\n    return inner(x) * 2.0"
    first = made(outer, inner=made(inner, A=1.0))
    assert first.version() == made(outer, inner=made(inner, A=1.0)).version()
    assert first.version() != made(outer, inner=made(inner, A=1.5)).version()  # a constant of the one that is called
    assert first.version() != made(outer, inner=made(inner.replace("+", "-"), A=1.0)).version()
    assert first.plain(2.0) == 6.0


def test_the_simulation_is_of_the_alarms_it_was_compiled_with(monkeypatch):
    before = plant.run.version()
    monkeypatch.setattr(kernel, "FULL", 90.0)
    monkeypatch.setitem(kernel.look._written.__globals__, "FULL", 90.0)
    assert plant.run.version() != before


def test_compiled_and_as_written_are_the_same():
    row, seen = np.zeros((1, kernel.SETTINGS_SIZE)), np.zeros(kernel.SEEN_SIZE)
    states = np.zeros((2, 1, kernel.STATE_SIZE))
    row[0, kernel.VALUE], states[:, 0, kernel.TIMER] = 5.0, -1.0
    for reading in (1.0, 6.0, 4.0, np.nan, 7.0):
        seen[kernel.READING], seen[kernel.STEP_S] = reading, 1.0
        kernel.look(row, states[0], seen)
        kernel.look.plain(row, states[1], seen)
        assert np.array_equal(states[0], states[1], equal_nan=True)
