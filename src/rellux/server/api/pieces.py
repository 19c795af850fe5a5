"""A file that is sent while it is being made."""

import io
from typing import Any


class Pieces(io.RawIOBase):
    """A write-only stream that can be emptied while a zip or a Parquet file is being written to it."""

    def __init__(self) -> None:
        self._held = bytearray()
        self._at = 0

    def writable(self) -> bool:
        return True

    def write(self, data: Any) -> int:
        self._held += data
        self._at += len(data)
        return len(data)

    def tell(self) -> int:
        return self._at

    def take(self) -> bytes:
        piece = bytes(self._held)
        self._held.clear()
        return piece
