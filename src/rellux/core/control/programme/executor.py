"""A programme run from outside, over a link: which set-point to write and when, and what to do after silence.

Most controllers hold the last set-point for ever when whoever writes it stops. So: nothing is written that the profile does not ask for;
a write that was not confirmed is never simply repeated, it is first looked at what the controller holds; a set-point that somebody else
changed stops it; and after an absence it goes on, comes back slowly, holds or ends by the profile's own rule.
"""

from dataclasses import dataclass
from enum import StrEnum
from math import floor, isfinite, isnan, nan
from typing import Any

import numpy as np

from ..liveness import LEAST_STALE_S
from . import kernel
from .programme import Phase, Programme, Rows

RETRY_S = 10.0
"""How long after a write that failed the controller's set-point is looked at and perhaps written again, s (our choice)."""
MOST_FAILURES = 3
"""Writes that fail one after another before it is paused (our choice)."""
FOREIGN_S = 5.0
"""For so long the controller must hold another set-point than was written until somebody is taken to have changed it, s."""
BACK_C_PER_MIN = 2.0
"""How fast it comes back in a segment that has no rate of its own, °C/min (our choice)."""


class Standing(StrEnum):
    """How a run of a programme stands: it runs, comes back after an absence, is paused; it has ended, or was ended."""

    RUNNING = "running"
    BACK = "back"
    PAUSED = "paused"
    ENDED = "ended"
    ABORTED = "aborted"


SETTLED_S = 60.0
"""For so long it must not have waited for its load until it is said to keep up again, s (our choice): at the edge of what the rig can do
it waits and goes on with every look."""
GOING = (Standing.RUNNING, Standing.BACK, Standing.PAUSED)


@dataclass(frozen=True)
class Limits:
    """``step_c``: of the controller's set-point; ``least_s``: between two writes; ``highest_c``: the rig's. ``resume_c``, ``ramp_back_c``,
    ``longest_s``: how far it may have fallen, and how long have been absent; ``beyond_aborts``: else it ends, or holds."""

    step_c: float
    least_s: float
    highest_c: float
    resume_c: float
    ramp_back_c: float
    longest_s: float
    beyond_aborts: bool


