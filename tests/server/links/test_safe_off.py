"""Safe-off: whoever is dead, locked or in the middle of something, what is called off is off, and what is not is not called so.

The judge is the controller itself: what it holds when everybody has finished.
"""

import sqlite3
import time
from datetime import timedelta

import pytest
from django.conf import settings
from django.db import connection
from django.utils import timezone

from rellux.core.errors import Refused
from rellux.devices.modbus_link import LinkDown
from rellux.devices.register_map import STAND_IN, Register, RegisterMap, SafeOff
from rellux.server.accounts.models import User
from rellux.server.links import safe_off, sending
from rellux.server.links.commands import overrule, queue
from rellux.server.links.models import Command, Link
from rellux.server.links.reaching import connect
from rellux.server.links.stand_ins import free_port
from rellux.server.rigs.models import Rig
from rellux.server.runs.link_recorder import LinkRecorder

RUN = Register("run", 0, writable=True, choices=("stopped", "running"))
POWER = Register("output", 1, 10.0, writable=True)
FAN = Register("fan", 2, writable=True, keeps="fan")

OFF = {"auto_tune": "off", "mode": "off"}


@pytest.mark.parametrize(
    ("sequence", "reason"),
    [
        (None, "needs one"),
        (SafeOff((("run", "stopped"), ("fan", 0.0)), (("run", "stopped"),)), "keeps the fan running"),
        (SafeOff((("pump", 0.0),), (("run", "stopped"),)), "cannot be written"),
        (SafeOff((("run", "asleep"),), (("run", "stopped"),)), "not a choice"),
        (SafeOff((("run", "stopped"),), ()), "nothing read back"),
        (SafeOff((("run", "stopped"),), (("smoke", 0.0),)), "nothing read back"),
    ],
)
def test_a_map_that_could_heat_without_a_way_to_end_it_is_refused(sequence, reason):
    with pytest.raises(Refused, match=reason):
        RegisterMap("kettle", "Kettle", (RUN, POWER, FAN), sequence)


def test_a_map_that_only_reads_needs_no_safe_off():
    RegisterMap("watch", "Watcher", (Register("reading_c", 0, 10.0),))


def test_one_refused_write_does_not_keep_the_next_from_being_tried(monkeypatch):
    """The first register is gone; the second still takes the power away."""
    sequence = SafeOff((("run", "stopped"), ("output", 0.0)), (("output", 0.0),))
    kettle = RegisterMap("kettle", "Kettle", (RUN, POWER, FAN), sequence)
    link = connect(Link(host="127.0.0.1", port=1, register_map="stand_in"))
    held = {"run": "running", "output": 80.0, "fan": 1.0}

    def write(name, value):
        if name == "run":
            raise LinkDown("refused run")
        held[name] = value
        return value

    monkeypatch.setattr(link, "map", kettle)
    monkeypatch.setattr(link, "write", write)
    monkeypatch.setattr(link, "read", lambda: dict(held))
    assert link.switch_off(0.2) == {"run": "running", "output": 0.0, "fan": 1.0}
    held["output"] = 80.0
    monkeypatch.setattr(link, "write", lambda name, value: value)
    with pytest.raises(LinkDown, match="still says output 80"):
        link.switch_off(0.1)


def heat(bench):
    with connect(bench.link) as controller:
        controller.write("mode", "on_off")
        while controller.read()["output"] < 100:
            time.sleep(0.05)


def holds(bench):
    with connect(bench.link) as controller:
        return controller.read()


def press(api, rig):
    began = time.monotonic()
    answer = api.ok("POST", f"rigs/{rig}/link/safe-off")
    assert time.monotonic() - began < 6  # three seconds on a machine with nothing else to do
    return answer


@pytest.mark.django_db(transaction=True)
def test_unarmed_and_over_the_recorder(api, rig, bench):
    heat(bench)
    bench.recorder.follow()
    answer = press(api, rig)
    assert answer["confirmed"] and answer["in_book"]
    assert (holds(bench)["mode"], holds(bench)["output"]) == ("off", 0.0)
    entry = bench.rig.entries.first()
    assert entry.title == "Safe-off, confirmed by the controller" and entry.after == OFF


@pytest.mark.django_db(transaction=True)
def test_a_recorder_that_polls_once_a_minute_does_not_let_it_wait(api, rig, bench):
    heat(bench)
    Link.objects.update(poll_s=60)
    bench.until(lambda: api.ok("GET", f"rigs/{rig}")["live"]["status"] == "online")
    press(api, rig)
    assert Command.objects.get().state == "done" and Command.objects.get().read_back == OFF


@pytest.mark.django_db(transaction=True)
@pytest.mark.parametrize("recorder", ["never ran", "claimed it and hangs"])
def test_without_a_recorder_it_goes_directly(api, rig, bench, recorder, monkeypatch):
    heat(bench)
    if recorder != "never ran":
        queued = safe_off.queue_safe_off

        def claimed(*args):
            command = queued(*args)
            Command.objects.update(state="sending")
            return command

        monkeypatch.setattr(safe_off, "queue_safe_off", claimed)
    answer = press(api, rig)
    assert answer["confirmed"] and answer["in_book"]
    assert holds(bench)["mode"] == "off"
    assert bench.rig.entries.first().title == "Safe-off, confirmed by the controller"


