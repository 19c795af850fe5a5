"""Plain devices for the polling benchmark, served by a process of their own: ``python -m benchmarks.devices PORT …`` on TCP ports of
this machine; ``serve_rtu`` on a serial port. Each holds sixteen registers, the first two its clock in thousandths of a second."""

import asyncio
import sys
import time

from pymodbus import FramerType
from pymodbus.server import ModbusSerialServer, ModbusTcpServer
from pymodbus.simulator import DataType, SimData, SimDevice

from rellux.devices.map_file import parse

REGISTERS = 16
NAMES = ("reading_c", "setpoint_c", "output", "second_c", "limiter_c", "load_c", "air_c", "zone_1_c", "zone_2_c", "zone_3_c", "zone_4_c",
         "load_a", "supply_v", "power_w")  # fmt: skip
MAP = {
    "title": "Benchmark device",
    "registers": [
        {"name": "clock_s", "address": 0, "coding": "uint32", "scale": 1000},
        *({"name": name, "address": 2 + i, "scale": 10} for i, name in enumerate(NAMES)),
    ],
}
parse(MAP, "benchmark")


def device(unit_id: int = 1) -> SimDevice:
    began = time.monotonic()

    async def tick(_code: int, start: int, _at: int, _count: int, registers: list[int], _new: object) -> None:
        now = int((time.monotonic() - began) * 1000)
        registers[0 - start : 2 - start] = [now >> 16, now & 0xFFFF]

    return SimDevice(
        unit_id, simdata=[SimData(0, count=REGISTERS, values=215, datatype=DataType.REGISTERS)], action=tick
    )


async def serve(ports: list[int]) -> None:
    for port in ports:
        await ModbusTcpServer(device(), address=("127.0.0.1", port)).serve_forever(background=True)
    await asyncio.Event().wait()


async def serve_rtu(port: str, baud: int) -> None:
    server = ModbusSerialServer(device(), framer=FramerType.RTU, port=port, baudrate=baud)
    await server.serve_forever(background=True)
    await asyncio.Event().wait()


if __name__ == "__main__":
    asyncio.run(serve([int(p) for p in sys.argv[1:]]))
