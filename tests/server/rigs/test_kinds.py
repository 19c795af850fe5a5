"""Every kind of rig from an empty database to a simulated run; large ones, and supplies that are typed."""

import json

import pytest

from rellux.core.control.settings import Mode
from rellux.core.plant.rig_models import network_of, rests_c
from rellux.core.plant.simulation import Simulation
from rellux.core.purpose.kinds import KINDS, Fires
from rellux.core.purpose.purpose import Effect
from rellux.core.setup.parameters import settings_from
from rellux.server.rigs.domain import kind_of, purpose_of
from rellux.server.rigs.models import Rig
from tests.server.conftest import CABINET, PARTS

FIRE = {"fire_w": 4000, "idle_percent": 5, "dies_s": 120}
HEATED = [k for k, known in KINDS.items() if Effect.HEATS in known.effects]
FURNACE = {
    **CABINET, "name": "Furnace", "kind": "muffle", "working_c": 900, "highest_c": 1000, "lowest_c": None,
    "supply": "three_phase", "supply_voltage_v": 400, "heater_power_w": 120_000, "heater_voltage_v": 400,
}  # fmt: skip
BY_CONTACTOR = {**PARTS, "sensor": "N", "actuator": "contactor"}


@pytest.mark.parametrize("kind", HEATED)
def test_from_nothing_through_wiring_to_a_run_that_holds(api, kind):
    low, high = KINDS[kind].usual_c
    working = max(round(0.5 * (low + high)), 40)
    asked = {
        **CABINET,
        "kind": kind,
        "working_c": working,
        "highest_c": working + 60,
        "lowest_c": None,
        "heater_power_w": 60 if KINDS[kind].fires is Fires.ALWAYS else 2000,
        "fire": FIRE if KINDS[kind].fires is Fires.ALWAYS else None,
    }
    slug = api.ok("POST", "rigs", asked)["slug"]
    revision = api.ok("PUT", f"rigs/{slug}/parts", {**PARTS, "sensor": "S" if working > 1200 else "K", "revision": 1})[
        "revision"
    ]
    wired = api.ok("POST", f"rigs/{slug}/wiring", {"revision": revision})
    assert not [f for f in wired["findings"] if f["severity"] == "danger"]
    sheet = {p["name"]: p["proposed"] for p in api.ok("GET", f"rigs/{slug}/setup")["parameters"]}
    rig = Rig.objects.get(slug=slug)
    purpose = purpose_of(rig)
    settings = settings_from(sheet, purpose)
    assert settings.mode is Mode.ON_OFF
    room = rests_c(kind_of(rig), purpose)
    run = Simulation(network_of(kind_of(rig), purpose), settings, room, 0.25).advance(6 * 3600, 1.0)
    later = run.reading_c[run.time_s > 5 * 3600]
    assert later.min() > working - 0.15 * working and abs(later.mean() - working) < 0.05 * working
    assert run.switch.max() == 1 and api.ok("GET", f"rigs/{slug}")["purpose_findings"] == []


def test_what_is_only_watched_does_not_heat(api):
    problem = api.refused("POST", "rigs", {**CABINET, "kind": "cold"})
    assert problem["field"] == "effect" and "watches" in problem["accepted"]
    assert api.refused("POST", "rigs", {**CABINET, "kind": "fire"})["field"] == "fire"
    told = {k["kind"]: k for k in api.ok("GET", "kinds")}
    assert set(told) == set(KINDS) and told["cold"]["effects"] == ["cools", "watches"]
    always = [c for c in told["tool"]["cautions"] if not c["pumped"]]
    assert {c["station"] for c in always} == {"parts", "wiring", "guarding", "runs"}


def test_a_furnace_of_120_kw_is_sized_wired_and_said_to_be_a_connection_of_its_own(api):
    """173 A: a 200 A breaker and 95 mm² (IEC 60364-5-52 table B.52.4: 207 A)."""
    slug = api.ok("POST", "rigs", FURNACE)["slug"]
    found = api.ok("GET", f"rigs/{slug}")["purpose_findings"]
    assert [f["rule"] for f in found] == ["purpose.large"]
    parts = api.ok("PUT", f"rigs/{slug}/parts", {**BY_CONTACTOR, "revision": 1})
    said = {p["key"]: p["says"] for p in api.ok("GET", f"rigs/{slug}/parts")["pieces"]}
    assert (said["breaker"], said["conductor"]) == ("{200 A}", "95 mm²") and "plug" not in said
    wired = api.ok("POST", f"rigs/{slug}/wiring", {"revision": parts["revision"]})
    contactors = [p for p in wired["parts"] if p["kind"] == "contactor_3p"]
    assert len(contactors) == 2 and not [f for f in wired["findings"] if f["severity"] != "advice"]
    assert api.refused("POST", "rigs", {**FURNACE, "heater_power_w": 200_001})["accepted"] == "1…200 000 W"


def test_a_rig_is_handed_over_with_what_is_missing_told_first(api, client, rig):
    view = api.ok("GET", f"rigs/{rig}/handover")
    assert any("No settings" in w for w in view["lacking"]) and view["use"][0]["picture"] == "read"
    asked = {"paper": "A4", "unit": "F", "drawings": []}
    pack = client.post(f"/api/v1/rigs/{rig}/handover.pdf", json.dumps(asked), content_type="application/json")
    assert (
        pack.status_code == 200
        and pack.content.startswith(b"%PDF")
        and "cement-cabinet-handover" in pack["Content-Disposition"]
    )
    bare = api.ok("POST", "rigs", {**CABINET, "name": "Bare"})["slug"]
    assert api.refused("GET", f"rigs/{bare}/handover")["field"] == "parts"
    assert api.refused("POST", f"rigs/{rig}/handover.pdf", {**asked, "paper": "B4"})["field"] == "paper"


def test_a_supply_is_typed_and_its_frequency_changes_what_is_said(api):
    odd = {
        **FURNACE,
        "heater_power_w": 9000,
        "supply_voltage_v": 437.5,
        "heater_voltage_v": 437.5,
        "frequency_hz": 16.7,
    }
    slug = api.ok("POST", "rigs", odd)["slug"]
    parts = api.ok("PUT", f"rigs/{slug}/parts", {**BY_CONTACTOR, "revision": 1})
    view = api.ok("GET", f"rigs/{slug}")
    assert view["purpose"]["frequency_hz"] == 16.7 and view["next"]["station"] == "parts"
    assert "16.7" in view["next"]["text"]
    changed = {**odd, "frequency_hz": 60, "revision": parts["revision"]}
    api.ok("PUT", f"rigs/{slug}/purpose", changed)
    assert api.ok("GET", f"rigs/{slug}")["next"]["station"] == "wiring"
    assert api.refused("POST", "rigs", {**odd, "supply_voltage_v": 90})["field"] == "supply_voltage_v"
    assert {s["supply"]: s["usual_hz"][0] for s in api.ok("GET", "supplies")} == {
        "single_phase": 50, "split_phase": 60, "three_phase": 50, "dc": 0,
    }  # fmt: skip
