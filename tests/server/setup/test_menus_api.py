"""Controllers’ menus through the API: a description kept, tried, refused; the walk of a rig, half and to its end; a display looked up."""

import io

import pytest
from PIL import Image

from rellux.server.menus.models import ControllerFile, RigController
from rellux.server.rigs import archive, unpack
from rellux.server.rigs.models import Rig


@pytest.fixture
def fitted(api, rig, revision):
    """The rig with a controller of levels."""
    return api.ok("PUT", f"rigs/{rig}/controller", {"revision": revision(), "key": "heron", "why": "bought"})


def press(api, description, standing=None, **gesture):
    body = {"description": description, **({"gesture": gesture} if gesture else {})}
    if standing:
        body |= {k: standing[k] for k in ("page", "values", "pending")}
    return api.ok("POST", "controllers/panel", body)


def test_a_walk_is_shown_rehearsed_kept_half_done_and_ends_as_the_sheet_as_left(api, rig, revision, fitted):
    assert fitted["key"] == "heron" and not fitted["begun"] and fitted["total"] > 0 and fitted["check"]
    description = fitted["description"]
    pages = [p["key"] for g in description["groups"] for p in g["pages"]]
    wanted = dict(zip(pages, fitted["wanted"], strict=True))
    sensors = [
        c["values"][0] for g in description["groups"] for p in g["pages"] if p["key"] == "B1" for c in p["choices"]
    ]
    assert sensors[wanted["B1"]] == api.ok("GET", f"rigs/{rig}")["choice"]["sensor"]
    assert {t["title"] for t in fitted["unheld"]} >= {"After a power cut"}
    wish = {"offset_c": -0.5, "setpoint_c": 58.0}
    tried = api.ok("POST", f"rigs/{rig}/controller/walk", {"values": wish})
    assert dict(zip(pages, tried["wanted"], strict=True))["A2"] == -5 and not RigController.objects.get().wanted
    half = api.ok("PUT", f"rigs/{rig}/controller/walk", {"revision": revision(), "values": wish, "done": 3})
    assert half["begun"] and half["done"] == 3 and half["wanted"] == tried["wanted"]
    standing = press(api, description)
    assert standing["display"] == {"code": "", "value": "", "cursor": -1, "editing": False}
    other = {**wish, "setpoint_c": 59.0}
    assert api.ok("POST", f"rigs/{rig}/controller/walk", {"values": other})["done"] == 0
    end = {"revision": revision(), "values": wish, "done": tried["total"]}
    assert api.refused("PUT", f"rigs/{rig}/controller/walk", {**end, "done": tried["total"] + 1})["field"] == "done"
    done = api.ok("PUT", f"rigs/{rig}/controller/walk", end)
    assert not done["begun"] and done["found"] == tried["wanted"] and done["done"] == 0
    sheet = {p["name"]: p["value"] for p in api.ok("GET", f"rigs/{rig}/setup")["parameters"]}
    assert sheet["offset_c"] == -0.5 and sheet["setpoint_c"] == 58.0
    assert "walked" in api.ok("GET", f"rigs/{rig}/book")[0]["why"]
    api.refused("PUT", f"rigs/{rig}/controller/walk", end, 409)
    read = {"revision": revision(), "read": [{"page": "A2", "shows": "0.7"}]}
    found = api.ok("POST", f"rigs/{rig}/controller/found", read)
    assert dict(zip(pages, found["found"], strict=True))["A2"] == 7
    newest = api.ok("GET", f"rigs/{rig}/setup")["history"][0]
    assert newest["kind"] == "as_found" and newest["after"] == {"offset_c": 0.7}
    for bad, field in (({"page": "nothing"}, "page"), ({"shows": "100.0"}, "shows"), ({"shows": "warm"}, "shows")):
        body = {"revision": revision(), "read": [{"page": "A2", "shows": "0.1"}, {"page": "A2", "shows": "0.7", **bad}]}
        assert api.refused("POST", f"rigs/{rig}/controller/found", body)["field"] == f"read[1].{field}"
    assert api.refused("POST", f"rigs/{rig}/controller/found", {"revision": revision(), "read": []})["field"] == "read"
    assert api.ok("GET", f"rigs/{rig}/setup")["history"][0]["after"] == {"offset_c": 0.7}  # nothing of what was refused


