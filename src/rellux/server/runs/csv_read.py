"""Reading a whole CSV log as it was mapped: parsed by Arrow where it is clean, cell by cell where it is not.

What cannot be read is left out and listed with its line in the file; where that is more than a few rows the log is refused.
"""

import io
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime
from functools import cached_property
from pathlib import Path
from typing import BinaryIO

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.csv
from numpy.typing import NDArray

from rellux.core.errors import Refused, refuse
from rellux.core.logs import mapping as mapped
from rellux.core.logs.dialect import divide, is_remark, table
from rellux.core.logs.guess import SAMPLE_BYTES
from rellux.core.logs.mapping import Mapping
from rellux.core.logs.stamps import taken_apart
from rellux.core.logs.text import decode, encoding_of, lines_of
from rellux.core.logs.times import (
    CLOCK,
    COUNTED,
    DATED,
    HOUR_S,
    STAMP,
    Stamps,
    check_span,
    of_day,
    over_midnights,
    repeated_hour,
    seconds_of,
)
from rellux.core.logs.values import number, on_off
from rellux.core.messages import span
from rellux.core.runs.series import Series, Timing, check_times, timing

Array = NDArray[np.float64]
Rows = NDArray[np.int64]

LISTED = 8
"""Rows named in one remark; of more the count is given."""
TAIL_BYTES = 4096
_NUMBERS = {"unix": 1.0, "unix_ms": 1e-3, **COUNTED}


@dataclass(frozen=True)
class Imported:
    """The series, when it began (if the file says), how it was really sampled, and what was left out or taken some way."""

    series: Series
    started_at: datetime | None
    timing: Timing
    remarks: list[str]


@dataclass
class Log:
    """A file and how it is mapped, with the rows that could not be read as they are found."""

    path: Path
    mapping: Mapping
    width: int
    encoding: str
    clean: bool
    quoted: bool
    names: list[str]
    remarks: list[str] = field(default_factory=list)

    def open(self) -> BinaryIO:
        """The file as UTF-8 from its first row on."""
        file = self.path.open("rb")
        if self.clean and self.mapping.delimiter != " ":
            for _ in range(self.mapping.before):
                file.readline()
            if not self.mapping.before and file.read(3) != b"\xef\xbb\xbf":
                file.seek(0)
            return file
        lines = lines_of(file.read().decode(self.encoding, "replace"))[self.mapping.before :]
        file.close()
        if self.mapping.delimiter == " ":
            lines = [" ".join(line.split()) for line in lines]
        return io.BytesIO("\n".join(lines).encode())

    @property
    def filled(self) -> int:
        """Lines that hold something, from the first row on."""
        with self.open() as file:
            return sum(1 for line in file if line.strip(b"\r\n"))

    @cached_property
    def lines(self) -> tuple[Rows, list[tuple[int, str]]]:
        """For every row of the table its line in the file, and the lines that are no rows, with their text."""
        kept, odd = [], []
        with self.open() as file:
            for at, raw in enumerate(file, self.mapping.before + 1):
                line = raw.decode("utf-8", "replace").rstrip("\r\n")
                if line:
                    fits = len(divide(line, self.mapping.delimiter)) == self.width
                    kept.append(at) if fits else odd.append((at, line))
        return np.array(kept, dtype=np.int64), odd

    def line(self, row: int) -> int:
        """The line in the file of a row of the table."""
        kept = self.lines[0]
        return int(kept[row]) if row < len(kept) else row + self.mapping.before + 1

    def leave_out(self, what: str, rows: Rows, shown: Callable[[int], str]) -> None:
        named = ", ".join(f"{self.line(int(r))} ({shown(int(r))})" for r in rows[:LISTED])
        more = f" and {len(rows) - LISTED} more" if len(rows) > LISTED else ""
        self.remarks.append(f"{len(rows)} {what}: row {named}{more}")


