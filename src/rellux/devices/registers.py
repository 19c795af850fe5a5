"""One value in a controller's registers: where it is, how it is coded, and back.

A 16-bit register is two bytes; a 32-bit value takes two registers, in one of four orders of its bytes A (highest) to D. ``scale`` is
how many counts make one unit, so 10 means tenths; where a register of its own holds the number of decimals, ``decimals_from`` names it.
Source of functions, address ranges and the 4xxxx notation: Modbus application protocol V1.1b3; orders and "no value" codes: common
practice of makers' manuals.
"""

import math
import re
import struct
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from rellux.core.errors import refuse
from rellux.core.runs.channels import ROLES
from rellux.core.setup.auto_tune import AUTO_TUNE, TITLE
from rellux.core.setup.dictionary import BY_NAME
from rellux.core.units import Kind, from_unit, in_unit

Value = float | str
HIGHEST_ADDRESS = 65_535
FLOAT_STEP = 0.001
"""What counts as the same in a 32-bit floating-point number, in the value's unit: below 8192 it holds it finer (IEEE 754)."""
MOST_DECIMALS, TENTH = 6, 0.1


class RegisterTable(StrEnum):
    """The four tables of a device; the number read first is that of its reading function."""

    COIL = "coil"
    DISCRETE = "discrete"
    HOLDING = "holding"
    INPUT = "input"


FUNCTION = {RegisterTable.COIL: 1, RegisterTable.DISCRETE: 2, RegisterTable.HOLDING: 3, RegisterTable.INPUT: 4}
LEADING = {RegisterTable.COIL: "0", RegisterTable.DISCRETE: "1", RegisterTable.INPUT: "3", RegisterTable.HOLDING: "4"}
"""First digit of the notation that counts from one: 40001 is address 0 of the holding registers."""
NOTATION = re.compile(r"([0134])(\d{4,5})")


class Coding(StrEnum):
    """What the bits mean."""

    INT16 = "int16"
    UINT16 = "uint16"
    INT32 = "int32"
    UINT32 = "uint32"
    FLOAT32 = "float32"
    BIT = "bit"


CODES = {Coding.INT16: ">h", Coding.UINT16: ">H", Coding.INT32: ">i", Coding.UINT32: ">I", Coding.FLOAT32: ">f"}
LONG = (Coding.INT32, Coding.UINT32, Coding.FLOAT32)
ORDERS = ("ABCD", "CDAB", "BADC", "DCBA")

LIVE: dict[str, tuple[str, Kind | None]] = {
    "clock_s": ("Its own clock", Kind.TIME),
    "reading_c": ("Reading", Kind.TEMPERATURE),
    **{role.source: (role.words.capitalize(), role.kind) for role in ROLES.values()},
    "output": ("Output in force", Kind.PERCENT),
    "switch": ("Output closed", None),
    "sensor_fault": ("Sensor fault", None),
    "alarm_1": ("Alarm 1", None),
    "alarm_2": ("Alarm 2", None),
    "on_time_s": ("Time it was on, counted", Kind.TIME),
    "link_timer_s": ("Acts by itself without a question for", Kind.TIME),
    "decimals": ("Place of the point", None),
    AUTO_TUNE: (TITLE, None),
}
"""What can be read beside the parameters: its words and its quantity. ``decimals`` is the place of the point of other registers;
``link_timer_s`` how long nobody need ask until the controller does what its map says of a lost link, 0 for never."""


def kind_of(name: str) -> Kind | None:
    """Quantity of a live value or a parameter."""
    return BY_NAME[name].kind if name in BY_NAME else LIVE[name][1]


def words_of(name: str) -> str:
    """What a live value or a parameter is called."""
    return BY_NAME[name].title if name in BY_NAME else LIVE[name][0]


