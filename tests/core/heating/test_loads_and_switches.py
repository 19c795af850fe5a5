"""Elements, phase angle, dips, switches: worked values of the field and closed forms."""

from math import pi, radians, sqrt

import numpy as np
import pytest
from CoolProp.CoolProp import PropsSI
from CoolProp.HumidAirProp import HAPropsSI
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad

from rellux.core.errors import Refused
from rellux.core.heating import dips, elements, fluids, loads, mosfet, phase_angle, switches


# published values of the phase-control law: 60°, 90°, 120°
@pytest.mark.parametrize(("degrees", "power"), [(0, 1), (60, 0.8045), (90, 0.5), (120, 0.1955), (180, 0)])
def test_phase_angle_power(degrees, power):
    assert phase_angle.phase_power(radians(degrees)) == pytest.approx(power, abs=5e-5)
    integral = quad(lambda x: 2 * np.sin(x) ** 2, radians(degrees), pi)[0] / pi
    assert phase_angle.phase_power(radians(degrees)) == pytest.approx(integral, abs=1e-9)


@given(st.floats(0, 1))
def test_phase_angle_is_inverted(power):
    assert phase_angle.phase_power(phase_angle.phase_angle(power)) == pytest.approx(power, abs=1e-8)


def test_neutral_current_of_a_fired_star():
    # full line current at 90°; √3 times the phase's rms from 120°, where no two phases conduct together
    assert phase_angle.neutral_share(0.0) == pytest.approx(0, abs=1e-6)
    assert phase_angle.neutral_share(radians(90)) == pytest.approx(1.0, abs=2e-3)
    assert phase_angle.neutral_share(radians(120)) == pytest.approx(
        sqrt(3) * phase_angle.rms_share(radians(120)), rel=2e-3
    )


def test_burst_steps_of_a_period():
    assert phase_angle.burst_steps(1.0, 50) == 100
    assert phase_angle.burst_steps(0.1, 60) == pytest.approx(12)


def test_power_of_kinds_at_another_voltage():
    assert elements.power_on(100, 18, 24, "wire") == pytest.approx(177.8, abs=0.05)
    assert elements.power_on(500, 240, 208, "wire") / 500 == pytest.approx(0.751, abs=1e-3)
    # tungsten: 10 % less voltage, about 15 % less power (common practice: V^1.55)
    assert elements.power_on(500, 230, 207, "halogen") / 500 == pytest.approx(0.849, abs=1e-3)


@given(st.floats(50, 5000), st.floats(12, 400), st.floats(1, 5))
def test_the_thinnest_wire_has_exactly_its_surface_load(power, volts, load):
    least = elements.least_diameter_mm("fecral", power, volts, load)
    made = elements.wire_element("fecral", power, volts, least)
    # the closed form takes the hot resistivity; length follows from the cold ohms: the same to the hot factor cubed root
    assert made.surface_load == pytest.approx(load, rel=1e-9)
    ohm_per_m = 1.45 * 1.04 / (pi / 4 * least**2)
    assert volts**2 / (ohm_per_m * made.length_m) == pytest.approx(power, rel=1e-9)


def test_no_alloy_lives_above_its_range():
    with pytest.raises(Refused):
        elements.allowed_load("nicr", 1250)


def test_water_and_latent_heat_are_those_of_coolprop():
    latent = PropsSI("H", "P", 101325, "Q", 1, "Water") - PropsSI("H", "P", 101325, "Q", 0, "Water")
    assert latent == pytest.approx(dips.LATENT_J_KG, rel=1e-3)
    assert dips.flow_power(6.0, 10.0, water=True) == pytest.approx(0.1 * 0.998 * 4186 * 10)
    air = PropsSI("D", "T", 300, "P", 101325, "Air") * PropsSI("C", "T", 300, "P", 101325, "Air") / 1000
    assert air == pytest.approx(fluids.AIR_J_M3_K / 1000, rel=0.03)


