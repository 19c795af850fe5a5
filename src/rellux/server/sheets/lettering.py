"""Writing on paper: the application's own fonts, what they cannot set, and ``page x of y``.

The fonts are Barlow Semi Condensed (SIL Open Font License, beside them), the Latin part of what the interface ships. A sign they
lack (Ω, ≥) is set in ReportLab's own free font, one that both lack is spelt out.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from functools import cache
from pathlib import Path
from typing import Any

import reportlab
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from rellux.core.errors import refuse
from rellux.core.messages import render

FONT, BOLD, SIGNS = "Words", "WordsBold", "Signs"
FOLDER = Path(__file__).parent / "fonts"
UNITS = ("C", "F")
SPELT = {"≤": "<=", "≥": ">=", "√": "sqrt ", "₀": "0", "₁": "1", "→": "->", "θ": "theta", "Δ": "delta "}
_UNIT: ContextVar[str] = ContextVar("unit", default="C")
FOOT_MM, FOOT_POINTS = 8.0, 7.0


def fonts() -> None:
    """Register the fonts, once."""
    if FONT in pdfmetrics.getRegisteredFontNames():
        return
    signs = Path(reportlab.__file__).parent / "fonts" / "Vera.ttf"
    for name, file in ((FONT, FOLDER / "words.ttf"), (BOLD, FOLDER / "words-bold.ttf"), (SIGNS, signs)):
        pdfmetrics.registerFont(TTFont(name, file))
    pdfmetrics.registerFontFamily(FONT, normal=FONT, bold=BOLD, italic=FONT, boldItalic=BOLD)


@cache
def _known(font: str) -> frozenset[int]:
    fonts()
    return frozenset(pdfmetrics.getFont(font).face.charToGlyph)


@contextmanager
def printed_in(unit: str) -> Iterator[None]:
    """Everything set meanwhile is for a reader in °C (``C``) or °F (``F``). Raises ``Refused`` for another unit."""
    if unit not in UNITS:
        raise refuse("unit", f"{unit!r} is no unit to print in", ", ".join(UNITS))
    token = _UNIT.set(unit)
    try:
        yield
    finally:
        _UNIT.reset(token)


def settable(text: str) -> str:
    """A message as it is printed: in its reader's unit, what no font here has spelt out, without signs that are not printed."""
    known = _known(FONT) | _known(SIGNS)
    return "".join(
        c if ord(c) in known else SPELT.get(c, "?") for c in render(text, _UNIT.get()) if c.isprintable() or c == " "
    )


def plain(text: str) -> str:
    """A message for a paragraph: what would be markup is escaped, signs the words' font lacks are set in the other."""
    own = _known(FONT)
    escaped = {"&": "&amp;", "<": "&lt;", ">": "&gt;"}
    return "".join(escaped.get(c, c) if ord(c) in own else f'<font name="{SIGNS}">{c}</font>' for c in settable(text))


class Pages(Canvas):
    """A canvas that knows how many pages there are when it writes their numbers."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self._finished: list[dict[str, Any]] = []

    def showPage(self) -> None:  # noqa: N802 - the library's name
        self._finished.append(dict(self.__dict__))
        self._startPage()

    def save(self) -> None:
        for state in self._finished:
            self.__dict__.update(state)
            self.setFont(FONT, FOOT_POINTS)
            words = f"Rellux · page {self._pageNumber} of {len(self._finished)}"
            self.drawRightString(self._pagesize[0] - 16 * mm, FOOT_MM * mm, words)
            super().showPage()
        super().save()
