"""What a part may be rated with: numbers where anything is worked out with them, whatever kind they hang on."""

from typing import get_args

import pytest

from rellux.core.errors import Refused
from rellux.core.wiring.library import PART_TYPES
from rellux.core.wiring.listing import check_ratings
from rellux.core.wiring.names import Family, input_of, is_input, part_of, path_at, wire_name, wire_number

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


def test_families_are_what_the_kinds_obey_and_no_others():
    """What is compared with a family is checked by the types: a word that is none could never be met."""
    assert {kind.family for kind in PART_TYPES.values()} == set(get_args(Family))


def test_a_branch_says_of_which_part_it_is():
    assert [part_of(b) for b in ("K1", input_of("V1"), path_at("K1.13", "K2.14"))] == ["K1", "V1", "K1"]
    assert is_input(input_of("V1")) and not is_input("V1") and not is_input(path_at("V1.3+", "V1.4-"))
    assert wire_number(wire_name(12)) == 12 and wire_number("Q0 neutral") is None and wire_number("wire") is None
