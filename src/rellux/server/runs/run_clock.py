"""The time of the run being recorded on a rig, for whatever else measures there.

The controller's own clock makes a run's time. Every look at it sets the clock here; in between it goes on as fast as that of the
controller, which is faster than the wall's where it is simulated so. One process records, so this is kept in its memory.
"""

import threading
import time
from dataclasses import dataclass

from .models import Run


@dataclass(frozen=True)
class _Look:
    run: Run
    at_s: float
    seen: float
    speed: float


_looks: dict[int, _Look] = {}
_lock = threading.Lock()


def look(rig: int, run: Run, at_s: float, speed: float) -> None:
    """The run's time has been read from the controller."""
    with _lock:
        _looks[rig] = _Look(run, at_s, time.monotonic(), speed)


def end(rig: int) -> None:
    """Nothing is being recorded any more."""
    with _lock:
        _looks.pop(rig, None)


def now(rig: int) -> tuple[Run, float] | None:
    """The run being recorded and its time in s; ``None`` where none is, or its controller has not been heard yet."""
    with _lock:
        found = _looks.get(rig)
    if found is None:
        return None
    return found.run, found.at_s + (time.monotonic() - found.seen) * found.speed
