"""Processes that are more than one lag, and one learnt from several runs, against simulated truths."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.optimize import least_squares
from scipy.signal import lsim, residue

from rellux.core.process.cycles import OnOff, switched_cycle
from rellux.core.process.models import FOPDT, Integrating, as_quick_at
from rellux.core.tuning.identify import identify
from rellux.core.tuning.stretch import Stretch
from tests.core.tuning import other_forms as made
from tests.examples import cases, some

LOGS = range(2)


def held(figure, true):
    return figure.low <= true <= (np.inf if figure.high is None else figure.high)


def besides(found, symbol):
    return next((f for f in found.extra if f.symbol == symbol), None)


def modes(rig):
    """(K, τ) of the chamber and of the walls behind it, by the partial fractions of the rig's transfer function (SciPy), in its own lag as
    the unit of time: SciPy takes poles that are near one another for one."""
    unit = rig.lag_s
    b, c = unit / rig.to_walls_s, unit / rig.walls_s
    shares, poles, _ = residue([rig.k * unit, rig.k * unit * c], np.poly([[-(1 + b), b], [c, -c]]))
    found = ((-(s / p).real, -unit / p.real) for s, p in zip(shares, poles, strict=True))
    return sorted(found, key=lambda mode: mode[1])


def test_what_rises_for_ever_is_called_so_and_its_rate_is_known():
    """A lag forty times the record is sometimes seen in it, and is then within its interval."""
    for seed in LOGS:
        rig, stretch = made.integrating(seed)
        found = identify(stretch)
        endless = isinstance(found.model, Integrating)
        assert found.verdict == "slope_only" and (endless or np.isfinite(rig.lag_s))
        assert found.slope.value == pytest.approx(6000 * rig.k, rel=0.01)
        assert found.dead_time.value == pytest.approx(rig.dead_s, rel=0.03)
        assert held(found.gain, rig.k * rig.lag_s)
        if endless:
            assert found.gain.high is None and found.process.gain == found.gain.value == found.gain.low
            assert 6000 * found.process.gain / found.process.lag_s == pytest.approx(found.slope.value, rel=1e-6)


@pytest.mark.long
def test_an_own_lag_of_cooling_is_found_where_there_is_one():
    told = []
    for seed in LOGS:
        rig, stretch = made.cooling(seed)
        found = identify(stretch)
        own = besides(found, "τ_c")
        assert found.verdict == "supported" and own is not None
        pairs = (
            (found.gain, rig.k * rig.lag_s),
            (found.lag, rig.lag_s),
            (found.dead_time, rig.dead_s),
            (own, rig.lag_s * rig.cools),
        )
        told.append([held(f, true) for f, true in pairs])
        assert all(f.value == pytest.approx(true, rel=0.06) for f, true in pairs)
    assert np.mean(told) >= 0.85


@pytest.mark.slow
def test_walls_that_warm_up_are_told_from_the_chamber():
    told = []
    for seed in LOGS:
        rig, stretch = made.walled(seed)
        found = identify(stretch)
        assert found.verdict == "supported"
        (gain, lag), (added, wall) = modes(rig)
        told += [
            held(found.gain, gain),
            held(found.lag, lag),
            held(besides(found, "τ_w"), wall),
            held(besides(found, "K + K_w"), gain + added),
        ]
        assert found.slope.value == pytest.approx(6000 * rig.k, rel=0.03)
        assert found.slow_gain == pytest.approx(added, rel=0.1)
    assert np.mean(told) >= 0.85


@pytest.mark.slow
def test_one_lag_is_not_taken_for_more():
    for seed in LOGS:
        rig, _ = made.together(seed)
        rng = np.random.default_rng([seed, 20])
        t = np.linspace(0.0, 6.0 * rig.lag_s, 400)
        rig, u = rig.at(t), made.pulses(t, rng)
        found = identify(Stretch(t, made.noisy(rig.course(t, u, 20.0), rng, 0.2), u, 20.0))
        assert found.verdict == "supported" and not besides(found, "τ_c") and not besides(found, "τ_w")


@pytest.mark.slow
@pytest.mark.parametrize("known", some([True, False], 1))
def test_several_runs_tell_what_none_tells_alone(known):
    """Intervals of all together hold, and are narrower than any of one; whether or not it is told what the output was before."""
    told = []
    for seed in LOGS:
        rig, stretches = made.together(seed)
        if not known:
            stretches = [replace(s, output_before=None) for s in stretches]
        found = identify(*stretches)
        assert found.verdict == "supported" and len(found.fitted) == 3
        for figure, true in ((found.gain, rig.k * rig.lag_s), (found.lag, rig.lag_s), (found.dead_time, rig.dead_s)):
            told.append(held(figure, true))
            assert figure.value == pytest.approx(true, rel=0.05)
    assert np.mean(told) >= 0.85


@pytest.mark.slow
def test_all_together_is_the_least_squares_of_all():
    """White noise: what SciPy's search finds over (K, τ, L) and a level for every run, the room known, is within the intervals."""
    rig, stretches = made.together(3)
    found = identify(*stretches)

    def off(p):
        gain, lag, dead, *levels = p
        off_each = []
        for stretch, level in zip(stretches, levels, strict=True):
            t, u = stretch.time_s, stretch.output
            late = np.concatenate(([stretch.output_before], u))[np.searchsorted(t, t + 1e-9 - dead, "right")]
            x, out = level, []
            for i in range(len(t)):
                out.append(x)
                if i + 1 < len(t):
                    edge = next(
                        (e + dead for e in t[np.flatnonzero(np.diff(u, prepend=u[0]))] if t[i] < e + dead < t[i + 1]),
                        t[i + 1],
                    )
                    for step, heat in ((edge - t[i], late[i]), (t[i + 1] - edge, late[i + 1])):
                        x = 20.0 + gain * heat + (x - 20.0 - gain * heat) * np.exp(-step / lag)
            off_each.append(np.array(out) - stretch.reading_c)
        return np.concatenate(off_each)

    start = (rig.k * rig.lag_s, rig.lag_s, rig.dead_s, *(s.reading_c[0] for s in stretches))
    best = least_squares(off, start, x_scale=start, diff_step=1e-4).x
    for figure, theirs in zip((found.gain, found.lag, found.dead_time), best, strict=False):
        assert figure.low <= theirs <= figure.high


