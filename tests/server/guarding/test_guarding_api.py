"""Guarding through the API: a plan that is tried, saved, refused, accepted, proved, looked at over a run, and carried by the rig file."""

import io
from datetime import timedelta

import pytest
from django.utils import timezone

from rellux.server.guarding.models import GuardPlan, Proof
from rellux.server.guarding.stored import plan_of
from rellux.server.rigs import archive, overview, unpack
from rellux.server.rigs.models import Rig
from rellux.server.sheets.guarding import guarding_of
from tests.examples import some
from tests.server.workshop import load_demo


@pytest.fixture
def guarding(api, rig, revision):
    """The rig's proposed plan, in force."""
    plan = api.ok("GET", f"rigs/{rig}/guarding")["plan"]
    return api.ok("PUT", f"rigs/{rig}/guarding", {"revision": revision(), "plan": plan, "why": "first"})


def test_a_plan_is_proposed_tried_and_put_in_force(api, rig, revision):
    before = api.ok("GET", f"rigs/{rig}/guarding")
    assert not before["saved"] and before["findings"] == [] and before["reasons"]
    assert (
        next(s for s in api.ok("GET", f"rigs/{rig}")["spine"] if s["station"] == "guarding")["progress"] == "untouched"
    )
    hotter = [
        {**a, "alarm": {**a["alarm"], "value": 61.0}} if a["name"] == "Too hot" else a for a in before["plan"]["alarms"]
    ]
    tried = api.ok("POST", f"rigs/{rig}/guarding/preview", {"plan": {**before["plan"], "alarms": hotter}})
    assert "guarding.alarm-in-running" in {f["rule"] for f in tried["findings"]} and not GuardPlan.objects.exists()
    limit = next(s for s in before["ladder"]["steps"] if s["rung"] == "setpoint_high")["celsius"]
    asked = {"plan": before["plan"], "setpoint_limit_c": limit + 2.5}
    steps = api.ok("POST", f"rigs/{rig}/guarding/preview", asked)["steps"]
    assert next(s for s in steps if s["rung"] == "setpoint_high")["celsius"] == limit + 2.5
    api.refused("POST", f"rigs/{rig}/guarding/preview", {**asked, "setpoint_limit_c": 1e6})
    given = {"revision": revision(), "plan": before["plan"], "why": "agreed at the bench"}
    after = api.ok("PUT", f"rigs/{rig}/guarding", given)
    assert after["saved"] and after["history"][0]["why"] == "agreed at the bench"
    api.refused("PUT", f"rigs/{rig}/guarding", given, 409)
    entry = api.ok("GET", f"rigs/{rig}/book")[0]
    assert entry["station"] == "guarding" and "Too hot" in entry["after"]["alarms"]
    state = next(s for s in api.ok("GET", f"rigs/{rig}")["spine"] if s["station"] == "guarding")
    assert state["waiting"] == len(after["findings"]) > 0


def test_what_cannot_be_is_refused_by_its_field_and_nothing_is_kept(api, rig, revision, guarding):
    plan = guarding["plan"]
    mute = {**plan, "alarms": [{**plan["alarms"][0], "response": ""}]}
    wild = {**plan, "limiter": {"trip_c": 5000.0, "hysteresis_c": 1.0, "sensor": "Pt100", "lag_s": 5.0}}
    for bad, field in (
        (mute, "alarms[0].response"),
        (wild, "limiter.trip_c"),
        ({**plan, "prove_days": 0}, "prove_days"),
    ):
        for method, path, body in (
            ("PUT", "guarding", {"revision": revision(), "plan": bad}),
            ("POST", "guarding/preview", {"plan": bad}),
        ):
            assert api.refused(method, f"rigs/{rig}/{path}", body)["field"] == field
    assert api.refused("PUT", f"rigs/{rig}/guarding", {"revision": revision(), "plan": {**plan, "alarms": "none"}})
    assert GuardPlan.objects.count() == 1
    empty = api.ok("POST", "rigs", {**api.ok("GET", f"rigs/{rig}")["purpose"], "name": "Bare", "kind": "oven"})["slug"]
    assert api.refused("GET", f"rigs/{empty}/guarding")["field"] == "parts"


