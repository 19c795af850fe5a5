"""The sheet through the API: tried before it is kept, a changed unit, and what the controller has pages for."""

import pytest


@pytest.fixture
def sheet(api, rig, revision):
    """The rig with every proposal saved."""
    return api.ok("PUT", f"rigs/{rig}/setup", {"revision": revision(), "values": {}})


def rules(answer):
    return [f["rule"] for f in answer["findings"]]


def test_a_sheet_is_tried_and_nothing_is_kept(api, rig, sheet):
    tried = api.ok("POST", f"rigs/{rig}/setup/try", {"values": {"run_state": "manual", "filter_s": 60}})
    assert {"setup.manual", "setup.filter"} <= set(rules(tried))
    assert rules(api.ok("GET", f"rigs/{rig}/setup")) == rules(sheet)
    for bad in ({"run_state": "sideways"}, {"filter_s": -1}, {"minimum_off_s": 60}, {"colour": "red"}):
        assert api.refused("POST", f"rigs/{rig}/setup/try", {"values": bad})["field"] == next(iter(bad))


def test_a_unit_changed_by_hand_is_told_until_every_page_was_read_and_never_after_a_walk(api, rig, sheet, revision):
    tried = api.ok("POST", f"rigs/{rig}/setup/try", {"values": {"display_unit": "F"}})
    told = next(f for f in tried["findings"] if f["rule"] == "setup.unit-changed")
    assert told["severity"] == "fault" and {"display_unit", "setpoint_c"} <= set(told["subjects"])
    left = api.ok("PUT", f"rigs/{rig}/setup", {"revision": revision(), "values": {"display_unit": "F"}})
    assert "setup.unit-changed" in rules(left)
    back = api.ok("POST", f"rigs/{rig}/setup/try", {"values": {"display_unit": "C"}})
    assert next(f for f in back["findings"] if f["rule"] == "setup.unit-changed")["severity"] == "danger"
    found = api.ok("PUT", f"rigs/{rig}/setup", {"revision": revision(), "values": {}, "kind": "as_found"})
    assert "setup.unit-changed" not in rules(found)
    api.ok("PUT", f"rigs/{rig}/controller", {"revision": revision(), "key": "heron"})
    values = {"display_unit": "C"}
    way = api.ok("POST", f"rigs/{rig}/controller/walk", {"values": values})
    api.ok("PUT", f"rigs/{rig}/controller/walk", {"revision": revision(), "values": values, "done": way["total"]})
    walked = api.ok("GET", f"rigs/{rig}/setup")
    assert next(p["value"] for p in walked["parameters"] if p["name"] == "display_unit") == "C"
    assert "setup.unit-changed" not in rules(walked)


def test_a_described_controller_shows_what_it_has_and_its_unit_sees_to_what_it_converts(api, rig, sheet, revision):
    assert all(p["wanted_here"] for p in sheet["parameters"])
    api.ok("PUT", f"rigs/{rig}/controller", {"revision": revision(), "key": "heron"})
    here = {p["name"]: p["wanted_here"] for p in api.ok("GET", f"rigs/{rig}/setup")["parameters"]}
    assert here["offset_c"] and here["offset_school"] and not here["alarm_2_type"] and not here["link_baud"]
    told = api.ok("POST", f"rigs/{rig}/setup/try", {"values": {"display_unit": "F"}})["findings"]
    assert "setpoint_c" not in next((f["subjects"] for f in told if f["rule"] == "setup.unit-changed"), [])
    kept = api.ok(
        "PUT", f"rigs/{rig}/setup", {"revision": revision(), "values": {"alarm_2_type": "high", "alarm_2_at_c": 66}}
    )
    assert next(p["wanted_here"] for p in kept["parameters"] if p["name"] == "alarm_2_type")
