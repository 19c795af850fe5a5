"""What is behind an error: simulated rigs whose cause is known, their voltages from an independent library."""

from collections import Counter
from dataclasses import dataclass

import numpy as np
import pytest
import thermocouple_its90

from rellux.core.calibration.causes import Seen, ranked_causes, usable_pairs
from rellux.core.sensing.tolerances import permitted

CASES = 300


@dataclass(frozen=True)
class Rig:
    """Load, room, head and terminals of a simulated rig, °C; what its terminals are taken for; the sensor's own share of its class."""

    true: np.ndarray
    room: float
    head: float
    terminals: float
    off: float
    own: float


def emf(letter, celsius):
    of = thermocouple_its90.get(letter)
    return np.array([of.emf(float(t)) for t in np.atleast_1d(celsius)])


def shows(letter, mv):
    """What an input of this type shows, by bisection in the library; NaN beyond its range."""
    of = thermocouple_its90.get(letter)
    found = []
    for v in np.atleast_1d(mv):
        low, high = (
            (0.0 if letter in ("B", "R", "S") else -200.0),
            {"T": 400.0, "J": 1200.0, "E": 1000.0, "N": 1300.0}.get(letter, 1370.0),
        )
        if not of.emf(low) <= v <= of.emf(high):
            found.append(np.nan)
            continue
        for _ in range(40):
            middle = (low + high) / 2
            low, high = (middle, high) if of.emf(middle) < v else (low, middle)
        found.append((low + high) / 2)
    return np.array(found)


def wired(letter, rig, other=None, probe=None):
    """Terminal voltage and what the input adds, for each connection of a thermocouple."""
    e, head, cold = emf(letter, rig.true), float(emf(letter, rig.head)[0]), float(emf(letter, rig.terminals)[0])
    believed = float(emf(letter, rig.terminals - rig.off)[0])
    return {
        "right": lambda: shows(letter, e),
        "copper": lambda: shows(letter, e - head + cold),
        "crossed": lambda: shows(letter, e - head - (head - cold) + cold),
        "no_compensation": lambda: shows(letter, e - cold),
        "warm_terminals": lambda: shows(letter, e - cold + believed),
        f"as_{other}": lambda: shows(other, e - cold + float(emf(other, rig.terminals)[0])),
        f"is_{probe}": lambda: shows(letter, emf(probe, rig.true) - float(emf(probe, rig.terminals)[0]) + cold),
        "fahrenheit": lambda: rig.true * 1.8 + 32,
        "place": lambda: rig.true + rig.own * 0.25 * (rig.true - rig.room),
        "constant": lambda: rig.true + rig.own * 25,
        "digit": lambda: rig.true / 10,
        "shunting": lambda: rig.true - (10 + 40 * abs(rig.own)) * np.exp((rig.true - 1000) / 120),
    }


def simulated(random):
    letter = str(random.choice(["K", "N", "J", "K"]))
    hottest, room = {"J": 700.0}.get(letter, float(random.choice([450.0, 800.0, 1100.0]))), random.uniform(16, 28)
    n, u = int(random.integers(2, 21)), float(random.choice([0.2, 0.5, 1.0]))
    true = np.sort(random.uniform(room + 60, hottest, n))
    rig = Rig(
        true,
        room,
        random.uniform(40, 130),
        random.uniform(room, room + 15),
        random.choice([-1, 1]) * random.uniform(5, 30),
        random.uniform(-1, 1),
    )
    other, probe = (str(random.choice([t for t in among if t != letter])) for among in ("KNJES", "KNS"))
    made = wired(letter, rig, other, probe)
    cause = str(random.choice([k for k in made if k != "shunting" or hottest > 1000]))
    shown = (
        made[cause]() + random.uniform(-1, 1) * permitted(letter, "IEC class 2", hottest) * 0.5 + random.normal(0, u, n)
    )
    return letter, cause, Seen(shown, true, u, 0.0, room, hottest)


@pytest.mark.slow
def test_the_true_cause_is_named_first_and_nearly_always_among_three():
    """At least 70 of 100 first and 90 of 100 among the first three."""
    random, places, wrong, done = np.random.default_rng(2024), [], Counter(), 0
    while done < CASES:
        letter, cause, seen = simulated(random)
        keep = np.isfinite(seen.raw_c)
        if keep.sum() < 2:
            continue
        done += 1
        found = ranked_causes(
            letter, Seen(seen.raw_c[keep], seen.true_c[keep], seen.u_c, 0.0, seen.room_c, seen.highest_c)
        )
        keys = [c.key for c in found.ranked]
        places.append(keys.index(cause) if cause in keys else 9)
        if places[-1]:
            wrong[(cause, keys[0] if keys else "")] += 1
    first, three = (sum(p < n for p in places) / CASES for n in (1, 3))
    assert first >= 0.7 and three >= 0.9, (first, three, wrong.most_common(12))


def seen(raw, true, **more):
    return Seen(
        np.array(raw), np.array(true), more.get("u", 0.3), more.get("offset", 0.0), 20.0, more.get("highest", 800.0)
    )


