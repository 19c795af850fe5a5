"""A log that another program is writing: rows are taken as they are appended, at the times that they say themselves.

What was there before is not news, but can be asked for from a moment on (:meth:`FileLink.missed`). A file that was made anew is read from
its beginning; a last line without end waits until it has one.
"""

import os
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from types import TracebackType
from typing import BinaryIO

from rellux.core.errors import refuse
from rellux.core.logs.dialect import table
from rellux.core.logs.guess import SAMPLE_BYTES
from rellux.core.logs.mapping import Mapping, check_columns, check_writing
from rellux.core.logs.rows import RowReader
from rellux.core.logs.text import decode, encoding_of, lines_of
from rellux.core.logs.times import COUNTS, DATED

from .arriving import Arriving
from .modbus_link import LinkDown
from .register_map import RegisterMap
from .registers import Value
from .text_link import TEXT

LOOK_S = 0.2
MOST_AT_ONCE = 1 << 20
ENDINGS = (".csv", ".tsv", ".txt", ".log", ".dat")


@dataclass(frozen=True)
class FileAddress:
    """Where it is."""

    path: str

    def __str__(self) -> str:
        return self.path


def sample_of(path: str) -> bytes:
    """The first bytes of a log that is being written. Raises ``Refused`` for what is no such file, or cannot be read."""
    found = Path(path.strip())
    if not path.strip() or len(path) > 200 or "\0" in path or not found.is_absolute():
        raise refuse("device", "say where the file is", "a whole path, such as /home/…/log.csv")
    if found.suffix.lower() not in ENDINGS or not found.is_file():
        raise refuse("device", f"there is no log {found.name}", f"a file that ends in {', '.join(ENDINGS)}")
    try:
        with found.open("rb") as file:
            return file.read(SAMPLE_BYTES)
    except OSError as error:
        raise refuse("device", f"{found.name} cannot be read", "a file Rellux may read") from error


def check_mapping(sample: bytes, mapping: Mapping) -> int:
    """Cells of a whole row. Raises ``Refused`` for a mapping by which nothing could be read."""
    check_writing(mapping)
    lines = lines_of(decode(sample))
    width = table(lines, mapping.delimiter, mapping.decimal, mapping.skip).width
    check_columns(mapping, width)
    if encoding_of(sample) == "utf-16":
        raise refuse("device", "a log in UTF-16 cannot be followed", "UTF-8 or Latin-1")
    return width


class FileLink:
    """A growing log, as the recorder reads controllers."""

    comes_by_itself = True
    remark = ""
    map: RegisterMap = TEXT

    def __init__(
        self, address: FileAddress, mapping: Mapping, interval_s: float, clock: Callable[[], float] = time.monotonic
    ) -> None:
        self.address, self._mapping = address, mapping
        self._arriving = Arriving(str(address), interval_s, clock)
        self._file: BinaryIO | None = None
        self._reader: RowReader | None = None
        self._begun, self._encoding = b"", "utf-8"
        self._since = 0

    def __enter__(self) -> "FileLink":
        try:
            sample = sample_of(self.address.path)
            self._reader = RowReader(self._mapping, check_mapping(sample, self._mapping))
        except ValueError as refused:
            raise LinkDown(str(refused)) from refused
        self._encoding = encoding_of(sample)
        self._open(at_end=True)
        self._arriving.begin()
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        if self._file is not None:
            self._file.close()

    def _open(self, at_end: bool) -> None:
        try:
            if self._file is not None:
                self._file.close()
            self._file, self._begun = Path(self.address.path).open("rb"), b""  # noqa: SIM115 - open for as long as it is followed
        except OSError as error:
            raise LinkDown(f"{self.address} is gone") from error
        if at_end:  # from the end of the last whole line on
            size = self._file.seek(0, os.SEEK_END)
            tail = min(size, SAMPLE_BYTES)
            self._file.seek(size - tail)
            last = self._file.read(tail).rfind(b"\n")
            self._since = self._file.seek(size - tail + last + 1 if last >= 0 else size)

    def read(self) -> dict[str, Value | None] | None:
        """The next row's values, with the time it says; ``None`` where none has been written since. Raises :class:`LinkDown`."""
        if self._arriving.newest is None and not self._take():
            time.sleep(LOOK_S)
        return self._arriving.next()

    snapshot = read

    def missed(self, after_s: float) -> Iterator[dict[str, Value | None]]:
        """The rows that were written after this moment of the log's own clock, and before it was opened here, as they are; none where
        its times do not say the day, or where it cannot be read."""
        if self._reader is None or self._mapping.time_format not in (*COUNTS, *DATED):
            return
        reader = RowReader(self._mapping, self._reader.width)
        try:
            with Path(self.address.path).open("rb") as file:
                file.seek(_first_after(file, self._since, lambda line: self._is_after(reader, line, after_s)))
                while file.tell() < self._since:
                    values = reader.row(file.readline().rstrip(b"\r\n").decode(self._encoding, "replace"))
                    if values is not None and (values["clock_s"] or 0.0) > after_s:
                        yield {**values}
        except OSError:
            return

    def _is_after(self, reader: RowReader, line: bytes, after_s: float) -> bool | None:
        values = reader.row(line.rstrip(b"\r\n").decode(self._encoding, "replace"))
        return None if values is None else (values["clock_s"] or 0.0) > after_s

    def _take(self) -> bool:
        """Take what was appended; whether there was anything."""
        if self._file is None or self._reader is None:
            raise LinkDown(f"{self.address} is not open")
        try:
            now, ours = Path(self.address.path).stat(), os.fstat(self._file.fileno())
            if (now.st_dev, now.st_ino) != (ours.st_dev, ours.st_ino) or now.st_size < self._file.tell():
                self._open(at_end=False)
            came = self._file.read(MOST_AT_ONCE)
        except OSError as error:
            raise LinkDown(f"{self.address} is gone") from error
        *whole, self._begun = (self._begun + came).replace(b"\r\n", b"\n").split(b"\n")
        self._begun = self._begun[-SAMPLE_BYTES:]
        for line in whole:
            values = self._reader.row(line.decode(self._encoding, "replace"))
            if values is None:
                self._arriving.unusable()
            else:
                self._arriving.put({**values})
        return bool(came)

    def write(self, name: str, value: Value) -> Value:
        """It takes nothing."""
        raise LinkDown("Rellux only reads this log: nothing is sent to what writes it")

    def switch_off(self, within_s: float) -> dict[str, Value | None]:
        """It takes nothing."""
        raise LinkDown("Rellux only reads this log: switch off at the main switch")


def _first_after(file: BinaryIO, end: int, is_after: Callable[[bytes], bool | None]) -> int:
    """Where the first line stands that is after some moment, of lines in their order before ``end``: found by halves, so that a long log
    costs no more than a short one. ``is_after`` says None of a line that tells no time."""
    low, high = 0, end
    while high - low > SAMPLE_BYTES:
        middle = (low + high) // 2
        file.seek(middle)
        file.readline()  # the rest of a line
        after = None
        while after is None and file.tell() < high:
            after = is_after(file.readline())
        low, high = (low, middle) if after is None or after else (middle, high)
    file.seek(low)
    if low:
        file.readline()
    return file.tell()
