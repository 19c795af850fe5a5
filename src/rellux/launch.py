"""Starts and stops Rellux's processes together: web, recorder, simulated controllers.

One that dies is started again (slower each time it keeps dying). On Ctrl-C or SIGTERM all are asked to stop, the
recorder flushes what it holds, and only then does this process end.
"""

import argparse
import contextlib
import os
import signal
import socket
import subprocess
import sys
import time
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from rellux.folder import Unusable, check_database, claim, is_prepared
from rellux.places import data_home
from rellux.server.processes import SUPERVISED

STOP_S = 12.0
CALM_S = 10.0
HEAD_START_S = 1.5
"""So much later the others begin than what answers the browser: all three at once would be as slow as the slowest (our choice)."""
MANAGE = [sys.executable, "-m", "rellux.server.manage"]


def _apart() -> dict[str, Any]:
    """How a child is kept from the terminal's Ctrl-C, which is this process's to answer."""
    if os.name == "posix":
        return {"start_new_session": True}
    return {"creationflags": getattr(subprocess, "CREATE_NEW_PROCESS_GROUP", 0)}


@dataclass
class Child:
    """One supervised process. It stops when its standard input ends, so it does not outlive this one either."""

    name: str
    command: list[str]
    process: subprocess.Popen[bytes] | None = None
    started_at: float = 0.0
    deaths: int = 0
    due_at: float = field(default_factory=time.monotonic)

    def start(self) -> None:
        environment = {**os.environ, "RELLUX_PROCESS": self.name.replace(" ", "-"), SUPERVISED: "1"}
        self.process = subprocess.Popen(self.command, env=environment, stdin=subprocess.PIPE, **_apart())
        self.started_at = time.monotonic()

    def ask_to_stop(self) -> None:
        """Close its input; where there are signals, say it with one too."""
        if self.process is None or self.process.stdin is None:
            return
        with contextlib.suppress(OSError):
            self.process.stdin.close()
        if os.name == "posix" and self.process.poll() is None:
            self.process.terminate()

    def look(self) -> None:
        """Start it if it is due; note a death and when to try again: at once, or where it keeps dying later and later."""
        now = time.monotonic()
        if self.process is None:
            if now >= self.due_at:
                self.start()
            return
        if self.process.poll() is None:
            return
        self.deaths = self.deaths + 1 if now - self.started_at < CALM_S else 1
        self.due_at = now + (min(2.0 ** (self.deaths - 1), 30.0) if self.deaths > 1 else 0.0)
        print(f"{self.name} stopped by itself; starting it again", file=sys.stderr, flush=True)
        self.process = None


def children(port: int) -> list[Child]:
    """In the order in which they are stopped last to first; web begins first, for somebody waits for it."""
    later = time.monotonic() + HEAD_START_S
    return [
        Child("simulated controllers", [*MANAGE, "simulate"], due_at=later),
        Child("recorder", [*MANAGE, "record"], due_at=later),
        Child("web", [*MANAGE, "web", "--port", str(port)]),
    ]


def supervise(family: list[Child], port: int) -> None:
    """Keep the family alive until asked to stop, then stop it in reverse order. Says where it is once it answers."""
    said = False
    asked: list[int] = []
    signal.signal(signal.SIGTERM, lambda number, frame: asked.append(number))
    signal.signal(signal.SIGINT, lambda number, frame: asked.append(number))
    try:
        while not asked:
            for child in family:
                child.look()
            time.sleep(0.2)
            if not said and not port_is_free(port):
                print(f"Rellux is at http://127.0.0.1:{port}  (Ctrl-C stops it)", flush=True)
                said = True
    finally:
        for child in reversed(family):
            child.ask_to_stop()
        deadline = time.monotonic() + STOP_S
        for child in reversed(family):
            if child.process:
                try:
                    child.process.wait(max(0.1, deadline - time.monotonic()))
                except subprocess.TimeoutExpired:
                    child.process.kill()


def port_is_free(port: int) -> bool:
    with socket.socket() as s:
        if os.name == "posix":  # elsewhere it would let two programs have one port
            s.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            s.bind(("127.0.0.1", port))
        except OSError:
            return False
    return True


def main() -> int:
    parser = argparse.ArgumentParser(prog="rellux", description="Start Rellux.")
    parser.add_argument("what", choices=("demo", "serve"))
    parser.add_argument("--port", type=int, default=int(os.environ.get("RELLUX_PORT", "8420")))
    given = parser.parse_args()
    if not 1 <= given.port <= 65535:
        print(f"Port {given.port} does not exist; choose one from 1 to 65535.", file=sys.stderr)
        return 2
    os.environ.setdefault("RELLUX_DATA", str(data_home() / ("demo" if given.what == "demo" else "own")))
    folder = Path(os.environ["RELLUX_DATA"])
    os.environ.setdefault("NUMBA_CACHE_DIR", str(folder / "compiled"))
    try:
        with claim(folder, f"http://127.0.0.1:{given.port}"):
            if not port_is_free(given.port):
                print(f"Port {given.port} is taken by another program. Try: ./rellux {given.what} --port {given.port + 1}",
                      file=sys.stderr)  # fmt: skip
                return 2
            check_database(folder)
            return run(given.what, given.port, folder)
    except Unusable as reason:
        print(reason, file=sys.stderr)
        return 2


def run(what: str, port: int, folder: Path) -> int:
    """Bring the database up to date where it is not, then serve until asked to stop."""
    demo = what == "demo"
    if not is_prepared(folder, demo) and subprocess.run([*MANAGE, "prepare", *(["--demo"] if demo else [])]).returncode:
        print(
            "The database could not be brought up to date; the lines above say why. Nothing was started.",
            file=sys.stderr,
        )
        return 2
    supervise(children(port), port)
    return 0


if __name__ == "__main__":
    sys.exit(main())
