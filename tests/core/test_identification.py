"""What is said of a process against logs of known ones: intervals hold as often as they say, are near the narrowest there can be, and what
can be known is called so. ``./rellux endure`` tries a thousand of each kind."""

import pytest

from rellux.core.tuning.identify import identify

from .recorded import KINDS, tally


@pytest.mark.parametrize("kind", KINDS)
def test_what_is_called_supported_holds_and_is_narrow(kind):
    """Twenty logs of each: 95 % of intervals should hold; with less than 85 % of all sixty something is wrong (a chance of 1 in 1,000)."""
    found = tally(kind, range(20), identify)
    assert found.held.mean() >= 0.85, found
    assert (found.wider <= 2.0).all(), found
    assert found.called >= 0.8, found
