"""The library of register maps over the API: stored, succeeded, used by links, and finding out against a real device."""

import json
from datetime import timedelta

import numpy as np
import pytest
from django.utils import timezone

from rellux.devices.map_file import parse
from rellux.server.demo.register_maps import KILN, LOGGER
from rellux.server.links.commands import claim, queue
from rellux.server.links.maps import keep
from rellux.server.links.models import Command, Link
from rellux.server.links.sending import send
from rellux.server.rigs.models import Rig
from rellux.server.runs import store
from rellux.server.runs.models import Run
from tests.devices.test_modbus import Served
from tests.server.bench import Bench
from tests.server.conftest import CABINET, PARTS


def listed(api):
    return {m["title"]: m for m in api.ok("GET", "register-maps")["maps"]}


def test_a_map_is_stored_shown_in_both_notations_and_comes_back_as_a_file(api, db):
    made = api.ok("POST", "register-maps", {"map": KILN})
    places = {p["name"]: (p["table"], p["address"], p["notation"]) for p in made["places"]}
    assert places["reading_c"] == ("input", 0, "30001") and places["mode"] == ("holding", 9, "40010")
    assert made["reads"] == 4 and made["paces"][0]["interval_s"] > made["paces"][-1]["interval_s"]
    file = json.loads(api.client.get(f"/api/v1/register-maps/{made['key']}/file").content)
    assert parse(file, made["key"]) == parse(KILN, made["key"])
    assert set(listed(api)) == {KILN["title"], "Rellux stand-in controller"}


def test_what_is_wrong_is_named_by_row_and_nothing_is_stored(api, db):
    status, answer = api(
        "POST", "register-maps", {"map": {**LOGGER, "registers": [{"name": "reading_c", "address": 70_000}]}}
    )
    assert status == 400 and answer["problems"][0]["field"] == "registers[0].address"
    for nonsense in (None, [], "x", {"title": "x"}, {"title": "x", "registers": [None]}):
        assert api("POST", "register-maps/check", {"map": nonsense})[0] == 400
    assert len(listed(api)) == 1


def test_a_link_speaks_by_its_map_and_follows_its_successor(api, rig):
    key = api.ok("POST", "register-maps", {"map": KILN})["key"]
    assert (
        api.refused("PUT", f"rigs/{rig}/link", {"stand_in": True, "register_map": "map-none"})["field"]
        == "register_map"
    )
    view = api.ok("PUT", f"rigs/{rig}/link", {"stand_in": True, "register_map": key})
    assert view["map_title"] == KILN["title"] and view["link_loss"] and view["live"]["safe_off"]
    assert "speaks by it" in api.refused("DELETE", f"register-maps/{key}")["reason"]
    generation = Link.objects.get().generation
    newer = api.ok("PUT", f"register-maps/{key}", {"map": {**LOGGER, "title": "Changed"}})["key"]
    link = Link.objects.get()
    assert newer != key and link.register_map == newer and link.generation == generation + 1
    assert not api.ok("GET", f"rigs/{rig}/link")["live"]["safe_off"]  # a map that writes nothing switches nothing off
    assert api.refused("POST", f"rigs/{rig}/link/safe-off")["field"] == "link"
    assert "changed meanwhile" in api.refused("PUT", f"register-maps/{key}", {"map": KILN})["reason"]
    assert set(listed(api)) == {"Changed", "Rellux stand-in controller"}
    api.ok("PUT", f"rigs/{rig}/link", {"stand_in": True})
    assert api.ok("GET", f"rigs/{rig}/book")[1]["title"] == "Register map changed: Changed"
    assert api("DELETE", f"register-maps/{newer}")[0] == 204
    assert set(listed(api)) == {"Rellux stand-in controller"}  # its predecessor does not come back


@pytest.fixture
def device():
    served = Served(100, parse(KILN, "device"))
    yield served
    served.stop()


