"""How well a first- or second-order model explains a record, whatever its noise: one compiled pass for one set of (τ, τ₂, L).

For given times all else is linear: y = K f + a e^(−t/τ) + b (1 − e^(−t/τ)) + K u₋ g + surroundings that wander (:mod:`.drift`), each
coefficient with what is known of it beforehand. One more time makes another form (:mod:`.forms`): a second lag, walls that warm up beside
(K_w f_w), or an own lag of cooling. The noise is a first-order autoregression in time plus white (a display that rounds, a
converter), whitened by its Kalman filter, so that late rows count for what they tell (Harvey, Forecasting, Structural Time Series
Models and the Kalman Filter, ch. 3; Ljung, System Identification, 2nd ed., ch. 7).
"""

import math

import numpy as np
from numpy.typing import NDArray

from ..compiled import compiled
from ..process.response import SAME, unit_response
from .forms import COOLING, OFF, SECOND, WALLS

Array = NDArray[np.float64]

FADED = 700.0
"""Beyond it e^(−x) is nothing."""
TOGETHER = 1e-6
RIDGE = 1e-12
ROOT_2, ROOT_TAU = 2.0**0.5, (2.0 * np.pi) ** 0.5
TAIL, LEAST_CURVE, STEPS, LEAST_STEP, CLOSE = 6.0, 1e-6, 12, 0.01, 0.02


@compiled()
def columns_into(x, t, change_times, values, before, cold, unknown, sine, cosine, speeds, form, lag, extra, dead):
    """What is linear, by rows of ``x`` (k, n): f; one level, or the start fading and the ambient coming; each way to wander; of
    walls that warm up what they add, and unless ``cold`` how they began; and, where the output before the record is ``unknown``, what is
    left of it. A second lag begins settled with the output in force, as a record of a bump at temperature does."""
    if form == COOLING:
        return cooling_into(x, t, change_times, values, before, cold, unknown, sine, lag, extra, dead)
    n = len(t)
    f = unit_response(t, change_times, values, before, 1.0 / lag, dead)
    row = 2 if cold else 3
    fast, share = lag, 1.0
    if form == SECOND and extra > 0.0:
        fast = lag * min(extra, 1.0 - TOGETHER)
        g = unit_response(t, change_times, values, before, 1.0 / fast, dead)
        share = lag / (lag - fast)
        begins = before  # of one from cold nothing is on its way, whatever comes on with its first row
        for k in range(0 if cold else len(change_times)):
            if change_times[k] + dead <= t[0]:
                begins = values[k]
        for i in range(n):
            quick = np.exp(-min((t[i] - t[0]) / fast, FADED)) - np.exp(-min((t[i] - t[0]) / lag, FADED))
            f[i] = share * f[i] + (1.0 - share) * (g[i] + begins * quick)
    x[0] = f
    since, fade, usual, keeps = 0.0, 1.0, -1.0, 1.0
    for i in range(n):
        if i:
            step = t[i] - t[i - 1]
            if abs(step - usual) > SAME * usual:
                usual, keeps = step, np.exp(-step / lag)
            fade *= keeps
        x[1, i] = 1.0 if cold else fade
        if not cold:
            x[2, i] = 1.0 - fade
        for k in range(len(speeds)):
            slow = speeds[k] * lag
            x[row + k, i] = (sine[k, i] - slow * (cosine[k, i] - ROOT_2 * fade)) / (1.0 + slow * slow)
    row += len(speeds)
    if form == WALLS:
        x[row] = unit_response(t, change_times, values, before, 1.0 / (lag * extra), dead)
        row += 1
        if not cold:
            for i in range(n):
                x[row, i] = np.exp(-(t[i] - t[0]) / (lag * extra)) - x[1, i]
            row += 1
    if unknown:
        for i in range(n):
            since = t[i] - t[0]
            gone = 1.0 - np.exp(-min(since, dead) / lag)
            x[row, i] = share * gone * np.exp(-min(max(since - dead, 0.0) / lag, FADED))
            if share != 1.0:
                quick = np.exp(-min(max(since - dead, 0.0) / fast, FADED)) - np.exp(-min(since / lag, FADED))
                x[row, i] += (1.0 - share) * quick
        row += 1
    return row


