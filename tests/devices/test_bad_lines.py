"""A bad line between the driver and a device: late, split, garbled, lost and echoed frames, and another master. What is read is true, or
nothing is: never another number."""

import asyncio
import random
import threading
import time
from contextlib import suppress

import pytest
from pymodbus.framer.rtu import FramerRTU

from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.process.models import FOPDT
from rellux.core.process.networks import from_fopdt
from rellux.devices.cable import Cable, Faults
from rellux.devices.modbus_link import LinkDown, ModbusLink, SerialAddress
from rellux.devices.register_map import STAND_IN
from rellux.devices.stand_in import StandIn, StandInConfig, serve_bus
from tests.examples import cases

SETTINGS = ControllerSettings(61.5, Mode.OFF, 2.0)
TRUE = {"setpoint_c": 61.5, "mode": "off", "hysteresis_c": 2.0, "reading_c": 21.0, "output": 0.0, "switch": 0.0}

HARMLESS = (Faults(), Faults(split=1.0), Faults(echo=True))


def patience(line):
    """Little where answers stay away on purpose; enough for a busy machine where they must all come."""
    return 2.0 if line.faults in HARMLESS else 0.15


class Line:
    """A controller behind a cable with faults, served in a thread of its own."""

    def __init__(self, faults, baud=115_200, seed=1):
        self.cable = Cable(baud, Faults(echo=faults.echo), seed)  # an adapter hears itself from the beginning
        self.faults, self.ready, self.ended = faults, threading.Event(), None
        self.stand_in = StandIn(StandInConfig(from_fopdt(FOPDT(1.05, 620, 20)), SETTINGS, 21.0))
        self.thread = threading.Thread(target=lambda: asyncio.run(self.serve(baud)), daemon=True)
        self.thread.start()
        assert self.ready.wait(10)
        self.address = SerialAddress(self.cable.here, baud)

    async def serve(self, baud):
        self.loop, self.ended = asyncio.get_running_loop(), asyncio.Event()
        server = await serve_bus([self.stand_in], self.cable.there, baud)
        self.ready.set()
        await self.ended.wait()
        await server.shutdown()

    def close(self):
        self.loop.call_soon_threadsafe(self.ended.set)
        self.thread.join(10)
        self.cable.close()


@pytest.fixture(params=[
    Faults(), Faults(split=1.0), Faults(late=0.2, late_s=0.25), Faults(lost=0.2), Faults(garbled=0.4), Faults(echo=True),
    Faults(lost=0.1, garbled=0.2, split=0.4, late=0.1, echo=True),
], ids=["good", "split", "late", "lost", "garbled", "echo", "all"])  # fmt: skip
def line(request):
    line = Line(request.param)
    yield line
    line.close()


def test_what_is_read_over_a_bad_line_is_true_or_nothing(line):
    polls, lost = 20, 0
    with ModbusLink(line.address, STAND_IN, timeout_s=patience(line)) as link:
        line.cable.faults = line.faults
        for _ in range(polls):
            try:
                values = link.read()
            except LinkDown:
                lost += 1
                continue
            assert {name: values[name] for name in TRUE} == pytest.approx(TRUE)
        line.cable.faults = Faults(echo=line.faults.echo)
        for _ in range(20):  # and it comes back as soon as the line is good again, and the machine has time
            try:
                assert link.read()["mode"] == "off"
                break
            except LinkDown:
                time.sleep(0.3)
        else:
            raise AssertionError("it did not come back")
    assert lost <= (0 if line.faults in HARMLESS else polls * 0.8)


def test_what_is_written_over_a_bad_line_is_confirmed_or_not_said(line):
    with ModbusLink(line.address, STAND_IN, timeout_s=patience(line)) as link:
        link.read()
        line.cable.faults, confirmed = line.faults, 0
        for i in range(15):
            wanted = 40.0 + i
            try:
                said = link.write("setpoint_c", wanted)
            except LinkDown:
                continue  # and is asked the next thing at once, whatever is still on its way
            assert said == wanted == line.stand_in.shown()["setpoint_c"]
            confirmed += 1
        assert confirmed >= (15 if line.faults in HARMLESS else 1)


@pytest.mark.parametrize("seed", range(cases(1)))
def test_an_answer_to_an_older_question_is_never_taken_for_this_one(seed):
    """Before every question somebody turns the set-point at the keys, or it is to be another; answers come up to three times too late,
    and the link is closed and opened again now and then. What is read is what it held when it was asked, what is written is what it
    holds."""
    chance, true = random.Random(seed), 0
    reads = chance.random() < 0.5
    line = Line(Faults(), seed=seed)
    line.cable.faults = Faults(late=0.4, late_s=chance.uniform(0.1, 0.3), lost=0.05)
    try:
        for i in range(12):
            with ModbusLink(line.address, STAND_IN, timeout_s=0.1) as link:
                for turned in range(40 + 3 * i, 43 + 3 * i):
                    with suppress(LinkDown):
                        if reads:
                            line.stand_in.take("setpoint_c", float(turned))
                            assert link.read()["setpoint_c"] == turned
                        else:
                            assert link.write("setpoint_c", turned) == turned == line.stand_in.shown()["setpoint_c"]
                        true += 1
                    time.sleep(chance.choice((0.0, 0.05, 0.3)))
    finally:
        line.close()
    assert true >= 2  # it is not dumb either


def test_an_adapter_that_hears_itself_is_told_from_one_that_does_not():
    """The answer to a coil that was written is the question itself: it must not be taken for an echo, nor an echo for it."""
    from rellux.devices.bus import Echo

    read, answer, write = (
        b"\x01\x03\x00\x00\x00\x02\xc4\x0b",
        b"\x01\x03\x04\x00\x01\x00\x02\x2a\x32",
        b"\x01\x05\x00\x00\xff\x00\x8c\x3a",
    )
    quiet, loud = Echo(), Echo()
    for echo in (quiet, loud):
        assert echo(True, read) == read
    assert quiet(False, answer) == answer and loud(False, read + answer) == answer
    for echo in (quiet, loud):
        echo(True, write)
    assert quiet(False, write) == write and loud(False, write) == b"" and loud(False, write + write) == write


def test_a_second_master_is_noticed():
    line = Line(Faults(), 19_200)
    question = FramerRTU.compute_CRC(b"\x05\x03\x00\x00\x00\x02").to_bytes(2, "big")
    try:
        with ModbusLink(line.address, STAND_IN, timeout_s=2.0) as link:
            for _ in range(10):
                link.read()
            assert link.remark == ""
            for _ in range(4):
                line.cable.say(b"\x05\x03\x00\x00\x00\x02" + question)
                time.sleep(0.05)
                assert link.read()["setpoint_c"] == 61.5
            assert "something else speaks on this bus" in link.remark
            for _ in range(60):
                link.read()
            assert link.remark == ""  # it has gone
    finally:
        line.close()


@pytest.mark.long
def test_a_late_answer_is_no_second_master():
    line = Line(Faults())
    try:
        with ModbusLink(line.address, STAND_IN, timeout_s=0.2) as link:
            for _ in range(5):
                line.cable.faults = Faults(late=1.0, late_s=0.6)
                with pytest.raises(LinkDown):
                    link.read()
                line.cable.faults = Faults()
                time.sleep(1.6)
                assert link.read()["setpoint_c"] == 61.5
            assert link.remark == ""
    finally:
        line.close()
