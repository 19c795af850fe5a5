"""Profiles through the API: the library and its versions, what the rig makes of them, tables, runs and their judge; and a programme run
over a real link, which survives a recorder that is killed and ends with a press of safe-off."""

import io
from datetime import timedelta

import numpy as np
import pytest
from django.utils import timezone

from rellux.server.demo.register_maps import KILN
from rellux.server.guarding.models import Proof
from rellux.server.links.maps import keep as keep_map
from rellux.server.links.models import Command, Link, LinkState
from rellux.server.profiles.models import ProfileVersion, Programme
from rellux.server.rigs import archive, unpack
from rellux.server.rigs.models import Entry, Rig
from rellux.server.runs import store
from rellux.server.runs.models import Event, Run
from rellux.server.runs.recorder import Recorder
from tests.server.conftest import CABINET
from tests.server.workshop import load_demo

WINDOW = "a-window-of-its-own"
RAMP = {"kind": "ramp_rate", "target_c": 60.0, "rate_c_per_min": 1.0}
SOAK = {"kind": "soak", "time_s": 1800.0, "holdback": {"band_c": 3.0, "side": "below"}}
OFF = {"kind": "end", "end": "off"}


def profile(*segments, **more):
    return {"segments": [*(segments or (RAMP, SOAK)), OFF], **more}


@pytest.fixture
def made(api, rig, revision):
    body = {"revision": revision(), "name": "Warm", "profile": profile(), "why": "first"}
    return api.ok("POST", f"rigs/{rig}/profiles", body)


def test_an_empty_library_and_a_rig_without_parts(api, rig):
    found = api.ok("GET", f"rigs/{rig}/profiles")
    assert found["profiles"] == [] and len(found["kinds"]) == 10 and found["power_w"] == 300.0
    bare = api.ok("POST", "rigs", {**CABINET, "name": "Bare"})["slug"]
    assert api.refused("GET", f"rigs/{bare}/profiles")["field"] == "parts"


def test_a_profile_is_kept_succeeded_never_changed_removed_and_brought_back(api, rig, revision, made):
    assert (made["key"], made["number"]) == ("warm", 1)
    hotter = profile({**RAMP, "target_c": 65.0}, SOAK)
    given = {"revision": revision(), "name": "Warm", "profile": hotter, "why": "cement was soft"}
    second = api.ok("PUT", f"rigs/{rig}/profiles/warm", given)
    assert second["number"] == 2 and [v["why"] for v in second["versions"]] == ["cement was soft", "first"]
    assert api.refused("PUT", f"rigs/{rig}/profiles/warm", given, 409)
    assert api.ok("GET", f"rigs/{rig}/profiles/warm?number=1")["profile"]["segments"][0]["target_c"] == 60.0
    (line,) = api.ok("GET", f"rigs/{rig}/profiles")["profiles"]
    assert (line["number"], line["highest_c"], line["planned_s"]) == (2, 65.0, (65 - 21) * 60 + 1800)
    entry = Entry.objects.filter(rig__slug=rig, station="profiles").latest("pk")
    assert entry.before["highest_c"] == 60.0 and entry.after["highest_c"] == 65.0 and entry.why == "cement was soft"
    again = {"revision": revision(), "name": "warm", "profile": profile()}
    assert api.refused("POST", f"rigs/{rig}/profiles", again)["field"] == "name"
    api.ok("POST", f"rigs/{rig}/profiles/warm/remove", {"revision": revision()})
    assert api.ok("GET", f"rigs/{rig}/profiles")["profiles"] == []
    assert api.ok("POST", f"rigs/{rig}/profiles", {**again, "revision": revision()})["key"] == "warm-2"
    assert api.refused("POST", f"rigs/{rig}/profiles/warm/restore", {"revision": revision()})["field"] == "name"
    api.ok("POST", f"rigs/{rig}/profiles/warm-2/remove", {"revision": revision()})
    assert api.ok("POST", f"rigs/{rig}/profiles/warm/restore", {"revision": revision()})["number"] == 2
    state = next(s for s in api.ok("GET", f"rigs/{rig}")["spine"] if s["station"] == "profiles")
    assert state["progress"] == "done"


