"""The table of a CSV log, parsed by Arrow where it is clean and cell by cell where it is not."""

import io
from collections.abc import Callable
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray

from rellux.core.errors import Refused, refuse
from rellux.core.logs import mapping as mapped
from rellux.core.logs.dialect import divide, is_remark
from rellux.core.logs.plausible import may_be_cut
from rellux.core.logs.text import lines_of
from rellux.core.logs.times import COUNTS
from rellux.core.logs.values import number, on_off
from rellux.server import arrow as pa

from .csv_file import LISTED, Log, short

Array = NDArray[np.float64]


TAIL_BYTES = 4096
BLOCK_BYTES = 2 << 20
"""What Arrow takes at once: enough that threads have something to do."""


def parsed(log: Log) -> "pa.Table":
    mapping = log.mapping
    used = {f"c{i}": pa.float64() for i in mapping.columns.values()}
    for role in ("time", "date"):
        if role in mapping.columns and not (role == "time" and mapping.time_format in COUNTS):
            used[f"c{mapping.columns[role]}"] = pa.string()
    odd = 0

    def count(_row: "pa.csv.InvalidRow") -> str:
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
        at = next((i for i, line in enumerate(file, log.first) if line.count(b'"') % 2), 0)
    where = f"in row {at} " if at else ""
    return refuse("file", f"a quotation mark {where}is not closed on its line", "no quotation marks, or two of them")


def _arrow(log: Log, types: "dict[str, pa.DataType]", odd: "Callable[[pa.csv.InvalidRow], str]") -> "pa.Table":
    mapping = log.mapping
    text = pa.string() in types.values()
    with _read_by_arrow(log) as file:
        return pa.csv.read_csv(
            file,
            read_options=pa.csv.ReadOptions(column_names=[f"c{i}" for i in range(log.width)], block_size=BLOCK_BYTES),
            parse_options=pa.csv.ParseOptions(
                delimiter=mapping.delimiter, ignore_empty_lines=True, invalid_row_handler=odd
            ),
            convert_options=pa.csv.ConvertOptions(
                include_columns=list(types),
                column_types=types,
                decimal_point=mapping.decimal if mapping.decimal != mapping.delimiter else ".",
                null_values=["", "NaN", "nan", "-", "--", "null", "OPEN", "----"],
                strings_can_be_null=text,
            ),
        )


def _read_by_arrow(log: Log) -> "BinaryIO | pa.NativeFile":
    """The file from its first row on; where it is taken as it is, Arrow reads it itself, past the interpreter."""
    file = log.open()
    if isinstance(file, io.BytesIO):
        return file
    begins = file.tell()
    file.close()
    own = pa.OSFile(str(log.path))
    own.seek(begins)
    return own


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
    named = ", ".join(f"{at} ({short(line)})" for at, line in wrong[:LISTED])
    log.remarks.append(f"{len(wrong)} rows with another number of columns were left out: row {named}")


def check_cut_end(log: Log, keep: NDArray[np.bool_]) -> None:
    """A last line that does not end is left out where its last cell is shorter than those above it: it may be half a number."""
    with log.path.open("rb") as file:
        file.seek(0, io.SEEK_END)
        file.seek(max(0, file.tell() - TAIL_BYTES))
        tail = file.read()
    text = tail.decode(log.encoding, "ignore")
    if text.endswith(("\n", "\r")):
        return
    if keep[-1] and may_be_cut(lines_of(text)[1:], log.mapping.delimiter, log.width):
        keep[-1] = False
        log.remarks.append(
            f"1 row was left out: row {log.line(len(keep) - 1)} is the last, has no end and may be cut off"
        )


def numbers(table: "pa.Table", log: Log, role: str) -> Array:
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
        state = on_off(word) if found is None and role in (*mapped.STATES, "output") else None
        if found is not None and role in mapped.THERMAL and found.unit in foreign:
            raise refuse("unit", f"{short(word)} is in another unit", mapped.TEMPERATURES[found.unit])
        if state is not None:
            values[i] = state * mapped.full_on(log.mapping.output_scale) if role == "output" else state
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
                f"row {log.line(row)} holds {short(column[row].as_py())}, which is not a number ({len(bad)} such rows)",
                "a column of numbers; perhaps another column, or another decimal mark",
            )
        log.leave_out(
            f"cells that hold no number are missing from the {mapped.ROLES[role]}",
            bad,
            lambda r: short(column[r].as_py()),
        )
    return values[index]
