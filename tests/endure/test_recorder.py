"""The recorder over and over, as users start it: by hand, ``./rellux endure``. Killed forty times it loses a second at most and is
back within three; recording for ten minutes of ten polls a second it grows by nothing to speak of."""

import os
import shutil
import signal
import sqlite3
import time
from pathlib import Path

import numpy as np
import psutil
import pytest
import requests

from rellux.launch import CALM_S
from rellux.server.runs.buffer import FLUSH_S
from tests.browser.conftest import Stack

RIG, KILLS, SPEED = "cement-cabinet", 40, 10.0
LOST_S, BACK_S = 1.0, 3.0
SETTLED_S, WATCHED_S, GROWN_MB = 60.0, 600.0, 4.0


class Bench:
    """The demo, spoken to as its pages do, with a simulated controller whose clock tells tenths of a second that is being recorded."""

    def __init__(self, data: Path, made: Path) -> None:
        self.stack = Stack("demo", data, made)
        self.session = requests.Session()
        self.session.get(self.stack.address, timeout=30)
        self.call("PUT", "link", {"stand_in": True, "speed": SPEED, "poll_s": 0.1})
        self.until(lambda: self.call("GET", "")["live"]["status"] == "online")
        self.run = self.call("POST", "runs", {})["id"]
        self.until(lambda: self.held()["samples"] > 20)
        self.database = sqlite3.connect(f"file:{data / 'rellux.sqlite3'}?mode=ro", uri=True)

    def call(self, method: str, path: str, body: object = None) -> dict[str, object]:
        headers = {"X-CSRFToken": self.session.cookies.get("csrftoken", "")}
        place = f"{self.stack.address}/api/v1/rigs/{RIG}/{path}".rstrip("/")
        answer = self.session.request(method, place, json=body, headers=headers, timeout=30)
        assert answer.status_code < 300, answer.text
        return answer.json()

    def held(self) -> dict[str, object]:
        return self.call("GET", f"runs/{self.run}")

    def on_disk_s(self) -> float:
        """The time of the newest sample that is on disk."""
        asked = "SELECT MAX(last_s) FROM runs_chunk WHERE run_id = ?"
        return float(self.database.execute(asked, (self.run,)).fetchone()[0] or 0.0)

    def until(self, condition, seconds: float = 60.0) -> None:
        deadline = time.monotonic() + seconds
        while not condition():
            assert time.monotonic() < deadline, "it never happened"
            time.sleep(0.02)


@pytest.fixture
def bench(tmp_path):
    bench = Bench(tmp_path / "data", tmp_path)
    yield bench
    bench.stack.stop()
    shutil.rmtree(tmp_path / "data")


def test_killed_forty_times_it_loses_a_second_at_most_and_is_back_in_three(bench):
    lost, back = [], []
    for _ in range(KILLS):
        recorder = bench.stack.child("manage record")
        until, held, held_at = time.monotonic() + CALM_S + 2.0, 0.0, 0.0
        while time.monotonic() < until:
            if (newest := bench.on_disk_s()) > held:
                held, held_at = newest, time.monotonic()
            time.sleep(0.01)
        os.kill(recorder, signal.SIGKILL)
        killed_at = time.monotonic()
        held = max(held, bench.on_disk_s())
        lost.append(killed_at - held_at)
        bench.until(lambda held=held: bench.on_disk_s() > held)
        back.append(time.monotonic() - killed_at - FLUSH_S)  # it was heard so much before it was written
    said = (
        f"{what} at most {max(x):.2f} s, median {np.median(x):.2f} s"
        for what, x in (("lost", lost), ("back after", back))
    )
    print("; ".join(said))
    assert max(lost) <= LOST_S and max(back) < BACK_S
    assert bench.held()["status"] == "recording"


def test_recording_for_long_does_not_grow(bench):
    recorder = psutil.Process(bench.stack.child("manage record"))
    time.sleep(SETTLED_S)
    sizes = []
    until = time.monotonic() + WATCHED_S
    while time.monotonic() < until:
        sizes.append(recorder.memory_info().rss / 1e6)
        time.sleep(2.0)
    third = len(sizes) // 3
    grown = float(np.median(sizes[-third:]) - np.median(sizes[:third]))
    print(f"the recorder holds {sizes[-1]:.0f} MB and grew by {grown:.1f} MB in {WATCHED_S / 60:.0f} minutes")
    assert grown < GROWN_MB
