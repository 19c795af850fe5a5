"""Loads, protection and switches. Worked values of common practice; the codes' tables are from memory."""

import pytest

from rellux.core.errors import Refused
from rellux.core.heating import loads, switches
from rellux.core.heating.conductor_tables import Practice
from rellux.core.heating.conductors import ampacity
from rellux.core.heating.protection import size_protection


def test_power_goes_with_the_square_of_the_voltage():
    assert loads.power_at(100, 18, 24).value == pytest.approx(177.8, abs=0.05)
    assert loads.power_at(1000, 240, 208).value == pytest.approx(751, abs=0.5)


def test_a_three_kilowatt_heater_draws_thirteen_amperes_at_230_v():
    assert loads.heater_current(3000, 230, 230).value == pytest.approx(13.04, abs=0.01)
    assert loads.element_resistance(3000, 230).value == pytest.approx(17.63, abs=0.01)


def test_figures_carry_their_derivation():
    current = loads.heater_current(3000, 230, 230)
    assert current.formula and current.source and {i.symbol for i in current.inputs} == {"V_supply", "R"}


# common practice, no source: 1e5 operations
@pytest.mark.parametrize(("period_s", "hours"), [(20, 556), (2, 55.6)])
def test_relay_life_at_the_control_period(period_s, hours):
    assert switches.relay_life(period_s).value / 3600 == pytest.approx(hours, rel=0.001)


def test_an_ssr_at_13_a_gives_off_15_6_w():
    heat = switches.ssr_dissipation(13, 1.2)
    assert heat.value == pytest.approx(15.6)
    # (110 − 40)/15.6 − 0.5 − 0.1
    assert switches.heat_sink(heat.value, 40).value == pytest.approx(3.887, abs=0.001)


def test_no_sink_is_good_enough_for_too_much_heat():
    with pytest.raises(Refused, match="cannot leave"):
        switches.heat_sink(200, 40)


def test_iec_takes_load_breaker_conductor_in_order():
    found = size_protection(13.04, Practice.IEC)
    assert (found.breaker.value, found.conductor.area_mm2) == (16, 1.5)


def test_nec_takes_125_percent_of_a_continuous_load():
    found = size_protection(13.04, Practice.NEC)
    assert found.breaker.value == 20  # 16.3 A needed
    assert found.conductor.label == "12 AWG"
    assert "NEC" in found.breaker.school


def test_a_load_just_at_a_breaker_size_keeps_it():
    assert size_protection(16.0, Practice.IEC).breaker.value == 16
    assert size_protection(16.0, Practice.NEC).breaker.value == 20


@pytest.mark.parametrize(("area", "amperes"), [(0.75, 6), (1.0, 10), (1.4, 13), (2.5, 25), (0.3, 0)])
def test_ampacity_takes_the_listed_size_not_above(area, amperes):
    assert ampacity(area, Practice.IEC) == amperes


def test_beyond_the_tables_is_refused():
    with pytest.raises(Refused):
        size_protection(500, Practice.IEC)
