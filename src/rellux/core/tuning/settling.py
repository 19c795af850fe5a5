"""Model and noise together, where the record is likeliest: found one under the other they keep each other where they began, for noise that
stays explains what the model misses, and a model is sought no further under such noise."""

from dataclasses import replace

import numpy as np
import scipy
from numpy.typing import NDArray

from .forms import FIRST, SECOND, Place
from .noise import Noise, packed, unpacked
from .record import IMPOSSIBLE, Records
from .region import SLOWEST

Array = NDArray[np.float64]

LOOKS, LOOKS_ROUNDED = 1500, 250
NEAR, CLOSE = 1e-3, 1e-2
STEPS, STEPS_ROUNDED = (-0.7, 0.3, -1.0, 0.5), (-0.3, 0.5)
"""How far off the noise may be at first (:func:`.record.packed`)."""
LAG_STEP, SHARE_STEP = 0.1, 0.1
"""The same of ln τ and, as a part of itself, of what the form has besides; the dead time's is a row."""


def settled(record: Records, noise: Noise, place: Place) -> tuple[Noise, Place]:
    """Noise and place at which the record is likeliest, by the simplex of Nelder and Mead from ``place``."""
    noise = record.noise_at(place.model, noise)
    more, row = place.form != FIRST, record.usual_s
    begin = np.array([place.ln_lag, place.dead_s / row, *([place.free] if more else []), *packed(noise)])
    wide = SHARE_STEP * (place.extra if place.form == SECOND else 1.0)
    steps = [LAG_STEP, 1.0, *([wide] if more else []), *(STEPS_ROUNDED if noise.quantum else STEPS)]

    def read(p: Array) -> tuple[Noise | None, Place]:
        extra = 0.0 if not more else abs(float(p[2])) if place.form == SECOND else float(np.exp(p[2]))
        there = Place(float(p[0]), abs(float(p[1])) * row, place.form, extra)
        return unpacked(p[3 if more else 2 :], noise.quantum), there

    def unlikely(p: Array) -> float:
        found, there = read(p)
        if found is None or there.lag_s > SLOWEST * record.span_s or not there.is_looked_for:
            return IMPOSSIBLE
        return record.marginal(found, *there.model)

    found = scipy.optimize.minimize(
        unlikely,
        begin,
        method="Nelder-Mead",
        options={
            "initial_simplex": np.vstack((begin, begin + np.diag(steps))),
            "maxfev": LOOKS_ROUNDED if noise.quantum else LOOKS,
            "xatol": NEAR,
            "fatol": CLOSE,
            "adaptive": True,
        },
    )
    likely, there = read(found.x)
    if likely is None or not found.fun < record.marginal(noise, *place.model):
        return noise, place
    return replace(likely, white_c=max(likely.white_c, _of_steps(noise, record))), there


def _of_steps(noise: Noise, record: Records) -> float:
    """What fine steps of the display are as white noise, where they were taken for it."""
    even = 0.0 if record.is_coarse or noise.quantum else record.quantum_c / 12.0**0.5
    return even if noise.white_c >= even else 0.0
