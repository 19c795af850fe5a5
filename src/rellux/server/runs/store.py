"""Samples on disk: chunks of compressed columns, each with a minimum-maximum overview for drawing.

A run holds a :class:`Series`, each of its tracks (one a device) :class:`Points` at times of their own; both are kept alike. A chunk's
``data`` are the columns, packed; ``overview`` the same per bucket of ``BUCKET`` samples with the first time, minimum and maximum of
every column. Narrow windows read data, wide ones the overview. A chunk of less than a bucket is plain and has no overview: it is merged
before long.
"""

from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from functools import lru_cache
from itertools import islice
from typing import Any

import numpy as np
from django.db import transaction
from django.db.models import Case, F, When
from numpy.typing import NDArray

from rellux.core.runs.series import Points, Series

from .models import Chunk, Run, Track, TrackChunk
from .packing import pack, unpack

Array = NDArray[np.float64]
Held = Run | Track
Samples = Series | Points


def nobody(share: float) -> None:
    """Nobody hears how much is done."""


COLUMNS = ("time_s", "setpoint_c", "reading_c", "output", "switch")
CHUNK = 65_536
BUCKET = 64
BATCH = 4
"""Chunks written at once while a long series is taken in."""
SMALL_CHUNKS = 240
"""Live chunks are merged once there are this many small ones: about four minutes of recording."""

_looked_at = lru_cache(maxsize=8)(unpack)
"""Chunks read a moment ago: somebody who pans or zooms reads the same ones. Known by their bytes, so never another's."""


def names_of(held: Held) -> tuple[str, ...]:
    """What the columns of its chunks are called: of a track as its device calls its values."""
    return COLUMNS if isinstance(held, Run) else ("time_s", *(c["source"] for c in held.channels))


def _made(held: Held, columns: Sequence[Array]) -> Samples:
    return Series(*columns) if isinstance(held, Run) else Points(columns[0], tuple(columns[1:]))


def _overview(columns: dict[str, Array]) -> dict[str, Array]:
    time_s, *values = columns.items()
    starts = np.arange(0, len(time_s[1]), BUCKET)
    found = {"time_s": time_s[1][starts]}
    for name, column in values:
        found[f"{name}_low"] = np.fmin.reduceat(column, starts)
        found[f"{name}_high"] = np.fmax.reduceat(column, starts)
    return found


def _chunk(held: Held, sequence: int, part: Samples) -> Chunk | TrackChunk:
    # times keep full precision; a reading is known to a hundredth of a degree at best, so 32 bits hold it
    names = names_of(held)[1:]
    columns = {"time_s": part.time_s} | {n: c.astype(np.float32) for n, c in zip(names, part.columns[1:], strict=True)}
    made = {"track": held} if isinstance(held, Track) else {"run": held}
    return held.chunks.model(
        **made,
        sequence=sequence,
        first_s=float(part.time_s[0]),
        last_s=float(part.time_s[-1]),
        count=len(part),
        data=pack(columns, len(part) >= BUCKET),
        overview=pack(_overview(columns), small=False) if len(part) >= BUCKET else b"",
    )


def _store(held: Held, sequence: int, given: Samples, told: Callable[[float], None] = nobody) -> None:
    """Samples as chunks, numbered from ``sequence``: written while the next are compressed, which leaves the interpreter."""
    starts = range(0, len(given), CHUNK)

    def made(i: int) -> Chunk | TrackChunk:
        return _chunk(held, sequence + i, _made(held, [c[starts[i] : starts[i] + CHUNK] for c in given.columns]))

    if len(starts) == 1:
        made(0).save(force_insert=True)
        return
    with ThreadPoolExecutor(2) as pool:
        chunks = pool.map(made, range(len(starts)))
        done = 0
        while batch := list(islice(chunks, BATCH)):
            held.chunks.model.objects.bulk_create(batch)
            done += len(batch)
            told(done / len(starts))


def append(held: Held, given: Samples, told: Callable[[float], None] = nobody) -> None:
    """Add samples after those already there, in one transaction; updates the length and count, of a run its peak too. ``told`` hears
    how much is done; what it raises undoes it."""
    if not len(given):
        return
    with transaction.atomic():
        _store(held, next_sequence(held), given, told)
        grown = _grown(held, given)
        type(held).objects.filter(pk=held.pk).update(**grown)
    _note(held, grown)


def next_sequence(held: Held) -> int:
    """The number of the chunk that comes next."""
    newest = held.chunks.order_by("-sequence").values("sequence").first()
    return newest["sequence"] + 1 if newest else 0


