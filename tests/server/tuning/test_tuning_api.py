"""The tuning station through the API, on runs made by the simulator; and live values as a stream."""

import asyncio
import json
import re
from dataclasses import replace
from types import SimpleNamespace

import numpy as np
import pytest
from django.test import AsyncClient
from django.utils import timezone

from rellux.core.control.pid import PID
from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.plant.simulation import Simulation
from rellux.core.process.models import FOPDT
from rellux.core.process.networks import from_fopdt
from rellux.core.runs.series import Series
from rellux.core.setup.parameters import settings_from
from rellux.server.links.models import Link, LinkState
from rellux.server.rigs.domain import purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.runs import store
from rellux.server.runs.models import Run
from rellux.server.setup.domain import working_values
from rellux.server.tuning.domain import possible


def recorded(slug, process, loop, length_s=5000.0, ambient=21.0, reverse=False, door=None):
    record = Simulation(from_fopdt(process), loop, ambient).advance(length_s, 2)
    reading = 2 * ambient - record.reading_c if reverse else record.reading_c.copy()
    if door:
        reading[(record.time_s >= door[0]) & (record.time_s <= door[1])] -= 15.0
    rig = Rig.objects.get(slug=slug)
    run = Run.objects.create(rig=rig, name="step", source="csv", status="finished", started_at=timezone.now())
    store.append(run, Series(record.time_s, record.setpoint_c, np.round(reading, 1), record.output, record.switch))
    return run.pk


FULL = ControllerSettings(60, Mode.MANUAL, manual_output=100, period_s=0)
CABINET = FOPDT(1.05, 620, 52)


@pytest.fixture
def sheet(api, rig, revision):
    return api.ok("PUT", f"rigs/{rig}/setup", {"revision": revision(), "values": {}})


def test_before_any_run_there_is_nothing_to_compare(api, rig):
    found = api.ok("GET", f"rigs/{rig}/tuning")
    assert found["identified"] is None and found["candidates"] == []


def test_candidates_follow_from_the_identified_process(api, rig, sheet):
    run = recorded(rig, CABINET, FULL)
    found = api.ok("POST", f"rigs/{rig}/tuning/identify", {"run": run})
    gain, lag, dead, _ = (f["value"] for f in found["identified"]["figures"])
    assert (gain, lag, dead) == pytest.approx((1.05, 620, 52), rel=0.02)
    by_key = {c["key"]: c for c in found["candidates"]}
    assert {"now", "simc", "amigo_pid", "cohen_coon_pi", "tyreus_luyben_pi", "optimised_pi", "on_off"} <= set(by_key)
    assert len(by_key) == len(found["candidates"]) >= 25
    assert found["preferred"]["no_overshoot"] == "simc" and by_key["reaction_curve"]["ms"]["value"] > 2
    assert "0.1 to 1 lags" in by_key["reaction_curve"]["remark"] and by_key["simc"]["remark"] == ""
    band = next(f for f in by_key["simc"]["figures"] if f["symbol"] == "PB")
    dead_with_cycle = dead + 0.125 + 39 / (100 * gain) * 20
    assert band["value"] == pytest.approx(100 * gain * 3 * dead_with_cycle / lag, rel=0.01)  # SIMC with τ_c = 2 L


