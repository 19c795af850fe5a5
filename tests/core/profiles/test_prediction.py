"""What a rig makes of a profile, against other solvers: SciPy's on the same network, the analytic series of a body, the theory of PI
in a ramp, and the books of the energy."""

from dataclasses import replace

import control
import numpy as np
import pytest
import scipy
from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.control.pid import PID
from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.guarding.family import Family, HeatedRig, family
from rellux.core.process.models import FOPDT
from rellux.core.process.networks import ThermalNetwork, from_fopdt
from rellux.core.profiles.energy import Tariff, use_of
from rellux.core.profiles.feasible import Why, fastest, forecasts, marks, total_commanded
from rellux.core.profiles.load import STUFF, Load, Shape, exchange_at, loaded
from rellux.core.profiles.predict import Conditions, course, predict
from rellux.core.profiles.profile import EndAction, Holdback, Profile, Segment, SegmentKind, Side, check_profile
from rellux.core.purpose.purpose import Purpose, RigKind, Supply
from tests.examples import cases

K = SegmentKind
OFF = Segment(K.END, end=EndAction.OFF)
PI = ControllerSettings(20.0, Mode.PID, pid=PID(2.0, 600.0), period_s=0.0)
KILN = Purpose(560.0, 600.0, "it slumps", Supply.SINGLE_PHASE, 230.0, 3200.0, 230.0)


def exactly(network):
    return Family(network, network, network, "")


def conditions(network=None, pi=PI, load=None, begins=20.0):
    rigs = exactly(network) if network else family(HeatedRig(RigKind.KILN, KILN, 3200.0))
    return Conditions(rigs, pi, 20.0, begins, load)


def anneal(up=3.0, down=1.0, soak=3600.0, top=500.0):
    return Profile(
        (Segment(K.RAMP_RATE, top, up), Segment(K.SOAK, time_s=soak), Segment(K.RAMP_RATE, 200.0, down), OFF)
    )


@pytest.mark.slow
def test_the_lag_of_a_ramp_under_pi_is_that_of_theory():
    """Reading behind set-point by rate·Ti/(Kc·K) once settled (b = 1): the integral must climb at rate/K, which takes an error of
    rate·Ti/(K·Kc); F. G. Shinskey, from memory, and the final value theorem."""
    gain, rate = 4.0, 2.0
    slow = from_fopdt(FOPDT(gain, 900.0, 5.0))
    p = Profile((Segment(K.RAMP_RATE, 320.0, rate), OFF))
    c = course(p, slow, conditions(slow))
    at = int(np.argmax(c.setpoint_c >= 315.0))
    expected = rate / 60.0 * 600.0 / (2.0 * gain)
    assert c.setpoint_c[at] - c.reading_c[at] == pytest.approx(expected, rel=0.02)


def test_the_same_ramp_by_python_control():
    """The closed loop of one lag and a PI as transfer functions, its ramp by ``control.forced_response``: the whole course, not only
    where it settles."""
    gain, lag, rate = 4.0, 900.0, 2.0 / 60.0
    p = Profile((Segment(K.RAMP_RATE, 320.0, 2.0), OFF))
    c = course(p, from_fopdt(FOPDT(gain, lag, 0.0)), conditions(from_fopdt(FOPDT(gain, lag, 0.0))))
    loop = control.tf([2.0 * 600.0, 2.0], [600.0, 0.0]) * control.tf([gain], [lag, 1.0])
    t = np.arange(0.0, 8000.0, 5.0)
    other = control.forced_response(control.feedback(loop, 1), t, rate * t).outputs
    here = np.interp(t, c.time_s, c.reading_c) - 20.0
    assert np.abs(here - other).max() < 0.05


