"""A rig that only watches, from nothing to its alarms: no heater anywhere, and nothing that would need one."""

import json
import re
from datetime import timedelta

import numpy as np
import pytest
from django.utils import timezone

from rellux.core.plant.simulation import Simulation
from rellux.core.runs.series import Series
from rellux.server.links.models import Link
from rellux.server.links.stand_ins import config_of
from rellux.server.rigs.models import Rig
from rellux.server.runs import store
from rellux.server.runs.models import Run
from tests.server.conftest import CABINET, PARTS, wired

STORE = {
    "name": "Cement store",
    "kind": "cabinet",
    "effect": "watches",
    "working_c": 6,
    "highest_c": 12,
    "highest_reason": "the cement ages",
    "lowest_c": 2,
    "lowest_reason": "it crystallises",
    "ambient_c": 21,
    "supply": "single_phase",
    "supply_voltage_v": 230,
}
WATCHED = {"sensor": "Pt100", "output": "relay", "actuator": "none", "limiter": False, "practice": "iec"}
HEAT = re.compile(r"heat(?!-resistant)|overshoot|\bPID\b|thermal fuse|full power", re.IGNORECASE)
"""Words that have no place on such a rig; keys of the API and addresses are not words."""


@pytest.fixture
def watching(api) -> str:
    return wired(api, STORE, WATCHED)


def now(api, slug):
    return api.ok("GET", f"rigs/{slug}")["revision"]


def told(answer):
    """Every sentence of an answer: strings that are no keys, names or addresses."""
    if isinstance(answer, dict):
        return [s for k, v in answer.items() if k not in ("rule", "key", "source") for s in told(v)]
    if isinstance(answer, list):
        return [s for v in answer for s in told(v)]
    return [answer] if isinstance(answer, str) and " " in answer else []


def test_from_nothing_to_a_plan_without_a_word_of_heat(api, watching):
    described = api.ok("GET", f"rigs/{watching}")
    assert [s["station"] for s in described["spine"]] == [
        "purpose",
        "parts",
        "wiring",
        "proving",
        "setup",
        "guarding",
        "runs",
        "calibration",
        "book",
    ]
    assert described["purpose"]["heater_power_w"] == 0
    parts = api.ok("GET", f"rigs/{watching}/parts")
    assert [p["key"] for p in parts["pieces"]] == ["sensor"] and parts["choice"]["actuator"] == "none"
    wiring = api.ok("GET", f"rigs/{watching}/wiring")
    assert {p["kind"] for p in wiring["parts"]} == {"supply_1ph", "breaker", "controller_relay", "pt100", "enclosure"}
    assert wiring["findings"] == []
    assert [o["key"] for o in api.ok("GET", f"rigs/{watching}/wiring/usual")] == ["parts", "beacon"]
    api.ok("POST", f"rigs/{watching}/wiring", {"revision": now(api, watching), "circuit": "beacon"})
    sheet = api.ok("PUT", f"rigs/{watching}/setup", {"revision": now(api, watching), "values": {}})
    names = {p["name"] for p in sheet["parameters"]}
    assert {"input_type", "display_unit", "offset_school", "offset_c", "alarm_1_type", "link_address"} <= names
    assert not names & {"setpoint_c", "mode", "output_high", "proportional_band_c", "run_state", "fan_above_c"}
    plan = api.ok("GET", f"rigs/{watching}/guarding")
    high, broken, low = plan["proposed"]["alarms"]
    assert (high["alarm"]["kind"], broken["alarm"]["kind"], low["alarm"]["kind"]) == ("high", "sensor_break", "low")
    assert 6 < high["alarm"]["value"] < 12 and 2 < low["alarm"]["value"] < 6
    saved = api.ok("PUT", f"rigs/{watching}/guarding", {"revision": now(api, watching), "plan": plan["proposed"]})
    assert saved["ladder"]["stuck"] is None and all(g["fine"] for g in saved["ladder"]["gaps"])
    assert [f["rule"] for f in saved["findings"]] == ["guarding.proof"]
    pages = ("parts", "wiring", "proving", "setup", "guarding", "book", "runs", "handover")
    answers = [api.ok("GET", f"rigs/{watching}"), *(api.ok("GET", f"rigs/{watching}/{page}") for page in pages)]
    assert not [s for s in told(answers) if HEAT.search(s)]


def test_its_stand_in_shows_the_usual_temperature_and_its_alarms_judge_a_run(api, watching):
    api.ok("PUT", f"rigs/{watching}/link", {"stand_in": True, "speed": 20})
    config = config_of(Link.objects.get(rig__slug=watching))
    simulation = Simulation(config.network, config.settings, config.ambient_c, 1.0)
    assert np.abs(simulation.advance(36_000.0, 600.0).reading_c - 6.0).max() < 0.1
    simulation.start_at(21.0)
    assert simulation.advance(36_000.0, 600.0).reading_c[-1] == pytest.approx(6.0, abs=0.5)
    rig = Rig.objects.get(slug=watching)
    api.ok(
        "PUT",
        f"rigs/{watching}/guarding",
        {"revision": now(api, watching), "plan": api.ok("GET", f"rigs/{watching}/guarding")["plan"]},
    )
    t = np.arange(0.0, 7200.0, 10.0)
    warm = 6.0 + 8.0 * np.clip((t - 1800.0) / 3600.0, 0.0, 1.0)
    run = Run.objects.create(
        rig=rig, name="door open", source="csv", status="finished", started_at=timezone.now() - timedelta(hours=3)
    )
    nothing = np.full(len(t), np.nan)
    store.append(run, Series(t, nothing, np.round(warm, 1), nothing, nothing))
    checked = api.ok("GET", f"rigs/{watching}/guarding/runs/{run.pk}")
    assert [c["name"] for c in checked["checked"] if c["count"]] == ["Too hot"]


