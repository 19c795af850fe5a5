"""An oven whose controls are fed by something of their own: described, wired, proved, changed, taken along in its file."""

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from rellux.server.rigs.archive import write
from rellux.server.rigs.models import Rig
from tests.server.conftest import CABINET, PARTS, wired

MAINS = {"fed_by": "mains", "controls_v": 230}
OVEN = {
    **CABINET,
    "name": "Oven on three phases",
    "kind": "oven",
    "working_c": 180,
    "highest_c": 230,
    "supply": "three_phase",
    "supply_voltage_v": 480,
    "heater_power_w": 9000,
    "heater_voltage_v": 480,
}
CONTACTOR = {**PARTS, "sensor": "K", "output": "relay", "actuator": "contactor", "limiter": True}


def rules(api, slug, station):
    return {f["rule"] for f in api.ok("GET", f"rigs/{slug}/{station}")["findings"]}


def test_it_is_wired_and_proved_with_both_its_supplies(api):
    slug = wired(api, {**OVEN, "controls": MAINS}, CONTACTOR)
    told = api.ok("GET", f"rigs/{slug}/wiring")
    assert {p["name"]: p["kind"] for p in told["parts"]}.items() >= {"Q0": "supply_3ph", "Q9": "supply_1ph"}.items()
    assert rules(api, slug, "wiring") <= {"wiring.several-supplies", "circuit.restarts"}
    steps = [s for stage in api.ok("GET", f"rigs/{slug}/proving")["stages"] for s in stage["steps"]]
    dead = [s["isolated"] for s in steps if "lug out" in s["isolated"] or "plug (" in s["isolated"]]
    assert dead and all("Every plug (Q0 and Q9) out" in said for said in dead)
    assert any("earth pin of the plug of Q9" in s["does"] for s in steps)


def test_what_hangs_on_another_feed_is_shown_before_it_is_saved_and_comes_back_out_of_its_file(api):
    slug = wired(api, OVEN, CONTACTOR)
    state = api.ok("GET", f"rigs/{slug}")
    changed = {**OVEN, "controls": {"fed_by": "module", "controls_v": 24}, "revision": state["revision"]}
    tried = api.ok("POST", f"rigs/{slug}/purpose/try", changed)
    assert {h["finding"]["rule"] for h in tried["new"]} >= {"wiring.stale"}
    assert {h["finding"]["rule"] for h in tried["settled"]} >= {"parts.control-voltage"}
    assert api.ok("GET", f"rigs/{slug}")["purpose"]["controls"] is None
    saved = api.ok("PUT", f"rigs/{slug}/purpose", changed)
    assert saved["purpose"]["controls"] == {"fed_by": "module", "controls_v": 24.0}
    api.ok("POST", f"rigs/{slug}/wiring", {"revision": saved["revision"]})
    assert {"G9", "F9"} <= {p["name"] for p in api.ok("GET", f"rigs/{slug}/wiring")["parts"]}
    assert rules(api, slug, "wiring") <= {"circuit.restarts"}
    file = SimpleUploadedFile("rig.zip", b"".join(write(Rig.objects.get(slug=slug))))
    api.client.post("/api/v1/rigs/import", {"file": file})
    assert api.ok("GET", f"rigs/{slug}-2")["purpose"]["controls"] == saved["purpose"]["controls"]


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"controls": {**MAINS, "controls_v": 24}}, "controls.controls_v"),
        ({"controls": {"fed_by": "dc", "controls_v": 230}}, "controls.controls_v"),
        ({"controls": {"fed_by": "gas", "controls_v": 24}}, "controls.fed_by"),
        ({"controls": {"fed_by": "dc"}}, "controls.controls_v"),
        ({"controls": {"fed_by": "dc", "controls_v": None}}, "controls.controls_v"),
    ],
)
def test_a_feed_that_cannot_be_is_asked_back(api, change, field):
    assert api.refused("POST", "rigs", {**OVEN, **change})["field"] == field


def test_a_generator_that_is_too_small_is_told_before_it_is_saved_and_stays_out_of_public_mains(api):
    slug = wired(api, OVEN, CONTACTOR)
    changed = {
        **OVEN,
        "own_mains": {"made_by": "generator", "made_w": 8000},
        "revision": api.ok("GET", f"rigs/{slug}")["revision"],
    }
    new = {h["finding"]["rule"] for h in api.ok("POST", f"rigs/{slug}/purpose/try", changed)["new"]}
    assert new >= {"parts.own-mains-power", "wiring.disconnection"}
    saved = api.ok("PUT", f"rigs/{slug}/purpose", changed)
    assert saved["purpose"]["own_mains"] == {"made_by": "generator", "made_w": 8000.0}
    entry = api.ok("GET", f"rigs/{slug}/book")[0]
    assert "own_mains" in str(entry) and entry["title"] == "Purpose changed"
    file = SimpleUploadedFile("rig.zip", b"".join(write(Rig.objects.get(slug=slug))))
    api.client.post("/api/v1/rigs/import", {"file": file})
    assert api.ok("GET", f"rigs/{slug}-2")["purpose"]["own_mains"] == saved["purpose"]["own_mains"]
    for wrong, field in (({"made_by": "wind", "made_w": 900}, "made_by"), ({"made_by": "inverter"}, "made_w")):
        assert api.refused("POST", "rigs", {**OVEN, "own_mains": wrong})["field"] == f"own_mains.{field}"
