"""Samples on disk: chunks of compressed Arrow columns, each with a minimum-maximum overview for drawing.

A chunk's ``data`` is an Arrow IPC stream (zstd) of the five columns; ``overview`` the same per bucket of ``BUCKET``
samples with the first time, minimum and maximum of every column. Narrow windows read data, wide ones the overview.
"""

from collections.abc import Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor
from functools import lru_cache
from itertools import islice

import numpy as np
import pyarrow as pa
from django.db import transaction
from numpy.typing import NDArray

from rellux.core.runs.series import Series

from .models import Chunk, Run

Array = NDArray[np.float64]

COLUMNS = ("time_s", "setpoint_c", "reading_c", "output", "switch")
VALUES = COLUMNS[1:]
CHUNK = 65_536
BUCKET = 64
BATCH = 4
"""Chunks written at once while a long series is taken in."""
SMALL_CHUNKS = 240
"""Live chunks are merged once there are this many small ones: about four minutes of recording."""

_OPTIONS = pa.ipc.IpcWriteOptions(compression=pa.Codec("zstd", compression_level=1))


def _pack(columns: dict[str, Array]) -> bytes:
    batch = pa.record_batch([pa.array(c) for c in columns.values()], names=list(columns))
    sink = pa.BufferOutputStream()
    with pa.ipc.new_stream(sink, batch.schema, options=_OPTIONS) as writer:
        writer.write_batch(batch)
    return sink.getvalue().to_pybytes()


def _unpack(data: bytes) -> dict[str, Array]:
    table = pa.ipc.open_stream(pa.py_buffer(data)).read_all()
    return {name: table.column(name).to_numpy() for name in table.column_names}


_looked_at = lru_cache(maxsize=8)(_unpack)
"""Chunks read a moment ago: somebody who pans or zooms reads the same ones. Known by their bytes, so never another's."""


def _overview(series: Series, bucket: int = BUCKET) -> dict[str, Array]:
    starts = np.arange(0, len(series), bucket)
    found = {"time_s": series.time_s[starts]}
    for name, column in zip(VALUES, series.columns[1:], strict=True):
        found[f"{name}_low"] = np.fmin.reduceat(column, starts)
        found[f"{name}_high"] = np.fmax.reduceat(column, starts)
    return found


def _chunk(run: Run, sequence: int, part: Series) -> Chunk:
    # times keep full precision; a reading is known to a hundredth of a degree at best, so 32 bits hold it
    columns = {"time_s": part.time_s} | {n: c.astype(np.float32) for n, c in zip(VALUES, part.columns[1:], strict=True)}
    return Chunk(
        run=run,
        sequence=sequence,
        first_s=float(part.time_s[0]),
        last_s=float(part.time_s[-1]),
        count=len(part),
        data=_pack(columns),
        overview=_pack(_overview(part)),
    )


def _store(run: Run, sequence: int, series: Series) -> None:
    """The series as chunks, numbered from ``sequence``: written while the next are compressed, which leaves the interpreter."""
    starts = range(0, len(series), CHUNK)

    def made(i: int) -> Chunk:
        return _chunk(run, sequence + i, Series(*(c[starts[i] : starts[i] + CHUNK] for c in series.columns)))

    if len(starts) == 1:
        made(0).save(force_insert=True)
        return
    with ThreadPoolExecutor(2) as pool:
        chunks = pool.map(made, range(len(starts)))
        while batch := list(islice(chunks, BATCH)):
            Chunk.objects.bulk_create(batch)


def append(run: Run, series: Series) -> None:
    """Add samples after those already there, in one transaction; updates the run's length, count and peak."""
    if not len(series):
        return
    with transaction.atomic():
        newest = run.chunks.order_by("-sequence").values("sequence").first()
        sequence = newest["sequence"] + 1 if newest else 0
        _store(run, sequence, series)
        highest = float(np.fmax.reduce(series.reading_c))
        peaks = [p for p in (run.peak_c, highest) if p is not None and np.isfinite(p)]
        grown = {
            "samples": run.samples + len(series),
            "length_s": float(series.time_s[-1]),
            "peak_c": max(peaks, default=None),
        }
        Run.objects.filter(pk=run.pk).update(**grown)
    for name, value in grown.items():  # only once it is on disk: what was refused is tried again
        setattr(run, name, value)


