"""Samples not yet on disk, of a run and of what else is measured during it. They are flushed at least every second in their own
transaction, so a killed process loses no more than that."""

import logging
import threading
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from weakref import WeakSet

import numpy as np
from django.db import OperationalError, connection

from rellux.core.runs.channels import Channel
from rellux.core.runs.series import Points, Series

from . import store
from .models import Event, Run, Track

log = logging.getLogger("rellux.recorder")

ONE_WRITER = threading.RLock()
"""Held by whoever uses the database here: SQLite lets one write at a time, and the others wait in steps of up to a tenth of a second."""
FLUSH_S = 0.6
HOLD_S = 20 * 60.0
"""How long samples are kept in memory while the disk is full, s: some 24,000 at the fastest poll, about 5 MB."""
NEXT_S = 1e-3
"""A device's samples are this far apart at least on a run's time axis, s."""


@contextmanager
def _on_the_disk_itself() -> Iterator[None]:
    """Samples are on the disk when they are said to be, so that a power cut loses no more than a kill does; nothing else here needs
    to wait for it."""
    if connection.in_atomic_block:
        yield
        return
    with connection.cursor() as cursor:
        cursor.execute("PRAGMA synchronous=FULL")
        try:
            yield
        finally:
            cursor.execute("PRAGMA synchronous=NORMAL")


@dataclass(eq=False)
class Buffer:
    """Samples not yet on disk. Where the database takes nothing they are kept for ``HOLD_S``, and written as soon as it does again;
    what comes after that is lost, and marked as a gap. Whichever is due first writes what all of them hold."""

    held: Run | Track
    rows: list[tuple[float, ...]] = field(default_factory=list)
    flushed_at: float = field(default_factory=time.monotonic)
    last_s: float = -1.0
    small: int = 0
    held_since: float | None = None
    lost: int = 0
    _sequence: int | None = None
    _adding: threading.Lock = field(default_factory=threading.Lock)

    def __post_init__(self) -> None:
        with _REGISTER:
            _BUFFERS.add(self)

    @property
    def run(self) -> Run:
        return self.held if isinstance(self.held, Run) else self.held.run

    def add(self, row: tuple[float, ...]) -> None:
        if self.left_s() > 0:
            with self._adding:
                self.rows.append(row)
            self.last_s = row[0]
        else:
            self.lost += 1

    def left_s(self) -> float:
        """For how long samples are still kept while nothing can be written, s."""
        return HOLD_S if self.held_since is None else max(0.0, HOLD_S - (time.monotonic() - self.held_since))

    @property
    def _due(self) -> bool:
        return time.monotonic() - self.flushed_at >= FLUSH_S

    def flush_when_due(self) -> None:
        if not self._due:
            return
        with ONE_WRITER:
            if self._due:  # nobody else has done it meanwhile
                with _REGISTER:
                    others = [b for b in _BUFFERS if b is not self and b.rows]
                _write([self, *others])
        self._merge()

    def flush(self) -> None:
        """Write what is kept. A database that does not take it keeps it here, to be tried again."""
        with ONE_WRITER:
            _write([self])
        self._merge()

    def _merge(self) -> None:
        if self.small < store.SMALL_CHUNKS:
            return
        try:
            with ONE_WRITER, _on_the_disk_itself():
                store.merge(self.held)
            self.small = 0
        except OperationalError as error:
            log.warning("samples are not merged: %s", error)

    def taken(self) -> list[tuple[float, ...]]:
        """What is kept, and is kept no more."""
        with self._adding:
            rows, self.rows = self.rows, []
        return rows

    def put_back(self, rows: list[tuple[float, ...]]) -> None:
        with self._adding:
            self.rows = rows + self.rows

    def chunk(self, rows: list[tuple[float, ...]]) -> tuple[Run | Track, int, Series | Points]:
        """These rows as the chunk that comes next."""
        if self._sequence is None:
            self._sequence = store.next_sequence(self.held)
        time_s, *values = np.array(rows, dtype=np.float64).T
        return (
            self.held,
            self._sequence,
            Series(time_s, *values) if isinstance(self.held, Run) else Points(time_s, tuple(values)),
        )

    def written(self) -> None:
        """Its chunk is on disk."""
        self._sequence = None if self._sequence is None else self._sequence + 1
        self.small += 1


