"""Modbus RTU over a pair of pseudo-terminals, RTU frames over TCP, and a device that is busy: the real driver over the real protocol."""

import asyncio
import os
import pty
import select
import threading
import tty
from contextlib import suppress
from types import SimpleNamespace

import pytest
from pymodbus import FramerType
from pymodbus.constants import ExcCodes
from pymodbus.server import ModbusSerialServer, ModbusTcpServer
from pymodbus.simulator import DataType, SimData, SimDevice
from serial.tools import list_ports

from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.process.models import FOPDT
from rellux.core.process.networks import from_fopdt
from rellux.devices import serial_ports
from rellux.devices.map_file import parse
from rellux.devices.modbus_link import Address, LinkDown, ModbusLink, SerialAddress
from rellux.devices.poll_plan import Block
from rellux.devices.register_map import STAND_IN
from rellux.devices.registers import RegisterTable
from rellux.devices.stand_in import StandIn, StandInConfig
from rellux.server.demo.register_maps import KILN
from rellux.server.links.stand_ins import free_port

SETTINGS = ControllerSettings(60.0, Mode.OFF, 2.0)


class Cable:
    """Two pseudo-terminals joined, with everything that went either way written down."""

    def __init__(self):
        (self.ours, a), (self.theirs, b) = pty.openpty(), pty.openpty()
        for end in (a, b, self.ours, self.theirs):
            tty.setraw(end)
        self.here, self.there = os.ttyname(a), os.ttyname(b)
        self.sent, self.heard, self.cut = bytearray(), bytearray(), False
        self.stopping = threading.Event()
        self.thread = threading.Thread(target=self.carry, daemon=True)
        self.thread.start()

    def carry(self):
        while not self.stopping.is_set():
            for end in select.select([self.ours, self.theirs], [], [], 0.05)[0]:
                data = os.read(end, 512)
                (self.sent if end == self.ours else self.heard).extend(data)
                if not self.cut:
                    os.write(self.theirs if end == self.ours else self.ours, data)

    def stop(self):
        self.stopping.set()
        self.thread.join(5)


def serving(make):
    """A server in a thread of its own; returns what stops it."""
    loop, ready = asyncio.new_event_loop(), threading.Event()

    async def start():
        server = make()
        await server.serve_forever(background=True)
        ready.set()
        return server

    def run():
        server = loop.run_until_complete(start())
        loop.run_forever()
        loop.run_until_complete(server.shutdown())

    thread = threading.Thread(target=run, daemon=True)
    thread.start()
    assert ready.wait(10)

    def stop():
        loop.call_soon_threadsafe(loop.stop)
        thread.join(10)

    return stop


@pytest.fixture(params=[STAND_IN, parse(KILN, "kiln")], ids=["stand-in", "kiln"])
def bus(request):
    cable = Cable()
    stand_in = StandIn(StandInConfig(from_fopdt(FOPDT(1.05, 620, 20)), SETTINGS, 21.0, 100.0, None, request.param))
    stop = serving(lambda: ModbusSerialServer(stand_in.device, framer=FramerType.RTU, port=cable.there, baudrate=9600))
    yield SimpleNamespace(cable=cable, map=request.param, address=SerialAddress(cable.here, 9600))
    stop()
    cable.stop()


def test_a_controller_on_a_serial_bus_is_read_written_and_switched_off(bus):
    with ModbusLink(bus.address, bus.map, timeout_s=1.0) as link:
        assert link.read()["reading_c"] == pytest.approx(21.0, abs=0.1)
        assert link.write("setpoint_c", 80.0) == pytest.approx(80.0)
        assert link.write("mode", "on_off") == "on_off"
        assert link.switch_off(3.0)["mode"] == "off"
        bus.cable.cut = True
        with pytest.raises(LinkDown, match="no answer from"):
            link.read()


