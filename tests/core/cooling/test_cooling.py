"""Cooling against first principles, a box simulated step by step, and a reference library of moist air and water."""

from math import pi, sin

import numpy as np
import pytest
from CoolProp.CoolProp import HAPropsSI, PropsSI
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad, solve_ivp

from rellux.core.cooling.dew_point import dew_point
from rellux.core.cooling.machine import carnot, least_hysteresis, pumped_w, rest_rise, starts_per_hour
from rellux.core.cooling.thermoelectric import best_current, module_of, settles, works
from rellux.core.errors import Refused
from rellux.core.heating.fuel_bed import boiling_c, latest_off, peak_after, temperature_after
from rellux.core.heating.phase_angle import pin_delay, pin_reach
from tests.examples import cases

KELVIN = 273.15
SHEETS = st.tuples(st.floats(1, 60), st.floats(1, 30), st.floats(40, 90), st.floats(20, 55)).map(
    lambda s: (module_of(*s), s)
)


@given(st.floats(-40, 20), st.floats(21, 45), st.floats(0.05, 0.7), st.floats(1, 5000))
def test_no_machine_does_more_than_carnot_allows(inside, room, share, power):
    pumped = pumped_w(power, share, inside, room)
    assert 0 < pumped < power * carnot(inside, room) * share
    assert carnot(inside, room) == pytest.approx((inside + KELVIN) / (room - inside))


def test_a_cooler_that_would_have_to_warm_is_refused():
    with pytest.raises(Refused):
        carnot(25.0, 25.0)


@settings(max_examples=cases(15), deadline=None)
@given(st.floats(40, 400), st.floats(0.1, 0.9), st.floats(2e4, 4e5), st.floats(0.5, 3.0))
def test_starts_are_those_of_a_box_followed_second_by_second(pumped, load, heat, hysteresis):
    """A box of one capacity between two thresholds, with what leaks in and is pumped held: counted, not computed."""
    leaked, dt = load * pumped, max(heat * hysteresis / pumped / 400.0, 0.05)
    t, celsius, on, begun = 0.0, 0.0, False, []
    while len(begun) < 4:
        celsius += (leaked - (pumped if on else 0.0)) / heat * dt
        t += dt
        if not on and celsius >= hysteresis:
            on = True
            begun.append(t)
        elif on and celsius <= 0.0:
            on = False
    counted = 3600.0 * (len(begun) - 1) / (begun[-1] - begun[0])
    assert starts_per_hour(pumped, leaked, heat, hysteresis) == pytest.approx(counted, rel=0.02)
    assert starts_per_hour(pumped, leaked, heat, least_hysteresis(pumped, heat, 6.0)) <= 6.0 * (1.0 + 1e-9)
    assert starts_per_hour(pumped, 0.5 * pumped, heat, least_hysteresis(pumped, heat, 6.0)) == pytest.approx(6.0)
    assert starts_per_hour(pumped, pumped, heat, hysteresis) == 0.0
    assert rest_rise(leaked, heat, 240.0) == pytest.approx(leaked * 240.0 / heat)


@pytest.mark.parametrize("celsius", [0.0, 10.0, 20.0, 35.0, 50.0])
@pytest.mark.parametrize("humidity", [15, 30, 50, 80, 100])
def test_the_dew_point_is_that_of_humid_air(celsius, humidity):
    """CoolProp's humid air (ASHRAE RP-1485); below freezing it is the frost point that it gives, and ours is over water."""
    reference = HAPropsSI("D", "T", celsius + KELVIN, "R", humidity / 100.0, "P", 101_325.0) - KELVIN
    if reference > 0:
        assert dew_point(celsius, humidity) == pytest.approx(reference, abs=0.12)


@given(SHEETS, st.floats(0.1, 1.0))
def test_a_module_does_what_its_sheet_says(sheet, share):
    """Ioffe: at the sheet's current and difference nothing is pumped, at its voltage; and ΔT_max = ½ Z T_c² with Z = S²/(R K)."""
    module, (volts, amps, difference, hot_c) = sheet
    hot, cold = hot_c + KELVIN, hot_c + KELVIN - difference
    s, r, k = module.seebeck, module.ohm, module.conductance
    assert s * cold * amps - 0.5 * amps**2 * r - k * difference == pytest.approx(0.0, abs=1e-6 * volts * amps)
    assert s * difference + amps * r == pytest.approx(volts)
    assert 0.5 * s**2 / (r * k) * cold**2 == pytest.approx(difference)
    assert works(module, share * amps, hot_c - difference, hot_c, 1e-9).pumped_w <= 1e-6 * volts * amps
    assert hot > cold


