"""Alarms of a linked rig: judged by the recorder, told live, acknowledged by name, shelved, reset, and going on after a restart."""

from datetime import timedelta

import pytest
from django.utils import timezone

from rellux.core.control.alarms.settings import Action, AlarmKind, AlarmSettings
from rellux.core.guarding.plan import Plan, PlannedAlarm, StatusLight
from rellux.server.guarding.models import AlarmAsk
from rellux.server.guarding.stored import save_plan
from rellux.server.links.models import Link, LinkState
from rellux.server.rigs.models import Entry, Rig
from rellux.server.runs.watching import Watch


def planned(name, latching=False, **alarm):
    settings = AlarmSettings(
        **{"kind": AlarmKind.HIGH, "value": 65.0, "hysteresis": 1.0, "latching": latching, **alarm}
    )
    return PlannedAlarm(name, settings, (Action.BEACON,), "", "", f"see to {name}")


@pytest.fixture
def heard(api, rig, monkeypatch):
    """A watch over the rig, and what it is told; its plan and what people ask are looked at each time."""
    monkeypatch.setattr("rellux.server.runs.watching.FOLLOWED_S", 0.0)
    monkeypatch.setattr("rellux.server.runs.noticed.AROUND_S", -1.0)
    owner = Rig.objects.get(slug=rig)
    link = Link.objects.create(rig=owner, stand_in=True, port=1502)
    state = LinkState.objects.create(link=link, at=timezone.now(), online=True, values={})
    alarms = (
        planned("Too hot"),
        planned("Far too hot", True, value=70.0),
        planned("Blind", kind=AlarmKind.SENSOR_BREAK),
    )
    save_plan(owner, Plan(alarms), "")

    class Heard:
        watch = Watch(owner.pk, 1.0)
        clock = 0.0

        def at(self, reading, step=1.0, **more):
            self.clock += step
            self.watch.look({"clock_s": self.clock, "reading_c": reading, "setpoint_c": 60.0, "output": 50.0, **more})
            LinkState.objects.filter(pk=state.pk).update(alarms=self.watch.told(), at=timezone.now())
            return {a["name"]: a for a in api.ok("GET", f"rigs/{rig}")["live"]["alarms"]}

        def ask(self, name, what, **more):
            return api.ok("POST", f"rigs/{rig}/guarding/alarms", {"name": name, "what": what, **more})

    return Heard()


def test_an_alarm_is_told_acknowledged_and_gone(api, rig, heard):
    assert heard.at(60.0) == {}
    alarm = heard.at(66.0)["Too hot"]
    assert (alarm["state"], alarm["calls"], alarm["response"]) == ("active", True, "see to Too hot")
    assert next(s for s in api.ok("GET", "rigs") if s["slug"] == rig)["live"]["alarms"]
    heard.ask("Too hot", "acknowledge", why="door was shut")
    alarm = heard.at(66.0)["Too hot"]
    assert (alarm["state"], alarm["calls"]) == ("acknowledged", False) and not AlarmAsk.objects.exists()
    entry = Entry.objects.first()
    assert "acknowledged" in entry.title and entry.why == "door was shut" and entry.who
    assert heard.at(63.9) == {}
    heard.at(66.0)
    assert heard.at(60.0)["Too hot"]["state"] == "returned"  # it came and went, and nobody has said that they saw it


def test_an_alarm_that_comes_and_goes_chatters_and_many_are_a_flood(api, rig, heard):
    def flood():
        return api.ok("GET", f"rigs/{rig}")["live"]["flood"]

    for _ in range(2):
        assert not heard.at(66.0)["Too hot"]["chatters"]
        heard.at(60.0)
    assert heard.at(66.0)["Too hot"]["chatters"] and not flood()
    for _ in range(7):  # with the three before it is ten
        heard.at(60.0)
        heard.at(66.0)
    assert not flood()
    heard.at(71.0)  # an eleventh, of another name
    assert flood()
    again = Watch(Rig.objects.get(slug=rig).pk, 1.0)
    again.go_on(heard.watch.told())
    again.look({"clock_s": 500.0, "reading_c": 71.0, "setpoint_c": 60.0, "output": 50.0})
    assert sum(len(a["came"]) for a in again.told()) == 11  # it goes on counting after the recorder's end


