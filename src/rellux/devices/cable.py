"""A serial cable without hardware: two pseudo-terminals joined, carrying bytes at the bus's speed, and damaging them on request.

For stand-ins and for tests of the drivers; a system without pseudo-terminals has none.
"""

import os
import random
import select
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass

from .poll_plan import BITS_A_CHARACTER

LOOK_S = 0.05
ONCE = 512
"""Bytes carried in one piece."""


@dataclass(frozen=True)
class Faults:
    """What a bad line does to a piece on its way to the computer: shares of the pieces, and how late a late one is in s. ``echo``: what
    the computer sends comes back to it, as from an adapter that hears itself."""

    lost: float = 0.0
    garbled: float = 0.0
    split: float = 0.0
    late: float = 0.0
    late_s: float = 0.3
    echo: bool = False


class Cable:
    """``here`` is the computer's end and ``there`` the device's, by the names of their ports. Close it after use."""

    def __init__(self, baud: int = 9600, faults: Faults | None = None, seed: int = 0) -> None:
        import pty
        import tty

        (self._ours, a), (self._theirs, b) = pty.openpty(), pty.openpty()
        for end in (a, b, self._ours, self._theirs):
            tty.setraw(end)
        self._ends = (self._ours, self._theirs, a, b)
        self.here, self.there = os.ttyname(a), os.ttyname(b)
        self.faults, self._random, self._baud = faults or Faults(), random.Random(seed), baud
        self.overhear: Callable[[bytes, bool], None] = lambda data, up: None
        self._stopping = threading.Event()
        self._thread = threading.Thread(target=self._carry, daemon=True)
        self._thread.start()

    def close(self) -> None:
        """Unplug both ends."""
        self._stopping.set()
        self._thread.join(5)
        for end in self._ends:
            with suppress(OSError):
                os.close(end)

    def say(self, data: bytes) -> None:
        """Something comes to the computer that nobody has sent: another master, or noise."""
        os.write(self._ours, data)

    def _carry(self) -> None:
        while not self._stopping.is_set():
            for end in select.select([self._ours, self._theirs], [], [], LOOK_S)[0]:
                data = os.read(end, ONCE)
                up = end == self._theirs
                self.overhear(data, up)
                self._pass(data, up)

    def _pass(self, data: bytes, up: bool) -> None:
        """One piece, after the time it takes on the wire."""
        time.sleep(len(data) * BITS_A_CHARACTER / self._baud)
        f = self.faults
        if not up:
            os.write(self._theirs, data)
            if f.echo:
                os.write(self._ours, data)
            return
        chance = self._random.random
        if chance() < f.lost:
            return
        if chance() < f.late:
            time.sleep(f.late_s)
        if chance() < f.garbled:
            at, bit = self._random.randrange(len(data)), self._random.randrange(8)
            data = data[:at] + bytes([data[at] ^ 1 << bit]) + data[at + 1 :]
        cut = self._random.randrange(1, len(data)) if len(data) > 1 and chance() < f.split else len(data)
        os.write(self._ours, data[:cut])
        if cut < len(data):
            time.sleep(0.02)
            os.write(self._ours, data[cut:])
