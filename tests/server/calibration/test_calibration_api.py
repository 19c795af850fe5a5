"""The calibration station through the API: references, certificates, belief, dates, exchanged places, paper."""

import io
from datetime import date, timedelta

import icalendar
import numpy as np
import pytest
from django.utils import timezone

from rellux.core.runs.series import Series
from rellux.server.calibration.models import Calibration
from rellux.server.equipment.models import Equipment
from rellux.server.rigs.models import Rig
from rellux.server.runs import store
from rellux.server.runs.models import Run


def offset(*pairs, **more):
    return {"pairs": [{"display_c": d, "reference_c": r} for d, r in pairs], **more}


STEADY = ((60.5, 60.0), (60.4, 60.0), (60.5, 60.1))


@pytest.fixture
def thermometer(api):
    """A reference of the workshop with a certificate whose number is its error."""
    point = {"at_c": 60.0, "number_c": 0.3, "expanded_c": 0.1}
    body = {
        "name": "T-09",
        "role": "reference",
        "certificates": [
            {"dated": str(timezone.localdate() - timedelta(days=100)), "says": "error", "points": [point]}
        ],
    }
    return api.ok("POST", "equipment", body)["row"]["id"]


def test_a_reference_says_what_it_is_worth_and_what_is_missing(api, rig, thermometer):
    path = f"rigs/{rig}/calibration/reference"
    view = api.ok("GET", f"rigs/{rig}/calibration")
    assert "thermometer" in [o["kind"] for o in view["offered"]] and [i["name"] for i in view["instruments"]] == [
        "T-09"
    ]
    assert "expanded_c" in [f["name"] for f in view["reference_fields"]]
    strip = api.ok("POST", path, {"compared_with": {"kind": "strip", "last_c": 60, "next_c": 65}})
    assert strip["worth"]["value"]["value"] == 62.5 and "more than a quarter" in strip["warns"]
    assert (
        api.refused("POST", path, {"compared_with": {"kind": "boiling", "altitude_m": 400}})["field"] == "kind"
    )  # at 60 °C
    assert (
        api.refused("POST", path, {"compared_with": {"kind": "strip", "last_c": 65, "next_c": 60}})["field"] == "next_c"
    )
    assert (
        api.refused("POST", path, {"compared_with": {"kind": "boiling", "altitude_m": 60000}})["field"] == "altitude_m"
    )
    assert api.refused("POST", path, {"compared_with": {"kind": "tea leaves"}})["field"] == "kind"
    assert api.refused("POST", path, {"compared_with": {"kind": "strip", "colour": 3}})["field"] == "colour"
    certified = api.ok("POST", path, {"instrument": thermometer})["certified"]
    assert certified["added_c"] == -0.3 and certified["u_c"] == 0.05
    assert api("POST", path, {"instrument": 999_999})[0] == 404
    Equipment.objects.filter(pk=thermometer).update(certificates=[])
    assert api.refused("POST", path, {"instrument": thermometer})["field"] == "certificates"


def test_the_certificate_of_an_instrument_is_worked_in_with_its_own_sign(api, rig, thermometer):
    path = f"rigs/{rig}/calibration/preview"
    with_it = api.ok("POST", path, offset(*STEADY, instrument=thermometer))
    without = api.ok("POST", path, offset(*STEADY, reference_u_c=0.05))
    assert with_it["exact"]["value"] == pytest.approx(without["exact"]["value"] - 0.3)
    assert {t["key"] for t in with_it["belief"]["terms"]} == {"repeats", "reference", "digit"} and with_it["belief"][
        "advice"
    ]
    ice = {"kind": "strip", "last_c": 58.0, "next_c": 62.0}
    own = {"pairs": [{"display_c": 60.5}, {"display_c": 60.4}], "compared_with": ice}
    assert api.ok("POST", path, own)["mean_reference"]["value"] == 60.0
    missing = {"pairs": [{"display_c": 60.5}], "reference_u_c": 0.1}
    assert api.refused("POST", path, missing)["field"] == "pairs[0].reference_c"
    assert api.refused("POST", path, offset(*STEADY, how={"follows_slower_s": -1}))["field"] == "how.follows_slower_s"


