"""What is wrong with a run: causes that are known because they were put there, on rigs that are no lag with dead time."""

from dataclasses import replace

import numpy as np
import pytest

from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.errors import Refused
from rellux.core.plant.simulation import Simulation
from rellux.core.process.models import FOPDT
from rellux.core.process.networks import from_model
from rellux.core.runs.series import Series
from rellux.core.tuning.complaints import Cause, diagnose
from rellux.core.tuning.family import family
from rellux.core.tuning.loop_figures import loop_of
from rellux.core.tuning.rules.published import simc_pi
from rellux.core.tuning.situation import Situation
from rellux.core.tuning.truths import truths


def case(seed):
    """A rig, what its fit says of it, calm numbers, and a run with one thing wrong that shows."""
    rng = np.random.default_rng(seed)
    lag, ratio, rise = (
        float(10 ** rng.uniform(2.3, 3.3)),
        float(rng.uniform(0.03, 0.25)),
        float(rng.uniform(30.0, 300.0)),
    )
    process = FOPDT(rise / float(rng.uniform(25.0, 60.0)), lag, lag * ratio)
    off = np.exp(rng.normal(0.0, (0.05, 0.05, 0.08)))
    fitted = FOPDT(process.gain * off[0], process.lag_s * off[0] / off[1], process.dead_time_s * off[2])
    ends = [
        (v * (1 - w), v, v * (1 + w))
        for v, w in ((fitted.gain, 0.1), (fitted.gain / fitted.lag_s, 0.1), (fitted.dead_time_s, 0.15))
    ]
    noise = float(rng.uniform(0.02, 0.1))
    s = Situation(
        fitted,
        ControllerSettings(20.0 + rise, period_s=10.0),
        20.0,
        rise,
        40.0 + rise,
        possible=family(*ends),
        noise_c=noise,
    )
    calm = s.with_pid(simc_pi(s.known.one, s.known.calm_s))
    cause = list(Cause)[seed % len(Cause)]
    network, settings, noise = wrong(cause, truths((process,), rise, 20.0, 0.9, 1).networks[0], calm, s, noise, rng)
    sheet = replace(
        s.settings, period_s=settings.period_s, output_high=settings.output_high
    )  # the sheet has what the run had
    s, lasts, step = replace(s, settings=sheet), 6.0 * lag, s.step_s(settings)
    record = Simulation(network, settings, 20.0, step).advance(lasts, max(lasts / 900.0, step))
    reading = np.round(record.reading_c + rng.normal(0.0, noise, len(record.time_s)), 1)
    return cause, s, settings, calm, Series(record.time_s, record.setpoint_c, reading, record.output, record.switch)


def wrong(cause, network, calm, s, noise, rng):
    pid, dead, more = calm.pid, s.process.dead_time_s, float(rng.uniform(1.0, 1.6))
    match cause:
        case Cause.GAIN_HIGH:
            return network, replace(calm, pid=replace(pid, gain=pid.gain * 4.5 * more)), noise
        case Cause.GAIN_LOW:
            return network, replace(calm, pid=replace(pid, gain=pid.gain / (6.0 * more))), noise
        case Cause.INTEGRAL_SHORT:
            return network, replace(calm, pid=replace(pid, integral_time_s=pid.integral_time_s / (6.0 * more))), noise
        case Cause.INTEGRAL_LONG:
            return network, replace(calm, pid=replace(pid, gain=pid.gain, integral_time_s=float("inf"))), noise
        case Cause.DERIVATIVE:
            return network, replace(calm, pid=replace(pid, derivative_time_s=3.0 * more * dead)), noise
        case Cause.PERIOD:
            return network, replace(calm, period_s=float(round(6.0 * more * dead))), noise
        case Cause.OUTPUT_LIMIT:
            return network, replace(calm, output_high=round(100.0 * s.duty() * 0.75 / more, 0)), noise
        case Cause.NOISE:
            return network, replace(calm, pid=replace(pid, derivative_time_s=0.45 * dead)), 0.6 * more / pid.gain * 3.0
        case Cause.WEAK:
            return replace(network, heater_power_w=network.heater_power_w * s.duty() * 0.9 / more), calm, noise
        case Cause.LATE:
            return replace(network, dead_time_s=network.dead_time_s + s.process.dead_time_s * 2.2 * more), calm, noise
        case _:
            return replace(network, capacities=tuple(c * 2.0 * more for c in network.capacities)), calm, noise