def test_the_reading_of_an_unknown_device_is_found(api, db, device):
    """As at the bench: what answers, what the display shows, until one way is left."""
    where = {"host": "127.0.0.1", "port": device.port, "unit_id": 1, "table": "input", "start": 0, "count": 40}
    typed = []
    with device.link() as controller:
        controller.write("setpoint_c", 200.0)
        controller.write("mode", "on_off")
        for _ in range(8):  # the high word beside another one may show nearly the same once or twice
            found = api.ok("POST", "register-maps/scan", where)["registers"]
            assert {r["address"] for r in found} == set(range(13))
            words = {str(r["address"]): r["word"] for r in found}
            reading = controller.map.by_name["reading_c"].decode([words["0"], words["1"]])
            typed.append({"shown": f"{reading:.1f}", "words": words})
            answer = api.ok("POST", "register-maps/guess", {"table": "input", "typed": typed})
            ways = [(c["notation"], c["coding"], c["order"]) for c in answer["candidates"]]
            assert ("30001", "float32", "CDAB") in ways
            if answer["sure"]:
                break
    assert any(r["moves"] for r in found) and not all(r["moves"] for r in found)
    assert answer["sure"] and ways == [("30001", "float32", "CDAB")]


@pytest.mark.parametrize(
    ("changed", "field"),
    [
        ({"table": "wishes"}, "table"),
        ({"count": 0}, "count"),
        ({"start": 65_500}, "start"),
        ({"unit_id": 0}, "unit_id"),
        ({"host": " "}, "host"),
        ({"host": "a\x93b"}, "host"),
        ({"host": "x" * 70 + "." + "y" * 70}, "host"),
    ],
)
def test_a_scan_that_cannot_be_is_refused(api, db, changed, field):
    where = {"host": "127.0.0.1", "port": 1, "count": 100, **changed}
    assert api.refused("POST", "register-maps/scan", where)["field"] == field


def test_nobody_there_and_typing_slips_are_told(api, db):
    assert "nothing answers" in api.refused("POST", "register-maps/scan", {"host": "127.0.0.1", "port": 1})["reason"]
    slip = {"table": "holding", "typed": [{"shown": "6o.1", "words": {"0": 1}}]}
    assert api.refused("POST", "register-maps/guess", slip)["field"] == "typed[0].shown"


@pytest.mark.django_db(transaction=True)
@pytest.mark.parametrize(
    "file", [KILN, {**KILN, "registers": [r for r in KILN["registers"] if r["name"] not in ("alarm_1", "clock_s")]}]
)
def test_recorded_written_and_switched_off_by_a_map_of_ones_own(api, rig, file):
    """Floats with swapped words, bits in one register, settings elsewhere; once without a clock of its own."""
    key = keep(file).key
    bench = Bench(Rig.objects.get(slug=rig), 100.0, key)
    try:
        bench.until(lambda: api.ok("GET", f"rigs/{rig}")["live"]["status"] == "online")
        window = {"window": "window-one"}
        api.ok("POST", f"rigs/{rig}/link/arm", {"armed": True, **window})
        run = api.ok("POST", f"rigs/{rig}/runs", {"name": "By its own map"})["id"]
        bench.recorder.follow()
        api.ok("POST", f"rigs/{rig}/link/write", {"values": {"setpoint_c": 60.0, "mode": "on_off"}, **window})
        bench.until(lambda: api.ok("GET", f"rigs/{rig}/runs/{run}")["samples"] > 40)
        live = bench.until(lambda: (v := api.ok("GET", f"rigs/{rig}")["live"])["output"] == 100 and v)
        assert live["setpoint_c"] == 60.0 and live["mode"] == "on_off" and 20 < live["reading_c"] < 90
        off = api.ok("POST", f"rigs/{rig}/link/safe-off")
        assert off["confirmed"]
        bench.until(lambda: api.ok("GET", f"rigs/{rig}")["live"]["mode"] == "off")
        series = store.read(Run.objects.get(pk=run))
        assert np.nanmax(series.setpoint_c) == 60.0 and np.nanmax(series.switch) == 1.0
    finally:
        bench.recorder.stop()
        bench.switch_off()


@pytest.mark.django_db(transaction=True)
def test_a_logger_that_only_shows_a_reading_is_recorded(api, rig):
    """Nothing to write, no set-point, no output: what is not there is missing, not zero."""
    bench = Bench(Rig.objects.get(slug=rig), 100.0, keep(LOGGER).key)
    try:
        live = bench.until(lambda: (v := api.ok("GET", f"rigs/{rig}")["live"])["status"] == "online" and v)
        assert live["output"] is None and live["setpoint_c"] is None and not live["safe_off"]
        run = api.ok("POST", f"rigs/{rig}/runs", {})["id"]
        bench.until(lambda: api.ok("GET", f"rigs/{rig}/runs/{run}")["samples"] > 5)
        series = store.read(Run.objects.get(pk=run))
        assert np.isnan(series.output).all() and np.isnan(series.setpoint_c).all()
        assert series.reading_c == pytest.approx(21.0, abs=0.2)
    finally:
        bench.recorder.stop()
        bench.switch_off()


