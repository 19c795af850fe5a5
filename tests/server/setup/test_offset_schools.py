"""The two kinds of calibration offset, through the API: fixed by the controller, converted or refused, never written."""

from django.utils import timezone

from rellux.server.links.models import Link, LinkState
from rellux.server.rigs.models import Rig

ADDED, ADJUST = "added_to_reading", "temperature_adjust"


def save(api, rig, revision, values):
    return api.ok("PUT", f"rigs/{rig}/setup", {"revision": revision(), "values": values})


def test_an_offset_of_the_other_kind_is_never_entered(api, rig, revision):
    """Fixed by the first sheet: a calibration of the other kind is refused, and a change of kind converts the number."""
    offset = {
        "pairs": [{"display_c": 61.5, "reference_c": 60}],
        "school": ADJUST,
        "setpoint_c": 60,
        "resolution_c": 0.1,
    }
    assert api.ok("POST", f"rigs/{rig}/calibration/preview", offset)["to_enter"]["value"] == 0.0  # free as yet
    save(api, rig, revision, {"offset_c": -0.5})
    assert api.ok("GET", f"rigs/{rig}/calibration")["school_fixed_by"] == "as its sheet says"
    for path, body in (("/preview", offset), ("", {"revision": revision(), "offset": offset, "reference": "strip"})):
        assert api.refused("POST", f"rigs/{rig}/calibration{path}", body)["field"] == "school"

    kept = {"revision": revision(), "values": {"offset_school": ADJUST}}
    assert "+0.5" in api.refused("PUT", f"rigs/{rig}/setup", kept)["accepted"]
    found = api.ok("PUT", f"rigs/{rig}/setup", {**kept, "kind": "as_found"})  # what is found is what is in it
    values = {p["name"]: p["value"] for p in found["parameters"]}
    assert (values["offset_school"], values["offset_c"]) == (ADJUST, -0.5)
    api.ok(
        "PUT",
        f"rigs/{rig}/setup",
        {"revision": revision(), "values": {"offset_school": ADDED, "offset_c": 0.5}},
    )


def test_the_linked_controller_decides_the_kind_and_says_what_is_in_it(api, rig, revision):
    """Saved as the other kind before the link was made: found, and converted when the proposal is accepted."""
    api.ok(
        "PUT",
        f"rigs/{rig}/setup",
        {"revision": revision(), "values": {"offset_school": ADJUST, "offset_c": 0.4}},
    )
    link = Link.objects.create(rig=Rig.objects.get(slug=rig), stand_in=True, port=1502)
    LinkState.objects.create(link=link, at=timezone.now(), online=True, values={"offset_c": -0.9, "mode": "off"})
    assert api.ok("GET", f"rigs/{rig}/calibration")["offset_c"] == 0.9  # in the sheet's kind, as long as it says so
    assert "offset_c" not in [d["name"] for d in api.ok("GET", f"rigs/{rig}/link")["differences"]]
    (finding,) = [f for f in api.ok("GET", f"rigs/{rig}/setup")["findings"] if f["rule"] == "setup.offset-school"]
    api.ok("POST", f"rigs/{rig}/accept", {"revision": revision(), **finding["proposal"]})
    view = api.ok("GET", f"rigs/{rig}/calibration")
    assert (view["school"], view["offset_c"]) == (ADDED, -0.9)
    values = {p["name"]: p["value"] for p in api.ok("GET", f"rigs/{rig}/setup")["parameters"]}
    assert (values["offset_school"], values["offset_c"]) == (ADDED, -0.4)


def test_a_calibration_of_before_is_shown_in_the_kind_of_now(api, rig, revision):
    body = {
        "revision": revision(),
        "reference": "ice",
        "offset": {"pairs": [{"display_c": 61, "reference_c": 60}] * 3, "reference_u_c": 0.1},
    }
    api.ok("POST", f"rigs/{rig}/calibration", body)
    api.ok(
        "PUT",
        f"rigs/{rig}/setup",
        {"revision": revision(), "values": {"offset_school": ADJUST, "offset_c": 1.0}},
    )
    view = api.ok("GET", f"rigs/{rig}/calibration")
    assert (view["school"], view["rows"][0]["school"], view["rows"][0]["as_left_c"]) == (
        ADJUST,
        ADDED,
        1.0,
    )
    proposed = {p["name"]: p["proposed"] for p in api.ok("GET", f"rigs/{rig}/setup")["parameters"]}
    assert proposed["offset_c"] == 1.0


def test_an_error_too_large_takes_a_reason_that_stays_in_the_book(api, rig, revision):
    """Nothing is saved without one; as found it is always recorded. Other advice is only kept with what was done."""
    offset = {"pairs": [{"display_c": 85, "reference_c": 60}] * 3, "reference_u_c": 0.1, "limit_c": 50}
    body = {"revision": revision(), "offset": offset, "reference": "ice"}
    for anyway in ({}, {"anyway": "  so  "}):
        refused = api.refused("POST", f"rigs/{rig}/calibration", {**body, **anyway})
        assert refused["field"] == "anyway" and "find the cause first" in refused["reason"]
    assert api.ok("GET", f"rigs/{rig}/calibration")["rows"] == []
    assert api.ok("POST", f"rigs/{rig}/calibration", {**body, "enter": False})["rows"][0]["as_left_c"] == 0
    api.ok(
        "POST", f"rigs/{rig}/calibration", {**body, "revision": revision(), "anyway": "until the probe comes on Friday"}
    )
    assert "find the cause first. Entered all the same: until the probe" in api.ok("GET", f"rigs/{rig}/book")[0]["why"]
    one = {"pairs": [{"display_c": 60.5, "reference_c": 60}], "reference_u_c": 0.1}
    assert api.ok("POST", f"rigs/{rig}/calibration/preview", {**one, "existing_c": 0.0})["verdict"] == "more_pairs"
    api.ok("POST", f"rigs/{rig}/calibration", {**body, "revision": revision(), "offset": {**one, "existing_c": 0.0}})
    assert "The advice was: more pairs first." in api.ok("GET", f"rigs/{rig}/book")[0]["why"]
