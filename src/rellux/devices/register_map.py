"""Where a controller keeps its values: a register map described as data, and the encoding of values in registers.

A register holds a signed 16-bit number; two make an unsigned 32-bit one, high word first. ``scale`` is how many counts
make one unit, so 10 means tenths. Choices are numbered in the order given.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field

from rellux.core.calibration.schools import OffsetSchool
from rellux.core.errors import refuse

Value = float | str


@dataclass(frozen=True)
class Register:
    """One value of a controller by the neutral parameter name (or a live value such as ``reading_c``). ``keeps``: the fan or
    pump it keeps running, which no safe-off may touch."""

    name: str
    address: int
    scale: float = 1.0
    words: int = 1
    writable: bool = False
    choices: tuple[str, ...] = ()
    keeps: str = ""

    @property
    def step(self) -> float:
        """The least change it can hold, in the value's unit."""
        return 1.0 / self.scale

    def decode(self, words: list[int]) -> Value:
        raw = words[0] * 65536 + words[1] if self.words == 2 else words[0] - (65536 if words[0] > 32767 else 0)
        if self.choices:
            if not 0 <= raw < len(self.choices):
                raise refuse(self.name, f"the controller answered {raw}, which the map does not know", "a known choice")
            return self.choices[raw]
        return raw / self.scale

    def encode(self, value: Value) -> list[int]:
        """Register words of a value. Raises ``Refused`` when it does not fit the register."""
        if self.choices:
            if value not in self.choices:
                raise refuse(self.name, f"{value!r} is not a choice of this controller", ", ".join(self.choices))
            return [self.choices.index(str(value))]
        raw = round(float(value) * self.scale)
        if self.words == 2:
            raw %= 2**32
            return [raw // 65536, raw % 65536]
        if not -32768 <= raw <= 32767:
            raise refuse(self.name, f"{value} does not fit the controller's register", f"±{32767 / self.scale:g}")
        return [raw & 0xFFFF]


@dataclass(frozen=True)
class SafeOff:
    """How a controller is made to stop heating: the ``writes`` in their order, and what it says when it has (``off_when``)."""

    writes: tuple[tuple[str, Value], ...]
    off_when: tuple[tuple[str, Value], ...]

    def is_off(self, values: Mapping[str, Value]) -> bool:
        return all(values.get(name) == value for name, value in self.off_when)


@dataclass(frozen=True)
class RegisterMap:
    """All registers of one kind of controller, starting at ``start``, ``length`` words long. ``offset_school``: which way it
    takes a calibration offset, where it has one.

    Raises ``Refused`` for a map that can be written to without a safe-off sequence, and for a sequence that cannot be sent,
    confirms nothing, or would stop a fan or a pump.
    """

    key: str
    title: str
    registers: tuple[Register, ...]
    safe_off: SafeOff | None = None
    offset_school: OffsetSchool | None = None
    start: int = 0
    length: int = 0
    by_name: dict[str, Register] = field(default_factory=dict)

    def __post_init__(self) -> None:
        object.__setattr__(self, "by_name", {r.name: r for r in self.registers})
        object.__setattr__(self, "start", min(r.address for r in self.registers))
        end = max(r.address + r.words for r in self.registers)
        object.__setattr__(self, "length", end - self.start)
        self._check_safe_off()

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
            register.encode(value)
        if not self.safe_off.off_when or not {n for n, _ in self.safe_off.off_when} <= set(self.by_name):
            raise refuse("safe_off", "nothing read back would confirm it", "registers that say it is off")

    def decode(self, words: list[int]) -> dict[str, Value]:
        """All values from one block read of ``length`` words at ``start``."""
        found: dict[str, Value] = {}
        for r in self.registers:
            at = r.address - self.start
            found[r.name] = r.decode(words[at : at + r.words])
        return found


STAND_IN = RegisterMap(
    "stand_in",
    "Rellux stand-in controller",
    (
        Register("clock_s", 0, 10.0, words=2),
        Register("reading_c", 2, 10.0),
        Register("output", 3, 10.0),
        Register("switch", 4),
        Register("sensor_fault", 5),
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
    ),
    SafeOff((("mode", "off"),), (("mode", "off"), ("output", 0.0), ("switch", 0.0))),
    OffsetSchool.ADDED_TO_READING,
)

REGISTER_MAPS = {m.key: m for m in (STAND_IN,)}