def read_csv(path: Path, mapping: Mapping) -> Imported:
    """Parse and check a whole file. Raises ``Refused`` naming column, row and content; nothing is kept then."""
    log = _opened(path, mapping)
    table = _parsed(log)
    time_s, started_at = _times(table, log)
    columns = {r: _numbers(table, log, r) for r in ("setpoint", "reading", "output", "switch") if r in mapping.columns}
    keep = np.isfinite(time_s)
    _judge_times(log, table, keep)
    _check_cut_end(log, keep)
    for role in ("reading", "setpoint"):
        if role in columns:
            columns[role] = _temperatures(log, columns[role], role)
    if "output" in columns:
        columns["output"] = mapped.percent(columns["output"], mapping, log.names[mapping.columns["output"]])
    if "switch" in columns:
        _check_switch(columns["switch"])
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
    kept = [time_s, *(columns.get(r, nothing) for r in ("setpoint", "reading", "output", "switch"))]
    series = Series(*(np.ascontiguousarray(c if first.all() else c[first]) for c in kept))
    check_span(series.time_s)
    return Imported(series, started_at, timing(series.time_s, len(again)), log.remarks)


def _opened(path: Path, mapping: Mapping) -> Log:
    with path.open("rb") as file:
        sample = file.read(SAMPLE_BYTES)
        encoding, clean, quoted = _looked_through(sample, file)
    lines = lines_of(decode(sample))
    mapped.check_writing(mapping)
    found = table(
        lines[:-1] if len(sample) >= SAMPLE_BYTES else lines, mapping.delimiter, mapping.decimal, mapping.skip
    )
    mapped.check_columns(mapping, found.width)
    heading = divide(lines[mapping.skip], mapping.delimiter) if mapping.header and mapping.skip < len(lines) else []
    names = heading + [""] * (found.width - len(heading))
    return Log(path, mapping, found.width, encoding, clean, quoted, names)


def _looked_through(block: bytes, file: BinaryIO) -> tuple[str, bool, bool]:
    """The encoding of the whole file, whether it is UTF-8 without a fault, and whether a quotation mark stands in it."""
    encoding = encoding_of(block)
    rest, clean, quoted = b"", encoding == "utf-8-sig", False
    while block:
        quoted = quoted or b'"' in block
        if clean:
            try:
                (rest + block).decode("utf-8-sig")
                rest = b""
            except UnicodeDecodeError as error:
                if error.start < len(rest) + len(block) - 4:
                    encoding, clean = "cp1252", False
                rest = (rest + block)[error.start :]
        block = file.read(1 << 20)
    return encoding, clean and not rest, quoted


def _parsed(log: Log) -> pa.Table:
    mapping = log.mapping
    used = {f"c{i}": pa.float64() for i in mapping.columns.values()}
    for role in ("time", "date"):
        if role in mapping.columns and not (role == "time" and mapping.time_format in _NUMBERS):
            used[f"c{mapping.columns[role]}"] = pa.string()
    odd = 0

    def count(_row: pyarrow.csv.InvalidRow) -> str:
        nonlocal odd
        odd += 1
        return "skip"

    try:
        table = _arrow(log, used, count)
    except (pa.ArrowInvalid, pa.ArrowKeyError):
        odd = 0
        try:
            table = _arrow(log, dict.fromkeys(used, pa.string()), count)
        except pa.ArrowInvalid as error:
            raise _never_closed(log) from error
    if log.quoted and table.num_rows + odd < log.filled:
        raise _never_closed(log)
    if odd:
        _judge_odd(log, table.num_rows)
    if not table.num_rows:
        raise refuse("file", "there are no rows in it", "a heading and at least one row")
    return table


def _never_closed(log: Log) -> Refused:
    with log.open() as file:
        at = next((i for i, line in enumerate(file, log.mapping.before + 1) if line.count(b'"') % 2), 0)
    where = f"in row {at} " if at else ""
    return refuse("file", f"a quotation mark {where}is not closed on its line", "no quotation marks, or two of them")


