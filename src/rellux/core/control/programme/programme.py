"""One programme in time: its set-point as seconds pass and readings are seen."""

from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from . import kernel

Rows = NDArray[np.float64]


class Phase(StrEnum):
    """Where a programme stands: its clock runs, waits for the load, waits for somebody; it has ended and holds, or is off."""

    RUNNING = "running"
    HOLDING = "holding"
    WAITING = "waiting"
    ENDED = "ended"
    OFF = "off"


PHASES = tuple(Phase)


def first_state(start_c: float) -> Rows:
    """A programme's state before anything of it ran, its set-point at ``start_c``."""
    state = np.zeros(kernel.STATE_SIZE)
    state[kernel.SETPOINT] = state[kernel.FROM] = start_c
    return state


class Programme:
    """A programme with its state. ``rows`` (n, SEGMENT_SIZE) as :mod:`.kernel` has them."""

    def __init__(self, rows: Rows, start_c: float, told: list[float] | None = None) -> None:
        self._rows = rows
        self._state = first_state(start_c) if told is None else np.array(told, dtype=np.float64)

    @property
    def told(self) -> list[float]:
        """Its state, to go on from."""
        return [float(v) for v in self._state]

    @property
    def segment(self) -> int:
        """Which row it is at."""
        return int(self._state[kernel.SEGMENT])

    @property
    def setpoint_c(self) -> float:
        return float(self._state[kernel.SETPOINT])

    @property
    def elapsed_s(self) -> float:
        """How much of the segment is done, waiting not counted."""
        return float(self._state[kernel.ELAPSED])

    @property
    def held_s(self) -> float:
        """How long it has waited in all."""
        return float(self._state[kernel.HELD])

    @property
    def phase(self) -> Phase:
        return PHASES[int(self._state[kernel.PHASE])]

    @property
    def is_over(self) -> bool:
        return self.phase in (Phase.ENDED, Phase.OFF)

    def move(self, step_s: float, reading_c: float) -> float:
        """Let time pass with the reading as it is. Returns the set-point."""
        return float(kernel.move.plain(self._rows, self._state, step_s, reading_c))

    def release(self) -> None:
        """Somebody says to go on, where it waits for that."""
        self._state[kernel.RELEASED] = float(self.phase is Phase.WAITING)

    def skip(self) -> None:
        """Leave the segment as it is and go to the next one, from the set-point it has."""
        if not self.is_over:
            self._state[kernel.SEGMENT] += 1
            self._state[kernel.ELAPSED] = 0.0
            self._state[kernel.FROM] = self._state[kernel.SETPOINT]
