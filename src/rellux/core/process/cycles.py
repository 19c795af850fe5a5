"""On/off and relay cycles: in closed form for a first-order process, event by event for any linear one.

Closed form: exact for a pure FOPDT at any L/τ with continuous switching and constant load. A second lag (element, sensor) lets
the real swing come out 1.5…3 times smaller than it says; :func:`switched_cycle` is exact there too: every mode is propagated in
closed form between events, switched edges wait for the dead time, crossings are found as roots, until the cycle repeats.
"""

from collections import deque
from dataclasses import dataclass
from math import exp, inf, isinf, log

import numpy as np
from numpy.typing import NDArray

from ..errors import refuse
from ..messages import difference
from .models import FOPDT, Model, Modes


@dataclass(frozen=True)
class Cycle:
    """The steady on/off cycle. Temperatures are rises above ambient in °C, times in s, duty 0…1."""

    peak: float
    trough: float
    on_time_s: float
    off_time_s: float

    @property
    def period_s(self) -> float:
        return self.on_time_s + self.off_time_s

    @property
    def swing(self) -> float:
        return self.peak - self.trough

    @property
    def duty(self) -> float:
        return self.on_time_s / self.period_s


def cycle(process: FOPDT, switch_off: float, switch_on: float) -> Cycle:
    """The cycle for thresholds given as rises above ambient in °C, ``0 < switch_on ≤ switch_off < full-power rise``.

    Raises ``Refused`` outside.
    """
    full = process.full_power_rise_c
    if not 0 < switch_on <= switch_off < full:
        raise _no_cycle(switch_on, switch_off, full)
    decay = exp(-process.dead_time_s / process.lag_s)
    peak = full - (full - switch_off) * decay
    trough = switch_on * decay
    on_time = process.dead_time_s + process.lag_s * log((full - trough) / (full - switch_off))
    off_time = process.dead_time_s + process.lag_s * log(peak / switch_on)
    return Cycle(peak, trough, on_time, off_time)


def hysteresis_for(process: FOPDT, swing_c: float) -> float:
    """Hysteresis in °C that gives this swing under on/off: ``H = (swing − ΔT₊(1 − e))/e``, ``e = e^(−L/τ)``.

    Raises ``Refused`` for a swing smaller than dead time alone makes.
    """
    decay = exp(-process.dead_time_s / process.lag_s)
    least = process.full_power_rise_c * (1.0 - decay)
    if not swing_c >= least:
        raise refuse("swing_c", "dead time alone makes it swing more", f"at least {difference(least, '.2g')}")
    return (swing_c - least) / decay


def pulse_ripple(process: FOPDT, duty: float, period_s: float) -> float:
    """Peak-to-peak ripple in °C at a steady ``duty`` (0…1) of pulses every ``period_s``:
    ``ΔT₊ (1 − e^(−dT/τ))(1 − e^(−(1−d)T/τ))/(1 − e^(−T/τ))``, for T ≪ τ about ``ΔT₊ d (1 − d) T/τ``. Exact for one lag.

    Raises ``Refused`` outside 0…1.
    """
    if not 0 <= duty <= 1:
        raise refuse("duty", "a share of the period", "0…1")
    x = period_s / process.lag_s
    if x < TINY:
        return process.full_power_rise_c * duty * (1.0 - duty) * x
    return process.full_power_rise_c * (1.0 - exp(-duty * x)) * (1.0 - exp(-(1.0 - duty) * x)) / (1.0 - exp(-x))


def period_for_ripple(rise_per_s: float, ripple_c: float) -> float:
    """Longest control period in s whose ripple stays within ``ripple_c`` peak to peak at any duty, from the rise at full power:
    :func:`pulse_ripple` at half power and T ≪ τ, ``ΔT = rate × period / 4``. Further lags only smooth it.
    Raises ``Refused`` for what is not above 0.

    >>> period_for_ripple(0.05, 0.5)
    40.0
    """
    if rise_per_s <= 0 or ripple_c <= 0:
        raise refuse("rise_per_s", "must be more than zero", "> 0")
    return 4.0 * ripple_c / rise_per_s


