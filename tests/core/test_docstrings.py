"""Worked values in docstrings hold, and what is public says what it is."""

import ast
import doctest
import importlib
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