@settings(max_examples=cases(40), deadline=None)
@given(SHEETS, st.floats(0.02, 1.5), st.floats(5, 45), st.floats(0.05, 1.0), st.floats(0.02, 2.0))
def test_heat_is_kept_and_carnot_is_not_passed(sheet, sink, difference, share, leak):
    module, (_, amps, _, _) = sheet
    room, cold = 25.0, 25.0 - difference
    found = works(module, share * amps, cold, room, sink)
    if found is None:
        return
    assert found.hot_c - room == pytest.approx(sink * (found.pumped_w + found.power_w), rel=1e-6, abs=1e-6)
    if found.pumped_w > 0:
        assert found.pumped_w <= found.power_w * (cold + KELVIN) / (found.hot_c - cold) * (1.0 + 1e-9)
    rests = settles(module, share * amps, room, sink, leak)
    if rests is not None and rests > -KELVIN:
        again = works(module, share * amps, rests, room, sink)
        assert again is not None and again.pumped_w == pytest.approx(leak * (room - rests), rel=1e-6, abs=1e-6)


@settings(max_examples=cases(25), deadline=None)
@given(SHEETS, st.floats(0.02, 1.5), st.floats(-10, 20))
def test_no_current_pumps_more_than_the_best_one(sheet, sink, cold):
    module, (_, amps, _, _) = sheet
    tried = [w.pumped_w for a in np.linspace(0.0, amps, 2001) if (w := works(module, float(a), cold, 25.0, sink))]
    found = works(module, best_current(module, cold, 25.0, sink), cold, 25.0, sink)
    assert found is not None and found.pumped_w >= max(tried) - 1e-4 * max(1.0, abs(max(tried)))


def test_a_sink_that_is_too_weak_runs_away():
    module = module_of(15.4, 6.0, 66.0, 27.0, 4)
    assert settles(module, 6.0, 23.0, 0.05, 0.4) is not None
    assert settles(module, 6.0, 23.0, 0.6, 0.4) is None and settles(module, 6.0, 23.0, 5.0, 0.4) is None
    with pytest.raises(Refused):
        module_of(15.4, 6.0, 400.0, 27.0)


BEDS = st.tuples(
    st.floats(2e3, 5e4), st.floats(0, 1500), st.floats(60, 1800), st.floats(1e5, 4e6), st.floats(5, 80), st.just(18.0)
)


@settings(max_examples=cases(25), deadline=None)
@given(BEDS, st.floats(30, 90))
def test_a_bed_runs_on_as_a_general_solver_says(bed, start):
    full, idle, fades, heat, loss, room = bed

    def slope(t, x):
        return (idle + (full - idle) * np.exp(-t / fades) - loss * (x - room)) / heat

    until = 6.0 * max(fades, heat / loss)
    run = solve_ivp(slope, (0.0, until), [start], rtol=1e-9, atol=1e-9, method="LSODA", dense_output=True)
    grid = np.linspace(0.0, until, 4000)
    course = run.sol(grid)[0]
    assert temperature_after(start, 0.37 * until, *bed) == pytest.approx(float(run.sol(0.37 * until)[0]), abs=1e-3)
    # where it rises for ever the end is far: never below what was seen
    peak = peak_after(start, *bed)
    assert peak >= course.max() - 1e-3
    if course.argmax() < len(grid) - 1:
        assert peak == pytest.approx(course.max(), abs=0.01 + 1e-4 * abs(course.max()))
    most = room + 75.0
    try:
        latest = latest_off(most, *bed)
    except Refused:
        assert peak_after(room, *bed) >= most or room + idle / loss >= most
    else:
        assert peak_after(latest, *bed) == pytest.approx(most, abs=1e-6)


@pytest.mark.parametrize("height", [0.0, 500.0, 1609.0, 2500.0, 4000.0])
def test_water_boils_where_the_reference_equation_says(height):
    """IAPWS-95 by CoolProp at the standard atmosphere's pressure."""
    pascal = 101_325.0 * (1.0 - 2.25577e-5 * height) ** 5.25588
    assert boiling_c(height) == pytest.approx(PropsSI("T", "P", pascal, "Q", 0, "Water") - KELVIN, abs=0.1)


@settings(max_examples=cases(30), deadline=None)
@given(st.floats(0.02, 0.98), st.sampled_from([50.0, 60.0]), st.floats(-0.0005, 0.0005))
def test_what_a_firmware_waits_gives_the_power_asked_for(power, hz, late):
    """The half-wave integrated from the moment of firing on."""
    low, high = pin_reach(hz)
    fired = 2.0 * pi * hz * (pin_delay(power, hz, late) + late)
    given_power = quad(lambda a: sin(a) ** 2, fired, pi)[0] / (pi / 2.0)
    assert given_power == pytest.approx(min(max(power, low), high), abs=1e-6)
    assert 0.0005 - 1e-12 <= fired / (2.0 * pi * hz) <= 0.5 / hz - 0.0005 + 1e-12