def test_a_proposal_is_accepted_into_the_plan(api, rig, revision, guarding):
    Rig.objects.update(limiter=False)
    limiter = {"trip_c": 60.5, "hysteresis_c": 1.0, "sensor": "Pt100", "lag_s": 5.0}
    saved = api.ok(
        "PUT", f"rigs/{rig}/guarding", {"revision": revision(), "plan": {**guarding["plan"], "limiter": limiter}}
    )
    rules = {f["rule"]: f for f in saved["findings"]}
    assert rules["guarding.limiter-not-fitted"]["proposal"]["target"] == "parts.limiter"
    accept = {"revision": revision(), "target": "guarding.hold_s", "value": 3.0}
    api.ok("POST", f"rigs/{rig}/accept", accept)
    assert api.ok("GET", f"rigs/{rig}/guarding")["plan"]["policy"]["hold_s"] == 3.0
    nothing = {"revision": revision(), "target": "guarding.fuse_rating_c", "value": 90.0}
    assert api.refused("POST", f"rigs/{rig}/accept", nothing)["field"] == "target"


def test_every_guard_is_proved_and_the_proof_is_of_the_plan_as_it_was(api, rig, revision, guarding):
    sheet = api.ok("GET", f"rigs/{rig}/guarding/proof?terminals_c=23")
    assert api.refused("GET", f"rigs/{rig}/guarding/proof")["field"] == "terminals_c"
    assert api.refused("GET", f"rigs/{rig}/guarding/proof?terminals_c=90")["field"] == "terminals_c"
    seen = [{"acted": s["acts"], "remark": ""} for s in sheet["steps"]]
    body = {"revision": revision(), "terminals_c": 23.0, "observed": seen}
    assert api.refused(
        "POST", f"rigs/{rig}/guarding/proof", {**body, "observed": [{"acted": None, "remark": ""}, *seen[1:]]}
    )
    assert not Proof.objects.exists()
    proved = api.ok("POST", f"rigs/{rig}/guarding/proof", body)
    assert proved["proofs"][0]["passed"] and "guarding.proof" not in {f["rule"] for f in proved["findings"]}
    Proof.objects.update(at=timezone.now() - timedelta(days=366))
    overview.forget()
    due = next(f for f in api.ok("GET", f"rigs/{rig}/guarding")["findings"] if f["rule"] == "guarding.proof")
    assert due["severity"] == "advice" and "due" in due["title"]
    Proof.objects.update(at=timezone.now())
    changed = {**guarding["plan"], "prove_days": 100}
    after = api.ok("PUT", f"rigs/{rig}/guarding", {"revision": revision(), "plan": changed})
    assert not after["proofs"][0]["of_this_plan"]
    assert "changed since" in next(f for f in after["findings"] if f["rule"] == "guarding.proof")["title"]
    wrong = [{"acted": not s["acts"], "remark": ""} for s in sheet["steps"]]
    failed = api.ok("POST", f"rigs/{rig}/guarding/proof", {**body, "revision": revision(), "observed": wrong})
    assert next(f for f in failed["findings"] if f["rule"] == "guarding.proof")["severity"] == "fault"


@pytest.mark.parametrize("unit", some(["F", "C"], 1))
def test_the_sheet_for_the_bench_says_what_the_screen_says(api, rig, revision, guarding, unit):
    """Blank before the proof, with what was seen after one of this plan at these terminals, blank again for another plan."""
    screen = api.ok("GET", f"rigs/{rig}/guarding/proof?terminals_c=23")

    def sheet():
        found = Rig.objects.get(slug=rig)
        return guarding_of(found, plan_of(found), 23.0, False)

    def paper(**asked):
        return api.client.get(f"/api/v1/rigs/{rig}/guarding.pdf", {"terminals_c": "23", "unit": unit, **asked})

    assert (
        paper().content.startswith(b"%PDF") and paper(terminals_c="").status_code == paper(unit="K").status_code == 400
    )
    blank = sheet()
    assert len(blank.proof) == len(screen["steps"]) and {t.seen for t in blank.proof} == {""}
    assert [t.must == "have acted" for t in blank.proof] == [s["acts"] for s in screen["steps"]]
    assert {(g.below, g.above) for g in blank.gaps} <= {(a.key, b.key) for a in blank.steps for b in blank.steps}
    assert [g.name for g in blank.guards][: len(guarding["plan"]["alarms"])] == [
        a["name"] for a in guarding["plan"]["alarms"]
    ]
    assert all(len(g.why) == 3 for g in blank.guards[: len(guarding["plan"]["alarms"])])
    seen = [{"acted": s["acts"], "remark": "beside the second probe"} for s in screen["steps"]]
    api.ok("POST", f"rigs/{rig}/guarding/proof", {"revision": revision(), "terminals_c": 23.0, "observed": seen})
    assert {t.seen for t in sheet().proof} == {"acted beside the second probe", "quiet beside the second probe"}
    assert {
        t.seen for t in guarding_of(Rig.objects.get(slug=rig), plan_of(Rig.objects.get(slug=rig)), 30.0, False).proof
    } == {""}
    other = {**guarding["plan"], "prove_days": 100}
    api.ok("PUT", f"rigs/{rig}/guarding", {"revision": revision(), "plan": other})
    assert {t.seen for t in sheet().proof} == {""} and "changed since" in sheet().proved


