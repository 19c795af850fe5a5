"""Several devices in one run: a controller and two instruments on one simulated serial bus, each value with its role, recorded at times
of its own, taken away and brought back whole."""

import asyncio
import io
import json
import threading
import time
import zipfile

import numpy as np
import pandas
import pytest

from rellux.core.runs.series import Points
from rellux.server.links.models import Instrument, InstrumentState, Link
from rellux.server.links.simulated import Simulated, wanted
from rellux.server.rigs.models import Rig
from rellux.server.runs import store
from rellux.server.runs.models import Run, Track
from rellux.server.runs.recorder import Recorder
from tests.server.links.test_register_maps_api import LOGGER

BUS = {"stand_in": True, "way": "serial", "device": "bus", "baud": 115_200, "poll_s": 0.1}


class Shop:
    """Everything simulated in a thread of its own, with the recorder following."""

    def __init__(self) -> None:
        self.recorder, self.stopping = Recorder(), threading.Event()
        self.thread = threading.Thread(target=lambda: asyncio.run(self.serve()), daemon=True)
        self.thread.start()

    async def serve(self) -> None:
        simulated = Simulated()
        while not self.stopping.is_set():
            await simulated.follow(*await asyncio.to_thread(wanted))
            await asyncio.sleep(0.1)
        await simulated.stop()

    def until(self, condition, seconds=30.0):
        deadline = time.monotonic() + seconds
        while time.monotonic() < deadline:
            self.recorder.follow()
            if found := condition():
                return found
            time.sleep(0.05)
        raise AssertionError("it never happened")

    def close(self) -> None:
        self.recorder.stop()
        self.stopping.set()
        self.thread.join(10)


@pytest.fixture
def shop(transactional_db, rig):
    shop = Shop()
    yield shop
    shop.close()


@pytest.fixture
def equipped(api, rig):
    """A simulated controller with a logger on its bus and a meter on the network."""
    logger = api.ok("POST", "register-maps", {"map": LOGGER})["key"]
    meter = api.ok("POST", "register-maps", {"map": METER})["key"]
    api.ok("PUT", f"rigs/{rig}/link", {**BUS, "speed": 10.0})
    api.ok("POST", f"rigs/{rig}/instruments", {**BUS, "name": "Logger", "register_map": logger, "unit_id": 2})
    other = {"stand_in": True, "name": "Meter", "register_map": meter, "poll_s": 0.05}
    api.ok("POST", f"rigs/{rig}/instruments", other)
    return rig


METER = {
    "title": "Meter",
    "registers": [{"name": "supply_v", "address": 0}, {"name": "load_a", "address": 1, "scale": 100}],
}


def devices(api, rig):
    return {d["name"]: d for d in api.ok("GET", f"rigs/{rig}/devices")["devices"]}


def test_three_devices_in_one_run(api, equipped, shop):
    rig = equipped
    shop.until(lambda: all(d["online"] for d in devices(api, rig).values()) and len(devices(api, rig)) == 3)
    logger = devices(api, rig)["Logger"]
    assert {c["source"]: c["role"] for c in logger["channels"]} == {
        "reading_c": "limiter", "second_c": "second", "load_c": "load", "air_c": "air",
    }  # fmt: skip
    said = [
        {"source": "reading_c", "role": "zone_1", "name": "tray, left", "sensor": "type K", "offset": 1.5},
        {"source": "air_c", "role": "air", "kept": False},
    ]
    changed = api.ok("PUT", f"rigs/{rig}/devices", {"instrument": logger["instrument"], "channels": said})
    tray = next(d for d in changed["devices"] if d["name"] == "Logger")["channels"][0]
    assert tray["called"] == "tray, left" and tray["true"] == pytest.approx(tray["shows"] + 1.5)

    run = api.ok("POST", f"rigs/{rig}/runs", {"name": "three"})["id"]
    done = shop.until(lambda: (r := Run.objects.get(pk=run)).tracks.count() == 2 and r.samples > 30 and r)
    told = api.refused("PUT", f"rigs/{rig}/devices", {"instrument": logger["instrument"], "channels": []})
    assert told["field"] == "channels" and "being recorded" in told["reason"]
    shop.until(lambda: all(t.samples > 15 for t in done.tracks.all()))
    shop.recorder.stop()
    shop.recorder = Recorder()  # as after a kill: everything goes on in the same run
    before = {t.pk: t.samples for t in done.tracks.all()}
    shop.until(lambda: all(t.samples > before[t.pk] + 10 for t in done.tracks.all()))
    api.ok("POST", f"rigs/{rig}/runs/{run}/stop")
    shop.until(lambda: Run.objects.get(pk=run).chunks.count() == 1)
    time.sleep(1.0)

    view = api.ok("GET", f"rigs/{rig}/runs/{run}")
    tracks = {t["device"]: t for t in view["tracks"]}
    assert [c["name"] for c in tracks["Logger"]["channels"]] == ["tray, left", "second probe", "load's temperature"]
    assert [c["kind"] for c in tracks["Meter"]["channels"]] == ["voltage", "current"]
    main = store.read(Run.objects.get(pk=run))
    for track in Run.objects.get(pk=run).tracks.all():
        found = store.read(track)
        assert (np.diff(found.time_s) > 0).all() and len(found) == track.samples
        assert found.time_s[0] >= 0 and found.time_s[-1] <= main.time_s[-1] + 20  # ten times real, two seconds
    meter = store.read(Run.objects.get(pk=run).tracks.get(device="Meter"))
    assert set(meter.values[0]) == {230.0} and set(meter.values[1]) == {0.0}
    shown = {t["device"]: t for t in api.ok("GET", f"rigs/{rig}/runs/{run}/tracks?points=50")}
    raw = store.read(Run.objects.get(pk=run).tracks.get(device="Logger")).values[0]
    assert shown["Logger"]["lines"][0]["high"][0] == pytest.approx(raw[0] + 1.5, abs=0.2)
    _taken_away_and_brought_back(api, rig, run)


