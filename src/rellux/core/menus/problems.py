"""What cannot be in a description, named by its field; and what its author should look at again."""

from collections.abc import Iterator
from dataclasses import replace

from ..errors import Problem, Refused, refuse_all
from ..form import cannot_be
from ..profiles.controller_table import check_form
from ..setup.dictionary import BY_NAME, SCHOOLS
from .description import FORMAT, AfterLast, Description, Gesture, Group, Keeps, Page, Press, SideEffectKind, shown
from .options import MOST_OPTIONS, every_one
from .terminals import terminal_problems

MOST_GROUPS, MOST_PAGES, MOST_CHOICES, MOST_DIGITS, MOST_DECIMALS = 40, 400, 64, 16, 6
MOST_COUNTS, LEAST_SCALE, MOST_SCALE = 10**9, 1e-3, 1e4
LONGEST_CODE, LONGEST_WORDS, LONGEST_OPTION, LONGEST_HOLD_S = 16, 160, 40, 60.0
MOST_STEPS, LONGEST_WAIT_S = 1000, 3600.0
MOST_REGISTER = 65_535
"""Registers of Modbus are counted to 16 bits (its protocol)."""


def check_description(description: Description) -> None:
    """Raises ``Refused`` naming every field that cannot be."""
    refuse_all([*problems(description)])


def problems(found: Description) -> Iterator[Problem]:
    """Every field that cannot be."""
    if found.format != FORMAT:
        yield Problem("format", f"a file of version {found.format}", f"version {FORMAT}")
        return
    if not 1 <= len(found.title.strip()) <= LONGEST_WORDS:
        yield Problem("title", "say what it is called", f"1…{LONGEST_WORDS} characters")
    if not 1 <= len(found.groups) <= MOST_GROUPS or not all(g.pages for g in found.groups):
        yield Problem("groups", "a controller has groups of at least a page each", f"1…{MOST_GROUPS} groups")
        return
    if len(found.pages) > MOST_PAGES:
        yield Problem("groups", f"{len(found.pages)} pages", f"up to {MOST_PAGES}")
        return
    if not 1 <= found.digits <= MOST_DIGITS:
        yield Problem("digits", "no display has so many places", f"1…{MOST_DIGITS}")
    if len({g.key for g in found.groups}) < len(found.groups):
        yield Problem("groups", "two groups are called the same", "each a key of its own")
    if len(found.index) < len(found.pages):
        twice = next(p.key for i, p in enumerate(found.pages) if p.key in {q.key for q in found.pages[:i]})
        yield Problem("groups", f"two pages are called {twice}", "each a key of its own")
        return
    yield from _editing(found)
    for g, group in enumerate(found.groups):
        yield from _group(found, group, f"groups[{g}].")
        for p, page in enumerate(group.pages):
            yield from _page(found, page, f"groups[{g}].pages[{p}].")
    yield from _ways(found)
    yield from _options(found)
    yield from terminal_problems(found)
    yield from _programme(found)
    yield from _registers(found)
    yield from cannot_be(found.language, "language.")
    for name in SCHOOLS:
        known = [value for value, _ in BY_NAME[name].choices]
        if getattr(found, name) not in ("", *known):
            yield Problem(name, f"there is no such kind as {getattr(found, name)!r}", ", ".join(known))


def _programme(found: Description) -> Iterator[Problem]:
    if found.programme is None:
        return
    try:
        check_form(found.programme)
    except Refused as refusal:
        yield from (Problem(f"programme.{p.field}", p.reason, p.accepted) for p in refusal.problems)


def _options(found: Description) -> Iterator[Problem]:
    if len(found.options) > MOST_OPTIONS:
        yield Problem("options", f"{len(found.options)} options", f"up to {MOST_OPTIONS}")
        return
    for i, name in enumerate(found.options):
        if not 1 <= len(name.strip()) <= LONGEST_OPTION:
            yield Problem("options", "say what it is called", f"1…{LONGEST_OPTION} characters")
        if name in found.options[:i]:
            yield Problem("options", f"{name} stands there twice", "once")
    unknown = False
    for g, group in enumerate(found.groups):
        for p, page in enumerate(group.pages):
            for at, option in (("", page.option), *((f"choices[{i}].", c.option) for i, c in enumerate(page.choices))):
                if option and option not in found.options:
                    unknown = True
                    known = ", ".join(found.options) or "name it among the options first"
                    yield Problem(f"groups[{g}].pages[{p}].{at}option", f"there is no option {option}", known)
    if unknown or not found.options:
        return
    if found.groups[0].pages[0].option:
        yield Problem("groups[0].pages[0].option", "what it shows in ordinary work is in every one", "no option")
        return
    for fitted, bought in every_one(found):
        left = next(problems(replace(bought, options=())), None)
        if left is not None:
            with_it = f"with {' and '.join(fitted)}" if fitted else "without any of them"
            yield Problem("options", f"{with_it}: {left.reason} ({left.field})", left.accepted)
            return


