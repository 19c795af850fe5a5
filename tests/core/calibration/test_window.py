"""What eats the process window, against a simulated worst case."""

from dataclasses import fields, replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rellux.core.calibration.window import Eaten, ProcessWindow, window_eaten
from rellux.core.errors import Refused

CABINET = ProcessWindow(60.0, 68.0, 57.5)
LITTLE = Eaten(0.3, 0.2, 0.4, 1.0, 0.5)


@given(*(st.floats(0, 2) for _ in fields(Eaten)), st.integers(0, 2**32 - 1))
def test_what_is_said_to_hold_holds_in_every_combination(error, expanded, drift, swing, uneven, seed):
    """The load's temperature, put together from draws of everything that moves it, stays inside where it is said to."""
    found = window_eaten(CABINET, Eaten(error, expanded, drift, swing, uneven))
    random = np.random.default_rng(seed)

    def either(c):
        return random.uniform(-c, c, 400)

    load = (
        60.0
        + either(error)
        + either(expanded)
        + either(drift)
        + swing / 2 * np.sin(random.uniform(0, 7, 400))
        + either(uneven)
    )
    if found.holds:
        assert np.all((load >= 57.5 - 1e-9) & (load <= 68.0 + 1e-9))
    worst = error + expanded + drift + swing / 2 + uneven
    assert found.holds == (worst <= 2.5) and found.eaten.value == pytest.approx(worst)


def test_the_largest_part_comes_first_and_says_what_to_do():
    found = window_eaten(CABINET, LITTLE)
    assert [p.key for p in found.parts][:2] == ["ripple", "uneven"] and found.half.value == 2.5
    assert "It holds" not in found.says and "Tight: {76 %}" in found.says and "tune the control" in found.says
    assert "It holds" in window_eaten(CABINET, replace(LITTLE, uneven_c=0.4)).says  # near miss
    over = window_eaten(CABINET, replace(LITTLE, uneven_c=3.0))
    assert not over.holds and "leave the window by {1.9 Δ°C}" in over.says and "stir the air" in over.says
    assert window_eaten(replace(CABINET, lowest_c=None), LITTLE).half.value == 8.0
    unknown = window_eaten(CABINET, Eaten(0.3, 0.2, None, 1.0, None))
    assert (
        "As far as is known it holds" in unknown.says
        and "drift until the next comparison, unevenness of the load" in unknown.says
    )
    assert "Not counted" in window_eaten(CABINET, Eaten(0.3, 2.0, None, 0.2, None)).says
    assert "compare the display first" in window_eaten(CABINET, Eaten(0, 0, 0, 0, 0)).says


@pytest.mark.parametrize(
    ("window", "by", "field"),
    [
        (replace(CABINET, highest_c=60.0), LITTLE, "highest_c"),
        (replace(CABINET, lowest_c=60.0), LITTLE, "lowest_c"),
        (CABINET, replace(LITTLE, uneven_c=201.0), "uneven_c"),
        (CABINET, replace(LITTLE, swing_c=-1.0), "swing_c"),
    ],
)
def test_what_cannot_be_is_asked_back(window, by, field):
    with pytest.raises(Refused) as refused:
        window_eaten(window, by)
    assert refused.value.problems[0].field == field