def test_what_it_does_not_have_is_refused_by_name(api, watching):
    wrong = {**WATCHED, "actuator": "ssr", "revision": now(api, watching)}
    assert api.refused("PUT", f"rigs/{watching}/parts", wrong)["field"] == "actuator"
    assert (
        api.refused("PUT", f"rigs/{watching}/parts", {**wrong, "actuator": "none", "limiter": True})["field"]
        == "limiter"
    )
    assert (
        api.refused("PUT", f"rigs/{watching}/parts", {**wrong, "actuator": "none", "output": "pin"})["field"]
        == "output"
    )
    mode = {"revision": now(api, watching), "values": {"mode": "pid"}}
    assert api.refused("PUT", f"rigs/{watching}/setup", mode)["field"] == "mode"
    assert "does not heat" in api.refused("GET", f"rigs/{watching}/profiles")["reason"]
    assert "does not heat" in api.ok("GET", f"rigs/{watching}/tuning")["problem"]
    assert api.refused("POST", "rigs", {**STORE, "heater_power_w": 300})["field"] == "heater_power_w"
    assert api.refused("POST", "rigs", {**CABINET, "heater_power_w": 0})["field"] == "heater_power_w"
    assert "calls all the time" in api.refused("POST", "rigs", {**STORE, "highest_c": 5})["reason"]
    assert (
        api.ok("POST", "rigs", {**STORE, "name": "Furnace watched", "working_c": 21, "highest_c": 900})["slug"]
        == "furnace-watched"
    )


def test_a_plan_that_calls_too_late_or_wants_to_switch_is_found(api, watching):
    plan = api.ok("GET", f"rigs/{watching}/guarding")["proposed"]
    plan["alarms"][0]["alarm"]["value"] = 11.9
    plan["alarms"][1]["does"] = ["output_off"]
    plan["alarms"][1]["alarm"] = {**plan["alarms"][1]["alarm"], "kind": "minimum_heat", "value": 60, "move_c": 2}
    plan["alarms"] = plan["alarms"][:2]
    plan["fuse"] = {"rating_c": 84, "holding_c": 60, "place_c": 20, "lag_s": 30}
    rules = {f["rule"] for f in api.ok("POST", f"rigs/{watching}/guarding/preview", {"plan": plan})["findings"]}
    assert rules == {f"guarding.watch-{r}" for r in ("late", "switches", "guard", "no-low", "kind")}
    api.ok("PUT", f"rigs/{watching}/guarding", {"revision": now(api, watching), "plan": plan})
    late = next(f for f in api.ok("GET", f"rigs/{watching}/guarding")["findings"] if f["rule"] == "guarding.watch-late")
    api.ok(
        "POST",
        f"rigs/{watching}/accept",
        {"revision": now(api, watching), **{k: late["proposal"][k] for k in ("target", "value")}},
    )
    left = {f["rule"] for f in api.ok("GET", f"rigs/{watching}/guarding")["findings"]}
    assert "guarding.watch-late" not in left and "guarding.watch-switches" in left


def test_while_it_is_recorded_what_a_rig_does_is_not_changed(api, rig, revision):
    run = Run.objects.create(
        rig=Rig.objects.get(slug=rig), name="now", source="live", status="recording", started_at=timezone.now()
    )
    watches = {**CABINET, "effect": "watches", "heater_power_w": 0, "heater_voltage_v": 0, "revision": revision()}
    assert "recorded" in api.refused("PUT", f"rigs/{rig}/purpose", watches)["reason"]
    assert (
        api.ok("PUT", f"rigs/{rig}/purpose", {**CABINET, "highest_c": 70, "revision": revision()})["purpose"][
            "highest_c"
        ]
        == 70
    )
    run.delete()
    assert api.ok("PUT", f"rigs/{rig}/purpose", {**watches, "revision": revision()})["purpose"]["effect"] == "watches"


def test_a_rig_that_heated_can_be_left_to_watch_and_back_and_its_file_tells(api, rig, revision):
    api.ok("PUT", f"rigs/{rig}/setup", {"revision": revision(), "values": {}})
    api.ok(
        "PUT",
        f"rigs/{rig}/purpose",
        {**CABINET, "effect": "watches", "heater_power_w": 0, "heater_voltage_v": 0, "revision": revision()},
    )
    choice = api.ok("GET", f"rigs/{rig}")["choice"]
    assert (choice["sensor"], choice["actuator"], choice["limiter"]) == ("N", "none", False)
    rules = {f["rule"] for f in api.ok("GET", f"rigs/{rig}/wiring")["findings"]}
    assert "wiring.stale" in rules
    entry = api.ok("GET", f"rigs/{rig}/book")[0]
    assert entry["before"]["effect"] == "heats" and entry["after"]["actuator"] == "none"
    api.ok("PUT", f"rigs/{rig}/purpose", {**CABINET, "revision": revision()})
    choice = api.ok("GET", f"rigs/{rig}")["choice"]
    assert choice["actuator"] == "ssr" and choice["limiter"] and PARTS["sensor"] == choice["sensor"]
    assert json.dumps(api.ok("GET", f"rigs/{rig}/tuning")).count("does not heat") == 0


def test_its_sheets_are_printed_and_a_copy_of_its_file_is_the_same_rig(api, watching):
    assert api.ok("GET", f"rigs/{watching}/parts.pdf").startswith(b"%PDF")
    copy = api.ok("POST", f"rigs/{watching}/double", {"name": "Second store"})
    assert copy["purpose"]["effect"] == "watches" and copy["choice"]["actuator"] == "none"
    assert [s["station"] for s in copy["spine"]] == [s["station"] for s in api.ok("GET", f"rigs/{watching}")["spine"]]
