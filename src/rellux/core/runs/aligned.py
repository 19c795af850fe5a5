"""Two curves laid over one another where they pass the same temperature, not only where they begin."""

import numpy as np

from .series import Array


def first_passage(time_s: Array, celsius: Array, level_c: float) -> float | None:
    """When a curve first reaches ``level_c``, s, from the side where it begins, linearly between rows (NaN: not known); ``None`` where it
    never does, or begins there.

    >>> first_passage(np.array([0.0, 10.0, 20.0]), np.array([20.0, 40.0, 80.0]), 60.0)
    15.0
    """
    known = np.flatnonzero(np.isfinite(celsius))
    t, y = np.asarray(time_s)[known], np.asarray(celsius)[known] - level_c
    if not len(y) or y[0] == 0.0:
        return None
    past = np.flatnonzero(y >= 0.0 if y[0] < 0.0 else y <= 0.0)
    if not len(past):
        return None
    i = int(past[0])
    return float(t[i - 1] + (t[i] - t[i - 1]) * y[i - 1] / (y[i - 1] - y[i]))
