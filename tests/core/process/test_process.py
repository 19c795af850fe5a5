"""Process models against other judges: python-control's state space, SciPy's integrator, fine brute force, worked examples."""

import control
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.process.cycles import (
    OnOff,
    cycle,
    hysteresis_for,
    period_for_ripple,
    pulse_ripple,
    switched_cycle,
)
from rellux.core.process.models import FOPDT, SOPDT, Integrating, half_rule
from rellux.core.process.response import respond
from rellux.core.tuning.rules.published import simc_pi

lags = st.floats(20, 3000)
parts = st.floats(0.02, 0.9)


@st.composite
def models(draw):
    lag, gain, dead = draw(lags), draw(st.floats(0.2, 12)), draw(parts)
    kind = draw(st.sampled_from(["first", "second", "integrating"]))
    if kind == "first":
        return FOPDT(gain, lag, dead * lag)
    if kind == "second":
        return SOPDT(gain, lag, draw(parts) * lag, dead * lag)
    return Integrating(gain / lag, dead * lag)


def transfer(model):
    """The model without its dead time for python-control."""
    if isinstance(model, FOPDT):
        return control.tf([model.gain], [model.lag_s, 1])
    if isinstance(model, SOPDT):
        return control.tf([model.gain], np.polymul([model.lag_s, 1], [model.second_lag_s, 1]))
    return control.tf([model.slope], [1, 0])


@settings(max_examples=8)
@given(models(), st.lists(st.tuples(st.floats(0.01, 0.5), st.floats(0, 100)), min_size=1, max_size=8))
def test_the_exact_response_is_that_of_another_library(model, pulses):
    scale = model.dead_time_s * 2
    changes = np.cumsum([gap for gap, _ in pulses]) * scale
    output = np.array([u for _, u in pulses])
    grid = np.linspace(0, changes[-1] + 6 * scale, 1201)
    dead_steps = round(model.dead_time_s / grid[1])
    grid *= model.dead_time_s / (dead_steps * grid[1])  # the dead time is a whole number of steps for the other library
    steps = np.concatenate(([0], np.searchsorted(grid, changes)))
    held = np.zeros(len(grid))
    for k, u in enumerate(output):
        held[steps[k + 1] :] = u
    delayed = np.concatenate((np.zeros(dead_steps), held))[: len(grid)]
    discrete = control.sample_system(control.ss(transfer(model)), grid[1], method="zoh")
    theirs = control.forced_response(discrete, grid, delayed).outputs
    first = np.unique(steps[1:], return_index=True)[1]  # of several changes in one step the last counts
    ours = respond(model, grid, grid[np.unique(steps[1:])], held[np.unique(steps[1:])])
    assert len(first)
    assert ours == pytest.approx(theirs, abs=2e-6 * max(1.0, float(np.abs(theirs).max())))


@given(models(), st.floats(1e-4, 1e-1))
def test_frequency_responses_are_those_of_another_library(model, w):
    theirs = transfer(model)(1j * w) * np.exp(-1j * w * model.dead_time_s)
    assert complex(model.response(np.array([w]))[0]) == pytest.approx(complex(theirs), rel=1e-9)


def test_equal_lags_are_no_special_case():
    t = np.linspace(0, 2000, 50)
    theirs = 3.0 * (1 - (1 + t / 200) * np.exp(-t / 200)) * 100
    assert respond(SOPDT(3.0, 200, 200, 0), t, [0.0], [100.0]) == pytest.approx(theirs, abs=1e-2)
    assert respond(SOPDT(3.0, 200, 0, 10), t, [0.0], [50.0]) == pytest.approx(
        respond(FOPDT(3.0, 200, 10), t, [0.0], [50.0])
    )


def test_skogestads_example_of_the_half_rule():
    """Skogestad (2003): e^(−s)/((20s+1)(2s+1)) becomes τ = 21, L = 2, and with τ_c = L PI of 5.25 and 16."""
    reduced = half_rule(SOPDT(1.0, 20.0, 2.0, 1.0))
    assert (reduced.lag_s, reduced.dead_time_s) == (21, 2)
    pi = simc_pi(reduced, 2.0)
    assert (pi.gain, pi.integral_time_s) == pytest.approx((5.25, 16))


@settings(max_examples=60)
@given(lags, parts, st.floats(20, 900), st.floats(0.05, 0.95), st.floats(0.001, 0.2))
def test_event_by_event_a_first_order_cycle_is_the_closed_form(lag, dead, rise, place, width):
    process = FOPDT(rise / 100, lag, dead * lag)
    on, off = rise * place * (1 - width), rise * place
    exact, events = cycle(process, off, on), switched_cycle(process, OnOff(off, on))
    for name in ("peak", "trough", "on_time_s", "off_time_s"):
        assert getattr(events, name) == pytest.approx(getattr(exact, name), rel=1e-6), name
    assert 100 * process.gain * events.duty == pytest.approx(mean_over(process, exact), rel=0.02)


def mean_over(process, found):
    """Mean rise over a cycle is what the mean output holds (the process is linear)."""
    return process.full_power_rise_c * found.on_time_s / found.period_s


