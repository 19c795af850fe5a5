"""Questions through the API: asked, kept in a rig, found in its spine, its book and its file."""

import jsonschema
import pytest

from rellux.server.rigs.models import Rig
from tests.server.test_contract import schema_of
from tests.server.workshop import load_demo


@pytest.fixture
def annealer(db):
    load_demo()
    return Rig.objects.get(slug="blank-annealer")


def test_the_list_keeps_to_the_schema_and_opens_with_what_the_rig_knows(api, annealer):
    found = api.ok("GET", "questions?rig=blank-annealer")
    jsonschema.validate(found, schema_of("get", "/api/v1/questions", 200))
    wire = next(q for q in found if q["key"] == "wire")
    assert wire["start"]["current_a"] == pytest.approx(13.913, abs=1e-3) and wire["pieces"] == [
        "plug",
        "breaker",
        "conductor",
    ]
    assert next(q for q in api.ok("GET", "questions") if q["key"] == "wire")["start"]["current_a"] == 13


@pytest.mark.parametrize(
    "key", ["capability", "wire", "panel", "switch", "mistake", "colours", "reading", "thermistor", "feed", "bank"]
)
def test_answers_keep_to_the_schema(api, db, key):
    jsonschema.validate(
        api.ok("POST", f"questions/{key}", {"values": {}}), schema_of("post", "/api/v1/questions/{key}", 200)
    )


def test_bad_values_are_named_where_they_were_typed(api, db):
    values = {"layers": [{"material": "brick_23", "thickness_mm": 5000}]}
    problem = api.refused("POST", "questions/walls", {"values": values})
    assert problem["field"] == "layers[0].thickness_mm" and problem["accepted"] == "{0.1…500 mm}"
    assert api("POST", "questions/nothing", {"values": {}})[0] == 404


def test_a_kept_answer_is_counted_noted_exported_and_dropped(api, annealer):
    rig = api.ok("GET", "rigs/blank-annealer")
    before = {s["station"]: s["waiting"] for s in rig["spine"]}
    values = {"supply_v": 400.0}
    kept = api.ok("PUT", "rigs/blank-annealer/questions/element", {"revision": rig["revision"], "values": values})
    after = {s["station"]: s["waiting"] for s in kept["spine"]}
    assert after["parts"] == before["parts"] + 1
    line = next(k for k in api.ok("GET", "rigs/blank-annealer/questions") if k["key"] == "element")
    assert line["worst"] == "danger" and "W" in line["headline"]
    entry = api.ok("GET", "rigs/blank-annealer/book")[0]
    assert entry["station"] == "parts" and entry["after"]["supply_v"] == 400.0
    again = next(q for q in api.ok("GET", "questions?rig=blank-annealer") if q["key"] == "element")
    assert again["kept"] and again["start"]["supply_v"] == 400.0
    stale = api("PUT", "rigs/blank-annealer/questions/element", {"revision": rig["revision"], "values": values})
    assert stale[0] == 409
    dropped = api.ok("DELETE", f"rigs/blank-annealer/questions/element?revision={kept['revision']}")
    assert {s["station"]: s["waiting"] for s in dropped["spine"]} == before


def test_nothing_is_kept_of_an_answer_that_cannot_be(api, annealer):
    api.refused(
        "PUT", "rigs/blank-annealer/questions/element", {"revision": annealer.revision, "values": {"supply_v": -1}}
    )
    assert not annealer.kept.filter(question="element").exists()
