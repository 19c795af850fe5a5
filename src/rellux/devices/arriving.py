"""What comes by itself, in its order until it is read; and silence, told once a stretch."""

from collections import deque
from collections.abc import Callable
from time import monotonic

from .modbus_link import LinkDown
from .registers import Value

MOST_WAITING = 10_000
SILENT_S = 5.0
OTHER = "is of another form than was learnt: what writes it, or its speed, may be another"


class LinkSilent(LinkDown):
    """Nothing that can be read has come for long. The way to it is still there, and open."""


class Arriving:
    """Readings of one device as they come. ``interval_s``: how often they usually do; ``what``: the device, in words."""

    def __init__(self, what: str, interval_s: float, clock: Callable[[], float] = monotonic) -> None:
        self._what, self._clock = what, clock
        self._silent_s = max(SILENT_S, 3.0 * interval_s)
        self._waiting: deque[dict[str, Value | None]] = deque(maxlen=MOST_WAITING)
        self._heard, self._unusable, self._why = clock(), 0, ""

    def begin(self) -> None:
        """It is listened to from now on."""
        self._heard = self._clock()

    def put(self, values: dict[str, Value | None]) -> None:
        """A reading has come."""
        self._heard, self._unusable = self._clock(), 0
        self._waiting.append(values)

    def unusable(self, why: str = OTHER) -> None:
        """Something has come that is no reading, or none of now."""
        self._unusable, self._why = self._unusable + 1, why

    @property
    def newest(self) -> dict[str, Value | None] | None:
        """The newest that has not been read yet."""
        return self._waiting[-1] if self._waiting else None

    def next(self) -> dict[str, Value | None] | None:
        """The one that has waited longest; ``None`` where none has come yet. Raises :class:`LinkSilent` once for every stretch in which
        one should have come."""
        if self._waiting:
            return self._waiting.popleft()
        if self._clock() - self._heard > self._silent_s:
            why = (
                f"{self._unusable} could not be used, the last {self._why}"
                if self._unusable
                else "nothing has come: does it write by itself?"
            )
            self._heard = self._clock()
            raise LinkSilent(f"no reading from {self._what} for {self._silent_s:g} s; {why}")
        return None
