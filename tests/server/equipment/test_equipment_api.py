"""Equipment through the API: what moves with a piece, what ends when one is exchanged, and what is refused."""

from datetime import timedelta

import jsonschema
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone

from rellux.server.calibration.models import Calibration
from rellux.server.equipment.models import Equipment, Stay
from rellux.server.guarding.models import Proof
from rellux.server.rigs.archive import write
from rellux.server.rigs.models import Rig
from tests.server.conftest import CABINET, PARTS
from tests.server.test_contract import schema_of
from tests.server.test_every_operation import OFFSET

PROBE = {"name": "S-01", "role": "sensor", "probe": {"sensor": "N", "sheath_mm": 3.0, "length_mm": 80.0}}


@pytest.fixture
def shop(api, rig):
    """Two rigs, and ways to ask about equipment as it is now."""
    api.ok("POST", "rigs", {**CABINET, "name": "Oven"})
    api.ok("PUT", "rigs/oven/parts", {**PARTS, "revision": api.ok("GET", "rigs/oven")["revision"]})
    return Shop(api)


class Shop:
    def __init__(self, api):
        self.api = api

    def add(self, **given):
        return self.api.ok("POST", "equipment", given)["row"]["id"]

    def row(self, key):
        return self.api.ok("GET", f"equipment/{key}")

    def body(self, key, rig, **more):
        rig_revision = self.api.ok("GET", f"rigs/{rig}")["revision"]
        return {"rig": rig, "revision": self.row(key)["row"]["revision"], "rig_revision": rig_revision, **more}

    def fit(self, key, rig, **more):
        return self.api.ok("POST", f"equipment/{key}/fit", self.body(key, rig, **more))

    def here(self, rig):
        return {
            p["role"]: p["fitted"]["name"] for p in self.api.ok("GET", f"rigs/{rig}/fitted")["places"] if p["fitted"]
        }

    def calibrate(self, rig):
        revision = self.api.ok("GET", f"rigs/{rig}")["revision"]
        body = {"offset": OFFSET, "reference": "T-9", "enter": True, "anyway": "tried", "revision": revision}
        return self.api.ok("POST", f"rigs/{rig}/calibration", body)

    def said(self, rig):
        return {f["rule"] for f in self.api.ok("GET", f"rigs/{rig}/setup")["findings"]}


def test_a_moved_sensor_takes_its_record_along_and_leaves_its_offset_behind(shop, api, rig):
    first, second = shop.add(**PROBE), shop.add(**{**PROBE, "name": "S-02"})
    shop.fit(first, rig)
    shop.calibrate(rig)
    assert "setup.offset-inherited" not in shop.said(rig)
    shop.fit(second, rig, why="the lead was crushed")
    assert shop.here(rig) == {"sensor": "S-02"} and "setup.offset-inherited" in shop.said(rig)
    shop.fit(first, "oven")
    assert shop.here("oven") == {"sensor": "S-01"}
    lines = [(line["what"], line["rig"]) for line in shop.row(first)["record"]]
    assert lines == [("fitted", "oven"), ("taken_out", rig), ("compared", rig), ("fitted", rig), ("remark", "")]
    assert not [line for line in shop.row(second)["record"] if line["what"] == "compared"]
    newest = api.ok("GET", f"rigs/{rig}/book")[0]
    assert (newest["title"], newest["why"]) == ("S-02 fitted", "the lead was crushed")
    api.ok(
        "POST",
        f"rigs/{rig}/accept",
        {"target": "setup.offset_c", "value": 0, "revision": shop.body(first, rig)["rig_revision"]},
    )
    assert "setup.offset-inherited" not in shop.said(rig)
    reference = shop.add(name="T-9", role="reference")
    assert [line["what"] for line in shop.row(reference)["record"]].count("compared") == 1
    jsonschema.validate(shop.row(reference), schema_of("get", "/api/v1/equipment/{key}", 200))


def test_one_that_was_there_already_keeps_what_was_found_since(shop, rig):
    shop.calibrate(rig)
    Calibration.objects.update(at=timezone.now() - timedelta(days=2))
    key = shop.add(**PROBE)
    shop.fit(key, rig, at=(timezone.now() - timedelta(days=9)).isoformat())
    assert "setup.offset-inherited" not in shop.said(rig)
    assert [line["what"] for line in shop.row(key)["record"]][1:] == ["compared", "fitted"]


