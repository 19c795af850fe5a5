"""The link to a controller over Modbus TCP, RTU, or RTU over TCP: the blocks of its map read each poll, single writes with read-back.

A device that says it is busy (exceptions 5 and 6) is asked again a little later. Answers to earlier requests are told by their
transaction number (TCP, by pymodbus) or, where frames have none, by what can still be on its way (:mod:`.unanswered`).
"""

import time
from collections import Counter
from collections.abc import Callable
from contextlib import nullcontext
from dataclasses import dataclass
from types import TracebackType

from pymodbus import FramerType
from pymodbus.client import ModbusSerialClient, ModbusTcpClient
from pymodbus.exceptions import ModbusException, ModbusIOException
from pymodbus.pdu import ModbusPDU

from .bus import Bus, Echo, give_back, take
from .poll_plan import Block
from .register_map import RegisterMap
from .registers import Register, RegisterTable, Value
from .serial_ports import why_not
from .unanswered import Shape, Unanswered, owed_by


class LinkDown(Exception):  # noqa: N818 - a state of the link, not a programming error
    """The controller did not answer; the message says what was tried."""


class LinkRefused(LinkDown):
    """It answered, and would not do what it was asked."""


@dataclass(frozen=True)
class Address:
    """Where the controller is on the network; ``rtu``: behind a gateway that passes serial frames on as they are."""

    host: str
    port: int
    unit_id: int = 1
    rtu: bool = False

    def __str__(self) -> str:
        return f"{self.host}:{self.port}, unit {self.unit_id}"

    def client(self, timeout_s: float) -> ModbusTcpClient:
        """A client not yet connected."""
        framer = FramerType.RTU if self.rtu else FramerType.SOCKET
        return ModbusTcpClient(
            self.host, port=self.port, framer=framer, timeout=timeout_s, retries=0 if self.rtu else 1
        )

    @property
    def line(self) -> str:
        """What answers without numbers come on; empty where they are numbered."""
        return f"{self.host}:{self.port}" if self.rtu else ""

    def why_not(self) -> str:
        """Why it did not connect."""
        return f"nothing answers at {self}"


@dataclass(frozen=True)
class SerialAddress:
    """Where the controller is on a serial bus."""

    device: str
    baud: int = 9600
    parity: str = "N"
    stop_bits: int = 1
    unit_id: int = 1

    def __str__(self) -> str:
        return f"{self.device} at {self.baud} baud, unit {self.unit_id}"

    def client(self, timeout_s: float) -> ModbusSerialClient:
        """A client not yet connected. The port is taken for this program alone: two masters on one bus garble each other."""
        return ModbusSerialClient(
            self.device,
            baudrate=self.baud,
            parity=self.parity,
            stopbits=self.stop_bits,
            timeout=timeout_s,
            retries=0,
            trace_packet=Echo(),
        )

    @property
    def line(self) -> str:
        """What answers without numbers come on."""
        return self.device

    def why_not(self) -> str:
        """Why it did not open."""
        return why_not(self.device)


READ_AGAIN, TRIES = 3, 2
LATER, BUSY_S = (5, 6), (0.05, 0.1, 0.2)
"""Exceptions that say "asked again later, please" (Modbus application protocol V1.1b3, 7), and how long is waited before each time."""

PRODUCT = 1
"""Object of the basic device identification: the product code (Modbus application protocol V1.1b3, 6.21)."""

LOST = (ModbusException, OSError)
"""What a vanished controller looks like: no answer, or a connection reset under the reading."""


LONGEST_HOST = 100


def is_host(text: str) -> bool:
    """Whether a text can be the name or address of a computer at all."""
    try:
        return 0 < len(text.strip()) <= LONGEST_HOST and bool(text.strip().encode("idna"))
    except UnicodeError:
        return False


