"""Safe-off: the recorder sends it, or whoever is left. It needs no arming, no recorder and no room on the disk."""

import logging
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import timedelta

from django.db import DatabaseError, connection

from rellux.core.control.liveness import CONFIRM_S, DIRECT_TIMEOUT_S, RECORDER_S
from rellux.core.errors import Refused
from rellux.core.spine import Station
from rellux.devices.modbus_link import LinkDown
from rellux.server.accounts.models import User
from rellux.server.rigs.change import note

from .commands import finish, overrule, queue_safe_off, take_back
from .maps import map_of
from .models import Command, Link
from .reaching import connect

log = logging.getLogger("rellux.links")

IS_OFF = "the controller says that it is off"
BUSY_MS = 500
"""How long a database that is locked is waited for here, ms: everywhere else it is waited for patiently."""


@dataclass(frozen=True)
class SafeOffView:
    """What became of it. ``confirmed`` only where the controller itself said that it is off."""

    confirmed: bool
    said: str
    took_s: float
    in_book: bool


def press(link: Link, by: User) -> SafeOffView:
    """Send the safe-off sequence, and wait for the controller to say that it is off."""
    began = time.monotonic()
    overrule(link)
    with _impatient():
        command = _ordered(link, by)
        if command and _recorder_did(command, began):
            return SafeOffView(True, IS_OFF, time.monotonic() - began, True)
        lost = _directly(link, began)
        took_s = time.monotonic() - began
        return SafeOffView(not lost, lost or IS_OFF, took_s, _written_down(link, by, command, lost))


@contextmanager
def _impatient() -> Iterator[None]:
    """A database locked by somebody's long work does not hold this up."""
    with connection.cursor() as cursor:
        usual = cursor.execute("PRAGMA busy_timeout").fetchone()[0]
        cursor.execute(f"PRAGMA busy_timeout = {BUSY_MS}")
        try:
            yield
        finally:
            cursor.execute(f"PRAGMA busy_timeout = {usual}")


def _ordered(link: Link, by: User) -> Command | None:
    """The order for the recorder; none where the database cannot take it, which is no reason to wait."""
    sequence = map_of(link).safe_off
    values = dict(sequence.writes) if sequence else {}
    try:
        return queue_safe_off(link, by, values, timedelta(seconds=CONFIRM_S))
    except DatabaseError:
        log.exception("safe-off could not be written down; it is sent all the same")
        return None


def _recorder_did(command: Command, began: float) -> bool:
    """Whether the recorder had it confirmed in time; what it has not begun by then is done here instead."""
    try:
        while time.monotonic() - began < RECORDER_S:
            command.refresh_from_db()
            if command.state not in (Command.State.QUEUED, Command.State.SENDING):
                break
            time.sleep(0.03)
        take_back(command, Command.State.SENDING)
        command.refresh_from_db()
    except DatabaseError:
        log.exception("what became of a safe-off could not be read")
    return command.state == Command.State.DONE


def _directly(link: Link, began: float) -> str:
    """Speak to the controller from here. Empty where it confirmed, else what went wrong."""
    try:
        with connect(link, DIRECT_TIMEOUT_S) as controller:
            controller.switch_off(max(0.2, CONFIRM_S - 0.2 - (time.monotonic() - began)))
    except (LinkDown, Refused) as lost:
        return str(lost)
    return ""


def _written_down(link: Link, by: User, command: Command | None, lost: str) -> bool:
    """Into the Book, where the database can take it."""
    try:
        if command:
            command.begun, command.read_back = list(command.values), {} if lost else command.values
            if finish(command, lost):
                return True
        title = "Safe-off, not confirmed" if lost else "Safe-off, confirmed by the controller"
        note(link.rig, by, Station.RUNS, title, why=lost)
    except DatabaseError:
        log.exception("safe-off could not be written into the book")
        return False
    return True
