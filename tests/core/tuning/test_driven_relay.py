"""A relay test over a link as it is watched: on simulated rigs whose truth is known, and with everything that may come between."""

from dataclasses import replace
from math import inf, nan

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rellux.core.control.settings import HysteresisSchool, Mode
from rellux.core.errors import Refused
from rellux.core.plant.simulation import Simulation
from rellux.core.process.models import FOPDT
from rellux.core.process.networks import from_model
from rellux.core.tuning.relay.before import before, clear_c
from rellux.core.tuning.relay.driven import (
    BLIND_S,
    FOREIGN_S,
    HEATS,
    RETURNS,
    DrivenTest,
    Ending,
    Watch,
    driven_test,
    if_left_alone,
    own_tune,
    result_says,
    to_return,
)
from rellux.core.tuning.relay.experiment import Edge, RelayKind, RelayTest, forecast, relay_test, swung
from rellux.core.tuning.truths import truths

from .test_trials import CABINET, situation

HOLDS = {"setpoint_c": 58.0, "hysteresis_c": 1.0, "mode": "on_off"}
TEST = DrivenTest(RelayTest(RelayKind.OWN, 58.0, 1.0, 0.0, 100.0), HOLDS, 70.0, 120.0, 7200.0)
STEPS = {"setpoint_c": 0.1, "hysteresis_c": 0.1, "mode": 1.0}


def made(it, driven, network=None, speed=1.0):
    """The test as a rig makes it under its own on/off mode: how it ended, and the highest reading until then."""
    settings = replace(
        it.settings,
        setpoint_c=driven.test.setpoint_c,
        mode=Mode.ON_OFF,
        hysteresis_c=driven.test.hysteresis_c,
        hysteresis_school=HysteresisSchool.CENTRED,
        period_s=0.0,
    )
    step = 1.0
    record = Simulation(network or from_model(it.plant), settings, it.ambient_c, step).advance(4 * driven.stop_after_s)
    watch, highest = Watch(driven, STEPS), -inf
    for y, u in zip(record.reading_c, record.output, strict=True):
        highest = max(highest, float(y))
        if ended := watch.look(step, float(y), u > 0, driven.holds):
            return ended, highest
    raise AssertionError("it never ended")


def test_it_ends_with_two_cycles_alike_and_finds_what_was_foretold():
    it = situation()
    told = forecast(it, relay_test(it, RelayKind.OWN))
    driven = driven_test(it, told, before(told, [], 5.0, True), 1.0)
    ended, highest = made(it, driven)
    assert ended.how is Ending.ALIKE and highest <= driven.highest_c
    assert ended.swing.period_s == pytest.approx(told.found.period_s, rel=0.1)
    assert ended.swing.top_c - ended.swing.bottom_c == pytest.approx(told.found.top_c - told.found.bottom_c, rel=0.15)
    assert "period" in result_says(ended.swing) and "No output is ever driven" in if_left_alone(driven)


def test_whatever_rig_it_may_be_it_ends_well_and_below_what_was_foretold():
    """Every rig the identification leaves possible, unwatched for four times as long: never hotter than was said."""
    it = situation()
    told = forecast(it, relay_test(it, RelayKind.OWN))
    driven = driven_test(it, told, before(told, [], 5.0, True), 1.0)
    for network in it.judges:
        ended, highest = made(it, driven, network)
        assert ended.how is Ending.ALIKE and highest <= driven.highest_c, ended


@pytest.mark.parametrize(
    ("process", "at_c"),
    [
        (CABINET, 60.0),
        (FOPDT(1.0, 300.0, 90.0), 60.0),
        (FOPDT(8.0, 900.0, 40.0), 560.0),
        (FOPDT(2.0, 120.0, 6.0), 60.0),
    ],
)
def test_left_alone_no_rig_comes_to_where_it_is_broken_off(process, at_c):
    """Other draws than those that foretold it, with radiation and a second mass: by itself the controller stays below that, and so below
    every limit the test is allowed beside."""
    it = situation(process, at_c)
    told = forecast(it, relay_test(it, RelayKind.OWN))
    driven = driven_test(it, told, before(told, [], 5.0, True), 1.0)
    drawn = truths(it.members, it.rise_c, it.ambient_c, 0.98, 119).networks[19:]
    assert len(drawn) == 100
    assert max(swung(network, it, told.test)[0].highest_c for network in drawn) < driven.highest_c


def test_it_is_not_lowered_below_what_the_controller_takes():
    it = situation()
    free = relay_test(it, RelayKind.OWN).setpoint_c
    assert relay_test(it, RelayKind.OWN, None, 57.5).setpoint_c == 57.5 > free
    assert relay_test(it, RelayKind.OWN, None, 40.0).setpoint_c == free
    assert relay_test(it, RelayKind.OWN, 50.0, 57.5).setpoint_c == 50.0, "what somebody asks for is judged elsewhere"


