"""Sending a command over an open link: value by value with read-back, or the safe-off sequence."""

from rellux.core.control.steps import is_held
from rellux.core.errors import Refused, refuse
from rellux.core.setup.parameters import spoken_value
from rellux.core.setup.writing import is_ending
from rellux.core.spine import Station
from rellux.devices.modbus_link import LinkDown
from rellux.devices.register_map import STAND_IN
from rellux.server.rigs.change import note

from .commands import begin, confirm, finish
from .models import Command
from .reaching import AnyLink

SWITCHING_OFF_S = 2.0
"""How long the safe-off sequence may take over a link that answers, s: less than the three seconds the user is asked to wait."""


def send(command: Command, controller: AnyLink) -> None:
    """Everything the command says, and its end. Where safe-off was pressed while a value was on its way, the controller is
    switched off once more, since nobody can say which of the two came last."""
    if command.safe_off:
        _switch_off(command, controller)
    elif not _send_values(command, controller):
        _switch_off_again(command, controller)


def _send_values(command: Command, controller: AnyLink) -> bool:
    """False where the command was overruled on the way."""
    try:
        unproven = command.link.register_map != STAND_IN.key and not _has_written(command)
        for name, value in command.values.items():
            if not begin(command, name):
                return not command.read_back  # where an earlier value went out, off once more
            if unproven and not is_ending({name: value}):
                _rehearse(name, controller)
                unproven = False
            read_back = controller.write(name, value)
            if not confirm(command, name, read_back):
                return False
            if not is_held(value, read_back, controller.map.by_name[name].step):
                finish(
                    command,
                    f"asked for {spoken_value(name, value)}, the controller holds {spoken_value(name, read_back)}",
                )
                return True
    except (LinkDown, Refused) as lost:
        return finish(command, str(lost))
    return finish(command)


def _has_written(command: Command) -> bool:
    """Whether anything was ever written over this link as it is now."""
    done = Command.objects.filter(link=command.link, generation=command.link.generation, state=Command.State.DONE)
    return done.filter(safe_off=False).exists()


def _rehearse(name: str, controller: AnyLink) -> None:
    """The first write by a map that is not known to be right: what the controller holds is written back, which must change nothing.

    Raises ``Refused`` where it did, or where the controller says nothing to write back."""
    before = controller.snapshot()
    held = before.get(name)
    if held is None:
        raise refuse(
            "register_map",
            f"the controller does not say what {name} it holds: nothing else is written",
            "another register",
        )
    controller.write(name, held)
    after = controller.snapshot()
    settings = {r.name: r.step for r in controller.map.registers if r.writable}
    told = {n: (before[n], after[n]) for n in settings}
    changed = [
        n for n, (was, now) in told.items() if was is not None and (now is None or not is_held(was, now, settings[n]))
    ]
    if changed:
        names = ", ".join(changed)
        raise refuse(
            "register_map",
            f"writing {name} back as it was changed {names}: the map is not this controller's",
            "another map",
        )


def _switch_off(command: Command, controller: AnyLink) -> None:
    for name in command.values:
        if not begin(command, name):
            return
    try:
        values = controller.switch_off(SWITCHING_OFF_S)
        for name in command.values:
            confirm(command, name, values[name])
    except (LinkDown, Refused) as lost:
        finish(command, str(lost))
    else:
        finish(command)


def _switch_off_again(command: Command, controller: AnyLink) -> None:
    """After an order that was overruled while it was being sent."""
    try:
        controller.switch_off(SWITCHING_OFF_S)
        became = "confirmed"
    except (LinkDown, Refused) as lost:
        became = f"not confirmed: {lost}"
    sent = ", ".join(command.begun)
    note(
        command.link.rig,
        command.by,
        Station.RUNS,
        "Switched off once more",
        why=f"{sent} was on its way when safe-off was pressed; {became}",
    )
