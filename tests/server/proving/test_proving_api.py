"""Proving over the interface of programs: every step of a rig, out of order, twice, in the wrong unit, voided by a change, on paper."""

import datetime
import io
import json
import zipfile

import numpy as np
import pytest
from django.utils import timezone
from icalendar import Calendar

from rellux.core.runs.series import Series
from rellux.server.proving.models import ProvedStage, ProvedStep
from rellux.server.rigs.models import Rig
from rellux.server.runs import store
from rellux.server.runs.models import Run


class Prover:
    """Somebody who goes through the stages of one rig."""

    def __init__(self, api, slug):
        self.api, self.slug = api, slug

    @property
    def view(self):
        return self.api.ok("GET", f"rigs/{self.slug}/proving?room_c=22")

    def step(self, key):
        return next(s for stage in self.view["stages"] for s in stage["steps"] if s["key"] == key)

    def body(self, key, **more):
        return {"revision": self.view["revision"], "room_c": 22, "key": key, "seen": more.pop("seen"), **more}

    def record(self, key, refused="", **more):
        path = f"rigs/{self.slug}/proving/steps"
        if refused:
            problem = self.api.refused("POST", path, self.body(key, **more))
            assert problem["field"] == refused, problem
            return problem
        return self.api.ok("POST", path, self.body(key, **more))

    def sign(self, stage, why="", refused=""):
        body = {"revision": self.view["revision"], "stage": stage, "why": why}
        if refused:
            problem = self.api.refused("POST", f"rigs/{self.slug}/proving/stages", body)
            assert problem["field"] == refused, problem
            return problem
        return self.api.ok("POST", f"rigs/{self.slug}/proving/stages", body)

    def as_expected(self, key):
        """What a sound rig shows."""
        measure = self.step(key)["measure"]
        if measure is None:
            return {"as_told": True}
        if measure["high"] is None:
            return {"as_told": True, "beyond": True}
        value = measure["figure"]["value"]
        return {
            "as_told": True,
            **({"value": 230.0, "divided_by": 230.0 / value} if measure["divided"] else {"value": value}),
        }

    def all_of(self, stage):
        for step in next(s for s in self.view["stages"] if s["number"] == stage)["steps"]:
            self.record(step["key"], seen=self.as_expected(step["key"]))
        return self.sign(stage)


@pytest.fixture
def prover(api, rig):
    return Prover(api, rig)


def test_a_rig_is_proved_in_its_order_and_the_next_action_follows(prover, api, rig):
    next_of = lambda: api.ok("GET", f"rigs/{rig}")["next"]  # noqa: E731
    assert next_of() == {"station": "proving", "text": "Prove stage 0: dead, unplugged", "severity": None, "rule": ""}
    assert prover.view["next"] == {"stage": 0, "key": "look"}
    prover.all_of(0)
    assert next_of()["text"] == "Prove stage 1: control power, load dead"
    prover.all_of(1)
    assert next_of()["station"] == "setup"
    assert ProvedStage.objects.filter(rig__slug=rig).count() == 2
    assert ProvedStep.objects.filter(rig__slug=rig, verdict="passed").count() == 17
    assert Rig.objects.get(slug=rig).entries.filter(station="proving").count() == 19


def test_out_of_order_twice_and_unsigned_things_are_refused_by_name_and_nothing_is_kept(prover):
    told = prover.record("reading", "why", seen={"as_told": True, "value": 22.4})
    assert "Stage 0 is not signed" in told["reason"]
    prover.sign(0, refused="why")
    prover.sign(9, refused="stage")
    prover.record("no such step", "key", seen={"as_told": True})
    prover.record("look", "as_told", seen={})
    assert not ProvedStep.objects.exists() and not ProvedStage.objects.exists()
    prover.record("reading", seen={"as_told": True, "value": 22.4}, why="the probe is new")
    assert prover.step("reading")["record"]["why"] == "the probe is new"
    prover.record("look", seen={"as_told": True})
    assert "recorded it on" in prover.record("look", "again", seen={"as_told": True})["reason"]
    prover.record("look", seen={"as_told": False, "remark": "a strand was loose"}, again=True)
    assert prover.step("look")["state"] == "failed" and ProvedStep.objects.filter(key="look").count() == 2
    prover.sign(0, "only to look at the output")
    signed = prover.view["stages"][0]["signed"]
    assert signed["why"] == "only to look at the output" and signed["who"]
    prover.record("look", seen={"as_told": True}, again=True)
    assert prover.view["stages"][0]["signed"] is None


def test_two_people_at_once_do_not_both_record_it(prover, api, rig):
    old = prover.body("look", seen={"as_told": True})
    api.ok("POST", f"rigs/{rig}/proving/steps", old)
    assert api("POST", f"rigs/{rig}/proving/steps", old)[0] == 409
    assert ProvedStep.objects.count() == 1


