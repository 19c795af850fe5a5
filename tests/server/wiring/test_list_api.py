"""Editing the connection list through the API: parts, steps back and forth, ticks, reasons, photos, files."""

import io
import json
import re

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from rellux.server.rigs.models import Rig
from rellux.server.sheets.diagram import Box, Drawn, tiles


@pytest.fixture
def post(api, rig, revision):
    """Post to the rig's wiring on its present revision."""

    def send(path, method="POST", **body):
        return api.ok(method, f"rigs/{rig}/wiring/{path}".rstrip("/"), {**body, "revision": revision()})

    return send


def listed(answer):
    return [(w["number"], w["a"], w["b"]) for w in answer["wires"]]


def test_parts_are_added_rated_wired_and_removed_with_their_wires(api, rig, revision, post):
    added = post("parts", kind="beacon")
    lamp = added["parts"][-1]
    assert lamp["name"] == "H1" and lamp["ratings"]["voltage_v"] == 230
    assert post("parts", kind="beacon")["parts"][-1]["name"] == "H2"
    rated = post("parts/H1/ratings", "PUT", ratings={"power_w": 7})
    assert next(p for p in rated["parts"] if p["name"] == "H1")["ratings"]["power_w"] == 7
    before = len(post("wires", a="F2.2", b="H1.1")["wires"])
    left = api.ok("DELETE", f"rigs/{rig}/wiring/parts/H1?revision={revision()}")
    assert len(left["wires"]) == before - 1 and "H1" not in [p["name"] for p in left["parts"]]


def test_bad_parts_are_refused_by_field(api, rig, revision):
    url = f"rigs/{rig}/wiring/parts"
    for body, field in (
        ({"kind": "flux"}, "kind"),
        ({"kind": "lamp", "name": "1st.lamp"}, "name"),
        ({"kind": "lamp", "name": "F1"}, "name"),
        ({"kind": "lamp", "ratings": {"power_w": -1}}, "ratings.power_w"),
        ({"kind": "supply_1ph", "ratings": {"earthing": "wet"}}, "ratings.earthing"),
    ):
        assert api.refused("POST", url, {**body, "revision": revision()})["field"] == field
    assert not Rig.objects.get(slug=rig).parts.filter(kind="lamp").exists()


def test_every_edit_is_taken_back_and_done_again(api, rig, revision, post):
    start = api.ok("GET", f"rigs/{rig}/wiring")
    assert start["undo"] == "Wiring laid out" and start["redo"] == ""
    post("wires", a="X1.PE", b="B1.-")
    edited = post("parts", kind="lamp")
    once = post("undo")
    assert once["redo"] == "H1 added: indicator lamp" and len(once["parts"]) == len(edited["parts"]) - 1
    assert listed(post("undo")) == listed(start)
    assert len(post("redo")["wires"]) == len(start["wires"]) + 1
    again = post("wires", a="X1.PE", b="B1.+")
    assert again["redo"] == "" and again["undo"].endswith("added")


def test_nothing_left_to_take_back_is_said(api, rig, revision, post):
    post("undo")
    assert api.refused("POST", f"rigs/{rig}/wiring/undo", {"revision": revision()})["field"] == "undo"
    post("redo")
    assert api.refused("POST", f"rigs/{rig}/wiring/redo", {"revision": revision()})["field"] == "redo"


def test_ticked_wires_tell_what_still_has_to_be_done_at_the_rig(api, rig, revision, post):
    wires = api.ok("GET", f"rigs/{rig}/wiring")["wires"]
    first, second = wires[0], wires[1]
    ticked = post(f"built/{first['number']}", "PUT", built=True)
    assert ticked["wires"][0]["done"] == "fitted" and len(ticked["differences"]) == len(wires) - 1
    post(f"built/{second['number']}", "PUT", built=True)
    changed = post(f"wires/{first['number']}", "PUT", a=first["a"], b=first["b"], area_mm2=4.0)
    assert changed["wires"][0]["done"] == "differs" and "planned {4 mm²}" in changed["differences"][0]["says"]
    gone = api.ok("DELETE", f"rigs/{rig}/wiring/wires/{second['number']}?revision={revision()}")
    assert gone["differences"][0]["change"] == "remove"
    assert post(f"built/{first['number']}", "PUT", built=False)["wires"][0]["done"] == "open"