@pytest.mark.slow
def test_where_one_run_was_logged_more_coarsely_the_dead_time_is_known_less():
    """Its output may have changed up to two of the finer rows before the row that says so."""
    for seed in LOGS:
        rig, (heat_up, cool_down, bump) = made.together(seed)
        rough = replace(cool_down, **{n: getattr(cool_down, n)[::3] for n in ("time_s", "reading_c", "output")})
        found = identify(heat_up, rough, bump)
        assert held(found.dead_time, rig.dead_s) and held(found.gain, rig.k * rig.lag_s)


@pytest.mark.slow
def test_runs_of_two_loads_do_not_agree_and_it_is_said():
    rig, (heat_up, cool_down, _) = made.together(0)
    other = replace(rig, k=0.8 * rig.k)
    t = heat_up.time_s
    hot = 20.0 + 100.0 * other.k * rig.lag_s * 0.5
    u = np.where(t < 0.3 * rig.lag_s, 50.0, 90.0)
    more = Stretch(t, made.noisy(other.course(t, u, hot, 50.0), np.random.default_rng(1), 0.2), u, 20.0, 50.0)
    found = identify(heat_up, cool_down, more)
    assert found.verdict == "slope_only" and "do not agree" in found.verdict_reason
    assert "do not agree" not in identify(heat_up, cool_down).verdict_reason


def test_near_the_set_point_one_that_cools_by_itself_swings_as_the_plain_way_has_it():
    """The settled cycle of two lags, step by step, against the exact one of the process that is as quick at the set-point."""
    for cools in (0.4, 1.0, 2.5):
        rig = made.Rig(0.01, 300.0, 15.0, cools)
        goal, h = 120.0, 0.05
        y, on, line, seen = 20.0, True, [0.0] * round(rig.dead_s / h), []
        for i in range(int(12 * 300 * max(cools, 1.0) / h)):
            on = y < goal if on else y <= goal - 2.0
            line.append(100.0 if on else 0.0)
            heat = line.pop(0)
            y += h * (rig.k * heat - (y - 20.0) / (300.0 if heat else 300.0 * cools))
            if i * h > 8 * 300 * max(cools, 1.0):
                seen.append(y)
        near = as_quick_at(FOPDT(rig.k * 300.0, 300.0, 15.0), cools, goal - 20.0)
        swing = switched_cycle(near, OnOff(goal - 20.0, goal - 22.0)).swing
        assert np.ptp(seen) == pytest.approx(swing, rel=0.04), cools


