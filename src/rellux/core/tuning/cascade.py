"""Two loops in a row: an inner one round the heater's own sensor, and an outer one round the chamber's that sets it.

The rig is taken as a heater that gives its heat to a chamber, which loses it: two nodes, in units in which the chamber loses 1 W/K. What
else delays the chamber's reading lies between the chamber and its sensor, where an inner loop does not feel it.
"""

from collections import deque
from dataclasses import dataclass, replace

import numpy as np

from ..control.pid import PID
from ..control.settings import FULL_OUTPUT, ControllerSettings, Mode
from ..errors import refuse
from ..guarding.answering import answer
from ..plant.simulation import Simulation
from ..process.models import FOPDT, Complex, Frequency, Modes
from ..process.networks import Array, ThermalNetwork
from .robustness import Margins, controller_response, margins
from .rules.published import simc_pi

HEATER, CHAMBER = 0, 1
MOST_HEAT = 0.5
"""A heater that holds more of all the heat than this share is no heater beside a chamber (our choice)."""
CALM, SAMPLES = 2.0, 3.0
"""Closed-loop time constant of both loops: so many dead times, and samples, at the least (Skogestad 2003, and our choice)."""
OUTER_SAMPLES, LOOKS = 4.0, 400.0
"""The outer loop looks once in so many samples of the inner one, and so often in the chamber's lag at the most (our choice)."""
STEPS = 10.0
"""Steps of the simulation in the heater's lag."""
UP, DIP, DOOR = 6.0, 2.0, 2.0
"""How long coming up, low mains and what follows a door are looked at, in lags of the chamber."""
OPEN, OPEN_S = 0.5, 0.05
"""A door adds so much of the chamber's loss, for this share of its lag (our choice)."""


@dataclass(frozen=True)
class HeatedChamber:
    """``process``: the chamber's reading to the output, °C for each %. While the chamber is held ``rise_c`` above the room, its heater's
    sensor is ``hotter_c`` above it, and comes down to it with ``heater_lag_s`` when the heat is off; that sensor may not pass ``most_c``
    above the room."""

    process: FOPDT
    rise_c: float
    hotter_c: float
    heater_lag_s: float
    most_c: float

    @property
    def holds_percent(self) -> float:
        return self.rise_c / self.process.gain

    @property
    def link(self) -> float:
        """Between heater and chamber, W/K."""
        return self.rise_c / self.hotter_c

    def network(self) -> ThermalNetwork:
        """Heater and chamber, seen by the chamber's sensor. Raises ``Refused`` for a heater that is most of it."""
        heater = self.link * self.heater_lag_s
        if heater > MOST_HEAT * self.process.lag_s:
            raise refuse(
                "heater_lag_s",
                "a heater that slow holds more heat than the chamber: its lag is the chamber’s",
                f"up to {MOST_HEAT * self.process.lag_s / self.link:.3g} s",
            )
        return ThermalNetwork(
            capacities=(heater, self.process.lag_s - heater),
            links=((HEATER, CHAMBER, self.link),),
            to_ambient=(0.0, 1.0),
            heater_power_w=self.process.full_power_rise_c,
            heater_node=HEATER,
            sensor_node=CHAMBER,
        )

    @property
    def dead_s(self) -> float:
        """The chamber's dead time, s; no less than what its heater makes of it."""
        return max(self.process.dead_time_s, answer(self.network())[1])

    @property
    def later_s(self) -> float:
        """What delays the chamber's reading besides the heater, s."""
        return self.dead_s - answer(self.network())[1]


@dataclass(frozen=True)
class Cascade:
    """``inner`` in % for each °C at the heater, ``outer`` in °C of its set-point for each °C at the chamber; ``single``: one loop by the
    same rule. Samples and the period of the output in s."""

    rig: HeatedChamber
    inner: PID
    outer: PID
    single: PID
    sample_s: float
    period_s: float
    outer_sample_s: float
    inner_closed_s: float
    outer_closed_s: float

    @property
    def late_s(self) -> float:
        """What looking once a sample, and a duty that is latched for a period, add to the inner loop, s."""
        return 0.5 * (self.sample_s + self.period_s)

    @property
    def times_quicker(self) -> float:
        """The inner loop than the outer."""
        return self.outer_closed_s / self.inner_closed_s


def cascade(rig: HeatedChamber, sample_s: float, period_s: float) -> Cascade:
    """Both loops by SIMC, the inner first; the outer then has the inner's closed loop for a dead time. ``sample_s`` of the inner loop,
    ``period_s`` of its output (0: continuous). Raises ``Refused`` for looks that are too seldom.

    Source: Skogestad 2003; the inner loop first: Åström & Hägglund, PID Controllers (1995).
    """
    if OUTER_SAMPLES * sample_s > OPEN_S * rig.process.lag_s:
        raise refuse(
            "sample_s",
            "looked at so seldom nothing of this chamber is controlled in two loops",
            f"up to {OPEN_S * rig.process.lag_s / OUTER_SAMPLES:.3g} s",
        )
    late = 0.5 * (sample_s + period_s)
    per_percent = rig.hotter_c / rig.holds_percent
    inner_closed = max(CALM * late, SAMPLES * sample_s)
    inner = simc_pi(FOPDT(per_percent, rig.heater_lag_s, late), inner_closed)
    outer_sample = float(max(OUTER_SAMPLES, np.ceil(rig.process.lag_s / LOOKS / sample_s))) * sample_s
    capacity, link = rig.network().capacities[CHAMBER], rig.link
    dead = rig.later_s + inner_closed + late + 0.5 * outer_sample
    outer_closed = max(CALM * dead, SAMPLES * outer_sample)
    outer = simc_pi(FOPDT(link / (link + 1.0), capacity / (link + 1.0), dead), outer_closed)
    alone = replace(rig.process, dead_time_s=rig.dead_s + late)
    single = simc_pi(alone, max(CALM * alone.dead_time_s, SAMPLES * sample_s))
    return Cascade(rig, inner, outer, single, sample_s, period_s, outer_sample, inner_closed, outer_closed)


