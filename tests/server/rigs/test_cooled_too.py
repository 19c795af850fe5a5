"""A bath that is heated and cooled by water, from an empty database through wiring, set-up and a run to its file."""

from dataclasses import replace

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
from tests.server.runs.test_import_progress import bring

WATER = {"cooled_by": "valve", "cooler_w": 400, "drive_w": 12, "coolant_c": 14}
KEPT = {**WATER, "coldest_c": None}
CHILLER = {"cooled_by": "compressor", "cooler_w": 300, "drive_w": 140, "coldest_c": -4}
BATH = {
    **CABINET,
    "name": "Cooled bath",
    "kind": "tank",
    "working_c": 32,
    "highest_c": 45,
    "lowest_c": 28,
    "cooler": WATER,
}


@pytest.fixture
def bath(api):
    slug = wired(api, BATH, {**PARTS, "sensor": "Pt100"})
    proposed = {p["name"]: p["proposed"] for p in api.ok("GET", f"rigs/{slug}/setup")["parameters"]}
    revision = api.ok("GET", f"rigs/{slug}")["revision"]
    api.ok("PUT", f"rigs/{slug}/setup", {"values": proposed, "kind": "as_left", "revision": revision})
    return slug


def the_stand_in(slug):
    link = Link(rig=Rig.objects.get(slug=slug), stand_in=True, port=free_port(), register_map="stand_in")
    config = config_of(link)
    return Simulation(config.network, replace(config.settings, mode=Mode.ON_OFF), config.ambient_c)


def test_it_is_wired_set_and_guarded_with_its_valve(api, bath):
    told = {p: api.ok("GET", f"rigs/{bath}/{p}") for p in ("wiring", "setup", "guarding", "tuning")}
    assert {p["name"]: p["kind"] for p in told["wiring"]["parts"]}.items() >= {"Y1": "solenoid", "K2": "relay"}.items()
    assert {f["rule"] for f in told["wiring"]["findings"]} <= {"circuit.restarts"} and told["setup"]["findings"] == []
    assert {"cooler"} <= {s["rung"] for s in told["guarding"]["ladder"]["steps"]}
    assert {p["value"] for p in told["setup"]["parameters"] if p["name"] == "output_2"} == {"cooling"}
    found = {
        s["name"]: {p["name"] for p in s["parts"] if p["figures"][0]["value"] > 100}
        for s in api.ok("GET", f"rigs/{bath}/wiring/solved")
    }
    assert "E1" in found["output on"] and {"E1", "Y1"} & found["cooler called, output on"] == {"Y1"}


@pytest.mark.long
def test_what_was_recorded_while_it_cooled_is_not_learnt_from(api, bath):
    """A heat-up, then the water while somebody pours in what is hot: the process is that of the heat-up alone."""
    run, row = the_stand_in(bath), Rig.objects.get(slug=bath)
    heats = run.advance(3 * 3600.0, 4.0)
    cut = float(heats.time_s[-1])
    before = Run.objects.create(rig=row, name="heat-up", source="csv", status="finished", started_at=timezone.now())
    store.append(
        before, Series(heats.time_s, heats.setpoint_c, np.round(heats.reading_c, 1), heats.output, heats.switch)
    )
    run.start_at(43.0)
    cools = run.advance(2 * 3600.0, 4.0)
    assert run.cooled_s > 300.0
    both = [np.concatenate(c) for c in zip(heats.columns, cools.columns, strict=True)]
    both[0] = np.arange(len(both[0])) * 4.0
    after = Run.objects.create(rig=row, name="and cooled", source="csv", status="finished", started_at=timezone.now())
    store.append(after, Series(both[0], both[1], np.round(both[2], 1), both[3], both[4]))
    alone = api.ok("POST", f"rigs/{bath}/tuning/identify", {"run": before.pk})["identified"]
    mixed = api.ok("POST", f"rigs/{bath}/tuning/identify", {"run": after.pk})["identified"]
    assert "cooler may have come on" in mixed["verdict_reason"] and "cooler" not in alone["verdict_reason"]
    assert mixed["end_s"] <= cut + 4.0 and mixed["figures"][0]["value"] == pytest.approx(
        alone["figures"][0]["value"], rel=0.02
    )
    late = {"run": after.pk, "start_s": cut + 60.0, "end_s": cut + 900.0}
    assert api.refused("POST", f"rigs/{bath}/tuning/identify", late)["field"] == "start_s"


def test_its_water_is_off_while_the_controller_is(api, bath):
    run = the_stand_in(bath)
    run.apply(replace(run.settings, mode=Mode.OFF))
    run.start_at(44.0)
    assert run.advance(600.0).switch.max() == 0 and run.cooled_s == 0
    run.apply(replace(run.settings, mode=Mode.ON_OFF))
    run.advance(600.0)
    assert run.cooled_s > 0


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"cooler": {**WATER, "coolant_c": 40}}, "cooler.coolant_c"),
        ({"cooler": {**WATER, "coolant_c": None}}, "cooler.coolant_c"),
        ({"cooler": {**WATER, "cooler_w": 4e6}}, "cooler.cooler_w"),
        ({"cooler": {**WATER, "cooled_by": "ice"}}, "cooler.cooled_by"),
        ({"cooler": {"cooled_by": "fan", "cooler_w": 40}}, "cooler.drive_w"),
        ({"cooler": {**CHILLER, "coldest_c": None}}, "cooler.coldest_c"),
        ({"cooler": CHILLER, "lowest_c": None}, "lowest_c"),
        ({"cooler": {**CHILLER, "cooled_by": "module"}}, "cooler.cooled_by"),
        ({"effect": "watches", "heater_power_w": 0, "heater_voltage_v": 0}, "cooler"),
    ],
)
def test_a_cooler_that_cannot_be_is_asked_back(api, change, field):
    assert api.refused("POST", "rigs", {**BATH, **change})["field"] == field