def test_pairs_at_scattered_temperatures_are_no_one_point(api, rig, revision):
    spread = offset((30.2, 30.0), (60.3, 60.0), (75.4, 75.0), reference_u_c=0.05)
    found = api.ok("POST", f"rigs/{rig}/calibration/preview", spread)
    assert found["verdict"] == "one_temperature" and "Outside {~30…75 °C}" in found["line"]["says"]
    body = {"revision": revision(), "offset": spread, "reference": "T-09"}
    assert api.refused("POST", f"rigs/{rig}/calibration", body)["field"] == "anyway"
    near = offset((40.2, 40.0), (60.3, 60.0), (79.9, 79.6), reference_u_c=0.05)
    assert api.ok("POST", f"rigs/{rig}/calibration/preview", near)["line"] is None


def saved(api, rig, revision, pairs=STEADY, **more):
    body = {"revision": revision(), "offset": offset(*pairs, reference_u_c=0.05), "reference": "T-09", **more}
    return api.ok("POST", f"rigs/{rig}/calibration", body)


def test_it_is_due_again_by_the_school_that_is_chosen(api, rig, revision):
    first = saved(api, rig, revision)
    today = timezone.localdate()
    assert first["due"] == str(today + timedelta(days=30)) and first["plan"]["interval"] == "record"
    path = f"rigs/{rig}/calibration/plan"
    assert api.refused("PUT", path, {"revision": revision(), "interval": "fixed"})["field"] == "days"
    assert api.refused("PUT", path, {"revision": revision(), "interval": "fixed", "days": 3})["field"] == "days"
    view = api.ok(
        "PUT", path, {"revision": revision(), "interval": "fixed", "days": 45, "allowed_c": 0.8, "why": "audit"}
    )
    assert view["due"] == str(today + timedelta(days=45)) and view["allowed_c"] == 0.8
    assert api("PUT", path, {"revision": revision() - 1, "interval": "practice"})[0] == 409
    calendar = icalendar.Calendar.from_ical(api.client.get("/api/v1/calibration.ics").content)
    said = {str(e["summary"]): e["dtstart"].dt for e in calendar.walk("VEVENT")}
    assert said == {f"{Rig.objects.get(slug=rig).name}: Compare the display": today + timedelta(days=45)}
    assert api.ok("GET", f"rigs/{rig}/book")[0]["title"] == "When it is compared again"


def test_a_comparison_at_another_temperature_is_none_of_the_working_one(api, rig, revision):
    view = saved(api, rig, revision, ((0.1, 0.0), (0.0, 0.0)), enter=False)
    assert view["due"] == str(timezone.localdate()) and "near its working temperature" in view["after"]["why"]
    assert view["record"] == [] and api.ok("GET", f"rigs/{rig}/calibration/window")["window"] is None


def test_what_is_due_is_told_on_the_spine_and_a_broken_rig_hides_no_date(api, rig, revision):
    saved(api, rig, revision)
    Calibration.objects.update(at=timezone.now() - timedelta(days=31))
    Rig.objects.filter(slug=rig).update(revision=50)
    (found,) = [s for s in api.ok("GET", f"rigs/{rig}")["spine"] if s["station"] == "calibration"]
    assert found["worst"] == "advice"
    Equipment.objects.create(name="T-10", role="reference", due=date(2027, 3, 1))
    Calibration.objects.update(rule={"school": "nonsense"})
    events = icalendar.Calendar.from_ical(api.client.get("/api/v1/calibration.ics").content).walk("VEVENT")
    assert [str(e["summary"]) for e in events] == ["T-10: its certificate ends"]


@pytest.mark.long
def test_a_record_shows_its_drift_and_what_earlier_pairs_scattered_counts(api, rig, revision):
    """Five comparisons, the sensor reading 0.2 °C higher each time."""
    for k in range(5):
        saved(api, rig, revision, tuple((60.0 + 0.2 * k + w, 60.0) for w in (-0.05, 0.0, 0.05)), enter=False)
        Calibration.objects.filter(pk=Calibration.objects.order_by("-pk")[0].pk).update(
            at=timezone.now() - timedelta(days=60 * (4 - k))
        )
        Rig.objects.filter(slug=rig).update(revision=revision() + 1)
    view = api.ok("GET", f"rigs/{rig}/calibration")
    assert view["drift"]["seen"] and view["drift"]["per_year"]["value"] == pytest.approx(0.2 / 60 * 365.25, rel=0.05)
    assert len(view["record"]) == 5 and view["after"]["school"] == "record" and view["drift"]["crosses_days"] > 7
    two = api.ok("POST", f"rigs/{rig}/calibration/preview", offset((60.8, 60.0), (60.9, 60.0), reference_u_c=0.05))
    assert two["uncertainty"]["value"] < 0.5  # by themselves two pairs would be worth t = 13.97