def append_all(given: Sequence[tuple[Held, int, Samples]]) -> None:
    """The same for several at once, a chunk of at most ``CHUNK`` samples each, with its number: one transaction for all of them, since that
    is what costs. All of it is on disk afterwards, or nothing."""
    grown = [(held, _grown(held, samples)) for held, _, samples in given]
    with transaction.atomic():
        for chunk, kind, fields in ((Chunk, Run, GROWS), (TrackChunk, Track, GROWS[:2])):
            chunk.objects.bulk_create(_chunk(*one) for one in given if isinstance(one[0], kind))  # type: ignore[arg-type]
            rows = [kind(pk=held.pk, **more) for held, more in grown if isinstance(held, kind)]
            kind.objects.bulk_update(rows, fields)
    for held, more in grown:
        _note(held, more)


GROWS = ("samples", "length_s", "peak_c")


def _grown(held: Held, given: Samples) -> dict[str, Any]:
    """What is known of it with these after those already there."""
    grown: dict[str, Any] = {"samples": held.samples + len(given), "length_s": float(given.time_s[-1])}
    if isinstance(held, Run) and isinstance(given, Series):
        highest = float(np.fmax.reduce(given.reading_c))
        grown["peak_c"] = max((p for p in (held.peak_c, highest) if p is not None and np.isfinite(p)), default=None)
    return grown


def _note(held: Held, grown: dict[str, Any]) -> None:
    """Only once it is on disk: what was refused is tried again."""
    for name, value in grown.items():
        setattr(held, name, value)


def merge(held: Held) -> None:
    """Merge the small chunks at the end into larger ones; nothing else changes. What is full is left alone, so that this costs no
    more at the end of a long run than at its beginning."""
    with transaction.atomic():
        full = held.chunks.filter(count__gte=CHUNK).order_by("-sequence").values_list("sequence", flat=True).first()
        tail = held.chunks.filter(sequence__gt=-1 if full is None else full).order_by("sequence")
        if tail.count() < 2:
            return
        joined = _joined(held, (unpack(d) for d in tail.values_list("data", flat=True)))
        first = tail.values_list("sequence", flat=True)[0]
        tail.delete()
        _store(held, first, joined)


def parts(held: Held) -> Iterator[Samples]:
    """All of it, at most about ``CHUNK`` samples at a time."""
    waiting: list[dict[str, Array]] = []
    count = 0
    for data in held.chunks.order_by("sequence").values_list("data", flat=True).iterator(chunk_size=16):
        columns = unpack(data)
        if waiting and count + len(columns["time_s"]) > CHUNK:
            yield _joined(held, waiting)
            waiting, count = [], 0
        waiting.append(columns)
        count += len(columns["time_s"])
    if waiting:
        yield _joined(held, waiting)


def _joined(held: Held, parts: Iterable[dict[str, Array]]) -> Samples:
    return _made(held, _join(parts, names_of(held)))


def _between(parts: Iterable[dict[str, Array]], names: Iterable[str], start_s: float, end_s: float) -> list[Array]:
    """The columns joined, of ``start_s ≤ time ≤ end_s`` only: what is outside is neither copied nor converted."""
    ends = (start_s, np.nextafter(end_s, np.inf))
    cut = ({n: c[slice(*np.searchsorted(p["time_s"], ends))] for n, c in p.items()} for p in parts)
    return _join(cut, names)


def _join(parts: Iterable[dict[str, Array]], names: Iterable[str]) -> list[Array]:
    collected = list(parts)
    return [np.concatenate([p[n] for p in collected]).astype(np.float64) if collected else np.empty(0) for n in names]


def read(held: Held, start_s: float | None = None, end_s: float | None = None) -> Samples:
    """Every sample with ``start_s ≤ time ≤ end_s`` (default: all): a series of a run, points of a track."""
    chunks = held.chunks.all()
    if start_s is not None:
        chunks = chunks.filter(last_s__gte=start_s)
    if end_s is not None:
        chunks = chunks.filter(first_s__lte=end_s)
    found = _joined(held, (unpack(d) for d in chunks.values_list("data", flat=True)))
    if start_s is None and end_s is None:
        return found
    return found.between(-np.inf if start_s is None else start_s, np.inf if end_s is None else end_s)


def window(held: Held, start_s: float, end_s: float, points: int) -> dict[str, Array]:
    """At most about ``points`` buckets of the window: first time, and minimum and maximum of every column.

    A bucket of one sample has equal minimum and maximum, so a narrow window shows every sample as it is.
    """
    chunks = held.chunks.filter(last_s__gte=start_s, first_s__lte=end_s)
    names = ["time_s", *(f"{n}_{end}" for n in names_of(held)[1:] for end in ("low", "high"))]
    if sum(chunks.order_by().values_list("count", flat=True)) > points * BUCKET:
        held_in = Case(When(count__lt=BUCKET, then=F("data")), default=F("overview"))
        looks = chunks.annotate(piece=held_in).values_list("piece", "count")
        found = (_overview(unpack(d)) if count < BUCKET else unpack(d) for d, count in looks)
        parts = _between(found, names, start_s, end_s)
    else:
        kept = (_looked_at(d) for d in chunks.values_list("data", flat=True))
        time_s, *values = _between(kept, names_of(held), start_s, end_s)
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
