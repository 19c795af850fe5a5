"""Links: where the controller is, arming, what may be written, and what is told about it."""

from dataclasses import replace
from datetime import timedelta

import pytest
from django.utils import timezone

from rellux.core.errors import Refused
from rellux.core.plant.rig_models import CHARACTERS
from rellux.core.setup.dictionary import BY_NAME
from rellux.core.setup.writing import check_write
from rellux.devices.modbus_link import LinkDown
from rellux.devices.register_map import STAND_IN
from rellux.server.accounts.models import User
from rellux.server.demo.boards import PLATE_LINES
from rellux.server.links import write_views
from rellux.server.links.commands import begin, claim, end_begun, queue, take_back
from rellux.server.links.live import live_of
from rellux.server.links.models import Command, Link, LinkState
from rellux.server.links.stand_ins import config_of, free_port
from rellux.server.rigs.models import Rig
from rellux.server.runs.link_recorder import LinkRecorder
from rellux.server.runs.models import Run
from rellux.server.setup.domain import rig_facts, working_values
from rellux.server.tuning.models import Identification
from tests.server.workshop import load_demo

WINDOW = "window-one"
HELD = {
    "reading_c": 21.0,
    "setpoint_c": 60.0,
    "output": 0.0,
    "switch": 0.0,
    "mode": "off",
    "hysteresis_c": 1.0,
    "hysteresis_school": "one_sided",
    "proportional_band_c": 3.9,
    "integral_time_s": 300.0,
    "derivative_time_s": 0.0,
    "period_s": 20.0,
    "output_high": 100.0,
    "offset_c": 0.0,
}


def refused_write(api, rig, values, window=WINDOW):
    return api.refused("POST", f"rigs/{rig}/link/write", {"values": values, "window": window})


@pytest.fixture
def online(api, rig, revision):
    """A rig whose controller answered just now and holds what the sheet says."""
    api.ok("PUT", f"rigs/{rig}/setup", {"revision": revision(), "values": {}})
    link = Link.objects.create(rig=Rig.objects.get(slug=rig), stand_in=True, port=free_port())
    LinkState.objects.create(link=link, at=timezone.now(), online=True, values=HELD)
    return link


def test_a_stand_in_needs_no_port_and_keeps_the_one_it_got(api, rig):
    first = api.ok("PUT", f"rigs/{rig}/link", {"stand_in": True, "speed": 20})
    second = api.ok("PUT", f"rigs/{rig}/link", {"stand_in": True, "speed": 50})
    assert first["port"] == second["port"] > 0 and second["speed"] == 50
    assert first["live"]["status"] == "offline"  # nobody has polled it yet


def test_two_stand_ins_do_not_share_a_port(api, rig):
    port = api.ok("PUT", f"rigs/{rig}/link", {"stand_in": True})["port"]
    twin = api.ok("POST", f"rigs/{rig}/double", {"name": "Twin"})["slug"]
    assert api.refused("PUT", f"rigs/{twin}/link", {"stand_in": True, "port": port})["field"] == "port"
    assert api.ok("PUT", f"rigs/{twin}/link", {"stand_in": True})["port"] != port


def test_a_real_controller_runs_at_its_own_speed(api, rig):
    link = api.ok("PUT", f"rigs/{rig}/link", {"stand_in": False, "host": "10.0.0.7", "port": 502, "speed": 50})
    assert (link["host"], link["port"], link["speed"]) == ("10.0.0.7", 502, 1.0)


@pytest.mark.parametrize(
    ("changed", "field"),
    [
        ({"poll_s": 0.001}, "poll_s"),
        ({"speed": 9999}, "speed"),
        ({"unit_id": 0}, "unit_id"),
        ({"port": 70000}, "port"),
        ({"host": " "}, "host"),
    ],
)
def test_links_that_cannot_be_are_refused(api, rig, changed, field):
    body = {"stand_in": False, "host": "10.0.0.7", "port": 502, **changed}
    assert api.refused("PUT", f"rigs/{rig}/link", body)["field"] == field
    assert not Link.objects.exists()


