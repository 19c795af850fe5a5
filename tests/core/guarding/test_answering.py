"""The family of rigs round a process that was found: that it answers as was told, and that rigs of another build stay within its edge
after a limiter tripped."""

from dataclasses import replace

import numpy as np
import pytest
import scipy

from rellux.core.guarding.answering import answering
from rellux.core.guarding.family import HeatedRig, Identified, Span, family
from rellux.core.guarding.runaway import Follower, worst_peak
from rellux.core.plant.rig_models import network_for
from rellux.core.process.modes import time_63
from rellux.core.purpose.purpose import Purpose, RigKind, Supply
from rellux.core.tuning.family import later
from rellux.core.tuning.fit_verdict import FitVerdict
from rellux.core.tuning.furnace.told import as_furnace
from rellux.core.tuning.identify import identify
from tests.core.tuning import beyond, kilns
from tests.examples import cases, some

from .rigs import CABINET


@pytest.mark.slow
@pytest.mark.parametrize("kind", some(RigKind, 4))
@pytest.mark.parametrize("late", [0.002, 0.02, 0.2])
def test_it_answers_as_steeply_and_as_late_as_was_told(kind, late):
    """Judged by its step response as a general solver for linear systems gives it."""
    found = answering(network_for(kind, CABINET, 300.0), 250.0, 1000.0, 1000.0 * late)
    n = len(found.capacities)
    move, full = np.zeros((n + 1, n + 1)), np.zeros((n + 1, 1))
    move[:n, :n] = -found.conductance_matrix() / np.array(found.capacities)[:, None]
    move[n, [found.sensor_node, n]] = 1.0 / found.sensor_lag_s, -1.0 / found.sensor_lag_s
    full[found.heater_node] = found.heater_power_w / found.capacities[found.heater_node]
    system = scipy.signal.StateSpace(move, full, np.eye(n + 1)[[n]], np.zeros((1, 1)))
    t, y = scipy.signal.step(system, T=np.linspace(0.0, 600.0, 12_001))
    slopes = np.gradient(y, t)
    at = int(np.argmax(slopes))
    assert 250.0 / slopes[at] == pytest.approx(1000.0, rel=0.01)
    assert found.dead_time_s + t[at] - y[at] / slopes[at] == pytest.approx(1000.0 * late, rel=0.02, abs=0.5)


def peaks(kind, purpose: Purpose, power_w: float, found, by_rate: bool, trip_c: float) -> list[float]:
    """Beyond the trip: of the likely rig, and of the one that gets hottest."""
    dead = later((found.dead_time.low, found.dead_time.value, found.dead_time.high), found.row_s)
    ends = [(f.low, f.value, f.high) for f in (found.gain, found.lag)]
    rate_only = not by_rate and found.verdict is FitVerdict.SLOPE_ONLY
    known = Identified(*(Span(value, low, high) for low, value, high in (*ends, dead)), by_rate, rate_only)
    rigs = family(HeatedRig(kind, purpose, power_w, known))
    length = 6.0 * max(time_63(n) for n in rigs.all)
    at = Follower(0.0, 1.0, trip_c, 0.1)
    told = (worst_peak(n, purpose.ambient_c, purpose.working_c, length, at) for n in (rigs.likely, rigs.fast))
    return [np.nan if peak is None else peak - trip_c for peak in told]


def of_kilns(many: int, seed: int) -> np.ndarray:
    """True, likely and highest peaks of those that were learnt as furnaces."""
    k = kilns.kilns(many, seed)
    trip, record = k.goal_c + 40.0, kilns.run(k, seed + 1, 8.0, k.goal_c - 20.0, inner=10)
    true, rows = kilns.after_trip(k, trip), []
    for i in range(many):
        s = kilns.stretch(k, record, i)
        told = as_furnace([s], identify(s), RigKind.KILN, k.purpose(i))
        if told is not None:
            rows.append(
                [true[i], *peaks(RigKind.KILN, k.purpose(i), float(k.full_w[i]), told[0], True, float(trip[i]))]
            )
    return np.array(rows)


def of_rigs(many: int, seed: int) -> np.ndarray:
    """The same of ovens in whose log one lag or two was found."""
    r = beyond.rigs(many, seed)
    trip, record = r.goal_c + 0.08 * (r.goal_c - 20.0), beyond.run(r, "heat_up", seed + 1)
    true, rows = beyond.after_trip(r, trip), []
    for i in range(many):
        found = identify(beyond.stretch(r, record, i))
        goal, full = float(r.goal_c[i]), float(r.full_w[i])
        purpose = Purpose(goal, 1.5 * goal, "", Supply.SINGLE_PHASE, 230.0, full, 230.0, ambient_c=20.0)
        if found.verdict.usable:
            rows += [
                [true[i], *peaks(kind, purpose, full, found, False, float(trip[i]))]
                for kind in (RigKind.OVEN, RigKind.PLATE)
            ]
    return np.array(rows)


@pytest.mark.slow
def test_the_peak_after_a_trip_stays_within_the_edge():
    rows = of_rigs(1, 1)
    assert len(rows) and (rows[:, 2] >= rows[:, 0]).all(), rows


@pytest.mark.long
def test_over_many_rigs_of_another_build_too():
    furnaces, ovens = of_kilns(14, 300), of_rigs(20, 40)
    assert len(furnaces) >= 10 and (furnaces[:, 2] >= furnaces[:, 0]).all(), furnaces
    assert np.nanmedian(furnaces[:, 1] / furnaces[:, 0]) <= 2.0, furnaces  # not counted twice
    assert len(ovens) >= 20 and np.mean(ovens[:, 2] >= ovens[:, 0]) >= 0.97, ovens


@pytest.mark.parametrize("seed", range(cases(4)))
def test_a_later_answer_never_peaks_lower(seed):
    rng = np.random.default_rng(seed)
    kind = list(RigKind)[int(rng.integers(len(RigKind)))]
    gain, lag, dead = 1.0, float(10 ** rng.uniform(2.0, 4.0)), float(10 ** rng.uniform(-2.5, -0.5))
    known = Identified(*(Span(v, v, v) for v in (gain, lag, dead * lag)), by_rate=True)
    later_one = replace(known, dead_time_s=Span(*(1.5 * dead * lag,) * 3))
    found = [family(HeatedRig(kind, CABINET, 300.0, k)).likely for k in (known, later_one)]
    at = Follower(0.0, 1.0, 75.0, 0.1)
    first, second = (worst_peak(n, 21.0, 60.0, 6.0 * time_63(n), at) for n in found)
    assert first is not None and second is not None and second >= first - 0.05


def test_where_only_its_rate_is_known_it_may_get_as_hot_as_others_of_its_kind_and_goes_on_as_fast():
    known = Identified(Span(0.5, 0.45, 0.55), Span(1000.0, 900.0, 1100.0), Span(20.0, 18.0, 22.0))
    rig = HeatedRig(RigKind.CABINET, CABINET, 300.0, known)
    typical = float(network_for(rig.kind, CABINET, 300.0).equilibrium_rise()[1])
    sure, unsure = (family(replace(rig, identified=replace(known, rate_only=only))) for only in (False, True))
    tops = [float(f.fast.equilibrium_rise()[1]) for f in (sure, unsure)]
    assert tops == pytest.approx([62.5, typical]) and typical > 62.5
    rates = [float(f.fast.equilibrium_rise()[1]) / time_63(f.fast) for f in (sure, unsure)]
    assert rates[1] == pytest.approx(rates[0])
    assert (sure.likely, sure.slow) == (unsure.likely, unsure.slow)