class Executor:
    """One run of a programme. ``rows`` as the machine has them; ``state`` of :attr:`told` to go on from. Times in s of any clock that only
    goes forward."""

    def __init__(self, rows: Rows, limits: Limits, start_c: float, state: dict[str, Any] | None = None) -> None:
        self._rows, self._limits = rows, limits
        self._programme = Programme(rows, start_c)
        self.standing, self.said = Standing.RUNNING, ""
        self.written_c, self.writes, self._failures = start_c, 0, 0
        self._back_c, self._clock, self._wrote_at, self._foreign_s = nan, 0.0, -RETRY_S, 0.0
        self._again = False
        self.held_back, self._free_s = False, 0.0
        self._most = max([start_c, *(float(r[kernel.TARGET]) for r in rows if int(r[kernel.KIND]) in _MOVING)])
        if state is not None:
            self._resume(state)

    @property
    def programme(self) -> Programme:
        return self._programme

    @property
    def told(self) -> dict[str, Any]:
        """All of it as plain data."""
        return {
            "programme": self._programme.told,
            "standing": self.standing.value,
            "said": self.said,
            "written_c": self.written_c,
            "writes": self.writes,
            "failures": self._failures,
            "again": self._again,
            "back_c": None if isnan(self._back_c) else self._back_c,
            "held_back": self.held_back,
            "free_s": self._free_s,
        }

    def _resume(self, state: dict[str, Any]) -> None:
        self._programme = Programme(self._rows, 0.0, state["programme"])
        self.standing, self.said = Standing(state["standing"]), state["said"]
        self.written_c, self.writes, self._failures = state["written_c"], state["writes"], state["failures"]
        self._back_c, self._again = nan if state["back_c"] is None else state["back_c"], state["again"]
        self.held_back, self._free_s = state.get("held_back", False), state.get("free_s", 0.0)

    def look(self, step_s: float, reading_c: float, held_c: float) -> float | None:
        """``step_s`` seconds have passed; the controller shows ``reading_c`` and holds ``held_c`` as its set-point, °C (NaN: unknown).
        Returns the set-point that is to be written now, or ``None``."""
        self._clock += step_s
        self._compare(step_s, held_c)
        if self.standing is Standing.BACK and isfinite(reading_c):
            self._come_back(step_s)
        elif self.standing is Standing.RUNNING and isfinite(reading_c):
            self._programme.move(step_s, reading_c)
            self._note_wait(step_s)
            if self._programme.is_over:
                self.standing = Standing.ENDED
        if self.standing not in (Standing.RUNNING, Standing.BACK):
            return self._due() if self.standing is Standing.ENDED else None
        return self._due()

    @property
    def wanted_c(self) -> float:
        """What the controller should hold: never above the profile's set-point of this moment, in the controller's own steps."""
        sp = self._programme.setpoint_c
        if self.standing is Standing.BACK:
            sp = min(sp, self._back_c)
        bounded = min(sp, self._most, self._limits.highest_c)
        return floor(bounded / self._limits.step_c + TINY) * self._limits.step_c

    @property
    def switches_off(self) -> bool:
        """Whether the heat is to be switched off now that it is over."""
        return self.standing is Standing.ABORTED or (
            self.standing is Standing.ENDED and self._programme.phase is Phase.OFF
        )

    def sent(self, value_c: float, confirmed: bool) -> None:
        """What became of a write."""
        self._wrote_at = self._clock
        if confirmed:
            self.written_c, self._failures, self._again = value_c, 0, False
            self.writes += 1
            return
        self._failures += 1
        if self._failures >= MOST_FAILURES:
            self.pause("the controller does not take the set-point; it holds the last one")

    def came_back(self, absent_s: float, reading_c: float) -> None:
        """After a silence of ``absent_s`` s of the recorder, the link or the power, with what it reads now."""
        if absent_s <= LEAST_STALE_S or self.standing not in (Standing.RUNNING, Standing.BACK):
            return
        fallen = self._programme.setpoint_c - reading_c
        limits = self._limits
        if isnan(fallen) or absent_s > limits.longest_s or fallen > limits.ramp_back_c:
            why = f"it was gone for {absent_s:.0f} s" + (
                "" if isnan(fallen) else f", and fell {max(fallen, 0.0):.0f} K"
            )
            if limits.beyond_aborts:
                self.abort(why)
            else:
                self.pause(why)
        elif fallen > limits.resume_c:
            self.standing, self._back_c = Standing.BACK, reading_c
            self.said = f"it comes back after {absent_s:.0f} s"
        else:
            self.said = f"it went on after {absent_s:.0f} s"

    def pause(self, why: str) -> None:
        """Its clock stands; the controller holds its set-point."""
        if self.standing in GOING:
            self.standing, self.said, self.held_back = Standing.PAUSED, why, False

    def go_on(self) -> None:
        """After a pause, or where it waits for somebody. After a pause its set-point is written again, whatever the controller holds."""
        if self.standing is Standing.PAUSED:
            self.standing, self.said, self._failures, self._foreign_s = Standing.RUNNING, "", 0, 0.0
            self._again = True
        self._programme.release()

    def skip(self) -> None:
        """On to the next segment, from the set-point it has."""
        if self.standing in GOING:
            self._programme.skip()

    def abort(self, why: str) -> None:
        """End it, heat off."""
        if self.standing in GOING:
            self.standing, self.said, self.held_back = Standing.ABORTED, why, False

    def _note_wait(self, step_s: float) -> None:
        if self._programme.phase is Phase.HOLDING:
            self.held_back, self._free_s = True, 0.0
            return
        self._free_s += step_s
        self.held_back = self.held_back and self._free_s < SETTLED_S and not self._programme.is_over

    def _compare(self, step_s: float, held_c: float) -> None:
        """What the controller holds against what was written: a write that seemed lost may have arrived; somebody may have changed it."""
        half = self._limits.step_c / 2.0
        if isnan(held_c) or self._again or self.standing not in (Standing.RUNNING, Standing.BACK):
            return
        if abs(held_c - self.written_c) < half:
            self._foreign_s = 0.0
        elif self._failures:
            if abs(held_c - self.wanted_c) < half:
                self.written_c, self._failures = held_c, 0
        else:
            self._foreign_s += step_s
            if self._foreign_s > FOREIGN_S:
                self.pause("somebody changed the set-point at the controller")

    def _come_back(self, step_s: float) -> None:
        row = self._rows[min(self._programme.segment, len(self._rows) - 1)]
        rate = float(row[kernel.RATE]) or BACK_C_PER_MIN / 60.0
        self._back_c += rate * step_s
        if self._back_c >= self._programme.setpoint_c:
            self.standing, self._back_c = Standing.RUNNING, nan

    def _due(self) -> float | None:
        waits = RETRY_S if self._failures else self._limits.least_s
        early = self._clock - self._wrote_at < waits
        if early or self._failures >= MOST_FAILURES or self._foreign_s > 0.0:
            return None
        wanted = self.wanted_c
        return wanted if self._again or abs(wanted - self.written_c) > TINY * self._limits.step_c else None


TINY = 1e-6
_MOVING = (kernel.RAMP_RATE, kernel.RAMP_TIME, kernel.STEP)


def planned_writes(rows: Rows, start_c: float, limits: Limits) -> int:
    """How many writes a run takes at the most: one for each step of the set-point, no more than one every ``least_s``."""
    celsius, count = start_c, 0
    for row in rows:
        kind, target = int(row[kernel.KIND]), float(row[kernel.TARGET])
        if kind not in _MOVING:
            continue
        way = abs(target - celsius)
        steps = int(np.ceil(way / limits.step_c))
        if kind == kernel.STEP:
            count += 1
        else:
            lasts = float(row[kernel.TIME]) if kind == kernel.RAMP_TIME else way / float(row[kernel.RATE])
            count += min(steps, int(lasts / limits.least_s) + 1)
        celsius = target
    return count
