"""The recorder: one thread a link polls the controller, keeps its state, records the open run and sends writes.

Samples are flushed at least every second in their own transaction, so a killed process loses no more than that. Started
again, it goes on with a run that was being recorded: the controller's own clock keeps the times right, and the pause
is marked as a gap.
"""

import logging
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field

import numpy as np
from django.db import IntegrityError, OperationalError, connection, transaction
from django.utils import timezone

from rellux.core.control.counted import between
from rellux.core.errors import Refused
from rellux.core.messages import shortened
from rellux.core.runs.series import Series
from rellux.core.setup.parameters import spoken_value
from rellux.devices.modbus_link import LinkDown, ModbusLink
from rellux.devices.registers import Value
from rellux.devices.text_link import LinkSilent, TextLink
from rellux.server.links import aside
from rellux.server.links.commands import claim, end_begun, next_waiting
from rellux.server.links.models import Link, LinkState
from rellux.server.links.reaching import connect
from rellux.server.links.sending import send

from . import store
from .models import Event, Run

log = logging.getLogger("rellux.recorder")

FLUSH_S = 0.8
HOLD_S = 20 * 60.0
"""How long samples are kept in memory while the disk is full, s: some 24,000 at the fastest poll, about 5 MB."""
STATE_S = 0.25
LOOK_S = 0.25
ALIVE_S = 1.0
LATE = 1.6
"""Times the usual interval from which a poll is late (our choice)."""
RETRY_S = (0.5, 1.0, 2.0, 4.0)


@dataclass
class Between:
    """What the output did between two polls of which the second came late, where the controller counts its own on-time."""

    last: tuple[float, float, float] = (np.nan, np.nan, np.nan)
    usual_s: float = np.inf

    def missed(self, at_s: float, on_s: float, output: float) -> tuple[float, float] | None:
        """For a late poll: a moment since the one before, and the output in % from then on; None where it came in time or nothing
        is counted."""
        look, step = (at_s, on_s, output), at_s - self.last[0]
        late = step > LATE * self.usual_s
        found = between(self.last, look) if late else None
        if step > 0 and not late:
            self.usual_s = step if not np.isfinite(self.usual_s) else self.usual_s + (step - self.usual_s) / 8.0
        self.last = look
        return found


@dataclass
class Buffer:
    """Samples of the open run not yet on disk. Where the database takes nothing they are kept for ``HOLD_S``, and written as soon
    as it does again; what comes after that is lost, and marked as a gap."""

    run: Run
    rows: list[tuple[float, float, float, float, float]] = field(default_factory=list)
    flushed_at: float = field(default_factory=time.monotonic)
    last_s: float = -1.0
    small: int = 0
    held_since: float | None = None
    lost: int = 0

    def add(self, row: tuple[float, float, float, float, float]) -> None:
        if self.left_s() > 0:
            self.rows.append(row)
            self.last_s = row[0]
        else:
            self.lost += 1

    def left_s(self) -> float:
        """For how long samples are still kept while nothing can be written, s."""
        return HOLD_S if self.held_since is None else max(0.0, HOLD_S - (time.monotonic() - self.held_since))

    def flush(self) -> None:
        """Write what is kept. A database that does not take it keeps it here, to be tried again."""
        self.flushed_at = time.monotonic()
        try:
            if self.rows:
                store.append(self.run, Series(*np.array(self.rows, dtype=np.float64).T))
                self.rows.clear()
                self.small += 1
            if self.lost:
                text = f"nothing could be written to disk: {self.lost} samples are missing"
                Event.objects.create(run=self.run, time_s=max(self.last_s, 0.0), kind="gap", text=text)
                self.lost = 0
            self.held_since = None
            if self.small >= store.SMALL_CHUNKS:
                store.merge(self.run)
                self.small = 0
        except OperationalError as error:
            if self.rows or self.lost:
                self.held_since = self.held_since or time.monotonic()
            log.warning("samples cannot be written to disk and are kept in memory: %s", error)


