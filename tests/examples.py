"""How many cases are tried: a few in every run, many more in ``./rellux endure``."""

import os
from collections.abc import Iterable
from typing import TypeVar

T = TypeVar("T")
MANY = 10
IS_LONG = bool(os.environ.get("RELLUX_MANY_CASES"))


def cases(few: int) -> int:
    """How many a property is tried on."""
    return few * MANY if IS_LONG else few


def some(of: Iterable[T], few: int) -> list[T]:
    """Of what a test is tried on one by one: a few from all over it, or all."""
    found = list(of)
    return found if IS_LONG else found[:: max(len(found) // few, 1)][:few]
