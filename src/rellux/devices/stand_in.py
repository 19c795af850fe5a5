"""A stand-in for a controller with its oven, and for instruments at it: the simulator behind a real Modbus server.

Time inside runs ``speed`` times faster than outside. The plant is advanced whenever somebody reads or writes.
"""

import threading
import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from math import isfinite

from pymodbus import FramerType, ModbusDeviceIdentification
from pymodbus.constants import ExcCodes
from pymodbus.server import ModbusSerialServer, ModbusTcpServer
from pymodbus.simulator import DataType, SimData, SimDevice

from rellux.core.control.alarms.alarm import ACTING
from rellux.core.control.pid import from_band
from rellux.core.control.settings import FULL_OUTPUT, ControllerSettings, HysteresisSchool, InnerLoop, Mode
from rellux.core.errors import Refused, refuse
from rellux.core.guarding.plan import PlannedAlarm
from rellux.core.plant.simulation import Simulation
from rellux.core.process.networks import ThermalNetwork
from rellux.core.setup.dictionary.inner import INNER_NAMES, LOOPS, ONE, TWO
from rellux.core.setup.proposals.inner import BAND_C, HIGH_C, INTEGRAL_S, LOW_C

from .register_map import STAND_IN, RegisterMap
from .registers import RegisterTable, Value
from .self_tuning import LOOK_S, SelfTuning

BIT_TABLES = (RegisterTable.COIL, RegisterTable.DISCRETE)
_TABLE_OF = {
    **dict.fromkeys((1, 5, 15), RegisterTable.COIL),
    2: RegisterTable.DISCRETE,
    **dict.fromkeys((3, 6, 16, 22, 23), RegisterTable.HOLDING),
    4: RegisterTable.INPUT,
}
LONGEST_STEP_S = 6 * 3600.0
TUNES_S = 60.0
"""In pieces of so long it tunes itself, s."""
TELLS_S = 10.0
"""In pieces of so long it goes on beside others, s: meanwhile they are taken to stay as warm as they are."""
ZONES_APART = 0.004
"""Share of the rise by which one simulated zone is warmer than the next."""


@dataclass(frozen=True)
class StandInConfig:
    """What the stand-in pretends to be. ``link_timer_s``: off after so long without a question, by the clock outside; 0: never."""

    network: ThermalNetwork
    settings: ControllerSettings
    ambient_c: float
    speed: float = 1.0
    start_c: float | None = None
    register_map: RegisterMap = STAND_IN
    supply_v: float = 230.0
    link_timer_s: float = 0.0


UNUSED = InnerLoop(FULL_OUTPUT / BAND_C, INTEGRAL_S, LOW_C, HIGH_C)
"""What stands in its registers before it was told of a loop at its heater."""


