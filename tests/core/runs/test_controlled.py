"""What a log says its control is, against simulated controllers whose settings are known: nothing false is said, and most is told."""

from dataclasses import replace

import numpy as np
import pytest

from rellux.core.control.pid import from_band
from rellux.core.control.settings import ControllerSettings, HysteresisSchool, Mode
from rellux.core.plant.simulation import Simulation
from rellux.core.process.models import FOPDT, SOPDT
from rellux.core.process.networks import from_model
from rellux.core.purpose.purpose import Effect
from rellux.core.runs.controlled import Acts, against_sheet, controlled
from rellux.core.runs.series import Series


def logged(seed):
    """A rig under on/off or pulses of a PID, its log with noise, from cold or from its middle on; the sheet it was set by."""
    rng = np.random.default_rng([seed, 11])
    lag, gain = 10 ** rng.uniform(2.0, 3.5), rng.uniform(0.6, 4.0)
    dead, on_off = lag * 10 ** rng.uniform(-2.0, -0.8), bool(rng.integers(2))
    school, period = list(HysteresisSchool)[rng.integers(2)], float(rng.choice((10, 20, 30, 60)))
    pid = from_band(100 * gain * dead / lag * rng.uniform(2, 6), max(lag / 2, 8 * dead), 0.0)
    settings = ControllerSettings(
        20 + 100 * gain * rng.uniform(0.25, 0.7), Mode.ON_OFF if on_off else Mode.PID, rng.uniform(0.5, 6.0),
        hysteresis_school=school, pid=pid, period_s=period,
    )  # fmt: skip
    process, lasts = SOPDT(gain, lag, dead * rng.uniform(0.1, 1.0), dead), 3 * lag + 20 * period
    every = max(float(rng.choice((1, 2, 5))), lasts / 20_000)
    found = Simulation(from_model(process), settings, 20.0, min(0.25, dead / 10)).advance(lasts, every)
    series = Series(*found.columns)
    noisy = series.reading_c + rng.normal(0.0, rng.choice((0.02, 0.1, 0.3)), len(series))
    series = replace(series, reading_c=noisy, output=np.where(series.switch > 0.5, 100.0, 0.0))
    sheet = {
        "mode": "on_off" if on_off else "pid", "hysteresis_c": settings.hysteresis_c, "hysteresis_school": school.value,
        "period_s": period,
    }  # fmt: skip
    return series.between(lasts * rng.choice((0.0, 0.4)), lasts), sheet


def test_nothing_false_is_said_and_most_is_told():
    told, held, wrong = 0, [], 0
    for seed in range(200):
        series, sheet = logged(seed)
        found = controlled(series)
        wrong += bool(against_sheet(found, sheet))
        told += found.acts is not Acts.UNTOLD
        if found.hysteresis is not None and sheet["mode"] == "on_off":
            held.append(found.hysteresis.low <= sheet["hysteresis_c"] <= found.hysteresis.high)
    assert wrong <= 1 and told >= 100 and np.mean(held) >= 0.95, (wrong, told, np.mean(held))


def heat_up(mode, hysteresis_c=2.0, school=HysteresisSchool.ONE_SIDED, period_s=20.0):
    settings = ControllerSettings(
        60.0, mode, hysteresis_c, hysteresis_school=school, pid=from_band(20.0, 400.0, 0.0), period_s=period_s
    )
    found = Simulation(from_model(SOPDT(1.05, 600.0, 20.0, 20.0)), settings, 21.0, 0.25).advance(7200.0, 1.0)
    return replace(Series(*found.columns), output=np.where(found.switch > 0.5, 100.0, 0.0))


SHEET = {"mode": "on_off", "hysteresis_c": 2.0, "hysteresis_school": "one_sided", "period_s": 20.0}


@pytest.mark.parametrize(
    ("series", "sheet", "rule"),
    [
        (heat_up(Mode.ON_OFF), SHEET, None),
        (heat_up(Mode.ON_OFF), {**SHEET, "hysteresis_c": 2.2}, None),
        (heat_up(Mode.ON_OFF), {**SHEET, "hysteresis_c": 2.6}, "runs.other-hysteresis"),
        (heat_up(Mode.ON_OFF), {**SHEET, "mode": "pid"}, "runs.other-mode"),
        (heat_up(Mode.ON_OFF), {**SHEET, "hysteresis_school": "centred"}, "runs.other-hysteresis-school"),
        (heat_up(Mode.PID), {**SHEET, "mode": "pid"}, None),
        (heat_up(Mode.PID), {**SHEET, "mode": "pid", "period_s": 21.0}, None),
        (heat_up(Mode.PID), {**SHEET, "mode": "pid", "period_s": 25.0}, "runs.other-period"),
        (heat_up(Mode.PID), SHEET, "runs.other-mode"),
        (heat_up(Mode.PID), {**SHEET, "mode": "off"}, None),
    ],
)
def test_each_difference_to_the_sheet_and_its_near_miss(series, sheet, rule):
    assert [f.rule for f in against_sheet(controlled(series), sheet)] == ([rule] if rule else [])


