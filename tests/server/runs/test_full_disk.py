"""A disk that takes nothing more: samples wait in memory and are written when there is room, nothing is invented, the screen says
so, and the heat can still be switched off. Every write of every connection made meanwhile is refused, as SQLite does it."""

import logging
import re
import time
from contextlib import contextmanager

import numpy as np
import pytest
from django.db import IntegrityError, OperationalError, connection
from django.db.backends.signals import connection_created

from rellux.core.runs.series import Series
from rellux.server.links import aside
from rellux.server.logs import EVERY_S, Seldom
from rellux.server.runs import store
from rellux.server.runs.buffer import FLUSH_S, HOLD_S, OVERDUE_S, Buffer, Writer
from rellux.server.runs.models import Run
from tests.server.runs.test_runs import new_run

WRITES = re.compile(r"\s*(INSERT|UPDATE|DELETE|REPLACE)", re.IGNORECASE)


class Disk:
    """Room or none, for every connection."""

    def __init__(self) -> None:
        self.full = False

    def __call__(self, execute, sql, params, many, context):
        if self.full and WRITES.match(sql):
            raise OperationalError("database or disk is full")
        return execute(sql, params, many, context)

    def watch(self, connection, **_):
        connection.execute_wrappers.append(self)


@pytest.fixture
def disk(transactional_db):
    disk = Disk()
    connection_created.connect(disk.watch)
    connection.execute_wrappers.append(disk)
    aside.prepare()
    yield disk
    disk.full = False
    connection_created.disconnect(disk.watch)
    connection.execute_wrappers.remove(disk)
    aside.prepare()


@contextmanager
def full(disk):
    disk.full = True
    try:
        yield
    finally:
        disk.full = False


@pytest.mark.django_db(transaction=True)
def test_a_run_goes_on_by_itself_and_has_no_hole(api, rig, disk, bench):
    live = lambda: api.ok("GET", f"rigs/{rig}")["live"]  # noqa: E731 - asked again and again
    bench.until(lambda: live()["status"] == "online")
    run = api.ok("POST", f"rigs/{rig}/runs", {})["id"]
    bench.until(lambda: Run.objects.get(pk=run).samples > 10)
    with full(disk):
        before = Run.objects.get(pk=run).samples
        deadline = time.monotonic() + 20
        while not live()["notice"] and time.monotonic() < deadline:
            time.sleep(0.1)
        now = live()
        assert "samples are kept in memory" in now["notice"] and "20 more minutes" in now["notice"]
        assert now["status"] == "online" and now["reading_c"] is not None  # beside the database
        first = now["at"]
        time.sleep(1.5)
        assert live()["at"] > first and Run.objects.get(pk=run).samples == before
        status, answer = api("POST", f"rigs/{rig}/runs/{run}/notes", {"text": "full"})
        assert status == 507 and "Make room" in answer["message"]
        assert api.ok("POST", f"rigs/{rig}/link/safe-off")["confirmed"]
    bench.until(lambda: Run.objects.get(pk=run).samples > before + 20)
    bench.until(lambda: not live()["notice"])
    times = store.read(Run.objects.get(pk=run)).time_s
    assert np.all(np.diff(times) > 0) and len(times) == Run.objects.get(pk=run).samples
    assert np.diff(times).max() < 5 * bench.speed * 0.5  # no hole of the seconds without a disk


def row(t):
    return t, 60.0, 20.0 + t, 0.0, 0.0


@pytest.mark.django_db(transaction=True)
def test_what_was_refused_is_counted_once(rig, disk):
    run = new_run(rig, source="live", status="recording")
    buffer = Buffer(run)
    for t in range(5):
        buffer.add(row(float(t)))
    with full(disk):
        for _ in range(3):
            buffer.flush()
    assert len(buffer.rows) == 5 and Run.objects.get(pk=run.pk).samples == 0
    buffer.flush()
    stored = Run.objects.get(pk=run.pk)
    assert (stored.samples, stored.length_s, stored.peak_c, buffer.rows, buffer.held_since) == (5, 4.0, 24.0, [], None)


@pytest.mark.django_db(transaction=True)
def test_past_the_time_stated_what_comes_is_lost_and_marked(rig, disk, monkeypatch):
    run = new_run(rig, source="live", status="recording")
    buffer = Buffer(run)
    buffer.add(row(0.0))
    with full(disk):
        buffer.flush()
        buffer.held_since -= HOLD_S + 1
        for t in range(1, 4):
            buffer.add(row(float(t)))
        assert buffer.left_s() == 0 and len(buffer.rows) == 1
    buffer.flush()
    buffer.add(row(9.0))
    buffer.flush()
    assert list(store.read(run).time_s) == [0.0, 9.0]
    assert [e.text for e in run.events.all()] == ["nothing could be written to disk: 3 samples are missing"]


