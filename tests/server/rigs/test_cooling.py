"""A rig that cools, from nothing to its alarms and a run of its stand-in: the words and the dangers of cold."""

import re

import pytest

from rellux.core.errors import Refused
from rellux.core.plant.simulation import Simulation
from rellux.core.process.models import FOPDT
from rellux.core.purpose.purpose import Effect, Purpose, Supply
from rellux.core.setup.auto_tune import check_auto_tune
from rellux.core.setup.proposals import propose
from rellux.core.setup.proposals.facts import RigFacts
from rellux.server.links.models import Link
from rellux.server.links.stand_ins import config_of
from tests.server.conftest import CABINET, PARTS, wired
from tests.server.links.test_watching import now, told

BOX = {
    "name": "Detector cold box",
    "kind": "cold",
    "effect": "cools",
    "working_c": 4,
    "highest_c": 10,
    "highest_reason": "the detectors drift",
    "lowest_c": -8,
    "lowest_reason": "their windows ice up",
    "ambient_c": 23,
    "supply": "single_phase",
    "supply_voltage_v": 230,
    "heater_power_w": 90,
    "heater_voltage_v": 230,
}
COOLED = {"sensor": "Pt100", "output": "relay", "actuator": "relay", "limiter": True, "practice": "iec"}
HEAT = re.compile(r"\bheat(er|ers|s|ing|ed)?\b(?!-resistant| sink)|overshoot|\bPID\b", re.IGNORECASE)
"""Words that have no place on such a rig."""


@pytest.fixture
def cold(api) -> str:
    return wired(api, BOX, COOLED)


def test_from_nothing_to_a_plan_without_a_word_of_heat(api, cold):
    described = api.ok("GET", f"rigs/{cold}")
    stations = [s["station"] for s in described["spine"]]
    assert "tuning" not in stations and "profiles" not in stations and stations[5] == "guarding"
    parts = api.ok("GET", f"rigs/{cold}/parts")
    assert {p["title"] for p in parts["pieces"]} >= {"Compressor", "Limiter contactor", "Power relay"}
    wiring = api.ok("GET", f"rigs/{cold}/wiring")
    assert "compressor" in {p["kind"] for p in wiring["parts"]} and not [
        f for f in wiring["findings"] if f["severity"] == "danger"
    ]
    faults = api.ok("GET", f"rigs/{cold}/wiring/faults")
    assert "leaves the cooling on" in faults["summary"]
    assert [o["key"] for o in api.ok("GET", f"rigs/{cold}/wiring/usual")] == ["parts", "beacon", "start"]
    sheet = api.ok("PUT", f"rigs/{cold}/setup", {"revision": now(api, cold), "values": {}})
    names = {p["name"] for p in sheet["parameters"]}
    assert {"minimum_off_s", "minimum_on_s"} <= names and not names & {"proportional_band_c", "period_s"}
    proposed = {p["name"]: p["proposed"] for p in sheet["parameters"]}
    assert proposed["action"] == "cooling" and BOX["lowest_c"] < proposed["setpoint_low_c"] < 4
    plan = api.ok("GET", f"rigs/{cold}/guarding")
    assert -8 < plan["proposed"]["limiter"]["trip_c"] < 4 and plan["ladder"]["stuck"]["act_within_s"] > 60
    assert plan["ladder"]["weakest"] == "lowest"
    saved = api.ok("PUT", f"rigs/{cold}/guarding", {"revision": now(api, cold), "plan": plan["proposed"]})
    assert {f["severity"] for f in saved["findings"]} <= {"advice"}
    pages = (
        "proving",
        "parts",
        "wiring",
        "wiring/faults",
        "setup",
        "guarding",
        "runs",
        "handover",
        "guarding/proof?terminals_c=23",
    )
    answers = [api.ok("GET", f"rigs/{cold}/{page}") for page in pages]
    assert [s for s in told([described, *answers]) if HEAT.search(s)] == []


