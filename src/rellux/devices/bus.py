"""One serial port for several devices: opened once in this process, asked by one at a time."""

import threading
from dataclasses import dataclass, field

from pymodbus.client import ModbusSerialClient


@dataclass
class Bus:
    """A serial client with the lock that whoever asks must hold, and how many links use it."""

    client: ModbusSerialClient
    lock: threading.RLock = field(default_factory=threading.RLock)
    users: int = 0


_BUSES: dict[str, Bus] = {}
_GUARD = threading.Lock()


def take(device: str, client: ModbusSerialClient) -> Bus | None:
    """The bus on this port, opened by ``client`` if nobody here has it open; None where it does not open. Give it back."""
    with _GUARD:
        bus = _BUSES.get(device)
        if bus is None:
            if not client.connect():
                return None
            bus = _BUSES[device] = Bus(client)
        bus.users += 1
        return bus


def give_back(device: str, bus: Bus) -> None:
    """Close the port when its last user has gone, or when it was lost: the next one opens it anew."""
    with _GUARD:
        bus.users -= 1
        if bus.users <= 0 or not bus.client.connected:
            bus.client.close()  # type: ignore[no-untyped-call]
            if _BUSES.get(device) is bus:
                del _BUSES[device]
