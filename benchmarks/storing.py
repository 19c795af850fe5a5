"""Runs: a million rows taken in against pandas merely parsing them, windows against NumPy on a plain file."""

import os
import tracemalloc
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
import pandas as pd
from benchmarks.measure import best, report, timed

from rellux.core.logs.mapping import Mapping
from rellux.server.rigs.models import Rig
from rellux.server.runs import store
from rellux.server.runs.csv_read import read_csv
from rellux.server.runs.models import Run

ROWS = 1_000_000
INTERVAL_S = 0.5
POINTS = 2000
WINDOWS = ((1_000, 12.0), (5_000, 12.0), (20_000, 5.0), (60_000, 5.0), (300_000, 5.0), (ROWS, 5.0))
"""Rows looked at, and how many times NumPy's time it may take."""


def folder() -> Path:
    return Path(os.environ["RELLUX_DATA"])


def new_run(rows: int) -> Run:
    rig = Rig.objects.first()
    return Run.objects.create(rig=rig, name=f"{rows}", source="csv", status="finished", started_at=datetime.now(UTC))


def bring_in() -> Run:
    """A million rows checked and stored, against pandas merely parsing them, in turns."""
    path = folder() / "million.csv"
    t = np.arange(ROWS) * INTERVAL_S
    rng = np.random.default_rng(2)
    reading = np.round(60 + 3 * np.sin(t / 300) + rng.normal(0, 0.1, ROWS), 2)
    output = np.round(rng.uniform(0, 100, ROWS), 1)
    frame = pd.DataFrame({"time": t, "setpoint": np.full(ROWS, 60.0), "reading": reading, "output": output})
    frame.to_csv(path, index=False)
    mapping = Mapping(",", ".", True, "seconds", "C", {"time": 0, "setpoint": 1, "reading": 2, "output": 3})
    runs: list[Run] = []

    def take_in() -> None:
        imported = read_csv(path, mapping)
        run = new_run(ROWS)
        store.append(run, imported.series)
        runs.append(run)

    pairs = [(timed(lambda: pd.read_csv(path)), timed(take_in)) for _ in range(9)]
    parse, ours = (min(times) for times in zip(*pairs, strict=True))
    report("import of a million rows against pandas parsing", ours / parse, 2.5)
    tracemalloc.start()
    take_in()
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    print(
        f"     pandas {parse:.2f} s, Rellux {ours:.2f} s; peak memory {peak / frame.memory_usage().sum():.1f} × the table"
    )
    return runs[-1]


def windows(run: Run) -> None:
    """Windows of 2,000 points, narrow to whole, against NumPy mapping a plain file of the same columns and cutting it down."""
    columns = store.read(run).columns
    path = folder() / "plain.npy"
    np.save(path, np.stack(columns))
    for rows, bar in WINDOWS:
        start, end = 1000.0 * (rows < ROWS), rows * INTERVAL_S + 1000.0
        ours = best(lambda a=start, b=end: store.window(run, a, b, POINTS), 15)
        theirs = best(lambda a=start, b=end: plain_window(path, a, b), 15)
        report(f"window of {rows} rows against NumPy on a mapped file", ours / theirs, bar)


def plain_window(path: Path, start_s: float, end_s: float) -> list[np.ndarray]:
    table = np.load(path, mmap_mode="r")
    first, last = np.searchsorted(table[0], (start_s, np.nextafter(end_s, np.inf)))
    cut = np.array(table[:, first:last])
    starts = np.arange(0, cut.shape[1], max(1, -(-cut.shape[1] // POINTS)))
    both: tuple[Callable[..., np.ndarray], ...] = (np.fmin.reduceat, np.fmax.reduceat)
    return [cut[0][starts], *(low_or_high(c, starts) for c in cut[1:] for low_or_high in both)]