def _registers(found: Description) -> Iterator[Problem]:
    taken: dict[int, str] = {}
    for g, group in enumerate(found.groups):
        for p, page in enumerate(group.pages):
            at = f"groups[{g}].pages[{p}]."
            if len(page.manual) > LONGEST_WORDS:
                yield Problem(f"{at}manual", "too long to be a place", f"up to {LONGEST_WORDS} characters")
            if page.register is None:
                continue
            if not 0 <= page.register <= MOST_REGISTER:
                yield Problem(f"{at}register", f"there is no register {page.register}", f"0…{MOST_REGISTER}")
            elif page.register in taken:
                yield Problem(f"{at}register", f"{page.register} is already {taken[page.register]}", "another")
            taken.setdefault(page.register, page.code)


def _gesture(found: Description, gesture: Gesture | None, at: str) -> Iterator[Problem]:
    if gesture is None or gesture.press in (Press.WAIT, Press.SWITCH):
        return
    if gesture.key and any(k not in found.keys for k in gesture.key.split("+")):
        yield Problem(at, f"there is no key {gesture.key}", ", ".join(found.keys))
    if gesture.press in (Press.TAP, Press.HOLD) and not gesture.key:
        yield Problem(at, "which key?", ", ".join(found.keys))
    if gesture.press is Press.HOLD and not 0 < gesture.seconds <= LONGEST_HOLD_S:
        yield Problem(at, "held for how long?", f"up to {LONGEST_HOLD_S:g} s")


def _editing(found: Description) -> Iterator[Problem]:
    editing = found.editing
    for name in ("up", "down", "shift"):
        key = getattr(editing, name)
        if (key or name == "up") and key not in found.keys:
            yield Problem(f"editing.{name}", f"there is no key {key or 'for it'}", ", ".join(found.keys))
    if not editing.kept_by:
        yield Problem("editing.kept_by", "nothing keeps a value", ", ".join(Keeps))
    if Keeps.STORE in editing.kept_by and editing.store is None:
        yield Problem("editing.store", "which key keeps a value?", "a gesture")
    if Keeps.PAUSE in editing.kept_by and not editing.pause_s > 0:
        yield Problem("editing.pause_s", "after how long a pause is it kept?", "more than 0 s")
    if Keeps.TIMEOUT in editing.kept_by and not found.timeout_s > 0:
        yield Problem("timeout_s", "it keeps values by its time-out, and has none", "more than 0 s")
    if editing.shift and Keeps.STEP in editing.kept_by:
        yield Problem(
            "editing.kept_by", "digit by digit nothing is kept at each step", "store, next, leave, pause, timeout"
        )
    for name, value, most in (
        ("editing.per_second", editing.per_second, MOST_STEPS),
        ("editing.pause_s", editing.pause_s, LONGEST_WAIT_S),
        ("timeout_s", found.timeout_s, LONGEST_WAIT_S),
    ):
        if not 0 <= value <= most:
            yield Problem(name, f"{value:g} cannot be", f"0…{most:g}")
    for name in ("opens", "store"):
        yield from _gesture(found, getattr(editing, name), f"editing.{name}")


def _group(found: Description, group: Group, at: str) -> Iterator[Problem]:
    for name in ("next", "previous", "leave"):
        yield from _gesture(found, getattr(group, name), f"{at}{name}")
    if group.leaves_to and group.leaves_to not in found.group_index:
        yield Problem(f"{at}leaves_to", f"there is no group {group.leaves_to}", ", ".join(found.group_index))
    codes = [p.code.upper() for p in group.pages if not p.shown_when]
    twice = next((c for i, c in enumerate(codes) if c and c in codes[:i]), None)
    if twice is not None:
        yield Problem(
            f"{at}pages", f"two pages of it show {twice}", "codes that can be told apart, or shown under conditions"
        )
    away = group.leave or group.after_last is AfterLast.LEAVES or found.timeout_s
    out = any(w.at == group.key and w.to == found.groups[0].key for w in found.ways)
    if group is not found.groups[0] and not away and not out:
        yield Problem(f"{at}leave", "there is no way out of it", "a gesture, after the last page, or a time-out")
    seen, to = {group.key}, group.leaves_to
    while to and to in found.group_index:
        if to in seen:
            yield Problem(f"{at}leaves_to", "leaving goes in a circle and never home", "a group nearer to home")
            break
        seen.add(to)
        to = found.groups[found.group_index[to]].leaves_to


