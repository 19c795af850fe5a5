"""Answers that may still come on a line whose frames carry no number.

Modbus over a serial line, and frames passed on by a gateway, say of an answer only which device, which function and how long it is
(Modbus over serial line V1.02, 2.2): an answer that comes late looks like the answer to the next question of the same shape, and a
controller that has not been switched off would be read as off. A device answers in the order it was asked. So after a question that
was not answered in time no answer of its shape is believed until one of another shape has come, which proves that nothing older is
on its way, or until nothing so late can be on its way any more.
"""

import threading
import time
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass

from pymodbus.pdu import ModbusPDU

from .poll_plan import Block
from .registers import RegisterTable

READS = {RegisterTable.COIL: 1, RegisterTable.DISCRETE: 2, RegisterTable.HOLDING: 3, RegisterTable.INPUT: 4}
WRITE_COIL, WRITE_REGISTERS = 5, 16
"""Function codes (Modbus application protocol V1.1b3, 6)."""
FAILED = 0x80
LATEST_S = 5.0
"""Nothing comes later than this after its question (our choice: several times what radio modems and gateways hold a frame)."""


@dataclass(frozen=True)
class Shape:
    """All an answer can be told by: its function and length, and of a write its place."""

    function: int
    size: int
    place: int | None = None

    @staticmethod
    def reading(block: Block) -> "Shape":
        """The answer to a read: bits come in whole bytes."""
        bits = block.table in (RegisterTable.COIL, RegisterTable.DISCRETE)
        return Shape(READS[block.table], -(-block.count // 8) * 8 if bits else block.count)

    @staticmethod
    def writing(block: Block) -> "Shape":
        """The answer to a write of a coil or of registers."""
        return Shape(WRITE_COIL if block.table is RegisterTable.COIL else WRITE_REGISTERS, block.count, block.start)

    def fits(self, answer: ModbusPDU) -> bool:
        """Whether an answer can be this one; a refusal can be where the function is."""
        if answer.isError():
            return bool(answer.function_code == self.function | FAILED)
        if answer.function_code != self.function:
            return False
        if self.place is not None:
            return bool(answer.address == self.place and (self.function == WRITE_COIL or answer.count == self.size))
        return len(answer.bits if self.function in (1, 2) else answer.registers) == self.size


class Unanswered:
    """What one device still owes, with when it was asked. Whoever asks on a serial line holds its lock."""

    def __init__(self) -> None:
        self._asked: dict[Shape, float] = {}

    def open(self, shape: Shape) -> bool:
        """Whether an answer of this shape could be an older one."""
        now = time.monotonic()
        self._asked = {s: at for s, at in self._asked.items() if now - at < LATEST_S}
        return shape in self._asked

    def refusal_open(self, shape: Shape) -> bool:
        """Whether a refusal could be that of an older question."""
        return any(self.open(s) and s.function == shape.function for s in list(self._asked))

    def lost(self, shape: Shape) -> None:
        """A question was not answered in time."""
        self._asked[shape] = time.monotonic()

    def settled(self) -> None:
        """An answer came that can be no older one: nothing older can come after it."""
        self._asked.clear()

    def another(self, blocks: Iterable[Block]) -> Block | None:
        """One of these reads that nothing open can be mistaken for."""
        return next((b for b in blocks if not self.open(Shape.reading(b))), None)

    def wait(self, shape: Shape) -> None:
        """Until no older answer of this shape can come."""
        time.sleep(max(0.0, self._asked.get(shape, 0.0) + LATEST_S - time.monotonic()))


_PLACES: defaultdict[tuple[str, int], Unanswered] = defaultdict(Unanswered)
_GUARD = threading.Lock()


def owed_by(line: str, unit_id: int) -> Unanswered:
    """What a device on a line owes: kept by the line's name, since closing and opening it again does not take back a question."""
    with _GUARD:
        return _PLACES[line, unit_id]
