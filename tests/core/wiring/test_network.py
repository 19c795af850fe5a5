"""The linear network against textbook theorems and dense algebra: Millman, superposition, Tellegen, resistance distance."""

from cmath import rect
from math import pi, sqrt

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.wiring.circuit.branches import Branch, Sort, Source
from rellux.core.wiring.circuit.network import TIE_S, NodalNetwork
from rellux.core.wiring.circuit.solution import SOUND, Fault
from rellux.core.wiring.circuit.solve import CircuitSolver
from rellux.core.wiring.model import Circuit as Kind
from rellux.core.wiring.model import Connection, ConnectionList
from rellux.core.wiring.switching import ON
from tests.core.wiring.test_wiring_more import part

PHASES = [rect(400 / sqrt(3), -2 * pi * k / 3) for k in range(3)]
WATTS = (1000.0, 2000.0, 3000.0)
SIEMENS = [w / 230.0**2 for w in WATTS]


def star(neutral):
    """Three unlike elements from the lives of 400 V to one point, with or without its neutral; thick, short wires."""
    parts = [part("Q0", "supply_3ph", voltage_v=400.0)]
    parts += [part(f"E{k}", "heater", power_w=w, voltage_v=230.0) for k, w in enumerate(WATTS, 1)]
    pairs = [(f"Q0.L{k}", f"E{k}.1") for k in (1, 2, 3)] + [("E1.2", "E2.2"), ("E2.2", "E3.2")]
    pairs += [("E3.2", "Q0.N")] if neutral else []
    wires = tuple(Connection(i, a, b, Kind.POWER, 50.0, length_m=0.1) for i, (a, b) in enumerate(pairs, 1))
    return CircuitSolver(ConnectionList(tuple(parts), wires), 230.0).solve(ON)


def test_an_unbalanced_star_without_neutral_by_millmans_theorem():
    """V_star = Σ V_k G_k / Σ G_k (J. Millman, 1940)."""
    point = sum(v * g for v, g in zip(PHASES, SIEMENS, strict=True)) / sum(SIEMENS)
    found = star(neutral=False)
    for k in range(3):
        assert found.loads[f"E{k + 1}"].volts == pytest.approx(abs(PHASES[k] - point), rel=0.01)


def test_an_unbalanced_star_with_neutral_keeps_its_voltages_and_returns_the_sum():
    found = star(neutral=True)
    for k in range(3):
        assert found.loads[f"E{k + 1}"].volts == pytest.approx(400 / sqrt(3), rel=0.01)
    returned = abs(sum(v * g for v, g in zip(PHASES, SIEMENS, strict=True)))
    assert found.wires["wire 6"].amps == pytest.approx(returned, rel=0.02)


def test_elements_in_parallel_add_their_currents():
    """1000 W and 2000 W on 230 V: 4.35 and 8.70 A, 13.04 A together."""
    parts = (
        part("Q0", "supply_1ph", voltage_v=230.0),
        part("E1", "heater", power_w=1000.0, voltage_v=230.0),
        part("E2", "heater", power_w=2000.0, voltage_v=230.0),
    )
    pairs = (("Q0.L", "E1.1"), ("E1.1", "E2.1"), ("E2.2", "E1.2"), ("E1.2", "Q0.N"))
    wires = tuple(Connection(i, a, b, Kind.POWER, 50.0, length_m=0.1) for i, (a, b) in enumerate(pairs, 1))
    found = CircuitSolver(ConnectionList(parts, wires), 230.0).solve(ON)
    assert found.loads["E1"].amps == pytest.approx(4.35, rel=0.01)
    assert found.loads["E2"].amps == pytest.approx(8.70, rel=0.01)
    assert found.wires["wire 1"].amps == pytest.approx(13.04, rel=0.01)


@st.composite
def networks(draw):
    """A connected network of 3 to 9 nodes, resistors of any size a rig has, one source from the first node to the last."""
    size = draw(st.integers(3, 9))
    pairs = [(draw(st.integers(0, i - 1)), i) for i in range(1, size)]
    pairs += draw(st.lists(st.tuples(st.integers(0, size - 1), st.integers(0, size - 1)), max_size=8))
    ohms = [10 ** draw(st.floats(-3, 5)) for _ in pairs]
    branches = tuple(
        Branch(f"R{i}", Sort.LOAD, f"n{a}", f"n{b}", r)
        for i, ((a, b), r) in enumerate(zip(pairs, ohms, strict=True))
        if a != b
    )
    source = Source("Q", "n0", f"n{size - 1}", complex(draw(st.floats(1, 400)), draw(st.floats(-200, 200))), 0.1, False)
    return NodalNetwork(branches, (source,), [(f"n{size - 1}", 1e3)], [f"n{i}" for i in range(size)])