class LinkRecorder(threading.Thread):
    """Polls one link until told to stop."""

    def __init__(self, link: Link) -> None:
        super().__init__(name=f"link-{link.pk}", daemon=True)
        self.link = link
        self.fingerprint = fingerprint(link)
        self.stopping = threading.Event()
        self._buffer: Buffer | None = None
        self._held = False
        self._began = time.monotonic()
        self._looked = self._stated = self._ordered = 0.0
        self._between = Between()

    def run(self) -> None:
        failures = 0
        try:
            with self._despite_the_disk():
                end_begun(self.link)
            while not self.stopping.is_set():
                try:
                    with connect(self.link) as controller:
                        failures = 0
                        self._poll_until_stopped(controller)
                except (LinkDown, Refused) as error:
                    self._down(str(error), first=failures == 0)
                    self.stopping.wait(RETRY_S[min(failures, len(RETRY_S) - 1)])
                    failures += 1
        except IntegrityError:
            if Link.objects.filter(pk=self.link.pk).exists():
                raise
            self._buffer = None  # the rig was removed, with everything that hung on it
        finally:
            if self._buffer:
                self._buffer.flush()
                if self._buffer.rows:
                    log.error("%s samples could not be written to disk before the end", len(self._buffer.rows))
            aside.say(self.link.pk, None)
            connection.close()

    def _poll_until_stopped(self, controller: ModbusLink | TextLink) -> None:
        following, silent = time.monotonic(), False
        while not self.stopping.is_set():
            try:
                values = controller.read()
            except LinkSilent as error:
                self._down(str(error), first=not silent)
                silent = True
                continue
            if values is None:  # nothing has been printed since
                self._take_orders(controller)
                self._flush_when_due()
                continue
            silent = False
            now = time.monotonic()
            if now - self._stated >= STATE_S:
                self._tell(values)
                self._stated = now
            if now - self._looked >= LOOK_S:
                with self._despite_the_disk():
                    self._look_for_run(values)
                self._looked = now
            self._take_orders(controller)
            with self._despite_the_disk():
                self._record(values)
            if not controller.comes_by_itself:
                following = max(following + self.link.poll_s, now)
                self._wait_until(following, controller)

    def _wait_until(self, moment: float, controller: ModbusLink | TextLink) -> None:
        """Until the next poll; orders do not wait for a slow one."""
        while (left := moment - time.monotonic()) > 0 and not self.stopping.wait(min(left, LOOK_S)):
            self._take_orders(controller)

    def _take_orders(self, controller: ModbusLink | TextLink) -> None:
        if time.monotonic() - self._ordered >= LOOK_S:
            with self._despite_the_disk():
                self._send_commands(controller)
            self._ordered = time.monotonic()

    @contextmanager
    def _despite_the_disk(self) -> Iterator[None]:
        """A database that takes nothing does not end the polling: what could not be written is tried again in its turn."""
        try:
            yield
        except OperationalError as error:
            log.warning("the database takes nothing: %s", error)

    def _tell(self, values: dict[str, Value | None]) -> None:
        """The newest poll, into the database or beside it."""
        held = self._buffer is not None and self._buffer.held_since is not None
        try:
            self._state(True, "", values)
        except OperationalError:
            held = True
        if not held:
            aside.say(self.link.pk, None)
            if self._held:
                with self._despite_the_disk():
                    end_begun(self.link)  # what was being sent when the disk was full
            self._held = False
            return
        self._held = True
        kept, left_s = (len(self._buffer.rows), self._buffer.left_s()) if self._buffer else (0, 0.0)
        aside.say(self.link.pk, aside.Said(timezone.now().isoformat(), values, kept, left_s))

    def _state(self, online: bool, message: str, values: dict[str, Value | None] | None) -> None:
        changed = {
            "at": timezone.now(),
            "online": online,
            "message": shortened(message, 200),
            "generation": self.link.generation,
        }
        if values is not None:
            changed["values"] = values
        LinkState.objects.update_or_create(link=self.link, defaults=changed)

    def _down(self, message: str, first: bool) -> None:
        aside.say(self.link.pk, None)
        with self._despite_the_disk():
            self._state(False, message, None)
            if self._buffer:
                self._buffer.flush()
                if first and self._buffer.last_s >= 0:
                    self._mark(self._buffer.run, self._buffer.last_s, "gap", f"no answer: {message}")

    def _mark(self, run: Run, time_s: float, kind: str, text: str) -> None:
        Event.objects.create(run=run, time_s=time_s, kind=kind, text=shortened(text, 200))

    def _look_for_run(self, values: dict[str, Value | None]) -> None:
        """Follow the database: a run opened or closed by somebody."""
        open_run = Run.objects.filter(
            rig_id=self.link.rig_id, status=Run.Status.RECORDING, source=Run.Source.LIVE
        ).first()
        if self._buffer and (open_run is None or open_run.pk != self._buffer.run.pk):
            self._buffer.flush()
            if self._buffer.rows:
                return  # not on disk yet
            store.merge(self._buffer.run)
            self._buffer = None
        if open_run is None or self._buffer is not None:
            return
        if open_run.clock_start_s is None:
            open_run.clock_start_s = self._clock(values)
            open_run.save(update_fields=["clock_start_s"])
            self._buffer = Buffer(open_run)
            return
        newest = open_run.chunks.order_by("-sequence").values_list("last_s", flat=True).first()
        last = -1.0 if newest is None else newest
        if self._clock(values) - open_run.clock_start_s < last:
            self._interrupt(open_run, last, "the controller started again: its clock went back")
            return
        self._buffer = Buffer(open_run, last_s=last)
        self._mark(open_run, max(last, 0.0), "gap", "the recorder was started again")

    def _interrupt(self, run: Run, at_s: float, reason: str) -> None:
        Run.objects.filter(pk=run.pk).update(status=Run.Status.INTERRUPTED)
        self._mark(run, at_s, "gap", reason)

    def _clock(self, values: dict[str, Value | None]) -> float:
        clock = values.get("clock_s")
        return time.monotonic() - self._began if clock is None else float(clock)

    def _record(self, values: dict[str, Value | None]) -> None:
        buffer = self._buffer
        if buffer is None or buffer.run.clock_start_s is None:
            return
        at = self._clock(values) - buffer.run.clock_start_s
        if at < buffer.last_s:
            buffer.flush()
            self._interrupt(buffer.run, buffer.last_s, "the controller started again: its clock went back")
            self._buffer = None
            return
        if at > buffer.last_s:
            broken = _number(values, "sensor_fault") > 0
            reading = np.nan if broken else _number(values, "reading_c")
            known = (_number(values, name) for name in ("setpoint_c", "output", "switch"))
            setpoint, output, switch = known
            if missed := self._between.missed(at, _number(values, "on_time_s"), output):
                buffer.add((missed[0], setpoint, np.nan, missed[1], np.nan))
            buffer.add((at, setpoint, reading, output, switch))
        self._flush_when_due()

    def _flush_when_due(self) -> None:
        if self._buffer and time.monotonic() - self._buffer.flushed_at >= FLUSH_S:
            self._buffer.flush()

    def _send_commands(self, controller: ModbusLink | TextLink) -> None:
        """Send what waits and is still wanted, safe-off first; a link lost in between leaves the rest unsent, and says so."""
        while command := next_waiting(self.link):
            if not claim(command):
                continue
            send(command, controller)
            if self._buffer and command.read_back:
                told = ", ".join(spoken_value(n, v) for n, v in command.read_back.items())
                self._mark(self._buffer.run, max(self._buffer.last_s, 0.0), "write", told)