def test_what_it_found_as_it_tuned_itself_is_read_page_by_page_and_kept_at_once(api, rig, revision, fitted):
    whole = {"revision": revision(), "values": {"mode": "on_off"}}
    total = api.ok("POST", f"rigs/{rig}/controller/walk", {"values": whole["values"]})["total"]
    held = api.ok("PUT", f"rigs/{rig}/controller/walk", {**whole, "done": total})
    reading = api.ok("GET", f"rigs/{rig}/controller/reading?page=C1")
    assert [p["code"] for p in reading["pages"]] == ["C1", "C2", "C4", "C5"] and reading["pages"][0]["shows"] == "u.2"
    assert {s["code"] for s in reading["steps"]} >= {"C1", "C2", "C4", "C5"} and not reading["unchecked"]
    shows = {"C1": "u.2", "C2": "8.4", "C4": "3.5", "C5": "48"}
    body = {"revision": revision(), "read": [{"page": p, "shows": s} for p, s in shows.items()], "tuned": True}
    wrong = {**body, "read": [*body["read"][:2], {"page": "C4", "shows": "3,55x"}]}
    body["revision"] = wrong["revision"] = revision()
    assert api.refused("POST", f"rigs/{rig}/controller/found", wrong)["field"] == "read[2].shows"
    assert api.ok("GET", f"rigs/{rig}/controller")["found_shown"] == held["found_shown"]
    after = api.ok("POST", f"rigs/{rig}/controller/found", body)
    pages = [p["key"] for g in after["description"]["groups"] for p in g["pages"]]
    assert {k: v for k, v in zip(pages, after["found_shown"], strict=True) if k in shows} == shows
    newest = api.ok("GET", f"rigs/{rig}/setup")["history"][0]
    assert newest["kind"] == "as_found" and newest["why"] == "found as it tuned itself, read off C1 C2 C4 C5"
    told = {"mode": "pid", "proportional_band_c": 8.4, "integral_time_s": 210.0, "derivative_time_s": 48.0}
    assert newest["after"] == told and newest["before"]["mode"] == "on_off"
    assert api.refused("GET", f"rigs/{rig}/controller/reading?page=no")["field"] == "page"


def test_a_rig_keeps_its_controller_through_its_file_and_when_the_library_loses_it(api, rig, revision):
    made = api.ok("GET", "controllers/larch")["description"]
    key = api.ok("POST", "controllers", {"description": {**made, "title": "Ours"}})["key"]
    api.ok("PUT", f"rigs/{rig}/controller", {"revision": revision(), "key": key})
    assert {"key": key, "title": "Ours", "own": True, "rigs": 1, "options": []} in api.ok("GET", "controllers")[
        "controllers"
    ]
    api.ok("PUT", f"controllers/{key}", {"description": {**made, "title": "Ours, mended"}})
    assert api.ok("GET", f"rigs/{rig}/controller")["description"]["title"] == "Ours"
    api.ok("DELETE", f"controllers/{key}")
    assert not ControllerFile.objects.exists()
    file = io.BytesIO(b"".join(archive.write(Rig.objects.get(slug=rig))))
    again = unpack.read(file, lambda _: "again", "Again")
    assert again.controllers.get().description["title"] == "Ours"
    gone = api.ok("PUT", f"rigs/{rig}/controller", {"revision": revision(), "key": ""})
    assert gone["key"] == "" and [h["title"] for h in gone["history"]] == ["", "Ours"]
    api.refused("PUT", f"rigs/{rig}/controller/walk", {"revision": revision(), "values": {}, "done": 1})