def test_full_power_is_solved_as_scipy_solves_it():
    """The network under a set-point far above: its heater is flat out, and that needs no controller."""
    network = ThermalNetwork((2000.0, 20_000.0, 60_000.0), ((0, 1, 20.0), (1, 2, 4.0)), (0.0, 2.0, 3.0), 3000.0, 0, 1)
    p = Profile((Segment(K.STEP, 1500.0), Segment(K.SOAK, time_s=7200.0), OFF))
    c = course(p, network, conditions(network, replace(PI, pid=PID(1000.0))))
    g, inverse = network.conductance_matrix(), 1.0 / np.array(network.capacities)

    def slope(_, x):
        return inverse * (np.array([3000.0, 0.0, 0.0]) - g @ x)

    rows = c.time_s <= 7100.0
    told = scipy.integrate.solve_ivp(slope, (0, 7200), np.zeros(3), t_eval=c.time_s[rows], rtol=1e-9, atol=1e-9)
    assert np.abs(c.reading_c[rows] - 20.0 - told.y[1]).max() < 0.005 * told.y[1].max()


SERIES = {
    # Biot 1: roots and coefficients of the first terms. T. L. Bergman et al., Fundamentals of Heat and Mass Transfer, table 5.1, gives
    # 0.8603/1.1191, 1.2558/1.2071, 1.5708/1.2732 for slab, cylinder, sphere; from memory, and here solved anew below
    Shape.SLAB: (0.8603, 1.1191),
    Shape.CYLINDER: (1.2558, 1.2071),
    Shape.SPHERE: (1.5708, 1.2732),
}


def roots(shape, biot, n=40):
    """Eigenvalues ζ and centre coefficients C of a body with a surface coefficient (Carslaw & Jaeger, from memory)."""
    special = scipy.special
    if shape is Shape.SLAB:
        left, centre = (lambda z: z * np.sin(z) - biot * np.cos(z)), (lambda z: 4 * np.sin(z) / (2 * z + np.sin(2 * z)))
    elif shape is Shape.CYLINDER:
        left = lambda z: z * special.j1(z) - biot * special.j0(z)  # noqa: E731
        centre = lambda z: 2 / z * special.j1(z) / (special.j0(z) ** 2 + special.j1(z) ** 2)  # noqa: E731
    else:
        left = lambda z: np.sin(z) - z * np.cos(z) - biot * np.sin(z)  # noqa: E731
        centre = lambda z: 4 * (np.sin(z) - z * np.cos(z)) / (2 * z - np.sin(2 * z))  # noqa: E731
    grid = np.linspace(1e-6, np.pi * (n + 1), 40_000)
    values = left(grid)
    at = np.flatnonzero(np.sign(values[:-1]) != np.sign(values[1:]))
    found = np.array([scipy.optimize.brentq(left, grid[i], grid[i + 1]) for i in at[:n]])
    return found, centre(found)


@pytest.mark.parametrize("shape", list(Shape))
def test_roots_are_those_of_the_printed_table(shape):
    z, c = roots(shape, 1.0)
    assert (round(z[0], 4), round(c[0], 4)) == pytest.approx(SERIES[shape], abs=2e-4)


@pytest.mark.parametrize("shape", list(Shape))
@pytest.mark.parametrize("biot", [0.1, 1.0, 10.0])
def test_a_body_warms_as_the_analytic_series_says(shape, biot):
    stuff, radius = STUFF["clay"], 0.03
    exchange = biot * stuff.conductivity / radius
    big = ThermalNetwork((1e9,), (), (1e9,), 1.0)  # a chamber so large that the body is nothing to it
    body = loaded(big, Load("clay", shape, 30.0, 1.0, exchange), exchange)
    n = len(body.network.capacities)
    x = np.zeros(n)
    x[0] = 1.0
    inverse = 1.0 / np.array(body.network.capacities)
    a = -inverse[:, None] * body.network.conductance_matrix()
    a[0] = 0.0  # held
    z, c = roots(shape, biot)
    for fourier in (0.2, 0.5, 1.5):
        t = fourier * radius**2 / stuff.diffusivity
        nodes = scipy.linalg.expm(a * t) @ x
        series = 1.0 - float((c * np.exp(-(z**2) * fourier)).sum())
        assert float(body.core_c(nodes[None, :])[0]) == pytest.approx(series, abs=0.012)


