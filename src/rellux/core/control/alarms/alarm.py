"""One alarm in time: look at the process, acknowledge, reset, lose the supply."""

from dataclasses import dataclass
from enum import StrEnum
from math import nan

import numpy as np

from ...errors import refuse
from . import kernel
from .settings import AlarmSettings, Standby


class AlarmState(StrEnum):
    """Where an alarm stands (the words of the trade; ISA-18.2 and IEC 62682 from memory in ``says``)."""

    NORMAL = "normal"
    HELD = "held"
    DELAYING = "delaying"
    ACTIVE = "active"
    ACKNOWLEDGED = "acknowledged"
    RETURNED = "returned"
    LATCHED = "latched"
    LATCHED_ACKNOWLEDGED = "latched_acknowledged"
    OUT_OF_SERVICE = "out_of_service"


STATES = tuple(AlarmState)[:-1]
"""In the order of the machine's codes."""
SAYS = {
    AlarmState.NORMAL: "normal",
    AlarmState.HELD: "held until it was first in range",
    AlarmState.DELAYING: "condition met, waiting out its delay",
    AlarmState.ACTIVE: "active, not acknowledged",
    AlarmState.ACKNOWLEDGED: "active, acknowledged",
    AlarmState.RETURNED: "returned by itself, not acknowledged",
    AlarmState.LATCHED: "condition gone, latched, not acknowledged",
    AlarmState.LATCHED_ACKNOWLEDGED: "condition gone, latched until reset",
    AlarmState.OUT_OF_SERVICE: "out of service",
}
ACTING = frozenset({AlarmState.ACTIVE, AlarmState.ACKNOWLEDGED, AlarmState.LATCHED, AlarmState.LATCHED_ACKNOWLEDGED})
"""What it does is done in these."""
CALLING = frozenset({AlarmState.ACTIVE, AlarmState.RETURNED, AlarmState.LATCHED})
"""Nobody has acknowledged it yet."""


@dataclass(frozen=True)
class Seen:
    """What is read ``step_s`` seconds after the look before; NaN for what is not. Output in %, current in A (rms while on)."""

    step_s: float
    reading_c: float = nan
    setpoint_c: float = nan
    output: float = nan
    second_c: float = nan
    current_a: float = nan
    flag: bool = False
    setpoint_moved: bool = False


def first_state(settings: AlarmSettings) -> list[float]:
    """The row of state an alarm begins with, when its device is switched on."""
    state = [0.0] * kernel.STATE_SIZE
    state[kernel.TIMER] = -1.0
    if settings.standby is not Standby.NONE:  # out of range until it was seen in range, hysteresis included
        state[kernel.STATE], state[kernel.CONDITION] = kernel.HELD, 1.0
    return state


class Alarm:
    """One alarm with its state."""

    def __init__(self, settings: AlarmSettings) -> None:
        self.settings = settings
        self.in_service, self.powered = True, True
        self._row = np.array([settings.row()])
        self._state = np.array([first_state(settings)])
        self._last = Seen(0.0)

    @property
    def state(self) -> AlarmState:
        return STATES[int(self._state[0, kernel.STATE])] if self.in_service else AlarmState.OUT_OF_SERVICE

    @property
    def acts(self) -> bool:
        """Whether what it does is done now."""
        return self.powered and self.state in ACTING

    @property
    def energised(self) -> bool:
        """Whether its relay is pulled in; without a supply it never is."""
        return self.powered and (self.acts != self.settings.de_energise)

    def look(self, seen: Seen) -> AlarmState:
        """Move on by one look."""
        self._last = seen
        return self._look(seen, acknowledge=False, reset=False)

    def acknowledge(self) -> AlarmState:
        """Silence it. Never resets a latch."""
        return self._look(self._again(), acknowledge=True, reset=False)

    def reset(self) -> AlarmState:
        """Let go of a latch. Raises ``Refused`` while its condition still holds, hysteresis included, or where nothing is latched."""
        if self.state not in (AlarmState.LATCHED, AlarmState.LATCHED_ACKNOWLEDGED):
            why = "its condition still holds" if self.state in ACTING else "nothing is latched"
            raise refuse("reset", why, "a latch whose condition is gone, hysteresis and off-delay included")
        return self._look(self._again(), acknowledge=False, reset=True)

    def take_out(self) -> None:
        """Out of service: nothing is judged, nothing is done."""
        self.in_service = False

    def put_back(self) -> None:
        """In service again, as after switching on."""
        self.in_service, self._state[0] = True, first_state(self.settings)

    def resume(self, state: AlarmState) -> None:
        """Go on from where it stood, after whoever looks had to begin again."""
        if state is AlarmState.OUT_OF_SERVICE:
            self.take_out()
            return
        self._state[0, kernel.STATE] = STATES.index(state)
        self._state[0, kernel.CONDITION] = float(state in (AlarmState.ACTIVE, AlarmState.ACKNOWLEDGED))

    def lose_power(self) -> None:
        """Its relay drops out, whatever it was."""
        self.powered = False

    def return_power(self) -> None:
        """As after switching on, but for a latch that its device keeps."""
        latched = self.state in ACTING and self.settings.latching and self.settings.keeps_latch
        self.powered = True
        self._state[0] = first_state(self.settings)
        if latched:
            self._state[0, kernel.STATE] = kernel.LATCHED
            self._state[0, kernel.CONDITION] = 0.0

    def _again(self) -> Seen:
        last = self._last
        return Seen(0.0, last.reading_c, last.setpoint_c, last.output, last.second_c, last.current_a, last.flag)

    def _look(self, seen: Seen, acknowledge: bool, reset: bool) -> AlarmState:
        if self.powered and self.in_service:
            row = (
                seen.step_s,
                seen.reading_c,
                seen.setpoint_c,
                seen.output,
                seen.second_c,
                seen.current_a,
                float(seen.flag),
                float(acknowledge),
                float(reset),
                float(seen.setpoint_moved),
            )
            kernel.look.plain(self._row, self._state, np.array(row))
        return self.state
