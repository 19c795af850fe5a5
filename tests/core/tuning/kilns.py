"""Kilns of another build than what is fitted to them: an element that gives its heat by radiation, two layers of lining, a load, a sensor
that follows late, losses by radiation. By the method of Runge and Kutta over many at once; the judge of what is learnt from their logs."""

from dataclasses import dataclass

import numpy as np
import scipy

from rellux.core.process.models import Modes
from rellux.core.purpose.purpose import Purpose, Supply
from rellux.core.tuning.stretch import Stretch
from tests.core.tuning.welded import beyond_trip

KELVIN, ROWS = 273.15, 700


@dataclass(frozen=True)
class Kilns:
    """``n`` kilns. Nodes: element, chamber, three layers of lining, load; W, J/K, W/K, W/K⁴."""

    capacity: np.ndarray
    element: np.ndarray
    links: np.ndarray
    loss: np.ndarray
    radiates: np.ndarray
    outside: np.ndarray
    full_w: np.ndarray
    late_s: np.ndarray
    sensor_s: np.ndarray
    room_c: np.ndarray
    noise_c: np.ndarray
    goal_c: np.ndarray

    def purpose(self, i: int) -> Purpose:
        return Purpose(
            float(self.goal_c[i]),
            float(self.goal_c[i]) + 100.0,
            "",
            Supply.SINGLE_PHASE,
            230.0,
            float(self.full_w[i]),
            230.0,
            ambient_c=float(np.round(self.room_c[i])),
        )


def kilns(n: int, seed: int) -> Kilns:
    rng = np.random.default_rng(seed)

    def u(low, high):
        return rng.uniform(low, high, n)

    goal, full = u(700.0, 1250.0), u(1000.0, 9000.0)
    room = 20.0 + rng.normal(0.0, 2.0, n)
    rise = goal - 20.0
    total = full / (u(1.25, 2.2) * rise)
    lined, radiated = u(0.25, 0.55), u(0.1, 0.4)
    into = total * lined * u(2.0, 4.0)
    chamber = total * 10 ** u(3.1, 3.7)
    parts = [u(0.01, 0.05), np.ones(n), u(0.2, 0.8), u(0.2, 0.8), u(0.2, 0.8), u(0.02, 0.3)]
    hot = goal + KELVIN
    gives = total * u(2.0, 6.0)  # W/K at the goal
    return Kilns(
        np.column_stack(parts) * chamber[:, None], gives / (4.0 * hot**3),
        np.column_stack([into, into * u(0.6, 1.5), into * u(0.4, 1.2), parts[5] * total / u(0.03, 0.3)]),
        total * (1.0 - lined - radiated), total * radiated * rise / (hot**4 - 293.0**4), total * lined * u(0.8, 2.5), full,
        u(2.0, 40.0), u(5.0, 60.0), room, u(0.1, 1.0), goal,
    )  # fmt: skip


def _slope(k: Kilns, x, heat):
    element, chamber, inner, middle, outer, load = x.T
    room = k.room_c
    a = k.element * ((element + KELVIN) ** 4 - (chamber + KELVIN) ** 4)
    b = k.links[:, 0] * (chamber - inner) * (1.0 + 0.3 * inner / 1000.0)  # what lines it conducts better when it is hot
    c, d = k.links[:, 1] * (inner - middle), k.links[:, 2] * (middle - outer)
    e = k.links[:, 3] * (chamber - load)
    out = k.loss * (chamber - room) + k.radiates * ((chamber + KELVIN) ** 4 - (room + KELVIN) ** 4)
    return np.column_stack((heat - a, a - b - e - out, b - c, c - d, d - k.outside * (outer - room), e)) / k.capacity