def _page(found: Description, page: Page, at: str) -> Iterator[Problem]:
    if not page.key or len(page.code) > LONGEST_CODE or len(page.title) > LONGEST_WORDS:
        yield Problem(
            f"{at}code", "a key of its own, and a code that a display shows", f"up to {LONGEST_CODE} characters"
        )
    for name in page.sets:
        if name not in BY_NAME:
            yield Problem(f"{at}sets", f"{name} is not a parameter of the sheet", ", ".join(BY_NAME))
    if len(page.choices) > MOST_CHOICES:
        yield Problem(f"{at}choices", f"{len(page.choices)} choices", f"up to {MOST_CHOICES}")
    for i, choice in enumerate(page.choices):
        if choice.values and len(choice.values) != len(page.sets):
            yield Problem(
                f"{at}choices[{i}]", "says as many values as its page sets parameters", f"{len(page.sets)}, or none"
            )
    if any(abs(c) > MOST_COUNTS for c in (page.low, page.high, page.default)):
        yield Problem(f"{at}high", "no display shows such a number", f"up to {MOST_COUNTS}")
        return
    if page.low > page.high:
        yield Problem(f"{at}low", f"least {page.low} is above most {page.high}", "least up to most")
    elif not page.least <= page.default <= page.most:
        yield Problem(f"{at}default", f"{page.default} is outside its range", f"{page.least}…{page.most}")
    if not 0 <= page.decimals <= MOST_DECIMALS or not LEAST_SCALE <= page.scale <= MOST_SCALE:
        yield Problem(
            f"{at}decimals", "no display has that", f"0…{MOST_DECIMALS}, and a scale of {LEAST_SCALE:g}…{MOST_SCALE:g}"
        )
    elif page.is_set and not page.choices:
        widest = max((shown(page, c) for c in (page.low, page.high)), key=lambda t: len(t.replace(".", "")))
        if len(widest.replace(".", "")) > found.digits:
            yield Problem(
                f"{at}high", f"{widest} does not fit on {found.digits} digits", "a value the display can show"
            )
    for name in ("low_from", "high_from"):
        other = getattr(page, name)
        if other and (other not in found.index or found.page(other).choices):
            yield Problem(f"{at}{name}", f"there is no page {other} with a number", "a page")
    for condition in page.shown_when:
        if condition.page not in found.index:
            yield Problem(f"{at}shown_when", f"there is no page {condition.page}", "a page")
    for effect in page.effects:
        if effect.page not in found.index:
            yield Problem(f"{at}effects", f"there is no page {effect.page}", "a page")
        elif not page.choices and effect.kind is SideEffectKind.CONVERTS:
            yield Problem(f"{at}effects", "a number is no unit to convert to", "a page with choices")
        elif effect.kind is SideEffectKind.SETS:
            to = found.page(effect.page)
            if not to.least <= effect.counts <= to.most:
                yield Problem(f"{at}effects", f"{to.code} cannot be {effect.counts}", f"{to.least}…{to.most}")


def _ways(found: Description) -> Iterator[Problem]:
    for i, way in enumerate(found.ways):
        at = f"ways[{i}]."
        yield from _gesture(found, way.gesture, f"{at}gesture")
        if way.at not in found.group_index or way.to not in found.group_index:
            yield Problem(
                f"{at}to",
                f"there is no group {way.to if way.at in found.group_index else way.at}",
                ", ".join(found.group_index),
            )
        elif way.at_page and way.at_page not in {p.key for p in found.groups[found.group_index[way.at]].pages}:
            yield Problem(f"{at}at_page", f"{way.at} has no page {way.at_page}", "one of its pages")
        for condition in way.when:
            if condition.page not in found.index:
                yield Problem(f"{at}when", f"there is no page {condition.page}", "a page")
    for g, group in enumerate(found.groups[1:], start=1):
        entered = any(w.to == group.key for w in found.ways) or any(x.leaves_to == group.key for x in found.groups)
        if not entered:
            yield Problem(f"groups[{g}]", f"no way leads into {group.title or group.key}", "a way in")
        yield from _two_meanings(found, group, f"groups[{g}].")
    yield from _two_meanings(found, found.groups[0], "groups[0].")


def _two_meanings(found: Description, group: Group, at: str) -> Iterator[Problem]:
    """One gesture that would do two things at one place."""
    mine = {"next": group.next, "previous": group.previous, "leave": group.leave, "editing.opens": found.editing.opens}
    seen: dict[tuple[Press, str, float], str] = {}
    for name, gesture in mine.items():
        if gesture is None:
            continue
        key = (gesture.press, gesture.key, gesture.seconds)
        if key in seen:
            yield Problem(f"{at}{name}", f"{gesture.key} already means {seen[key]} there", "another gesture")
        seen.setdefault(key, name)
    for changes in (found.editing.up, found.editing.down, found.editing.shift):
        tapped = (Press.TAP, changes, 0.0)
        if changes and found.editing.opens is None and tapped in seen:
            yield Problem(f"{at}{seen[tapped]}", f"{changes} already changes the value there", "another key")