@pytest.mark.parametrize(
    ("wrong", "field"),
    [
        (profile({**RAMP, "target_c": 68.5}, SOAK), "segments[0].target_c"),
        (profile({**RAMP, "rate_c_per_min": 0}, SOAK), "segments[0].rate_c_per_min"),
        (profile(RAMP, {**SOAK, "time_s": None}), "segments[1].time_s"),
        ({"segments": [RAMP, SOAK]}, "segments[1].kind"),
        (profile(RAMP, SOAK, loops=[{"first": 1, "last": 2, "times": 1}]), "loops[0].times"),
    ],
)
def test_what_cannot_be_is_refused_by_every_way_in_and_nothing_is_kept(api, rig, revision, wrong, field):
    for method, path, body in (
        ("POST", "profiles", {"revision": revision(), "name": "x", "profile": wrong}),
        ("POST", "profiles-forecast", {"profile": wrong}),
        ("POST", "profiles-fastest", {"profile": wrong}),
        ("POST", "profiles-table", {"profile": wrong, "form": {}}),
    ):
        status, answer = api(method, f"rigs/{rig}/{path}", body)
        assert status == 400 and field in [p["field"] for p in answer["problems"]], (path, answer)
    assert not ProfileVersion.objects.exists()


def test_what_the_rig_makes_of_it_and_the_fastest_it_can_follow(api, rig):
    quick = profile({**RAMP, "rate_c_per_min": 40.0}, SOAK)
    load = {"stuff": "steel", "shape": "slab", "half_mm": 5.0, "mass_kg": 1.0}
    body = {
        "profile": quick,
        "load": load,
        "other_load": {**load, "mass_kg": 6.0},
        "begins_h": 22.5,
        "tariff": {"day": 0.3, "night": 0.1},
    }
    found = api.ok("POST", f"rigs/{rig}/profiles-forecast", body)
    assert {m["segment"] for m in found["marks"]} == {0} and found["total_s"] > found["planned_s"]
    assert found["other"]["length_s"] > found["total_s"] and found["price"] == pytest.approx(
        found["energy_kwh"] * 0.1, rel=1e-6
    )
    (first, *_) = [f for f in found["findings"] if f["rule"] == "profiles.flat-out"]
    assert first["proposal"]["target"] == "profiles.fastest"
    assert "profiles.no-plan" in {
        f["rule"] for f in found["findings"]
    }  # never "nothing on its ladder is met" without one
    assert len(set(map(len, found["course"].values()))) == 1
    offered = api.ok("POST", f"rigs/{rig}/profiles-fastest", {"profile": quick, "load": load})["profile"]
    assert 0 < offered["segments"][0]["rate_c_per_min"] < 40.0
    assert api.ok("POST", f"rigs/{rig}/profiles-forecast", {"profile": offered, "load": load})["marks"] == []
    finish = api.ok("POST", f"rigs/{rig}/profiles-forecast", {"profile": offered, "finish_h": 7.0})
    assert (finish["begins_h"] + finish["total_s"] / 3600) % 24 == pytest.approx(7.0, abs=0.01)
    for wrong, field in (({"load": {**load, "mass_kg": 0}}, "load.mass_kg"), ({"begins_h": 25.0}, "begins_h")):
        assert api.refused("POST", f"rigs/{rig}/profiles-forecast", {"profile": quick, **wrong})["field"] == field


def test_a_kind_of_work_builds_a_profile_and_says_how(api, rig):
    built = api.ok("POST", f"rigs/{rig}/profiles-build", {"kind": "cure", "inputs": {"hold_c": 50.0}})
    assert built["profile"]["segments"][1]["time_s"] == pytest.approx(3.9 * 3600, rel=0.02)
    assert built["figures"][0]["formula"] and built["findings"]
    assert api.refused("POST", f"rigs/{rig}/profiles-build", {"kind": "cure", "inputs": {"hold_c": 70.0}})["field"] in (
        "hold_c",
        "segments[0].target_c",
    )
    assert api.refused("POST", f"rigs/{rig}/profiles-build", {"kind": "pizza"})["field"] == "kind"


def test_out_as_csv_and_json_and_in_again(api, rig, made):
    for form, ending in (("csv", "csv"), ("json", "json")):
        answer = api.client.get(f"/api/v1/rigs/{rig}/profiles/warm/file?form={form}")
        assert f'warm-1.{ending}"' in answer["Content-Disposition"]
        back = api.ok("POST", f"rigs/{rig}/profiles-read", {"text": answer.content.decode()})
        assert back["profile"] == made["profile"] and back["name"] == ("Warm" if form == "json" else "")
    for text in ("{", '{"format": "other"}', '{"format": "rellux-profile", "version": 9}'):
        assert api.refused("POST", f"rigs/{rig}/profiles-read", {"text": text})["field"] == "table"


