"""What is said of a process against logs of known ones: intervals hold as often as they say, are near the narrowest there can be, and what
can be known is called so. ``./rellux endure`` tries a thousand of each kind."""

import numpy as np
import pytest
from scipy.optimize import least_squares
from scipy.stats import multivariate_normal, norm

from rellux.core.process.models import FOPDT
from rellux.core.process.response import respond
from rellux.core.tuning.identify import identify
from rellux.core.tuning.noise import Noise
from rellux.core.tuning.record import Records
from rellux.core.tuning.stretch import Stretch, checked
from tests.core.tuning.recorded import KINDS, log, tally
from tests.examples import cases


@pytest.mark.slow
@pytest.mark.parametrize("kind", KINDS)
def test_what_is_called_supported_holds_and_is_narrow(kind):
    """A few logs of each: 95 % of intervals should hold; with less than 80 % of fifteen something is wrong (a chance of 1 in 30 that the
    seeds chosen do not take)."""
    found = tally(kind, range(cases(5)), identify)
    assert found.held.mean() >= 0.8, found
    assert (np.median(found.wider, axis=0) <= 1.5).all(), found
    assert found.called.mean() >= 0.8, found


@pytest.mark.slow
def test_a_step_is_read_as_by_the_published_two_point_methods():
    """A clean step, from rest: Smith (1957), by the times of 28.3 and 63.2 %; Sundaresan and Krishnaswamy (Can. J. Chem. Eng. 56, 1978), by
    those of 35.3 and 85.3 %. Both coefficients from memory; the second is made for any shape and is a per cent or two off."""
    gain, lag, dead = 1.7, 240.0, 35.0
    t = np.arange(0.0, 2400.0, 2.0)
    u = np.where(t < 100.0, 0.0, 40.0)
    y = 20.0 + respond(FOPDT(gain, lag, dead), t, t, u)
    found = identify(Stretch(t, y, u, 20.0))
    share = (y - 20.0) / (40.0 * gain)
    t28, t35, t63, t85 = (float(np.interp(s, share, t)) - 100.0 for s in (0.283, 0.353, 0.632, 0.853))
    smith = 1.5 * (t63 - t28)
    two = 0.67 * (t85 - t35), 1.3 * t35 - 0.29 * t85
    assert (found.lag.value, found.dead_time.value) == pytest.approx((smith, t63 - smith), rel=0.01)
    assert (found.lag.value, found.dead_time.value) == pytest.approx(two, abs=0.015 * lag)
    assert found.gain.value == pytest.approx(gain, rel=0.001)


def rough(seed, quantum=0.0):
    """A short log at uneven times, and its record."""
    rng = np.random.default_rng(seed)
    t = np.cumsum(rng.uniform(2.0, 30.0, 40))
    u = np.where((t > t[4]) & (t < t[25]), 80.0, 0.0)
    y = 20.0 + respond(FOPDT(1.2, 200.0, 20.0), t, t, u) + rng.normal(0.0, 0.4, 40)
    stretch = Stretch(t, np.round(y / quantum) * quantum if quantum else y, u, 20.0)
    return Records.of([(*checked(stretch), stretch)])


def beforehand(part, form, noise, theta):
    """What is known of the coefficients before, as −2 ln of its density without constants."""
    expected, precision = part.known(form, noise.wander)
    return float(np.sum((theta - expected[: len(theta)]) ** 2 * precision[: len(theta)]))


@pytest.mark.parametrize(("rho", "seed"), [(0.0, 1), (0.6, 2), (0.97, 3)])
def test_the_likelihood_is_that_of_scipys_normal_distribution(rho, seed):
    """A first-order autoregression at uneven times and white noise, by its whole covariance matrix."""
    record, noise = rough(seed), Noise(0.5, 0.2, rho, 0.3)
    (part,) = record.parts
    for model in ((0, 200.0, 0.0, 20.0), (1, 150.0, 0.27, 5.0), (2, 150.0, 3.0, 5.0), (3, 150.0, 30.0, 5.0)):
        fit = record.at(noise, *model)
        apart = np.abs(part.t[:, None] - part.t) / record.usual_s
        covariance = noise.slow_c**2 * (rho**apart if rho else np.eye(40)) + noise.white_c**2 * np.eye(40)
        by_scipy = multivariate_normal(part.modelled(fit.thetas[0], *model), covariance).logpdf(part.y)
        expected = -2 * by_scipy - 40 * np.log(2 * np.pi) + beforehand(part, model[0], noise, fit.thetas[0])
        assert fit.deviance == pytest.approx(expected, abs=1e-3)


def test_a_display_that_rounds_is_as_likely_as_the_normal_distribution_between_its_steps():
    record, noise = rough(4, quantum=1.0), Noise(0.4, 0.0, 0.0, 0.3, 1.0)
    (part,), model = record.parts, (0, 200.0, 0.0, 20.0)
    fit = record.at(noise, *model)
    by = norm(part.modelled(fit.thetas[0], *model), 0.4)
    shown = np.log(by.cdf(part.y + 0.5) - by.cdf(part.y - 0.5)).sum()
    expected = -2 * shown - 40 * np.log(2 * np.pi) + beforehand(part, 0, noise, fit.thetas[0])
    assert fit.deviance == pytest.approx(expected, abs=1e-3)


def test_the_best_fit_is_the_best_of_scipys_search_too():
    """White noise, known: nonlinear least squares over (K, τ, L, level) by another program."""
    made = log("white", 5)
    found, s = identify(made.stretch), made.stretch

    def off(p):
        gain, lag, dead, level = p
        return level + respond(FOPDT(gain, lag, max(dead, 0.0)), s.time_s, s.time_s, s.output) - s.reading_c

    gain, lag, dead = made.truth
    best = least_squares(off, (gain, lag, dead, 20.0), x_scale=(gain, lag, dead, 1.0), diff_step=1e-4).x
    for figure, theirs in zip((found.gain, found.lag, found.dead_time), best, strict=False):
        assert abs(figure.value - theirs) < 0.35 * (figure.high - figure.low)
