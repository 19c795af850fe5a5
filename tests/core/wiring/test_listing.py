"""What a part may be rated with: numbers where anything is worked out with them, whatever kind they hang on."""

import pytest

from rellux.core.errors import Refused
from rellux.core.wiring.library import PART_TYPES
from rellux.core.wiring.listing import check_ratings

NUMBERS = sorted({r.name for t in PART_TYPES.values() for r in t.ratings if r.kind is not None})


@pytest.mark.parametrize("name", NUMBERS)
def test_a_rating_that_is_a_number_somewhere_is_no_word_anywhere(name):
    """A text for the power of a part that usually has none once broke every page of the rig."""
    for kind in PART_TYPES:
        for word in ("1", "", "A1.L"):
            with pytest.raises(Refused) as refused:
                check_ratings(kind, {name: word})
            assert refused.value.problems[0].field == f"ratings.{name}"
        assert check_ratings(kind, {name: 5.0})[name] == 5.0


@pytest.mark.parametrize("kind", sorted(PART_TYPES))
def test_a_word_of_before_is_kept_on_any_kind(kind):
    assert check_ratings(kind, {"remark": "blue"}) == {"remark": "blue"}