def brute(model, switching, seconds, step):
    """Small steps of the modes as difference equations, thresholds looked at each step; the last whole cycle."""
    modes = model.modes()
    x, u, held, delay = [0.0] * len(modes.rates), switching.high, 0.0, round(modes.dead_time_s / step)
    line, edges, ys = [switching.low if delay else switching.high] * delay, [], []
    for i in range(int(seconds / step)):
        line.append(u)
        arriving = line[i]
        x = [
            v + arriving * step if r == 0 else arriving + (v - arriving) * np.exp(-r * step)
            for v, r in zip(x, modes.rates, strict=True)
        ]
        y = sum(w * v for w, v in zip(modes.weights, x, strict=True))
        ys.append(y)
        held += step
        least = switching.least_on_s if u == switching.high else switching.least_off_s
        if held >= least and (
            (u == switching.high and y >= switching.off_at) or (u == switching.low and y <= switching.on_at)
        ):
            u, held = (switching.low if u == switching.high else switching.high), 0.0
            edges.append((i, u))
    ons = [i for i, u in edges if u == switching.high]
    first, last = ons[-2], ons[-1]
    off = next(i for i, u in edges if first < i < last)
    window = ys[first:last]
    return max(window), min(window), (off - first) * step, (last - off) * step


@pytest.mark.parametrize(
    ("model", "switching"),
    [
        (SOPDT(3.0, 600, 120, 30), OnOff(121, 119)),
        (SOPDT(8.0, 300, 290, 5), OnOff(400, 398)),
        (SOPDT(1.0, 900, 60, 20), OnOff(40, 39, least_on_s=60, least_off_s=90)),
        (FOPDT(2.0, 500, 40), OnOff(100.5, 99.5, high=65, low=35)),  # a relay test round the holding power
        (Integrating(0.002, 25), OnOff(1.0, -1.0, high=60, low=-40)),
    ],
)
def test_cycles_of_any_linear_process_are_those_of_brute_force(model, switching):
    found = switched_cycle(model, switching)
    peak, trough, on_s, off_s = brute(model, switching, 14 * found.period_s, 0.1)
    assert (found.peak, found.trough) == pytest.approx((peak, trough), abs=0.02 * (peak - trough))
    assert (found.on_time_s, found.off_time_s) == pytest.approx((on_s, off_s), rel=0.01, abs=0.2)


def test_a_second_lag_makes_the_real_swing_smaller_than_the_half_rule_says():
    """What the closed form overstates, the more the larger the second lag is against the dead time."""
    for share in (0.1, 0.2, 0.33):
        process = SOPDT(3.0, 600, 600 * share, 60)
        real = switched_cycle(process, OnOff(150, 149)).swing
        assert 1.1 < cycle(half_rule(process), 150, 149).swing / real < 4


@given(lags, parts, st.floats(20, 900), st.floats(1.0, 5.0))
def test_the_hysteresis_for_a_swing_gives_that_swing(lag, dead, rise, more):
    process = FOPDT(rise / 100, lag, dead * lag)
    least = rise * (1 - np.exp(-dead))
    wanted = min(least * more, 0.98 * rise)
    if wanted <= least:
        return
    wide = hysteresis_for(process, wanted)
    middle = rise / 2
    if middle - wide / 2 > 0 and middle + wide / 2 < rise:
        assert cycle(process, middle + wide / 2, middle - wide / 2).swing == pytest.approx(wanted, rel=1e-9)
    with pytest.raises(Refused, match="dead time alone"):
        hysteresis_for(process, least * 0.99)


@given(lags, st.floats(0.02, 0.98), st.floats(0.001, 3))
def test_ripple_of_pulses_is_that_of_their_simulation(lag, duty, share):
    process, period = FOPDT(2.0, lag, 0), share * lag
    pulses = 40 + int(12 / share)
    edges = np.sort(np.concatenate([np.arange(pulses) * period, np.arange(pulses) * period + duty * period]))
    output = np.tile([100.0, 0.0], pulses)
    course = respond(process, np.append(edges, edges[-1] + (1 - duty) * period), edges, output)
    assert np.ptp(course[-3:]) == pytest.approx(pulse_ripple(process, duty, period), rel=1e-3, abs=1e-9)
    rate = process.full_power_rise_c / lag
    assert pulse_ripple(process, duty, period_for_ripple(rate, 0.5)) <= 0.5 * (1 + 1e-9)


@pytest.mark.parametrize("switching", [OnOff(10, 20), OnOff(400, 390), OnOff(10, -1), OnOff(50, 49, high=10, low=20)])
def test_what_cannot_cycle_is_refused(switching):
    with pytest.raises(Refused):
        switched_cycle(FOPDT(3.0, 600, 30), switching)
    with pytest.raises(Refused):
        switched_cycle(FOPDT(3.0, 600, 0), OnOff(50, 50))
    with pytest.raises(Refused):
        switched_cycle(Integrating(0.01, 5), OnOff(1, -1))  # nothing ever cools it
    with pytest.raises(Refused):
        FOPDT(1.0, 0.0, 1.0).modes()
