"""The register map, and the stand-in controller spoken to over a real socket."""

import asyncio
import socket
import threading
import time

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rellux.core.control.alarms.alarm import Alarm, Seen
from rellux.core.control.alarms.settings import Action, AlarmKind, AlarmSettings
from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.errors import Refused
from rellux.core.guarding.plan import PlannedAlarm
from rellux.core.process.models import FOPDT
from rellux.core.process.networks import from_fopdt
from rellux.devices.modbus_link import Address, LinkDown, ModbusLink
from rellux.devices.register_map import STAND_IN, Register
from rellux.devices.stand_in import StandIn, StandInConfig, serve
from rellux.server.links.stand_ins import free_port


@given(st.floats(-3276.7, 3276.7))
def test_tenths_survive_a_signed_register(value):
    register = Register("reading_c", 0, 10.0)
    assert register.decode(register.encode(value)) == pytest.approx(value, abs=0.0501)


@given(st.integers(0, 2**32 - 1))
def test_a_long_clock_survives_two_registers(tenths):
    register = Register("clock_s", 0, 10.0, words=2)
    assert register.decode(register.encode(tenths / 10)) == pytest.approx(tenths / 10)


def test_values_that_do_not_fit_are_refused_not_wrapped():
    with pytest.raises(Refused, match="does not fit"):
        Register("setpoint_c", 0, 10.0).encode(4000.0)
    with pytest.raises(Refused, match="not a choice"):
        Register("mode", 0, choices=("off", "pid")).encode("fuzzy")
    with pytest.raises(Refused, match="does not know"):
        Register("mode", 0, choices=("off", "pid")).decode([7])


def test_no_two_values_share_a_register():
    taken = [a for r in STAND_IN.registers for a in range(r.address, r.address + r.words)]
    assert len(taken) == len(set(taken))


class Served:
    """A stand-in with a quick plant, on a thread of its own."""

    def __init__(self, speed, register_map=STAND_IN):
        settings = ControllerSettings(60.0, Mode.OFF, 2.0)
        self.port, self.map = free_port(), register_map
        stand_in = StandIn(StandInConfig(from_fopdt(FOPDT(1.05, 620, 20)), settings, 21.0, speed, None, register_map))
        started = threading.Event()

        def run():
            self.loop = asyncio.new_event_loop()
            server = self.loop.run_until_complete(serve(stand_in, self.port))
            started.set()
            self.loop.run_forever()
            self.loop.run_until_complete(server.shutdown())

        self.thread = threading.Thread(target=run, daemon=True)
        self.thread.start()
        assert started.wait(20)

    def link(self, **changed):
        return ModbusLink(Address("127.0.0.1", self.port, **changed), self.map, timeout_s=0.5)

    def stop(self):
        self.loop.call_soon_threadsafe(self.loop.stop)
        self.thread.join(10)


@pytest.fixture
def served():
    served = Served(speed=100)
    yield served
    served.stop()


def test_it_starts_cold_with_its_output_off(served):
    with served.link() as link:
        values = link.read()
    assert values["mode"] == "off" and values["output"] == 0 and values["reading_c"] == pytest.approx(21.0)


def test_with_a_link_timer_it_ends_the_heat_when_nobody_asks_and_not_before(monkeypatch):
    now = [100.0]
    monkeypatch.setattr("rellux.devices.stand_in.time.monotonic", lambda: now[0])
    by_pid = ControllerSettings(60.0, Mode.PID, 2.0)
    config = StandInConfig(from_fopdt(FOPDT(1.05, 620, 20)), by_pid, 21.0, link_timer_s=60.0)
    asked, unasked = StandIn(config), StandIn(config)
    for _ in range(4):
        now[0] += 50.0
        asyncio.run(asked._accessed(3, 0, 0, 1, [0] * 30, None))
    assert asked.shown()["mode"] == "pid" and asked.shown()["on_time_s"] > 190.0
    assert unasked.shown()["mode"] == "off"
    assert unasked.shown()["on_time_s"] == pytest.approx(60.0, abs=3.0)  # what is in its control period is spent


def test_its_clock_runs_at_the_speed_asked_for(served):
    with served.link() as link:
        first, began = link.read()["clock_s"], time.monotonic()
        time.sleep(0.5)
        second, ended = link.read()["clock_s"], time.monotonic()
    assert second - first == pytest.approx(100 * (ended - began), rel=0.1)


def test_it_heats_when_told_to_and_says_what_it_holds(served):
    with served.link() as link:
        assert link.write("setpoint_c", 80.0) == 80.0
        assert link.write("mode", "on_off") == "on_off"
        time.sleep(1.0)
        values = link.read()
    assert values["output"] == 100 and values["switch"] == 1 and values["reading_c"] > 23