@pytest.mark.django_db(transaction=True)
def test_a_database_that_is_locked_or_full_does_not_stop_it(api, rig, bench):
    heat(bench)
    User.objects.get_or_create(username="operator")
    other = sqlite3.connect(connection.settings_dict["NAME"], isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    try:
        answer = press(api, rig)
    finally:
        other.execute("ROLLBACK")
        other.close()
    assert answer["confirmed"] and not answer["in_book"]
    assert holds(bench)["mode"] == "off"


@pytest.mark.django_db(transaction=True)
@pytest.mark.parametrize("there", ["nobody", "another program"])
def test_what_the_controller_did_not_say_is_not_called_confirmed(api, rig, bench, there):
    """Another program on a stand-in's port is told nothing, and its word counts for nothing."""
    heat(bench)
    if there == "nobody":
        Link.objects.update(port=free_port())
    else:
        settings_key, settings.SECRET_KEY = settings.SECRET_KEY, "another folder"
    try:
        answer = press(api, rig)
    finally:
        if there != "nobody":
            settings.SECRET_KEY = settings_key
    assert not answer["confirmed"]
    assert ("nothing answers" if there == "nobody" else "another program answers") in answer["said"]
    assert holds(bench)["mode"] == "on_off"
    assert bench.rig.entries.first().title == "Safe-off, not confirmed"


@pytest.mark.parametrize("when", ["waits", "was begun"])
def test_an_order_that_a_locked_database_could_not_end_is_not_sent_after_it(rig, when, settings, tmp_path):
    """Nothing of the press reached the database: the mark beside it still keeps the older order from going out."""
    settings.DATA = tmp_path
    link = Link.objects.create(rig=Rig.objects.get(slug=rig), stand_in=True, port=1502)
    link.armed_until = timezone.now() + timedelta(minutes=5)
    link.save()
    by, _ = User.objects.get_or_create(username="operator")
    heat_on = queue(link, by, {"setpoint_c": 60.0, "mode": "on_off"}, {}, timedelta(seconds=60))
    wire = Wire("after setpoint_c" if when == "was begun" else "", lambda: overrule(link))
    if when == "waits":
        overrule(link)
    LinkRecorder(link)._send_commands(wire)
    heat_on.refresh_from_db()
    assert (wire.held["mode"], wire.held["output"]) == ("off", 0.0)
    assert heat_on.state == ("cancelled" if when == "waits" else "part")
    later = queue(link, by, {"mode": "on_off"}, {}, timedelta(seconds=60))  # ordered since, by somebody who looked
    LinkRecorder(link)._send_commands(wire)
    later.refresh_from_db()
    assert later.state == "done"


def test_a_rig_without_a_link_has_no_safe_off(api, rig):
    assert api("POST", f"rigs/{rig}/link/safe-off")[0] == 404


class Wire:
    """A controller of the stand-in's map at which something happens at one moment of a write."""

    map = STAND_IN

    def __init__(self, moment, happens):
        self.held = {"mode": "off", "setpoint_c": 20.0, "output": 0.0, "switch": 0.0}
        self.moment, self.happens = moment, happens

    def at(self, moment):
        if moment == self.moment:
            self.happens()

    def write(self, name, value):
        self.at(f"before {name}")
        self.held[name] = value
        if name == "mode":
            self.held["output"] = 0.0 if value == "off" else 100.0
        self.at(f"after {name}")
        return value

    def switch_off(self, within_s):
        for name, value in STAND_IN.safe_off.writes:
            self.held[name] = value
        self.held["output"] = 0.0
        return dict(self.held)


MOMENTS = [f"{when} {what}" for what in ("setpoint_c", "mode") for when in ("before", "after", "noted")] + ["finished"]


@pytest.mark.parametrize("by_recorder", [True, False])
@pytest.mark.parametrize("moment", MOMENTS)
def test_pressed_at_any_moment_of_a_write_the_heat_is_off_in_the_end(rig, moment, by_recorder, monkeypatch):
    """An order to heat is on its way when safe-off is pressed; the recorder sends that afterwards, or it went directly."""
    link = Link.objects.create(rig=Rig.objects.get(slug=rig), stand_in=True, port=1502)
    link.armed_until = timezone.now() + timedelta(minutes=5)
    link.save()
    by, _ = User.objects.get_or_create(username="operator")

    def pressed():
        command = safe_off.queue_safe_off(Link.objects.get(), by, {"mode": "off"}, timedelta(seconds=3))
        if not by_recorder:
            assert safe_off.take_back(command, Command.State.SENDING)
            wire.switch_off(1)
            safe_off._written_down(link, by, command, "")

    wire = Wire(moment, pressed)
    noted = sending.confirm
    monkeypatch.setattr(
        sending,
        "confirm",
        lambda c, name, value: [noted(c, name, value), not c.safe_off and wire.at(f"noted {name}")][0],
    )
    heat_on = queue(link, by, {"setpoint_c": 60.0, "mode": "on_off"}, {}, timedelta(seconds=60))
    LinkRecorder(link)._send_commands(wire)
    if moment == "finished":
        pressed()
        LinkRecorder(link)._send_commands(wire)
    assert (wire.held["mode"], wire.held["output"]) == ("off", 0.0)
    heat_on.refresh_from_db()
    assert heat_on.state in (("done", "part") if moment in ("finished", "noted mode") else ("part",))
    book = [e.title for e in link.rig.entries.all()]
    assert "Safe-off, confirmed by the controller" in book
    assert not Link.objects.get().armed_until
    told = {name for e in link.rig.entries.filter(title__startswith="Written") for name in e.after}
    assert told >= set(heat_on.begun)