def test_it_may_not_come_near_what_must_not_be_reached():
    it = situation()
    told = forecast(it, relay_test(it, RelayKind.OWN))
    near, clear = (Edge("its limiter", told.highest_c + share * clear_c(told), is_hard=True) for share in (0.98, 1.02))
    with pytest.raises(Refused, match="its limiter acts from"):
        driven_test(it, told, before(told, [near], 5.0, True), 1.0)
    allowed = driven_test(it, told, before(told, [clear], 5.0, True), 1.0)
    assert allowed.highest_c < clear.celsius


def test_cycles_that_are_too_quick_to_be_seen_are_refused():
    it = situation()
    told = forecast(it, relay_test(it, RelayKind.OWN))
    quickest = min(s.period_s for s in told.all)
    driven_test(it, told, before(told, [], 5.0, True), quickest / 21.0)
    with pytest.raises(Refused, match="looked at every"):
        driven_test(it, told, before(told, [], 5.0, True), quickest / 19.0)


def looks(watch, seconds, reading, on, held=HOLDS):
    """A second each; how it ended, and after how many."""
    for i in range(seconds):
        at = reading(i) if callable(reading) else reading
        if ended := watch.look(1.0, at, on, held):
            return ended.how, i + 1, ended.said
    return None


def test_what_breaks_it_off():
    assert looks(Watch(TEST, STEPS), 5, 70.0, True)[:2] == (Ending.OFF, 1)
    assert looks(Watch(TEST, STEPS), 5, 69.9, True) is None  # near miss
    blind = looks(Watch(TEST, STEPS), 60, nan, True)
    assert blind[:2] == (Ending.OFF, BLIND_S + 1) and "sensor" in blind[2]
    assert (
        looks(Watch(TEST, STEPS), 60, lambda i: nan if i % 10 else 40.0 + i / 3, True) is None
    )  # one lost now and then
    stuck = looks(Watch(TEST, STEPS), 500, 40.0, True)
    assert stuck[:2] == (Ending.OFF, 122) and "its place" in stuck[2]
    slipped = looks(Watch(TEST, STEPS), 500, lambda i: 21.0 + 30.0 * np.exp(-i / 60.0), True)
    assert slipped[:2] == (Ending.OFF, 122), "a sensor that slipped out cools, and heat goes on"
    assert looks(Watch(TEST, STEPS), 500, lambda i: 20.0 + i * 0.6 / 120.0, True) is None  # slow, but it answers
    assert looks(Watch(TEST, STEPS), 500, 40.0, False) is None  # nothing moves where nothing heats
    foreign = {**HOLDS, "setpoint_c": 60.0}
    theirs = looks(Watch(TEST, STEPS), 60, lambda i: 20.0 + i, True, foreign)
    assert theirs[:2] == (Ending.THEIRS, FOREIGN_S + 1) and "setpoint_c" in theirs[2]
    rounded = {**HOLDS, "setpoint_c": 58.04}
    assert looks(Watch(TEST, STEPS), 60, 30.0, False, rounded) is None
    assert looks(Watch(TEST, STEPS), 60, 30.0, False, {**HOLDS, "mode": None}) is None  # not heard this time
    late = looks(Watch(TEST, STEPS), 8000, lambda i: 55.0 + np.sin(i / 900.0), False)
    assert late[:2] == (Ending.BACK, 7201)


def test_cycles_that_are_never_alike_end_it():
    watch, ended = Watch(TEST, STEPS), None
    for k in range(20):
        for on, length in ((True, int(10 * 1.35**k)), (False, int(12 * 1.35**k))):
            for i in range(length):
                ended = ended or watch.look(1.0, 58.0 + (1 if on else -1) * i * 0.02, on, HOLDS)
        if ended:
            break
    assert ended.how is Ending.BACK and "no two" in ended.said


HELD = st.fixed_dictionaries(
    {"setpoint_c": st.sampled_from([58.0, 60.0, 40.0]), "hysteresis_c": st.sampled_from([1.0, 2.0, 5.0]),
     "mode": st.sampled_from(["on_off", "pid", "off"])}
)  # fmt: skip


@given(HELD, HELD, st.booleans())
def test_the_old_numbers_come_back_and_nobody_is_overruled(before_, held, is_off):
    """Whatever the controller holds: either somebody set something that is neither the test's nor the old number, and nothing is written,
    or what is written makes it the old one. After the heat was switched off nothing is written that may heat."""
    back = to_return(TEST, before_, held, STEPS, is_off)
    theirs = {n for n in held if held[n] not in (HOLDS[n], before_[n]) and not (is_off and n in HEATS)}
    assert set(back.theirs) == theirs
    if theirs:
        assert back.missing == ()
        return
    after = {**held, **dict(back.missing)}
    assert all(after[n] == before_[n] for n in RETURNS if not (is_off and n in HEATS))
    assert not (is_off and any(n in HEATS for n, _ in back.missing))
    assert to_return(TEST, before_, after, STEPS, is_off).missing == ()


