"""Controllers that nobody makes: descriptions of every structure, from a seed."""

import random
from dataclasses import replace

from rellux.core.menus.description import (
    AfterLast,
    Condition,
    Counted,
    Description,
    Editing,
    Gesture,
    Group,
    Keeps,
    Page,
    PageChoice,
    Press,
    SideEffect,
    SideEffectKind,
    Way,
)
from rellux.core.menus.machine import Panel, Pending, Standing

TAP, HOLD = Press.TAP, Press.HOLD
A, B, C = (Gesture(TAP, k) for k in "ABC")


def editing_of(rng: random.Random) -> Editing:
    """Up is U, down D or none; A goes on, so what opens and keeps is B."""
    digit = rng.random() < 0.4
    opens = B if rng.random() < 0.4 else None
    keeps = rng.choice(
        [
            (Keeps.STEP,),
            (Keeps.STORE,),
            (Keeps.NEXT,),
            (Keeps.STORE, Keeps.LEAVE),
            (Keeps.PAUSE,),
            (Keeps.NEXT, Keeps.TIMEOUT),
        ]
    )
    if digit and Keeps.STEP in keeps:
        keeps = (Keeps.STORE,)
    return Editing(
        "U", rng.choice(["D", "D", ""]) if digit else "D", opens, "S" if digit else "", rng.random() < 0.5, rng.random() < 0.5,
        0 if digit else rng.choice([0, 0, 2, 5]), rng.random() < 0.7, keeps, B if Keeps.STORE in keeps else None,
        rng.random() < 0.3, 3.0 if Keeps.PAUSE in keeps else 0.0,
    )  # fmt: skip


def page_of(rng: random.Random, key: str, most: int) -> Page:
    if rng.random() < 0.4:
        choices = tuple(
            PageChoice(f"{key}{i}", guarded=i == 2 and rng.random() < 0.4) for i in range(rng.choice([2, 3, 4]))
        )
        return Page(key, key, choices=choices)
    low = rng.choice([0, 0, -2]) if most < 20 else rng.choice([0, -99])
    return Page(
        key, key, low=low, high=rng.randint(2, most), default=rng.randint(0, 1), counted=rng.choice(list(Counted))
    )


def description(seed: int, groups: int = 2, pages: int = 2, most: int = 4, tied: float = 1.0) -> Description:
    """Home with a set-point, and ``groups`` of 1…``pages`` pages, tied to one another by ways in, conditions and effects."""
    rng = random.Random(seed)
    keys = [[f"{g}{p}" for p in range(rng.randint(1, pages))] for g in "pqrstuvwxyz"[:groups]]
    flat = [k for g in keys for k in g]
    made = {k: page_of(rng, k, most) for k in flat}
    for key in flat:
        page, others = made[key], [k for k in flat if k != key]
        if not others:
            continue
        ties = {}
        if rng.random() < 0.4 * tied:
            other = made[rng.choice(others)]
            when = () if rng.random() < 0.5 else (rng.randint(other.least if other is page else page.least, page.most),)
            kind = rng.choice(list(SideEffectKind)[:2])
            ties["effects"] = (SideEffect(other.key, kind, rng.randint(max(other.least, 0), other.most), when),)
        if rng.random() < 0.2 * tied:
            other = made[rng.choice(others)]
            ties["shown_when"] = (Condition(other.key, (rng.randint(max(other.least, 0), other.most),)),)
        numbers = [k for k in others if not made[k].choices]
        if rng.random() < 0.15 * tied and numbers and not page.choices:
            ties["high_from"] = rng.choice(numbers)
        made[key] = Page(**{**vars(page), **ties})
    editing = editing_of(rng)
    if (
        Keeps.STEP in editing.kept_by
    ):  # going to and fro over what has effects would be no walk: the judge cannot tell the two apart
        made = {key: replace(page, effects=()) for key, page in made.items()}
    found, ways = [], []
    setpoint, code = Page("sp", "SP", high=most, low=0), Page("code", "CODE", high=2, forgets=True)
    has_code, has_menu = rng.random() < 0.25, rng.random() < 0.3
    home = Group("home", "home", (Page("pv", "", ""), setpoint, *([code] if has_code else [])), A)
    for i, names in enumerate(keys):
        rule = rng.choice(list(AfterLast))
        leave = None if rule is AfterLast.LEAVES and rng.random() < 0.5 else Gesture(HOLD, "A", 2.0)
        previous = C if rng.random() < 0.3 else None
        found.append(Group(names[0][0], names[0][0], tuple(made[k] for k in names), A, previous, rule, leave))
        locked = (Condition("code", (2,)),) if has_code and rng.random() < 0.6 else ()
        if has_menu:
            ways.append(Way(B, "menu", names[0][0], f"to {names[0][0]}", locked))
            continue
        gesture, when = rng.choice([
            (Gesture(HOLD, "S", 1.0 + i), ()), (Gesture(Press.POWER, "ABCDEFGHIJK"[i]), ()),
            (Gesture(HOLD, "E", 1.0 + i), (Condition("sp", (most,)),)), (Gesture(Press.SWITCH, str(i)), ()),
        ])  # fmt: skip
        locked = () if gesture.press is Press.POWER else locked  # switched off, it forgets its code
        ways.append(Way(gesture, "home", names[0][0], "", (*when, *locked)))
    if has_menu:
        headings = tuple(Page(f"to {names[0][0]}", names[0][0]) for names in keys)
        found = [replace(g, leaves_to="menu") for g in found]
        found.append(Group("menu", "menu", headings, A, C, leave=Gesture(HOLD, "A", 2.0)))
        ways.append(Way(Gesture(HOLD, "B", 3.0), "home", "menu"))
    timeout = rng.choice([0.0, 10.0])
    keys_there = tuple("ABCDSUE")
    return Description(f"made {seed}", keys_there, (home, *found), tuple(ways), editing, timeout_s=timeout)


def values_of(made: Description, rng: random.Random) -> tuple[int, ...]:
    """Something that every page may be at, and nothing guarded."""
    fine = [[c for c in range(p.least, p.most + 1) if not (p.choices and p.choices[c].guarded)] for p in made.pages]
    return tuple(
        p.default if p.forgets or not p.is_set else rng.choice(f) for p, f in zip(made.pages, fine, strict=True)
    )


def goal_of(made: Description, found: tuple[int, ...], rng: random.Random, changes: int) -> tuple[int, ...]:
    """Values that so many pages set one after the other would leave, whatever each does to the others."""
    panel, values, done = Panel(made), found, 0
    for at in rng.sample(range(len(found)), len(found)):
        page = made.pages[at]
        low, high = panel.range(page, values)
        fine = [c for c in range(low, high + 1) if c != values[at] and not (page.choices and page.choices[c].guarded)]
        if not page.is_set or page.forgets or not fine or not panel.visible(at, values):
            continue
        values = panel.kept(Standing(at, values, Pending(rng.choice(fine)))).values
        done += 1
        if done == changes:
            break
    return values
