"""Conductors by both schools. Values of the codes' tables are from memory of the handbooks, and are marked so in the program."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.heating.conductors import Insulation, Laying, Run, ambient_factor, area_of, size
from rellux.core.heating.protection_data import IEC_B1, IEC_CORD, NEC_310_16, Practice
from rellux.core.heating.wire import awg_area_mm2, awg_diameter_mm, nearest_awg, ohm_per_metre


def cord(**given):
    base = dict(
        practice=Practice.IEC,
        laying=Laying.CORD,
        insulation=Insulation.PVC,
        cores=2,
        ambient_c=30.0,
        together=1,
        length_m=3.0,
        voltage_v=230.0,
    )
    return Run(**{**base, **given})


def chosen(current, run):
    found = size(current, run)
    return None if found.chosen is None else (found.sizes[found.chosen].label, found.breaker_a)


# ASTM B258: diameter in mm and area in mm²; NEC chapter 9 table 8 has the same areas
@pytest.mark.parametrize(
    ("gauge", "diameter", "area"),
    [
        (-3, 11.684, 107.2),
        (4, 5.189, 21.15),
        (10, 2.588, 5.261),
        (14, 1.628, 2.081),
        (22, 0.644, 0.3255),
        (36, 0.127, 0.01267),
    ],
)
def test_american_gauges(gauge, diameter, area):
    assert awg_diameter_mm(gauge) == pytest.approx(diameter, rel=1e-3)
    assert awg_area_mm2(gauge) == pytest.approx(area, rel=1e-3)
    assert nearest_awg(area) == gauge


# NEC chapter 9 table 8, uncoated stranded copper at 75 °C, Ω per 1000 ft, from memory
@pytest.mark.parametrize(
    ("label", "per_kft"), [("14 AWG", 3.14), ("12 AWG", 1.98), ("10 AWG", 1.24), ("8 AWG", 0.778), ("6 AWG", 0.491)]
)
def test_resistance_of_stranded_wire(label, per_kft):
    assert ohm_per_metre(label, area_of(label), 75) * 304.8 == pytest.approx(per_kft, rel=0.015)


def test_a_metric_flex_has_a_sixth_more_than_solid_copper():
    # IEC 60228 class 5: 13.3 Ω/km at 20 °C for 1.5 mm²
    assert ohm_per_metre("1.5 mm²", 1.5, 20) * 1000 == pytest.approx(13.3)


# The codes print these; the formula √((T − T_a)/(T − 30)) reproduces them
@pytest.mark.parametrize(
    ("limit", "ambient", "factor"),
    [
        (70, 40, 0.87),
        (70, 50, 0.71),
        (70, 60, 0.50),
        (90, 40, 0.91),
        (90, 50, 0.82),
        (90, 60, 0.71),
        (75, 40, 0.88),
        (75, 50, 0.75),
        (75, 60, 0.58),
        (60, 40, 0.82),
        (60, 50, 0.58),
        (60, 55, 0.41),
    ],
)
def test_ambient_correction_is_that_of_the_tables(limit, ambient, factor):
    assert ambient_factor(limit, ambient) == pytest.approx(factor, abs=0.006)


def test_thirteen_amperes_run_a_thin_flex_at_its_limit():
    """Common practice: 1.25 mm² is at its limit, 1.5 the least, 2.5 comfortable."""
    assert chosen(13, cord()) == ("1.25 mm²", 13)
    assert chosen(13.04, cord()) == ("1.5 mm²", 16)


@pytest.mark.parametrize(
    ("current", "run", "answer"),
    [
        # NEC: 16 A continuous wants 20 A breaker; 12 AWG carries 20 A at 60 °C
        (16, cord(practice=Practice.NEC, laying=Laying.CONDUIT), ("12 AWG", 20)),
        # 12 A continuous: 15 A breaker, 14 AWG under the small-conductor rule
        (12, cord(practice=Practice.NEC, laying=Laying.CONDUIT), ("14 AWG", 15)),
        # near-miss: a little more needs the next of both
        (12.1, cord(practice=Practice.NEC, laying=Laying.CONDUIT), ("12 AWG", 20)),
        # IEC B1, two loaded, 70 °C: 1.5 mm² carries 17.5 A; at 40 °C 15.2 A is less than a 16 A breaker
        (15, cord(laying=Laying.CONDUIT), ("1.5 mm²", 16)),
        (15, cord(laying=Laying.CONDUIT, ambient_c=40), ("2.5 mm²", 16)),
        # three circuits together: 0.7 × 24 = 16.8 A
        (15, cord(laying=Laying.CONDUIT, together=3), ("2.5 mm²", 16)),
        # three loaded cores of a cord: 1.5 mm² still carries 16 A, 25 A needs 4 mm²
        (24, cord(cores=3, voltage_v=400), ("4 mm²", 25)),
    ],
)
def test_sizes_by_both_schools(current, run, answer):
    assert chosen(current, run) == answer


def test_insulation_colder_than_its_place_is_never_right():
    found = size(5, cord(ambient_c=65))
    assert found.chosen is None and "stands {~60 °C}" in found.sizes[-1].wrong[0]
    assert chosen(5, cord(ambient_c=65, insulation=Insulation.SILICONE)) is not None


def test_voltage_drop_and_heat_of_a_run():
    # by hand: 10 m of 1.5 mm² flex, 13.04 A; the conductor at 30 + 30 (13.04/16)² = 49.9 °C
    found = size(13.04, cord(length_m=10))
    s = found.sizes[found.chosen]
    ohm = 13.3e-3 * (1 + 0.00393 * (49.93 - 20))
    assert s.drop_v == pytest.approx(2 * 10 * 13.04 * ohm, rel=1e-3)
    assert s.heat_w_m == pytest.approx(2 * 13.04**2 * ohm, rel=1e-3)


@given(st.floats(0.5, 25), st.sampled_from(Practice), st.sampled_from(Laying), st.floats(-10, 55))
def test_more_current_or_heat_never_asks_for_less_copper(current, practice, laying, ambient):
    def area(a, t):
        found = size(a, cord(practice=practice, laying=laying, ambient_c=t))
        return 1e9 if found.chosen is None else found.sizes[found.chosen].area_mm2

    assert area(current * 1.1, ambient) >= area(current, ambient)
    assert area(current, ambient + 4) >= area(current, ambient)


def test_tables_rise_with_size():
    for table in (*IEC_B1.values(), *IEC_CORD.values(), *NEC_310_16.values()):
        values = list(table.values())
        assert values == sorted(values)


@pytest.mark.parametrize(
    ("current", "given", "field"), [(0, {}, "current_a"), (80, {}, "current_a"), (5, {"together": 99}, "together")]
)
def test_beyond_the_tables_is_refused(current, given, field):
    with pytest.raises(Refused) as refused:
        size(current, cord(**given))
    assert refused.value.problems[0].field == field
