"""When the rows of a CSV log were taken."""

from datetime import UTC, datetime

import numpy as np
from numpy.typing import NDArray

from rellux.core.logs.guess import SPREADSHEET_EPOCH, UNIX_MS, UNIX_S
from rellux.core.logs.stamps import taken_apart
from rellux.core.logs.times import (
    CLOCK,
    COUNTS,
    DATED,
    DAY_S,
    HOUR_S,
    STAMP,
    Stamps,
    of_day,
    over_midnights,
    repeated_hour,
    seconds_of,
)
from rellux.server import arrow as pa

from .csv_file import Log
from .csv_table import numbers

Array = NDArray[np.float64]


def times(table: "pa.Table", log: Log) -> tuple[Array, datetime | None]:
    """Seconds from the first row that has a time, NaN where there is none, and when that was."""
    form = log.mapping.time_format
    if form in COUNTS:
        values = numbers(table, log, "time") * COUNTS[form]
        if form == "seconds" and len(values) and np.nanmax(values) > UNIX_S:  # counted from 1970 all the same
            values = values / 1000.0 if np.nanmax(values) > UNIX_MS else values
            form = "unix"
        first = _first(values)
        if form == "days":
            return values - first, datetime.fromtimestamp(first - SPREADSHEET_EPOCH * DAY_S, UTC).replace(
                tzinfo=None
            ).astimezone()
        return (values - first, datetime.fromtimestamp(first, UTC)) if form.startswith("unix") else (values, None)
    text = pa.compute.utf8_trim_whitespace(table.column(f"c{log.mapping.columns['time']}"))
    if form not in DATED:
        clock = over_midnights(_clock(text, form))
        return clock - _first(clock), None
    if "date" in log.mapping.columns:
        date = pa.compute.utf8_trim_whitespace(table.column(f"c{log.mapping.columns['date']}"))
        text = pa.compute.binary_join_element_wise(date, text, " ")
    plain = _plain_iso(text) if form == "iso" else None
    if plain is not None:
        since, zoned = _with_repeated_hour(log, plain, plain % DAY_S), False
    else:
        stamps = _stamps(text)
        since, zoned = seconds_of(stamps, form), bool(np.isfinite(stamps.zone_s).any())
        since = since if zoned else _with_repeated_hour(log, since, stamps.of_day_s)
    first = _first(since)
    if not np.isfinite(first):
        return since, None
    began = datetime.fromtimestamp(first, UTC)
    return since - first, began if zoned else began.replace(tzinfo=None).astimezone()


def _first(values: Array) -> float:
    known = np.isfinite(values)
    return float(values[int(np.argmax(known))]) if known.any() else np.nan


def _with_repeated_hour(log: Log, since: Array, of_day_s: Array) -> Array:
    """The times with the hour that a log without zones writes twice in autumn counted twice."""
    known = np.flatnonzero(np.isfinite(since))
    row = repeated_hour(since[known], of_day_s[known]) if len(known) > 1 else None
    if row is None:
        return since
    at = int(known[row])
    log.remarks.append(
        f"the clock goes back an hour at row {log.line(at)}: read as the end of summer time, no hour is lost"
    )
    return np.where(np.arange(len(since)) >= at, since + HOUR_S, since)


def _part(found: "pa.StructArray", name: str) -> Array:
    """One group of a pattern as numbers; NaN where it is missing or empty."""
    text = pa.compute.replace_substring(pa.compute.struct_field(found, name), ",", ".")
    text = pa.compute.if_else(pa.compute.equal(text, ""), None, text)
    return np.asarray(pa.compute.cast(text, pa.float64()).to_numpy(zero_copy_only=False), dtype=np.float64)


def _halves(found: "pa.StructArray") -> Array:
    half = pa.compute.utf8_lower(pa.compute.utf8_slice_codeunits(pa.compute.struct_field(found, "half"), 0, 1))
    shown = np.where(np.asarray(pa.compute.fill_null(pa.compute.equal(half, "p"), False)), 1.0, np.nan)
    return np.where(np.asarray(pa.compute.fill_null(pa.compute.equal(half, "a"), False)), 0.0, shown)


def _clock(text: "pa.ChunkedArray", form: str) -> Array:
    found = pa.compute.extract_regex(text.combine_chunks(), f"^{CLOCK.pattern}$")
    hours, minutes, seconds = (_part(found, name) for name in "hms")
    if form == "minsec":
        return hours * 60.0 + minutes
    return of_day(hours, minutes, np.nan_to_num(seconds), _halves(found))


def _plain_iso(text: "pa.ChunkedArray") -> Array | None:
    """Seconds since 1970 of a column that is ISO 8601 without zones throughout, ten times as fast; else ``None``."""
    try:
        micros = pa.compute.cast(pa.compute.cast(text, pa.timestamp("us")), pa.int64())
    except pa.ArrowInvalid:
        return None
    return np.asarray(micros.to_numpy(), dtype=np.float64) / 1e6


def _stamps(text: "pa.ChunkedArray") -> Stamps:
    """Every stamp taken apart by Arrow; a column with names of months cell by cell."""
    joined = text.combine_chunks()
    found = pa.compute.extract_regex(joined, f"^{STAMP.pattern}$")
    months = pa.compute.struct_field(found, "b")
    if not pa.compute.all(pa.compute.fill_null(pa.compute.match_substring_regex(months, r"^\d*$"), True)).as_py():
        return taken_apart([t or "" for t in joined.to_pylist()])
    clock = of_day(*(np.nan_to_num(_part(found, name)) for name in "hms"), _halves(found))
    zone = pa.compute.struct_field(found, "zone")
    zones = np.full(len(joined), np.nan)
    if pa.compute.any(pa.compute.fill_null(pa.compute.not_equal(zone, ""), False)).as_py():
        zones = taken_apart([t or "" for t in joined.to_pylist()]).zone_s
    return Stamps(*(_part(found, name) for name in "abc"), clock, zones)