def bump_of_two(seed: int, second: float, is_known: bool):
    """(what it is, its log): held steady at an output, stepped up and back, by SciPy's own simulation of two lags; ``second``: of the
    first; whether somebody knows the output before it."""
    rng = np.random.default_rng([seed, 71])
    gain, lag, held_at = rng.uniform(1.0, 4.0), rng.uniform(150.0, 900.0), rng.uniform(25.0, 65.0)
    dead, tau2 = rng.uniform(0.03, 0.06) * lag, second * lag
    t = np.arange(0.0, 6.0 * lag, lag / 150.0)
    u = np.where((t >= 0.4 * lag) & (t < 3.2 * lag), held_at + 12.0, held_at)
    late = np.interp(t - dead, t, u - held_at, left=0.0)
    denominator = np.polymul([lag, 1.0], [tau2, 1.0]) if second else [lag, 1.0]
    _, rise, _ = lsim(([gain], denominator), late, t)
    y = np.round(21.0 + gain * held_at + rise + rng.normal(0.0, 0.002 * 12.0 * gain, len(t)), 2)
    truth = {"K": gain, "L": dead, "τ₂": tau2, "τ": lag}
    return truth, Stretch(t, y, u, 21.0, output_before=held_at if is_known else None)


@pytest.mark.slow
@pytest.mark.parametrize("is_known", [True, False])
def test_a_second_lag_is_found_in_a_bump_at_temperature(is_known):
    """Held steady before it, nothing of the second lag is on its way: it is told with intervals that hold it, whether the output before is
    known or not; and not where there is none."""
    holds = []
    for seed in range(cases(3)):
        truth, stretch = bump_of_two(seed, 0.12, is_known)
        found = identify(stretch)
        second = besides(found, "τ₂")
        assert found.verdict == "supported" and second is not None, found.verdict_reason
        assert second.value == pytest.approx(truth["τ₂"], rel=0.12)
        holds += [held(second, truth["τ₂"]), held(found.gain, truth["K"])]
    assert np.mean(holds) >= 0.8
    said = [besides(identify(bump_of_two(seed, 0.0, is_known)[1]), "τ₂") for seed in range(cases(3))]
    assert sum(s is not None and s.low > 0.0 for s in said) <= len(said) / 5


def bump(rng, gain, lag, held_at) -> Stretch:
    """One lag held steady at an output, stepped up and back, by the closed form."""
    dead, t = 0.05 * lag, np.arange(0.0, 6.0 * lag, lag / 80.0)
    since = [np.maximum(t - at * lag - dead, 0.0) / lag for at in (0.4, 3.2)]
    rise = gain * 12.0 * (np.exp(-since[1]) - np.exp(-since[0]))
    y = np.round(21.0 + gain * held_at + rise + rng.normal(0.0, 0.05, len(t)), 2)
    u = np.where((t >= 0.4 * lag) & (t < 3.2 * lag), held_at + 12.0, held_at)
    return Stretch(t, y, u, 21.0, output_before=held_at)


@pytest.mark.slow
def test_bumps_at_two_temperatures_of_one_rate_and_two_gains_do_not_agree():
    """A rig that loses more when it is hot: its lag goes with its gain. Of one that does not, two bumps agree nearly always."""
    rng, agree = np.random.default_rng(12), []
    for _ in range(cases(3)):
        gain, lag = rng.uniform(1.5, 4.0), rng.uniform(200.0, 800.0)
        less = rng.uniform(0.7, 0.85)
        apart = identify(bump(rng, gain, lag, 25.0), bump(rng, less * gain, less * lag, 60.0))
        assert apart.verdict == "slope_only" and "do not agree" in apart.verdict_reason
        alike = identify(bump(rng, gain, lag, 25.0), bump(rng, gain, lag, 60.0))
        agree.append(alike.verdict == "supported" and held(alike.gain, gain))
    assert np.mean(agree) >= 0.9
