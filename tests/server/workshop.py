"""The demo workshop in a test's database: made once a run by simulating it, then copied row by row."""

import os
import sqlite3
from pathlib import Path

from django.db import connection

from rellux.server.demo.workshop import load_demo as simulate_demo
from rellux.server.rigs.models import Rig
from rellux.server.rigs.overview import forget

NOT_OURS = ("django_", "auth_")
"""Tables that every database fills by itself, under numbers of its own."""
Row = tuple[object, ...]
_made: list[tuple[str, int, list[Row]]] = []


def _rows() -> dict[str, list[Row]]:
    with connection.cursor() as cursor:
        names = connection.introspection.table_names(cursor)
        return {name: cursor.execute(f'SELECT * FROM "{name}"').fetchall() for name in names}


def _rows_made_before() -> dict[str, list[Row]] | None:
    """Of the workshop that ``./rellux test`` makes for all workers while the code is checked."""
    folder = os.environ.get("RELLUX_MADE")
    if not folder:
        return None
    file = Path(folder) / "demo data" / "rellux.sqlite3"
    own = [name for name in _rows() if not name.startswith(NOT_OURS)]
    # nothing may come to stand beside the file while others copy the folder
    with sqlite3.connect(f"{file.as_uri()}?immutable=1", uri=True) as made:
        return {name: made.execute(f'SELECT * FROM "{name}"').fetchall() for name in own}


def load_demo() -> list[Rig]:
    """As the application's own, in a database without rigs. What was found of the same rigs in another test is forgotten."""
    forget()
    if _made:
        _insert()
        return list(Rig.objects.order_by("pk"))
    before = {name: {row[0] for row in rows} for name, rows in _rows().items()}
    after = _rows_made_before()
    if after is None:
        simulate_demo()
    for name, rows in (after or _rows()).items():
        if new := [r for r in rows if r[0] not in before[name]]:
            _made.append((name, len(new[0]), new))
    if after is not None:
        _insert()
    return list(Rig.objects.order_by("pk"))


def _insert() -> None:
    with connection.cursor() as cursor:
        for name, width, rows in _made:
            cursor.executemany(f'INSERT INTO "{name}" VALUES ({", ".join(["%s"] * width)})', rows)
