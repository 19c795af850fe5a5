"""A relay test before it is made: what a controller that tunes itself will do to this rig, how long, and what stands in its way.

The output goes up and down between two values as the reading crosses the test set-point, with a hysteresis about it; after the first
cycle is discarded, the test ends when two cycles are alike. Simulated on the process as it was found and on the rigs it may be.
"""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from enum import StrEnum
from itertools import pairwise
from math import floor, inf

import numpy as np
from numpy.typing import NDArray

from ...control.settings import FULL_OUTPUT, HysteresisSchool, Mode
from ...errors import refuse
from ...plant.simulation import Simulation
from ...process.networks import ThermalNetwork
from ..situation import Situation, check_reaches

ALIKE = 0.1
"""Two cycles that differ in length and swing by no more than so much are alike (Åström & Hägglund, from memory: 5 to 10 %)."""
DISCARDED, MOST_CYCLES = 1, 8
NOISES, DIGITS = 4.0, 2.0
"""The hysteresis is so many standard deviations of the noise and so many digits at the least, to switch once each time (our choice)."""
LEAST_STEP = 5.0
"""Half the output step of a test round the holding power, % at the least: less drowns (our choice)."""
OWN_HYSTERESIS_C = 1.0
"""Of a controller that says nothing of its own (common practice, no source)."""
TIMES_AS_LONG = 3.0
"""A test that takes so many times what was predicted is stopped (our choice)."""
DEADS_WITHOUT_ANSWER = 4.0
"""And one in which nothing moves for so many dead times."""
LONGEST_LAGS, LONGEST_DEADS = 12.0, 60.0
STEPS = 20.0
DRAWN = 240
TENTH = 0.1

Array = NDArray[np.float64]


class RelayKind(StrEnum):
    """Who makes it: the controller itself, between nothing and all it has; or a relay round the power that holds the set-point, which keeps
    the duty near one half and the swing small."""

    OWN = "own"
    BIASED = "biased"


@dataclass(frozen=True)
class RelayTest:
    """Outputs in %; the reading is switched on ``hysteresis_c`` wide, half of it on either side of ``setpoint_c``."""

    kind: RelayKind
    setpoint_c: float
    hysteresis_c: float
    low: float
    high: float

    @property
    def step(self) -> float:
        """Half the step of the output, %."""
        return (self.high - self.low) / 2.0


@dataclass(frozen=True)
class Swung:
    """One rig under the test: highest and lowest of the settled swing and the highest of all, °C; the period, the share of the time on and
    how long it all takes, s (infinite where cycles do not come alike in time)."""

    top_c: float
    bottom_c: float
    highest_c: float
    period_s: float
    duty: float
    takes_s: float


@dataclass(frozen=True)
class RelayForecast:
    """``found``: on the process as it was found, with its course; ``all``: every rig it may be, the found one first."""

    test: RelayTest
    found: Swung
    all: tuple[Swung, ...]
    time_s: Array
    reading_c: Array
    output: Array

    @property
    def highest_c(self) -> float:
        """The highest reading of any of them, °C."""
        return max(s.highest_c for s in self.all)

    @property
    def lowest_c(self) -> float:
        """The lowest reading of any of them once it swings, °C."""
        return min(s.bottom_c for s in self.all)

    @property
    def stop_after_s(self) -> float:
        """When to stop a test that does not end, s."""
        longest = max(s.takes_s for s in self.all)
        return TIMES_AS_LONG * (longest if longest < inf else self.found.takes_s)


@dataclass(frozen=True)
class Edge:
    """Something on the rig that acts at a temperature, or stands no more: its name, and where it may act at the earliest, °C. ``is_hard``:
    it must not be reached by a test; ``is_below``: it acts when the reading is lower."""

    name: str
    celsius: float
    is_hard: bool = False
    is_below: bool = False


def relay_test(
    situation: Situation, kind: RelayKind, setpoint_c: float | None = None, least_c: float = -inf
) -> RelayTest:
    """The test as it is made on this rig. Without a set-point it is the working temperature, lowered by what the test will go over it, and
    not below ``least_c``, the lowest that the controller takes.

    Raises ``Refused`` for a set-point that heat cannot hold."""
    check_reaches(situation)
    noise = max(NOISES * situation.noise_c, DIGITS * situation.digit_c)
    hysteresis = max(noise, OWN_HYSTERESIS_C) if kind is RelayKind.OWN else noise
    if setpoint_c is not None:
        return _at(situation, kind, setpoint_c, hysteresis)
    goal = situation.settings.setpoint_c
    over = swung(situation.network, situation, _at(situation, kind, goal, hysteresis))[0].highest_c - goal
    lowest = situation.ambient_c + (goal - situation.ambient_c) / 2.0
    return _at(situation, kind, max(floor(max(goal - over, lowest) / TENTH) * TENTH, least_c), hysteresis)