@dataclass(frozen=True)
class Register:
    """One value of a controller by its neutral name. ``words``: 2 makes an unsigned 32-bit count where no ``coding`` is given.

    ``choices``: words of the numbers 0, 1, …, or by ``codes`` of any numbers. ``no_value``: raw numbers that mean there is none.
    ``bit``: that bit of a register. ``unit_from`` names the register that says C or F, ``unit`` is it where it is fixed.
    ``low``/``high``: what may be written, in the value's unit. ``stored``: it goes to memory that wears out, after ``endurance`` writes
    where that is stated. ``keeps``: the fan or pump it keeps running, which no safe-off may touch.
    """

    name: str
    address: int
    scale: float = 1.0
    words: int = 1
    writable: bool = False
    choices: tuple[str, ...] = ()
    keeps: str = ""
    table: RegisterTable = RegisterTable.HOLDING
    coding: Coding | None = None
    order: str = "ABCD"
    codes: tuple[int, ...] = ()
    no_value: tuple[int, ...] = ()
    bit: int | None = None
    decimals_from: str = ""
    unit: str = "C"
    unit_from: str = ""
    low: float | None = None
    high: float | None = None
    stored: bool = False
    endurance: int | None = None

    def __post_init__(self) -> None:
        if self.coding is None:
            usual = Coding.BIT if self.is_bits else Coding.UINT32 if self.words == 2 else Coding.INT16
            object.__setattr__(self, "coding", usual)
        object.__setattr__(self, "words", 2 if self.coding in LONG else 1)

    @property
    def counts_celsius(self) -> bool:
        """Whether it always counts in °C: an offset beside a gain is another number in another unit, which one register cannot tell."""
        return self.unit == "C" and not self.unit_from

    @property
    def is_bits(self) -> bool:
        """Whether its table holds single bits."""
        return self.table in (RegisterTable.COIL, RegisterTable.DISCRETE)

    @property
    def step(self) -> float:
        """The least change it can hold, in the value's unit; a tenth where a register of its own says the decimals."""
        if self.coding is Coding.FLOAT32:
            return FLOAT_STEP
        return (TENTH if self.decimals_from else 1.0) / abs(self.scale)

    @property
    def notation(self) -> str:
        """Its address as manuals that count from one write it.

        >>> Register("reading_c", 0).notation, Register("reading_c", 255, table=RegisterTable.INPUT).notation
        ('40001', '30256')
        """
        return notation_of(self.table, self.address)

    @property
    def nothing(self) -> list[int]:
        """Its words where there is no value: the code that says so, or zeros."""
        code = self.no_value[0] & self._ones if self.no_value else 0
        data = _ordered(struct.pack(">I", code), self.order) if self.words == 2 else struct.pack(">H", code)
        return list(struct.unpack(f">{self.words}H", data))

    @property
    def _ones(self) -> int:
        return (1 << 16 * self.words) - 1

    def _is_none(self, raw: float) -> bool:
        """Manuals write such a code signed or not: 65535 and −1 are the same word."""
        if self.coding in (Coding.FLOAT32, Coding.BIT):
            return raw in self.no_value
        return int(raw) & self._ones in {code & self._ones for code in self.no_value}

    def decode(self, words: list[int], told: Mapping[str, Value | None] | None = None) -> Value | None:
        """Its value in the core's unit, None where it says there is none. ``told``: the values that say decimals and unit.

        Raises ``Refused`` for a choice the map does not know."""
        raw = self._raw(words)
        if raw is None or self._is_none(raw):
            return None
        if self.choices:
            numbers = self.codes or tuple(range(len(self.choices)))
            if raw not in numbers:
                raise refuse(
                    self.name, f"the controller answered {raw:g}, which the map does not know", "a known choice"
                )
            return self.choices[numbers.index(int(raw))]
        return from_unit(raw / self._counts(told), kind_of(self.name), self._unit(told))

    def encode(self, value: Value, told: Mapping[str, Value | None] | None = None) -> list[int]:
        """Register words of a value in the core's unit. Raises ``Refused`` when it does not fit the register or its limits."""
        if self.choices:
            if value not in self.choices:
                raise refuse(self.name, f"{value!r} is not a choice of this controller", ", ".join(self.choices))
            at = self.choices.index(str(value))
            return self._words(self.codes[at] if self.codes else at, value)
        number = float(value)
        if (self.low is not None and number < self.low) or (self.high is not None and number > self.high):
            low, high = ("" if v is None else f"{v:g}" for v in (self.low, self.high))
            raise refuse(self.name, f"{number:g} is beyond what this controller takes", f"{low}…{high}")
        return self._words(in_unit(number, kind_of(self.name), self._unit(told)) * self._counts(told), value)

    def _raw(self, words: list[int]) -> float | None:
        if self.coding is Coding.BIT:
            return float((words[0] >> (self.bit or 0)) & 1)
        data = struct.pack(f">{self.words}H", *words[: self.words])
        data = _ordered(data, self.order) if self.coding in LONG else data
        raw = float(struct.unpack(CODES[self.coding or Coding.INT16], data)[0])
        return raw if math.isfinite(raw) else None

    def _words(self, raw: float, value: Value) -> list[int]:
        if self.coding is Coding.BIT:
            return [1 if raw else 0]
        code = CODES[self.coding or Coding.INT16]
        number = raw if self.coding is Coding.FLOAT32 else round(raw)
        try:
            data = struct.pack(code, number % 2**32 if self.coding is Coding.UINT32 else number)
        except struct.error:
            ends = " and ".join(f"{self._largest(sign) / self.scale:g}" for sign in (-1, 1))
            raise refuse(self.name, f"{value} does not fit the controller's register", f"between {ends}") from None
        data = _ordered(data, self.order) if self.coding in LONG else data
        return [int.from_bytes(data[i : i + 2], "big") for i in range(0, len(data), 2)]

    def _largest(self, sign: int) -> float:
        bits = 31 if self.coding is Coding.INT32 else 15
        if self.coding is Coding.UINT16:
            return 0.0 if sign < 0 else 2.0**16 - 1
        return -(2.0**bits) if sign < 0 else 2.0**bits - 1

    def _counts(self, told: Mapping[str, Value | None] | None) -> float:
        if not self.decimals_from:
            return self.scale
        decimals = (told or {}).get(self.decimals_from)
        if not isinstance(decimals, float) or not 0 <= decimals <= MOST_DECIMALS:
            raise refuse(self.name, f"{self.decimals_from} does not say how many decimals it has", f"0…{MOST_DECIMALS}")
        return float(self.scale * 10.0**decimals)

    def _unit(self, told: Mapping[str, Value | None] | None) -> str:
        return str((told or {}).get(self.unit_from)) if self.unit_from else self.unit


def notation_of(table: RegisterTable, address: int) -> str:
    """An address as manuals that count from one write it, with five digits or, from 10 000 on, six."""
    return f"{LEADING[table]}{address + 1:04d}" if address + 1 < 10_000 else f"{LEADING[table]}{address + 1:05d}"


def place_of(notation: str) -> tuple[RegisterTable, int]:
    """Table and address of a notation that counts from one. Raises ``Refused`` for what is none.

    >>> place_of("40001"), place_of("30256")
    ((<RegisterTable.HOLDING: 'holding'>, 0), (<RegisterTable.INPUT: 'input'>, 255))
    """
    found = NOTATION.fullmatch(notation)
    table = next((t for t, digit in LEADING.items() if found and found[1] == digit), None)
    if found is None or table is None or not 1 <= int(found[2]) <= HIGHEST_ADDRESS + 1:
        raise refuse("address", f"{notation!r} is no register", "00001…, 10001…, 30001… or 40001…")
    return table, int(found[2]) - 1


def _ordered(data: bytes, order: str) -> bytes:
    """Bytes A B C D as they lie in registers of another order; its own inverse for these four."""
    return bytes(data["ABCD".index(letter)] for letter in order)
