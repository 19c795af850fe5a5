"""One serial port for several devices: opened once in this process, asked by one at a time."""

import threading
from collections import deque
from dataclasses import dataclass, field

from pymodbus.client import ModbusSerialClient

READS = (1, 2, 3, 4)
REMEMBERED, MANY = 50, 3
"""Of so many requests, so many before which something was heard that nobody had asked for: no accident any more (our choice)."""


class Echo:
    """Takes off what was sent where the adapter hears itself. It is told by an answer to a read that begins with the whole question,
    which no device gives; from then on it is taken off writes too, whose answers may look just so."""

    def __init__(self) -> None:
        self.heard, self._sent = False, b""

    def __call__(self, sending: bool, data: bytes) -> bytes:
        if sending:
            self._sent = data
            return data
        if self.heard and len(data) < len(self._sent) and self._sent.startswith(data):
            return b""
        reading = len(self._sent) > 1 and self._sent[1] in READS
        if data.startswith(self._sent) and (self.heard or reading):
            self.heard = True
            return data[len(self._sent) :]
        return data


@dataclass
class Bus:
    """A serial client with the lock that whoever asks must hold, and how many links use it."""

    client: ModbusSerialClient
    lock: threading.RLock = field(default_factory=threading.RLock)
    users: int = 0
    _strange: deque[bool] = field(default_factory=lambda: deque(maxlen=REMEMBERED))
    _failed: bool = False

    def about_to_ask(self) -> None:
        """Whether something is heard before anything was asked. After a question that failed it may be its late answer."""
        port = self.client.socket
        try:
            waiting = bool(port and port.in_waiting)
        except OSError:
            return  # unplugged: the question will say so
        if not self._failed:
            self._strange.append(waiting)

    def asked(self, answered: bool) -> None:
        """What became of the question."""
        self._failed = not answered

    @property
    def remark(self) -> str:
        """What is to be said of the bus; empty while nothing is."""
        if sum(self._strange) < MANY:
            return ""
        return "something else speaks on this bus: a second master asks there, or a device without being asked"


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
