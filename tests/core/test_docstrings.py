"""Worked values in docstrings hold, and what is public says what it is."""

import ast
import doctest
import importlib
import re
from pathlib import Path

import pytest

import rellux.core

ROOT = Path(rellux.core.__file__).parent
FILES = sorted(p for p in ROOT.rglob("*.py") if p.name != "__init__.py")
WITH_EXAMPLES = [p for p in FILES if ">>> " in p.read_text()]


def name_of(path: Path) -> str:
    return ".".join(("rellux.core", *path.relative_to(ROOT).with_suffix("").parts))


@pytest.mark.parametrize("path", WITH_EXAMPLES, ids=name_of)
def test_worked_values_hold(path):
    found = doctest.testmod(importlib.import_module(name_of(path)), optionflags=doctest.ELLIPSIS)
    assert found.attempted and not found.failed


def test_there_are_worked_values_where_print_has_them():
    assert len(WITH_EXAMPLES) >= 14


@pytest.mark.slow
def test_everything_public_has_a_docstring():
    bare = []
    for path in FILES:
        tree = ast.parse(path.read_text())
        bare += [] if ast.get_docstring(tree) else [f"{name_of(path)}: the module"]
        for node in tree.body:
            if (
                isinstance(node, ast.FunctionDef | ast.ClassDef)
                and not node.name.startswith("_")
                and not ast.get_docstring(node)
            ):
                length = (node.end_lineno or 0) - node.lineno
                if length > 4:  # what fits in its own line of code needs no second one
                    bare.append(f"{name_of(path)}.{node.name}")
    assert not bare, "\n".join(bare)


UNIT_IN_NAME = re.compile(
    r"(_|^)(c|s|h|w|kw|v|kv|mv|a|va|g|kg|l|m|mm|mm2|m2|m3|k|j|n|ms|hz|pa|hpa|ohms?|kwh|a2s|percent|days?|years?|hours|times|rad|deg"
    r"|share|duty|ratio|bits|celsius|volts|amps|watts|seconds|power|theta|per_\w+|\w+_per_\w+)$"
)
"""A number whose name ends so says its unit; the rest of them say it in the docstring."""
COUNTED = {
    "i",
    "n",
    "x",
    "y",
    "z",
    "p",
    "w",
    "many",
    "rows",
    "row",
    "count",
    "counts",
    "points",
    "value",
    "values",
    "together",
    "least_points",
}
COUNTED |= {
    "number",
    "gain",
    "ms",
    "weight",
    "correlation",
    "emissivity",
    "angle",
    "factor",
    "level",
    "at",
    "u",
    "seen",
    "degrees_of_freedom",
}
COUNTED |= {"step", "order", "cores", "poles", "decimals", "digits", "places", "index", "dimension"}
UNIT_IN_WORDS = re.compile(
    r"°C|°/|Ω|%|\b(s|A|V|mV|µV|W|kW|kWh|J|m|mm|m²|mm²|K|Hz|h|kg|Pa|hPa|rad|Ms|ln)\b|shapes?\b|\b(seconds?|minutes?|hours?|days?|years?|degrees?"
    r"|shares?|ratio|times|how many|number|counts?|percent|multiples?|rows?|order)\b",
    re.IGNORECASE,
)
NUMBER = re.compile(r"float|(ND)?Array\b")


def public_functions():
    for path in FILES:
        for node in ast.parse(path.read_text()).body:
            if isinstance(node, ast.FunctionDef) and not node.name.startswith("_") and ast.get_docstring(node):
                yield f"{name_of(path)}.{node.name}", node, ast.get_docstring(node)


@pytest.mark.slow
def test_every_public_number_says_its_unit():
    unsaid = []
    for name, node, words in public_functions():
        numbers = [
            a.arg
            for a in (*node.args.args, *node.args.kwonlyargs)
            if a.annotation and NUMBER.match(ast.unparse(a.annotation))
        ]
        bare = [n for n in numbers if n not in COUNTED and not UNIT_IN_NAME.search(n)]
        returned = node.returns and NUMBER.match(ast.unparse(node.returns)) and not UNIT_IN_NAME.search(node.name)
        if (bare or returned) and not UNIT_IN_WORDS.search(words):
            unsaid.append(f"{name} {bare}")
    assert not unsaid, "\n".join(unsaid)


@pytest.mark.slow
def test_what_refuses_says_so():
    silent = []
    for name, node, words in public_functions():
        raised = [n.exc for n in ast.walk(node) if isinstance(n, ast.Raise) and isinstance(n.exc, ast.Call)]
        if any(getattr(e.func, "id", "") in ("refuse", "Refused") for e in raised) and "Refused" not in words:
            silent.append(name)
    assert not silent, "\n".join(silent)
