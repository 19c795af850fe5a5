"""Models of a heating process: first and second order with dead time, integrating with dead time.

Temperatures are rises above the temperature without heat, in °C; output in %; times in s. Each model gives its exact frequency
response (dead time enters as e^(−jωL), without approximation) and its :class:`Modes`, from which exact responses in time follow
(:mod:`response`, :mod:`cycles`).
"""

from dataclasses import dataclass, replace
from typing import Protocol, TypeVar

import numpy as np
from numpy.typing import NDArray

from ..errors import Problem, refuse_all

Complex = NDArray[np.complex128]
Frequency = NDArray[np.float64]

LITTLE = 0.05
"""Of its gain, what one keeps that cannot reach a temperature (our choice)."""
APART = 1e-6
"""Two lags nearer to one another than this share are taken apart by it, so that partial fractions stay finite; the response
changes by less than a millionth."""


@dataclass(frozen=True)
class Modes:
    """A linear process as parallel first-order modes behind one dead time: ``y = Σ wᵢ xᵢ``.

    A mode with a rate λᵢ > 0 (1/s) follows ``x' = λ(u − x)``; one with λᵢ = 0 integrates, ``x' = u``. Weights in °C per %, or
    °C per % and s where it integrates.
    """

    rates: tuple[float, ...]
    weights: tuple[float, ...]
    dead_time_s: float

    @property
    def gain(self) -> float:
        """Steady rise in °C per %; infinite where a mode integrates."""
        return float("inf") if 0.0 in self.rates else sum(self.weights)


@dataclass(frozen=True)
class FOPDT:
    """First order plus dead time: process gain in °C per %, lag and dead time in s."""

    gain: float
    lag_s: float
    dead_time_s: float

    @property
    def full_power_rise_c(self) -> float:
        """Equilibrium rise at 100 %, °C."""
        return 100.0 * self.gain

    @property
    def integrating(self) -> "Integrating":
        """What it looks like over times short against its lag."""
        return Integrating(self.gain / self.lag_s, self.dead_time_s)

    def modes(self) -> Modes:
        _check(self, "lag_s", "dead_time_s")
        return Modes((1.0 / self.lag_s,), (self.gain,), self.dead_time_s)

    def response(self, w: Frequency) -> Complex:
        """``K e^(−jωL) / (1 + jωτ)`` at angular frequencies ``w`` (n), rad/s; shape (n)."""
        return np.asarray(self.gain * np.exp(-1j * w * self.dead_time_s) / (1.0 + 1j * w * self.lag_s))


@dataclass(frozen=True)
class SOPDT:
    """Second order plus dead time: two lags (``lag_s ≥ second_lag_s``) and dead time in s, gain in °C per %."""

    gain: float
    lag_s: float
    second_lag_s: float
    dead_time_s: float

    def modes(self) -> Modes:
        """Partial fractions: ``K/((1+sτ₁)(1+sτ₂)) = K τ₁/(τ₁−τ₂)/(1+sτ₁) − K τ₂/(τ₁−τ₂)/(1+sτ₂)``."""
        _check(self, "lag_s", "second_lag_s", "dead_time_s")
        if self.second_lag_s == 0.0:
            return FOPDT(self.gain, self.lag_s, self.dead_time_s).modes()
        slow, fast = max(self.lag_s, self.second_lag_s), min(self.lag_s, self.second_lag_s)
        fast = min(fast, slow * (1.0 - APART))
        share = slow / (slow - fast)
        return Modes((1.0 / slow, 1.0 / fast), (self.gain * share, self.gain * (1.0 - share)), self.dead_time_s)

    def response(self, w: Frequency) -> Complex:
        """``K e^(−jωL) / ((1 + jωτ₁)(1 + jωτ₂))`` at angular frequencies ``w`` (n), rad/s; shape (n)."""
        lags = (1.0 + 1j * w * self.lag_s) * (1.0 + 1j * w * self.second_lag_s)
        return np.asarray(self.gain * np.exp(-1j * w * self.dead_time_s) / lags)


@dataclass(frozen=True)
class Integrating:
    """Integrator plus dead time: slope in °C/s per %, dead time in s. A process seen for a time short against its lag."""

    slope: float
    dead_time_s: float

    def modes(self) -> Modes:
        _check(self, "dead_time_s")
        return Modes((0.0,), (self.slope,), self.dead_time_s)

    def response(self, w: Frequency) -> Complex:
        """``k e^(−jωL) / jω`` at angular frequencies ``w`` (n) > 0, rad/s; shape (n)."""
        return np.asarray(self.slope * np.exp(-1j * w * self.dead_time_s) / (1j * w))


Model = FOPDT | SOPDT | Integrating


class Answers(Protocol):
    """Anything with a frequency response, °C for each % unless it says otherwise, and a dead time."""

    def modes(self) -> Modes: ...

    def response(self, w: Frequency) -> Complex: ...


def half_rule(process: SOPDT) -> FOPDT:
    """FOPDT approximation: half of the second lag goes to the lag, half to the dead time (Skogestad, J. Process Control 13, 2003).

    >>> half_rule(SOPDT(1.0, 20.0, 2.0, 1.0))
    FOPDT(gain=1.0, lag_s=21.0, dead_time_s=2.0)
    """
    half = process.second_lag_s / 2.0
    return FOPDT(process.gain, process.lag_s + half, process.dead_time_s + half)


def with_second_lag(process: FOPDT, second_lag_s: float) -> FOPDT | SOPDT:
    """What :func:`half_rule` made a first order of, where its second lag is known; the first order itself without one.

    >>> half_rule(with_second_lag(FOPDT(1.0, 21.0, 2.0), 2.0))
    FOPDT(gain=1.0, lag_s=21.0, dead_time_s=2.0)
    """
    half = second_lag_s / 2.0
    if second_lag_s <= 0.0 or half > process.dead_time_s or half >= process.lag_s:
        return process
    return SOPDT(process.gain, process.lag_s - half, second_lag_s, process.dead_time_s - half)


def as_quick_at(process: FOPDT, cools: float, rise_c: float) -> FOPDT:
    """What near ``rise_c`` rises and falls as quickly as a process with this gain and lag while it heats, and ``cools`` times the lag while
    it does not: there up at ``(100 K − ΔT)/τ``, down at ``ΔT/(c τ)``. One that full power does not bring there keeps a little gain.

    >>> as_quick_at(FOPDT(2.0, 100.0, 5.0), 3.0, 80.0)
    FOPDT(gain=4.4, lag_s=300.0, dead_time_s=5.0)
    """
    gain = cools * process.gain + (1.0 - cools) * rise_c / 100.0
    return FOPDT(max(gain, LITTLE * process.gain), cools * process.lag_s, process.dead_time_s)


P = TypeVar("P", "FOPDT", "SOPDT", "FOPDT | SOPDT")


def times_as_hot(process: P, times: float) -> P:
    """As quick at first, and so many times as hot in the end: what it loses has become less, or more.

    >>> times_as_hot(FOPDT(1.0, 600.0, 20.0), 0.5)
    FOPDT(gain=0.5, lag_s=300.0, dead_time_s=20.0)
    """
    return replace(process, gain=process.gain * times, lag_s=process.lag_s * times)


def _check(model: Model, *names: str) -> None:
    """Raise ``Refused`` for times that cannot be."""
    refuse_all(
        Problem(name, "a time cannot be negative, and a lag is more than zero", "more than {0 s}")
        for name in names
        if not getattr(model, name) >= 0 or (name == "lag_s" and getattr(model, name) == 0)
    )
