"""Finding out what a register holds: what of a device answers, what moves, and which coding shows what its display shows.

A scan reads only (functions 1 to 4), in small paced blocks, and halves a block the device refuses until it knows which single register
it has not. A guess compares every coding, order and number of decimals with what somebody typed from the display: several typed at
different moments leave few. What still fits several ways is said to be unsure, never picked.
"""

import time
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

from .modbus_link import LinkRefused
from .poll_plan import Block
from .registers import LONG, ORDERS, Coding, Register, RegisterTable

AT_ONCE = 16
"""Registers in one read of a scan: small enough for every device (common practice, no source)."""
PACE_S = 0.02
MOST_SCANNED = 2000
DECIMALS = (0, 1, 2, 3)
SPARE_DIGIT = 1.0
"""A display may round or cut its last digit: a candidate within one of it fits."""
LIKELY = (Coding.INT16, Coding.UINT16, Coding.FLOAT32, Coding.INT32, Coding.UINT32)
"""Codings, the usual first."""

Words = Mapping[int, int]
Reader = Callable[[Block], Mapping[tuple[RegisterTable, int], int]]


@dataclass(frozen=True)
class Typed:
    """What a display showed, as it was typed (``61.5``), when the registers held ``words`` (by address)."""

    shown: str
    words: Words

    @property
    def value(self) -> float:
        return float(self.shown.replace(",", "."))

    @property
    def digit(self) -> float:
        """Its last digit."""
        _, _, decimals = self.shown.replace(",", ".").partition(".")
        return float(10.0 ** -len(decimals))


@dataclass(frozen=True)
class Guess:
    """Every way that fits, the likeliest first. ``sure``: they are one place, one order and one number of decimals. ``one_place``:
    only the length is open, since 16 and 32 bits say the same while the other word stays nothing."""

    candidates: tuple[Register, ...]

    @property
    def sure(self) -> bool:
        return len({(r.address, r.words, r.order, r.scale) for r in self.candidates}) == 1

    @property
    def one_place(self) -> bool:
        whole = all(r.coding is not Coding.FLOAT32 and r.order in ("ABCD", "CDAB") for r in self.candidates)
        return not self.sure and whole and len({(_low_word(r), r.scale) for r in self.candidates}) == 1


def _low_word(register: Register) -> int:
    """Where the word of its lowest bits is."""
    return register.address + (1 if register.words == 2 and register.order == "ABCD" else 0)


def scan(
    read: Reader, table: RegisterTable, start: int, count: int, pause: Callable[[float], None] = time.sleep
) -> dict[int, int]:
    """Every register of a range that answers, by its address; a refused block is halved. Raises :class:`LinkDown` for a
    link that is lost on the way."""
    found: dict[int, int] = {}
    waiting = [(at, min(AT_ONCE, start + count - at)) for at in range(start, start + count, AT_ONCE)]
    while waiting:
        at, length = waiting.pop(0)
        pause(PACE_S)
        try:
            found |= {address: word for (_, address), word in read(Block(table, at, length)).items()}
        except LinkRefused:
            if length > 1:
                half = length // 2
                waiting[:0] = [(at, half), (at + half, length - half)]
    return found


def moving(snapshots: Sequence[Words]) -> set[int]:
    """Addresses whose word changed between any two snapshots."""
    return {a for before, after in pairwise(snapshots) for a in before if a in after and after[a] != before[a]}


def guess(typed: Sequence[Typed], table: RegisterTable = RegisterTable.HOLDING) -> Guess:
    """Every register that could be what these were typed from; nothing typed fits nothing."""
    if not typed:
        return Guess(())
    addresses = sorted(set.intersection(*(set(t.words) for t in typed)))
    found = [r for a in addresses for r in _ways(a, typed, table)]
    found.sort(key=lambda r: (LIKELY.index(r.coding or Coding.INT16), ORDERS.index(r.order), r.address))
    return Guess(tuple(found))


def _ways(address: int, typed: Sequence[Typed], table: RegisterTable) -> Iterable[Register]:
    for coding in LIKELY:
        long = coding in LONG
        if long and not all(address + 1 in t.words for t in typed):
            continue
        for order in ORDERS if long else ORDERS[:1]:
            for decimals in DECIMALS if coding is not Coding.FLOAT32 else (0,):
                register = Register("reading_c", address, 10.0**decimals, table=table, coding=coding, order=order)
                if all(_shows(register, t) for t in typed):
                    yield register


def _shows(register: Register, typed: Typed) -> bool:
    value = register.decode([typed.words[register.address + i] for i in range(register.words)])
    return isinstance(value, float) and abs(value - typed.value) <= SPARE_DIGIT * typed.digit * 0.999 + 1e-9
