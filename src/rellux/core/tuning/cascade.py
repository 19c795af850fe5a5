"""Two loops in a row: an inner one round the heater's own sensor, and an outer one round the chamber's that sets it.

The rig is taken as a heater that gives its heat to a chamber, which loses it: two nodes, in units in which the chamber loses 1 W/K. What
else delays the chamber's reading lies between the chamber and its sensor, where an inner loop does not feel it.
"""

from dataclasses import dataclass, replace
from math import inf, isfinite

import numpy as np

from ..control.pid import PID
from ..control.settings import FULL_OUTPUT, AntiWindup, ControllerSettings, InnerLoop, Mode
from ..errors import refuse
from ..explain import Input
from ..guarding.answering import answer
from ..plant.rig_models import MOST_HEAT, heater_stands, network_for
from ..plant.simulation import Simulation
from ..process.models import FOPDT, Complex, Frequency, Modes
from ..process.modes import time_63
from ..process.networks import Array, ThermalNetwork
from ..purpose.heater import heat_w
from ..purpose.heater_sensor import SPARE_C
from ..purpose.purpose import Purpose, RigKind
from ..units import Kind
from .robustness import CALM_MS, Margins, controller_response, margins
from .rules.capping import ceiling
from .rules.published import simc_pi

HEATER, CHAMBER = 0, 1
CALM, SAMPLES = 2.0, 3.0
"""Closed-loop time constant of both loops: so many dead times, and samples, at the least (Skogestad 2003, and our choice)."""
QUICKER = 3.0
"""The inner loop is so many times quicker than the outer at the least (common practice, no source: 3 to 10)."""
WIDEST_C = 2000.0
"""The widest band a controller takes, °C (our choice)."""
SLOWER, MOST_SLOWER = 1.25, 20
SEEN_OPEN, LOOKS = 4.0, 400.0
"""A door is looked at so often while it stands open, at the least; a course has so many rows in the chamber's lag (our choice)."""
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
    above the room. ``colder_c``: the true room than this one, where others keep the rig warm with its heat off."""

    process: FOPDT
    rise_c: float
    hotter_c: float
    heater_lag_s: float
    most_c: float
    colder_c: float = 0.0

    def asks_c(self, rests_c: float) -> tuple[float, float]:
        """What nothing and all of an outer loop ask of the heater, °C, where the rig rests at ``rests_c``: to be as warm as the room
        itself, whatever keeps the rig warmer, and the most it may show."""
        return rests_c - self.colder_c, rests_c + self.most_c

    @property
    def holds_percent(self) -> float:
        return self.rise_c / self.process.gain

    @property
    def link(self) -> float:
        """Between heater and chamber, W/K."""
        return self.rise_c / self.hotter_c

    def network(self) -> ThermalNetwork:
        """Heater and chamber, seen by the chamber's sensor without what delays that besides. Raises ``Refused`` for a heater that is most
        of it."""
        heater = self.link * self.heater_lag_s
        if heater > MOST_HEAT * self.process.lag_s * (1.0 + 1e-9):
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

    def seen(self) -> ThermalNetwork:
        """Heater and chamber, as the chamber's sensor sees them. Raises ``Refused`` as :meth:`network` does."""
        return replace(self.network(), dead_time_s=self.later_s, late_reading=True)


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

    @property
    def fits(self) -> bool:
        """Whether a controller takes its bands, and a heater that is asked for as much holds the rig."""
        holds = min(self.rig.rise_c + self.rig.hotter_c + SPARE_C, self.rig.most_c) + self.rig.colder_c
        return FULL_OUTPUT / self.inner.gain <= WIDEST_C and self.outer.gain * WIDEST_C >= holds

    def settings(self, single: ControllerSettings, room_c: float) -> ControllerSettings:
        """Those of one loop, made two. Nothing of the outer one asks the heater for the room's temperature, all of it for the most it may
        show, or for as much as a band that a controller takes asks; its integral waits while the inner loop gives all it can."""
        low, high = self.rig.asks_c(room_c)
        high = min(high, low + WIDEST_C * self.outer.gain)
        inner = InnerLoop(self.inner.gain, self.inner.integral_time_s, low, high)
        outer = replace(self.outer, gain=self.outer.gain * FULL_OUTPUT / inner.span_c)
        weighted = replace(outer, setpoint_weight=single.pid.setpoint_weight)
        return replace(single, mode=Mode.PID, pid=weighted, inner=inner, anti_windup=AntiWindup.STOPS)


