"""Walls: conduction and free convection against the `ht` library, transients against closed solutions, touch by ISO 13732-1."""

from math import erfc, exp, pi, sqrt

import ht
import numpy as np
import pytest
from CoolProp.CoolProp import PropsSI
from hypothesis import given
from hypothesis import strategies as st
from scipy.sparse import coo_matrix, diags
from scipy.sparse.linalg import cg

from rellux.core.errors import Refused
from rellux.core.heating import outside
from rellux.core.heating.materials import MATERIALS, Material
from rellux.core.heating.transient import Contents, HeaterUse, WallState, capability, reachable, run
from rellux.core.heating.walls import Chamber, Layer, steady
from rellux.core.questions.registry import QUESTIONS

BOX = Chamber(0.4, 0.4, 0.45, (Layer("brick_23", 0.114), Layer("calcium_silicate", 0.05)), bridges=0.0)


@pytest.mark.parametrize("celsius", [20, 100, 250, 500])
def test_air_is_that_of_coolprop(celsius):
    """CoolProp: reference equations of state and transport of air."""
    state = ("T", celsius + 273.15, "P", 101325, "Air")
    assert outside.air_conductivity(celsius) == pytest.approx(PropsSI("L", *state), rel=0.03)
    assert outside.air_viscosity(celsius) == pytest.approx(PropsSI("V", *state) / PropsSI("D", *state), rel=0.03)


@pytest.mark.parametrize(("surface", "height"), [(40, 0.2), (70, 0.6), (150, 1.2)])
def test_free_convection_is_churchill_and_chu(surface, height):
    """ht.Nu_vertical_plate_Churchill with the Grashof number of ht, on CoolProp's air."""
    film = ("T", (surface + 20) / 2 + 273.15, "P", 101325, "Air")
    nu, k = PropsSI("V", *film) / PropsSI("D", *film), PropsSI("L", *film)
    grashof = 9.80665 / film[1] * (surface - 20) * height**3 / nu**2
    expected = ht.Nu_vertical_plate_Churchill(0.71, grashof) * k / height
    assert outside.convection(surface, 20, height) == pytest.approx(expected, rel=0.03)


@pytest.mark.parametrize(("key", "name"), [("brick_23", "L1260"), ("brick_26", "L1400"), ("fireclay", "Fireclay")])
def test_bricks_conduct_as_in_the_vdi_heat_atlas(key, name):
    for celsius in (400, 700, 1100):
        assert MATERIALS[key].k(celsius) == pytest.approx(ht.refractory_VDI_k(name, celsius + 273.15), rel=0.01)
        assert MATERIALS[key].specific_heat == pytest.approx(ht.refractory_VDI_Cp(name, celsius + 273.15), rel=0.06)


def test_the_area_of_a_thick_box_gives_the_published_shape_factor():
    """Langmuir, Adams & Meikle (1913): walls A/t, edges 0.54 L, corners 0.15 t each."""
    for thick in (0.01, 0.1, 0.25):
        x = np.linspace(0, thick, 4001)
        found = 1 / np.sum(np.diff(x) / BOX.area((x[1:] + x[:-1]) / 2))
        assert found == pytest.approx(BOX.inside_m2 / thick + 0.54 * BOX.edges_m + 8 * 0.15 * thick, rel=1e-4)


def flat(*layers):
    """So large that edges do not count: a plane wall."""
    return Chamber(50.0, 50.0, 50.0, layers, bridges=0.0)


def test_plane_layers_are_resistances_in_series(monkeypatch):
    """ht.R_value_to_k and Fourier: q = ΔT / Σ t/k between the faces."""
    monkeypatch.setitem(MATERIALS, "a", Material("a", (0,), (0.2,), 500, 1000, 2000))
    monkeypatch.setitem(MATERIALS, "b", Material("b", (0,), (0.05,), 500, 1000, 2000))
    found = steady(flat(Layer("a", 0.1), Layer("b", 0.05)), 500, 20)
    per_m2 = found.wall_w / flat(Layer("a", 0.1), Layer("b", 0.05)).inside_m2
    resistance = 0.1 / 0.2 + 0.05 / 0.05
    assert per_m2 == pytest.approx((500 - found.outside_c) / resistance, rel=0.02)
    share = (500 - found.interfaces_c[1]) / (500 - found.outside_c)
    assert share == pytest.approx(0.5 / resistance, rel=0.01)


