"""Every kind: a run that just passes, one that just fails, and one that a gap leaves open, limit by limit; and its arithmetic against
hand-worked numbers, SciPy's quadrature and a fine sum."""

from dataclasses import replace

import numpy as np
import pytest
import scipy
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.profiles.kinds import ALL, KINDS, bench, cure, drying, firing, glass, reflow, sections
from rellux.core.profiles.kinds.kind import Places
from rellux.core.profiles.profile import check_profile
from rellux.core.profiles.scoring import (
    Span,
    Verdict,
    overall,
    peak,
    score,
    seen_from,
    span_above,
    steepest,
)
from rellux.core.units import Kind

PASSED, FAILED, OPEN = Verdict.PASSED, Verdict.FAILED, Verdict.UNDECIDED


def recorded(*corners, every=1.0, without=None):
    """A course by its corners (s, °C), read every so often; ``without``: nothing was recorded between two moments."""
    t = np.arange(corners[0][0], corners[-1][0] + every / 2, every)
    y = np.interp(t, *zip(*corners, strict=True))
    if without:
        y[(t > without[0]) & (t < without[1])] = np.nan
    return seen_from(t, y, every)


def judged(kind, inputs, *corners, every=1.0, without=None, **colder):
    seen = recorded(*corners, every=every, without=without)
    return {s.key: s.verdict for s in KINDS[kind].judge(inputs, Places(seen, seen, 20.0))}


@pytest.mark.parametrize("kind", ALL, ids=lambda k: k.key)
def test_what_a_kind_begins_with_is_a_profile_that_can_be(kind):
    inputs = kind.shape()
    check_profile(kind.build(inputs))
    assert kind.source and (kind.figures(inputs) or kind.fields())


# -- measures --------------------------------------------------------------------------------------------------------------------


@pytest.mark.slow
@settings(max_examples=150, deadline=None)
@given(
    st.lists(st.integers(0, 3000).map(lambda tenths: tenths / 10), min_size=12, max_size=40),
    st.integers(0, 3000).map(lambda tenths: tenths / 10 + 0.05),
    st.integers(2, 6),
    st.integers(3, 8),
)
def test_a_gap_only_widens_what_is_measured(values, level, at, long):
    """The truth is a line through every value; some of them were not recorded. The span must hold the truth wherever the quickest change
    was seen, and narrow to it without the gap."""
    assume(at + long < len(values) - 2)
    t, y = np.arange(len(values)) * 10.0, np.array(values)
    whole = seen_from(t, y, 10.0)
    fine = np.linspace(t[0], t[-1], 40_001)
    above = float((np.interp(fine, t, y) >= level).mean() * t[-1])
    assert span_above(whole, level).value == pytest.approx(above, abs=0.5)
    assert span_above(whole, level).low == span_above(whole, level).high
    holed = y.copy()
    holed[at : at + long] = np.nan
    assume(np.abs(np.diff(y)).max() <= np.nanmax(np.abs(np.diff(holed))) + 1e-9 and np.isfinite(holed).sum() >= 10)
    seen = seen_from(t, holed, 10.0)
    found, top = span_above(seen, level), peak(seen)
    assert found.low - 1e-6 <= span_above(whole, level).value <= found.high + 1e-6
    assert top.low <= y.max() <= top.high + 1e-6


def test_a_step_of_the_display_is_no_slope():
    """A quarter of a degree in a tenth of a second would be 2.5 °C/s (handbook); over five seconds and ten readings it is the ramp."""
    t = np.arange(0, 60, 0.1)
    seen = seen_from(t, np.round((20 + 0.5 * t) * 4) / 4, 0.1)
    assert steepest(seen, 0, 1e9, False).value == pytest.approx(0.5, abs=0.05)
    assert seen.quickest == pytest.approx(2.5)


