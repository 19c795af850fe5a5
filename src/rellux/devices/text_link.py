"""A board that prints its readings as lines over a serial port, and takes commands as lines where it does.

Opening a USB port may reset the board. It is opened with DTR and RTS inactive; some drivers pulse them all the same. So a board that
is silent is waited for with its port open: one that takes long to start would be reset again and again.
"""

import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from types import TracebackType
from typing import Any

from rellux.core.control.steps import is_held
from rellux.core.logs.lines import LineFormat, values_of

from .arriving import Arriving
from .modbus_link import LinkDown
from .registers import Value
from .serial_ports import why_not
from .text_commands import TextCommand, TextCommands, text_map

TEXT = text_map(None, None)
"""Of a board that only prints."""
WAIT_S = 0.2
"""How long a reading waits for something to come, s: orders and the end of the program are not held up for longer."""
LONGEST_LINE = 4096
ASK_S = 2.0
"""Between two questions, s, once everything has been answered (our choice)."""
CONFIRM_S = 2.0
"""How long a board has to say that it took a command, s, or three times as long as it usually takes to print (our choice)."""


@dataclass(frozen=True)
class TextAddress:
    """Where the board is."""

    device: str
    baud: int = 115_200

    def __str__(self) -> str:
        return f"{self.device} at {self.baud} baud"