def test_another_limiter_ends_the_proof_of_the_one_before(shop, api, rig):
    plan = api.ok("GET", f"rigs/{rig}/guarding")["plan"]
    revision = api.ok("GET", f"rigs/{rig}")["revision"]
    api.ok("PUT", f"rigs/{rig}/guarding", {"plan": plan, "revision": revision})
    kept = Rig.objects.get(slug=rig).guard_plans.first().plan
    proof = {
        "who": "A",
        "plan": kept,
        "terminals_c": 22,
        "by_heat": False,
        "observed": [],
        "passed": True,
        "says": "It acted.",
    }
    Proof.objects.create(rig=Rig.objects.get(slug=rig), at=timezone.now(), **proof)

    def open_now():
        return [f["title"] for f in api.ok("GET", f"rigs/{rig}/guarding")["findings"] if f["rule"] == "guarding.proof"]

    assert open_now() == []
    key = shop.add(name="L-1", role="limiter")
    shop.fit(key, rig, at=(timezone.now() - timedelta(hours=1)).isoformat())
    assert open_now() == [] and [line["what"] for line in shop.row(key)["record"]].count("proved") == 1
    shop.fit(shop.add(name="L-2", role="limiter"), rig)
    assert open_now() == ["The limiter was changed since it was proved"]


def test_another_sensor_than_planned_is_a_danger_and_may_become_the_plan(shop, api, rig):
    shop.fit(shop.add(name="S-K", role="sensor", probe={"sensor": "K"}), rig)
    view = api.ok("GET", f"rigs/{rig}")
    assert view["next"]["rule"] == "equipment.other-sensor" and view["next"]["severity"] == "danger"
    api.ok("POST", f"rigs/{rig}/accept", {"target": "parts.sensor", "value": "K", "revision": view["revision"]})
    view = api.ok("GET", f"rigs/{rig}")
    assert view["choice"]["sensor"] == "K" and view["next"]["rule"] != "equipment.other-sensor"
    refused = api.refused(
        "POST", f"rigs/{rig}/accept", {"target": "parts.sensor", "value": "?", "revision": view["revision"]}
    )
    assert refused["field"] == "sensor"


def test_what_cannot_be_done_is_refused_and_nothing_of_it_stays(shop, api, rig):
    key = shop.add(**PROBE)
    assert api.refused("POST", "equipment", {**PROBE, "name": "s-01"})["field"] == "name"
    assert (
        api.refused("POST", "equipment", {**PROBE, "name": "S-9", "probe": {"sensor": "N", "leads": 3}})["field"]
        == "probe.leads"
    )
    tomorrow = (timezone.now() + timedelta(days=1)).isoformat()
    refused = lambda body, status=400: api.refused("POST", f"equipment/{key}/fit", body, status)  # noqa: E731
    assert refused(shop.body(key, rig, at=tomorrow))["field"] == "at"
    refused({**shop.body(key, rig), "rig_revision": 0}, 409)
    refused({**shop.body(key, rig), "revision": 0}, 409)
    assert not Stay.objects.exists()
    shop.fit(key, rig)
    assert refused(shop.body(key, rig))["field"] == "rig"
    assert refused(shop.body(key, "oven", at=(timezone.now() - timedelta(days=1)).isoformat()))["field"] == "at"
    reference = shop.add(name="T-1", role="reference")
    assert api.refused("POST", f"equipment/{reference}/fit", shop.body(reference, rig))["field"] == "role"
    now = shop.row(key)["row"]["revision"]
    changed = {**PROBE, "revision": now, "probe": {"sensor": "K"}}
    assert api.refused("PUT", f"equipment/{key}", changed)["field"] == "probe.sensor"
    Rig.objects.filter(slug=rig).update(archived_at=timezone.now())
    assert api.refused("POST", f"equipment/{key}/take-out", {"revision": now})["field"] == "rig"
    assert shop.here(rig) == {"sensor": "S-01"}


def test_a_piece_is_taken_out_noted_scrapped_and_taken_back(shop, api, rig):
    key = shop.add(name="K-1", role="switch", life=100000)
    shop.fit(key, rig)
    revision = lambda: shop.row(key)["row"]["revision"]  # noqa: E731
    api.ok("POST", f"equipment/{key}/remarks", {"revision": revision(), "text": "hums"})
    assert api.refused("POST", f"equipment/{key}/remarks", {"revision": revision(), "text": " "})["field"] == "text"
    api.ok("PUT", f"equipment/{key}", {"name": "K-1", "role": "switch", "life": 200000, "revision": revision()})
    api.ok("POST", f"equipment/{key}/scrap", {"revision": revision(), "scrapped": True, "why": "pitted"})
    assert shop.here(rig) == {}
    assert api.refused("POST", f"equipment/{key}/fit", shop.body(key, rig))["field"] == "equipment"
    api.ok("POST", f"equipment/{key}/scrap", {"revision": revision(), "scrapped": False})
    texts = [line["text"] for line in shop.row(key)["record"]]
    assert texts[0] == "Taken back into use" and "Scrapped: pitted" in texts and "Life: 100000 → 200000" in texts