@pytest.mark.long
def test_a_wrong_unit_is_asked_back_and_a_failure_is_found_by_halves(prover, api, rig):
    prover.all_of(0)
    assert "kV for V" in prover.record("supply A1", "value", seen={"as_told": True, "value": 0.23})["reason"]
    prover.record("supply A1", seen={"as_told": True, "value": 0.23, "sure": True})
    assert api.ok("GET", f"rigs/{rig}")["next"]["rule"] == "proving.failed"
    path = f"rigs/{rig}/proving/bisect"
    found = api.ok("POST", path, {"key": "supply A1"})
    assert found["next"] and len(found["suspects"]) > 2
    at = {"a": found["next"]["a"], "b": found["next"]["b"]}
    fewer = api.ok("POST", path, {"key": "supply A1", "clues": [{**at, "ohms": None}]})
    assert 0 < len(fewer["suspects"]) <= found["next"]["leaves"]
    assert (
        api.refused("POST", path, {"key": "supply A1", "clues": [{**at, "a": "X9.1", "ohms": 1.0}]})["field"]
        == "clues[0].a"
    )
    assert api.refused("POST", path, {"key": "supply A1", "clues": [{**at, "ohms": -1.0}]})["field"] == "clues[0].ohms"
    assert api.refused("POST", path, {"key": "look"})["field"] == "key"
    assert "did not fail" in api.refused("POST", path, {"key": "earth X1.PE"})["reason"]


def test_a_changed_wire_and_setting_void_what_hung_on_them_and_are_named(prover, api, rig):
    prover.all_of(0)
    prover.all_of(1)
    before = prover.view
    sheet = {
        "revision": before["revision"],
        "values": {"setpoint_high_c": 65.0},
        "kind": "as_left",
        "why": "cooler load",
    }
    api.ok("PUT", f"rigs/{rig}/setup", sheet)
    states = {s["key"]: (s["state"], s["changed"]) for stage in prover.view["stages"] for s in stage["steps"]}
    assert states["dial setpoint_high_c"] == ("void", ["setting setpoint_high_c was changed"])
    assert [k for k, (state, _) in states.items() if state == "void"] == ["dial setpoint_high_c"]
    assert prover.view["stages"][0]["signed"] and not prover.view["stages"][1]["signed"]
    told = api.ok("GET", f"rigs/{rig}")["next"]
    assert told["rule"] == "proving.void" and "Nobody can dial above the limit" in told["text"]
    prover.sign(1, "it is nearly the same", refused="stage")
    prover.record("dial setpoint_high_c", seen=prover.as_expected("dial setpoint_high_c"))
    prover.sign(1)
    earth = Rig.objects.get(slug=rig).wires.get(circuit="earth")
    thicker = {"revision": prover.view["revision"], "a": earth.a, "b": earth.b, "area_mm2": 4.0}
    api.ok("PUT", f"rigs/{rig}/wiring/wires/{earth.number}", thicker)
    void = [s["key"] for stage in prover.view["stages"] for s in stage["steps"] if s["state"] == "void"]
    assert set(void) == {"look", "earth X1.PE", "earth metal", "ohms Q0.L Q0.PE", "insulation"}


def test_what_cannot_be_is_refused(api, rig, prover):
    for room in ("hot", "200", "nan"):
        assert api.refused("GET", f"rigs/{rig}/proving?room_c={room}")["field"] == "room_c"
    take = f"rigs/{rig}/proving/take"
    assert api.refused("GET", f"{take}?key=reading")["field"] == "link"
    assert api.refused("GET", f"{take}?key=look")["field"] == "key"
    assert api.refused("GET", f"{take}?key=rises")["field"] == "run"
    assert api("GET", f"{take}?key=rises&run=999")[0] == 404
    new = api.ok("POST", "rigs", {**api.ok("GET", f"rigs/{rig}")["purpose"], "name": "Bare", "kind": "cabinet"})["slug"]
    assert api.ok("GET", f"rigs/{new}/proving")["stages"] == []
    body = {"revision": 1, "room_c": 21, "key": "look", "seen": {"as_told": True}}
    assert api.refused("POST", f"rigs/{new}/proving/steps", body)["field"] == "wiring"


@pytest.mark.long
def test_it_goes_on_paper_blank_and_filled_and_into_a_calendar(prover, api, rig):
    blank = api.ok("GET", f"rigs/{rig}/proving.pdf?room_c=22&blank=true")
    prover.all_of(0)
    filled = api.ok("GET", f"rigs/{rig}/proving.pdf?room_c=22")
    assert blank.startswith(b"%PDF") and filled.startswith(b"%PDF") and len(filled) > 10_000
    events = Calendar.from_ical(io.BytesIO(api.ok("GET", "proving.ics")).read()).walk("VEVENT")
    assert events == []
    for stage in (s["number"] for s in prover.view["stages"][1:]):
        prover.sign(stage, "tried elsewhere")
    events = Calendar.from_ical(api.ok("GET", "proving.ics")).walk("VEVENT")
    year = datetime.date.today() + datetime.timedelta(days=365)
    assert [(str(e["summary"]), e.decoded("dtstart")) for e in events] == [("Cement cabinet: Proving is due", year)]


