"""Reading a mapped CSV log into a series: parsed by Arrow, checked row by row, refused with the row and the reason."""

from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.csv
from numpy.typing import NDArray

from rellux.core.errors import Problem, refuse, refuse_all
from rellux.core.messages import span
from rellux.core.runs.series import Series, Timing, check_times, timing
from rellux.core.units import celsius_from_fahrenheit

from .csv_guess import ROLES, decode

Array = NDArray[np.float64]

TIME_FORMATS = ("seconds", "minutes", "iso", "dmy", "mdy", "clock")
_STRPTIME = {"dmy": "%d.%m.%Y %H:%M:%S", "mdy": "%m.%d.%Y %H:%M:%S"}
LONGEST_S = 366 * 86_400.0


@dataclass(frozen=True)
class Mapping:
    """How to read the file. ``columns`` maps roles (time, reading, setpoint, output, switch) to column numbers from 0."""

    delimiter: str
    decimal: str
    header: bool
    time_format: str
    unit: str
    columns: dict[str, int]


@dataclass(frozen=True)
class Imported:
    """The series, when it began (if the file says), and how it was really sampled."""

    series: Series
    started_at: datetime | None
    timing: Timing


def read_csv(path: Path, mapping: Mapping) -> Imported:
    """Parse and check a whole file. Raises ``Refused`` naming column, row and content; nothing is kept then."""
    _check_mapping(mapping)
    with path.open("rb") as file:
        decode(file.read(65_536))
    table = _parse(path, mapping)
    width = table.num_columns
    wrong = [
        Problem(f"columns.{role}", f"there is no column {i + 1}", f"1…{width}")
        for role, i in mapping.columns.items()
        if not 0 <= i < width
    ]
    refuse_all(wrong)
    time_s, started_at = _times(table, mapping)
    keep = check_times(time_s)
    columns = {role: _numbers(table, mapping, role) for role in ROLES[1:] if role in mapping.columns}
    if mapping.unit == "F":
        for role in ("reading", "setpoint"):
            if role in columns:
                columns[role] = celsius_from_fahrenheit(columns[role])  # type: ignore[arg-type, assignment]
    _check_plausible(columns)
    nothing = np.full(len(time_s), np.nan)
    kept = [
        np.ascontiguousarray(c if keep.all() else c[keep])
        for c in (time_s, *(columns.get(r, nothing) for r in ("setpoint", "reading", "output", "switch")))
    ]
    series = Series(*kept)
    if series.time_s[-1] - series.time_s[0] > LONGEST_S:
        raise refuse("time", "the log spans more than a year: is the time format right?", "up to 366 days")
    return Imported(series, started_at, timing(series.time_s, int((~keep).sum())))


def _check_mapping(mapping: Mapping) -> None:
    problems = []
    if len(mapping.delimiter) != 1:
        problems.append(Problem("delimiter", "must be one character", "comma, semicolon, tab, bar or space"))
    if mapping.decimal not in ".," or len(mapping.decimal) != 1:
        problems.append(Problem("decimal", "is the mark in numbers", "point or comma"))
    if mapping.decimal == mapping.delimiter:
        problems.append(Problem("decimal", "cannot be the delimiter as well", "the other one"))
    if mapping.time_format not in TIME_FORMATS:
        problems.append(Problem("time_format", f"{mapping.time_format!r} is unknown", ", ".join(TIME_FORMATS)))
    if mapping.unit not in ("C", "F"):
        problems.append(Problem("unit", f"{mapping.unit!r} is unknown", "C or F"))
    for role in ("time", "reading"):
        if role not in mapping.columns:
            problems.append(Problem(f"columns.{role}", f"say which column is the {role}", "a column"))
    for role in mapping.columns:
        if role not in ROLES:
            problems.append(Problem(f"columns.{role}", "is not something a run has", ", ".join(ROLES)))
    if len(set(mapping.columns.values())) < len(mapping.columns):
        problems.append(Problem("columns", "one column is used twice", "a column of its own for each"))
    refuse_all(problems)


def _parse(path: Path, mapping: Mapping) -> pa.Table:
    used = sorted(set(mapping.columns.values()))
    names = _names(path, mapping)
    outside = [role for role, i in mapping.columns.items() if not 0 <= i < len(names)]
    if outside:
        raise refuse(f"columns.{outside[0]}", f"there is no such column: the file has {len(names)}", f"1…{len(names)}")
    types = {names[i]: pa.string() for i in used}
    numeric = mapping.time_format in ("seconds", "minutes")
    for role, i in mapping.columns.items():
        if role != "time" or numeric:
            types[names[i]] = pa.float64()
    try:
        return _arrow(path, mapping, names, types)
    except pa.ArrowInvalid as error:
        if "conversion error" not in str(error):
            raise refuse("file", _shape_error(str(error)), "the same number of columns in every row") from error
        return _arrow(path, mapping, names, dict.fromkeys(types, pa.string()))


def _names(path: Path, mapping: Mapping) -> list[str]:
    with path.open("rb") as file:
        first = decode(file.read(65_536)).splitlines()
    lines = [line for line in first if line.strip()]
    count = max(line.count(mapping.delimiter) for line in lines[:6]) + 1
    return [f"c{i}" for i in range(count)]


