"""Thermocouples against NIST Monograph 175 / IEC 60584-1, and against the independent package thermocouple-its90."""

import numpy as np
import pytest
import thermocouple_its90
from hypothesis import given
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.sensing import thermocouples as tc

# NIST Monograph 175, tables of EMF in mV with the reference junction at 0 °C (as printed, three decimals).
NIST_TABLE = [
    ("K", 0, 0.000), ("K", 100, 4.096), ("K", 500, 20.644), ("K", 1000, 41.276), ("K", -200, -5.891), ("K", 1372, 54.886),
    ("J", 100, 5.269), ("J", 400, 21.848), ("J", 760, 42.919), ("T", 100, 4.279), ("T", -200, -5.603), ("T", 400, 20.872),
    ("N", 600, 20.613), ("N", 1300, 47.513), ("S", 1200, 11.951), ("S", 1768, 18.693), ("R", 1000, 10.506),
    ("B", 1500, 10.099), ("B", 1820, 13.820), ("E", 300, 21.036), ("E", 1000, 76.373),
]  # fmt: skip


@pytest.mark.parametrize(("letter", "celsius", "millivolts"), NIST_TABLE)
def test_emf_matches_the_nist_table_to_its_last_digit(letter, celsius, millivolts):
    assert float(tc.emf(letter, celsius)) == pytest.approx(millivolts, abs=0.00051)


@pytest.mark.parametrize("letter", tc.TYPES)
def test_emf_agrees_with_the_reference_library_over_the_whole_range(letter):
    low, high = tc.temperature_range(letter)
    points = np.linspace(low, high, 500)
    reference = thermocouple_its90.get(letter)
    assert np.allclose(tc.emf(letter, points), [reference.emf(t) for t in points], atol=1e-9)


@pytest.mark.parametrize("letter", tc.TYPES)
def test_inversion_is_better_than_a_millikelvin_everywhere(letter):
    low, high = tc.temperature_range(letter)
    points = np.linspace(42.2 if letter == "B" else low, high, 20_001)
    assert np.max(np.abs(tc.temperature(letter, tc.emf(letter, points)) - points)) < 1e-3


@given(st.sampled_from([t for t in tc.TYPES if t != "B"]), st.floats(0, 1))
def test_emf_rises_with_temperature(letter, share):
    low, high = tc.temperature_range(letter)
    t = low + share * (high - low - 1)
    assert tc.emf(letter, t + 1) > tc.emf(letter, t)


@given(st.floats(-100, 1300), st.floats(0, 60))
def test_cold_junction_compensation_undoes_the_terminals(hot, terminals):
    measured = tc.emf("K", hot) - tc.emf("K", terminals)
    assert float(tc.compensate("K", measured, terminals)) == pytest.approx(hot, abs=1e-3)


def test_shape_is_kept():
    assert tc.temperature("K", np.full((3, 4), 4.096)).shape == (3, 4)


def test_voltage_outside_the_range_is_refused_with_type_and_range():
    with pytest.raises(Refused, match="type K") as refused:
        tc.temperature("K", 60.0)
    assert "-6.457" in refused.value.problems[0].accepted and "54.88" in refused.value.problems[0].accepted


def test_not_a_number_is_refused():
    with pytest.raises(Refused, match="not a number"):
        tc.temperature("K", np.nan)


@pytest.mark.parametrize("emf", [0.0, -0.001, -0.0025])
def test_type_b_is_not_determinable_at_the_bottom(emf):
    with pytest.raises(Refused, match="0 to 42 °C"):
        tc.temperature("B", emf)


def test_type_b_answers_above_its_second_zero():
    assert 42.1 < float(tc.temperature("B", 1e-6)) < 44


def test_unsupported_types_are_named():
    with pytest.raises(Refused, match="'A' is not supported"):
        tc.emf("A", 100)


def test_the_one_value_of_many_that_is_outside_is_named():
    with pytest.raises(Refused) as refused:
        tc.emf("K", [20.0, 1500.0, 100.0])
    assert "1500" in refused.value.problems[0].reason
