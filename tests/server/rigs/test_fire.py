"""A boiler over a fire, from an empty database through wiring and guarding to its file; and the kinds that have none."""

import json
import re

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from rellux.core.control.settings import Mode
from rellux.core.plant.simulation import Simulation
from rellux.server.links.models import Link
from rellux.server.links.stand_ins import config_of, free_port
from rellux.server.rigs.archive import write
from rellux.server.rigs.models import Rig
from tests.server.conftest import CABINET, PARTS, wired

FIRE = {"fire_w": 12_000, "idle_percent": 5, "dies_s": 300}
BOILER = {
    **CABINET, "name": "Wash boiler", "kind": "boiler", "working_c": 75, "highest_c": 92, "highest_reason": "it boils over", "lowest_c": 60,
    "heater_power_w": 40, "fire": FIRE,
}  # fmt: skip


@pytest.fixture
def boiler(api):
    return wired(api, BOILER, {**PARTS, "sensor": "Pt100"})


def test_its_fan_is_wired_its_fire_is_guarded_and_nothing_speaks_of_an_element(api, boiler):
    told = {p: api.ok("GET", f"rigs/{boiler}{p}") for p in ("", "/parts", "/wiring", "/setup", "/guarding", "/proving")}
    assert {p["kind"] for p in told["/wiring"]["parts"]} >= {"fire_fan"}
    assert [f["rule"] for f in told["/wiring"]["findings"]] == ["circuit.restarts"]
    assert [p["title"] for p in told["/parts"]["pieces"]].count("Fan") == 1
    names = {p["name"]: p["proposed"] for p in told["/setup"]["parameters"]}
    assert names["alive_after_s"] == 1800 and "minimum_off_s" not in names
    ladder = {s["key"]: s["celsius"] for s in told["/guarding"]["ladder"]["steps"]}
    assert ladder["limiter"] < ladder["after_trip"] < 92
    told["/wiring"].pop("kinds", None)
    plain = re.sub(r'"(kind|key|rule|target|of|name|piece|usual)": "[^"]*"|"options": \[[^]]*]', "", json.dumps(told))
    assert not re.findall(r".{50}\bheater\b(?!_).{30}|.{50}\belement\b.{30}", plain)


def test_its_stand_in_is_kept_alight_and_goes_out_with_the_controller(api, boiler):
    revision = api.ok("GET", f"rigs/{boiler}")["revision"]
    sheet = {p["name"]: p["proposed"] for p in api.ok("GET", f"rigs/{boiler}/setup")["parameters"]}
    values = {**sheet, "alive_after_s": 600, "alive_s": 15}
    api.ok("PUT", f"rigs/{boiler}/setup", {"values": values, "kind": "as_left", "revision": revision})
    link = Link(rig=Rig.objects.get(slug=boiler), stand_in=True, port=free_port(), register_map="stand_in")
    config = config_of(link)
    run = Simulation(config.network, config.settings, config.ambient_c)
    run.start_at(90.0)
    assert config.settings.mode is Mode.OFF and run.advance(2000.0).switch.max() == 0
    run.start_at(95.0)
    run.apply(type(config.settings)(**{**vars(config.settings), "mode": Mode.ON_OFF}))
    assert 0 < run.advance(700.0).switch.sum() * 0.25 <= 45.0


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"kind": "plate"}, "fire"),
        ({"kind": "fire", "fire": None, "working_c": 400, "highest_c": 500}, "fire"),
        ({"fire": {**FIRE, "idle_percent": 60}}, "fire.idle_percent"),
        ({"fire": {**FIRE, "fire_w": 3}}, "fire.fire_w"),
        ({"fire": {"idle_percent": 5}}, "fire.fire_w"),
        ({"effect": "watches", "heater_power_w": 0, "heater_voltage_v": 0}, "fire"),
    ],
)
def test_a_fire_that_cannot_be_is_asked_back(api, change, field):
    assert api.refused("POST", "rigs", {**BOILER, **change})["field"] == field


def test_it_comes_back_out_of_its_file_and_may_become_electric(api, boiler):
    file = SimpleUploadedFile("rig.zip", b"".join(write(Rig.objects.get(slug=boiler))))
    api.client.post("/api/v1/rigs/import", {"file": file})
    assert api.ok("GET", f"rigs/{boiler}-2")["purpose"]["fire"] == FIRE
    revision = api.ok("GET", f"rigs/{boiler}")["revision"]
    api.ok("PUT", f"rigs/{boiler}/purpose", {**BOILER, "fire": None, "heater_power_w": 3000, "revision": revision})
    assert "alive_s" not in {p["name"] for p in api.ok("GET", f"rigs/{boiler}/setup")["parameters"]}
    assert "wiring.stale" in {f["rule"] for f in api.ok("GET", f"rigs/{boiler}/wiring")["findings"]}
