"""What is said of a process against logs of known ones: intervals hold as often as they say, are near the narrowest there can be, and what
can be known is called so. ``./rellux endure`` tries a thousand of each kind."""

import numpy as np
import pytest
from scipy.optimize import least_squares
from scipy.stats import multivariate_normal, norm

from rellux.core.process.models import FOPDT
from rellux.core.process.response import respond
from rellux.core.tuning.identify import identify
from rellux.core.tuning.record import Noise, Record
from rellux.core.tuning.stretch import Stretch, checked

from .recorded import KINDS, log, tally


@pytest.mark.parametrize("kind", KINDS)
def test_what_is_called_supported_holds_and_is_narrow(kind):
    """Twenty logs of each: 95 % of intervals should hold; with less than 85 % of all sixty something is wrong (a chance of 1 in 1,000)."""
    found = tally(kind, range(20), identify)
    assert found.held.mean() >= 0.85, found
    assert (found.wider <= 1.5).all(), found
    assert found.called >= 0.8, found


def rough(seed, quantum=0.0):
    """A short log at uneven times, and its record."""
    rng = np.random.default_rng(seed)
    t = np.cumsum(rng.uniform(2.0, 30.0, 40))
    u = np.where((t > t[4]) & (t < t[25]), 80.0, 0.0)
    y = 20.0 + respond(FOPDT(1.2, 200.0, 20.0), t, t, u) + rng.normal(0.0, 0.4, 40)
    stretch = Stretch(t, np.round(y / quantum) * quantum if quantum else y, u, 20.0)
    return Record(*checked(stretch), stretch)


def beforehand(record, noise, theta):
    """What is known of the coefficients before, as −2 ln of its density without constants."""
    sure = record.sure.copy()
    sure[record.ways] *= noise.wander
    return float(np.sum(((theta - record.expected[: len(theta)]) / sure[: len(theta)]) ** 2))


@pytest.mark.parametrize(("rho", "seed"), [(0.0, 1), (0.6, 2), (0.97, 3)])
def test_the_likelihood_is_that_of_scipys_normal_distribution(rho, seed):
    """A first-order autoregression at uneven times and white noise, by its whole covariance matrix."""
    record, noise = rough(seed), Noise(0.5, 0.2, rho, 0.3)
    for lag, second, dead in ((200.0, 0.0, 20.0), (150.0, 40.0, 5.0)):
        fit = record.at(noise, lag, second, dead)
        apart = np.abs(record.t[:, None] - record.t) / record.usual_s
        covariance = noise.slow_c**2 * (rho**apart if rho else np.eye(40)) + noise.white_c**2 * np.eye(40)
        by_scipy = multivariate_normal(record.modelled(fit.theta, lag, second, dead), covariance).logpdf(record.y)
        expected = -2 * by_scipy - 40 * np.log(2 * np.pi) + beforehand(record, noise, fit.theta)
        assert fit.deviance == pytest.approx(expected, abs=1e-3)


def test_a_display_that_rounds_is_as_likely_as_the_normal_distribution_between_its_steps():
    record, noise = rough(4, quantum=1.0), Noise(0.4, 0.0, 0.0, 0.3, 1.0)
    fit = record.at(noise, 200.0, 0.0, 20.0)
    by = norm(record.modelled(fit.theta, 200.0, 0.0, 20.0), 0.4)
    shown = np.log(by.cdf(record.y + 0.5) - by.cdf(record.y - 0.5)).sum()
    expected = -2 * shown - 40 * np.log(2 * np.pi) + beforehand(record, noise, fit.theta)
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