SERIAL = {"stand_in": False, "way": "serial", "device": "/dev/serial/by-id/usb-adapter-7", "baud": 9600, "poll_s": 1.0}


@pytest.mark.parametrize(
    ("changed", "field"),
    [
        ({"device": " "}, "device"),
        ({"baud": 12_345}, "baud"),
        ({"parity": "X"}, "parity"),
        ({"stop_bits": 3}, "stop_bits"),
        ({"way": "pigeon"}, "way"),
        ({"stand_in": True}, "device"),
        ({"poll_s": 0.05}, "poll_s"),
    ],
)
def test_serial_links_that_cannot_be_are_asked_back(api, rig, changed, field):
    assert api.refused("PUT", f"rigs/{rig}/link", {**SERIAL, **changed})["field"] == field
    assert not Link.objects.exists()


def test_serial_links_say_their_shortest_interval_beside_the_others_on_their_bus(api, rig):
    view = api.ok("PUT", f"rigs/{rig}/link", SERIAL)
    assert view["device"] == SERIAL["device"] and 0.05 < view["shortest_s"] < 1.0
    assert api.ok("PUT", f"rigs/{rig}/link", {**SERIAL, "poll_s": 2.0})["poll_s"] == 2.0
    assert Link.objects.get().generation == 0  # the same place, asked more slowly
    other = api.ok("POST", "rigs", {**CABINET, "name": "Second"})["slug"]
    api.ok("PUT", f"rigs/{other}/parts", {**PARTS, "revision": 1})
    assert api.refused("PUT", f"rigs/{other}/link", {**SERIAL, "poll_s": 2.0})["field"] == "unit_id"
    assert api.refused("PUT", f"rigs/{other}/link", {**SERIAL, "unit_id": 2, "baud": 19_200})["field"] == "baud"
    two = api.ok("PUT", f"rigs/{other}/link", {**SERIAL, "unit_id": 2, "poll_s": 2.0})
    alone = view["shortest_s"]
    assert two["shortest_s"] == pytest.approx(
        alone / (1 - alone / 2.0)
    )  # the other keeps the bus busy every two seconds
    third = api.ok("POST", "rigs", {**CABINET, "name": "Third"})["slug"]
    api.ok("PUT", f"rigs/{third}/parts", {**PARTS, "revision": 1})
    Link.objects.update(poll_s=alone)  # as where each had the bus for itself before
    assert "busy all the time" in api.refused("PUT", f"rigs/{third}/link", {**SERIAL, "unit_id": 3})["reason"]
    assert 9600 in api.ok("GET", "serial-ports")["bauds"]


class WritesMore:
    """A device on which writing one setting moves another: what a wrong map looks like from outside."""

    map = parse(KILN, "kiln")

    def __init__(self, moves):
        self.holds = {"setpoint_c": 60.0, "mode": "off", "offset_c": 0.0, "proportional_band_c": 20.0}
        self.moves, self.written = moves, []

    def read(self):
        return {r.name: self.holds.get(r.name) for r in self.map.registers}

    snapshot = read

    def write(self, name, value):
        self.written.append((name, value))
        self.holds[name] = value
        if self.moves:
            self.holds["offset_c"] += 1.0
        return value


@pytest.mark.parametrize("moves", [True, False])
def test_the_first_write_by_an_unproven_map_changes_nothing_or_is_the_last(api, rig, moves):
    link = Link.objects.create(rig=Rig.objects.get(slug=rig), stand_in=True, port=1, register_map=keep(KILN).key)
    link.armed_until, link.armed_window = timezone.now() + timedelta(minutes=1), "window-one"
    link.save()
    device, by = WritesMore(moves), None
    order = queue(link, by, {"setpoint_c": 65.0}, {}, timedelta(seconds=20))
    assert claim(order)
    send(order, device)
    order.refresh_from_db()
    assert device.written[0] == ("setpoint_c", 60.0)  # as it was
    if moves:
        assert len(device.written) == 1 and "changed offset_c" in order.error and order.state != Command.State.DONE
        return
    assert device.written[1:] == [("setpoint_c", 65.0)] and order.state == Command.State.DONE
    again = queue(link, by, {"setpoint_c": 62.0}, {}, timedelta(seconds=20))
    assert claim(again)
    send(again, device)
    assert device.written[2:] == [("setpoint_c", 62.0)]  # proven by now