@dataclass(frozen=True)
class _Outer:
    """What the outer loop moves: the inner loop's set-point to the chamber's reading, by frequency response, with what sampling and pulses
    add to both loops."""

    found: Cascade

    def modes(self) -> Modes:
        return Modes((1.0,), (1.0,), self.found.rig.later_s + self.found.late_s + 0.5 * self.found.outer_sample_s)

    def response(self, w: Frequency) -> Complex:
        heater, chamber = responses(self.found.rig, w)
        inner = controller_response(self.found.inner, w) * heater * np.exp(-1j * w * self.found.late_s)
        looked = np.exp(-0.5j * w * self.found.outer_sample_s)
        return np.asarray(inner / (1.0 + inner) * chamber / heater * looked)


def responses(rig: HeatedChamber, w: Frequency) -> tuple[Complex, Complex]:
    """Frequency responses of the heater's sensor, and of the chamber's, to the output; °C for each %."""
    network, link, s = rig.network(), rig.link, 1j * w
    heater, chamber = (c * s for c in network.capacities)
    both = (heater + link) * (chamber + link + 1.0) - link * link
    power = network.heater_power_w / FULL_OUTPUT
    seen = power * link / both * np.exp(-s * rig.later_s)
    return np.asarray(power * (chamber + link + 1.0) / both), np.asarray(seen)


def outer_margins(found: Cascade) -> Margins:
    """Of the outer loop, the inner one closed."""
    return margins(found.outer, _Outer(found), found.rig.process.lag_s)


@dataclass(frozen=True)
class CascadeCourse:
    """Columns of equal length: time in s, chamber and heater in °C above the room. ``falls_s``: when the mains fell;
    ``hottest_heater_c`` of all; ``dip_c``, ``door_c``: how far the chamber fell below its set-point with low mains, and after a door."""

    time_s: Array
    chamber_c: Array
    heater_c: Array
    falls_s: float
    hottest_heater_c: float
    dip_c: float
    door_c: float


def tried(found: Cascade, in_cascade: bool, low_mains: float) -> CascadeCourse:
    """Up from cold, then mains at ``low_mains`` of their voltage, then those and a door; with both loops, or with one alone."""
    rig, lag = found.rig, found.rig.process.lag_s
    loops, network = _Tried(found, in_cascade), rig.network()
    low = replace(network, heater_power_w=network.heater_power_w * low_mains**2)
    up = loops.advance(UP * lag)
    loops.become(low)
    dip = loops.advance(DIP * lag)
    loops.become(replace(low, to_ambient=(0.0, 1.0 + OPEN)))
    door = loops.advance(OPEN_S * lag)
    loops.become(low)
    door = np.concatenate([door, loops.advance(DOOR * lag)])
    table = np.concatenate([up, dip, door])
    return CascadeCourse(
        table[:, 0],
        table[:, 1],
        table[:, 2],
        float(dip[0, 0]),
        float(table[:, 2].max()),
        max(rig.rise_c - float(dip[:, 1].min()), 0.0),
        max(rig.rise_c - float(door[:, 1].min()), 0.0),
    )


class _Tried:
    """A rig with both loops, whose plant has the heater's sensor, or with one round the chamber's. The outer loop integrates as long as
    that does not push its own output, or the inner loop's, out of what they may be."""

    def __init__(self, found: Cascade, in_cascade: bool) -> None:
        self.found, self.in_cascade = found, in_cascade
        pid, first = (found.inner, 0.0) if in_cascade else (found.single, found.rig.rise_c)
        settings = ControllerSettings(first, Mode.PID, pid=pid, period_s=found.period_s, sample_s=found.sample_s)
        parts = max(int(np.ceil(found.sample_s * STEPS / found.rig.heater_lag_s)), 1)
        self.plant = Simulation(self._seen(found.rig.network()), settings, 0.0, found.sample_s / parts)
        self.integral = 0.0
        self.shown = deque([0.0] * round(found.rig.later_s / found.outer_sample_s))

    def become(self, network: ThermalNetwork) -> None:
        self.plant = self.plant.branch(self._seen(network))

    def advance(self, for_s: float) -> Array:
        """Rows of time, chamber and heater, one each time the outer loop looks."""
        rows = []
        for _ in range(int(for_s / self.found.outer_sample_s)):
            heater, chamber = (float(c) for c in self.plant.nodes_c)
            if self.in_cascade:
                self.plant.aim_at(self._asked(chamber))
            rows.append((self.plant.time_s, chamber, heater))
            self.plant.advance(self.found.outer_sample_s, self.found.outer_sample_s)
        return np.array(rows)

    def _asked(self, chamber_c: float) -> float:
        """What the outer loop asks of the inner one, °C above the room."""
        outer, most = self.found.outer, self.found.rig.most_c
        self.shown.append(chamber_c)
        error = self.found.rig.rise_c - self.shown.popleft()
        wanted = outer.gain * error + self.integral
        given = self.plant.output
        high, low = wanted > most or given >= FULL_OUTPUT, wanted < 0.0 or given <= 0.0
        if not (high and error > 0.0) and not (low and error < 0.0):
            self.integral += outer.gain / outer.integral_time_s * error * self.found.outer_sample_s
        return min(max(wanted, 0.0), most)

    def _seen(self, network: ThermalNetwork) -> ThermalNetwork:
        if self.in_cascade:
            return replace(network, sensor_node=HEATER)
        return replace(network, dead_time_s=self.found.rig.later_s)
