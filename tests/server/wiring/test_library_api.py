"""The parts library, own terminal numbers in a rig, and the sheets to print."""

import base64
import json
import re
import zlib

import jsonschema
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from rellux.core.wiring.library import PART_TYPES
from rellux.server.library.files import from_file
from tests.server.test_contract import schema_of
from tests.server.workshop import load_demo

MINE = {
    "title": "Grey kiln controller",
    "kind": "controller_relay",
    "numbers": {"L": "1", "N": "2", "COM": "13", "NO": "14", "IN+": "7", "IN-": "8"},
    "ratings": {"contact_a": 2.0},
}


def test_the_library_keeps_to_the_schema_and_has_every_kind(api):
    found = api.ok("GET", "library")
    jsonschema.validate(found, schema_of("get", "/api/v1/library", 200))
    assert {k["kind"] for k in found["kinds"]} == set(PART_TYPES)


@pytest.mark.parametrize("kind", PART_TYPES.values(), ids=lambda t: t.kind)
def test_every_kind_is_whole(kind):
    names = [t.name for t in kind.terminals]
    assert len(set(names)) == len(names)
    assert all(p.a in names and p.b in names for p in kind.paths)
    assert all(isinstance(r.usual, str) == (r.kind is None) for r in kind.ratings)


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"title": " "}, "title"),
        ({"kind": "teapot"}, "kind"),
        ({"numbers": {"OUT+": "3"}}, "numbers.OUT+"),
        ({"numbers": {"COM": "5", "NO": "5"}}, "numbers.NO"),
        ({"numbers": {"COM": "NO"}}, "numbers.NO"),
        ({"ratings": {"contact_a": -1}}, "ratings.contact_a"),
        ({"ratings": {"power_w": 5}}, "ratings.power_w"),
    ],
)
def test_parts_that_cannot_be_are_refused(api, change, field):
    assert api.refused("POST", "library", {**MINE, **change})["field"] == field


def test_two_parts_of_one_name_are_refused(api):
    api.ok("POST", "library", MINE)
    assert api.refused("POST", "library", MINE)["field"] == "title"


@pytest.mark.parametrize("form", ["json", "csv"])
def test_parts_survive_their_file(api, form):
    before = api.ok("POST", "library", MINE)["own"]
    data = api.client.get(f"/api/v1/library/export.{form}").content
    api.ok("DELETE", f"library/{before[0]['id']}")
    answer = api.client.post("/api/v1/library/import", {"file": SimpleUploadedFile(f"parts.{form}", data)})
    after = answer.json()["own"]
    assert [{**o, "id": 0} for o in after] == [{**o, "id": 0} for o in before]


@pytest.mark.parametrize(
    "data",
    [
        b"\xff\xfe",
        b"{}",
        b"{",
        b"a,b\n1,2\n",
        b'{"format":"rellux-parts","version":1,"parts":[{"title":"x","kind":"y"}]}',
    ],
)
def test_files_that_are_not_parts_change_nothing(api, data):
    answer = api.client.post("/api/v1/library/import", {"file": SimpleUploadedFile("parts", data)})
    assert answer.status_code == 400 and answer.json()["problems"]
    assert api.ok("GET", "library")["own"] == []


def test_a_rig_shows_and_understands_the_numbers_on_the_part(api, rig):
    own = api.ok("POST", "library", MINE)["own"][0]
    wiring = api.ok("GET", f"rigs/{rig}/wiring")
    fitted = api.ok("PUT", f"rigs/{rig}/wiring/parts/A1", {"revision": wiring["revision"], "own": own["id"]})
    part = next(p for p in fitted["parts"] if p["name"] == "A1")
    assert part["own"] == MINE["title"] and part["numbers"]["NO"] == "14"
    wired = api.ok("POST", f"rigs/{rig}/wiring/wires", {"revision": fitted["revision"], "a": "A1.14", "b": "X1.PE"})
    assert any(w["a"] == "A1.NO" and w["b"] == "X1.PE" for w in wired["wires"])
    other = api.ok("POST", "library", {**MINE, "title": "SSR", "kind": "ssr", "numbers": {}, "ratings": {}})["own"]
    ssr = next(o for o in other if o["kind"] == "ssr")
    refused = api.refused("PUT", f"rigs/{rig}/wiring/parts/A1", {"revision": wired["revision"], "own": ssr["id"]})
    assert refused["field"] == "own"
    api.ok("POST", f"rigs/{rig}/accept", {"revision": wired["revision"], "target": "wiring.generate", "value": True})
    laid_out = api.ok("GET", f"rigs/{rig}/wiring")
    assert next(p for p in laid_out["parts"] if p["name"] == "A1")["own"] == MINE["title"]


def streams(pdf: bytes) -> str:
    """What is drawn in a PDF of ours: its streams are deflated and written as ASCII."""
    found = []
    for raw in re.findall(rb">>\s*stream\r?\n(.*?)endstream", pdf, re.S):
        try:
            found.append(
                zlib.decompress(
                    base64.a85decode(b"<~" + raw.strip(), adobe=True) if raw.strip().endswith(b"~>") else raw
                )
            )
        except (ValueError, zlib.error):
            continue
    return b"\n".join(found).decode("latin-1")


def test_the_parts_sheet_is_a_pdf_of_every_demo_rig(api, db):
    for rig in load_demo():
        answer = api.client.get(f"/api/v1/rigs/{rig.slug}/parts.pdf")
        assert answer["Content-Type"] == "application/pdf" and answer.content.startswith(b"%PDF")
        fahrenheit = api.client.get(f"/api/v1/rigs/{rig.slug}/parts.pdf?unit=F")
        assert fahrenheit.content.startswith(b"%PDF") and fahrenheit.content != answer.content
        assert api.client.get(f"/api/v1/rigs/{rig.slug}/parts.pdf?unit=K").status_code == 400
    assert api.client.get("/api/v1/rigs/nothing/parts.pdf").status_code == 404


def test_the_panel_template_is_at_its_own_size(api):
    body = {"values": {"width_mm": 150.0, "height_mm": 100.0, "parts": [{"part": "switch_22"}]}}
    pdf = api.client.post("/api/v1/panel.pdf", json.dumps(body), content_type="application/json").content
    point = 72 / 25.4
    rectangles = [tuple(map(float, m)) for m in re.findall(r"([\d.-]+) ([\d.-]+) ([\d.-]+) ([\d.-]+) re", streams(pdf))]
    assert any(abs(w - 150 * point) < 0.01 and abs(h - 100 * point) < 0.01 for _, _, w, h in rectangles)


def test_a_board_of_a_file_of_before_keeps_its_numbers():
    row = {
        "title": "Bench board",
        "kind": "microcontroller",
        "numbers": {"D9": "9", "A0": "14"},
        "ratings": {"output_pin": "D9"},
    }
    (part,) = from_file(json.dumps({"format": "rellux-parts", "version": 1, "parts": [row]}).encode())
    assert part.numbers == {"PWM3": "9", "AN1": "14"} and part.ratings == {"output_pin": "PWM3"}