@pytest.mark.parametrize(("shape", "share"), [(Shape.SLAB, 2.0), (Shape.CYLINDER, 4.0), (Shape.SPHERE, 6.0)])
def test_core_behind_surface_in_a_steady_ramp(shape, share):
    """rate·d²/(2α), R²/4α, R²/6α (Carslaw & Jaeger; the handbook's)."""
    load, rate = Load("borosilicate", shape, 20.0, 0.01), 0.5
    network = from_fopdt(FOPDT(6.0, 600.0, 0.0))
    c = course(Profile((Segment(K.RAMP_RATE, 520.0, rate), OFF)), network, conditions(network, load=load))
    late = int(np.argmax(c.setpoint_c >= 510.0))
    expected = rate / 60.0 * 0.02**2 / (share * load.of.diffusivity)
    assert c.surface_c[late] - c.core_c[late] == pytest.approx(expected, rel=0.02)


def test_exchange_by_still_air_and_radiation():
    """4εσT³ and 8 W/m²K: at 293.15 K 4·0.85·5.670e-8·2.519e7 = 4.86, worked by hand."""
    assert exchange_at(20.0) == pytest.approx(12.86, abs=0.01)


@pytest.mark.slow
def test_the_books_of_the_energy_close():
    """What the heater gave is in the nodes or was lost to the room, within one per cent."""
    network = family(HeatedRig(RigKind.KILN, KILN, 3200.0)).likely
    load = Load("steel", Shape.CYLINDER, 25.0, 8.0)
    made = conditions(network, load=load)
    p = anneal(6.0, 3.0, 600.0, 320.0)
    c = course(p, network, made)
    body = loaded(network, load, exchange_at(0.5 * (20.0 + 320.0)))
    given_j = use_of(c, network.heater_power_w).energy_kwh * 3.6e6
    inverse, leak = 1.0 / np.array(body.network.capacities), np.array(body.network.to_ambient)

    def solved_anew(t, x):
        """Every node, and what was lost so far, from what the heater got."""
        i = int(np.searchsorted(c.time_s, t - network.dead_time_s, side="right")) - 1
        q = np.zeros(len(inverse))
        q[0] = network.heater_power_w * c.output[i] / 100.0 if i >= 0 else 0.0
        return np.append(inverse * (q - body.network.conductance_matrix() @ x[:-1]), leak @ x[:-1])

    found = scipy.integrate.solve_ivp(
        solved_anew, (0, c.time_s[-1]), np.zeros(len(inverse) + 1), max_step=20.0, rtol=1e-6
    )
    stored, lost = float(np.array(body.network.capacities) @ found.y[:-1, -1]), found.y[-1, -1]
    assert stored + lost == pytest.approx(given_j, rel=0.01)
    chamber = np.interp(c.time_s - network.sensor_lag_s, found.t, found.y[1]) + 20.0  # a ramp's lag behind it
    assert np.abs(chamber - c.reading_c).max() < 6.0


ramps = st.tuples(st.floats(0.2, 40.0), st.floats(0.2, 40.0), st.floats(210.0, 590.0))


@pytest.mark.slow
@settings(max_examples=cases(12), deadline=None)
@given(ramps, st.booleans(), st.sampled_from([None, Load("borosilicate", Shape.SLAB, 20.0, 10.0)]))
def test_what_is_proposed_can_be_followed_and_waiting_never_shortens(ramp, waits, load):
    up, down, top = ramp
    p = anneal(up, down, 1800.0, top)
    if waits:
        held = Holdback(5.0, Side.EITHER)
        p = replace(p, segments=tuple(replace(s, holdback=held) if s.kind is not K.END else s for s in p.segments))
    check_profile(p)
    made = conditions(load=load)
    found = predict(p, made)
    assert all(c.length_s >= total_commanded(p, made) - 2 * (c.time_s[1] - c.time_s[0]) for c in found.all)
    offered = fastest(p, made)
    if offered is None:
        return
    for network in made.rigs.all:  # judged by a finer simulation with a controller of its own, not by the marks
        slow = replace(made, settings=replace(PI, pid=PID(3.0, 900.0)))
        c = course(offered, network, slow)
        ramping = np.isin(c.at, [0, 2])
        assert np.abs(c.setpoint_c - c.reading_c)[ramping].max() < 45.0
    assert not marks(offered, predict(offered, made), made)
    for before, after in zip(p.segments, offered.segments, strict=True):
        assert (after.rate_c_per_min or 0) <= (before.rate_c_per_min or 0)


