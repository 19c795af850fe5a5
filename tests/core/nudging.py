"""Constants found in the code and moved by a tenth either way (a whole number by one), so that a pin must notice."""

import ast
import importlib
import sys
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import fields, is_dataclass, replace
from math import isfinite
from pathlib import Path

Cell = tuple[int | str, ...]
Pin = Callable[[], bool]


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
    elif is_dataclass(value) and not isinstance(value, type):
        for field in fields(value):
            yield from cells(getattr(value, field.name), (*at, field.name))


def nudged(value: object, cell: Cell, times: float) -> object:
    if not cell:
        assert is_number(value)
        if isinstance(value, int):
            return value + (1 if times > 1 else -1)
        return value * times if value else times - 1.0  # type: ignore[operator]
    first, rest = cell[0], cell[1:]
    if isinstance(value, tuple):
        return tuple(nudged(v, rest, times) if i == first else v for i, v in enumerate(value))
    if isinstance(value, dict):
        return {k: nudged(v, rest, times) if k == first else v for k, v in value.items()}
    return replace(value, **{str(first): nudged(getattr(value, str(first)), rest, times)})  # type: ignore[type-var]


class Package:
    """The modules below a package whose names do not begin with one of ``passed``."""

    def __init__(self, name: str, passed: tuple[str, ...] = ()) -> None:
        self.name = name
        root = Path(importlib.import_module(name).__file__ or "").parent
        named = (
            (".".join(f.relative_to(root).with_suffix("").parts).removesuffix(".__init__"), f)
            for f in sorted(root.rglob("*.py"))
        )
        self.trees = {n: ast.parse(f.read_text()) for n, f in named if not n.startswith(passed)}
        self.imports = {
            module: {(a.name, n.module or "") for n in ast.walk(tree) if isinstance(n, ast.ImportFrom) for a in n.names}
            for module, tree in self.trees.items()
        }
        self.constants = self._constants()

    def _constants(self) -> dict[str, list[Cell]]:
        """Names in capitals with a number in them, by module."""
        found = {}
        for module, tree in self.trees.items():
            loaded = importlib.import_module(f"{self.name}.{module}")
            for node in tree.body:
                targets = (
                    node.targets
                    if isinstance(node, ast.Assign)
                    else [node.target]
                    if isinstance(node, ast.AnnAssign)
                    else []
                )
                names = (n for t in targets for n in ast.walk(t) if isinstance(n, ast.Name))
                for name in (n.id for n in names if n.id.isupper() and not n.id.startswith("_")):
                    where = list(cells(getattr(loaded, name)))
                    if where:
                        found[f"{module}.{name}"] = where
        return found

    @contextmanager
    def changed(self, constant: str, cell: Cell, times: float) -> Iterator[None]:
        """The constant nudged where it is defined and in every module that imported it."""
        module, name = constant.rsplit(".", 1)
        last = module.rsplit(".", 1)[-1]
        importers = (
            m for m, names in self.imports.items() if any(n == name and f.rsplit(".", 1)[-1] == last for n, f in names)
        )
        homes = [f"{self.name}.{home}" for home in (module, *importers)]
        loaded = [sys.modules[home] for home in homes if home in sys.modules]
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

    def unnoticed(self, constant: str, pin: Pin, up: bool = True) -> list[tuple[Cell, float]]:
        """Nudges that leave the pin true."""
        found = []
        for cell in self.constants[constant]:
            for times in (0.9, 1.1) if up else (0.9,):
                with self.changed(constant, cell, times):
                    if holds(pin):
                        found.append((cell, times))
        return found

    def bare_thresholds(self, plain: set[float]) -> list[str]:
        """Numbers in comparisons that have no name, ``plain`` ones apart."""
        functions = ((m, f) for m, tree in self.trees.items() for f in ast.walk(tree) if isinstance(f, ast.FunctionDef))
        compares = ((m, n) for m, f in functions for n in ast.walk(f) if isinstance(n, ast.Compare))
        return [
            f"{m}:{c.lineno} {ast.unparse(compare)}"
            for m, compare in compares
            for c in ast.walk(compare)
            if isinstance(c, ast.Constant) and is_number(c.value) and c.value not in plain
        ]


def holds(pin: Pin) -> bool:
    try:
        return bool(pin())
    except Exception:
        return False


def check_all_pinned(package: Package, pins: Mapping[str, Pin], exempt: Mapping[str, str]) -> None:
    """Every constant has a pin or a reason for none."""
    named = set(pins) | set(exempt)
    assert set(package.constants) <= named, f"without pin or reason: {sorted(set(package.constants) - named)}"
    assert named <= set(package.constants), f"no constants any more: {sorted(named - set(package.constants))}"
