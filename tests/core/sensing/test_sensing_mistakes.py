"""What mistakes show, which colours mean what, and what to feed an input."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.sensing.circuits import swept
from rellux.core.sensing.colours import STANDARDS, boiling_water_mv, which_is_positive
from rellux.core.sensing.feed_table import Lead, table
from rellux.core.sensing.mistakes import Circumstances, mistakes
from rellux.core.sensing.sensors import NAMES, NTC, sensor_range
from rellux.core.sensing.suspects import FAR, explain_pairs
from rellux.core.sensing.thermocouples import TYPES, compensate, emf

USUAL = Circumstances(head_c=60, terminals_c=25)


def shows(sensor, key, true, at=USUAL):
    found = next(m for m in mistakes(sensor, at) if m.key == key)
    return found.display(np.atleast_1d(np.asarray(true, dtype=float)))


@pytest.mark.parametrize("sensor", [n for n in NAMES if n != NTC])
def test_a_right_connection_shows_the_truth(sensor):
    low, high = sensor_range(sensor)
    true = np.linspace(max(low, 300 if sensor == "B" else low), high, 60)
    assert shows(sensor, "right", true).celsius == pytest.approx(true, abs=1e-3)


# worked from the reference functions: head 60 °C, terminals 25 °C, load at 800 °C
@pytest.mark.parametrize(
    ("sensor", "key", "error"), [("K", "copper", -34.9), ("S", "copper", -20.5), ("K", "crossed", -69.5)]
)
def test_copper_and_crossed_extension_read_low(sensor, key, error):
    assert shows(sensor, key, 800).celsius[0] - 800 == pytest.approx(error, abs=0.05)


def test_a_reversed_type_k_goes_under_range_past_208_degrees():
    true = np.arange(25.0, 400.0)
    shown = shows("K", "reversed", true)
    assert true[shown.side < 0][0] == 208
    assert np.all(np.diff(shown.celsius[shown.side == 0]) < 0)  # it falls as the load heats


@pytest.mark.parametrize(("true", "error"), [(400, -2), (800, 7), (1200, -16)])
def test_a_linear_converter_for_type_k(true, error):
    assert shows("K", "linear", true).celsius[0] - true == pytest.approx(error, abs=0.5)


def test_the_wrong_input_type_is_the_other_table():
    expected = compensate("J", emf("K", 500.0) - emf("K", 25.0), 25.0)
    assert shows("K", "as_J", 500).celsius[0] == pytest.approx(float(expected), abs=1e-3)


@pytest.mark.parametrize(("key", "per_degree"), [("right", 0), ("copper", -1), ("crossed", -2), ("reversed_head", 2)])
def test_the_head_test_tells_them_apart(key, per_degree):
    """Warm the head by five degrees with the load at room temperature."""
    cool, warm = (shows("K", key, 25, Circumstances(head, 25)).celsius[0] for head in (25, 30))
    assert (warm - cool) / 5 == pytest.approx(per_degree, abs=0.06)


@pytest.mark.parametrize(("true", "per_ohm"), [(0, 2.56), (400, 2.90), (600, 3.11)])
def test_two_wire_lead_error_of_a_pt100(true, per_ohm):
    assert shows("Pt100", "two_wire", true).celsius[0] - true == pytest.approx(per_ohm, abs=0.01)


@settings(max_examples=60)
@given(st.sampled_from(["copper", "crossed", "as_J", "fahrenheit", "right", "no_compensation"]), st.floats(-1.5, 1.5))
def test_pairs_made_by_a_mistake_are_explained_by_it(key, noise):
    at = Circumstances(head_c=75, terminals_c=22)
    true = np.array([300.0, 700.0])
    seen = shows("K", key, true, at).celsius + noise
    best = explain_pairs("K", at, tuple(zip(seen, true, strict=True)), own_c=4.0)[0]
    assert best.key == key and best.fits


def test_what_nothing_explains_fits_nothing():
    found = explain_pairs("K", USUAL, ((520.0, 300.0), (310.0, 700.0)), own_c=4.0)
    assert not any(f.fits for f in found)
    assert {f.key for f in found if f.residual_c > FAR * 4.0} <= {"right"}  # nothing hundreds of degrees off is offered
    assert "reversed" not in {f.key for f in found}  # it would show no number


@given(
    st.sampled_from(["K", "J", "T", "N", "S", "Pt100"]),
    st.lists(st.tuples(st.floats(50, 350), st.floats(-1, 1)), min_size=1, max_size=4),
)
def test_a_right_connection_that_fits_is_never_called_a_mistake(sensor, seen):
    """However well a mistake fits the noise: a link of ten degrees less fits as well as none, and nobody rewires for it."""
    pairs = tuple((true + noise, true) for true, noise in seen)
    assert explain_pairs(sensor, USUAL, pairs, own_c=2.5)[0].key == "right"


# from memory of DIN 43710, as the handbook of this trade has it too: L read as J is about +6 °C at 400, +11 at 800
@pytest.mark.parametrize(("true", "error"), [(400, 6), (800, 11)])
def test_an_old_type_l_read_as_j(true, error):
    at = Circumstances(60, 0)
    assert shows("J", "is_L", true, at).celsius[0] - true == pytest.approx(error, abs=0.6)


@pytest.mark.parametrize(("error", "true", "reads"), [(10, 400, -9.6), (-10, 400, 9.6), (10, 25, -10.0)])
def test_a_cold_junction_error_counts_by_the_slopes(error, true, reads):
    """S(25 °C) = 40.5 µV/°C and S(400 °C) = 42.2 µV/°C for type K (NIST Monograph 175)."""
    shown = shows("K", "warm_terminals", true, Circumstances(60, 25, junction_error_c=error)).celsius[0] - true
    assert shown == pytest.approx(reads, abs=0.1)


def test_shorts_show_their_own_place_and_an_open_one_no_number():
    true = np.array([25.0, 400.0])
    assert shows("K", "shorted_head", true).celsius.tolist() == [60, 60]
    assert shows("K", "shorted_terminals", true).celsius.tolist() == [25, 25]
    assert shows("K", "open", true).side.tolist() == [1, 1] and shows("Pt100", "shorted", true).side.tolist() == [
        -1,
        -1,
    ]
    assert shows("Pt100", "three_wire", 400, Circumstances(lead_difference_ohm=-0.5)).celsius[0] == pytest.approx(
        398.55, abs=0.02
    )


@pytest.mark.parametrize(
    ("at", "field"),
    [
        (Circumstances(head_c=900), "head_c"),
        (Circumstances(lead_ohm=-1), "lead_ohm"),
        (Circumstances(junction_error_c=500), "junction_error_c"),
    ],
)
def test_circumstances_no_instrument_stands_in_are_refused(at, field):
    with pytest.raises(Refused) as refused:
        mistakes("K", at)
    assert refused.value.problems[0].field == field


# mV, tip in boiling water, terminals at 20 °C: E(100) − E(20) of NIST Monograph 175
@pytest.mark.parametrize(
    ("letter", "millivolts"),
    [("E", 5.13), ("J", 4.25), ("T", 3.49), ("K", 3.30), ("N", 2.25), ("R", 0.54), ("S", 0.53), ("B", 0.04)],
)
def test_boiling_water_test(letter, millivolts):
    assert boiling_water_mv(letter) == pytest.approx(millivolts, abs=0.006)


# colours from memory of the standards
@pytest.mark.parametrize(
    ("colours", "types", "positive", "tests"),
    [
        (("green", "white"), {"K"}, "green", []),
        (("brown", "blue"), {"K", "E"}, "brown", ["A magnet", "Boiling water"]),
        (("blue", "white"), {"T", "R", "S"}, "white", ["Boiling water"]),
        (("red", "white"), {"J", "R", "S"}, "", ["Warm the tip", "A magnet", "Boiling water"]),
        (("blue", "red"), {"T", "L"}, "", ["Warm the tip", "A magnet"]),
        (("pink", "blue"), set(), "", []),
    ],
)
def test_two_colours_seen(colours, types, positive, tests):
    found = which_is_positive(*colours)
    assert {f.type for f in found.fits} == types
    assert found.certain_positive == positive
    assert [t.name for t in found.tests] == tests
    assert {(f.type, f.positive) for f in which_is_positive(*reversed(colours)).fits} == {
        (f.type, f.positive) for f in found.fits
    }


def test_the_sheath_puts_what_agrees_first_and_settles_where_it_can():
    found = which_is_positive("red", "white", "black")
    assert found.fits[0].type == "J" and found.fits[0].sheath_agrees
    assert found.certain_positive == "white" and not found.tests
    assert which_is_positive("yellow", "red", "brown").fits[0].sheath_agrees  # the probe's own cable


def test_german_j_and_t_are_never_called_j_or_t():
    german = next(s for s in STANDARDS if "DIN" in s.name)
    assert {"L", "U"} <= german.legs.keys() and not {"J", "T"} & german.legs.keys()


@pytest.mark.parametrize(("first", "second", "field"), [("tartan", "red", "first"), ("red", "red", "second")])
def test_impossible_colours_are_refused(first, second, field):
    with pytest.raises(Refused) as refused:
        which_is_positive(first, second)
    assert refused.value.problems[0].field == field


def test_ohms_for_the_alarm_check_of_a_pt100():
    """IEC 60751: 138.51 Ω at 100 °C and 146.07 Ω at 120 °C."""
    rows = {r.celsius: r.feed for r in table("Pt100", 100, 120, 20, 25).rows}
    assert rows == pytest.approx({100: 138.51, 120: 146.07}, abs=0.005)


@settings(max_examples=60)
@given(st.sampled_from([t for t in TYPES if t != "B"]), st.floats(0, 350), st.floats(5, 45))
def test_what_is_fed_through_copper_is_shown(letter, celsius, terminals):
    row = table(letter, celsius, celsius, 1, terminals).rows[0]
    assert float(compensate(letter, row.feed, terminals)) == pytest.approx(celsius, abs=2e-3)
    # by extension wire the junction moves to the source: what the input adds is undone by the wire between them
    source = 50 - terminals
    through_extension = table(letter, celsius, celsius, 1, terminals, Lead.EXTENSION, source).rows[0].feed
    wire = float(emf(letter, source) - emf(letter, terminals))
    assert float(compensate(letter, through_extension + wire, terminals)) == pytest.approx(celsius, abs=2e-3)
    assert table(letter, celsius, celsius, 1, terminals, Lead.SIMULATOR).rows[0].feed == celsius


def test_a_type_b_is_not_fed_where_its_voltage_tells_nothing():
    """NIST Monograph 175: −2.6 µV at 21 °C and 0 again at 42 °C."""
    found = table("B", 0, 200, 20, 25)
    assert [r.celsius for r in found.rows] == [60, 80, 100, 120, 140, 160, 180, 200] and "left out" in found.how
    with pytest.raises(Refused):
        table("B", 0, 40, 10, 25)


@pytest.mark.parametrize(
    ("low", "high", "step", "field"), [(0, 5000, 10, "low_c"), (0, 100, 0, "step_c"), (0, 1000, 0.1, "step_c")]
)
def test_tables_that_cannot_be_are_refused(low, high, step, field):
    with pytest.raises(Refused) as refused:
        table("K", low, high, step, 25)
    assert refused.value.problems[0].field == field


@pytest.mark.parametrize(("key", "shows"), [("shorted_head", 60.0), ("shorted_terminals", 25.0)])
def test_a_short_shows_its_own_place_whatever_else_is_swept(key, shows):
    true = np.array([200.0, 800.0])
    assert swept("K", key, "junction_error_c", np.array([0.0]), true, 25.0, 60.0) == pytest.approx(shows)
    for name in ("head_c", "terminals_c"):
        assert swept("K", key, name, np.array([40.0]), true, 25.0, 60.0) == pytest.approx(40.0)
