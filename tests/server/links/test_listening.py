"""A rig whose board prints its readings: listened to, linked, recorded through a restart, and never written to."""

import time

import pytest

from rellux.devices import arriving
from rellux.devices.text_link import LineReader
from rellux.server.links.models import Link
from rellux.server.rigs.models import Rig
from rellux.server.runs import store
from rellux.server.runs.models import Run
from rellux.server.runs.recorder import Recorder
from tests.devices.board import Board


@pytest.fixture
def board():
    board = Board(lambda n: f"oven_f={68 + n % 50}.0 SP=140 duty={n % 101}\n")
    yield board
    if not board.stopping.is_set():
        board.unplug()


def until(condition, recorder, seconds=20.0):
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        recorder.follow()
        if found := condition():
            return found
        time.sleep(0.05)
    raise AssertionError("it never happened")


@pytest.mark.django_db(transaction=True)
def test_a_board_is_learnt_linked_recorded_and_only_listened_to(api, rig, board):
    heard = api.ok("POST", "serial-ports/listen", {"device": board.device, "baud": 9600})
    how = heard["learnt"]["format"]
    assert how["roles"] == {"reading": "oven_f", "setpoint": "SP", "output": "duty"} and how["unit"] == "F"
    assert heard["lines"][-1].startswith("oven_f=") and 0.05 <= heard["interval_s"] < 2
    link = {
        "stand_in": False,
        "way": "text",
        "device": board.device,
        "baud": 9600,
        "poll_s": 0.05,
        "register_map": "text",
    }
    assert api.refused("PUT", f"rigs/{rig}/link", link)["field"] == "line_format"
    assert (
        api.refused("PUT", f"rigs/{rig}/link", {**link, "way": "serial", "line_format": how})["field"] == "register_map"
    )
    wrong = {**how, "roles": {"setpoint": "SP"}}
    assert (
        "none of the fields is the reading"
        in api.refused("PUT", f"rigs/{rig}/link", {**link, "line_format": wrong})["reason"]
    )
    assert api.ok("PUT", f"rigs/{rig}/link", {**link, "line_format": how})["line_format"] == how
    other = api.ok("POST", "rigs", {**api.ok("GET", f"rigs/{rig}")["purpose"], "name": "Second", "kind": "cabinet"})[
        "slug"
    ]
    assert Rig.objects.filter(slug=other).exists()

    recorder = Recorder()
    try:
        live = until(lambda: (v := api.ok("GET", f"rigs/{rig}")["live"])["status"] == "online" and v, recorder)
        assert live["setpoint_c"] == pytest.approx(60.0) and not live["safe_off"]
        run = api.ok("POST", f"rigs/{rig}/runs", {})["id"]
        until(lambda: api.ok("GET", f"rigs/{rig}/runs/{run}")["samples"] > 60, recorder)
        assert api("POST", f"rigs/{rig}/link/safe-off")[0] == 400
        recorder.stop()
        recorder = Recorder()  # as after a kill: the machine's clock goes on, so does the run
        before = api.ok("GET", f"rigs/{rig}/runs/{run}")["samples"]
        until(lambda: api.ok("GET", f"rigs/{rig}/runs/{run}")["samples"] > before + 30, recorder)
        assert api.ok("GET", f"rigs/{rig}/runs/{run}")["status"] == "recording"
        board.unplug()
        until(lambda: "is gone" in api.ok("GET", f"rigs/{rig}")["live"]["message"], recorder)
    finally:
        recorder.stop()
    series = store.read(Run.objects.get(pk=run))
    assert set(series.setpoint_c) == {60.0}
    shown = set((series.reading_c * 1.8 + 32).round(3))
    assert shown <= {68.0 + k for k in range(50)}
    assert (series.time_s[1:] > series.time_s[:-1]).all()
    kinds = [e["kind"] for e in api.ok("GET", f"rigs/{rig}/runs/{run}")["events"]]
    assert kinds.count("gap") >= 2  # the recorder's pause, and the unplugged port; a busy machine may add its own


@pytest.mark.django_db(transaction=True)
def test_a_silent_board_is_waited_for_with_its_port_open(api, rig, board, monkeypatch):
    """Opening may reset it: one that takes long to start would never get to its first line."""
    opened = []
    enter = LineReader.__enter__
    monkeypatch.setattr(LineReader, "__enter__", lambda reader: opened.append(reader) or enter(reader))
    monkeypatch.setattr(arriving, "SILENT_S", 0.4)
    how = {"kind": "named", "keys": ["oven_f"], "roles": {"reading": "oven_f"}, "unit": "F"}
    link = {"stand_in": False, "way": "text", "device": board.device, "register_map": "text", "poll_s": 0.05}
    api.ok("PUT", f"rigs/{rig}/link", {**link, "line_format": how})
    recorder, spoken = Recorder(), board.line

    def is_now(status):
        return until(lambda: (v := api.ok("GET", f"rigs/{rig}")["live"])["status"] == status and v, recorder)

    try:
        is_now("online")
        run = api.ok("POST", f"rigs/{rig}/runs", {})["id"]
        until(lambda: api.ok("GET", f"rigs/{rig}/runs/{run}")["samples"] > 10, recorder)
        board.line = lambda n: "starting\n"
        assert "another form than was learnt" in is_now("offline")["message"]
        time.sleep(1.0)
        board.line = spoken
        is_now("online")
        assert len(opened) == 1
        kinds = [e["kind"] for e in api.ok("GET", f"rigs/{rig}/runs/{run}")["events"]]
        assert kinds == ["gap"]
    finally:
        recorder.stop()


def test_a_port_that_cannot_be_heard_says_why(api, db, board):
    listen = "serial-ports/listen"
    assert "there is no port" in api.refused("POST", listen, {"device": "/dev/nowhere", "baud": 9600})["reason"]
    assert api.refused("POST", listen, {"device": "", "baud": 9600})["field"] == "device"
    assert api.refused("POST", listen, {"device": "/dev/x", "baud": 12})["field"] == "baud"
    board.line = lambda n: "hello\n"
    assert "no readings" in api.refused("POST", listen, {"device": board.device, "baud": 9600})["reason"]


def test_one_port_is_for_one_rig(api, rig, board):
    how = {"kind": "named", "keys": ["T"], "roles": {"reading": "T"}}
    text = {"stand_in": False, "way": "text", "device": "/dev/a", "register_map": "text", "line_format": how}
    Link.objects.create(
        rig=Rig.objects.create(**{**Rig.objects.filter(slug=rig).values().get(), "id": None, "slug": "other", "name": "Other"}),
        way="serial", device="/dev/a", port=0,
    )  # fmt: skip
    assert "Other is linked by this port" in api.refused("PUT", f"rigs/{rig}/link", text)["reason"]
