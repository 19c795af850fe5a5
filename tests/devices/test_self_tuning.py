"""A simulated controller that tunes itself, told so over real Modbus: what it finds is what the process it heats can bear."""

import asyncio
import threading

import pytest

from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.errors import Refused
from rellux.core.process.models import FOPDT
from rellux.core.process.networks import from_fopdt
from rellux.core.tuning.rules.limit import limit_of
from rellux.core.tuning.rules.published import tyreus_luyben_pid
from rellux.devices.map_file import parse
from rellux.devices.modbus_link import Address, ModbusLink
from rellux.devices.stand_in import StandIn, StandInConfig, serve
from rellux.server.demo.register_maps import KILN
from rellux.server.links.stand_ins import free_port

PROCESS = FOPDT(1.2, 400.0, 40.0)
MAP = parse(KILN, "kiln")


@pytest.fixture
def controller():
    settings = ControllerSettings(60.0, Mode.PID, 2.0)
    stand_in = StandIn(StandInConfig(from_fopdt(PROCESS), settings, 20.0, 1.0, None, MAP))
    loop, port, ready = asyncio.new_event_loop(), free_port(), threading.Event()

    def run():
        server = loop.run_until_complete(serve(stand_in, port))
        ready.set()
        loop.run_forever()
        loop.run_until_complete(server.shutdown())

    thread = threading.Thread(target=run, daemon=True)
    thread.start()
    assert ready.wait(10)
    with ModbusLink(Address("127.0.0.1", port), MAP) as link:
        yield link, stand_in
    loop.call_soon_threadsafe(loop.stop)
    thread.join(10)


def let_pass(stand_in, seconds, speed=1e5):
    stand_in.set_speed(speed)
    while seconds > 0:
        before = stand_in.shown()["clock_s"]
        seconds -= stand_in.shown()["clock_s"] - before
    stand_in.set_speed(1.0)


def test_it_finds_its_numbers_and_goes_on_with_them(controller):
    link, stand_in = controller
    before = link.read()
    assert link.write("auto_tune", "on") == "on" and before["auto_tune"] == "off"
    during = link.read()
    assert all(during[n] == before[n] for n in ("proportional_band_c", "integral_time_s", "mode"))
    let_pass(stand_in, 7200.0)
    after = link.read()
    assert after["auto_tune"] == "off" and after["mode"] == "pid"
    best = tyreus_luyben_pid(limit_of(PROCESS, 440.0))
    assert after["proportional_band_c"] == pytest.approx(
        best.proportional_band_c, rel=0.4
    )  # a describing function is so rough
    assert after["integral_time_s"] == pytest.approx(best.integral_time_s, rel=0.25)
    let_pass(stand_in, 14_400.0)
    assert link.read()["reading_c"] == pytest.approx(60.0, abs=1.0)


def test_it_is_stopped_and_switched_off_in_the_middle(controller):
    link, stand_in = controller
    before = link.read()
    link.write("auto_tune", "on")
    let_pass(stand_in, 60.0, 1e3)
    assert link.read()["auto_tune"] == "on"
    assert link.write("auto_tune", "off") == "off" and link.read()["mode"] == "pid"
    link.write("auto_tune", "on")
    held = link.switch_off(5.0)
    assert held["mode"] == "off" and held["auto_tune"] == "off" and held["output"] == 0.0
    assert held["proportional_band_c"] == before["proportional_band_c"]


def test_a_map_that_starts_it_ends_it_when_switched_off():
    for change, field in (
        ({"safe_off": {"writes": [["mode", "off"]], "off_when": [["mode", "off"]]}}, "safe_off"),
        ({"registers": [r if r["name"] != "auto_tune" else {**r, "choices": ["no", "yes"]} for r in KILN["registers"]],
          "safe_off": {"writes": [["mode", "off"]], "off_when": [["mode", "off"]]}}, "auto_tune"),
    ):  # fmt: skip
        with pytest.raises(Refused) as refused:
            parse({**KILN, **change}, "kiln")
        assert refused.value.problems[0].field == field
