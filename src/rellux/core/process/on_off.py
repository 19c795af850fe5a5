"""What on/off control of a linear process comes to, and which hysteresis gives what is wanted: by the exact cycle, for any lags.

Swing and period grow with the hysteresis, so what is wanted is found by halving (:func:`rellux.core.process.cycles.switched_cycle`).
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
import scipy
from numpy.typing import NDArray

from ..control.settings import ControllerSettings, HysteresisSchool
from ..errors import refuse
from ..explain import Figure, Input
from ..messages import difference, quantity
from ..units import Kind
from .cycles import Cycle, OnOff, switched_cycle
from .models import FOPDT, SOPDT
from .response import respond

Array = NDArray[np.float64]

SOURCE = "exact cycle of the lags behind their dead time, event by event"
LEAST_HYSTERESIS_C = 1e-3
"""Hysteresis that is none, °C (our choice): without dead time and none at all it would switch without end."""
CLOSE = 1e-4
SETTLED = 8.0
"""Lags after which a cycle is drawn: a three-thousandth of the start is left."""
POINTS = 60


@dataclass(frozen=True)
class Switching:
    """How a heater is switched: on ``hysteresis_c`` below where it is switched off, and that ``off_above_c`` above the set-point; held for
    ``least_on_s`` and ``least_off_s`` at least; looked at every ``sample_s``. ``setpoint_c``: above the room."""

    setpoint_c: float
    hysteresis_c: float
    centred: bool = False
    least_on_s: float = 0.0
    least_off_s: float = 0.0
    sample_s: float = 0.0

    @property
    def off_at(self) -> float:
        return self.setpoint_c + (self.hysteresis_c / 2.0 if self.centred else 0.0)

    @property
    def on_at(self) -> float:
        return self.off_at - self.hysteresis_c


def steady(process: FOPDT | SOPDT, by: Switching) -> Cycle:
    """The cycle it settles to; an edge waits half a look on average. Raises ``Refused`` where it does not cycle."""
    late = replace(process, dead_time_s=process.dead_time_s + by.sample_s / 2.0)
    wide = max(by.hysteresis_c, LEAST_HYSTERESIS_C)
    off = by.off_at
    return switched_cycle(late, OnOff(off, off - wide, least_on_s=by.least_on_s, least_off_s=by.least_off_s))


def switching_of(settings: ControllerSettings, ambient_c: float) -> Switching:
    """How a controller set so switches."""
    centred = settings.hysteresis_school is HysteresisSchool.CENTRED
    return Switching(settings.setpoint_c - ambient_c, settings.hysteresis_c, centred, sample_s=settings.sample_s)


def swing_figures(process: FOPDT | SOPDT, by: Switching, found: Cycle) -> tuple[Figure, Figure]:
    """Swing (°C) and period (s) of a cycle, with what they follow from."""
    inputs = (
        Input("full-power rise", 100.0 * process.gain, Kind.DIFFERENCE, "ΔT₊", "identified"),
        Input("hysteresis", by.hysteresis_c, Kind.DIFFERENCE, "H", "set-up"),
        Input("dead time with half a look", process.dead_time_s + by.sample_s / 2.0, Kind.TIME, "L", "identified"),
        Input("lag", process.lag_s, Kind.TIME, "τ", "identified"),
        Input("second lag", process.second_lag_s if isinstance(process, SOPDT) else 0.0, Kind.TIME, "τ₂", "identified"),
    )
    runs_on = "Peak to trough. Dead time alone makes it swing, even with no hysteresis."
    split = f"On for {quantity(found.on_time_s, 's', '.0f')}, off for {quantity(found.off_time_s, 's', '.0f')}."
    return (
        Figure(
            "swing under on/off",
            found.swing,
            Kind.DIFFERENCE,
            inputs=inputs,
            reason=runs_on,
            source=SOURCE,
            symbol="swing",
        ),
        Figure("on/off period", found.period_s, Kind.TIME, inputs=inputs, reason=split, source=SOURCE, symbol="T"),
    )


def smallest(process: FOPDT | SOPDT, by: Switching) -> Cycle:
    """The cycle without any hysteresis: what dead time, looks and least times alone make of it."""
    return steady(process, replace(by, hysteresis_c=0.0))


def hysteresis_for_swing(process: FOPDT | SOPDT, by: Switching, swing_c: float) -> float:
    """The hysteresis in °C with which it swings by ``swing_c``. Raises ``Refused`` for less than there must be, or more than there can."""
    return _hysteresis(process, by, lambda c: c.swing, swing_c, "swing_c")


def hysteresis_for_period(process: FOPDT | SOPDT, by: Switching, period_s: float) -> float:
    """The hysteresis in °C with which one cycle takes ``period_s``. Raises ``Refused`` for less than there must be, or than there can."""
    return _hysteresis(process, by, lambda c: c.period_s, period_s, "period_s")


def _hysteresis(process: FOPDT | SOPDT, by: Switching, of: Callable[[Cycle], float], wanted: float, name: str) -> float:
    def excess(hysteresis: float) -> float:
        return of(steady(process, replace(by, hysteresis_c=hysteresis))) - wanted

    if excess(0.0) > 0.0:
        raise refuse(name, "without any hysteresis it is more already", "more: or another control")
    room = min(by.setpoint_c, process.gain * 100.0 - by.setpoint_c) * (2.0 if by.centred else 1.0)
    widest = (1.0 - CLOSE) * (room if by.centred else by.setpoint_c)
    if excess(widest) < 0.0:
        raise refuse(name, f"not even with {difference(widest, '.3g')} of hysteresis", "less")
    return float(scipy.optimize.brentq(excess, 0.0, widest, xtol=CLOSE))


def course(process: FOPDT | SOPDT, found: Cycle, cycles: int = 2) -> tuple[Array, Array]:
    """Times (n), s, and rises (n), °C, over the last of many cycles with these times on and off."""
    slow = process.lag_s + (process.second_lag_s if isinstance(process, SOPDT) else 0.0)
    many = int(np.ceil(SETTLED * slow / found.period_s)) + 2
    starts = np.arange(many + cycles) * found.period_s
    edges = np.column_stack((starts, starts + found.on_time_s)).ravel()
    output = np.tile((100.0, 0.0), len(starts))
    t = np.linspace(many * found.period_s, (many + cycles) * found.period_s, POINTS * cycles + 1)
    rise = respond(process, np.append(0.0, t), edges, output)[1:]
    return t - t[0], rise
