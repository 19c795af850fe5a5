"""Class tolerances of both standards cell by cell, and the reading's uncertainty."""

from math import sqrt

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.sensing.budget import ReadingChain, budget
from rellux.core.sensing.sensors import NAMES, NTC, standard_range, tolerance
from rellux.core.sensing.tolerances import cable_permitted, classes_of, permitted

# IEC 60584-1:2013, table of tolerance classes; ASTM E230 (below zero and type B from memory)
CELLS = [
    ("T", "IEC class 1", 100, 0.5),
    ("T", "IEC class 1", 300, 1.2),
    ("T", "IEC class 2", 200, 1.5),
    ("T", "IEC class 3", -100, 1.5),
    ("E", "IEC class 1", 800, 3.2),
    ("E", "IEC class 2", 900, 6.75),
    ("E", "IEC class 3", -200, 3.0),
    ("J", "IEC class 1", 700, 2.8),
    ("J", "IEC class 2", 300, 2.5),
    ("J", "IEC class 2", 750, 5.625),
    ("K", "IEC class 1", 1000, 4.0),
    ("K", "IEC class 2", 1200, 9.0),
    ("K", "IEC class 2", 20, 2.5),
    ("K", "IEC class 3", -150, 2.5),
    ("N", "IEC class 2", 515, 3.8625),
    ("S", "IEC class 1", 1000, 1.0),
    ("S", "IEC class 1", 1500, 2.2),
    ("R", "IEC class 2", 1600, 4.0),
    ("B", "IEC class 2", 1000, 2.5),
    ("B", "IEC class 3", 700, 4.0),
    ("B", "IEC class 3", 1600, 8.0),
    ("K", "ASTM standard", 200, 2.2),
    ("K", "ASTM standard", 1000, 7.5),
    ("K", "ASTM special", 1000, 4.0),
    ("K", "ASTM standard", -150, 3.0),
    ("J", "ASTM special", 200, 1.1),
    ("E", "ASTM standard", 800, 4.0),
    ("R", "ASTM special", 1000, 1.0),
    ("B", "ASTM standard", 1000, 5.0),
    ("Pt100", "class AA", 100, 0.27),
    ("Pt100", "class A", 100, 0.35),
    ("Pt100", "class B", 100, 0.8),
    ("Pt100", "class C", 100, 1.6),
]


@pytest.mark.parametrize(("sensor", "name", "at", "error"), CELLS)
def test_a_cell_of_the_tables(sensor, name, at, error):
    assert permitted(sensor, name, at) == pytest.approx(error)


@pytest.mark.parametrize(
    ("sensor", "name", "at"),
    [
        ("T", "IEC class 2", 351),
        ("K", "IEC class 3", 41),
        ("B", "IEC class 2", 599),
        ("K", "ASTM standard", 1261),
        ("Pt100", "class AA", 251),
    ],
)
def test_beyond_its_class_there_is_no_tolerance(sensor, name, at):
    assert permitted(sensor, name, at) is None


def test_film_elements_have_narrower_ranges():
    assert permitted("Pt100", "class A", 400) is not None and permitted("Pt100", "class A", 400, film=True) is None


def test_classes_that_do_not_exist_are_refused():
    assert "IEC class 3" not in classes_of("J") and "IEC class 1" not in classes_of("B")
    with pytest.raises(Refused, match="has no IEC class 3"):
        permitted("J", "IEC class 3", 20)


@pytest.mark.parametrize(
    ("letter", "joint", "error"),
    [("K", 60, 2.5), ("T", 60, 1.0), ("S", 90, 2.5), ("S", 150, 5.0), ("S", 250, None), ("B", 40, None)],
)
def test_extension_cable(letter, joint, error):
    assert cable_permitted(letter, joint) == error


@given(st.sampled_from(NAMES), st.floats(-300, 2000))
def test_a_better_class_never_permits_more(sensor, at):
    for better, worse in (("IEC class 1", "IEC class 2"), ("ASTM special", "ASTM standard"), ("class A", "class B")):
        if {better, worse} <= set(classes_of(sensor)):
            first, second = permitted(sensor, better, at), permitted(sensor, worse, at)
            assert first is None or second is None or first <= second


def test_the_budget_adds_squares_of_rectangular_half_widths():
    found = budget(
        ReadingChain(
            "N", "IEC class 2", 500, joint_c=40, input_c=0.5, input_percent=0.1, cold_junction_c=1, digit_c=0.1
        )
    )
    # a cold junction counts by the slopes: N has 27.2 µV/°C at the terminals and 38.9 at 500 °C (NIST Monograph 175)
    widths = (3.75, 2.5, 1.0, found.parts[3].value, 0.05)
    assert found.parts[3].value == pytest.approx(27.2 / 38.9, abs=0.01)
    assert [f.value for f in found.parts] == pytest.approx(widths)
    assert found.expanded.value == pytest.approx(2 * sqrt(sum(a**2 / 3 for a in widths)))
    assert found.worst.value == pytest.approx(sum(widths))
    assert sum(found.shares) == pytest.approx(1)
    assert found.advice.startswith(f"Sensor makes {{{100 * 3.75**2 / sum(a**2 for a in widths):.0f} %}} of it")


def test_a_pt100_has_neither_cold_junction_nor_extension_cable():
    assert {f.name for f in budget(ReadingChain("Pt100", "class B", 60, joint_c=40)).parts} == {
        "sensor",
        "input",
        "display digit",
    }


@pytest.mark.parametrize(
    ("chain", "field"),
    [
        (ReadingChain("K", "IEC class 2", 1300), "celsius"),
        (ReadingChain("K", "IEC class 9", 500), "tolerance_class"),
        (ReadingChain("K", "IEC class 2", 500, digit_c=-1), "digit_c"),
        (ReadingChain("B", "IEC class 2", 1000, joint_c=40), "joint_c"),
    ],
)
def test_chains_that_cannot_be_judged_are_refused(chain, field):
    with pytest.raises(Refused) as refused:
        budget(chain)
    assert refused.value.problems[0].field == field


@pytest.mark.parametrize("joint", [-40.0, -0.5, 0.0, 20.0])
def test_no_cable_is_defined_for_type_b(joint):
    assert cable_permitted("B", joint) is None


def test_a_budget_names_the_standard_of_its_sensor():
    for sensor, name, standard in (("K", "IEC class 2", "60584"), ("Pt100", "class B", "60751")):
        own = next(p for p in budget(ReadingChain(sensor, name, 100)).parts if p.name == "sensor")
        assert standard in own.source


def test_a_thermistor_is_allowed_a_hundredth_of_its_way_from_25():
    at, away = tolerance(NTC, 25.0), tolerance(NTC, 125.0)
    assert away - at == pytest.approx(1.0) and tolerance(NTC, -25.0) - at == pytest.approx(0.5)


def test_sensors_without_a_standard_table_are_refused_with_those_that_have_one():
    with pytest.raises(Refused) as refused:
        standard_range(NTC)
    assert set(refused.value.problems[0].accepted.split(", ")) == set(NAMES) - {NTC}