def test_a_link_needs_parts(api):
    from tests.server.conftest import CABINET

    slug = api.ok("POST", "rigs", CABINET)["slug"]
    assert api.refused("PUT", f"rigs/{slug}/link", {"stand_in": True})["field"] == "parts"


def test_a_link_in_use_cannot_be_removed(api, rig, online):
    run = Run.objects.create(rig=online.rig, name="r", source="live", status="recording", started_at=timezone.now())
    assert "recorded" in api.refused("DELETE", f"rigs/{rig}/link")["reason"]
    assert "stop it first" in api.refused("DELETE", f"rigs/{rig}/runs/{run.pk}")["accepted"]
    api.ok("POST", f"rigs/{rig}/runs/{run.pk}/stop", {})
    assert api("DELETE", f"rigs/{rig}/link")[0] == 204


def test_what_the_controller_holds_otherwise_is_a_difference_but_being_off_is_not(api, rig, online, revision):
    assert api.ok("GET", f"rigs/{rig}/link")["differences"] == []
    api.ok("PUT", f"rigs/{rig}/setup", {"revision": revision(), "values": {"hysteresis_c": 0.5, "mode": "pid"}})
    differences = api.ok("GET", f"rigs/{rig}/link")["differences"]
    assert [(d["name"], d["controller"], d["sheet"]) for d in differences] == [("hysteresis_c", 1.0, 0.5)]


def test_arming_ends_by_itself_and_by_hand(api, rig, online):
    assert api.ok("POST", f"rigs/{rig}/link/arm", {"armed": True, "window": WINDOW})["live"]["armed"]
    Link.objects.update(armed_until=timezone.now() - timedelta(seconds=1))
    assert not api.ok("GET", f"rigs/{rig}/link")["live"]["armed"]
    api.ok("POST", f"rigs/{rig}/link/arm", {"armed": True, "window": WINDOW})
    assert not api.ok("POST", f"rigs/{rig}/link/arm", {"armed": False, "window": WINDOW})["live"]["armed"]


@pytest.mark.parametrize(
    ("values", "field"),
    [
        ({"setpoint_c": 500.0}, "setpoint_c"),
        ({"setpoint_c": 10.0}, "setpoint_c"),
        ({"lock_level": 3}, "lock_level"),
        ({"period_s": 0}, "period_s"),
        ({"mode": "fuzzy"}, "mode"),
        ({}, "values"),
    ],
)
def test_writes_beyond_limits_dictionary_or_need_are_refused_before_anything_is_sent(api, rig, online, values, field):
    api.ok("POST", f"rigs/{rig}/link/arm", {"armed": True, "window": WINDOW})
    assert refused_write(api, rig, values)["field"] == field
    assert not Command.objects.exists()


def test_an_offset_is_not_sent_where_its_gain_cannot_be(api, rig, online, revision):
    """The map knows an offset and no gain; without a gain in the sheet the same offset goes."""
    api.ok("POST", f"rigs/{rig}/link/arm", {"armed": True, "window": WINDOW})
    api.ok("PUT", f"rigs/{rig}/setup", {"revision": revision(), "values": {"gain_correction": 1.002, "offset_c": -0.1}})
    refused = refused_write(api, rig, {"offset_c": -0.1})
    assert refused["field"] == "offset_c" and "gain of 1.002" in refused["reason"]
    assert not Command.objects.exists()
    api.ok("PUT", f"rigs/{rig}/setup", {"revision": revision(), "values": {"gain_correction": 1.0}})
    Link.objects.update(armed_until=timezone.now() + timedelta(minutes=5))
    LinkState.objects.update(at=timezone.now())
    assert "gain" not in refused_write(api, rig, {"offset_c": 99.0})["reason"]