HOT = dips.HotChamber(180, 20, 4 * 490, 400, 2000)


def test_an_unlimited_heater_lets_the_load_rise_exponentially():
    """Lumped load in a constant chamber: 1 − exp(−t/τ), τ = m c / (h A)."""
    found = dips.dip(dips.HotChamber(180, 20, 1e7, 1, 1e6), dips.ColdLoad(2, 500, 20, 10))
    tau = 2 * 500 / 10
    at_tau = np.interp(tau, found.time_s, found.load_c)
    assert (at_tau - 20) / 160 == pytest.approx(1 - np.exp(-1), abs=0.01)


def test_a_wet_load_stalls_at_boiling_until_dry():
    dry = dips.dip(HOT, dips.ColdLoad(2, 500, 20, 15))
    wet = dips.dip(HOT, dips.ColdLoad(2, 500, 20, 15, water_kg=0.5))
    assert wet.dry_s is not None and dry.dry_s is None and wet.recovered_s > dry.recovered_s
    stalled = wet.load_c[wet.time_s < wet.dry_s]
    assert stalled.max() <= 100.5
    # heat of evaporation over what flows at most into a load at 100 °C
    assert wet.dry_s > 0.5 * dips.LATENT_J_KG / (15 * 80)


def test_a_wet_load_dries_below_boiling_near_its_wet_bulb_where_vapour_can_leave():
    """Against CoolProp: wet-bulb temperature of air at 80 °C with the water of a room at 20 °C, 50 %, only convection to the load."""
    hot = dips.HotChamber(80, 20, 1e7, 1, 1e6)
    vapour = 0.5 * dips.saturation_pa(20)
    open_ = dips.dip(hot, dips.ColdLoad(2, 500, 20, 15, 0.3, drying=15, vapour_pa=vapour))
    ratio = 0.622 * vapour / (101_325 - vapour)
    wet_bulb = HAPropsSI("Twb", "T", 353.15, "P", 101_325, "W", ratio) - 273.15
    drying = (open_.time_s > 0.3 * open_.dry_s) & (open_.time_s < 0.9 * open_.dry_s)
    assert open_.load_c[drying] == pytest.approx(wet_bulb, abs=1.5)
    # what flows in at that temperature, over the heat of evaporation
    assert open_.dry_s == pytest.approx(0.3 * dips.LATENT_J_KG / (15 * (80 - wet_bulb)), rel=0.1)
    assert open_.recovered_s > open_.dry_s
    closed = dips.dip(hot, dips.ColdLoad(2, 500, 20, 15, 0.3))
    assert closed.dry_s is None and closed.recovered_s is not None


@pytest.mark.parametrize("celsius", [5, 20, 40, 60, 80, 95])
def test_vapour_pressure_of_water_is_that_of_coolprop(celsius):
    assert dips.saturation_pa(celsius) == pytest.approx(PropsSI("P", "T", celsius + 273.15, "Q", 0, "Water"), rel=0.01)


def test_a_hotter_load_warms_the_chamber_and_a_tiny_one_does_nothing():
    warm = dips.dip(HOT, dips.ColdLoad(6, 500, 300, 14))
    assert warm.lowest_c == pytest.approx(180, abs=0.01) and 185 < warm.highest_c < 300
    after = warm.time_s > warm.recovered_s - 1
    assert np.abs(warm.load_c[after] - 180).max() < 1.7
    none = dips.dip(HOT, dips.ColdLoad(0.001, 500, 20, 14))
    assert 180 - none.lowest_c < 0.1