def test_candidates_are_put_through_trials_and_numbers_tried_by_hand(api, rig, sheet, revision):
    at = f"rigs/{rig}/tuning"
    assert api.refused("POST", f"{at}/try", {"numbers": {"hysteresis_c": 1.0}})["field"] == "candidate"
    assert api.refused("GET", f"{at}/schools")["field"] == "candidate"
    api.ok("POST", f"{at}/identify", {"run": recorded(rig, CABINET, FULL)})
    paths = api.ok("GET", f"{at}/schools")["schools"]
    assert len(paths) == 3 and paths[0]["fits"] and all(path["steps"][-1]["numbers"] for path in paths)
    asked = {"trial": "cold_load", "candidates": ["simc", "on_off"]}
    found = api.ok("POST", f"{at}/trials", asked)["candidates"]
    assert [c["key"] for c in found] == ["simc", "on_off"]
    for c in (found[0]["course"], found[1]["course"]):
        assert all(low <= y <= high for low, y, high in zip(c["low_c"], c["reading_c"], c["high_c"], strict=True))
        assert all(f["high"] >= f["value"] for f in c["figures"] if f["high"] is not None)
    assert api.refused("POST", f"{at}/trials", {**asked, "candidates": ["simc", "best"]})["field"] == "candidates[1]"
    assert api.refused("POST", f"{at}/trials", {**asked, "candidates": []})["field"] == "candidates"
    mine = {"proportional_band_c": 25.0, "integral_time_s": 400.0}
    tried = api.ok("POST", f"{at}/try", {"numbers": mine, "trial": "ramp"})
    assert tried["ms"]["value"] < 2 and tried["course"]["setpoint_c"][0] == pytest.approx(21, abs=0.5)
    wild = api.ok("POST", f"{at}/try", {"numbers": {**mine, "proportional_band_c": 3.0}})
    assert wild["swings"] and wild["ms"] is None
    assert api.refused("POST", f"{at}/try", {"numbers": {"integral_time_s": 5.0}})["field"] == "proportional_band_c"
    accept = {"revision": revision(), "candidate": "by_hand"}
    assert api.refused("POST", f"{at}/accept", accept)["field"] == "by_hand"
    swings = {**accept, "by_hand": {**mine, "proportional_band_c": 3.0}}
    assert "swings by itself" in api.refused("POST", f"{at}/accept", swings)["reason"]
    assert api.ok("POST", f"{at}/accept", {**accept, "by_hand": mine})["identified"]["accepted"] == "by_hand"
    values = {p["name"]: p["value"] for p in api.ok("GET", f"rigs/{rig}/setup")["parameters"]}
    assert (values["mode"], values["proportional_band_c"], values["integral_time_s"]) == ("pid", 25.0, 400.0)


def test_an_own_lag_of_cooling_is_foretold_by_its_ends_in_turn():
    ends = {"K": (1.9, 2.0, 2.1), "τ": (95.0, 100.0, 105.0), "100 K/τ": (115.0, 120.0, 125.0), "L": (4.0, 5.0, 6.0)}
    cooling = {"τ_c": (240.0, 300.0, 390.0)}

    def members(known):
        figures = [{"symbol": s, "low": low, "value": v, "high": high} for s, (low, v, high) in known.items()]
        rig = SimpleNamespace(working_c=100.0, ambient_c=20.0)
        return possible(SimpleNamespace(gain=2.0, lag_s=100.0, result={"figures": figures}, rig=rig))

    slower = [b.lag_s / a.lag_s for a, b in zip(members(ends), members(ends | cooling), strict=True)]
    assert slower[:6] == pytest.approx([2.4, 3.0, 3.9] * 2)


def test_a_relay_test_is_foretold_with_what_stands_in_its_way(api, rig, sheet, revision):
    at = f"rigs/{rig}/tuning"
    assert api.refused("POST", f"{at}/relay", {"kind": "own"})["field"] == "candidate"
    api.ok("POST", f"{at}/identify", {"run": recorded(rig, CABINET, ControllerSettings(60, Mode.ON_OFF, 2.0))})
    own, biased = (api.ok("POST", f"{at}/relay", {"kind": kind}) for kind in ("own", "biased"))
    swing, highest, *_ = own["figures"]
    assert swing["low"] <= swing["value"] <= swing["high"] and highest["high"] > highest["value"]
    assert biased["figures"][0]["value"] < swing["value"] and own["setpoint_c"] < 60
    gain = own["recorded"][0]  # a lag-dominant process: the describing function is low
    assert gain["symbol"] == "K_u" and re.search(r"[1-3][0-9]% less", gain["reason"])
    hot = api.ok("POST", f"{at}/relay", {"kind": "own", "setpoint_c": 66.0})
    assert [e["name"] for e in hot["hard"]] and 21 < hot["clear_c"] < 66
    assert api.ok("POST", f"{at}/relay", {"kind": "own", "setpoint_c": hot["clear_c"]})["hard"] == []
    assert api.refused("POST", f"{at}/relay", {"kind": "own", "setpoint_c": 500.0})["field"] == "setpoint_c"