def test_a_description_that_cannot_be_is_told_by_its_fields_and_not_kept(api):
    made = api.ok("GET", "controllers/larch")["description"]
    bad = {**made, "editing": {**made["editing"], "up": "?"}}
    assert [p["field"] for p in api.ok("POST", "controllers/check", {"description": bad})["problems"]] == ["editing.up"]
    assert api.refused("POST", "controllers", {"description": bad})["field"] == "editing.up"
    assert api.refused("PUT", "controllers/larch", {"description": made})["field"] == "key"
    assert api.refused("DELETE", "controllers/larch")["field"] == "key"
    assert api.refused("DELETE", "controllers/nothing")["field"] == "key"
    assert api.refused("POST", "controllers", {"description": {**made, "format": 7}})["field"] == "format"
    assert api.refused("POST", "controllers", {"description": {**made, "groups": "none"}})
    assert api.refused("POST", "controllers/panel", {"description": made, "page": 99})["field"] == "page"
    assert api.refused("POST", "controllers/panel", {"description": made, "values": [1]})["field"] == "values"
    far = {"counts": 1, "cursor": 10**9, "negative": False}
    assert (
        api.refused("POST", "controllers/panel", {"description": made, "page": 1, "pending": far})["field"] == "pending"
    )
    long = {"press": "hold", "key": "▲", "seconds": 1e308}
    assert (
        api.refused("POST", "controllers/panel", {"description": made, "gesture": long})["field"] == "gesture.seconds"
    )
    assert not ControllerFile.objects.exists()


def test_the_panel_does_as_described_and_a_display_is_looked_up(api):
    made = api.ok("GET", "controllers/teasel")["description"]
    there = press(api, made, press="tap", key="⌃", seconds=0.0)
    assert there["display"]["code"] == "AIM"
    there = press(api, made, there, press="tap", key="○", seconds=0.0)
    there = press(api, made, there, press="hold", key="⌃", seconds=10.0)
    assert there["display"] == {"code": "AIM", "value": "200", "cursor": -1, "editing": True}
    there = press(api, made, there, press="wait", key="", seconds=180.0)
    assert there["lost"] == "AIM" and there["display"]["code"] == ""
    found = api.ok("POST", "controllers/places", {"description": made, "shows": "CE1L", "to": "FEEL"})
    (place,) = found["places"]
    assert place["page"] == "CEIL" and not place["exact"] and place["on"] and place["out"][0]["says"] == "Hold ○ 2 s."
    assert api.ok("POST", "controllers/places", {"description": made, "shows": "ooo"})["errors"][0]["means"]
    assert (
        api.refused("POST", "controllers/places", {"description": made, "shows": "x", "to": "nowhere"})["field"] == "to"
    )


@pytest.mark.long
def test_a_walk_left_half_way_has_left_in_the_controller_what_was_kept_by_then(api, rig, revision, fitted):
    """The first value is kept, then somebody wants something else: the new walk begins with it, and the sheet says so."""
    pages = [p["key"] for g in fitted["description"]["groups"] for p in g["pages"]]
    wish = {"offset_c": -0.5, "sensor_failure_output": 20.0}
    tried = api.ok("POST", f"rigs/{rig}/controller/walk", {"values": wish})
    first = next(s for s in tried["steps"] if s["sets"])
    walked = {"revision": revision(), "values": wish, "done": first["gestures"]}
    api.ok("PUT", f"rigs/{rig}/controller/walk", walked)
    other = {**wish, "output_high": 70.0}
    again = api.ok("POST", f"rigs/{rig}/controller/walk", {"values": other})
    kept = pages.index(first["sets"])
    assert again["found"][kept] == tried["wanted"][kept] != tried["found"][kept] and again["done"] == 0
    begun = api.ok("PUT", f"rigs/{rig}/controller/walk", {"revision": revision(), "values": other, "done": 1})
    assert begun["begun"] and "half walked" in api.ok("GET", f"rigs/{rig}/book")[0]["why"]
    sheet = {p["name"]: p["value"] for p in api.ok("GET", f"rigs/{rig}/setup")["parameters"]}
    (name,) = next(p["sets"] for g in fitted["description"]["groups"] for p in g["pages"] if p["key"] == first["sets"])
    assert first["sets"] == "B1" and sheet[name] == "N" and sheet["offset_c"] == 0.0
    changed = {"revision": revision(), "values": {"setpoint_c": 51.0}, "kind": "as_found"}
    api.ok("PUT", f"rigs/{rig}/setup", changed)
    assert not api.ok("GET", f"rigs/{rig}/controller")["begun"], "it began with something else than is in it"