@pytest.mark.parametrize(
    ("low", "high", "least", "most", "verdict"),
    [
        (60, 60, 60, 90, PASSED), (59.9, 59.9, 60, 90, FAILED), (90, 90, 60, 90, PASSED), (90.1, 90.1, 60, 90, FAILED),
        (50, 60, 60, None, OPEN), (61, 99, 60, None, PASSED), (10, 59, 60, None, FAILED), (80, 95, None, 90, OPEN),
    ],
)  # fmt: skip
def test_a_limit_is_decided_where_the_whole_span_is_on_one_side(low, high, least, most, verdict):
    assert score("a", "a", "b", Kind.TIME, Span((low + high) / 2, low, high), least, most).verdict is verdict


def test_nothing_measured_is_never_passed():
    missing = score("a", "a", "b", Kind.TIME, None, 5.0)
    assert missing.verdict is OPEN and overall((missing,)) is OPEN


# -- cure ------------------------------------------------------------------------------------------------------------------------


def test_activation_and_hold_of_the_handbook():
    """16 h at 30 °C or 90 min at 65 °C: 57.6 kJ/mol, 3.9 h at 50 °C; a quarter in the ratio of the times moves it by 5.4 kJ/mol."""
    energy = cure.activation(30.0, 16 * 3600.0, 65.0, 90 * 60.0)
    assert energy == pytest.approx(57_600, abs=60)
    assert cure.hold_time(cure.Cure()) / 3600 == pytest.approx(3.9, abs=0.05)
    assert cure.activation(30.0, 1.25 * 16 * 3600.0, 65.0, 90 * 60.0) - energy == pytest.approx(5400, abs=60)


def test_equivalent_time_is_scipys_integral():
    energy = cure.activation(30.0, 16 * 3600.0, 65.0, 90 * 60.0)
    course = ((0.0, 20.0), (1800.0, 62.0), (9000.0, 55.0), (12_000.0, 25.0))
    seen = recorded(*course, every=20.0)
    t, y = zip(*course, strict=True)

    def faster(s):
        return np.exp(-energy / 8.314462618 * (1 / (np.interp(s, t, y) + 273.15) - 1 / 323.15))

    expected = scipy.integrate.quad(faster, 0, 12_000, points=[1800, 9000], epsabs=1e-6)[0]
    assert cure.equivalent_span(seen, 50.0, energy).value == pytest.approx(expected, rel=1e-6)


def test_a_cure_long_enough_too_short_and_with_a_hole_in_it():
    g = cure.Cure(hold_c=50.0, highest_c=60.0)
    need = cure.hold_time(g)
    base = ((0.0, 50.0), (need + 10, 50.0))
    assert judged("cure", g, *base, every=10.0) == {"time": PASSED, "peak": PASSED}
    assert judged("cure", g, (0.0, 50.0), (need - 20, 50.0), every=10.0)["time"] is FAILED
    warm = ((0.0, 50.0), (100.0, 55.0), (200.0, 50.0), (need + 10, 50.0))
    assert judged("cure", g, *warm, every=10.0, without=(4000.0, 9000.0))["time"] is OPEN
    assert judged("cure", g, (0.0, 50.0), (100.0, 61.0), (need, 50.0), every=10.0)["peak"] is FAILED


def test_degree_of_cure_by_the_exact_law():
    """First order at a steady temperature: 1 − e^(−kt)."""
    g = cure.Cure(hold_c=50.0, highest_c=60.0, law=cure.Law.NTH, per_s=1e-3, order=1.0, degree=0.95)
    assert cure.cured(recorded((0.0, 50.0), (2000.0, 50.0), every=5.0), g)[1] == pytest.approx(
        1 - np.exp(-2.0), abs=1e-5
    )
    third = -np.log(0.05) / 1e-3
    assert judged("cure", g, (0.0, 50.0), (third + 15, 50.0), every=5.0)["degree"] is PASSED
    assert judged("cure", g, (0.0, 50.0), (third - 15, 50.0), every=5.0)["degree"] is FAILED
    auto = replace(g, law=cure.Law.AUTOCATALYTIC, auto=1.0, seed=0.01)  # logistic: 1/(1 + 99 e^(−kt))
    found = cure.cured(recorded((0.0, 50.0), (5000.0, 50.0), every=5.0), auto)[1]
    assert found == pytest.approx(1 / (1 + 99 * np.exp(-5.0)), abs=1e-4)


