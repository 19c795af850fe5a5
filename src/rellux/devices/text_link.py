"""A board that prints its readings as lines over a serial port. Rellux only listens: nothing is ever sent to it.

Opening a USB port may reset the board. It is opened with DTR and RTS inactive; some drivers pulse them all the same. So a board that
is silent is waited for with its port open: one that takes long to start would be reset again and again.
"""

import time
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass
from types import TracebackType
from typing import Any

from rellux.core.logs.lines import LineFormat, values_of

from .modbus_link import LinkDown
from .register_map import RegisterMap
from .registers import Register, Value
from .serial_ports import why_not

TEXT = RegisterMap(
    "text",
    "Lines of text",
    tuple(Register(name, i, 10.0) for i, name in enumerate(("reading_c", "setpoint_c", "output", "switch"))),
    link_loss="it goes on as its own program says",
)
"""What can be heard of it, in the words of the others: it has no registers, and takes nothing."""
WAIT_S = 0.2
"""How long a reading waits for something to come, s: orders and the end of the program are not held up for longer."""
LONGEST_LINE = 4096
MOST_WAITING = 10_000
SILENT_S = 5.0


class LinkSilent(LinkDown):
    """Nothing that can be read has come for long. The port is still there, and open."""


@dataclass(frozen=True)
class TextAddress:
    """Where the board is."""

    device: str
    baud: int = 115_200

    def __str__(self) -> str:
        return f"{self.device} at {self.baud} baud"


class LineReader:
    """Whole lines from a port. Use as a context manager; every failure is :class:`LinkDown`."""

    def __init__(self, address: TextAddress) -> None:
        self.address = address
        self._port: Any = None
        self._begun, self._first = b"", True

    def __enter__(self) -> "LineReader":
        try:
            import serial  # type: ignore[import-untyped]

            port = serial.Serial()
            port.port, port.baudrate, port.timeout = self.address.device, self.address.baud, WAIT_S
            port.dtr = port.rts = False
            port.exclusive = True
            port.open()
        except (ImportError, OSError, ValueError) as error:
            raise LinkDown(why_not(self.address.device)) from error
        self._port = port
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        if self._port is not None:
            self._port.close()

    def lines(self) -> list[str]:
        """The lines that have come, waiting a little for some. The first after opening may be half of one and is left out, and so is
        one without end."""
        try:
            came = self._port.read(max(1, self._port.in_waiting))
        except (
            OSError,
            TypeError,
        ) as error:  # pyserial's own kind of the first; the second where it was closed under it
            raise LinkDown(f"{self.address.device} is gone: unplugged, or another program took it") from error
        *whole, self._begun = (self._begun + came).replace(b"\r", b"\n").split(b"\n")
        self._begun = self._begun[-LONGEST_LINE:]
        if self._first and whole:
            whole, self._first = whole[1:], False
        return [
            text for line in whole if len(line) < LONGEST_LINE and (text := line.decode("utf-8", "replace").strip())
        ]


class TextLink:
    """A board that is listened to, as the recorder reads controllers. ``interval_s``: how often it usually prints."""

    comes_by_itself = True

    def __init__(
        self, address: TextAddress, how: LineFormat, interval_s: float, clock: Callable[[], float] = time.monotonic
    ) -> None:
        self.address, self.map, self._how, self._clock = address, TEXT, how, clock
        self._silent_s = max(SILENT_S, 3.0 * interval_s)
        self._reader = LineReader(address)
        self._waiting: deque[dict[str, Value | None]] = deque(maxlen=MOST_WAITING)
        self._garbled, self._heard = 0, clock()

    def __enter__(self) -> "TextLink":
        self._reader.__enter__()
        self._heard = self._clock()
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._reader.__exit__(kind, error, trace)

    def read(self) -> dict[str, Value | None] | None:
        """The next whole line's values, with the machine's clock when it was heard; ``None`` where none has come yet.

        Raises :class:`LinkSilent` once for every stretch in which one should have come.
        """
        if not self._waiting:
            self._listen()
        if self._waiting:
            return self._waiting.popleft()
        if self._clock() - self._heard > self._silent_s:
            why = (
                f"{self._garbled} lines of another form have come: its program or the speed may be another"
                if self._garbled
                else "nothing has come: does it print by itself?"
            )
            self._heard = self._clock()
            raise LinkSilent(f"no reading from {self.address} for {self._silent_s:g} s; {why}")
        return None

    def _listen(self) -> None:
        for line in self._reader.lines():
            values = values_of(line, self._how)
            if values is None:
                self._garbled += 1
                continue
            self._heard, self._garbled = self._clock(), 0
            self._waiting.append({"clock_s": self._heard, **values})

    def write(self, name: str, value: Value) -> Value:
        """It takes nothing."""
        raise LinkDown("Rellux only listens to this board: nothing is sent to it")

    def switch_off(self, within_s: float) -> dict[str, Value | None]:
        """It takes nothing."""
        raise LinkDown("Rellux only listens to this board: switch off at the main switch")
