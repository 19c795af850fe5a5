"""What one poll reads, and how often that can honestly be done on a bus.

A read asks with 8 bytes and is answered with 5 and two for every register (or one for every eight bits); a character on the wire is
11 bits, and frames stand 3.5 characters apart, 1.75 ms above 19 200 baud (Modbus over serial line V1.02, 2.5.1.1). A device thinks 5
to 100 ms (common practice, no source): it is asked for, 20 ms where nobody says.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import inf

from .registers import Register, RegisterTable

MOST_REGISTERS, MOST_BITS = 125, 2000
"""In one read (Modbus application protocol V1.1b3, 6.1 to 6.4)."""
BITS_A_CHARACTER, SILENT_CHARACTERS = 11, 3.5
FIXED_ABOVE_BAUD, FIXED_SILENCE_S = 19_200, 0.00175
THINKS_S = 0.02
SPARE = 1.25
"""What is left for orders and repeats (our choice)."""


@dataclass(frozen=True)
class Block:
    """``count`` registers or bits of one table from ``start`` on."""

    table: RegisterTable
    start: int
    count: int

    @property
    def answer_bytes(self) -> int:
        """Length of the answer to its read."""
        bits = self.table in (RegisterTable.COIL, RegisterTable.DISCRETE)
        return 5 + ((self.count + 7) // 8 if bits else 2 * self.count)


def blocks_of(registers: Sequence[Register], gap: int = 0) -> tuple[Block, ...]:
    """The fewest reads that hold all registers, none longer than the protocol allows, none reading more than ``gap`` registers in a
    row that nobody asked for: some devices refuse a block with a hole in it."""
    found: list[Block] = []
    for table in RegisterTable:
        most = MOST_BITS if table in (RegisterTable.COIL, RegisterTable.DISCRETE) else MOST_REGISTERS
        spans = sorted((r.address, r.address + r.words) for r in registers if r.table is table)
        for start, end in spans:
            last = found[-1] if found and found[-1].table is table else None
            if last and start - (last.start + last.count) <= gap and end - last.start <= most:
                found[-1] = Block(table, last.start, max(last.count, end - last.start))
            else:
                found.append(Block(table, start, end - start))
    return tuple(found)


def silence_s(baud: int) -> float:
    """Least pause between frames."""
    return FIXED_SILENCE_S if baud > FIXED_ABOVE_BAUD else SILENT_CHARACTERS * BITS_A_CHARACTER / baud


def read_s(block: Block, baud: int, thinks_s: float = THINKS_S) -> float:
    """How long one read takes on a serial bus, asked and answered.

    >>> round(read_s(Block(RegisterTable.HOLDING, 0, 10), 9600, 0.0) - 2 * silence_s(9600), 4)  # the handbook's 38 ms for ten registers
    0.0378
    """
    return (8 + block.answer_bytes) * BITS_A_CHARACTER / baud + 2.0 * silence_s(baud) + thinks_s


def poll_time_s(blocks: Sequence[Block], baud: int, thinks_s: float = THINKS_S) -> float:
    """How long one poll of a device keeps a bus busy, s, with a quarter to spare."""
    return SPARE * sum(read_s(block, baud, thinks_s) for block in blocks)


def shortest_interval_s(blocks: Sequence[Block], baud: int, busy: float = 0.0, thinks_s: float = THINKS_S) -> float:
    """Shortest honest interval in s for polling a device on a bus that is ``busy`` with others for this share of the time already;
    infinite where nothing of it is left."""
    return poll_time_s(blocks, baud, thinks_s) / (1.0 - busy) if busy < 1.0 else inf