def test_places_exchanged_and_what_cannot_be_read(api, rig):
    path = f"rigs/{rig}/calibration/exchange"
    rows = {"before": [{"first_c": 61.0, "second_c": 60.0}] * 3, "after": [{"first_c": 60.4, "second_c": 60.0}] * 3}
    found = api.ok("POST", path, rows)
    assert found["instruments"]["value"] == pytest.approx(0.7) and found["gradient"]["value"] == pytest.approx(0.3)
    assert api.refused("POST", path, {**rows, "after": []})["field"] == "after"
    assert (
        api.refused("POST", path, {**rows, "after": [{"first_c": 9000.0, "second_c": 60.0}] * 2})["field"] == "after[0]"
    )


def test_what_eats_the_window_is_told_from_the_record_and_the_newest_run(api, rig, revision):
    path = f"rigs/{rig}/calibration/window"
    assert api.ok("GET", path)["window"] is None
    saved(api, rig, revision)
    found = api.ok("GET", f"{path}?uneven=0.5")
    assert found["window"]["half"]["value"] == 2.5 and found["window"]["holds"] and found["swing_from"] == ""
    assert "uneven" in [p["key"] for p in found["window"]["parts"]]
    run = Run.objects.create(
        rig=Rig.objects.get(slug=rig),
        name="on/off",
        source="recorded",
        status="finished",
        started_at=timezone.now(),
        sheet={},
    )
    t = np.arange(0.0, 3600.0, 5.0)
    swings = 60.0 + 2.0 * np.sin(2 * np.pi * t / 300.0)
    store.append(run, Series(t, np.full(len(t), 60.0), swings, (swings < 60) * 100.0, (swings < 60) * 1.0))
    told = api.ok("GET", path)
    assert told["swing_from"] == "on/off" and told["swing_c"] == pytest.approx(4.0, rel=0.05)
    assert told["window"]["parts"][0]["key"] == "ripple" and "tune the control" in told["window"]["says"]
    assert api.refused("GET", f"{path}?uneven=500")["field"] == "uneven_c"
    assert api.refused("GET", f"{path}?swing=much")["field"] == "swing"


def test_what_was_entered_is_looked_at_once_more_and_has_a_label(api, rig, revision):
    def rules():
        return [f["rule"] for f in api.ok("GET", f"rigs/{rig}/calibration")["doubts"]]

    assert api.client.get(f"/api/v1/rigs/{rig}/calibration/label.pdf").status_code == 400
    body = {"reference": "T-09", "offset": offset(*STEADY, reference_u_c=0.05)}
    api.ok("POST", f"rigs/{rig}/calibration", {"revision": revision(), "enter": True, **body})
    assert "calibration.verify" in rules()
    label = api.client.get(f"/api/v1/rigs/{rig}/calibration/label.pdf?unit=F")
    assert label.status_code == 200 and label.content.count(b"/Type /Page\n") == 1
    again = {"reference": "T-09", "offset": offset(*((60.0, 60.0),) * 3, reference_u_c=0.05)}
    api.ok("POST", f"rigs/{rig}/calibration", {"revision": revision(), "enter": False, **again})
    assert "calibration.verify" not in rules()


def test_a_narrower_guard_band_needs_a_reason_and_counts_from_then_on(api, rig, revision):
    plan = {"interval": "practice", "allowed_c": 0.6, "guard": 0.5}
    path = f"rigs/{rig}/calibration"
    assert api.refused("PUT", f"{path}/plan", {"revision": revision(), **plan})["field"] == "why"
    assert api.refused("PUT", f"{path}/plan", {"revision": revision(), **plan, "guard": 9})["field"] == "guard"
    api.ok("PUT", f"{path}/plan", {"revision": revision(), **plan, "guard": 1.0})
    before = api.ok("POST", f"{path}/preview", offset(*STEADY, reference_u_c=0.05))["conforms"]["accept_to"]["value"]
    view = api.ok("PUT", f"{path}/plan", {"revision": revision(), **plan, "why": "only a drying oven"})
    assert view["plan"]["guard"] == 0.5
    after = api.ok("POST", f"{path}/preview", offset(*STEADY, reference_u_c=0.05))["conforms"]
    assert after["accept_to"]["value"] > before and "as chosen" in after["accept_to"]["reason"]
    file = b"".join(api.client.get(f"/api/v1/rigs/{rig}/export").streaming_content)
    again = api.client.post("/api/v1/rigs/import", {"file": io.BytesIO(file)}).json()["slug"]
    assert api.ok("GET", f"rigs/{again}/calibration")["plan"]["guard"] == 0.5