def test_what_is_said_beside_the_database_is_whole_fresh_or_nothing(tmp_path, settings):
    settings.DATA = tmp_path
    assert aside.heard(1) is None  # no file
    aside.prepare()
    assert aside.heard(1) is None
    said = aside.Said("2099-01-01T00:00:00+00:00", {"reading_c": 60.0}, 3, 900.0)
    aside.say(1, said)
    aside.say(2, said)
    assert aside.heard(1) == said and aside.heard(3) is None
    aside.say(1, None)
    assert aside.heard(1) is None and aside.heard(2) == said
    (tmp_path / "recorder.aside").write_bytes(b'{"2": {"at": "2026')
    assert aside.heard(2) is None  # caught in the middle
    aside.say(2, aside.Said("2026-01-01T00:00:00+00:00", {}, 3, 900.0))
    assert aside.heard(2) is None  # said by a recorder that is no more
    assert (tmp_path / "recorder.aside").stat().st_size == aside.SIZE  # never a byte more room


def test_the_same_complaint_is_heard_once_a_minute(monkeypatch):
    now = [1000.0]
    monkeypatch.setattr(time, "monotonic", lambda: now[0])
    seldom = Seldom()

    def said(line=1):
        record = logging.LogRecord("rellux", logging.WARNING, "x.py", line, "no room: %s", ("full",), None)
        return record.getMessage() if seldom.filter(record) else None

    assert said() == "no room: full" and said() is None and said(2) == "no room: full"
    now[0] += EVERY_S
    assert said() == "no room: full (and 1 times since)"


def test_a_series_of_nothing_but_gaps_has_no_peak(rig):
    run = new_run(rig, source="csv", status="finished")
    nothing = np.full(3, np.nan)
    store.append(run, Series(np.arange(3.0), nothing, nothing, nothing, nothing))
    assert Run.objects.get(pk=run.pk).peak_c is None


@pytest.mark.django_db(transaction=True)
@pytest.mark.parametrize("broken", ["its run is gone", "its rows are of two lengths"])
def test_the_writer_takes_what_is_due_from_every_device_and_leaves_what_it_cannot_write(rig, broken):
    """The fault of one is its own: it keeps no other from the disk, however it goes on, and its own thread is to hear of it."""
    runs, writer = [new_run(rig) for _ in range(4)], Writer()
    buffers = [Buffer(run) for run in runs]

    def add(time_s, waiting_s):
        for buffer in buffers:
            buffer.add((time_s, 60.0, 20.0, 50.0, 1.0))
            buffer.since -= waiting_s

    def on_disk():
        return [list(store.read(run).time_s) for i, run in enumerate(runs) if i != bad]

    add(0.0, FLUSH_S / 2)
    writer.look()
    assert all(len(b.rows) == 1 for b in buffers)  # nothing is due yet
    add(1.0, FLUSH_S / 2)
    writer.look()
    bad = 1
    assert (
        on_disk() == [[0.0, 1.0]] * 3
        and [run.chunks.count() for run in runs] == [1] * 4
        and not any(b.rows for b in buffers)
    )
    if broken == "its run is gone":
        Run.objects.filter(pk=runs[bad].pk).delete()
    else:
        buffers[bad].rows.append((2.0, 60.0))
    for i in range(2, 6):
        add(float(i), OVERDUE_S)
        writer.look()
    assert on_disk() == [[0.0, 1.0, 2.0, 3.0, 4.0, 5.0]] * 3
    with pytest.raises((IntegrityError, ValueError)):
        buffers[bad].flush_when_due()
    assert len(buffers[bad].rows) >= 4


@pytest.mark.django_db(transaction=True)
def test_without_a_writer_each_writes_what_it_holds_once_it_is_overdue(rig):
    run = new_run(rig)
    buffer = Buffer(run)
    buffer.add((0.0, 60.0, 20.0, 50.0, 1.0))
    buffer.flush_when_due()
    assert run.chunks.count() == 0
    buffer.since -= OVERDUE_S
    buffer.flush_when_due()
    buffer.flush_when_due()
    assert run.chunks.count() == 1 and not buffer.rows
