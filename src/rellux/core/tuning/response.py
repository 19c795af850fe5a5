"""The exact first-order response to a recorded, piecewise-constant output, at irregular times."""

import numpy as np

from ..compiled import compiled


@compiled()
def unit_response(times, change_times, values, before, lag, dead):
    """Solve ``lag · f' = u(t − dead) − f`` with f = 0 at the first time; returns f at every time.

    times (n): s, rising. change_times (m), values (m): from change_times[k] on, u is values[k] (held); ``before`` holds
    until the first change. Breakpoints fall exactly where the delayed output changes, so no pulse is missed.
    """
    n = len(times)
    m = len(change_times)
    out = np.empty(n)
    f = 0.0
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
            f = u + (f - u) * np.exp(-(change - now) / lag)
            now = change
            u = values[k]
            k += 1
        f = u + (f - u) * np.exp(-(target - now) / lag)
        now = target
        out[i] = f
    return out
