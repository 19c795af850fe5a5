"""Conductors by both schools. Values of the codes' tables are from memory of the handbooks, and are marked so in the program."""

from dataclasses import replace
from math import pi

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.heating.conductor_tables import IEC_B1, IEC_CORD, NEC_310_16, Practice
from rellux.core.heating.conductors import ambient_factor, size
from rellux.core.heating.run_of_wire import Behind, Insulation, Laying, Run
from rellux.core.heating.short_circuit import adiabatic_k, fault_loop, withstands
from rellux.core.heating.wire import area_of, awg_area_mm2, awg_diameter_mm, nearest_awg, ohm_per_metre
from rellux.core.questions.registry import QUESTIONS


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
    ("label", "per_kft"),
    [
        ("14 AWG", 3.14),
        ("12 AWG", 1.98),
        ("10 AWG", 1.24),
        ("8 AWG", 0.778),
        ("6 AWG", 0.491),
        ("1/0 AWG", 0.122),
        ("4/0 AWG", 0.0608),
        ("250 kcmil", 0.0515),
        ("500 kcmil", 0.0258),
    ],
)
def test_resistance_of_stranded_wire(label, per_kft):
    assert ohm_per_metre(label, area_of(label), 75) * 304.8 == pytest.approx(per_kft, rel=0.015)


def test_a_metric_flex_has_a_sixth_more_than_solid_copper():
    # IEC 60228 class 5: 13.3 Ω/km at 20 °C for 1.5 mm²
    assert ohm_per_metre("1.5 mm²", 1.5, 20) * 1000 == pytest.approx(13.3)


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
        # 200 kW on 400 V: 289 A, 315 A breaker; IEC table B.52.4, three loaded, 70 °C: 240 mm² carries 346 A
        (288.7, cord(laying=Laying.CONDUIT, cores=3, voltage_v=400), ("240 mm²", 315)),
        # NEC: 100 A breaker on 60 °C ends takes 1 AWG (110 A); 125 % of 120.3 A wants 150.4 A: 2/0 at 75 °C (175 A)
        (80, cord(practice=Practice.NEC, laying=Laying.CONDUIT, cores=3, voltage_v=480), ("1 AWG", 100)),
        (120.3, cord(practice=Practice.NEC, laying=Laying.CONDUIT, cores=3, voltage_v=480), ("2/0 AWG", 175)),
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


@given(st.floats(0.5, 250), st.sampled_from(Practice), st.sampled_from(Laying), st.floats(-10, 55))
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
    ("current", "given", "field"), [(0, {}, "current_a"), (401, {}, "current_a"), (5, {"together": 99}, "together")]
)
def test_beyond_the_tables_is_refused(current, given, field):
    with pytest.raises(Refused) as refused:
        size(current, cord(**given))
    assert refused.value.problems[0].field == field


HOT = (Insulation.SILICONE, Insulation.PTFE, Insulation.GLASS, Insulation.XLPE)


@given(
    st.sampled_from(list(Practice)),
    st.sampled_from(list(Laying)),
    st.sampled_from(HOT),
    st.sampled_from([2, 3]),
    st.floats(0.5, 60),
    st.floats(-40, 400),
    st.integers(1, 9),
    st.sampled_from([0, 60, 70, 75, 90]),
)
def test_insulation_that_stands_heat_never_makes_a_thinner_wire_right(
    practice, laying, hot, cores, amps, ambient, together, ends
):
    """The ends stay at 60, 70 or 75 °C: no insulation and no cold room chooses less than PVC at 30 °C alone."""
    cool = Run(practice, laying, Insulation.PVC, cores, 30, 1, 3, 230, min(ends or 70, 75))
    run = replace(cool, insulation=hot, ambient_c=ambient, together=together, terminal_c=ends if ends != 90 else 0)
    try:
        found, least = size(amps, run), size(amps, replace(cool, terminal_c=run.terminal_c))
    except Refused:
        return
    if found.best:
        assert least.best is not None and found.best.area_mm2 >= least.best.area_mm2
        assert found.best.allowed_a <= found.best.ends_a


