"""Walks through menus: over generated controllers, run on the panel, against a judge that tries every key."""

import random
from heapq import heappop, heappush

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.menus.description import Gesture, Press
from rellux.core.menus.entry import cost
from rellux.core.menus.machine import Panel, Standing
from rellux.core.menus.routes import is_plain
from rellux.core.menus.steps import steps
from rellux.core.menus.walk import FEW, walk, way_to
from tests.core.menus.judge import least
from tests.core.menus.made import description, goal_of, values_of
from tests.examples import cases


def asked(made, seed):
    rng = random.Random(seed + 1)
    found, goal = values_of(made, rng), list(values_of(made, rng))
    for i, _ in enumerate(made.pages):
        if rng.random() < 0.4:
            goal[i] = found[i]
    return found, {p.key: goal[i] for i, p in enumerate(made.pages) if goal[i] != found[i]}, tuple(goal)


@pytest.mark.slow
@settings(max_examples=cases(30), deadline=None, derandomize=True)
@given(st.integers(0, 10**6))
def test_no_way_of_pressing_keys_is_cheaper(seed):
    made = description(seed)
    found, wanted, goal = asked(made, seed)
    truth = least(made, found, goal, 15_000)
    if truth is None:
        return
    try:
        way = walk(made, found, wanted)
    except Refused:
        assert truth == float("inf")
        return
    assert way.cost == truth and way.gap == 0.0


@pytest.mark.slow
@settings(max_examples=cases(30), deadline=None)
@given(st.integers(0, 10**6), st.integers(1, 8))
def test_a_walk_ends_with_just_what_is_wanted_and_passes_nothing_guarded(seed, groups):
    made, rng = description(seed, groups, 6, 200, 0.15), random.Random(seed)
    found = values_of(made, rng)
    goal = goal_of(made, found, rng, 8)
    wanted = {p.key: b for p, a, b in zip(made.pages, found, goal, strict=True) if a != b}
    try:
        way = walk(made, found, wanted)
    except Refused:
        return
    panel = Panel(made)
    end = panel.run(Standing(0, found), way.gestures)
    assert (end.page, end.values, end.pending, end.guarded) == (0, goal, None, "")
    for step in steps(made, way):
        there = panel.run(Standing(0, found), way.gestures[: step.gestures])
        shown = panel.display(there)
        assert (step.code, step.value, step.page) == (shown.code, shown.value, panel.page(there).key)
    assert way.at_least <= way.cost and (way.gap == 0.0 or len(wanted) > FEW)


@pytest.mark.slow
@settings(max_examples=cases(20), deadline=None)
@given(st.integers(0, 10**6))
def test_group_by_group_it_ends_with_just_what_is_wanted_too(seed):
    """The way out where the search grows too large: forced here, by letting it look at next to nothing at once."""
    made, rng = description(seed, 4, 4, 60, 0.3), random.Random(seed)
    found = values_of(made, rng)
    goal = goal_of(made, found, rng, 8)
    wanted = {p.key: b for p, a, b in zip(made.pages, found, goal, strict=True) if a != b}
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("rellux.core.menus.walk.FEW", 3)
        patch.setattr("rellux.core.menus.walk.MANY", 3)
        patch.setattr("rellux.core.menus.walk.WEIGHTED", ())
        try:
            way = walk(made, found, wanted)
        except Refused:
            return
    end = Panel(made).run(Standing(0, found), way.gestures)
    assert (end.page, end.values, end.pending, end.guarded) == (0, goal, None, "")
    assert way.at_least <= walk(made, found, wanted).cost <= way.cost


@settings(max_examples=cases(40), deadline=None)
@given(st.integers(0, 10**6))
def test_going_anywhere_takes_the_fewest_keys_and_changes_nothing(seed):
    """Against every key, held for every time that anything is reached by, from every page in turn (Dijkstra's, over what is shown)."""
    rng = random.Random(seed)
    made = description(seed, rng.choice([1, 2, 4]), rng.choice([2, 5]), tied=rng.choice([0.0, 1.0]))
    values, panel = values_of(made, rng), Panel(made)
    holds = {w.gesture for w in made.ways} | {g for x in made.groups for g in (x.next, x.previous, x.leave) if g}
    keys = {*holds, *(Gesture(Press.TAP, k) for k in made.keys), Gesture(Press.WAIT, "", made.timeout_s)}
    start = rng.randrange(len(made.pages))
    nearest, open_ones = {start: 0.0}, [(0.0, start)]
    while open_ones:
        far, at = heappop(open_ones)
        for key in keys if far <= nearest[at] else ():
            there = panel.do(Standing(at, values), key)
            stays = there.pending is None and there.values == values and not there.guarded
            if stays and far + cost(key) < nearest.get(there.page, 1e9):
                nearest[there.page] = far + cost(key)
                heappush(open_ones, (nearest[there.page], there.page))
    for at, page in enumerate(made.pages):
        here = Standing(start, values)
        try:
            way = way_to(made, here, page.key)
        except Refused:
            assert at not in nearest
            continue
        end = panel.run(here, way.gestures)
        assert (end.page, end.values) == (at, values)
        assert at not in nearest or way.cost <= nearest[at] + 1e-9
        if is_plain(made):
            assert way.cost == pytest.approx(nearest[at]) and way.gap == 0
