"""Relay tests: what is foretold of them on rigs of another class, and what they say of the limit of stability."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.control.alarms.settings import Action, AlarmKind, AlarmSettings
from rellux.core.errors import Refused
from rellux.core.guarding.ladder import Rung, Step
from rellux.core.guarding.plan import Plan, PlannedAlarm
from rellux.core.process.models import FOPDT
from rellux.core.process.networks import from_fopdt
from rellux.core.process.on_off import Switching, steady
from rellux.core.tuning.relay.before import before, clear_setpoint, forecast_figures
from rellux.core.tuning.relay.describing import estimated, limit_figures
from rellux.core.tuning.relay.edges import edges
from rellux.core.tuning.relay.experiment import RelayKind, RelayTest, forecast, relay_test, swung
from rellux.core.tuning.rules.limit import limit_of
from rellux.core.tuning.truths import truths

from .test_trials import CABINET, situation


@pytest.mark.parametrize(("ratio", "low", "high"), [(0.02, -0.2, -0.16), (1.0, -0.13, -0.09), (3.0, 0.02, 0.06)])
def test_the_describing_function_is_off_by_what_is_known_of_it(ratio, low, high):
    """A symmetric relay without hysteresis: 17 to 19 % low where lag dominates, 11 % at L = τ, 4 % high at L = 3 τ (design handbook; the
    swing here in closed form: a = K d (1 − e^(−L/τ)), no simulation)."""
    process, d = FOPDT(1.0, 100.0, 100.0 * ratio), 10.0
    half = process.gain * d * -np.expm1(-ratio)
    period = 2.0 * 100.0 * (ratio + np.log(2.0 - np.exp(-ratio)))
    found = estimated(d, 2.0 * half, 0.0, float(period), limit_of(process, 100.0 * (1.0 + ratio)))
    assert low <= found.gain_off <= high
    if ratio == 1.0:
        told = limit_figures(found, d, 2.0 * half, 0.0)
        assert "11% less" in told[0].reason and len(told) == 4


@settings(max_examples=25, deadline=None)
@given(st.floats(0.02, 0.5), st.floats(0.1, 0.8), st.sampled_from(RelayKind))
def test_a_forecast_swing_is_the_exact_one_of_on_off(ratio, duty, kind):
    """Against the closed form of on/off (:mod:`rellux.core.process.on_off`, judged elsewhere), on one lag with dead time."""
    process = FOPDT(1.0, 300.0, 300.0 * ratio)
    s = situation(process, 21.0 + 100.0 * duty)
    test = relay_test(s, kind, 21.0 + 100.0 * duty)
    found, _ = swung(from_fopdt(process), s, test)
    assert test.low <= 100.0 * duty <= test.high
    lower, upper = (
        test.low,
        test.high,
    )  # on/off between two outputs is on/off from nothing, of less gain and a lifted room
    scaled = FOPDT((upper - lower) / 100.0, 300.0, 300.0 * ratio)
    by = Switching(100.0 * duty - lower, test.hysteresis_c, centred=True, sample_s=s.settings.sample_s)
    exact = steady(scaled, by)
    assert found.top_c - found.bottom_c == pytest.approx(exact.swing, rel=0.1, abs=0.3)
    assert found.period_s == pytest.approx(exact.period_s, rel=0.1)


def test_the_test_is_lowered_by_what_it_goes_over_and_keeps_its_duty_even():
    s = situation()
    own, biased = (forecast(s, relay_test(s, kind)) for kind in RelayKind)
    for told in (own, biased):
        assert told.test.setpoint_c < 60.0 and told.found.highest_c == pytest.approx(60.0, abs=1.0)
        assert told.highest_c >= told.found.highest_c and told.stop_after_s >= 3 * told.found.takes_s
        assert told.time_s[0] == 0.0 and told.time_s[-1] == pytest.approx(told.found.takes_s, rel=0.05)
    assert biased.found.duty == pytest.approx(0.5, abs=0.05)
    assert biased.found.top_c - biased.found.bottom_c < own.found.top_c - own.found.bottom_c


def test_no_rig_of_a_hundred_it_may_be_goes_beyond_what_is_foretold():
    """Other draws of the same kind than the nineteen that foretold it: no more than one in twenty, nearly, goes higher."""
    s = situation(CABINET)
    told = forecast(s, relay_test(s, RelayKind.OWN))
    drawn = truths(s.members, s.rise_c, s.ambient_c, 0.98, 119).networks[19:]
    higher = [swung(n, s, told.test)[0].highest_c > told.highest_c for n in drawn]
    assert len(higher) == 100 and np.mean(higher) <= 0.12


def test_what_cannot_swing_is_refused():
    s = situation()
    for setpoint, why in ((15.0, "cannot hold"), (130.0, "cannot hold")):
        with pytest.raises(Refused, match=why):
            relay_test(s, RelayKind.OWN, setpoint)
    with pytest.raises(Refused, match="does not swing"):
        forecast(s, RelayTest(RelayKind.BIASED, 60.0, 1.0, 0.0, 20.0))
    for step, swing, named in ((0.0, 5.0, "step"), (10.0, 1.0, "swing_c"), (10.0, float("nan"), "swing_c")):
        with pytest.raises(Refused) as refused:
            estimated(step, swing, 2.0, 60.0, None)
        assert refused.value.problems[0].field == named
    with pytest.raises(Refused, match="full power only reaches"):
        relay_test(replace(s, process=FOPDT(0.3, 620.0, 52.0)), RelayKind.OWN)


def test_what_stands_in_its_way_goes_with_the_tests_own_set_point():
    """A limiter below the highest reading stops it, and the set-point that clears it does; alarms that follow the set-point follow the
    test's; a low one is in its way where the swing goes below it."""
    s = situation()
    told = forecast(s, relay_test(s, RelayKind.OWN))
    top, sp = told.highest_c, told.test.setpoint_c
    steps = [Step(Rung.LIMITER, "limiter", "independent limiter", top - 2, top - 3, top - 1, "")]
    kinds = (
        (AlarmKind.ABOVE_SETPOINT, 2.0),
        (AlarmKind.HIGH, top + 5.0),
        (AlarmKind.BELOW_SETPOINT, 1.0),
        (AlarmKind.LOW, 30.0),
    )
    alarms = tuple(
        PlannedAlarm(kind.value, AlarmSettings(kind, value), (Action.BUZZER,), "", "", "") for kind, value in kinds
    )
    near = before(told, edges(steps, Plan(alarms=alarms), sp), 60.0, True)
    assert [e.name for e in near.hard] == ["independent limiter"]
    assert {e.name: round(e.celsius - sp, 6) for e in near.soft} == {"above_setpoint": 2.0, "below_setpoint": -1.0}
    clear = forecast(s, relay_test(s, RelayKind.OWN, clear_setpoint(s, told, near)))
    assert not before(clear, edges(steps, None, clear.test.setpoint_c), 60.0, True).hard
    assert any("Never raise it" in line for line in near.says) and any(
        "Stop it if nothing moves" in line for line in near.says
    )
    assert any("Nothing is known here" in line for line in before(told, edges(steps, None, sp), 60.0, False).says)
    driven = forecast(s, relay_test(s, RelayKind.BIASED))
    for kind, alone in ((told, True), (driven, False)):
        assert any("asks nobody" in line for line in before(kind, edges(steps, None, sp), 60.0, True).says) is alone
    figures = {f.name: f for f in forecast_figures(told)}
    assert figures["swing"].low <= figures["swing"].value <= figures["swing"].high