@pytest.mark.parametrize(("unit", "refused"), [("F", True), ("C", False)])
def test_an_offset_beside_a_gain_is_not_sent_to_one_that_counts_otherwise(
    api, rig, online, revision, monkeypatch, unit, refused
):
    offset, others = STAND_IN.by_name["offset_c"], tuple(r for r in STAND_IN.registers if r.name != "offset_c")
    counted = replace(
        STAND_IN, registers=(*others, replace(offset, unit=unit), replace(offset, name="gain_correction", address=90))
    )
    monkeypatch.setattr("rellux.server.links.write_views.map_of", lambda _: counted)
    api.ok("POST", f"rigs/{rig}/link/arm", {"armed": True, "window": WINDOW})
    api.ok("PUT", f"rigs/{rig}/setup", {"revision": revision(), "values": {"gain_correction": 1.002, "offset_c": -0.1}})
    assert ("another number" in refused_write(api, rig, {"offset_c": 99.0})["reason"]) == refused


def test_nothing_is_written_to_a_controller_that_does_not_answer(api, rig, online):
    api.ok("POST", f"rigs/{rig}/link/arm", {"armed": True, "window": WINDOW})
    LinkState.objects.update(online=False, message="nothing answers at 127.0.0.1:5020, unit 1")
    assert "nothing answers" in refused_write(api, rig, {"mode": "pid"})["reason"]
    assert not Command.objects.exists()


def test_a_write_nobody_sends_is_taken_back(api, rig, online, monkeypatch):
    monkeypatch.setattr("rellux.server.links.write_views.ANSWER_S", 0.2)
    api.ok("POST", f"rigs/{rig}/link/arm", {"armed": True, "window": WINDOW})
    assert "nothing was written" in refused_write(api, rig, {"mode": "pid"})["reason"]
    (command,) = Command.objects.all()
    assert command.state == "expired" and not claim(command)  # a recorder that wakes up later does not send it


class Slow:
    """A controller that answers, or dies after so many values."""

    map = STAND_IN

    def __init__(self, dies_after: int = 99) -> None:
        self.held: dict[str, object] = {}
        self.dies_after = dies_after

    def write(self, name, value):
        if len(self.held) >= self.dies_after:
            raise LinkDown("no answer from 127.0.0.1:5020, unit 1")
        self.held[name] = value
        return value


@pytest.fixture
def queued(online):
    """Queue values as an armed rig does; they last a minute."""
    online.armed_until = timezone.now() + timedelta(minutes=5)
    online.save()
    by = User.objects.first() or User.objects.create(title="Technician")

    def put(values, seconds=60.0):
        return queue(online, by, values, {n: HELD.get(n) for n in values}, timedelta(seconds=seconds))

    return put


def sent(link, controller):
    """What a recorder does with what waits."""
    LinkRecorder(link)._send_commands(controller)


def test_what_the_recorder_has_begun_is_in_the_book_value_by_value(online, queued):
    command, controller = queued({"hysteresis_c": 0.5, "mode": "on_off"}), Slow()
    sent(online, controller)
    command.refresh_from_db()
    assert command.state == "done" and controller.held == {"hysteresis_c": 0.5, "mode": "on_off"}
    (line,) = online.rig.entries.filter(title="Written to the controller")
    assert line.before == {"hysteresis_c": 1.0, "mode": "off"} and line.after == controller.held


def test_a_link_lost_half_way_is_part_done_and_never_called_nothing(online, queued):
    command, controller = queued({"hysteresis_c": 0.5, "mode": "on_off", "setpoint_c": 60.0}), Slow(dies_after=1)
    sent(online, controller)
    command.refresh_from_db()
    assert (command.state, list(command.read_back), command.begun) == (
        "part",
        ["hysteresis_c"],
        ["hysteresis_c", "mode"],
    )
    (line,) = online.rig.entries.filter(title="Written to the controller in part")
    assert line.after == {"hysteresis_c": 0.5, "mode": "not confirmed"} and "not confirmed: mode" in line.why