@pytest.mark.parametrize(
    ("limit", "ambient", "printed"),
    # IEC 60364-5-52 table B.52.14 and NEC table 310.15(B)(1), from memory
    [
        *[
            (70, 10, 1.22),
            (70, 20, 1.12),
            (70, 40, 0.87),
            (70, 50, 0.71),
            (70, 60, 0.50),
            (90, 40, 0.91),
            (90, 60, 0.71),
        ],
        *[
            (75, 40, 0.88),
            (75, 50, 0.75),
            (75, 60, 0.58),
            (60, 40, 0.82),
            (60, 50, 0.58),
            (60, 10, 1.29),
            (75, 10, 1.20),
        ],
    ],
)
def test_correction_for_ambient_is_what_the_codes_print(limit, ambient, printed):
    assert ambient_factor(limit, ambient) == printed


@given(st.floats(-60, 9.9), st.sampled_from([60, 70, 75, 90]))
def test_a_cold_room_gives_no_more_than_the_coldest_row(ambient, limit):
    assert ambient_factor(limit, ambient) == ambient_factor(limit, 10)


def test_beyond_cords_fixed_wiring_is_proposed():
    answer = QUESTIONS["wire"].ask({"current_a": 34.8})
    assert "6 mm²" in answer.headline and "conduit" in answer.headline
    assert {f.rule for f in answer.findings} == {"wire.none"}
    assert "cord" not in QUESTIONS["wire"].ask({"current_a": 30.0}).headline  # 4 mm² cord still carries it


@pytest.mark.parametrize(("curve", "times"), [("B", 5), ("C", 10), ("D", 20)])
def test_fault_loop_by_curve(curve, times):
    """IEC 60364-4-41: Z_s ≤ U₀/(5, 10, 20 I_n)."""
    assert fault_loop(230, 16, curve) == pytest.approx(230 / (times * 16))


@pytest.mark.parametrize(("insulation", "k"), [(Insulation.PVC, 115), (Insulation.XLPE, 143)])
def test_k_is_that_of_the_standards_table(insulation, k):
    """IEC 60364-4-43 table 43A: 115 and 143 for copper; let-through is k² S²."""
    assert adiabatic_k(insulation) == pytest.approx(k, abs=0.6)
    assert withstands(1.5, insulation) == pytest.approx((k * 1.5) ** 2, rel=0.01)


def rules(**values):
    answer = QUESTIONS["wire"].ask({"current_a": 4.0, **values})
    return answer.headline.split(" (")[0], {f.rule for f in answer.findings}


@pytest.mark.parametrize(
    ("values", "answer"),
    [
        # protected against overload, a 16 A breaker asks for 1.5 mm²
        ({"behind_a": 16.0}, ("1.5 mm²", set())),
        # a load that cannot overload it: the short circuit decides, by hand: 250² × 0.1 s = 6250 A²s, 0.75 mm² stands
        # (115 × 0.75)² = 7439, and 273 A brings 7453
        ({"behind_a": 16.0, "cannot_overload": True, "fault_a": 250.0}, ("0.75 mm²", {"wire.short-circuit-only"})),
        ({"behind_a": 16.0, "cannot_overload": True, "fault_a": 274.0}, ("1.0 mm²", {"wire.short-circuit-only"})),
        # unknown: what a breaker of class 3 may let through, 35 000 A²s, asks for 1.63 mm²
        ({"behind_a": 16.0, "cannot_overload": True}, ("2.5 mm²", set())),
        # without a breaker that is there, one for the load: 6 A, whose let-through decides all the same
        ({"cannot_overload": True, "fault_a": 274.0}, ("1.0 mm²", set())),
        # far end of 20 m: 230 V / (2.3 Ω + 40 m × 15.6 mΩ × 1.039) = 78 A does not open 16 A of curve B (80 A), 1.5 mm² does
        ({"behind_a": 16.0, "cannot_overload": True, "fault_a": 100.0, "length_m": 20.0}, ("1.5 mm²", set())),
        # control wires: never below 0.75 mm², with a fuse of their own behind a large breaker only
        ({"current_a": 0.2, "serves": "control"}, ("0.75 mm²", set())),
        ({"current_a": 0.2, "serves": "control", "behind_a": 32.0}, ("0.75 mm²", {"wire.own-fuse"})),
        ({"current_a": 0.2}, ("0.75 mm²", set())),
        # a plug near its rating for hours
        ({"current_a": 11.8, "plug_a": 13.0}, ("1.25 mm²", {"wire.plug-hours"})),
        ({"current_a": 11.6, "plug_a": 13.0}, ("1.25 mm²", set())),
        ({"current_a": 12.1, "plug_a": 15.0, "practice": "nec"}, ("14 AWG", {"wire.plug-hours"})),
    ],
)
def test_what_protects_a_wire_and_what_it_serves(values, answer):
    assert rules(**values) == answer


