"""Rigs to guard: one by hand, and generated ones with a true rig behind what is known of them."""

from dataclasses import replace

import numpy as np
from scipy.integrate import solve_ivp

from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.guarding.family import HeatedRig, Identified, Span
from rellux.core.guarding.ladder import Ladder, Situation
from rellux.core.guarding.plan import Limiter, Plan
from rellux.core.plant.rig_models import network_for
from rellux.core.process.networks import ThermalNetwork
from rellux.core.purpose.purpose import Limited, Purpose, RigKind, Supply

CABINET = Purpose(60.0, 90.0, "the cement clouds", Supply.SINGLE_PHASE, 230, 300, 230, 57.5, "stays soft")
KNOWN = Identified(Span(1.0, 0.97, 1.03), Span(1500.0, 1450.0, 1550.0), Span(5.0, 4.5, 5.5))
LIMITER = Limiter(76.0, 2.0, "Pt100", 10.0)


def situation(purpose=CABINET, limiter=LIMITER, known=KNOWN, setpoint_high_c=64.0, **changed):
    settings = ControllerSettings(purpose.working_c, Mode.ON_OFF, hysteresis_c=1.0)
    rig = HeatedRig(RigKind.CABINET, purpose, 300.0, known)
    return replace(Situation(rig, Plan(limiter=limiter), "Pt100", settings, setpoint_high_c), **changed)


def generated(seed):
    """What is known of a rig, and a true one that it may be: anywhere inside what the kind, or the identified intervals, leave open."""
    rng = np.random.default_rng(seed)
    kind = list(RigKind)[seed % len(RigKind)]
    working = float(rng.uniform(50, 900 if kind is RigKind.KILN else 250))
    highest = working + float(rng.uniform(10, 80))
    power = float(rng.uniform(50, 5000))
    materials = (Limited("seal", highest + float(rng.uniform(-5, 60))),)
    purpose = Purpose(working, highest, "spoiled", Supply.SINGLE_PHASE, 230, power, 230, materials=materials)
    typical = network_for(kind, purpose, power)
    stretch = float(rng.uniform(1 / 1.6, 1.6))
    rise = float(rng.uniform(1 / 1.3, 1.3))
    truth = replace(
        typical,
        capacities=tuple(c * stretch / rise for c in typical.capacities),
        links=tuple((i, j, g / rise) for i, j, g in typical.links),
        to_ambient=tuple(g / rise for g in typical.to_ambient),
        dead_time_s=typical.dead_time_s * float(rng.uniform(1 / 1.6, 1.6)),
    )
    limiter = Limiter(round(float(rng.uniform(working + 2, highest + 10))), 2.0, "N", float(rng.uniform(2, 40)))
    settings = ControllerSettings(working, Mode.ON_OFF, hysteresis_c=1.0)
    known = Situation(HeatedRig(kind, purpose, power), Plan(limiter=limiter), "N", settings, working + 2.0)
    return known, truth, rng


def between_steps(ladder: Ladder) -> bool:
    """Whether every gap lies between two steps that are there: a drawing looks both up."""
    keys = {s.key for s in ladder.steps}
    return all({g.below, g.above} <= keys for g in ladder.gaps)


def true_peak(truth: ThermalNetwork, purpose: Purpose, limiter: Limiter, error_c: float, start_c: float) -> float:
    """The hottest the chamber gets: see :func:`true_peaks`."""
    return true_peaks(truth, purpose, limiter, error_c, start_c, 1.0)[0]


def true_peaks(
    truth: ThermalNetwork, purpose: Purpose, limiter: Limiter, error_c: float, start_c: float, load_lag_s: float
) -> tuple[float, float]:
    """Of the chamber, and of a load that follows it. The judge: the true rig at full power out of rest at ``start_c``, by a general
    solver of differential equations, the limiter’s sensor reading low by ``error_c``, heat arriving with the dead time also after the
    contactor opened. Radiation left out, as in the network."""
    n = len(truth.capacities)
    capacity, matrix = np.array(truth.capacities), truth.conductance_matrix()
    full = np.zeros(n)
    full[truth.heater_node] = truth.heater_power_w
    rest = np.linalg.solve(matrix, full)
    share = (start_c - purpose.ambient_c) / rest[truth.sensor_node]
    start = np.append(rest * share, [rest[truth.sensor_node] * share] * 2)
    trip = limiter.trip_c + error_c - purpose.ambient_c

    def slope(heated):
        return lambda t, x: np.append(
            (full * heated - matrix @ x[:n]) / capacity, (x[truth.sensor_node] - x[n:]) / [limiter.lag_s, load_lag_s]
        )

    def tripped(t, x):
        return x[n] - trip

    tripped.terminal = True
    if tripped(0, start) >= 0:
        return start_c, start_c
    span = 6 * float(capacity.sum() / np.array(truth.to_ambient).sum())
    how = {"rtol": 1e-8, "atol": 1e-8, "method": "LSODA"}
    waiting = solve_ivp(slope(share), (0, truth.dead_time_s), start, events=tripped, **how)
    heating = solve_ivp(slope(1.0), (0, span), waiting.y[:, -1], events=tripped, **how)
    hottest = heating.y.max(axis=1)
    if heating.t_events[0].size:
        after = limiter.relay_s + truth.dead_time_s
        goes_on = solve_ivp(slope(1.0), (0, after), heating.y[:, -1], **how)
        cools = solve_ivp(slope(0.0), (0, span / 10), goes_on.y[:, -1], max_step=span / 2000, **how)
        hottest = np.max([hottest, goes_on.y.max(axis=1), cools.y.max(axis=1)], axis=0)
    return float(hottest[truth.sensor_node] + purpose.ambient_c), float(hottest[-1] + purpose.ambient_c)


def true_time_s(truth: ThermalNetwork, purpose: Purpose, level_c: float) -> float:
    """The judge: how soon the true rig's chamber is at ``level_c`` after its switch stuck, s, by a general solver: out of a hold, or just
    as the set-point is reached for the first time; infinite where it never is."""
    capacity, matrix = np.array(truth.capacities), truth.conductance_matrix()
    full = np.zeros(len(capacity))
    full[truth.heater_node] = truth.heater_power_w
    rest = np.linalg.solve(matrix, full)
    sensor, room = truth.sensor_node, purpose.ambient_c
    span = 12 * float(capacity.sum() / np.array(truth.to_ambient).sum())

    def crosses(start, celsius):
        def reached(t, x):
            return x[sensor] - (celsius - room)

        reached.terminal = True
        found = solve_ivp(
            lambda t, x: (full - matrix @ x) / capacity,
            (0, span),
            start,
            events=reached,
            method="LSODA",
            rtol=1e-9,
            atol=1e-9,
        )
        return (float(found.t[-1]), found.y[:, -1]) if found.t_events[0].size else (np.inf, start)

    held, _ = crosses(rest * (purpose.working_c - room) / rest[sensor], level_c)
    _, hot = crosses(np.zeros(len(capacity)), purpose.working_c)
    further, _ = crosses(hot, level_c)
    return min(held + truth.dead_time_s, further)