@pytest.mark.parametrize(
    "wrong",
    [{"second_s": 20 * 3600.0}, {"second_c": 30.0}, {"second_s": 90.0}, {"hold_c": 70.0}, {"hold_c": 25.0}],
)
def test_schedules_that_cannot_be_are_refused(wrong):
    with pytest.raises(Refused):
        cure.hold_time(cure.Cure(**wrong))


def test_below_the_final_glass_transition_it_is_said():
    told = {f.rule for f in KINDS["cure"].findings(cure.Cure(hold_c=50.0, glass_c=55.0))}
    assert "profiles.cure-below-glass" in told
    assert "profiles.cure-below-glass" not in {
        f.rule for f in KINDS["cure"].findings(cure.Cure(hold_c=50.0, glass_c=50.0))
    }


# -- reflow: J-STD-020 revision D/E, from memory ---------------------------------------------------------------------------------

GOOD = ((0, 25), (84, 150), (164, 200), (194, 217), (224, 244), (225, 244), (266, 217), (350, 60))
SOLDER = reflow.Reflow(body_c=250.0, paste_peak_c=235.0, paste_least_s=45.0, paste_most_s=90.0)


def test_a_good_board_passes_every_limit():
    assert set(judged("reflow", SOLDER, *GOOD).values()) == {PASSED}


@pytest.mark.parametrize(
    ("key", "course"),
    [
        ("body", ((0, 25), (84, 150), (164, 200), (194, 217), (224, 251), (225, 251), (266, 217), (350, 60))),
        ("preheat", ((0, 25), (84, 150), (140, 200), (170, 217), (200, 244), (201, 244), (240, 217), (330, 60))),
        ("up", ((0, 25), (84, 150), (164, 200), (206, 217), (214, 244), (245, 244), (267, 217), (350, 60))),
        ("above", ((0, 25), (84, 150), (164, 200), (194, 217), (214, 244), (215, 244), (250, 217), (350, 60))),
        ("near", ((0, 25), (84, 150), (164, 200), (194, 217), (214, 246), (246, 246), (272, 217), (350, 60))),
        ("down", ((0, 25), (84, 150), (164, 200), (194, 217), (240, 244), (257, 244), (261, 217), (350, 60))),
        ("whole", ((0, 25), (350, 150), (430, 200), (460, 217), (490, 244), (491, 244), (532, 217), (650, 60))),
        ("joint", ((0, 25), (84, 150), (164, 200), (194, 217), (224, 234), (225, 234), (266, 217), (350, 60))),
        ("long", ((0, 25), (84, 150), (164, 200), (194, 217), (239, 244), (240, 244), (286, 217), (350, 60))),
    ],
)
def test_a_board_that_just_misses_one_limit(key, course):
    found = judged("reflow", SOLDER, *course, every=0.5)
    assert found[key] is FAILED, found


def test_a_hole_at_the_peak_leaves_open_what_it_hides_and_only_that():
    found = judged("reflow", SOLDER, *GOOD, without=(205, 245))
    assert found["preheat"] is PASSED and OPEN in {found["body"], found["above"], found["up"]}
    assert FAILED not in found.values()


def test_roles_a_peak_too_low_is_no_fault_of_the_part():
    found = judged("reflow", SOLDER, *(c if c[1] != 244 else (c[0], 220) for c in GOOD))
    assert found["body"] is PASSED and found["joint"] is FAILED


# -- glass, firing, and the rest -------------------------------------------------------------------------------------------------


def test_stress_of_glass_by_the_slab():
    """R_max = 3κ(1−ν)σ/(Eαa²): 254 °C/h at 10 mm, 41 at 25 (handbook); against a finite slab in a ramp, its mean less its surface."""
    g = replace(glass.Glass(), stress_mpa=1.0, half_mm=10.0)
    n, a = 400, 0.01
    x = (np.arange(n) + 0.5) * a / n
    rate = glass.slowest_rate(g) / 60.0
    across = rate / (2 * 0.62e-6) * x**2  # how much colder than the middle, in a steady ramp down
    surface = 64e9 * 3.3e-6 / (1 - 0.2) * (rate / (2 * 0.62e-6) * a**2 - across.mean())
    assert surface == pytest.approx(1e6, rel=0.005)
    assert glass.slowest_rate(replace(g, half_mm=20.0)) == pytest.approx(glass.slowest_rate(g) / 4)