@pytest.mark.slow
@settings(max_examples=cases(8), deadline=None)
@given(ramps, st.floats(0.0, 1.0), st.floats(-3.0, 3.0))
def test_what_is_proposed_on_a_warm_rig_holds_when_it_has_drifted_and_when_it_is_cold(ramp, warm, drift):
    up, down, top = ramp
    begins = 25.0 + warm * (top - 30.0)
    p, made = anneal(up, down, 1800.0, top), conditions(begins=begins)
    offered = fastest(p, made, also_cold=True)
    for later in (begins + drift, 20.0) if offered else ():
        then = replace(made, begins_c=later)
        assert not marks(offered, predict(offered, then), then)


def test_what_suits_a_warm_rig_only_is_not_proposed_for_every_day():
    quick = anneal(20.0, top=560.0)
    warm, cold = conditions(begins=400.0), conditions()
    only_warm = fastest(quick, warm)
    assert marks(only_warm, predict(only_warm, cold), cold)
    assert fastest(quick, warm, also_cold=True).segments[0].rate_c_per_min < only_warm.segments[0].rate_c_per_min


def test_each_reason_and_its_near_miss():
    made = conditions()

    def reasons(p):
        return {(m.why, m.segment) for m in marks(p, predict(p, made), made) if m.sure}

    assert reasons(anneal(0.5, 0.5)) == set()
    assert reasons(anneal(20.0, 0.5)) == {(Why.FLAT_OUT, 0)}
    assert reasons(anneal(0.5, 20.0)) == {(Why.NATURE, 2)}
    hot = Profile((Segment(K.RAMP_RATE, 1300.0, 1.0), Segment(K.SOAK, time_s=60.0), OFF))
    assert (Why.NEVER, 0) in reasons(hot) and fastest(hot, made) is None
    cold = Profile((Segment(K.RAMP_RATE, 100.0, 1.0), Segment(K.RAMP_RATE, 10.0, 1.0), OFF))
    assert (Why.NEVER, 1) in reasons(cold)
    wild = replace(made, settings=replace(PI, pid=PID(100.0, 20.0)))
    assert {m.why for m in marks(anneal(2.0), predict(anneal(2.0), wild), wild)} & {Why.SWINGS}


def test_a_step_is_as_quick_as_it_can_and_is_not_blamed():
    p = Profile((Segment(K.STEP, 400.0), Segment(K.SOAK, time_s=7200.0, holdback=Holdback(3.0)), OFF))
    made = conditions()
    assert marks(p, predict(p, made), made) == ()
    soak = forecasts(p, predict(p, made).likely, made)[0]
    assert soak.held_s > 600.0 and soak.within_s is not None and soak.within_s >= 7000.0


def test_use_by_hand():
    """2 kW for four hours from 20:00, night from 22 to 6: 8 kWh, half of it by night; 4·0.30 + 4·0.10 = 1.60."""
    network = from_fopdt(FOPDT(5.0, 10.0, 0.0))
    flat = replace(PI, mode=Mode.MANUAL, manual_output=100.0)
    p = Profile((Segment(K.STEP, 400.0), Segment(K.SOAK, time_s=4 * 3600.0), Segment(K.END, end=EndAction.OFF)))
    c = course(p, network, conditions(network, flat))
    found = use_of(c, 2000.0, Tariff(0.30, 0.10), 20.0)
    assert found.energy_kwh == pytest.approx(8.0, rel=1e-3) and found.price == pytest.approx(1.60, rel=2e-3)
    assert found.peak_w == pytest.approx(2000.0, rel=1e-3)