def test_the_record_outlives_its_rig(shop, api, rig):
    key = shop.add(**PROBE)
    shop.fit(key, rig)
    revision = api.ok("GET", f"rigs/{rig}")["revision"]
    api.ok("DELETE", f"rigs/{rig}?revision={revision}")
    stay = shop.row(key)["row"]["stays"][0]
    assert (stay["rig"], stay["rig_name"], stay["until"]) == ("", "Cement cabinet", None)
    shop.fit(key, "oven")
    assert shop.here("oven") == {"sensor": "S-01"}


def export_of(rig):
    return SimpleUploadedFile("rig.zip", b"".join(write(Rig.objects.get(slug=rig))))


@pytest.mark.long
def test_a_rig_file_takes_stays_along_and_never_puts_one_piece_in_two_places(shop, api, rig):
    key = shop.add(**PROBE)
    shop.fit(key, rig, at=(timezone.now() - timedelta(days=2)).isoformat())
    view = api.ok("GET", f"rigs/{rig}")
    renamed = {"name": "Cabinet by the window", "kind": view["kind"], **view["purpose"], "revision": view["revision"]}
    api.ok("PUT", f"rigs/{rig}/purpose", renamed)
    file = export_of(rig)
    again, back = "cabinet-by-the-window", "cabinet-by-the-window-2"
    api.client.post("/api/v1/rigs/import", {"file": file})
    assert shop.here(again) == {} and shop.here(rig) == {"sensor": "S-01"}
    revision = api.ok("GET", f"rigs/{rig}")["revision"]
    api.ok("DELETE", f"rigs/{rig}?revision={revision}")
    file.seek(0)
    api.client.post("/api/v1/rigs/import", {"file": file})
    assert shop.here(back) == {"sensor": "S-01"} and len(shop.row(key)["row"]["stays"]) == 1
    Equipment.objects.all().delete()
    Rig.objects.all().delete()
    file.seek(0)
    api.client.post("/api/v1/rigs/import", {"file": file})
    assert shop.here(again) == {"sensor": "S-01"}


def test_a_namesake_of_another_kind_comes_in_under_another_name(shop, api, rig):
    shop.fit(shop.add(**PROBE), rig)
    file = export_of(rig)
    Rig.objects.all().delete()
    Equipment.objects.all().delete()
    shop.add(name="s-01", role="limiter")
    api.client.post("/api/v1/rigs/import", {"file": file})
    assert shop.here(rig) == {"sensor": "S-01 (2)"}


def test_a_references_certificates_are_kept_refused_by_their_field_and_stay_when_its_note_changes(shop, api):
    points = [{"at_c": 0.0, "number_c": 0.1, "expanded_c": 0.05}, {"at_c": 100.0, "number_c": 0.2, "expanded_c": 0.05}]
    one = {"dated": "2025-03-01", "says": "error", "points": points}
    made = api.ok("POST", "equipment", {"name": "T-20", "role": "reference", "certificates": [one]})
    assert made["certificates"][0]["points"] == points and made["certificates"][0]["coverage"] == 2.0
    path, body = (
        f"equipment/{made['row']['id']}",
        {"name": "T-20", "role": "reference", "revision": made["row"]["revision"]},
    )
    for wrong, field in (
        ({**one, "dated": "2999-01-01"}, "certificates[0].dated"),
        ({**one, "points": []}, "certificates[0].points"),
        ({**one, "points": [{**points[0], "expanded_c": 0.0}]}, "certificates[0].points[0].expanded_c"),
    ):
        assert api.refused("PUT", path, {**body, "certificates": [wrong]})["field"] == field
    changed = api.ok("PUT", path, {**body, "note": "by the window", "certificates": made["certificates"]})
    assert changed["certificates"] == made["certificates"]
    assert (
        api.refused("POST", "equipment", {"name": "L-20", "role": "limiter", "certificates": [one]})["field"]
        == "certificates"
    )
