"""Columns of numbers as compressed bytes, and back to the very same numbers.

What is a whole number of tenths, hundredths… throughout (all that a display or a clock with so many decimals shows) is kept as the
differences of these counts, in as few bytes as they take; anything else as it is. Either way an Arrow IPC stream, compressed by zstd;
each field's metadata says how it was made. A column without metadata is plain.
"""

from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rellux.server import arrow as pa

Array = NDArray[np.float64] | NDArray[np.float32]

MOST_DIGITS = 6
PROBE = 64
"""Numbers tried first: most columns that are no decimals show it by then."""
LARGEST = 2.0**52
"""Up to here every whole number is exact in 64 bits."""
SIZES = (np.int8, np.int16, np.int32, np.int64)


def pack(columns: Mapping[str, Array], small: bool = True) -> bytes:
    """Columns of one length, each 32 or 64 bits a number; NaN is kept, and so is the size. Not ``small``: plain, at once."""
    fields, arrays = [], []
    for name, column in columns.items():
        array, told = _coded(np.asarray(column)) if small else (_array(np.asarray(column)), None)
        fields.append(pa.field(name, array.type, metadata=told))
        arrays.append(array)
    batch = pa.record_batch(arrays, schema=pa.schema(fields))
    sink = pa.BufferOutputStream()
    options = pa.ipc.IpcWriteOptions(compression=pa.Codec("zstd", compression_level=1))
    with pa.ipc.new_stream(sink, batch.schema, options=options) as writer:
        writer.write_batch(batch)
    return sink.getvalue().to_pybytes()


def unpack(data: bytes) -> dict[str, Array]:
    """The columns of :func:`pack`."""
    batch = pa.ipc.open_stream(pa.py_buffer(data)).read_next_batch()
    return {f.name: _decoded(batch.column(i), f.metadata) for i, f in enumerate(batch.schema)}


def _coded(column: Array) -> "tuple[pa.Array, dict[str, str] | None]":
    known = np.isfinite(column)
    whole = known.all()
    if not whole and np.isinf(column).any():
        return _array(column), None
    held = column if whole else _filled(column, known)
    counts, digits = _counts(held)
    if counts is None:
        return _array(column), None
    steps = np.diff(counts, prepend=counts[:1])
    low, high = (int(f(steps)) for f in (np.min, np.max)) if len(steps) else (0, 0)
    size = next(s for s in SIZES if np.iinfo(s).min <= low and high <= np.iinfo(s).max)
    first = int(counts[0]) if len(counts) else 0
    told = {"digits": str(digits), "first": str(first), "bits": str(8 * column.itemsize)}
    return _array(steps.astype(size), None if whole else known), told


def _array(values: NDArray[Any], known: NDArray[np.bool_] | None = None) -> "pa.Array":
    """As ``pa.array`` makes it, which loads pandas first: most of a second before the first sample is on disk."""
    present = None if known is None else pa.py_buffer(np.packbits(known, bitorder="little"))
    held = pa.py_buffer(np.ascontiguousarray(values))
    return pa.Array.from_buffers(pa.from_numpy_dtype(values.dtype), len(values), [present, held])


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
    if len(counts) and not -LARGEST <= counts.min() <= counts.max() <= LARGEST:
        return None
    if not np.array_equal((counts / 10.0**digits).astype(column.dtype), column):
        return None
    if np.signbit(column[counts == 0.0]).any():  # a negative zero is no whole number
        return None
    return counts.astype(np.int64)


def _numbers(column: "pa.Array") -> tuple[NDArray[Any], NDArray[np.bool_] | None]:
    """What :func:`_array` made: numbers, and which of them are known where not all are. ``to_numpy`` would load pandas too."""
    count = len(column)
    present, held = column.buffers()
    values = (
        np.frombuffer(held, column.type.to_pandas_dtype(), count)
        if count
        else np.empty(0, column.type.to_pandas_dtype())
    )
    if not column.null_count:
        return values, None
    return values, np.unpackbits(np.frombuffer(present, np.uint8), count=count, bitorder="little").astype(np.bool_)


def _decoded(column: "pa.Array", told: Mapping[bytes, bytes] | None) -> Array:
    held, known = _numbers(column)
    if told is None:
        return held
    steps = held if known is None else np.where(known, held, 0)
    counts = np.cumsum(steps, dtype=np.int64) + int(told[b"first"])
    size = np.float32 if told[b"bits"] == b"32" else np.float64
    values = (counts / 10.0 ** int(told[b"digits"])).astype(size, copy=False)
    if known is not None:
        values[~known] = np.nan
    return values