def test_pairs_at_one_temperature_do_not_tell_and_say_which_would():
    low = ranked_causes("K", seen([483.0, 483.2, 482.9], [560.0, 560.1, 559.9]))
    assert "do not tell them apart" in low.says and "Compare once more at" in low.test
    assert sum(c.likely for c in low.ranked) <= 1.0 + 1e-9
    high = ranked_causes("K", seen([585.0, 585.2, 584.9], [560.0, 560.1, 559.9]))
    assert "do not tell them apart" in high.says and "in ice" in high.test  # no temperature tells these


def test_what_no_cause_explains_is_said_to_be_none():
    found = ranked_causes("K", seen([100.0, 700.0, 150.0, 690.0], [300.0, 310.0, 500.0, 510.0]))
    assert "None of the known causes" in found.says and not any(c.fits for c in found.ranked)


def test_a_reference_read_in_the_other_unit_is_recognised():
    found = ranked_causes("K", seen([60.1, 100.2, 149.9], [140.0, 212.0, 302.0]))
    assert found.ranked[0].key == "reference_fahrenheit" and found.ranked[0].likely > 0.9


def test_an_offset_of_the_wrong_sign_is_recognised_by_the_number_in_the_controller():
    """A sensor that reads 6 too high, corrected by +6: its raw reading is off by what was entered."""
    found = ranked_causes("K", seen([306.1, 406.0, 505.9], [300.0, 400.0, 500.0], offset=6.0, u=0.1))
    assert "sign" in [c.key for c in found.ranked[:3]]
    assert "sign" not in [c.key for c in ranked_causes("K", seen([306.1, 406.0, 505.9], [300.0, 400.0, 500.0])).ranked]


@pytest.mark.parametrize("sensor", ["NTC", "Pt100", "Pt1000", "T", "B"])
def test_every_sensor_has_causes(sensor):
    true = np.array([700.0, 800.0]) if sensor == "B" else np.array([40.0, 80.0])
    found = ranked_causes(sensor, Seen(true + 6.0, true, 0.2, 0.0, 20.0, 90.0))
    assert found.ranked and found.says


def test_platinum_leads_are_told_from_pairs():
    """2.6 °C for each ohm of the loop (IEC 60751: 0.385 Ω/°C), a little more where it is hotter."""
    true = np.array([0.0, 100.0, 200.0])
    ohms = 100 * (1 + 3.9083e-3 * true - 5.775e-7 * true**2) + 10.0
    raw = (3.9083e-3 - np.sqrt(3.9083e-3**2 - 4 * 5.775e-7 * (ohms / 100 - 1))) / (2 * 5.775e-7)
    found = ranked_causes("Pt100", seen(raw, true, u=0.1))
    assert found.ranked[0].key == "two_wire" and found.ranked[0].likely > 0.6


def test_pairs_outside_the_table_are_left_out():
    keep = usable_pairs("K", np.array([20.0, np.nan, 30.0]), np.array([20.0, 25.0, 5000.0]))
    assert keep.tolist() == [True, False, False] and usable_pairs("NTC", np.zeros(2), np.zeros(2)).all()


@pytest.mark.parametrize(("fitted", "really"), [("K", "N"), ("K", "S"), ("J", "K")])
def test_a_probe_of_another_type_is_told_from_an_input_set_wrong(fitted, really):
    """What is soldered in is another type than the rig says; the input is set as the rig says."""
    true = np.array([120.0, 300.0, 480.0, 650.0])
    cold = float(emf(fitted, 22.0)[0]) - float(emf(really, 22.0)[0])
    shown = shows(fitted, emf(really, true) + cold)
    found = ranked_causes(fitted, Seen(shown, true, 0.3, 0.0, 22.0, 800.0))
    assert found.ranked[0].key == f"is_{really}" and found.ranked[0].fits
    assert found.ranked[0].residual_c < 1.0


def test_all_causes_weighed_together_are_as_likely_as_each_alone():
    """Brute force over one circumstance: the mean of the likelihood on a grid, worked out pair by pair."""
    seen_now = seen([470.0, 471.0, 820.0], [560.0, 561.0, 900.0], highest=1000.0)
    found = {c.key: c.likely for c in ranked_causes("K", seen_now).ranked}
    room, grid = 20.0, np.linspace(-0.3, 0.3, 121)
    spread = np.linalg.inv(np.eye(3) * 0.3**2 + (permitted("K", "IEC class 2", 900.0) + 1.0) ** 2 / 4.0)

    def evidence(shown):
        left = shown - seen_now.raw_c
        return float(np.exp(-0.5 * left @ spread @ left))

    place = np.mean([evidence(seen_now.true_c + s * (seen_now.true_c - room)) for s in grid]) * 3.0
    steady = np.mean([evidence(seen_now.true_c + by) for by in np.linspace(-30.0, 30.0, 121)]) * 2.0
    if {"place", "constant"} <= set(found):
        assert found["place"] / found["constant"] == pytest.approx(place / steady, rel=0.05)
    else:
        assert found.get("place", 0.0) <= 0.02 or found.get("constant", 0.0) <= 0.02 or place > 40 * steady
