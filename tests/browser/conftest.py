"""The whole application as users start it, and a browser in front of it."""

import os
import shutil
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest
from filelock import FileLock
from selenium.webdriver import Chrome

from tests.browser.chromium import chromium
from tests.browser.page import Page

ROOT = Path(__file__).resolve().parents[2]


class Stack:
    """Web, recorder and simulated controllers under their supervisor, on data of their own."""

    def __init__(self, what: str, data: Path, shared: Path) -> None:
        with socket.socket() as s:
            s.bind(("127.0.0.1", 0))
            self.port = s.getsockname()[1]
        environment = {
            **os.environ,
            "RELLUX_DATA": str(data),
            "PYTHONPATH": str(ROOT / "src"),
            "NUMBA_CACHE_DIR": str(shared / "compiled"),
        }
        self.process = subprocess.Popen(
            [sys.executable, "-m", "rellux.launch", what, "--port", str(self.port)], env=environment, cwd=ROOT
        )
        self.address = f"http://127.0.0.1:{self.port}"
        deadline = time.monotonic() + 240  # on a machine that does other work beside
        while time.monotonic() < deadline:
            try:
                urllib.request.urlopen(f"{self.address}/api/v1/rigs", timeout=10)
                return
            except OSError:
                time.sleep(0.3)
        self.stop()
        raise AssertionError("Rellux did not start")

    def child(self, words: str) -> int:
        """Process id of the child whose command line contains ``words``."""
        for path in Path("/proc").glob("[0-9]*"):
            try:
                line = (path / "cmdline").read_bytes().replace(b"\0", b" ").decode()
                parent = int((path / "stat").read_text().rsplit(")", 1)[1].split()[1])
            except (OSError, ValueError):
                continue
            if words in line and parent == self.process.pid:
                return int(path.name)
        raise AssertionError(f"no process {words!r}")

    def kill(self, words: str) -> None:
        os.kill(self.child(words), signal.SIGKILL)

    def stop(self) -> int:
        self.process.terminate()
        return self.process.wait(30)


@pytest.fixture(scope="session")
def shared(tmp_path_factory, worker_id) -> Path:
    """A folder of this run that all its workers have in common; ``./rellux test`` has made the demo's data in it."""
    if folder := os.environ.get("RELLUX_MADE"):
        return Path(folder)
    base = tmp_path_factory.getbasetemp()
    return base if worker_id == "master" else base.parent


@pytest.fixture(scope="module")
def demo(tmp_path_factory, shared) -> Iterator[Stack]:
    """The demo workshop. Its data are made once a run; everybody works on a copy."""
    made, data = shared / "demo data", tmp_path_factory.mktemp("demo")
    with FileLock(shared / "demo.lock"):
        if not made.exists():
            Stack("demo", data, shared).stop()
            shutil.copytree(data, made)
    shutil.copytree(made, data, dirs_exist_ok=True)
    stack = Stack("demo", data, shared)
    yield stack
    assert stack.stop() == 0, "it does not end cleanly"


@pytest.fixture(scope="module")
def empty(tmp_path_factory, shared) -> Iterator[Stack]:
    stack = Stack("serve", tmp_path_factory.mktemp("own"), shared)
    yield stack
    assert stack.stop() == 0, "it does not end cleanly"


@pytest.fixture(scope="session")
def running_chromium() -> Iterator[Chrome]:
    """One for all tests of a worker: starting it takes longer than many a test."""
    with chromium() as driver:
        yield driver


@pytest.fixture
def browser(running_chromium: Chrome) -> Iterator[Page]:
    """A new tab that knows nothing of what was before."""
    before = running_chromium.window_handles
    running_chromium.switch_to.new_window("tab")
    fresh = running_chromium.current_window_handle
    for handle in before:
        running_chromium.switch_to.window(handle)
        running_chromium.close()
    running_chromium.switch_to.window(fresh)
    running_chromium.get_log("browser")  # what others complained of
    page = Page(running_chromium)
    yield page
    page.forget()
