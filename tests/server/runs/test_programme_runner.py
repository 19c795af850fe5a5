"""The recorder's part of a programme, with a controller that loses, mangles and refuses what is written, and the ways in which it ends."""

from dataclasses import replace
from datetime import timedelta

import numpy as np
import pytest
from django.utils import timezone

from rellux.core.control.alarms.settings import Action, AlarmKind, AlarmSettings
from rellux.core.errors import refuse
from rellux.core.guarding.plan import Plan, PlannedAlarm
from rellux.core.runs.series import Series
from rellux.devices.modbus_link import LinkDown
from rellux.devices.register_map import STAND_IN, SafeOff
from rellux.server.guarding.stored import save_plan
from rellux.server.links import commands
from rellux.server.links.models import Command, Link
from rellux.server.profiles.models import ProfileVersion, Programme
from rellux.server.rigs.models import Entry, Rig
from rellux.server.runs import programme as runner_module
from rellux.server.runs import store
from rellux.server.runs.models import Event
from rellux.server.runs.programme import Runner
from rellux.server.runs.watching import Watch
from tests.server.runs.test_runs import new_run

PROFILE = {
    "segments": [
        {"kind": "ramp_rate", "target_c": 60.0, "rate_c_per_min": 60.0, "says": "mind the lid", "events": ["fan"]},
        {"kind": "soak", "time_s": 5.0},
        {"kind": "end", "end": "off"},
    ]
}
LAGGING = {
    "segments": [
        {"kind": "ramp_rate", "target_c": 60.0, "rate_c_per_min": 30.0, "holdback": {"band_c": 10.0}},
        {"kind": "end", "end": "off"},
    ]
}


class Controller:
    """Takes what is written, unless told otherwise; says what it holds."""

    map = STAND_IN

    def __init__(self):
        self.holds, self.mode, self.written, self.fate = 21.0, "pid", [], "taken"

    def write(self, name, value):
        assert name == "setpoint_c"
        self.written.append(value)
        if self.fate == "lost":
            raise LinkDown("no answer")
        if self.fate == "refused":
            raise refuse("setpoint_c", "exception 3", "")
        self.holds = value if self.fate == "taken" else value - 7.0
        return self.holds


@pytest.fixture
def bench(api, rig, revision, monkeypatch, settings, tmp_path):
    monkeypatch.setattr(runner_module, "FOLLOWED_S", -1.0)
    monkeypatch.setattr("rellux.server.runs.noticed.AROUND_S", -1.0)
    settings.DATA = tmp_path
    api.ok("POST", f"rigs/{rig}/profiles", {"revision": revision(), "name": "Warm", "profile": PROFILE})
    owner = Rig.objects.get(slug=rig)
    link = Link.objects.create(rig=owner, stand_in=True, port=1502)

    class Bench:
        controller, clock = Controller(), 0.0
        runner = Runner(link)

        def begin(self, **more):
            now = timezone.now()
            told = {
                "begun_at": now,
                "beat_at": now,
                "start_c": 21.0,
                "least_s": 1.0,
                "step_c": 0.1,
                "standing": "running",
                **more,
            }
            Programme.objects.create(
                rig=owner, generation=link.generation, key="warm", number=1, who="x", attended=True, **told
            )
            return self

        def look(self, times=1, reading=None, **more):
            marks = []
            for _ in range(times):
                self.clock += 1.0
                monkeypatch.setattr(runner_module.time, "monotonic", lambda: self.clock)
                at = self.controller.holds if reading is None else reading
                mode, off = self.controller.mode, 0.0 if self.controller.mode == "off" else 50.0
                values = {
                    "reading_c": at,
                    "setpoint_c": self.controller.holds,
                    "mode": mode,
                    "output": off,
                    "switch": 0.0,
                    "sensor_fault": 0.0,
                }
                marks += self.runner.look({**values, **more}, self.controller)
            return marks

        @property
        def told(self):
            return Programme.objects.get()

    bench = Bench()
    bench.link = link
    return bench


def test_it_runs_to_its_end_and_marks_what_is_due(bench):
    marks = [text for _, text in bench.begin().look(60)]
    assert "segment 1 begins: mind the lid: fan" in marks and any("segment 2" in m for m in marks)
    assert bench.controller.written == sorted(bench.controller.written) and max(
        bench.controller.written
    ) == pytest.approx(60.0)
    assert bench.told.standing == "ended" and Command.objects.get(safe_off=True).state == "queued"
    assert Entry.objects.latest("pk").title == "Programme ended"
    bench.look()
    assert bench.runner.flags == {AlarmKind.PROGRAMME_END} and bench.runner.begun_with == []
    Programme.objects.update(beat_at=timezone.now() - timedelta(seconds=61))
    bench.look()
    assert bench.runner.flags == frozenset()


