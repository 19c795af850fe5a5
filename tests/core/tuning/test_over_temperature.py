"""The gain over temperature: told as a change only where it is more than chance, and a schedule only where it pays."""

import numpy as np
import pytest

from rellux.core.tuning.over_temperature import At, over_temperature


def at(celsius, gain, wide=0.05, rate=0.002):
    return At(celsius, (gain * (1 - wide), gain, gain * (1 + wide)), (0.9 * rate, rate, 1.1 * rate))


def test_one_temperature_tells_nothing_and_of_near_ones_the_better_counts():
    assert over_temperature([]) is None and over_temperature([at(100, 2.0), at(114, 2.0)]) is None
    found = over_temperature([at(100, 2.0, 0.2), at(114, 1.9, 0.05), at(115.1 + 14, 1.8)])
    assert [p.celsius for p in found.points] == [114, 129.1]


@pytest.mark.parametrize(
    ("gains", "differs", "pays"),
    [
        ((2.0, 1.95, 1.9), False, False),
        ((2.0, 1.8, 1.6), True, False),
        ((2.0, 1.6, 1.2), True, True),
        ((2.0, 1.7, 1.4), True, False),
    ],
)
def test_what_differs_and_what_pays(gains, differs, pays):
    found = over_temperature([at(c, k) for c, k in zip((100.0, 300.0, 500.0), gains, strict=True)])
    assert (found.differs, found.pays) == (differs, pays)
    assert found.line == pytest.approx((gains[0], gains[-1]), rel=0.03)  # weights and all, they lie on a line


def test_gains_of_one_process_are_called_different_as_often_as_chance_has_it():
    rng, called = np.random.default_rng(4), 0
    for _ in range(2000):
        points = [
            At(c, (k - 0.196, k, k + 0.196), (1, 1, 1))
            for c, k in zip((100, 200, 300, 400), rng.normal(2, 0.1, 4), strict=True)
        ]
        called += over_temperature(points).differs
    assert called / 2000 == pytest.approx(0.05, abs=0.015)


def test_the_band_goes_with_the_rate():
    """SIMC: K_c = τ/(K (τ_c + L)), so the proportional band goes with K/τ (Skogestad 2003)."""
    found = over_temperature([at(100, 2.0, rate=0.002), at(400, 1.2, rate=0.0018)])
    assert found.bands == pytest.approx((1.0, 0.9)) and found.pays and "falls" in found.says
