"""Where a controller keeps its values: all registers of one kind of controller, and how it is made to stop heating."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from rellux.core.calibration.schools import OffsetSchool
from rellux.core.errors import refuse
from rellux.core.setup.auto_tune import AUTO_TUNE, WORDS, unended

from .poll_plan import Block, blocks_of
from .registers import Register, RegisterTable, Value

Words = Mapping[tuple[RegisterTable, int], int]


@dataclass(frozen=True)
class SafeOff:
    """How a controller is made to stop heating: the ``writes`` in their order, and what it says when it has (``off_when``)."""

    writes: tuple[tuple[str, Value], ...]
    off_when: tuple[tuple[str, Value], ...]

    def is_off(self, values: Mapping[str, Value | None]) -> bool:
        return all(values.get(name) == value for name, value in self.off_when)


@dataclass(frozen=True)
class RegisterMap:
    """All registers of one kind of controller. ``offset_school``: which way it takes a calibration offset, where it has one.
    ``gap``: so many registers nobody asked for may be read along in one block. ``link_loss``: what it does when nobody asks any more,
    in words; empty where that is not known.

    Raises ``Refused`` for a map that can be written to without a safe-off sequence, and for a sequence that cannot be sent,
    confirms nothing, or would stop a fan or a pump.
    """

    key: str
    title: str
    registers: tuple[Register, ...]
    safe_off: SafeOff | None = None
    offset_school: OffsetSchool | None = None
    gap: int = 0
    link_loss: str = ""
    by_name: dict[str, Register] = field(default_factory=dict)

    def __post_init__(self) -> None:
        object.__setattr__(self, "by_name", {r.name: r for r in self.registers})
        self._check_safe_off()

    @property
    def blocks(self) -> tuple[Block, ...]:
        """The fewest reads that hold every register."""
        return blocks_of(self.registers, self.gap)

    @property
    def helpers(self) -> tuple[Block, ...]:
        """What says the decimals and the units of others: read once more after them, since somebody may be changing it at the keys."""
        names = {n for r in self.registers for n in (r.decimals_from, r.unit_from) if n}
        return blocks_of([self.by_name[n] for n in sorted(names)], self.gap)

    @property
    def asked(self) -> tuple[Block, ...]:
        """Every read of one poll."""
        return *self.blocks, *self.helpers

    @property
    def beginnings(self) -> tuple[Block, ...]:
        """Reads of different lengths, short ones first: every block and its beginnings that end with a register's end."""
        ends = sorted({(r.table, r.address + r.words) for r in self.registers}, key=lambda end: end[1])
        found = {
            (b.table, end - b.start): Block(b.table, b.start, end - b.start)
            for b in self.blocks
            for t, end in ends
            if t is b.table and b.start < end <= b.start + b.count
        }
        return tuple(sorted(found.values(), key=lambda block: block.count))

    def _check_safe_off(self) -> None:
        if not any(r.writable for r in self.registers):
            return
        if self.safe_off is None:
            raise refuse("safe_off", "a controller that can be written to needs one", "writes that end the heating")
        for name, value in self.safe_off.writes:
            register = self.by_name.get(name)
            if register is None or not register.writable:
                raise refuse("safe_off", f"{name} cannot be written", "registers that can be written")
            if register.keeps:
                raise refuse("safe_off", f"{name} keeps the {register.keeps} running", "registers of the heat only")
            if not register.decimals_from and not register.unit_from:
                register.encode(value)
        self._check_auto_tune()
        if not self.safe_off.off_when or not {n for n, _ in self.safe_off.off_when} <= set(self.by_name):
            raise refuse("safe_off", "nothing read back would confirm it", "registers that say it is off")

    def _check_auto_tune(self) -> None:
        """A controller that can be told to tune itself is told to stop, too: meanwhile its output rests half of the time and seems off."""
        register = self.by_name.get(AUTO_TUNE)
        if register is None or not register.writable or self.safe_off is None:
            return
        if set(register.choices) != {name for name, _ in WORDS}:
            raise refuse(AUTO_TUNE, "it is started and stopped", "the choices off and on")
        if reason := unended(self.safe_off.writes):
            raise refuse("safe_off", reason, f"{AUTO_TUNE} off")

    def decode(self, words: Words) -> dict[str, Value | None]:
        """All values from the words that were read, by their table and address; None for a value the controller has not."""
        told: dict[str, Value | None] = {}
        for r in sorted(self.registers, key=lambda r: bool(r.decimals_from or r.unit_from)):
            told[r.name] = r.decode([words[r.table, r.address + i] for i in range(r.words)], told)
        return {r.name: told[r.name] for r in self.registers}

    def encode(self, values: Mapping[str, Value | None]) -> dict[tuple[RegisterTable, int], int]:
        """Words of all these values by table and address, bits put into the registers they share."""
        words: dict[tuple[RegisterTable, int], int] = {}
        for r in self.registers:
            value = values.get(r.name)
            raw = r.nothing if value is None else r.encode(value, values)
            for i, word in enumerate(raw):
                at = r.table, r.address + i
                words[at] = words.get(at, 0) | word << r.bit if r.bit is not None else word
        return words


STAND_IN = RegisterMap(
    "stand_in",
    "Rellux stand-in controller",
    (
        Register("clock_s", 0, 10.0, words=2),
        Register("reading_c", 2, 10.0),
        Register("output", 3, 10.0),
        Register("switch", 4),
        Register("sensor_fault", 5),
        Register("on_time_s", 6, 100.0, words=2),
        Register("cooling", 8),
        Register("heater_c", 9, 10.0),
        Register("setpoint_c", 10, 10.0, writable=True),
        Register("mode", 11, writable=True, choices=("off", "on_off", "pid")),
        Register("hysteresis_c", 12, 10.0, writable=True),
        Register("hysteresis_school", 13, writable=True, choices=("one_sided", "centred")),
        Register("proportional_band_c", 14, 10.0, writable=True),
        Register("integral_time_s", 15, 1.0, writable=True),
        Register("derivative_time_s", 16, 1.0, writable=True),
        Register("period_s", 17, 10.0, writable=True),
        Register("output_high", 18, 10.0, writable=True),
        Register("offset_c", 19, 10.0, writable=True),
        Register("auto_tune", 20, writable=True, choices=("off", "on")),
        Register("inner_band_c", 21, 10.0, writable=True),
        Register("inner_integral_s", 22, 1.0, writable=True),
        Register("inner_low_c", 23, 10.0, writable=True),
        Register("inner_high_c", 24, 10.0, writable=True),
        Register("loops", 25, writable=True, choices=("one", "two")),  # once its numbers are there
    ),
    SafeOff((("mode", "off"), (AUTO_TUNE, "off")), (("mode", "off"), ("output", 0.0), ("switch", 0.0))),
    OffsetSchool.ADDED_TO_READING,
    gap=2,
    link_loss="It goes on with the set-point it holds.",
)
