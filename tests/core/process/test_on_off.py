"""On/off of any linear process against the closed form of one lag, and against the loop simulated step by step for two."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.process.cycles import cycle, hysteresis_for
from rellux.core.process.models import FOPDT, SOPDT
from rellux.core.process.on_off import Switching, course, hysteresis_for_period, hysteresis_for_swing, smallest, steady
from rellux.core.questions.registry import QUESTIONS
from tests.examples import cases

CABINET = FOPDT(1.05, 620.0, 52.0)


@settings(max_examples=cases(25), deadline=None)
@given(st.floats(0.3, 4), st.floats(60, 3000), st.floats(0.01, 0.5), st.floats(0.2, 0.8), st.floats(0.0, 0.15))
def test_one_lag_is_the_closed_form(gain, lag, ratio, share, wide):
    """Swing, period, and the hysteresis for a swing; the smallest is that of dead time alone."""
    process, setpoint = FOPDT(gain, lag, lag * ratio), 100.0 * gain * share
    by = Switching(setpoint, max(wide * setpoint, 0.01))
    found, known = steady(process, by), cycle(process, by.off_at, by.on_at)
    assert (found.swing, found.period_s, found.duty) == pytest.approx(
        (known.swing, known.period_s, known.duty), rel=1e-5
    )
    least = smallest(process, by).swing
    assert least == pytest.approx(100.0 * gain * (1 - np.exp(-ratio)), rel=0.01)
    wanted = least * 1.1
    try:
        here = hysteresis_for_swing(process, by, wanted)
    except Refused:
        assert hysteresis_for(process, wanted) > 0.99 * setpoint
    else:
        assert here == pytest.approx(hysteresis_for(process, wanted), abs=0.002 * setpoint)


@pytest.mark.slow
@settings(max_examples=cases(10), deadline=None)
@given(st.floats(0.05, 0.9), st.floats(0.02, 0.3), st.floats(0.3, 0.7), st.booleans(), st.sampled_from([0.0, 40.0]))
def test_two_lags_are_as_simulated_step_by_step(second, dead, share, centred, least_s):
    process = SOPDT(1.0, 600.0, 600.0 * second, 600.0 * dead)
    by = Switching(100.0 * share, 2.0, centred, least_s, least_s)
    found, h = steady(process, by), 0.25
    late, x1, x2, on, since = int(process.dead_time_s / h), 0.0, 0.0, True, 1e9
    queue, ups, y = [0.0] * late, [], []
    a, b = (1 - np.exp(-h / lag) for lag in (process.lag_s, process.second_lag_s))
    for k in range(int(40_000 / h)):
        queue.append(100.0 if on else 0.0)
        before = x1
        x1 += a * (queue[k] - x1)
        x2 += b * ((before + x1) / 2 - x2)
        y.append(x2)
        since += h
        if since >= least_s and (x2 >= by.off_at if on else x2 <= by.on_at):
            on, since = not on, 0.0
            ups += [k] if on else []
    last = np.array(y[ups[-3] :])
    assert found.period_s == pytest.approx((ups[-1] - ups[-3]) * h / 2, rel=0.02)
    assert found.swing == pytest.approx(np.ptp(last), rel=0.03, abs=0.05)
    t, rise = course(process, found)
    assert np.ptp(rise) == pytest.approx(found.swing, rel=0.02) and t[-1] == pytest.approx(2 * found.period_s)


def test_a_second_lag_swings_less_than_its_half_as_dead_time_says():
    """Handbook: by 1.5 to 3 times."""
    real = steady(SOPDT(1.0, 600.0, 60.0, 30.0), Switching(40.0, 0.1)).swing
    rule = steady(FOPDT(1.0, 630.0, 60.0), Switching(40.0, 0.1)).swing
    assert 1.5 < rule / real < 3.0


def test_wanted_periods_looks_and_what_cannot_be():
    by = Switching(40.0, 2.0)
    slower = hysteresis_for_period(CABINET, by, 600.0)
    assert steady(CABINET, Switching(40.0, slower)).period_s == pytest.approx(600.0, rel=1e-3)
    assert steady(CABINET, Switching(40.0, 2.0, sample_s=20.0)).swing == pytest.approx(
        steady(FOPDT(1.05, 620.0, 62.0), by).swing
    )
    with pytest.raises(Refused, match="without any hysteresis"):
        hysteresis_for_swing(CABINET, by, 3.0)
    with pytest.raises(Refused, match="not even with"):
        hysteresis_for_swing(CABINET, by, 99.0)


def test_the_question_says_what_holds_and_what_cannot():
    ask = QUESTIONS["swing"].ask
    fine, wide, never = (ask({"allowed_c": allowed}).headline for allowed in (20.0, 6.5, 1.0))
    assert "good enough" in fine and "with less hysteresis it holds" in wide and "cannot hold it" in never
    widest = next(f.value for f in ask({"allowed_c": 6.5}).figures if f.name.startswith("hysteresis for"))
    assert "good enough" in ask({"allowed_c": 6.5, "hysteresis_c": 0.99 * widest}).headline
    assert "too much" in ask({"allowed_c": 6.5, "hysteresis_c": 1.01 * widest}).headline


@pytest.mark.parametrize(
    ("values", "word"),
    [
        ({}, "measure how far"), ({"marks_mm": 505.0}, "so far apart they are"), ({"marks_mm": 300.0}, "hardly the heat"),
        ({"marks_mm": 500.0, "other_speed_mm_s": 50.0, "other_marks_mm": 1000.0}, "go with the speed, so they are made in time, as"),
        ({"marks_mm": 200.0, "other_speed_mm_s": 50.0, "other_marks_mm": 400.0}, "but not by this rhythm"),
        ({"marks_mm": 480.0, "other_speed_mm_s": 50.0, "other_marks_mm": 482.0}, "something that turns"),
        ({"marks_mm": 480.0, "other_speed_mm_s": 50.0, "other_marks_mm": 700.0}, "neither"),
        ({"marks_mm": 500.0, "other_speed_mm_s": 26.0, "other_marks_mm": 520.0}, "so far apart they are"),
    ],
)  # fmt: skip
def test_marks_by_the_changed_speed(values, word):
    """25 mm/s and 20 s: 500 mm by the heat, 480 mm a turn: that alone cannot tell them apart."""
    answer = QUESTIONS["marks"].ask(values)
    assert word in answer.headline, answer.headline
    assert "marks.coincide" in {f.rule for f in answer.findings}
    moves = next(f.value for f in answer.figures if f.name.startswith("movement"))
    assert moves == pytest.approx(1.0 * 12e-6 * 300.0)
