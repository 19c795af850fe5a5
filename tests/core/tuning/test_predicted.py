"""What is predicted from a fit holds on rigs that no lag with dead time describes: another heat-up with its cycles, and how near the loop
is to swinging. ``./rellux endure`` tries many more."""

import numpy as np
import pytest

from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.plant.simulation import Simulation
from rellux.core.process.networks import from_model
from rellux.core.tuning.family import family, later
from rellux.core.tuning.identify import identify
from rellux.core.tuning.robustness import margins
from rellux.core.tuning.rules.published import simc_pi
from tests.core.tuning.beyond import ROWS, Linear, rigs, run, stretch

KINDS = ("heat_up", "door", "loaded", "step")
IN_EVERY_RUN = ("step",)
"""The others are for ``./rellux endure``, which tries all of them on many more."""


def ends(figure, each=1.0):
    return figure.low * each, figure.value * each, figure.high * each


def judged(kind, many, seed):
    """Of every fit that may be used: the share of another run within the predicted band, and by how much Ms of the true loop is above the
    worst that is stated, for SIMC with τ_c = L and 2 L."""
    r = rigs(many, seed)
    record, (t, y, _) = run(r, kind, seed + 1), run(r, "heat_up", seed + 2)
    inside, over = [], []
    for i in range(many):
        found = identify(stretch(r, record, i))
        if not found.verdict.usable:
            continue
        second = next((f.value for f in found.extra if f.symbol == "τ₂"), 0.0)
        rate, p = ends(found.slope, 1 / 6000), found.process
        members = family(ends(found.gain), rate, later(ends(found.dead_time), found.row_s), second, found.slow_gain)
        low, high = band(members, float(r.goal_c[i]), float(r.hysteresis_c[i]), float(np.round(r.room_c[i])), t[:, i])
        room = 2.0 * found.noise_c
        inside.append(np.mean((y[:, i] >= low - room) & (y[:, i] <= high + room)))
        for slower in (1.0, 2.0):
            pid = simc_pi(p, slower * p.dead_time_s)
            stated = max(margins(pid, m, m.lag_s).ms for m in (p, *members))
            over.append(margins(pid, Linear(r, i), p.lag_s).ms - stated)
    return np.array(inside), np.array(over)


def band(members, goal_c, hysteresis_c, room_c, t):
    settings, every = ControllerSettings(goal_c, Mode.ON_OFF, hysteresis_c, sample_s=t[1]), float(t[1])
    courses = []
    for m in members:
        quickest = min(v for v in (m.lag_s, m.dead_time_s or m.lag_s, every))
        seen = Simulation(from_model(m), settings, room_c, quickest / 20.0).advance(ROWS * every, every)
        courses.append(np.interp(t, seen.time_s, seen.reading_c))
    return np.min(courses, axis=0), np.max(courses, axis=0)


@pytest.mark.slow
@pytest.mark.parametrize("kind", IN_EVERY_RUN)
def test_another_heat_up_and_its_loop_go_as_predicted(kind):
    inside, over = judged(kind, 3, 20)
    assert len(inside) >= 2 and 0.9 <= inside.mean() <= 0.995, inside
    assert over.max() <= 0.3, over
