"""Serial ports of this machine, and why one cannot be opened, in words that help."""

import os
from dataclasses import dataclass
from pathlib import Path

from rellux.core.errors import Problem

BY_ID = Path("/dev/serial/by-id")
BAUDS = (1200, 2400, 4800, 9600, 19_200, 38_400, 57_600, 115_200)
PARITIES = {"N": "none", "E": "even", "O": "odd"}


@dataclass(frozen=True)
class SerialPort:
    """A port by the name that stays when it is plugged in elsewhere, where it has one, and what the system says it is."""

    device: str
    words: str


def serial_ports() -> list[SerialPort]:
    """Every serial port of this machine; none where the system's own modules for them are missing."""
    try:
        from serial.tools import list_ports  # type: ignore[import-untyped]
    except ImportError:
        return []
    lasting = {str(link.resolve()): str(link) for link in BY_ID.iterdir()} if BY_ID.is_dir() else {}
    found = [(p.device, p.description or p.device) for p in list_ports.comports()]
    return [SerialPort(lasting.get(device, device), words) for device, words in sorted(found)]


def port_problems(device: str, baud: int) -> list[Problem]:
    """What is wrong with the name of a port and its speed; nothing is opened."""
    found = []
    if not device.strip() or len(device) > 200 or "\0" in device:
        found.append(Problem("device", "say which port", "such as /dev/serial/by-id/…"))
    if baud not in BAUDS:
        found.append(Problem("baud", f"{baud} is no usual speed", ", ".join(map(str, BAUDS))))
    return found


def why_not(device: str) -> str:
    """Why a port could not be opened."""
    if os.name == "posix":
        if not Path(device).exists():
            return f"there is no port {device}: unplugged, or another one"
        if not os.access(device, os.R_OK | os.W_OK):
            return (
                f"no permission for {device}: put yourself into the group that owns it (often dialout), or as root write the rule "
                'SUBSYSTEM=="tty", MODE="0660", TAG+="uaccess" into /etc/udev/rules.d'
            )
    return f"{device} cannot be opened: another program has it, or it is gone"
