"""Where the table of a log begins, and how its lines are divided."""

import csv
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from ..errors import refuse
from .columns import is_date, is_stamp
from .mapping import DELIMITERS
from .times import CLOCK
from .values import is_missing, is_number, unit_of

COMMENTS = ("#", "//", "!", "%")
"""Beginnings of lines that are remarks (common practice, no source)."""
_WEIGHT = {" ": 0.5, ",": 0.9}
"""Spaces and commas stand inside cells too: another delimiter that divides as evenly is preferred."""

SETTLED = 12
"""Lines beyond which the first quarter, which may be a preamble, does not count for the delimiter."""
MOSTLY = 0.6
"""Share of cells that name a unit in a row of units: some columns have none (our choice)."""


@dataclass(frozen=True)
class LogTable:
    """The lines of a sample divided: ``skip`` lines before the heading (or first row), the heading's cells, the row of units, and
    the rows with the numbers of their lines in the file, from 1."""

    delimiter: str
    decimal: str
    skip: int
    heading: list[str] | None
    units: list[str] | None
    rows: list[list[str]]
    lines: list[int]

    @property
    def width(self) -> int:
        return max(len(r) for r in self.rows)


def divide(line: str, delimiter: str) -> list[str]:
    """The cells of one line; several spaces are one."""
    if delimiter == " ":
        line = line.strip()
    return [c.strip() for c in next(csv.reader([line], delimiter=delimiter, skipinitialspace=True), [])]


def is_remark(line: str, delimiter: str = "") -> bool:
    return line.lstrip().startswith(tuple(c for c in COMMENTS if c != delimiter))


def table(lines: Sequence[str], delimiter: str = "", decimal: str = "", skip: int | None = None) -> LogTable:
    """Find the table in the first lines of a log; what is given is taken as it is. Raises ``Refused`` where there is none."""
    if sum(bool(line.strip()) for line in lines) < 2:
        raise refuse("file", "there are no rows in it", "a heading and at least one row")
    given = [
        (i, line)
        for i, line in enumerate(lines)
        if line.strip() and not is_remark(line) and (skip is None or i >= skip)
    ]
    candidates = [delimiter] if delimiter else list(DELIMITERS)
    best = max(candidates, key=lambda d: _evenness(given, d))
    cells = [(i, divide(line, best)) for i, line in given]
    width = _width([c for _, c in cells])
    if width is None or _evenness(given, best) <= 0:
        raise refuse("file", "no delimiter divides its lines into columns", "comma, semicolon, tab, bar or space")
    decimal = decimal or _decimal([c for _, c in cells], best)
    first = next((k for k, (_, c) in enumerate(cells) if _is_row(c, width, decimal)), None)
    if first is None:
        raise refuse("file", "no line of it holds numbers in columns", "a heading and rows of numbers below it")
    while first and len(cells[first - 1][1]) == width and _is_value(cells[first - 1][1][0], decimal):
        first -= 1  # a row in which the reading is a word: no heading begins with a number or a date
    rows = [(i, c) for i, c in cells[first:] if len(c) == width]
    heading, units, start = _above(cells[:first], width, cells[first][0], skip)
    return LogTable(best, decimal, start, heading, units, [c for _, c in rows], [i + 1 for i, _ in rows])


def _evenness(lines: list[tuple[int, str]], delimiter: str) -> float:
    """How evenly a delimiter divides the lines that hold numbers: 1 where all have as many columns, 0 where it divides none."""
    widths = [len(divide(line, delimiter)) for _, line in lines if any(c.isdigit() for c in line)]
    widths = widths[len(widths) // 4 :] if len(widths) > SETTLED else widths
    several = [w for w in widths if w > 1]
    if not several:
        return 0.0
    most, count = Counter(several).most_common(1)[0]
    return count / len(widths) * (1 + min(most, 5) / 100) * _WEIGHT.get(delimiter, 1.0)


def _width(cells: list[list[str]]) -> int | None:
    """The number of columns that most lines with a number have, of two equally common ones the greater; ``None`` for no columns."""
    count = Counter(len(c) for c in cells if len(c) > 1 and any(x and x[0] in "0123456789+-.,−" for x in c))
    return max(count, key=lambda w: (count[w], w), default=None)


def _decimal(cells: list[list[str]], delimiter: str) -> str:
    """A point, unless more cells are numbers only with a comma."""
    flat = [x for c in cells for x in c]
    comma = sum("," in x and "." not in x and is_number(x, ",") for x in flat)
    point = sum("." in x and "," not in x and is_number(x, ".") and x.count(".") == 1 for x in flat)
    return "," if comma > point else "."


def _is_value(cell: str, decimal: str) -> bool:
    return is_number(cell, decimal) or is_stamp(cell) or is_date(cell) or bool(CLOCK.fullmatch(cell))


def _is_row(cells: list[str], width: int, decimal: str) -> bool:
    """A row of values: as wide as the others, and values in a third of its filled cells, at least in two or in all."""
    if len(cells) != width:
        return False
    filled = [c for c in cells if not is_missing(c)]
    values = sum(_is_value(c, decimal) for c in filled)
    return values >= min(2, len(filled)) and 3 * values >= len(filled) > 0


def _above(
    before: list[tuple[int, list[str]]], width: int, first: int, skip: int | None
) -> tuple[list[str] | None, list[str] | None, int]:
    """Heading and units directly above the first row, and the line (from 0) at which they begin."""
    near = [(i, c) for i, c in before if len(c) in (width, width - 1) and any(c)]
    units = None
    if near and near[-1][0] == first - 1 and _are_units(near[-1][1]) and len(near) > 1:
        units = near[-1][1]
        first -= 1
        near = near[:-1]
    if near and near[-1][0] == first - 1:
        heading = near[-1][1]
        return heading + [""] * (width - len(heading)), units, first - 1
    return None, units, first if skip is None else max(first, skip)


def _are_units(cells: list[str]) -> bool:
    """A row of units: most filled cells name one, in brackets or not."""
    filled = [c for c in cells if c]
    return len(filled) > 0 and sum(bool(unit_of(c)) or c.startswith(("[", "(")) for c in filled) >= MOSTLY * len(filled)
