"""The solved circuit through the API: states, faults, meter, schedule, netlist; on a wired rig and before anything is wired."""

import jsonschema
import pytest

from tests.server.conftest import CABINET
from tests.server.test_contract import schema_of


@pytest.mark.parametrize("what", ["solved", "faults", "meter", "schedule"])
def test_answers_keep_to_the_schema(api, rig, what):
    found = api.ok("GET", f"rigs/{rig}/wiring/{what}")
    jsonschema.validate(found, schema_of("get", f"/api/v1/rigs/{{slug}}/wiring/{what}", 200))


def test_states_say_what_each_load_gets_and_why(api, rig):
    states = {s["name"]: s for s in api.ok("GET", f"rigs/{rig}/wiring/solved")}
    heater = {p["name"]: p for p in states["output on"]["parts"]}["E1"]
    volts, amps, watts = heater["figures"]
    assert volts["value"] == pytest.approx(229, abs=2) and watts["value"] == pytest.approx(
        volts["value"] * amps["value"]
    )
    assert all(f["formula"] and f["source"] for f in heater["figures"])
    assert {s["settled"] for s in states.values()} == {True}
    assert {"output off", "limit tripped, output on", "F1 open, output on", "supply back, output on"} <= states.keys()


def test_a_reading_is_explained_and_nonsense_is_refused(api, rig):
    body = {"measured": [{"a": "E1.1", "b": "E1.2", "value": None}]}
    best = api.ok("POST", f"rigs/{rig}/wiring/meter", body)[0]
    assert best["title"] == "E1 burns out" and best["fits"]
    for measured, field in (
        ([], "measured"),
        ([{"a": "E1.1", "b": "E9.1", "value": 1}], "measured[0].b"),
        ([{"a": "E1.1", "b": "E1.2", "value": -1}], "measured[0].value"),
        ([{"a": "E1.1", "b": "E1.2", "value": 1, "state": "maybe"}], "measured[0].state"),
    ):
        assert api.refused("POST", f"rigs/{rig}/wiring/meter", {"measured": measured})["field"] == field


def test_schedule_and_netlist_are_files(api, rig):
    wires = api.ok("GET", f"rigs/{rig}/wiring")["wires"]
    lines = api.client.get(f"/api/v1/rigs/{rig}/wiring/schedule.csv").content.decode().strip().splitlines()
    assert len(lines) == len(wires) + 1 and lines[0].startswith("number,from,to")
    text = api.client.get(f"/api/v1/rigs/{rig}/wiring/netlist.cir?output=off").content.decode()
    assert "output off" in text.splitlines()[0] and text.rstrip().endswith(".end")


def test_before_anything_is_wired_it_says_so(api):
    slug = api.ok("POST", "rigs", CABINET)["slug"]
    assert api.refused("GET", f"rigs/{slug}/wiring/faults")["field"] == "wiring"


def test_pasted_wires_come_all_or_none(api, rig):
    before = api.ok("GET", f"rigs/{rig}/wiring")
    text = "number,from,to,mm2,colour\n70,A1.NC,X1.PE,0.75,black\n,E1.1,X1.PE\n"
    after = api.ok("POST", f"rigs/{rig}/wiring/paste", {"revision": before["revision"], "text": text})
    added = [w for w in after["wires"] if w["b"] == "X1.PE" and w["a"] in ("A1.NC", "E1.1")]
    assert {(w["number"], w["a"]) for w in added} == {(70, "A1.NC"), (71, "E1.1")}
    assert next(w for w in added if w["number"] == 70)["colour"] == "black"
    bad = "A1.NC\tE1.2\nA1.NC\tE9.1\nA1.NC\n"
    status, answer = api("POST", f"rigs/{rig}/wiring/paste", {"revision": after["revision"], "text": bad})
    assert status == 400 and [p["field"] for p in answer["problems"]] == ["line 2", "line 3"]
    assert len(api.ok("GET", f"rigs/{rig}/wiring")["wires"]) == len(after["wires"])


def test_a_position_is_put_together_by_hand(api, rig):
    url = f"rigs/{rig}/wiring/position"
    on = api.ok("POST", url, {"output_on": True})
    assert "E1" in on["state"]["energised"] and on["solved"]["parts"]
    opened = api.ok("POST", url, {"output_on": True, "operated": ["F1"]})
    assert "E1" not in opened["state"]["energised"] and "A1" in opened["state"]["energised"]
    assert api.ok("POST", url, {"output_on": True, "power": False})["state"]["energised"] == []
    assert api.refused("POST", url, {"operated": ["E1"]})["field"] == "operated[0]"


def test_any_two_terminals_can_be_looked_at(api, rig):
    found = api.ok("GET", f"rigs/{rig}/wiring/meter?pairs=F1.1>F1.2")
    assert found[-1]["about"] == "chosen here" and found[-1]["ohms"]["most"] < 0.1
    assert api.refused("GET", f"rigs/{rig}/wiring/meter?pairs=F1.1>Z9.2")["field"] == "pairs"


def test_a_changed_wire_says_what_was_found_out_before_it(api, rig, revision):
    body = {
        "reference": "thermometer",
        "revision": revision(),
        "enter": False,
        "offset": {"pairs": [{"display_c": 61, "reference_c": 60}]},
    }
    api.ok("POST", f"rigs/{rig}/calibration", body)

    def voids():
        return {f["rule"] for f in api.ok("GET", f"rigs/{rig}/wiring")["findings"]} & {"wiring.voids"}

    assert voids() == set()
    wire = api.ok("GET", f"rigs/{rig}/wiring")["wires"][-2]
    body = {"a": wire["a"], "b": wire["b"], "colour": "grey", "revision": revision()}
    api.ok("PUT", f"rigs/{rig}/wiring/wires/{wire['number']}", body)
    assert voids() == set()  # another colour is the same circuit
    api.ok("DELETE", f"rigs/{rig}/wiring/wires/{wire['number']}?revision={revision()}")
    assert voids() == {"wiring.voids"}


def test_a_file_says_its_quantities_plainly(api, rig):
    """Files are read by other programs: no braces of messages in them."""
    text = api("GET", f"rigs/{rig}/wiring/schedule.csv")[1].decode()
    assert "90 °C" in text and "{" not in text