def test_glass_cooled_slowly_enough_too_fast_and_unseen():
    g = glass.Glass(half_mm=10.0)
    soak, rate = glass.soak_time(g), glass.slowest_rate(g) / 60.0
    for times, without, expected in ((1.0, None, PASSED), (1.2, None, FAILED), (1.0, (soak + 300, soak + 700), OPEN)):
        down = soak + 100 + 100 / (rate * times)
        course = ((0, 500), (60, 560), (soak + 100, 560), (down, 460), (down + 600, 300))
        found = judged("glass", g, *course, every=5.0, without=without)
        assert (found["slow"], found["stress"], found["soak"]) == (expected, expected, PASSED)
    assert judged("glass", g, (0, 500), (60, 560), (soak - 300, 560), (soak + 3700, 460), every=5.0)["soak"] is FAILED


def test_heat_work_at_the_sheets_own_two_rates_is_the_same():
    """The two rows of a sheet, here made from a body of 420 kJ/mol by a fine sum: one cone, both rates."""
    energy = 420_000.0

    def bends(rate_c_per_min, wanted):
        c = np.arange(700.0, 1300.0, 0.02)
        done = (
            np.cumsum(np.exp(-energy / 8.314462618 * (1 / (c + 273.15) - 1 / 1323.15))) * 0.02 / (rate_c_per_min / 60)
        )
        return float(np.interp(wanted, done, c))

    rows = {
        "first_c": bends(1.0, 900.0),
        "first_c_per_min": 1.0,
        "second_c": bends(2.5, 900.0),
        "second_c_per_min": 2.5,
    }
    g = firing.Firing(**rows, soak_s=0.0, last_c_per_min=2.5, near_c=3.0)
    assert firing.activation(g) == pytest.approx(energy, rel=0.01)
    assert firing.top_for(g) == pytest.approx(rows["second_c"], abs=0.3)
    top, slow = rows["second_c"], 2.5 / 60

    def fired(to, without=None):
        return judged(
            "firing", g, (0, to - 400), (400 / slow, to), (400 / slow + 60, to - 100), every=10.0, without=without
        )

    assert fired(top) == {"coldest": PASSED}
    assert fired(top - 8.0) == {"coldest": FAILED} and fired(top + 8.0) == {"coldest": FAILED}
    assert fired(top, without=(400 / slow - 700, 400 / slow + 30)) == {"coldest": OPEN}
    with pytest.raises(Refused):
        firing.activation(replace(g, second_c=rows["first_c"] - 5.0))


CHART = """1798 1828 1855, 1870 1888 1911, 1915 1945 1971, 1960 1987 2019, 1972 2016 2052, 1999 2046 2080, 2028 2079 2109, 2034 2088 2127,
2039 2106 2134, 2086 2124 2158, 2118 2167 2201, 2165 2232 2266, 2194 2262 2291, 2212 2280 2316, 2235 2300 2332, 2284 2345 2377"""


def test_the_third_rate_of_a_published_chart_follows_from_two():
    """Large self-supporting cones, sixteen of them: °F at 27, 108 and 270 °F/h. Source: a maker's chart, typed from memory."""
    off = []
    for row in CHART.split(","):
        slow, middle, fast = ((float(f) - 32.0) / 1.8 for f in row.split())
        g = firing.Firing(middle, 1.0, fast, 2.5, last_c_per_min=0.25, soak_s=0.0)
        off.append(firing.top_for(g) - slow)
        assert middle - slow >= 10.0  # what anybody would miss it by who fires to the sheet's temperature
        assert KINDS["firing"].findings(g) and not KINDS["firing"].findings(replace(g, last_c_per_min=0.5))
    assert np.abs(off).max() < firing.SURE_C and abs(np.mean(off)) < 3.0