class ModbusLink:
    """A connected controller. Use as a context manager; every failure is :class:`LinkDown`."""

    comes_by_itself = False
    """It is asked, at its interval."""

    def __init__(
        self,
        address: Address | SerialAddress,
        register_map: RegisterMap,
        timeout_s: float = 1.0,
        called: str | None = None,
    ) -> None:
        """``called``: the name the device must give of itself, where only one device will do."""
        self.address, self.map, self._called = address, register_map, called
        self._client: ModbusTcpClient | ModbusSerialClient = address.client(timeout_s)
        self._bus: Bus | None = None
        self._owed: Unanswered | None = owed_by(address.line, address.unit_id) if address.line else None
        self.written: Counter[str] = Counter()
        """How often each value was written, until somebody notes and clears it."""

    def __enter__(self) -> "ModbusLink":
        if not self._connected():
            raise LinkDown(self.address.why_not())
        if self._called is not None:
            self._check_name(self._called)
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        if self._bus and isinstance(self.address, SerialAddress):
            give_back(self.address.device, self._bus)
        else:
            self._client.close()  # type: ignore[no-untyped-call]

    def _connected(self) -> bool:
        """Connect; a serial port is shared with the other links of this process."""
        if not isinstance(self.address, SerialAddress) or not isinstance(self._client, ModbusSerialClient):
            try:
                return bool(self._client.connect())
            except (OSError, UnicodeError):  # a name no network knows
                return False
        self._bus = take(self.address.device, self._client)
        if self._bus:
            self._client = self._bus.client
        return self._bus is not None

    @property
    def remark(self) -> str:
        """What else must be known while it answers; empty while nothing must."""
        return self._bus.remark if self._bus else ""

    def read(self) -> dict[str, Value | None]:
        """Every value of the map, from the fewest reads; None for a value the controller says it has not. Decimals or a unit that are
        changed while it is being read would make another number of it: then all is read again."""
        for _ in range(READ_AGAIN):
            words = {at: word for block in self.map.blocks for at, word in self.words_of(block).items()}
            again = {at: word for block in self.map.helpers for at, word in self.words_of(block).items()}
            if all(words.get(at) == word for at, word in again.items()):
                return self.map.decode(words)
        raise LinkDown(f"{self.address} changes its decimals or its unit all the time")

    snapshot = read
    """Everything it says now."""

    def words_of(self, block: Block) -> dict[tuple[RegisterTable, int], int]:
        """Registers, or bits as 0 and 1, of one block by their table and address. Raises :class:`LinkDown`."""
        answer = self._ask(lambda: self._read(block), Shape.reading(block))
        if answer.isError():
            raise LinkRefused(f"{self.address} refused to read {block.count} of {block.table.value} at {block.start}")
        found = answer.bits if block.table in (RegisterTable.COIL, RegisterTable.DISCRETE) else answer.registers
        return {(block.table, block.start + i): int(word) for i, word in enumerate(found[: block.count])}

    def _read(self, block: Block) -> ModbusPDU:
        asked = {
            RegisterTable.HOLDING: self._client.read_holding_registers,
            RegisterTable.INPUT: self._client.read_input_registers,
            RegisterTable.COIL: self._client.read_coils,
            RegisterTable.DISCRETE: self._client.read_discrete_inputs,
        }[block.table]
        return asked(block.start, count=block.count, device_id=self.address.unit_id)

    def write(self, name: str, value: Value) -> Value:
        """Write one value and return what the controller says it holds afterwards."""
        register = self.map.by_name[name]
        told = self._told(register)
        words = register.encode(value, told)
        unit, place = self.address.unit_id, Block(register.table, register.address, register.words)
        self.written[name] += 1

        def put() -> ModbusPDU:
            if register.table is RegisterTable.COIL:
                return self._client.write_coil(register.address, bool(words[0]), device_id=unit)
            return self._client.write_registers(register.address, words, device_id=unit)

        shape, held = Shape.writing(place), {}
        for _ in range(TRIES):
            # where that is open, what answered it may have been the answer to an older write, and this one was lost
            sure = not (self._owed and self._owed.open(shape))
            if self._ask(put, shape, name).isError():
                raise LinkRefused(f"{self.address} refused {name} = {value}")
            held = self.words_of(place)
            if sure or list(held.values()) == words:
                break
        found = register.decode(list(held.values()), told)
        if found is None:
            raise LinkDown(f"{self.address} does not say what {name} it holds")
        return found

    def _ask(self, request: Callable[[], ModbusPDU], shape: Shape, writing: str = "") -> ModbusPDU:
        """A request until it is answered with something else than "later"."""
        for pause in (*BUSY_S, None):
            with self._bus.lock if self._bus else nullcontext():
                answer = self._answered(request, shape, writing)
            if answer.exception_code not in LATER or pause is None:
                return answer
            time.sleep(pause)
        raise AssertionError  # the last pause is None

    def _answered(self, request: Callable[[], ModbusPDU], shape: Shape, writing: str) -> ModbusPDU:
        """A request with the answer that is its own. A write is sent whatever is open: what it did is read afterwards."""
        tries = TRIES if self._owed else 1
        for left in reversed(range(tries)):
            try:
                if self._owed and not writing and self._owed.open(shape):
                    self._settle(self._owed, shape)
                return self._once(request, shape, believed=bool(writing))
            except LOST as error:
                if not left:
                    raise LinkDown(
                        f"no answer from {self.address}" + (f" while writing {writing}" if writing else "")
                    ) from error
        raise AssertionError  # the last try raises

    def _settle(self, owed: Unanswered, shape: Shape) -> None:
        """Ask what no open answer can be mistaken for: once it is answered, nothing older is on its way."""
        block = owed.another(self.map.beginnings)
        if block is None:
            owed.wait(shape)
            return
        self._once(lambda: self._read(block), Shape.reading(block))

    def _once(self, request: Callable[[], ModbusPDU], shape: Shape, believed: bool = False) -> ModbusPDU:
        """One request. Raises what :data:`LOST` names where nothing answers it, or what cannot be its answer.
        ``believed``: though it could be that of an older one."""
        try:
            answer = self._heard(request)
            if not shape.fits(answer):
                raise ModbusIOException(f"the answer is none to what {self.address} was asked")
            if self._owed:
                unclear = self._owed.refusal_open(shape) if answer.isError() else self._owed.open(shape)
                if unclear and (answer.isError() or not believed):
                    raise ModbusIOException(f"the answer of {self.address} may be one to an older question")
                self._owed.lost(shape) if unclear else self._owed.settled()
            return answer
        except LOST:
            if self._owed:
                self._owed.lost(shape)
            raise

    def _heard(self, request: Callable[[], ModbusPDU]) -> ModbusPDU:
        if self._bus is None:
            return request()
        self._bus.about_to_ask()
        self._bus.asked(answered=False)
        answer = request()
        self._bus.asked(answered=True)
        return answer

    def _told(self, register: Register) -> dict[str, Value | None]:
        """What says the decimals and the unit of a register, read now: they may have been changed at its keys."""
        helpers = [self.map.by_name[n] for n in (register.decimals_from, register.unit_from) if n]
        return {h.name: h.decode(list(self.words_of(Block(h.table, h.address, h.words)).values())) for h in helpers}

    def switch_off(self, within_s: float) -> dict[str, Value | None]:
        """The map's safe-off sequence, and what the controller says once it is off. A write that fails does not keep the next
        from being tried. Raises :class:`LinkDown` where it was not confirmed in ``within_s``."""
        sequence = self.map.safe_off
        if sequence is None:
            raise LinkDown("this controller cannot be switched off over the link")
        until, failed = time.monotonic() + within_s, ""
        for name, value in sequence.writes:
            try:
                self.write(name, value)
            except LinkDown as error:
                failed = str(error)
            if time.monotonic() >= until:
                break
        while True:
            values = self.read()
            if sequence.is_off(values):
                return values
            if time.monotonic() >= until:
                held = ", ".join(f"{name} {values[name]}" for name, _ in sequence.off_when)
                raise LinkDown(failed or f"it still says {held}")
            time.sleep(0.05)

    def _check_name(self, wanted: str) -> None:
        """The product name of its device identification (function 43/14) must be the one wanted."""
        try:
            answer = self._client.read_device_information(read_code=1, object_id=0, device_id=self.address.unit_id)
        except LOST as error:
            self._client.close()  # type: ignore[no-untyped-call]
            raise LinkDown(f"no answer from {self.address}") from error
        found = None if answer.isError() else getattr(answer, "information", {}).get(PRODUCT)
        if found != wanted.encode():
            self._client.close()  # type: ignore[no-untyped-call]
            raise LinkDown(f"another program answers at {self.address}")
