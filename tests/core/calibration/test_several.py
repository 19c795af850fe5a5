"""Comparisons at several temperatures: against NumPy's weighted line, brute force over points, simulated sensors, a controller in °F."""

from itertools import combinations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.examples import cases, some

from rellux.core.calibration.corrections import Correcting, Correction, CorrectionPoint, offset_in_unit
from rellux.core.calibration.due import ComparedAt, of_the_work
from rellux.core.calibration.levels import Level, level_of, temperatures
from rellux.core.calibration.offsets import KnownBefore, OffsetRule, Pair
from rellux.core.calibration.schools import OffsetSchool
from rellux.core.calibration.several import Takes, several
from rellux.core.calibration.verdicts import Advice
from rellux.core.errors import Refused
from rellux.core.menus.meaning import sheet_of, wanted_counts
from rellux.core.menus.shipped.larch import LARCH
from rellux.core.menus.shipped.osier import OSIER
from rellux.core.menus.shipped.teasel import TEASEL
from rellux.core.sensing.thermocouples import emf, temperature
from rellux.core.setup.parameters import corrected_sheet, correction_of, half_corrected
from rellux.core.setup.text_block import TextBlock, filled, read_back

GAIN, POINTS = Correcting.GAIN, Correcting.POINTS
FINE = {"step_c": 1e-6, "gain_step": 1e-9}


def level(true_c, add_c, repeats=0.05, common=0.1, n=3, day=0.0, u_reference=0.05):
    expanded = 2.1 * np.hypot(repeats, common)
    return Level(f"at {true_c:g}", day, (true_c - add_c,) * n, (true_c,) * n, repeats, common, expanded, u_reference)


def takes(how=GAIN, working=150.0, **more):
    return Takes(how, working_c=working, room_c=20.0, highest_c=400.0, **more)


numbers = st.floats(-5.0, 5.0)


@st.composite
def corrections(draw):
    gaps = draw(st.lists(st.floats(20.0, 200.0), max_size=5))
    places = np.cumsum([draw(st.floats(-100.0, 100.0)), *gaps])[1:]
    points = tuple(CorrectionPoint(float(at), draw(st.floats(-4.0, 4.0))) for at in places)
    return Correction(draw(numbers), draw(st.floats(0.8, 1.2)), points)


@given(corrections(), st.floats(-150.0, 900.0))
def test_what_is_shown_leads_back_to_the_reading(it, raw):
    shown = it.shown(raw)
    assert it.raw(shown) == pytest.approx(raw, abs=1e-6)
    assert it.offset_c + it.beside(shown) == pytest.approx(shown - raw, abs=1e-6)


@given(numbers, st.floats(0.9, 1.1), st.floats(-50.0, 900.0))
def test_a_controller_in_fahrenheit_or_kelvin_shows_the_same_temperature(offset, gain, raw):
    celsius = Correction(offset, gain).shown(raw)
    in_fahrenheit = gain * (1.8 * raw + 32.0) + offset_in_unit(offset, gain, "F")
    in_kelvin = gain * (raw + 273.15) + offset_in_unit(offset, gain, "K")
    assert in_fahrenheit == pytest.approx(1.8 * celsius + 32.0) and in_kelvin == pytest.approx(celsius + 273.15)


def test_points_that_cannot_be_are_refused():
    for points in (((50.0, 1.0), (50.0, 2.0)), ((100.0, 0.0), (50.0, 0.0)), ((50.0, 30.0), (60.0, 10.0))):
        with pytest.raises(Refused):
            Correction(points=tuple(CorrectionPoint(*p) for p in points)).raw(55.0)


levels = st.lists(
    st.tuples(st.floats(0.0, 400.0), st.floats(-2.0, 2.0), st.floats(0.02, 0.3)), min_size=2, max_size=7
).filter(lambda rows: max(r[0] for r in rows) - min(r[0] for r in rows) > 45.0)


