"""Twenty rigs of every form of process: by hand, ``./rellux endure``."""

import pytest

from tests.core.tuning import test_other_forms


@pytest.mark.parametrize(
    "check",
    [
        test_other_forms.test_what_rises_for_ever_is_called_so_and_its_rate_is_known,
        test_other_forms.test_an_own_lag_of_cooling_is_found_where_there_is_one,
        test_other_forms.test_walls_that_warm_up_are_told_from_the_chamber,
        test_other_forms.test_one_lag_is_not_taken_for_more,
    ],
)
def test_each_form_is_told_over_many(check, monkeypatch):
    monkeypatch.setattr(test_other_forms, "LOGS", range(100, 120))
    check()
