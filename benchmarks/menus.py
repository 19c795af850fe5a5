"""Walks through a large controller's menus."""

import random

from benchmarks.measure import report, timed, turns
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import dijkstra
from tests.core.menus.made import goal_of, values_of

from rellux.core.errors import Refused
from rellux.core.menus.description import (
    AfterLast,
    Description,
    Editing,
    Gesture,
    Group,
    Keeps,
    Page,
    PageChoice,
    Press,
    SideEffect,
    Values,
    Way,
)
from rellux.core.menus.entry import cost
from rellux.core.menus.machine import Panel, Standing
from rellux.core.menus.shipped import SHIPPED
from rellux.core.menus.walk import walk, way_to

GROUPS, PAGES, CHANGES = 30, 10, 40


def large() -> Description:
    """300 pages in 30 groups, each behind a hold of its own; every tenth group resets a page by another."""
    on, off = Gesture(Press.TAP, "M"), Gesture(Press.HOLD, "M", 2.0)
    groups = [Group("home", "home", (Page("now", "now"), Page("sp", "sp", high=999)), on)]
    ways = []
    for g in range(GROUPS):
        pages = [Page(f"{g}-{p}", f"{g}{p}", high=999) for p in range(PAGES)]
        if g % 10 == 0:
            choices = tuple(PageChoice(str(i)) for i in range(4))
            pages[0] = Page(f"{g}-0", f"{g}0", choices=choices, effects=(SideEffect(f"{g}-3"),))
        groups.append(Group(str(g), str(g), tuple(pages), on, after_last=AfterLast.LEAVES, leave=off))
        ways.append(Way(Gesture(Press.HOLD, "E", 1.0 + g), "home", str(g)))
    editing = Editing("U", "D", per_second=8, kept_by=(Keeps.NEXT,))
    return Description("large", ("M", "U", "D", "E"), tuple(groups), tuple(ways), editing)


def graph(made: Description, values: Values) -> csr_matrix:
    """From page to page with one gesture, as the panel does it."""
    panel, rows, columns, costs = Panel(made), [], [], []
    for i in range(len(made.pages)):
        group = made.groups[made.group_of[i]]
        for gesture in (group.next, group.leave, *(w.gesture for w in made.ways if w.at == group.key)):
            to = panel.do(Standing(i, values), gesture).page if gesture else i
            if gesture and to != i:
                rows.append(i)
                columns.append(to)
                costs.append(cost(gesture))
    return csr_matrix((costs, (rows, columns)), (len(made.pages),) * 2)


def far_off(each: int) -> float:
    """Share of walks to random values, without a changed unit, whose distance to the lower bound is more than 5 %."""
    gaps = []
    for made in SHIPPED.values():
        units = [i for i, p in enumerate(made.pages) if "display_unit" in p.sets]
        for seed in range(each):
            rng = random.Random(seed)
            found = values_of(made, rng)
            goal = goal_of(made, found, rng, rng.randint(8, 14))
            if all(found[u] == goal[u] for u in units):
                try:
                    gaps.append(walk(made, found, dict(zip(made.index, goal, strict=True))).gap)
                except Refused:
                    continue
    return 100.0 * sum(gap > 0.05 for gap in gaps) / len(gaps)


def walks() -> None:
    """40 changes on 300 pages, and the fewest keys to each page; the walk's time as a share of a second's."""
    made, rng = large(), random.Random(1)
    found = tuple(p.default for p in made.pages)
    keys = rng.sample([p.key for p in made.pages[2:]], CHANGES)
    wanted = {k: rng.randint(1, 3) if made.page(k).choices else rng.randint(1, 999) for k in keys}
    report(
        "walk of 40 changes on 300 pages",
        min(timed(lambda: walk(made, found, wanted)) for _ in range(3)),
        1.0,
        unit="s",
    )
    report("its distance to the lower bound", 100.0 * walk(made, found, wanted).gap, 5.0, unit="%")
    report(
        "walks of up to 14 changes on those that come along that may be more than 5 % over", far_off(15), 5.0, unit="%"
    )
    edges, here = graph(made, found), Standing(0, found)
    ratio = turns(
        lambda: [way_to(made, here, p.key) for p in made.pages[1:]], lambda: [dijkstra(edges, indices=0) for _ in made.pages[1:]], 3
    )  # fmt: skip
    report("fewest keys to every page against a general shortest path each", ratio, 10.0)
