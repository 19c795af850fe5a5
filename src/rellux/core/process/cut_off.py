"""Switching off early on the way up, so that the heat that is still on its way brings the reading to the set-point and no further.

From rest at full power a linear process goes by its step response ``y(t) = Σ 100 wᵢ (1 − e^(−λᵢ (t − L)))``; switched off at t₁ by
``y(t) − y(t − t₁)``: exact. The lead in degrees falls as the set-point rises; in time, lead over rate of rise, it hardly changes, which is
why a firmware can keep it as one constant.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import scipy
from numpy.typing import NDArray

from ..errors import refuse
from ..messages import difference
from .models import FOPDT, SOPDT
from .response import respond

Array = NDArray[np.float64]

LONGEST = 40.0
"""Lags after which full power has brought all it can."""
LAGS_AFTER = 12.0
"""Second lags within which the reading has turned after the dead time."""
LOOKS = 400
STANDS = 1e-3
"""A reading that rises by less than this share of its steepest has not begun to move."""


@dataclass(frozen=True)
class EarlyOff:
    """When to switch off: ``lead_c`` below the set-point, where it rises by ``rate`` °C/s; ``cut_s`` after the start. The reading turns at
    ``peak_s``. ``over_c``: how far it would pass the set-point, switched off there. ``moves``: by then the reading has begun to rise."""

    lead_c: float
    rate: float
    cut_s: float
    peak_s: float
    over_c: float
    moves: bool

    @property
    def lead_s(self) -> float:
        """The lead as a time: switch off when reading + this × rate of rise comes to the set-point."""
        return self.lead_c / self.rate if self.moves else 0.0


@dataclass(frozen=True)
class _Way:
    """The way up at full power from rest."""

    process: FOPDT | SOPDT

    @cached_property
    def _modes(self) -> list[tuple[float, float]]:
        m = self.process.modes()
        return list(zip(m.rates, m.weights, strict=True))

    def at(self, t: float) -> float:
        """°C above the start."""
        return float(self.over(np.array([t]))[0])

    def slope(self, t: float) -> float:
        return float(self.slopes(np.array([t]))[0])

    def over(self, t: Array) -> Array:
        """°C above the start at each moment; shapes (n)."""
        since, found = np.maximum(t - self.process.dead_time_s, 0.0), np.zeros(len(t))
        for rate, weight in self._modes:
            found -= 100.0 * weight * np.expm1(-rate * since)
        return found

    def slopes(self, t: Array) -> Array:
        """The rate of rise at each moment, °C/s; shapes (n)."""
        since, found = t - self.process.dead_time_s, np.zeros(len(t))
        for rate, weight in self._modes:
            found += 100.0 * weight * rate * np.exp(-rate * np.maximum(since, 0.0))
        return np.where(since < 0, 0.0, found)

    def turn(self, off_s: float) -> float:
        """When the reading turns, switched off at ``off_s``."""
        dead = self.process.dead_time_s
        if not isinstance(self.process, SOPDT):
            return off_s + dead
        first, last = off_s + dead, off_s + dead + LAGS_AFTER * self.process.second_lag_s

        def rises(t: float) -> float:
            return self.slope(t) - self.slope(t - off_s)

        return float(scipy.optimize.brentq(rises, first, last)) if rises(first) > 0 > rises(last) else first

    def top(self, off_s: float) -> float:
        """How far it comes."""
        t = self.turn(off_s)
        return self.at(t) - self.at(t - off_s)


def early_off(process: FOPDT | SOPDT, rise_c: float) -> EarlyOff:
    """When to switch off for a set-point so far above the start, °C. Raises ``Refused`` for one that full power does not reach."""
    way = _Way(process)
    longest = process.dead_time_s + LONGEST * process.lag_s
    if not 0 < rise_c < way.at(longest):
        full = difference(way.at(longest), ".3g")
        raise refuse("setpoint_c", f"full power brings it {full} above where it starts", "between")
    there = float(scipy.optimize.brentq(lambda t: way.at(t) - rise_c, 0.0, longest))
    cut = float(scipy.optimize.brentq(lambda t: way.top(t) - rise_c, 0.0, there)) if way.top(there) > rise_c else there
    rate, steepest = (
        way.slope(cut),
        way.slope(process.dead_time_s + (process.second_lag_s if isinstance(process, SOPDT) else 0.0)),
    )
    return EarlyOff(rise_c - way.at(cut), rate, cut, way.turn(cut), way.top(there) - rise_c, rate > STANDS * steepest)


def over_by_rule(process: FOPDT | SOPDT, rise_c: float, lead_s: float) -> float:
    """How far the reading passes the set-point, °C (short of it: negative), switched off as soon as reading + ``lead_s`` × its rate of rise
    comes to it."""
    way = _Way(process)
    times = np.linspace(0.0, process.dead_time_s + LONGEST * process.lag_s, LOOKS * int(LONGEST))

    def ahead(t: float) -> float:
        return way.at(t) + lead_s * way.slope(t) - rise_c

    past = int(np.argmax(way.over(times) + lead_s * way.slopes(times) >= rise_c))
    if past == 0:
        return way.at(float(times[-1])) - rise_c
    off = float(scipy.optimize.brentq(ahead, float(times[past - 1]), float(times[past])))
    return way.top(off) - rise_c


def held_course(
    process: FOPDT | SOPDT, rise_c: float, early: EarlyOff, pulse_s: float, until_s: float
) -> tuple[Array, Array]:
    """Times and rises, °C: full on, off early, and pulses of the duty that holds it, one in ``pulse_s``, the first so that its heat arrives
    when the reading turns."""
    duty = rise_c / (100.0 * process.gain)
    first = max(early.peak_s - process.dead_time_s, early.cut_s)
    starts = np.arange(first, until_s, pulse_s)
    edges = np.concatenate(([0.0, early.cut_s], np.column_stack((starts, starts + duty * pulse_s)).ravel()))
    output = np.concatenate(([100.0, 0.0], np.tile((100.0, 0.0), len(starts))))
    kept = np.append(np.diff(edges) > 0, True)
    t = np.linspace(0.0, until_s, LOOKS)
    return t, respond(process, t, edges[kept], output[kept])


def plain_course(process: FOPDT | SOPDT, rise_c: float, until_s: float) -> tuple[Array, Array]:
    """The same switched off where the reading comes to the set-point, and left to itself."""
    way, longest = _Way(process), process.dead_time_s + LONGEST * process.lag_s
    there = float(scipy.optimize.brentq(lambda t: way.at(t) - rise_c, 0.0, longest))
    t = np.linspace(0.0, until_s, LOOKS)
    return t, respond(process, t, np.array([0.0, there]), np.array([100.0, 0.0]))
