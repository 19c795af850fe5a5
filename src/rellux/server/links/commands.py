"""Writes as commands: queued with an expiry, claimed by the recorder or taken back, never both; and the Book says what reached
the controller."""

from collections.abc import Mapping
from datetime import timedelta
from typing import Any

from django.db import transaction
from django.utils import timezone

from rellux.core.setup.parameters import Value
from rellux.core.spine import Station
from rellux.server.accounts.models import User
from rellux.server.rigs.change import note

from .models import Command, Link

State = Command.State
ENDED = "the recorder ended while this was being sent"


def queue(link: Link, by: User, values: Mapping[str, Any], before: Mapping[str, Any], lasts: timedelta) -> Command:
    """A command that the recorder may claim until it expires."""
    now = timezone.now()
    return Command.objects.create(
        link=link, by=by, created_at=now, expires_at=now + lasts, values=dict(values), before=dict(before)
    )


def take_back(command: Command, state: Command.State) -> bool:
    """Take a command back unless the recorder has claimed it; whether that was in time."""
    return _move(Command.objects.filter(pk=command.pk, state=State.QUEUED), state)


def cancel_queued(link: Link) -> None:
    """After disarming, or when the link points elsewhere: nothing that waits is sent."""
    _move(Command.objects.filter(link=link, state=State.QUEUED), State.CANCELLED)


def _move(commands: Any, state: Command.State) -> bool:
    return bool(commands.update(state=state))


def claim(command: Command) -> bool:
    """For the recorder: the command is its own now. One that has expired, or whose link is no longer armed, is not."""
    now = timezone.now()
    mine = Command.objects.filter(pk=command.pk, state=State.QUEUED)
    armed = Link.objects.filter(pk=command.link_id, armed_until__gt=now).exists()
    if armed and _move(mine.filter(expires_at__gt=now), State.SENDING):
        command.state = State.SENDING
        return True
    _move(mine, State.EXPIRED if armed else State.CANCELLED)
    return False


def begin(command: Command, name: str) -> bool:
    """Written down before a value goes out; false where the command was ended meanwhile, and then nothing may go out."""
    command.begun = [*command.begun, name]
    return bool(Command.objects.filter(pk=command.pk, state=State.SENDING).update(begun=command.begun))


def confirm(command: Command, name: str, value: Value) -> None:
    """Written down once it was read back."""
    command.read_back = {**command.read_back, name: value}
    command.save(update_fields=["read_back"])


def finish(command: Command, error: str = "") -> None:
    """The command's end, and its line in the Book: every value that reached the controller, and those that may have."""
    doubtful = [n for n in command.begun if n not in command.read_back]
    with transaction.atomic():
        command.error = error[:300]
        command.state = State.DONE if not error else State.PART if command.begun else State.REFUSED
        command.save(update_fields=["state", "error"])
        if not command.begun:
            return
        why = error and f"{error}; {_doubt(doubtful)}"
        note(
            command.link.rig,
            command.by,
            Station.RUNS,
            "Written to the controller" if not error else "Written to the controller in part",
            before={n: command.before.get(n) for n in command.begun},
            after={**dict.fromkeys(doubtful, "not confirmed"), **command.read_back},
            why=why or "",
        )


def _doubt(names: list[str]) -> str:
    return f"not confirmed: {', '.join(names)}" if names else "what is listed was confirmed"


def end_begun(link: Link) -> None:
    """For a recorder that starts: what another left half sent is said, and what has expired is over."""
    for command in Command.objects.filter(link=link, state=State.SENDING):
        finish(command, ENDED)
    _move(Command.objects.filter(link=link, state=State.QUEUED, expires_at__lte=timezone.now()), State.EXPIRED)


def lapse(link: Link) -> None:
    """Disarm a link, and cancel what waits."""
    Link.objects.filter(pk=link.pk).update(armed_until=None)
    cancel_queued(link)
    link.armed_until = None
