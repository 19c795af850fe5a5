"""A rig whose controller writes a log, and one whose readings come as messages: linked, live, recorded at the times they say."""

import threading
import time

import pytest

from rellux.server.links.models import Link
from rellux.server.runs import store
from rellux.server.runs.models import Run
from rellux.server.runs.recorder import Recorder
from tests.devices.test_mqtt_link import Shop
from tests.server.links.test_listening import until

HEAD = "time;oven;SP;air temp;duty %\n"


def row(i, day="2026-11-24 "):
    return f"{day}08:{i // 60:02d}:{i % 60:02d};{20 + i % 40},5;65;21,0;{i % 100}\n"


class Writer:
    """Another program that writes a row every few milliseconds: a second each, by its own clock."""

    def __init__(self, path, day="2026-11-24 "):
        self.path, self.day, self.stopping = path, day, threading.Event()
        self.path.write_text(HEAD + "".join(row(i, day) for i in range(5)), encoding="utf-8")
        self.thread = threading.Thread(target=self.run, daemon=True)
        self.thread.start()

    def run(self):
        i = 5
        while not self.stopping.wait(0.02):
            with self.path.open("a", encoding="utf-8") as file:
                file.write(row(i, self.day))
            i += 1

    def stop(self):
        self.stopping.set()
        self.thread.join(5)


BY_FILE = {"stand_in": False, "way": "file", "register_map": "text", "poll_s": 1.0}


def mapped(guess):
    columns = {c["role"]: i for i, c in enumerate(guess["columns"]) if c["role"]}
    return {
        **{k: guess[k] for k in ("delimiter", "decimal", "header", "time_format", "unit", "skip")},
        "columns": columns,
    }


@pytest.mark.django_db(transaction=True)
def test_a_growing_log_is_looked_at_linked_and_recorded(api, rig, tmp_path):
    writer, recorder = Writer(tmp_path / "oven.csv"), Recorder()
    try:
        assert api.refused("POST", "logs/look", {"path": "/etc/passwd"})["field"] == "device"
        guess = api.ok("POST", "logs/look", {"path": str(writer.path)})
        mapping, link = mapped(guess), {**BY_FILE, "device": str(writer.path)}
        assert mapping["columns"] == {"time": 0, "reading": 1, "setpoint": 2, "air": 3, "output": 4}
        assert api.refused("PUT", f"rigs/{rig}/link", link)["field"] == "mapping"
        wrong = {**mapping, "columns": {"time": 0, "reading": 9}}
        assert api.refused("PUT", f"rigs/{rig}/link", {**link, "mapping": wrong})["field"] == "columns.reading"
        assert mapping.items() <= api.ok("PUT", f"rigs/{rig}/link", {**link, "mapping": mapping})["mapping"].items()

        live = until(lambda: (v := api.ok("GET", f"rigs/{rig}")["live"])["status"] == "online" and v, recorder)
        assert live["setpoint_c"] == 65.0 and not live["safe_off"]
        assert api("POST", f"rigs/{rig}/link/safe-off")[0] == 400
        run = api.ok("POST", f"rigs/{rig}/runs", {})["id"]
        until(lambda: Run.objects.get(pk=run).samples > 60, recorder)
        recorder.stop()
        time.sleep(0.5)  # some 25 rows are written while nobody reads
        recorder = Recorder()
        before = Run.objects.get(pk=run).samples
        until(lambda: Run.objects.get(pk=run).samples > before + 40, recorder)
        api.ok("POST", f"rigs/{rig}/runs/{run}/stop")
        until(lambda: Run.objects.get(pk=run).chunks.count() == 1, recorder)
    finally:
        writer.stop()
        recorder.stop()
    series, track = store.read(Run.objects.get(pk=run)), Run.objects.get(pk=run).tracks.get()
    assert set((series.time_s[1:] - series.time_s[:-1]).round(3)) == {1.0}  # its own seconds, none lost
    marks = [e["text"] for e in api.ok("GET", f"rigs/{rig}/runs/{run}")["events"]]
    assert len(marks) == 1 and "rows that its log held meanwhile were taken from there" in marks[0]
    assert [c["role"] for c in track.channels] == ["air"] and set(store.read(track).values[0]) == {21.0}


