"""Columns of numbers as compressed bytes, and back to the very same numbers.

What is a whole number of tenths, hundredths… throughout (all that a display or a clock with so many decimals shows) is kept as the
differences of these counts, in as few bytes as they take; anything else as it is. Either way an Arrow IPC stream, compressed by zstd;
each field's metadata says how it was made. A column without metadata is plain.
"""

from collections.abc import Mapping

import numpy as np
import pyarrow as pa
from numpy.typing import NDArray

Array = NDArray[np.float64] | NDArray[np.float32]

MOST_DIGITS = 6
PROBE = 64
"""Numbers tried first: most columns that are no decimals show it by then."""
LARGEST = 2.0**52
"""Up to here every whole number is exact in 64 bits."""
SIZES = (np.int8, np.int16, np.int32, np.int64)

_OPTIONS = pa.ipc.IpcWriteOptions(compression=pa.Codec("zstd", compression_level=1))


def pack(columns: Mapping[str, Array], small: bool = True) -> bytes:
    """Columns of one length, each 32 or 64 bits a number; NaN is kept, and so is the size. Not ``small``: plain, at once."""
    fields, arrays = [], []
    for name, column in columns.items():
        array, told = _coded(np.asarray(column)) if small else (pa.array(np.asarray(column)), None)
        fields.append(pa.field(name, array.type, metadata=told))
        arrays.append(array)
    batch = pa.record_batch(arrays, schema=pa.schema(fields))
    sink = pa.BufferOutputStream()
    with pa.ipc.new_stream(sink, batch.schema, options=_OPTIONS) as writer:
        writer.write_batch(batch)
    return sink.getvalue().to_pybytes()


def unpack(data: bytes) -> dict[str, Array]:
    """The columns of :func:`pack`."""
    table = pa.ipc.open_stream(pa.py_buffer(data)).read_all()
    return {f.name: _decoded(table.column(i), f.metadata) for i, f in enumerate(table.schema)}


def _coded(column: Array) -> tuple[pa.Array, dict[str, str] | None]:
    known = np.isfinite(column)
    whole = known.all()
    if not whole and np.isinf(column).any():
        return pa.array(column), None
    held = column if whole else _filled(column, known)
    counts, digits = _counts(held)
    if counts is None:
        return pa.array(column), None
    steps = np.diff(counts, prepend=counts[:1])
    low, high = (int(f(steps)) for f in (np.min, np.max)) if len(steps) else (0, 0)
    size = next(s for s in SIZES if np.iinfo(s).min <= low and high <= np.iinfo(s).max)
    first = int(counts[0]) if len(counts) else 0
    told = {"digits": str(digits), "first": str(first), "bits": str(8 * column.itemsize)}
    return pa.array(steps.astype(size), mask=None if whole else ~known), told


def _filled(column: Array, known: NDArray[np.bool_]) -> Array:
    """Every missing number as the one before it, so that it costs nothing."""
    at = np.maximum.accumulate(np.where(known, np.arange(len(column)), 0))
    return np.where(known[at], column[at], column.dtype.type(0))


def _counts(column: Array) -> tuple[NDArray[np.int64] | None, int]:
    """The column in whole counts of so many digits, where it comes back exactly."""
    for digits in range(MOST_DIGITS + 1):
        if _exactly(column[:PROBE], digits) is not None and (counts := _exactly(column, digits)) is not None:
            return counts, digits
    return None, 0


def _exactly(column: Array, digits: int) -> NDArray[np.int64] | None:
    counts = np.rint(column.astype(np.float64) * 10.0**digits)
    if not (np.abs(counts) <= LARGEST).all():
        return None
    whole = counts.astype(np.int64)
    back = (whole / 10.0**digits).astype(column.dtype)
    same = (back == column) & (np.signbit(back) == np.signbit(column))  # a negative zero is no whole number
    return whole if same.all() else None


def _decoded(column: pa.ChunkedArray, told: Mapping[bytes, bytes] | None) -> Array:
    if told is None:
        return np.asarray(column.to_numpy())
    size = np.float32 if told[b"bits"] == b"32" else np.float64
    missing = np.asarray(column.is_null()) if column.null_count else None
    steps = column.fill_null(0).to_numpy() if column.null_count else column.to_numpy()
    counts = np.cumsum(steps, dtype=np.int64) + int(told[b"first"])
    values = (counts / 10.0 ** int(told[b"digits"])).astype(size, copy=False)
    if missing is not None:
        values[missing] = np.nan
    return values