def heated_chamber(kind: RigKind, purpose: Purpose, process: FOPDT | None, room_c: float) -> HeatedChamber | None:
    """A rig with a second sensor at its heater, out of ``room_c``: as it was found, else as its kind is. ``None`` of one without. A heater
    that would hold more than a chamber of that lag can is taken to be as quick as that."""
    sensor = purpose.heater_sensor
    if sensor is None:
        return None
    hotter_c, heater_lag_s = heater_stands(kind, purpose)
    if process is None:
        typical = network_for(kind, purpose, heat_w(purpose))
        gain = float(typical.equilibrium_rise()[typical.sensor_node]) / FULL_OUTPUT
        process = FOPDT(gain, time_63(typical), typical.dead_time_s + typical.sensor_lag_s)
    rise_c = purpose.working_c - room_c
    most_s = MOST_HEAT * process.lag_s * hotter_c / rise_c
    heater_lag_s, colder_c = min(heater_lag_s, most_s), room_c - purpose.ambient_c
    return HeatedChamber(process, rise_c, hotter_c, heater_lag_s, sensor.most_c - room_c, colder_c)


def cascade(
    rig: HeatedChamber, sample_s: float, period_s: float, digit_c: float = 0.0, noise_c: float = 0.0
) -> Cascade:
    """Both loops by SIMC, the inner first; the outer then has the inner's closed loop for a dead time. An inner loop that is hardly quicker
    than its heater is no simple lag: the outer one is as slow as it takes to be calm by exact margins. ``sample_s`` of the inner loop,
    ``period_s`` of its output (0: continuous). ``digit_c``, ``noise_c`` (standard deviation) of both readings, °C: they move the output by
    no more than :func:`ceiling` lets them. Raises ``Refused`` for looks that are too seldom.

    Source: Skogestad 2003; the inner loop first: Åström & Hägglund, PID Controllers (1995).
    """
    if SEEN_OPEN * sample_s > OPEN_S * rig.process.lag_s:
        raise refuse(
            "sample_s",
            "looked at so seldom nothing of this chamber is controlled in two loops",
            f"up to {OPEN_S * rig.process.lag_s / SEEN_OPEN:.3g} s",
        )
    late = 0.5 * (sample_s + period_s)
    per_percent = rig.hotter_c / rig.holds_percent
    most = ceiling(PID(1.0), digit_c, noise_c, sample_s) if digit_c or noise_c else inf
    at_heater = FOPDT(per_percent, rig.heater_lag_s, late)
    inner_closed = max(CALM * late, SAMPLES * sample_s, _slow_enough(at_heater, most))
    inner = simc_pi(at_heater, inner_closed)
    capacity, link = rig.network().capacities[CHAMBER], rig.link
    dead = rig.later_s + inner_closed + late + 0.5 * sample_s
    beyond = FOPDT(link / (link + 1.0), capacity / (link + 1.0), dead)
    outer_closed = max(CALM * dead, QUICKER * inner_closed, _slow_enough(beyond, most / inner.gain))
    outer = simc_pi(beyond, outer_closed)
    for _ in range(MOST_SLOWER):
        if _margins(rig, inner, outer, sample_s, period_s).ms <= CALM_MS:
            break
        outer_closed *= SLOWER
        outer = simc_pi(beyond, outer_closed)
    alone = replace(rig.process, dead_time_s=rig.dead_s + late)
    single = simc_pi(alone, max(CALM * alone.dead_time_s, SAMPLES * sample_s))
    return Cascade(rig, inner, outer, single, sample_s, period_s, inner_closed, outer_closed)


def _slow_enough(process: FOPDT, most_gain: float) -> float:
    """The closed loop's time constant by SIMC whose gain is no more than that, s: ``τ/(K K_c) − L``."""
    return process.lag_s / (process.gain * most_gain) - process.dead_time_s


@dataclass(frozen=True)
class _Outer:
    """What the outer loop moves: the inner loop's set-point to the chamber's reading, by frequency response, with what sampling and pulses
    add to both loops."""

    rig: HeatedChamber
    inner: PID
    sample_s: float
    period_s: float

    @property
    def late_s(self) -> float:
        return 0.5 * (self.sample_s + self.period_s)

    def modes(self) -> Modes:
        return Modes((1.0,), (1.0,), self.rig.later_s + self.late_s + 0.5 * self.sample_s)

    def response(self, w: Frequency) -> Complex:
        heater, chamber = responses(self.rig, w)
        inner = controller_response(self.inner, w) * heater * np.exp(-1j * w * self.late_s)
        looked = np.exp(-0.5j * w * self.sample_s)
        return np.asarray(inner / (1.0 + inner) * chamber / heater * looked)


