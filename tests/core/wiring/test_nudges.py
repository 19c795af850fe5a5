"""Every threshold and table cell of the wiring core, moved by a tenth either way (a whole number by one): a pin must notice.

The constants are found in the code, not listed by hand; one that decides nothing is exempt for a reason.
"""

import pytest

from tests.core.nudging import Package, check_all_pinned
from tests.core.wiring.pins import EXEMPT, EXEMPT_UP, PINS

WIRING = Package("rellux.core.wiring", passed=("kinds", "library"))
"""What a generic part (``kinds``) is rated for is a proposal, not a decision."""


def test_every_constant_is_pinned_or_exempt_for_a_reason():
    check_all_pinned(WIRING, PINS, EXEMPT)


@pytest.mark.slow
@pytest.mark.parametrize("constant", PINS)
def test_a_pin_holds_and_notices_every_nudge(constant):
    assert PINS[constant](), "the pin itself does not hold"
    if constant not in EXEMPT:
        assert not WIRING.unnoticed(constant, PINS[constant], up=constant not in EXEMPT_UP)


def test_no_threshold_stands_in_the_code_without_a_name():
    """0, 1, 2 and counts of poles and lives need none; 1e9 and 10 kΩ are what a part without a rating is taken for."""
    assert not WIRING.bare_thresholds({-1, 0, 1, 2, 3, 1e9, 10_000.0})
