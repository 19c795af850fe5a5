"""Logs of known processes of which rows are lost while the output works: what is said of the process must not come of what nobody knows."""

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest

from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.errors import Refused
from rellux.core.plant.simulation import Simulation
from rellux.core.process.models import FOPDT
from rellux.core.process.networks import from_fopdt
from rellux.core.process.response import respond
from rellux.core.tuning.broken import unbroken
from rellux.core.tuning.fit_verdict import FitVerdict
from rellux.core.tuning.identify import identify
from rellux.core.tuning.stretch import Stretch
from tests.core.tuning.recorded import log
from tests.examples import cases


def without(stretch, *gaps):
    """Without the rows between the shares of its length that ``gaps`` tell."""
    share = stretch.time_s / stretch.time_s[-1]
    kept = ~np.any([(share > a) & (share < b) for a, b in gaps], axis=0)
    return replace(stretch, **{name: getattr(stretch, name)[kept] for name in ("time_s", "reading_c", "output")})


@pytest.mark.slow
def test_what_is_told_after_rows_were_lost_holds():
    """On/off control of known processes, one or two times out of sight for up to a quarter of the log: what is called supported is
    right within a tenth, and more is supported than if nobody had noticed that rows are missing."""
    right, wrong, unnoticed, tried = 0, 0, 0, cases(8)
    for seed in range(tried):
        made, rng = log("on_off", seed), np.random.default_rng(seed)
        begins = rng.uniform(0.0, 0.9, rng.integers(1, 3))
        broken = without(made.stretch, *((a, a + rng.uniform(0.05, 0.25)) for a in begins))
        found = identify(*unbroken(broken))
        figures = zip((found.gain, found.lag, found.dead_time), made.truth, strict=True)
        if found.verdict is FitVerdict.SUPPORTED:
            near = all(f.value == pytest.approx(v, rel=0.1) for f, v in figures)
            right, wrong = right + near, wrong + (not near)
        unnoticed += identify(broken).verdict is FitVerdict.SUPPORTED
    assert wrong == 0 and right >= 0.7 * tried > unnoticed, (right, wrong, unnoticed)


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(cases(4)))
def test_a_log_of_cycles_alone_is_not_taken_for_one_of_a_longer_dead_time(seed):
    """From where it first went off on: a dead time a cycle longer would explain even cycles as well."""
    made = log("on_off", 30 + seed)
    s = made.stretch
    later = s.time_s > s.time_s[np.flatnonzero(np.diff(s.output) < 0.0)[0]]
    rows = {name: getattr(s, name)[later] for name in ("time_s", "reading_c", "output")}
    found = identify(replace(s, **rows, earlier_s=s.time_s[~later], earlier_output=s.output[~later]))
    assert not found.verdict.usable or found.dead_time.value == pytest.approx(
        made.process.dead_time_s, rel=0.2, abs=5.0
    )


def pulses(dead_s, even=True, seed=3):
    """A reading that only even pulses moved, long after they began."""
    rng, t = np.random.default_rng(seed), np.arange(0.0, 12_000.0, 10.0)
    u = np.where(t % 600.0 < 240.0, 100.0, 0.0)
    u[(t > 10_100.0) & (t < 10_500.0)] *= float(even)
    y = 20.0 + respond(FOPDT(0.5, 400.0, dead_s), t, t, u) + rng.normal(0.0, 0.05, len(t))
    late = t >= 9_600.0
    return Stretch(t[late], y[late], u[late], 20.0, earlier_s=t[~late], earlier_output=u[~late])


@pytest.mark.slow
@pytest.mark.parametrize("dead_s", [100.0, 500.0])
def test_even_pulses_do_not_tell_one_cycle_of_dead_time_from_the_next(dead_s):
    even, found = identify(pulses(dead_s)), identify(pulses(dead_s, even=False))
    assert not even.verdict.usable and "even cycles" in even.verdict_reason, even.verdict_reason
    assert found.verdict.usable and found.dead_time.value == pytest.approx(dead_s, abs=15.0)


def test_few_cycles_do_not_tell_a_dead_time_longer_than_one():
    found = identify(pulses(700.0, even=False))
    assert not found.verdict.usable and "even cycles" in found.verdict_reason, found.verdict_reason