def test_two_devices_on_one_bus_are_asked_one_after_the_other():
    """Two rigs' threads on one port: neither hears the other's answer, and either goes on when the other has gone."""
    cable = Cable()
    devices = [
        StandIn(StandInConfig(from_fopdt(FOPDT(1.05, 620, 20)), SETTINGS, 20.0 + n, 100.0), n).device for n in (1, 2)
    ]
    stop = serving(lambda: ModbusSerialServer(devices, framer=FramerType.RTU, port=cable.there, baudrate=9600))
    heard = {1: [], 2: []}

    def follow(unit, polls):
        with ModbusLink(SerialAddress(cable.here, 9600, unit_id=unit), STAND_IN, timeout_s=1.0) as link:
            heard[unit] += [link.read()["reading_c"] for _ in range(polls)]

    threads = [threading.Thread(target=follow, args=args) for args in ((1, 12), (2, 6))]
    try:
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join(30)
        assert heard == {1: [21.0] * 12, 2: [22.0] * 6}
        with ModbusLink(SerialAddress(cable.here), STAND_IN) as link:
            assert link.read()["mode"] == "off"  # closed by the last, opened again
    finally:
        stop()
        cable.stop()


def test_frames_are_those_of_the_specification(bus):
    """Modbus over serial line V1.02 and the handbook: 01 03 00 00 00 0A goes with the CRC C5 CD."""
    # the kiln's map has no ten registers there: it is asked all the same
    with ModbusLink(bus.address, bus.map, timeout_s=0.5) as link, suppress(LinkDown):
        link.words_of(Block(RegisterTable.HOLDING, 0, 10))
    assert bytes(bus.cable.sent[:8]).hex(" ").upper() == "01 03 00 00 00 0A C5 CD"


def test_rtu_frames_over_tcp():
    port = free_port()
    stand_in = StandIn(StandInConfig(from_fopdt(FOPDT(1.05, 620, 20)), SETTINGS, 21.0, 100.0))
    stop = serving(lambda: ModbusTcpServer(stand_in.device, framer=FramerType.RTU, address=("127.0.0.1", port)))
    try:
        with ModbusLink(Address("127.0.0.1", port, 1, rtu=True), STAND_IN, timeout_s=1.0) as link:
            assert link.write("setpoint_c", 71.5) == 71.5
        with ModbusLink(Address("127.0.0.1", port), STAND_IN, timeout_s=0.3) as link, pytest.raises(LinkDown):
            link.read()  # the other framing is no answer, never a wrong one
    finally:
        stop()


@pytest.mark.parametrize(("busy", "answers"), [(2, True), (9, False)])
def test_a_busy_device_is_asked_again_later(busy, answers):
    left = [busy]

    async def hesitates(*_request):
        left[0] -= 1
        return ExcCodes.DEVICE_BUSY if left[0] >= 0 else None

    port = free_port()
    device = SimDevice(1, simdata=[SimData(0, count=4, values=7, datatype=DataType.REGISTERS)], action=hesitates)
    stop = serving(lambda: ModbusTcpServer(device, address=("127.0.0.1", port)))
    try:
        with ModbusLink(Address("127.0.0.1", port), STAND_IN, timeout_s=1.0) as link:
            if answers:
                assert link.words_of(Block(RegisterTable.HOLDING, 0, 2)) == {
                    (RegisterTable.HOLDING, 0): 7,
                    (RegisterTable.HOLDING, 1): 7,
                }
            else:
                with pytest.raises(LinkDown, match="refused to read"):
                    link.words_of(Block(RegisterTable.HOLDING, 0, 2))
    finally:
        stop()


def test_a_port_that_cannot_be_opened_is_explained(tmp_path):
    with pytest.raises(LinkDown, match="there is no port"):
        ModbusLink(SerialAddress(str(tmp_path / "ttyUSB7")), STAND_IN).__enter__()
    (tmp_path / "file").write_text("")
    with pytest.raises(LinkDown, match="cannot be opened"):
        ModbusLink(SerialAddress(str(tmp_path / "file")), STAND_IN).__enter__()


def test_a_port_is_called_by_the_name_that_lasts(tmp_path, monkeypatch):
    (tmp_path / "ttyUSB0").write_text("")
    by_id = tmp_path / "by-id"
    by_id.mkdir()
    (by_id / "usb-adapter-7").symlink_to(tmp_path / "ttyUSB0")
    ports = [
        SimpleNamespace(device=str(tmp_path / "ttyUSB0"), description="Adapter"),
        SimpleNamespace(device="/dev/ttyS0", description=""),
    ]
    monkeypatch.setattr(serial_ports, "BY_ID", by_id)
    monkeypatch.setattr(list_ports, "comports", lambda: ports)
    assert {p.device: p.words for p in serial_ports.serial_ports()} == {
        "/dev/ttyS0": "/dev/ttyS0",
        str(by_id / "usb-adapter-7"): "Adapter",
    }