def test_a_run_with_a_complaint_is_told_what_would_mend_it(api, rig, sheet, revision):
    at = f"rigs/{rig}/tuning"
    api.ok("POST", f"{at}/identify", {"run": recorded(rig, CABINET, FULL)})
    hasty = ControllerSettings(60, Mode.PID, pid=PID(3.2, 60.0), period_s=20)
    values = {"mode": "pid", "proportional_band_c": 31.2, "integral_time_s": 60.0, "derivative_time_s": 0.0}
    run = Run.objects.get(pk=recorded(rig, CABINET, hasty))
    run.sheet = values
    run.save()
    other = api.ok("POST", f"{at}/diagnose", {"run": run.pk})  # the sheet has other numbers: none are offered for it
    assert not other["is_current"] and other["causes"][0]["numbers"] is None
    api.ok("PUT", f"rigs/{rig}/setup", {"revision": revision(), "values": values})
    found = api.ok("POST", f"{at}/diagnose", {"run": run.pk})
    cause = found["causes"][0]
    assert cause["cause"] == "integral_short" and "over" in found["complaints"][0] and "60 s" in cause["change"]
    assert cause["numbers"]["integral_time_s"] > 400 and found["says"] == "The integral time is too short."
    accept = {"revision": revision(), "candidate": "by_hand", "by_hand": cause["numbers"]}
    assert api.ok("POST", f"{at}/accept", accept)["identified"]["accepted"] == "by_hand"
    switched = recorded(rig, CABINET, ControllerSettings(60, Mode.ON_OFF, 2.0))
    Run.objects.filter(pk=switched).update(sheet={"mode": "on_off"})
    assert "on/off swings by nature" in api.refused("POST", f"{at}/diagnose", {"run": switched})["reason"]


def test_the_ledger_credits_a_change_by_the_runs_on_either_side(api, rig, sheet, revision):
    at, pid = f"rigs/{rig}/tuning", ControllerSettings(60, Mode.PID, pid=PID(8.0, 100.0), period_s=20)
    assert api.ok("GET", f"{at}/ledger")["lines"] == []
    for _ in range(2):
        recorded(rig, CABINET, pid)
    assert api.refused("POST", f"{at}/ledger", {"revision": revision(), "what": " "})["field"] == "what"
    api.ok("POST", f"{at}/ledger", {"revision": revision(), "what": "insulated the door", "why": "it was hot"})
    for _ in range(2):
        recorded(rig, CABINET, replace(pid, pid=PID(3.2, 620.0)))
    (line,) = api.ok("GET", f"{at}/ledger")["lines"]
    assert line["changes"][0]["title"] == "insulated the door" and line["is_attributable"]
    over = next(c for c in line["credits"] if c["figure"]["name"] == "overshoot")
    assert over["figure"]["value"] < -2 and over["is_told"] and over["is_better"] and "less overshoot" in line["says"]
    assert (len(line["before"]), len(line["after"])) == (2, 2)


