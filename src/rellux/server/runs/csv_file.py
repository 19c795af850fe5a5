"""A CSV log on disk with how it is mapped: its lines, and what of them was left out."""

import io
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property
from pathlib import Path
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray

from rellux.core.logs import mapping as mapped
from rellux.core.logs.dialect import divide, table
from rellux.core.logs.guess import SAMPLE_BYTES, SAMPLE_ROWS
from rellux.core.logs.mapping import Mapping
from rellux.core.logs.text import decode, encoding_of, lines_of

Array = NDArray[np.float64]
Rows = NDArray[np.int64]


LISTED = 8
"""Rows named in one remark; of more the count is given."""


@dataclass
class Log:
    """A file and how it is mapped, with the rows that could not be read as they are found. ``above``: lines it has before the first
    row of the file it was made from."""

    path: Path
    mapping: Mapping
    width: int
    encoding: str
    clean: bool
    quoted: bool
    names: list[str]
    above: int = 0
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
    def first(self) -> int:
        """The number of the first row of its table in the file."""
        return self.mapping.before + 1 - self.above

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
            for at, raw in enumerate(file, self.first):
                line = raw.decode("utf-8", "replace").rstrip("\r\n")
                if line:
                    fits = len(divide(line, self.mapping.delimiter)) == self.width
                    kept.append(at) if fits else odd.append((at, line))
        return np.array(kept, dtype=np.int64), odd

    def line(self, row: int) -> int:
        """The line in the file of a row of the table."""
        kept = self.lines[0]
        return int(kept[row]) if row < len(kept) else row + self.first

    def leave_out(self, what: str, rows: Rows, shown: Callable[[int], str]) -> None:
        named = ", ".join(f"{self.line(int(r))} ({shown(int(r))})" for r in rows[:LISTED])
        more = f" and {len(rows) - LISTED} more" if len(rows) > LISTED else ""
        self.remarks.append(f"{len(rows)} {what}: row {named}{more}")


def opened(path: Path, mapping: Mapping, above: int = 0) -> Log:
    with path.open("rb") as file:
        sample = file.read(SAMPLE_BYTES)
        encoding, clean, quoted = _looked_through(sample, file)
    lines = lines_of(decode(sample))
    mapped.check_writing(mapping)
    whole = lines[:-1] if len(sample) >= SAMPLE_BYTES else lines
    found = table(whole[: mapping.before + 2 * SAMPLE_ROWS], mapping.delimiter, mapping.decimal, mapping.skip)
    mapped.check_columns(mapping, found.width)
    heading = divide(lines[mapping.skip], mapping.delimiter) if mapping.header and mapping.skip < len(lines) else []
    names = heading + [""] * (found.width - len(heading))
    return Log(path, mapping, found.width, encoding, clean, quoted, names, above)


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


def short(text: str) -> str:
    """What a cell or line holds, for a remark: never with braces, which would be a quantity."""
    return repr(text.strip()[:24]).replace("{", "(").replace("}", ")")