def test_a_page_read_off_in_the_middle_of_a_walk_loses_nothing_of_it(api, rig, revision, fitted):
    """What was kept by then stays known, whatever page is read."""
    wish = {"offset_c": -0.5, "setpoint_c": 58.0}
    tried = api.ok("POST", f"rigs/{rig}/controller/walk", {"values": wish})
    pages = [p["key"] for g in tried["description"]["groups"] for p in g["pages"]]
    for done in range(tried["total"] - 3, 0, -9):
        half = {"revision": revision(), "values": wish, "done": done}
        api.ok("PUT", f"rigs/{rig}/controller/walk", half)
        kept = api.ok("POST", f"rigs/{rig}/controller/walk", {"values": {**wish, "setpoint_c": 59.0}})["found"]
        read = {"revision": revision(), "read": [{"page": "C6", "shows": "31.0"}]}
        after = api.ok("POST", f"rigs/{rig}/controller/found", read)["found"]
        was, now = (dict(zip(pages, found, strict=True)) for found in (kept, after))
        assert now == {**was, "C6": 310}
        if kept != tried["found"]:
            return
    raise AssertionError("nothing was kept half way: the case was not tried")


@pytest.mark.long
def test_a_new_controller_in_place_of_another_is_as_delivered_until_it_was_walked(api, rig, revision, fitted):
    """What the sheet says was in the old one; the same one described otherwise holds it still."""
    api.ok("PUT", f"rigs/{rig}/setup", {"revision": revision(), "values": {"setpoint_c": 58.0}})
    for fresh, setpoint in ((False, 58), (True, 20)):
        given = {"revision": revision(), "key": "plover", "fresh": fresh, "why": "burnt"}
        found = api.ok("PUT", f"rigs/{rig}/controller", given)
        assert found["found"][1] == setpoint
        findings = {f["rule"] for f in api.ok("GET", f"rigs/{rig}/setup")["findings"]}
        assert ("setup.controller-exchanged" in findings) == fresh
    wish = {p["name"]: p["value"] for p in api.ok("GET", f"rigs/{rig}/setup")["parameters"]}
    tried = api.ok("POST", f"rigs/{rig}/controller/walk", {"values": wish})
    assert tried["wanted"][1] == 58 and tried["total"] > 0
    api.ok("PUT", f"rigs/{rig}/controller/walk", {"revision": revision(), "values": wish, "done": tried["total"]})
    setup = api.ok("GET", f"rigs/{rig}/setup")
    assert "setup.controller-exchanged" not in {f["rule"] for f in setup["findings"]}
    nothing = api.ok("POST", f"rigs/{rig}/controller/walk", {"values": {}})
    assert nothing["steps"] == [] and "holds what it can of it" in nothing["says"]
    hidden = api.ok("POST", f"rigs/{rig}/controller/walk", {"values": {"setpoint_c": 399.0, "setpoint_high_c": 900.0}})
    assert any("takes -40…400" in u["why"] for u in hidden["unheld"])


@pytest.mark.long
def test_after_a_reset_what_was_in_it_is_walked_back_to(api, rig, revision, fitted):
    """The sheet in it, its maker's values brought back at its keys, and one walk from those to the sheet again."""
    walked = api.ok(
        "PUT", f"rigs/{rig}/controller/walk", {"revision": revision(), "values": {}, "done": fitted["total"]}
    )
    assert walked["total"] == 0
    reset, tune = api.ok("GET", f"rigs/{rig}/controller")["guarded"]
    assert tune["finds"] and not reset["finds"]  # also where nothing in it would change, as here below
    assert (
        (reset["code"], reset["choice"], tune["code"]) == ("B7", "yES", "C1")
        and reset["changes"] >= 3
        and tune["changes"] == 0
    )
    body = {"revision": revision(), "page": "B7", "counts": 1}
    after = api.ok("POST", f"rigs/{rig}/controller/guarded", body)
    assert after["total"] == 0 and after["found_shown"] != walked["found_shown"]
    newest, before = api.ok("GET", f"rigs/{rig}/setup")["history"][:2]
    assert newest["kind"] == "as_left" and before["kind"] == "as_found" and before["why"] == "before B7 yES"
    assert newest["after"]["setpoint_high_c"] == 600 and newest["who"]
    way = api.ok("POST", f"rigs/{rig}/controller/walk", {"values": newest["before"]})
    assert way["wanted_shown"] == walked["found_shown"] and way["total"] > 0
    body = {"revision": revision(), "values": newest["before"], "done": way["total"]}
    back = api.ok("PUT", f"rigs/{rig}/controller/walk", body)
    assert back["found_shown"] == walked["found_shown"]
    for page, counts in (("B1", 0), ("B7", 0), ("B7", 9), ("??", 0)):
        assert (
            api.refused(
                "POST", f"rigs/{rig}/controller/guarded", {"revision": revision(), "page": page, "counts": counts}
            )["field"]
            == "page"
        )