def swing_c(rise_per_s: float, period_s: float) -> float:
    """Ripple in °C peak to peak of such a period at most: the inverse of :func:`period_for_ripple`.

    >>> swing_c(0.05, 40.0)
    0.5
    """
    return rise_per_s * period_s / 4.0


@dataclass(frozen=True)
class OnOff:
    """How an output in % is switched: ``low`` from ``off_at`` on (a rise in °C), ``high`` again from ``on_at`` down; each held for
    ``least_on_s`` and ``least_off_s`` at least. A relay test is the same between ``u₀ ± d``."""

    off_at: float
    on_at: float
    high: float = 100.0
    low: float = 0.0
    least_on_s: float = 0.0
    least_off_s: float = 0.0


def switched_cycle(model: Model | Modes, switching: OnOff, cycles: int = 400) -> Cycle:
    """The steady cycle of any linear model under an on/off output. Raises ``Refused`` where it does not cycle: thresholds in the
    wrong order, or that the output cannot reach."""
    modes = model if isinstance(model, Modes) else model.modes()
    if not switching.on_at <= switching.off_at or not switching.low < switching.high:
        raise refuse("on_at", "it switches on above where it switches off", "at or below")
    if switching.on_at == switching.off_at and modes.dead_time_s == switching.least_on_s == switching.least_off_s == 0:
        raise refuse("on_at", "without hysteresis and dead time it would switch without end", "some hysteresis")
    top, bottom = modes.gain * switching.high, modes.gain * switching.low
    if isinf(modes.gain):
        top, bottom = (inf if switching.high > 0 else -inf), (-inf if switching.low < 0 else 0.0)
    if not (bottom < switching.on_at and switching.off_at < top) or (bottom == 0.0 and isinf(modes.gain)):
        raise _no_cycle(switching.on_at, switching.off_at, top)
    plant, last = _Switched(modes, switching), None
    for _ in range(cycles):
        found = plant.one_cycle()
        if last is not None and _alike(found, last):
            return found
        last = found
    assert last is not None
    return last


TINY = 1e-9
REPEATS = 1e-9
"""Two cycles that differ by less than this share are the same."""
CLOSE = 1e-14
"""Share of a moment to which a crossing is found."""
LOOKS = 48
"""Places at which a stretch between two events is looked at for a crossing, closest where the fastest mode moves."""


def _no_cycle(on: float, off: float, full: float) -> Exception:
    return refuse(
        "setpoint_c",
        f"on/off cannot cycle between {difference(on, '.1f')} and {difference(off, '.1f')} above ambient: "
        f"full power reaches {difference(full, '.1f')}",
        f"thresholds between 0 and {difference(full, '.1f')} above ambient",
    )


def _alike(a: Cycle, b: Cycle) -> bool:
    pairs = ((a.peak, b.peak), (a.trough, b.trough), (a.on_time_s, b.on_time_s), (a.off_time_s, b.off_time_s))
    return all(abs(x - y) <= REPEATS * max(abs(x), abs(y), TINY) for x, y in pairs)


