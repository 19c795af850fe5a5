"""The link to a controller over Modbus TCP: one block read a poll, single writes with read-back."""

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


LOST = (ModbusException, OSError)
"""What a vanished controller looks like: no answer, or a connection reset under the reading."""


class ModbusLink:
    """A connected controller. Use as a context manager; every failure is :class:`LinkDown`."""

    def __init__(self, address: Address, register_map: RegisterMap, timeout_s: float = 1.0) -> None:
        self.address, self.map = address, register_map
        self._client = ModbusTcpClient(address.host, port=address.port, timeout=timeout_s, retries=1)

    def __enter__(self) -> "ModbusLink":
        if not self._client.connect():  # type: ignore[no-untyped-call]
            raise LinkDown(f"nothing answers at {self.address}")
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

    def _read(self, start: int, count: int) -> list[int]:
        try:
            answer = self._client.read_holding_registers(start, count=count, device_id=self.address.unit_id)
        except LOST as error:
            raise LinkDown(f"no answer from {self.address}") from error
        if answer.isError():
            raise LinkDown(f"{self.address} refused to read {count} registers at {start}")
        return list(answer.registers)