@pytest.mark.long
def test_a_new_controller_comes_wire_by_wire_with_its_own_numbers_and_what_guards_by_it_is_proved_again(
    api, rig, revision, fitted
):
    wiring = api.ok("GET", f"rigs/{rig}/wiring")
    (part,) = [p for p in wiring["parts"] if p["kind"].startswith("controller_")]
    assert part["numbers"]["IN+"] == "1" and not fitted["exchange"]
    for wire in wiring["wires"]:
        api.ok("PUT", f"rigs/{rig}/wiring/built/{wire['number']}", {"revision": revision(), "built": True})
    new = api.ok(
        "PUT", f"rigs/{rig}/controller", {"revision": revision(), "key": "larch", "fresh": True, "why": "dark"}
    )
    at = {m["terminal"]: m for m in new["exchange"]}
    assert (at["IN+"]["before"], at["IN+"]["after"], at["IN+"]["done"]) == ("1", "D1", False)
    touching = [w["number"] for w in wiring["wires"] if part["name"] in (w["a"].split(".")[0], w["b"].split(".")[0])]
    assert sorted({m["wire"] for m in new["exchange"]}) == sorted(touching)
    assert Rig.objects.get(slug=rig).built.count() == len(wiring["wires"]) - len(touching)
    for number in touching:
        api.ok("PUT", f"rigs/{rig}/wiring/built/{number}", {"revision": revision(), "built": True})
    assert api.ok("GET", f"rigs/{rig}/controller")["exchange"] == []
    bare = api.ok("PUT", f"rigs/{rig}/controller", {"revision": revision(), "key": "osier", "fresh": True})
    assert {m["after"] for m in bare["exchange"]} == {m["terminal"] for m in bare["exchange"]}


@pytest.mark.parametrize(
    ("terminals", "field"),
    [
        ([("1", "IN+"), ("1", "IN-")], "terminals[1].number"), ([("1", "IN+"), ("2", "IN+")], "terminals[1].terminal"),
        ([("1", "HEAT")], "terminals[0].terminal"), ([("", "IN+")], "terminals[0].number"), ([("A1.2", "IN+")], "terminals[0].number"),
        ([("1", "IN+", "toaster")], "terminals[0].variant"),
    ],
)  # fmt: skip
def test_terminals_that_cannot_be_are_refused_by_field(api, terminals, field):
    larch = api.ok("GET", "controllers/larch")["description"]
    made = {
        **larch,
        "terminals": [dict(zip(("number", "terminal", "variant"), (*t, "")[:3], strict=True)) for t in terminals],
    }
    assert api.ok("POST", "controllers/check", {"description": made})["problems"][0]["field"] == field


def test_numbers_thought_of_are_said_as_the_rigs_controller_says_them(api, rig, revision):
    path, values = (
        f"rigs/{rig}/controller/keyed",
        {"proportional_band_c": 12.5, "integral_time_s": 240, "derivative_time_s": 60},
    )
    assert api.ok("POST", path, {"values": values}) == {
        "controller": "",
        "keyed": {"pages": [], "text": "", "lost": []},
    }
    api.ok("PUT", f"rigs/{rig}/controller", {"revision": revision(), "key": "heron"})
    said = api.ok("POST", path, {"values": values})
    assert {p["code"]: p["shows"] for p in said["keyed"]["pages"]} == {
        "C2": "12.5",
        "C4": "4.0",
        "C5": "60",
    }  # minutes, and a band
    assert api.refused("POST", path, {"values": {"proportional_band_c": -4}})["field"] == "proportional_band_c"
    assert api.refused("POST", path, {"values": {"colour": 4}})["field"] == "colour"
    block = {"template": "P = {kp:.4f}\nI = {ki:.6f}\nD = {kd:.2f}"}
    api.ok("PUT", f"rigs/{rig}/controller/text", {"revision": revision(), "block": block})
    assert api.ok("POST", path, {"values": values})["keyed"]["text"].startswith("P = 20.4000")