def test_a_part_done_write_is_said_to_be_so(api, rig, online, monkeypatch):
    """The recorder claims it, writes one of two values and loses the link, all while the request waits."""
    api.ok("POST", f"rigs/{rig}/link/arm", {"armed": True, "window": WINDOW})
    moved = write_views.take_back

    def lost_meanwhile(command, state):
        sent(online, Slow(dies_after=1))
        return moved(command, state)

    monkeypatch.setattr(write_views, "ANSWER_S", 0.1)
    monkeypatch.setattr(write_views, "queue", lambda *args: queue(*args[:-1], timedelta(seconds=60)))
    monkeypatch.setattr(write_views, "take_back", lost_meanwhile)
    reason = refused_write(api, rig, {"hysteresis_c": 0.5, "mode": "on_off"})["reason"]
    assert "nothing was written" not in reason and "Confirmed: hysteresis {" in reason


@pytest.mark.parametrize("how", ["expired", "disarmed", "lapsed", "repointed"])
def test_what_is_no_longer_wanted_is_not_sent(api, rig, online, queued, how):
    command = queued({"mode": "on_off"}, seconds=-1 if how == "expired" else 60)
    if how == "disarmed":
        api.ok("POST", f"rigs/{rig}/link/arm", {"armed": False, "window": WINDOW})
    if how == "lapsed":
        Link.objects.update(armed_until=timezone.now() - timedelta(seconds=1))
    if how == "repointed":
        api.ok("PUT", f"rigs/{rig}/link", {"stand_in": False, "host": "10.0.0.7", "port": 502})
    controller = Slow()
    sent(online, controller)
    command.refresh_from_db()
    assert controller.held == {} and command.state == ("expired" if how == "expired" else "cancelled")
    assert not online.rig.entries.filter(title__startswith="Written").exists()


def test_a_recorder_that_starts_again_says_what_another_left_half_sent(online, queued):
    """Killed between the write and its reading back: the value is listed as not confirmed, and nothing is sent again."""
    command = queued({"mode": "on_off", "setpoint_c": 60.0})
    assert claim(command)
    begin(command, "mode")
    end_begun(online)
    command.refresh_from_db()
    assert command.state == "part"
    (line,) = online.rig.entries.filter(title="Written to the controller in part")
    assert line.after == {"mode": "not confirmed"} and "broken off" in line.why
    controller = Slow()
    sent(online, controller)
    assert controller.held == {}


def test_a_command_is_claimed_once(online, queued):
    command = queued({"mode": "on_off"})
    assert claim(command) and not claim(command) and not take_back(command, Command.State.EXPIRED)


def test_arming_belongs_to_one_window(api, rig, online):
    """The second window takes it over; the first can neither write nor, closing late, disarm the second."""

    def arm(window, armed=True):
        return api.ok("POST", f"rigs/{rig}/link/arm", {"armed": armed, "window": window})["live"]

    assert arm("window-one")["armed_window"] == "window-one"
    assert "another window" in refused_write(api, rig, {"mode": "pid"}, "window-two")["reason"]
    assert 595 < arm("window-two")["armed_left_s"] <= 600
    assert "another window" in refused_write(api, rig, {"mode": "pid"}, "window-one")["reason"]
    assert arm("window-one", armed=False)["armed_window"] == "window-two"
    assert not arm("window-two", armed=False)["armed"]
    assert api.refused("POST", f"rigs/{rig}/link/arm", {"armed": True, "window": "x y"})["field"] == "window"


