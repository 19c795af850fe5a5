"""The demo workshop in a test's database: made once a run by simulating it, then copied row by row."""

import os
import sqlite3
from pathlib import Path

from rellux.server.demo.workshop import load_demo as simulate_demo
from rellux.server.rigs.models import Rig
from rellux.server.rigs.overview import facts_of

from .kept_rows import KeptRows, Rows, add, rows

_demo = KeptRows()


def load_demo() -> list[Rig]:
    """As the application's own, in a database without rigs."""
    _demo(_make)
    return list(Rig.objects.order_by("pk"))


def _make() -> None:
    made = _rows_made_before()
    if made is None:
        simulate_demo()
    else:
        add(made)
    for rig in Rig.objects.all():
        facts_of(rig)


def _rows_made_before() -> Rows | None:
    """Of the workshop that ``./rellux test`` makes for all workers while the code is checked."""
    folder = os.environ.get("RELLUX_MADE")
    if not folder:
        return None
    file = Path(folder) / "demo data" / "rellux.sqlite3"
    # nothing may come to stand beside the file while others copy the folder
    with sqlite3.connect(f"{file.as_uri()}?immutable=1", uri=True) as made:
        return {
            name: [row for row in made.execute(f'SELECT * FROM "{name}"') if row[0] not in {r[0] for r in there}]
            for name, there in rows().items()
        }