SECOND = "board that sends a current"


def test_what_is_in_it_is_said_when_it_is_fitted_and_nothing_else_is_shown(api, rig, revision, fitted):
    names = {c["key"]: c["options"] for c in api.ok("GET", "controllers")["controllers"]}
    assert names["heron"] == [SECOND] and names["larch"] == []
    groups = [g["key"] for g in fitted["description"]["groups"]]
    assert fitted["description"]["options"] == [] and "sending" not in groups
    given = {"revision": revision(), "key": "heron", "options": [SECOND]}
    whole = api.ok("PUT", f"rigs/{rig}/controller", given)
    assert whole["description"]["options"] == [SECOND] and len(whole["found"]) == len(fitted["found"]) + 3
    assert api.ok("GET", f"rigs/{rig}/controller")["description"]["options"] == [SECOND]
    wrong = api.refused("PUT", f"rigs/{rig}/controller", {**given, "revision": revision(), "options": ["a fan"]})
    assert wrong["field"] == "options" and SECOND in wrong["accepted"]


def test_its_manual_is_photographed_and_goes_with_it(api):
    def photo(place, key):
        out = io.BytesIO()
        Image.new("RGB", (30, 20)).save(out, "PNG")
        out.seek(0)
        out.name = "p.png"
        return api.client.post(f"/api/v1/controllers/{key}/photos", {"file": out, "place": place})

    described = api.ok("GET", "controllers/heron")["description"]
    key = api.ok("POST", "controllers", {"description": described})["key"]
    assert photo("page 12", key).json()["photos"][0]["place"] == "page 12"
    number = api.ok("GET", f"controllers/{key}/photos")["photos"][0]["number"]
    got = api.client.get(f"/api/v1/controllers/{key}/photos/{number}")
    assert got["Content-Type"] == "image/png" and "sandbox" in got["Content-Security-Policy"]
    assert api("GET", f"controllers/heron/photos/{number}")[0] == 404
    assert photo(" ", key).json()["problems"][0]["field"] == "place"
    assert photo("page 1", "heron").json()["problems"][0]["field"] == "key"
    junk = api.client.post(f"/api/v1/controllers/{key}/photos", {"file": io.BytesIO(b"<svg/>"), "place": "x"})
    assert junk.json()["problems"][0]["field"] == "file"
    assert api.ok("DELETE", f"controllers/{key}/photos/{number}")["photos"] == []
    photo("page 13", key)
    api.ok("DELETE", f"controllers/{key}")
    assert api.ok("GET", f"controllers/{key}/photos")["photos"] == []


def test_a_value_is_typed_in_the_controllers_own_words(api, rig, fitted):
    path = f"rigs/{rig}/controller/typed"
    values = {"mode": "pid", "proportional_band_c": 12.5, "integral_time_s": 240.0, "derivative_time_s": 0.0}
    assert api.ok("POST", path, {"page": "C4", "shows": "2.5", "values": values})["values"] == {
        "integral_time_s": 150.0
    }
    kelvin = api.ok("POST", path, {"page": "A1", "shows": "333", "values": {"display_unit": "K"}})["values"]
    assert kelvin["setpoint_c"] == pytest.approx(59.85)
    wrong = api.refused("POST", path, {"page": "A1", "shows": "60.5.1", "values": values})
    assert wrong["field"] == "shows" and "1800" in wrong["accepted"]
    assert api.refused("POST", path, {"page": "X", "shows": "1", "values": {}})["field"] == "page"
    assert api.refused("POST", path, {"page": "A1", "shows": "1", "values": {"moon": 1}})["field"] == "moon"
