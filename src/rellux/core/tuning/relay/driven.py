"""A relay test that is made over a link, by the controller's own on/off mode: watched until two cycles are alike, or broken off. Or a
controller that tunes itself: watched until it says that it is done.

No output is driven from outside. Whoever watches may be killed, and the link may fall silent, at any moment: the controller then goes on
switching round the test's set-point by itself, as was foretold, and is given its old numbers when somebody is there again; one that
tunes itself comes to its end and holds that set-point. It is broken off where it becomes too hot, where its sensor says nothing, where
heat changes nothing, where it takes too long, and where somebody else changes it; the heat is switched off where the reading cannot be
believed.
"""

from collections.abc import Container, Mapping
from dataclasses import dataclass, replace
from enum import StrEnum
from math import inf, isfinite

import numpy as np

from ...control.programme.executor import FOREIGN_S
from ...control.settings import FULL_OUTPUT, Mode
from ...control.steps import is_held
from ...errors import Problem, refuse, refuse_all
from ...messages import difference, percent, spoken_time, temperature
from ...setup.auto_tune import AUTO_TUNE
from ...setup.dictionary.control import PID_NAMES
from ...setup.dictionary.parameter import Value
from ...setup.parameters import spoken_value
from ..situation import Situation
from .before import BeforeTest, answer_c, clear_c, patience_s
from .experiment import MOST_CYCLES, RelayForecast, RelayTest, Swung, settled_swing

WRITES = ("setpoint_c", "hysteresis_c", "mode")
"""What a test writes, in this order: the controller never switches by the test's mode before it has the test's set-point."""
RETURNS = ("hysteresis_c", "setpoint_c", "mode")
"""What is written back, in this order."""
TUNING_RETURNS = (AUTO_TUNE, *PID_NAMES, "setpoint_c", "mode")
"""The same where it was tuning itself and was broken off; of what it found by itself, set-point and mode only."""
SAYS_SO = 2
"""So many looks in a row it says that it is done: what it found may be read before it, in one look (our choice)."""
HEATS = ("setpoint_c", "mode")
"""What of it may switch the heat on."""
BLIND_S = 10.0
"""For so long it may show no reading, s (our choice: an alarm for a broken sensor comes no later)."""
LEAST_LOOKS = 20.0
"""Looks in a cycle at the least, to know its length to a tenth (our choice)."""


class TestStanding(StrEnum):
    """``starting``: it is being written; ``swinging``; ``returning``: the old numbers are being written back; ``done`` and ``broken_off``:
    it is over, well or not."""

    STARTING = "starting"
    SWINGING = "swinging"
    RETURNING = "returning"
    DONE = "done"
    BROKEN_OFF = "broken"


UNDER_WAY = (TestStanding.STARTING, TestStanding.SWINGING, TestStanding.RETURNING)


class Ending(StrEnum):
    """How it ends: ``alike``, two cycles are alike; ``found``: it has tuned itself; ``back``: broken off, with the old numbers; ``off``:
    the heat is switched off; ``theirs``: somebody else has it now, and nothing is written."""

    ALIKE = "alike"
    FOUND = "found"
    BACK = "back"
    OFF = "off"
    THEIRS = "theirs"


@dataclass(frozen=True)
class DrivenTest:
    """``holds``: what the controller is given for the test, by parameter. ``highest_c``: at this reading it is broken off;
    ``patience_s``: heat must have changed something after so long; ``stop_after_s``: it lasts no longer; ``tunes_itself``: it is over when
    the controller says so."""

    test: RelayTest
    holds: Mapping[str, Value]
    highest_c: float
    patience_s: float
    stop_after_s: float
    tunes_itself: bool = False

    def kept_before(self, read: Container[str]) -> tuple[str, ...]:
        """What must be known of the controller before, of what can be ``read``: what is overwritten, and what it may find."""
        return *self.holds, *(n for n in PID_NAMES if self.tunes_itself and n in read)

    def is_theirs(self, name: str, now: Value, before: Value | None, step: float) -> bool:
        """Whether somebody else has set this meanwhile: neither as the test wants it, nor as it was. One that tunes itself may change its
        numbers, and how it controls, but not its set-point; and off is somebody's word."""
        if self.tunes_itself and name != "setpoint_c":
            return name == "mode" and now == Mode.OFF.value != before
        kept = (v for v in (self.holds.get(name), before) if v is not None)
        return not any(is_held(v, now, step) for v in kept)


@dataclass(frozen=True)
class Ended:
    how: Ending
    said: str
    swing: Swung | None = None