def test_a_finding_is_lived_with_only_for_a_reason_that_stands_on_the_sheet(api, rig, revision, post):
    finding = next(f for f in api.ok("GET", f"rigs/{rig}/wiring")["findings"] if f["rule"] == "circuit.restarts")
    wish = {"rule": finding["rule"], "subjects": finding["subjects"]}
    short = api.refused("POST", f"rigs/{rig}/wiring/accepted", {**wish, "reason": "ok", "revision": revision()})
    assert short["field"] == "reason"
    lived = post("accepted", **wish, reason="somebody always sits beside it")
    assert lived["findings"] == [] and lived["accepted"][0]["title"] == finding["title"]
    assert api.ok("GET", f"rigs/{rig}/book")[0]["why"] == "somebody always sits beside it"
    back = api.ok("DELETE", f"rigs/{rig}/wiring/accepted/{lived['accepted'][0]['id']}?revision={revision()}")
    assert [f["rule"] for f in back["findings"]] == ["circuit.restarts"]
    unknown = {"rule": "wiring.earth", "reason": "no reason at all", "revision": revision()}
    assert api.refused("POST", f"rigs/{rig}/wiring/accepted", unknown)["field"] == "rule"


def test_the_list_as_a_file_comes_back_the_same(api, client, rig, revision, post):
    post("parts", kind="beacon")
    post("wires", a="F2.2", b="H1.1", length_m=2.5, insulation="silicone", route="duct 1")
    before = api.ok("GET", f"rigs/{rig}/wiring")
    text = client.get(f"/api/v1/rigs/{rig}/wiring/list.json").content.decode()
    post("", circuit="")
    after = post("import", text=text)
    for key in ("parts", "wires"):
        assert after[key] == before[key]


@pytest.mark.long
def test_the_schedule_pasted_into_an_emptied_list_gives_the_same_wires(api, client, rig, revision, post):
    before = api.ok("GET", f"rigs/{rig}/wiring")
    text = client.get(f"/api/v1/rigs/{rig}/wiring/schedule.csv").content.decode()
    for wire in before["wires"]:
        api.ok("DELETE", f"rigs/{rig}/wiring/wires/{wire['number']}?revision={revision()}")
    assert post("paste", text=text)["wires"] == before["wires"]
    assert post("undo")["wires"] == []  # one paste is one step


@pytest.mark.parametrize(
    ("data", "field"),
    [
        ("{", "text"),
        ({"parts": []}, "file"),
        ({"parts": [{"name": "Z1", "kind": "warp"}], "wires": []}, "parts[0]"),
        ({"parts": [{"name": "Z1", "kind": "lamp"}], "wires": [{"number": 1, "a": "Z1.1", "b": "Z1.9"}]}, "b"),
        ({"parts": [{"name": "Z1", "kind": "lamp"}], "wires": [{"number": 1, "a": "Z1.1", "b": "Z1.1"}]}, "b"),
        ({"parts": [{"name": "Z1", "kind": "lamp"}] * 2, "wires": []}, "parts[1].name"),
        ({"parts": [], "wires": [{"number": 1, "a": "A.1", "b": "B.1", "area_mm2": 900}]}, "wires[0].area_mm2"),
    ],
)
def test_a_bad_file_is_refused_and_nothing_changes(api, rig, revision, data, field):
    before = api.ok("GET", f"rigs/{rig}/wiring")
    text = data if isinstance(data, str) else json.dumps(data)
    found = api.refused("POST", f"rigs/{rig}/wiring/import", {"revision": revision(), "text": text})
    assert found["field"] == field
    assert api.ok("GET", f"rigs/{rig}/wiring") == before


def test_usual_circuits_are_offered_and_laid_out(api, rig, post):
    offered = {o["key"]: o for o in api.ok("GET", f"rigs/{rig}/wiring/usual")}
    assert offered["parts"]["refused"] == "" and offered["start"]["refused"] == ""
    laid = post("", circuit="start")
    assert {"S0", "S1", "K9"} <= {p["name"] for p in laid["parts"]} and laid["findings"] == []
    assert api.ok("GET", f"rigs/{rig}/wiring/memory") == {"holds": ["K0", "K9"], "restarts": []}
    assert laid["circuit"] == "start" and "H1" in [p["name"] for p in post("", circuit="beacon")["parts"]]


def picture(kind="JPEG"):
    file = io.BytesIO()
    Image.new("RGB", (8, 8), "red").save(file, kind)
    file.seek(0)
    file.name = "terminal.jpg"
    return file


