"""An unknown probe, two sensors side by side, and which sensor to order."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.questions.registry import QUESTIONS
from rellux.core.sensing.budget import ReadingChain
from rellux.core.sensing.choosing import Build, Junction, Medium, class_for, response_s, sheath_of, thickness_limit
from rellux.core.sensing.older_types import OLDER
from rellux.core.sensing.resistance import resistance
from rellux.core.sensing.thermocouples import TYPES, emf
from rellux.core.sensing.two_sensors import Agreement, Pairing, allowed_difference
from rellux.core.sensing.unknown import Magnet, Seen, identify_probe


def left(**seen):
    return [c.key for c in identify_probe(Seen(**seen)).possible]


# handbook table, tip in boiling water and terminals at 20 °C: E 5.13, J 4.25, T 3.49, K 3.30, N 2.25, R 0.54, S 0.53, B 0.04 mV
@pytest.mark.parametrize(
    ("mv", "kinds"),
    [
        (5.13, {"E", "L"}),
        (4.25, {"J", "L"}),
        (-3.40, {"T", "K", "U"}),
        (3.10, {"K"}),
        (2.25, {"N"}),
        (0.53, {"R", "S"}),
        (0.04, {"B", "Pt100", "Pt1000", "Ni100", "KTY", "NTC"}),
    ],
)
def test_boiling_water_tells_the_type(mv, kinds):
    found = set(left(boiling_mv=mv))
    assert kinds - {"L", "U"} <= found <= kinds | {"L", "U"}


@pytest.mark.parametrize(
    ("seen", "kinds"),
    [
        ({"ohm": 4.0, "magnet": Magnet.STRONG}, {"J", "L"}),
        ({"ohm": 4.0, "magnet": Magnet.STRONG, "colours": ("white", "red")}, {"J"}),
        ({"ohm": 108.0, "boiling_mv": 0.0}, {"Pt100", "B"}),
        ({"ohm": 108.0, "boiling_mv": 0.0, "warm_c": 60.0, "warm_ohm": 123.2}, {"Pt100"}),
        ({"ohm": 1078.0, "warm_c": 60.0, "warm_ohm": 1232.0}, {"Pt1000"}),
        ({"ohm": 1000.0, "warm_c": 60.0, "warm_ohm": 1312.0}, {"KTY"}),
        ({"ohm": 10_000.0, "warm_c": 35.0, "warm_ohm": 5_500.0}, {"NTC"}),
    ],
)
def test_what_each_observation_leaves(seen, kinds):
    assert set(left(**seen)) == kinds


def truth(kind, room, leads, bead, hot):
    """What a bench would show of a probe that is known: ohms at room and warm, millivolts, magnet."""
    if kind in TYPES:
        return 3.0 + leads, 3.0 + leads, float(emf(kind, 100.0) - emf(kind, room))
    if kind in ("L", "U"):
        older = next(o for o in OLDER.values() if o.letter == kind)
        a, b = older.emf(np.array([100.0, room]))
        return 3.0 + leads, 3.0 + leads, float(a - b)
    if kind in ("Pt100", "Pt1000"):
        r0 = 100.0 if kind == "Pt100" else 1000.0
        return float(resistance(room, r0)) + leads, float(resistance(hot, r0)) + leads, 0.0
    beta = lambda t: bead * np.exp(3800.0 * (1 / (273.15 + t) - 1 / 298.15))  # noqa: E731
    return float(beta(room)), float(beta(hot)), 0.0


@given(
    st.sampled_from([*TYPES, "L", "U", "Pt100", "Pt1000", "NTC"]),
    st.floats(10, 30),
    st.floats(0, 8),
    st.floats(1_000, 200_000),
    st.floats(40, 55),
    st.floats(-0.01, 0.01),
    st.floats(-0.05, 0.05),
    st.sampled_from([1, -1]),
    st.sets(st.sampled_from(["ohm", "warm", "mv"])),
)
def test_the_truth_is_never_ruled_out(kind, room, leads, bead, hot, meter, offset, way_round, made):
    ohm, warm, mv = truth(kind, room, leads, bead, hot)
    seen = {"room_c": room, "boiling_mv": way_round * mv + offset} if "mv" in made else {"room_c": room}
    if "ohm" in made or "warm" in made:
        seen["ohm"] = ohm * (1 + meter)
    if "warm" in made:
        seen |= {"warm_c": hot, "warm_ohm": warm * (1 + meter)}
    assert kind in left(**seen)


def test_a_next_test_is_named_while_it_would_tell_more():
    assert "oiling water" in identify_probe(Seen(ohm=3.0)).next_test
    assert identify_probe(Seen(ohm=3.0, magnet=Magnet.WEAK, boiling_mv=3.3)).next_test == ""
    assert identify_probe(Seen(colours=("red", "green"))).positive == "red"
    assert QUESTIONS["unknown"].ask({"ohm": 1e7}).headline.startswith("It is open")
    with pytest.raises(Refused, match="belong together"):
        identify_probe(Seen(ohm=3.0, warm_c=50.0))
    with pytest.raises(Refused, match="too little"):
        identify_probe(Seen(ohm=3.0, warm_c=24.0, warm_ohm=3.0))


CHAIN = ReadingChain("K", "IEC class 2", 500.0, None, 0.5, 0.0, 0.0, 0.0)


def test_two_sensors_by_hand():
    """Each: class 2 of type K at 500 °C ±3.75, input ±0.5. Sum 4.25 each; U = 2 √((3.75² + 0.5²)/3) = 4.368."""
    found = allowed_difference(Pairing(CHAIN, CHAIN, gradient_c=1.0, drift_c=0.5))
    assert found.most.value == pytest.approx(2 * 4.25 + 1 + 2 * 0.5)
    assert found.usual.value == pytest.approx(np.sqrt(2) * 4.368 + 2.0, abs=0.002)
    assert [found.judge(d) for d in (8.1, -8.2, 10.4, -10.6)] == [
        Agreement.ALIKE,
        Agreement.STRAINED,
        Agreement.STRAINED,
        Agreement.APART,
    ]


def test_sound_pairs_are_within_the_usual_difference_as_often_as_it_says():
    rng = np.random.default_rng(4)
    apart = sum(rng.uniform(-a, a, 20_000) * sign for a in (3.75, 0.5) for sign in (1, -1))
    found = allowed_difference(Pairing(CHAIN, CHAIN))
    assert np.mean(np.abs(apart) <= found.usual.value) > 0.95
    assert np.all(np.abs(apart) <= found.most.value)


def test_two_that_cannot_both_be_right():
    answer = QUESTIONS["two_sensors"].ask({"shown_first_c": 500.0, "shown_second_c": 540.0})
    assert [f.rule for f in answer.findings] == ["two.apart"]
    # handbook: copper instead of extension wire reads low; it must be among the causes of the lower one
    assert any(a.key == "first-copper" for a in answer.alternatives)
    assert not any("copper" in a.key and a.key.startswith("second") for a in answer.alternatives)
    assert QUESTIONS["two_sensors"].ask({"shown_first_c": 500.0, "shown_second_c": 506.0}).findings == ()


@pytest.mark.parametrize(
    ("key", "celsius", "allowed", "named"),
    [
        # IEC 60584-1: type K at 500 °C class 2 ±3.75, class 1 ±2.0; type T at −100 °C only class 3, ±1.5
        ("K", 500.0, 4.0, ("IEC class 2", 3.75)),
        ("K", 500.0, 3.0, ("IEC class 1", 2.0)),
        ("K", 500.0, 1.0, ("IEC class 1", 2.0)),
        ("T", -100.0, 2.0, ("IEC class 3", 1.5)),
        # IEC 60751 at 100 °C: B ±0.8, A ±0.35, AA ±0.27
        ("Pt100", 100.0, 1.0, ("class B", 0.8)),
        ("Pt100", 100.0, 0.5, ("class A", 0.35)),
        ("Pt100", 100.0, 0.3, ("class AA", 0.27)),
    ],
)
def test_the_class_that_is_good_enough(key, celsius, allowed, named):
    found = class_for(key, celsius, allowed)
    assert found[0] == named[0] and found[1] == pytest.approx(named[1])


def test_thin_ones_stand_less():
    # ASTM E230, protected wires, from memory: type K 14 AWG (1.63 mm) 1090 °C, 24 AWG (0.51 mm) 870, 30 AWG (0.25 mm) 760
    assert [thickness_limit("K", Build.WIRES, mm) for mm in (1.63, 1.0, 0.51, 0.25, 0.1)] == [1090, 980, 870, 760, 760]
    # ASTM E608, mineral-insulated: 1.5 mm 920 °C, 3 mm 1070
    assert [thickness_limit("K", Build.PROBE, mm) for mm in (1.5, 2.9, 3.0, 8.0)] == [920, 920, 1070, 1150]
    assert thickness_limit("S", Build.PROBE, 3.0) is None
    assert sheath_of("S", 600.0).startswith("alumina") and sheath_of("K", 600.0).startswith("austenitic")

    def faults(**changed):
        values = {"working_c": 800, "highest_c": 900, "error_c": 10, "build": "wires", "wire_mm": 0.5, **changed}
        kind_k = next(a for a in QUESTIONS["sensor"].ask(values).alternatives if a.key == "K")
        return kind_k.reasons

    assert "so thin a wire stands {~870 °C} for long" in faults()
    assert faults(wire_mm=0.85) == ()


def test_the_junction_decides_in_water_and_hardly_in_air():
    grounded, exposed = Junction.GROUNDED, Junction.EXPOSED
    assert response_s(3, Medium.WATER, grounded) == pytest.approx(0.3)
    assert response_s(3, Medium.MOVED_AIR, grounded) == response_s(3, Medium.MOVED_AIR)
    assert response_s(3, Medium.STILL_AIR, exposed) < response_s(3, Medium.STILL_AIR)
    wet = {"junction": "exposed", "atmosphere": "wet"}
    rules = [
        {f.rule for f in QUESTIONS["sensor"].ask(v).findings}
        for v in (wet, {"junction": "exposed"}, {"junction": "grounded"})
    ]
    assert rules[0] >= {"sensor.exposed"} and "sensor.exposed" not in rules[1] and "sensor.grounded" in rules[2]


@pytest.mark.parametrize(("near", "told"), [("load", set()), ("free", {"along.wall", "along.short"})])
def test_a_clamped_sensor_needs_no_immersion(near, told):
    assert {f.rule for f in QUESTIONS["along"].ask({"near": near, "immersed_mm": 0.0}).findings} == told


@pytest.mark.parametrize(
    ("key", "wires"), [("Pt100", (2, 3, 4)), ("Ni100", (2, 3, 4)), ("K", (2,)), ("KTY", (2,)), ("NTC", (2,))]
)
def test_wires_speak_for_what_usually_has_them(key, wires):
    for many in (2, 3, 4, 5):
        seen = next(c for c in identify_probe(Seen(wires=many)).candidates if c.key == key)
        assert any("wires" in p for p in seen.pro) is (many in wires), many


def test_a_test_that_was_made_is_not_asked_for_again():
    for magnet in (m for m in Magnet if m is not Magnet.UNTRIED):
        assert "magnet" not in identify_probe(Seen(magnet=magnet, ohm=3.0)).next_test


def test_older_tables_end_where_they_end():
    for older in OLDER.values():
        low, high = older.range_c
        inside, below, above = older.emf(np.array([low, low - 1.0, high + 1.0]))
        assert np.isfinite(inside) and np.isnan(below) and np.isnan(above)
