"""A block on a thermo-electric module that heats it, and cools it turned round: from an empty database to its file."""

from dataclasses import replace

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from rellux.core.control.settings import Mode
from rellux.core.plant.simulation import Simulation
from rellux.server.links.models import Link
from rellux.server.links.stand_ins import config_of, free_port
from rellux.server.rigs.archive import write
from rellux.server.rigs.models import Rig
from tests.server.conftest import CABINET, PARTS, wired

TURNED = {"cooled_by": "turned", "cooler_w": 60, "coldest_c": -10}
BLOCK = {
    **CABINET,
    "name": "Cell block",
    "kind": "plate",
    "working_c": 30,
    "highest_c": 45,
    "lowest_c": 20,
    "supply": "dc",
    "supply_voltage_v": 24,
    "heater_power_w": 96,
    "heater_voltage_v": 24,
    "cooler": TURNED,
}
RELAY = {**PARTS, "sensor": "Pt100", "output": "relay", "actuator": "relay", "limiter": True}


@pytest.mark.parametrize("output", ["relay", "pin"])
def test_it_is_wired_set_guarded_and_run_both_ways(api, output):
    slug = wired(api, BLOCK, {**RELAY, "output": output})
    told = api.ok("GET", f"rigs/{slug}/wiring")
    assert {f["rule"] for f in told["findings"]} <= {"circuit.restarts"}
    assert {p["name"]: p["kind"] for p in told["parts"]}["E1"] == "turning_module"
    states = {s["name"]: s for s in told["states"]}
    on, cooled = states["output on"], states["cooler called, output on"]
    assert ("E1" in on["energised"], on["turned"]) == (True, [])
    assert ("E1" in cooled["energised"], cooled["turned"]) == (False, ["E1"])
    solved = {s["name"]: s["parts"] for s in api.ok("GET", f"rigs/{slug}/wiring/solved")}
    module = next(p for p in solved["cooler called, output on"] if p["name"] == "E1")
    assert module["turned"] and module["figures"][2]["value"] > 80
    proposed = {p["name"]: p["proposed"] for p in api.ok("GET", f"rigs/{slug}/setup")["parameters"]}
    assert "cool_above_c" in proposed and "minimum_off_s" not in proposed
    revision = api.ok("GET", f"rigs/{slug}")["revision"]
    api.ok("PUT", f"rigs/{slug}/setup", {"values": proposed, "kind": "as_left", "revision": revision})
    assert api.ok("GET", f"rigs/{slug}/setup")["findings"] == []
    guarded = api.ok("GET", f"rigs/{slug}/guarding")
    assert "guarding.cooler-freezes" not in {f["rule"] for f in guarded["findings"]}
    link = Link(rig=Rig.objects.get(slug=slug), stand_in=True, port=free_port(), register_map="stand_in")
    config = config_of(link)
    run = Simulation(config.network, replace(config.settings, mode=Mode.ON_OFF), config.ambient_c)
    assert run.advance(1800.0).reading_c.max() > 29.0 and run.cooled_s == 0
    run.start_at(44.0)
    assert run.advance(60.0).reading_c[-1] < 44.0 and run.cools_now and not run.switch_closed


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"cooler": {**TURNED, "drive_w": 40}}, "cooler.drive_w"),
        ({"cooler": {**TURNED, "coldest_c": None}}, "cooler.coldest_c"),
        ({"supply": "single_phase", "supply_voltage_v": 230, "heater_voltage_v": 230}, "supply"),
        ({"lowest_c": None}, "lowest_c"),
    ],
)
def test_what_it_cannot_be_is_asked_back(api, change, field):
    assert api.refused("POST", "rigs", {**BLOCK, **change})["field"] == field


def test_it_comes_back_out_of_its_file_and_no_other_switch_turns_it(api):
    slug = wired(api, BLOCK, RELAY)
    file = SimpleUploadedFile("rig.zip", b"".join(write(Rig.objects.get(slug=slug))))
    api.client.post("/api/v1/rigs/import", {"file": file})
    kept = {**TURNED, "drive_w": None, "coolant_c": None}
    assert api.ok("GET", f"rigs/{slug}-2")["purpose"]["cooler"] == kept
    revision = api.ok("GET", f"rigs/{slug}")["revision"]
    other = {**RELAY, "output": "ssr_drive", "actuator": "ssr", "revision": revision}
    refused = api.refused("PUT", f"rigs/{slug}/parts", other)
    assert refused["field"] == "actuator" and "change over" in refused["reason"]


def test_a_heater_that_becomes_a_module_that_turns_is_shown_with_what_hangs_on_it(api):
    """Its SSR can no longer be, nor the wiring of one: both are said before it is saved."""
    slug = wired(api, {**BLOCK, "cooler": None}, {**RELAY, "output": "ssr_drive", "actuator": "ssr"})
    revision = api.ok("GET", f"rigs/{slug}")["revision"]
    tried = api.ok("POST", f"rigs/{slug}/purpose/try", {**BLOCK, "revision": revision})
    changed = {c["name"]: c["after"] for c in tried["parts"]}
    assert changed["actuator"] == "relay" and "wiring.no-cooling" in {h["finding"]["rule"] for h in tried["new"]}
    api.ok("PUT", f"rigs/{slug}/purpose", {**BLOCK, "revision": revision})
    assert "wiring.no-cooling" in {f["rule"] for f in api.ok("GET", f"rigs/{slug}/wiring")["findings"]}