@given(levels)
def test_the_line_and_its_uncertainty_are_the_weighted_ones(rows):
    """NumPy's polyfit with its unscaled covariance, where nothing is common to the comparisons."""
    given_levels = tuple(level(t, a, u, 0.0) for t, a, u in rows)
    found = several(given_levels, takes(**FINE), "K")
    raw, add, u = (np.array(column) for column in zip(*((t - a, a, u) for t, a, u in rows), strict=True))
    (slope, at_zero), covariance = np.polyfit(raw, add, 1, w=1.0 / u, cov="unscaled")
    assert found.correction.gain == pytest.approx(1.0 + slope, abs=1e-6)
    at = (150.0 - at_zero) / (1.0 + slope)
    assert found.correction.shown(at) == pytest.approx(150.0, abs=1e-4)
    u_there = np.sqrt([at, 1.0] @ covariance @ [at, 1.0])
    half = (found.at_working.high - found.at_working.low) / 2.0
    assert half == pytest.approx(2.1 * u_there, rel=1e-6)


row = st.tuples(st.integers(0, 100), st.floats(-2.0, 2.0), st.floats(0.02, 0.3))
whole = st.lists(row, min_size=2, max_size=7, unique_by=lambda row: row[0])


@given(whole, st.integers(2, 4))
def test_no_other_choice_of_points_leaves_less(rows, count):
    """Brute force over NumPy's interpolation, with readings at whole multiples of 4 °C, so that no temperature is rounded."""
    rows = sorted((4.0 * place + 50.0 * (place == max(r[0] for r in rows)), add, u) for place, add, u in rows)
    raw, add, u = (np.array(column) for column in zip(*rows, strict=True))
    rows = tuple(level(r + a, a, s, 0.0) for r, a, s in zip(raw, add, u, strict=True))
    found = several(rows, takes(POINTS, points=count, step_c=1e-6), "K")

    def cost(knots):
        units = np.array([np.interp(raw, knots, unit) for unit in np.eye(len(knots))]).T / u[:, None]
        best, *_ = np.linalg.lstsq(units, add / u, rcond=None)
        return float(np.sum((units @ best - add / u) ** 2))

    inside = combinations(raw[1:-1], min(count - 2, len(raw) - 2))
    left = sum((at.left.value / s) ** 2 for at, s in zip(found.levels, u, strict=True))
    assert left == pytest.approx(min(cost((raw[0], *k, raw[-1])) for k in inside), rel=1e-3, abs=1e-4)


@pytest.mark.slow
@pytest.mark.parametrize(
    "shared", some([True, False], 1), ids=lambda one: "one reference for all" if one else "each its own"
)
def test_the_interval_at_the_work_holds_the_truth(shared):
    """2,000 simulated sensors with an error of offset and gain, compared at three temperatures."""
    seed = np.random.default_rng(31)
    held, runs, places = 0, 2000, np.array([20.0, 120.0, 260.0])
    for _ in range(runs):
        offset, gain = seed.normal(0.0, 0.5), 1.0 + seed.normal(0.0, 0.004)
        of_reference = seed.normal(0.0, 0.15, 1 if shared else 3)
        raw = places + seed.normal(0.0, 0.04, 3)
        add = (offset + gain * places + of_reference) - raw
        rows = tuple(
            Level("", 0.0, (r,) * 3, (r + a,) * 3, 0.04, 0.15, 2.0 * np.hypot(0.04, 0.15), 0.05)
            for r, a in zip(raw, add, strict=True)
        )
        found = several(rows, takes(working=200.0), "K")
        raw_at = (200.0 - offset) / gain
        truth = found.correction.shown(raw_at) - 200.0
        held += found.at_working.low <= truth <= found.at_working.high
    assert held / runs >= 0.935


def test_what_is_typed_into_a_controller_in_fahrenheit_is_right_there():
    rows = (level(0.0, -0.37), level(94.0, 1.28))
    found = several(rows, takes(working=65.0, unit="F", gain_step=0.001, step_c=0.1 / 1.8), "K")
    gain, offset = found.typed
    raw_f = 1.8 * rows[1].raw_mean_c + 32.0
    shown = (gain.value * raw_f + 1.8 * offset.value - 32.0) / 1.8
    assert shown == pytest.approx(94.0, abs=0.1)
    tenths = 18.0 * offset.value  # it has one digit behind the point, in its own unit
    assert tenths == pytest.approx(round(tenths), abs=1e-6)
    assert float(offset.name.rpartition(" ")[2]) == pytest.approx(1.8 * offset.value, abs=0.01)


