"""Samples not yet on disk, of a run and of what else is measured during it. They are flushed at least every second in their own
transaction, so a killed process loses no more than that."""

import logging
import threading
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field

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


@dataclass
class Buffer:
    """Samples not yet on disk. Where the database takes nothing they are kept for ``HOLD_S``, and written as soon as it does again;
    what comes after that is lost, and marked as a gap."""

    held: Run | Track
    rows: list[tuple[float, ...]] = field(default_factory=list)
    flushed_at: float = field(default_factory=time.monotonic)
    last_s: float = -1.0
    small: int = 0
    held_since: float | None = None
    lost: int = 0

    @property
    def run(self) -> Run:
        return self.held if isinstance(self.held, Run) else self.held.run

    def add(self, row: tuple[float, ...]) -> None:
        if self.left_s() > 0:
            self.rows.append(row)
            self.last_s = row[0]
        else:
            self.lost += 1

    def left_s(self) -> float:
        """For how long samples are still kept while nothing can be written, s."""
        return HOLD_S if self.held_since is None else max(0.0, HOLD_S - (time.monotonic() - self.held_since))

    def flush_when_due(self) -> None:
        if time.monotonic() - self.flushed_at >= FLUSH_S:
            self.flush()

    def flush(self) -> None:
        """Write what is kept. A database that does not take it keeps it here, to be tried again."""
        self.flushed_at = time.monotonic()
        try:
            with ONE_WRITER, _on_the_disk_itself():
                self._write()
            self.held_since = None
        except OperationalError as error:
            if self.rows or self.lost:
                self.held_since = self.held_since or time.monotonic()
            log.warning("samples cannot be written to disk and are kept in memory: %s", error)

    def _write(self) -> None:
        if self.rows:
            store.append(self.held, self._samples())
            self.rows.clear()
            self.small += 1
        if self.lost:
            text = f"nothing could be written to disk: {self.lost} samples are missing"
            Event.objects.create(run=self.run, time_s=max(self.last_s, 0.0), kind="gap", text=text)
            self.lost = 0
        if self.small >= store.SMALL_CHUNKS:
            store.merge(self.held)
            self.small = 0

    def _samples(self) -> Series | Points:
        time_s, *values = np.array(self.rows, dtype=np.float64).T
        return Series(time_s, *values) if isinstance(self.held, Run) else Points(time_s, tuple(values))


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
