"""Sentences of the core: differences are marked as such, temperatures are not, and nothing is said in another unit."""

import re

import pytest

from rellux.core.calibration.offsets import OffsetRule, OffsetSchool, Pair, work_out
from rellux.core.control.onoff import FOPDT
from rellux.core.purpose.purpose import Purpose, Supply
from rellux.core.setup.checks import check_sheet
from rellux.core.setup.parameters import spoken_value
from rellux.core.setup.proposals import RigFacts, propose
from rellux.core.units import WORD_JOINER, celsius_from_fahrenheit, spoken_difference

CABINET = Purpose(60, 68, "the cement clouds", Supply.SINGLE_PHASE, 230, 300, 230, 57.5, "stays soft")
FACTS = RigFacts(CABINET, "Pt100", "relay", FOPDT(1.05, 620, 52))


def test_a_difference_carries_its_mark_and_reads_the_same():
    assert spoken_difference(2.5) == f"2.5{WORD_JOINER} °C"
    assert spoken_difference(-0.4, "+g").replace(WORD_JOINER, "") == "-0.4 °C"


@pytest.mark.parametrize(("fahrenheit", "celsius"), [(32, 0), (212, 100), (-40, -40), (350, 176.6667)])
def test_fahrenheit(fahrenheit, celsius):
    assert celsius_from_fahrenheit(fahrenheit) == pytest.approx(celsius, abs=1e-4)


@pytest.mark.parametrize(
    ("name", "value", "words"),
    [
        ("setpoint_c", 60.0, "set-point 60 °C"),
        ("hysteresis_c", 2.0, f"hysteresis 2{WORD_JOINER} °C"),
        ("mode", "on_off", "control mode on/off"),
        ("integral_time_s", 780.0, "integral time 780 s"),
        ("output_high", 75.0, "output high limit 75 %"),
    ],
)
def test_a_parameter_is_said_in_the_trades_words(name, value, words):
    assert spoken_value(name, value) == words


def sentences():
    sheet = {p.name: p.value for p in propose(FACTS)}
    bad = {**sheet, "setpoint_high_c": 60.2, "offset_c": -3.0, "hysteresis_c": 3.0}
    for p in propose(FACTS):
        yield p.reason
    for f in check_sheet(bad, FACTS):
        yield from (f.title, f.reason, f.fix)
    result = work_out((Pair(61, 60), Pair(61.2, 60)), OffsetRule(OffsetSchool.ADDED_TO_READING, 0.0))
    yield from (result.sentence, result.advice)


def test_sentences_end_and_are_in_degrees_celsius_only():
    for sentence in sentences():
        assert sentence and "°F" not in sentence and "  " not in sentence
        assert not re.search(r"\d\s?K\b", sentence), sentence


def test_offsets_tolerances_and_gaps_are_marked_as_differences():
    text = " ".join(sentences())
    for pattern in (r"-3\.0", r"±0\.6", r"0\.2"):
        assert re.search(pattern + WORD_JOINER + " °C", text), pattern
    assert f"68{WORD_JOINER}" not in text  # the highest allowed is a temperature