def strip_of(api, slug):
    return next(s for s in api.ok("GET", "rigs") if s["slug"] == slug)


def test_a_run_hotter_than_ever_allowed_makes_it_due(api, rig, revision):
    saved(api, rig, revision)
    row, soon = Rig.objects.get(slug=rig), timezone.now() + timedelta(minutes=1)
    hot = Run.objects.create(
        rig=row, name="hot", source="live", status="finished", started_at=soon, sheet={}, peak_c=row.highest_c
    )
    assert "may ever be" not in api.ok("GET", f"rigs/{rig}/calibration")["after"]["why"]
    before = strip_of(api, rig)
    Run.objects.filter(pk=hot.pk).update(peak_c=row.highest_c + 0.5)
    after = strip_of(api, rig)
    assert after["revision"] == before["revision"] and after["compare_again"] < before["compare_again"]
    assert after["findings"] == before["findings"] + 1, "a run tells at once, though it changes nothing of the rig"
    view = api.ok("GET", f"rigs/{rig}/calibration")
    newest = timezone.localdate(Calibration.objects.first().at)
    assert view["due"] == str(newest) and "may ever be" in view["after"]["why"]


def test_whether_it_has_settled_is_told_from_the_run(api, rig):
    path = f"rigs/{rig}/calibration/settled"
    assert api.ok("GET", path)["state"] == "unsure"
    run = Run.objects.create(
        rig=Rig.objects.get(slug=rig),
        name="now",
        source="recorded",
        status=Run.Status.RECORDING,
        started_at=timezone.now(),
        sheet={},
    )
    t = np.arange(0.0, 1200.0, 2.0)
    noise = np.random.default_rng(2).normal(0, 0.02, len(t))
    store.append(run, Series(t, np.full(len(t), 60.0), 60.0 + noise, np.full(len(t), 20.0), np.zeros(len(t))))
    assert api.ok("GET", path)["state"] == "now"


def test_it_goes_on_one_page_and_into_a_table_and_travels(api, rig, revision):
    saved(api, rig, revision)
    number = api.ok("GET", f"rigs/{rig}/calibration")["rows"][0]["id"]
    for unit in ("C", "F"):
        page = api.client.get(f"/api/v1/rigs/{rig}/calibration/{number}.pdf?unit={unit}")
        assert (
            page.status_code == 200 and page.content.startswith(b"%PDF") and page.content.count(b"/Type /Page\n") == 1
        )
    assert api.client.get(f"/api/v1/rigs/{rig}/calibration/{number}.pdf?unit=K").status_code == 400
    assert api.client.get(f"/api/v1/rigs/{rig}/calibration/99999.pdf").status_code == 404
    Calibration.objects.update(reference="=cmd()")
    table = api.client.get(f"/api/v1/rigs/{rig}/calibration.csv").content.decode()
    assert table.count("\n") == 4 and "'=cmd()" in table
    api.ok("PUT", f"rigs/{rig}/calibration/plan", {"revision": revision(), "interval": "practice", "allowed_c": 0.8})
    file = b"".join(api.client.get(f"/api/v1/rigs/{rig}/export").streaming_content)
    again = api.client.post("/api/v1/rigs/import", {"file": io.BytesIO(file)}).json()["slug"]
    view = api.ok("GET", f"rigs/{again}/calibration")
    assert view["plan"]["interval"] == "practice" and view["allowed_c"] == 0.8
    assert view["rows"][0]["uncertainty_c"] == api.ok("GET", f"rigs/{rig}/calibration")["rows"][0]["uncertainty_c"]