def test_out_of_service_takes_a_reason_is_always_shown_and_begins_anew_when_put_back(api, rig, heard):
    heard.at(66.0)
    out = {"name": "Too hot", "what": "take_out"}
    assert api.refused("POST", f"rigs/{rig}/guarding/alarms", out)["field"] == "why"
    heard.ask("Too hot", "take_out", why="its probe is at the calibration bench")
    alarm = heard.at(90.0)["Too hot"]
    assert (alarm["state"], alarm["calls"]) == ("out_of_service", False) and alarm["out_by"]
    assert "out of service" in Entry.objects.first().title
    again = Watch(Rig.objects.get(slug=rig).pk, 1.0)
    again.go_on(heard.watch.told())
    again.look({"clock_s": 500.0, "reading_c": 90.0, "setpoint_c": 60.0, "output": 50.0})
    assert (
        next(a for a in again.told() if a["name"] == "Too hot")["state"] == "out_of_service"
    )  # another recorder keeps it so
    assert api.refused("POST", f"rigs/{rig}/guarding/alarms", {**out, "name": "Too wet", "why": "x"})["field"] == "name"
    heard.ask("Blind", "take_out", why="before its probe is pulled")
    assert heard.at(90.0)["Blind"]["state"] == "out_of_service"
    heard.ask("Too hot", "put_back")
    assert heard.at(60.0).get("Too hot") is None and heard.at(66.0)["Too hot"]["calls"]


def test_a_latch_is_reset_by_a_person_and_only_below_its_hysteresis(api, rig, heard):
    heard.at(71.0)
    reset = {"name": "Far too hot", "what": "reset"}
    assert "must be gone first" in api.refused("POST", f"rigs/{rig}/guarding/alarms", reset)["reason"]
    heard.ask("Far too hot", "acknowledge")
    assert heard.at(60.0)["Far too hot"]["state"] == "latched_acknowledged"
    heard.ask("Far too hot", "reset")
    assert "Far too hot" not in heard.at(60.0)


def test_what_came_first_is_said_and_a_shelf_has_a_name_and_an_end(api, rig, heard):
    heard.at(66.0)
    both = heard.at(71.0)
    assert [both[n]["first"] for n in ("Too hot", "Far too hot")] == [True, False]
    assert (
        api.refused("POST", f"rigs/{rig}/guarding/alarms", {"name": "Too hot", "what": "shelve", "minutes": 500})[
            "field"
        ]
        == "minutes"
    )
    heard.ask("Too hot", "shelve", minutes=20)
    alarm = heard.at(71.0)["Too hot"]
    assert not alarm["calls"] and alarm["shelved_by"] and alarm["state"] == "active"
    for w in heard.watch._watched:
        w.shelved_until = w.shelved_until and timezone.now() - timedelta(seconds=1)
    assert heard.at(71.0)["Too hot"]["calls"]
    assert (
        api.refused("POST", f"rigs/{rig}/guarding/alarms", {"name": "Nothing", "what": "acknowledge"})["field"]
        == "name"
    )


def test_silence_is_never_normal_and_a_latch_outlasts_the_recorder(api, rig, heard):
    heard.at(60.0)
    heard.watch._looked -= 20.0  # no answer for twenty seconds
    heard.watch.silent()
    assert all(a["state"] == "active" for a in heard.watch.told())
    again = Watch(Rig.objects.get(slug=rig).pk, 1.0)
    again.go_on(heard.watch.told())
    again.look({"clock_s": 100.0, "reading_c": 60.0, "setpoint_c": 60.0})
    told = {a["name"]: a["state"] for a in again.told()}
    assert told == {"Too hot": "returned", "Far too hot": "latched", "Blind": "returned"}
    again.look({"clock_s": 101.0, "reading_c": 60.0, "sensor_fault": 1.0})
    again.look({"clock_s": 110.0, "reading_c": 60.0, "sensor_fault": 1.0})
    assert {a["name"]: a["state"] for a in again.told()}["Blind"] == "active"


def test_a_plan_that_was_changed_is_followed_and_one_that_cannot_be_read_ends_nothing(rig, heard):
    heard.at(66.0)
    owner = Rig.objects.get(slug=rig)
    save_plan(owner, Plan((planned("Too hot"), planned("New", value=62.0))), "")
    assert {n: a["state"] for n, a in heard.at(66.0).items()} == {"Too hot": "active", "New": "active"}
    owner.guard_plans.create(at=timezone.now(), plan={"alarms": 7})
    assert heard.at(66.0) == {}


def test_how_hot_it_is_to_touch_is_told_and_without_a_reading_it_counts_as_hot(api, rig, heard):
    live = lambda: api.ok("GET", f"rigs/{rig}")["live"]  # noqa: E731
    heard.at(60.0)
    assert live()["feel"] == ""  # no light is planned
    save_plan(Rig.objects.get(slug=rig), Plan(light=StatusLight(43.0, 55.0, after_s=0.0)), "")

    def seen(reading, output=0.0, **more):
        heard.at(reading, output=output, **more)
        LinkState.objects.update(feel=heard.watch.feel)
        return live()["feel"]

    assert [seen(r) for r in (20.0, 44.0, 56.0, 54.5, 53.0)] == ["cool", "warm", "hot", "hot", "warm"]
    assert seen(30.0, sensor_fault=1.0) == "unknown" and seen(30.0) == "cool"
    assert seen(20.0, output=100.0) == "heated"  # what heats is hot before its reading is
    LinkState.objects.update(online=False)
    assert live()["feel"] == "unknown"
    assert next(s for s in api.ok("GET", "rigs") if s["slug"] == rig)["live"]["feel"] == "unknown"
