"""The exact response to a recorded, piecewise-constant output, at irregular times: delayed edges are breakpoints, so that no
pulse is missed (an adaptive solver steps over short ones)."""

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..compiled import compiled
from ..errors import Problem, refuse_all
from .models import Model

Array = NDArray[np.float64]


SAME = 1e-9
"""Steps that differ by less than this share of them are the same."""


@compiled()
def unit_response(times, change_times, values, before, rate, dead):
    """Solve ``f' = rate · (u(t − dead) − f)`` with f = 0 at the first time; returns f at every time.

    times (n): s, rising. change_times (m), values (m): from change_times[k] on, u is values[k] (held); ``before`` holds
    until the first change. A rate of 0 integrates: ``f' = u(t − dead)``.
    """
    n = len(times)
    m = len(change_times)
    out = np.empty(n)
    f = 0.0
    usual, keeps = -1.0, 1.0  # rows mostly come evenly: e^(−λ Δt) is worked out where the step is another
    now = times[0]
    k = 0
    u = before
    while k < m and change_times[k] + dead <= now:
        u = values[k]
        k += 1
    for i in range(n):
        target = times[i]
        while k < m and change_times[k] + dead < target:
            change = change_times[k] + dead
            f = f + u * (change - now) if rate == 0.0 else u + (f - u) * np.exp(-(change - now) * rate)
            now = change
            u = values[k]
            k += 1
        step = target - now
        if rate == 0.0:
            f = f + u * step
        else:
            if abs(step - usual) > SAME * usual:
                usual, keeps = step, np.exp(-step * rate)
            f = u + (f - u) * keeps
        now = target
        out[i] = f
    return out


def respond(
    model: Model, times_s: ArrayLike, change_times_s: ArrayLike, output: ArrayLike, before: float = 0.0
) -> Array:
    """Rise of a model in °C at ``times_s`` (n, rising), from rest at the first of them, shape (n).

    ``output`` (m) in %: held from ``change_times_s`` (m, rising) on, ``before`` until then. Raises ``Refused`` for times that do
    not rise.
    """
    times, changes, values = (np.asarray(a, dtype=np.float64) for a in (times_s, change_times_s, output))
    refuse_all(
        Problem(name, "time does not rise", "rising times")
        for name, column in (("times_s", times), ("change_times_s", changes))
        if not bool(np.all(np.diff(column) > 0))
    )
    modes = model.modes()
    parts = [
        weight * unit_response.plain(times, changes, values, before, rate, modes.dead_time_s)
        if len(times) < SHORT
        else weight * unit_response(times, changes, values, before, rate, modes.dead_time_s)
        for rate, weight in zip(modes.rates, modes.weights, strict=True)
    ]
    return np.asarray(np.sum(parts, axis=0))


SHORT = 2000
"""Rows below which the compiler is not worth its start."""
