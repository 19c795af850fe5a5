"""Offset arithmetic of both schools (worked in °F as people do it), and the uncertainty of the GUM."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.calibration import offsets
from rellux.core.calibration.belief import Circumstances as Comparing
from rellux.core.calibration.certificates import CertificateSays, Compared, doubts, reads_high
from rellux.core.calibration.coverage import coverage_factor
from rellux.core.calibration.drift import Aged, drift
from rellux.core.calibration.offsets import KnownBefore, OffsetRule, Pair
from rellux.core.calibration.schools import OffsetSchool, converted
from rellux.core.calibration.verdicts import Advice
from rellux.core.control.steps import held, is_held
from rellux.core.errors import Refused
from rellux.core.sensing.mistakes import Circumstances, mistakes
from rellux.core.units import FAHRENHEIT_PER_KELVIN, celsius_from_fahrenheit


def work_out(pairs, rule, sensor="K", before=None):
    return offsets.work_out(pairs, rule, sensor, KnownBefore(before))


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
    assert "350" not in found.sentence and "{176.7 °C} when the set-point is {176.7 °C}" in found.sentence


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
    scattered = work_out((Pair(100, 100.9), Pair(100, 98.8), Pair(100, 100.6)), rule_c())
    assert not scattered.touch and "Do not touch" in scattered.advice
    assert work_out(STEADY, rule_c()).touch


STEADY = (Pair(100, 98.9), Pair(100, 98.8), Pair(100, 98.9))


def rule_c(**changed):
    return OffsetRule(**{"school": OffsetSchool.ADDED_TO_READING, "existing_c": 0.0, "reference_u_c": 0.1, **changed})


@pytest.mark.parametrize(
    ("pairs", "changed", "advice"),
    [
        (STEADY, {}, Advice.CORRECT),
        (STEADY[:1], {}, Advice.MORE_PAIRS),  # what one pair is worth
        (STEADY, {"reference_u_c": 0.0}, Advice.NAME_REFERENCE),
        (STEADY, {"reference_u_c": 0.7}, Advice.LEAVE),
        (STEADY, {"resolution_c": 3.0}, Advice.LEAVE),
        # a new class 2 type K may be off by 2.5 °C, an ordinary input by 1 °C (IEC 60584-1; common practice)
        (tuple(Pair(p.display_c + 2.2, p.reference_c) for p in STEADY), {}, Advice.CORRECT),
        (tuple(Pair(p.display_c + 3.2, p.reference_c) for p in STEADY), {}, Advice.FIND_CAUSE),
        (STEADY, {"existing_c": -2.0}, Advice.CORRECT),
        (STEADY, {"existing_c": -4.0}, Advice.FIND_CAUSE),  # with what is entered already it is too much
    ],
)
def test_what_is_advised(pairs, changed, advice):
    found = work_out(pairs, rule_c(**changed))
    assert found.verdict is advice and found.touch == (advice is Advice.CORRECT)


@settings(max_examples=15)
@given(
    st.sampled_from(["copper", "crossed", "as_J", "no_compensation", "fahrenheit"]),
    st.integers(1, 4),
    st.floats(-0.3, 0.3),
)
def test_a_wrong_connection_is_never_corrected_by_an_offset(key, count, noise):
    """Simulated: what an input shows that is connected so, whatever offset is in it, at 400…460 °C."""
    true = [400.0 + 20 * i for i in range(count)]
    wrong = next(m for m in mistakes("K", Circumstances()) if m.key == key)
    shown = [float(wrong.display(np.array([t])).celsius[0]) for t in true]
    found = work_out(
        tuple(Pair(s + noise + 1.0, t) for s, t in zip(shown, true, strict=True)), rule_c(existing_c=1.0, limit_c=500)
    )
    assert found.verdict is Advice.FIND_CAUSE and key in [c.key for c in found.causes.ranked]


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


def load_at(school, offset_c, probe_error_c, setpoint_c):
    """Where the load settles, from what each kind of controller does and not from any rule about offsets: the one holds its
    corrected display at the set-point, the other holds its raw reading at the set-point plus the number."""
    if school is OffsetSchool.ADDED_TO_READING:
        return setpoint_c - offset_c - probe_error_c  # display = load + error + offset
    return setpoint_c + offset_c - probe_error_c


@given(st.sampled_from(OffsetSchool), st.floats(20, 900), st.floats(-15, 15), st.floats(-4, 4))
def test_the_load_is_where_it_should_be_in_a_controller_of_either_kind(school, setpoint, error, old):
    load = load_at(school, old, error, setpoint)
    display = load + error + (old if school is OffsetSchool.ADDED_TO_READING else 0.0)
    found = work_out((Pair(display, load),), OffsetRule(school, old, 1e-4, 40.0, setpoint))
    new = found.to_enter.value
    assert load_at(school, new, error, setpoint) == pytest.approx(setpoint, abs=1e-3)
    other = next(s for s in OffsetSchool if s is not school)
    assert load_at(other, converted(new, school, other), error, setpoint) == pytest.approx(setpoint, abs=1e-3)
    assert load_at(other, new, error, setpoint) - setpoint == pytest.approx(
        -2 * error, abs=1e-3
    )  # unconverted: twice as wrong


@given(st.sampled_from([1.0, 0.5, 0.1, 0.25, 0.01]), st.floats(-900, 900, allow_nan=False))
def test_what_a_controller_holds_is_the_nearest_it_can(step, value):
    near = held(value, step)
    assert near / step == pytest.approx(round(near / step), abs=1e-6)
    assert abs(near - value) <= step / 2 + 1e-9
    assert held(near, step) == near and is_held(near, near, step) and not is_held(near, near + step, step)


@pytest.mark.parametrize(
    ("value", "step", "near"), [(60.25, 0.1, 60.2), (-4.05, 0.1, -4.0), (60.25, 0.5, 60.0), (0.3, 0.1, 0.3)]
)
def test_halfway_it_asks_for_less(value, step, near):
    assert held(value, step) == near


def test_a_step_of_nothing_is_refused():
    with pytest.raises(Refused, match="no step"):
        held(1.0, 0.0)


def test_a_certificate_says_whether_its_number_is_the_correction_or_the_error():
    """Reads 562.9 where its error is +2.9: the load is at 560.0."""
    number = {"certificate_c": 2.9, "limit_c": 50.0}
    pairs = (Pair(561.4, 562.9),) * 2
    added = work_out(pairs, rule_c(**number, certificate_says=CertificateSays.CORRECTION))
    taken = work_out(pairs, rule_c(**number, certificate_says=CertificateSays.ERROR))
    assert (added.exact.value, taken.exact.value) == (pytest.approx(4.4), pytest.approx(-1.4))
    with pytest.raises(Refused, match="certificate says which"):
        work_out(pairs, rule_c(**number))
    with pytest.raises(Refused, match="more than any reference"):
        work_out(pairs, rule_c(certificate_c=-51.0, certificate_says=CertificateSays.ERROR))


@pytest.mark.parametrize("school", list(OffsetSchool))
def test_a_number_taken_the_wrong_way_shows_in_the_next_comparison(school):
    """Simulated: sensors and references with errors of their own; what is said of 100 records is held against what was done."""
    random, found, false = np.random.default_rng(7), 0, 0
    for k in range(100):
        wrong, number = k % 2 == 0, random.choice([-1, 1]) * random.uniform(2.0, 6.0)
        sensor_error, u = random.normal(0, 1.5), (0.4, 0.5)
        record = []
        for turn, u_ref in enumerate(u):
            reads = 500.0 + random.normal(0, u_ref) + (number if turn == 0 else 0.0)
            says = CertificateSays.CORRECTION if wrong else CertificateSays.ERROR
            certified = {"certificate_c": number, "certificate_says": says} if turn == 0 else {}
            existing = random.uniform(-2, 2)
            raw = 500.0 + sensor_error
            if school is OffsetSchool.ADDED_TO_READING:
                pairs, more = (Pair(raw + existing, reads),) * 3, {}
            else:  # the control holds its own reading at set-point + number
                pairs, more = (Pair(raw, reads),) * 3, {"setpoint_c": raw - existing}
            rule = rule_c(school=school, existing_c=existing, reference_u_c=u_ref, limit_c=50.0, **certified, **more)
            done = work_out(pairs, rule, "N", record[-1] if record else None)
            high = reads_high(school, existing, done.error.value)
            assert high == pytest.approx(raw - reads - rule.added_c, abs=1e-6)
            record.append(Compared(f"day {turn}", "N", 500.0, high, done.uncertainty.value, rule.added_c))
        assert bool(done.doubts) == bool(doubts(record))
        found += wrong and bool(done.doubts)
        false += (not wrong) and bool(done.doubts)
    assert found >= 0.9 * 50 and false <= 0.04 * 50


def test_what_cannot_be_told_by_the_sign_is_left_alone():
    def record(**other):
        one = Compared("1 May", "N", 560.0, -4.4, 1.0, 2.9)
        return doubts((one, replace(Compared("2 June", "N", 560.0, 1.4, 1.0, 0.0), **other)))

    assert [f.rule for f in record()] == ["calibration.sign"] and "5.8" in record()[0].reason
    assert not record(reads_high_c=-4.0)  # they agree as they stand
    assert not record(reads_high_c=5.0)  # nor would the other sign explain it
    assert not record(sensor="K") and not record(near_c=300.0)


@given(st.sampled_from(OffsetSchool), st.floats(20, 900), st.floats(-15, 15), st.floats(-4, 4), st.floats(-4, 4))
def test_what_is_left_is_how_far_the_load_is_from_where_it_should_be(school, setpoint, error, old, now):
    """The record's own arithmetic against what each kind of controller does: with the offset that is in it now."""
    load = load_at(school, old, error, setpoint)
    display = load + error + (old if school is OffsetSchool.ADDED_TO_READING else 0.0)
    found = work_out((Pair(display, load),), OffsetRule(school, old, 1e-4, 40.0, setpoint))
    record = (Aged(0.0, reads_high(school, old, found.error.value), 0.1),)
    left = drift(record, 1.0, offsets.added_offset(school, now)).left_c
    assert abs(left) == pytest.approx(abs(load_at(school, now, error, setpoint) - setpoint), abs=1e-6)


def test_on_a_ramp_the_slower_one_is_behind_by_rate_times_lag():
    """Two first-order probes on a ramp of 3 °C/min, the reference's lag 60 s longer: simulated until both follow."""
    t, dt, rate = 0.0, 0.5, 3.0 / 60.0
    quick = slow = 0.0
    while t < 3600.0:
        t += dt
        quick += (rate * t - quick) * dt / 20.0
        slow += (rate * t - slow) * dt / 80.0
    how = Comparing(rose_c_per_min=3.0, reference_slower_s=60.0)
    rule = OffsetRule(OffsetSchool.ADDED_TO_READING, 0.0, reference_u_c=0.05, how=how)
    found = work_out((Pair(quick, slow), Pair(quick + 0.05, slow)), rule, "K")
    assert found.error.value == pytest.approx(0.025, abs=0.02) and any(t.key == "ramp" for t in found.belief.terms)
    left_alone = work_out((Pair(quick, slow), Pair(quick + 0.05, slow)), replace(rule, how=Comparing()), "K")
    assert left_alone.error.value == pytest.approx(3.025, abs=0.02)
    with pytest.raises(Refused):
        work_out((Pair(20.0, 20.0),), replace(rule, how=Comparing(rose_c_per_min=1e4)), "K")
