"""A thread that polls one device until told to stop, and keeps its present state."""

import logging
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from django.db import IntegrityError, OperationalError, connection
from django.utils import timezone

from rellux.core.errors import Refused
from rellux.core.messages import shortened
from rellux.devices.arriving import LinkSilent
from rellux.devices.modbus_link import LinkDown
from rellux.devices.registers import Value
from rellux.server.links.models import Instrument, InstrumentState, Link, LinkState
from rellux.server.links.reaching import AnyLink, connect

from .buffer import ONE_WRITER

log = logging.getLogger("rellux.recorder")

STATE_S, LATE_S = 0.25, 0.5
"""Between two states told of a device, and from when on one is told though samples are being written, s."""
WAIT_S = 0.25
RETRY_S = (0.5, 1.0, 2.0, 4.0)

Device = AnyLink
Values = dict[str, Value | None]


class Follower(threading.Thread):
    """Polls one device until told to stop. What is done with what it says, and between two polls, is for those who follow so."""

    def __init__(self, followed: Link | Instrument) -> None:
        super().__init__(name=f"{type(followed).__name__.lower()}-{followed.pk}", daemon=True)
        self.followed = followed
        self.fingerprint = fingerprint(followed)
        self.stopping = threading.Event()

    def begin(self) -> None:
        """Before the first connection."""

    def connected(self, device: Device) -> None:
        """It can be reached, and nothing has been heard yet."""

    def heard(self, values: Values, device: Device) -> None:
        """A poll was answered."""
        raise NotImplementedError

    def meanwhile(self, device: Device) -> None:
        """Between two polls, several times a second."""

    def down(self, message: str, first: bool) -> None:
        """It does not answer; ``first``: it did until now."""

    def besides(self) -> dict[str, Any]:
        """What else is kept with its state."""
        return {}

    def end(self) -> None:
        """After the last poll."""

    def run(self) -> None:
        failures, removed = 0, False
        try:
            self.begin()
            while not self.stopping.is_set():
                try:
                    with connect(self.followed) as device:
                        failures = 0
                        self.connected(device)
                        self._poll_until_stopped(device)
                except (LinkDown, Refused) as error:
                    self._told_down(str(error), first=failures == 0)
                    self.stopping.wait(RETRY_S[min(failures, len(RETRY_S) - 1)])
                    failures += 1
        except IntegrityError:
            removed = not type(self.followed).objects.filter(pk=self.followed.pk).exists()
            if not removed:
                raise
        finally:
            if not removed:  # with everything that hung on it
                self.end()
            connection.close()

    def _poll_until_stopped(self, device: Device) -> None:
        following, silent = time.monotonic(), False
        while not self.stopping.is_set():
            try:
                values = device.read()
            except LinkSilent as error:
                self._told_down(str(error), first=not silent)
                silent = True
                continue
            if values is None:  # nothing has been printed since
                self.meanwhile(device)
                continue
            silent = False
            self.heard(values, device)
            if not device.comes_by_itself:
                # one late poll is made up for: the next comes so much sooner
                following = max(following + self.followed.poll_s, time.monotonic() - self.followed.poll_s)
                self._wait_until(following, device)

    def _wait_until(self, moment: float, device: Device) -> None:
        """Until the next poll; what must not wait for a slow one is done meanwhile."""
        while (left := moment - time.monotonic()) > 0 and not self.stopping.wait(min(left, WAIT_S)):
            self.meanwhile(device)

    def _told_down(self, message: str, first: bool) -> None:
        with self.despite_the_disk():
            self.say(False, message, None)
        with self.despite_the_disk():
            self.down(message, first)

    @contextmanager
    def despite_the_disk(self) -> Iterator[None]:
        """A database that takes nothing does not end the polling: what could not be written is tried again in its turn."""
        try:
            yield
        except OperationalError as error:
            log.warning("the database takes nothing: %s", error)

    def say(self, online: bool, message: str, values: Values | None, waits: bool = True) -> bool:
        """The newest poll, into the database. Without ``waits`` it is left for the next one where samples are being written: what is
        polled often is not kept from being polled. Whether it was said."""
        changed: dict[str, Any] = {
            "at": timezone.now(),
            "online": online,
            "message": shortened(message, 200),
            "generation": self.followed.generation,
        }
        if values is not None:
            changed["values"] = values
        changed |= self.besides()
        kind, of = (LinkState, "link") if isinstance(self.followed, Link) else (InstrumentState, "instrument")
        if not ONE_WRITER.acquire(blocking=waits):
            return False
        try:
            if not kind.objects.filter(**{of: self.followed}).update(**changed):
                kind.objects.create(**{of: self.followed}, **changed)
        finally:
            ONE_WRITER.release()
        return True


def fingerprint(device: Link | Instrument) -> tuple[object, ...]:
    """What must stay the same for a running thread to stay valid."""
    where = (
        device.way,
        device.device,
        device.baud,
        device.parity,
        device.stop_bits,
        device.host,
        device.port,
        device.unit_id,
    )
    how = (
        device.register_map,
        device.poll_s,
        device.generation,
        repr(device.line_format),
        repr(device.mapping),
        repr(device.channels),
    )
    return *where, *how, device.username, device.password, device.encrypted, device.authority
