"""Thermistors: beta and Steinhart–Hart, fits, and the divider."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.sensing.thermistors import Beta, Divider, SteinhartHart, best_series_resistor, fit

# Coefficients and table of the common 10 kΩ curve, typical, from memory of data sheets: 0 °C 32.65 kΩ, 25 °C 10.00 kΩ,
# 60 °C 2.485 kΩ, 100 °C 679 Ω; Steinhart–Hart a = 1.129e-3, b = 2.341e-4, c = 8.78e-8.
COMMON = SteinhartHart(1.129148e-3, 2.34125e-4, 8.76741e-8)
PAIRS = ((32650.0, 0.0), (10000.0, 25.0), (2485.0, 60.0), (679.0, 100.0))


def test_the_common_curve_gives_its_table():
    for ohms, celsius in PAIRS:
        assert float(COMMON.temperature(ohms)) == pytest.approx(celsius, abs=0.15)


@given(st.floats(-50, 200))
def test_resistance_and_temperature_are_inverse(celsius):
    for curve in (COMMON, Beta(10_000, 3950), SteinhartHart(1.0e-3, 2.5e-4, 0.0)):
        assert float(curve.temperature(curve.resistance(celsius))) == pytest.approx(celsius, abs=1e-6)


def test_beta_is_exact_at_its_two_points():
    beta = Beta(10_000, 3950)
    assert float(beta.resistance(25.0)) == pytest.approx(10_000)
    ratio = np.log(beta.resistance(25.0) / beta.resistance(85.0)) / (1 / 298.15 - 1 / 358.15)
    assert float(ratio) == pytest.approx(3950)


def test_three_pairs_fit_exactly():
    found = fit(PAIRS[:3])
    assert found.worst_c < 1e-6


def test_more_pairs_than_coefficients_show_what_is_left_over():
    found = fit(PAIRS)
    assert 0 < found.worst_c < 0.1
    spoiled = fit((*PAIRS[:3], (900.0, 100.0)))
    assert spoiled.worst_c > 10 * found.worst_c


@given(st.lists(st.integers(-5, 37).map(lambda n: 4.0 * n), min_size=5, max_size=9, unique=True))
def test_a_fit_recovers_the_curve_that_made_the_pairs(temperatures):
    found = fit(tuple((float(COMMON.resistance(t)), t) for t in temperatures))
    assert found.worst_c < 1e-4
    inside = np.linspace(min(temperatures), max(temperatures), 9)
    assert found.curve.temperature(COMMON.resistance(inside)) == pytest.approx(inside, abs=1e-2)


@pytest.mark.parametrize(
    ("pairs", "field"),
    [
        (PAIRS[:2], "pairs"),
        ((*PAIRS[:3], (-5.0, 100.0)), "pairs[3].ohms"),
        ((*PAIRS[:3], (500.0, 900.0)), "pairs[3].celsius"),
        (((100.0, 0.0), (200.0, 25.0), (300.0, 60.0)), "pairs"),
        (((300.0, 20.0), (200.0, 20.0), (100.0, 60.0)), "pairs"),
    ],
)
def test_pairs_that_are_no_thermistor_are_refused(pairs, field):
    with pytest.raises(Refused) as refused:
        fit(pairs)
    assert refused.value.problems[0].field == field


def test_counts_and_ohms_are_inverse_within_a_count():
    divider = Divider(10_000, 12)
    ohms = np.geomspace(200, 200_000, 40)
    back = divider.ohms(divider.counts(ohms))
    assert np.max(np.abs(divider.counts(back) - divider.counts(ohms))) == 0
    assert divider.counts(10_000) == pytest.approx(divider.full_scale / 2, abs=1)


@pytest.mark.parametrize(("counts", "says"), [(0, "shorted"), (1023, "open")])
def test_the_rails_are_a_broken_sensor(counts, says):
    with pytest.raises(Refused, match=says):
        Divider(4700).ohms(counts)


def test_degrees_a_count_matches_counting():
    """One count further on the converter is that many degrees further on the thermometer."""
    divider = Divider(4700, 10)
    claimed = float(divider.degrees_per_count(COMMON, 60.0))
    middle = float(COMMON.resistance(60.0))
    ratio = divider.full_scale * middle / (middle + 4700)
    neighbours = COMMON.temperature(divider.ohms(np.array([ratio - 0.5, ratio + 0.5])))
    assert claimed == pytest.approx(float(abs(np.diff(neighbours)[0])), rel=0.01)


@pytest.mark.long
@given(st.floats(-20, 60), st.floats(20, 90))
def test_no_other_resistor_beats_the_best_one(low, width):
    best = best_series_resistor(COMMON, low, low + width)
    span = np.linspace(low, low + width, 41)

    def coarsest(series):
        return float(np.max(Divider(series, 12).degrees_per_count(COMMON, span)))

    assert all(coarsest(best) <= coarsest(best * k) * 1.02 for k in (0.3, 0.7, 1.4, 3.0))


def test_self_heating_is_power_over_the_dissipation_constant():
    """3.3 V over 10 kΩ + 10 kΩ: 0.272 mW in the bead, 2 mW/K."""
    rise = Divider(10_000, 10, 3.3).self_heating(Beta(10_000, 3950), 25.0, 2.0)
    assert float(rise) == pytest.approx(0.136, abs=0.001)


@pytest.mark.parametrize(
    ("name", "least", "most"), [("series_ohm", 1, 1e7), ("bits", 6, 24), ("supply_v", 0.5, 30)], ids=lambda v: str(v)
)
def test_dividers_that_are_none(name, least, most):
    usual = {"series_ohm": 10_000, "bits": 10, "supply_v": 3.3}
    for inside in (least, most):
        assert getattr(Divider(**usual | {name: inside}), name) == inside
    for beyond in (least * 0.99 if name != "bits" else 5, most * 1.01 if name != "bits" else 25):
        with pytest.raises(Refused) as refused:
            Divider(**usual | {name: beyond})
        assert [p.field for p in refused.value.problems] == [name]


@pytest.mark.parametrize(("counts", "says"), [(-1, "shorted"), (1023, "open"), (2000, "open")])
def test_counts_beyond_the_rails_are_a_broken_sensor_too(counts, says):
    with pytest.raises(Refused) as refused:
        Divider(10_000).ohms(counts)
    assert says in refused.value.problems[0].reason and refused.value.problems[0].accepted == "1…1022"


def test_a_fit_finds_the_beta_that_made_the_pairs():
    made = Beta(10_000, 3950)
    found = fit([(float(made.resistance(t)), t) for t in (0.0, 25.0, 80.0)])
    assert found.beta.beta == pytest.approx(3950, rel=1e-6) and found.beta.r0 == pytest.approx(10_000, rel=1e-3)
