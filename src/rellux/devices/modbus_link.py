"""The link to a controller over Modbus TCP: one block read a poll, single writes with read-back."""

import time
from dataclasses import dataclass
from types import TracebackType

from pymodbus.client import ModbusTcpClient
from pymodbus.exceptions import ModbusException

from .register_map import RegisterMap, Value


class LinkDown(Exception):  # noqa: N818 - a state of the link, not a programming error
    """The controller did not answer; the message says what was tried."""


@dataclass(frozen=True)
class Address:
    """Where the controller is."""

    host: str
    port: int
    unit_id: int = 1

    def __str__(self) -> str:
        return f"{self.host}:{self.port}, unit {self.unit_id}"


PRODUCT = 1
"""Object of the basic device identification: the product code (Modbus application protocol V1.1b3, 6.21)."""

LOST = (ModbusException, OSError)
"""What a vanished controller looks like: no answer, or a connection reset under the reading."""


class ModbusLink:
    """A connected controller. Use as a context manager; every failure is :class:`LinkDown`."""

    def __init__(
        self, address: Address, register_map: RegisterMap, timeout_s: float = 1.0, called: str | None = None
    ) -> None:
        """``called``: the name the device must give of itself, where only one device will do."""
        self.address, self.map, self._called = address, register_map, called
        self._client = ModbusTcpClient(address.host, port=address.port, timeout=timeout_s, retries=1)

    def __enter__(self) -> "ModbusLink":
        if not self._client.connect():  # type: ignore[no-untyped-call]
            raise LinkDown(f"nothing answers at {self.address}")
        if self._called is not None:
            self._check_name(self._called)
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._client.close()  # type: ignore[no-untyped-call]

    def read(self) -> dict[str, Value]:
        """Every value of the map, from one block read."""
        return self.map.decode(self._read(self.map.start, self.map.length))

    def write(self, name: str, value: Value) -> Value:
        """Write one value and return what the controller says it holds afterwards."""
        register = self.map.by_name[name]
        words = register.encode(value)
        try:
            answer = self._client.write_registers(register.address, words, device_id=self.address.unit_id)
        except LOST as error:
            raise LinkDown(f"no answer from {self.address} while writing {name}") from error
        if answer.isError():
            raise LinkDown(f"{self.address} refused {name} = {value}")
        return register.decode(self._read(register.address, register.words))

    def switch_off(self, within_s: float) -> dict[str, Value]:
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

    def _read(self, start: int, count: int) -> list[int]:
        try:
            answer = self._client.read_holding_registers(start, count=count, device_id=self.address.unit_id)
        except LOST as error:
            raise LinkDown(f"no answer from {self.address}") from error
        if answer.isError():
            raise LinkDown(f"{self.address} refused to read {count} registers at {start}")
        return list(answer.registers)
