"""Computation against the same in plain Python, a reference library, a general sparse solver."""

import numpy as np
import thermocouple_its90
from benchmarks.large_rig import PURPOSE, large_rig
from benchmarks.measure import best, report
from scipy.sparse import csc_matrix, identity
from scipy.sparse.linalg import spsolve

from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.heating.conductor_tables import Practice
from rellux.core.plant import kernel
from rellux.core.plant.simulation import Simulation
from rellux.core.process.networks import ThermalNetwork
from rellux.core.sensing import thermocouples
from rellux.core.wiring.circuit.faults import analyse
from rellux.core.wiring.circuit.positions import table
from rellux.core.wiring.circuit.solve import CircuitSolver
from rellux.core.wiring.rules import check, context_for

VALUES = 1_000_000
MOVES = 3
"""How often contacts of the large rig move, on average, until a position rests."""


def simulation() -> None:
    """24 h of a six-node plant under PID at 0.25 s, against the very same loop as plain Python on lists."""
    network = ThermalNetwork(
        (300, 900, 1500, 2500, 4000, 800),
        ((0, 1, 20), (1, 2, 4), (2, 3, 3), (3, 4, 2), (1, 5, 5)),
        (0, 1, 0, 0, 2, 0),
        500,
        sensor_node=1,
        sensor_lag_s=10,
        dead_time_s=20,
    )
    loop = ControllerSettings(100, Mode.PID, period_s=20)
    Simulation(network, loop, 20.0).advance(1)
    compiled = best(lambda: Simulation(network, loop, 20.0).advance(86_400, 60))

    s = Simulation(network, loop, 20.0)
    arrays = (s._plant, s._transition, s._response, s._radiation, s._control, s._disturbance)
    lists = [a.tolist() for a in (*arrays, s._x, s._flow, s._delay, s._state)]
    steps = 86_400 * 4 // 48  # half an hour is enough to know the time per step
    record = [0.0] * 5 * (steps // 240 + 2)
    plain = best(lambda: kernel.run.machine().py_func(steps, 240, 6, *lists, record, [], [], [], [])) * 48
    report("simulation against the same loop in plain Python", plain / compiled, 100, at_least=True)
    print(f"     24 h in {compiled * 1000:.0f} ms compiled, {plain:.1f} s plain")


def inversion() -> None:
    """A million type K voltages to 1 mK, against the reference library a value and against numpy.interp."""
    emf = np.random.default_rng(1).uniform(*thermocouples.emf_range("K"), VALUES)
    thermocouples.temperature("K", emf[:10])
    ours = best(lambda: thermocouples.temperature("K", emf))
    reference = thermocouple_its90.get("K")
    sample = emf[:5000]
    theirs = best(lambda: [reference.temperature(e) for e in sample], 3) / len(sample) * VALUES
    grid = np.linspace(-270, 1372, 1643)
    plain = best(lambda: np.interp(emf, thermocouples.emf("K", grid), grid))
    report("inversion against the reference library", theirs / ours, 200, at_least=True)
    report("inversion against numpy.interp", ours / plain, 15, at_least=False)
    back = thermocouples.emf("K", thermocouples.temperature("K", emf))
    print(f"     a million in {ours * 1000:.0f} ms; worst return {np.abs(back - emf).max() * 1e6:.2g} nV")


def wiring_check() -> None:
    """A three-phase oven of three zones in 60 parts: rules, positions and every failure, against solving each position and
    failure from scratch: the matrix assembled and given to a general sparse solver, once for AC and once for DC, as often as
    contacts move."""
    wiring = large_rig()
    context = context_for(PURPOSE, Practice.IEC, "K")
    solves: list[int] = []

    def whole() -> None:
        circuit = CircuitSolver(wiring, PURPOSE.control_voltage_v)
        check(wiring, context, circuit)
        table(circuit)
        analyse(circuit)
        solves.append(circuit.known)

    ours = best(whole, 3)
    scratch = best(lambda: from_scratch(CircuitSolver(wiring, PURPOSE.control_voltage_v)), 3)
    what = "60 parts: rules, positions and failures against solving each from scratch"
    report(what, solves[-1] * scratch / ours, 20, at_least=True)
    print(f"     {solves[-1]} positions and failures in {ours:.2f} s; one from scratch {scratch * 1000:.1f} ms")


def from_scratch(circuit: CircuitSolver) -> None:
    """One position, its matrix made anew each time contacts move, by scipy's general sparse solver."""
    net = circuit.net
    for _ in range(MOVES):
        rows = np.concatenate((net.a, net.b, net.a, net.b))
        columns = np.concatenate((net.a, net.b, net.b, net.a))
        values = np.concatenate((net.conductance, net.conductance, -net.conductance, -net.conductance))
        size = len(net.index)
        matrix = csc_matrix((values, (rows, columns)), shape=(size, size)) + identity(size, format="csc") * 1e-9
        side = np.ones(size)
        spsolve(matrix.astype(complex), side.astype(complex))
        spsolve(matrix, side)
