"""Text in tables that a spreadsheet may open: a cell that begins like a formula gets an apostrophe, and loses it on the way
back. Numbers are not text and pass as they are.
"""

import re

_FORMULA = re.compile(r"'*[=+\-@\t\r]")
_NEUTRAL = re.compile(r"'+[=+\-@\t\r]")


def neutral(cell: object) -> object:
    """The cell as written: text that begins with = + - @, tab or return (or apostrophes before one) with one more apostrophe."""
    return f"'{cell}" if isinstance(cell, str) and _FORMULA.match(cell) else cell


def plain(cell: str) -> str:
    """The text of a cell written by :func:`neutral`; other text as it is."""
    return cell[1:] if _NEUTRAL.match(cell) else cell
