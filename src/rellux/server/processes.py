"""What the long-running processes share: stopping when asked to."""

import signal
import threading


class Stopping:
    """``wait()`` sleeps until the interval is over; ``asked`` turns true on SIGTERM or SIGINT."""

    def __init__(self) -> None:
        self._event = threading.Event()
        signal.signal(signal.SIGTERM, self._on_signal)
        signal.signal(signal.SIGINT, self._on_signal)

    def _on_signal(self, number: int, frame: object) -> None:
        self._event.set()

    @property
    def asked(self) -> bool:
        return self._event.is_set()

    def wait(self, seconds: float) -> None:
        self._event.wait(seconds)