def test_fuses_at_a_place_and_an_alarms_table(api, rig, guarding):
    ask = {"plan": guarding["plan"], "place_c": 45.0, "lag_s": 10.0}
    choices = api.ok("POST", f"rigs/{rig}/guarding/fuses", ask)["choices"]
    assert len(choices) > 10 and all(c["why"] for c in choices)
    assert api.refused("POST", f"rigs/{rig}/guarding/fuses", {**ask, "place_c": 10.0})["field"] == "place_c"
    table = api.ok("POST", f"rigs/{rig}/guarding/table", {"alarm": {"kind": "high", "value": 70.0, "latching": True}})
    assert {r["state"] for r in table["rows"]} == {
        "normal",
        "active",
        "acknowledged",
        "latched",
        "latched_acknowledged",
    }
    bad = {"alarm": {"kind": "rising", "value": 70.0}}
    assert api.refused("POST", f"rigs/{rig}/guarding/table", bad)["field"] == "window_s"


@pytest.mark.long
@pytest.mark.django_db
def test_the_demo_is_guarded_checked_over_its_runs_and_carried_by_its_file(api):
    load_demo()
    for slug in ("cement-cabinet", "blank-annealer", "bake-out-shell", "pitch-plate"):
        view = api.ok("GET", f"rigs/{slug}/guarding")
        assert view["saved"] and len(view["ladder"]["steps"]) > 8
        run = api.ok("GET", f"rigs/{slug}/runs")[0]["id"]
        checked = api.ok("GET", f"rigs/{slug}/guarding/runs/{run}?alarm=0")
        assert {c["name"] for c in checked["checked"]} >= {a["name"] for a in view["plan"]["alarms"]} and checked[
            "chart"
        ]
    annealer = api.ok("GET", "rigs/blank-annealer/guarding")
    assert not annealer["proofs"][0]["passed"] and "independent limiter" in annealer["proofs"][0]["says"]
    shell = Rig.objects.get(slug="bake-out-shell")
    copy = unpack.read(io.BytesIO(b"".join(archive.write(shell))), lambda _: "copy", "Copy")
    assert [p.plan for p in copy.guard_plans.all()] == [p.plan for p in shell.guard_plans.all()]
    assert [(p.says, p.observed) for p in copy.proofs.all()] == [(p.says, p.observed) for p in shell.proofs.all()]


def test_a_beacon_that_is_not_wired_is_told_under_wiring_and_lived_with_in_both(api, rig, revision, guarding):
    beacon = {**guarding["plan"], "alarms": [{**guarding["plan"]["alarms"][0], "does": ["beacon"]}]}
    api.ok("PUT", f"rigs/{rig}/guarding", {"revision": revision(), "plan": beacon})

    def told(station):
        return [
            f["rule"] for f in api.ok("GET", f"rigs/{rig}/{station}")["findings"] if f["rule"] == "guarding.not-wired"
        ]

    assert told("wiring") == told("guarding") == ["guarding.not-wired"]
    given = {
        "revision": revision(),
        "rule": "guarding.not-wired",
        "subjects": ["beacon"],
        "reason": "somebody always sits beside it",
    }
    api.ok("POST", f"rigs/{rig}/wiring/accepted", given)
    assert told("wiring") == told("guarding") == []
    plain = {**beacon, "alarms": [{**beacon["alarms"][0], "does": ["output_off"]}]}
    api.ok("PUT", f"rigs/{rig}/guarding", {"revision": revision(), "plan": plain})
    assert told("wiring") == told("guarding") == []