@pytest.mark.django_db(transaction=True)
def test_the_rows_of_a_log_without_dates_are_not_made_up_for_and_the_gap_is_said_once(api, rig, tmp_path):
    """08:00:40 may be of today or of last week: nothing is taken from before the recorder came back."""
    writer, recorder = Writer(tmp_path / "oven.csv", day=""), Recorder()
    try:
        guess = api.ok("POST", "logs/look", {"path": str(writer.path)})
        api.ok("PUT", f"rigs/{rig}/link", {**BY_FILE, "device": str(writer.path), "mapping": mapped(guess)})
        until(lambda: api.ok("GET", f"rigs/{rig}")["live"]["status"] == "online", recorder)
        run = api.ok("POST", f"rigs/{rig}/runs", {})["id"]
        until(lambda: Run.objects.get(pk=run).samples > 40, recorder)
        recorder.stop()
        time.sleep(1.0)  # some 50 rows, a second each by the log's clock
        recorder = Recorder()
        before = Run.objects.get(pk=run).samples
        until(lambda: Run.objects.get(pk=run).samples > before + 20, recorder)
    finally:
        writer.stop()
        recorder.stop()
    marks = [e["text"] for e in api.ok("GET", f"rigs/{rig}/runs/{run}")["events"]]
    assert len(marks) == 1 and marks[0].startswith("the recorder was started again")


@pytest.mark.django_db(transaction=True)
def test_messages_are_recorded_at_the_time_they_were_sent_and_set_nothing(api, rig):
    shop, recorder = Shop(), Recorder()
    stopping, sent = threading.Event(), []

    def send():
        while not stopping.wait(0.1):
            sent.append(shop.say(reading_c=100.0 + len(sent), setpoint_c=400.0, load_a=6.5))

    sender = threading.Thread(target=send, daemon=True)
    try:
        link = {
            "stand_in": False,
            "way": "mqtt",
            "host": "127.0.0.1",
            "port": shop.port,
            "register_map": "text",
            "poll_s": 0.1,
        }
        assert api.refused("PUT", f"rigs/{rig}/link", {**link, "device": "rellux/#"})["field"] == "device"
        api.ok("PUT", f"rigs/{rig}/link", {**link, "device": "rellux/kiln"})
        sender.start()
        until(lambda: api.ok("GET", f"rigs/{rig}")["live"]["status"] == "online", recorder)
        time.sleep(0.5)
        run = api.ok("POST", f"rigs/{rig}/runs", {})["id"]
        until(lambda: Run.objects.get(pk=run).samples > 20, recorder)
        shown = api.ok("GET", f"rigs/{rig}/devices")["devices"][0]
        assert [(c["source"], c["true"]) for c in shown["channels"]] == [("load_a", 6.5)]
        assert api.ok("GET", f"rigs/{rig}/link")["differences"] == []  # a set-point that comes so sets nothing
        api.ok("POST", f"rigs/{rig}/runs/{run}/stop")
        until(lambda: Run.objects.get(pk=run).chunks.count() == 1, recorder)
    finally:
        stopping.set()
        recorder.stop()
        shop.close()
    held = Run.objects.get(pk=run)
    series = store.read(held)
    numbers = (series.reading_c - 100).astype(int)
    assert list(numbers) == list(range(numbers[0], numbers[0] + len(numbers)))  # each once, in its order
    assert [held.clock_start_s + t for t in series.time_s] == pytest.approx([sent[n] for n in numbers], abs=0.01)


@pytest.mark.django_db
def test_a_password_goes_to_the_broker_it_was_given_for_and_to_nobody_else(api, rig):
    link = {
        "stand_in": False,
        "way": "mqtt",
        "host": "broker",
        "port": 1883,
        "device": "rellux/kiln",
        "register_map": "text",
    }
    safe = {**link, "username": "bench", "encrypted": True}

    def put(**changed):
        view = api.ok("PUT", f"rigs/{rig}/link", {**safe, **changed})
        assert "secret" not in str(view) and view["has_password"] == bool(Link.objects.get().password)
        return Link.objects.get().password

    for elsewhere in (
        {"host": "other"},
        {"port": 1884},
        {"username": "guest"},
        {"encrypted": False},
        {"way": "tcp", "register_map": "stand_in"},
    ):
        assert put(password="secret") == "secret" and put() == "secret" and put(poll_s=2.0) == "secret"
        assert put(**elsewhere) == "" and put() == ""
    assert put(password="secret") and put(password="") == ""
    for field, wrong in (
        ("username", {"username": "", "password": "secret"}), ("username", {"username": "x" * 101}), ("password", {"password": "\0"}),
        ("authority", {"authority": "/nowhere/ca.pem"}), ("authority", {"authority": "/etc/passwd"}),
        ("authority", {"authority": "/dev/zero"}), ("authority", {"authority": "/tmp"}), ("authority", {"authority": "\0"}),
    ):  # fmt: skip
        assert api.refused("PUT", f"rigs/{rig}/link", {**safe, **wrong})["field"] == field
    assert put(authority="") == ""
