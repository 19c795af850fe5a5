"""Logs of known processes with known noise, and how well the best fit could know them: the judge of identification."""

from dataclasses import dataclass

import numpy as np
from scipy.stats import norm

from rellux.core.process.models import FOPDT
from rellux.core.process.response import respond
from rellux.core.tuning.stretch import Stretch

KINDS = ("white", "slow", "display", "on_off", "bump")


@dataclass(frozen=True)
class Log:
    """``noise_c``: of one reading before it is rounded to ``quantum_c``; ``correlation``: from row to row."""

    stretch: Stretch
    process: FOPDT
    noise_c: float
    correlation: float = 0.0
    quantum_c: float = 0.0
    before: float = 0.0

    @property
    def truth(self) -> tuple[float, float, float]:
        return self.process.gain, self.process.lag_s, self.process.dead_time_s


def log(kind: str, seed: int) -> Log:
    """τ/L from 0.05 to 50; steps (white, correlated by 0.8, on a display of whole degrees), control on and off, a bump at temperature of
    which nobody says what the output was before."""
    rng = np.random.default_rng([seed, KINDS.index(kind)])
    lag = 10 ** rng.uniform(1.5, 3.5)
    dead = lag / 10 ** rng.uniform(np.log10(0.05), np.log10(50.0))
    process = FOPDT(rng.uniform(0.5, 4.0), lag, dead)
    t = np.linspace(0.0, rng.uniform(3.0, 6.0) * (lag + dead), int(rng.integers(200, 600)))
    noise, told = rng.uniform(0.05, 0.5), 20.0 + rng.normal()
    white = rng.normal(0.0, noise, len(t))
    if kind == "on_off":
        y, u = _switched(process, t, white, 100.0 * process.gain * rng.uniform(0.3, 0.7), rng.uniform(0.5, 3.0))
        return Log(Stretch(t, y, u, told), process, noise)
    if kind == "bump":
        held = rng.uniform(20.0, 60.0)
        u = np.where(t < 0.1 * t[-1], held, held + rng.choice([-15.0, 15.0]))
        rise = respond(process, t, t, u, held) + process.gain * held * np.exp(-t / lag)
        return Log(Stretch(t, 20.0 + rise + white, u, told), process, noise, before=held)
    u = np.zeros(len(t))
    for at, level in zip(np.sort(rng.uniform(0.0, 0.6, 3)), rng.uniform(10.0, 100.0, 3), strict=True):
        u[t >= min(at, 0.1 if not u.any() else 1.0) * t[-1]] = level
    y = 20.0 + respond(process, t, t, u)
    if kind == "slow":
        for i in range(1, len(t)):
            white[i] = 0.8 * white[i - 1] + 0.6 * white[i]
        return Log(Stretch(t, y + white, u, told), process, noise, 0.8)
    if kind == "display":
        return Log(Stretch(t, np.round(y + white), u, told), process, noise, quantum_c=1.0)
    return Log(Stretch(t, y + white, u, told), process, noise)


def _switched(process, t, noise, off_at, hysteresis):
    """On/off by what is read, decided at the rows: reading and output by rows."""
    h, keep = t[1] - t[0], np.exp(-(t[1] - t[0]) / process.lag_s)
    late = process.dead_time_s / h
    whole, part = int(late), late - int(late)
    first = np.exp(-part * h / process.lag_s)  # of every row the delayed output is one value first and the next after
    u, y, x, on = np.zeros(len(t)), np.zeros(len(t)), 0.0, True
    for i in range(len(t)):
        if i:
            earlier, later = (u[k] if k >= 0 else 0.0 for k in (i - 2 - whole, i - 1 - whole))
            x = process.gain * earlier + (x - process.gain * earlier) * first
            x = process.gain * later + (x - process.gain * later) * keep / first
        y[i] = x + noise[i]
        on = y[i] < off_at + hysteresis / 2 if on else y[i] <= off_at - hysteresis / 2
        u[i] = 100.0 if on else 0.0
    return 20.0 + y, u


def ideal_halves(made: Log) -> np.ndarray:
    """Half the 95 % intervals of (K, τ, L) that the best fit with the noise known can have: Fisher's information (Cramér and Rao), the
    level unknown."""
    s, t = made.stretch, made.stretch.time_s

    def rise(gain, lag, dead):
        return respond(FOPDT(gain, lag, dead), t, t, s.output, made.before) + gain * made.before * np.exp(-t / lag)

    def by(i):
        h = made.truth[i] * 1e-4
        up, down = ([v + sign * h * (k == i) for k, v in enumerate(made.truth)] for sign in (1, -1))
        return (rise(*up) - rise(*down)) / (2 * h)

    levels = [np.ones(len(t))]
    if made.before:  # where it was coming from, and what was on its way through the dead time, nobody says
        lag, dead = made.process.lag_s, made.process.dead_time_s
        coming = (1 - np.exp(-np.minimum(t, dead) / lag)) * np.exp(-np.maximum(t - dead, 0) / lag)
        levels = [np.exp(-t / lag), 1 - np.exp(-t / lag), coming]
    ways = np.array([by(0), by(1), by(2), *levels])
    if made.quantum_c:
        y = 20.0 + rise(*made.truth)
        weight = np.zeros(len(t))
        for k in range(-5, 6):
            low = (np.round(y) + k - 0.5 - y) / made.noise_c
            high = low + made.quantum_c / made.noise_c
            p, slope = norm.cdf(high) - norm.cdf(low), (norm.pdf(low) - norm.pdf(high)) / made.noise_c
            weight += np.where(p > 1e-12, slope**2 / np.maximum(p, 1e-12), 0.0)
        information = (ways * weight) @ ways.T
    else:
        rho = made.correlation
        ways[:, 1:] = (ways[:, 1:] - rho * ways[:, :-1]) / np.sqrt(1 - rho**2)
        information = ways @ ways.T / made.noise_c**2
    scale = np.sqrt(np.maximum(np.diag(information), 1e-300))
    return 1.96 * np.sqrt(np.abs(np.diag(np.linalg.pinv(information / np.outer(scale, scale)))))[:3] / scale[:3]


@dataclass(frozen=True)
class Tally:
    """Over many logs: of every one called supported whether the intervals of K, τ and L hold the truth (n, 3), and their widths by the
    ideal ones (n, 3); and of every one that could be known to a tenth whether it is called supported."""

    held: np.ndarray
    wider: np.ndarray
    called: np.ndarray


def tally(kind: str, seeds, identify) -> Tally:
    held, wider, called = [], [], []
    for seed in seeds:
        made = log(kind, seed)
        found, ideal = identify(made.stretch), ideal_halves(made)
        figures, supported = (found.gain, found.lag, found.dead_time), found.verdict == "supported"
        if (ideal / np.array(made.truth)).max() < 0.1:
            called.append(supported)
        if supported:
            held.append([f.low <= true <= f.high for f, true in zip(figures, made.truth, strict=True)])
            wider.append([(f.high - f.low) / 2 / i for f, i in zip(figures, ideal, strict=True)])
    return Tally(np.array(held), np.array(wider), np.array(called))
