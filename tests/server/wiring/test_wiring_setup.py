"""Changing connections and settings through the API: findings follow at once, nothing is half-saved."""


def rules(answer):
    """What is found beyond what every rig without a start button has."""
    return {f["rule"] for f in answer["findings"]} - {"circuit.restarts"}


def test_the_usual_circuit_is_laid_out_without_findings(api, rig):
    wiring = api.ok("GET", f"rigs/{rig}/wiring")
    assert rules(wiring) == set() and len(wiring["wires"]) > 15
    assert [s["name"] for s in wiring["states"]][:2] == ["output off", "output on"]


def test_removing_the_earth_is_found_and_the_proposal_mends_it(api, rig, revision):
    earth = next(w for w in api.ok("GET", f"rigs/{rig}/wiring")["wires"] if w["circuit"] == "earth")
    after = api.ok("DELETE", f"rigs/{rig}/wiring/wires/{earth['number']}?revision={revision()}")
    assert rules(after) == {"wiring.earth"}
    proposal = after["findings"][0]["proposal"]
    api.ok(
        "POST", f"rigs/{rig}/accept", {"revision": revision(), "target": proposal["target"], "value": proposal["value"]}
    )
    mended = api.ok("GET", f"rigs/{rig}/wiring")
    assert rules(mended) == set()
    assert any(w["colour"] == "green-yellow" and w["circuit"] == "earth" for w in mended["wires"])


def test_reversed_thermocouple_is_found_and_swapped_back(api, rig, revision):
    plus, minus = (
        next(w for w in api.ok("GET", f"rigs/{rig}/wiring")["wires"] if end in (w["a"], w["b"]))
        for end in ("A1.IN+", "A1.IN-")
    )
    api.ok(
        "PUT",
        f"rigs/{rig}/wiring/wires/{plus['number']}",
        {**{k: plus[k] for k in ("a", "area_mm2", "colour")}, "b": "A1.IN3", "revision": revision()},
    )
    api.ok(
        "PUT",
        f"rigs/{rig}/wiring/wires/{minus['number']}",
        {**{k: minus[k] for k in ("a", "area_mm2", "colour")}, "b": "A1.IN+", "revision": revision()},
    )
    reversed_ = api.ok(
        "PUT",
        f"rigs/{rig}/wiring/wires/{plus['number']}",
        {**{k: plus[k] for k in ("a", "area_mm2", "colour")}, "b": "A1.IN-", "revision": revision()},
    )
    assert "wiring.tc-polarity" in rules(reversed_)
    proposal = next(f["proposal"] for f in reversed_["findings"] if f["rule"] == "wiring.tc-polarity")
    api.ok(
        "POST", f"rigs/{rig}/accept", {"revision": revision(), "target": proposal["target"], "value": proposal["value"]}
    )
    assert api.ok("GET", f"rigs/{rig}/wiring")["findings"][:-1] == []


def test_an_impossible_wire_is_refused_and_nothing_is_stored(api, rig, revision):
    before = api.ok("GET", f"rigs/{rig}/wiring")["wires"]
    for wire, field in (
        ({"a": "F9.1", "b": "E1.1"}, "a"),
        ({"a": "E1.1", "b": "E1.1"}, "b"),
        ({"a": "Q0.L", "b": "E1.9"}, "b"),
        ({"a": "Q0.L", "b": "E1.1", "area_mm2": 900}, "area_mm2"),
    ):
        assert api.refused("POST", f"rigs/{rig}/wiring/wires", {**wire, "revision": revision()})["field"] == field
    assert api.ok("GET", f"rigs/{rig}/wiring")["wires"] == before


def test_the_first_sheet_takes_proposals_for_what_is_not_given(api, rig, revision):
    saved = api.ok(
        "PUT", f"rigs/{rig}/setup", {"revision": revision(), "values": {"offset_c": -1.0}, "kind": "as_found"}
    )
    values = {p["name"]: p["value"] for p in saved["parameters"]}
    assert values["offset_c"] == -1.0 and values["input_type"] == "N" and values["period_s"] == 20.0
    assert saved["history"][0]["kind"] == "as_found"


def test_findings_about_the_sheet_are_settled_by_their_proposals(api, rig, revision):
    bad = {"input_type": "K", "setpoint_high_c": 70.0, "action": "cooling"}
    found = api.ok("PUT", f"rigs/{rig}/setup", {"revision": revision(), "values": bad})["findings"]
    assert {f["severity"] for f in found} == {"danger"} and len(found) == 3
    for finding in found:
        p = finding["proposal"]
        api.ok("POST", f"rigs/{rig}/accept", {"revision": revision(), "target": p["target"], "value": p["value"]})
    assert api.ok("GET", f"rigs/{rig}/setup")["findings"][:-1] == []


def test_history_keeps_before_after_and_why(api, rig, revision):
    api.ok("PUT", f"rigs/{rig}/setup", {"revision": revision(), "values": {}, "kind": "as_found"})
    left = api.ok(
        "PUT", f"rigs/{rig}/setup", {"revision": revision(), "values": {"hysteresis_c": 0.5}, "why": "less swing"}
    )
    newest = left["history"][0]
    assert (newest["before"], newest["after"], newest["why"]) == (
        {"hysteresis_c": 1.0},
        {"hysteresis_c": 0.5},
        "less swing",
    )


def test_values_out_of_range_are_refused_by_name(api, rig, revision):
    problem = api.refused("PUT", f"rigs/{rig}/setup", {"revision": revision(), "values": {"period_s": 0}})
    assert (problem["field"], problem["accepted"]) == ("period_s", "{0.1…300 s}")
    assert api.ok("GET", f"rigs/{rig}/setup")["saved"] is False


def test_offset_is_flagged_after_the_sensor_changed(api, rig, revision):
    pairs = [{"display_c": 62.1, "reference_c": 60.0}] * 3
    body = {"revision": revision(), "reference": "reference thermometer", "offset": {"pairs": pairs}}
    saved = api.ok("POST", f"rigs/{rig}/calibration", body)
    assert saved["rows"][0]["as_left_c"] == -2.1 and saved["offset_c"] == -2.1
    parts = {**api.ok("GET", f"rigs/{rig}")["choice"], "sensor": "K", "revision": revision()}
    api.ok("PUT", f"rigs/{rig}/parts", parts)
    assert "setup.offset-inherited" in rules(api.ok("GET", f"rigs/{rig}/setup"))


def test_calibration_preview_says_what_the_display_will_read(api, rig):
    found = api.ok("POST", f"rigs/{rig}/calibration/preview", {"pairs": [{"display_c": 101, "reference_c": 100}]})
    assert found["sentence"] == "After this the display will read {100.0 °C} when the load is at {100.0 °C}."
    assert found["to_enter"]["value"] == -1.0


def test_calibration_left_as_found_changes_no_setting(api, rig, revision):
    body = {
        "revision": revision(),
        "reference": "strip",
        "enter": False,
        "offset": {"pairs": [{"display_c": 61, "reference_c": 60}]},
    }
    assert api.ok("POST", f"rigs/{rig}/calibration", body)["rows"][0]["as_left_c"] == 0.0
    assert api.ok("GET", f"rigs/{rig}/setup")["saved"] is False