def test_sections_held_by_the_coldest_place():
    g = sections.Sections(hold_c=150.0, section_mm=25.0, base_s=3600.0, per_mm_s=144.0, band_c=5.0)
    assert sections.hold_time(g) == 7200.0
    up, down = 130 / 2 * 60, 90 / 2 * 60

    def held(seconds, without=None):
        t = up + seconds
        return judged("sections", g, (0, 20), (up, 150), (t, 150), (t + down, 60), every=10.0, without=without)

    assert set(held(7200.0).values()) == {PASSED}
    assert held(6850.0)["held"] is FAILED
    assert held(7200.0, without=(up + 600, up + 1800))["held"] is OPEN
    assert judged("sections", g, (0, 20), (up, 157), (up + 7300, 157), every=10.0)["hot"] is FAILED


def test_drying_through_what_must_be_slow():
    g = drying.Drying(binder=False, quartz=False, top_c=200.0, thick_mm=5.0, per_mm_s=360.0, soak_s=600.0)
    slow = 35 / 1.0 * 60

    def dried(minutes_per_35, hold=1800.0, without=None):
        t = 900 + minutes_per_35 * 60
        corners = ((0, 20), (900, 85), (t, 120), (t + hold, 120), (t + hold + 1200, 200), (t + hold + 1900, 200))
        return judged("drying", g, *corners, every=10.0, without=without)

    assert set(dried(35.0).values()) == {PASSED} and slow == 2100
    assert dried(20.0)["rate0"] is FAILED
    assert dried(35.0, without=(1500.0, 2200.0))["rate0"] is OPEN


def test_cycles_are_counted_and_a_short_dwell_is_found():
    g = bench.Cycling(low_c=30.0, high_c=80.0, dwell_s=300.0, cycles=2.0, band_c=2.0)

    def cycled(second, without=None):
        t, corners = 0.0, [(0.0, 30.0)]
        for dwell in (310.0, second):
            corners += [(t + 600, 80.0), (t + 600 + dwell, 80.0), (t + 1200 + dwell, 30.0), (t + 1520 + dwell, 30.0)]
            t = corners[-1][0]
        return judged("cycling", g, *corners, every=5.0, without=without)

    assert {cycled(310.0)[k] for k in ("cycles", "shortest", "peak")} == {PASSED}
    assert cycled(200.0)["cycles"] is FAILED and cycled(200.0)["shortest"] is FAILED
    assert cycled(310.0, without=(650.0, 800.0))["shortest"] is OPEN


def test_steps_presets_and_seasons():
    g = bench.Steps(levels=(bench.Level(50.0, 600.0),), band_c=0.5, read_s=300.0)
    assert judged("steps", g, (0, 20), (100, 50), (420, 50), every=2.0) == {"level0": PASSED}
    assert judged("steps", g, (0, 20), (100, 50), (380, 50), every=2.0) == {"level0": FAILED}
    assert judged("steps", g, (0, 20), (100, 50), (420, 50), every=2.0, without=(200, 300)) == {"level0": OPEN}
    tool = bench.Presets()
    left = ((0, 330), (300, 330), (360, 200), (1300, 180), (1400, 120))
    assert judged("presets", tool, *left) == {"hot": PASSED, "asleep": PASSED}
    assert judged("presets", tool, (0, 330), (1400, 330)) == {"hot": PASSED, "asleep": FAILED}
    assert judged("presets", tool, (0, 330), (600, 330))["asleep"] is OPEN
    tank = bench.Seasonal(comfort_c=55.0, least_c=40.0, most_c=85.0, comfort_s=3600.0)
    day = ((0, 45), (600, 55), (4300, 55), (9000, 45))
    assert set(judged("seasonal", tank, *day, every=10.0).values()) == {PASSED}
    assert judged("seasonal", tank, (0, 45), (600, 39), (4300, 55), every=10.0)["cold"] is FAILED
    assert judged("seasonal", tank, (0, 45), (600, 86), (4300, 55), every=10.0)["hot"] is FAILED
    for wrong in (bench.Seasonal(back_c=30.0), bench.Cycling(low_c=90.0), bench.Presets(standby_c=340.0)):
        with pytest.raises(Refused):
            KINDS[{"Seasonal": "seasonal", "Cycling": "cycling", "Presets": "presets"}[type(wrong).__name__]].build(
                wrong
            )