_REGISTER = threading.Lock()
_BUFFERS: "WeakSet[Buffer]" = WeakSet()


def _write(buffers: list[Buffer]) -> None:
    """What these hold, in one transaction; the first is the one that asked. Where one of them cannot be written, its run being no more,
    the first is written alone: it hears of its own fault, and of no other's. Only while no other thread writes."""
    taken = [(b, rows) for b in buffers if (rows := b.taken())]
    for buffer in buffers:
        buffer.flushed_at = time.monotonic()
    if not taken and not any(b.lost for b in buffers):
        return
    try:
        with _on_the_disk_itself():
            store.append_all([b.chunk(rows) for b, rows in taken])
            for buffer, _ in taken:
                buffer.written()
            taken = []
            for buffer in buffers:
                _tell_lost(buffer)
                buffer.held_since = None
    except OperationalError as error:
        for buffer, rows in taken:
            buffer.put_back(rows)
        for buffer in buffers:
            if buffer.rows or buffer.lost:
                buffer.held_since = buffer.held_since or time.monotonic()
        log.warning("samples cannot be written to disk and are kept in memory: %s", error)
    except Exception:
        for buffer, rows in taken:
            buffer.put_back(rows)
        if len(buffers) == 1:
            raise
        _write(buffers[:1])


def _tell_lost(buffer: Buffer) -> None:
    """What came while nothing could be written is missing, and it is marked where."""
    if buffer.lost:
        text = f"nothing could be written to disk: {buffer.lost} samples are missing"
        Event.objects.create(run=buffer.run, time_s=max(buffer.last_s, 0.0), kind="gap", text=text)
        buffer.lost = 0


class Beside:
    """The channels of one device, recorded beside a run."""

    def __init__(self, device: str, channels: Callable[[], Sequence[Channel]], interval_s: float) -> None:
        """``channels`` is asked once it has been heard: it may be that nothing is known of it before."""
        self._device, self._interval_s, self._ask = device, interval_s, channels
        self._channels: list[dict[str, object]] | None = None
        self._buffer: Buffer | None = None

    def add(self, run: Run, at_s: float, values: Mapping[str, float | str | None]) -> None:
        """One look at the device, at this time of the run."""
        if self._channels is None:
            self._channels = [told(c) for c in self._ask() if c.kept]
        if not self._channels:
            return
        if self._buffer is None or self._buffer.run.pk != run.pk:
            self.end()
            if self._buffer is not None:
                return  # the former one is not on disk yet
            track, _ = Track.objects.get_or_create(
                run=run,
                device=self._device,
                defaults={"channels": self._channels, "interval_s": self._interval_s},
            )
            self._buffer = Buffer(track, last_s=track.length_s if track.samples else -1.0)
        at_s = max(round(at_s, 3), self._buffer.last_s + NEXT_S)
        self._buffer.add((at_s, *(number(values, c["source"]) for c in self._buffer.held.channels)))
        self._buffer.flush_when_due()

    def gap(self) -> None:
        """Nothing is heard of it: what it would have shown is missing from here on."""
        if self._buffer is not None:
            self._buffer.flush()

    def end(self) -> None:
        """The run is over: everything onto the disk. What cannot be written stays here."""
        if self._buffer is None:
            return
        self._buffer.flush()
        if not self._buffer.rows:
            store.merge(self._buffer.held)
            self._buffer = None

    def flush_when_due(self) -> None:
        if self._buffer is not None:
            self._buffer.flush_when_due()


def told(channel: Channel) -> dict[str, object]:
    """A channel as a track keeps it."""
    return {
        "source": channel.source,
        "role": channel.role,
        "name": channel.called,
        "kind": channel.kind.value if channel.kind else "",
        "sensor": channel.sensor,
        "offset": channel.offset,
    }


def number(values: Mapping[str, float | str | None], name: str) -> float:
    """A value as a number; NaN where the device has none."""
    value = values.get(name)
    return np.nan if value is None or isinstance(value, str) else float(value)
