"""How many cases a property is tried on: a few in every run, many more in ``./rellux endure``."""

import os

MANY = 10


def cases(few: int) -> int:
    return few * MANY if os.environ.get("RELLUX_MANY_CASES") else few