def test_points_of_a_controller_in_kelvin_say_how_they_are_keyed_in():
    rows = (level(20.0, -0.4), level(200.0, 1.0))
    for unit, zero, each in (("K", 273.15, 1.0), ("F", 32.0, 1.8)):
        typed = several(rows, takes(POINTS, unit=unit), "K").typed
        for at, adds in zip(typed[::2], typed[1::2], strict=True):
            assert float(at.name.rpartition(" ")[2]) == pytest.approx(each * at.value + zero, abs=1e-6)
            assert float(adds.name.rpartition(" ")[2]) == pytest.approx(each * adds.value, abs=0.005)
    assert all("keyed in" not in f.name for f in several(rows, takes(POINTS), "K").typed)


def advice(rows, how=GAIN, **more):
    return several(tuple(rows), takes(how, **more), "K").verdict


def test_each_advice_where_it_is_due_and_not_beside_it():
    wide = [level(50.0, -0.9), level(250.0, 1.0)]
    assert advice(wide) is Advice.CORRECT
    assert advice([level(50.0, 0.5), level(250.0, 0.7)]) is Advice.ONE_OFFSET
    assert advice([level(50.0, 0.05), level(250.0, -0.1)]) is Advice.LEAVE
    assert advice(wide, working=295.0) is Advice.COMPARE_NEARER and advice(wide, working=285.0) is Advice.CORRECT
    assert advice([level(50.0, -0.9, n=1), wide[1]]) is Advice.MORE_PAIRS
    assert advice([level(50.0, -0.9, u_reference=0.0), wide[1]]) is Advice.NAME_REFERENCE
    there = several(tuple(wide), takes(), "K").correction
    assert advice(wide, now=there) is Advice.LEAVE


@pytest.mark.parametrize("count", some([2, 4, 8], 1))
def test_a_gain_is_seldom_seen_where_there_is_none(count):
    """500 sensors, ten times as many by ``./rellux endure``, off by the same at every temperature: fewer than one in
    ten is told to have more than an offset; one whose error
    grows by four times its uncertainty nearly always is."""
    random = np.random.default_rng(count)
    true = np.linspace(50.0, 350.0, count)

    def told(slope):
        add = 0.9 + slope * (true - 200.0) / 300.0 + random.normal(0.0, 0.2, count)
        rows = tuple(level(t, float(a), 0.2, 0.0) for t, a in zip(true, add, strict=True))
        return several(rows, takes(working=200.0), "K").verdict in (Advice.CORRECT,)

    assert sum(told(0.0) for _ in range(cases(500))) / cases(500) < 0.1
    assert sum(told(2.0) for _ in range(cases(100))) / cases(100) > 0.9


def test_a_wrong_type_is_no_gain_error():
    """A type K junction read as type N: the tables of IEC 60584-1 say what is shown."""
    rows = []
    for true in (100.0, 300.0, 560.0):
        shown = float(temperature("N", emf("K", true) - emf("K", 20.0) + emf("N", 20.0)))
        rows.append(level(true, true - shown))
    found = several(tuple(rows), takes(working=500.0), "K")
    assert found.verdict is Advice.FIND_CAUSE and found.needs_reason
    assert "N" in found.causes.ranked[0].title and found.causes.ranked[0].fits


def test_a_bent_error_needs_points_and_is_told_so():
    bent = [level(0.0, 1.0), level(100.0, -0.6), level(200.0, 1.0)]
    line, points = (several(tuple(bent), takes(how, points=3), "K") for how in (GAIN, POINTS))
    assert "points" in line.advice and not all(at.within for at in line.levels)
    assert all(at.within for at in points.levels) and abs(points.worst.value) < 0.1
    assert "cuts it off" in several((level(0.0, 1.0), level(100.0, -0.6)), takes(working=50.0, limit_c=0.2), "K").advice
    assert several(tuple(bent), takes(GAIN, limit_c=0.2), "K").typed[1].reason.startswith("Cut off")


def test_what_cannot_be_corrected_is_refused():
    two = (level(20.0, 0.1), level(300.0, 0.1))
    near = (two[0], level(59.0, 0.0))
    for rows, more in (
        (two[:1], {}),
        (near, {}),
        (two, {"points": 9}),
        (two, {"step_c": 0.0}),
        (two, {"gain_step": -1.0}),
    ):
        with pytest.raises(Refused):
            several(rows, takes(**more), "K")
    pairs = (Pair(160.0, 165.0), Pair(161.0, 165.0))
    with pytest.raises(Refused, match="one number"):
        level_of("", 0.0, pairs, OffsetRule(OffsetSchool.TEMPERATURE_ADJUST, 0.0, setpoint_c=160.0), "K", KnownBefore())


