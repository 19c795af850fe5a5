"""Describing rigs, choosing parts, two windows at once, and the book."""

import pytest

from tests.server.conftest import CABINET, PARTS
from tests.server.workshop import load_demo


def test_an_empty_workshop_is_an_empty_list(api):
    assert api.ok("GET", "rigs") == []


def test_a_described_rig_appears_with_its_next_action(api):
    created = api.ok("POST", "rigs", CABINET)
    assert created["next"]["station"] == "parts"
    (strip,) = api.ok("GET", "rigs")
    assert strip["slug"] == created["slug"] == "cement-cabinet"


def test_two_rigs_of_one_name_get_addresses_of_their_own(api):
    assert [api.ok("POST", "rigs", CABINET)["slug"] for _ in range(2)] == ["cement-cabinet", "cement-cabinet-2"]


def test_refusals_name_field_reason_and_range(api):
    problem = api.refused("POST", "rigs", {**CABINET, "highest_c": 55})
    assert problem["field"] == "highest_c" and problem["accepted"] == "above {60 °C}"
    problem = api.refused("POST", "rigs", {**CABINET, "heater_power_w": "much"})
    assert problem["field"] == "heater_power_w"
    assert api.refused("POST", "rigs", {"name": "x"})["reason"]
    assert api.ok("GET", "rigs") == []


def test_unknown_rig_is_a_plain_404(api):
    status, answer = api("GET", "rigs/nothing")
    assert status == 404 and answer["message"] == "There is no such thing here."


def test_every_station_answers_on_a_rig_that_is_only_described(api):
    slug = api.ok("POST", "rigs", CABINET)["slug"]
    for station in ("parts", "wiring", "tuning", "runs", "calibration", "book"):
        api.ok("GET", f"rigs/{slug}/{station}")
    assert "choose the parts first" in api.refused("GET", f"rigs/{slug}/setup")["reason"]


def test_parts_carry_their_derivations(api, rig):
    found = api.ok("GET", f"rigs/{rig}/parts")
    current = next(f for f in found["figures"] if f["name"] == "heater current")
    assert round(current["value"], 3) == 1.304 and current["formula"] and current["inputs"]
    assert all(p["duty"]["inputs"] for p in found["pieces"])


def test_trying_parts_saves_nothing(api, rig):
    tried = api.ok("POST", f"rigs/{rig}/parts/try", {**PARTS, "practice": "nec"})
    assert tried["choice"]["practice"] == "nec"
    assert api.ok("GET", f"rigs/{rig}")["choice"]["practice"] == "iec"


def test_parts_that_cannot_work_together_are_refused(api, rig, revision):
    wrong = {**PARTS, "actuator": "ssr", "revision": revision()}
    assert api.refused("PUT", f"rigs/{rig}/parts", wrong)["field"] == "actuator"


def test_a_sensor_that_ends_below_the_highest_temperature_is_refused(api):
    slug = api.ok("POST", "rigs", {**CABINET, "kind": "kiln", "working_c": 515, "highest_c": 600})["slug"]
    problem = api.refused("PUT", f"rigs/{slug}/parts", {**PARTS, "sensor": "T", "revision": 1})
    assert problem["field"] == "sensor" and "400" in problem["reason"]


def test_supplies_are_offered_with_their_voltages(api):
    found = {s["supply"]: s for s in api.ok("GET", "supplies")}
    assert found["three_phase"]["proposed_v"] == 400 and 208 in found["three_phase"]["voltages_v"]
    assert all(s["proposed_v"] in s["voltages_v"] for s in found.values())


def test_the_parts_say_what_can_drive_what_and_which_sensors_there_are(api, rig):
    offered = api.ok("GET", f"rigs/{rig}/parts")
    assert offered["drives"]["ssr_drive"] == ["ssr"] and offered["drives"]["pin"][0] == "mosfet"
    assert {"N", "Pt100", "NTC"} <= {s["name"] for s in offered["sensors"]}
    assert len(offered["over"]) == len(offered["pieces"])


def test_a_second_window_cannot_overwrite_the_first(api, rig, revision):
    old = revision()
    api.ok("PUT", f"rigs/{rig}/purpose", {**CABINET, "working_c": 61, "revision": old})
    problem = api.refused("PUT", f"rigs/{rig}/purpose", {**CABINET, "working_c": 62, "revision": old}, status=409)
    assert problem["field"] == "revision" and "Purpose changed" in problem["reason"]
    assert api.ok("GET", f"rigs/{rig}")["purpose"]["working_c"] == 61


def test_a_stronger_heater_makes_the_wired_breaker_too_small(api, rig, revision):
    api.ok("PUT", f"rigs/{rig}/purpose", {**CABINET, "heater_power_w": 3000, "revision": revision()})
    rules = {f["rule"] for f in api.ok("GET", f"rigs/{rig}/wiring")["findings"]}
    assert "wiring.breaker-load" in rules


def test_changed_parts_make_the_wiring_stale_until_it_is_laid_out_again(api, rig, revision):
    changed = api.ok(
        "PUT", f"rigs/{rig}/parts", {**PARTS, "output": "ssr_drive", "actuator": "ssr", "revision": revision()}
    )
    assert changed["next"]["rule"] == "wiring.stale"
    api.ok("POST", f"rigs/{rig}/accept", {"revision": revision(), "target": "wiring.generate", "value": True})
    assert {f["rule"] for f in api.ok("GET", f"rigs/{rig}/wiring")["findings"]} == {"circuit.restarts"}


def test_the_book_tells_what_changed_and_by_whom(api, rig, revision):
    api.ok("PUT", f"rigs/{rig}/purpose", {**CABINET, "working_c": 61, "revision": revision()})
    newest = api.ok("GET", f"rigs/{rig}/book")[0]
    assert (newest["station"], newest["who"]) == ("purpose", "Operator")
    assert (newest["before"], newest["after"]) == ({"working_c": 60.0}, {"working_c": 61.0})


def test_unknown_proposals_are_refused(api, rig, revision):
    problem = api.refused("POST", f"rigs/{rig}/accept", {"revision": revision(), "target": "rigs.delete", "value": 1})
    assert problem["field"] == "target"


def test_the_book_of_the_demo_names_no_field_without_words(api):
    """Raw identifiers are never shown: every key of every line is described, or is the number of a wire."""
    load_demo()
    known = {f["name"] for f in api.ok("GET", "fields")}
    for rig in api.ok("GET", "rigs"):
        for line in api.ok("GET", f"rigs/{rig['slug']}/book"):
            keys = {k for k in {**line["before"], **line["after"]} if not k.isdigit() and k != "list"}
            asked = line["title"].startswith(("Kept", "No longer kept"))  # fields of a question bring their own labels
            assert asked or keys <= known, (line["title"], keys - known)


@pytest.mark.parametrize("field", ["highest_c", "working_c", "heater_power_w", "supply_voltage_v", "name"])
def test_a_refusal_names_a_field_that_has_words(api, field):
    wrong = {**CABINET, field: "" if field == "name" else -5000}
    refused = api.refused("POST", "rigs", wrong)
    assert refused["field"] in {f["name"] for f in api.ok("GET", "fields")}