def test_conductivity_that_grows_with_temperature_bends_the_profile(monkeypatch):
    """Kirchhoff: for k = k₀(1 + βT) the middle of a plane wall is above the mean of its faces by the quadratic's root."""
    monkeypatch.setitem(MATERIALS, "linear", Material("linear", (0, 1000), (0.1, 0.3), 500, 1000, 2000))
    found = steady(flat(Layer("linear", 0.1)), 900, 20)
    hot, cold, beta = 900.0, found.outside_c, 0.002
    mean = sum(t + beta * t * t / 2 for t in (hot, cold)) / 2
    middle = (-1 + sqrt(1 + 2 * beta * mean)) / beta
    assert np.interp(0.05, found.depth_m, found.celsius) == pytest.approx(middle, abs=1.5)


def test_a_thick_wall_heats_like_a_half_space(monkeypatch):
    """Constant flux into a semi-infinite solid (Carslaw & Jaeger): ΔT = 2q/k √(αt/π), and at depth the ierfc."""
    k, rho, c = 0.2, 500.0, 1000.0
    monkeypatch.setitem(MATERIALS, "even", Material("even", (0,), (k,), rho, c, 5000))
    chamber = flat(Layer("even", 0.3))
    state = WallState(chamber, Contents(), 20.0)
    flux, seconds, alpha = 400.0, 7200.0, k / (rho * c)
    air = state._content / chamber.inside_m2  # the air in so large a chamber takes some of the heat
    while state.time_s < seconds - 1e-6:
        state.advance(HeaterUse.FULL, flux * chamber.inside_m2, 4.0)
    # flux into the wall is what the air leaves: solved together (Carslaw & Jaeger 12.4, well-stirred fluid in contact)
    h = rho * c / air
    rise = (
        flux
        / k
        * (2 * sqrt(alpha * seconds / pi) - (1 - exp(h * h * alpha * seconds) * erfc(h * sqrt(alpha * seconds))) / h)
    )
    assert state.chamber_c - 20 == pytest.approx(rise, rel=0.015)


def test_energy_is_conserved():
    state = WallState(BOX, Contents(5.0, 850.0), 20.0)
    course = run(state, HeaterUse.FULL, 2500.0, 500.0)
    lost = float(np.sum(np.diff(course.time_s) * [BOX.surface_loss(max(t, 20.01), 20) for t in course.outside_c[1:]]))
    assert state.stored_j + lost == pytest.approx(course.energy_j, rel=0.01)


def test_held_long_enough_it_needs_the_steady_loss():
    found = capability(BOX, Contents(), 3000, 20, 500, 60 * 3600)
    assert found.hold.power_w[-1] == pytest.approx(steady(BOX, 500, 20).loss_w, rel=0.01)
    assert reachable(BOX, steady(BOX, 500, 20).loss_w, 20) == pytest.approx(500, abs=0.5)


@pytest.mark.slow
@given(st.floats(0.01, 0.2), st.floats(100, 1000))
def test_more_insulation_never_loses_more_nor_gets_hotter_outside(thickness, inside):
    thin = steady(Chamber(0.4, 0.4, 0.4, (Layer("brick_23", thickness),)), inside, 20)
    thick = steady(Chamber(0.4, 0.4, 0.4, (Layer("brick_23", thickness + 0.01),)), inside, 20)
    assert thick.loss_w < thin.loss_w and thick.outside_c < thin.outside_c
    assert all(a >= b for a, b in zip(thin.interfaces_c, thin.interfaces_c[1:], strict=False))


def test_touch_limits_of_iso_13732_1():
    # from memory: 43 °C 8 h, 48 °C 10 min, 51 °C 1 min
    assert outside.longest_touch(43) == 8 * 3600
    assert outside.longest_touch(49) == 60
    assert outside.longest_touch(80) is None


@pytest.mark.parametrize(
    ("chamber", "field"),
    [
        (Chamber(0.1, 0.1, 0.1, (Layer("brick_23", 0.4),)), "layers"),
        (Chamber(0.04, 0.4, 0.4, (Layer("brick_23", 0.21),)), "layers"),
        (Chamber(0.4, 0.4, 0.4, (Layer("wishes", 0.1),)), "layers[0].material"),
        (Chamber(0.4, 0.4, 0.4, ()), "layers"),
        (Chamber(0.1, 0.1, 0.1, (Layer("brick_23", 0.05),), opening_m2=1.0), "opening_m2"),
    ],
)
def test_chambers_that_cannot_be_are_refused(chamber, field):
    with pytest.raises(Refused) as refused:
        steady(chamber, 500, 20)
    assert refused.value.problems[0].field == field


