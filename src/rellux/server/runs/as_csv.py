"""Spreadsheets, JSON lines and Parquet written out as the CSV that the import reads, so that one assistant understands them all.

A line of the CSV is a row of the file, or follows it by ``above`` lines (a heading that the file has in another way). Nothing is
judged here: what is no number stays as it is, for the import to list with its row.
"""

import csv
import json
import logging
import re
import zipfile
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from pathlib import Path
from typing import TYPE_CHECKING, Any

from rellux.core.errors import Refused, refuse
from rellux.core.messages import quantity
from rellux.server import arrow as pa

if TYPE_CHECKING:
    import openpyxl

log = logging.getLogger("rellux.uploads")

MOST_CELLS = 1_500_000
"""Of a spreadsheet or a list of objects. Our choice."""
MOST_JSON = 64 * 1024**2
"""Bytes of JSON, which is read in one piece. Our choice."""
MOST_UNPACKED = 2 * 1024**3
"""Bytes a compressed file may grow to: ten times the largest upload."""
MOST_COLUMNS = 200
ROUNDED = timedelta(microseconds=500)
"""A spreadsheet keeps days as a binary fraction: half past may stand a microsecond before it."""
_OBJECTS = re.compile(rb'(\xef\xbb\xbf)?\s*(\[\s*)?\{\s*"')
"""How a list of objects begins, or lines of them. (A logger's "[Settings]" is text.)"""
CUT = 200
"""Letters kept of a line that is no JSON, for the list of what was left out."""


@dataclass(frozen=True)
class Written:
    """What the file was, in words; empty where it is text already. ``above``: lines of the CSV before the file's first row. ``sheet``
    of a spreadsheet's ``sheets`` was taken."""

    was: str = ""
    above: int = 0
    sheet: str = ""
    sheets: tuple[str, ...] = ()


def as_csv(given: Path, wanted: Path, sheet: str = "") -> Written:
    """Write ``given`` as CSV to ``wanted`` where it is no text already; of a spreadsheet that ``sheet``, or the largest. Raises ``Refused``
    for a file that cannot be one of these."""
    with given.open("rb") as file:
        begins = file.read(512)
    for mark, write in _KINDS:
        if begins.startswith(mark):
            return write(given, wanted, sheet)
    if _OBJECTS.match(begins):
        return _json(given, wanted)
    return Written()


def is_text(begins: bytes) -> bool:
    """Whether a file that begins so is text already, as :func:`as_csv` tells it."""
    return not begins.startswith(tuple(mark for mark, _ in _KINDS)) and not _OBJECTS.match(begins)


def _refuse_old(given: Path, wanted: Path, sheet: str) -> Written:
    raise refuse("file", "is a spreadsheet of the old kind, or an office document", "saved anew as .xlsx, or as CSV")


def _refuse_packed(given: Path, wanted: Path, sheet: str) -> Written:
    raise refuse("file", "is packed", "the log itself: unpack it first")


def _spreadsheet(given: Path, wanted: Path, sheet: str) -> Written:
    import openpyxl  # for this only: not while the server starts

    try:
        with zipfile.ZipFile(given) as packed:
            names = {i.filename for i in packed.infolist()}
            size = sum(i.file_size for i in packed.infolist())
        if not any(n.startswith("xl/") for n in names):
            raise refuse("file", "is packed, and no .xlsx spreadsheet", "a log as .xlsx, CSV, JSON lines or Parquet")
        if size > MOST_UNPACKED:
            raise refuse("file", "would grow too large when unpacked", f"up to {MOST_UNPACKED // 1024**3} GB")
        with given.open("rb") as file:
            book = openpyxl.load_workbook(file, read_only=True, data_only=True, keep_links=False)
            return _one_sheet(book, wanted, sheet)
    except Refused:
        raise
    except Exception as error:  # a damaged file makes its parser fail in any way
        log.info("a spreadsheet could not be read: %r", error)
        raise refuse("file", "is a spreadsheet that cannot be read", "a file saved anew, or as CSV") from error


def _one_sheet(book: "openpyxl.Workbook", wanted: Path, sheet: str) -> Written:
    """The sheet of this name, or the largest by what the sheets say of their size."""
    if not book.worksheets:
        raise refuse("file", "there is no sheet with cells in it", "a sheet with a table")
    names = tuple(s.title for s in book.worksheets)
    if sheet and sheet not in names:
        raise refuse("sheet", f"there is no sheet {sheet[:40]!r} in it", ", ".join(names))
    largest = max(book.worksheets, key=lambda s: (s.max_row or 1) * min(s.max_column or 1, MOST_COLUMNS))
    taken = next((s for s in book.worksheets if s.title == sheet), largest)
    taken.reset_dimensions()  # what a sheet says of its own size need not be true
    rows = _rows(wanted, (_cells(row) for row in taken.iter_rows(max_col=MOST_COLUMNS)))
    return Written(f"the sheet {taken.title}, {rows} rows", 0, taken.title, names)