class StandIn:
    """One simulated controller. ``device`` is what the Modbus server serves."""

    def __init__(self, config: StandInConfig, unit_id: int = 1) -> None:
        self._speed, self._network, self._supply_v = config.speed, config.network, config.supply_v
        self._lock, self._ahead_s = threading.RLock(), 0.0
        step = _step(config.network, config.settings.sample_s)
        full_a = config.network.heater_power_w / config.supply_v
        self._simulation = Simulation(
            config.network, config.settings, config.ambient_c, step, interpreted=True, heater_a=full_a
        )
        if config.start_c is not None:
            self._simulation.start_at(config.start_c)
        self._last = self._asked = time.monotonic()
        self._link_timer_s = config.link_timer_s
        self._tuning: SelfTuning | None = None
        self._inner = config.settings.inner or UNUSED
        self._beside: tuple[tuple[float, StandIn], ...] = ()
        self.map = config.register_map
        self.device = SimDevice(unit_id, simdata=_tables(self.map), action=self._accessed)

    def set_speed(self, speed: float) -> None:
        if speed != self._speed:
            self.catch_up()
            self._speed = speed

    def lie_beside(self, others: tuple[tuple[float, "StandIn"], ...]) -> None:
        """From now on these are other zones of its chamber, joined with it by so many W/K."""
        self.catch_up()
        with self._lock:
            self._beside = others
            if not others:
                self._simulation.lie_beside()

    @property
    def chamber_c(self) -> float:
        """As warm as it was when it was last advanced, °C: what lies beside it looks at it, and it is not asked to go on for that."""
        return self._simulation.true_c

    def guard(self, alarms: Sequence[PlannedAlarm]) -> None:
        """Its own alarms, by the machine that judges them everywhere; the first two have a contact."""
        self.catch_up()
        with self._lock:
            self._simulation.guard(tuple(a.alarm for a in alarms), tuple(a.does for a in alarms))

    def catch_up(self) -> None:
        """Advance the plant to the present moment; where its link timer has run out meanwhile, off from then on."""
        with self._lock:
            now = time.monotonic()
            given_up = self._asked + self._link_timer_s
            if self._link_timer_s and given_up < now and self._simulation.settings.mode is not Mode.OFF:
                self._advance_to(max(given_up, self._last))
                self._tuning = None
                self._simulation.apply(replace(self._simulation.settings, mode=Mode.OFF))
            self._advance_to(now)

    def _advance_to(self, now: float) -> None:
        step = self._simulation.step_s
        due = min((now - self._last) * self._speed, LONGEST_STEP_S)
        whole = int(due / step)
        if whole > 0:
            self._go_on(whole * step)
            self._last = now - (due - whole * step) / self._speed

    def _go_on(self, seconds: float) -> None:
        """Of the oven's time; while it tunes itself, as it does that."""
        while self._tuning and seconds > 0.0:
            piece = min(seconds, TUNES_S)
            then = self._tuning.saw(self._simulation.advance(piece, max(LOOK_S, self._simulation.step_s)))
            seconds -= piece
            if then is not None:
                self._tuning = None
                self._simulation.apply(then)
        while seconds > 0.0:
            piece = self._feel_others(seconds)
            self._simulation.advance(piece, piece)
            seconds -= piece

    def _feel_others(self, seconds: float) -> float:
        """Of the oven's time, so long those beside it are taken to stay as warm as they are now."""
        if not self._beside:
            return seconds
        self._simulation.lie_beside(*((g, other.chamber_c) for g, other in self._beside))
        step = self._simulation.step_s
        return min(seconds, max(round(TELLS_S / step), 1) * step)

    def skip(self, seconds: float) -> None:
        """Its own time jumps ahead by so much."""
        self.catch_up()
        with self._lock:
            self._ahead_s += seconds

    def shown(self) -> dict[str, Value]:
        """What it holds and shows now, and what instruments at it would show."""
        self.catch_up()
        with self._lock:
            return {**self._measured(), **self._known()}

    def take(self, name: str, value: Value) -> None:
        """One value set from outside. Raises ``Refused`` or ``ValueError`` for what it cannot hold."""
        self.catch_up()
        with self._lock:
            if name == "output":
                self._tuning = None
                by_hand = replace(self._simulation.settings, mode=Mode.MANUAL, manual_output=float(value))
                self._simulation.apply(by_hand)
            else:
                self._apply({name: value})

    def _measured(self) -> dict[str, Value]:
        nodes, n = self._simulation.nodes_c, self._network
        air_c = self._simulation.ambient_c
        power_w = n.heater_power_w if self._simulation.switch_closed else 0.0
        chamber = float(nodes[n.sensor_node])
        return {
            "second_c": chamber,
            "limiter_c": chamber,
            "load_c": float(nodes[-1]),
            "air_c": air_c,
            "cold_junction_c": air_c + 4.0,
            **{f"zone_{k}_c": chamber + ZONES_APART * (k - 2.5) * (chamber - air_c) for k in range(1, 5)},
            "load_a": power_w / self._supply_v,
            "supply_v": self._supply_v,
            "power_w": power_w,
            "door": 0.0,
            "cooling": 1.0 if self._simulation.cools_now else 0.0,
            "heater_c": self._simulation.heater_c,
        }

    async def _accessed(  # the shape the Modbus server calls
        self,
        function_code: int,
        start_address: int,
        address: int,
        count: int,
        current_registers: list[int],
        set_values: list[int] | list[bool] | None,
    ) -> ExcCodes | None:
        table = _TABLE_OF[function_code]
        _fill(self.map, self.shown(), table, current_registers, start_address)
        self._asked = time.monotonic()
        if set_values is not None:
            words = self.map.encode(_of(self.map, self.shown()))
            words.update({(table, address + i): int(word) for i, word in enumerate(set_values)})
            try:
                with self._lock:
                    self._apply(self.map.decode(words))
            except (Refused, ValueError):
                return ExcCodes.ILLEGAL_VALUE
            _fill(self.map, self.shown(), table, current_registers, start_address)
        return None

    def _known(self) -> dict[str, Value]:
        now = self._simulation
        s = self._tuning.before if self._tuning else now.settings
        acting = [state in ACTING for state in now.alarm_states]
        integral = s.pid.integral_time_s
        return {
            "clock_s": now.time_s + self._ahead_s,
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
            "link_timer_s": self._link_timer_s,
            LOOPS: TWO if s.inner else ONE,
            "inner_band_c": self._inner.band_c,
            "inner_integral_s": self._inner.integral_time_s if isfinite(self._inner.integral_time_s) else 0.0,
            "inner_low_c": self._inner.low_c,
            "inner_high_c": self._inner.high_c,
            "auto_tune": "on" if self._tuning else "off",
            "display_unit": "C",
            "decimals": 1.0,
            "alarm_1": float(any(acting[:1])),
            "alarm_2": float(any(acting[1:2])),
        }

    def _apply(self, told: dict[str, Value | None]) -> None:
        """Take what was written; what the map has no register for stays as it is. Whoever sets its mode stands before it: what is
        latched lets go."""
        known = self._known()
        if told.get("mode") not in (None, known["mode"]):
            self._simulation.release()
        values = {**known, **{k: v for k, v in told.items() if v is not None}}
        tunes = values["auto_tune"] == "on" and values["mode"] != Mode.OFF.value
        integral = float(values["integral_time_s"])
        pid = from_band(
            float(values["proportional_band_c"]),
            integral if integral > 0 else float("inf"),
            float(values["derivative_time_s"]),
        )
        now = self._tuning.before if self._tuning else self._simulation.settings
        inner = self._told_inner(values)
        wanted = replace(
            now,
            setpoint_c=float(values["setpoint_c"]),
            mode=Mode(str(values["mode"])),
            hysteresis_c=float(values["hysteresis_c"]),
            hysteresis_school=HysteresisSchool(str(values["hysteresis_school"])),
            pid=replace(pid, setpoint_weight=now.pid.setpoint_weight),
            period_s=float(values["period_s"]),
            output_high=float(values["output_high"]),
            offset_c=float(values["offset_c"]),
            inner=inner if values[LOOPS] == TWO else None,
        )
        self._inner = inner
        if tunes and not (self._tuning and self._tuning.before == wanted):
            self._tuning = SelfTuning(wanted)
        elif not tunes:
            self._tuning = None
        self._simulation.apply(self._tuning.during if self._tuning else wanted)

    def _told_inner(self, values: Mapping[str, Value | None]) -> InnerLoop:
        """The loop at its heater as it is told, whether it is at work or not. Raises ``Refused`` for ends that cross, and for two loops at
        a rig without a sensor there."""
        if values[LOOPS] == TWO and not self._network.late_reading:
            raise refuse(LOOPS, "it has no second sensor", ONE)
        band, integral, low, high = (float(values[n] or 0.0) for n in INNER_NAMES if n != LOOPS)
        if not band > 0.0:
            raise refuse("inner_band_c", "must be more than zero", "more than {0 Δ°C}")
        return InnerLoop(FULL_OUTPUT / band, integral, low, high)