@pytest.mark.slow
@pytest.mark.parametrize("told", [True, False])
def test_what_its_reading_switched_has_a_dead_time_shorter_than_a_cycle(told):
    """Cycles on and off without the heat-up: with the set-point beside them they say it themselves."""
    loop = ControllerSettings(60.0, Mode.ON_OFF, 2.0)
    record = Simulation(from_fopdt(FOPDT(1.05, 620.0, 52.0)), loop, 21.0).advance(6000.0, 5.0)
    late = record.time_s > 3500.0
    rows = (record.time_s[late], record.reading_c[late], record.output[late], 21.0)
    found = identify(Stretch(*rows, setpoint_c=record.setpoint_c[late] if told else None))
    assert found.verdict.usable or not told
    assert not found.verdict.usable or found.dead_time.value == pytest.approx(52.0, abs=5.0)


STEADY = np.arange(0.0, 3600.0, 10.0)


def held(output):
    y = 20.0 + respond(FOPDT(1.0, 600.0, 40.0), STEADY, STEADY, output)
    return Stretch(STEADY, y, output, 20.0)


def test_rows_that_are_missing_while_the_output_stood_still_are_no_loss():
    step = held(np.where(STEADY < 300.0, 0.0, 60.0))
    for lost in (without(step, (0.5, 0.7)), without(step, (0.01, 0.03)), step):
        assert unbroken(lost) == (lost,)


def test_a_few_rows_of_pulses_are_too_little_to_part_a_log_for():
    """Pulses of 30 s in 100 s over three hours: a 270th part of what they gave may be wrong, or a fiftieth."""
    t = np.arange(0.0, 10_800.0, 2.0)
    u = np.where(t % 100.0 < 30.0, 100.0, 0.0)
    y = 20.0 + respond(FOPDT(1.0, 600.0, 40.0), t, t, u)
    for lost, parts in ((9.0, 1), (60.0, 2)):
        kept = (t < 1820.0) | (t > 1820.0 + lost)
        assert len(unbroken(Stretch(t[kept], y[kept], u[kept], 20.0))) == parts, lost


def test_a_step_that_nobody_saw_tells_nothing_unless_the_controller_counted():
    step = without(held(np.where(STEADY < 1800.0, 0.0, 60.0)), (0.45, 0.6))
    with pytest.raises(Refused) as refused:
        unbroken(step)
    assert refused.value.problems[0].field == "stretch" and "missing for 9 min, 27 min after" in str(refused.value)
    at = np.searchsorted(step.time_s, 1700.0)
    rows = ((step.time_s, 1800.0), (step.reading_c, np.nan), (step.output, 60.0))
    counted = replace(
        step, **dict(zip(("time_s", "reading_c", "output"), (np.insert(c, at, v) for c, v in rows), strict=True))
    )
    assert unbroken(counted) == (counted,)


def test_a_sensor_that_broke_before_the_link_did_is_no_controller_that_counted():
    cycles = without(held(np.where(STEADY % 400.0 < 150.0, 100.0, 0.0)), (0.5, 0.56))
    blind = np.where((cycles.time_s > 1700.0) & (cycles.time_s < 1810.0), np.nan, cycles.reading_c)
    assert len(unbroken(replace(cycles, reading_c=blind))) == 2


def test_what_comes_soon_after_a_gap_is_of_what_nobody_knows():
    cycles = held(np.where(STEADY % 400.0 < 150.0, 100.0, 0.0))
    first, last = unbroken(without(cycles, (0.5, 0.56)))
    assert first.time_s[-1] <= 1800.0 and last.time_s[0] > 2010.0 + 140.0
    assert last.earlier_s[0] > 2000.0 and last.earlier_s[-1] < last.time_s[0]
    assert first.ends_by == "" and "learnt from by itself" in last.ends_by


def test_of_many_parts_the_longest_are_taken_and_that_is_said():
    t = np.arange(0.0, 36_000.0, 10.0)
    u = np.where(t % 400.0 < 150.0, 100.0, 0.0)
    cycles = Stretch(t, 20.0 + respond(FOPDT(1.0, 600.0, 40.0), t, t, u), u, 20.0)
    parts = unbroken(without(cycles, (0.1, 0.16), (0.3, 0.36), (0.5, 0.56), (0.7, 0.76), (0.9, 0.96)))
    assert len(parts) == 4 and "Each of the 4 longest parts" in parts[-1].ends_by
    assert all(a.time_s[-1] < b.time_s[0] for a, b in pairwise(parts))


def test_parts_too_short_to_learn_from_are_refused():
    cycles = held(np.where(STEADY % 400.0 < 150.0, 100.0, 0.0))
    with pytest.raises(Refused) as refused:
        unbroken(without(cycles, (0.05, 0.52), (0.56, 0.97)))
    assert "missing 2 times, 53 min in all" in str(refused.value)