def _rows(wanted: Path, rows: Iterable[list[str]]) -> int:
    """Write the rows, an empty line for one of nothing. From the first as wide as any all are as wide: a logger's remarks above its
    table stay as they are. Refused where the cells are too many."""
    kept: list[list[str]] = []
    cells = 0
    for row in rows:
        while row and not row[-1]:
            row.pop()
        kept.append(row)
        cells += len(row) + 1
        if cells > MOST_CELLS:
            raise refuse("file", f"more than {quantity(MOST_CELLS / 1e6, form='g')} million cells", "a CSV file")
    width = max(map(len, kept), default=0)
    table = next((i for i, row in enumerate(kept) if len(row) == width), 0)
    with wanted.open("w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file, lineterminator="\n")
        for i, row in enumerate(kept):
            if row:
                writer.writerow(row + [""] * (width - len(row)) if i > table else row)
            else:
                file.write("\n")
    return len(kept)


def _cells(row: Iterable[Any]) -> list[str]:
    return [_cell(c.value, c.number_format or "") if c.value is not None else "" for c in row]


def _cell(value: Any, form: str) -> str:
    """A cell as its reader sees it: dates in ISO 8601, a length of time in seconds, a share in per cent where it is shown so."""
    if isinstance(value, bool):
        return "1" if value else "0"
    if isinstance(value, int | float):
        return f"{round(value * 100.0, 9):.12g}%" if "%" in form else repr(value)
    if isinstance(value, datetime):
        return (value + ROUNDED).isoformat(" ", "milliseconds")
    if isinstance(value, timedelta):
        return repr(value.total_seconds())
    if isinstance(value, date | time):
        return value.isoformat()
    return " ".join(str(value).split())


def _json(given: Path, wanted: Path) -> Written:
    """JSON lines, or one list of objects: a column for every key, ``a.b`` for one inside another."""
    if given.stat().st_size > MOST_JSON:
        raise refuse(
            "file", "is too large for JSON", f"up to {MOST_JSON // 1024**2} MB; as CSV or Parquet up to 200 MB"
        )
    lines = given.read_text("utf-8-sig", "replace")
    whole = lines.lstrip().startswith("[")
    try:
        entries: list[Any] = json.loads(lines) if whole else [_line(line) for line in lines.splitlines()]
    except (ValueError, RecursionError) as error:
        raise refuse("file", "begins as JSON, and is none", "a list of objects, or one on each line") from error
    flat = [_flat(e) if isinstance(e, dict) else e for e in entries]
    names = list(dict.fromkeys(name for entry in flat if isinstance(entry, dict) for name in entry))
    if not names:
        raise refuse("file", "begins as JSON, and is none", "a list of objects, or one on each line")
    if len(names) > MOST_COLUMNS:
        raise refuse("file", f"{len(names)} different keys", f"up to {MOST_COLUMNS}")

    def row(entry: Any) -> list[str]:
        if isinstance(entry, dict):
            return [_text(entry.get(name)) for name in names]
        return [str(entry)[:CUT].replace('"', "'").replace(",", ";")] if entry is not None else []

    rows = _rows(wanted, [names, *map(row, flat)])
    return Written(f"{rows - 1} entries of JSON", 1)


def _line(line: str) -> Any:
    """What a line says; itself where it is no JSON, to be listed as such."""
    if not line.strip():
        return None
    try:
        found = json.loads(line)
    except (ValueError, RecursionError):
        return line
    return found if isinstance(found, dict) else line


def _flat(entry: dict[str, Any], before: str = "", depth: int = 3) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for name, value in entry.items():
        if isinstance(value, dict) and depth:
            found |= _flat(value, f"{before}{name}.", depth - 1)
        else:
            found[before + name] = value
    return found


def _text(value: Any) -> str:
    if value is None or isinstance(value, list | dict):
        return ""
    return _cell(value, "")


def _parquet(given: Path, wanted: Path, sheet: str) -> Written:
    try:
        with pa.parquet.ParquetFile(given) as file:
            meta, schema = file.metadata, file.schema_arrow
            if sum(meta.row_group(i).total_byte_size for i in range(meta.num_row_groups)) > MOST_UNPACKED:
                raise refuse("file", "would grow too large when unpacked", f"up to {MOST_UNPACKED // 1024**3} GB")
            names = [f.name for f in schema if not pa.types.is_nested(f.type) and not pa.types.is_binary(f.type)]
            if not names:
                raise refuse("file", "there is no column of numbers or text in it", "a table")
            if len(names) > MOST_COLUMNS:
                raise refuse("file", f"{len(names)} columns", f"up to {MOST_COLUMNS}")
            with wanted.open("wb") as out:
                out.write((",".join(f'"{n}"' for n in (m.replace('"', "'") for m in names)) + "\n").encode())
                for batch in file.iter_batches(65_536, columns=names):
                    options = pa.csv.WriteOptions(include_header=False, quoting_style="needed")
                    pa.csv.write_csv(
                        pa.Table.from_batches([batch.select(names)]).cast(_plain(batch, names)), out, options
                    )
    except Refused:
        raise
    except Exception as error:  # as above
        log.info("a Parquet file could not be read: %r", error)
        raise refuse("file", "is a Parquet file that cannot be read", "a file written anew, or CSV") from error
    return Written(f"Parquet, {meta.num_rows} rows", 1)


def _plain(batch: "pa.RecordBatch", names: list[str]) -> "pa.Schema":
    """Columns as CSV can hold them: switches as 0 and 1, categories as their words."""

    def plain(kind: "pa.DataType") -> "pa.DataType":
        if pa.types.is_dictionary(kind):
            return kind.value_type
        return pa.int8() if pa.types.is_boolean(kind) else kind

    return pa.schema([pa.field(n, plain(batch.schema.field(n).type)) for n in names])


_KINDS: tuple[tuple[bytes, Callable[[Path, Path, str], Written]], ...] = (
    (b"PK\x03\x04", _spreadsheet),
    (b"PAR1", _parquet),
    (b"\xd0\xcf\x11\xe0", _refuse_old),
    (b"\x1f\x8b", _refuse_packed),
    (b"(\xb5/\xfd", _refuse_packed),
    (b"BZh", _refuse_packed),
    (b"7z\xbc\xaf", _refuse_packed),
)
"""How such files begin."""
