"""Sending a command over an open link: value by value with read-back, or the safe-off sequence."""

from rellux.core.control.steps import is_held
from rellux.core.errors import Refused
from rellux.core.setup.parameters import spoken_value
from rellux.core.spine import Station
from rellux.devices.modbus_link import LinkDown, ModbusLink
from rellux.server.rigs.change import note

from .commands import begin, confirm, finish
from .models import Command

SWITCHING_OFF_S = 2.0
"""How long the safe-off sequence may take over a link that answers, s: less than the three seconds the user is asked to wait."""


def send(command: Command, controller: ModbusLink) -> None:
    """Everything the command says, and its end. Where safe-off was pressed while a value was on its way, the controller is
    switched off once more, since nobody can say which of the two came last."""
    if command.safe_off:
        _switch_off(command, controller)
    elif not _send_values(command, controller):
        _switch_off_again(command, controller)


def _send_values(command: Command, controller: ModbusLink) -> bool:
    """False where the command was overruled on the way."""
    try:
        for name, value in command.values.items():
            if not begin(command, name):
                return not command.read_back  # where an earlier value went out, off once more
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


def _switch_off(command: Command, controller: ModbusLink) -> None:
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


def _switch_off_again(command: Command, controller: ModbusLink) -> None:
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