@compiled()
def cooling_into(x, t, change_times, values, before, cold, unknown, sine, lag, ratio, dead):
    """The same where everything goes ``ratio`` times as slowly while the delayed output is off: exact but for the surroundings, which are
    straight between two rows."""
    n, m, ways = len(t), len(change_times), len(sine)
    first = 2 if cold else 3
    f, fade, left = 0.0, 1.0, 0.0
    wandered, slope = np.zeros(ways), np.zeros(ways)
    now, k, u = t[0], 0, before
    while k < m and change_times[k] + dead <= now:
        u = values[k]
        k += 1
    for i in range(n):
        while i:
            target = min(t[i], change_times[k] + dead) if k < m else t[i]
            asked = unknown and now < t[0] + dead  # what was on its way then nobody says: taken as heat
            if asked:
                target = min(target, t[0] + dead)
            step, tau = target - now, lag if asked or u > OFF else lag * ratio
            keeps = np.exp(-step / tau)
            f, fade = u + (f - u) * keeps if u > OFF else f * keeps, fade * keeps
            left = 1.0 + (left - 1.0) * keeps if asked else left * keeps
            for j in range(ways):
                slope[j] = (sine[j, i] - sine[j, i - 1]) / (t[i] - t[i - 1])
                begins = sine[j, i - 1] + slope[j] * (now - t[i - 1])
                wandered[j] = begins + slope[j] * (step - tau) + (wandered[j] - begins + slope[j] * tau) * keeps
            now = target
            if k < m and change_times[k] + dead <= now:
                u = values[k]
                k += 1
            elif now >= t[i]:
                break
        x[0, i], x[1, i] = f, 1.0 if cold else fade
        if not cold:
            x[2, i] = 1.0 - fade
        for j in range(ways):
            x[first + j, i] = wandered[j]
        if unknown:
            x[first + ways, i] = left
    return first + ways + (1 if unknown else 0)


@compiled()
def whiten(x, steps, rho, white):
    """Rows of ``x`` (k, n) become what the noise leaves of them, in place; the sum of ln F. The noise has variance 1 + ``white``: a first
    order autoregression, ``rho`` from one of ``steps`` (n, 1 the usual) to the next, and white."""
    k, n = x.shape
    if rho <= 0.0:
        scale = 1.0 / np.sqrt(1.0 + white)
        for j in range(k):
            for i in range(n):
                x[j, i] *= scale
        return n * np.log(1.0 + white)
    m = np.zeros(k)
    p, total = 1.0, 0.0
    for i in range(n):
        if i:
            phi = rho ** steps[i]
            for j in range(k):
                m[j] *= phi
            p = phi * phi * p + 1.0 - phi * phi
        f = p + white
        gain, scale = p / f, 1.0 / np.sqrt(f)
        for j in range(k):
            e = x[j, i] - m[j]
            m[j] += gain * e
            x[j, i] = e * scale
        p -= gain * p
        total += np.log(f)
    return total


@compiled()
def normal(x, rows, y, variance, expected, precision):
    """(A, b, c) of the least squares with what is known beforehand: its cost is c − 2 b·θ + θ·A θ."""
    a = np.dot(x[:rows], x[:rows].T) / variance
    b = np.dot(x[:rows], y) / variance
    c = np.dot(y, y) / variance
    ridge = RIDGE * np.trace(a)
    for j in range(rows):
        a[j, j] += precision[j] + ridge  # a column may be nothing at all, as f is before the delay has passed
        b[j] += precision[j] * expected[j]
        c += precision[j] * expected[j] * expected[j]
    return a, b, c


@compiled()
def held_within(a, b, theta):
    """The same system with its last coefficient, an output before the record times the gain, held at the nearest there can be: 0 or 100 %
    of the first. (A, b, %), or the system as it was and −1."""
    u = len(b) - 1
    share = theta[u] / theta[0] if theta[0] != 0.0 else 0.0
    if 0.0 <= share <= 100.0:
        return a, b, -1.0
    held = 0.0 if share < 0.0 else 100.0
    fewer, right = a[:u, :u].copy(), b[:u].copy()
    fewer[0, 0] += 2.0 * held * a[0, u] + held * held * a[u, u]
    for j in range(1, u):
        fewer[0, j] += held * a[u, j]
        fewer[j, 0] = fewer[0, j]
    right[0] += held * b[u]
    return fewer, right, held


