"""A rig with a second sensor at its heater, from an empty database through wiring, a run and its tuning to the controller and its file."""

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone

from rellux.core.control.settings import Mode
from rellux.core.plant.simulation import Simulation
from rellux.core.runs.series import Series
from rellux.server.links.channels import channels_of
from rellux.server.links.models import Link
from rellux.server.links.stand_ins import config_of, free_port
from rellux.server.rigs.archive import write
from rellux.server.rigs.models import Rig
from rellux.server.runs import store
from rellux.server.runs.models import Run
from tests.server.bench import Bench
from tests.server.conftest import CABINET, PARTS, wired

SENSOR = {"most_c": 330.0, "hotter_c": 40.0, "lag_s": None}
OVEN = {
    **CABINET,
    "name": "Bonding oven",
    "kind": "oven",
    "working_c": 200,
    "highest_c": 260,
    "lowest_c": 190,
    "heater_power_w": 2000,
    "heater_sensor": SENSOR,
}
SSR = {**PARTS, "sensor": "K", "output": "ssr_drive", "actuator": "ssr"}


@pytest.fixture
def oven(api):
    return wired(api, OVEN, SSR)


def recorded(slug: str, hours: float = 3.0) -> Run:
    """A heat-up of its stand-in by on/off."""
    rig = Rig.objects.get(slug=slug)
    config = config_of(Link(rig=rig, stand_in=True, port=free_port(), register_map="stand_in"))
    settings = config.settings.__class__(200.0, Mode.ON_OFF, hysteresis_c=1.0)
    seen = Simulation(config.network, settings, 21.0, 0.5).advance(hours * 3600.0, 4.0)
    reading = np.round(seen.reading_c + np.random.default_rng(1).normal(0.0, 0.05, len(seen.time_s)), 1)
    run = Run.objects.create(rig=rig, name="heat-up", source="csv", status="finished", started_at=timezone.now())
    store.append(run, Series(seen.time_s, seen.setpoint_c, reading, seen.output, seen.switch))
    return run


def test_it_is_laid_out_with_two_probes_and_its_sheet_has_both_loops(api, oven):
    wiring = api.ok("GET", f"rigs/{oven}/wiring")
    assert {p["ratings"].get("place") for p in wiring["parts"] if p["kind"] == "thermocouple"} >= {"chamber", "heater"}
    assert {f["rule"] for f in wiring["findings"]} <= {"circuit.restarts"}
    parameters = {p["name"]: p for p in api.ok("GET", f"rigs/{oven}/setup")["parameters"]}
    assert parameters["loops"]["proposed"] == "two" and parameters["inner_high_c"]["proposed"] == 330.0
    sheet = {n: p["proposed"] for n, p in parameters.items()} | {"mode": "pid"}
    revision = api.ok("GET", f"rigs/{oven}")["revision"]
    saved = api.ok("PUT", f"rigs/{oven}/setup", {"values": sheet, "kind": "as_left", "revision": revision})
    assert saved["findings"] == []
    board = {**SSR, "output": "pin", "revision": api.ok("GET", f"rigs/{oven}")["revision"]}
    assert api.refused("PUT", f"rigs/{oven}/parts", board)["field"] == "output"


def test_two_loops_are_chosen_and_come_into_the_sheet(api, oven):
    run = recorded(oven)
    told = api.ok("POST", f"rigs/{oven}/tuning/identify", {"run": run.pk})
    rows = {c["key"]: c for c in told["candidates"]}
    both = rows["two_loops"]
    names = {f["name"]: f["value"] for f in (*both["figures"], *both["outcome"])}
    assert names["heater gets to"] <= 334.0 < 340.0 and names["inner proportional band"] > 0
    assert both["values"]["loops"] == "two" and rows["simc"]["values"]["loops"] == "one"
    revision = api.ok("GET", f"rigs/{oven}")["revision"]
    api.ok("POST", f"rigs/{oven}/tuning/accept", {"revision": revision, "candidate": "two_loops"})
    values = {p["name"]: p["value"] for p in api.ok("GET", f"rigs/{oven}/setup")["parameters"]}
    assert values["loops"] == "two" and values["inner_high_c"] == 330.0 and values["mode"] == "pid"
    assert values["proportional_band_c"] == both["values"]["proportional_band_c"]
    numbers = {"proportional_band_c": 150.0, "integral_time_s": 170.0, "inner_band_c": 6.0, "inner_integral_s": 14.0}
    tried = api.ok("POST", f"rigs/{oven}/tuning/try", {"numbers": numbers})
    assert tried["values"]["loops"] == "two" and tried["ms"]["value"] < 2.0
    refused = api.refused("POST", f"rigs/{oven}/tuning/try", {"numbers": {**numbers, "inner_band_c": 1e5}})
    assert refused["field"] == "inner_band_c"
    assert api.refused("POST", f"rigs/{oven}/tuning/diagnose", {"run": run.pk})["field"] == "run"

    def rules():
        return {f["rule"] for f in api.ok("GET", f"rigs/{oven}/setup")["findings"]}

    assert rules() == set()
    bare = {**OVEN, "heater_sensor": None, "revision": api.ok("GET", f"rigs/{oven}")["revision"]}
    api.ok("PUT", f"rigs/{oven}/purpose", bare)
    assert "setup.made-for-two" in rules()
    revision = api.ok("GET", f"rigs/{oven}")["revision"]
    api.ok("POST", f"rigs/{oven}/tuning/accept", {"revision": revision, "candidate": "simc"})
    assert "setup.made-for-two" not in rules()


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"heater_sensor": {"most_c": 240}}, "heater_sensor.most_c"),
        ({"heater_sensor": {"most_c": None}}, "heater_sensor.most_c"),
        ({"heater_sensor": {**SENSOR, "hotter_c": 0}}, "heater_sensor.hotter_c"),
        ({"heater_sensor": {**SENSOR, "lag_s": 900}}, "heater_sensor.lag_s"),
        ({"cooler": {"cooled_by": "fan", "cooler_w": 400, "drive_w": 20}}, "heater_sensor"),
        ({"effect": "watches", "heater_power_w": 0, "heater_voltage_v": 0}, "heater_sensor"),
    ],
)
def test_a_sensor_at_the_heater_that_cannot_be_is_asked_back(api, change, field):
    assert api.refused("POST", "rigs", {**OVEN, **change})["field"] == field