def test_a_firmwares_file_both_ways_and_its_template_kept_with_the_rig(api, rig, revision):
    template = "; {name}\n[start] {at_s:.0f} {target_c*10:.0f}\n[point] {at_s:.0f} {target_c*10:.0f}\n[between] ;\n"
    given = {"profile": profile(RAMP, {**SOAK, "holdback": None}, start="value", start_c=20.0), "name": "Warm"}
    found = api.ok("POST", f"rigs/{rig}/profiles-firmware", {**given, "template": template})
    assert found["text"] == "; Warm\n0 200;\n2400 600;\n4200 600\n" and found["keeps"] == "whole"
    back = api.ok("POST", f"rigs/{rig}/profiles-read", {"text": found["text"], "template": template})["profile"]
    assert [(s["kind"], s["target_c"], s["time_s"]) for s in back["segments"]][:2] == [
        ("ramp_time", 60.0, 2400.0),
        ("soak", None, 1800.0),
    ]
    hot = "; Warm\n0 200\n60 9000\n"
    assert "target_c" in api.refused("POST", f"rigs/{rig}/profiles-read", {"text": hot, "template": template})["field"]
    forms = api.ok("GET", f"rigs/{rig}/profiles")["forms"]
    assert "{at_s:.0f}" in forms["template"] and forms["form"]["segments"] == 8
    wrong = {"revision": revision(), "forms": {**forms, "template": "[point] {at_s}"}}
    assert api.refused("PUT", f"rigs/{rig}/profiles-forms", wrong)["field"] == "template"
    kept = {"form": {**forms["form"], "segments": 16}, "template": template.strip()}
    api.ok("PUT", f"rigs/{rig}/profiles-forms", {"revision": revision(), "forms": kept})
    data = io.BytesIO(b"".join(archive.write(Rig.objects.get(slug=rig))))
    again = unpack.read(data, lambda _: "again", name="Again")
    assert api.ok("GET", f"rigs/{again.slug}/profiles")["forms"] == kept


def test_the_demo_is_judged_and_a_rig_file_carries_it(api):
    load_demo()
    boards = api.ok("GET", "rigs/board-plate/profiles/lead-free-small-boards")
    (run,) = boards["versions"][0]["runs"]
    seen = api.ok("GET", f"rigs/board-plate/runs/{run}/profile")
    assert seen["verdict"] == "failed" and [s["key"] for s in seen["scores"] if s["verdict"] != "passed"] == ["long"]
    slower = api.ok("GET", "rigs/blank-annealer/profiles/blank-200-mm")["versions"][0]["runs"][0]
    compared = api.ok("GET", f"rigs/blank-annealer/runs/{slower}/profile")
    assert any("supply voltage" in e["says"] for e in compared["earlier"]) and compared["verdict"] is None
    series = store.read(Run.objects.get(pk=slower))
    spent = (
        np.trapezoid(series.output / 100.0, series.time_s)
        * Rig.objects.get(slug="blank-annealer").heater_power_w
        / 3.6e6
    )
    assert sum(e["took_kwh"] or 0.0 for e in compared["energies"]) == pytest.approx(spent, rel=0.02)
    climb = compared["energies"][0]
    assert climb["foreseen_kwh"] == pytest.approx(climb["took_kwh"], rel=0.3)
    address = f"rigs/blank-annealer/runs/{slower}/profile?align_c"
    laid = api.ok("GET", f"{address}=300")

    def passes(times, values):
        return next(t for t, c in zip(times, values, strict=True) if c is not None and c >= 300.0)

    read, planned = (passes(laid["time_s"], laid[c]) for c in ("reading_c", "planned_c"))
    assert laid["planned_late_s"] == pytest.approx(read - planned, abs=2.1 * laid["time_s"][-1] / len(laid["time_s"]))
    never = api.ok("GET", f"{address}=900")
    assert never["planned_late_s"] is None is never["predicted_late_s"]
    assert api.refused("GET", f"{address}=nan")["field"] == "align_c"
    shell = api.ok("GET", "rigs/bake-out-shell/profiles/bake-out-150")
    assert api.ok("GET", f"rigs/bake-out-shell/runs/{shell['versions'][0]['runs'][0]}/profile")["place"] == "load"
    for slug in ("cement-cabinet", "blank-annealer", "bake-out-shell", "pitch-plate", "board-plate"):
        for line in api.ok("GET", f"rigs/{slug}/profiles")["profiles"]:
            whole = api.ok("GET", f"rigs/{slug}/profiles/{line['key']}")
            assert api.ok("POST", f"rigs/{slug}/profiles-forecast", {"profile": whole["profile"]})["total_s"] > 0
    rig = Rig.objects.get(slug="board-plate")
    unpack.read(io.BytesIO(b"".join(archive.write(rig))), lambda name: "again", name="Again")
    found = api.ok("GET", "rigs/again/profiles/lead-free-small-boards")
    assert found["profile"] == boards["profile"] and len(found["versions"][0]["runs"]) == 1
    assert api.ok("GET", f"rigs/again/runs/{found['versions'][0]['runs'][0]}/profile")["verdict"] == "failed"


