"""What the long-running processes share: stopping when asked to, and not outliving the launcher."""

import contextlib
import os
import signal
import threading

SUPERVISED = "RELLUX_SUPERVISED"
"""Set by the launcher in the processes it starts: their standard input is a pipe that ends with it."""


def end_with_launcher() -> None:
    """Stop this process, as SIGTERM would, when the launcher closes its end of the pipe or is killed."""
    if os.environ.get(SUPERVISED):
        threading.Thread(target=_watch, daemon=True).start()


def _watch() -> None:
    with contextlib.suppress(OSError):
        while os.read(0, 64):
            pass
    signal.raise_signal(signal.SIGTERM)


class Stopping:
    """``wait()`` sleeps until the interval is over; ``asked`` turns true on SIGTERM, SIGINT or the end of the launcher."""

    def __init__(self) -> None:
        self._event = threading.Event()
        signal.signal(signal.SIGTERM, self._on_signal)
        signal.signal(signal.SIGINT, self._on_signal)
        end_with_launcher()

    def _on_signal(self, number: int, frame: object) -> None:
        self._event.set()

    @property
    def asked(self) -> bool:
        return self._event.is_set()

    def wait(self, seconds: float) -> None:
        self._event.wait(seconds)