def shape_factor(a, b, c, thick, cell):
    """Conduction shape factor of a box's wall by finite differences, an eighth of it, ``cell`` m fine."""
    n = [round((e / 2 + thick) / cell) for e in (a, b, c)]
    where = np.indices(n)
    inner = np.all([w < round(e / 2 / cell) for w, e in zip(where, (a, b, c), strict=True)], axis=0)
    number = np.arange(inner.size).reshape(n)
    links, diagonal, known = [], np.zeros(inner.size), np.zeros(inner.size)
    for axis in range(3):
        low, high = (tuple(np.s_[s] if i == axis else np.s_[:] for i in range(3)) for s in (np.s_[:-1], np.s_[1:]))
        both = ~inner[low] & ~inner[high]
        links.append((number[low][both], number[high][both]))
        np.add.at(diagonal, np.concatenate(links[-1]), 1.0)
        face = number[high][inner[low] & ~inner[high]]
        np.add.at(diagonal, face, 2.0)
        np.add.at(known, face, 2.0)
        np.add.at(diagonal, number.take(-1, axis=axis).ravel(), 2.0)
    one, other = (np.concatenate([pair[i] for pair in links]) for i in (0, 1))
    matrix = coo_matrix((-np.ones(one.size), (one, other)), shape=(inner.size,) * 2).tocsr()
    matrix = matrix + matrix.T + diags(diagonal)
    wall = ~inner.ravel()
    celsius = np.ones(inner.size)
    celsius[wall] = cg(matrix[wall][:, wall], known[wall], rtol=1e-8)[0]
    return 8 * cell * sum(2 * celsius.reshape(n).take(-1, axis=axis).sum() for axis in range(3))


@pytest.mark.parametrize(
    ("edges", "thick", "within"),
    [
        ((0.4, 0.4, 0.4), 0.1, 0.01),
        ((0.05, 0.4, 0.4), 0.1, 0.03),
        ((0.05, 0.4, 0.4), 0.25, 0.07),
        ((0.1, 0.1, 0.4), 0.2, 0.07),
    ],
)
def test_sturdy_and_slender_walls_against_finite_differences(edges, thick, within):
    chamber = Chamber(*edges, (Layer("brick_23", thick),))
    x = np.linspace(0, thick, 4001)
    by_area = 1 / np.trapezoid(1 / chamber.area(x), x)
    assert by_area == pytest.approx(shape_factor(*edges, thick, 0.0125), rel=within)


def test_a_layer_that_saves_nothing_is_not_said_to_save():
    """25 mm more of bare steel give off more by their larger outside than they hold back."""
    bare = QUESTIONS["walls"].ask({"inside_c": 200, "layers": [{"material": "steel", "thickness_mm": 2}]})
    says = {a.title: a for a in bare.alternatives}
    thicker = next(a for title, a in says.items() if "more" in title)
    assert thicker.says.startswith("loses") and thicker.verdict is not None
    assert all(a.says.startswith("saves") and a.verdict is None for a in QUESTIONS["walls"].ask({}).alternatives)


def test_an_opening_radiates_against_the_room_by_hand():
    """σ A (T⁴ − T_a⁴): 10 cm² at 600 °C in a room of 20 °C, 5.670e-8 × 1e-3 × (873.15⁴ − 293.15⁴) = 32.5 W; nothing where alike."""
    chamber = Chamber(0.4, 0.4, 0.4, (Layer("brick_23", 0.1),), opening_m2=1e-3)
    assert chamber.opening_loss(600, 20) == pytest.approx(32.54, abs=0.02)
    assert chamber.opening_loss(20, 20) == 0


def test_the_ramp_at_a_temperature_is_the_slope_of_the_heat_up_there():
    found = capability(BOX, Contents(), 3000, 20, 500, 600)
    assert 20 <= found.up_c.min() < 40 and 480 < found.up_c.max() <= 500
    at = np.interp(300, found.up_c, found.up)
    time_s, chamber_c = found.heat_up.time_s, found.heat_up.chamber_c
    around = np.interp([295, 305], chamber_c, time_s)
    assert at == pytest.approx(10 / (around[1] - around[0]), rel=0.03)


def test_a_hot_face_radiates_by_hand():
    """ε σ (T⁴ − T_a⁴)/(T − T_a): 0.9 × 5.6704e-8 × (373.15⁴ − 293.15⁴) / 80 = 7.66 W/m²K."""
    assert outside.radiation(100, 20, 0.9) == pytest.approx(7.656, abs=0.005)
    assert outside.radiation(20, 20, 1.0) == pytest.approx(4 * 5.6704e-8 * 293.15**3, rel=1e-4)


def test_a_face_without_height_has_no_convection():
    with pytest.raises(Refused):
        outside.convection(80, 20, 0.0)


def test_bridges_are_a_tenth_of_the_walls_loss_where_nobody_says_otherwise():
    plain, usual = (steady(Chamber(0.4, 0.4, 0.45, BOX.layers, **given), 500, 20) for given in ({"bridges": 0.0}, {}))
    assert usual.bridges_w == pytest.approx(0.1 * (usual.loss_w - usual.bridges_w), rel=1e-6) and plain.bridges_w == 0