def run(k: Kilns, seed: int, hours: float, goal_c, share: float = 1.0, inner: int = 20, rate=None):
    """Times (rows), readings and outputs (rows, n): heated to a goal with ``share`` of full power, or at a ``rate``, and held there by on
    and off."""
    rng, n = np.random.default_rng(seed), len(k.full_w)
    t = np.linspace(0.0, hours * 3600.0, ROWS, endpoint=False)
    dt = t[1] / inner
    behind = np.round(k.late_s / dt).astype(int)
    line = np.zeros((int(behind.max()) + 1, n))
    x, seen, on = np.repeat(k.room_c[:, None], 6, axis=1), k.room_c.copy(), np.ones(n, bool)
    readings, outputs = np.zeros((ROWS, n)), np.zeros((ROWS, n))
    for row in range(ROWS):
        readings[row] = seen + rng.normal(0.0, 1.0, n) * k.noise_c
        goal = goal_c if rate is None else np.minimum(goal_c, 20.0 + rate * t[row])
        on = np.where(on, readings[row] < goal, readings[row] <= goal - 3.0)
        outputs[row] = np.where(on, 100.0 * share, 0.0)
        for i in range(row * inner, (row + 1) * inner):
            line[i % len(line)] = outputs[row]
            heat = line[(i - behind) % len(line), np.arange(n)] / 100.0 * k.full_w * (i >= behind)
            a = _slope(k, x, heat)
            b = _slope(k, x + dt / 2 * a, heat)
            c = _slope(k, x + dt / 2 * b, heat)
            d = _slope(k, x + dt * c, heat)
            x = x + dt / 6 * (a + 2 * b + 2 * c + d)
            seen = seen + (x[:, 1] - seen) * -np.expm1(-dt / k.sensor_s)
    return t, readings, outputs


def stretch(k: Kilns, record, i: int) -> Stretch:
    t, y, u = record
    return Stretch(t, y[:, i], u[:, i], float(np.round(k.room_c[i])))


def after_trip(k: Kilns, trip_c: np.ndarray) -> np.ndarray:
    """How much hotter the chamber gets than a limiter's trip, °C: the more of a heat-up and of a hold whose switch stuck."""
    hot = 4.0 * k.element * (k.goal_c + KELVIN) ** 3
    dt = np.minimum(np.minimum(k.late_s, k.sensor_s) / 4.0, np.minimum(0.3 * k.capacity[:, 0] / hot, 5.0))
    rests = np.array([AtGoal(k, i).rests() for i in range(len(k.full_w))])
    cold = np.repeat(k.room_c[:, None], 6, axis=1)
    starts = ((cold, np.zeros(len(dt))), (rests[:, :6], rests[:, 6]))
    found = [
        beyond_trip(lambda x, heat: _slope(k, x, heat), x, held, k.full_w, k.late_s, dt, trip_c) for x, held in starts
    ]
    return np.fmax(*found)


@dataclass(frozen=True)
class AtGoal:
    """One of them at its goal, by its frequency response: what a loop round it really is."""

    kilns: Kilns
    i: int

    def modes(self) -> Modes:
        return Modes((1.0,), (1.0,), float(self.kilns.late_s[self.i]))

    def rests(self) -> np.ndarray:
        """Temperatures of its nodes held at the goal for ever, and the heat that takes, W (7)."""
        k, i = self.kilns, self.i

        def off(v):
            x = np.repeat(k.room_c[:, None], 6, axis=1)
            x[i] = v[0], k.goal_c[i], *v[1:5]
            return (_slope(k, x, np.full(len(k.full_w), v[5] * k.full_w[i])) * k.capacity)[i] / k.full_w[i]

        goal = float(k.goal_c[i])
        v = scipy.optimize.fsolve(off, [goal * 1.2, goal * 0.7, goal * 0.4, goal * 0.2, goal, 0.5], xtol=1e-10)
        return np.array([v[0], goal, *v[1:5], v[5] * k.full_w[i]])

    def response(self, w: np.ndarray) -> np.ndarray:
        k, i, rests = self.kilns, self.i, self.rests()

        def slope(x, heat):
            every = np.repeat(k.room_c[:, None], 6, axis=1)
            every[i] = x
            return _slope(k, every, np.full(len(k.full_w), heat))[i]

        x, heat, by = rests[:6], rests[6], 0.01
        jacobian = np.column_stack(
            [(slope(x + by * e, heat) - slope(x - by * e, heat)) / (2.0 * by) for e in np.eye(6)]
        )
        given = (slope(x, heat + 1.0) - slope(x, heat - 1.0)) / 2.0 * k.full_w[i] / 100.0
        chamber = np.linalg.solve(1j * w[:, None, None] * np.eye(6) - jacobian, given[:, None])[:, 1, 0]
        return chamber * np.exp(-1j * w * k.late_s[i]) / (1.0 + 1j * w * k.sensor_s[i])