def test_what_a_door_did_is_left_out_and_every_picture_has_its_family(api, rig):
    run = recorded(rig, CABINET, FULL, door=(2000.0, 2300.0))
    spoilt = api.ok("POST", f"rigs/{rig}/tuning/identify", {"run": run})["identified"]
    assert spoilt["verdict"] != "supported"
    part = {"start_s": 1990.0, "end_s": 2310.0}
    found = api.ok("POST", f"rigs/{rig}/tuning/identify", {"run": run, "leave_out": [part]})["identified"]
    gain, lag, dead, *_ = (f["value"] for f in found["figures"])
    assert (gain, lag, dead) == pytest.approx((1.05, 620, 52), rel=0.02) and found["verdict"] == "supported"
    (fitted,) = found["fitted"]
    shown = zip(fitted["low_c"], fitted["modelled_c"], fitted["high_c"], strict=True)
    assert all(low - 0.01 <= c <= high + 0.01 for low, c, high in shown)
    turned = {"run": run, "leave_out": [{"start_s": 9.0, "end_s": 9.0}]}
    assert api.refused("POST", f"rigs/{rig}/tuning/identify", turned)["field"] == "leave_out[0].end_s"


def test_a_run_whose_link_was_lost_while_it_cycled_is_learnt_from_in_parts(api, rig):
    whole = store.read(Run.objects.get(pk=recorded(rig, CABINET, ControllerSettings(60, Mode.ON_OFF, 2.0), 6000.0)))
    kept = (whole.time_s < 2500.0) | (whole.time_s > 2990.0)
    of = Rig.objects.get(slug=rig)
    broken = Run.objects.create(rig=of, name="lost", source="csv", status="finished", started_at=timezone.now())
    store.append(broken, Series(*(column[kept] for column in whole.columns)))
    found = api.ok("POST", f"rigs/{rig}/tuning/identify", {"run": broken.pk})["identified"]
    gain, _, dead, *_ = (f["value"] for f in found["figures"])
    assert (gain, dead) == pytest.approx((1.05, 52), rel=0.05)
    assert [part["run_name"] for part in found["fitted"]] == ["lost", "lost"]
    assert (found["start_s"], found["end_s"]) == (0.0, pytest.approx(6000.0, abs=10.0))
    assert "missing for {8 min}, {42 min} after its beginning" in found["verdict_reason"].replace("\u2009", " ")


@pytest.mark.long
def test_several_runs_are_learnt_from_together_and_refused_by_their_place(api, rig):
    short = [recorded(rig, CABINET, replace(FULL, manual_output=u), 450.0) for u in (100, 70)]
    alone = api.ok("POST", f"rigs/{rig}/tuning/identify", {"run": short[0]})["identified"]
    both = api.ok("POST", f"rigs/{rig}/tuning/identify", {"run": short[0], "more": [{"run": short[1]}]})["identified"]
    assert alone["verdict"] == "slope_only" and both["verdict"] == "supported"
    assert len(both["fitted"]) == 2 and both["figures"][0]["value"] == pytest.approx(1.05, rel=0.1)
    assert api.ok("GET", f"rigs/{rig}/book")[0]["title"] == "Process found from step"
    turned = {"run": short[1], "leave_out": [{"start_s": 300.0, "end_s": 200.0}]}
    refused = api.refused("POST", f"rigs/{rig}/tuning/identify", {"run": short[0], "more": [turned]})
    assert refused["field"] == "more[0].leave_out[0].end_s"
    twice = {"run": short[0], "end_s": 300.0, "more": [{"run": short[0], "start_s": 290.0}]}
    refused = api.refused("POST", f"rigs/{rig}/tuning/identify", twice)
    assert refused["field"] == "more[0].run" and "already" in refused["reason"]
    many = {"run": short[0], "more": [{"run": short[1]}] * 6}
    assert "up to 6" in api.refused("POST", f"rigs/{rig}/tuning/identify", many)["accepted"]


