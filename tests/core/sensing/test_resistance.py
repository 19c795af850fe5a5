"""Platinum sensors against IEC 60751."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.sensing import resistance as rtd
from rellux.core.sensing.sensors import tolerance


@pytest.mark.parametrize(
    ("celsius", "ohms"), [(-200, 18.52), (-100, 60.256), (0, 100.0), (100, 138.506), (400, 247.092), (850, 390.481)]
)
def test_pt100_matches_the_iec_60751_table(celsius, ohms):
    assert float(rtd.resistance(celsius)) == pytest.approx(ohms, abs=0.0051)


@given(st.floats(-200, 850), st.sampled_from([100.0, 1000.0]))
def test_resistance_and_temperature_are_inverse(celsius, r0):
    assert float(rtd.temperature(rtd.resistance(celsius, r0), r0)) == pytest.approx(celsius, abs=1e-6)


def test_outside_the_range_is_refused():
    with pytest.raises(Refused, match="platinum"):
        rtd.resistance(np.array([20.0, 900.0]))
    with pytest.raises(Refused, match="platinum"):
        rtd.temperature(5.0)


# IEC 60751 class B; IEC 60584-1:2013 class 2
@pytest.mark.parametrize(
    ("sensor", "at", "allowed"),
    [("Pt100", 60, 0.6), ("K", 20, 2.5), ("K", 800, 6.0), ("N", 515, 3.8625), ("T", 100, 1.0), ("S", 1000, 2.5)],
)
def test_tolerance_of_a_new_sensor(sensor, at, allowed):
    assert tolerance(sensor, at) == pytest.approx(allowed)


def test_no_tolerance_where_the_class_does_not_cover():
    assert tolerance("B", 100) is None