def test_pairs_of_one_sheet_are_split_by_temperature_and_freed_of_what_is_in_force():
    sheet = (Pair(102.0, 100.0), Pair(0.5, 0.0), Pair(0.6, 0.0), Pair(102.1, 100.0))
    assert [len(g) for g in temperatures(sheet)] == [2, 2]
    rule = OffsetRule(OffsetSchool.ADDED_TO_READING, 0.5, gain=1.02, reference_u_c=0.1)
    hot = level_of("", 0.0, temperatures(sheet)[1], rule, "K", KnownBefore())
    assert hot.raw_mean_c == pytest.approx((102.05 - 0.5) / 1.02)


def test_what_a_sensor_is_off_by_elsewhere_is_no_drift():
    day = [ComparedAt(10.0, 0.0, 0.2), ComparedAt(10.04, 65.0, 0.2), ComparedAt(10.08, 94.0, 0.2)]
    assert of_the_work(day, 65.0) == [1]
    assert of_the_work([*day, ComparedAt(40.0, 94.0, 0.2)], 65.0) == [1, 3]
    assert of_the_work([ComparedAt(10.0, 60.0, 95.0)], 65.0) == []


def test_an_offset_is_never_entered_without_its_gain():
    corrected = {"offset_c": -6.0, "offset_school": "added_to_reading", "gain_correction": 1.02, "correction": "offset"}
    assert "gain of 1.02" in half_corrected(corrected, {"offset_c"})
    assert not half_corrected(corrected, {"offset_c", "gain_correction"})
    assert not half_corrected({**corrected, "gain_correction": 1.0}, {"offset_c"})
    points = corrected_sheet(Correction(points=(CorrectionPoint(0.0, 1.0), CorrectionPoint(100.0, -1.0))), {})
    two = {f"point_{n}_{what}_c" for n in (1, 2) for what in ("at", "add")}
    assert not half_corrected(points, two) and "by points" in half_corrected(points, two - {"point_2_add_c"})
    block = TextBlock("o = {offset_c:.3f}\ng = {gain_correction:.4f}", unit="F")
    said = filled(block, corrected)
    assert "o = -11.440" in said and "g = 1.0200" in said  # 1.8 × −6 + 32 × (1 − 1.02)
    assert read_back(block, said).values["offset_c"] == pytest.approx(-6.0, abs=1e-3)
    with pytest.raises(Refused, match="alone it is wrong"):
        filled(TextBlock("o = {offset_c:.3f}"), corrected)


@pytest.mark.parametrize("unit", ["C", "F"])
def test_a_walk_takes_gain_and_offset_or_points_into_a_controller_and_reads_them_back(unit):
    """Two invented controllers: one with a gain, one with two points; what their pages then mean is what was wanted."""
    gain = {"display_unit": unit, "offset_c": -2.0, "gain_correction": 1.01, "offset_school": "added_to_reading"}
    bent = Correction(points=(CorrectionPoint(0.0, 1.0), CorrectionPoint(100.0, -1.5)))
    points = {"display_unit": unit, **corrected_sheet(bent, {})}
    for made, sheet, names in ((TEASEL, gain, ("offset_c", "gain_correction")), (OSIER, points, ("point_2_add_c",))):
        wanted = wanted_counts(made, sheet)
        counts = tuple(wanted.counts.get(p.key, p.default) for p in made.pages)
        back = sheet_of(made, counts)
        assert not {u.name for u in wanted.unheld} & set(names)
        assert all(back[n] == pytest.approx(sheet[n], abs=0.6) for n in names)
        shown = [correction_of({**sheet, **s}).shown(100.0) for s in (sheet, {n: back[n] for n in names})]
        assert shown[0] == pytest.approx(shown[1], abs=0.6)
    assert "offset_c" in {u.name for u in wanted_counts(LARCH, gain).unheld}  # it has no gain
    assert sheet_of(OSIER, counts)["correction"] == "points"