@pytest.mark.long
def test_a_gain_without_an_upper_end_is_told_so_and_settings_come_of_its_rate(api, rig, sheet):
    run = recorded(rig, FOPDT(4000.0, 6e6, 52.0), FULL, 2000.0)
    found = api.ok("POST", f"rigs/{rig}/tuning/identify", {"run": run})
    gain, lag, _, slope = found["identified"]["figures"]
    assert gain["high"] is None and gain["value"] == gain["low"] and lag["high"] is None
    assert slope["value"] == pytest.approx(4.0, rel=0.02) and "for ever" in found["identified"]["verdict_reason"]
    assert found["candidates"] and found["problem"] == ""
    assert api.ok("GET", f"rigs/{rig}/guarding")["ladder"]["steps"]
    copy = api.ok("POST", f"rigs/{rig}/double", {"name": "Copy"})["slug"]
    assert api.ok("GET", f"rigs/{copy}/tuning")["identified"]["figures"][0]["high"] is None


def test_another_process_when_it_is_hot_is_told_from_two_records(api, rig, sheet):
    gentle = ControllerSettings(60, Mode.MANUAL, manual_output=30, period_s=0)
    one = api.ok("POST", f"rigs/{rig}/tuning/identify", {"run": recorded(rig, FOPDT(1.4, 620, 52), gentle)})
    assert one["identified"]["verdict"] == "supported" and one["over_temperature"] is None
    two = api.ok("POST", f"rigs/{rig}/tuning/identify", {"run": recorded(rig, FOPDT(0.8, 620, 52), FULL)})
    over = two["over_temperature"]
    assert over["pays"] and [round(p["gain"][1], 1) for p in over["points"]] == [1.4, 0.8]
    assert over["bands"] == pytest.approx([1.0, 0.8 / 1.4], rel=0.05)


def test_accepting_writes_the_sheet_and_the_book(api, rig, sheet, revision):
    api.ok("POST", f"rigs/{rig}/tuning/identify", {"run": recorded(rig, CABINET, FULL)})
    api.ok("POST", f"rigs/{rig}/tuning/accept", {"revision": revision(), "candidate": "simc"})
    values = {p["name"]: p["value"] for p in api.ok("GET", f"rigs/{rig}/setup")["parameters"]}
    assert values["mode"] == "pid" and values["integral_time_s"] == pytest.approx(620, rel=0.05)
    entry = api.ok("GET", f"rigs/{rig}/book")[0]
    assert entry["before"]["mode"] == "on_off" and entry["after"]["mode"] == "pid"
    spine = {s["station"]: s["progress"] for s in api.ok("GET", f"rigs/{rig}")["spine"]}
    assert spine["tuning"] == "done"


def test_on_off_can_be_accepted_too(api, rig, sheet, revision):
    api.ok("POST", f"rigs/{rig}/tuning/identify", {"run": recorded(rig, CABINET, FULL)})
    api.ok("POST", f"rigs/{rig}/tuning/accept", {"revision": revision(), "candidate": "on_off"})
    assert api.ok("GET", f"rigs/{rig}/tuning")["identified"]["accepted"] == "on_off"


def test_a_process_that_does_not_fit_cannot_be_accepted(api, rig, sheet, revision):
    found = api.ok("POST", f"rigs/{rig}/tuning/identify", {"run": recorded(rig, CABINET, FULL, reverse=True)})
    assert found["identified"]["verdict"] == "poor" and "reversed" in found["identified"]["verdict_reason"]
    at, mine = f"rigs/{rig}/tuning", {"numbers": {"hysteresis_c": 1.0}}
    asked = {"trial": "door", "candidates": ["simc"]}
    for path, body in (
        ("relay", {"kind": "own"}),
        ("try", mine),
        ("trials", asked),
        ("diagnose", {"run": Run.objects.first().pk}),
    ):
        assert "not known well enough" in api.refused("POST", f"{at}/{path}", body)["reason"], path
    problem = api.refused("POST", f"rigs/{rig}/tuning/accept", {"revision": revision(), "candidate": "simc"})
    assert problem["field"] == "candidate"
    copy = api.ok("POST", f"rigs/{rig}/double", {"name": "Copy"})["slug"]
    assert api.ok("GET", f"rigs/{copy}/tuning")["identified"]["verdict"] == "poor"


