"""A simulated board: prints the state of an oven as lines in the form asked for, and takes the commands it is said to take."""

import json
import os
import threading
import tty
from collections.abc import Callable, Mapping
from contextlib import suppress

from rellux.core.logs.lines import VALUES, LineFormat, LineKind
from rellux.core.units import in_unit

from .registers import Value, kind_of
from .text_commands import PLACE, TextCommands

Values = Mapping[str, Value]
SETTLE_S = 0.02


def printed(how: LineFormat, values: Values) -> str:
    """A line in this form; a field that is nothing known is 0."""
    shown = {key: _shown(values.get(VALUES[role]), role, how) for role, key in how.roles.items()}
    cells = {key: shown.get(key, "0") for key in how.keys}
    if how.kind is LineKind.JSON:
        return json.dumps({k: float(v) for k, v in cells.items()})
    if how.kind is LineKind.NAMED:
        return " ".join(f"{key}={cell}" for key, cell in cells.items())
    return how.divider.join(cells.values()).replace(".", how.decimal)


def _shown(value: Value | None, role: str, how: LineFormat) -> str:
    number = 0.0 if value is None or isinstance(value, str) else float(value)
    number = in_unit(number, kind_of(VALUES[role]), how.unit)
    if role == "output":
        number *= {"percent": 1.0, "fraction": 0.01, "byte": 2.55}[how.output_scale]
    return f"{number:.3f}" if how.output_scale == "fraction" and role == "output" else f"{number:.1f}"


class Board:
    """Prints on ``port`` every ``every_s`` what ``read`` says, and hands what it is told to ``take``. Stop it after use."""

    def __init__(
        self,
        port: str,
        how: LineFormat,
        every_s: float,
        read: Callable[[], Values],
        take: Callable[[str, Value], None] = lambda name, value: None,
        commands: TextCommands | None = None,
    ) -> None:
        self._how, self._every_s, self._read, self._take = how, every_s, read, take
        self._commands = commands or TextCommands()
        self._end = os.open(port, os.O_RDWR | os.O_NOCTTY | os.O_NONBLOCK)
        tty.setraw(self._end)
        self._stopping, self._begun = threading.Event(), b""
        self._thread = threading.Thread(target=self._run, daemon=True)
        self._thread.start()

    def stop(self) -> None:
        """It prints no more."""
        self._stopping.set()
        self._thread.join(5)
        with suppress(OSError):
            os.close(self._end)

    def _run(self) -> None:
        due = 0.0
        while not self._stopping.wait(SETTLE_S):
            with suppress(OSError):  # nobody listens: what was said is gone
                self._obey()
                due -= SETTLE_S
                if due <= 0:
                    self._say(printed(self._how, self._read()))
                    due = self._every_s
        return

    def _say(self, line: str) -> None:
        os.write(self._end, f"{line}\r\n".encode())

    def _obey(self) -> None:
        try:
            self._begun += os.read(self._end, 4096)
        except BlockingIOError:
            return
        *whole, self._begun = self._begun.split(b"\n")
        for raw in whole:
            self._do(raw.decode("ascii", "replace"))

    def _do(self, line: str) -> None:
        for row in self._commands.rows:
            if row.ask and line.strip() == row.ask.strip():
                value = self._read().get(row.name, 0.0)
                said = row.words.get(value, value) if isinstance(value, str) else row.shown(value, self._how.unit)
                self._say(row.answer.replace(PLACE, said))
            elif (taken := row.taken_from(line, self._how.unit)) is not None:
                self._take(row.name, taken)
