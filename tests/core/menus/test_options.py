"""A controller with some of its options: the same as one whose other pages never show, key by key; choices, bounds and ways by hand."""

import random
from dataclasses import replace

import pytest

from rellux.core.errors import Refused
from rellux.core.menus.description import (
    Condition,
    Gesture,
    Group,
    Page,
    PageChoice,
    Press,
    SideEffect,
    SideEffectKind,
    Way,
)
from rellux.core.menus.machine import Panel
from rellux.core.menus.options import as_bought, every_one
from rellux.core.menus.problems import problems
from rellux.core.menus.shipped import SHIPPED

from .made import A, description

OUT_OF = Gesture(Press.HOLD, "A", 2.0)
BOARDS = ("second output", "retransmission")


def with_boards(made, rng):
    """Some of its pages hang on a board; none that ties to others or is the last of its group."""
    groups, hangs = [], {}
    for g, group in enumerate(made.groups):
        loose = [p.key for p in group.pages[1:] if g and not p.forgets]
        hangs |= {key: rng.choice(BOARDS) for key in loose if rng.random() < 0.5}
    for group in made.groups:
        pages = [
            replace(
                p,
                option=hangs.get(p.key, ""),
                effects=() if p.key in hangs else tuple(e for e in p.effects if e.page not in hangs),
                high_from="" if p.high_from in hangs else p.high_from,
            )
            for p in group.pages
        ]
        groups.append(replace(group, pages=tuple(pages)))
    return replace(made, groups=tuple(groups), options=BOARDS), hangs


def never_shown(made, fitted):
    """The judge: a page at home that cannot be reached stands for what is in it, and a page is there while it says so."""
    flags = [Page(f"has {b}", f"has {b}", high=1, default=int(b in fitted)) for b in BOARDS]
    hidden = [replace(f, shown_when=(Condition(f.key, (2,)),)) for f in flags]
    groups = [
        replace(
            g,
            pages=tuple(
                replace(
                    p,
                    shown_when=(*p.shown_when, *([Condition(f"has {p.option}", (1,))] if p.option else [])),
                    option="",
                )
                for p in g.pages
            ),
        )
        for g in made.groups
    ]
    groups[0] = replace(groups[0], pages=(*groups[0].pages, *hidden))
    return replace(made, groups=tuple(groups), options=())


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(120))
def test_pages_that_hang_on_a_board_are_there_with_it_and_else_never(seed):
    rng = random.Random(seed)
    made, hangs = with_boards(description(seed, groups=3, pages=4), rng)
    for fitted, bought in every_one(made):
        assert {p.key for p in bought.pages} >= {p.key for p in made.pages if not p.option and not p.shown_when}
        assert not {p.key for p in bought.pages} & {k for k, board in hangs.items() if board not in fitted}
        one, other = Panel(bought), Panel(never_shown(made, fitted))
        here, there = (p.start(tuple(q.default for q in p.description.pages)) for p in (one, other))
        gestures = [w.gesture for w in made.ways] + [g.leave for g in made.groups if g.leave] + [A, A, A, A]
        gestures += [replace(A, key=key) for key in (made.editing.up, made.editing.down, "B") if key]
        for _ in range(60):
            gesture = rng.choice(gestures)
            here, there = one.do(here, gesture), other.do(there, gesture)
            assert one.page(here).key == other.page(there).key
            assert one.display(here) == other.display(there)


OUT = Page(
    "out", "out", sets=("mode",), choices=(
        PageChoice("rEL", values=("on_off",)), PageChoice("AnA", values=("pid",), option=BOARDS[0]), PageChoice("oFF", values=("off",)),
    ), default=2, effects=(SideEffect("top", SideEffectKind.SETS, 5, (1,)), SideEffect("low", when=(1, 2))),
)  # fmt: skip
LOW = Page("low", "lo", high=9, default=4, option=BOARDS[1])
TOP = Page("top", "hi", high=9, default=5, low_from="low", shown_when=(Condition("out", (1, 2)),))
EXTRA = Page("extra", "Et", high=9, shown_when=(Condition("low", (3,)),))


