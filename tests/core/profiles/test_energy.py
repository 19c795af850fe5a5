"""What a course costs and its highest quarter of an hour, against a meter that is read every second."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.profiles.energy import DEAREST, Tariff, check_prices, use_of
from rellux.core.profiles.predict import Course
from tests.examples import cases

HOUR_H = st.integers(0, 24).map(float)
TARIFF = st.builds(Tariff, st.floats(0, 2), st.floats(0, 2), HOUR_H, HOUR_H)


def course(output, step_s):
    time_s = np.arange(len(output)) * step_s
    same = np.zeros(len(output))
    return Course(
        time_s,
        same,
        same,
        np.array(output, float),
        same,
        same,
        same.astype(np.int64),
        same.astype(bool),
        True,
        float(time_s[-1]),
        0.0,
        0.0,
    )


@settings(max_examples=cases(30), deadline=None)
@given(st.lists(st.floats(0, 100), min_size=2, max_size=120), st.sampled_from([60, 300]), TARIFF, st.floats(0, 24))
def test_energy_price_and_peak_are_those_of_a_meter_read_every_second(output, step_s, tariff, begins_h):
    found = use_of(course(output, step_s), 2400.0, tariff, begins_h)
    watts = np.repeat(np.array(output[:-1]) / 100 * 2400.0, step_s)
    hours = (begins_h + np.arange(len(output) - 1) * step_s / 3600) % 24
    inside = [
        tariff.night_from_h <= h < tariff.night_to_h
        if tariff.night_from_h <= tariff.night_to_h
        else not tariff.night_to_h <= h < tariff.night_from_h
        for h in hours
    ]
    price = sum(
        watts[i * step_s : (i + 1) * step_s].sum() / 3.6e6 * (tariff.night if at_night else tariff.day)
        for i, at_night in enumerate(inside)
    )
    assert found.energy_kwh == pytest.approx(watts.sum() / 3.6e6, abs=1e-9)
    assert found.price == pytest.approx(price, abs=1e-9)
    whole = np.concatenate((watts, np.zeros(900)))
    read = np.concatenate(([0.0], np.cumsum(whole)))
    assert found.peak_w == pytest.approx(max(read[900:] - read[:-900]) / 900, rel=1e-9, abs=1e-6)


@pytest.mark.parametrize(
    ("tariff", "hours", "fields"),
    [
        (Tariff(-0.1, 0.2), {}, ["tariff.day"]),
        (Tariff(0.3, DEAREST * 1.01), {}, ["tariff.night"]),
        (Tariff(0.3, float("nan"), 24.5, -1.0), {}, ["tariff.night", "tariff.night_from_h", "tariff.night_to_h"]),
        (None, {"begins_h": 24.1, "finish_h": None}, ["begins_h"]),
    ],
)
def test_a_price_or_an_hour_that_cannot_be_is_named(tariff, hours, fields):
    with pytest.raises(Refused) as refused:
        check_prices(tariff, **hours)
    assert sorted(p.field for p in refused.value.problems) == sorted(fields)
    check_prices(Tariff(0.0, DEAREST, 0.0, 24.0), begins_h=0.0, finish_h=24.0)
