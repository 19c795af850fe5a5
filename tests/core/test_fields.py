"""One description of every field: nothing that a screen, a refusal or the Book names is without words or of another kind."""

from rellux.core.fields import fields
from rellux.core.purpose.kinds import KINDS
from rellux.core.purpose.purpose import RigKind, Supply
from rellux.core.setup.dictionary import BY_NAME
from rellux.core.units import Kind

KNOWN = {f.name: f for f in fields()}
OF_ENDING = {
    "_c": {Kind.TEMPERATURE, Kind.DIFFERENCE},
    "_s": {Kind.TIME},
    "_w": {Kind.POWER},
    "_v": {Kind.VOLTAGE},
    "_a": {Kind.CURRENT},
    "_mm2": {Kind.AREA},
    "_m": {Kind.METRES},
}


def test_a_field_is_of_the_kind_its_name_ends_in():
    for name, field in KNOWN.items():
        for ending, kinds in OF_ENDING.items():
            if name.endswith(ending) and field.kind is not None:
                assert field.kind in kinds, name
        if name.endswith(("_c", "_s", "_w", "_v", "_mm2")):
            assert field.kind is not None, name


def test_labels_are_words_and_each_stands_once_among_the_fields_of_one_form():
    assert all((f.label and f.label[0].isupper()) or f.label[0].isdigit() for f in KNOWN.values())
    purpose = [
        KNOWN[n].label
        for n in ("name", "kind", "working_c", "highest_c", "lowest_c", "ambient_c", "highest_reason", "supply")
    ]
    assert len(set(purpose)) == len(purpose)


def test_parameters_of_the_sheet_keep_their_titles_and_choices():
    for name, parameter in BY_NAME.items():
        assert (KNOWN[name].label, KNOWN[name].kind, KNOWN[name].choices) == (
            parameter.title,
            parameter.kind,
            parameter.choices,
        )


def test_every_choice_of_a_rig_is_in_words():
    assert set(KINDS) == set(RigKind)
    assert {key for key, _ in KNOWN["supply"].choices} == {s.value for s in Supply}
