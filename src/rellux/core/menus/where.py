"""Where am I? What is read off seven segments, found among a controller's pages, errors and lamps, with all that looks alike folded."""

from dataclasses import dataclass

from .description import Description, Keeps, Page, Shown

ALIKE = ("0OQD", "1ILJ", "2Z", "5S", "6GB", "8B", "9GQ", "4Y", "UVN", "MN", "HKXN", "CE", "R7T", "PF")
"""What is taken for one another on seven segments (common practice, no source; M, W, K, V and X have only makeshift forms)."""


@dataclass(frozen=True)
class Match:
    """A page whose code may be what is shown. ``exact``: letter by letter, case aside."""

    page: str
    exact: bool


def alike(read: str, code: str) -> bool:
    """Whether two texts of one length may look the same, character by character; points and blanks left out.

    >>> alike("5P", "SP"), alike("1nP", "INP"), alike("SP", "SPH"), alike("AL", "PL")
    (True, True, False, False)
    """
    a, b = (("".join(c for c in text.upper() if c not in ". -_")) for text in (read, code))
    return len(a) == len(b) > 0 and all(
        x == y or any(x in g and y in g for g in ALIKE) for x, y in zip(a, b, strict=True)
    )


def pages_alike(description: Description, read: str) -> tuple[Match, ...]:
    """Pages that may be shown, exact ones first."""
    found = [Match(p.key, p.code.upper() == read.strip().upper()) for p in description.pages if alike(read, p.code)]
    return tuple(sorted(found, key=lambda m: not m.exact))


def errors_alike(description: Description, read: str) -> tuple[Shown, ...]:
    """Error displays that may be meant."""
    return tuple(e for e in description.errors if alike(read, e.shows))


def path_of(description: Description, page: Page) -> str:
    """Where a page is, in words: its group and its number in it."""
    at = description.index[page.key]
    group = description.groups[description.group_of[at]]
    return f"{group.title}, page {group.pages.index(page) + 1} of {len(group.pages)}"


def left_pending(description: Description) -> str:
    """What becomes of a value that is just being changed when one leaves, in words."""
    if Keeps.STEP in description.editing.kept_by:
        return "A value that was stepped is changed already: leaving does not put it back."
    kept = Keeps.LEAVE in description.editing.kept_by
    return f"A value that is just being changed is {'kept' if kept else 'lost'} by leaving."