def test_a_run_is_said_to_be_of_a_profile(api):
    load_demo()
    rig = Rig.objects.get(slug="pitch-plate")
    run = rig.runs.first()
    assert api.refused("GET", f"rigs/pitch-plate/runs/{run.pk}/profile")["field"] == "run"
    given = {"revision": rig.revision, "key": "pitch-down-to-pressing", "number": 1, "start_s": 1e9}
    assert api.refused("PUT", f"rigs/pitch-plate/runs/{run.pk}/profile", given)["field"] == "start_s"
    assert api("PUT", f"rigs/pitch-plate/runs/{run.pk}/profile", {**given, "start_s": 0.0, "number": 7})[0] == 404
    seen = api.ok("PUT", f"rigs/pitch-plate/runs/{run.pk}/profile", {**given, "start_s": 0.0})
    assert seen["segments"] and seen["cannot"] and len(seen["time_s"]) == len(seen["planned_c"])


# -- run over the link -----------------------------------------------------------------------------------------------------------


def test_a_start_is_refused_for_every_reason_there_is(api, rig, revision, made):
    start = {"key": "warm", "number": 1, "window": WINDOW}
    assert "No controller" in api.refused("POST", f"rigs/{rig}/programme", start)["reason"]
    owner = Rig.objects.get(slug=rig)
    Link.objects.create(rig=owner, stand_in=True, port=1502)
    before = api.ok("GET", f"rigs/{rig}/programme?key=warm")["before"]
    assert len(before["if_stopped"]) == 2 and "goes on with the set-point" in before["if_stopped"][0]
    assert before["cannot"] and before["alone_cannot"] == [
        "Nothing independent stops the heat: no limiter is planned and fitted."
    ]
    assert api.refused("POST", f"rigs/{rig}/programme/ask", {"ask": "pause"})["field"] == "programme"
    plan = api.ok("GET", f"rigs/{rig}/guarding")["plan"]
    api.ok("PUT", f"rigs/{rig}/guarding", {"revision": revision(), "plan": plan})
    alone = lambda: api.ok("GET", f"rigs/{rig}/programme?key=warm")["before"]["alone_cannot"]  # noqa: E731
    assert alone() == ["The limiter was not proved to act."]
    proof = Proof.objects.create(
        rig=owner, at=timezone.now(), who="x", plan=owner.guard_plans.first().plan, terminals_c=20, by_heat=False, observed=[],
        passed=True, says="",
    )  # fmt: skip
    assert alone() == []
    Proof.objects.filter(pk=proof.pk).update(at=timezone.now() - timedelta(days=plan["prove_days"] + 1))
    assert alone() == ["The proof of the limiter is out of date."]


def test_what_a_controller_does_when_nobody_asks_is_read_from_it(api, rig, made):
    owner = Rig.objects.get(slug=rig)
    link = Link.objects.create(rig=owner, port=1502, poll_s=2.0, register_map=keep_map(KILN).key)

    def told(timer_s):
        LinkState.objects.update_or_create(
            link=link, generation=link.generation, defaults={"at": timezone.now(), "values": {"link_timer_s": timer_s}}
        )
        found = api.ok("GET", f"rigs/{rig}/programme?key=warm")["before"]
        return found["if_stopped"][0], " ".join(found["cannot"]), " ".join(found["alone_cannot"])

    says, cannot, alone = told(60.0)
    assert "60 s" in says and "Heat off" in says and "without a question" not in cannot + alone
    assert "9" in told(9.0)[1] and "without a question" in told(9.0)[1]
    says, _, alone = told(0.0)
    assert "for ever" in says and "link timer is off" in alone