def _at(situation: Situation, kind: RelayKind, setpoint_c: float, hysteresis_c: float) -> RelayTest:
    rise, full = setpoint_c - situation.ambient_c, situation.process.full_power_rise_c
    holds = FULL_OUTPUT * rise / full
    if not 0.0 < holds < FULL_OUTPUT:
        raise refuse(
            "setpoint_c", "heat cannot hold it, so nothing can swing round it", "between the room and full power"
        )
    if kind is RelayKind.OWN:
        return RelayTest(kind, setpoint_c, hysteresis_c, 0.0, situation.settings.output_high)
    step = max(min(holds, FULL_OUTPUT - holds), LEAST_STEP)
    return RelayTest(kind, setpoint_c, hysteresis_c, max(holds - step, 0.0), min(holds + step, float(FULL_OUTPUT)))


def forecast(situation: Situation, test: RelayTest) -> RelayForecast:
    """What the test will do. Raises ``Refused`` where it does not swing."""
    found, (time_s, reading_c, output) = swung(situation.network, situation, test)
    others = tuple(swung(network, situation, test)[0] for network in situation.judges)
    if found.period_s == inf:
        raise refuse(
            "setpoint_c", "the rig as it was found does not swing round it with these outputs", "another set-point"
        )
    ends = int(np.searchsorted(time_s, min(found.takes_s, time_s[-1]))) + 1
    keep = max(1, ends // DRAWN)
    drawn = (c[:ends:keep] for c in (time_s, reading_c, output))
    return RelayForecast(test, found, (found, *others), *drawn)


def swung(network: ThermalNetwork, situation: Situation, test: RelayTest) -> tuple[Swung, tuple[Array, Array, Array]]:
    """One rig under the test, and its course: time in s, reading in °C, output in %."""
    p = situation.process
    late = p.dead_time_s + situation.settings.sample_s
    step = max(min(late, p.lag_s) / STEPS, situation.settings.sample_s / 2.0)
    settings = replace(
        situation.settings,
        setpoint_c=test.setpoint_c,
        mode=Mode.ON_OFF,
        hysteresis_c=test.hysteresis_c,
        hysteresis_school=HysteresisSchool.CENTRED,
        output_low=test.low,
        output_high=test.high,
        period_s=0.0,
        ramp_c_per_s=0.0,
    )
    lasts = LONGEST_LAGS * p.lag_s + LONGEST_DEADS * late
    record = Simulation(network, settings, situation.ambient_c, step).advance(lasts)
    course = (record.time_s, record.reading_c, record.output)
    return settled_swing(*course, test), course


def settled_swing(t: Array, y: Array, u: Array, test: RelayTest) -> Swung:
    """The first two cycles that are alike, of time in s, reading in °C and output in %, shapes (n,); an infinite period where none are."""
    on = u > (test.low + test.high) / 2.0
    rises = np.flatnonzero(~on[:-1] & on[1:]) + 1
    cycles = [_cycle(t, y, on, a, b) for a, b in pairwise(rises[: MOST_CYCLES + 2])]
    for i, (one, two) in enumerate(pairwise(cycles[DISCARDED:])):
        if all(
            abs(a - b) <= ALIKE * max(abs(a), abs(b)) for a, b in ((one[2], two[2]), (one[0] - one[1], two[0] - two[1]))
        ):
            end = rises[i + DISCARDED + 2]
            return Swung(two[0], two[1], float(y[: end + 1].max()), two[2], two[3], float(t[end]))
    return Swung(float(y.max()), float(y[len(y) // 2 :].min()), float(y.max()), inf, 0.0, inf)


def _cycle(t: Array, y: Array, on: NDArray[np.bool_], a: int, b: int) -> tuple[float, float, float, float]:
    """Highest, lowest, length and share on of one cycle."""
    return float(y[a:b].max()), float(y[a:b].min()), float(t[b] - t[a]), float(on[a:b].mean())


def in_its_way(edges: Iterable[Edge], highest_c: float, lowest_c: float) -> list[Edge]:
    """What the test may set off between its lowest and its highest reading, lowest first."""
    near = (e for e in edges if (e.celsius >= lowest_c if e.is_below else e.celsius <= highest_c))
    return sorted(near, key=lambda e: e.celsius)
