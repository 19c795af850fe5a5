"""Elements, phase angle, dips, switches: worked values of the field and closed forms."""

from math import pi, radians, sqrt

import numpy as np
import pytest
from CoolProp.CoolProp import PropsSI
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import quad

from rellux.core.errors import Refused
from rellux.core.heating import dips, elements, fluids, mosfet, phase_angle, switches


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