def dense(net):
    """The same equations in full."""
    size = len(net.index)
    y = np.eye(size) * TIE_S
    for i, j, g in zip(net.a, net.b, net.conductance, strict=True):
        y[[i, j], [i, j]] += g
        y[[i, j], [j, i]] -= g
    for node, g in net.ties:
        y[net.index[node], net.index[node]] += g
    amps = np.zeros(size, dtype=complex)
    for s in net.sources:
        i, j = net.index[s.node], net.index[s.back]
        y[[i, j], [i, j]] += 1 / s.ohm
        y[[i, j], [j, i]] -= 1 / s.ohm
        amps[i] += s.volts / s.ohm
        amps[j] -= s.volts / s.ohm
    return np.linalg.solve(y, amps)


@settings(max_examples=80)
@given(networks())
def test_sparse_factors_solve_what_dense_algebra_solves(net):
    everything = np.ones(len(net.branches), dtype=bool)
    found = net.solve(everything, net.conductance, (True,), SOUND)
    expected = dense(net)
    scale = np.abs(expected).max()
    assert found[0] + 1j * found[1] == pytest.approx(expected, rel=1e-6, abs=1e-6 * scale)
    assert not found[2].any()


@settings(max_examples=60)
@given(networks())
def test_what_the_source_gives_is_what_everything_takes(net):
    """Tellegen's theorem, the ties to earth and the source's own resistance counted."""
    everything = np.ones(len(net.branches), dtype=bool)
    nodes = net.solve(everything, net.conductance, (True,), SOUND)
    volts = nodes[0] + 1j * nodes[1]
    across = volts[net.a] - volts[net.b]
    taken = float(np.sum(np.abs(across) ** 2 * net.conductance)) + TIE_S * float(np.sum(np.abs(volts) ** 2))
    taken += sum(g * abs(volts[net.index[node]]) ** 2 for node, g in net.ties)
    source = net.sources[0]
    drop = source.volts - (volts[net.index[source.node]] - volts[net.index[source.back]])
    current = drop / source.ohm
    given_w = (source.volts * current.conjugate()).real - abs(current) ** 2 * source.ohm
    assert taken == pytest.approx(given_w, rel=1e-4, abs=1e-6 * abs(source.volts) ** 2 / source.ohm)


@settings(max_examples=60)
@given(networks(), st.integers(0, 2))
def test_ohms_between_two_nodes_are_their_resistance_distance(net, to):
    """Klein and Randić 1993: Ω = L⁺_ii + L⁺_jj − 2 L⁺_ij, with L⁺ the pseudo-inverse of the Laplacian."""
    size = len(net.index)
    laplacian = np.zeros((size, size))
    for i, j, g in zip(net.a, net.b, net.conductance, strict=True):
        laplacian[[i, j], [i, j]] += g
        laplacian[[i, j], [j, i]] -= g
    inverse = np.linalg.pinv(laplacian, rcond=1e-14, hermitian=True)
    a, b = net.index["n0"], net.index[f"n{size - 1 - to}"]
    if a == b:
        return
    expected = inverse[a, a] + inverse[b, b] - 2 * inverse[a, b]
    everything = np.ones(len(net.branches), dtype=bool)
    found = net.ohms(everything, SOUND, "n0", f"n{size - 1 - to}")
    assert found == pytest.approx(expected, rel=2e-3, abs=1e-6)


def test_a_bridge_and_a_tapped_load_are_what_they_say():
    """100 Ω between n0 and n2; touched a quarter along, 25 Ω lead to n1 and 75 Ω on; bridged, next to nothing."""
    net = NodalNetwork((Branch("E1", Sort.LOAD, "n0", "n2", 100.0),), (), [], ["n0", "n1", "n2"])
    without, whole = np.zeros(1, dtype=bool), np.ones(1, dtype=bool)
    tapped = Fault(tapped=(("E1", 0.25, "n1"),))
    assert net.ohms(without, tapped, "n0", "n1") == pytest.approx(25, rel=1e-4)
    assert net.ohms(without, tapped, "n1", "n2") == pytest.approx(75, rel=1e-4)
    assert net.ohms(whole, Fault(joined=(("n0", "n2"),)), "n0", "n2") == pytest.approx(1e-3, rel=1e-3)
    assert net.ohms(without, SOUND, "n0", "n2") > 1e8