def _taken_away_and_brought_back(api, rig, run):
    own, beside = store.read(Run.objects.get(pk=run)), list(Run.objects.get(pk=run).tracks.all())
    answer = api.client.get(f"/api/v1/rigs/{rig}/runs/{run}/parquet")
    table = pandas.read_parquet(io.BytesIO(b"".join(answer.streaming_content)))
    assert sorted(table.columns[5:]) == [
        "Logger: load's temperature", "Logger: second probe", "Logger: tray, left", "Meter: heater current", "Meter: supply voltage",
    ]  # fmt: skip
    assert np.array_equal(table["reading_c"].dropna().astype(float), own.reading_c[np.isfinite(own.reading_c)])
    logger = store.read(next(t for t in beside if t.device == "Logger"))
    rows = table.dropna(subset=["Logger: tray, left"])
    assert np.array_equal(rows["time_s"], logger.time_s)
    assert np.allclose(rows["Logger: tray, left"], logger.values[0] + 1.5, atol=1e-4)
    every = set(own.time_s) | {t for b in beside for t in store.read(b).time_s}
    assert list(table["time_s"]) == sorted(every)
    sheet = b"".join(api.client.get(f"/api/v1/rigs/{rig}/runs/{run}/csv").streaming_content)
    read = pandas.read_csv(io.BytesIO(sheet))
    assert "Meter: heater current (A)" in read.columns and len(read) == len(table)

    packed = b"".join(api.client.get(f"/api/v1/rigs/{rig}/export").streaming_content)
    copy = api.client.post("/api/v1/rigs/import", {"file": io.BytesIO(packed), "name": "Copy"}).json()
    assert "slug" in copy, copy
    again = Run.objects.get(rig__slug=copy["slug"], name="three")
    for was, now in zip(beside, again.tracks.all(), strict=True):
        assert (was.device, was.channels, was.samples) == (now.device, now.channels, now.samples)
        for a, b in zip(store.read(was).columns, store.read(now).columns, strict=True):
            assert np.allclose(a, b, atol=6e-4, equal_nan=True)


def test_an_instrument_that_goes_silent_is_said_and_the_run_goes_on(api, equipped, shop):
    rig = equipped
    shop.until(lambda: all(d["online"] for d in devices(api, rig).values()))
    run = api.ok("POST", f"rigs/{rig}/runs", {})["id"]
    shop.until(lambda: Run.objects.get(pk=run).tracks.count() == 2)
    Instrument.objects.filter(name="Meter").update(stand_in=False, port=1)  # nothing listens there
    shop.until(lambda: "nothing answers" in devices(api, rig)["Meter"]["message"])
    before = Run.objects.get(pk=run).samples
    shop.until(lambda: Run.objects.get(pk=run).samples > before + 20)
    meter = devices(api, rig)["Meter"]
    assert {c["shows"] for c in meter["channels"]} == {None}
    assert devices(api, rig)["Logger"]["online"]


