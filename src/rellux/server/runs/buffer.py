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
FLUSH_S, OVERDUE_S = 0.6, 0.9
"""How long samples wait for the writer, and from when on each device's own thread writes them, s."""
LOOK_S = 0.05
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
    what comes after that is lost, and marked as a gap. A :class:`Writer` writes what all of them hold, so that no device waits for the
    disk; what it does not, the thread of the device writes itself, and hears why it cannot be."""

    held: Run | Track
    rows: list[tuple[float, ...]] = field(default_factory=list)
    since: float = field(default_factory=time.monotonic)
    last_s: float = -1.0
    small: int = 0
    held_since: float | None = None
    lost: int = 0
    refused: bool = False
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
                if not self.rows:
                    self.since = time.monotonic()
                self.rows.append(row)
            self.last_s = row[0]
        else:
            self.lost += 1

    def left_s(self) -> float:
        """For how long samples are still kept while nothing can be written, s."""
        return HOLD_S if self.held_since is None else max(0.0, HOLD_S - (time.monotonic() - self.held_since))

    def waits(self, seconds: float) -> bool:
        """Whether what it holds came, or was tried to be written, so long ago."""
        return bool(self.rows) and time.monotonic() - self.since >= seconds

    def flush_when_due(self) -> None:
        """Write it where the writer has not."""
        if self.refused or self.waits(OVERDUE_S):
            self.flush()

    def flush(self) -> None:
        """Write what is kept. A database that has no room for it leaves it here, to be tried again."""
        with ONE_WRITER:
            _write([self])
        self.merge()

    def merge(self) -> None:
        """Join its chunks on disk once they are many."""
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
            self.rows, self.since = rows + self.rows, time.monotonic()

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


def _registered() -> list[Buffer]:
    with _REGISTER:
        return list(_BUFFERS)


class Writer(threading.Thread):
    """Writes what falls due, of all devices in one transaction. Where one of them cannot be written, its run being no more, each is
    written alone, and that one is left to the thread of its device from then on."""

    def __init__(self) -> None:
        super().__init__(name="writer", daemon=True)
        self.stopping = threading.Event()

    def run(self) -> None:
        try:
            while not self.stopping.wait(LOOK_S):
                self.look()
        finally:
            connection.close()

    def look(self) -> None:
        """Write where anything is due."""
        with ONE_WRITER:
            waiting = [b for b in _registered() if b.rows and not b.refused]
            if not any(b.waits(FLUSH_S) for b in waiting):
                return
            try:
                _write(waiting)
            except Exception:
                for buffer in waiting:
                    _try(buffer)
            for buffer in waiting:
                buffer.merge()


def _write(buffers: list[Buffer]) -> None:
    """What these hold, in one transaction, or none of it: then they keep it. Only while no other thread writes."""
    taken = [(b, rows) for b in buffers if (rows := b.taken())]
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
        raise
    for buffer in buffers:
        buffer.refused = False


def _try(buffer: Buffer) -> None:
    try:
        _write([buffer])
    except Exception as error:
        buffer.refused = True
        log.warning("samples are left to the thread of their device: %s", error)


def _tell_lost(buffer: Buffer) -> None:
    """What came while nothing could be written is missing, and it is marked where."""
    if buffer.lost:
        text = f"nothing could be written to disk: {buffer.lost} samples are missing"
        Event.objects.create(run=buffer.run, time_s=max(buffer.last_s, 0.0), kind="gap", text=text)
        buffer.lost = 0


class Beside:
    """The channels of one device, recorded beside a run."""

    def __init__(self, device: str, channels: Callable[[], Sequence[Channel]], interval_s: float) -> None:
        """``channels`` is asked for every run, once it has been heard: it may be that nothing is known of it before, and somebody may have
        said something else of it a moment ago."""
        self._device, self._interval_s, self._ask = device, interval_s, channels
        self._channels: list[dict[str, object]] = []
        self._asked_for: int | None = None
        self._buffer: Buffer | None = None

    def add(self, run: Run, at_s: float, values: Mapping[str, float | str | None]) -> None:
        """One look at the device, at this time of the run."""
        if self._asked_for != run.pk:
            self._channels, self._asked_for = [told(c) for c in self._ask() if c.kept], run.pk
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