@pytest.mark.long
def test_it_comes_back_out_of_its_file_and_may_be_taken_away(api, bath):
    file = SimpleUploadedFile("rig.zip", b"".join(write(Rig.objects.get(slug=bath))))
    api.client.post("/api/v1/rigs/import", {"file": file})
    assert api.ok("GET", f"rigs/{bath}-2")["purpose"]["cooler"] == KEPT
    revision = api.ok("GET", f"rigs/{bath}")["revision"]
    bare = {**BATH, "cooler": None, "revision": revision}
    tried = api.ok("POST", f"rigs/{bath}/purpose/try", bare)
    assert api.ok("GET", f"rigs/{bath}")["purpose"]["cooler"] == KEPT and tried["gone"] == []
    api.ok("PUT", f"rigs/{bath}/purpose", bare)
    assert "cool_above_c" not in {p["name"] for p in api.ok("GET", f"rigs/{bath}/setup")["parameters"]}


def test_a_compressor_rests_in_the_sheet_and_in_the_stand_in_and_cold_is_guarded(api):
    slug = wired(api, {**BATH, "cooler": CHILLER}, {**PARTS, "sensor": "Pt100"})
    told = api.ok("GET", f"rigs/{slug}/setup")
    proposed = {p["name"]: p["proposed"] for p in told["parameters"]}
    assert (proposed["minimum_off_s"], proposed["minimum_on_s"]) == (240, 90)
    revision = api.ok("GET", f"rigs/{slug}")["revision"]
    hasty = {"values": {**proposed, "minimum_off_s": 60}, "kind": "as_left", "revision": revision}
    tried = api.ok("POST", f"rigs/{slug}/setup/try", {"values": hasty["values"]})
    assert {f["rule"] for f in tried["findings"]} == {"setup.rest"}
    api.ok("PUT", f"rigs/{slug}/setup", {**hasty, "values": proposed})
    assert {p["name"]: p["kind"] for p in api.ok("GET", f"rigs/{slug}/wiring")["parts"]}["M2"] == "chiller"
    guarded = api.ok("GET", f"rigs/{slug}/guarding")
    assert "guarding.cooler-freezes" not in {f["rule"] for f in guarded["findings"]}
    run = the_stand_in(slug)
    run.start_at(44.0)
    run.advance(239.0)
    assert run.coolings == 0
    run.advance(3.0)
    assert run.cools_now


@pytest.mark.parametrize("actuator", ["relay", "ssr"])
def test_a_board_calls_the_cooler_by_a_pin_of_its_own(api, actuator):
    slug = wired(api, BATH, {**PARTS, "output": "pin", "actuator": actuator, "limiter": True})
    told = api.ok("GET", f"rigs/{slug}/wiring")
    board = next(p for p in told["parts"] if p["kind"] == "microcontroller")
    assert board["ratings"]["cooling_pin"] == "PWM2" and {f["rule"] for f in told["findings"]} <= {"circuit.restarts"}
    found = {
        s["name"]: {p["name"] for p in s["parts"] if p["figures"][0]["value"] > 100}
        for s in api.ok("GET", f"rigs/{slug}/wiring/solved")
    }
    assert "E1" in found["output on"] and {"E1", "Y1"} & found["cooler called, output on"] == {"Y1"}
    steps = [s for stage in api.ok("GET", f"rigs/{slug}/proving")["stages"] for s in stage["steps"]]
    never = [s["does"] for s in steps if s["key"].startswith("never both")]
    assert never and all("the wire off A1.PWM2 and on A1.5V" in does for does in never)


def test_a_column_of_the_cooler_is_read_from_a_log_and_ends_what_is_learnt(api, bath):
    """Somebody cooled by hand after an hour and a half, where no threshold would have: the column says so."""
    run = the_stand_in(bath)
    seen = run.advance(3 * 3600.0, 10.0)
    by_hand = (seen.time_s > 5400.0).astype(int)
    lines = (
        f"{t:.0f},{sp:.1f},{y:.1f},{u:.0f},{c}"
        for t, sp, y, u, c in zip(seen.time_s, seen.setpoint_c, seen.reading_c, seen.output, by_hand, strict=True)
    )
    text = "time (s),setpoint,temperature,output (%),cooling\n" + "\n".join(lines) + "\n"
    sent = api.client.post("/api/v1/uploads", {"file": SimpleUploadedFile("bath.csv", text.encode())}).json()
    status, brought = bring(api, bath, sent)
    assert status == 201, brought
    assert [c["role"] for c in brought["tracks"][0]["channels"]] == ["cooler"]
    found = api.ok("POST", f"rigs/{bath}/tuning/identify", {"run": brought["id"]})["identified"]
    assert 5300.0 < found["end_s"] <= 5400.0 and "cooler may have come on" in found["verdict_reason"]


@pytest.mark.django_db(transaction=True)
def test_whether_its_cooler_is_on_is_live_and_recorded_and_of_no_other_rig(api, bath, rig):
    shop = Bench(Rig.objects.get(slug=bath), speed=60.0)
    try:
        shop.until(lambda: api.ok("GET", f"rigs/{bath}")["live"]["status"] == "online")
        view = api.ok("GET", f"rigs/{bath}/devices")
        shown = {c["role"]: c["shows"] for d in view["devices"] for c in d["channels"]}
        assert shown["cooler"] == 0
    finally:
        shop.recorder.stop()
        shop.switch_off()
    plain = Link(rig=Rig.objects.get(slug=rig), stand_in=True, register_map="stand_in")
    assert "cooler" not in {c.role for c in channels_of(plain)}