def test_it_comes_back_out_of_its_file_and_an_older_sheet_stays_one_loop(api, oven):
    file = SimpleUploadedFile("rig.zip", b"".join(write(Rig.objects.get(slug=oven))))
    api.client.post("/api/v1/rigs/import", {"file": file})
    assert api.ok("GET", f"rigs/{oven}-2")["purpose"]["heater_sensor"] == SENSOR
    one = wired(api, {**OVEN, "name": "Plain oven", "heater_sensor": None}, SSR)
    parameters = api.ok("GET", f"rigs/{one}/setup")["parameters"]
    assert "loops" not in {p["name"] for p in parameters}
    sheet = {p["name"]: p["proposed"] for p in parameters} | {"mode": "pid"}
    revision = api.ok("GET", f"rigs/{one}")["revision"]
    api.ok("PUT", f"rigs/{one}/setup", {"values": sheet, "kind": "as_left", "revision": revision})
    changed = {**OVEN, "name": "Plain oven", "revision": api.ok("GET", f"rigs/{one}")["revision"]}
    new = {h["finding"]["rule"] for h in api.ok("POST", f"rigs/{one}/purpose/try", changed)["new"]}
    assert new >= {"wiring.stale", "setup.one-loop"}
    api.ok("PUT", f"rigs/{one}/purpose", changed)
    proposed = {p["name"]: p["proposed"] for p in api.ok("GET", f"rigs/{one}/setup")["parameters"]}
    assert proposed["loops"] == "one" and proposed["proportional_band_c"] == sheet["proportional_band_c"]


@pytest.mark.django_db(transaction=True)
def test_both_loops_are_sent_and_the_heater_is_live_and_never_past_its_limit(api, oven, rig):
    """The stand-in is given both loops over the wire and heats up; the heater's temperature is read beside it."""
    shop = Bench(Rig.objects.get(slug=oven), speed=100.0)
    try:
        sheet = {p["name"]: p["proposed"] for p in api.ok("GET", f"rigs/{oven}/setup")["parameters"]} | {"mode": "pid"}
        revision = api.ok("GET", f"rigs/{oven}")["revision"]
        api.ok("PUT", f"rigs/{oven}/setup", {"values": sheet, "kind": "as_left", "revision": revision})
        shop.until(lambda: api.ok("GET", f"rigs/{oven}")["live"]["status"] == "online")
        api.ok("POST", f"rigs/{oven}/link/arm", {"armed": True, "window": "window-one"})

        def write(values):
            shop.recorder.follow()
            return api("POST", f"rigs/{oven}/link/write", {"values": values, "window": "window-one"})

        status, refused = write({"inner_high_c": 331.0})
        assert status == 400 and refused["problems"][0]["field"] == "inner_high_c", refused
        assert {d["name"] for d in api.ok("GET", f"rigs/{oven}/link")["differences"]} >= {"loops", "inner_high_c"}
        for values in ({}, {"mode": "pid"}):
            status, told = write(values)
            assert status == 200, told

        def heater():
            view = api.ok("GET", f"rigs/{oven}/devices")
            return {c["role"]: c["shows"] for d in view["devices"] for c in d["channels"]}["heater"]

        most = 0.0
        for _ in range(400):
            shop.until(lambda: api.ok("GET", f"rigs/{oven}")["live"]["status"] == "online")
            most = max(most, heater())
            if api.ok("GET", f"rigs/{oven}")["live"]["reading_c"] > 195.0:
                break
        assert 210.0 < most <= 336.0 and api.ok("GET", f"rigs/{oven}")["live"]["reading_c"] > 150.0
    finally:
        shop.recorder.stop()
        shop.switch_off()
    plain = Link(rig=Rig.objects.get(slug=rig), stand_in=True, register_map="stand_in")
    assert "heater" not in {c.role for c in channels_of(plain)}