def own_tune(
    situation: Situation, told: RelayForecast, first: BeforeTest, every_s: float, takes: Container[str]
) -> DrivenTest:
    """A controller that tunes itself, as it may be let to: below what must not be reached by what its own on/off test would come to.
    ``takes``: what can be written to it. Raises ``Refused`` as :func:`driven_test`."""
    like = driven_test(situation, told, first, every_s)
    mode: dict[str, Value] = {"mode": Mode.PID.value} if "mode" in takes else {}
    holds = {"setpoint_c": told.test.setpoint_c, **mode, AUTO_TUNE: "on"}
    return replace(like, holds=holds, tunes_itself=True)


def driven_test(situation: Situation, told: RelayForecast, first: BeforeTest, every_s: float) -> DrivenTest:
    """The test as it may be made, looked at ``every_s`` seconds. Raises ``Refused`` where it may come near what must not be reached, and
    where its cycles are too quick to be seen."""
    refuse_all(
        Problem(
            "setpoint_c",
            f"the reading may come to {temperature(told.highest_c, '.1f')}, and {e.name} acts from {temperature(e.celsius, '.1f')}",
            "a lower test set-point",
        )
        for e in first.hard
    )
    quickest = min(s.period_s for s in told.all)
    if every_s * LEAST_LOOKS > quickest:
        raise refuse(
            "poll_s",
            f"it is looked at every {spoken_time(every_s)}, and a cycle may last only {spoken_time(quickest)}",
            f"{LEAST_LOOKS:.0f} looks a cycle: {spoken_time(quickest / LEAST_LOOKS)} or less",
        )
    test = told.test
    holds: dict[str, Value] = {
        "setpoint_c": test.setpoint_c,
        "hysteresis_c": test.hysteresis_c,
        "mode": Mode.ON_OFF.value,
    }
    return DrivenTest(test, holds, told.highest_c + clear_c(told), patience_s(situation, test), told.stop_after_s)


def check_cool_enough(driven: DrivenTest, reading_c: float | None) -> None:
    """Raise ``Refused`` where it is hotter now than the test may come to, or shows no reading."""
    if reading_c is None or reading_c >= driven.highest_c:
        raise refuse("relay", "it is hotter now than the test may come to, or shows nothing", "let it cool first")


def heats(switch: float, output: float) -> bool:
    """Whether a controller in on/off mode heats: by its switch where that is read, else by its output (NaN: not read)."""
    return switch > 0.5 if isfinite(switch) else output > 0.0


def if_left_alone(driven: DrivenTest) -> str:
    """What happens where Rellux, or the link, stops in the middle of it."""
    at, top = temperature(driven.test.setpoint_c, ".1f"), temperature(driven.highest_c, ".0f")
    if driven.tunes_itself:
        return (
            f"If Rellux or the link stops, the controller tunes on by itself round {at} and then holds that by what it found. How it tunes "
            f"only its maker knows: one that switches on and off, as most do, comes hardly above {top}; only a limiter stops another. It "
            "gets its old numbers back once Rellux is there again. No output is ever driven from here."
        )
    return (
        f"If Rellux or the link stops, the controller goes on switching by itself round {at}, hardly above {top}; it gets its old numbers "
        "back once Rellux is there again. No output is ever driven from here."
    )


