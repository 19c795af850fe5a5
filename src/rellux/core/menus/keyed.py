"""Some values as they are keyed into one controller: the code of each page and what stands on it, or the lines of its source text."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from ..setup.dictionary import BY_NAME
from ..setup.dictionary.control import PID_NAMES
from ..setup.dictionary.parameter import Value
from ..setup.parameters import Sheet
from ..setup.text_block import GAINS, TextBlock, filled, places, rounded
from .description import Description, shown
from .meaning import wanted_counts


@dataclass(frozen=True)
class KeyedPage:
    """What stands on a page, by its code and its title; ``key``: the page's own name."""

    key: str
    code: str
    title: str
    shows: str


@dataclass(frozen=True)
class Keyed:
    """Pages in the controller's order, or ``text``: lines of its source. ``lost``: what it cannot hold as it is wanted, in words."""

    pages: tuple[KeyedPage, ...]
    text: str
    lost: tuple[str, ...]


def keyed_in(description: Description, values: Mapping[str, Value], sheet: Sheet) -> Keyed:
    """``values`` on the pages of a controller whose other values are those of ``sheet``; its unit and the digits of its pages count."""
    wanted = wanted_counts(description, {**sheet, **values})
    pages = [p for p in description.pages if p.key in wanted.counts and set(p.sets) & set(values)]
    lost = [
        f"{BY_NAME[u.name].title}: {u.why}"
        for u in (*wanted.unheld, *wanted.rounded)
        if u.name in values and not u.idle
    ]
    return Keyed(
        tuple(KeyedPage(p.key, p.code, p.title, shown(p, wanted.counts[p.key])) for p in pages),
        "",
        tuple(dict.fromkeys(lost)),
    )


def keyed_into(block: TextBlock, values: Mapping[str, Value], sheet: Sheet) -> Keyed:
    """The lines of a source text that hold ``values``. Raises ``Refused`` as :func:`filled` does."""
    names = {*values, *(GAINS if set(PID_NAMES) & set(values) else ())}
    lines = [line for line in block.template.splitlines() if {p.name for p in places(line)} & names]
    if not lines:
        return Keyed((), "", ())
    part = replace(block, template="\n".join(lines))
    both = {**sheet, **values}
    lost = (f"{BY_NAME[p.field].title if p.field in BY_NAME else p.field}: {p.reason}" for p in rounded(part, both))
    return Keyed((), filled(part, both), tuple(lost))