def _arrow(log: Log, types: dict[str, pa.DataType], odd: Callable[[pyarrow.csv.InvalidRow], str]) -> pa.Table:
    mapping = log.mapping
    text = pa.string() in types.values()
    with log.open() as file:
        return pyarrow.csv.read_csv(
            file,
            read_options=pyarrow.csv.ReadOptions(column_names=[f"c{i}" for i in range(log.width)], block_size=1 << 20),
            parse_options=pyarrow.csv.ParseOptions(
                delimiter=mapping.delimiter, ignore_empty_lines=True, invalid_row_handler=odd
            ),
            convert_options=pyarrow.csv.ConvertOptions(
                include_columns=list(types),
                column_types=types,
                decimal_point=mapping.decimal if mapping.decimal != mapping.delimiter else ".",
                null_values=["", "NaN", "nan", "-", "--", "null", "OPEN", "----"],
                strings_can_be_null=text,
            ),
        )


def _judge_odd(log: Log, rows: int) -> None:
    """Lines with another number of columns: remarks and a cut last line are no fault of the log, many others are."""
    odd = log.lines[1]
    remarks = [at for at, line in odd if is_remark(line, log.mapping.delimiter)]
    wrong = [(at, line) for at, line in odd if not is_remark(line, log.mapping.delimiter)]
    if remarks:
        log.remarks.append(
            f"{len(remarks)} lines of remarks were left out: row {', '.join(map(str, remarks[:LISTED]))}"
        )
    if not wrong:
        return
    if not mapped.tolerable(len(wrong), rows):
        at, line = wrong[0]
        raise refuse(
            "file",
            f"row {at} has {len(divide(line, log.mapping.delimiter))} columns where the others have {log.width} "
            f"({len(wrong)} such rows)",
            "the same number of columns in every row; perhaps another delimiter",
        )
    named = ", ".join(f"{at} ({_short(line)})" for at, line in wrong[:LISTED])
    log.remarks.append(f"{len(wrong)} rows with another number of columns were left out: row {named}")


def _short(text: str) -> str:
    """What a cell or line holds, for a remark: never with braces, which would be a quantity."""
    return repr(text.strip()[:24]).replace("{", "(").replace("}", ")")


def _judge_times(log: Log, table: pa.Table, known: NDArray[np.bool_]) -> None:
    bad = np.flatnonzero(~known)
    if not len(bad):
        return
    column = table.column(f"c{log.mapping.columns['time']}")
    row = int(bad[0])
    held = column[row].as_py()
    if not mapped.tolerable(len(bad), len(known)):
        raise refuse(
            "time_format",
            f"row {log.line(row)} holds {_short(str(held or ''))}, which cannot be read as {log.mapping.time_format} "
            f"({len(bad)} such rows)",
            "another time format, or another column",
        )
    log.leave_out("rows without a readable time were left out", bad, lambda r: _short(str(column[r].as_py() or "")))


def _check_cut_end(log: Log, keep: NDArray[np.bool_]) -> None:
    """A last line that does not end is left out where its last cell is shorter than those above it: it may be half a number."""
    with log.path.open("rb") as file:
        file.seek(0, io.SEEK_END)
        file.seek(max(0, file.tell() - TAIL_BYTES))
        tail = file.read()
    text = tail.decode(log.encoding, "ignore")
    if text.endswith(("\n", "\r")):
        return
    ends = [divide(line, log.mapping.delimiter)[-1:] for line in lines_of(text)[1:] if line.strip()]
    if len(ends) < 4 or not all(ends):
        return
    *above, last = (len(e[0]) for e in ends)
    complete = len(divide(lines_of(text)[-1], log.mapping.delimiter)) == log.width
    if complete and last < min(above[-20:]) and keep[-1]:
        keep[-1] = False
        log.remarks.append(
            f"1 row was left out: row {log.line(len(keep) - 1)} is the last, has no end and may be cut off"
        )


