"""What is read off a controller's pages: some that show something else than was thought, and what it found as it tuned itself."""

from collections.abc import Iterable
from dataclasses import dataclass

from ..errors import refuse
from ..setup.dictionary.control import PID_NAMES
from ..setup.parameters import Sheet
from .description import Description, Page, Values, counts_of, may_show
from .machine import Panel
from .meaning import sheet_of


@dataclass(frozen=True)
class PageRead:
    """What a page shows, as it is read off the display."""

    page: str
    shows: str


def as_read(description: Description, values: Values, read: Iterable[PageRead]) -> Values:
    """The counts of all pages with those that were read. Raises ``Refused`` for one that is not there and for what it cannot show, by its
    place."""
    found = list(values)
    for i, line in enumerate(read):
        if line.page not in description.index:
            raise refuse(f"read[{i}].page", f"there is no page {line.page[:20]!r}", "a page of it")
        page = description.page(line.page)
        counts = counts_of(page, line.shows)
        if counts is None:
            raise refuse(f"read[{i}].shows", f"{page.code} cannot show {line.shows[:20]!r}", may_show(page))
        found[description.index[page.key]] = counts
    return tuple(found)


def sheet_read(description: Description, values: Values, pages: Iterable[str], before: Sheet) -> Sheet:
    """The sheet ``before`` with what these pages mean now. One PID number is read with the other two: of a controller that counts them
    apart, another gain is another integral time."""
    names = {n for p in pages for n in description.page(p).sets}
    if names & set(PID_NAMES):
        names |= set(PID_NAMES)
    held = sheet_of(description, values)
    return before | {n: held[n] for n in names if n in held and n in before}


@dataclass(frozen=True)
class ToRead:
    """Pages to be read once a controller has tuned itself, and what is thought to be in it then."""

    pages: tuple[Page, ...]
    values: Values


def found_by_itself(description: Description, values: Values, page: str) -> ToRead:
    """What may be another once it has tuned itself by a choice of this page: how it controls, where that page says so, and the PID
    numbers. It is thought to control by them then."""
    chosen, thought = description.page(page), list(values)
    for at, other in enumerate(description.pages):
        pid = (i for i, c in enumerate(other.choices) if "pid" in c.values and not c.guarded)
        if "mode" in other.sets:
            thought[at] = next(pid, thought[at])
    panel, now = Panel(description), tuple(thought)
    pages = [
        p
        for p in description.pages
        if ((p is chosen and "mode" in p.sets) or set(p.sets) & set(PID_NAMES))
        and panel.visible(description.index[p.key], now)
    ]
    return ToRead(tuple(pages), now)