@pytest.mark.long
def test_it_travels_in_the_rig_file(prover, api, rig, client):
    prover.all_of(0)
    data = b"".join(client.get(f"/api/v1/rigs/{rig}/export").streaming_content)
    file = io.BytesIO(data)
    file.name = "rig.zip"
    got = client.post("/api/v1/rigs/import", {"file": file, "name": "Copy"})
    assert got.status_code == 201, got.content
    copy = Prover(api, got.json()["slug"]).view
    assert copy["stages"][0]["signed"] and [s["state"] for s in copy["stages"][0]["steps"]] == ["passed"] * 9


def test_a_time_and_a_peak_are_taken_from_a_stretch_of_a_run(prover, api, rig):
    """60 s of nothing after the output came on, then 0.05 °C/s."""
    time = np.arange(0.0, 1800.0, 5.0)
    reading = 21.0 + np.where(time > 160.0, (time - 160.0) * 0.05, 0.0)
    run = Run.objects.create(
        rig=Rig.objects.get(slug=rig), name="first heat", source="csv", status="finished", started_at=timezone.now()
    )
    on = np.where(time >= 100.0, 100.0, 0.0)
    store.append(run, Series(time, np.full(len(time), 60.0), reading, on, np.ones(len(time))))
    run.length_s, run.samples = 1795.0, len(time)
    run.save()
    take = f"rigs/{rig}/proving/take?room_c=21&run={run.pk}"
    risen = api.ok("GET", f"{take}&key=rises")
    assert risen["value"] == pytest.approx(120.0, abs=0.5) and risen["says"] == "from first heat, {0 s} to {1795 s}"
    reached = api.ok("GET", f"{take}&key=heat-up")
    assert reached["value"] == pytest.approx(60.0 + (48.0 - 21.0) / 0.05, abs=1.0), "48.3 °C, dialled in whole degrees"
    assert api.ok("GET", f"{take}&key=reading&to_s=50")["value"] == pytest.approx(21.0)
    assert "never rose" in api.refused("GET", f"{take}&key=rises&to_s=150")["reason"]
    assert api.refused("GET", f"{take}&key=rises&from_s=soon")["field"] == "from_s"
    assert api.refused("GET", f"{take}&key=rises&to_s=nan")["field"] == "to_s"
    assert api("GET", f"rigs/{rig}/proving/take?key=rises&run=1.5")[0] == 404


@pytest.mark.long
def test_what_is_proved_is_due_again_on_the_workshop_page_and_what_runs_unproved_is_advised(prover, api, rig):
    assert api.ok("GET", "rigs")[0]["prove_again"] is None
    rows = {s["station"]: s for s in api.ok("GET", f"rigs/{rig}")["spine"]}
    assert rows["proving"]["progress"] == "untouched" and rows["proving"]["waiting"] == 0
    Run.objects.create(
        rig=Rig.objects.get(slug=rig), name="old", source="csv", status="finished", started_at=timezone.now()
    )
    rows = {s["station"]: s for s in api.ok("GET", f"rigs/{rig}")["spine"]}
    assert (rows["proving"]["waiting"], rows["proving"]["worst"]) == (1, "advice")
    prover.all_of(0)
    for stage in (s["number"] for s in prover.view["stages"][1:]):
        prover.sign(stage, "tried elsewhere")
    strip = api.ok("GET", "rigs")[0]
    year = datetime.date.today() + datetime.timedelta(days=365)
    assert strip["prove_again"][:10] in {
        str(year),
        str(year - datetime.timedelta(days=1)),
        str(year + datetime.timedelta(days=1)),
    }
    rows = {s["station"]: s for s in api.ok("GET", f"rigs/{rig}")["spine"]}
    assert rows["proving"]["progress"] == "done"


@pytest.mark.long
def test_a_file_with_facts_and_names_that_cannot_be_is_refused(prover, api, rig, client):
    prover.all_of(0)
    data = b"".join(client.get(f"/api/v1/rigs/{rig}/export").streaming_content)

    def imported(change):
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            files = {n: archive.read(n) for n in archive.namelist()}
        described = json.loads(files["rig.json"])
        change(described)
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as archive:
            for name, held in {**files, "rig.json": json.dumps(described).encode()}.items():
                archive.writestr(name, held)
        out.seek(0)
        out.name = "rig.zip"
        return client.post("/api/v1/rigs/import", {"file": out, "name": "Strange"}).status_code

    assert imported(lambda d: d["proved_steps"][0].update(verdict="perhaps")) == 400
    assert imported(lambda d: d["proved_steps"][0].update(cites={"wire A–B": 3})) == 400
    assert imported(lambda d: d["proved_steps"][0].update(cites=["wire A–B"])) == 400
    assert imported(lambda d: d["proved_steps"][0].update(seen={"as_told": "yes, surely"})) == 400
    assert imported(lambda d: d["proved_stages"][0].update(steps={"look": 1})) == 400
    assert imported(lambda d: d["proved_steps"][0]["cites"].update({"what is expected": "much"})) == 201
    assert not Rig.objects.filter(name="Strange").exclude(slug="strange").exists()
