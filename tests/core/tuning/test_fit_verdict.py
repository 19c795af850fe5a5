"""What is said of a fit: on both sides of every threshold, and in what order the doubts count."""

from dataclasses import replace

import numpy as np
import pytest

from rellux.core.tuning.fit_verdict import Fitness, FitVerdict, judge
from rellux.core.tuning.stretch import Stretch

TIME_S = np.arange(0.0, 3600.0, 10.0)
RISES = 20.0 + 100.0 * (1.0 - np.exp(-TIME_S / 600.0))
HEAT_UP = Stretch(TIME_S, RISES, np.full(len(TIME_S), 100.0), 20.0)
SOUND = Fitness(
    rms=0.2,
    gain_low=0.95,
    gain=1.0,
    half_width=0.05,
    swing_c=0.1,
    lags=6.0,
    span_s=3600.0,
    drift_c=0.5,
    worst_s=60.0,
    held_out=0.95,
)
TRAVEL = float(np.ptp(RISES))


def said(*, stretches=(HEAT_UP,), **changed):
    return judge(stretches, replace(SOUND, **changed))


@pytest.mark.parametrize(
    ("doubt", "near", "verdict", "words"),
    [
        ({"gain": -1.0}, {"gain": 0.01}, FitVerdict.POOR, "falls when the output rises"),
        ({"rms": 0.051 * TRAVEL}, {"rms": 0.049 * TRAVEL}, FitVerdict.POOR, "more than a twentieth of its travel"),
        ({"gain_low": 0.0}, {"gain_low": 0.01}, FitVerdict.POOR, "cannot be told from its noise"),
        ({"alike_s": 640.0, "dead_s": 40.0}, {"dead_s": 40.0}, FitVerdict.POOR, "a dead time of {11 min} explains"),
        ({"gains": (0.8, 1.4)}, {"gains": None}, FitVerdict.SLOPE_ONLY, "{0.8 °C/%} to {1.4 °C/%}"),
        ({"held_out": 0.79}, {"held_out": 0.81}, FitVerdict.SLOPE_ONLY, "{79 %} of the rows only"),
        ({"held_out": 0.3}, {"held_out": None}, FitVerdict.SLOPE_ONLY, "the process changed on the way"),
        ({"levels_off": False}, {"levels_off": True}, FitVerdict.SLOPE_ONLY, "goes on rising for ever"),
        ({"lags": 1.19}, {"lags": 1.21}, FitVerdict.SLOPE_ONLY, "ends long before the reading would level off"),
        ({"swing_c": 0.0151 * TRAVEL}, {"swing_c": 0.0149 * TRAVEL}, FitVerdict.SLOPE_ONLY, "Something slow that this model does not"),
        ({"drift_c": 0.081 * TRAVEL}, {"drift_c": 0.079 * TRAVEL}, FitVerdict.SLOPE_ONLY, "Something slow moved it by {8"),
        ({"drift_c": -0.081 * TRAVEL}, {"drift_c": -0.079 * TRAVEL}, FitVerdict.SLOPE_ONLY, "Something slow moved it by {8"),
        ({"half_width": 0.21}, {"half_width": 0.19}, FitVerdict.SLOPE_ONLY, "known to {21 %} only"),
        ({"half_width": float("inf")}, {"half_width": 0.2}, FitVerdict.SLOPE_ONLY, "known to {999 %} only"),
    ],
)  # fmt: skip
def test_a_doubt_is_said_and_what_is_just_good_enough_is_not(doubt, near, verdict, words):
    found, told = said(**doubt)
    assert found is verdict and words in told.replace("\u2009", " "), told
    assert said(**near)[0] is FitVerdict.SUPPORTED


def test_what_is_supported_says_how_far():
    found, told = said()
    assert found is FitVerdict.SUPPORTED and found.usable
    assert (
        "within {0.2 Δ°C} rms over {60 min}" in told and "It holds near {~119 °C}" in told
    )  # the middle of the last third


def test_only_supported_and_slope_are_used():
    assert [v.usable for v in FitVerdict] == [True, True, False, False]


def regulated(levels: int, top: float = 70.0, setpoint_c=60.0):
    """A loop that was left alone: an output that goes through so many levels."""
    output = 30.0 + (top - 30.0) * (np.arange(len(TIME_S)) % levels) / (levels - 1)
    setpoint = np.full(len(TIME_S), 60.0)
    setpoint[len(TIME_S) // 2 :] = setpoint_c
    return Stretch(TIME_S, RISES, output, 20.0, setpoint_c=setpoint)


@pytest.mark.parametrize(
    ("stretch", "closed"),
    [
        (regulated(11), True),
        (regulated(10), False),
        (regulated(11, 100.0), False),
        (regulated(11, 99.4), True),
        (regulated(11, setpoint_c=60.5), True),
        (regulated(11, setpoint_c=60.6), False),
    ],
)
def test_a_loop_that_was_closed_and_left_alone_tells_nothing(stretch, closed):
    """More levels than a switch has, no end of the output touched, no set-point moved."""
    assert (said(stretches=(stretch,))[0] is FitVerdict.BIASED) is closed
    assert said(stretches=(stretch, HEAT_UP))[0] is FitVerdict.SUPPORTED
