"""Offset arithmetic of both schools (worked in °F as people do it), and the uncertainty of the GUM."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rellux.core.calibration.offsets import OffsetRule, OffsetSchool, Pair, coverage_factor, work_out
from rellux.core.errors import Refused
from rellux.core.units import FAHRENHEIT_PER_KELVIN, celsius_from_fahrenheit


def difference_from_fahrenheit(difference_f):
    return difference_f / FAHRENHEIT_PER_KELVIN


def pairs_f(*pairs):
    return tuple(Pair(celsius_from_fahrenheit(d), celsius_from_fahrenheit(r)) for d, r in pairs)


def rule_f(school, old=0.0, limit=200.0, setpoint=None, step=0.01):
    return OffsetRule(
        school,
        difference_from_fahrenheit(old),
        difference_from_fahrenheit(step),
        difference_from_fahrenheit(limit),
        None if setpoint is None else celsius_from_fahrenheit(setpoint),
    )


# common practice, no source: the worked cases of the trade
@pytest.mark.parametrize(
    ("display", "reference", "old", "new"), [(450, 400, -50, -100), (400, 390, 0, -10), (213, 212, 0, -1)]
)
def test_added_to_reading(display, reference, old, new):
    found = work_out(pairs_f((display, reference)), rule_f(OffsetSchool.ADDED_TO_READING, old))
    assert found.exact.value * 1.8 == pytest.approx(new)


def test_temperature_adjustment_has_the_opposite_effect_for_a_hot_oven():
    readings = [360, 370, 362, 368, 364, 366]
    found = work_out(pairs_f(*((350, r) for r in readings)), rule_f(OffsetSchool.TEMPERATURE_ADJUST, setpoint=350))
    assert found.exact.value * 1.8 == pytest.approx(-15)
    assert "350" not in found.sentence and "176.7 °C when the set-point is 176.7 °C" in found.sentence


def test_the_usual_stop_of_35_degrees_clips_and_says_what_is_left():
    rule = rule_f(OffsetSchool.TEMPERATURE_ADJUST, limit=35, setpoint=350, step=1)
    found = work_out(pairs_f((350, 400)), rule)
    assert found.to_enter.value * 1.8 == pytest.approx(-35)
    assert found.left_over.value * 1.8 == pytest.approx(-15)
    assert "real cause" in found.to_enter.reason


def test_the_controllers_step_rounds():
    found = work_out((Pair(100.26, 100.0),), OffsetRule(OffsetSchool.ADDED_TO_READING, 0.0, 0.1))
    assert found.to_enter.value == pytest.approx(-0.3)
    assert found.left_over.value == pytest.approx(0.04)


@given(st.floats(20, 900), st.floats(-15, 15), st.floats(-4, 4))
def test_after_entering_the_display_shows_the_reference(true, error, old):
    """raw + new offset = reference, whatever was in there before."""
    found = work_out((Pair(true + error, true),), OffsetRule(OffsetSchool.ADDED_TO_READING, old, 0.001, 50))
    raw = true + error - old
    assert raw + found.to_enter.value == pytest.approx(true, abs=0.002)


# GUM (JCGM 100:2008) table G.2, 95.45 %
@pytest.mark.parametrize(("freedom", "factor"), [(1, 13.97), (2, 4.53), (5, 2.65), (10, 2.28), (50, 2.05)])
def test_coverage_factor_matches_the_gum(freedom, factor):
    assert coverage_factor(freedom) == pytest.approx(factor, abs=0.005)


def test_a_change_inside_its_uncertainty_is_left_alone():
    scattered = work_out(
        (Pair(100, 100.9), Pair(100, 98.8), Pair(100, 100.6)), OffsetRule(OffsetSchool.ADDED_TO_READING, 0.0)
    )
    assert not scattered.touch and "Do not touch" in scattered.advice
    steady = work_out(
        (Pair(100, 98.9), Pair(100, 98.8), Pair(100, 98.9)), OffsetRule(OffsetSchool.ADDED_TO_READING, 0.0)
    )
    assert steady.touch


@pytest.mark.parametrize(
    ("pairs", "changed", "field"),
    [
        ((), {}, "pairs"),
        ((Pair(5000, 20),), {}, "pairs[0].display_c"),
        ((Pair(60, 60),), {"resolution_c": 0}, "resolution_c"),
        ((Pair(60, 60),), {"existing_c": 30}, "existing_c"),
        ((Pair(60, 60),), {"school": OffsetSchool.TEMPERATURE_ADJUST}, "setpoint_c"),
    ],
)
def test_bad_input_names_its_field(pairs, changed, field):
    rule = OffsetRule(**{"school": OffsetSchool.ADDED_TO_READING, "existing_c": 0.0, **changed})
    with pytest.raises(Refused) as refused:
        work_out(pairs, rule)
    assert refused.value.problems[0].field == field
