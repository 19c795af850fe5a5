"""Which candidate suits whom: by the worst of what may be, with the reason, and on both sides of each rule."""

from dataclasses import replace

import pytest

from rellux.core.control.pid import PID
from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.process.models import SOPDT, half_rule
from rellux.core.tuning.candidates import Window, proposals, try_out, worst_ms
from rellux.core.tuning.choosing import Priority, choose
from rellux.core.tuning.comparison import compare
from rellux.core.tuning.trials import Trial

from .test_trials import CABINET, situation


@pytest.fixture(scope="module")
def cabinet():
    return compare(situation())


def test_each_choice_is_the_best_of_its_kind_by_the_worst_of_what_may_be(cabinet):
    """Found anew from the table: robust ones that hold the window, and nothing among them is better at what was asked for."""
    by_key = {c.key: c for c in cabinet.candidates}
    robust = [
        c for c in cabinet.candidates if c.loop and c.key != "now" and worst_ms(c) < 2.0 and c.window is Window.HOLDS
    ]
    plain = [c for c in robust if not c.proposal.settings.pid.derivative_time_s]
    fast, steady = (by_key[cabinet.preferred[p].key] for p in (Priority.FAST, Priority.STEADY))
    assert fast.heat_up.worst.back_s == min(c.heat_up.worst.back_s for c in plain)
    assert steady.tried[Trial.DOOR].worst.mean_c == min(c.tried[Trial.DOOR].worst.mean_c for c in plain)
    for choice in cabinet.preferred.values():
        assert by_key[choice.key] in (*plain, by_key["on_off"]) and choice.reason


def test_derivative_is_chosen_where_a_second_lag_is_longer_than_the_dead_time():
    for second, dead, may in ((60.0, 20.0, True), (15.0, 20.0, False)):
        two = SOPDT(1.05, 600.0, second, dead)
        found = compare(situation(half_rule(two), model=two))
        by_key = {c.key: c for c in found.candidates}
        derivative = [by_key[c.key].proposal.settings.pid.derivative_time_s > 0 for c in found.preferred.values()]
        assert any(derivative) is may, (second, found.preferred)


def test_where_no_loop_is_robust_the_least_nervous_is_named_and_said():
    s = situation()
    tried = [
        try_out(s, p, (Trial.HEAT_UP, Trial.DOOR))
        for p in proposals(s)
        if p.key in ("reaction_curve", "cohen_coon_pid", "on_off")
    ]
    chosen = choose(s, tried)
    least = min((c for c in tried if c.loop), key=worst_ms)
    assert chosen[Priority.FAST].key == least.key and "no loop here has Ms below 2" in chosen[Priority.FAST].reason


def test_an_overshoot_is_none_by_what_the_window_has_above(cabinet):
    """SIMC's, a degree, is none with eight degrees of room above, and is some with two: then one without takes its place."""
    tight = compare(situation(window_high_c=61.2))
    assert cabinet.preferred[Priority.NO_OVERSHOOT].key == "simc"
    chosen = tight.candidate(tight.preferred[Priority.NO_OVERSHOOT].key)
    assert chosen.heat_up.worst.away_c < cabinet.candidate("simc").heat_up.worst.away_c


def test_gain_is_held_by_noise_and_what_is_set_now_is_only_compared_with():
    quiet, loud = (compare(situation(noise_c=noise)) for noise in (0.0, 0.8))
    for found, capped in ((quiet, False), (loud, True)):
        assert found.candidate("reaction_curve").proposal.capped is capped
    perfect = replace(quiet.candidate("simc").proposal.settings)
    again = compare(situation(now=perfect))
    assert again.candidate("now").heat_up.worst == again.candidate("simc").heat_up.worst
    assert "now" not in {c.key for c in again.preferred.values()}


def test_a_loop_that_swings_has_no_margins_and_is_never_chosen():
    wild = ControllerSettings(60.0, Mode.PID, pid=PID(60.0, 60.0), period_s=20.0)
    found = compare(situation(CABINET, now=wild))
    now = found.candidate("now")
    assert worst_ms(now) == float("inf") and now.loop.margins.ms == float("inf")
