"""Logs of processes that are not one lag: integrating, cooling in a time of their own, with walls that warm up; and of one in several runs.
By small steps of the differential equations, the plain way."""

from dataclasses import dataclass, replace

import numpy as np

from rellux.core.tuning.stretch import Stretch

INNER = 20


@dataclass(frozen=True)
class Rig:
    """``c' = k u(t − L) − (c − room)/τ − (c − w)/τ_x``, ``w' = (c − w)/τ_y``: chamber and walls. While nothing heats τ is ``cools``
    times as long. A lag of ``inf`` is none. ``k`` in °C/s per %."""

    k: float
    lag_s: float
    dead_s: float
    cools: float = 1.0
    to_walls_s: float = np.inf
    walls_s: float = np.inf
    room_c: float = 20.0

    def at(self, t: np.ndarray) -> "Rig":
        """The same with a dead time of whole small steps."""
        h = (t[1] - t[0]) / INNER
        return replace(self, dead_s=round(self.dead_s / h) * h)

    def course(self, t: np.ndarray, u: np.ndarray, start_c: float, before: float = 0.0) -> np.ndarray:
        """(n) temperatures at the rows ``t``, evenly apart, of outputs held from row to row."""
        h = (t[1] - t[0]) / INNER
        assert abs(self.dead_s / h - round(self.dead_s / h)) < 1e-6
        late = np.interp(np.arange(INNER * len(t)) * h - self.dead_s, t - t[0], np.arange(len(t)), left=-1.0)
        c, w, out = start_c, start_c, np.empty(len(t))
        for i in range(INNER * len(t)):
            if i % INNER == 0:
                out[i // INNER] = c
            heat = before if late[i] < 0 else u[int(late[i] + 1e-9)]
            tau = self.lag_s if heat > 0.5 else self.lag_s * self.cools
            middle = c + h / 2 * (self.k * heat - (c - self.room_c) / tau - (c - w) / self.to_walls_s)
            walls = w + h / 2 * (c - w) / self.walls_s
            c += h * (self.k * heat - (middle - self.room_c) / tau - (middle - walls) / self.to_walls_s)
            w += h * (middle - walls) / self.walls_s
        return out


def noisy(course: np.ndarray, rng: np.random.Generator, noise_c: float) -> np.ndarray:
    return course + rng.normal(0.0, noise_c, len(course))


def pulses(t: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """Some steps up and down, with the heat off between them."""
    u, edges = np.zeros(len(t)), np.sort(rng.uniform(0.05, 0.85, 4))
    for on, off in zip(edges[::2], edges[1::2], strict=True):
        u[(t >= on * t[-1]) & (t < off * t[-1])] = rng.uniform(40.0, 100.0)
    return u


def integrating(seed: int) -> tuple[Rig, Stretch]:
    """Seen for a small part of its lag, or of none at all."""
    rng = np.random.default_rng([seed, 11])
    t = np.linspace(0.0, 10 ** rng.uniform(2.5, 3.5), 300)
    rig = Rig(10 ** rng.uniform(-3.0, -2.0), rng.choice([np.inf, 40.0 * t[-1]]), t[-1] * rng.uniform(0.02, 0.15)).at(t)
    u = pulses(t, rng)
    return rig, Stretch(t, noisy(rig.course(t, u, 20.0), rng, 0.1), u, 20.0)


def cooling(seed: int) -> tuple[Rig, Stretch]:
    rng = np.random.default_rng([seed, 12])
    lag = 10 ** rng.uniform(2.0, 3.0)
    rig = Rig(
        rng.uniform(1.0, 3.0) / lag,
        lag,
        lag * rng.uniform(0.03, 0.2),
        cools=float(np.exp(rng.choice([-1, 1]) * rng.uniform(0.5, 1.5))),
    )
    t = np.linspace(0.0, 5.0 * lag * max(rig.cools, 1.0), 500)
    rig = rig.at(t)
    u = pulses(t, rng)
    return rig, Stretch(t, noisy(rig.course(t, u, 20.0), rng, 0.2), u, 20.0)


def walled(seed: int) -> tuple[Rig, Stretch]:
    """A kiln recorded until its walls are warm."""
    rng = np.random.default_rng([seed, 13])
    lag = 10 ** rng.uniform(2.3, 3.0)
    rig = Rig(
        rng.uniform(1.0, 3.0) / lag,
        lag * 3.0,
        lag * rng.uniform(0.03, 0.15),
        1.0,
        lag * rng.uniform(1.0, 2.0),
        lag * rng.uniform(15.0, 40.0),
    )
    t = np.linspace(0.0, 3.0 * rig.walls_s, 800)
    rig = rig.at(t)
    u = pulses(t, rng)
    return rig, Stretch(t, noisy(rig.course(t, u, 20.0), rng, 0.2), u, 20.0)


def together(seed: int) -> tuple[Rig, list[Stretch]]:
    """Three short runs of one rig, each too short by itself: a heat-up, a cool-down, a bump at temperature."""
    rng = np.random.default_rng([seed, 14])
    lag = 10 ** rng.uniform(2.3, 3.0)
    t = np.linspace(0.0, 1.2 * lag, 150)
    rig = Rig(rng.uniform(1.0, 3.0) / lag, lag, lag * rng.uniform(0.03, 0.2)).at(t)
    hot = 20.0 + 100.0 * rig.k * lag * 0.7
    made = []
    for start, before, u in (
        (20.0, 0.0, np.where(t < 0.1 * lag, 0.0, 100.0)),
        (hot, 70.0, np.where(t < 0.1 * lag, 70.0, 0.0)),
        (20.0 + 0.5 * (hot - 20.0), 35.0, np.where(t < 0.3 * lag, 35.0, 55.0)),
    ):
        made.append(Stretch(t, noisy(rig.course(t, u, start, before), rng, 0.2), u, 20.0, before))
    return rig, made