def test_what_it_waits_for_is_marked_seen_by_the_alarms_and_found_again_in_the_run(api, rig, bench):
    """A load that stays at 21 °C: alarms of the plan see it live, and the check of the recorded run finds it at the same place."""
    owner = Rig.objects.get(slug=rig)
    ProfileVersion.objects.update(profile=LAGGING)
    waits = PlannedAlarm("Waits", AlarmSettings(AlarmKind.HOLDBACK, on_delay_s=10.0), (Action.BEACON,), "", "", "look")
    save_plan(owner, Plan((waits,)), "")
    watch = Watch(owner.pk, 1.0)
    run = new_run(rig)
    bench.begin()
    rows, came = [], None
    for t in range(300):
        values = {"clock_s": float(t), "reading_c": 21.0, "setpoint_c": 60.0, "output": 50.0}
        watch.look(values, bench.runner.flags)
        if came is None and watch.told()[0]["state"] == "active":
            came = t
        rows.append((float(t), 60.0, 21.0, 50.0, 1.0))
        for kind, text in bench.look(reading=21.0):
            Event.objects.create(run=run, time_s=float(t), kind=kind.value, text=text)
    assert [e.text for e in run.events.filter(kind="held_back")] == [runner_module.WAITS] and came is not None
    assert bench.runner.begun_with == [("held_back", runner_module.WAITS)]  # for a run that is opened now
    store.append(run, Series(*np.array(rows).T))
    (checked,) = api.ok("GET", f"rigs/{rig}/guarding/runs/{run.pk}")["checked"]
    assert checked["recorded"] and [c["begin_s"] for c in checked["calls"]] == [pytest.approx(came, abs=1.0)]


@pytest.mark.parametrize(("fate", "writes"), [("lost", 3), ("refused", 3), ("mangled", 3)])
def test_what_is_not_taken_is_tried_three_times_and_then_it_stands(bench, fate, writes):
    bench.begin().look(3)
    before = len(bench.controller.written)
    bench.controller.fate = fate
    bench.look(90)
    assert len(bench.controller.written) - before <= writes and bench.told.standing == "paused"
    bench.controller.fate = "taken"
    Programme.objects.update(ask="go_on")
    bench.look(3)
    assert bench.told.standing == "running" and bench.told.ask == ""


def test_a_press_of_safe_off_that_never_reached_the_database_ends_it(bench):
    bench.begin().look(3)
    commands.overrule(bench.link)
    written = len(bench.controller.written)
    bench.look(3)
    assert bench.told.standing == "aborted" and len(bench.controller.written) == written
    assert not Command.objects.exists()  # somebody's own order is on its way, and is not overtaken


def test_a_controller_that_was_switched_off_or_exchanged_is_never_written_to_again(bench):
    bench.begin().look(3)
    bench.controller.mode = "off"
    written = len(bench.controller.written)
    bench.look(5, output=0.0)
    assert bench.told.standing == "aborted" and len(bench.controller.written) == written
    bench.controller.mode = "pid"
    Programme.objects.all().delete()
    Link.objects.update(generation=bench.link.generation)
    bench.begin()
    Programme.objects.update(generation=99)
    bench.look(3)
    assert bench.told.standing == "aborted" and len(bench.controller.written) == written


def test_a_board_that_only_rests_is_not_taken_for_one_that_is_off(bench):
    off = SafeOff((("auto_tune", "off"), ("mode", "off")), (("output", 0.0), ("switch", 0.0)))
    bench.controller.map = replace(STAND_IN, safe_off=off)
    bench.begin().look(8, output=0.0)
    assert bench.told.standing == "running" and len(bench.controller.written) > 3


@pytest.mark.parametrize(
    ("gone_s", "reading", "standing"), [(60, 29.0, "running"), (60, 10.0, "back"), (4000, 29.0, "aborted")]
)
def test_another_recorder_goes_on_by_the_profiles_rule(bench, gone_s, reading, standing):
    bench.begin().look(10)
    Programme.objects.update(beat_at=timezone.now() - timedelta(seconds=gone_s))
    bench.runner = Runner(bench.link)
    bench.look(1, reading=reading)
    assert bench.told.standing == standing


def test_a_recorder_that_stood_still_does_not_jump_to_where_it_would_be(bench):
    bench.begin().look(10)
    stood = bench.told.state["programme"][2]
    bench.clock += 300.0
    bench.look(1, reading=stood - 2.0)
    assert bench.told.state["programme"][2] == stood and "went on after" in bench.told.state["said"]
    bench.clock += 300.0
    bench.look(1, reading=stood - 20.0)
    assert bench.told.standing == "back"
    bench.look(1, reading=stood - 20.0)
    assert bench.controller.written[-1] < stood


def test_a_profile_that_cannot_be_read_ends_it_and_says_so(bench):
    bench.begin().look(3)
    written = len(bench.controller.written)
    bench.told.rig.profile_versions.update(profile={"segments": 7})
    bench.runner = Runner(bench.link)
    bench.look(3)
    assert bench.told.standing == "aborted" and len(bench.controller.written) == written
    assert "cannot be read" in Entry.objects.latest("pk").why