def test_a_process_too_weak_for_the_set_point_says_so(api, rig, sheet):
    found = api.ok("POST", f"rigs/{rig}/tuning/identify", {"run": recorded(rig, FOPDT(0.3, 620, 52), FULL)})
    assert found["candidates"] == [] and "full power only reaches {~51 °C}" in found["problem"]


def test_only_the_chosen_stretch_is_used(api, rig, sheet):
    run = recorded(rig, CABINET, FULL, 4000)
    found = api.ok("POST", f"rigs/{rig}/tuning/identify", {"run": run, "start_s": 0, "end_s": 1500})
    assert found["identified"]["end_s"] <= 1500 and found["identified"]["points"] == 751


def test_unknown_candidates_and_missing_processes_are_refused(api, rig, sheet, revision):
    assert (
        "no process"
        in api.refused("POST", f"rigs/{rig}/tuning/accept", {"revision": revision(), "candidate": "simc"})["reason"]
    )
    api.ok("POST", f"rigs/{rig}/tuning/identify", {"run": recorded(rig, CABINET, FULL)})
    problem = api.refused("POST", f"rigs/{rig}/tuning/accept", {"revision": revision(), "candidate": "magic"})
    assert "simc_tight" in problem["accepted"]


def test_the_effect_shows_in_the_next_run(api, rig, sheet, revision):
    """The point of it all: the accepted settings, simulated on the same process, swing less than on/off did."""
    before = recorded(rig, CABINET, ControllerSettings(60, Mode.ON_OFF, 1.0), 7200)
    api.ok("POST", f"rigs/{rig}/tuning/identify", {"run": before})
    api.ok("POST", f"rigs/{rig}/tuning/accept", {"revision": revision(), "candidate": "simc"})

    row = Rig.objects.get(slug=rig)
    after = recorded(rig, CABINET, settings_from(working_values(row)), 7200, purpose_of(row).ambient_c)

    def ripple(run):
        figures = api.ok("GET", f"rigs/{rig}/runs/{run}/metrics")["figures"]
        return next(f["value"] for f in figures if f["name"].startswith("ripple"))

    assert ripple(after) < ripple(before) / 4


@pytest.mark.django_db(transaction=True)
def test_live_values_are_pushed_when_they_change(api, rig):
    link = Link.objects.create(rig=Rig.objects.get(slug=rig), port=9, host="127.0.0.1")
    state = LinkState.objects.create(
        link=link, at=timezone.now(), online=True, values={"reading_c": 40.0, "mode": "pid"}
    )

    async def watch():
        response = await AsyncClient().get(f"/api/v1/live?rigs={rig},removed-since")
        assert response["Content-Type"] == "text/event-stream"
        seen, pieces = [], response.streaming_content.__aiter__()
        while len(seen) < 2:
            text = (await asyncio.wait_for(pieces.__anext__(), 10)).decode()
            if text.startswith("data: "):
                told = json.loads(text[6:])
                assert told["rig"] == rig
                seen.append(told["live"])
                state.values = {"reading_c": 41.0, "mode": "pid"}
                await state.asave()
        return seen

    first, second = asyncio.run(watch())
    assert (first["status"], first["reading_c"], second["reading_c"]) == ("online", 40.0, 41.0)


def test_a_poll_that_is_old_counts_as_no_answer(api, rig):
    link = Link.objects.create(rig=Rig.objects.get(slug=rig), port=9, host="127.0.0.1")
    old = timezone.now() - timezone.timedelta(seconds=30)
    LinkState.objects.create(link=link, at=old, online=True, values={"reading_c": 40.0})
    live = api.ok("GET", f"rigs/{rig}")["live"]
    assert live["status"] == "offline" and live["reading_c"] is None