def test_what_cannot_be_is_asked_back(api, equipped):
    rig = equipped
    add, place = (
        f"rigs/{rig}/instruments",
        {**BUS, "name": "Third", "register_map": "stand_in", "unit_id": 3, "poll_s": 2.0},
    )
    for changed, field, words in (
        ({"name": " "}, "name", "what is it called"),
        ({"name": "controller"}, "name", "what is it called"),
        ({"name": "Logger"}, "name", "a Logger already"),
        ({"unit_id": 2}, "unit_id", "Logger has unit 2"),
        ({"unit_id": 1}, "unit_id", "Cement cabinet has unit 1"),
        ({"baud": 9600, "poll_s": 5.0}, "baud", "speaks 115200 baud"),
        ({"device": "../etc"}, "device", "needs a name"),
        ({"poll_s": 0.06}, "poll_s", "faster than this bus"),
        ({"stand_in": False}, "device", "is simulated"),
        ({"way": "text", "register_map": "text"}, "line_format", "not known"),
    ):
        told = api.refused("POST", add, {**place, **changed})
        assert told["field"] == field and words in told["reason"], (changed, told)
    assert api.refused("PUT", f"rigs/{rig}/link", {**BUS, "register_map": _meter(api)})["field"] == "register_map"
    changed = {"title": "Logger", "registers": [{"name": "load_a", "address": 512}]}
    logger = next(m["key"] for m in api.ok("GET", "register-maps")["maps"] if m["title"].startswith("Four-channel"))
    api.ok("PUT", f"rigs/{rig}/link", {**BUS, "register_map": logger})
    assert "no reading" in api.refused("PUT", f"register-maps/{logger}", {"map": changed})["reason"]
    assert (
        "Cement cabinet" in api.refused("DELETE", f"register-maps/{_meter(api)}")["reason"]
    )  # an instrument speaks by it
    number = devices(api, rig)["Meter"]["instrument"]
    channels = lambda *rows: api.refused("PUT", f"rigs/{rig}/devices", {"instrument": number, "channels": list(rows)})  # noqa: E731
    assert channels({"source": "load_a", "role": "second"})["field"] == "channels[0].role"
    assert channels({"source": "load_c", "role": "load"})["field"] == "channels[0].source"
    assert channels({"source": "load_a", "role": "current", "offset": 1e9})["field"] == "channels[0].offset"
    assert "twice" in channels(*[{"source": "load_a", "role": "current"}] * 2)["reason"]
    assert Link.objects.count() == 1 and Instrument.objects.count() == 2 and not InstrumentState.objects.exists()
    assert api("PUT", f"rigs/{rig}/devices", {"instrument": 999, "channels": []})[0] == 404
    api.ok("DELETE", f"rigs/{rig}/instruments/{number}")
    assert "Meter" not in devices(api, rig) and Rig.objects.get(slug=rig).instruments.count() == 1


def _meter(api):
    return next(m["key"] for m in api.ok("GET", "register-maps")["maps"] if m["title"] == "Meter")


CHANNEL = {"source": "load_c", "role": "load", "name": "tray", "kind": "temperature", "sensor": "", "offset": 0.5}


@pytest.mark.parametrize(
    "channels",
    [
        [], "load_c", [{}], [{**CHANNEL, "role": "sideways"}], [{**CHANNEL, "role": ["load"]}], [{**CHANNEL, "kind": "current"}],
        [{**CHANNEL, "offset": 1e9}], [{**CHANNEL, "offset": True}], [{**CHANNEL, "name": "x" * 999}], [{**CHANNEL, "source": "time_s"}],
        [{**CHANNEL, "more": 1}], [CHANNEL, CHANNEL], [CHANNEL] * 65, [{**CHANNEL, "source": "not in the file"}],
    ],
)  # fmt: skip
def test_a_rig_file_with_channels_that_cannot_be_is_refused_whole(api, rig, channels):
    run = Run.objects.create(
        rig=Rig.objects.get(slug=rig), name="r", source="csv", status="finished", started_at="2026-11-24T08:00:00Z"
    )
    track = Track.objects.create(run=run, device="Logger", channels=[CHANNEL], interval_s=1.0)
    store.append(track, Points(np.arange(5.0), (np.arange(5.0),)))
    packed = io.BytesIO(b"".join(api.client.get(f"/api/v1/rigs/{rig}/export").streaming_content))
    changed = io.BytesIO()
    with zipfile.ZipFile(packed) as old, zipfile.ZipFile(changed, "w") as new:
        for name in old.namelist():
            data = old.read(name)
            if name == "rig.json":
                told = json.loads(data)
                told["runs"][0]["tracks"][0]["channels"] = channels
                data = json.dumps(told).encode()
            new.writestr(name, data)
    before = Rig.objects.count()
    changed.seek(0)
    answer = api.client.post("/api/v1/rigs/import", {"file": changed})
    assert answer.status_code == 400 and "unexpected" not in answer.content.decode().lower(), answer.content
    assert Rig.objects.count() == before and Track.objects.count() == 1