def test_two_temperatures_make_a_gain_that_goes_into_the_sheet_and_is_counted_from_then_on(api, rig, revision):
    """A display 0.9 too high at 20 °C and 1.5 too low at 140 °C; the rig works at 60 °C."""
    path = f"rigs/{rig}/calibration"

    def record(true, *shown, **more):
        body = {
            "offset": offset(*((d, true) for d in shown), reference_u_c=0.05, at_c=true, **more),
            "reference": "T-09",
        }
        return api.ok("POST", path, {"revision": revision(), "enter": False, **body})

    assert (
        api.refused("POST", f"{path}/several/preview", {"correcting": "gain", "levels": []})["field"] == "comparisons"
    )
    record(20.0, 20.9, 20.9, 21.0)
    record(140.0, 138.5, 138.5, 138.4)
    listed = api.ok("GET", f"{path}/several")
    assert [row["newest"] for row in listed["levels"]] == [True, True] and listed["unit"] == "C"
    asked = {"correcting": "gain", "levels": []}
    found = api.ok("POST", f"{path}/several/preview", asked)
    assert found["verdict"] == "correct" and found["correction"]["gain"] == pytest.approx(1.021, abs=0.001)
    assert api.refused("POST", f"{path}/several/preview", {**asked, "levels": ["99.0"]})["field"] == "levels"
    api.ok("POST", f"{path}/several", {"revision": revision(), "several": asked})
    sheet = {row["name"]: row["value"] for row in api.ok("GET", f"rigs/{rig}/setup")["parameters"]}
    assert sheet["gain_correction"] == found["correction"]["gain"]
    assert sheet["offset_c"] == found["correction"]["offset_c"]
    # at the work it now reads right: nothing to touch, and the sensor's record holds its own error, not the corrected one
    raw = found["correction"]["gain"] ** -1 * (60.0 - found["correction"]["offset_c"])
    right = api.ok("POST", f"{path}/preview", offset(*((60.0, 60.0),) * 3, reference_u_c=0.05))
    assert right["verdict"] == "leave" and right["causes"] is None
    record(60.0, 60.0, 60.0, 60.1)
    assert api.ok("GET", path)["record"][-1]["error_c"] == pytest.approx(raw - 60.0, abs=0.05)
    assert api.refused("POST", f"{path}/several", {"revision": 1, "several": asked}, 409)
    points = {**asked, "correcting": "points", "points": 3}
    made = api.ok("POST", f"{path}/several/preview", points)
    assert len(made["correction"]["points"]) == 3 and abs(made["worst"]["value"]) < 0.1
    file = b"".join(api.client.get(f"/api/v1/rigs/{rig}/export").streaming_content)
    again = api.client.post("/api/v1/rigs/import", {"file": io.BytesIO(file)}).json()["slug"]
    kept = api.ok("GET", f"rigs/{again}/calibration/several")["levels"]
    assert [row["add_c"] for row in kept] == [row["add_c"] for row in api.ok("GET", f"{path}/several")["levels"]]


def test_it_is_compared_with_ice_where_the_work_is_hot(api, rig):
    path = f"rigs/{rig}/calibration/reference"
    ice = {"compared_with": {"kind": "ice"}}
    assert api.refused("POST", path, ice)["field"] == "kind"
    there = api.ok("POST", path, {**ice, "at_c": 0.0})
    assert there["worth"]["value"]["value"] == 0.0 and "ice" in [o["kind"] for o in there["offered"]]
    assert api.refused("POST", path, {**ice, "at_c": 1e9})["field"] == "at_c"


def test_the_input_is_fed_in_place_of_its_sensor(api, rig, revision):
    path = f"rigs/{rig}/calibration/input"
    fed = {
        "fed": [{"feed": t, "display_c": t + 0.9} for t in (40.0, 60.0, 80.0)],
        "source": {"lead": "simulator", "accuracy": 0.1},
    }
    assert "Compare the display with a reference" in api.ok("POST", path, fed)["says"]
    body = {
        "revision": revision(),
        "enter": False,
        "reference": "T-09",
        "offset": offset(*((60.9, 60.0),) * 3, reference_u_c=0.05),
    }
    api.ok("POST", f"rigs/{rig}/calibration", body)
    assert "not to blame" in api.ok("POST", path, fed)["says"]
    assert api.refused("POST", path, {"fed": [{"feed": 4000.0, "display_c": 60}]})["field"] == "fed[0].feed"