class StandInInstrument:
    """A simulated instrument at a simulated oven: it can only be read. ``shown``: what could be measured there."""

    def __init__(self, shown: Callable[[], dict[str, Value]], register_map: RegisterMap, unit_id: int = 1) -> None:
        self._shown, self.map = shown, register_map
        self.device = SimDevice(unit_id, simdata=_tables(register_map), action=self._accessed)

    async def _accessed(  # the shape the Modbus server calls
        self,
        function_code: int,
        start_address: int,
        address: int,
        count: int,
        current_registers: list[int],
        set_values: list[int] | list[bool] | None,
    ) -> ExcCodes | None:
        if set_values is not None:
            return ExcCodes.ILLEGAL_FUNCTION
        _fill(self.map, self._shown(), _TABLE_OF[function_code], current_registers, start_address)
        return None


def _of(register_map: RegisterMap, shown: Mapping[str, Value]) -> dict[str, Value | None]:
    """What a map has of what is shown; values nobody knows are not there."""
    return {r.name: shown.get(r.name) for r in register_map.registers}


def _fill(
    register_map: RegisterMap,
    shown: Mapping[str, Value],
    table: RegisterTable,
    registers: list[int],
    start_address: int,
) -> None:
    """Write what a device holds and shows into the registers of a table; sixteen bits lie in one."""
    for (of, address), word in register_map.encode(_of(register_map, shown)).items():
        if of is not table:
            continue
        if table in BIT_TABLES:
            at, bit = address // 16 - start_address, 1 << address % 16
            registers[at] = registers[at] | bit if word else registers[at] & ~bit
        else:
            registers[address - start_address] = word


