"""Rigs that no lag with dead time describes: element, chamber, walls and load, loss by radiation, a sensor that follows late, a room that
wanders; by the fourth-order method of Runge and Kutta over many rigs at once. The judge of what is predicted from a fit."""

from dataclasses import dataclass, fields

import numpy as np

from rellux.core.control.pid import PID
from rellux.core.process.models import Modes
from rellux.core.tuning.stretch import Stretch
from tests.core.tuning.welded import beyond_trip

ROWS, INNER, LAGS = 500, 12, 5.0
KELVIN = 273.15


@dataclass(frozen=True)
class Rigs:
    """``n`` rigs. ``capacity`` (n, 4) J/K of element, chamber, walls and load, each linked with the chamber by W/K; ``radiates`` W/K⁴."""

    capacity: np.ndarray
    element: np.ndarray
    walls: np.ndarray
    load: np.ndarray
    loss: np.ndarray
    radiates: np.ndarray
    full_w: np.ndarray
    late_s: np.ndarray
    sensor_s: np.ndarray
    room_c: np.ndarray
    noise_c: np.ndarray
    goal_c: np.ndarray

    @property
    def losing(self) -> np.ndarray:
        """W/K more by each degree more, at the goal."""
        return self.loss + 4.0 * self.radiates * (self.goal_c + KELVIN) ** 3

    @property
    def lag_s(self) -> np.ndarray:
        """Of the chamber alone."""
        return self.capacity[:, 1] / self.losing

    @property
    def hysteresis_c(self) -> np.ndarray:
        return np.maximum(0.01 * (self.goal_c - 20.0), 1.0)


def rigs(n: int, seed: int) -> Rigs:
    """Ovens of minutes to an hour, for 70 to 600 °C, up to a third of the loss by radiation, walls of up to half the chamber's heat."""
    rng = np.random.default_rng(seed)
    lag, rise = 10 ** rng.uniform(2.3, 3.5, n), 10 ** rng.uniform(1.7, 2.75, n)
    loss, share = rng.uniform(0.3, 5.0, n), rng.uniform(0.0, 0.35, n)
    chamber, room = lag * loss, 20.0 + rng.normal(0.0, 2.0, n)
    parts = [rng.uniform(0.01, 0.06, n), np.ones(n), rng.uniform(0.0, 0.5, n) + 1e-3, rng.uniform(0.02, 0.4, n)]
    capacity = np.column_stack(parts) * chamber[:, None]
    links = (rng.uniform(0.005, 0.04, n), rng.uniform(0.3, 3.0, n), rng.uniform(0.05, 0.3, n))
    return Rigs(
        capacity, *(capacity[:, k] / (lag * late) for k, late in zip((0, 2, 3), links, strict=True)),
        loss * (1.0 - share), share * loss * rise / ((rise + 293.0) ** 4 - 293.0**4), loss * rise * rng.uniform(1.5, 3.0, n),
        lag * rng.uniform(0.005, 0.04, n), lag * rng.uniform(0.002, 0.02, n), room, rng.uniform(0.03, 0.3, n), 20.0 + rise,
    )  # fmt: skip