def test_a_write_is_rounded_to_what_the_controller_holds_before_it_is_judged(api, rig, online, monkeypatch):
    """66.04 is 66.0 in a controller of tenths, which the limit of 66 °C allows; 66.06 is 66.1, which it does not."""
    monkeypatch.setattr(write_views, "ANSWER_S", 0.0)
    api.ok("POST", f"rigs/{rig}/link/arm", {"armed": True, "window": WINDOW})
    assert refused_write(api, rig, {"setpoint_c": 66.06})["field"] == "setpoint_c"
    assert refused_write(api, rig, {"setpoint_c": 66.04})["field"] == "link"
    assert [c.values for c in Command.objects.all()] == [{"setpoint_c": 66.0}]


def test_a_controller_that_holds_something_else_is_said_to(online, queued):
    class Stubborn(Slow):
        def write(self, name, value):
            super().write(name, value)
            return 64.0

    command = queued({"setpoint_c": 60.0, "mode": "pid"})
    sent(online, Stubborn())
    command.refresh_from_db()
    assert (
        command.state == "part"
        and "asked for set-point {60 °C}, the controller holds set-point {64 °C}" in command.error
    )
    assert command.begun == ["setpoint_c"]  # and the heat was not switched on with it


def test_a_link_is_not_pointed_elsewhere_under_a_recording(api, rig, online):
    Run.objects.create(rig=online.rig, name="r", source="live", status="recording", started_at=timezone.now())
    refused = api.refused("PUT", f"rigs/{rig}/link", {"stand_in": False, "host": "10.0.0.7", "port": 502})
    assert "recorded" in refused["reason"]
    assert api.ok("PUT", f"rigs/{rig}/link", {"stand_in": True, "speed": 50})["live"]["status"] == "online"


def test_what_the_former_controller_said_is_not_told_of_the_new_one(api, rig, online):
    """The old recorder may say "online" once more after the link was pointed elsewhere, and finds no order that is its own."""
    api.ok("PUT", f"rigs/{rig}/link", {"stand_in": False, "host": "10.0.0.7", "port": 502})
    LinkRecorder(online).say(True, "", HELD)
    live = api.ok("GET", f"rigs/{rig}")["live"]
    assert live["status"] == "offline" and live["reading_c"] is None
    now = Link.objects.get()
    now.armed_until = timezone.now() + timedelta(minutes=5)
    now.save()
    queue(now, User.objects.first(), {"mode": "on_off"}, {}, timedelta(seconds=60))
    old = Slow()
    sent(online, old)
    assert old.held == {}


def test_a_recorder_without_a_sign_of_life_is_not_online_however_slow_the_poll(api, rig, online, monkeypatch):
    last = timezone.now()
    Link.objects.update(poll_s=60, recorder_at=last)
    monkeypatch.setattr(timezone, "now", lambda: last + timedelta(seconds=5))
    assert api.ok("GET", f"rigs/{rig}")["live"]["status"] == "online"
    monkeypatch.setattr(timezone, "now", lambda: last + timedelta(seconds=5.1))
    live = api.ok("GET", f"rigs/{rig}")["live"]
    assert (live["status"], live["message"]) == ("offline", "the recorder does not run")


def test_each_arming_is_in_the_book(api, rig, online):
    for armed in (True, False):
        api.ok("POST", f"rigs/{rig}/link/arm", {"armed": armed, "window": WINDOW})
    titles = [e.title for e in online.rig.entries.all()[:2]]
    assert titles == ["Writing disarmed", "Writing armed for 10 minutes"]


@pytest.mark.parametrize(
    ("values", "field"),
    [
        ({"offset_c": -50.0}, "offset_c"),
        ({"offset_c": 12.0, "mode": "pid"}, "offset_c"),
        ({"setpoint_high_c": 90.0}, "setpoint_high_c"),
        ({"sensor_failure_output": 100.0}, "sensor_failure_output"),
        ({"hysteresis_c": 30.0, "hysteresis_school": "centred", "mode": "on_off"}, "hysteresis_c"),
    ],
)
def test_every_register_is_bounded_by_the_rig(api, rig, online, values, field, monkeypatch):
    monkeypatch.setattr(write_views, "writable", lambda link: list(BY_NAME))
    api.ok("POST", f"rigs/{rig}/link/arm", {"armed": True, "window": WINDOW})
    assert refused_write(api, rig, values)["field"] == field
    assert not Command.objects.exists()