def _tables(register_map: RegisterMap) -> tuple[list[SimData], list[SimData], list[SimData], list[SimData]]:
    """The four tables of a device, each as long as its map asks; one the map does not use holds one dead register."""
    made = []
    for table in (RegisterTable.COIL, RegisterTable.DISCRETE, RegisterTable.HOLDING, RegisterTable.INPUT):
        bits = table in BIT_TABLES
        places = [(r.address, r.address + r.words) for r in register_map.registers if r.table is table]
        start, end = min((a for a, _ in places), default=0), max((b for _, b in places), default=1)
        if bits:
            start, end = start // 16, (end + 15) // 16
        kind = DataType.BITS if bits else DataType.REGISTERS
        made.append([SimData(start, count=end - start, values=0, datatype=kind)])
    return made[0], made[1], made[2], made[3]


def _step(network: ThermalNetwork, sample_s: float) -> float:
    """A twentieth of the dead time, between 0.1 and 1 s; of a rig with a second sensor at its heater no longer than a look."""
    step = min(max(network.dead_time_s / 20.0, 0.1), 1.0)
    return min(step, sample_s) if network.late_reading else step


def _identity(called: str) -> ModbusDeviceIdentification:
    return ModbusDeviceIdentification(info_name={"VendorName": "Rellux", "ProductCode": called})  # type: ignore[no-untyped-call]


async def serve(stand_in: StandIn | StandInInstrument, port: int, called: str = "stand-in") -> ModbusTcpServer:
    """Start serving on 127.0.0.1 under the name ``called``; the returned server has ``shutdown()``."""
    server = ModbusTcpServer(stand_in.device, identity=_identity(called), address=("127.0.0.1", port))
    await server.serve_forever(background=True)
    return server


async def serve_bus(
    devices: Sequence[StandIn | StandInInstrument], port: str, baud: int, called: str = "stand-in"
) -> ModbusSerialServer:
    """Start serving several devices on one serial port; the returned server has ``shutdown()``."""
    server = ModbusSerialServer(
        [d.device for d in devices], framer=FramerType.RTU, identity=_identity(called), port=port, baudrate=baud
    )
    await server.serve_forever(background=True)
    return server