def test_settings_are_taken_in_their_own_units(served):
    wanted = {
        "proportional_band_c": 21.7,
        "integral_time_s": 786.0,
        "derivative_time_s": 12.0,
        "period_s": 2.5,
        "offset_c": -1.3,
    }
    with served.link() as link:
        for name, value in wanted.items():
            assert link.write(name, value) == pytest.approx(value)
        values = link.read()
    assert {n: values[n] for n in wanted} == pytest.approx(wanted)


def test_an_impossible_setting_is_refused_and_the_old_one_kept(served):
    with served.link() as link:
        with pytest.raises(LinkDown, match="refused proportional_band_c"):
            link.write("proportional_band_c", 0.0)
        assert link.read()["proportional_band_c"] == 20.0


def test_nobody_there_and_the_wrong_unit_are_told_with_the_address(served):
    with pytest.raises(LinkDown, match=r"nothing answers at 127\.0\.0\.1"):
        ModbusLink(Address("127.0.0.1", free_port()), STAND_IN).__enter__()
    with pytest.raises(LinkDown, match="unit 9"), served.link(unit_id=9) as link:
        link.read()


def test_a_connection_reset_under_the_reading_is_a_lost_link(served):
    """The controller's socket goes away between two polls: an operating-system error, not one of the protocol's."""
    with served.link() as link:

        def reset(*_args, **_kwargs):
            raise ConnectionResetError(104, "Connection reset by peer")

        link._client.read_holding_registers = link._client.write_registers = reset
        with pytest.raises(LinkDown, match="no answer"):
            link.read()
        with pytest.raises(LinkDown, match="while writing setpoint_c"):
            link.write("setpoint_c", 50.0)


def test_a_program_that_is_no_controller_is_not_taken_for_one():
    """It accepts the connection and says nothing: no answer, and not "another program"; one of another name is."""
    with socket.socket() as silent:
        silent.bind(("127.0.0.1", 0))
        silent.listen()
        address = Address("127.0.0.1", silent.getsockname()[1])
        with pytest.raises(LinkDown, match="no answer"):
            ModbusLink(address, STAND_IN, timeout_s=0.2, called="stand-in of mine").__enter__()


def test_a_stand_in_of_another_name_is_not_taken_for_ones_own(served):
    address = Address("127.0.0.1", served.port)
    with ModbusLink(address, STAND_IN, called="stand-in") as link:
        assert link.read()["mode"] == "off"
    with pytest.raises(LinkDown, match="another program"):
        ModbusLink(address, STAND_IN, called="stand-in of mine").__enter__()


def test_a_stand_in_has_the_alarms_of_the_plan_and_they_act(monkeypatch):
    """Judge: the alarm by itself, fed with what the stand-in shows. Its heat is cut until somebody who stands before it resets it."""
    clock = [0.0]
    monkeypatch.setattr("rellux.devices.stand_in.time.monotonic", lambda: clock[0])
    settings = ControllerSettings(300.0, Mode.MANUAL, 2.0, manual_output=100.0, sample_s=1.0)
    stand_in = StandIn(StandInConfig(from_fopdt(FOPDT(4.0, 200.0, 5.0)), settings, 21.0))
    hot = AlarmSettings(AlarmKind.HIGH, 120.0, 5.0, on_delay_s=3.0, latching=True)
    rising = AlarmSettings(AlarmKind.RISING, 20.0, window_s=10.0)
    plan = [PlannedAlarm(n, a, d, "", "", "look") for n, a, d in (
        ("Rises", rising, (Action.BEACON,)), ("Too hot", hot, (Action.OUTPUT_OFF, Action.BUZZER)),
    )]  # fmt: skip
    stand_in.guard(plan)
    judges = [Alarm(rising), Alarm(hot)]
    seen, judged = [], []
    for _ in range(400):
        clock[0] += 1.0
        shown = stand_in.shown()
        for judge in judges:
            judge.look(Seen(1.0, shown["reading_c"], 300.0, shown["output"]))
        seen.append((shown["alarm_1"], shown["alarm_2"]))
        judged.append(tuple(float(j.acts) for j in judges))
    changes = [[i for i in range(1, 400) if rows[i][k] != rows[i - 1][k]] for rows in (seen, judged) for k in (0, 1)]
    assert changes[:2] == [pytest.approx(expected, abs=1) for expected in changes[2:]]  # it looks within its second
    assert [len(c) for c in changes[:2]] == [2, 1]
    assert shown["alarm_2"] == 1.0 and shown["reading_c"] < 115.0 and stand_in.shown()["switch"] == 0.0
    stand_in.guard(plan[1:])  # one that is set alike goes on from where it stood
    assert stand_in.shown()["alarm_1"] == 1.0 and stand_in.shown()["alarm_2"] == 0.0
    stand_in.take("mode", "off")
    assert stand_in.shown()["alarm_1"] == 0.0
