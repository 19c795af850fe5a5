"""Every limit and table cell of the core outside the wiring, moved by a tenth: a pin must notice. None stands without a name."""

import pytest

from tests.core.limits import EXEMPT, PASSED, PINS
from tests.core.nudging import Package, check_all_pinned

CORE = Package("rellux.core", PASSED)


def test_every_constant_is_pinned_or_exempt_for_a_reason():
    check_all_pinned(CORE, PINS, EXEMPT)


@pytest.mark.slow
@pytest.mark.parametrize("constant", PINS)
def test_a_pin_holds_and_notices_every_nudge(constant):
    assert PINS[constant](), "the pin itself does not hold"
    assert not CORE.unnoticed(constant, PINS[constant])


def test_no_threshold_stands_in_the_core_without_a_name():
    """0 to 3 need none; 0.5 is half of a switch that is 0 or 1; tiny numbers are slack of rounding; 60, 3600 and 1000 are units."""
    units = {10, 60, 100.0, 1000, 3600, 5400, 1e5, 1e9}
    slack = {1e-5, 1e-6, 1e-9, 1e-12, -60.0, 0.001, 0.0005, 0.0002}
    plain = {-1, 0, 1, 2, 3, 4, 0.5} | units | slack
    assert not CORE.bare_thresholds(plain)