class _Switched:
    """A process under a switched output: the state of its modes, and the edges that are still on their way to it."""

    def __init__(self, modes: Modes, switching: OnOff) -> None:
        self.modes, self.by = modes, switching
        self.x = [0.0] * len(modes.rates)
        self.now, self.arrived = 0.0, switching.high  # it starts heating at once, as the first cycle does not count
        self.edges: deque[tuple[float, float]] = deque()

    def one_cycle(self) -> Cycle:
        """From switching on to the next switching on; the extremes lie in between."""
        began = self.now
        self._until(self.by.off_at, 1.0, began + self.by.least_on_s)
        off = self.now
        self.edges.append((off + self.modes.dead_time_s, self.by.low))
        peak, _ = self._until(self.by.on_at, -1.0, off + self.by.least_off_s)
        on = self.now
        self.edges.append((on + self.modes.dead_time_s, self.by.high))
        held = self._save()
        _, trough = self._until(self.by.off_at, 1.0, on + self.by.least_on_s)
        self._restore(held)
        return Cycle(peak, trough, off - began, on - off)

    def _save(self) -> tuple[list[float], float, float, deque[tuple[float, float]]]:
        return self.x[:], self.now, self.arrived, self.edges.copy()

    def _restore(self, held: tuple[list[float], float, float, deque[tuple[float, float]]]) -> None:
        self.x, self.now, self.arrived, self.edges = held

    def _until(self, threshold: float, sign: float, earliest: float) -> tuple[float, float]:
        """Go on until the output is past the threshold, upwards (``sign`` 1) or downwards (−1), at ``earliest`` or later; the highest
        and the lowest met on the way."""
        high, low = -inf, inf
        while True:
            end = self.edges[0][0] if self.edges else inf
            horizon = min(end, self.now + self._far())
            course = _Course(self.modes, self.x, self.arrived)
            offsets = self._looks(horizon - self.now)
            seen = course.at(offsets)
            acts = (sign * (seen - threshold) >= 0.0) & (self.now + offsets >= earliest)
            first = int(acts.argmax()) if acts.any() else -1
            met = seen[: first + 1] if first >= 0 else seen
            high, low = max(high, float(met.max())), min(low, float(met.min()))
            if first >= 0:
                before = float(offsets[first - 1]) if first else 0.0
                found = _root(course, threshold, sign, max(before, earliest - self.now), float(offsets[first]))
                self._advance(found)
                y = course(found)
                return max(high, y), min(low, y)
            self._advance(horizon - self.now)
            if self.edges and self.edges[0][0] <= self.now:
                self.arrived = self.edges.popleft()[1]

    def _far(self) -> float:
        """How far to look ahead where no edge is on its way."""
        slowest = min((r for r in self.modes.rates if r > 0), default=0.0)
        return 2.0 / slowest if slowest else max(self.modes.dead_time_s, 1.0)

    def _looks(self, length: float) -> NDArray[np.float64]:
        fastest = max((r for r in self.modes.rates if r > 0), default=0.0)
        near = min(length, 3.0 / fastest) if fastest else length
        return np.sort(np.concatenate((near * _SHARES, length * _SHARES)))

    def _advance(self, offset: float) -> None:
        self.x = [_moved(x, self.arrived, r, offset) for x, r in zip(self.x, self.modes.rates, strict=True)]
        self.now += offset


_SHARES = np.arange(1, LOOKS + 1) / LOOKS


class _Course:
    """The output from now on, until another edge arrives: ``start + slope t + Σ parts exp(−rates t)``."""

    def __init__(self, modes: Modes, x: list[float], u: float) -> None:
        each = list(zip(modes.weights, x, modes.rates, strict=True))
        self.start = sum(w * (u if r else at) for w, at, r in each)
        self.slope = sum(w * u for w, _, r in each if not r)
        self.parts = [(w * (at - u), r) for w, at, r in each if r]

    def __call__(self, offset: float) -> float:
        return self.start + self.slope * offset + sum(part * exp(-rate * offset) for part, rate in self.parts)

    def at(self, offsets: NDArray[np.float64]) -> NDArray[np.float64]:
        """The same at many moments."""
        found = self.start + self.slope * offsets
        for part, rate in self.parts:
            found += part * np.exp(-rate * offsets)
        return found


def _root(course: _Course, threshold: float, sign: float, low: float, high: float) -> float:
    """The first moment between two looks at which it is past the threshold, by halving."""
    low = min(low, high)
    if sign * (course(low) - threshold) >= 0.0:
        return low
    while high - low > CLOSE * high:
        middle = 0.5 * (low + high)
        if sign * (course(middle) - threshold) >= 0.0:
            high = middle
        else:
            low = middle
    return high


def _moved(x: float, u: float, rate: float, seconds: float) -> float:
    return x + u * seconds if rate == 0.0 else u + (x - u) * exp(-rate * seconds)
