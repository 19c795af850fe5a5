"""What happens when the switch fails closed: the heater at full power, until something opens, exactly, step by step.

The network is linear, so a step is exact (:mod:`rellux.core.process.networks`). Loss by radiation grows faster than that: at the hot end
a real rig gets less hot than this says.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..process.networks import Array, ThermalNetwork, discretise

STEPS = 3000
"""Rows of a course."""


@dataclass(frozen=True)
class Course:
    """Rows in s and °C: the heater's own node, the chamber, and what each follower (a sensor or fuse with a lag) is at. ``opened_s``: when
    the heat ended, ``None`` where nothing ended it."""

    time_s: Array
    element_c: Array
    chamber_c: Array
    followers_c: tuple[Array, ...]
    opened_s: float | None

    def when(self, celsius: float) -> float | None:
        """When the chamber first reaches a temperature, s; ``None`` where it never does."""
        return crossing(self.time_s, self.chamber_c, celsius)

    @property
    def peak_c(self) -> float:
        return float(self.chamber_c.max())


def crossing(time_s: Array, celsius: Array, level: float) -> float | None:
    """When a series first reaches a level, between its rows; ``None`` where it never does."""
    beyond = celsius >= level
    if not beyond.any():
        return None
    i = int(np.argmax(beyond))
    if i == 0:
        return float(time_s[0])
    share = (level - celsius[i - 1]) / (celsius[i] - celsius[i - 1])
    return float(time_s[i - 1] + share * (time_s[i] - time_s[i - 1]))


@dataclass(frozen=True)
class Follower:
    """A sensor or fuse at the chamber: it follows with ``lag_s`` what is ``share`` of the chamber's rise above the room, and opens the
    heater's circuit ``relay_s`` after it reached ``opens_c`` (``None``: it only follows)."""

    lag_s: float
    share: float = 1.0
    opens_c: float | None = None
    relay_s: float = 0.0


@lru_cache(maxsize=256)
def runaway(
    network: ThermalNetwork, ambient_c: float, start_c: float, length_s: float, followers: tuple[Follower, ...] = ()
) -> Course:
    """Full power from time 0 on, out of rest at ``start_c`` (chamber), for ``length_s``. Heat arrives at the chamber with the network's
    dead time, also after the circuit opened. The first follower that opens ends it.

    >>> from rellux.core.process.models import FOPDT
    >>> from rellux.core.process.networks import from_fopdt
    >>> rig = from_fopdt(FOPDT(gain=2.0, lag_s=600.0, dead_time_s=0.0))
    >>> float(runaway(rig, 20.0, 60.0, 600.0).chamber_c[-1].round(1))  # 220 − 160/e
    161.1
    """
    n, m = len(network.capacities), len(followers)
    h = length_s / STEPS
    plain = discretise(network, h)
    move, drive = plain.transition.reshape(n, n), plain.response.reshape(n, n)[:, network.heater_node]
    rest = network.equilibrium_rise()
    at_rest = (start_c - ambient_c) / float(rest[network.sensor_node])
    x = rest * at_rest
    fractions = [1.0 - np.exp(-h / f.lag_s) if f.lag_s > 0 else 1.0 for f in followers]
    follow = [f.share * x[network.sensor_node] for f in followers]
    delay = round(network.dead_time_s / h)
    rows, told = np.empty((STEPS + 1, n)), np.empty((STEPS + 1, m))
    rows[0], told[0] = x, follow
    opens_at, opened = None, None
    for k in range(STEPS):
        begun = (k - delay) * h
        heated = at_rest if begun < 0 else 1.0 if opened is None or begun < opened else 0.0
        if opened is not None and begun < opened < begun + h:
            heated = (opened - begun) / h
        before = x[network.sensor_node]
        x = move @ x + drive * (network.heater_power_w * heated)
        middle = 0.5 * (before + x[network.sensor_node])
        for i, f in enumerate(followers):
            was = follow[i]
            follow[i] += fractions[i] * (f.share * (middle if f.lag_s > 0 else x[network.sensor_node]) - was)
            now_c, was_c = follow[i] + ambient_c, was + ambient_c
            if f.opens_c is not None and opens_at is None and now_c >= f.opens_c:
                share = 0.0 if was_c >= f.opens_c else (f.opens_c - was_c) / (now_c - was_c)
                opens_at = (k + share) * h + f.relay_s
        if opened is None and opens_at is not None:
            opened = opens_at
        rows[k + 1], told[k + 1] = x, follow
    time: Array = np.arange(STEPS + 1, dtype=np.float64) * h
    if opened is not None and opened > length_s:
        opened = None
    followed = tuple(told[:, i] + ambient_c for i in range(m))
    return Course(
        time, rows[:, network.heater_node] + ambient_c, rows[:, network.sensor_node] + ambient_c, followed, opened
    )


STARTS, SURE = 5, 0.2
"""Rests out of which a switch is taken to fail, from the room to the working temperature; and by how much every chamber must have fallen,
°C, before its peak is taken to be past."""


@lru_cache(maxsize=256)
def worst_peak(
    network: ThermalNetwork, ambient_c: float, working_c: float, length_s: float, follower: Follower
) -> float | None:
    """The hottest the chamber gets after ``follower`` opened, out of any rest up to the working temperature, °C: out of a heat-up the
    element is hotter when it trips, out of a hold the lining is. ``None`` where it never opens. As :func:`runaway`, all rests at once."""
    n, sensor, h = len(network.capacities), network.sensor_node, length_s / STEPS
    plain, rest = discretise(network, h), network.equilibrium_rise()
    move, drive = plain.transition.reshape(n, n), plain.response.reshape(n, n)[:, [network.heater_node]]
    at_rest = np.linspace(0.0, working_c - ambient_c, STARTS) / rest[sensor]
    x, limit = rest[:, None] * at_rest, float(follower.opens_c if follower.opens_c is not None else np.inf) - ambient_c
    fraction = 1.0 - np.exp(-h / follower.lag_s) if follower.lag_s > 0 else 1.0
    shown, delay = follower.share * x[sensor], round(network.dead_time_s / h)
    opened, peak = np.full(STARTS, np.inf), x[sensor].copy()
    for k in range(STEPS):
        begun = (k - delay) * h
        heated = at_rest if begun < 0 else np.clip((opened - begun) / h, 0.0, 1.0)
        before = x[sensor]
        x = move @ x + drive * (network.heater_power_w * heated)
        np.maximum(peak, x[sensor], out=peak)
        was = shown
        now = 0.5 * (before + x[sensor]) if follower.lag_s > 0 else x[sensor]
        shown = was + fraction * (follower.share * now - was)
        trips = np.isinf(opened) & (shown >= limit)
        if trips.any():
            share = np.where(was >= limit, 0.0, (limit - was) / np.where(shown > was, shown - was, 1.0))
            opened[trips] = (k + share[trips]) * h + follower.relay_s
        if begun > opened.max() and (peak - x[sensor] > SURE).all():
            break
    acted = opened <= length_s
    return float(peak[acted].max()) + ambient_c if acted.any() else None


def soonest(
    network: ThermalNetwork, ambient_c: float, working_c: float, length_s: float, level_c: float
) -> float | None:
    """How soon after it was at the working temperature the chamber can be at ``level_c`` with nothing to stop it, s: out of a hold, or out
    of a heat-up whose element is hot already. ``None`` where it never is within ``length_s``."""
    found = []
    for start in (ambient_c, working_c):
        course = runaway(network, ambient_c, start, length_s)
        passed, there = course.when(working_c), course.when(level_c)
        if passed is not None and there is not None:
            found.append(there - passed)
    return min(found, default=None)