class LineReader:
    """Whole lines from a port, and lines to it. Use as a context manager; every failure is :class:`LinkDown`."""

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

    def send(self, line: str) -> None:
        """One line to the board."""
        try:
            self._port.write(f"{line}\n".encode("ascii"))
            self._port.flush()
        except (OSError, TypeError) as error:
            raise LinkDown(f"{self.address.device} is gone: {line!r} was not sent") from error

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
    """A board, as the recorder reads controllers. ``interval_s``: how often it usually prints. Without ``commands`` nothing is ever
    sent to it."""

    comes_by_itself = True
    remark = ""

    def __init__(
        self,
        address: TextAddress,
        how: LineFormat,
        interval_s: float,
        clock: Callable[[], float] = time.monotonic,
        commands: TextCommands | None = None,
    ) -> None:
        self.address, self._how, self._clock, self._commands = address, how, clock, commands
        self.map = text_map(how, commands) if commands else TEXT
        self._confirm_s = max(CONFIRM_S, 3.0 * interval_s)
        self._reader = LineReader(address)
        self._arriving = Arriving(str(address), interval_s, clock)
        self._asks = [row for row in (commands.rows if commands else ()) if row.ask]
        self._held: dict[str, Value] = {}
        self._asked_at, self._turn = -ASK_S, 0

    def __enter__(self) -> "TextLink":
        self._reader.__enter__()
        self._arriving.begin()
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._reader.__exit__(kind, error, trace)

    def read(self) -> dict[str, Value | None] | None:
        """The next whole line's values, with the machine's clock when it was heard; ``None`` where none has come yet.

        Raises :class:`LinkSilent` once for every stretch in which one should have come.
        """
        if self._arriving.newest is None:
            self._ask_in_turn()
            self._listen()
        return self._arriving.next()

    def _listen(self) -> None:
        for line in self._reader.lines():
            values = values_of(line, self._how)
            if values is not None:
                self._arriving.put({**self._held, "clock_s": self._clock(), **values})
            elif not self._is_answer(line):
                self._arriving.unusable()

    def _is_answer(self, line: str) -> bool:
        for row in self._asks:
            if (held := row.held_in(line, self._how.unit)) is not None:
                self._held[row.name] = held
                return True
        return False

    def _ask_in_turn(self) -> None:
        """What is not printed by itself is asked for from time to time, one thing after the other; at first, all of it."""
        pause = ASK_S if len(self._held) == len(self._asks) else WAIT_S
        if self._asks and self._clock() - self._asked_at >= pause:
            self._asked_at, self._turn = self._clock(), (self._turn + 1) % len(self._asks)
            self._reader.send(self._asks[self._turn].ask)

    def snapshot(self) -> dict[str, Value | None]:
        """Everything it says now: what it prints next, and what has to be asked for. Raises :class:`LinkDown` where it does not."""
        asked = {row.name: self._asked(row) for row in self._asks}
        return {**self._next_printed(), **asked}

    def write(self, name: str, value: Value) -> Value:
        """Send one command and return what the board says it holds afterwards."""
        row = self._commands.by_name.get(name) if self._commands else None
        if row is None:
            raise LinkDown("Rellux only listens to this board: nothing is sent to it")
        self._held.pop(name, None)
        self._reader.send(row.line(value, self._how.unit))
        if row.ask:
            return self._asked(row)
        until, step = self._clock() + self._confirm_s, self.map.by_name[name].step
        while True:
            held = self._next_printed().get(name)
            if held is not None and (is_held(value, held, step) or self._clock() >= until):
                return held
            if self._clock() >= until:
                raise LinkDown(f"{self.address} does not say what {name} it holds")

    def switch_off(self, within_s: float) -> dict[str, Value | None]:
        """Send what ends the heating, and what the board prints once it is off; what can be asked for must be as it was set, too.
        Raises :class:`LinkDown` where that was not confirmed in ``within_s``."""
        sequence = self.map.safe_off
        if sequence is None or self._commands is None:
            raise LinkDown("Rellux only listens to this board: switch off at the main switch")
        until, printed = self._clock() + within_s, dict[str, Value | None]()
        for name, value in sequence.writes:
            self._held.pop(name, None)
            self._reader.send(self._commands.by_name[name].line(value, self._how.unit))
        for name, value in sequence.writes:  # an output that rests for a moment is not off
            row = self._commands.by_name[name]
            if row.ask and not is_held(value, held := self._asked(row, until), self.map.by_name[name].step):
                raise LinkDown(f"it still holds {name} {held}")
        shown = {name: value for name, value in sequence.writes if not self._commands.by_name[name].ask}
        while not (sequence.is_off(printed) and self._holds(shown, printed)):
            try:
                printed = self._next_printed(until)
            except LinkDown:
                if not printed:
                    raise
                told = dict.fromkeys([name for name, _ in (*sequence.off_when, *shown.items())])
                still = ", ".join(f"{name} {printed.get(name)}" for name in told)
                raise LinkDown(f"it still prints {still}") from None
        return {**dict(sequence.writes), **{name: v for name, v in printed.items() if v is not None}}

    def _holds(self, wanted: Mapping[str, Value], printed: Mapping[str, Value | None]) -> bool:
        """Whether what was set is printed as it was set."""
        found = ((value, printed.get(name), self.map.by_name[name].step) for name, value in wanted.items())
        return all(held is not None and is_held(value, held, step) for value, held, step in found)

    def _next_printed(self, until: float | None = None) -> dict[str, Value | None]:
        """The next reading that comes from now on; those before it still wait to be read."""
        end = self._clock() + self._confirm_s if until is None else until
        before = self._arriving.newest
        while True:
            self._listen()
            newest = self._arriving.newest
            if newest is not None and newest is not before:
                return newest
            if self._clock() >= end:
                raise LinkDown(f"{self.address} has printed nothing since")

    def _asked(self, row: TextCommand, until: float | None = None) -> Value:
        """What it answers to a question, now. Asked once more where half of the time brought nothing: the first line after opening is
        left out, and it may have been the answer."""
        self._held.pop(row.name, None)
        self._reader.send(row.ask)
        until = self._clock() + self._confirm_s if until is None else until
        again: float | None = (self._clock() + until) / 2
        while row.name not in self._held:
            if self._clock() >= until:
                raise LinkDown(f"{self.address} does not answer {row.ask!r}")
            if again is not None and self._clock() >= again:
                self._reader.send(row.ask)
                again = None
            self._listen()
        return self._held[row.name]