def test_switching_off_is_never_refused_by_what_else_is_wrong(online):
    facts = rig_facts(online.rig)
    wrong = {**working_values(online.rig), "offset_c": -50.0, "setpoint_c": 500.0}
    check_write({"mode": "off"}, wrong, facts)
    with pytest.raises(Refused):
        check_write(
            {"mode": "on_off", "setpoint_c": 60.0},
            {**wrong, "hysteresis_c": 40.0, "hysteresis_school": "centred"},
            facts,
        )


def test_a_stand_in_pretends_to_be_this_rig_and_starts_off(online):
    config = config_of(online)
    assert config.settings.mode == "off" and config.settings.setpoint_c == 60
    rise = config.network.equilibrium_rise()[config.network.sensor_node]
    assert rise == pytest.approx(CHARACTERS["cabinet"].reserve * 39, rel=0.1)  # full power over what working needs


def test_a_tired_element_heats_less(online):
    online.vigour = 0.5
    tired = config_of(online).network.equilibrium_rise()
    online.vigour = 1.0
    assert tired == pytest.approx(0.5 * config_of(online).network.equilibrium_rise())


@pytest.mark.parametrize(
    ("poll_s", "age_s", "status"),
    [(0.25, 4.5, "online"), (0.25, 5.5, "offline"), (60, 170, "online"), (60, 181, "offline"), (1, -30, "online")],
)
def test_a_reading_is_live_for_three_polls_and_at_least_five_seconds(db, poll_s, age_s, status):
    load_demo()
    rig = Rig.objects.get(slug="cement-cabinet")
    Link.objects.filter(rig=rig).delete()
    link = Link.objects.create(rig=rig, port=1502, poll_s=poll_s)
    heard = timezone.now() - timedelta(seconds=age_s)
    LinkState.objects.create(link=link, at=heard, online=True, values={"reading_c": 60.0})
    live = live_of(rig)
    assert live.status == status and live.age_s == pytest.approx(max(0, age_s), abs=1)
    assert (live.reading_c is None) == (status == "offline")


def test_a_board_is_told_to_tune_itself_only_where_its_swing_is_known(api, rig, online, monkeypatch):
    monkeypatch.setattr("rellux.server.links.write_views.ANSWER_S", 0.2)
    tune = {"name": "auto_tune", "send": "TUNE {value}", "ask": "TUNE?", "answer": "TUNE={value}"}
    commands = {
        "rows": [{**tune, "words": {"off": "0", "on": "1"}}],
        "safe_off": [{"name": "auto_tune", "value": "off"}],
    }
    Link.objects.update(way="text", device="/dev/none", line_format=PLATE_LINES, text_commands=commands)
    LinkState.objects.update(values={**HELD, "auto_tune": "off"})
    assert api.ok("GET", f"rigs/{rig}/link")["auto_tune"] == "off"
    api.ok("POST", f"rigs/{rig}/link/arm", {"armed": True, "window": WINDOW})
    assert "not known for this rig yet" in refused_write(api, rig, {"auto_tune": "on"})["reason"]
    known = {"at": timezone.now(), "start_s": 0.0, "end_s": 1.0, "verdict": "supported", "result": {}}
    Identification.objects.create(rig=online.rig, gain=2.4, lag_s=900.0, dead_time_s=5.0, **known)
    refused = refused_write(api, rig, {"auto_tune": "on"})  # nobody is there to send it, but it may be sent
    assert "taken back" in refused["reason"] and Command.objects.get().values == {"auto_tune": "on"}
    Identification.objects.create(rig=online.rig, gain=2.4, lag_s=100.0, dead_time_s=20.0, **known)
    assert "would swing to" in refused_write(api, rig, {"auto_tune": "on"})["reason"]
