"""What many tests begin with is made once; its rows are put back for the next of them, and what was worked out of them is known."""

import sys
from collections import OrderedDict
from collections.abc import Callable, Iterable, Iterator
from typing import Any

from django.db import connection

from rellux.server.answers.once import Remembered

Rows = dict[str, list[tuple[Any, ...]]]
NOT_OURS = ("django_", "auth_", "sqlite_", "answers_")
"""Tables that every database fills by itself, under numbers of its own; what was worked out is no row of the workshop."""


class KeptRows:
    """Of one thing. Where something else is there already than the first time, it is made anew."""

    def __init__(self) -> None:
        self._answer: Any = None
        self._before: Rows = {}
        self._after: Rows = {}
        self._known: dict[Remembered, dict[Any, Any]] = {}

    def __call__(self, make: Callable[[], Any]) -> Any:
        """What ``make`` answers, with the rows it adds, changes and removes."""
        before = rows()
        if self._after and before == self._before:
            clear(self._after)
            add(self._after)
            for function in _remembered():
                function._kept = OrderedDict(self._known.get(function, {}))
            return self._answer
        for function in _remembered():
            function.cache_clear()  # of the same rig in another test
        answer = make()
        after = rows()
        if not self._after:
            self._before, self._answer = before, answer
            self._after = {table: found for table, found in after.items() if found != before[table]}
            self._known = {function: dict(function._kept) for function in _remembered()}
        return answer


def _remembered() -> Iterator[Remembered]:
    """Every function of the server that keeps its answers."""
    for name, module in list(sys.modules.items()):
        if name.startswith("rellux.server"):
            yield from (found for found in vars(module).values() if isinstance(found, Remembered))


def rows() -> Rows:
    """Every row of the workshop, by table."""
    with connection.cursor() as cursor:
        ours = [name for name in connection.introspection.table_names(cursor) if not name.startswith(NOT_OURS)]
        return {table: cursor.execute(f'SELECT * FROM "{table}" ORDER BY rowid').fetchall() for table in ours}


def clear(tables: Iterable[str]) -> None:
    """Of all their rows."""
    with connection.constraint_checks_disabled(), connection.cursor() as cursor:
        for table in tables:
            cursor.execute(f'DELETE FROM "{table}"')


def add(added: Rows) -> None:
    """Beside those that are there."""
    with connection.constraint_checks_disabled(), connection.cursor() as cursor:
        for table, new in added.items():
            if new:
                cursor.executemany(f'INSERT INTO "{table}" VALUES ({", ".join(["%s"] * len(new[0]))})', new)
