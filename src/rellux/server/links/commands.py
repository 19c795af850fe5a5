"""Writes as commands: queued with an expiry, claimed by the recorder or taken back, never both; and the Book says what reached
the controller. The safe-off sequence is a command too: it needs no arming, and whatever else was ordered ends with it."""

import logging
import os
import time
from collections.abc import Mapping
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction
from django.utils import timezone

from rellux.core.messages import shortened
from rellux.core.setup.dictionary.parameter import Value
from rellux.core.spine import Station
from rellux.server.accounts.models import User
from rellux.server.rigs.change import note

from .models import Command, Link, LinkState

log = logging.getLogger("rellux.links")

State = Command.State
ENDED = "sending it was broken off"
OVERRULED = "safe-off was pressed"


def queue(link: Link, by: User, values: Mapping[str, Any], before: Mapping[str, Any], lasts: timedelta) -> Command:
    """A command that the recorder may claim until it expires."""
    return _queued(link, by, values, before, lasts, safe_off=False)


def queue_safe_off(link: Link, by: User | None, values: Mapping[str, Any], lasts: timedelta) -> Command:
    """The safe-off sequence as a command, in one step with ending everything else: what waits is cancelled, what is being sent
    goes no further, and writing is disarmed."""
    with transaction.atomic():
        lapse(link)
        for command in Command.objects.filter(link=link, state=State.SENDING, safe_off=False):
            finish(command, OVERRULED)
        state = LinkState.objects.filter(link=link, generation=link.generation).first()
        before = {name: state.values.get(name) for name in values} if state else {}
        return _queued(link, by, values, before, lasts, safe_off=True)


def overrule(link: Link) -> None:
    """Beside the database, for when it takes nothing: what was ordered before now goes no further, whenever it is looked at."""
    now = time.time()
    try:
        _mark(link.pk).touch()
        os.utime(_mark(link.pk), (now, now))
    except OSError:
        log.exception("the mark of a safe-off could not be set")


def _mark(link: int) -> Path:
    return Path(settings.DATA) / f"safe-off.{link}"


def pressed_since(link: Link, moment: datetime) -> bool:
    """Whether safe-off was pressed since, also where the database could not be told."""
    try:
        return _mark(link.pk).stat().st_mtime >= moment.timestamp()
    except OSError:
        return False  # never pressed


def _overruled(command: Command) -> bool:
    """Whether safe-off was pressed since it was ordered."""
    return not command.safe_off and pressed_since(command.link, command.created_at)


def _queued(link: Link, by: User | None, values: Mapping[str, Any], before: Mapping[str, Any], lasts: timedelta, *, safe_off: bool
) -> Command:  # fmt: skip
    now = timezone.now()
    return Command.objects.create(
        link=link,
        generation=link.generation,
        by=by,
        created_at=now,
        expires_at=now + lasts,
        values=dict(values),
        before=dict(before),
        safe_off=safe_off,
    )


def next_waiting(link: Link) -> Command | None:
    """What the recorder of this link should claim next; safe-off before everything else."""
    return Command.objects.filter(link=link, generation=link.generation, state=State.QUEUED).first()


def switched_off(link: Link, within_s: float) -> bool:
    """Whether safe-off was ordered over this link so lately."""
    since = timezone.now() - timedelta(seconds=within_s)
    return Command.objects.filter(link=link, safe_off=True, created_at__gte=since).exists()


def take_back(command: Command, state: Command.State) -> bool:
    """Take a command back unless the recorder has claimed it; whether that was in time."""
    return _move(Command.objects.filter(pk=command.pk, state=State.QUEUED), state)


def cancel_queued(link: Link) -> None:
    """After disarming, or when the link points elsewhere: nothing that waits is sent but what ends the heating."""
    _move(Command.objects.filter(link=link, state=State.QUEUED, safe_off=False), State.CANCELLED)


def _move(commands: Any, state: Command.State) -> bool:
    return bool(commands.update(state=state))


def claim(command: Command) -> bool:
    """For the recorder: the command is its own now. One that has expired, or whose link is no longer armed, is not."""
    now = timezone.now()
    mine = Command.objects.filter(pk=command.pk, state=State.QUEUED)
    if _overruled(command):
        _move(mine, State.CANCELLED)
        return False
    allowed = command.safe_off or Link.objects.filter(pk=command.link_id, armed_until__gt=now).exists()
    if allowed and _move(mine.filter(expires_at__gt=now), State.SENDING):
        command.state = State.SENDING
        return True
    _move(mine, State.EXPIRED if allowed else State.CANCELLED)
    return False


def begin(command: Command, name: str) -> bool:
    """Written down before a value goes out; false where the command was ended meanwhile, and then nothing may go out."""
    if _overruled(command):
        finish(command, OVERRULED)
        return False
    command.begun = [*command.begun, name]
    return bool(Command.objects.filter(pk=command.pk, state=State.SENDING).update(begun=command.begun))


def confirm(command: Command, name: str, value: Value) -> bool:
    """Written down once it was read back; false where the command was ended while the value was on its way."""
    command.read_back = {**command.read_back, name: value}
    kept = Command.objects.filter(pk=command.pk)
    kept.update(read_back=command.read_back)
    if _overruled(command):
        finish(command, OVERRULED)
    return kept.filter(state=State.SENDING).exists()


def finish(command: Command, error: str = "") -> bool:
    """The command's end, and its line in the Book: every value that reached the controller, and those that may have. False where
    it had been ended before, by somebody who has said so."""
    state = State.DONE if not error else State.PART if command.begun else State.REFUSED
    with transaction.atomic():
        mine = Command.objects.filter(pk=command.pk, state=State.SENDING)
        if not mine.update(state=state, error=shortened(error, 300)):
            return False
        command.state, command.error = state, shortened(error, 300)
        if command.begun:
            _into_the_book(command)
    return True


def _into_the_book(command: Command) -> None:
    doubtful = [n for n in command.begun if n not in command.read_back]
    title = "Safe-off" if command.safe_off else "Written to the controller"
    if command.safe_off:
        title += ", confirmed by the controller" if not command.error else ", not confirmed"
    elif command.error:
        title += " in part"
    why = ""
    if command.error:
        why = f"{command.error}; " + (
            f"not confirmed: {', '.join(doubtful)}" if doubtful else "what is listed was confirmed"
        )
    note(
        command.link.rig,
        command.by,
        Station.RUNS,
        title,
        before={n: command.before.get(n) for n in command.begun},
        after={**dict.fromkeys(doubtful, "not confirmed"), **command.read_back},
        why=why,
    )


def end_begun(link: Link) -> None:
    """For a recorder that starts: what another left half sent is said, and what has expired is over."""
    for command in Command.objects.filter(link=link, state=State.SENDING):
        finish(command, ENDED)
    _move(Command.objects.filter(link=link, state=State.QUEUED, expires_at__lte=timezone.now()), State.EXPIRED)


def lapse(link: Link) -> None:
    """Disarm a link, and cancel what waits."""
    Link.objects.filter(pk=link.pk).update(armed_until=None, armed_window="")
    cancel_queued(link)
    link.armed_until, link.armed_window = None, ""