def tally(seeds):
    """Of the runs that show something: how often the true cause is first, among the first three, or it is said that it cannot be told."""
    first = three = shown = untold = 0
    missed = []
    for seed in seeds:
        cause, s, settings, _, series = case(seed)
        found = diagnose(s, settings, series)
        if not found.complaints:
            continue
        shown += 1
        named = [b.cause for b in found.causes]
        first += named[:1] == [cause]
        three += cause in named[:3]
        untold += "cannot be told" in found.says or not named
        if named[:1] != [cause]:
            missed.append(
                (seed, cause.value, [(b.cause.value, round(b.share, 2)) for b in found.causes[:3]], found.complaints)
            )
    return shown, first, three, untold, missed


@pytest.mark.slow
def test_a_known_cause_is_named_first():
    """At the least 70 % first and 90 % among the first three (and more here); ``./rellux endure`` tries 300."""
    shown, first, three, _, missed = tally(range(55))
    assert shown >= 45 and first >= 0.85 * shown and three >= 0.9 * shown, missed


@pytest.mark.slow
def test_nothing_is_blamed_where_nothing_is_wrong_and_no_change_is_nervous():
    """On the rig as it was found; on one that it may be, with another load and mains, never the numbers, which are the calm ones."""
    for seed in range(22):
        _, s, settings, calm, series = case(seed)
        for blamed in diagnose(s, settings, series).causes:
            if blamed.settings:
                assert loop_of(replace(s, settings=blamed.settings), blamed.settings).worst_ms <= 2.0
        for network in (from_model(s.plant), s.judges[seed % len(s.judges)]):
            record = Simulation(network, calm, 20.0, s.step_s(calm)).advance(6.0 * s.process.lag_s, 5.0)
            told = diagnose(s, calm, Series(*record.columns))
            assert not any(blamed.settings for blamed in told.causes)
            if network is not s.judges[seed % len(s.judges)]:
                assert told.complaints == () and "Nothing to complain of" in told.says


def test_what_was_not_seen_is_no_praise():
    """A calm run of which the rows round its arrival are missing."""
    _, s, _, calm, _ = case(0)
    record = Simulation(from_model(s.plant), calm, 20.0, s.step_s(calm)).advance(6.0 * s.process.lag_s, 5.0)
    whole = Series(*record.columns)
    kept = (whole.time_s < 0.8 * s.process.lag_s) | (whole.time_s > 1.6 * s.process.lag_s)
    seen, broken = (diagnose(s, calm, run).says for run in (whole, Series(*(c[kept] for c in whole.columns))))
    assert "Rows are missing" not in seen and "Rows are missing for" in broken
    assert seen.startswith("Nothing to complain of") and broken.startswith("Nothing to complain of")


def test_a_run_that_is_no_approach_is_refused():
    _, s, settings, calm, series = case(0)
    with pytest.raises(Refused, match="on/off swings by nature"):
        diagnose(s, replace(settings, mode=Mode.ON_OFF), series)
    with pytest.raises(Refused, match="rows with reading and output"):
        diagnose(s, settings, series.between(0.0, series.time_s[20]))
    held = replace(calm, mode=Mode.MANUAL, manual_output=100.0 * s.duty())
    network = truths(s.members, s.rise_c, 20.0, 0.95, 1).networks[0]
    record = Simulation(network, held, 20.0, s.step_s(calm)).advance(6.0 * s.process.lag_s, 5.0)
    with pytest.raises(Refused, match="it was in manual"):
        diagnose(s, calm, Series(*record.columns))
    with pytest.raises(Refused, match="held other numbers"):
        diagnose(s, replace(calm, pid=replace(calm.pid, gain=calm.pid.gain / 8.0)), series)
    with pytest.raises(Refused, match="begin well below"):
        diagnose(s, settings, series.between(series.time_s[len(series) // 2], series.time_s[-1]))