def run(r: Rigs, kind: str, seed: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Times, readings and outputs (rows, n) of five lags: ``heat_up`` and cycles on and off, the same with a ``door`` open for a while or a
    cold load put in (``loaded``), or a ``step`` of 50 %."""
    rng, n = np.random.default_rng(seed), len(r.loss)
    t = np.linspace(0.0, 1.0, ROWS, endpoint=False)[:, None] * LAGS * r.lag_s
    dt = t[1] / INNER
    behind = np.round(r.late_s / dt).astype(int)
    line = np.zeros((int(behind.max()) + 1, n))
    x, seen, room, on = np.repeat(r.room_c[:, None], 4, axis=1), r.room_c.copy(), r.room_c.copy(), np.ones(n, bool)
    readings, outputs = np.zeros((ROWS, n)), np.zeros((ROWS, n))
    for k in range(ROWS):
        part = k / ROWS
        loss = r.loss * (3.0 if kind == "door" and 0.5 <= part < 0.53 else 1.0)
        load = r.load * (0.0 if kind == "loaded" and part < 0.55 else 1.0)
        readings[k] = seen + rng.normal(0.0, 1.0, n) * r.noise_c
        on = np.where(on, readings[k] < r.goal_c, readings[k] <= r.goal_c - r.hysteresis_c)
        outputs[k] = (50.0 if 0.05 <= part < 0.7 else 0.0) if kind == "step" else np.where(on, 100.0, 0.0)
        for i in range(k * INNER, (k + 1) * INNER):
            line[i % len(line)] = outputs[k]
            heat = line[(i - behind) % len(line), np.arange(n)] / 100.0 * r.full_w * (i >= behind)
            a = _slope(r, x, heat, room, loss, load)
            b = _slope(r, x + dt[:, None] / 2 * a, heat, room, loss, load)
            c = _slope(r, x + dt[:, None] / 2 * b, heat, room, loss, load)
            d = _slope(r, x + dt[:, None] * c, heat, room, loss, load)
            x = x + dt[:, None] / 6 * (a + 2 * b + 2 * c + d)
            seen = seen + (x[:, 1] - seen) * -np.expm1(-dt / r.sensor_s)
        room = room + rng.normal(0.0, 1.0, n) * np.sqrt(t[1] / 3600.0)
    return t, readings, outputs


def controlled(r: Rigs, i: int, pid: PID) -> float:
    """The hottest reading, without noise, of one rig on a heat-up under a PID with a continuous output, integrating within limits."""
    one = Rigs(*(getattr(r, f.name)[i : i + 1] for f in fields(Rigs)))
    dt = min(float(r.late_s[i]), float(r.sensor_s[i]) * 4.0) / 8.0
    x, seen = np.full((1, 4), r.room_c[i]), float(r.room_c[i])
    line, integral, slope, last, hottest = [0.0] * max(round(float(r.late_s[i]) / dt), 1), 0.0, 0.0, seen, seen
    sensor = -np.expm1(-dt / r.sensor_s[i])
    for _ in range(int(6.0 * r.lag_s[i] / dt)):
        error = float(r.goal_c[i]) - seen
        slope += ((seen - last) / dt - slope) * dt / (pid.derivative_time_s / pid.derivative_filter + dt)
        wanted = pid.gain * (error - pid.derivative_time_s * slope) + integral
        output = min(max(wanted, 0.0), 100.0)
        if output == wanted or (wanted > 100.0) != (error > 0.0):
            integral += pid.gain / pid.integral_time_s * error * dt
        last = seen
        line.append(output)
        heat = np.array([line.pop(0) / 100.0 * r.full_w[i]])
        rise = _slope(one, x, heat, one.room_c, one.loss, one.load)
        x = x + dt * _slope(one, x + dt / 2 * rise, heat, one.room_c, one.loss, one.load)
        seen += (float(x[0, 1]) - seen) * sensor
        hottest = max(hottest, seen)
    return hottest


def after_trip(r: Rigs, trip_c: np.ndarray) -> np.ndarray:
    """How much hotter the chamber gets than a limiter's trip, °C: the more of a heat-up and of a hold whose switch stuck."""
    dt = np.minimum(np.minimum(r.late_s, 4.0 * r.sensor_s), 0.5 * r.capacity[:, 0] / r.element) / 4.0
    held = r.loss * (r.goal_c - r.room_c) + r.radiates * ((r.goal_c + KELVIN) ** 4 - (r.room_c + KELVIN) ** 4)
    cold, hot = (np.repeat(t[:, None], 4, axis=1) for t in (r.room_c, r.goal_c))
    hot[:, 0] += held / r.element

    def slopes(x, heat):
        return _slope(r, x, heat, r.room_c, r.loss, r.load)

    found = [
        beyond_trip(slopes, x, w, r.full_w, r.late_s, dt, trip_c) for x, w in ((cold, np.zeros(len(dt))), (hot, held))
    ]
    return np.fmax(*found)


def _slope(r: Rigs, x, heat, room, loss, load_link):
    element, chamber, walls, load = x.T
    a, b, c = r.element * (element - chamber), r.walls * (chamber - walls), load_link * (chamber - load)
    out = loss * (chamber - room) + r.radiates * ((chamber + KELVIN) ** 4 - (room + KELVIN) ** 4)
    return np.column_stack((heat - a, a - b - c - out, b, c)) / r.capacity


def stretch(r: Rigs, record: tuple[np.ndarray, np.ndarray, np.ndarray], i: int) -> Stretch:
    t, y, u = (column[:, i] for column in record)
    return Stretch(t, y, u, float(np.round(r.room_c[i])))


@dataclass(frozen=True)
class Linear:
    """One of the rigs at its goal, by its frequency response: what a loop round it really is."""

    rigs: Rigs
    i: int

    def modes(self) -> Modes:
        return Modes((1.0,), (1.0,), float(self.rigs.late_s[self.i]))

    def response(self, w: np.ndarray) -> np.ndarray:
        r, i = self.rigs, self.i
        links = np.zeros((4, 4))
        for node, g in ((0, r.element[i]), (2, r.walls[i]), (3, r.load[i])):
            links[[1, node], [1, node]] += g
            links[[1, node], [node, 1]] -= g
        links[1, 1] += r.losing[i]
        heat = np.array([r.full_w[i] / 100.0, 0.0, 0.0, 0.0])
        chamber = np.linalg.solve(1j * w[:, None, None] * np.diag(r.capacity[i]) + links, heat[:, None])[:, 1, 0]
        return chamber * np.exp(-1j * w * r.late_s[i]) / (1.0 + 1j * w * r.sensor_s[i])