@pytest.mark.parametrize(
    ("current", "run", "answer"),
    [
        # IEC 60204-1 table 6, B1, 40 °C: 1.5 mm² carries 13.5 A, 2.5 mm² 18.3 A
        (13.0, cord(laying=Laying.INSIDE, ambient_c=40), ("1.5 mm²", 13)),
        (13.6, cord(laying=Laying.INSIDE, ambient_c=40), ("2.5 mm²", 16)),
        (13.0, cord(laying=Laying.INSIDE, ambient_c=45), ("2.5 mm²", 13)),
        # NEC 402.5: 18 AWG 6 A, and 240.5(B)(2): behind 20 A up to 15 m, beyond that by its own ampacity
        (4.8, cord(practice=Practice.NEC, laying=Laying.INSIDE, behind=Behind(20)), ("18 AWG", 20)),
        (4.9, cord(practice=Practice.NEC, laying=Laying.INSIDE, behind=Behind(20)), ("16 AWG", 20)),
        (4.8, cord(practice=Practice.NEC, laying=Laying.INSIDE, behind=Behind(20), length_m=15.1), ("16 AWG", 20)),
        (4.8, cord(practice=Practice.NEC, laying=Laying.INSIDE, behind=Behind(30)), ("14 AWG", 30)),
    ],
)
def test_single_wires_inside_equipment_by_their_own_tables(current, run, answer):
    assert chosen(current, run) == answer
    with pytest.raises(Refused, match="hours"):
        size(40.0, replace(run, behind=Behind(20)))


@pytest.mark.parametrize("gauge", range(-3, 41))
def test_the_nearest_gauge_of_a_gauge_is_itself(gauge):
    """ASTM B258: each is 92^(1/39) thinner than the one before."""
    area = pi / 4 * awg_diameter_mm(gauge) ** 2
    ratio = 92 ** (2 / 39)  # of areas
    assert nearest_awg(area) == gauge
    for off in (0.02, 0.48):
        assert nearest_awg(area * ratio**off) == gauge == nearest_awg(area * ratio**-off)


@pytest.mark.parametrize("cores", [2, 3])
def test_a_wire_in_conduit_is_held_to_what_its_ends_stand_by_the_column_of_theirs(cores):
    """IEC 60364-5-52, B1: marked for 90 °C the ends let the 90 °C column, unmarked that of 70 °C; marked for 60 °C √(30/40) of that."""
    hot = Insulation.XLPE
    for marked, column, share in ((0, 70, 1.0), (70, 70, 1.0), (90, 90, 1.0), (60, 70, (30 / 40) ** 0.5)):
        run = cord(laying=Laying.CONDUIT, insulation=hot, cores=cores, terminal_c=marked)
        for found in size(10.0, run).sizes:
            assert found.ends_a == pytest.approx(share * IEC_B1[column, cores][found.area_mm2], rel=1e-6), (
                marked,
                found.label,
            )