class Watch:
    """Of one test, from its first look on. Times in s of the controller, °C."""

    def __init__(
        self, driven: DrivenTest, steps: Mapping[str, float], before: Mapping[str, Value] | None = None
    ) -> None:
        """``before``: what the controller held, of which it may find another."""
        self._driven, self._steps, self._before = driven, steps, before or {}
        self._done = 0
        self._clock = self._blind_s = self._foreign_s = 0.0
        self._t: list[float] = []
        self._y: list[float] = []
        self._on: list[float] = []
        self._rises, self._edge = 0, (0.0, inf)

    def look(self, step_s: float, reading_c: float, on: bool, held: Mapping[str, Value | None]) -> Ended | None:
        """``step_s`` seconds have passed: what it reads (NaN: nothing), whether it heats, and what it holds. How the test ends, or
        ``None``."""
        self._clock += step_s
        driven = self._driven
        if (ended := self._theirs(step_s, held)) is not None:
            return ended
        self._blind_s = 0.0 if isfinite(reading_c) else self._blind_s + step_s
        if self._blind_s > BLIND_S:
            return Ended(Ending.OFF, "the sensor says nothing")
        if not isfinite(reading_c):
            return None
        if reading_c >= driven.highest_c:
            return Ended(
                Ending.OFF, f"it reads {temperature(reading_c, '.1f')}, more than any rig it may be should come to"
            )
        rose = self._noted(reading_c, on)
        if on and self._waits_for_answer(reading_c):
            return Ended(
                Ending.OFF,
                f"heat did not raise the reading within {spoken_time(driven.patience_s)}: is the sensor in its place?",
            )
        if driven.tunes_itself:
            return self._tuned(held)
        if rose and (swing := self._alike()) is not None:
            return Ended(Ending.ALIKE, "two cycles are alike", swing)
        if self._rises > MOST_CYCLES + 2:  # the first is the heat-up
            return Ended(Ending.BACK, f"of {MOST_CYCLES} cycles no two were alike")
        return self._too_long()

    def _too_long(self) -> Ended | None:
        longest_s = self._driven.stop_after_s
        return (
            Ended(Ending.BACK, f"it was not over after {spoken_time(longest_s)}") if self._clock > longest_s else None
        )

    def _tuned(self, held: Mapping[str, Value | None]) -> Ended | None:
        """Whether it says that it is done, and holds another number than before, where it says what it holds."""
        self._done = self._done + 1 if held.get(AUTO_TUNE) == "off" else 0
        if self._done < SAYS_SO:
            return self._too_long()
        found = {n: now for n in PID_NAMES if n in self._before and (now := held.get(n)) is not None}
        if not found:
            return Ended(Ending.FOUND, "it says that it is done; what it found is read off its own pages")
        if all(is_held(self._before[n], now, self._steps.get(n, 1.0)) for n, now in found.items()):
            return Ended(Ending.BACK, "it ended without another number: it gave up, or somebody ended it")
        return Ended(Ending.FOUND, f"it found {', '.join(spoken_value(n, v) for n, v in found.items())}")

    def _theirs(self, step_s: float, held: Mapping[str, Value | None]) -> Ended | None:
        other = [
            name
            for name in self._driven.holds
            if (now := held.get(name)) is not None
            and self._driven.is_theirs(name, now, None, self._steps.get(name, 1.0))
        ]
        self._foreign_s = self._foreign_s + step_s if other else 0.0
        if self._foreign_s <= FOREIGN_S:
            return None
        return Ended(
            Ending.THEIRS, f"somebody changed {', '.join(other)} at the controller: what it holds is left alone"
        )

    def _noted(self, reading_c: float, on: bool) -> bool:
        """Keep it; whether the heat came on just now."""
        before = self._on[-1] if self._on else 0.0
        self._t.append(self._clock)
        self._y.append(reading_c)
        self._on.append(FULL_OUTPUT if on else 0.0)
        rose = on and not before
        if rose:
            self._edge = (self._clock, reading_c)
            self._rises += 1
        return rose

    def _waits_for_answer(self, reading_c: float) -> bool:
        """Whether heat has not raised the reading for too long; one that falls meanwhile waits too."""
        since, lowest = self._edge
        if reading_c - lowest >= answer_c(self._driven.test):
            since, lowest = self._clock, reading_c
        self._edge = (since, min(lowest, reading_c))
        return self._clock - since > self._driven.patience_s

    def _alike(self) -> Swung | None:
        t, y, u = (np.array(values) for values in (self._t, self._y, self._on))
        found = settled_swing(t, y, u, self._driven.test)
        return found if found.period_s < inf else None


@dataclass(frozen=True)
class Return:
    """``missing``: what is still to be written back, in its order; ``theirs``: what somebody else set meanwhile, and then nothing is
    written."""

    missing: tuple[tuple[str, Value], ...]
    theirs: tuple[str, ...]


def to_return(
    driven: DrivenTest,
    before: Mapping[str, Value],
    held: Mapping[str, Value | None],
    steps: Mapping[str, float],
    is_off: bool,
    found: bool = False,
) -> Return:
    """From a poll. After the heat was switched off nothing is written that may switch it on again; and somebody who switched it off at the
    controller, while nobody looked, has the last word. ``found``: what it found by itself stays."""
    order = RETURNS if not driven.tunes_itself else HEATS if found else TUNING_RETURNS
    names = [n for n in order if n in before and not (is_off and n in HEATS)]
    known = {n: now for n in names if (now := held.get(n)) is not None}

    def holds(name: str, value: Value) -> bool:
        return is_held(value, known[name], steps.get(name, 1.0))

    theirs = tuple(n for n in known if driven.is_theirs(n, known[n], before[n], steps.get(n, 1.0)))
    missing = tuple((n, before[n]) for n in names if n not in known or not holds(n, before[n]))
    return Return(() if theirs else missing, theirs)


def result_says(swing: Swung) -> str:
    """What the settled cycle was, in words."""
    return (
        f"period {spoken_time(swing.period_s, '.2g')}, swing {difference(swing.top_c - swing.bottom_c, '.2g')}, on "
        f"{percent(swing.duty)} of the time"
    )