def _numbers(table: pa.Table, log: Log, role: str) -> Array:
    """A column as numbers; what is none is NaN and listed. Raises ``Refused`` where that is more than a few."""
    column = table.column(f"c{log.mapping.columns[role]}")
    if not pa.types.is_string(column.type):
        return np.asarray(column.to_numpy(), dtype=np.float64)
    coded = column.combine_chunks().dictionary_encode()
    words = [w or "" for w in coded.dictionary.to_pylist()]
    values = np.full(len(words) + 1, np.nan)
    wrong = np.zeros(len(words) + 1, dtype=bool)
    foreign = {"C", "F", "K"} - {log.mapping.unit}
    for i, word in enumerate(words):
        found = number(word, log.mapping.decimal)
        state = on_off(word) if found is None and role in ("switch", "output") else None
        if found is not None and role in ("reading", "setpoint") and found.unit in foreign:
            raise refuse("unit", f"{_short(word)} is in another unit", mapped.TEMPERATURES[found.unit])
        if state is not None:
            values[i] = state if role == "switch" else state * mapped.full_on(log.mapping.output_scale)
        elif found is not None:
            values[i] = found.value
        else:
            wrong[i] = True
    index = np.asarray(coded.indices.fill_null(len(words)).to_numpy(zero_copy_only=False))
    bad = np.flatnonzero(wrong[index])
    if len(bad):
        row = int(bad[0])
        if not mapped.tolerable(len(bad), len(index)):
            raise refuse(
                f"columns.{role}",
                f"row {log.line(row)} holds {_short(column[row].as_py())}, which is not a number ({len(bad)} such rows)",
                "a column of numbers; perhaps another column, or another decimal mark",
            )
        log.leave_out(
            f"cells that hold no number are missing from the {mapped.ROLES[role]}",
            bad,
            lambda r: _short(column[r].as_py()),
        )
    return values[index]


def _temperatures(log: Log, values: Array, role: str) -> Array:
    shown = mapped.celsius(values, log.mapping.unit)
    low, high = float(np.fmin.reduce(shown)), float(np.fmax.reduce(shown))
    if np.isnan(low):
        if role == "setpoint":
            return shown
        raise refuse("columns.reading", "this column holds no number at all", "the column with the temperatures")
    wrong = np.flatnonzero((shown < mapped.READINGS_C[0]) | (shown > mapped.READINGS_C[1]))
    if not len(wrong):
        return shown
    if not mapped.tolerable(len(wrong), int(np.isfinite(shown).sum())):
        raise refuse(
            f"columns.{role}",
            f"it holds {span(low, high, '°C')}: these are not temperatures",
            "{-273.15…2500 °C}; perhaps another column, unit or decimal mark",
        )
    log.leave_out("values that are no temperatures are missing", wrong, lambda r: f"{values[r]:g}")
    shown = shown.copy()
    shown[wrong] = np.nan
    return shown


def _check_switch(values: Array) -> None:
    low, high = float(np.fmin.reduce(values)), float(np.fmax.reduce(values))
    if low < 0 or high > 1:
        raise refuse(
            "columns.switch",
            f"it holds {span(low, high)}",
            "0 or 1, or words for on and off; a percentage is the output",
        )


