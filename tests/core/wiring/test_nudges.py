"""Every threshold and table cell of the wiring core, moved by a tenth either way (a whole number by one): a pin must notice.

The constants are found in the code, not listed by hand; one that decides nothing is exempt for a reason.
"""

import ast
import importlib
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from math import isfinite
from pathlib import Path

import pytest

import rellux.core.wiring
from tests.core.wiring.pins import EXEMPT, EXEMPT_UP, PINS

PACKAGE = "rellux.core.wiring"
ROOT = Path(rellux.core.wiring.__file__).parent
Cell = tuple[int | str, ...]


def modules() -> Iterator[tuple[str, ast.Module]]:
    for file in sorted(ROOT.rglob("*.py")):
        name = ".".join(file.relative_to(ROOT).with_suffix("").parts).removesuffix(".__init__")
        if not name.startswith("kinds"):  # what a generic part is rated for is a proposal, not a decision
            yield name, ast.parse(file.read_text())


def is_number(value: object) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool) and isfinite(value)


def cells(value: object, at: Cell = ()) -> Iterator[Cell]:
    """Where numbers stand in a constant."""
    if is_number(value):
        yield at
    elif isinstance(value, tuple):
        for i, item in enumerate(value):
            yield from cells(item, (*at, i))
    elif isinstance(value, dict):
        for key, item in value.items():
            yield from cells(item, (*at, key))


def constants() -> dict[str, list[Cell]]:
    """Names in capitals with a number in them, by module."""
    found = {}
    for module, tree in modules():
        loaded = importlib.import_module(f"{PACKAGE}.{module}")
        for node in tree.body:
            targets = (
                node.targets
                if isinstance(node, ast.Assign)
                else [node.target]
                if isinstance(node, ast.AnnAssign)
                else []
            )
            names = [
                n
                for t in targets
                for n in ast.walk(t)
                if isinstance(n, ast.Name) and n.id.isupper() and not n.id.startswith("_")
            ]
            for name in names:
                where = list(cells(getattr(loaded, name.id)))
                if where:
                    found[f"{module}.{name.id}"] = where
    return found


CONSTANTS = constants()
IMPORTS = {
    module: {(a.name, n.module or "") for n in ast.walk(tree) if isinstance(n, ast.ImportFrom) for a in n.names}
    for module, tree in modules()
}


def nudged(value: object, cell: Cell, times: float) -> object:
    if not cell:
        assert is_number(value)
        return value + (1 if times > 1 else -1) if isinstance(value, int) else value * times  # type: ignore[operator]
    first, rest = cell[0], cell[1:]
    if isinstance(value, tuple):
        return tuple(nudged(v, rest, times) if i == first else v for i, v in enumerate(value))
    return {k: nudged(v, rest, times) if k == first else v for k, v in value.items()}  # type: ignore[attr-defined]


@contextmanager
def changed(constant: str, cell: Cell, times: float) -> Iterator[None]:
    """The constant nudged where it is defined and in every module that imported it."""
    module, name = constant.rsplit(".", 1)
    last = module.rsplit(".", 1)[-1]
    homes = [
        module,
        *(m for m, names in IMPORTS.items() if any(n == name and f.rsplit(".", 1)[-1] == last for n, f in names)),
    ]
    loaded = [sys.modules[f"{PACKAGE}.{home}"] for home in homes if f"{PACKAGE}.{home}" in sys.modules]
    before = getattr(loaded[0], name)
    try:
        for home in loaded:
            if hasattr(home, name):
                setattr(home, name, nudged(before, cell, times))
        yield
    finally:
        for home in loaded:
            if hasattr(home, name):
                setattr(home, name, before)


def notices(constant: str) -> bool:
    """Whether the pin is false now."""
    try:
        return not PINS[constant]()
    except Exception:
        return True


def test_every_constant_is_pinned_or_exempt_for_a_reason():
    assert set(CONSTANTS) == (set(CONSTANTS) & set(PINS)) | (set(CONSTANTS) & set(EXEMPT))
    assert set(PINS) | set(EXEMPT) <= set(CONSTANTS), "a pin of something that is no constant any more"


@pytest.mark.parametrize("constant", PINS)
def test_a_pin_holds_and_notices_every_nudge(constant):
    assert PINS[constant](), "the pin itself does not hold"
    if constant in EXEMPT:
        return
    unnoticed = []
    for cell in CONSTANTS[constant]:
        for times in (0.9, 1.1):
            if times > 1 and constant in EXEMPT_UP:
                continue
            with changed(constant, cell, times):
                if not notices(constant):
                    unnoticed.append((cell, times))
    assert not unnoticed


def test_no_threshold_stands_in_the_code_without_a_name():
    """Numbers that something is compared with have names; 0, 1 and 2, and counts of poles and lives, need none."""
    plain = {-1, 0, 1, 2, 3, 1e9, 10_000.0}  # 3: lives; 1e9 and 10 kΩ: what a part without a rating is taken for
    found = []
    for module, tree in modules():
        for compare in (
            n
            for f in ast.walk(tree)
            if isinstance(f, ast.FunctionDef)
            for n in ast.walk(f)
            if isinstance(n, ast.Compare)
        ):
            found += [
                f"{module}:{c.lineno} {ast.unparse(compare)}"
                for c in ast.walk(compare)
                if isinstance(c, ast.Constant) and is_number(c.value) and c.value not in plain
            ]
    assert not found