def test_its_stand_in_cools_with_rests_and_its_limiter_is_proved_downwards(api, cold):
    api.ok("PUT", f"rigs/{cold}/link", {"stand_in": True, "speed": 20})
    config = config_of(Link.objects.get(rig__slug=cold))
    assert config.network.heater_power_w < 0 and config.settings.cools and config.settings.rest_s == 240
    simulation = Simulation(config.network, config.settings, config.ambient_c, 1.0)
    simulation.apply(simulation.settings.__class__(**{**vars(simulation.settings), "mode": "on_off"}))
    begun = simulation.advance(230.0)
    assert begun.switch.max() == 0  # it counts as just stopped
    later = simulation.advance(4 * 3600.0, 5.0)
    assert later.reading_c.min() > 2.0 and later.reading_c[-600:].max() < 8.0 and later.switch.max() == 1
    plan = api.ok("GET", f"rigs/{cold}/guarding")["proposed"]
    api.ok("PUT", f"rigs/{cold}/guarding", {"revision": now(api, cold), "plan": plan})
    steps = [
        s
        for s in api.ok("GET", f"rigs/{cold}/guarding/proof?terminals_c=23")["steps"]
        if s["guard"] == "independent limiter"
    ]
    trip = plan["limiter"]["trip_c"]
    assert [(s["celsius"] < trip, s["acts"]) for s in steps[:2]] == [(False, False), (True, True)]


@pytest.mark.parametrize(
    ("changed", "field"),
    [
        ({"working_c": 25}, "working_c"),
        ({"working_c": -50, "lowest_c": -60}, "working_c"),
        ({"lowest_c": None}, "lowest_c"),
        ({"lowest_c": 5}, "lowest_c"),
        ({"supply": "three_phase", "supply_voltage_v": 400}, "supply"),
        ({"kind": "kiln"}, "effect"),
        ({"heater_power_w": 0}, "heater_power_w"),
    ],
)
def test_what_a_cooler_cannot_do_is_asked_back(api, changed, field):
    assert api.refused("POST", "rigs", {**BOX, **changed})["field"] == field


def test_a_sheet_that_would_freeze_it_is_told_and_not_sent(api, cold):
    values = {"action": "heating", "setpoint_low_c": -9, "minimum_off_s": 30, "sensor_failure_output": 100}
    sheet = api.ok("PUT", f"rigs/{cold}/setup", {"revision": now(api, cold), "values": values})
    found = {f["rule"]: f["severity"] for f in sheet["findings"]}
    assert found == {
        "setup.action": "danger",
        "setup.limit-below-lowest": "danger",
        "setup.failure-output": "danger",
        "setup.rest": "fault",
    }
    near = {"action": "cooling", "setpoint_low_c": -7.9, "minimum_off_s": 180, "sensor_failure_output": 0}
    assert api.ok("PUT", f"rigs/{cold}/setup", {"revision": now(api, cold), "values": near})["findings"] == []
    assert (
        api.refused("PUT", f"rigs/{cold}/setup", {"revision": now(api, cold), "values": {"period_s": 20}})["field"]
        == "period_s"
    )
    solid = {**COOLED, "output": "ssr_drive", "actuator": "ssr", "revision": now(api, cold)}
    assert api.refused("PUT", f"rigs/{cold}/parts", solid)["field"] == "actuator"


def test_a_heated_rig_becomes_a_cooled_one_and_its_file_tells(api, cold, client):
    heated = api.ok("POST", "rigs", {**CABINET, "name": "Second"})["slug"]
    revision = api.ok(
        "PUT", f"rigs/{heated}/parts", {**PARTS, "output": "ssr_drive", "actuator": "ssr", "revision": 1}
    )["revision"]
    changed = api.ok("PUT", f"rigs/{heated}/purpose", {**BOX, "name": "Second", "revision": revision})
    assert changed["purpose"]["effect"] == "cools" and changed["choice"]["actuator"] == "relay"
    twin = api.ok("POST", f"rigs/{cold}/double", {"name": "Another box"})["slug"]
    assert api.ok("GET", f"rigs/{twin}")["purpose"] == api.ok("GET", f"rigs/{cold}")["purpose"]


def test_what_was_learnt_while_it_heated_does_not_let_a_compressor_tune_itself(api, cold):
    """A process found before the rig became one that cools counts for nothing."""
    purpose = Purpose(4.0, 10.0, "x", Supply.SINGLE_PHASE, 230, 90, 230, -8.0, "y", 23.0, effect=Effect.COOLS)
    facts = RigFacts(purpose, "Pt100", "relay", process=FOPDT(1.0, 600.0, 20.0), process_verdict="supported")
    sheet = {p.name: p.value for p in propose(facts)}
    with pytest.raises(Refused, match="compressor"):
        check_auto_tune("on", sheet, facts)
    check_auto_tune("off", sheet, facts)
    assert api("GET", f"rigs/{cold}/profiles")[0] == 400