def _arrow(path: Path, mapping: Mapping, names: list[str], types: dict[str, pa.DataType]) -> pa.Table:
    encoding = "utf16" if path.open("rb").read(2) in (b"\xff\xfe", b"\xfe\xff") else "utf8"
    return pyarrow.csv.read_csv(
        path,
        read_options=pyarrow.csv.ReadOptions(
            column_names=names, skip_rows=1 if mapping.header else 0, encoding=encoding, block_size=1 << 20
        ),
        parse_options=pyarrow.csv.ParseOptions(delimiter=mapping.delimiter, ignore_empty_lines=True),
        convert_options=pyarrow.csv.ConvertOptions(
            column_types=types,
            decimal_point=mapping.decimal,
            null_values=["", "NaN", "nan", "-", "--", "null", "OPEN", "----"],
            strings_can_be_null=True,
        ),
    )


def _shape_error(message: str) -> str:
    row = message.split("Row #")[-1].split(":")[0] if "Row #" in message else ""
    return f"row {row} has another number of columns than the first" if row else "its rows do not have the same columns"


def _numbers(table: pa.Table, mapping: Mapping, role: str) -> Array:
    column = table.column(mapping.columns[role])
    if pa.types.is_string(column.type):
        return _numbers_from_text(column, mapping, role)
    return column.to_numpy().astype(np.float64, copy=False)


def _numbers_from_text(column: pa.ChunkedArray, mapping: Mapping, role: str) -> Array:
    text = pc.utf8_trim_whitespace(column)
    if mapping.decimal == ",":
        text = pc.replace_substring(text, ",", ".")
    try:
        return pc.cast(text, pa.float64()).to_numpy().astype(np.float64)
    except pa.ArrowInvalid:
        number = r"^[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?$"
        bad = pc.and_kleene(pc.invert(pc.match_substring_regex(text, number)), pc.is_valid(text))
        row = pc.index(bad, True).as_py()
        first = row + (2 if mapping.header else 1)
        count = pc.sum(pc.cast(bad, pa.int64())).as_py()
        raise refuse(
            f"columns.{role}",
            f"row {first} holds {column[row].as_py()!r}, which is not a number ({count} such rows)",
            "a column of numbers; perhaps another column, or another decimal mark",
        ) from None


def _times(table: pa.Table, mapping: Mapping) -> tuple[Array, datetime | None]:
    form = mapping.time_format
    if form in ("seconds", "minutes"):
        values = _numbers(table, mapping, "time") * (60.0 if form == "minutes" else 1.0)
        if len(values) and values[0] > 1e8:  # seconds since 1970, or milliseconds
            values = values / 1000.0 if values[0] > 1e11 else values
            return values - values[0], datetime.fromtimestamp(float(values[0]), UTC)
        return values, None
    column = table.column(mapping.columns["time"])
    text = pc.utf8_trim_whitespace(column)
    if form == "clock":
        return _clock(text, mapping), None
    stamps = _timestamps(text, form, mapping)
    micros = stamps.cast(pa.int64()).to_numpy().astype(np.float64)
    first = float(micros[0]) / 1e6 if len(micros) and np.isfinite(micros[0]) else 0.0
    return (micros - first * 1e6) / 1e6, datetime.fromtimestamp(first, UTC) if first else None


def _timestamps(text: pa.ChunkedArray, form: str, mapping: Mapping) -> pa.ChunkedArray:
    kind = pa.timestamp("us")
    try:
        if form == "iso":
            return pc.cast(pc.replace_substring_regex(text, r"Z$|[+]00:?00$", ""), kind)
        plain = pc.replace_substring_regex(text, "[./,]", ".")
        plain = pc.replace_substring_regex(plain, r"^(\d{1,2})\.(\d{1,2})\.(\d{4})\.? *", r"\1.\2.\3 ")
        return pc.strptime(plain, format=_STRPTIME[form], unit="us")
    except pa.ArrowInvalid as error:
        found = str(error).split("'")
        shown = f": {found[1]!r}" if len(found) > 2 else ""
        raise refuse("time_format", f"a time cannot be read as {form}{shown}", "another time format") from error


def _clock(text: pa.ChunkedArray, mapping: Mapping) -> Array:
    """Hours:minutes[:seconds]; a step back of more than half a day is midnight, not time running backwards."""
    parts = pc.split_pattern(text, ":")
    lengths = pc.list_value_length(parts)
    if pc.min(lengths).as_py() is None or pc.min(lengths).as_py() < 2:
        raise refuse("time_format", "a time is not hours:minutes:seconds", "another time format")
    try:
        hours = pc.cast(pc.list_element(parts, 0), pa.float64()).to_numpy()
        minutes = pc.cast(pc.list_element(parts, 1), pa.float64()).to_numpy()
        seconds = pc.cast(pc.list_element(parts, 2), pa.float64()).to_numpy() if pc.min(lengths).as_py() > 2 else 0.0
    except pa.ArrowInvalid as error:
        raise refuse("time_format", "a time is not hours:minutes:seconds", "another time format") from error
    clock = hours * 3600.0 + minutes * 60.0 + seconds
    days = np.concatenate(([0.0], np.cumsum(np.diff(clock) < -43_200.0)))
    total = clock + days * 86_400.0
    return np.asarray(total - total[0])


def _check_plausible(columns: dict[str, Array]) -> None:
    reading = columns["reading"]
    low, high = float(np.fmin.reduce(reading)), float(np.fmax.reduce(reading))
    if np.isnan(low):
        raise refuse("columns.reading", "this column holds no number at all", "the column with the temperatures")
    if low < -273.15 or high > 2500:
        raise refuse(
            "columns.reading",
            f"it holds {span(low, high, '°C')}: these are not temperatures",
            "{-273.15…2500 °C}; perhaps another column, unit or decimal mark",
        )
    output = columns.get("output")
    if output is not None:
        low, high = float(np.fmin.reduce(output)), float(np.fmax.reduce(output))
        if low < -0.5 or high > 100.5:
            raise refuse("columns.output", f"it holds {span(low, high)}", "{0…100 %}")