@dataclass(frozen=True)
class _AtHeater:
    """What the inner loop moves: the output to the heater's sensor."""

    rig: HeatedChamber
    late_s: float

    def modes(self) -> Modes:
        return Modes((1.0,), (1.0,), self.late_s)

    def response(self, w: Frequency) -> Complex:
        return np.asarray(responses(self.rig, w)[0] * np.exp(-1j * w * self.late_s))


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
    return _margins(found.rig, found.inner, found.outer, found.sample_s, found.period_s)


def margins_of(rig: HeatedChamber, settings: ControllerSettings) -> Margins:
    """The same of two loops as they are set. Raises ``Refused`` as :meth:`HeatedChamber.network` does, and for settings of one loop."""
    inner = settings.inner
    if inner is None:
        raise refuse("loops", "there is one loop here", "two")
    asked = replace(settings.pid, gain=settings.pid.gain * inner.span_c / FULL_OUTPUT)
    return _margins(rig, PID(inner.gain, inner.integral_time_s or inf), asked, settings.sample_s, settings.period_s)


def _margins(rig: HeatedChamber, inner: PID, outer: PID, sample_s: float, period_s: float) -> Margins:
    """A loop round one that swings by itself swings."""
    late = 0.5 * (sample_s + period_s)
    within = margins(inner, _AtHeater(rig, late), rig.heater_lag_s)
    if not isfinite(within.ms):
        return within
    return margins(outer, _Outer(rig, inner, sample_s, period_s), rig.process.lag_s)


def asked_for_load(rig: HeatedChamber, settings: ControllerSettings) -> float:
    """How much more the outer loop has to give for each per cent of the heater's power that a load takes, in %: the heater must be hotter
    by what hands that over. Raises ``Refused`` as :func:`margins_of` does."""
    if settings.inner is None:
        raise refuse("loops", "there is one loop here", "two")
    return rig.process.gain / rig.link / settings.inner.span_c * FULL_OUTPUT


def inner_inputs(found: Cascade) -> tuple[Input, ...]:
    """What the inner loop's numbers are worked out from."""
    rig = found.rig
    return (
        Input(
            "heater’s sensor over the chamber",
            rig.hotter_c / rig.holds_percent,
            Kind.GAIN,
            "K",
            "hotter by, over the holding output",
        ),
        Input("comes down with", rig.heater_lag_s, Kind.TIME, "τ", "given"),
        Input(
            "closed loop",
            found.inner_closed_s,
            Kind.TIME,
            "τc",
            "twice what delays it, or three samples; slower for digit and noise",
        ),
    )


def outer_inputs(found: Cascade) -> tuple[Input, ...]:
    """What the outer loop's numbers are worked out from."""
    why = "twice what delays it, the inner loop with it; slower where Ms would pass 1.6, or for digit and noise"
    return (
        Input("between heater and chamber", found.rig.link, Kind.RATIO, "g", "of what the chamber loses"),
        Input("lag of the chamber", found.rig.process.lag_s, Kind.TIME, "τ", "its heater with it"),
        Input("closed loop", found.outer_closed_s, Kind.TIME, "τc", why),
    )


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
    loops, network = _Tried(found, in_cascade), rig.seen()
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
    """A rig with both loops, or with the one round its chamber's sensor; temperatures above the room."""

    def __init__(self, found: Cascade, in_cascade: bool) -> None:
        sample_s, lag_s = found.sample_s, found.rig.process.lag_s
        one = ControllerSettings(
            found.rig.rise_c, Mode.PID, pid=found.single, period_s=found.period_s, sample_s=sample_s
        )
        parts = max(int(np.ceil(sample_s * STEPS / found.rig.heater_lag_s)), 1)
        settings = found.settings(one, 0.0) if in_cascade else one
        self.plant = Simulation(found.rig.seen(), settings, 0.0, sample_s / parts)
        self.look_s = float(max(np.ceil(lag_s / LOOKS / sample_s), 1.0)) * sample_s

    def become(self, network: ThermalNetwork) -> None:
        self.plant = self.plant.branch(network)

    def advance(self, for_s: float) -> Array:
        """Rows of time, chamber and heater."""
        rows = []
        for _ in range(int(for_s / self.look_s)):
            rows.append((self.plant.time_s, self.plant.true_c, self.plant.heater_c))
            self.plant.advance(self.look_s, self.look_s)
        return np.array(rows)
