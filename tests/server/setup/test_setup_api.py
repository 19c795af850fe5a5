"""The sheet through the API: tried before it is kept, a changed unit, and what the controller has pages for."""

import io

import pytest

from rellux.core.errors import Refused
from rellux.server.rigs import archive, unpack
from rellux.server.rigs.models import Rig


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


def test_a_block_of_constants_is_filled_kept_and_read_back_into_the_sheet(api, rig, sheet, revision):
    text = api.ok("GET", f"rigs/{rig}/controller/text")
    assert not text["kept"] and "SET_POINT  = 60.0;" in text["filled"]
    assert api.refused("POST", f"rigs/{rig}/controller/text/read", {"text": "x"})["field"] == "text"
    block = {
        **text["block"],
        "tuned": "Kp {kp} Ki {ki} Kd {kd}",
        "words": {"mode": {"pid": "2", "on_off": "1", "off": "0"}},
    }
    block["template"] += "\nint MODE = {mode};"
    tried = api.ok(
        "POST", f"rigs/{rig}/controller/text/try", {"block": block, "values": {"mode": "pid", "setpoint_c": 61}}
    )
    assert "int MODE = 2;" in tried["filled"] and "61.0" in tried["filled"]
    bad = {**block, "template": "{warmth}"}
    assert (
        api.refused("PUT", f"rigs/{rig}/controller/text", {"revision": revision(), "block": bad})["field"] == "template"
    )
    kept = api.ok("PUT", f"rigs/{rig}/controller/text", {"revision": revision(), "block": block})
    assert kept["kept"] and kept["block"]["words"]["mode"]["pid"] == "2"
    source = "/* mine */\n" + tried["filled"].replace("60.0", "59.5")
    read = {v["name"]: v for v in api.ok("POST", f"rigs/{rig}/controller/text/read", {"text": source})["values"]}
    assert read["setpoint_c"]["value"] == 61 and read["setpoint_c"]["before"] == 60 and read["mode"]["value"] == "pid"
    tuned = api.ok("POST", f"rigs/{rig}/controller/text/read", {"text": "Kp 20.4 Ki 0.085 Kd 1224", "tuned": True})
    assert {v["name"]: round(v["value"], 3) for v in tuned["values"]} == {
        "proportional_band_c": 12.5, "integral_time_s": 240.0, "derivative_time_s": 60.0,
    }  # fmt: skip
    here = {p["name"]: p["wanted_here"] for p in api.ok("GET", f"rigs/{rig}/setup")["parameters"]}
    assert here["proportional_band_c"] and here["mode"] and not here["link_baud"]


def test_a_block_goes_along_in_the_rigs_file_and_a_hostile_one_is_refused(api, rig, sheet, revision):
    block = api.ok("GET", f"rigs/{rig}/controller/text")["block"]
    api.ok("PUT", f"rigs/{rig}/controller/text", {"revision": revision(), "block": block})
    again = unpack.read(io.BytesIO(b"".join(archive.write(Rig.objects.get(slug=rig)))), lambda _: "again", "Again")
    assert again.controllers.first().block == block
    row = Rig.objects.get(slug=rig).controllers.first()
    row.block = {**block, "unit": "R"}
    row.save()
    with pytest.raises(Refused):
        unpack.read(io.BytesIO(b"".join(archive.write(row.rig))), lambda _: "third", "Third")


def test_how_a_described_controller_is_made_is_held_against_the_sheet(api, rig, sheet, revision):
    api.ok("PUT", f"rigs/{rig}/controller", {"revision": revision(), "key": "heron"})
    fine = api.ok("GET", f"rigs/{rig}/setup")
    assert not {"setup.offset-school", "setup.hysteresis-school"} & set(rules(fine))
    other = {
        "offset_school": "temperature_adjust",
        "hysteresis_school": "centred",
        "offset_c": 0.3,
        "mode": "on_off",
    }
    told = {f["rule"]: f["severity"] for f in api.ok("POST", f"rigs/{rig}/setup/try", {"values": other})["findings"]}
    assert told["setup.offset-school"] == "danger" and told["setup.hysteresis-school"] == "fault"