def by_hand():
    made = description(3, groups=2, pages=1)
    home = replace(made.groups[0], pages=(*made.groups[0].pages, OUT, LOW, TOP, EXTRA))
    board = Group("board", "board", (Page("b", "b", high=5, option=BOARDS[0]),), A, leaves_to="home", leave=OUT_OF)
    inner = Group("inner", "inner", (Page("i", "i", high=5),), A, leaves_to="board", leave=OUT_OF)
    ways = (
        Way(replace(A, key="C"), "home", "board"),
        Way(replace(A, key="C"), "board", "inner"),
        Way(replace(A, key="E"), "home", "inner"),
    )
    return replace(made, groups=(home, board, inner), ways=ways, options=BOARDS)


def test_choices_bounds_conditions_and_ways_of_what_is_missing():
    bare, full = as_bought(by_hand(), ()), as_bought(by_hand(), BOARDS)
    assert [c.code for c in bare.page("out").choices] == ["rEL", "oFF"] and bare.page("out").default == 1
    assert bare.page("out").effects == (), "what it set it cannot be at, and what it reset is missing"
    assert bare.page("top").shown_when == (Condition("out", (1,)),)
    assert (bare.page("top").low, bare.page("top").low_from) == (4, ""), "what bounds it stays as delivered"
    assert "extra" not in bare.index and "extra" in full.index, "as delivered its condition never holds"
    assert [g.key for g in bare.groups] == ["home", "inner"] and bare.groups[1].leaves_to == "home"
    assert [(w.at, w.to) for w in bare.ways] == [("home", "inner")]
    assert full == replace(by_hand(), groups=full.groups) and full.page("out").choices[1].code == "AnA"
    assert as_bought(bare, ()) == bare
    with pytest.raises(Refused) as refused:
        as_bought(by_hand(), ("a fan",))
    assert refused.value.problems[0].field == "options" and BOARDS[0] in refused.value.problems[0].accepted


def test_what_cannot_be_of_options_is_named():
    def said(made):
        return [(p.field, p.reason) for p in problems(made)]

    made = by_hand()
    home = made.groups[0]
    wrong = replace(home, pages=(replace(home.pages[0], option=BOARDS[0]), *home.pages[1:]))
    assert said(replace(made, groups=(wrong, *made.groups[1:])))[0][0] == "groups[0].pages[0].option"
    assert ("options", f"{BOARDS[0]} stands there twice") in said(replace(made, options=(*BOARDS, BOARDS[0])))
    assert any(f.endswith(".option") and "no option" in r for f, r in said(replace(made, options=BOARDS[:1])))
    assert ("options", "7 options") in said(replace(made, options=tuple("abcdefg")))
    stuck = Group("stuck", "stuck", (Page("s", "s", high=5),), A)
    way_in, way_out = (
        Way(replace(A, key="U"), "home", "stuck"),
        Way(replace(A, key="E"), "stuck", "home", when=(Condition("out", (1,)),)),
    )
    trap = replace(made, groups=(*made.groups, stuck), ways=(*made.ways, way_in, way_out), timeout_s=0.0)
    assert said(trap) == [("options", "without any of them: there is no way out of it (groups[2].leave)")]
    always = replace(way_out, when=(Condition("out", (0, 1)),))
    assert said(replace(trap, ways=(*made.ways, way_in, always))) == [], "it is there by another choice too"
    assert [f for f, _ in said(made) if f == "options"] == []


def test_the_shipped_ones_have_options_that_leave_something_to_set():
    chosen = [d for d in SHIPPED.values() if d.options]
    assert chosen
    for made in chosen:
        assert len(as_bought(made, ()).pages) < len(made.pages)