def test_a_photo_hangs_at_its_terminal_and_travels_in_the_rig_file(api, client, rig, revision):
    url = f"/api/v1/rigs/{rig}/wiring/photos"
    sent = client.post(url, {"file": picture(), "terminal": "E1.1", "revision": revision()})
    assert sent.status_code == 200 and sent.json()["photos"][0]["terminal"] == "E1.1"
    number = sent.json()["photos"][0]["id"]
    shown = client.get(f"{url}/{number}")
    assert shown["Content-Type"] == "image/jpeg" and shown.content.startswith(b"\xff\xd8")
    for body, field in (
        ({"file": io.BytesIO(b"GIF89a"), "terminal": "E1.1"}, "file"),
        ({"file": picture(), "terminal": "E9.1"}, "terminal"),
        ({"terminal": "E1.1"}, "file"),
    ):
        refused = client.post(url, {**body, "revision": revision()})
        assert refused.status_code == 400 and refused.json()["problems"][0]["field"] == field
    zipped = b"".join(client.get(f"/api/v1/rigs/{rig}/export").streaming_content)
    copy = client.post("/api/v1/rigs/import", {"file": SimpleUploadedFile("rig.zip", zipped)}).json()["slug"]
    assert bytes(Rig.objects.get(slug=copy).photos.get().image).startswith(b"\xff\xd8")
    left = api.ok("DELETE", f"rigs/{rig}/wiring/photos/{number}?revision={revision()}")
    assert left["photos"] == []


def test_the_wiring_prints_as_a_sheet_with_the_drawing_given(api, client, rig, revision):
    drawing = {
        "title": "power",
        "width": 400,
        "height": 200,
        "boxes": [{"name": "Q0", "title": "Supply", "x": 0, "y": 0, "width": 128, "height": 90}],
        "pins": [{"label": "L", "x": 128, "y": 50, "side": "right"}],
        "lines": [{"number": 1, "points": [{"x": 128, "y": 50}, {"x": 300, "y": 50}], "tag": {"x": 200, "y": 50}}],
    }
    flag = {"numbers": [1, 2], "x": 10, "y": 120, "width": 60, "height": 18}
    body = {
        "paper": "A4",
        "drawings": [drawing, {**drawing, "title": "control", "flags": [flag]}],
    }
    url = f"/api/v1/rigs/{rig}/wiring.pdf"
    sent = client.post(url, json.dumps(body), content_type="application/json")
    assert sent.status_code == 200 and sent.content.startswith(b"%PDF") and len(sent.content) > 5000
    assert len(re.findall(rb"/Type /Page\b", sent.content)) >= 3  # one for each drawing, then what was checked
    for wrong, field in (
        ({**body, "paper": "A9"}, "paper"),
        ({**body, "drawings": [{"title": "power"}]}, "drawings[0]"),
    ):
        refused = client.post(url, json.dumps(wrong), content_type="application/json")
        assert refused.status_code == 400 and refused.json()["problems"][0]["field"].startswith(field.split("[")[0])


def test_a_drawing_too_large_for_a_page_is_cut_between_its_parts():
    """Ten parts in a row, 250 units apart: at 4.5 pt a page of 780 pt shows about 2000 units, so two pages; no part is cut."""
    row = [Box(f"F{i}", "", 250.0 * i, 0.0, 128.0, 90.0) for i in range(10)]
    pieces = tiles(Drawn("power", 2378.0, 90.0, row), (780.0, 500.0))
    assert len(pieces) == 2 and pieces[0].right == pieces[1].left
    assert not any(b.x < pieces[0].right < b.x + b.width for b in row)
    assert len(tiles(Drawn("power", 1500.0, 90.0, row[:6]), (780.0, 500.0))) == 1
    corner = [row[0], Box("E1", "", 3900.0, 1900.0, 128.0, 90.0)]  # what holds no part is not printed
    assert len(tiles(Drawn("control", 4028.0, 1990.0, corner), (780.0, 500.0))) == 2


def test_a_list_of_before_keeps_its_wires_at_a_boards_pins(api, rig, revision):
    """Pins had the names of a board once: a file of that time is understood."""
    parts = [
        {"name": "A1", "kind": "microcontroller", "ratings": {"output_pin": "D9"}},
        {"name": "V1", "kind": "mosfet"},
    ]
    wires = [{"number": 1, "a": "A1.D9", "b": "V1.SIG"}, {"number": 2, "a": "V1.GND", "b": "A1.GND"}]
    text = json.dumps({"parts": parts, "wires": wires})
    found = api.ok("POST", f"rigs/{rig}/wiring/import", {"revision": revision(), "text": text})
    assert listed(found) == [(1, "A1.PWM3", "V1.SIG"), (2, "V1.GND", "A1.GND")]
    assert found["parts"][0]["ratings"]["output_pin"] == "PWM3"