def _times(table: pa.Table, log: Log) -> tuple[Array, datetime | None]:
    """Seconds from the first row that has a time, NaN where there is none, and when that was."""
    form = log.mapping.time_format
    if form in _NUMBERS:
        values = _numbers(table, log, "time") * _NUMBERS[form]
        if form == "seconds" and len(values) and np.nanmax(values) > 1e8:  # counted from 1970 all the same
            values = values / 1000.0 if np.nanmax(values) > 1e11 else values
            form = "unix"
        first = _first(values)
        if form == "days":
            return values - first, datetime.fromtimestamp(first - 25_569 * 86_400.0, UTC).replace(
                tzinfo=None
            ).astimezone()
        return (values - first, datetime.fromtimestamp(first, UTC)) if form.startswith("unix") else (values, None)
    text = pc.utf8_trim_whitespace(table.column(f"c{log.mapping.columns['time']}"))
    if form not in DATED:
        clock = over_midnights(_clock(text, form))
        return clock - _first(clock), None
    if "date" in log.mapping.columns:
        date = pc.utf8_trim_whitespace(table.column(f"c{log.mapping.columns['date']}"))
        text = pc.binary_join_element_wise(date, text, " ")
    stamps = _stamps(text)
    since = seconds_of(stamps, form)
    since = _with_repeated_hour(log, since, stamps)
    first = _first(since)
    if not np.isfinite(first):
        return since, None
    zoned = np.isfinite(stamps.zone_s).any()
    began = datetime.fromtimestamp(first, UTC)
    return since - first, began if zoned else began.replace(tzinfo=None).astimezone()


def _first(values: Array) -> float:
    known = np.isfinite(values)
    return float(values[int(np.argmax(known))]) if known.any() else np.nan


def _with_repeated_hour(log: Log, since: Array, stamps: Stamps) -> Array:
    known = np.flatnonzero(np.isfinite(since))
    if np.isfinite(stamps.zone_s).any() or len(known) < 2:
        return since
    row = repeated_hour(since[known], stamps.of_day_s[known])
    if row is None:
        return since
    at = int(known[row])
    log.remarks.append(
        f"the clock goes back an hour at row {log.line(at)}: read as the end of summer time, no hour is lost"
    )
    return np.where(np.arange(len(since)) >= at, since + HOUR_S, since)


def _part(found: pa.StructArray, name: str) -> Array:
    """One group of a pattern as numbers; NaN where it is missing or empty."""
    text = pc.replace_substring(pc.struct_field(found, name), ",", ".")
    text = pc.if_else(pc.equal(text, ""), None, text)
    return np.asarray(pc.cast(text, pa.float64()).to_numpy(zero_copy_only=False), dtype=np.float64)


def _halves(found: pa.StructArray) -> Array:
    half = pc.utf8_lower(pc.utf8_slice_codeunits(pc.struct_field(found, "half"), 0, 1))
    shown = np.where(np.asarray(pc.fill_null(pc.equal(half, "p"), False)), 1.0, np.nan)
    return np.where(np.asarray(pc.fill_null(pc.equal(half, "a"), False)), 0.0, shown)


def _clock(text: pa.ChunkedArray, form: str) -> Array:
    found = pc.extract_regex(text.combine_chunks(), f"^{CLOCK.pattern}$")
    hours, minutes, seconds = (_part(found, name) for name in "hms")
    if form == "minsec":
        return hours * 60.0 + minutes
    return of_day(hours, minutes, np.nan_to_num(seconds), _halves(found))


def _stamps(text: pa.ChunkedArray) -> Stamps:
    """Every stamp taken apart by Arrow; a column with names of months cell by cell."""
    joined = text.combine_chunks()
    found = pc.extract_regex(joined, f"^{STAMP.pattern}$")
    months = pc.struct_field(found, "b")
    if not pc.all(pc.fill_null(pc.match_substring_regex(months, r"^\d*$"), True)).as_py():
        return taken_apart([t or "" for t in joined.to_pylist()])
    clock = of_day(*(np.nan_to_num(_part(found, name)) for name in "hms"), _halves(found))
    zone = pc.struct_field(found, "zone")
    zones = np.full(len(joined), np.nan)
    if pc.any(pc.fill_null(pc.not_equal(zone, ""), False)).as_py():
        zones = taken_apart([t or "" for t in joined.to_pylist()]).zone_s
    return Stamps(*(_part(found, name) for name in "abc"), clock, zones)