@pytest.fixture
def running(api, rig, revision, bench):
    """A programme over the link of a stand-in a hundred times as fast."""
    sheet = {"values": {"setpoint_low_c": 15.0}, "kind": "as_left", "why": "", "revision": revision()}
    api.ok("PUT", f"rigs/{rig}/setup", sheet)
    slow = profile({**RAMP, "rate_c_per_min": 0.6}, SOAK)
    api.ok("POST", f"rigs/{rig}/profiles", {"revision": revision(), "name": "Warm", "profile": slow})
    bench.until(lambda: api.ok("GET", f"rigs/{rig}")["live"]["status"] == "online")
    start = {"key": "warm", "number": 1, "window": WINDOW}
    api.ok("POST", f"rigs/{rig}/link/arm", {"armed": True, "window": WINDOW})
    assert "is off" in api.refused("POST", f"rigs/{rig}/programme", start)["reason"]
    bench.stand_in.take("mode", "on_off")
    bench.until(lambda: api.ok("GET", f"rigs/{rig}")["live"]["mode"] == "on_off")
    api.ok("POST", f"rigs/{rig}/link/arm", {"armed": False, "window": WINDOW})
    assert api.refused("POST", f"rigs/{rig}/programme", start)["field"] == "armed"
    api.ok("POST", f"rigs/{rig}/link/arm", {"armed": True, "window": WINDOW})
    assert api.refused("POST", f"rigs/{rig}/programme", {**start, "attended": False})["field"] == "attended"
    api.ok("POST", f"rigs/{rig}/programme", start)
    return bench


def test_a_programme_runs_over_the_link_outlives_its_recorder_and_ends_with_safe_off(api, rig, running):
    def now():
        return api.ok("GET", f"rigs/{rig}/programme")["now"]

    running.until(lambda: now()["writes"] >= 5)
    assert now()["expected_s"] >= now()["left_s"] * 0.95  # a holdback waits, nothing makes it shorter
    assert (
        api.refused("POST", f"rigs/{rig}/link/write", {"values": {"setpoint_c": 50.0}, "window": WINDOW})["field"]
        == "setpoint_c"
    )
    again = {"key": "warm", "number": 1, "window": WINDOW}
    assert "already" in api.refused("POST", f"rigs/{rig}/programme", again)["reason"]
    api.ok("POST", f"rigs/{rig}/programme/ask", {"ask": "pause"})
    running.until(lambda: now()["standing"] == "paused")
    stood = now()["setpoint_c"]
    api.ok("POST", f"rigs/{rig}/programme/ask", {"ask": "go_on"})
    running.until(lambda: now()["standing"] == "running" and now()["setpoint_c"] > stood)

    before = now()
    running.recorder.stop()
    running.recorder = Recorder()
    running.until(lambda: now()["writes"] > before["writes"])
    assert now()["setpoint_c"] >= before["setpoint_c"]
    run = Run.objects.get(rig__slug=rig)
    assert run.programme["key"] == "warm" and run.status == Run.Status.RECORDING
    marks = " ".join(Event.objects.filter(run=run, kind="programme").values_list("text", flat=True))
    assert "segment 1 begins" in marks and "paused" in marks

    assert api.ok("POST", f"rigs/{rig}/link/safe-off")["confirmed"]
    running.until(lambda: now()["standing"] == "aborted")
    held = running.stand_in.shown()
    assert held["mode"] == "off"
    writes = now()["writes"]
    running.until(lambda: not Command.objects.filter(state__in=("queued", "sending")).exists())
    assert now()["writes"] == writes and running.stand_in.shown()["mode"] == "off"
    assert Entry.objects.filter(rig__slug=rig, title="Programme broken off", why__contains="switched off").exists()


def test_at_its_end_the_heat_is_off_and_somebody_at_the_keys_stops_it(api, rig, running):
    def now():
        return api.ok("GET", f"rigs/{rig}/programme")["now"]

    running.until(lambda: now()["writes"] >= 3)

    def at_its_keys():
        """Somebody keeps at it: a hundred times as fast, a write on its way may be the later one."""
        if now()["standing"] == "running":
            running.stand_in.take("setpoint_c", 65.0)
        return now()["standing"] == "paused"

    running.until(at_its_keys)
    assert "somebody changed" in now()["says"]
    api.ok("POST", f"rigs/{rig}/programme/ask", {"ask": "go_on"})
    running.until(lambda: now()["standing"] == "running")
    for _ in range(2):
        at = now()["segment"]
        api.ok("POST", f"rigs/{rig}/programme/ask", {"ask": "skip"})
        running.until(lambda at=at: now()["segment"] > at or now()["standing"] == "ended")
    running.until(lambda: now()["standing"] == "ended")
    running.until(lambda: running.stand_in.shown()["mode"] == "off")
    assert Programme.objects.get().standing == "ended"