@compiled()
def rounded_into(grad, curve, y, modelled, sd, quantum):
    """−2 ln of how likely every reading y (n) is, each within half a ``quantum`` of what was displayed; slope and curvature of ln by
    what is modelled go into ``grad`` and ``curve``."""
    total = 0.0
    for i in range(len(y)):
        low, high = (y[i] - 0.5 * quantum - modelled[i]) / sd, (y[i] + 0.5 * quantum - modelled[i]) / sd
        if low + high < 0.0:  # in the nearer tail figures are not lost
            low, high, sign = -high, -low, -1.0
        else:
            sign = 1.0
        if low > TAIL:  # far off: as the distance to the nearer edge
            grad[i], curve[i] = sign * low / sd, 1.0 / (sd * sd)
            total += low * low + 2.0 * np.log(low * ROOT_TAU)
            continue
        p = 0.5 * (math.erfc(low / ROOT_2) - math.erfc(high / ROOT_2))
        at_low, at_high = np.exp(-0.5 * low * low) / ROOT_TAU, np.exp(-0.5 * high * high) / ROOT_TAU
        slope = (at_low - at_high) / p
        grad[i] = sign * slope / sd
        curve[i] = max(slope * slope - (low * at_low - high * at_high) / p, LEAST_CURVE) / (sd * sd)
        total -= 2.0 * np.log(p)
    return total


@compiled()
def fit_rounded(x, rows, y, theta, sd, quantum, expected, precision):
    """(deviance, A, coefficients) of what is likeliest where the display rounds, by Newton's steps from ``theta``; ln of it is concave."""
    n = len(y)
    grad, curve = np.empty(n), np.empty(n)
    off = theta - expected
    best = rounded_into(grad, curve, y, np.dot(theta, x[:rows]), sd, quantum) + np.sum(precision * off * off)
    a = np.zeros((rows, rows))
    for _ in range(STEPS):
        a = np.dot(x[:rows] * curve, x[:rows].T)
        ridge = RIDGE * np.trace(a)
        for j in range(rows):
            a[j, j] += precision[j] + ridge
        step = np.linalg.solve(a, np.dot(x[:rows], grad) - precision * (theta - expected))
        size, tried = 1.0, best
        while size > LEAST_STEP:
            there = theta + size * step
            off = there - expected
            tried = rounded_into(grad, curve, y, np.dot(there, x[:rows]), sd, quantum) + np.sum(precision * off * off)
            if tried <= best:
                break
            size *= 0.5
        if tried > best - CLOSE:
            if tried <= best:
                theta, best = theta + size * step, tried
            break
        theta, best = theta + size * step, tried
    return best, a, theta


@compiled()
def fit_at(data, known, noise, form, lag, extra, dead, x):
    """(deviance, ln |A|, A⁻¹, coefficients) of one form at one (τ, what it has besides as a multiple of τ, L). ``data``: t, y, steps,
    change_times, values, before, cold, unknown, sine, cosine, speeds; ``known``: expected, precision;
    ``noise``: variance, rho, white, quantum; ``x`` (k + 1, n) to work in."""
    t, y, steps, change_times, values, before, cold, unknown, sine, cosine, speeds = data
    expected, precision = known
    variance, rho, white, quantum = noise
    asked = unknown and dead > 0.0
    rows = columns_into(x, t, change_times, values, before, cold, asked, sine, cosine, speeds, form, lag, extra, dead)
    if quantum > 0.0:
        rho, white = 0.0, white + quantum * quantum / 12.0 / variance
    plain = x[:rows].copy() if quantum > 0.0 else x[:0]
    x[rows] = y
    total = whiten(x[: rows + 1], steps, rho, white)
    a, b, c = normal(x, rows, x[rows], variance, expected, precision)
    theta = np.linalg.solve(a, b)
    held = -1.0
    if asked:
        a, b, held = held_within(a, b, theta)
        if held >= 0.0:
            theta[:-1] = np.linalg.solve(a, b)
            theta[rows - 1] = held * theta[0]
    m = len(b)
    deviance = len(y) * np.log(variance) + total + c - np.dot(b, theta[:m])
    if quantum > 0.0:
        if held > 0.0:
            plain[0] += held * plain[m]
        sd = np.sqrt(variance * (1.0 + white) - quantum * quantum / 12.0)
        deviance, a, found = fit_rounded(plain, m, y, theta[:m].copy(), sd, quantum, expected[:m], precision[:m])
        theta[:m] = found
        deviance += (
            2.0 * len(y) * np.log(quantum / ROOT_TAU)
        )  # as a density, and without its constant: to be compared with the other
        if held >= 0.0:
            theta[m] = held * theta[0]
    return deviance, np.linalg.slogdet(a)[1], np.linalg.inv(a), theta


@compiled()
def fits_at(data, known, noise, form, lags, extras, deads, x):
    """(n, 4): deviance, ln |A|, gain and its variance at every one of (τ, what the form has besides, L)."""
    out = np.empty((len(lags), 4))
    for i in range(len(lags)):
        deviance, logdet, inverse, theta = fit_at(data, known, noise, form, lags[i], extras[i], deads[i], x)
        out[i, 0], out[i, 1], out[i, 2], out[i, 3] = deviance, logdet, theta[0], inverse[0, 0]
    return out
