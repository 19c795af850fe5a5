"""Reading a whole CSV log as it was mapped: parsed by Arrow where it is clean, cell by cell where it is not.

What cannot be read is left out and listed with its line in the file; where that is more than a few rows the log is refused.
"""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from rellux.core.errors import refuse
from rellux.core.logs import mapping as mapped
from rellux.core.logs.mapping import Mapping
from rellux.core.logs.plausible import check_state, temperatures
from rellux.core.logs.times import FORMATS, check_span
from rellux.core.runs.series import Series, Timing, check_times, timing
from rellux.server import arrow as pa

from .csv_file import Log, opened, short
from .csv_table import check_cut_end, numbers, parsed
from .csv_times import times

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Imported:
    """The series, the columns beside it by their roles, when it began (if the file says), how it was really sampled, and what was
    left out or taken some way."""

    series: Series
    channels: dict[str, Array]
    started_at: datetime | None
    timing: Timing
    remarks: list[str]


def read_csv(
    path: Path, mapping: Mapping, above: int = 0, told: Callable[[float], None] = lambda share: None
) -> Imported:
    """Parse and check a whole file, whose rows are counted from the line after ``above``; ``told`` hears how much is done. Raises
    ``Refused`` naming column, row and content; nothing is kept then."""
    log = opened(path, mapping, above)
    told(0.1)
    table = parsed(log)
    told(0.5)
    time_s, started_at = times(table, log)
    columns = {r: numbers(table, log, r) for r in mapping.columns if r not in ("time", "date")}
    told(0.8)
    keep = np.isfinite(time_s)
    _judge_times(log, table, keep)
    check_cut_end(log, keep)
    for role in (r for r in columns if r in mapped.THERMAL):
        values = columns[role]
        columns[role], wrong = temperatures(values, mapping.unit, role)
        if len(wrong):
            log.leave_out("values that are no temperatures are missing", wrong, lambda r, v=values: f"{v[r]:g}")
    if "output" in columns:
        columns["output"] = mapped.percent(columns["output"], mapping, log.names[mapping.columns["output"]])
    for role in (r for r in columns if r in mapped.STATES):
        check_state(columns[role], role)
    if not keep.all():
        time_s, *rest = (c[keep] for c in (time_s, *columns.values()))
        columns = dict(zip(columns, rest, strict=True))
    rows = np.flatnonzero(keep)
    first = check_times(time_s, lambda i: log.line(int(rows[i])))
    again = rows[~first]
    if len(again):
        log.leave_out(
            "rows that repeat a time were left out", again, lambda r: f"{time_s[np.searchsorted(rows, r)]:g} s"
        )
    nothing = np.full(len(time_s), np.nan)
    kept = [time_s, *(columns.pop(r, nothing) for r in ("setpoint", "reading", "output", "switch"))]
    series = Series(*(np.ascontiguousarray(c if first.all() else c[first]) for c in kept))
    check_span(series.time_s)
    beside = {
        r: np.ascontiguousarray(c if first.all() else c[first]) for r, c in columns.items() if np.isfinite(c).any()
    }
    return Imported(series, beside, started_at, timing(series.time_s, len(again)), log.remarks)


def _judge_times(log: Log, table: "pa.Table", known: NDArray[np.bool_]) -> None:
    bad = np.flatnonzero(~known)
    if not len(bad):
        return
    column = table.column(f"c{log.mapping.columns['time']}")
    row = int(bad[0])
    held = column[row].as_py()
    if not mapped.tolerable(len(bad), len(known)):
        raise refuse(
            "time_format",
            f"row {log.line(row)} holds {short(str(held or ''))}, which cannot be read as {FORMATS[log.mapping.time_format]} "
            f"({len(bad)} such rows)",
            "another time format, or another column",
        )
    log.leave_out("rows without a readable time were left out", bad, lambda r: short(str(column[r].as_py() or "")))