def merge(run: Run) -> None:
    """Merge the small chunks at the run's end into larger ones; nothing else about it changes. What is full is left alone, so that
    this costs no more at the end of a long run than at its beginning."""
    with transaction.atomic():
        full = run.chunks.filter(count__gte=CHUNK).order_by("-sequence").values_list("sequence", flat=True).first()
        tail = run.chunks.filter(sequence__gt=-1 if full is None else full).order_by("sequence")
        if tail.count() < 2:
            return
        series = Series(*_join((_unpack(d) for d in tail.values_list("data", flat=True)), COLUMNS))
        first = tail.values_list("sequence", flat=True)[0]
        tail.delete()
        _store(run, first, series)


def parts(run: Run) -> Iterator[Series]:
    """The whole run, at most about ``CHUNK`` samples at a time."""
    waiting: list[dict[str, Array]] = []
    count = 0
    for data in run.chunks.order_by("sequence").values_list("data", flat=True).iterator(chunk_size=16):
        columns = _unpack(data)
        if waiting and count + len(columns["time_s"]) > CHUNK:
            yield Series(*_join(waiting, COLUMNS))
            waiting, count = [], 0
        waiting.append(columns)
        count += len(columns["time_s"])
    if waiting:
        yield Series(*_join(waiting, COLUMNS))


def _between(parts: Iterable[dict[str, Array]], names: Iterable[str], start_s: float, end_s: float) -> list[Array]:
    """The columns joined, of ``start_s ≤ time ≤ end_s`` only: what is outside is neither copied nor converted."""
    ends = (start_s, np.nextafter(end_s, np.inf))
    cut = ({n: c[slice(*np.searchsorted(p["time_s"], ends))] for n, c in p.items()} for p in parts)
    return _join(cut, names)


def _join(parts: Iterable[dict[str, Array]], names: Iterable[str]) -> list[Array]:
    collected = list(parts)
    return [np.concatenate([p[n] for p in collected]).astype(np.float64) if collected else np.empty(0) for n in names]


def read(run: Run, start_s: float | None = None, end_s: float | None = None) -> Series:
    """Every sample with ``start_s ≤ time ≤ end_s`` (default: all)."""
    chunks = run.chunks.all()
    if start_s is not None:
        chunks = chunks.filter(last_s__gte=start_s)
    if end_s is not None:
        chunks = chunks.filter(first_s__lte=end_s)
    series = Series(*_join((_unpack(d) for d in chunks.values_list("data", flat=True)), COLUMNS))
    if start_s is None and end_s is None:
        return series
    return series.between(-np.inf if start_s is None else start_s, np.inf if end_s is None else end_s)


def window(run: Run, start_s: float, end_s: float, points: int) -> dict[str, Array]:
    """At most about ``points`` buckets of the window: first time, and minimum and maximum of every column.

    A bucket of one sample has equal minimum and maximum, so a narrow window shows every sample as it is.
    """
    chunks = run.chunks.filter(last_s__gte=start_s, first_s__lte=end_s)
    names = ["time_s", *(f"{n}_{end}" for n in VALUES for end in ("low", "high"))]
    if sum(chunks.order_by().values_list("count", flat=True)) > points * BUCKET:
        parts = _between((_unpack(d) for d in chunks.values_list("overview", flat=True)), names, start_s, end_s)
    else:
        kept = (_looked_at(d) for d in chunks.values_list("data", flat=True))
        time_s, *values = _between(kept, COLUMNS, start_s, end_s)
        parts = [time_s, *(c for column in values for c in (column, column))]
    step = max(1, -(-len(parts[0]) // points))
    if step > 1:
        starts = np.arange(0, len(parts[0]), step)
        parts = [
            parts[0][starts],
            *(
                (np.fmin if name.endswith("_low") else np.fmax).reduceat(part, starts)
                for name, part in zip(names[1:], parts[1:], strict=True)
            ),
        ]
    return dict(zip(names, parts, strict=True))
