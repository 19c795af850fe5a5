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

from .register_map import STAND_IN, Value

LONGEST_STEP_S = 6 * 3600.0


@dataclass(frozen=True)
class StandInConfig:
    """What the stand-in pretends to be."""

    network: ThermalNetwork
    settings: ControllerSettings
    ambient_c: float
    speed: float = 1.0
    start_c: float | None = None


class StandIn:
    """One simulated controller. ``device`` is what the Modbus server serves."""

    def __init__(self, config: StandInConfig, unit_id: int = 1) -> None:
        self._speed = config.speed
        step = _step(config.network)
        self._simulation = Simulation(config.network, config.settings, config.ambient_c, step, interpreted=True)
        if config.start_c is not None:
            self._simulation.start_at(config.start_c)
        self._last = time.monotonic()
        block = SimData(STAND_IN.start, count=STAND_IN.length, values=0, datatype=DataType.REGISTERS)
        self.device = SimDevice(unit_id, simdata=[block], action=self._accessed)

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
        self._fill(current_registers, start_address)
        if set_values is not None:
            for i, word in enumerate(set_values):
                current_registers[address - start_address + i] = int(word)
            try:
                self._apply(STAND_IN.decode(current_registers))
            except (Refused, ValueError):
                self._fill(current_registers, start_address)
                return ExcCodes.ILLEGAL_VALUE
            self._fill(current_registers, start_address)
        return None

    def _fill(self, registers: list[int], start_address: int) -> None:
        """Write what the controller holds and shows into its registers."""
        for name, value in self._values().items():
            register = STAND_IN.by_name[name]
            at = register.address - start_address
            registers[at : at + register.words] = register.encode(value)

    def _values(self) -> dict[str, Value]:
        s, now = self._simulation.settings, self._simulation
        integral = s.pid.integral_time_s
        return {
            "clock_s": now.time_s,
            "reading_c": min(max(now.reading_c, -3276.0), 3276.0),
            "output": now.output,
            "switch": 1.0 if now.switch_closed else 0.0,
            "sensor_fault": 0.0,
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
        }

    def _apply(self, values: dict[str, Value]) -> None:
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


def _step(network: ThermalNetwork) -> float:
    """A twentieth of the dead time, between 0.1 and 1 s."""
    return min(max(network.dead_time_s / 20.0, 0.1), 1.0)


async def serve(stand_in: StandIn, port: int, called: str = "stand-in") -> ModbusTcpServer:
    """Start serving on 127.0.0.1 under the name ``called``; the returned server has ``shutdown()``."""
    identity = ModbusDeviceIdentification(info_name={"VendorName": "Rellux", "ProductCode": called})  # type: ignore[no-untyped-call]
    server = ModbusTcpServer(stand_in.device, identity=identity, address=("127.0.0.1", port))
    await server.serve_forever(background=True)
    return server
