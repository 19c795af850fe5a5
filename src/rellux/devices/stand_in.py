"""A stand-in for a controller with its oven: the simulator behind a real Modbus TCP server.

Time inside runs ``speed`` times faster than outside. The plant is advanced whenever somebody reads or writes.
"""

import time
from dataclasses import dataclass, replace

from pymodbus import ModbusDeviceIdentification
from pymodbus.constants import ExcCodes
from pymodbus.server import ModbusTcpServer
from pymodbus.simulator import DataType, SimData, SimDevice

from rellux.core.control.pid import from_band
from rellux.core.control.settings import ControllerSettings, HysteresisSchool, Mode
from rellux.core.errors import Refused
from rellux.core.plant.simulation import Simulation
from rellux.core.process.networks import ThermalNetwork

from .register_map import STAND_IN, RegisterMap
from .registers import Table, Value

BIT_TABLES = (Table.COIL, Table.DISCRETE)
_TABLE_OF = {
    **dict.fromkeys((1, 5, 15), Table.COIL),
    2: Table.DISCRETE,
    **dict.fromkeys((3, 6, 16, 22, 23), Table.HOLDING),
    4: Table.INPUT,
}
LONGEST_STEP_S = 6 * 3600.0


@dataclass(frozen=True)
class StandInConfig:
    """What the stand-in pretends to be."""

    network: ThermalNetwork
    settings: ControllerSettings
    ambient_c: float
    speed: float = 1.0
    start_c: float | None = None
    register_map: RegisterMap = STAND_IN


class StandIn:
    """One simulated controller. ``device`` is what the Modbus server serves."""

    def __init__(self, config: StandInConfig, unit_id: int = 1) -> None:
        self._speed = config.speed
        step = _step(config.network)
        self._simulation = Simulation(config.network, config.settings, config.ambient_c, step, interpreted=True)
        if config.start_c is not None:
            self._simulation.start_at(config.start_c)
        self._last = time.monotonic()
        self.map = config.register_map
        self.device = SimDevice(unit_id, simdata=_tables(self.map), action=self._accessed)

    def set_speed(self, speed: float) -> None:
        self.catch_up()
        self._speed = speed

    def catch_up(self) -> None:
        """Advance the plant to the present moment."""
        now = time.monotonic()
        step = self._simulation.step_s
        due = min((now - self._last) * self._speed, LONGEST_STEP_S)
        whole = int(due / step)
        if whole > 0:
            self._simulation.advance(whole * step, whole * step)
            self._last = now - (due - whole * step) / self._speed

    async def _accessed(  # the shape the Modbus server calls
        self,
        function_code: int,
        start_address: int,
        address: int,
        count: int,
        current_registers: list[int],
        set_values: list[int] | list[bool] | None,
    ) -> ExcCodes | None:
        self.catch_up()
        table = _TABLE_OF[function_code]
        self._fill(table, current_registers, start_address)
        if set_values is not None:
            words = self.map.encode(self._values())
            words.update({(table, address + i): int(word) for i, word in enumerate(set_values)})
            try:
                self._apply(self.map.decode(words))
            except (Refused, ValueError):
                return ExcCodes.ILLEGAL_VALUE
            self._fill(table, current_registers, start_address)
        return None

    def _fill(self, table: Table, registers: list[int], start_address: int) -> None:
        """Write what the controller holds and shows into the registers of a table; sixteen bits lie in one."""
        for (of, address), word in self.map.encode(self._values()).items():
            if of is not table:
                continue
            if table in BIT_TABLES:
                at, bit = address // 16 - start_address, 1 << address % 16
                registers[at] = registers[at] | bit if word else registers[at] & ~bit
            else:
                registers[address - start_address] = word

    def _values(self) -> dict[str, Value | None]:
        """What it holds and shows, of what its map has; values it knows nothing of are not there."""
        known = self._known()
        return {r.name: known.get(r.name) for r in self.map.registers}

    def _known(self) -> dict[str, Value]:
        s, now = self._simulation.settings, self._simulation
        integral = s.pid.integral_time_s
        return {
            "clock_s": now.time_s,
            "reading_c": min(max(now.reading_c, -3276.0), 3276.0),
            "output": now.output,
            "switch": 1.0 if now.switch_closed else 0.0,
            "sensor_fault": 0.0,
            "on_time_s": now.on_time_s,
            "setpoint_c": s.setpoint_c,
            "mode": s.mode.value,
            "hysteresis_c": s.hysteresis_c,
            "hysteresis_school": s.hysteresis_school.value,
            "proportional_band_c": s.pid.proportional_band_c,
            "integral_time_s": 0.0 if integral == float("inf") else integral,
            "derivative_time_s": s.pid.derivative_time_s,
            "period_s": s.period_s,
            "output_high": s.output_high,
            "offset_c": s.offset_c,
            "display_unit": "C",
            "decimals": 1.0,
            "alarm_1": 0.0,
            "alarm_2": 0.0,
            "cold_junction_c": 25.0,
        }

    def _apply(self, told: dict[str, Value | None]) -> None:
        """Take what was written; what the map has no register for stays as it is."""
        values = {**self._known(), **{k: v for k, v in told.items() if v is not None}}
        integral = float(values["integral_time_s"])
        pid = from_band(
            float(values["proportional_band_c"]),
            integral if integral > 0 else float("inf"),
            float(values["derivative_time_s"]),
        )
        self._simulation.apply(
            replace(
                self._simulation.settings,
                setpoint_c=float(values["setpoint_c"]),
                mode=Mode(str(values["mode"])),
                hysteresis_c=float(values["hysteresis_c"]),
                hysteresis_school=HysteresisSchool(str(values["hysteresis_school"])),
                pid=pid,
                period_s=float(values["period_s"]),
                output_high=float(values["output_high"]),
                offset_c=float(values["offset_c"]),
            )
        )


def _tables(register_map: RegisterMap) -> tuple[list[SimData], list[SimData], list[SimData], list[SimData]]:
    """The four tables of a device, each as long as its map asks; one the map does not use holds one dead register."""
    made = []
    for table in (Table.COIL, Table.DISCRETE, Table.HOLDING, Table.INPUT):
        bits = table in BIT_TABLES
        places = [(r.address, r.address + r.words) for r in register_map.registers if r.table is table]
        start, end = min((a for a, _ in places), default=0), max((b for _, b in places), default=1)
        if bits:
            start, end = start // 16, (end + 15) // 16
        kind = DataType.BITS if bits else DataType.REGISTERS
        made.append([SimData(start, count=end - start, values=0, datatype=kind)])
    return made[0], made[1], made[2], made[3]


def _step(network: ThermalNetwork) -> float:
    """A twentieth of the dead time, between 0.1 and 1 s."""
    return min(max(network.dead_time_s / 20.0, 0.1), 1.0)


async def serve(stand_in: StandIn, port: int, called: str = "stand-in") -> ModbusTcpServer:
    """Start serving on 127.0.0.1 under the name ``called``; the returned server has ``shutdown()``."""
    identity = ModbusDeviceIdentification(info_name={"VendorName": "Rellux", "ProductCode": called})  # type: ignore[no-untyped-call]
    server = ModbusTcpServer(stand_in.device, identity=identity, address=("127.0.0.1", port))
    await server.serve_forever(background=True)
    return server
