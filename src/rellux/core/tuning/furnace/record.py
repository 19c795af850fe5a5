"""A stretch as a furnace is learnt from it: the heat of every step, and what a furnace of given numbers would have shown."""

import numpy as np
from numpy.typing import NDArray

from ...process.networks import ThermalNetwork, discretise
from ..stretch import Changes, Stretch, checked, is_cold
from .kernel import shown_into
from .shape import Node, Shape

Array = NDArray[np.float64]

STEPS, ROWS = 1500, 400
"""So many steps of one record, and readings it is judged by (our choice: a step is some seconds of an hour)."""
AMBIENT_SURE_C, START_SURE_C = 2.0, 3.0
"""How sure the told ambient is, °C, and the first reading (our choice)."""
WARM, WARM_SURE = 0.5, 0.3
"""How warm a lining is that was not cold, as a part of its chamber, and how sure that is (our choice)."""
FOR_EVER_S = 1e9
ITS_OWN = 3
"""Numbers of a stretch alone: ambient, how it began, how warm its lining was."""


class FurnaceRecord:
    """Rows ``t`` (n) s and ``y`` (n) °C of one stretch, its output at steps of ``step_s``; ``learnt``: the share that is learnt from."""

    def __init__(self, stretch: Stretch, learnt: float = 1.0) -> None:
        t, y, changes = checked(stretch)
        every = len(t) // ROWS + 1
        self.t, self.y = t[::every] - t[0], y[::every]
        self.changes, self.stretch, self.began_s = changes, stretch, float(t[0])
        self.cold = changes.before in (None, 0.0) and is_cold(stretch, y)
        self.span_s = float(self.t[-1])
        self.step_s = self.span_s / STEPS
        self.rows = int(np.searchsorted(self.t, learnt * self.span_s, side="right"))
        """It is learnt from so many of its rows."""
        self._grid = np.linspace(0.0, self.span_s, STEPS + 1)
        before = changes.before if changes.before is not None else 0.0 if self.cold else float(changes.values[0])
        self._given = _given(changes, before, self.began_s)
        self.start_c = float(np.median(y[:3]))
        self.steps = np.append(1.0, np.diff(self.t) / np.median(np.diff(self.t)))

    @property
    def sure(self) -> Array:
        """Of what is its own (3)."""
        return np.array([AMBIENT_SURE_C, START_SURE_C, WARM_SURE])

    def places(self, own: Array) -> tuple[float, float]:
        """Ambient and where it began, °C."""
        ambient = float(self.stretch.ambient_c + own[0])
        return ambient, float((ambient if self.cold else self.start_c) + own[1])

    def shown(self, shape: Shape, p: Array, own: Array) -> Array:
        """What a furnace of these numbers shows at its rows, °C (n). ``own``: how far ambient, beginning and the lining's warmth are from
        what they are taken for."""
        network = shape.network(p)
        ambient, start = self.places(own)
        began = start - ambient
        x = np.full(len(network.capacities), began)
        if not self.cold:
            x[Node.INNER] = began * (WARM + own[2])
            x[Node.OUTER] = x[Node.INNER] * WARM
        times, given = self._given
        until = np.interp(self._grid - network.dead_time_s, times, given)
        power = np.diff(until) / self.step_s * network.heater_power_w / 100.0
        return np.asarray(ambient + np.interp(self.t, self._grid, shown(network, power, self.step_s, x, ambient)))


def shown(network: ThermalNetwork, power_w: Array, step_s: float, x: Array, ambient_c: float) -> Array:
    """What its sensor shows above ``ambient_c`` from the beginning on, °C (n + 1), under the heat of every step (n); it begins at ``x``."""
    step, k, out = discretise(network, step_s), len(x), np.empty(len(power_w) + 1)
    out[0] = x[Node.CHAMBER]
    keeps = float(np.exp(-step_s / network.sensor_lag_s))
    steps = step.transition.reshape(k, k), step.response.reshape(k, k)
    shown_into(
        out[1:], *steps, power_w, x, Node.ELEMENT, Node.CHAMBER, network.radiation[Node.CHAMBER], ambient_c, keeps
    )
    return out


def _given(changes: Changes, before: float, began_s: float) -> tuple[Array, Array]:
    """Times from the beginning and the output given until then, % s: straight between them, so that every step has its own share."""
    times = np.concatenate(([-FOR_EVER_S], changes.times_s - began_s, [FOR_EVER_S]))
    values = np.concatenate(([before], changes.values))
    given = np.concatenate(([0.0], np.cumsum(np.diff(times) * values)))
    return times, given - np.interp(0.0, times, given)
