"""What is in a controller as far as anybody knows, before, half way through and after a walk; and what of a sheet it comes to hold."""

from collections.abc import Mapping, Set
from dataclasses import dataclass
from math import isclose

from ..errors import refuse
from ..setup.dictionary import BY_NAME, SCHOOLS
from ..setup.dictionary.control import PID_NAMES
from ..setup.dictionary.parameter import ANYTHING, Parameter
from ..setup.parameters import Sheet
from .description import Description, Gesture, Press, Values
from .machine import Panel, Pending, Standing
from .meaning import Unheld, sheet_of, wanted_counts, worth_setting
from .walk import Walk, walk

SWITCHED_OFF = Gesture(Press.POWER)
"""What a walk that is left ends with at the latest: what is not kept by then is lost."""


def contents(description: Description, sheet: Sheet, read_off: Mapping[str, int]) -> Values:
    """The counts of every page: as a sheet of this controller says, else as it was read off it, else as delivered. One sheet may be said
    by two sets of PID numbers (in series the two times can be exchanged): of those, as it was read."""
    told = wanted_counts(description, sheet).counts
    known = {p.key: p.default for p in description.pages} | told | dict(read_off)
    held = sheet_of(description, tuple(known.values()))
    if not all(n in held and n in sheet and isclose(float(held[n]), float(sheet[n]), rel_tol=1e-9) for n in PID_NAMES):
        known |= told
    pid = {p.key for p in description.pages if set(p.sets) & set(PID_NAMES)}
    known |= {key: counts for key, counts in told.items() if key not in pid}
    return tuple(p.default if p.forgets else known[p.key] for p in description.pages)


def walk_to(description: Description, found: Values, sheet: Sheet) -> Walk:
    """The walk that brings a sheet into it, as far as it can hold it. Raises ``Refused`` as :func:`walk` does."""
    return walk(description, found, worth_setting(description, found, wanted_counts(description, sheet).counts))


def half_walked(description: Description, found: Values, sheet: Sheet, done: int) -> Values:
    """What is in it with so many gestures of a walk done, and the walk left: what was kept by then."""
    panel = Panel(description)
    gestures = walk_to(description, found, sheet).gestures[:done]
    return panel.do(panel.run(panel.start(found), gestures), SWITCHED_OFF).values


def sheet_left(description: Description, began: Values, end: Values, before: Sheet, otherwise: Sheet) -> Sheet:
    """The sheet of a controller that is left with these counts: of parameters whose pages changed, what they mean now. Without a sheet
    ``before``, what all its pages mean, and ``otherwise`` what it has no page for."""
    held = sheet_of(description, end)
    changed = (p for p, a, b in zip(description.pages, began, end, strict=True) if a != b)
    known = {n for p in changed for n in p.sets} if before else set(held)
    base = dict(before or otherwise)
    return base | {n: v for n, v in held.items() if n in known and n in base}


def left_hidden(description: Description, found: Values, sheet: Sheet) -> tuple[Unheld, ...]:
    """Parameters that stay as they are because their page is hidden once all else stands."""
    counts = wanted_counts(description, sheet).counts
    set_in_the_end = worth_setting(description, found, counts)
    left = (
        description.page(k) for k, c in counts.items() if k not in set_in_the_end and found[description.index[k]] != c
    )
    return tuple(
        Unheld(n, f"{p.code} is hidden with the rest as wanted", idle=n in BY_NAME and not BY_NAME[n].applies_in(sheet))
        for p in left
        if not p.forgets
        for n in p.sets
    )


def told(description: Description, found: Values, goal: Values, way: Walk, complete: bool) -> str:
    """A walk in one sentence. ``complete``: all of the sheet is in it in the end."""
    changed = [p.key for p, a, b in zip(description.pages, found, goal, strict=True) if a != b]
    if not way.legs:
        holds = "it holds all of it" if complete else "it holds what it can of it"
        return f"As far as is known {holds}: nothing to press."
    skipped = sum(1 for g in description.groups[1:] if not any(p.key in changed for p in g.pages))
    words = [_count(len(changed), "page changes", "pages change"), _count(len(way.gestures), "keystroke", "keystrokes")]
    words += [f"{_count(skipped, 'group', 'groups')} skipped"] if skipped else []
    fewest = f"within {100 * way.gap:.1f} % of the fewest" if way.gap > 0 else "the fewest there are"
    return f"{', '.join([*words, fewest])}."


def _count(n: int, one: str, more: str) -> str:
    return f"{n} {one if n == 1 else more}"


def is_wanted_here(parameter: Parameter, sheet: Sheet, paged: Set[str] | None) -> bool:
    """Whether a parameter is worth a line of the sheet of a controller that sets those ``paged`` (``None``: it is not described): it is one
    of them, every controller has it, or it is not at what one without it does."""
    name, without = parameter.name, parameter.without
    if paged is None or name in SCHOOLS or name in paged:
        return True
    if without is None:
        return not parameter.applies or any(a.name in paged for a in parameter.applies)
    return without != ANYTHING and sheet.get(name, without) != without


def seen_to_by_unit(description: Description) -> frozenset[str]:
    """Parameters that the page of the unit converts, or brings back to its defaults, as it is changed."""
    pages = (p for p in description.pages if "display_unit" in p.sets)
    return frozenset(n for p in pages for e in p.effects for n in description.page(e.page).sets)


@dataclass(frozen=True)
class Guarded:
    """A choice that no walk takes: ``counts`` of it on its page, what it means, and how many pages it changes as things stand.
    ``finds``: it starts something, like an auto-tune, and what comes of it is to be read off."""

    page: str
    code: str
    choice: str
    means: str
    counts: int
    changes: int
    finds: bool


def guarded(description: Description, found: Values) -> tuple[Guarded, ...]:
    """What can be done on this controller that no walk does: back to delivered values, tuning itself."""
    made = []
    for page in description.pages:
        for counts, choice in enumerate(page.choices):
            if choice.guarded:
                after = after_guarded(description, found, page.key, counts)
                changes = sum(a != b and p is not page for p, a, b in zip(description.pages, found, after, strict=True))
                finds = "mode" in page.sets or not page.effects
                made.append(Guarded(page.key, page.code, choice.code, choice.means, counts, changes, finds))
    return tuple(made)


def after_guarded(description: Description, found: Values, page: str, counts: int) -> Values:
    """What is in it once somebody has taken a guarded choice; its own page is as before: it is an action. Raises ``Refused``
    for one that is none."""
    if page not in description.index or not 0 <= counts < len(description.page(page).choices):
        raise refuse("page", f"there is no such choice on {page}", "a guarded choice")
    if not description.page(page).choices[counts].guarded:
        raise refuse("page", f"{description.page(page).code} is set by a walk", "a guarded choice")
    at = description.index[page]
    after = list(Panel(description).kept(Standing(at, found, Pending(counts))).values)
    after[at] = found[at]
    return tuple(after)