@pytest.mark.parametrize("mode", [Mode.ON_OFF, Mode.PID])
@pytest.mark.parametrize("c_per_min", [0.5, 2.0, 5.0, 20.0])
def test_what_climbed_by_a_ramp_is_told_by_what_came_after_it(mode, c_per_min):
    """Along the ramp it switches far below its set-point, evenly, which no thresholds do."""
    settings = ControllerSettings(
        60.0, mode, 2.0, pid=from_band(20.0, 400.0, 0.0), period_s=20.0, ramp_c_per_s=c_per_min / 60.0
    )
    found = Simulation(from_model(SOPDT(1.05, 600.0, 20.0, 20.0)), settings, 21.0, 0.25).advance(9000.0, 1.0)
    series = replace(Series(*found.columns), output=np.where(found.switch > 0.5, 100.0, 0.0))
    assert against_sheet(controlled(series, sheet={"ramp_c_per_min": c_per_min}), {**SHEET, "mode": mode.value}) == ()
    if mode is Mode.ON_OFF and c_per_min == 5.0:
        assert controlled(series).acts is Acts.PULSES


def kept_cold(rest_s=0.0, school=HysteresisSchool.ONE_SIDED):
    """A compressor that keeps something at 4 °C in a room at 21."""
    settings = ControllerSettings(4.0, Mode.ON_OFF, 2.0, hysteresis_school=school, cools=True, rest_s=rest_s)
    found = Simulation(from_model(FOPDT(-0.5, 600.0, 5.0)), settings, 21.0, 0.25).advance(14_400.0, 1.0)
    return Series(*found.columns)


@pytest.mark.parametrize(
    ("school", "off_below", "where"),
    [(HysteresisSchool.ONE_SIDED, 0.0, ", above the set-point."), (HysteresisSchool.CENTRED, 1.0, ", half above and")],
)
def test_a_cooler_is_told_upside_down_unless_its_compressor_had_to_wait(school, off_below, where):
    found = controlled(kept_cold(school=school), Effect.COOLS)
    assert found.acts is Acts.ON_OFF and where in found.says
    assert found.hysteresis.low <= 2.0 <= found.hysteresis.high and "below" in found.off_above.name
    assert found.off_above.low <= off_below <= found.off_above.high
    assert against_sheet(found, {**SHEET, "hysteresis_school": school.value}) == ()
    rested = controlled(kept_cold(60.0, school), Effect.COOLS, {"minimum_off_s": 60.0})  # only before its first start
    assert rested.acts is Acts.ON_OFF and where in rested.says
    for rest_s in (120.0, 900.0):
        waited = controlled(kept_cold(rest_s, school), Effect.COOLS, {"minimum_off_s": rest_s})
        assert waited.hysteresis is None and "had to rest" in waited.says
    assert controlled(kept_cold(), Effect.WATCHES).says == ""


def test_a_changed_set_point_switches_too_and_is_no_threshold():
    simulation = Simulation(
        from_model(SOPDT(1.05, 600.0, 20.0, 20.0)), ControllerSettings(60.0, Mode.ON_OFF, 2.0), 21.0, 0.25
    )
    parts = []
    for setpoint in (60.0, 50.0, 62.0, 45.0, 58.0):
        simulation.apply(ControllerSettings(setpoint, Mode.ON_OFF, 2.0))
        parts.append(Series(*simulation.advance(1800.0, 1.0).columns))
    found = controlled(Series(*(np.concatenate(c) for c in zip(*(p.columns for p in parts), strict=True))))
    assert found.acts is Acts.ON_OFF and found.hysteresis.low <= 2.0 <= found.hysteresis.high


def test_what_was_off_at_first_is_told_by_what_came_after():
    """Somebody switched it on ten minutes into the record, far below its set-point: no threshold, and no pulse."""
    series = heat_up(Mode.ON_OFF)
    waiting = np.arange(600.0)
    late = Series(
        np.concatenate((waiting, series.time_s + 600.0)),
        np.full(600 + len(series), 60.0),
        np.concatenate((np.full(600, 21.0), series.reading_c)),
        np.concatenate((np.zeros(600), series.output)),
        np.concatenate((np.zeros(600), series.switch)),
    )
    found = controlled(late)
    assert found.acts is Acts.ON_OFF and found.hysteresis.low <= 2.0 <= found.hysteresis.high
    assert against_sheet(found, SHEET) == ()


def test_an_output_of_many_levels_is_no_on_off_and_few_rows_tell_nothing():
    settings = ControllerSettings(60.0, Mode.PID, 2.0, pid=from_band(20.0, 400.0, 0.0), period_s=0.0)
    many = Series(
        *Simulation(from_model(SOPDT(1.05, 600.0, 20.0, 20.0)), settings, 21.0, 0.25).advance(7200.0, 5.0).columns
    )
    assert controlled(many).acts is Acts.LEVELS
    assert controlled(many.between(0.0, 60.0)).acts is Acts.UNTOLD
    steady = heat_up(Mode.ON_OFF).between(4000.0, 7200.0)
    assert "agrees with both" in controlled(steady).says  # a settled cycle is as even as a clock
