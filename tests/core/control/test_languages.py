"""PID numbers in the words of one controller and of another."""

from dataclasses import replace
from math import inf

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from rellux.core.control.languages import Form, Language, Proportional, Rate, Times, spoken, understood
from rellux.core.control.pid import PID
from rellux.core.errors import Refused
from rellux.core.form import cannot_be

languages = st.builds(
    Language,
    st.sampled_from(Form), st.sampled_from(Proportional), st.sampled_from(Times), st.sampled_from(Rate), st.booleans(),
    st.floats(10, 2000), st.floats(0.05, 30), st.sampled_from([100.0, 255.0, 1000.0]),
)  # fmt: skip
numbers = st.tuples(st.floats(0.01, 1e4), st.just(0.0) | st.floats(0.01, 1e4), st.just(0.0) | st.floats(0.01, 1e3))
L, F, P, T, R = Language(), Form, Proportional, Times, Rate
BY_HAND = [  # a band of 12 °C, 240 s and 60 s on a span of 400 °C, worked out by hand
    (L, (12.0, 240.0, 60.0)),
    (replace(L, times=T.MINUTES), (12.0, 4.0, 1.0)),
    (replace(L, times=T.REPEATS), (12.0, 0.25, 1.0)),
    (replace(L, proportional=P.PERCENT), (3.0, 240.0, 60.0)),
    (replace(L, fahrenheit=True), (21.6, 240.0, 60.0)),
    (replace(L, proportional=P.PERCENT, fahrenheit=True), (3.0, 240.0, 60.0)),
    (replace(L, proportional=P.GAIN), (25 / 3, 240.0, 60.0)),
    (replace(L, proportional=P.GAIN, fahrenheit=True), (25 / 5.4, 240.0, 60.0)),
    (Language(F.SERIES, P.GAIN), (25 / 6, 120.0, 120.0)),
    (Language(F.SERIES, P.BAND, T.MINUTES), (24.0, 2.0, 2.0)),
    (Language(F.PARALLEL), (25 / 3, 25 / 720, 500.0)),
    (Language(F.PARALLEL, rate=R.LOOK, look_s=0.5, full=255.0), (21.25, 21.25 / 480, 2550.0)),
]


@pytest.mark.parametrize(("language", "expected"), BY_HAND)
def test_one_setting_said_in_every_way(language, expected):
    assert spoken(language, PID(100 / 12, 240.0, 60.0)) == pytest.approx(expected)
    heard = understood(language, expected)
    assert (heard.gain, heard.integral_time_s, heard.derivative_time_s) == pytest.approx((100 / 12, 240.0, 60.0))


@given(languages, numbers)
def test_what_is_understood_is_said_again_as_it_stood(language, given_):
    pid = understood(language, given_)
    if language.form is Form.SERIES:  # the longer time is taken for the integral
        assume(not given_[1] or (language.times is not Times.REPEATS and given_[2] <= 0.99 * given_[1]))
    assert spoken(language, pid) == pytest.approx(given_, rel=1e-6)


@given(languages, numbers, st.floats(-20, 20), st.floats(-0.5, 0.5))
def test_the_output_is_what_that_controller_makes_of_an_error(language, given_, start, slope):
    """Judge: each form by its own definition, in its own degrees and counts, for an error that begins at ``start`` °C and changes by
    ``slope`` °C/s, after 90 s; against the standard form in °C and %."""
    p, i, d = given_
    pid, t = understood(language, given_), 90.0
    own_start, own_slope = (x * (1.8 if language.fahrenheit else 1.0) for x in (start, slope))
    now, area = own_start + own_slope * t, own_start * t + own_slope * t * t / 2
    if language.form is Form.PARALLEL:
        # per look: sums and differences over looks are the integral by, and the slope times, the time between
        look = language.look_s if language.rate is Rate.LOOK else 1.0
        out = (p * now + i * area / look + d * own_slope * look) * 100.0 / language.full
    else:
        unit = 1.0 if language.times is Times.SECONDS else 60.0
        ti = inf if not i else 60.0 / i if language.times is Times.REPEATS else i * unit
        gain = {
            Proportional.BAND: 100.0 / p,
            Proportional.PERCENT: 100.0 / (p / 100.0 * language.span_c * (1.8 if language.fahrenheit else 1.0)),
            Proportional.GAIN: p * 100.0 / language.full,
        }[language.proportional]
        if language.form is Form.STANDARD:
            out = gain * (now + area / ti + d * unit * own_slope)
        else:  # the derivative's output goes into the integral
            out = gain * ((now + d * unit * own_slope) + (area + d * unit * (now - own_start)) / ti)
            out += gain * d * unit * own_start / ti  # and so does the jump at the beginning
    mine = pid.gain * (
        start + slope * t + (start * t + slope * t * t / 2) / pid.integral_time_s + pid.derivative_time_s * slope
    )
    assert mine == pytest.approx(out, rel=1e-6, abs=1e-6 * pid.gain * (1 + np.abs([start, slope]).max()))


@given(languages)
def test_what_cannot_be_is_refused_by_its_name(language):
    for name, wrong in (("p", (0.0, 1.0, 1.0)), ("i", (1.0, -1.0, 1.0)), ("d", (1.0, 1.0, -1.0))):
        with pytest.raises(Refused) as refused:
            understood(language, wrong)
        assert refused.value.problems[0].field == name
    for derivative, there in ((60.0, True), (60.1, False)):
        if there:
            spoken(Language(Form.SERIES), PID(1.0, 240.0, derivative))
        else:
            with pytest.raises(Refused, match="no series form"):
                spoken(Language(Form.SERIES), PID(1.0, 240.0, derivative))


def test_what_nobody_is_asked_for_is_no_problem_and_what_counts_is():
    """A span counts for a band in percent, which three gains of their own have not."""
    assert not cannot_be(Language(Form.PARALLEL, Proportional.PERCENT, span_c=0.0))
    (span,) = cannot_be(Language(proportional=Proportional.PERCENT, span_c=0.0), "language.")
    assert span.field == "language.span_c" and "1" in span.accepted
    assert not cannot_be(Language(proportional=Proportional.PERCENT, span_c=1.0))