def test_a_number_that_is_not_heard_is_written():
    back = to_return(TEST, {**HOLDS, "mode": "pid"}, {"mode": "on_off"}, STEPS, False)
    assert [n for n, _ in back.missing] == list(RETURNS) and not back.theirs


NUMBERS = {"proportional_band_c": 20.0, "integral_time_s": 300.0, "derivative_time_s": 0.0}
TUNES = DrivenTest(
    TEST.test, {"setpoint_c": 58.0, "mode": "pid", "auto_tune": "on"}, 70.0, 120.0, 7200.0, tunes_itself=True
)
WAS = {"setpoint_c": 60.0, "mode": "on_off", "auto_tune": "off", **NUMBERS}
MEANWHILE = {"setpoint_c": 58.0, "mode": "pid", "auto_tune": "on", **NUMBERS}
FOUND = {
    **MEANWHILE,
    "auto_tune": "off",
    "proportional_band_c": 8.0,
    "integral_time_s": 210.0,
    "derivative_time_s": 50.0,
}


def own(held, seconds=60, reading=lambda i: 50.0 + np.sin(i / 9.0), on=False):
    return looks(Watch(TUNES, STEPS, WAS), seconds, reading, on, held)


def test_one_that_tunes_itself_is_over_when_it_says_so_and_holds_other_numbers():
    how, after, said = own(FOUND)
    assert (how, after) == (Ending.FOUND, 2) and "8" in said
    gave_up = own({**MEANWHILE, "auto_tune": "off"})
    assert gave_up[:2] == (Ending.BACK, 2) and "without another number" in gave_up[2]
    silent = {n: v for n, v in MEANWHILE.items() if n not in NUMBERS}
    assert own({**silent, "auto_tune": "off"})[:2] == (Ending.FOUND, 2), (
        "it does not say what it holds: nobody can tell"
    )
    late = Watch(TUNES, STEPS, WAS)
    assert late.look(1.0, 50.0, False, {**MEANWHILE, "auto_tune": "off"}) is None, "its numbers may come a look later"
    assert late.look(1.0, 50.0, False, FOUND).how is Ending.FOUND
    assert own(MEANWHILE, 7200) is None and own(MEANWHILE, 7201)[0] is Ending.BACK
    assert own({**MEANWHILE, "mode": "on_off", "proportional_band_c": 3.0}, 500) is None, "that is how it does it"
    assert own({**MEANWHILE, "setpoint_c": 62.0})[0] is Ending.THEIRS
    assert own({**MEANWHILE, "mode": "off"})[0] is Ending.THEIRS, "off is somebody's word"
    assert own(MEANWHILE, 5, 70.0)[0] is Ending.OFF and own(MEANWHILE, 5, 69.9) is None
    assert own(MEANWHILE, 500, 40.0, True)[0] is Ending.OFF and own(MEANWHILE, 60, nan)[0] is Ending.OFF


def test_what_it_found_stays_and_what_it_did_not_find_is_put_back():
    assert to_return(TUNES, WAS, FOUND, STEPS, False, found=True).missing == (("setpoint_c", 60.0), ("mode", "on_off"))
    broken = dict(to_return(TUNES, WAS, {**FOUND, "auto_tune": "on"}, STEPS, False).missing)
    assert list(broken) == ["auto_tune", *NUMBERS, "setpoint_c", "mode"] and broken["proportional_band_c"] == 20.0
    off = dict(to_return(TUNES, WAS, {**FOUND, "auto_tune": "on", "mode": "off"}, STEPS, True).missing)
    assert list(off) == ["auto_tune", *NUMBERS] and not set(off) & set(HEATS)
    theirs = to_return(TUNES, WAS, {**MEANWHILE, "mode": "off"}, STEPS, False)
    assert theirs.theirs == ("mode",) and not theirs.missing, "switched off while nobody looked"


def test_it_may_be_let_to_where_a_test_of_its_own_mode_may_be_made():
    it = situation()
    told = forecast(it, relay_test(it, RelayKind.OWN))
    first = before(told, [], 5.0, True)
    like, mine = driven_test(it, told, first, 1.0), own_tune(it, told, first, 1.0, {"mode", "setpoint_c", "auto_tune"})
    assert (mine.highest_c, mine.patience_s, mine.stop_after_s) == (
        like.highest_c,
        like.patience_s,
        like.stop_after_s,
    )
    assert list(mine.holds) == ["setpoint_c", "mode", "auto_tune"] and "only a limiter stops another" in if_left_alone(
        mine
    )
    assert list(own_tune(it, told, first, 1.0, {"setpoint_c", "auto_tune"}).holds) == ["setpoint_c", "auto_tune"]
    near = Edge("its limiter", told.highest_c + 0.98 * clear_c(told), is_hard=True)
    with pytest.raises(Refused, match="its limiter acts from"):
        own_tune(it, told, before(told, [near], 5.0, True), 1.0, {"setpoint_c", "auto_tune"})