@settings(max_examples=10)
@given(st.floats(30, 500), st.floats(0.01, 50), st.floats(-30, 600), st.floats(0, 5), st.floats(0.5, 60), st.booleans())
def test_no_load_creates_or_loses_heat(set_c, mass, start_c, water, conductance, vented):
    """Heat balance of the load: what flowed in is what warmed it and what evaporated its water, whatever it is."""
    load = dips.ColdLoad(
        mass,
        500,
        start_c if not water else min(max(start_c, 1), 90),
        conductance,
        water,
        conductance / 2 * vented,
        1000,
    )
    found = dips.dip(dips.HotChamber(set_c, 20, 5e4, 300, 3000), load)
    assert np.isfinite(found.load_c).all() and np.isfinite(found.chamber_c).all()
    assert found.load_c.max() <= max(set_c, load.start_c, found.highest_c) + 1e-6
    if water and set_c > 101 and found.dry_s is None:
        assert found.load_c.max() <= 100.0 + 1e-6
    if found.dry_s is not None and not vented:
        assert found.load_c[found.time_s < found.dry_s].max() <= 100.0 + 1e-6


def test_a_larger_load_dips_deeper():
    small, large = (dips.dip(HOT, dips.ColdLoad(m, 500, 20, 14.0 * m / 6)) for m in (6, 12))
    assert large.lowest_c < small.lowest_c


def test_ssr_on_its_sink():
    # by hand: 15.6 W; case 40 + 15.6 (2 + 0.1), junction + 15.6 × 0.5
    found = switches.mounted(13, 1.2, 2.0, 40)
    assert (found.heat_w, found.case_c, found.junction_c) == (
        pytest.approx(15.6),
        pytest.approx(72.76),
        pytest.approx(80.56),
    )
    most = switches.most_current(1.2, 2.0, 40)
    assert switches.mounted(most, 1.2, 2.0, 40).junction_c == pytest.approx(switches.JUNCTION_AIM_C)


def test_transistor_losses_by_hand():
    t = mosfet.Transistor(0.010, 40e-9, 0.020, 60)
    found = mosfet.loss(t, 6, 24, 0.95, 20, 40)
    assert found.conduction_w == pytest.approx(36 * 0.010 * 1.7 * 0.95)
    # 2 µs edges, two of them, triangle of V I
    assert found.switching_w == pytest.approx(0.5 * 24 * 6 * 2 * 2e-6 * 20)
    assert mosfet.loss(t, 6, 24, 1.0, 20_000, 40).switching_w == 0


@pytest.mark.parametrize("refused", [(0.0, 50.0), (1.0, 0.0), (-1.0, 50.0)])
def test_a_period_without_length_or_mains_has_no_steps(refused):
    with pytest.raises(Refused):
        phase_angle.burst_steps(*refused)


@pytest.mark.parametrize("degrees", [30, 75, 105, 150])
def test_neutral_current_of_a_fired_star_by_its_integral(degrees):
    """The square of the three phases' sum over a sixth of a period and over all of it, by SciPy, against the full line current."""

    def phase(x):
        return np.sin(x) if x % pi >= radians(degrees) else 0.0

    def squared(x):
        return (phase(x) + phase(x - 2 * pi / 3) + phase(x - 4 * pi / 3)) ** 2

    jumps = sorted({(k * pi / 3 + radians(degrees)) % (2 * pi) for k in range(6)} | {k * pi / 3 for k in range(6)})
    mean = sum(quad(squared, a, b)[0] for a, b in zip([0.0, *jumps], [*jumps, 2 * pi], strict=True)) / (2 * pi)
    assert phase_angle.neutral_share(radians(degrees)) == pytest.approx(sqrt(2 * mean), rel=3e-3)


def test_half_the_voltage_is_a_quarter_of_the_power_and_said_so():
    told = loads.power_at(2000, 230, 115)
    assert told.value == pytest.approx(500) and "here {0.25} times" in told.reason.replace(" }", "}")


def test_a_chamber_no_hotter_than_its_room_has_no_dip():
    chamber = dips.HotChamber(setpoint_c=20.0, ambient_c=20.0, capacity=5000.0, loss_w=100.0, power_w=1000.0)
    with pytest.raises(Refused) as refused:
        dips.dip(chamber, dips.ColdLoad(1.0, 500.0, 20.0, 5.0))
    assert refused.value.problems[0].field == "setpoint_c"