def _number(values: dict[str, Value | None], name: str) -> float:
    """A value as a number; NaN where the controller has none."""
    value = values.get(name)
    return np.nan if value is None or isinstance(value, str) else float(value)


def fingerprint(link: Link) -> tuple[object, ...]:
    """What must stay the same for a running thread to stay valid."""
    where = link.way, link.device, link.baud, link.parity, link.stop_bits, link.host, link.port, link.unit_id
    return *where, link.register_map, link.poll_s, link.generation, repr(link.line_format)


class Recorder:
    """One thread for every link in the database, started and stopped as links come and go."""

    def __init__(self) -> None:
        self._threads: dict[int, LinkRecorder] = {}
        self._said_at = -ALIVE_S

    def follow(self) -> None:
        """Make the threads match the links. Dead threads are started again."""
        with transaction.atomic():
            links = {link.pk: link for link in Link.objects.filter(rig__archived_at__isnull=True)}
        for key, thread in list(self._threads.items()):
            link = links.get(key)
            if link is None or fingerprint(link) != thread.fingerprint or not thread.is_alive():
                thread.stopping.set()
                thread.join(timeout=5)
                del self._threads[key]
        for key, link in links.items():
            if key not in self._threads:
                self._threads[key] = LinkRecorder(link)
                self._threads[key].start()
        if time.monotonic() - self._said_at >= ALIVE_S:
            Link.objects.filter(pk__in=self._threads).update(recorder_at=timezone.now())
            self._said_at = time.monotonic()

    def stop(self) -> None:
        """Stop every thread; each flushes what it holds."""
        for thread in self._threads.values():
            thread.stopping.set()
        for thread in self._threads.values():
            thread.join(timeout=8)
